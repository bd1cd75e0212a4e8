#include "core/model/mending/check.h"
#include "core/base/tolerances.h"
#include "core/base/words.h"
#include "core/geometry/skins.h"
#include "core/geometry/thinning.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "core/model/form/outline_edit.h"
#include "core/model/mending/check_overlap.h"
#include "core/model/mending/check_size.h"
#include "core/model/mending/check_source.h"
#include "core/model/rooms/room_form.h"
#include "core/sky/weather_check.h"
#include <algorithm>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <map>
#include <set>

namespace noonward {

namespace {

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
  std::array<Kind, 7> kinds{
      {{Rank::BendsResult, "mesh.duplicates", "face of glass", "faces of glass", "stands", "stand",
        " where another stands already: light would pass twice there.", "Remove the second ones"},
       {Rank::WorthKnowing, "mesh.duplicates", "face", "faces", "stands", "stand", " where another stands already.",
        "Remove the second ones"},
       {Rank::WorthKnowing, "mesh.slivers", "face", "faces", "has", "have", " no area or less than 0.1 mm of height.",
        "Remove them"},
       {Rank::WorthKnowing, "mesh.flipped", "face", "faces", "looks", "look",
        " inward or against their neighbours: sensors on facades would look in.", "Turn them"},
       {Rank::WorthKnowing, "mesh.tangled", "edge", "edges", "is", "are",
        " shared by three faces or more: inside and outside can't be told there.", ""},
       {Rank::WorthKnowing, "mesh.gaps", "edge", "edges", "misses", "miss",
        " the next face by less than 5 mm: light would leak, inside and outside can't be told.", "Weld them"},
       {Rank::WorthKnowing, "mesh.holes", "hole", "holes", "is", "are",
        " in what is closed otherwise: light would fall in. If it is meant, keep it.", "Patch it"}}};
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
    if (e->role == Role::Glazing || e->role == Role::Ground || e->role == Role::Planting || e->role == Role::Shading)
      continue;
    put(kinds[Gaps], h->gaps, h->gapAt);
    put(kinds[Holes], h->holes, h->holeAt);
  }
  for (Kind& k : kinds) {
    if (k.n == 0) continue;
    k.finding.rank = k.rank;
    k.finding.code = k.code;
    const std::size_t parts = k.finding.elements.size();
    k.finding.text = (parts == 1 ? "\"" + k.first + "\": " : "") + counted(k.n, k.one, k.more) +
                     (parts > 1 ? fmt::format(" in {} parts", parts) : "") + " " + (k.n == 1 ? k.does : k.doMore) +
                     k.rest;
    k.finding.mend = *k.mendText ? k.code : "";
    k.finding.mendText = k.mendText;
    out.push_back(std::move(k.finding));
  }
}

/// Millimetres are offered first.
std::vector<MendWay> otherUnits(double largest) {
  std::vector<MendWay> out = unitWays("element.size", largest);
  std::erase_if(out, [](const MendWay& w) { return factorOf(w.mend) == 0.001; });
  return out;
}

