#include "core/model/tracing/tracing.h"
#include "core/base/json.h"
#include "core/base/words.h"
#include "core/geometry/mesh_columns.h"
#include "core/model/form/edit.h"
#include "core/model/form/storeys.h"
#include "core/model/mending/panes.h"
#include "core/model/tracing/tracing_rays.h"
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fmt/format.h>
#include <map>
#include <set>

namespace noonward {

namespace {

constexpr double skinOut =
    0.02; ///< m: where a wall has no thickness, its outer face is laid so far out, so that in and out are two faces

class Tracer {
public:
  Tracer(const Project& p, const TraceSettings& s, const RunControl* control) : p_(p), s_(s), control_(control) {}

  Expected<Trace> run() {
    out.sources = s_.sources.empty() ? traceSources(p_) : s_.sources;
    sources_ = sourceParts(p_, out.sources);
    if (sources_.empty())
      return fail("There is nothing to trace: no imported part is a building, or a wall, floor, roof or glazing of "
                  "one. Give the parts their roles first.");
    std::vector<FoundStorey> levels = storeysOf(sources_, s_.floors);
    if (levels.empty())
      return fail(fmt::format("No storey is found: the model has no {:.1f} m of clear height between horizontal faces. "
                              "Is its unit right? Levels may be given.",
                              leastStorey));
    if (levels.size() > 300)
      return fail(fmt::format("{} storeys are found: is the model's unit right?", levels.size()));
    collectCover();
    collectPanes();
    if (Outcome o = cutAll(levels); !o) return tl::unexpected(o.error());
    for (std::size_t k = 0; k < levels.size(); ++k) {
      if (stopped()) return fail("Stopped.");
      if (Outcome o = storey(regions_[k], levels[k].storey); !o) return tl::unexpected(o.error());
      if (control_ && control_->progress) control_->progress(0.3 + 0.6 * double(k + 1) / double(levels.size()));
    }
    for (FoundStorey& l : levels) out.storeys.push_back(std::move(l.storey));
    std::erase_if(out.storeys, [](const TracedStorey& s) { return s.outer.empty(); });
    if (out.rooms.empty())
      return fail("Nothing is closed by walls: no room could be traced. A larger gap to close, a lower cut, or roles "
                  "for the walls may help.");
    masses();
    windows();
    tell();
    return std::move(out);
  }
  Trace out;

private:
  bool stopped() const { return control_ && !control_->goesOn(); }

  void collectCover() {
    auto all = std::make_shared<Mesh>();
    for (const SourcePart& s : sources_) {
      if (s.element->role == Role::Glazing) continue;
      for (std::size_t t = 0; t < s.mesh->triangles.size(); ++t) {
        const Vec3 n = s.mesh->areaVector(t);
        if (std::abs(n.z) < 0.1 * length(n)) continue;
        const auto first = std::uint32_t(all->points.size());
        for (std::uint32_t k : s.mesh->triangles[t]) all->points.push_back(s.mesh->points[k]);
        all->triangles.push_back({first, first + 1, first + 2});
      }
    }
    if (!all->triangles.empty()) cover_ = std::make_unique<MeshColumns>(std::move(all));
  }

  void collectPanes() {
    std::size_t doubled = 0;
    std::vector<Pane> all;
    for (const SourcePart& s : sources_)
      if (s.element->role == Role::Glazing)
        for (Pane& pane : panesOf(*s.element, *s.mesh)) all.push_back(std::move(pane));
    panes_ = singlePanes(std::move(all), doubled);
    if (doubled > 0)
      out.notes.push_back(counted(doubled, "pane stands", "panes stand") + " close behind another and " +
                          (doubled == 1 ? "counts" : "count") + " as one with it.");
  }

