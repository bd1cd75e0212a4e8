#include "core/model/form/pieces.h"
#include "core/base/tolerances.h"
#include "core/model/form/edit.h"
#include "core/model/form/motion.h"
#include "core/model/form/outline_edit.h"
#include "core/model/light_model.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

constexpr double leastRoom = 1.0;     // m², of a part of a room that is still one
constexpr double leastStanding = 1.0; // m, of its height
constexpr double sameLine = 0.005;    // m

struct Wall {
  Vec2 a, b;
  std::uint32_t face;
};
std::vector<Wall> wallsOf(const Outline& o) {
  std::vector<Wall> out;
  std::uint32_t face = firstWallFace;
  const auto ring = [&](const Ring& r) {
    for (std::size_t i = 0; i < r.size(); ++i) out.push_back({r[i], r[(i + 1) % r.size()], face++});
  };
  ring(o.outer);
  for (const Ring& h : o.holes) ring(h);
  return out;
}

/// Do two walls run on one line, the same way, with a stretch in common?
bool sameWall(const Wall& one, const Wall& other) {
  const double l = length(one.b - one.a), m = length(other.b - other.a);
  if (!(l > 0) || !(m > 0)) return false;
  const Vec2 along = (one.b - one.a) * (1 / l);
  if (dot(other.b - other.a, along) < 0.9999 * m) return false;
  if (std::abs(cross(along, other.a - one.a)) > sameLine) return false;
  const double s = dot(other.a - one.a, along), t = dot(other.b - one.a, along);
  return std::min(l, t) - std::max(0.0, s) > sameLine;
}

struct Placed {
  Mass mass;
  ElementId id;
};

/// The faces of pieces in which a face of an old mass goes on.
std::vector<FaceRef> facesAfter(const Mass& old, std::uint32_t face, const std::vector<Placed>& pieces) {
  std::vector<FaceRef> out;
  for (const Placed& p : pieces) {
    if (face == baseFace) {
      if (std::abs(p.mass.base - old.base) < sameLine) out.push_back({p.id, baseFace});
    } else if (face == roofFace) {
      if (std::abs(p.mass.top() - old.top()) < sameLine) out.push_back({p.id, roofFace});
    } else {
      for (const Wall& was : wallsOf(tidied(old.outline)))
        for (const Wall& is : wallsOf(p.mass.outline))
          if (was.face == face && sameWall(was, is)) out.push_back({p.id, is.face});
    }
  }
  return out;
}

/// A part of a room after its mass became pieces.
struct RoomPart {
  Outline outline;
  double floor = 0, height = 0;
};

/// Does the room stand in the mass as it is, walls and all?
bool fits(const Room& room, const Mass& m) {
  return room.floor >= m.base - 0.01 && room.floor + room.height <= m.top() + 0.01 &&
         std::all_of(room.outline.outer.begin(), room.outline.outer.end(),
                     [&](Vec2 q) { return contains(m.outline, q) || distanceToEdge(m.outline, q) < 0.01; });
}

std::vector<RoomPart> partsOf(const Room& room, const std::vector<Placed>& pieces) {
  std::vector<RoomPart> out;
  for (const Placed& p : pieces)
    if (fits(room, p.mass)) return {{room.outline, room.floor, room.height}};
  for (const Placed& p : pieces) {
    RoomPart part;
    part.floor = std::max(room.floor, p.mass.base);
    part.height = std::min(room.floor + room.height, p.mass.base + p.mass.height) - part.floor;
    if (part.height < std::min(leastStanding, 0.9 * room.height)) continue;
    // A wall's thickness from the outside of all there is at that height, and half of one from the cut itself.
    const double wall = std::max(0.0, room.wall);
    std::vector<Outline> standing;
    for (const Placed& q : pieces)
      if (q.mass.base < part.floor + part.height - sameLine && q.mass.base + q.mass.height > part.floor + sameLine)
        standing.push_back(q.mass.outline);
    const auto shrunk = [](const Outline& o, double by) { return by > 0 ? offset(o, -by) : std::vector<Outline>{o}; };
    for (const Outline& whole : united(standing))
      for (const Outline& inner : shrunk(whole, wall))
        for (const Outline& own : shrunk(p.mass.outline, wall / 2))
          for (const Outline& both : common(inner, own))
            for (Outline& o : common(room.outline, both))
              if (area(o) >= std::min(leastRoom, 0.5 * area(room.outline))) {
                part.outline = std::move(o);
                out.push_back(part);
              }
  }
  std::sort(out.begin(), out.end(), [](const RoomPart& a, const RoomPart& b) {
    return area(a.outline) * a.height > area(b.outline) * b.height;
  });
  return out;
}

