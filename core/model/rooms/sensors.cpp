#include "core/model/rooms/sensors.h"
#include "core/base/tolerances.h"
#include "core/base/words.h"
#include "core/model/derived_memory.h"
#include "core/model/form/edit.h"
#include "core/model/rooms/room_form.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace noonward {

namespace {

Vec3 tangentOf(Vec3 normal) {
  return std::abs(normal.z) > 0.999 ? Vec3{1, 0, 0} : normalized(cross({0, 0, 1}, normal));
}

/// Steps that fit an extent in cells near the wished spacing, centred; cells are square, so the rest stays at the rim.
std::vector<double> centres(double low, double high, double spacing) {
  const int n = std::max(1, int(std::floor((high - low) / spacing + 1e-9)));
  const double start = 0.5 * (low + high) - 0.5 * (n - 1) * spacing;
  std::vector<double> out;
  for (int i = 0; i < n; ++i) out.push_back(start + i * spacing);
  return out;
}

class Layout {
public:
  Layout(const Project& project, std::size_t limit) : project_(project), limit_(limit) {
    for (const ElementPtr& e : project.elements)
      if (standsInTheLight(*e, true) && e->role != Role::Ground) {
        if (const Mass* m = e->mass()) masses_.push_back(m);
        // Of what was brought in only buildings are solids; a roof or an awning alone has light under it.
        if (e->imported() && e->imported()->mesh && (e->role == Role::Building || e->role == Role::Neighbour))
          solids_.push_back(e->imported());
      }
  }

  Outcome add(const SensorGroup& group) {
    if (const auto* grid = std::get_if<RoomGrid>(&group.layout)) return addRooms(*grid, group);
    SensorGridFacts facts;
    facts.id = group.id;
    facts.name = group.name;
    facts.eyes = group.eyes;
    facts.first = set.sensors.size();
    index_ = std::uint32_t(set.groups.size());
    Outcome done = std::visit([&](const auto& layout) { return lay(layout, group, facts); }, group.layout);
    if (!done) return done;
    close(std::move(facts));
    return {};
  }
  SensorSet set;

private:
  /// Points that a ceiling which follows the roof leaves no room for: the nearest others speak for their floor.
  void dropAboveCeiling(LaidGrid& laid, const Room& room, double height, Findings& findings) const {
    constexpr double clear = 0.02; // m
    const RoomForm form = roomForm(project_, room);
    if (form.level) return;
    std::vector<GridCell> kept, dropped;
    for (GridCell& c : laid.cells) (form.ceilingAt(c.at) > room.floor + height + clear ? kept : dropped).push_back(c);
    if (dropped.empty()) return;
    for (const GridCell& d : dropped)
      if (!kept.empty())
        std::min_element(kept.begin(), kept.end(), [&](const GridCell& a, const GridCell& b) {
          return length(a.at - d.at) < length(b.at - d.at);
        })->area += d.area;
    laid.cells = std::move(kept);
    findings.push_back(
        {Rank::WorthKnowing,
         "sensors.under-roof",
         fmt::format("{} of \"{}\" would stand above its sloping ceiling and {} left out.",
                     counted(dropped.size(), "sensor", "sensors"), room.name, dropped.size() == 1 ? "is" : "are"),
         1,
         {room.id.value},
         "",
         ""});
  }

  void close(SensorGridFacts facts) {
    facts.count = set.sensors.size() - facts.first;
    if (facts.count == 0)
      set.findings.push_back({Rank::StopsStudy,
                              "sensors.none",
                              fmt::format("\"{}\" has no sensors: its area is smaller than the spacing, or nothing of "
                                          "it is free.",
                                          facts.name),
                              1,
                              {},
                              "",
                              ""});
    set.groups.push_back(std::move(facts));
  }

