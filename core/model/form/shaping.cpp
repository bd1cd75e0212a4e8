#include "core/model/form/shaping.h"
#include "core/model/form/arrange.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "core/model/form/pieces.h"
#include "core/model/light_model.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

constexpr double sliver = 0.1; // m, thinner than this nothing is left

Expected<const Mass*> massOf(const Project& p, ElementId id) {
  const ElementPtr e = p.element(id);
  if (!e || !e->mass())
    return fail("Only drawn masses can be cut and joined; trace an import first.", e ? e->name : "");
  if (const auto fault = faultOf(*e->mass(), e->name)) return fail(fault->text);
  return e->mass();
}

Outcome flatRoof(const Project& p, ElementId id, const char* what) {
  const ElementPtr e = p.element(id);
  if (e->mass()->roof.flat()) return {};
  return fail(fmt::format("\"{}\" has a sloping roof, which can't be {}: make it flat first.", e->name, what));
}

/// Is a piece of an outline at least so thick somewhere that it is no sliver?
bool isSound(const Outline& o) {
  return !offset(o, -sliver / 2).empty();
}

int storeysFor(const Mass& like, double height) {
  return std::max(1, int(std::lround(height / (like.height / std::max(1, like.storeys)))));
}

std::string groupFor(const Project& p, const Element& e) {
  return e.group.empty() ? freshGroup(p, e.name) : e.group;
}

/// Masses as runs of levels: in each run what `shape` makes of the outlines that stand there. Runs above each other
/// that are alike become one.
struct Standing {
  std::size_t mass = 0; ///< index in the list
  Outline outline;
};
std::vector<std::pair<std::pair<double, double>, std::vector<Outline>>>
runsOf(const std::vector<const Mass*>& masses,
       const std::function<std::vector<Outline>(std::vector<Standing>)>& shape) {
  std::vector<double> levels;
  for (const Mass* m : masses) levels.insert(levels.end(), {m->base, m->base + m->height});
  std::sort(levels.begin(), levels.end());
  levels.erase(std::unique(levels.begin(), levels.end(), [](double a, double b) { return b - a < 0.005; }),
               levels.end());
  std::vector<std::pair<std::pair<double, double>, std::vector<Outline>>> out;
  for (std::size_t i = 0; i + 1 < levels.size(); ++i) {
    const double low = levels[i], high = levels[i + 1], middle = (low + high) / 2;
    std::vector<Standing> there;
    for (std::size_t k = 0; k < masses.size(); ++k)
      if (middle > masses[k]->base && middle < masses[k]->base + masses[k]->height)
        there.push_back({k, masses[k]->outline});
    std::vector<Outline> made = shape(std::move(there));
    std::erase_if(made, [](const Outline& o) { return !isSound(o); });
    if (made.empty()) continue;
    if (!out.empty() && out.back().second == made && std::abs(out.back().first.second - low) < 0.005)
      out.back().first.second = high;
    else
      out.push_back({{low, high}, std::move(made)});
  }
  return out;
}

} // namespace

Expected<Project> withCutAtLevel(const Project& p, ElementId id, double level, std::vector<ElementId>* made) {
  const auto mass = massOf(p, id);
  if (!mass) return tl::unexpected(mass.error());
  const Mass& m = **mass;
  if (!(level > m.base + sliver && level < m.base + m.height - sliver))
    return fail(fmt::format("{:.2f} m is not between foot and top of \"{}\".", level, p.element(id)->name));
  Mass lower = m, upper = m;
  lower.height = level - m.base;
  lower.roof = {};
  lower.storeys = storeysFor(m, lower.height);
  upper.base = level;
  upper.height = m.height - lower.height;
  upper.storeys = std::max(1, m.storeys - lower.storeys);
  return withPieces(p, {id}, {{id, lower}, {id, upper}}, groupFor(p, *p.element(id)), made);
}

