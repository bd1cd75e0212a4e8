#include "core/model/form/edit.h"
#include "core/base/tolerances.h"
#include "core/model/light_model.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

Project withElement(Project project, Element element) {
  auto fresh = std::make_shared<const Element>(std::move(element));
  for (ElementPtr& e : project.elements)
    if (e->id == fresh->id) {
      e = std::move(fresh);
      return project;
    }
  project.elements.push_back(std::move(fresh));
  return project;
}

Project withoutElements(Project project, const std::vector<ElementId>& ids) {
  const auto gone = [&](ElementId id) { return std::find(ids.begin(), ids.end(), id) != ids.end(); };
  std::erase_if(project.elements, [&](const ElementPtr& e) { return gone(e->id); });
  for (SensorGroup& g : project.groups) { // references to what is gone would only puzzle
    if (auto* f = std::get_if<FaceGrid>(&g.layout))
      std::erase_if(f->faces, [&](const FaceRef& r) { return gone(r.element); });
    if (auto* a = std::get_if<GroundAround>(&g.layout)) std::erase_if(a->elements, gone);
  }
  return project;
}

Project withEdited(Project project, const std::vector<ElementId>& ids, const std::function<void(Element&)>& edit) {
  for (ElementPtr& e : project.elements) {
    if (std::find(ids.begin(), ids.end(), e->id) == ids.end()) continue;
    auto copy = std::make_shared<Element>(*e);
    edit(*copy);
    e = std::move(copy);
  }
  return project;
}

void moveElement(Element& e, Vec3 by) {
  std::visit([&](auto& s) { moveShape(s, by); }, e.shape);
}

void turnElement(Element& e, Vec2 about, double angle) {
  std::visit([&](auto& s) { turnShape(s, about, angle); }, e.shape);
}

void scaleElement(Element& e, double factor) {
  std::visit([&](auto& s) { scaleShape(s, factor); }, e.shape);
}

void tiltPlate(Element& e, double angle) {
  auto* plate = std::get_if<Plate>(&e.shape);
  if (!plate || plate->corners.size() < 3) return;
  const Vec3 foot = plate->corners[0], axis = normalized(plate->corners[1] - foot);
  Vec3 normal;
  for (std::size_t i = 1; i + 1 < plate->corners.size(); ++i)
    normal = normal + cross(plate->corners[i] - foot, plate->corners[i + 1] - foot);
  const double way = normal.z < -1e-9 ? -angle : angle; // drawn either way round, the far side goes up
  const double co = std::cos(way), si = std::sin(way);
  for (Vec3& c : plate->corners) { // Rodrigues
    const Vec3 d = c - foot;
    c = foot + d * co + cross(axis, d) * si + axis * (dot(axis, d) * (1 - co));
  }
}

Box3 boxOf(const Element& e) {
  return std::visit([](const auto& s) { return boxOf(s); }, e.shape);
}

void noteMend(Element& e, const std::string& mend) {
  if (std::find(e.mends.begin(), e.mends.end(), mend) == e.mends.end()) e.mends.push_back(mend);
}

Vec2 middleOf(const Element& e) {
  return std::visit([](const auto& s) { return middleOf(s); }, e.shape);
}

double heightOf(const Element& e) {
  return std::visit([](const auto& s) { return heightOf(s); }, e.shape);
}

void setHeight(Element& e, double height) {
  const std::size_t was = e.shape.index();
  e.shape = std::visit([&](auto& s) { return withTop(std::move(s), height); }, e.shape);
  if (e.shape.index() != was) e.counted = true; // a flat outline that became a block
}

Outcome moveEdge(Element& e, std::size_t edge, double by) {
  auto* m = std::get_if<Mass>(&e.shape);
  if (!m) return fail("Only edges of drawn masses can be moved.", e.name);
  Outline o = tidied(m->outline);
  std::size_t index = edge;
  Ring* ring = &o.outer;
  for (std::size_t h = 0; index >= ring->size(); ++h) {
    index -= ring->size();
    if (h >= o.holes.size()) return fail("This mass has no such edge.", e.name);
    ring = &o.holes[h];
  }
  const std::size_t n = ring->size();
  Vec2 &a = (*ring)[index], &b = (*ring)[(index + 1) % n];
  const Vec2 before = (*ring)[(index + n - 1) % n], after = (*ring)[(index + 2) % n];
  const Vec2 along = (b - a) * (1 / length(b - a));
  const Vec2 out{along.y, -along.x}; // right of the direction of travel: outward for both kinds of ring
  // The ends slide along the neighbouring edges, so that angles stay.
  const auto slid = [&](Vec2 p, Vec2 neighbour) {
    const Vec2 d = p - neighbour;
    const double rate = dot(d, out);
    return std::abs(rate) > 1e-6 * length(d) ? p + d * (by / rate) : p + out * by;
  };
  const Vec2 na = slid(a, before), nb = slid(b, after);
  a = na;
  b = nb;
  if (const OutlineCheck c = checkOutline(o); c.fault != OutlineFault::None)
    return fail(fmt::format("Moved this far the outline {}.", faultText(c.fault)), e.name);
  m->outline = std::move(o);
  return {};
}