  std::vector<double> heights(const FoundStorey& found) const {
    const TracedStorey& s = found.storey;
    if (s_.cutBelow) return {std::max(s.floor + 0.05, s.ceiling - *s_.cutBelow)};
    std::vector<double> h;
    std::array<double, 4> wanted{s.ceiling - 0.1, s.ceiling - 0.35, s.floor + 2.1, s.floor + 1.2};
    if (!found.flat) std::reverse(wanted.begin(), wanted.end()); // under a roof walls end low
    for (double z : wanted)
      if (z > s.floor + 0.3 && z < s.ceiling - 0.02) h.push_back(z);
    return h;
  }

  /// The regions of a storey, sorted out.
  struct Regions {
    std::vector<Outline> rooms, rest; ///< rest: walls and what is too small
    std::vector<Outline> above;       ///< upper parts of higher rooms below: building, but no rooms of this storey
    std::vector<std::pair<double, double>> spans; ///< floor and ceiling of each room
    std::size_t small = 0;
    double area = 0;
  };

  Outcome cutAll(std::vector<FoundStorey>& levels) {
    std::vector<std::size_t> todo;
    for (std::size_t k = 0; k < levels.size(); ++k) todo.push_back(k);
    regions_.resize(levels.size());
    for (std::size_t round = 0; round < 4 && !todo.empty(); ++round) {
      std::vector<std::pair<double, std::size_t>> at;
      for (std::size_t k : todo)
        if (const auto h = heights(levels[k]); round < h.size()) at.emplace_back(h[round], k);
      std::sort(at.begin(), at.end());
      std::vector<double> z;
      for (const auto& [height, k] : at) z.push_back(height);
      std::vector<std::vector<CutLine>> lines;
      for (const SourcePart& s : sources_) {
        if (stopped()) return fail("Stopped.");
        cutAt(*s.mesh, z, lines);
      }
      todo.clear();
      for (std::size_t i = 0; i < at.size(); ++i) {
        if (stopped()) return fail("Stopped.");
        const auto [height, k] = at[i];
        TracedStorey& s = levels[k].storey;
        auto pieces = joined(std::move(lines[i]), s_.skin);
        auto closed = regionsBetween(pieces, s_.gap);
        if (!closed) return tl::unexpected(closed.error());
        Regions sorted = sortOut(std::move(*closed), s, height);
        // A lower cut has to close clearly more: it meets windows and furniture.
        if (round == 0 || sorted.area > 1.15 * regions_[k].area) {
          regions_[k] = std::move(sorted);
          s.cut = height;
          s.lines = std::move(pieces);
        }
        if (regions_[k].area < 0.5 * levels[k].floorArea || (regions_[k].rooms.empty() && regions_[k].above.empty()))
          todo.push_back(k);
      }
      if (control_ && control_->progress) control_->progress(0.3);
    }
    return {};
  }

  Regions sortOut(std::vector<Outline> all, const TracedStorey& s, double cut) const {
    Regions r;
    for (Outline& o : all) {
      if (area(o) < s_.smallestRoom) {
        r.small += offset(o, -s_.thickestWall / 2).size();
        r.rest.push_back(std::move(o));
      } else if (offset(o, -s_.thickestWall / 2).empty()) {
        r.rest.push_back(std::move(o));
      } else if (const auto span = covered(o, s, cut)) {
        r.area += area(o);
        if (span->first < s.floor - 1.0) {
          r.above.push_back(std::move(o));
          continue;
        }
        r.rooms.push_back(std::move(o));
        r.spans.push_back(*span);
      }
    }
    return r;
  }