/// Where an opening of a room goes among the parts: the wall that runs alike nearest to where it stood.
void seatOpening(Opening& o, const Room& was, const std::vector<RoomPart>& parts, const std::vector<RoomId>& ids) {
  if (o.edge < 0) { // a rooflight: the part that it lies over
    const Vec2 middle{o.along + o.width / 2, o.sill + o.height / 2};
    for (std::size_t k = 0; k < parts.size(); ++k)
      if (contains(parts[k].outline, middle)) {
        o.room = ids[k];
        return;
      }
    return;
  }
  const double z = was.floor + o.sill;
  double best = 1e300;
  Opening seated = o;
  for (std::size_t k = 0; k < parts.size(); ++k) {
    if (z > parts[k].floor + parts[k].height || z + o.height < parts[k].floor) continue; // of another height
    Opening tried = o;
    const auto off = seatOn(tried, was.outline.outer, parts[k].outline.outer, 0.99);
    if (!off || *off >= best) continue;
    best = *off;
    tried.room = ids[k];
    tried.sill = std::max(0.0, z - parts[k].floor);
    seated = std::move(tried);
  }
  o = std::move(seated);
}

/// `became`: rooms that were cut, with each of their parts.
void splitRooms(Project& p, const std::vector<RoomId>& rooms, const std::vector<Placed>& pieces,
                std::vector<std::pair<RoomId, RoomId>>& became) {
  for (RoomId id : rooms) {
    const auto at = std::find_if(p.rooms.begin(), p.rooms.end(), [&](const Room& r) { return r.id == id; });
    const Room was = *at;
    const std::vector<RoomPart> parts = partsOf(was, pieces);
    if (parts.empty()) continue;
    if (parts.size() == 1 && parts[0].outline == was.outline && parts[0].height == was.height) continue;
    std::vector<RoomId> ids;
    for (std::size_t k = 0; k < parts.size(); ++k) {
      Room part = was;
      part.outline = parts[k].outline;
      part.floor = parts[k].floor;
      part.height = parts[k].height;
      if (k > 0) {
        part.id = RoomId::fresh();
        part.name = fmt::format("{} {}", was.name, char('b' + (k - 1) % 25));
      }
      ids.push_back(part.id);
      if (k == 0)
        *std::find_if(p.rooms.begin(), p.rooms.end(), [&](const Room& r) { return r.id == id; }) = std::move(part);
      else
        p.rooms.push_back(std::move(part));
    }
    for (RoomId part : ids) became.emplace_back(id, part);
    for (Opening& o : p.openings)
      if (o.room == id) seatOpening(o, was, parts, ids);
    const auto join = [&](std::vector<RoomId>& list) {
      if (std::find(list.begin(), list.end(), id) != list.end()) list.insert(list.end(), ids.begin() + 1, ids.end());
    };
    for (WindowRule& w : p.windowRules) join(w.rooms);
    for (ShadeRule& s : p.shadeRules) join(s.rooms);
    for (SensorGroup& g : p.groups)
      if (auto* grid = std::get_if<RoomGrid>(&g.layout)) join(grid->rooms);
    // Walls are counted anew in a cut room: what was given to one wall of it can't be told any more; floor and ceiling
    // keep theirs.
    std::erase_if(p.assignments, [&](const Assignment& a) {
      return a.element && a.element->value == id.value && a.face && *a.face >= firstWallFace &&
             !(parts[0].outline == was.outline);
    });
    const std::size_t n = p.assignments.size();
    for (std::size_t k = 0; k < n; ++k)
      if (p.assignments[k].element && p.assignments[k].element->value == id.value)
        for (std::size_t j = 1; j < ids.size(); ++j) {
          Assignment a = p.assignments[k];
          a.element = ElementId{ids[j].value};
          p.assignments.push_back(std::move(a));
        }
  }
}

/// What is given to whole masses, and to faces of them.
void regive(Project& p, const std::vector<ElementPtr>& were, const std::vector<std::pair<ElementId, Placed>>& from,
            const std::vector<Placed>& pieces) {
  const auto old = [&](ElementId id) -> const Element* {
    for (const ElementPtr& e : were)
      if (e->id == id) return e.get();
    return nullptr;
  };
  const auto piecesOf = [&](ElementId id) {
    std::vector<ElementId> out;
    for (const auto& [source, piece] : from)
      if (source == id) out.push_back(piece.id);
    return out;
  };
  std::vector<Assignment> assignments;
  const auto give = [&](Assignment a) {
    if (std::find(assignments.begin(), assignments.end(), a) == assignments.end()) assignments.push_back(std::move(a));
  };
  for (const Assignment& a : p.assignments) {
    const Element* e = a.element ? old(*a.element) : nullptr;
    if (!e) {
      assignments.push_back(a);
      continue;
    }
    if (!a.face)
      for (ElementId id : piecesOf(e->id)) {
        Assignment b = a;
        b.element = id;
        give(std::move(b));
      }
    else
      for (const FaceRef& f : facesAfter(*e->mass(), *a.face, pieces)) {
        Assignment b = a;
        b.element = f.element;
        b.face = f.face;
        give(std::move(b));
      }
  }
  p.assignments = std::move(assignments);
  for (SensorGroup& g : p.groups) {
    if (auto* grid = std::get_if<FaceGrid>(&g.layout)) {
      std::vector<FaceRef> refs;
      const auto put = [&](FaceRef r) {
        if (std::find(refs.begin(), refs.end(), r) == refs.end()) refs.push_back(r);
      };
      for (const FaceRef& r : grid->faces) {
        const Element* e = old(r.element);
        if (!e)
          refs.push_back(r);
        else if (!r.face)
          for (ElementId id : piecesOf(e->id)) put({id, {}});
        else
          for (const FaceRef& f : facesAfter(*e->mass(), *r.face, pieces)) put(f);
      }
      grid->faces = std::move(refs);
    }
    if (auto* around = std::get_if<GroundAround>(&g.layout)) {
      std::vector<ElementId> ids;
      const auto put = [&](ElementId id) {
        if (std::find(ids.begin(), ids.end(), id) == ids.end()) ids.push_back(id);
      };
      for (ElementId id : around->elements) {
        if (!old(id)) put(id);
        for (ElementId piece : piecesOf(id)) put(piece);
      }
      around->elements = std::move(ids);
    }
  }
}

