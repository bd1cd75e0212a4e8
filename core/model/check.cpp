#include "core/model/check.h"
#include "core/base/tolerances.h"
#include "core/base/words.h"
#include "core/model/check_source.h"
#include "core/geometry/skins.h"
#include "core/geometry/thinning.h"
#include "core/model/edit.h"
#include "core/model/outline_edit.h"
#include "core/sky/weather_check.h"
#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace noonward {

namespace {

std::string nameOf(const Element& e) { return e.name.empty() ? e.id.text() : e.name; }

/// Faults of imported meshes by themselves, each kind once for all parts that have it, with what mends it.
void checkMeshes(const Project& p, bool knownOnly, Findings& out) {
  struct Kind {
    Rank rank;
    const char *code, *one, *more, *does, *doMore, *rest, *mendText;
    Finding finding = {};
    std::size_t n = 0;
    std::string first = {};
  };
  enum { GlassTwice, Twice, Thin, Turned, Tangled, Gaps, Holes };
  std::array<Kind, 7> kinds{{{Rank::BendsResult, "mesh.duplicates", "face of glass", "faces of glass", "stands", "stand", " where another stands already: light would pass twice there.", "Remove the second ones"},
                             {Rank::WorthKnowing, "mesh.duplicates", "face", "faces", "stands", "stand", " where another stands already.", "Remove the second ones"},
                             {Rank::WorthKnowing, "mesh.slivers", "face", "faces", "has", "have", " no area or less than 0.1 mm of height.", "Remove them"},
                             {Rank::WorthKnowing, "mesh.flipped", "face", "faces", "looks", "look", " inward or against their neighbours: sensors on facades would look in.", "Turn them"},
                             {Rank::WorthKnowing, "mesh.tangled", "edge", "edges", "is", "are", " shared by three faces or more: inside and outside can't be told there.", ""},
                             {Rank::WorthKnowing, "mesh.gaps", "edge", "edges", "misses", "miss", " the next face by less than 5 mm: light would leak, inside and outside can't be told.", "Weld them"},
                             {Rank::WorthKnowing, "mesh.holes", "hole", "holes", "is", "are", " in what is closed otherwise: light would fall in. If it is meant, keep it.", "Patch it"}}};
  for (const ElementPtr& e : p.elements) {
    const Imported* i = e->imported();
    if (!i || !i->mesh || !e->counted || e->role == Role::Ignore) continue;
    const MeshHealth* h = knownOnly ? i->health->ifKnown() : &i->health->of(*i->mesh);
    if (!h) continue;
    const bool inPlace = i->move == Vec3{} && i->turn == 0 && i->stretch == 1;
    const auto put = [&](Kind& k, std::size_t n, std::optional<Vec3> at) {
      if (n == 0) return;
      k.n += n;
      if (k.finding.elements.empty()) k.first = nameOf(*e);
      k.finding.elements.push_back(e->id.value);
      if (inPlace && !k.finding.at) k.finding.at = at;
    };
    put(kinds[e->role == Role::Glazing ? GlassTwice : Twice], h->duplicates, h->duplicateAt);
    put(kinds[Thin], h->noArea + h->slivers, std::nullopt);
    put(kinds[Turned], h->flipped, h->flippedAt);
    put(kinds[Tangled], h->tangledEdges, h->tangledAt);
    if (e->role == Role::Glazing || e->role == Role::Ground || e->role == Role::Planting || e->role == Role::Shading) continue;
    put(kinds[Gaps], h->gaps, h->gapAt);
    put(kinds[Holes], h->holes, h->holeAt);
  }
  for (Kind& k : kinds) {
    if (k.n == 0) continue;
    k.finding.rank = k.rank;
    k.finding.code = k.code;
    const std::size_t parts = k.finding.elements.size();
    k.finding.text = (parts == 1 ? "\"" + k.first + "\": " : "") + counted(k.n, k.one, k.more) + (parts > 1 ? fmt::format(" in {} parts", parts) : "") + " " + (k.n == 1 ? k.does : k.doMore) + k.rest;
    k.finding.mend = *k.mendText ? k.code : "";
    k.finding.mendText = k.mendText;
    out.push_back(std::move(k.finding));
  }
}

void checkElement(const Element& e, Findings& out) {
  const auto put = [&](Rank rank, const char* code, std::string text, const char* mend = "", const char* mendText = "") {
    out.push_back({rank, code, std::move(text), 1, {e.id.value}, mend, mendText});
  };
  if (e.ghost) return; // its light model is looked at instead
  if (e.plate() && !e.counted && e.layer == spacesLayer) return; // names of rooms to be traced
  if (!e.counted) { // whatever else is wrong with it can't reach a study
    put(Rank::WorthKnowing, "element.left-out", fmt::format("\"{}\" is left out of studies.", nameOf(e)), "element.count",
        "Count it again");
    return;
  }
  if (const Mass* m = e.mass()) {
    if (const OutlineCheck c = checkOutline(m->outline); c.fault != OutlineFault::None) {
      put(Rank::StopsStudy, "element.outline",
          fmt::format("The outline of \"{}\" {} at ({:.2f}, {:.2f}).", nameOf(e), faultText(c.fault), c.at.x, c.at.y),
          "element.leave-out", "Leave it out of studies");
      return;
    }
    if (!(m->height > tolerance::weld)) {
      put(Rank::StopsStudy, "element.height", fmt::format("\"{}\" has no height.", nameOf(e)), "element.height",
          "Give it 3 m");
      return;
    }
  } else if (e.plate()) {
    if (const auto flat = elementMesh(e); !flat) {
      put(Rank::StopsStudy, "element.plate", fmt::format("\"{}\": {}", nameOf(e), flat.error().message), "element.leave-out", "Leave it out of studies");
      return;
    }
  } else if (!e.imported()->mesh) {
    put(Rank::StopsStudy, "element.mesh", fmt::format("The mesh of \"{}\" is missing.", nameOf(e)), "element.leave-out",
        "Leave it out of studies");
    return;
  }
  const Box3 box = boxOf(e);
  const Vec3 size = box.size();
  const double largest = std::max({size.x, size.y, size.z});
  const double far = std::max({std::abs(box.low.x), std::abs(box.low.y), std::abs(box.high.x), std::abs(box.high.y)});
  if (far > tolerance::largestExtent && largest <= 2 * tolerance::largestExtent)
    put(Rank::StopsStudy, "element.far",
        fmt::format("\"{}\" lies {:.1f} km from the project's origin; 5 km is the most.", nameOf(e), far / 1000),
        "element.leave-out", "Leave it out of studies");
  else if (largest > 2 * tolerance::largestExtent)
    put(Rank::StopsStudy, "element.size",
        fmt::format("\"{}\" is {:.0f} km long: millimetres taken for metres?", nameOf(e), largest / 1000), "element.size",
        "Take its numbers as millimetres");
  else if (e.role != Role::Ground && (size.z > 600 || largest > 3000))
    put(Rank::BendsResult, "element.size",
        fmt::format("\"{}\" is {:.0f} × {:.0f} m and {:.0f} m high: are its units right?", nameOf(e), size.x, size.y,
                    size.z),
        "element.size", "Take its numbers as millimetres");
  else if (e.role != Role::Ground && largest < 0.05)
    put(Rank::WorthKnowing, "element.size-small",
        fmt::format("\"{}\" is only {:.1f} mm in size: are its units right?", nameOf(e), largest * 1000));
}

} // namespace