void checkElement(const Element& e, Findings& out) {
  const auto put = [&](Rank rank, const char* code, std::string text, const char* mend = "",
                       const char* mendText = "") {
    out.push_back({rank, code, std::move(text), 1, {e.id.value}, mend, mendText});
  };
  if (e.ghost) return;                                           // its simplified model is looked at instead
  if (e.plate() && !e.counted && e.layer == spacesLayer) return; // names of rooms to be traced
  if (!e.counted) {                                              // whatever else is wrong with it can't reach a study
    put(Rank::WorthKnowing, "element.left-out", fmt::format("\"{}\" is left out of studies.", nameOf(e)),
        "element.count", "Count it again");
    return;
  }
  if (const auto f = std::visit([&](const auto& s) { return faultOf(s, nameOf(e)); }, e.shape))
    return put(Rank::StopsStudy, f->code, f->text, f->mend, f->mendText);
  const Box3 box = boxOf(e);
  const Vec3 size = box.size();
  const double largest = std::max({size.x, size.y, size.z});
  const double far = std::max({std::abs(box.low.x), std::abs(box.low.y), std::abs(box.high.x), std::abs(box.high.y)});
  const auto ask = [&](std::string text, Rank rank) {
    put(rank, "element.size", std::move(text), "element.size", "Take its numbers as millimetres");
    out.back().ways = otherUnits(largest);
  };
  if (far > tolerance::largestExtent && largest <= 2 * tolerance::largestExtent)
    put(Rank::StopsStudy, "element.far",
        fmt::format("\"{}\" lies {:.1f} km from the project's origin; 5 km is the most.", nameOf(e), far / 1000),
        "element.leave-out", "Leave it out of studies");
  else if (largest > 2 * tolerance::largestExtent)
    ask(fmt::format("\"{}\" is {:.0f} km long: millimetres taken for metres?", nameOf(e), largest / 1000),
        Rank::StopsStudy);
  else if (e.role != Role::Ground && (size.z > 600 || largest > 3000))
    ask(fmt::format("\"{}\" is {:.0f} × {:.0f} m and {:.0f} m high: are its units right?", nameOf(e), size.x, size.y,
                    size.z),
        Rank::BendsResult);
  else if (e.role != Role::Ground && largest < 0.05)
    put(Rank::WorthKnowing, "element.size-small",
        fmt::format("\"{}\" is only {:.1f} mm in size: are its units right?", nameOf(e), largest * 1000));
}

} // namespace