  /// One grid a room, each with its own name and facts.
  Outcome addRooms(const RoomGrid& grid, const SensorGroup& group) {
    if (Outcome o = spacingIsSound(grid.spacing, group); !o) return o;
    for (RoomId id : grid.rooms)
      if (!project_.room(id))
        set.findings.push_back({Rank::BendsResult,
                                "sensors.room-gone",
                                fmt::format("\"{}\" refers to a room that is not in the project.", group.name),
                                1,
                                {id.value},
                                "",
                                ""});
    for (std::size_t r = 0; r < project_.rooms.size(); ++r) {
      const Room& room = project_.rooms[r];
      if (grid.rooms.empty() ? !room.counted
                             : std::find(grid.rooms.begin(), grid.rooms.end(), room.id) == grid.rooms.end())
        continue;
      if (checkOutline(room.outline).fault != OutlineFault::None) continue; // the room's own finding says why
      SensorGridFacts facts;
      facts.id = group.id;
      facts.name = room.name;
      facts.eyes = group.eyes;
      facts.first = set.sensors.size();
      facts.room = int(r);
      facts.spacing = grid.spacing;
      index_ = std::uint32_t(set.groups.size());
      Box3 box;
      for (Vec2 q : room.outline.outer) box.add({q.x, q.y, 0});
      const double cells = box.size().x * box.size().y / (grid.spacing * grid.spacing);
      if (Outcome full = this->room(cells > 1e9 ? std::size_t(1e9) : std::size_t(cells), group); !full) return full;
      if (grid.height >= 0 && grid.height < room.height) {
        LaidGrid laid = layGrid(room.outline, grid.spacing, grid.wallDistance, grid.layout);
        dropAboveCeiling(laid, room, std::max(grid.height, tolerance::sensorOffset), set.findings);
        if (!laid.cells.empty()) {
          facts.spacing = laid.spacing;
          facts.distance = laid.distance;
          for (const GridCell& c : laid.cells) {
            const Vec3 at{c.at.x, c.at.y, room.floor + std::max(grid.height, tolerance::sensorOffset)};
            if (grid.directions <= 0) put(at, {0, 0, 1});
            const std::size_t place = facts.pointNames.size() / std::size_t(std::max(1, grid.directions)) + 1;
            for (int k = 0; k < grid.directions; ++k) {
              const double azimuth = wrapTwoPi(grid.firstDirection + 2 * pi * k / grid.directions);
              put(at, skyDirection(0, azimuth, project_.site.northAngle));
              facts.pointNames.push_back(fmt::format("{}, eye {}, {:.0f}°", room.name, place, degrees(azimuth)));
            }
            facts.cellArea += c.area / double(laid.cells.size());
          }
          if (grid.directions > 1) { // as many lines of sight share a cell
            std::vector<GridCell> each;
            for (const GridCell& c : laid.cells)
              for (int k = 0; k < grid.directions; ++k) {
                each.push_back(c);
                each.back().area /= grid.directions;
              }
            laid.cells = std::move(each);
            facts.cellArea /= grid.directions;
          }
          if (laid.narrowed)
            set.findings.push_back(
                {Rank::WorthKnowing,
                 "sensors.narrow",
                 fmt::format("\"{}\" is too narrow for sensors {:g} m from its walls: they stand {:.2f} m from them.",
                             room.name, grid.wallDistance, laid.distance),
                 1,
                 {room.id.value},
                 "",
                 ""});
          facts.cells = std::move(laid.cells);
        }
      }
      close(std::move(facts));
    }
    return {};
  }

  Outcome room(std::size_t more, const SensorGroup& g) {
    if (set.sensors.size() + more > limit_)
      return fail(fmt::format("\"{}\" would have more than {} sensors. Choose a wider spacing.", g.name, limit_));
    // A large grid in one piece: a vector that doubles would hold three times as much for a while.
    const std::size_t now = set.sensors.size();
    if (now + more > set.sensors.capacity()) set.sensors.reserve(now + std::max(more, now / 2));
    return {};
  }
  void put(Vec3 position, Vec3 normal) {
    set.sensors.push_back({position, {float(normal.x), float(normal.y), float(normal.z)}, index_});
  }
  static Outcome spacingIsSound(double spacing, const SensorGroup& g) {
    if (!(spacing >= 0.01 && spacing <= 1000))
      return fail(fmt::format("\"{}\" has a spacing of {} m; 0.01 to 1000 m can be used.", g.name, spacing));
    return {};
  }
  bool covered(Vec2 p, double level) const {
    const Vec3 just{p.x, p.y, level + tolerance::weld};
    if (std::any_of(solids_.begin(), solids_.end(), [&](const Imported* s) { return encloses(*s, just); })) return true;
    return std::any_of(masses_.begin(), masses_.end(), [&](const Mass* m) { return encloses(*m, just); });
  }

