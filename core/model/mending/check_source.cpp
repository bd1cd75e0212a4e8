#include "core/model/mending/check_source.h"
#include "core/base/words.h"
#include "core/geometry/mesh_build.h"
#include "core/geometry/skins.h"
#include "core/geometry/thinning.h"
#include "core/model/form/edit.h"
#include "core/model/mending/closed_glass.h"
#include "core/model/mending/panes.h"
#include "core/model/tracing/tracing.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace noonward {

namespace {

constexpr double leastFloor = 0.5; ///< m²

const Mesh* importedMesh(const Element& e) {
  return e.imported() && e.imported()->mesh ? e.imported()->mesh.get() : nullptr;
}

void checkPanes(const Project& p, bool quick, Findings& out) {
  std::size_t triangles = 0;
  for (const ElementPtr& e : p.elements)
    if (const Mesh* m = importedMesh(*e); m && e->counted && e->role == Role::Glazing) triangles += m->triangles.size();
  if (triangles < 2 || (quick && triangles > 10'000)) return;
  std::size_t doubled = 0;
  std::vector<Pane> dropped;
  singlePanes(panesOfGlass(p), doubled, &dropped);
  if (doubled == 0) return;
  Finding f{Rank::BendsResult,
            "glass.doubled",
            counted(doubled, "pane stands", "panes stand") +
                fmt::format(" less than {:.0f} cm behind another: light would pass the glass twice there.",
                            100 * mostBetweenPanes),
            int(doubled),
            {},
            "glass.doubled",
            "Keep one of each"};
  f.ways = {{"glass.doubled:outer", "Keep the outer ones"}, {"glass.doubled:inner", "Keep the inner ones"}};
  f.at = dropped.front().middle;
  for (const Pane& d : dropped)
    if (std::find(f.elements.begin(), f.elements.end(), d.element.value) == f.elements.end())
      f.elements.push_back(d.element.value);
  out.push_back(std::move(f));
}

/// Parts that lie apart from everything else: survey marks, forgotten copies.
void checkStray(const Project& p, Findings& out) {
  std::vector<std::pair<Vec2, const Element*>> at;
  for (const ElementPtr& e : p.elements)
    if (e->counted && e->role != Role::Ground && (e->mass() || importedMesh(*e)))
      if (const Box3 b = boxOf(*e); !b.empty()) at.emplace_back(xy(b.center()), e.get());
  if (at.size() < 4) return;
  std::vector<double> x, y;
  for (const auto& [q, e] : at) x.push_back(q.x), y.push_back(q.y);
  const auto middle = [](std::vector<double>& v) {
    std::nth_element(v.begin(), v.begin() + std::ptrdiff_t(v.size() / 2), v.end());
    return v[v.size() / 2];
  };
  const Vec2 centre{middle(x), middle(y)};
  std::vector<double> d;
  for (const auto& [q, e] : at) d.push_back(length(q - centre));
  std::vector<double> sorted = d;
  std::sort(sorted.begin(), sorted.end());
  const double usual = sorted[std::min(sorted.size() - 1, sorted.size() * 3 / 4)];
  for (std::size_t i = 0; i < at.size(); ++i)
    if (at[i].second->imported() && d[i] > 300 && d[i] > 6 * usual)
      out.push_back({Rank::WorthKnowing,
                     "element.stray",
                     fmt::format("\"{}\" lies {:.0f} m away from everything else.", nameOf(*at[i].second), d[i]),
                     1,
                     {at[i].second->id.value},
                     "element.leave-out",
                     "Leave it out of studies"});
}

/// Parts that lie wholly inside a closed one: no light reaches them.
void checkHidden(const Project& p, bool quick, Findings& out) {
  struct Part {
    const Element* element;
    Box3 box;
    bool closed;
  };
  std::vector<Part> parts;
  for (const ElementPtr& e : p.elements) {
    const Mesh* m = importedMesh(*e);
    if (!m || !e->counted || e->role == Role::Ignore || e->role == Role::Ground || e->role == Role::Planting) continue;
    const MeshHealth* h = quick ? e->imported()->health->ifKnown() : &e->imported()->health->of(*m);
    parts.push_back({e.get(), boxOf(*e), h && h->closed() && e->role != Role::Glazing && e->role != Role::Shading});
  }
  if (parts.size() > 1500) return; // every one against every other
  Finding f{Rank::WorthKnowing, "element.hidden", "", 1, {}, "element.leave-out", "Leave them out of studies"};
  for (const Part& small : parts) {
    const Mesh& m = *importedMesh(*small.element);
    if (m.points.size() > 3000) continue;
    for (const Part& large : parts) {
      if (!large.closed || &large == &small) continue;
      const Box3 &a = small.box, &b = large.box;
      if (a.low.x < b.low.x || a.low.y < b.low.y || a.low.z < b.low.z || a.high.x > b.high.x || a.high.y > b.high.y ||
          a.high.z > b.high.z)
        continue;
      const auto placed = elementMesh(*small.element);
      if (!placed || !std::all_of((*placed)->points.begin(), (*placed)->points.end(),
                                  [&](Vec3 q) { return encloses(*large.element->imported(), q); }))
        continue;
      f.elements.push_back(small.element->id.value);
      break;
    }
  }
  if (f.elements.empty()) return;
  f.text = (f.elements.size() == 1 ? "\"" + nameOf(*p.element({f.elements.front()})) + "\" lies"
                                   : counted(f.elements.size(), "part lies", "parts lie")) +
           " wholly inside a solid: no light reaches " + (f.elements.size() == 1 ? "it." : "them.");
  out.push_back(std::move(f));
}

double levelArea(const Mesh& m) {
  double out = 0;
  for (std::size_t t = 0; t < m.triangles.size(); ++t) out += std::abs(m.areaVector(t).z) / 2;
  return out;
}

void checkParts(const Project& p, Findings& out) {
  Finding small{Rank::WorthKnowing, "floor.small", "", 0, {}, "floor.small", "Take them as walls: sills and steps"};
  for (const ElementPtr& e : p.elements) {
    const Mesh* m = importedMesh(*e);
    if (!m || !e->counted || e->role == Role::Ignore) continue;
    if (e->role == Role::Floor && m->triangles.size() < 60 && levelArea(*m) < leastFloor) {
      ++small.count;
      small.elements.push_back(e->id.value);
    }
    if (m->triangles.size() > manyTriangles &&
        (e->role == Role::Planting || e->role == Role::Shading || e->role == Role::Partition))
      out.push_back(
          {Rank::WorthKnowing,
           "element.heavy",
           fmt::format("\"{}\" has {} triangles: more than its light is worth.", nameOf(*e), m->triangles.size()),
           1,
           {e->id.value},
           "element.heavy",
           fmt::format("Thin them out, by {:.0f} cm at most", 100 * thinnedBy)});
  }
  if (small.count > 0) {
    small.text = counted(std::size_t(small.count), "part is", "parts are") +
                 fmt::format(" called a floor and smaller than {:g} m².", leastFloor);
    small.count = 1;
    out.push_back(std::move(small));
  }
}

/// Panes on walls without an opening: light would not come in.
void checkClosedGlass(const Project& p, bool quick, Findings& out) {
  std::size_t opaque = 0, glass = 0;
  for (const ElementPtr& e : p.elements)
    if (const Mesh* m = importedMesh(*e); m && e->counted && e->role != Role::Ignore)
      (e->role == Role::Glazing ? glass : opaque) += m->triangles.size();
  if (glass == 0 || (quick && (opaque > 8'000 || glass > 2'000))) return; // some tens of milliseconds
  const std::vector<ClosedPane> closed = closedPanes(p);
  if (closed.empty()) return;
  Finding f{Rank::BendsResult,
            "glass.closed",
            counted(closed.size(), "pane has", "panes have") +
                " no opening behind: a wall stands there, and no light comes in.",
            int(closed.size()),
            {},
            "",
            ""};
  f.at = closed.front().pane.middle;
  bool imported = false;
  for (const ClosedPane& c : closed) {
    if (std::find(f.elements.begin(), f.elements.end(), c.pane.element.value) == f.elements.end())
      f.elements.push_back(c.pane.element.value);
    imported |= std::all_of(c.walls.begin(), c.walls.end(), [&](ElementId id) { return p.element(id)->imported(); });
  }
  if (imported) {
    f.mend = "glass.closed";
    f.mendText = "Cut the walls open there";
  }
  out.push_back(std::move(f));
}

/// Walls with both their skins: right as they are where a reveal is wanted, so one at a time and never among all.
void checkSkins(const Project& p, bool quick, Findings& out) {
  if (!p.rooms.empty()) return;
  std::size_t triangles = 0, slabs = 0;
  Finding f{Rank::WorthKnowing, "walls.skins", "", 1, {}, "walls.skins", "Collapse each to one skin in its middle"};
  for (const ElementPtr& e : p.elements)
    if (const Mesh* m = importedMesh(*e); m && e->counted && (e->role == Role::Wall || e->role == Role::Partition))
      triangles += m->triangles.size();
  if (quick && triangles > 20'000) return;
  for (const ElementPtr& e : p.elements)
    if (const Mesh* m = importedMesh(*e); m && e->counted && (e->role == Role::Wall || e->role == Role::Partition))
      if (const std::size_t n = slabsIn(*m); n > 0) {
        slabs += n;
        f.elements.push_back(e->id.value);
      }
  if (slabs == 0) return;
  f.text = counted(slabs, "wall has", "walls have") +
           fmt::format(" both skins, up to {:g} m apart: kept, they give windows their reveals; one skin is enough for "
                       "shadows and sun hours.",
                       thickestWall);
  out.push_back(std::move(f));
}

constexpr std::size_t leastBodies = 3;

/// One mesh that holds many buildings: none of them can be marked, judged or left out by itself.
void checkCity(const Project& p, bool quick, Findings& out) {
  for (const ElementPtr& e : p.elements) {
    const Mesh* m = importedMesh(*e);
    if (!m || !e->counted || (e->role != Role::Building && e->role != Role::Neighbour)) continue;
    const MeshHealth* h = quick ? e->imported()->health->ifKnown() : &e->imported()->health->of(*m);
    if (!h || h->bodies < leastBodies) continue;
    out.push_back({Rank::WorthKnowing,
                   "mesh.city",
                   fmt::format("\"{}\" holds {} separate bodies in one mesh.", nameOf(*e), h->bodies),
                   1,
                   {e->id.value},
                   "element.split",
                   "Make a part of each"});
  }
}

/// A part for each body; the mesh itself stays, as what stands for them no longer.
Project withBodies(Project p, const std::vector<ElementId>& ids) {
  for (ElementId id : ids) {
    const ElementPtr whole = p.element(id);
    const Imported* i = whole ? whole->imported() : nullptr;
    const std::vector<std::uint32_t> body = i && i->mesh ? bodiesOf(*i->mesh) : std::vector<std::uint32_t>{};
    if (body.empty()) continue;
    const std::uint32_t n = *std::max_element(body.begin(), body.end()) + 1;
    std::vector<Mesh> meshes(n);
    for (std::size_t t = 0; t < body.size(); ++t) {
      meshes[body[t]].triangles.push_back(i->mesh->triangles[t]);
      meshes[body[t]].face.push_back(i->mesh->faceOf(t));
    }
    for (std::uint32_t k = 0; k < n; ++k) {
      std::size_t dropped = 0;
      auto own = std::make_shared<Mesh>(withOwnPoints(i->mesh->points, meshes[k], dropped));
      if (own->triangles.empty()) continue;
      if (i->mesh->face.empty())
        own->face.clear();
      else
        own->faceGroup = i->mesh->faceGroup;
      Element e = *whole;
      e.id = ElementId::fresh();
      e.name = fmt::format("{} {}", nameOf(*whole), k + 1);
      e.source.clear(); // it no longer follows the file
      const Digest content = digestOf(*own);
      e.shape = Imported{std::move(own), content, i->move, i->turn, i->stretch};
      p.elements.push_back(std::make_shared<const Element>(std::move(e)));
    }
    p = withEdited(std::move(p), {id}, [](Element& e) {
      e.counted = false;
      e.ghost = true;
      noteMend(e, splitMend);
    });
  }
  return p;
}

void offerTrace(const Project& p, Findings& out) {
  if (!p.rooms.empty()) return;
  bool walls = false, glass = false;
  for (const ElementPtr& e : p.elements) {
    if (!importedMesh(*e) || !e->counted) continue;
    walls |= e->role == Role::Wall || e->role == Role::Building || e->role == Role::Partition;
    glass |= e->role == Role::Glazing;
  }
  if (!walls || !glass) return;
  const std::size_t n = traceSources(p).size();
  out.push_back({Rank::WorthKnowing,
                 "model.trace",
                 fmt::format("There are walls and glazing, but no rooms: a simplified model can be traced out of {}.",
                             counted(n, "part", "parts")),
                 1,
                 {},
                 "model.trace",
                 "Trace storeys, rooms and windows"});
}

Expected<Project> withSinglePanes(Project p, PaneKept keep, const std::string& mend) {
  std::size_t doubled = 0;
  std::vector<Pane> dropped;
  singlePanes(panesOfGlass(p), doubled, &dropped, keep, [&](const Pane& pane) { return outwardOf(p, pane); });
  std::map<ElementId, std::vector<std::uint32_t>> by;
  for (const Pane& d : dropped) by[d.element].insert(by[d.element].end(), d.triangles.begin(), d.triangles.end());
  for (auto& [id, triangles] : by)
    p = withEdited(std::move(p), {id}, [&, &triangles = triangles](Element& e) {
      auto& i = std::get<Imported>(e.shape);
      auto better = std::make_shared<Mesh>(withoutTriangles(*i.mesh, triangles));
      if (better->triangles.empty()) {
        e.counted = false;
        return;
      }
      i = withMesh(i, std::move(better));
      noteMend(e, mend);
    });
  return p;
}

} // namespace

void checkSources(const Project& p, bool quick, Findings& out) {
  checkPanes(p, quick, out);
  checkStray(p, out);
  checkHidden(p, quick, out);
  checkParts(p, out);
  checkClosedGlass(p, quick, out);
  checkSkins(p, quick, out);
  checkCity(p, quick, out);
  offerTrace(p, out);
}

std::optional<Expected<Project>> mendSource(const Project& p, const Finding& f) {
  std::vector<ElementId> ids;
  for (std::uint64_t v : f.elements) ids.push_back({v});
  for (const auto& [key, keep] : {std::pair{"glass.doubled", PaneKept::Middle},
                                  {"glass.doubled:outer", PaneKept::Outer},
                                  {"glass.doubled:inner", PaneKept::Inner}})
    if (f.mend == key) return withSinglePanes(p, keep, key);
  if (f.mend == "glass.closed") {
    std::size_t cut = 0, left = 0;
    Project open = withOpeningsCut(p, cut, left);
    if (cut == 0)
      return Expected<Project>(
          fail("None of them can be cut: the walls are masses that were drawn, or the panes are no rectangles."));
    return open;
  }
  if (f.mend == "floor.small") return withEdited(p, ids, [](Element& e) { e.role = Role::Wall; });
  if (f.mend == splitMend) return withBodies(p, ids);
  if (f.mend == "model.trace") {
    const auto t = traceModel(p, {});
    if (!t) return Expected<Project>(tl::unexpected(t.error()));
    return withTrace(p, *t);
  }
  return {};
}

} // namespace noonward
