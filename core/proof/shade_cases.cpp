// Shading against the shadow angles and the profile angle, and the dial against rays.

#include "core/proof/proof.h"
#include "core/studies/shade.h"
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

/// A room 6 × 5 × 3 m whose wall has the given thickness, one window of 3 × 1.6 m in its middle, and one rule.
Project shadedRoom(double wall, ShadeRule rule) {
  Project p;
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "UTC+01:00";
  p.site.groundLevel = -60;
  Room r;
  r.id = {2};
  r.name = "Room";
  r.outline = rectangle(0, 0, 6, 5);
  r.height = 3;
  r.wall = wall;
  p.rooms.push_back(r);
  Opening o;
  o.id = {3};
  o.name = "Window";
  o.room = r.id;
  o.edge = 0; // south
  o.along = 1.5;
  o.sill = 0.9;
  o.width = 3;
  o.height = 1.6;
  p.openings.push_back(o);
  rule.id = {4};
  rule.name = "Shade";
  p.shadeRules.push_back(std::move(rule));
  return p;
}

/// Does a sun in this direction reach any of the pane? Looked at from points 0.15 to 0.25 mm apart on an upright or a
/// level line.
bool reaches(const Scene& scene, const OpeningFrame& f, Vec3 d, bool upright) {
  constexpr int n = 12000;
  for (int k = 0; k < n; ++k) {
    const double t = (k + 0.5) / n;
    const Vec3 at = f.at(upright ? f.width / 2 : f.width * t, upright ? f.height * t : f.height * 0.37, -f.reveal / 3);
    if (!scene.hidden(at - d * 0.002, d)) return true; // from a little behind: blades may touch the pane
  }
  return false;
}

struct Kind {
  const char* name;
  ShadeRule rule;
};
std::vector<Kind> kinds() {
  using K = ShadeRule::Kind;
  constexpr double endless = 400; // m
  return {
      {"overhang", {.kind = K::Overhang, .depth = 1.1, .offset = 0.2, .beyond = endless}},
      {"tilted overhang", {.kind = K::Overhang, .depth = 1.1, .beyond = endless, .angle = radians(20)}},
      {"overhang with an edge", {.kind = K::Overhang, .depth = 0.9, .offset = 0.3, .beyond = endless, .drop = 0.25}},
      {"awning", {.kind = K::Awning, .depth = 1.4, .offset = 0.1, .beyond = endless, .drop = 0.5}},
      {"louvres", {.kind = K::Louvres, .depth = 0.2, .beyond = endless, .count = 8}},
      {"louvres by spacing, tilted",
       {.kind = K::Louvres, .depth = 0.15, .beyond = endless, .angle = radians(25), .spacing = 0.2}},
      {"egg-crate", {.kind = K::EggCrate, .depth = 0.4, .spacing = 0.4}},
      {"fins", {.kind = K::Fins, .depth = 0.8, .offset = 0.1}},
      {"five turned fins", {.kind = K::Fins, .depth = 0.6, .count = 5, .angle = radians(15)}},
      {"one fin to the left", {.kind = K::Fins, .depth = 2.5, .sides = ShadeRule::Sides::Left}},
      {"upright louvres", {.kind = K::UprightLouvres, .depth = 0.25, .angle = radians(-20), .spacing = 0.25}}};
}

void cutOffs(std::vector<ProofCase>& out) {
  for (const Kind& k : kinds())
    for (const double wall : {0.0, 0.3}) {
      // The formula of blades leaves the reveal out, which can only help: without a wall they are exact.
      if (wall > 0 && k.rule.kind != ShadeRule::Kind::Overhang && k.rule.kind != ShadeRule::Kind::Awning) continue;
      const Project p = shadedRoom(wall, k.rule);
      const auto layout = placedOpenings(p);
      const auto model = lightModel(p);
      if (!model || layout.openings.empty()) continue;
      const OpeningFrame f = frameOf(layout.openings[0], p.rooms[0]);
      const Scene scene = buildScene(*model);
      const CutOff c = cutOffOf(p.shadeRules[0], f);
      const auto found = [&](const std::function<Vec3(double)>& direction, bool upright) {
        double lit = 0, dark = radians(89.9);
        while (dark - lit > 1e-6) {
          const double middle = (lit + dark) / 2;
          (reaches(scene, f, direction(middle), upright) ? lit : dark) = middle;
        }
        return degrees(dark);
      };
      const auto put = [&](const std::optional<double>& angle, const char* which, double got) {
        if (angle)
          out.push_back({fmt::format("{} of {}{}", which, k.name, wall > 0 ? ", pane in a 0.3 m wall" : ""), "°",
                         degrees(*angle), got, 0.05, "shadow-angle formula against rays"});
      };
      put(c.profile, "cut-off (VSA)",
          found([&](double a) { return f.outward * std::cos(a) + f.up * std::sin(a); }, true));
      put(c.left, "cut-off to the left (HSA)",
          found([&](double a) { return f.outward * std::cos(a) - f.along * std::sin(a); }, false));
      put(c.right, "cut-off to the right (HSA)",
          found([&](double a) { return f.outward * std::cos(a) + f.along * std::sin(a); }, false));
    }
}

void shares(std::vector<ProofCase>& out) {
  const ShadeSettings fine{15, 12};
  for (const double depth : {0.5, 1.0}) {
    const Project p = shadedRoom(0, {.kind = ShadeRule::Kind::Overhang, .depth = depth, .offset = 0.1, .beyond = 1500});
    const auto report = shadeReport(p, fine);
    const auto moments = sunMoments(p, fine);
    if (!report || !moments || report->windows.empty()) continue;
    double all = 0, lit = 0;
    for (const SunMoment& m : *moments) {
      if (m.wish != SunWish::KeepOut || m.direction.y >= 0) continue;
      all += double(m.hours);
      lit += double(m.hours) * std::clamp((1.6 + 0.1 - depth * m.direction.z / -m.direction.y) / 1.6, 0.0, 1.0);
    }
    out.push_back({fmt::format("unwanted sun kept out by an endless overhang of {:g} m", depth), "%",
                   100 * (1 - lit / all), 100 * report->windows[0].keepOut.taken(), 0.5,
                   "height of the shadow's edge by the profile angle, moment by moment"});
  }
  for (const Kind& k : kinds()) {
    const Project p = shadedRoom(0.3, k.rule);
    const auto report = shadeReport(p, fine);
    const auto moments = sunMoments(p, fine);
    const auto mask = shadeMask(p, {3}, 12);
    if (!report || !moments || !mask || report->windows.empty()) continue;
    for (const SunWish wish : {SunWish::KeepOut, SunWish::LetIn}) {
      const GlassSun by = sunByMask(*mask, *moments, wish, {0, -1, 0}, 0);
      const bool keep = wish == SunWish::KeepOut;
      const GlassSun& rays = keep ? report->windows[0].keepOut : report->windows[0].letIn;
      out.push_back({fmt::format("{} sun taken by {}, off the dial", keep ? "unwanted" : "wanted", k.name), "%",
                     100 * rays.taken(), 100 * by.taken(), 0.5, "rays to every moment's sun"});
    }
  }
}

} // namespace

std::vector<ProofCase> proveShade() {
  std::vector<ProofCase> out;
  cutOffs(out);
  shares(out);
  return out;
}

} // namespace noonward