  Outcome ground(const Outline& outline, double level, double spacing, const SensorGroup& g, SensorGridFacts& facts) {
    if (Outcome o = spacingIsSound(spacing, g); !o) return o;
    if (const OutlineCheck c = checkOutline(outline); c.fault != OutlineFault::None)
      return fail(
          fmt::format("The area of \"{}\" {} at ({:.2f}, {:.2f}).", g.name, faultText(c.fault), c.at.x, c.at.y));
    Box3 box;
    for (Vec2 p : outline.outer) box.add({p.x, p.y, level});
    const double cells = box.size().x * box.size().y / (spacing * spacing);
    if (Outcome o = room(cells > 1e9 ? std::size_t(1e9) : std::size_t(cells), g); !o) return o;
    facts.spacing = spacing;
    facts.cellArea = spacing * spacing;
    int inside = 0;
    for (double y : centres(box.low.y, box.high.y, spacing))
      for (double x : centres(box.low.x, box.high.x, spacing)) {
        if (!contains(outline, {x, y})) continue;
        if (covered({x, y}, level))
          ++inside;
        else
          put({x, y, level}, {0, 0, 1});
      }
    if (inside > 0)
      set.findings.push_back({Rank::WorthKnowing,
                              "sensors.inside",
                              fmt::format("{} of \"{}\" would stand inside a mass and {} left out.",
                                          counted(inside, "sensor", "sensors"), g.name, inside == 1 ? "is" : "are"),
                              inside,
                              {},
                              "",
                              ""});
    return {};
  }

  Outcome lay(const GroundArea& a, const SensorGroup& g, SensorGridFacts& facts) {
    return ground(a.outline, a.level, a.spacing, g, facts);
  }

  Outcome lay(const RoomGrid&, const SensorGroup&, SensorGridFacts&) { return {}; } // see addRooms()

  Outcome lay(const GroundAround& a, const SensorGroup& g, SensorGridFacts& facts) {
    Box3 box;
    for (ElementId id : a.elements) {
      if (const ElementPtr e = project_.element(id))
        box.addBox(boxOf(*e));
      else
        missing(g, id);
    }
    if (box.empty()) return {};
    return ground(rectangle(box.low.x - a.margin, box.low.y - a.margin, box.high.x + a.margin, box.high.y + a.margin),
                  a.level, a.spacing, g, facts);
  }

  Outcome lay(const FaceGrid& f, const SensorGroup& g, SensorGridFacts& facts) {
    if (Outcome o = spacingIsSound(f.bay > 0 ? f.bay : f.spacing, g); !o) return o;
    facts.spacing = f.bay > 0 ? f.bay : f.spacing;
    facts.cellArea = facts.spacing * facts.spacing;
    for (const FaceRef& ref : f.faces) {
      const ElementPtr e = project_.element(ref.element);
      if (!e) {
        missing(g, ref.element);
        continue;
      }
      if (e->demolished) {
        set.findings.push_back({Rank::WorthKnowing,
                                "sensors.demolished",
                                fmt::format("\"{}\" is to be demolished: \"{}\" has no sensors on it.",
                                            e->name.empty() ? e->id.text() : e->name, g.name),
                                1,
                                {g.id.value},
                                "",
                                ""});
        continue;
      }
      const auto mesh = elementMesh(*e);
      if (!mesh) continue; // the element's own finding says why
      std::map<std::uint32_t, std::vector<std::size_t>> faces;
      for (std::size_t t = 0; t < (*mesh)->triangles.size(); ++t) {
        const std::uint32_t face = (*mesh)->faceOf(t);
        const Vec3 n = normalized((*mesh)->areaVector(t));
        const bool wanted = ref.face ? face == *ref.face : (f.walls && std::abs(n.z) < 0.5) || (f.roofs && n.z >= 0.5);
        if (wanted) faces[face].push_back(t);
      }
      for (const auto& [face, triangles] : faces) {
        const Outcome o =
            f.bay > 0 ? byBays(*e, **mesh, triangles, f, g, facts) : onFace(**mesh, triangles, f.spacing, g);
        if (!o) return o;
      }
    }
    return {};
  }

  Outcome onFace(const Mesh& mesh, const std::vector<std::size_t>& triangles, double spacing, const SensorGroup& g) {
    Vec3 normal;
    for (std::size_t t : triangles) normal = normal + mesh.areaVector(t);
    normal = normalized(normal);
    if (length(normal) < 0.5) return {};
    const Vec3 u = tangentOf(normal), v = cross(normal, u), o = mesh.points[mesh.triangles[triangles[0]][0]];
    std::vector<std::array<Vec2, 3>> flat;
    Box3 box;
    for (std::size_t t : triangles) {
      std::array<Vec2, 3> k;
      for (std::size_t i = 0; i < 3; ++i) {
        const Vec3 d = mesh.points[mesh.triangles[t][i]] - o;
        k[i] = {dot(d, u), dot(d, v)};
        box.add({k[i].x, k[i].y, 0});
      }
      flat.push_back(k);
    }
    const double cells = box.size().x * box.size().y / (spacing * spacing);
    if (Outcome full = room(cells > 1e9 ? std::size_t(1e9) : std::size_t(cells), g); !full) return full;
    for (double y : centres(box.low.y, box.high.y, spacing))
      for (double x : centres(box.low.x, box.high.x, spacing)) {
        const bool in = std::any_of(flat.begin(), flat.end(), [&](const auto& k) {
          const Vec2 p{x, y};
          const double a = cross(k[1] - k[0], p - k[0]), b = cross(k[2] - k[1], p - k[1]),
                       c = cross(k[0] - k[2], p - k[2]);
          return (a >= 0 && b >= 0 && c >= 0) || (a <= 0 && b <= 0 && c <= 0);
        });
        if (in) put(o + u * x + v * y + normal * tolerance::sensorOffset, normal);
      }
    return {};
  }