Project withFinishReplaced(Project p, const std::string& from, const std::string& to) {
  const bool glazing = findGlazing(p.glazings, to) != nullptr;
  std::vector<Assignment> added;
  for (Role r : allRoles) {
    if (r == Role::Ignore || (r == Role::Glazing) != glazing) continue;
    SurfaceQuestion q;
    q.role = r;
    if (const SurfaceAnswer a = finishFor(p, q); !a.isDefault || a.name != from) continue;
    Assignment a;
    a.finish = to;
    a.role = r;
    added.push_back(std::move(a));
  }
  const auto put = [&](std::string& name) {
    if (name == from) name = to;
  };
  for (Assignment& a : p.assignments) put(a.finish);
  p.assignments.insert(p.assignments.begin(), added.begin(), added.end());
  for (WindowRule& w : p.windowRules) put(w.glazing);
  for (Opening& o : p.openings) put(o.glazing);
  for (ShadeRule& s : p.shadeRules) put(s.finish);
  for (ElementPtr& e : p.elements)
    if (e->finish == from) {
      Element copy = *e;
      copy.finish = to;
      e = std::make_shared<const Element>(std::move(copy));
    }
  return p;
}

Project withBalcony(Project p, const WallRectangle& seen, double depth, bool proposed, std::vector<ElementId>* made) {
  int number = 1;
  for (const ElementPtr& e : p.elements)
    if (e->layer == "Balconies" && e->name.ends_with(" slab")) ++number;
  const Vec3 o = seen.corner, right = seen.right * seen.width, up{0, 0, seen.height},
             out = Vec3{seen.right.y, -seen.right.x, 0} * depth;
  const auto plate = [&](const char* part, std::vector<Vec3> corners) {
    Element e;
    e.id = ElementId::fresh();
    e.name = fmt::format("Balcony {} {}", number, part);
    e.layer = "Balconies";
    e.role = Role::Shading;
    e.proposed = proposed;
    e.shape = Plate{std::move(corners)};
    if (made) made->push_back(e.id);
    p = withElement(std::move(p), std::move(e));
  };
  plate("slab", {o, o + out, o + out + right, o + right});
  if (seen.height >= 0.3) {
    plate("front", {o + out, o + out + right, o + out + right + up, o + out + up});
    plate("left side", {o, o + out, o + out + up, o + up});
    plate("right side", {o + right + out, o + right, o + right + up, o + right + out + up});
  }
  return p;
}

std::string freshName(const Project& project, const std::string& stem) {
  for (int n = 1;; ++n) {
    std::string name = fmt::format("{} {}", stem, n);
    const bool taken =
        std::any_of(project.elements.begin(), project.elements.end(),
                    [&](const ElementPtr& e) { return e->name == name; }) ||
        std::any_of(project.groups.begin(), project.groups.end(), [&](const SensorGroup& g) { return g.name == name; });
    if (!taken) return name;
  }
}

Project withGroup(Project project, SensorGroup group) {
  for (SensorGroup& g : project.groups)
    if (g.id == group.id) {
      g = std::move(group);
      return project;
    }
  project.groups.push_back(std::move(group));
  return project;
}

Project withoutGroup(Project project, GroupId id) {
  std::erase_if(project.groups, [&](const SensorGroup& g) { return g.id == id; });
  const auto without = [&](std::vector<GroupId>& list) { return std::erase(list, id) > 0 && list.empty(); };
  std::erase_if(project.studies, [&](Study& s) { return without(s.groups); });
  std::erase_if(project.judgements, [&](Judgement& j) { return without(j.groups); });
  return project;
}

} // namespace noonward
