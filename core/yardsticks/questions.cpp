#include "core/yardsticks/questions.h"
#include "core/base/words.h"
#include "core/model/form/edit.h"
#include "core/model/form/receivers.h"
#include "core/model/heat_library.h"
#include "core/model/rooms/placing.h"
#include "core/yardsticks/window_points.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

namespace {

/// The group of that name, put right, or a fresh one.
GroupId withGroup(Project& p, const std::string& name, SensorLayout layout) {
  for (SensorGroup& g : p.groups)
    if (g.name == name) {
      g.layout = std::move(layout);
      return g.id;
    }
  SensorGroup g;
  g.id = GroupId::fresh();
  g.name = name;
  g.layout = std::move(layout);
  p.groups.push_back(std::move(g));
  return p.groups.back().id;
}

/// The study of that name and kind, put right, or a fresh one.
Study& withStudy(Project& p, const std::string& name, StudyKind kind, std::vector<GroupId> groups) {
  auto study = std::find_if(p.studies.begin(), p.studies.end(),
                            [&](const Study& s) { return s.name == name && s.kind == kind; });
  if (study == p.studies.end()) {
    Study s;
    s.id = StudyId::fresh();
    s.name = name;
    s.kind = kind;
    p.studies.push_back(std::move(s));
    study = p.studies.end() - 1;
  }
  study->groups = std::move(groups);
  return *study;
}

void layRule(Project& p, const Yardstick& rule, const std::vector<GroupId>& groups) {
  for (Judgement& j : p.judgements)
    if (j.yardstick == rule.key) {
      j.groups = groups;
      return;
    }
  Judgement j;
  j.id = JudgementId::fresh();
  j.yardstick = rule.key;
  j.groups = groups;
  p.judgements.push_back(std::move(j));
}

/// "vertical sky component"
std::string inSentence(StudyKind kind) {
  std::string name = studyName(kind);
  name[0] = char(std::tolower(static_cast<unsigned char>(name[0])));
  return name;
}

SunHoursSettings wholeDay(const Project& p, int month, int day) {
  SunHoursSettings s;
  s.dates = {{p.site.year, month, day}};
  s.sunriseToSunset = true;
  return s;
}

/// Eyes in the rooms that count: a few with lines of sight for glare, a map of them for the view.
Expected<Asked> throughEyes(Project p, StudyKind kind, const YardstickShelf& shelf) {
  if (std::none_of(p.rooms.begin(), p.rooms.end(), [](const Room& r) { return r.counted; }))
    return fail("No room is regularly occupied: draw rooms, or take them from a mass, in the Rooms step.");
  if (kind == StudyKind::Glare && (!p.site.weather || !p.site.weather->whole()))
    return fail("A year of glare needs a weather year: load a weather file in the Site step.");
  RoomGrid grid;
  grid.height = 1.2;
  grid.wallDistance = kind == StudyKind::Glare ? 1 : 0.5;
  grid.spacing = kind == StudyKind::Glare ? 2.4 : 1;
  grid.directions = kind == StudyKind::Glare ? 4 : 0;
  const GroupId eyes = withGroup(p, kind == StudyKind::Glare ? "Eyes at desks" : "Eyes of the view", grid);
  for (SensorGroup& g : p.groups)
    if (g.id == eyes) g.eyes = true;
  const StudyId id = withStudy(p, studyName(kind), kind, {eyes}).id;
  const Yardstick* rule = shelf.find(kind == StudyKind::Glare ? "european-glare" : "european-view");
  if (rule) layRule(p, *rule, {eyes});
  const std::string judged = rule ? fmt::format(" Judged by “{}”.", rule->title) : std::string();
  return Asked{std::move(p), id,
               fmt::format("Laid: eyes 1.2 m above the floor in regularly occupied rooms, {}.{}",
                           kind == StudyKind::Glare ? "2.4 m apart, looking four ways" : "1 m apart", judged)};
}

std::vector<GroupId> groundAreas(const Project& p) {
  std::vector<GroupId> out;
  for (const SensorGroup& g : p.groups)
    if (std::holds_alternative<GroundArea>(g.layout)) out.push_back(g.id);
  return out;
}

/// The selected elements, else every one that counts; the proposed alone where `proposedFirst` and there are some.
std::vector<ElementId> meant(const Project& p, const std::vector<ElementId>& selected, bool proposedFirst) {
  std::vector<ElementId> all = selected, proposed;
  std::erase_if(all, [&](ElementId id) { return !p.element(id); });
  if (!all.empty()) return all;
  for (const ElementPtr& e : p.elements) {
    if (!standsInTheLight(*e, true) || e->role == Role::Ground) continue;
    all.push_back(e->id);
    if (e->proposed) proposed.push_back(e->id);
  }
  return proposedFirst && !proposed.empty() ? proposed : all;
}

std::string namesOf(const Project& p, const std::vector<GroupId>& groups) {
  std::string out;
  for (std::size_t k = 0; k < groups.size() && k < 3; ++k)
    out += (k ? ", " : "") + fmt::format("“{}”", p.group(groups[k])->name);
  return groups.size() > 3 ? out + fmt::format(" and {} more", groups.size() - 3) : out;
}

/// The areas that are drawn, else the ground around what stands there.
Expected<std::vector<GroupId>> ground(Project& p, std::string& told) {
  std::vector<GroupId> groups = groundAreas(p);
  if (!groups.empty()) {
    told = "on " + namesOf(p, groups);
    return groups;
  }
  GroundAround around;
  around.elements = meant(p, {}, true);
  if (around.elements.empty())
    return fail("There is no ground to look at yet: draw an area (A), or a mass to look around.");
  groups.push_back(withGroup(p, "Ground around", around));
  told = "on the ground 20 m around the masses; draw an area (A) to judge that instead";
  return groups;
}

Expected<Asked> sunOnGround(Project p, const Yardstick* rule) {
  std::string where;
  const auto groups = ground(p, where);
  if (!groups) return tl::unexpected(groups.error());
  Study& s = withStudy(p, "Sun on the ground", StudyKind::SunHours, *groups);
  s.sunHours = wholeDay(p, 3, 21);
  if (rule)
    if (const auto asked = settingsOf(*rule, p.site)) s.sunHours = *asked;
  const StudyId id = s.id;
  std::string told = fmt::format("Laid: sun hours {}, {}", where, settingsText(s.sunHours));
  if (rule) {
    layRule(p, *rule, *groups);
    told += fmt::format("; judged by “{}”", rule->title);
  }
  return Asked{std::move(p), id, told + "."};
}

Expected<Asked> sunOnFacades(Project p, const std::vector<ElementId>& selected) {
  FaceGrid grid;
  for (ElementId id : meant(p, selected, true)) grid.faces.push_back({id, std::nullopt});
  if (grid.faces.empty())
    return fail("There is no mass whose facades could be looked at: draw one (D), or import a model.");
  const std::size_t n = grid.faces.size();
  const GroupId group = withGroup(p, n == 1 ? p.element(grid.faces[0].element)->name + ", walls" : "Facades", grid);
  Study& s = withStudy(p, "Sun on the facades", StudyKind::SunHours, {group});
  s.sunHours = wholeDay(p, 3, 21);
  const StudyId id = s.id;
  std::string told =
      fmt::format("Laid: a grid of 1 m on the walls of {}, sun hours on 21 Mar from sunrise to sunset. "
                  "No rule judges a whole facade; windows have theirs.",
                  n == 1 ? fmt::format("“{}”", p.element(grid.faces[0].element)->name) : counted(n, "mass", "masses"));
  return Asked{std::move(p), id, std::move(told)};
}

/// Within 100 m of something proposed, or where nothing is.
bool nearProposal(const Project& p, const Element& e) {
  constexpr double reach = 100;
  const Box3 box = boxOf(e);
  bool any = false;
  for (const ElementPtr& other : p.elements) {
    if (!other->proposed || !other->counted) continue;
    any = true;
    const Box3 b = boxOf(*other);
    if (b.low.x - reach < box.high.x && b.high.x + reach > box.low.x && b.low.y - reach < box.high.y &&
        b.high.y + reach > box.low.y)
      return true;
  }
  return !any;
}

/// Of masses without windows those selected, else what stands near the proposal.
std::vector<ElementId> bareMasses(const Project& p, const std::vector<ElementId>& selected) {
  std::vector<ElementId> out;
  for (ElementId id : meant(p, selected, false)) {
    const ElementPtr e = p.element(id);
    const bool solid = e->role == Role::Building || e->role == Role::Neighbour;
    if (solid && (!selected.empty() || !e->proposed) && nearProposal(p, *e)) out.push_back(id);
  }
  return out;
}

Expected<std::vector<GroupId>> windows(Project& p, const std::vector<ElementId>& selected, std::string& where) {
  WindowPoints at = windowPoints(p, selected);
  if (!at.points.empty()) {
    where = "at " + at.text();
    return std::vector<GroupId>{withGroup(p, "Window middles", std::move(at.points))};
  }
  std::vector<GroupId> groups; // windows marked on facades without rooms
  for (const SensorGroup& g : p.groups)
    if (std::holds_alternative<std::vector<PointSensor>>(g.layout)) groups.push_back(g.id);
  if (!groups.empty()) {
    where = "at " + namesOf(p, groups);
    return groups;
  }
  // Bare masses: a receiver a bay and storey.
  FaceGrid bays;
  bays.bay = 3;
  for (ElementId id : bareMasses(p, selected)) bays.faces.push_back({id, std::nullopt});
  if (bays.faces.empty())
    return fail("There are no windows yet, and no building that could have some: draw windows on a facade, or give a "
                "room windows in the Rooms step.");
  where = "at a point every 3 m of facade and 1.6 m above each floor, since there are no windows yet";
  return std::vector<GroupId>{withGroup(p, "Facades by bay", std::move(bays))};
}

Expected<Asked> sunAtWindows(Project p, const std::vector<ElementId>& selected, const Yardstick* rule) {
  std::string where;
  const auto groups = windows(p, selected, where);
  if (!groups) return tl::unexpected(groups.error());
  if (!p.site.weather) {
    Study& s = withStudy(p, "Sun at windows", StudyKind::SunHours, *groups);
    s.sunHours = wholeDay(p, 3, 21);
    const StudyId id = s.id;
    return Asked{std::move(p), id,
                 fmt::format("Laid: sun hours {} on 21 Mar from sunrise to sunset. With a weather year (Site) the same "
                             "question gives APSH and WPSH.",
                             where)};
  }
  const StudyId id = withStudy(p, "APSH at windows", StudyKind::SunlightYear, *groups).id;
  std::string told = fmt::format("Laid: annual and winter probable sunlight hours {}", where);
  if (rule) {
    layRule(p, *rule, *groups);
    told += fmt::format("; judged by “{}”", rule->title);
  }
  return Asked{std::move(p), id, told + "."};
}

/// The roofs of the selected, else of the proposed, else of all; their own and what stands on them in between.
Expected<Asked> energyOnRoofs(Project p, const std::vector<ElementId>& selected, const Yardstick* rule) {
  if (!p.site.weather) return fail("Irradiation needs a weather year: load a weather file in the Site step.");
  FaceGrid grid;
  grid.walls = false;
  grid.roofs = true;
  for (ElementId id : meant(p, selected, true)) grid.faces.push_back({id, std::nullopt});
  if (grid.faces.empty())
    return fail("There is no mass whose roof could be looked at: draw one (D), or import a model.");
  const std::size_t n = grid.faces.size();
  const GroupId group = withGroup(p, n == 1 ? p.element(grid.faces[0].element)->name + ", roof" : "Roofs", grid);
  const StudyId id = withStudy(p, "Sun energy on the roofs", StudyKind::Irradiation, {group}).id;
  std::string told = fmt::format("Laid: a grid of 1 m on the {}, irradiation of the whole weather year",
                                 n == 1 ? fmt::format("roof of “{}”", p.element(grid.faces[0].element)->name)
                                        : fmt::format("roofs of {} masses", n));
  if (rule) {
    layRule(p, *rule, {group});
    told += fmt::format("; judged by “{}”", rule->title);
  }
  return Asked{std::move(p), id, told + "."};
}

Expected<Asked> sunOfDwellings(Project p, const std::vector<ElementId>& selected, const Yardstick& rule) {
  std::string where = "in the groups of dwellings";
  std::vector<GroupId> groups;
  for (const SensorGroup& g : p.groups)
    if (!g.dwelling.empty()) groups.push_back(g.id);
  if (groups.empty()) { // each room with windows as a dwelling
    where = "at windows, each room as a dwelling's living room";
    const std::vector<PointSensor> middles = windowPoints(p, selected).points;
    for (const Room& r : p.rooms) {
      std::vector<PointSensor> own;
      for (const PointSensor& s : middles)
        if (s.name.starts_with(r.name + ", ")) own.push_back(s);
      if (own.empty()) continue;
      groups.push_back(withGroup(p, "Windows of " + r.name, std::move(own)));
      for (SensorGroup& g : p.groups)
        if (g.id == groups.back()) g.dwelling = r.name, g.subject = Subject::LivingRoom;
    }
  }
  std::map<std::string, std::string> changed;
  if (const auto masses = groups.empty() ? bareMasses(p, selected) : std::vector<ElementId>{}; !masses.empty()) {
    auto made = dwellingsFromFacades(p, masses);
    if (!made) return tl::unexpected(made.error());
    p = std::move(made->project);
    groups = made->groups;
    where =
        fmt::format("at {} of {}, three windows of a storey and side each",
                    counted(groups.size(), "dwelling", "dwellings"), counted(masses.size(), "building", "buildings"));
    if (rule.has("subject")) {
      changed["subject"] = "living room"; // nobody has said which open space is whose
      where += "; by their living rooms alone, since no open space is drawn yet";
    }
  }
  if (groups.empty())
    return fail("There is no dwelling yet: give rooms windows, or name a dwelling at groups of sensors.");
  const auto settings = settingsOf(rule, p.site);
  if (!settings) return tl::unexpected(settings.error());
  Study& s = withStudy(p, rule.title, StudyKind::SunHours, groups);
  s.sunHours = *settings;
  const StudyId id = s.id;
  layRule(p, rule, groups);
  for (Judgement& j : p.judgements)
    if (j.yardstick == rule.key)
      for (const auto& [key, value] : changed) j.changed[key] = value;
  return Asked{std::move(p), id, fmt::format("Laid: sun hours {}; judged by “{}”.", where, rule.title)};
}

Outcome roomsAreThere(const Project& p) {
  if (p.rooms.empty())
    return fail(
        "There are no rooms yet. Make them in the Rooms step: from a selected mass, or drawn by their corners.");
  if (std::none_of(p.rooms.begin(), p.rooms.end(), [](const Room& r) { return r.counted; }))
    return fail("No room is regularly occupied: say so of one in the Rooms step.");
  return {};
}

/// All rooms, counted for a rule or not: a corridor is heated too.
Expected<Asked> heatOfRooms(Project p) {
  if (p.rooms.empty()) return tl::unexpected(roomsAreThere(p).error());
  if (!p.site.weather || !p.site.weather->whole())
    return fail("Heating and cooling need a weather year: load a weather file in the Site step.");
  RoomGrid grid;
  grid.height = 0.76;
  grid.spacing = 1;
  grid.wallDistance = 0.5;
  for (const Room& r : p.rooms) grid.rooms.push_back(r.id);
  const GroupId group = withGroup(p, "Rooms that are heated", grid);
  const StudyId id = withStudy(p, "What light costs", StudyKind::Energy, {group}).id;
  std::size_t known = 0;
  for (const Room& r : p.rooms) known += useOfRoom(p.heat, r.use).own;
  return Asked{std::move(p), id,
               fmt::format("Laid: a grid of at most 1 m in {}, for the daylight that dims their lamps, and a year of "
                           "heating, cooling and lighting; {} of them {} a use that is known (Rooms).",
                           counted(grid.rooms.size(), "room", "rooms"), known, known == 1 ? "has" : "have")};
}

/// What a room without glazing will say, before it says it.
std::string glazingNote(const Project& p) {
  std::size_t dark = 0;
  for (const RoomFacts& r : roomFacts(p)) dark += r.counted && r.allWindows() <= 0;
  return dark == 0 ? "" : fmt::format(" {} no window yet and will be dark.", counted(dark, "room has", "rooms have"));
}

Expected<Asked> inRooms(Project p, const Yardstick& rule) {
  if (Outcome o = roomsAreThere(p); !o) return tl::unexpected(o.error());
  if (studyKindOf(rule.measure) == StudyKind::Year && !p.site.weather)
    return fail("A daylight year needs a weather year: load a weather file in the Site step.");
  p = withSetUp(std::move(p), rule);
  // A target by the place's diffuse light needs a weather year; the factor itself does not.
  const bool judged = p.site.weather || rule.measure != Measure::ProvisionFactor;
  if (!judged) std::erase_if(p.judgements, [&](const Judgement& j) { return j.yardstick == rule.key; });
  StudyId id;
  for (const Study& s : p.studies)
    if (s.name == rule.title) id = s.id;
  const RoomGrid grid = gridOf(rule);
  std::string told =
      fmt::format("Laid: a grid of at most {:g} m, {:g} m above the floor of regularly occupied rooms; {}; "
                  "{} “{}”.{}",
                  grid.spacing, grid.height, inSentence(studyKindOf(rule.measure)),
                  judged ? "judged by" : "with a weather year (Site) it is judged by", rule.title, glazingNote(p));
  return Asked{std::move(p), id, std::move(told)};
}

} // namespace