Expected<Project> withSetBack(const Project& p, ElementId id, const SetBack& how, std::vector<ElementId>* made) {
  const auto mass = massOf(p, id);
  if (!mass) return tl::unexpected(mass.error());
  const Mass& m = **mass;
  const std::string& name = p.element(id)->name;
  if (how.storey < 1 || how.storey > m.storeys)
    return fail(fmt::format("\"{}\" has {} storey{}: none of them is number {}.", name, m.storeys,
                            m.storeys == 1 ? "" : "s", how.storey));
  if (!(how.by > 0.01)) return fail("A set-back is a length above 1 cm.");
  std::vector<Outline> inner;
  if (how.edges.empty()) {
    inner = offset(m.outline, -how.by);
  } else {
    Element moved = *p.element(id);
    for (std::size_t edge : how.edges)
      if (const Outcome o = moveEdge(moved, edge, -how.by); !o) return tl::unexpected(o.error());
    inner = {moved.mass()->outline};
    if (area(inner[0]) >= area(m.outline)) inner.clear();
  }
  std::erase_if(inner, [](const Outline& o) { return !isSound(o); });
  if (inner.empty()) return fail(fmt::format("Set back by {:.2f} m nothing of \"{}\" would be left.", how.by, name));
  const double storey = m.height / std::max(1, m.storeys);
  std::vector<Piece> pieces;
  if (how.storey > 1) {
    Mass lower = m;
    lower.height = (how.storey - 1) * storey;
    lower.storeys = how.storey - 1;
    lower.roof = {};
    pieces.push_back({id, lower});
  }
  for (Outline& o : inner) {
    Mass upper = m;
    upper.outline = tidied(std::move(o));
    upper.base = m.base + (how.storey - 1) * storey;
    upper.height = m.height - (how.storey - 1) * storey;
    upper.storeys = m.storeys - how.storey + 1;
    pieces.push_back({id, upper});
  }
  return withPieces(p, {id}, pieces, pieces.size() > 1 ? groupFor(p, *p.element(id)) : std::string(), made);
}

Expected<Project> withMassesCut(const Project& project, const std::vector<ElementId>& ids, Vec2 a, Vec2 b,
                                std::vector<ElementId>* made) {
  if (!(length(b - a) > 0.01)) return fail("A cut needs two points apart from each other.");
  Project p = project;
  std::vector<ElementId> all;
  bool any = false;
  for (ElementId id : ids) {
    const ElementPtr e = p.element(id);
    if (!e || !e->mass()) continue;
    const auto mass = massOf(p, id);
    if (!mass) return tl::unexpected(mass.error());
    auto sides = sidesOf((*mass)->outline, a, b);
    if (sides[0].empty() || sides[1].empty()) {
      all.push_back(id);
      continue;
    }
    if (const Outcome o = flatRoof(p, id, "cut"); !o) return tl::unexpected(o.error());
    std::vector<Piece> pieces;
    for (std::vector<Outline>& side : sides)
      for (Outline& o : side) {
        if (!isSound(o))
          return fail(
              fmt::format("The cut would leave a sliver of \"{}\" thinner than {:.0f} cm.", e->name, 100 * sliver));
        Mass m = **mass;
        m.outline = std::move(o);
        pieces.push_back({id, std::move(m)});
      }
    std::vector<ElementId> parts;
    p = withPieces(p, {id}, pieces, "", &parts);
    all.insert(all.end(), parts.begin(), parts.end());
    any = true;
  }
  if (!any) return fail("The line meets no mass that is selected.");
  if (made) *made = std::move(all);
  return p;
}

Expected<Project> withMassesJoined(const Project& p, const std::vector<ElementId>& ids, std::vector<ElementId>* made) {
  std::vector<const Mass*> masses;
  for (ElementId id : ids) {
    const auto mass = massOf(p, id);
    if (!mass) return tl::unexpected(mass.error());
    if (const Outcome o = flatRoof(p, id, "joined"); !o) return tl::unexpected(o.error());
    masses.push_back(*mass);
  }
  if (masses.size() < 2) return fail("Select two masses or more to join them.");
  const auto runs = runsOf(masses, [](std::vector<Standing> there) {
    std::vector<Outline> outlines;
    for (Standing& s : there) outlines.push_back(std::move(s.outline));
    return united(outlines);
  });
  std::vector<Piece> pieces;
  for (const auto& [level, outlines] : runs)
    for (const Outline& o : outlines) {
      // Of the mass that most of it was.
      std::size_t most = 0;
      double largest = -1;
      for (std::size_t k = 0; k < masses.size(); ++k) {
        if (masses[k]->base > level.first + 0.005 || masses[k]->base + masses[k]->height < level.second - 0.005)
          continue;
        double shared = 0;
        for (const Outline& both : common(o, masses[k]->outline)) shared += area(both);
        if (shared > largest) {
          largest = shared;
          most = k;
        }
      }
      Mass m = *masses[most];
      m.outline = o;
      m.base = level.first;
      m.height = level.second - level.first;
      m.storeys = storeysFor(*masses[most], m.height);
      pieces.push_back({ids[most], std::move(m)});
    }
  if (pieces.empty()) return fail("Nothing would be left of them.");
  return withPieces(p, ids, pieces, pieces.size() > 1 ? groupFor(p, *p.element(ids.front())) : std::string(), made);
}

