#include "core/studies/view_out.h"
#include "core/base/hash.h"
#include "core/base/weighted.h"
#include "core/light/ray_offset.h"
#include "core/studies/by_sensor.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace noonward {

namespace {

constexpr int across = 240;
/// Altitudes of the looks, degrees: closer at the horizon.
constexpr std::array<double, 31> altitudes{-57,  -50,  -43,  -36,  -30, -25, -20, -16, -12, -9, -6.5,
                                           -4.2, -2.6, -1.4, -0.4, 0.4, 1.4, 2.6, 4.2, 6.5, 9,  12,
                                           16,   20,   25,   30,   36,  43,  50,  57,  60};
constexpr double landscapeBelow = 5; ///< degrees below the horizon, to which ground is landscape

/// Solid angle of a look, sr: between the middles of its neighbours, within 60°.
std::array<double, altitudes.size()> solidAngles() {
  std::array<double, altitudes.size()> out{};
  for (std::size_t k = 0; k < altitudes.size(); ++k) {
    const double low = k == 0 ? -60 : 0.5 * (altitudes[k - 1] + altitudes[k]),
                 high = k + 1 == altitudes.size() ? 60 : 0.5 * (altitudes[k] + altitudes[k + 1]);
    out[k] = 2 * pi / across * (std::sin(radians(high)) - std::sin(radians(low)));
  }
  return out;
}

/// Where a look ends outdoors.
struct Outdoors {
  enum class What { Nothing, Sky, Solid, Green, Ground } what = What::Nothing;
  double distance = farthestView; ///< m on the level, from the last pane
  std::uint64_t element = 0;
};

Outdoors look(const LightScene& scene, const SeenThings& things, Vec3 o, Vec3 d) {
  LightScene::Hit pane = scene.glass(o, d, 0, 1e30);
  if (!pane.any() || scene.blocked(o, d, 0, pane.distance)) return {};
  double last = 0;
  const LightScene::Hit wall = scene.opaque(o, d, pane.distance, 1e30);
  double ground = std::numeric_limits<double>::infinity();
  if (d.z < 0 && o.z > scene.groundLevel()) ground = (scene.groundLevel() - o.z) / d.z;
  const double stop = std::min({wall.distance, ground, 1e30});
  for (int guard = 0; guard < 64 && pane.any(); ++guard) {
    const LightScene::Piece& p = scene.pieces()[pane.triangle];
    if (!(scene.optics(p.optics).straight(std::abs(dot(p.normal, d))) > 0)) return {}; // cloth or opal: no view
    last = pane.distance;
    pane = scene.glass(o, d, last + rayOffsetAt(o + d * last), stop);
  }
  const double level = std::hypot(d.x, d.y);
  Outdoors out;
  if (std::isinf(std::min(wall.distance, ground))) {
    out.what = Outdoors::What::Sky;
    return out;
  }
  out.distance = std::min(farthestView, (stop - last) * level);
  if (ground < wall.distance) {
    out.what = Outdoors::What::Ground;
    return out;
  }
  if (scene.roomOf(wall.triangle) >= 0) return {}; // of a room behind inner glass
  out.element = scene.elementOf(wall.triangle);
  const auto thing = things.find(out.element);
  const Role role = thing == things.end() ? Role::Building : thing->second.role;
  out.what = role == Role::Planting ? Outdoors::What::Green
             : role == Role::Ground ? Outdoors::What::Ground
                                    : Outdoors::What::Solid;
  return out;
}

} // namespace

int ViewOut::level() const {
  int n = 0;
  for (const ViewLevel& l : viewLevels) {
    if (!(angle >= l.angle - 1e-9 && distance >= l.distance - 1e-9 && landscape && 1 + sky + ground >= l.layers)) break;
    ++n;
  }
  return n;
}

std::vector<std::string> ViewOut::wanting() const {
  const int now = level();
  if (now == 3 || !(angle > 0)) return {};
  const ViewLevel& next = viewLevels[std::size_t(now)];
  static constexpr std::array<const char*, 3> names{"minimum", "medium", "high"};
  std::vector<std::string> out;
  const auto add = [&](const std::string& what) {
    out.push_back(fmt::format("For the {} level: {}.", names[std::size_t(now)], what));
  };
  if (angle < next.angle - 1e-9)
    add(fmt::format("{:.0f}° of horizontal sight angle are wanted, there are {:.0f}°", degrees(next.angle),
                    degrees(angle)));
  if (distance < next.distance - 1e-9)
    add(fmt::format("{:.0f} m of outside distance are wanted, there are {:.0f} m", next.distance, distance));
  if (!landscape) add("landscape is not seen");
  if (landscape && 1 + sky + ground < next.layers)
    add(fmt::format("layers wanted: {}{}{}", next.layers, sky ? "" : ", sky is not seen",
                    ground ? "" : ", ground is not seen"));
  return out;
}

SeenThings seenThings(const Project& p) {
  SeenThings out;
  for (const ElementPtr& e : p.elements) out[e->id.value] = {e->role, e->name.empty() ? e->id.text() : e->name};
  return out;
}