  /// Floor and ceiling over a region; nothing where it lies under the open sky.
  std::optional<std::pair<double, double>> covered(const Outline& o, const TracedStorey& s, double cut) const {
    if (!cover_) return std::pair{s.floor, s.ceiling};
    std::vector<std::pair<double, Vec2>> samples; // weight, place
    Box3 box;
    for (Vec2 p : o.outer) box.add({p.x, p.y, 0});
    constexpr int fields = 9;
    for (int i = 0; i < fields; ++i)
      for (int j = 0; j < fields; ++j) {
        const Vec2 q{box.low.x + box.size().x * (i + 0.5) / fields, box.low.y + box.size().y * (j + 0.5) / fields};
        if (contains(o, q)) samples.emplace_back(1, q);
      }
    if (samples.size() < 8) // a thin or bent one: by its triangles
      if (const auto t = triangulate(o)) {
        samples.clear();
        const std::vector<Vec2> q = points(o);
        for (const auto& k : *t)
          samples.emplace_back(cross(q[k[1]] - q[k[0]], q[k[2]] - q[k[0]]), (q[k[0]] + q[k[1]] + q[k[2]]) * (1.0 / 3));
      }
    double all = 0, under = 0;
    std::vector<double> floors, z;
    std::vector<std::pair<double, double>> ceilings; // height, weight
    for (const auto& [weight, q] : samples) {
      z.clear();
      cover_->heightsAt(q, z);
      double low = -std::numeric_limits<double>::infinity(), high = -low;
      for (double v : z) (v > cut ? high = std::min(high, v) : low = std::max(low, v));
      all += weight;
      if (std::isfinite(low)) floors.push_back(low);
      if (!std::isfinite(high)) continue;
      under += weight;
      ceilings.emplace_back(high, weight);
    }
    if (under < 0.5 * all) return {};
    // The clear height: of a flat ceiling where most of it lies, of a slanting one its mean.
    std::sort(ceilings.begin(), ceilings.end());
    double sum = 0, mean = 0;
    for (const auto& [h, w] : ceilings) mean += h * w;
    mean /= under;
    double ceiling = mean;
    for (const auto& [h, w] : ceilings)
      if ((sum += w) >= under / 2) {
        double near = 0;
        for (const auto& [g, v] : ceilings) near += std::abs(g - h) < 0.05 ? v : 0;
        if (near >= 0.6 * under) ceiling = h;
        break;
      }
    double floor = s.floor;
    if (!floors.empty()) {
      std::nth_element(floors.begin(), floors.begin() + std::ptrdiff_t(floors.size() / 2), floors.end());
      floor = floors[floors.size() / 2];
    }
    if (std::abs(floor - s.floor) < 0.02) floor = s.floor;
    if (std::abs(ceiling - s.ceiling) < 0.02) ceiling = s.ceiling;
    return std::pair{floor, ceiling};
  }

  Outcome storey(const Regions& r, TracedStorey& s) {
    small_ += r.small;
    std::vector<Outline> inside = r.rooms, parts = r.rest;
    inside.insert(inside.end(), r.above.begin(), r.above.end());
    if (inside.empty()) return {};
    parts.insert(parts.end(), inside.begin(), inside.end());
    auto bodies = joinedBodies(parts, inside);
    if (!bodies) return tl::unexpected(bodies.error());
    s.traced = std::move(*bodies);
    parts.clear();
    for (const Outline& o : s.traced) parts.push_back(simplified(o, s_.simplify));
    for (const Outline& o : inside)
      for (Outline& wide : offset(roomOutline(o), skinOut)) parts.push_back(tidied(std::move(wide)));
    bodies = joinedBodies(parts, inside);
    if (!bodies) return tl::unexpected(bodies.error());
    s.outer = std::move(*bodies);
    const int number = ++storeys_;
    std::vector<std::size_t> order(r.rooms.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::vector<Vec2> middle;
    for (const Outline& o : r.rooms) middle.push_back(pointInside(o));
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
      return std::pair{-std::round(middle[a].y), middle[a].x} < std::pair{-std::round(middle[b].y), middle[b].x};
    });
    int n = 0;
    for (std::size_t i : order) {
      Room room;
      room.outline = roomOutline(r.rooms[i]);
      room.floor = r.spans[i].first;
      room.height = r.spans[i].second - r.spans[i].first;
      room.source = simplifiedModelName;
      room.name = fmt::format("Room {}.{}", number, ++n);
      room.id = {derivedId(fmt::format("light-model/{:.2f}/{:.2f}/{:.2f}", middle[i].x, middle[i].y, room.floor))};
      if (r.spans[i].second > s.ceiling + 0.5) ++high_;
      nameIt(room, middle[i]);
      out.rooms.push_back(std::move(room));
      ++s.rooms;
    }
    return {};
  }