Expected<Project> withMassCutOut(const Project& p, ElementId id, const std::vector<ElementId>& others, bool takeAway,
                                 std::vector<ElementId>* made) {
  const auto mass = massOf(p, id);
  if (!mass) return tl::unexpected(mass.error());
  std::vector<const Mass*> masses{*mass};
  for (ElementId other : others) {
    const auto cutter = massOf(p, other);
    if (!cutter) return tl::unexpected(cutter.error());
    masses.push_back(*cutter);
  }
  for (ElementId one : others)
    if (const Outcome o = flatRoof(p, one, "cut out"); !o) return tl::unexpected(o.error());
  if (const Outcome o = flatRoof(p, id, "cut"); !o) return tl::unexpected(o.error());
  if (others.empty()) return fail("Select the mass to be cut first, then the ones to cut out of it.");
  bool met = false;
  const auto runs = runsOf(masses, [&](std::vector<Standing> there) -> std::vector<Outline> {
    if (there.empty() || there.front().mass != 0) return {};
    std::vector<Outline> left{tidied(there.front().outline)};
    for (std::size_t k = 1; k < there.size(); ++k) {
      std::vector<Outline> next;
      for (const Outline& o : left) {
        met |= !common(o, there[k].outline).empty();
        // Its courtyards stay: what is cut is the ring of the other less its holes.
        std::vector<Ring> cuts{there[k].outline.outer};
        for (Outline& rest : difference(o, cuts)) next.push_back(std::move(rest));
        for (const Ring& hole : there[k].outline.holes)
          for (Outline& rest : common(o, {Ring(hole.rbegin(), hole.rend()), {}})) next.push_back(std::move(rest));
      }
      left = std::move(next);
    }
    for (Outline& o : left) o = straightened(tidied(std::move(o)));
    return left;
  });
  if (!met) return fail(fmt::format("None of the others meets \"{}\".", p.element(id)->name));
  std::vector<Piece> pieces;
  for (const auto& [level, outlines] : runs)
    for (const Outline& o : outlines) {
      Mass m = **mass;
      m.outline = o;
      m.base = level.first;
      m.height = level.second - level.first;
      m.storeys = storeysFor(**mass, m.height);
      pieces.push_back({id, std::move(m)});
    }
  if (pieces.empty()) return fail(fmt::format("Nothing would be left of \"{}\".", p.element(id)->name));
  Project out = withPieces(p, {id}, pieces, pieces.size() > 1 ? groupFor(p, *p.element(id)) : std::string(), made);
  return takeAway ? withoutHosts(std::move(out), others) : out;
}

Expected<Project> withCornerCut(const Project& p, const CornerRef& corner, double by) {
  const Ring* ring = ringOf(p, corner);
  if (!ring || corner.corner >= ring->size()) return fail("There is no such corner any more.");
  if (!(by > 0.01)) return fail("A corner is cut by a length above 1 cm.");
  const std::size_t n = ring->size(), k = corner.corner;
  const Vec2 c = (*ring)[k], before = (*ring)[(k + n - 1) % n], after = (*ring)[(k + 1) % n];
  const double l = length(before - c), r = length(after - c);
  if (by > 0.5 * std::min(l, r) + 1e-9)
    return fail("A corner can be cut by no more than half of the shorter wall beside it.");
  const Vec2 one = c + (before - c) * (by / l), other = c + (after - c) * (by / r);
  auto out = withCornerAdded(p, corner, other);
  if (!out) return out;
  out = withCornerAt(*out, corner, one);
  if (!out || corner.room) return out;
  // Rooms at that corner are cut where they would stick out.
  for (const Room& room : p.rooms)
    if (const ElementPtr host = hostOf(p, room); host && host->id.value == corner.owner) {
      const Mass& m = *out->element(host->id)->mass();
      const bool outside = std::any_of(room.outline.outer.begin(), room.outline.outer.end(), [&](Vec2 q) {
        return !contains(m.outline, q) || distanceToEdge(m.outline, q) < 0.5 * room.wall;
      });
      if (!outside) continue;
      if (auto fitted = withRoomFitted(*out, room.id)) out = std::move(fitted);
    }
  return out;
}

} // namespace noonward