  /// Where floors lie on a face from `low` to `high`: those of a mass, else every three metres.
  static std::vector<double> floorsOf(const Element& e, double low, double high) {
    const Mass* m = e.mass();
    const double storey = m && m->storeys > 0 ? m->height / m->storeys : 3;
    std::vector<double> out;
    for (double z = m ? m->base : low; z < high - 0.3 * storey; z += storey)
      if (z > low - 0.7 * storey) out.push_back(z);
    return out;
  }

  /// One receiver a bay and storey of an upright face, named by both.
  Outcome byBays(const Element& e, const Mesh& mesh, const std::vector<std::size_t>& triangles, const FaceGrid& f,
                 const SensorGroup& g, SensorGridFacts& facts) {
    Vec3 normal;
    for (std::size_t t : triangles) normal = normal + mesh.areaVector(t);
    normal = normalized(normal);
    if (!(std::abs(normal.z) < 0.5)) return {};
    const Vec3 u = normalized(Vec3{-normal.y, normal.x, 0}), v = cross(normal, u);
    const Vec3 o = mesh.points[mesh.triangles[triangles[0]][0]];
    std::vector<std::array<Vec2, 3>> flat;
    double left = 1e30, right = -1e30, low = 1e30, high = -1e30;
    for (std::size_t t : triangles) {
      std::array<Vec2, 3> k;
      for (std::size_t i = 0; i < 3; ++i) {
        const Vec3 p = mesh.points[mesh.triangles[t][i]];
        k[i] = {dot(p - o, u), dot(p - o, v)};
        left = std::min(left, k[i].x);
        right = std::max(right, k[i].x);
        low = std::min(low, p.z);
        high = std::max(high, p.z);
      }
      flat.push_back(k);
    }
    const std::vector<double> floors = floorsOf(e, low, high);
    const int bays = std::max(1, int(std::lround((right - left) / f.bay)));
    const double wide = (right - left) / bays;
    if (Outcome full = room(floors.size() * std::size_t(bays), g); !full) return full;
    const auto side = facingOf(normal, project_.site.northAngle);
    for (std::size_t s = 0; s < floors.size(); ++s) {
      const double top = s + 1 < floors.size() ? floors[s + 1] : high, tall = top - floors[s];
      const double z = floors[s] + std::min(f.height, 0.7 * tall);
      for (int b = 0; b < bays; ++b) {
        const Vec2 at{left + wide * (b + 0.5), (z - o.z) / v.z};
        const bool in = std::any_of(flat.begin(), flat.end(), [&](const auto& k) {
          const double a = cross(k[1] - k[0], at - k[0]), d = cross(k[2] - k[1], at - k[1]),
                       c = cross(k[0] - k[2], at - k[2]);
          return (a >= 0 && d >= 0 && c >= 0) || (a <= 0 && d <= 0 && c <= 0);
        });
        if (!in) continue;
        put(o + u * at.x + v * at.y + normal * tolerance::sensorOffset, normal);
        facts.sizes.push_back({float(wide), float(tall)});
        facts.pointNames.push_back(
            fmt::format("{}, {}, storey {}, bay {}", nameOf(e), side ? facingKey(*side) : "up", s + 1, b + 1));
      }
    }
    return {};
  }

  Outcome lay(const std::vector<PointSensor>& list, const SensorGroup& g, SensorGridFacts& facts) {
    if (Outcome o = room(list.size(), g); !o) return o;
    for (const PointSensor& s : list) {
      if (!finite(s.position) || !(length(s.normal) > 0) || !finite(s.normal))
        return fail(fmt::format("A point of \"{}\" has no proper position or direction.", g.name));
      put(s.position, normalized(s.normal));
      facts.pointNames.push_back(s.name);
    }
    return {};
  }

  void missing(const SensorGroup& g, ElementId id) {
    set.findings.push_back(
        {Rank::BendsResult,
         "sensors.element-gone",
         fmt::format("\"{}\" refers to an element that is not in the project ({}).", g.name, id.text()),
         1,
         {id.value},
         "",
         ""});
  }