Findings checkProject(const Project& p) {
  return checkProject(p, p.site.weather ? checkWeather(*p.site.weather).findings : Findings{});
}

Findings checkProject(const Project& p, const Findings& weatherFindings, bool knownMeshes) {
  Findings out;
  if (!Zone::named(p.site.zone))
    out.push_back({Rank::StopsStudy, "site.zone",
                   fmt::format("The time zone \"{}\" is not known here.", p.site.zone), 1, {}, "site.zone",
                   p.site.weather ? "Take the offset of the weather file" : "Take the whole hour nearest the longitude"});
  if (!p.site.weather)
    out.push_back({Rank::WorthKnowing, "site.no-weather",
                   "No weather year: sun hours need none, everything with light in it does.", 1, {}, "", ""});
  else {
    out.insert(out.end(), weatherFindings.begin(), weatherFindings.end());
    const Findings against = checkWeatherAgainst(*p.site.weather, {p.site.place, p.zone(), p.site.year});
    out.insert(out.end(), against.begin(), against.end());
  }
  if (p.elements.empty())
    out.push_back({Rank::WorthKnowing, "model.empty", "Nothing is built yet.", 1, {}, "", ""});
  for (const ElementPtr& e : p.elements) checkElement(*e, out);
  checkMeshes(p, knownMeshes, out);
  checkSources(p, knownMeshes, out);
  if (!p.rooms.empty() || !p.openings.empty()) {
    const Findings rooms = checkRooms(p);
    out.insert(out.end(), rooms.begin(), rooms.end());
  }
  for (const Finish& f : p.finishes)
    if (f.reflectance > 0.95)
      out.push_back({Rank::BendsResult, "finish.bright", fmt::format("\"{}\" reflects {:.0f} % of the light: no real surface does.", f.name, 100 * f.reflectance), 1, {}, "", ""});
  for (const Glazing& g : p.glazings)
    if (g.panes > 0 && g.transmittance > mostTransmittance(g.panes) + 1e-9)
      out.push_back({Rank::BendsResult, "glazing.transmittance", fmt::format("\"{}\" lets {:.0f} % of the light through {} pane{}: clear glass can do no more than {:.0f} %.", g.name,
                     100 * g.transmittance, g.panes, g.panes > 1 ? "s" : "", 100 * mostTransmittance(g.panes)), 1, {}, "", ""});
  for (const Option& o : p.options)
    for (const std::string& lost : o.orphans)
      out.push_back({Rank::BendsResult, "option.orphan", fmt::format("Option \"{}\": a change no longer finds its place ({}).", o.name, lost), 1, {}, "option.forget", "Forget such changes"});
  std::erase_if(out, [&](const Finding& f) {
    return f.rank != Rank::StopsStudy && p.accepted.contains(f.code);
  });
  return merged(std::move(out));
}