  /// The outlines of all of them together. Bodies without a room are no building (posts, railings, walls of a garden),
  /// holes under 1 m² no courtyard.
  static Expected<std::vector<Outline>> joinedBodies(const std::vector<Outline>& parts,
                                                     const std::vector<Outline>& rooms) {
    auto whole = unionOf(parts);
    if (!whole) return whole;
    std::erase_if(*whole, [&](const Outline& o) {
      return std::none_of(rooms.begin(), rooms.end(),
                          [&](const Outline& room) { return contains(o, pointInside(room)); });
    });
    for (Outline& o : *whole) std::erase_if(o.holes, [](const Ring& h) { return std::abs(signedArea(h)) < 1; });
    return whole;
  }

  /// Narrow spurs into the room (leaves of doors, thin fins) and small islands go; few corners stay.
  Outline roomOutline(const Outline& o) const {
    Outline out = o;
    std::erase_if(out.holes, [](const Ring& h) { return std::abs(signedArea(h)) < 0.05; });
    if (const auto wide = offset(out, 0.05); wide.size() == 1)
      if (auto closed = offset(wide.front(), -0.05); closed.size() == 1 && area(closed.front()) > area(out) + 0.005)
        out = tidied(std::move(closed.front()));
    return simplified(out, s_.simplify);
  }