Expected<Asked> ask(Project p, std::string_view question, const std::vector<ElementId>& selected,
                    const YardstickShelf& shelf) {
  if (question == "sun-ground") return sunOnGround(std::move(p), shelf.find("amenity-ground"));
  if (question == "sun-facades") return sunOnFacades(std::move(p), selected);
  if (question == "sun-energy") return energyOnRoofs(std::move(p), selected, shelf.find("roof-irradiation"));
  if (question == "sun-windows") return sunAtWindows(std::move(p), selected, shelf.find("window-sunlight"));
  const bool year = question == "room-year";
  if (year || question == "room-daylight") {
    const Yardstick* rule = shelf.find(year ? "daylight-credit" : "european-provision-factor");
    if (!rule) return fail("The rule that this question goes by is not on the shelf of yardsticks.");
    return inRooms(std::move(p), *rule);
  }
  if (question == "room-glare") return throughEyes(std::move(p), StudyKind::Glare, shelf);
  if (question == "room-view") return throughEyes(std::move(p), StudyKind::ViewOut, shelf);
  if (question == "room-energy") return heatOfRooms(std::move(p));
  std::vector<std::string> known;
  for (const Question& q : questions) known.push_back(q.key);
  const std::string near = meantWord(std::string(question), known);
  return fail(fmt::format("\"{}\" is no question known here{}.", question,
                          near.empty() ? "" : fmt::format("; \"{}\" is meant?", near)));
}