Project accepted(Project project, const std::string& code, const std::string& words) {
  std::string& now = project.accepted[code];
  if (!words.empty()) now = words;
  return project;
}

std::optional<Mesh> mendedMesh(const Mesh& mesh, const std::string& mend) {
  std::size_t n = 0;
  if (mend == "mesh.duplicates") return withoutDuplicates(mesh, n);
  if (mend == "mesh.slivers") return withoutSlivers(mesh, n);
  if (mend == "mesh.flipped") return turnedOutward(mesh, n);
  if (mend == "mesh.gaps") return welded(mesh, gapTolerance, n);
  if (mend == "mesh.holes") return patched(mesh, n);
  if (mend == "walls.skins") return withSingleSkins(mesh, n);
  if (mend == "element.heavy") return thinned(mesh, thinnedBy);
  return {};
}

Expected<Project> mendProject(const Project& project, const Finding& f) {
  Project p = project;
  std::vector<ElementId> ids;
  for (std::uint64_t v : f.elements) ids.push_back({v});
  if (f.mend == "weather.place" && p.site.weather) {
    p.site.place = p.site.weather->place;
    p.site.name = p.site.weather->city;
  } else if (f.mend == "weather.offset" && p.site.weather) {
    p.site.zone = Zone::fixed(p.site.weather->utcOffset).name();
  } else if (f.mend == "site.zone") {
    const double hours = p.site.weather ? p.site.weather->utcOffset / 3600
                                        : std::round(degrees(p.site.place.longitude) / 15);
    p.site.zone = Zone::fixed(hours * 3600).name();
  } else if (f.mend.starts_with("weather.") && p.site.weather) {
    auto mended = mendWeather(*p.site.weather, f.mend);
    if (!mended) return tl::unexpected(mended.error());
    p.site.weather = std::make_shared<const Weather>(std::move(*mended));
    p.site.weatherFile.clear(); // no longer the file it came from; written anew beside the project
  } else if (f.mend == "option.forget") {
    for (Option& o : p.options) o.orphans.clear();
  } else if (f.mend == "room.not-counted") {
    for (Room& r : p.rooms)
      if (std::find(f.elements.begin(), f.elements.end(), r.id.value) != f.elements.end()) {
        r.counted = false;
        r.reason = "dark by intent";
      }
  } else if (f.mend == "room.overlap") {
    if (f.elements.size() < 2) return fail("The rooms that overlap are not named.");
    const Room *a = p.room({f.elements[0]}), *b = p.room({f.elements[1]});
    if (!a || !b) return fail("A room of the two is gone.");
    const Room& large = area(a->outline) >= area(b->outline) ? *a : *b;
    const Room& small = &large == a ? *b : *a;
    std::vector<Outline> left = difference(large.outline, {small.outline.outer});
    if (left.empty()) return fail(fmt::format("\"{}\" would have nothing left.", large.name));
    std::sort(left.begin(), left.end(), [](const Outline& x, const Outline& y) { return area(x) > area(y); });
    return withRoomOutline(project, large.id, tidied(left.front()));
  } else if (f.mend == "room.grid") {
    // Into the first grid of rooms; where that serves every room that counts, or none is there, one of its own.
    auto grid = std::find_if(p.groups.begin(), p.groups.end(), [](const SensorGroup& g) {
      const auto* r = std::get_if<RoomGrid>(&g.layout);
      return r && !r->rooms.empty();
    });
    if (grid == p.groups.end()) {
      SensorGroup g;
      g.id = GroupId::fresh();
      g.name = "Working plane";
      g.layout = RoomGrid{};
      p.groups.push_back(std::move(g));
      grid = p.groups.end() - 1;
    }
    for (std::uint64_t v : f.elements) std::get<RoomGrid>(grid->layout).rooms.push_back({v});
  } else if (f.mend.starts_with("mesh.") || f.mend == "element.heavy" || f.mend == "walls.skins") {
    p = withEdited(std::move(p), ids, [&](Element& e) {
      auto* i = std::get_if<Imported>(&e.shape);
      auto better = i && i->mesh ? mendedMesh(*i->mesh, f.mend) : std::nullopt;
      if (!better) return;
      if (better->triangles.empty()) {
        e.counted = false; // nothing would be left
        return;
      }
      *i = withMesh(*i, std::make_shared<Mesh>(std::move(*better)));
      noteMend(e, f.mend);
    });
  } else if (f.mend == "element.leave-out") {
    p = withEdited(std::move(p), ids, [](Element& e) { e.counted = false; });
  } else if (f.mend == "element.count") {
    p = withEdited(std::move(p), ids, [](Element& e) { e.counted = true; });
  } else if (f.mend == "element.height") {
    p = withEdited(std::move(p), ids, [](Element& e) { setHeight(e, 3); });
  } else if (f.mend == "element.size") {
    p = withEdited(std::move(p), ids, [](Element& e) {
      if (auto* m = std::get_if<Mass>(&e.shape)) {
        for (Vec2& q : m->outline.outer) q = q * 0.001;
        for (Ring& h : m->outline.holes)
          for (Vec2& q : h) q = q * 0.001;
        m->base *= 0.001;
        m->height *= 0.001;
        return;
      }
      if (auto* plate = std::get_if<Plate>(&e.shape)) {
        for (Vec3& c : plate->corners) c = c * 0.001;
        return;
      }
      auto& i = std::get<Imported>(e.shape);
      auto small = std::make_shared<Mesh>(*i.mesh);
      for (Vec3& q : small->points) q = q * 0.001;
      const Digest content = digestOf(*small);
      i = Imported{std::move(small), content, i.move * 0.001, i.turn, i.stretch}; // with nothing remembered of the old mesh
    });
  } else if (auto mended = mendSource(project, f)) {
    return std::move(*mended);
  } else {
    return fail(fmt::format("There is no mend for \"{}\".", f.code));
  }
  return p;
}

bool mayBeOnPurpose(const Finding& f) { return f.code == "element.left-out" || f.code == "mesh.holes" || f.code == "walls.skins" || f.code.starts_with("room.") || f.code.starts_with("option."); }

Expected<Project> mendAll(Project p, const std::function<bool(const Finding&)>& wanted, Findings& carried) {
  std::set<std::string> tried; // a mend that leaves its fault is not tried again
  for (int guard = 0; guard < 1000; ++guard) {
    const Findings found = checkProject(p);
    const auto next = std::find_if(found.begin(), found.end(), [&](const Finding& f) { return !f.mend.empty() && wanted(f) && !tried.contains(f.code + f.text); });
    if (next == found.end()) break;
    tried.insert(next->code + next->text);
    auto mended = mendProject(p, *next);
    if (!mended) return mended;
    p = std::move(*mended);
    carried.push_back(*next);
  }
  return p;
}

} // namespace noonward