namespace {
/// The endless ground against what stands on it: light would come from below, or the model be buried.
void checkGround(const Project& p, Findings& out) {
  double low = 1e300, high = -1e300;
  for (const ElementPtr& e : p.elements) {
    if (!e->counted || e->role == Role::Ignore) continue;
    const Box3 b = boxOf(*e);
    if (b.empty()) continue;
    low = std::min(low, b.low.z);
    high = std::max(high, b.high.z);
  }
  for (const Room& r : p.rooms) {
    low = std::min(low, r.floor);
    high = std::max(high, r.floor + r.height);
  }
  if (high < low) return;
  const double ground = p.site.groundLevel;
  if (high <= ground + 0.1)
    out.push_back({Rank::BendsResult,
                   "ground.above",
                   fmt::format("The ground ({:.1f} m) lies above the whole model, whose top is at {:.1f} m: nothing of "
                               "it would stand in the light.",
                               ground, high),
                   1,
                   {},
                   "ground.level",
                   fmt::format("Set the ground to {:.2f} m", low)});
  else if (low > ground + 2)
    out.push_back(
        {Rank::BendsResult,
         "ground.below",
         fmt::format("The ground ({:.1f} m) lies {:.1f} m below the model: light would come up from under it.", ground,
                     low - ground),
         1,
         {},
         "ground.level",
         fmt::format("Set the ground to {:.2f} m", low)});
  std::vector<std::uint64_t> under;
  for (const PlacedOpening& o : p.rooms.empty() ? std::vector<PlacedOpening>{} : placedOpenings(p).openings)
    if (o.opening.edge >= 0 && p.rooms[o.room].floor + o.opening.sill + o.opening.height <= ground)
      under.push_back(o.opening.id.value);
  if (!under.empty())
    out.push_back({Rank::BendsResult, "ground.window",
                   fmt::format("{} below the ground ({:.1f} m): no sky is to be seen from there.",
                               counted(under.size(), "window lies", "windows lie"), ground),
                   int(under.size()), under, "", ""});
  std::size_t sensors = 0;
  for (const SensorGroup& g : p.groups) {
    if (const auto* list = std::get_if<std::vector<PointSensor>>(&g.layout))
      for (const PointSensor& s : *list) sensors += s.position.z < ground - 0.01;
    if (const auto* a = std::get_if<GroundArea>(&g.layout)) sensors += a->level < ground - 0.01;
  }
  if (sensors > 0)
    out.push_back({Rank::BendsResult,
                   "ground.sensors",
                   fmt::format("{} below the ground ({:.1f} m): light reaches them through it.",
                               counted(sensors, "point or area lies", "points or areas lie"), ground),
                   1,
                   {},
                   "",
                   ""});
}

/// Where nobody said where it stands the sun is that of no place in particular.
void checkPlace(const Project& p, Findings& out) {
  if (p.site.place.latitude != 0 || p.site.place.longitude != 0 || !p.site.name.empty()) return;
  out.push_back({Rank::BendsResult,
                 "site.place",
                 "No place is set: the sun is that of 0° north, 0° east. Choose a place or load a weather file in the "
                 "Site step.",
                 1,
                 {},
                 "",
                 ""});
}

/// Finishes and glazings that are named but not known: they would stop every study of light.
void checkNames(const Project& p, Findings& out) {
  std::set<std::string> known;
  for (const Finish& f : p.finishes) known.insert(f.name);
  for (const Glazing& g : p.glazings) known.insert(g.name);
  for (const Finish& f : libraryFinishes()) known.insert(f.name);
  for (const Glazing& g : libraryGlazings()) known.insert(g.name);
  std::map<std::string, std::vector<std::uint64_t>> unknown; // name, who has it
  const auto look = [&](const std::string& name, std::uint64_t who) {
    if (!name.empty() && !known.contains(name)) unknown[name].push_back(who);
  };
  for (const ElementPtr& e : p.elements)
    if (e->counted && e->role != Role::Ignore) look(e->finish, e->id.value);
  for (const Assignment& a : p.assignments) look(a.finish, a.element ? a.element->value : 0);
  for (const WindowRule& w : p.windowRules) look(w.glazing, w.id.value);
  for (const Opening& o : p.openings) look(o.glazing, o.id.value);
  for (const ShadeRule& s : p.shadeRules) look(s.finish, s.id.value);
  for (auto& [name, who] : unknown) {
    std::erase(who, std::uint64_t{0});
    out.push_back({Rank::StopsStudy, "finish.unknown",
                   fmt::format("There is no finish or glazing called \"{}\"; no study of light can run.", name), 1, who,
                   "", ""});
  }
}

/// Keys of the project file that nobody reads: what they were to say is not done.
void checkKeys(const Project& p, Findings& out) {
  if (p.unknownKeys.empty()) return;
  constexpr std::size_t most = 6;
  std::vector<std::string> named;
  for (const UnknownKey& k : p.unknownKeys)
    if (named.size() < most)
      named.push_back(k.path + (k.nearest.empty() ? "" : fmt::format(" (\"{}\" meant?)", k.nearest)));
  const std::size_t n = p.unknownKeys.size();
  const bool likely =
      std::any_of(p.unknownKeys.begin(), p.unknownKeys.end(), [](const UnknownKey& k) { return !k.nearest.empty(); });
  out.push_back({likely ? Rank::BendsResult : Rank::WorthKnowing,
                 "file.unknown-key",
                 fmt::format("{} not known and without effect: {}{}.",
                             counted(n, "name in the project file is", "names in the project file are"),
                             fmt::join(named, ", "), n > most ? fmt::format(" and {} more", n - most) : ""),
                 1,
                 {},
                 "",
                 ""});
}
} // namespace

Findings checkProject(const Project& p) {
  return checkProject(p, p.site.weather ? checkWeather(*p.site.weather).findings : Findings{});
}

