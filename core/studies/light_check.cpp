#include "core/studies/light_check.h"
#include "core/base/words.h"
#include "core/light/sampler.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <set>

namespace noonward {

Findings checkGlazing(const Project& p, const LightScene& scene, const LightModel& model) {
  Findings out;
  constexpr double together = 0.15, against = 0.03; // m
  struct Count {
    int pieces = 0, doubled = 0, blind = 0;
  };
  std::map<std::uint64_t, Count> of;
  for (const LightScene::Piece& piece : scene.pieces()) {
    Count& c = of[model.parts[piece.part].element];
    if (++c.pieces > 2000) continue; // enough to tell
    const Vec3 m = piece.center();
    const auto parallel = [&](const LightScene::Hit& h) {
      return h.any() && std::abs(dot(scene.pieces()[h.triangle].normal, piece.normal)) > 0.98;
    };
    c.doubled += parallel(scene.glass(m, piece.normal, 5e-4, together)) ||
                 parallel(scene.glass(m, -piece.normal, 5e-4, together));
    c.blind += scene.blocked(m, piece.normal, 5e-4, against) || scene.blocked(m, -piece.normal, 5e-4, against);
  }
  for (const auto& [id, c] : of) {
    const ElementPtr e = p.element({id});
    const std::string name = e && !e->name.empty() ? "\"" + e->name + "\"" : std::string("A window");
    if (2 * c.doubled > c.pieces)
      out.push_back(
          {Rank::BendsResult,
           "glazing.doubled",
           name + fmt::format(" has two panes within {:.0f} cm of each other: light is taken twice. Keep one surface.",
                              100 * together),
           1,
           {id},
           "",
           ""});
    if (2 * c.blind > c.pieces)
      out.push_back({Rank::BendsResult,
                     "glazing.nowhere",
                     name + " stands against a surface: it lets no light through. Cut the wall behind it.",
                     1,
                     {id},
                     "",
                     ""});
  }
  return out;
}

namespace {

constexpr int lookers = 12, raysEach = 256; ///< sensors of a group that look round, and how often each
constexpr double outdoors = 0.2;            ///< share of the whole sphere that is open around a sensor outdoors
constexpr double apart = 0.6;               ///< m, between the places of two leaks

/// What a sensor sees all round: the ways out past any glazing.
struct Round {
  double open = 0; ///< share of the sphere
  std::vector<Vec3> ways;
};

Vec3 onSphere(double a, double b) {
  const double z = 1 - 2 * a, r = std::sqrt(std::max(0.0, 1 - z * z));
  return {r * std::cos(2 * pi * b), r * std::sin(2 * pi * b), z};
}

/// Does a ray get out without meeting a surface or a pane? Downward: to ground that lies under the open sky.
bool getsOut(const LightScene& scene, Vec3 o, Vec3 d) {
  double reach = 1e30;
  if (d.z < 0 && o.z > scene.groundLevel()) reach = (scene.groundLevel() - o.z) / d.z;
  if (scene.blocked(o, d, 0, reach) || scene.glass(o, d, 0, reach).any()) return false;
  if (d.z >= 0 || reach > 1e29) return true;
  const Vec3 g = o + d * reach + Vec3{0, 0, 1e-3};
  return !scene.blocked(g, {0, 0, 1}, 0, 1e30) && !scene.glass(g, {0, 0, 1}, 0, 1e30).any();
}

Round lookRound(const LightScene& scene, Vec3 o, std::uint64_t seed) {
  Round out;
  HashStream random(mixed(seed));
  for (int k = 0; k < raysEach; ++k) {
    const double a = (k + random.next()) / raysEach; // stratified in height
    const Vec3 d = onSphere(a, random.next());
    if (getsOut(scene, o, d)) out.ways.push_back(d);
  }
  out.open = double(out.ways.size()) / raysEach;
  return out;
}

/// Where a way out leaves the shell: as far as what stands beside it, in the narrowest cone that meets something.
Vec3 holeAt(const LightScene& scene, Vec3 o, Vec3 way, HashStream& random) {
  const Vec3 u = normalized(cross(std::abs(way.z) < 0.9 ? Vec3{0, 0, 1} : Vec3{1, 0, 0}, way)), v = cross(way, u);
  for (double cone = 0.02; cone < 1.2; cone *= 2) {
    std::vector<double> met;
    for (int k = 0; k < 12; ++k) {
      const double t = 2 * pi * (k + random.next()) / 12;
      const LightScene::Hit h =
          scene.opaque(o, normalized(way + u * (cone * std::cos(t)) + v * (cone * std::sin(t))), 0, 1e30);
      if (h.any()) met.push_back(h.distance);
    }
    if (met.size() < 4) continue;
    std::sort(met.begin(), met.end());
    return o + way * met[met.size() / 2];
  }
  return o + way;
}

} // namespace

Findings checkLeaks(const LightScene& scene, const SensorSet& sensors) {
  Findings out;
  std::set<int> told; // rooms
  for (const SensorGridFacts& g : sensors.groups) {
    const std::size_t n = std::min<std::size_t>(g.count, lookers);
    std::size_t outside = 0;
    struct Leak {
      Vec3 sum;
      int rays = 0;
      Vec3 at() const { return sum * (1.0 / rays); }
    };
    std::vector<Leak> leaks;
    for (std::size_t k = 0; k < n; ++k) {
      const std::size_t i = g.first + (2 * k + 1) * g.count / (2 * n);
      const Vec3 o = sensors.sensors[i].position + sensors.sensors[i].normalVector() * 1e-3;
      const Round round = lookRound(scene, o, i);
      if (round.open >= outdoors) {
        ++outside;
        continue;
      }
      HashStream random(mixed(i + 1));
      for (const Vec3& way : round.ways) {
        const Vec3 at = holeAt(scene, o, way, random);
        const auto near =
            std::find_if(leaks.begin(), leaks.end(), [&](const Leak& l) { return length(l.at() - at) < apart; });
        Leak& l = near == leaks.end() ? leaks.emplace_back() : *near;
        l.sum = l.sum + at;
        ++l.rays;
      }
    }
    if (outside == n) continue; // it lies outdoors, all of it
    if (outside > 0) {
      Finding f{Rank::WorthKnowing,
                "sensors.outside",
                fmt::format("About {:.0f} % of the sensors of \"{}\" stand outdoors, the others in a room.",
                            100.0 * double(outside) / double(n), g.name),
                1,
                {},
                "",
                "",
                {}};
      out.push_back(std::move(f));
    }
    std::sort(leaks.begin(), leaks.end(), [](const Leak& a, const Leak& b) { return a.rays > b.rays; });
    // One leak may be a slit that lets in light along metres, and be seen by every grid of its room: it is told once.
    if (leaks.empty() || (g.room >= 0 && !told.insert(g.room).second)) continue;
    const Vec3 p = leaks.front().at();
    const std::string more =
        leaks.size() == 1 ? "" : " and " + counted(leaks.size() - 1, "other place", "other places");
    out.push_back(
        {Rank::BendsResult,
         "room.leak",
         fmt::format(
             "Light reaches \"{}\" past any glazing, near ({:.1f}, {:.1f}, {:.1f}){}: the room is not closed there.",
             g.name, p.x, p.y, p.z, more),
         1,
         {},
         "",
         "",
         p});
  }
  return out;
}

} // namespace noonward