  const Project& project_;
  std::size_t limit_;
  std::uint32_t index_ = 0;
  std::vector<const Mass*> masses_;
  std::vector<const Imported*> solids_;
};

} // namespace

std::string SensorSet::sensorName(std::size_t i) const {
  const SensorGridFacts& g = groups[sensors[i].group];
  const std::size_t k = i - g.first;
  if (k < g.pointNames.size() && !g.pointNames[k].empty()) return g.pointNames[k];
  return fmt::format("{} {}", g.name, k + 1);
}

double SensorSet::areaOf(std::size_t i) const {
  const SensorGridFacts& g = groups[sensors[i].group];
  if (!g.sizes.empty()) return double(g.sizes[i - g.first][0]) * double(g.sizes[i - g.first][1]);
  return !g.cells.empty() ? g.cells[i - g.first].area : g.cellArea > 0 ? g.cellArea : 1;
}

std::vector<double> SensorSet::areasOf(std::size_t first, std::size_t count) const {
  std::vector<double> out(count);
  for (std::size_t i = 0; i < count; ++i) out[i] = areaOf(first + i);
  return out;
}

std::array<Vec3, 4> SensorSet::cell(std::size_t i) const {
  const Sensor& s = sensors[i];
  if (const SensorGridFacts& g = groups[s.group]; g.eyes && std::hypot(s.normal[0], s.normal[1]) > 0.2f) {
    const double reach = g.spacing > 0 ? std::min(0.46 * g.spacing, 1.2) : 0.9;
    const Vec3 f = normalized(Vec3{double(s.normal[0]), double(s.normal[1]), 0}) * reach, side{f.y, -f.x, 0};
    return {s.position + f * 0.1, s.position + f * 0.45 + side * 0.16, s.position + f,
            s.position + f * 0.45 - side * 0.16};
  }
  if (const SensorGridFacts& g = groups[s.group]; !g.cells.empty()) {
    std::array<Vec3, 4> out;
    for (std::size_t k = 0; k < 4; ++k)
      out[k] = {g.cells[i - g.first].corners[k].x, g.cells[i - g.first].corners[k].y, s.position.z};
    return out;
  }
  const Vec3 n = s.normalVector(), u = tangentOf(n), v = cross(n, u);
  if (const SensorGridFacts& g = groups[s.group]; !g.sizes.empty()) { // a panel about the receiver, with joints
    const auto& [wide, tall] = g.sizes[i - g.first];
    const Vec3 across = normalized(Vec3{-n.y, n.x, 0}) * (0.46 * double(wide)), up = Vec3{0, 0, 0.35 * double(tall)};
    return {s.position - across - up, s.position + across - up, s.position + across + up, s.position - across + up};
  }
  const double h = std::max(groups[s.group].spacing, 0.5) / 2;
  const Vec3 p = s.position;
  return {p - u * h - v * h, p + u * h - v * h, p + u * h + v * h, p - u * h + v * h};
}

Project withoutProposal(Project p) {
  for (ElementPtr& e : p.elements)
    if ((e->proposed && e->counted) || e->demolished) {
      auto other = std::make_shared<Element>(*e);
      other->counted = e->counted && !e->proposed;
      other->demolished = false;
      e = std::move(other);
    }
  return p;
}

std::vector<GroupId> groupsTaken(const Project& p, const std::vector<GroupId>& named, bool ofEyes) {
  const auto fits = [&](const SensorGroup& g) { return g.eyes == ofEyes; };
  if (!named.empty() || std::all_of(p.groups.begin(), p.groups.end(), fits)) return named;
  std::vector<GroupId> out;
  for (const SensorGroup& g : p.groups)
    if (fits(g)) out.push_back(g.id);
  if (out.empty()) out.push_back({}); // none is not all
  return out;
}

Expected<SensorSet> layOutSensors(const Project& project, const std::vector<GroupId>& only, std::size_t limit) {
  auto state = derivedState(project, true);
  state.groups = project.groups;
  state.only = only;
  state.limit = limit;
  if (const auto known = project.derived->sensors(state)) return *known;
  Layout layout(project, limit);
  for (const SensorGroup& g : project.groups) {
    if (!only.empty() && std::find(only.begin(), only.end(), g.id) == only.end()) continue;
    if (Outcome o = layout.add(g); !o) return tl::unexpected(o.error());
  }
  const auto made = std::make_shared<const SensorSet>(std::move(layout.set));
  project.derived->keep(std::move(state), made);
  return *made;
}

} // namespace noonward