ViewOut viewOutOf(const LightScene& scene, const SeenThings& things, Vec3 eye) {
  ViewOut out;
  std::vector<std::pair<double, double>> distances;
  double seen = 0, all = 0;
  const auto omegas = solidAngles();
  for (int a = 0; a < across; ++a) {
    const double turn = 2 * pi * (a + 0.5) / across;
    bool any = false;
    double apart = 1e9, reach = 0;
    for (std::size_t k = 0; k < altitudes.size(); ++k) {
      const double h = radians(altitudes[k]), omega = omegas[k];
      all += omega;
      const Outdoors o =
          look(scene, things, eye, {std::cos(h) * std::sin(turn), std::cos(h) * std::cos(turn), std::sin(h)});
      using What = Outdoors::What;
      if (o.what == What::Nothing) continue;
      any = true;
      seen += omega;
      if (o.element != 0) out.elements[o.element] += omega;
      out.sky |= o.what == What::Sky;
      const bool far = o.what == What::Ground && altitudes[k] > -landscapeBelow;
      out.landscape |= o.what == What::Solid || o.what == What::Green || far;
      out.ground |= o.what == What::Ground && !far;
      if (o.what == What::Sky) out.skyPart += omega;
      if (o.what == What::Green) out.greenPart += omega;
      if (o.what == What::Ground) out.groundPart += omega;
      // The way nearest to the horizon, at or above it before those below.
      const double away = altitudes[k] >= 0 ? altitudes[k] : 90 - altitudes[k];
      if (away < apart) {
        apart = away;
        reach = o.what == What::Solid ? o.distance : farthestView;
      }
    }
    if (!any) continue;
    out.angle += 2 * pi / across;
    distances.emplace_back(reach, 1);
  }
  if (!distances.empty()) out.distance = weightedMedian(std::move(distances));
  out.share = seen / all;
  for (double* part : {&out.skyPart, &out.greenPart, &out.groundPart}) *part = seen > 0 ? *part / seen : 0;
  return out;
}

std::string viewText(const ViewOut& view, const SeenThings& things) {
  if (!(view.angle > 0)) return "Nothing outdoors is seen from here.";
  double seen = 0;
  for (double omega : solidAngles()) seen += across * omega;
  seen *= view.share;
  std::vector<std::pair<double, std::string>> list{{view.skyPart, "sky"}, {view.groundPart, "ground"}};
  for (const auto& [id, omega] : view.elements)
    if (const auto thing = things.find(id); thing != things.end() && thing->second.role != Role::Ground)
      list.emplace_back(omega / seen, "\"" + thing->second.name + "\"");
  std::stable_sort(list.begin(), list.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  std::string out;
  for (std::size_t k = 0; k < list.size() && k < 6; ++k)
    if (list[k].first >= 0.005)
      out += fmt::format("{}{} {:.0f} %", out.empty() ? "" : ", ", list[k].second, 100 * list[k].first);
  return fmt::format("Of what is seen outdoors: {}.", out);
}

Outcome viewQuestion(const Project& p, const Study&, std::optional<Instant>, LightInput& in, Hasher& h) {
  in.sky.text = "by EN 17037, through clear glass";
  in.unit = viewFigureUnit(in.settings.viewFigure);
  h.add("view out 1");
  in.things = seenThings(p);
  for (const ElementPtr& e : p.elements) {
    if (e->role == Role::Ground || e->role == Role::Planting) h.add(e->id.value).add(std::uint64_t(e->role));
  }
  for (const SensorGridFacts& g : in.sensors.groups) {
    if (g.room < 0 || g.count == 0) continue;
    const double up = in.sensors.sensors[g.first].position.z - p.rooms[std::size_t(g.room)].floor;
    if (up < 1.1 || up > 1.8)
      in.findings.push_back({Rank::BendsResult,
                             "view.height",
                             fmt::format("The points of \"{}\" stand {:.2f} m above the floor; the standard asks for "
                                         "eyes at 1.2 m (seated) or 1.7 m (standing).",
                                         g.name, up),
                             1,
                             {g.id.value},
                             "",
                             ""});
  }
  return {};
}

LightResult runViewOut(const LightInput& in, RunControl& control, Threads threads) {
  const std::size_t n = in.sensors.sensors.size();
  static constexpr std::array<const char*, 9> keys{"level",      "sight_angle_deg", "distance_m",
                                                   "sky",        "landscape",       "ground",
                                                   "view_share", "green_share",     "ground_share"};
  const std::size_t shown = in.settings.viewFigure == ViewFigure::Share ? 6 : std::size_t(in.settings.viewFigure);
  std::vector<ResultColumn> columns;
  for (const char* key : keys) columns.push_back({key, std::vector<float>(n, std::nanf(""))});
  LightResult out = bySensors(in, control, threads, [&](LightResult& r, std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i) {
      const ViewOut w = viewOutOf(*in.scene, in.things, in.sensors.sensors[i].position);
      const std::array<double, 9> row{double(w.level()), degrees(w.angle),    w.distance,
                                      double(w.sky),     double(w.landscape), double(w.ground),
                                      100 * w.share,     100 * w.greenPart,   100 * w.groundPart};
      for (std::size_t k = 0; k < row.size(); ++k) columns[k].values[i] = float(row[k]);
      r.value[i] = float(row[shown]);
      r.samples[i] = std::uint32_t(across * altitudes.size());
    }
  });
  out.columns = std::move(columns);
  return out;
}

} // namespace noonward