Findings checkProject(const Project& p, const Findings& weatherFindings, bool knownMeshes) {
  Findings out;
  if (!Zone::named(p.site.zone))
    out.push_back(
        {Rank::StopsStudy,
         "site.zone",
         fmt::format("The time zone \"{}\" is not known here.", p.site.zone),
         1,
         {},
         "site.zone",
         p.site.weather ? "Take the offset of the weather file" : "Take the whole hour nearest the longitude"});
  else if (const double apart = p.zone().standardOffset(p.site.year) / 3600 - degrees(p.site.place.longitude) / 15;
           std::abs(apart) > (p.site.zone.starts_with("UTC") ? 1.0 : 3.2))
    out.push_back({Rank::BendsResult,
                   "site.zone",
                   fmt::format("The clock ({}) stands {:.1f} h {} the sun's at {:.1f}° {}: clock windows would cover "
                               "other hours of the day.",
                               p.site.zone, std::abs(apart), apart > 0 ? "before" : "behind",
                               std::abs(degrees(p.site.place.longitude)), p.site.place.longitude < 0 ? "W" : "E"),
                   1,
                   {},
                   "site.zone",
                   "Take the whole hour nearest the longitude"});
  if (!p.site.weather)
    out.push_back({Rank::WorthKnowing,
                   "site.no-weather",
                   "No weather year: sun hours need none, everything with light in it does.",
                   1,
                   {},
                   "",
                   ""});
  else {
    out.insert(out.end(), weatherFindings.begin(), weatherFindings.end());
    const Findings against = checkWeatherAgainst(*p.site.weather, {p.site.place, p.zone(), p.site.year});
    out.insert(out.end(), against.begin(), against.end());
  }
  if (p.elements.empty()) out.push_back({Rank::WorthKnowing, "model.empty", "Nothing is built yet.", 1, {}, "", ""});
  for (const ElementPtr& e : p.elements) checkElement(*e, out);
  checkPlace(p, out);
  checkGround(p, out);
  checkMeshes(p, knownMeshes, out);
  checkSizes(p, out);
  checkSources(p, knownMeshes, out);
  checkOverlaps(p, out);
  if (!p.rooms.empty() || !p.openings.empty()) {
    const Findings rooms = checkRooms(p);
    out.insert(out.end(), rooms.begin(), rooms.end());
    const Findings shading = checkShading(p);
    out.insert(out.end(), shading.begin(), shading.end());
  }
  checkNames(p, out);
  checkKeys(p, out);
  for (const Finish& f : p.finishes)
    if (f.reflectance > 0.95)
      out.push_back(
          {Rank::BendsResult,
           "finish.bright",
           fmt::format("\"{}\" reflects {:.0f} % of the light: no real surface does.", f.name, 100 * f.reflectance),
           1,
           {},
           "",
           ""});
  for (const Glazing& g : p.glazings)
    if (g.panes > 0 && g.transmittance > mostTransmittance(g.panes) + 1e-9)
      out.push_back(
          {Rank::BendsResult,
           "glazing.transmittance",
           fmt::format("\"{}\" lets {:.0f} % of the light through {} pane{}: clear glass can do no more than {:.0f} %.",
                       g.name, 100 * g.transmittance, g.panes, g.panes > 1 ? "s" : "",
                       100 * mostTransmittance(g.panes)),
           1,
           {},
           "",
           ""});
  for (const Option& o : p.options)
    for (const std::string& lost : o.orphans)
      out.push_back({Rank::BendsResult,
                     "option.orphan",
                     fmt::format("Option \"{}\": a change no longer finds its place ({}).", o.name, lost),
                     1,
                     {},
                     "option.forget",
                     "Forget such changes"});
  std::erase_if(out, [&](const Finding& f) { return f.rank != Rank::StopsStudy && p.accepted.contains(f.code); });
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
    const double hours = p.site.weather && f.rank == Rank::StopsStudy
                             ? p.site.weather->utcOffset / 3600
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
  } else if (f.mend == "ground.level") {
    double low = 1e300;
    for (const ElementPtr& e : p.elements)
      if (e->counted && e->role != Role::Ignore)
        if (const Box3 b = boxOf(*e); !b.empty()) low = std::min(low, b.low.z);
    for (const Room& r : p.rooms) low = std::min(low, r.floor);
    if (low < 1e299) p.site.groundLevel = low;
  } else if (f.mend == "room.fit") {
    for (std::uint64_t v : f.elements) {
      auto fitted = withRoomFitted(p, {v});
      if (!fitted) return fitted;
      p = std::move(*fitted);
    }
  } else if (f.mend == "room.knee") {
    for (std::uint64_t v : f.elements) {
      const Room* room = p.room({v});
      if (!room) return fail("The room is gone.");
      const std::vector<Outline> parts = roomForm(p, *room).standing(1);
      if (parts.empty()) return fail(fmt::format("The roof is nowhere 1 m above the floor of \"{}\".", room->name));
      auto cut = withRoomOutline(
          p, room->id,
          tidied(*std::max_element(parts.begin(), parts.end(), [](auto& a, auto& b) { return area(a) < area(b); })));
      if (!cut) return cut;
      p = std::move(*cut);
    }
  } else if (f.mend == "opening.fit") {
    for (std::uint64_t v : f.elements) p = withOpeningFitted(std::move(p), {v});
  } else if (f.mend == "room.one-grid") {
    if (f.elements.size() < 2) return fail("The room and the grid are not named.");
    for (SensorGroup& g : p.groups) {
      auto* grid = g.id.value == f.elements[1] ? std::get_if<RoomGrid>(&g.layout) : nullptr;
      if (!grid) continue;
      if (grid->rooms.empty())
        for (const Room& r : p.rooms)
          if (r.counted) grid->rooms.push_back(r.id);
      std::erase(grid->rooms, RoomId{f.elements[0]});
      if (grid->rooms.empty()) return withoutGroup(std::move(p), g.id); // an empty list would mean every room
    }
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
  } else if (f.mend == "element.demolish") {
    p = withEdited(std::move(p), ids, [](Element& e) { e.demolished = true; });
  } else if (f.mend == "element.count") {
    p = withEdited(std::move(p), ids, [](Element& e) { e.counted = true; });
  } else if (f.mend == "element.roof") {
    p = withEdited(std::move(p), ids, [](Element& e) {
      if (auto* m = std::get_if<Mass>(&e.shape)) m->roof = {};
    });
  } else if (f.mend == "element.height") {
    p = withEdited(std::move(p), ids, [](Element& e) { setHeight(e, 3); });
  } else if (f.mend.starts_with("element.size") || f.mend.starts_with("model.unit:")) {
    const double factor = factorOf(f.mend).value_or(0.001);
    std::set<std::string> files;
    p = withEdited(std::move(p), ids, [&](Element& e) {
      scaleElement(e, factor);
      files.insert(e.source);
    });
    if (f.mend.starts_with("model.unit:"))
      for (SourceFile& s : p.sources)
        if (files.contains(s.name)) s.scale *= factor; // so that it comes in alike when it is brought in again
  } else if (auto mended = mendSource(project, f)) {
    return std::move(*mended);
  } else {
    return fail(fmt::format("There is no mend for \"{}\".", f.code));
  }
  return p;
}

bool neverOfAll(const Finding& f) {
  const auto changes = [&](const char* prefix) { return f.mend.starts_with(prefix); };
  // What changes sizes, places or measured data is asked about one by one.
  if (changes("weather.") || changes("ground.") || changes("site.") || changes("element.size") ||
      changes("model.unit") || changes("source."))
    return true;
  return f.code == "element.left-out" || f.code == "proposal.overlap" || f.code == "element.twice" ||
         f.code == "mesh.holes" || f.code == "walls.skins" || f.code == "mesh.city" || f.code.starts_with("room.") ||
         f.code.starts_with("option.");
}

Expected<Project> mendAll(Project p, const std::function<bool(const Finding&)>& wanted, Findings& carried) {
  std::set<std::string> tried; // a mend that leaves its fault is not tried again
  for (int guard = 0; guard < 1000; ++guard) {
    const Findings found = checkProject(p);
    const auto next = std::find_if(found.begin(), found.end(), [&](const Finding& f) {
      return !f.mend.empty() && wanted(f) && !tried.contains(f.code + f.text);
    });
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
