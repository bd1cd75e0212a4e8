// The measures of rooms: a daylight credit by sDA and ASE, provision both ways, sun at openings; and what each proposes.

#include "core/model/edit.h"
#include "core/studies/hourly_sky.h"
#include "core/studies/opening_sun.h"
#include "core/yardsticks/judge.h"
#include <algorithm>
#include <fmt/format.h>
#include <numeric>

namespace noonward {

namespace {

const Room* roomOf(const Project& p, const YearFacts& f, std::size_t space) { return f.rooms[space] ? p.room(f.rooms[space]) : nullptr; }

std::string certainText(double certainty) {
  return certainty >= 0.9995 ? "certain" : fmt::format("{:.{}f} % certain", 100 * certainty, certainty > 0.99 ? 1 : 0);
}

/// Where a study is not as a yardstick proposes.
std::vector<std::string> departuresOf(const Project& p, const Yardstick& y, const std::vector<GroupId>& groups, const YearSettings* is) {
  std::vector<std::string> out;
  const RoomGrid wanted = gridOf(y);
  for (GroupId id : groups) {
    const SensorGroup* g = p.group(id);
    const RoomGrid* grid = g ? std::get_if<RoomGrid>(&g->layout) : nullptr;
    if (!g) continue;
    if (!grid) {
      out.push_back(fmt::format("\"{}\" is no grid of rooms", g->name));
      continue;
    }
    if (std::abs(grid->height - wanted.height) > 0.005) out.push_back(fmt::format("\"{}\": working plane {:g} m above the floor, {:g} m proposed", g->name, grid->height, wanted.height));
    if (grid->spacing > wanted.spacing + 0.005) out.push_back(fmt::format("\"{}\": spacing {:g} m, {:g} m at most proposed", g->name, grid->spacing, wanted.spacing));
    if (std::abs(grid->wallDistance - wanted.wallDistance) > 0.005) out.push_back(fmt::format("\"{}\": {:g} m from the walls, {:g} m proposed", g->name, grid->wallDistance, wanted.wallDistance));
  }
  if (!is) return out;
  const YearSettings w = yearSettingsOf(y, *is);
  const auto differs = [&](double a, double b, const char* what, const char* unit) {
    if (std::abs(a - b) > 1e-9) out.push_back(fmt::format("{} {:g} {}, {:g} {} proposed", what, a, unit, b, unit));
  };
  if (y.measure == Measure::SdaCredit) {
    if (is->beginMinute != w.beginMinute || is->endMinute != w.endMinute)
      out.push_back(fmt::format("hours {} to {}, {} to {} proposed", clockText(is->beginMinute), clockText(is->endMinute), clockText(w.beginMinute), clockText(w.endMinute)));
    if (is->weekdaysOnly) out.push_back("Monday to Friday, every day proposed");
    if (!is->clockChanges) out.push_back("standard time all year, the site's clock proposed");
    differs(is->metrics.threshold, w.metrics.threshold, "enough light", "lx");
    differs(100 * is->metrics.autonomy, 100 * w.metrics.autonomy, "share of hours", "%");
    differs(is->metrics.beam, w.metrics.beam, "beam of ASE", "lx");
    differs(is->metrics.beamHours, w.metrics.beamHours, "hours of ASE", "h");
  }
  if (is->blinds != w.blinds || !is->groupBlinds.empty()) out.push_back(fmt::format("{}, {} proposed", blindsText(*is), blindsText(w)));
  if (y.measure == Measure::SdaCredit && (is->blinds != BlindRule::Never || !is->groupBlinds.empty())) {
    differs(is->closesAt, w.closesAt, "blinds close at", "lx");
    differs(100 * is->closesAbove, 100 * w.closesAbove, "blinds close above", "% of the sensors");
    differs(100 * is->clothStraight, 100 * w.clothStraight, "closed cloth lets through straight", "%");
    differs(100 * is->clothScattered, 100 * w.clothScattered, "closed cloth scatters", "%");
    if (is->clothReflected != w.clothReflected) out.push_back(fmt::format("{}, {} proposed", clothReflectedText(*is), clothReflectedText(w)));
  }
  if (is->glassKept != 1) out.push_back(fmt::format("a further {:g} % lost in frames and dirt", 100 * (1 - is->glassKept)));
  return out;
}

int levelAsked(const Yardstick& y) { return y.word("level") == "high" ? 3 : y.word("level") == "medium" ? 2 : 1; }
const char* levelText(int level) {
  constexpr std::array<const char*, 4> names{"none", "minimum", "medium", "high"};
  return names[std::size_t(level)];
}

Verdict judgeCredit(const Project& p, const Yardstick& y, const YearFacts& f, const YearResult& r, Verdict v) {
  if (!r.everySpace) return notJudged(std::move(v), "not every room is done");
  const std::array<double, 3> steps = yearSettingsOf(y).steps;
  std::array<double, 3> points{};
  std::size_t at = 0;
  for (const char* key : {"first", "second", "third"})
    if (y.number(fmt::format("{}-step", key)) > 0) points[at++] = y.number(fmt::format("{}-points", key));
  const double limit = y.number("ase-limit") / 100;
  const bool strict = y.word("above-limit") == "falls short";
  int bright = 0, owed = 0;
  for (std::size_t k = 0; k < r.spaces.size(); ++k) {
    const Room* room = roomOf(p, f, k);
    if (!f.counted[k] || f.sensors.groups[k].count == 0) continue;
    const SpaceYear& s = r.spaces[k];
    const bool above = s.ase > limit + 1e-9;
    VerdictRow row{f.sensors.groups[k].name, Outcome3::Meets, 100 * s.sda, NAN, fmt::format("sDA {:.1f} ± {:.1f} %, ASE {:.1f} %", 100 * s.sda, 100 * r.sdaError[k], 100 * s.ase)};
    if (above) {
      ++bright;
      const bool told = room && !room->glare.empty();
      owed += !told;
      row.outcome = strict ? Outcome3::FallsShort : told ? Outcome3::Meets : Outcome3::NotJudged;
      row.text += fmt::format(", above {:g} %: {}", 100 * limit, told ? room->glare : "a remark on glare is owed");
    }
    v.rows.push_back(std::move(row));
  }
  const int reached = stepsReached(r.building.sda, steps);
  v.points = reached > 0 ? points[std::size_t(reached - 1)] : 0;
  v.unit = "%";
  v.figure = 100 * r.building.sda;
  v.needed = 100 * steps[0];
  v.certainty = certaintyOfStep(r.building.sda, r.buildingSdaError, steps);
  const bool held = !strict || bright == 0;
  if (!held) v.points = 0;
  v.outcome = reached > 0 && held ? Outcome3::Meets : Outcome3::FallsShort;
  const std::string figure = fmt::format("sDA {:.1f} ± {:.1f} %", v.figure, 100 * r.buildingSdaError);
  if (reached == 0)
    v.text = fmt::format("falls short by {:.1f} points of sDA ({}, {})", v.needed - v.figure, figure, certainText(v.certainty));
  else if (!held)
    v.text = fmt::format("falls short: {} room{} above {:g} % ASE", bright, bright == 1 ? "" : "s", 100 * limit);
  else
    v.text = fmt::format("meets: {:g} point{} ({}, {})", v.points, v.points == 1 ? "" : "s", figure, certainText(v.certainty));
  v.detail = fmt::format("{} of the floor that counts, ASE {:.1f} %", figure, 100 * r.building.ase);
  if (std::size_t(reached) < steps.size() && steps[std::size_t(reached)] < noStep)
    v.detail += fmt::format("; {:.1f} points of sDA to the step of {:g} % ({:g} points)", 100 * (steps[std::size_t(reached)] - r.building.sda), 100 * steps[std::size_t(reached)], points[std::size_t(reached)]);
  if (bright > 0) v.detail += fmt::format("; {} room{} above {:g} % ASE", bright, bright == 1 ? "" : "s", 100 * limit);
  if (owed > 0 && !strict) v.notes.push_back(fmt::format("{} room{} above the limit of ASE ha{} no remark on glare yet.", owed, owed == 1 ? "" : "s", owed == 1 ? "s" : "ve"));
  return v;
}

Verdict judgeProvision(const Project& p, const Yardstick& y, const YearFacts& f, const YearResult& r, Verdict v) {
  if (!r.everySpace) return notJudged(std::move(v), "not every room is done");
  const int asked = levelAsked(y);
  const double needed = y.number("hours");
  int good = 0, all = 0;
  v.certainty = 1;
  for (std::size_t k = 0; k < r.spaces.size(); ++k) {
    if (!f.counted[k] || f.sensors.groups[k].count == 0) continue;
    ProvisionHours hours = r.provision[k];
    for (double& h : hours) h += provisionNeeded - needed; // judged against the hours of the file
    const ProvisionLevel level = provisionLevel(hours, r.provisionError[k], f.rooflit[k]);
    ++all;
    good += level.level >= asked;
    v.certainty = std::min(v.certainty, level.certainty);
    const auto at = std::size_t(asked - 1);
    std::string text = f.rooflit[k] ? fmt::format("{}; {:.0f} lx on 95 % in {:.0f} h (rooflights alone)", levelText(level.level), provisionLevels[at].target, r.provision[k][at + 4])
                                    : fmt::format("{}; {:.0f} lx on half in {:.0f} h, {:.0f} lx on 95 % in {:.0f} h", levelText(level.level), provisionLevels[at].target, r.provision[k][at], provisionLevels[at + 3].target, r.provision[k][at + 3]);
    v.rows.push_back({f.sensors.groups[k].name, level.level >= asked ? Outcome3::Meets : Outcome3::FallsShort, double(level.level), NAN, std::move(text)});
  }
  if (all == 0) return notJudged(std::move(v), "no room counts");
  v.unit = "%";
  v.figure = 100.0 * good / all;
  v.needed = 100;
  v.outcome = good == all ? Outcome3::Meets : Outcome3::FallsShort;
  v.text = v.outcome == Outcome3::Meets ? fmt::format("meets: every room reaches {} ({})", levelText(asked), certainText(v.certainty))
                                        : fmt::format("falls short: {} of {} rooms reach {} ({})", good, all, levelText(asked), certainText(v.certainty));
  v.detail = fmt::format("{:.0f} h of the 4380 with the most diffuse light are asked for; {}", needed, blindsText(f.settings));
  (void)p;
  return v;
}

/// Second way: daylight factors that give the levels against the median diffuse light.
Verdict judgeFactor(const Project& p, const Yardstick& y, const FactorAnswered& a, Verdict v) {
  const auto sky = hourlySky(p);
  if (!sky) return notJudged(std::move(v), lowered(sky.error().text()));
  std::vector<double> light;
  const std::vector<bool> daylight = daylightHours((*sky)->diffuse);
  for (std::size_t h = 0; h < daylight.size(); ++h)
    if (daylight[h]) light.push_back((*sky)->diffuse[h]);
  std::sort(light.begin(), light.end());
  const double typical = 0.5 * (light[light.size() / 2 - 1] + light[light.size() / 2]); // Ev,d,med
  const int asked = levelAsked(y);
  v.key = a.result->key;
  int good = 0, all = 0;
  for (std::size_t k = 0; k < a.sensors.groups.size(); ++k) {
    const SensorGridFacts& g = a.sensors.groups[k];
    const Room* room = g.room >= 0 ? &p.rooms[std::size_t(g.room)] : nullptr;
    if (g.count == 0 || (room && !room->counted)) continue;
    const OpeningLayout layout = placedOpenings(p);
    bool walls = false, top = false;
    for (const PlacedOpening& o : layout.openings)
      if (int(o.room) == g.room) (o.opening.edge < 0 ? top : walls) = true;
    const bool rooflit = top && !walls;
    std::vector<float> values(a.result->value.begin() + std::ptrdiff_t(g.first), a.result->value.begin() + std::ptrdiff_t(g.first + g.count));
    std::sort(values.begin(), values.end(), std::greater<>());
    const auto reachedBy = [&](double share) { return double(values[std::min(values.size() - 1, std::size_t(std::max(1.0, std::ceil(share * double(values.size()) - 1e-9))) - 1)]); };
    const double half = reachedBy(0.5), most = reachedBy(0.95);
    const auto target = [&](int level, bool wide) { return 100 * provisionLevels[std::size_t(level - 1 + (wide ? 0 : 3))].target / typical; };
    int level = 0;
    while (level < 3 && (rooflit ? most >= target(level + 1, true) : half >= target(level + 1, true) && most >= target(level + 1, false))) ++level;
    ++all;
    good += level >= asked;
    v.rows.push_back({g.name, level >= asked ? Outcome3::Meets : Outcome3::FallsShort, double(level), NAN,
                      fmt::format("{}; half of the plane has {:.2f} % ({:.2f} % asked), 95 % of it {:.2f} % ({:.2f} %)", levelText(level), half, target(asked, true), most, rooflit ? target(asked, true) : target(asked, false))});
  }
  if (all == 0) return notJudged(std::move(v), "no room counts");
  v.unit = "%";
  v.figure = 100.0 * good / all;
  v.needed = 100;
  v.outcome = good == all ? Outcome3::Meets : Outcome3::FallsShort;
  v.text = good == all ? fmt::format("meets: every room reaches {}", levelText(asked)) : fmt::format("falls short: {} of {} rooms reach {}", good, all, levelText(asked));
  v.detail = fmt::format("against a median diffuse illuminance of {:.0f} lx", typical);
  return v;
}

Verdict judgeOpenings(const Project& p, const Yardstick& y, Verdict v) {
  const std::string day = y.word(p.site.place.latitude >= 0 ? "date-north" : "date-south");
  const auto date = dateFromText(fmt::format("{} {}", day, p.site.year));
  if (!date) return notJudged(std::move(v), fmt::format("\"{}\" is no day such as \"21 Mar\"", day));
  const auto rooms = openingSun(p, {*date, radians(y.number("least-altitude")), y.number("height"), y.number("above-sill")});
  if (!rooms) return notJudged(std::move(v), lowered(rooms.error().text()));
  constexpr std::array<double, 3> levels{1.5, 3, 4};
  const int asked = levelAsked(y);
  int good = 0, all = 0;
  double most = 0;
  for (const RoomSun& s : *rooms) {
    const Room& room = p.rooms[s.room];
    if (!room.counted) continue;
    ++all;
    const int level = stepsReached(s.hours + 1e-6, levels);
    good += level >= asked;
    most = std::max(most, s.hours);
    std::string best;
    double longest = -1;
    for (const OpeningSun& o : s.each)
      if (o.hours > longest) longest = o.hours, best = o.opening;
    v.rows.push_back({room.name, level >= asked ? Outcome3::Meets : Outcome3::FallsShort, s.hours, NAN,
                      s.openings == 0 ? "no opening" : fmt::format("{}; {:.2f} h at {} opening{}, most at {} ({:.2f} h)", levelText(level), s.hours, s.openings, s.openings == 1 ? "" : "s", best, longest)});
  }
  if (all == 0) return notJudged(std::move(v), "no room counts");
  const bool one = y.word("judged") == "one room";
  v.unit = "h";
  v.figure = most;
  v.needed = levels[std::size_t(asked - 1)];
  v.outcome = (one ? good > 0 : good == all) ? Outcome3::Meets : Outcome3::FallsShort;
  v.text = fmt::format("{}: {} of {} rooms have {:g} h or more", v.outcome == Outcome3::Meets ? "meets" : "falls short", good, all, v.needed);
  v.detail = fmt::format("on {}, sun above {:g}°{}", dayText(*date), y.number("least-altitude"), one ? "; one room is enough" : "");
  return v;
}

} // namespace

YearSettings yearSettingsOf(const Yardstick& y, YearSettings s) {
  if (y.measure == Measure::SdaCredit) {
    s.beginMinute = minutesFromText(y.word("window-from")).value_or(s.beginMinute);
    s.endMinute = minutesFromText(y.word("window-to")).value_or(s.endMinute);
    s.weekdaysOnly = false;
    s.clockChanges = true;
    s.metrics.threshold = y.number("threshold");
    s.metrics.autonomy = y.number("share-of-hours") / 100;
    s.metrics.beam = y.number("beam");
    s.metrics.beamHours = y.number("beam-hours");
    s.closesAt = y.number("closes-at");
    s.closesAbove = y.number("closes-above") / 100;
    s.clothStraight = y.number("cloth-straight") / 100;
    s.clothScattered = y.number("cloth-scattered") / 100;
    s.clothReflected.reset();
    if (y.has("cloth-reflected")) s.clothReflected = y.number("cloth-reflected") / 100;
    s.steps.fill(noStep);
    std::size_t at = 0;
    for (const char* key : {"first-step", "second-step", "third-step"})
      if (y.number(key) > 0) s.steps[at++] = y.number(key) / 100;
    s.stopFor = StopFor::Credit;
  }
  if (y.measure == Measure::ProvisionHours) s.stopFor = StopFor::Provision;
  if (y.has("blinds")) s.setBlinds(blindFromKey(y.word("blinds")).value_or(BlindRule::Standard));
  s.glassKept = 1;
  return s;
}

RoomGrid gridOf(const Yardstick& y) {
  RoomGrid g;
  g.height = y.number("grid-height");
  g.spacing = y.number("grid-spacing");
  g.wallDistance = y.number("wall-distance");
  return g;
}

Project withSetUp(Project p, const Yardstick& y) {
  Judgement j;
  j.id = JudgementId::fresh();
  j.yardstick = y.key;
  if (y.has("grid-height")) {
    const std::string name = y.title + " grid";
    auto group = std::find_if(p.groups.begin(), p.groups.end(), [&](const SensorGroup& g) { return g.name == name; });
    if (group == p.groups.end()) {
      SensorGroup g;
      g.id = GroupId::fresh();
      g.name = name;
      p.groups.push_back(std::move(g));
      group = p.groups.end() - 1;
    }
    group->layout = gridOf(y);
    j.groups = {group->id};
    const StudyKind kind = y.measure == Measure::ProvisionFactor ? StudyKind::DaylightFactor : StudyKind::Year;
    auto study = std::find_if(p.studies.begin(), p.studies.end(), [&](const Study& s) { return s.name == y.title && s.kind == kind; });
    if (study == p.studies.end()) {
      Study s;
      s.id = StudyId::fresh();
      s.kind = kind;
      s.name = y.title;
      p.studies.push_back(std::move(s));
      study = p.studies.end() - 1;
    }
    study->groups = j.groups;
    if (kind == StudyKind::Year) study->year = yearSettingsOf(y, study->year);
  }
  const auto old = std::find_if(p.judgements.begin(), p.judgements.end(), [&](const Judgement& o) { return o.yardstick == y.key; });
  if (old != p.judgements.end())
    old->groups = j.groups;
  else
    p.judgements.push_back(std::move(j));
  return p;
}

const Study* yearStudyFor(const Project& p, const std::vector<GroupId>& groups) {
  const Study* first = nullptr;
  for (const Study& s : p.studies) {
    if (s.kind != StudyKind::Year) continue;
    if (!groups.empty() && s.groups == groups) return &s;
    if (!first) first = &s;
  }
  return first;
}

Verdict judgeYear(const Project& p, const Yardstick& y, const YearFacts& f, const YearResult& r) {
  Verdict v;
  v.title = y.title;
  v.key = r.key;
  std::vector<GroupId> groups;
  for (const SensorGridFacts& g : f.sensors.groups)
    if (std::find(groups.begin(), groups.end(), g.id) == groups.end()) groups.push_back(g.id);
  v.departures = departuresOf(p, y, groups, &f.settings);
  for (const std::string& d : v.departures) v.notes.push_back("Departs from the yardstick: " + d + ".");
  if (r.certain) v.notes.push_back("The run stopped by itself when the verdict was certain.");
  if (r.end == RunEnd::Enough) v.notes.push_back("The run was stopped early; its uncertainty is that of the rays it had.");
  return y.measure == Measure::SdaCredit ? judgeCredit(p, y, f, r, std::move(v)) : judgeProvision(p, y, f, r, std::move(v));
}

Verdict judgeRooms(const Project& p, const Yardstick& y, const std::vector<GroupId>& given, const JudgeRuns& runs) {
  Verdict v;
  v.title = y.title;
  if (p.rooms.empty()) return notJudged(std::move(v), "the project has no rooms");
  if (y.measure == Measure::OpeningSun) return judgeOpenings(p, y, std::move(v));
  std::vector<GroupId> groups = given;
  std::erase_if(groups, [&](GroupId id) {
    const SensorGroup* g = p.group(id);
    return !g || !std::holds_alternative<RoomGrid>(g->layout);
  });
  const Study* study = ofYear(y.measure) ? yearStudyFor(p, groups) : nullptr;
  if (study && groups.empty()) groups = study->groups;
  if (groups.empty())
    for (const SensorGroup& g : p.groups)
      if (std::holds_alternative<RoomGrid>(g.layout)) {
        groups = {g.id};
        break;
      }
  if (groups.empty()) return notJudged(std::move(v), "no room has a grid of sensors");
  if (y.measure == Measure::ProvisionFactor) {
    const auto a = runs.factor(groups);
    if (!a) return notJudged(std::move(v), lowered(a.error().text()));
    v.departures = departuresOf(p, y, groups, nullptr);
    for (const std::string& d : v.departures) v.notes.push_back("Departs from the yardstick: " + d + ".");
    return judgeFactor(p, y, *a, std::move(v));
  }
  const auto a = runs.year(groups, study ? study->year : yearSettingsOf(y));
  if (!a) return notJudged(std::move(v), lowered(a.error().text()));
  return judgeYear(p, y, a->facts, *a->result);
}

} // namespace noonward