Expected<Asked> askRule(Project p, const Yardstick& rule, const std::vector<ElementId>& selected,
                        const YardstickShelf& shelf) {
  const StudyKind kind = studyKindOf(rule.measure);
  if (ofRoomGrids(rule.measure)) return inRooms(std::move(p), rule);
  if (ofRooms(rule.measure)) { // of the windows themselves, told beside a daylight year
    auto year = ask(std::move(p), "room-year", selected, shelf);
    if (!year) return year;
    layRule(year->project, rule, {});
    year->told += fmt::format(" “{}” is judged at the windows themselves and stands beside it.", rule.title);
    return year;
  }
  if (kind == StudyKind::SunHours && rule.has("subject")) return sunOfDwellings(std::move(p), selected, rule);
  if (kind == StudyKind::SunHours) return sunOnGround(std::move(p), &rule);
  if (kind == StudyKind::SunlightYear && !p.site.weather)
    return fail("Probable sunlight hours need a weather year: load a weather file in the Site step.");
  if (kind == StudyKind::SunlightYear) return sunAtWindows(std::move(p), selected, &rule);
  if (kind == StudyKind::Irradiation) return energyOnRoofs(std::move(p), selected, &rule);
  if (kind == StudyKind::Glare || kind == StudyKind::ViewOut) return throughEyes(std::move(p), kind, shelf);
  std::string where;
  const auto groups = windows(p, selected, where);
  if (!groups) return tl::unexpected(groups.error());
  const StudyId id = withStudy(p, rule.title, kind, *groups).id;
  layRule(p, rule, *groups);
  return Asked{std::move(p), id, fmt::format("Laid: {} {}; judged by “{}”.", inSentence(kind), where, rule.title)};
}

} // namespace noonward