double volume(const Mass& m) {
  return area(m.outline) * m.height;
}

} // namespace

Project withPieces(const Project& project, const std::vector<ElementId>& old, const std::vector<Piece>& pieces,
                   const std::string& group, std::vector<ElementId>* made) {
  const auto isOld = [&](ElementId id) { return std::find(old.begin(), old.end(), id) != old.end(); };
  std::vector<ElementPtr> were;
  for (const ElementPtr& e : project.elements)
    if (isOld(e->id) && e->mass()) were.push_back(e);
  std::vector<RoomId> rooms;
  for (const Room& r : project.rooms)
    if (const ElementPtr host = hostOf(project, r); host && isOld(host->id)) rooms.push_back(r.id);

  std::vector<Placed> placed;
  std::vector<std::pair<ElementId, Placed>> from; // of every old one, the pieces that are a part of it
  std::vector<bool> keeps;
  for (std::size_t k = 0; k < pieces.size(); ++k) {
    // The largest piece of an old one keeps its id.
    const bool largest = std::none_of(pieces.begin(), pieces.end(), [&](const Piece& o) {
      const std::size_t j = std::size_t(&o - pieces.data());
      return o.from == pieces[k].from &&
             (volume(o.mass) > volume(pieces[k].mass) || (volume(o.mass) == volume(pieces[k].mass) && j < k));
    });
    keeps.push_back(largest);
    placed.push_back({pieces[k].mass, largest ? pieces[k].from : ElementId::fresh()});
  }
  for (const ElementPtr& e : were)
    for (std::size_t k = 0; k < placed.size(); ++k) {
      const Mass &m = *e->mass(), &n = placed[k].mass;
      const bool overlaps = std::min(m.base + m.height, n.base + n.height) - std::max(m.base, n.base) > sameLine;
      const bool part = pieces[k].from == e->id || (overlaps && !common(m.outline, n.outline).empty());
      if (part) from.emplace_back(e->id, placed[k]);
    }

  Project p = project;
  const auto first =
      std::find_if(p.elements.begin(), p.elements.end(), [&](const ElementPtr& e) { return isOld(e->id); });
  const std::ptrdiff_t place = first - p.elements.begin();
  std::erase_if(p.elements, [&](const ElementPtr& e) {
    return std::any_of(were.begin(), were.end(), [&](const ElementPtr& w) { return w->id == e->id; });
  });
  std::vector<ElementPtr> fresh;
  for (std::size_t k = 0; k < pieces.size(); ++k) {
    const auto source =
        std::find_if(were.begin(), were.end(), [&](const ElementPtr& e) { return e->id == pieces[k].from; });
    Element e = **source;
    e.id = placed[k].id;
    e.shape = placed[k].mass;
    e.row.reset();
    if (!keeps[k]) e.name = freshName(p, (*source)->name);
    if (!group.empty()) e.group = group;
    fresh.push_back(std::make_shared<const Element>(e));
    p.elements.push_back(fresh.back()); // so that the next name is another
  }
  p.elements.resize(p.elements.size() - fresh.size());
  p.elements.insert(p.elements.begin() + place, fresh.begin(), fresh.end());
  regive(p, were, from, placed);
  std::vector<std::pair<RoomId, RoomId>> became;
  splitRooms(p, rooms, placed, became);
  if (!became.empty()) shadeMatched(project, p, became, {}); // windows by rules are named anew in a room that was cut
  if (made) {
    made->clear();
    for (bool kept : {true, false})
      for (std::size_t k = 0; k < placed.size(); ++k)
        if (keeps[k] == kept) made->push_back(placed[k].id);
  }
  return p;
}

} // namespace noonward
