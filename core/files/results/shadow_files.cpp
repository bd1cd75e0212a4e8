#include "core/files/results/shadow_files.h"
#include "core/base/json.h"
#include "core/files/meshes/geo_rings.h"
#include "core/files/results/tables.h"
#include <fmt/format.h>

namespace noonward {

namespace {

struct Layer {
  const char* receiver;
  const char* state; ///< "shadow", "before", "net new"
  const Region* region;
};
/// What of a moment is worth writing: where nothing is proposed, the shadow alone.
std::vector<Layer> layersOf(const ShadowPlan& plan, const ShadowMoment& m) {
  std::vector<Layer> out;
  for (const auto& [name, on] : {std::pair{"ground", &m.ground}, {"roofs", &m.roofs}}) {
    if (!on->all.empty()) out.push_back({name, "shadow", &on->all});
    if (!plan.hasProposal) continue;
    if (!on->before.empty()) out.push_back({name, "before", &on->before});
    if (!on->fresh.empty()) out.push_back({name, "net new", &on->fresh});
  }
  return out;
}

std::string stamp(const Project& p, Instant at) {
  return isoText(at, p.zone().offset(at));
}

} // namespace

std::string shadowGeoJson(const Project& p, const ShadowPlan& plan, bool local) {
  const GeoRings rings(p, local);
  Json features = Json::array();
  const auto put = [&](const Region& region, Json properties) {
    Json polygons = Json::array();
    for (const Outline& o : region) polygons.push_back(rings.polygon(o));
    properties["area_m2"] = std::round(area(region) * 1e4) / 1e4;
    features.push_back(Json{{"type", "Feature"},
                            {"properties", std::move(properties)},
                            {"geometry", {{"type", "MultiPolygon"}, {"coordinates", std::move(polygons)}}}});
  };
  for (const ShadowMoment& m : plan.moments) {
    const auto sun = [&](const char* receiver, const char* state) {
      return Json{{"at", stamp(p, m.at)},
                  {"receiver", receiver},
                  {"state", state},
                  {"altitude_deg", degrees(m.altitude)},
                  {"azimuth_deg", degrees(m.azimuth)}};
    };
    for (const Layer& l : layersOf(plan, m)) put(*l.region, sun(l.receiver, l.state));
    for (const ShadowArea& a : m.areas) {
      if (a.freshParts.empty()) continue;
      Json properties = sun("ground", "net new");
      properties["of"] = a.name;
      put(a.freshParts, std::move(properties));
    }
  }
  for (std::size_t k = 0; k < plan.lasting.size(); ++k)
    put(plan.lasting[k], Json{{"receiver", "ground"},
                              {"state", plan.hasProposal ? "net new" : "shadow"},
                              {"at_least_hours", double(k + 1) * plan.hoursEach}});
  Json all{{"type", "FeatureCollection"}, {"features", std::move(features)}};
  if (local) all["coordinates_in"] = "metres of the drawing";
  return all.dump(1, ' ', false, Json::error_handler_t::replace);
}

std::string shadowDxf(const Project& p, const ShadowPlan& plan) {
  std::string out = "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n6\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n";
  for (const ShadowMoment& m : plan.moments) {
    const CivilTime clock = p.zone().clock(m.at);
    const std::string when = fmt::format("{} {}", isoText(clock.date), clockText(clock.seconds / 60));
    for (const Layer& l : layersOf(plan, m))
      for (const Outline& o : *l.region) {
        const auto ring = [&](const Ring& r) {
          out += fmt::format("0\nPOLYLINE\n8\n{} {}{}\n66\n1\n70\n1\n10\n0\n20\n0\n30\n0\n", l.state, when,
                             std::string_view(l.receiver) == "roofs" ? " roofs" : "");
          for (Vec2 q : r)
            out += fmt::format("0\nVERTEX\n8\n{} {}\n10\n{:.4f}\n20\n{:.4f}\n30\n0\n", l.state, when,
                               q.x + p.site.origin.x, q.y + p.site.origin.y);
          out += "0\nSEQEND\n";
        };
        ring(o.outer);
        for (const Ring& h : o.holes) ring(h);
      }
  }
  return out + "0\nENDSEC\n0\nEOF\n";
}

std::string shadowCsv(const Project& p, const ShadowPlan& plan) {
  std::string out = "moment,altitude_deg,azimuth_deg,receiver,of,shadow_m2,before_m2,net_new_m2,net_new_m2_h\n";
  for (const ShadowMoment& m : plan.moments) {
    const auto line = [&](const char* receiver, const std::string& of, double all, double before, double fresh) {
      out += fmt::format("{},{:.3f},{:.3f},{},{},{:.2f},{:.2f},{:.2f},{:.2f}\n", stamp(p, m.at), degrees(m.altitude),
                         degrees(m.azimuth), receiver, csvField(of), all, before, fresh, fresh * plan.hoursEach);
    };
    line("ground", "", m.ground.allArea, m.ground.beforeArea, m.ground.freshArea);
    if (!m.roofs.all.empty() || !m.roofs.before.empty())
      line("roofs", "", m.roofs.allArea, m.roofs.beforeArea, m.roofs.freshArea);
    for (const ShadowArea& a : m.areas) line("ground", a.name, a.all, a.before, a.fresh);
  }
  return out;
}

} // namespace noonward