  void nameIt(Room& room, Vec2 middle) {
    for (const Room& old : p_.rooms)
      if (isTraced(old) && std::abs(old.floor - room.floor) < 0.5 && contains(old.outline, middle) &&
          !taken_.contains(old.id)) {
        taken_.insert(old.id);
        room.id = old.id;
        room.name = old.name;
        room.use = old.use;
        room.counted = old.counted;
        room.reason = old.reason;
        room.glare = old.glare;
        room.extra = old.extra;
        return;
      }
    std::vector<std::pair<double, std::string>> names; // of several spaces without walls, the largest first
    std::map<std::string, std::string> uses;
    for (const ElementPtr& e : p_.elements) {
      const Plate* plate = e->plate();
      if (!plate || e->counted || e->name.empty() || plate->corners.empty()) continue;
      const double z = plate->corners.front().z;
      if (z < room.floor - 0.5 || z > room.floor + room.height) continue;
      Outline flat;
      for (const Vec3& c : plate->corners) flat.outer.push_back(xy(c));
      if (checkOutline(flat).fault != OutlineFault::None || area(flat) > 1.6 * area(room.outline) ||
          !contains(room.outline, pointInside(flat)))
        continue;
      names.emplace_back(-area(flat), e->name);
      if (const Json more = Json::parse(e->extra, nullptr, false);
          more.is_object() && more.contains(spaceUseKey) && more[spaceUseKey].is_string())
        uses[e->name] = more[spaceUseKey].get<std::string>();
    }
    if (names.empty()) return;
    std::stable_sort(names.begin(), names.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    room.name = names.front().second;
    if (const auto use = uses.find(room.name); use != uses.end()) room.use = use->second;
    for (std::size_t i = 1; i < names.size() && i < 4; ++i) room.name += " + " + names[i].second;
    ++named_;
  }

  /// Storeys of one outline become one mass.
  void masses() {
    const std::string stem =
        sources_.front().element->source.empty()
            ? "Simplified model"
            : std::filesystem::path(sources_.front().element->source).stem().string() + ", simplified model";
    const bool proposed =
        std::count_if(sources_.begin(), sources_.end(), [](const SourcePart& s) { return s.element->proposed; }) * 2 >
        std::ptrdiff_t(sources_.size());
    struct Stack {
      Outline outline;
      double base, top;
      int storeys;
    };
    std::vector<Stack> stacks;
    for (const TracedStorey& s : out.storeys)
      for (const Outline& o : s.outer) {
        const auto under = std::find_if(stacks.begin(), stacks.end(), [&](const Stack& b) {
          return std::abs(b.top - s.floor) < 0.02 && std::abs(area(b.outline) - area(o)) < 0.01 * area(o) &&
                 farthestFrom({b.outline}, {o}) <= s_.simplify && farthestFrom({o}, {b.outline}) <= s_.simplify;
        });
        if (under != stacks.end()) {
          under->top = s.top;
          ++under->storeys;
        } else
          stacks.push_back({o, s.floor, s.top, 1});
      }
    int n = 0;
    for (const Stack& b : stacks) {
      Element e;
      e.id = {derivedId(fmt::format("light-model/mass/{}", ++n))};
      e.name = stacks.size() > 1 ? fmt::format("{} {}", stem, n) : stem;
      e.layer = e.source = simplifiedModelName;
      e.role = Role::Building;
      e.proposed = proposed;
      e.shape = Mass{b.outline, b.base, b.top - b.base, b.storeys};
      out.masses.push_back(std::move(e));
    }
  }

  struct Wall {
    std::size_t room;
    int edge;
    Vec2 a, along, outward;
    double length, thickness; ///< to the outer face; infinite where another room lies behind
  };

  void windows() {
    std::vector<Wall> walls;
    for (std::size_t r = 0; r < out.rooms.size(); ++r) {
      Room& room = out.rooms[r];
      const TracedStorey& s = *std::find_if(out.storeys.begin(), out.storeys.end(), [&](const TracedStorey& t) {
        return room.floor >= t.floor - 1 && room.floor < t.ceiling;
      });
      std::vector<std::pair<double, double>> thick; // m, of how much wall
      for (std::size_t i = 0; i < room.outline.outer.size(); ++i) {
        const Vec2 a = room.outline.outer[i], b = room.outline.outer[(i + 1) % room.outline.outer.size()];
        Wall w{r, int(i), a, {}, {}, length(b - a), std::numeric_limits<double>::infinity()};
        if (w.length < 0.05) continue;
        w.along = (b - a) * (1 / w.length);
        w.outward = {w.along.y, -w.along.x};
        std::vector<double> d;
        for (const double u : {0.1, 0.3, 0.5, 0.7, 0.9}) {
          const Vec2 from = a + w.along * (u * w.length) - w.outward * 1e-3;
          double out1 = std::numeric_limits<double>::infinity(), room1 = out1;
          for (const Outline& o : s.outer) out1 = std::min(out1, toEdge(from, w.outward, o));
          for (std::size_t o = 0; o < out.rooms.size(); ++o)
            if (o != r && out.rooms[o].floor < room.floor + room.height - 0.05 &&
                room.floor < out.rooms[o].floor + out.rooms[o].height - 0.05)
              room1 = std::min(room1, toEdge(from, w.outward, out.rooms[o].outline));
          if (out1 < room1 && out1 < 2) d.push_back(out1 - 1e-3);
        }
        if (d.size() >= 2) {
          std::sort(d.begin(), d.end());
          w.thickness = d[d.size() / 2];
          thick.emplace_back(w.thickness, w.length);
        }
        walls.push_back(w);
      }
      double half = 0, sum = 0;
      std::sort(thick.begin(), thick.end());
      for (const auto& [t, l] : thick) half += l / 2;
      for (const auto& [t, l] : thick)
        if ((sum += l) >= half) {
          room.wall = t;
          break;
        }
    }
    std::vector<std::vector<Opening>> by(walls.size());
    const Vec2 centre = xy(boxOf(sources_).center());
    for (const Pane& pane : panes_) {
      const Vec3 n = pane.normal;
      const bool sound = std::isfinite(pane.area) && pane.area > 0.01;
      if (!sound) continue;
      if (std::abs(n.z) > 0.5) {
        rooflight(pane);
        continue;
      }
      Vec2 flat = xy(n) * (1 / std::max(1e-9, length(xy(n))));
      const Wall* best = nullptr;
      bool inner = false;
      std::vector<std::size_t> hits;
      for (std::size_t i = 0; i < walls.size(); ++i) {
        const Wall& w = walls[i];
        if (std::abs(dot(w.outward, flat)) < 0.996) continue;
        const Room& room = out.rooms[w.room];
        const double d = dot(xy(pane.middle) - w.a, w.outward);
        const auto [u0, u1, z0, z1] = spanOn(pane, w.a, w.along);
        if (std::min(u1, w.length) - std::max(u0, 0.0) < 0.05 ||
            std::min(z1, room.floor + room.height) - std::max(z0, room.floor) < 0.05)
          continue;
        if (!std::isfinite(w.thickness)) {
          inner |= d > -0.15 && d < s_.thickestWall;
          continue;
        }
        if (d < -0.15 || d > w.thickness + 0.25) continue;
        hits.push_back(i);
        if (!best || w.thickness < best->thickness) best = &w;
      }
      const auto facing = facingOf(best                                      ? Vec3{best->outward.x, best->outward.y, 0}
                                   : dot(xy(pane.middle) - centre, flat) < 0 ? Vec3{-flat.x, -flat.y, 0}
                                                                             : Vec3{flat.x, flat.y, 0},
                                   p_.site.northAngle);
      if (!inner || best)
        if (facing) out.deviation.sourceGlazing[std::size_t(*facing)] += pane.area;
      if (hits.empty()) {
        ++(inner ? between_ : lost_);
        continue;
      }
      for (std::size_t i : hits) add(pane, walls[i], by[i]);
    }
    for (std::size_t i = 0; i < walls.size(); ++i)
      for (Opening& o : by[i]) {
        const auto facing = facingOf({walls[i].outward.x, walls[i].outward.y, 0}, p_.site.northAngle);
        if (facing) out.deviation.glazing[std::size_t(*facing)] += o.width * o.height;
        finish(std::move(o));
      }
    for (Opening& o : rooflights_) {
      out.deviation.rooflights += o.width * o.height;
      finish(std::move(o));
    }
  }

  /// As a rectangle of the pane's own area, clipped to the wall.
  void add(const Pane& pane, const Wall& w, std::vector<Opening>& into) {
    const Room& room = out.rooms[w.room];
    auto [u0, u1, z0, z1] = spanOn(pane, w.a, w.along);
    const double share = pane.area / std::max(1e-9, (u1 - u0) * (z1 - z0));
    if (share < 0.98) {
      const double k = std::sqrt(std::min(1.0, share)), u = (u0 + u1) / 2, z = (z0 + z1) / 2;
      u0 = u - (u - u0) * k;
      u1 = u + (u1 - u) * k;
      z0 = z - (z - z0) * k;
      z1 = z + (z1 - z) * k;
      ++shaped_;
    }
    u0 = std::max(u0, 0.0);
    u1 = std::min(u1, w.length);
    z0 = std::max(z0, room.floor);
    z1 = std::min(z1, room.floor + room.height);
    if (u1 - u0 < 0.03 || z1 - z0 < 0.03) return;
    Opening o;
    o.room = room.id;
    o.edge = w.edge;
    o.along = u0;
    o.sill = z0 - room.floor;
    o.width = u1 - u0;
    o.height = z1 - z0;
    o.type = pane.layer;
    o.glazing = pane.finish;
    for (Opening& other : into) { // two skins of one window that were farther apart than doubled panes are
      const double u = std::min(u1, other.along + other.width) - std::max(u0, other.along),
                   z = std::min(o.sill + o.height, other.sill + other.height) - std::max(o.sill, other.sill);
      if (u <= 1e-4 || z <= 1e-4) continue;
      if (u * z < 0.5 * std::min(o.width * o.height, other.width * other.height)) {
        ++over_;
        return;
      }
      const double left = std::min(o.along, other.along), low = std::min(o.sill, other.sill);
      other.width = std::max(o.along + o.width, other.along + other.width) - left;
      other.height = std::max(o.sill + o.height, other.sill + other.height) - low;
      other.along = left;
      other.sill = low;
      return;
    }
    into.push_back(std::move(o));
  }

  void rooflight(const Pane& pane) {
    Box3 b;
    for (const Vec3& q : pane.corners) b.add(q);
    const double plan = pane.area * std::abs(pane.normal.z);
    out.deviation.sourceRooflights += pane.area;
    const Vec2 middle = xy(b.center());
    for (const Room& room : out.rooms) {
      const double over = b.low.z - (room.floor + room.height);
      if (over < -0.3 || over > 2 || !contains(room.outline, middle)) continue;
      Vec2 size = xy(b.size());
      const double k = std::sqrt(std::min(1.0, plan / std::max(1e-9, size.x * size.y)));
      if (k < 0.99) ++shaped_;
      size = size * k;
      Opening o;
      o.room = room.id;
      o.edge = -1;
      o.along = middle.x - size.x / 2;
      o.sill = middle.y - size.y / 2;
      o.width = size.x;
      o.height = size.y;
      o.type = pane.layer;
      o.glazing = pane.finish;
      rooflights_.push_back(std::move(o));
      return;
    }
    ++lost_;
  }

  void finish(Opening o) {
    const int n = ++openingsOf_[o.room];
    o.id = {derivedId(fmt::format("light-model/{}/{}/{:.2f}/{:.2f}", o.room.text(), o.edge, o.along, o.sill))};
    o.name = fmt::format("{} {}", o.edge < 0 ? "Rooflight" : "Window", n);
    out.openings.push_back(std::move(o));
  }

  void tell() {
    TraceDeviation& d = out.deviation;
    for (const TracedStorey& s : out.storeys) {
      for (const Outline& o : s.traced) {
        d.sourceArea += area(o);
        d.sourceVolume += area(o) * (s.top - s.floor);
      }
      for (const Outline& o : s.outer) {
        d.area += area(o);
        d.volume += area(o) * (s.top - s.floor);
      }
      d.farthest = std::max({d.farthest, farthestFrom(s.traced, s.outer), farthestFrom(s.outer, s.traced)});
    }
    const auto note = [&](std::size_t n, const char* one, const char* more, const std::string& rest) {
      if (n > 0) out.notes.push_back(counted(n, one, more) + rest);
    };
    note(named_, "room is", "rooms are", " named by the source.");
    note(shaped_, "pane is", "panes are", " no upright rectangle: rectangles of the same area stand for them.");
    note(between_, "pane stands", "panes stand", " between two rooms and became wall.");
    note(over_, "pane lies", "panes lie", " partly over another and were left out.");
    note(lost_, "pane lies", "panes lie", " in no wall or ceiling of a room and were left out.");
    note(high_, "room is", "rooms are", " higher than the storey.");
    note(small_, "region is", "regions are", fmt::format(" smaller than {:g} m² and became wall.", s_.smallestRoom));
  }

  const Project& p_;
  const TraceSettings& s_;
  const RunControl* control_;
  std::vector<SourcePart> sources_;
  std::unique_ptr<MeshColumns> cover_;
  std::vector<Pane> panes_;
  std::vector<Regions> regions_;
  std::vector<Opening> rooflights_;
  std::map<RoomId, int> openingsOf_;
  std::set<RoomId> taken_;
  int storeys_ = 0;
  std::size_t named_ = 0, shaped_ = 0, between_ = 0, over_ = 0, lost_ = 0, high_ = 0, small_ = 0;
};

} // namespace

Expected<Trace> traceModel(const Project& p, const TraceSettings& s, const RunControl* control) {
  return Tracer(p, s, control).run();
}

} // namespace noonward
