// A read model into a project: elements in local metres, what was given to them before kept.

#include "core/base/json.h"
#include "core/base/tolerances.h"
#include "core/files/cities/reference_system.h"
#include "core/files/library.h"
#include "core/files/meshes/mesh_files.h"
#include "core/model/form/edit.h"
#include "core/model/form/role_guess.h"
#include "core/model/heat_library.h"
#include "core/model/mending/check.h"
#include "core/sun/earth.h"
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fmt/format.h>

namespace noonward {

namespace {

/// A part's mesh in local metres.
Mesh placedMesh(const Mesh& mesh, const Placement& placement) {
  const double f = metresPer(placement.unit) * placement.scale;
  Mesh out = mesh;
  for (Vec3& p : out.points) {
    const Vec3 q = placement.yUp ? Vec3{p.x, -p.z, p.y} : p;
    p = q * f - placement.origin;
  }
  return out;
}

RoleGuess roleOf(const ModelPart& part, const Mesh& placed, std::size_t all, Role role, bool guess) {
  if (part.role) return {*part.role, 1, "the format says so"};
  return guess ? guessRole({part.name, part.layer, part.transparency, &placed, all, part.material}, role)
               : RoleGuess{role, 0, "as chosen"};
}

RoleGuess roleOf(const ModelOutline& o, std::size_t all, Role role, bool guess) {
  if (o.role) return {*o.role, 1, "the format says so"};
  return guess ? guessRole({o.name, o.layer, 0, nullptr, all}, role) : RoleGuess{role, 0, "as chosen"};
}

std::string layerOf(const std::string& name, const std::string& layer) {
  return layer.empty() ? name : layer;
}

} // namespace

std::vector<ModelLayer> modelLayers(const Model& model, const Placement& placement, Role role, bool guess) {
  std::map<std::string, ModelLayer> by;
  const std::size_t all = model.parts.size() + model.outlines.size();
  const auto add = [&](const std::string& name, const RoleGuess& g) -> ModelLayer& {
    ModelLayer& l = by[name];
    if (l.name.empty())
      l = {name, 0, 0, 0, g.role, g.sure, g.why};
    else if (l.role != g.role) {
      l.why = "several";
      l.sure = 0;
    }
    return l;
  };
  for (const ModelPart& p : model.parts) {
    ModelLayer& l = add(layerOf(p.name, p.layer), roleOf(p, placedMesh(p.mesh, placement), all, role, guess));
    ++l.parts;
    l.triangles += p.mesh.triangles.size();
  }
  for (const ModelOutline& o : model.outlines) ++add(layerOf(o.name, o.layer), roleOf(o, all, role, guess)).outlines;
  std::vector<ModelLayer> out;
  for (auto& [name, l] : by) out.push_back(std::move(l));
  std::stable_sort(out.begin(), out.end(),
                   [](const ModelLayer& a, const ModelLayer& b) { return a.triangles > b.triangles; });
  return out;
}

std::string sourceNameOf(const Project& p, const Model& model) {
  const auto other = [&](const std::string& name) { // another file goes by this name
    const auto s =
        std::find_if(p.sources.begin(), p.sources.end(), [&](const SourceFile& o) { return o.name == name; });
    std::error_code e;
    return s != p.sources.end() && !model.path.empty() && !s->path.empty() && s->path != model.path &&
           std::filesystem::exists(s->path, e) && !std::filesystem::equivalent(s->path, model.path, e);
  };
  if (!other(model.file)) return model.file;
  const std::filesystem::path folder = std::filesystem::path(model.path).parent_path();
  std::string name = (folder.filename() / model.file).string();
  return other(name) ? model.path : name;
}

ZoneOfPlace zoneOfPlace(const Place& place) {
  std::error_code ignored;
  const auto cities =
      readCities(resourcesFolder(std::filesystem::read_symlink("/proc/self/exe", ignored)) / "cities/cities.tsv");
  const City* nearest = nullptr;
  double best = 150'000; // m
  if (cities)
    for (const City& c : *cities) {
      if (std::abs(c.latitude - degrees(place.latitude)) > 1.5) continue;
      if (const double d = distanceBetween(place, {radians(c.latitude), radians(c.longitude), 0});
          d < best && Zone::named(c.zone)) {
        best = d;
        nearest = &c;
      }
    }
  if (nearest)
    return {nearest->zone,
            fmt::format("its clock is that of {}, {:.0f} km away ({})", nearest->name, best / 1000, nearest->zone)};
  const std::string zone = Zone::fixed(std::round(degrees(place.longitude) / 15) * 3600).name();
  return {zone, fmt::format("its clock is set by the longitude ({}): no city of the list is near; check it", zone)};
}

std::vector<Element> placedElements(const Model& model, const Placement& placement, Role role, bool guess,
                                    const std::string& source) {
  const std::string& file = source.empty() ? model.file : source;
  const double f = metresPer(placement.unit) * placement.scale;
  std::vector<Element> out;
  const std::string stem = std::filesystem::path(model.file).stem().string();
  const auto element = [&](const std::string& name, const std::string& layer) {
    Element e;
    e.id = {derivedId("import/" + file + "/" + name)};
    e.name = name == "unnamed" ? stem : name;
    e.layer = layerOf(name, layer);
    e.role = role;
    e.source = file;
    return e;
  };
  for (const ModelPart& part : model.parts) {
    auto mesh = std::make_shared<Mesh>(placedMesh(part.mesh, placement));
    Element e = element(part.name, part.layer);
    e.role = roleOf(part, *mesh, model.parts.size() + model.outlines.size(), role, guess).role;
    const Digest content = digestOf(*mesh);
    e.shape = Imported{std::move(mesh), content, {}, 0, 1};
    e.finish = part.material; // kept by broughtIn() where there is a finish or glazing of that name
    out.push_back(std::move(e));
  }
  for (const ModelOutline& o : model.outlines) {
    Element e = element(o.name, o.layer);
    e.role = roleOf(o, model.parts.size() + model.outlines.size(), role, guess).role;
    const auto placed = [&](Vec2 p) { return Vec2{p.x * f - placement.origin.x, p.y * f - placement.origin.y}; };
    const double base = o.base * f - placement.origin.z;
    if (o.height > 0) {
      Mass m;
      for (Vec2 p : o.outline.outer) m.outline.outer.push_back(placed(p));
      for (const Ring& h : o.outline.holes) {
        m.outline.holes.emplace_back();
        for (Vec2 p : h) m.outline.holes.back().push_back(placed(p));
      }
      m.base = base;
      m.height = o.height * f;
      m.storeys = std::max(1, int(std::lround(m.height / 3.2)));
      e.shape = std::move(m);
    } else { // a line on a plan: kept to trace or to raise, never counted by itself
      Plate plate;
      for (Vec2 p : o.outline.outer) plate.corners.push_back({placed(p).x, placed(p).y, base});
      e.shape = std::move(plate);
      e.counted = false;
      if (!o.use.empty()) e.extra = Json{{spaceUseKey, o.use}}.dump();
    }
    out.push_back(std::move(e));
  }
  return out;
}

namespace {

/// East and north in metres of b seen from a, on the plane that touches the ellipsoid in a.
Vec2 eastNorth(const Place& a, const Place& b) {
  const Vec2 each = earth::metresPerRadian(a.latitude);
  return {(b.longitude - a.longitude) * each.x, (b.latitude - a.latitude) * each.y};
}

/// Turned about the zero, then moved; meshes themselves, so that what is made of them is made once.
void laidDown(Element& e, double turn, Vec3 shift) {
  if (auto* i = std::get_if<Imported>(&e.shape)) {
    auto mesh = std::make_shared<Mesh>(*i->mesh);
    const double c = std::cos(turn), s = std::sin(turn);
    for (Vec3& p : mesh->points) p = Vec3{p.x * c - p.y * s, p.x * s + p.y * c, p.z} + shift;
    const Digest content = digestOf(*mesh);
    *i = Imported{std::move(mesh), content, {}, 0, 1};
    return;
  }
  turnElement(e, {}, turn);
  moveElement(e, shift);
}

/// What was mended in the mesh before, done to the new one.
void again(Element& e, const std::vector<std::string>& mends) {
  auto* i = std::get_if<Imported>(&e.shape);
  e.mends = mends;
  for (const std::string& m : mends)
    if (auto better = i && i->mesh ? mendedMesh(*i->mesh, m) : std::nullopt; better && !better->triangles.empty())
      *i = withMesh(*i, std::make_shared<Mesh>(std::move(*better)));
}

} // namespace

ImportOutcome broughtIn(Project p, const Model& model, Placement placement, Role role, bool guess,
                        std::optional<bool> proposed, const std::map<std::string, Role>& byLayer) {
  ImportOutcome out;
  const std::string file = sourceNameOf(p, model);
  const bool blank = p.elements.empty() && p.rooms.empty();
  if (blank && p.site.origin == Vec3{}) p.site.origin = placement.origin;
  std::optional<double> north = placement.northAngle ? placement.northAngle : model.geo.northAngle;
  // A file in a projected system: where its origin taken off lies. In a project of the same system the coordinates say
  // it themselves.
  std::optional<Located> located;
  if (const int number = epsgNumber(model.geo.system);
      number != 0 && !model.geo.place && (blank || number != epsgNumber(p.site.referenceSystem))) {
    if (!blank) {
      const double f = metresPer(placement.unit) * placement.scale;
      const Vec3 c = model.box().center() * f;
      placement.origin = {std::round(c.x / 100) * 100, std::round(c.y / 100) * 100, placement.origin.z};
    }
    const double f = metresPer(placement.unit) * placement.scale;
    if (const auto at = locate(model.geo.system, placement.origin.x / f, placement.origin.y / f);
        at && !(placement.origin == Vec3{})) {
      located = *at;
      if (!north) north = at->northAngle;
    } else if (!at) {
      out.remark = "Where it stands on Earth is not known: " + at.error().message;
    }
  }
  if (blank) {
    if (model.geo.place) p.site.place = *model.geo.place;
    if (located) p.site.place = {located->place.latitude, located->place.longitude, p.site.place.elevation};
    if (model.geo.place || located) { // a place without its clock would read every hour wrong
      const ZoneOfPlace z = zoneOfPlace(p.site.place);
      p.site.zone = z.zone;
      out.remark = "The project stands where the file says; " + z.how + ".";
    }
    if (north) p.site.northAngle = *north;
    if (!model.geo.system.empty()) p.site.referenceSystem = model.geo.system;
  }
  Vec3 shift;
  double turn = 0;
  if (!blank && (model.geo.place || located)) {
    const Place there = located ? located->place : *model.geo.place;
    // From the project's zero, whose drawing may be turned against north.
    const Vec2 d = eastNorth(p.site.place, there);
    const double c = std::cos(p.site.northAngle), s = std::sin(p.site.northAngle);
    if (std::hypot(d.x, d.y) < 2 * tolerance::largestExtent) {
      shift = {d.x * c - d.y * s, d.x * s + d.y * c, 0};
      turn = p.site.northAngle - north.value_or(0);
      if (!located) placement.origin = {}; // the place is that of the file's own zero
    } else {
      out.remark =
          fmt::format("{} stands {:.0f} km from the project's place: it was laid at the project's zero instead.",
                      model.file, distanceBetween(p.site.place, there) / 1000);
    }
  }
  if (!blank && turn == 0 && placement.northAngle)
    turn = p.site.northAngle - *placement.northAngle; // about the project's zero
  for (const Glazing& g : model.glazings)
    if (!findGlazing(p.glazings, g.name)) p.glazings.push_back(g);
  takeStated(p.heat, model.heat);
  const std::vector<Finish> finishes = libraryFinishes();
  const std::vector<Glazing> glazings = libraryGlazings();
  const auto named = [&](const Element& e) { // paint does not go on glass, nor glass on walls
    if (e.role == Role::Glazing) return findGlazing(p.glazings, e.finish) || findGlazing(glazings, e.finish);
    return findFinish(p.finishes, e.finish) || findFinish(finishes, e.finish);
  };
  std::vector<ElementId> seen;
  std::string panes; ///< how doubled ones were mended before
  for (Element& e : placedElements(model, placement, role, guess, file)) {
    if (turn != 0 || !(shift == Vec3{})) laidDown(e, turn, shift);
    if (proposed) e.proposed = *proposed;
    seen.push_back(e.id);
    if (const ElementPtr old = p.element(e.id)) {
      e.role = old->role;
      e.proposed = old->proposed;
      e.demolished = old->demolished;
      e.counted = old->counted;
      e.hidden = old->hidden;
      e.name = old->name;
      e.finish = old->finish;
      e.ghost = old->ghost;
      if (!old->mends.empty()) {
        again(e, old->mends);
        for (const std::string& m : old->mends)
          if (m.starts_with("glass.doubled")) panes = m;
      }
      e.extra = old->extra;
      out.renewed.push_back(e.id);
      const Box3 a = boxOf(*old), b = boxOf(e);
      if (length(a.low - b.low) > 0.01 || length(a.high - b.high) > 0.01) out.moved.push_back(e.id);
    } else {
      out.fresh.push_back(e.id);
    }
    if (const auto said = byLayer.find(e.layer); said != byLayer.end()) e.role = said->second;
    if (!p.element(e.id) && !e.finish.empty() && !named(e)) e.finish.clear(); // what the user gave stays, known or not
    p = withElement(std::move(p), std::move(e));
  }
  if (!panes.empty()) // among the parts of the new file as among those of the old
    if (auto mended = mendProject(p, {.mend = panes})) p = std::move(*mended);
  if (!model.path.empty()) {
    SourceFile s{file,
                 model.path,
                 placement.unit,
                 placement.yUp,
                 placement.scale,
                 placement.northAngle,
                 placement.origin,
                 model.level,
                 model.content};
    const auto old =
        std::find_if(p.sources.begin(), p.sources.end(), [&](const SourceFile& o) { return o.name == s.name; });
    if (old == p.sources.end())
      p.sources.push_back(std::move(s));
    else
      *old = std::move(s);
  }
  std::sort(seen.begin(), seen.end());
  for (const ElementPtr& e : p.elements)
    if (e->source == file && !std::binary_search(seen.begin(), seen.end(), e->id)) out.gone.push_back(e->id);
  out.project = std::move(p);
  return out;
}

} // namespace noonward
