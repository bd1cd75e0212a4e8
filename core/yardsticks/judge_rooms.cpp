// The measures of rooms: a daylight credit by sDA and ASE, provision both ways, sun at openings; and what each
// proposes.

#include "core/base/units.h"
#include "core/base/weighted.h"
#include "core/model/form/edit.h"
#include "core/model/rooms/placing.h"
#include "core/studies/hourly_sky.h"
#include "core/studies/opening_sun.h"
#include "core/yardsticks/judge.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <numeric>

namespace noonward {

namespace {

const Room* roomOf(const Project& p, const YearFacts& f, std::size_t space) {
  return f.rooms[space] ? p.room(f.rooms[space]) : nullptr;
}

bool ofEn17037(Measure m) {
  return m == Measure::ProvisionHours || m == Measure::ProvisionFactor;
}

/// m: the widest cell of EN 17037, 0.5 · 5^log10(d), 10 m at most; d the longer side of what is judged, the shorter
/// where the longer is twice as long or more.
double widestCell(const Outline& room, double band) {
  Box3 box;
  for (Vec2 q : room.outer) box.add({q.x, q.y, 0});
  const double a = std::max(0.1, box.size().x - 2 * band), b = std::max(0.1, box.size().y - 2 * band);
  const double d = std::max(a, b) >= 2 * std::min(a, b) ? std::min(a, b) : std::max(a, b);
  return std::min(10.0, 0.5 * std::pow(5, std::log10(d)));
}

/// Where a study is not as a yardstick proposes.
std::vector<std::string> departuresOf(const Project& p, const Yardstick& y, const std::vector<GroupId>& groups,
                                      const YearSettings* is) {
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
    if (std::abs(grid->height - wanted.height) > 0.005)
      out.push_back(fmt::format("\"{}\": working plane {:g} m above the floor, {:g} m proposed", g->name, grid->height,
                                wanted.height));
    double widest = wanted.spacing;
    if (ofEn17037(y.measure)) { // a room may have as wide cells as the formula gives
      double formula = 1e300;
      for (const Room& room : p.rooms)
        if (grid->rooms.empty() ? room.counted
                                : std::find(grid->rooms.begin(), grid->rooms.end(), room.id) != grid->rooms.end())
          formula = std::min(formula, widestCell(room.outline, grid->wallDistance));
      if (formula < 1e300) widest = std::max(widest, formula);
    }
    if (grid->spacing > widest + 0.005)
      out.push_back(fmt::format("\"{}\": spacing {:g} m, {:g} m at most proposed", g->name, grid->spacing, widest));
    if (std::abs(grid->wallDistance - wanted.wallDistance) > 0.005)
      out.push_back(fmt::format("\"{}\": {:g} m from the walls, {:g} m proposed", g->name, grid->wallDistance,
                                wanted.wallDistance));
    if (grid->layout != wanted.layout)
      out.push_back(
          fmt::format("\"{}\": {}, {} proposed", g->name, gridLayoutText(grid->layout), gridLayoutText(wanted.layout)));
  }
  if (!is) return out;
  const YearSettings w = yearSettingsOf(y, *is);
  const auto differs = [&](double a, double b, const char* what, const char* unit) {
    if (std::abs(a - b) > 1e-9) out.push_back(fmt::format("{} {:g} {}, {:g} {} proposed", what, a, unit, b, unit));
  };
  if (y.measure == Measure::SdaCredit) {
    if (is->beginMinute != w.beginMinute || is->endMinute != w.endMinute)
      out.push_back(fmt::format("hours {} to {}, {} to {} proposed", clockText(is->beginMinute),
                                clockText(is->endMinute), clockText(w.beginMinute), clockText(w.endMinute)));
    if (is->weekdaysOnly) out.push_back("Monday to Friday, every day proposed");
    if (!is->clockChanges) out.push_back("standard time all year, the site's clock proposed");
    differs(is->metrics.threshold, w.metrics.threshold, "enough light", "lx");
    differs(100 * is->metrics.autonomy, 100 * w.metrics.autonomy, "share of hours", "%");
    differs(is->metrics.beam, w.metrics.beam, "beam of ASE", "lx");
    differs(is->metrics.beamHours, w.metrics.beamHours, "hours of ASE", "h");
  }
  if (is->blinds != w.blinds || !is->groupBlinds.empty())
    out.push_back(fmt::format("{}, {} proposed", blindsText(*is), blindsText(w)));
  if (y.measure == Measure::SdaCredit && (is->blinds != BlindRule::Never || !is->groupBlinds.empty())) {
    differs(is->closesAt, w.closesAt, "blinds close at", "lx");
    differs(100 * is->closesAbove, 100 * w.closesAbove, "blinds close above", "% of the sensors");
    differs(100 * is->fabricDirect, 100 * w.fabricDirect, "closed shade fabric lets through straight", "%");
    differs(100 * is->fabricDiffuse, 100 * w.fabricDiffuse, "closed shade fabric scatters", "%");
    if (is->fabricReflectance != w.fabricReflectance)
      out.push_back(fmt::format("{}, {} proposed", fabricText(*is), fabricText(w)));
  }
  if (is->glassKept != 1)
    out.push_back(fmt::format("a further {:g} % lost in frames and dirt", 100 * (1 - is->glassKept)));
  return out;
}

int levelAsked(const Yardstick& y) {
  return y.word("level") == "high" ? 3 : y.word("level") == "medium" ? 2 : 1;
}
const char* levelText(int level) {
  constexpr std::array<const char*, 4> names{"none", "minimum", "medium", "high"};
  return names[std::size_t(level)];
}

/// Why rooms can't be judged as a whole: one that counts is in no grid, or in two. Empty where each is there once.
std::string notEachOnce(const Project& p, const std::vector<RoomId>& judged) {
  std::vector<std::string> none, twice;
  for (const Room& room : p.rooms) {
    if (!room.counted) continue;
    const auto n = std::count(judged.begin(), judged.end(), room.id);
    if (n == 0) none.push_back("\"" + room.name + "\"");
    if (n > 1) twice.push_back("\"" + room.name + "\"");
  }
  const auto few = [](const std::vector<std::string>& names) {
    std::string out = fmt::format(
        "{}", fmt::join(names.begin(), names.begin() + std::ptrdiff_t(std::min<std::size_t>(names.size(), 4)), ", "));
    return names.size() > 4 ? out + fmt::format(" and {} more", names.size() - 4) : out;
  };
  if (!none.empty())
    return fmt::format("{} in no grid of the study: {}. Lay a grid there, or say why {} not regularly occupied",
                       none.size() == 1 ? "one regularly occupied room lies"
                                        : std::to_string(none.size()) + " regularly occupied rooms lie",
                       few(none), none.size() == 1 ? "it is" : "they are");
  if (!twice.empty())
    return fmt::format("{} {} in two grids of the study", few(twice), twice.size() == 1 ? "lies" : "lie");
  return {};
}
std::vector<RoomId> judgedRooms(const YearFacts& f) {
  std::vector<RoomId> out;
  for (std::size_t k = 0; k < f.rooms.size(); ++k)
    if (f.sensors.groups[k].count > 0) out.push_back(f.rooms[k]);
  return out;
}

Verdict judgeCredit(const Project& p, const Yardstick& y, const YearFacts& f, const YearResult& r, Verdict v) {
  if (!r.everySpace) return notJudged(std::move(v), "not every room is done");
  if (const std::string why = notEachOnce(p, judgedRooms(f)); !why.empty()) return notJudged(std::move(v), why);
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
    VerdictRow row{f.sensors.groups[k].name, Outcome3::Meets, 100 * s.sda, NAN,
                   fmt::format("sDA {:.1f} ± {:.1f} %, ASE {:.1f} %", 100 * s.sda, 100 * r.sdaError[k], 100 * s.ase)};
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
    v.text = fmt::format("falls short by {:.1f} points of sDA ({}, {})", v.needed - v.figure, figure,
                         certainText(v.certainty));
  else if (!held)
    v.text = fmt::format("falls short: {} room{} above {:g} % ASE", bright, bright == 1 ? "" : "s", 100 * limit);
  else
    v.text = fmt::format("meets: {:g} point{} ({}, {})", v.points, v.points == 1 ? "" : "s", figure,
                         certainText(v.certainty));
  v.detail = fmt::format("{} of the regularly occupied floor, ASE {:.1f} %", figure, 100 * r.building.ase);
  if (std::size_t(reached) < steps.size() && steps[std::size_t(reached)] < noStep)
    v.detail += fmt::format("; {:.1f} points of sDA to the step of {:g} % ({:g} point{})",
                            100 * (steps[std::size_t(reached)] - r.building.sda), 100 * steps[std::size_t(reached)],
                            points[std::size_t(reached)], points[std::size_t(reached)] == 1 ? "" : "s");
  if (bright > 0) v.detail += fmt::format("; {} room{} above {:g} % ASE", bright, bright == 1 ? "" : "s", 100 * limit);
  if (owed > 0 && !strict)
    v.notes.push_back(fmt::format("{} room{} above the limit of ASE ha{} no remark on glare yet.", owed,
                                  owed == 1 ? "" : "s", owed == 1 ? "s" : "ve"));
  return v;
}

Verdict judgeProvision(const Project& p, const Yardstick& y, const YearFacts& f, const YearResult& r, Verdict v) {
  if (!r.everySpace) return notJudged(std::move(v), "not every room is done");
  if (const std::string why = notEachOnce(p, judgedRooms(f)); !why.empty()) return notJudged(std::move(v), why);
  const int asked = levelAsked(y);
  const double needed = y.number("hours");
  const bool own = y.word("reading") == "own hours";
  int good = 0, all = 0, other = 0;
  TogetherCertain together;
  for (std::size_t k = 0; k < r.spaces.size(); ++k) {
    if (!f.counted[k] || f.sensors.groups[k].count == 0) continue;
    const auto shifted = [&](ProvisionHours h) { // judged against the hours of the file
      for (double& x : h) x += provisionNeeded - needed;
      return h;
    };
    const ProvisionHours &is = own ? r.provisionOwn[k] : r.provision[k],
                         &errors = own ? r.provisionOwnError[k] : r.provisionError[k];
    const ProvisionHours hours = shifted(is);
    const ProvisionLevel level = provisionLevel(hours, errors, f.rooflit[k]);
    ++all;
    good += level.level >= asked;
    other += provisionLevel(shifted(own ? r.provision[k] : r.provisionOwn[k]),
                            own ? r.provisionError[k] : r.provisionOwnError[k], f.rooflit[k])
                 .level >= asked;
    const double reaches = certaintyOfLevel(hours, errors, asked, f.rooflit[k]);
    together.add(level.level >= asked, level.level >= asked ? reaches : 1 - reaches);
    const auto at = std::size_t(asked - 1);
    std::string text = f.rooflit[k] ? fmt::format("{}; {:.0f} lx on 95 % in {:.0f} h (rooflights alone)",
                                                  levelText(level.level), provisionLevels[at].target, is[at + 4])
                                    : fmt::format("{}; {:.0f} lx on half in {:.0f} h, {:.0f} lx on 95 % in {:.0f} h",
                                                  levelText(level.level), provisionLevels[at].target, is[at],
                                                  provisionLevels[at + 3].target, is[at + 3]);
    v.rows.push_back({f.sensors.groups[k].name, level.level >= asked ? Outcome3::Meets : Outcome3::FallsShort,
                      double(level.level), NAN, std::move(text)});
  }
  if (all == 0) return notJudged(std::move(v), "no room is regularly occupied");
  v.certainty = together.certainty();
  v.unit = "%";
  v.figure = 100.0 * good / all;
  v.needed = 100;
  v.outcome = good == all ? Outcome3::Meets : Outcome3::FallsShort;
  v.text = v.outcome == Outcome3::Meets
               ? fmt::format("meets: every room reaches {} ({})", levelText(asked), certainText(v.certainty))
               : fmt::format("falls short: {} of {} rooms reach {} ({})", good, all, levelText(asked),
                             certainText(v.certainty));
  v.detail = fmt::format("{:.0f} h of the 4380 with the most diffuse light are asked for, {}; {}", needed,
                         own ? "each point by its own hours" : "the share of the plane in the same hours",
                         blindsText(f.settings));
  v.notes.push_back(fmt::format("By the other reading ({}) {} of {} rooms reach {}.",
                                own ? "the share of the plane in the same hours" : "each point by its own hours", other,
                                all, levelText(asked)));
  return v;
}

/// The value that a share of a room's plane reaches, with its standard error: from the sixteen replicates where sensors
/// share what is remembered, else that of the sensor which stands there, as if nothing averaged out.
struct Reached {
  double value = 0, error = 0;
};
Reached reachedIn(const LightAnswered& a, const SensorGridFacts& g, double share) {
  constexpr std::size_t of = 16;
  const std::vector<double> weight = weightsOf(a.sensors.areasOf(g.first, g.count), g.count);
  const auto by = [&](auto value) {
    std::vector<std::pair<double, double>> v;
    for (std::size_t i = 0; i < g.count; ++i) v.emplace_back(double(value(g.first + i)), weight[i]);
    return reachedByShare(std::move(v), share);
  };
  Reached out;
  out.value = by([&](std::size_t i) { return a.result->value[i]; });
  double nearest = 1e300;
  for (std::size_t i = g.first; i < g.first + g.count; ++i)
    if (const double d = std::abs(double(a.result->value[i]) - out.value); d < nearest) {
      nearest = d;
      out.error = double(a.result->standardError[i]);
    }
  if (a.result->replicates.size() != of * a.result->value.size()) return out;
  std::array<double, of> each;
  for (std::size_t k = 0; k < of; ++k) each[k] = by([&](std::size_t i) { return a.result->replicates[of * i + k]; });
  const double mean = std::accumulate(each.begin(), each.end(), 0.0) / of;
  double square = 0;
  for (double e : each) square += (e - mean) * (e - mean);
  if (!std::isnan(square)) out.error = 2.131 / 1.960 * std::sqrt(square / (of - 1) / of);
  return out;
}

/// Second way: daylight factors that give the levels against the median diffuse light.
Verdict judgeFactor(const Project& p, const Yardstick& y, const LightAnswered& a, Verdict v) {
  if (a.result->end != RunEnd::Finished) return notJudged(std::move(v), "the run was stopped early");
  const auto sky = hourlySky(p);
  if (!sky) return notJudged(std::move(v), lowered(sky.error().text()));
  std::vector<double> light;
  const std::vector<bool> daylight = daylightHours((*sky)->diffuse);
  for (std::size_t h = 0; h < daylight.size(); ++h)
    if (daylight[h]) light.push_back((*sky)->diffuse[h]);
  std::sort(light.begin(), light.end());
  const double typical = 0.5 * (light[light.size() / 2 - 1] + light[light.size() / 2]); // Ev,d,med
  if (!(typical > 0)) return notJudged(std::move(v), "the weather year has no diffuse light to compare with");
  const int asked = levelAsked(y);
  v.key = a.result->key;
  const OpeningLayout layout = placedOpenings(p);
  std::vector<RoomId> judged;
  int good = 0, all = 0;
  TogetherCertain together;
  for (const SensorGridFacts& g : a.sensors.groups) {
    const Room* room = g.room >= 0 ? &p.rooms[std::size_t(g.room)] : nullptr;
    if (g.count == 0 || !room || !room->counted) continue;
    judged.push_back(room->id);
    for (std::size_t i = g.first; i < g.first + g.count; ++i)
      if (!std::isfinite(a.result->value[i]))
        return notJudged(std::move(v), fmt::format("sensors of \"{}\" have no value", g.name));
    bool walls = false, top = false;
    for (const PlacedOpening& o : layout.openings)
      if (int(o.room) == g.room) (o.opening.edge < 0 ? top : walls) = true;
    const bool rooflit = top && !walls;
    const Reached half = reachedIn(a, g, 0.5), most = reachedIn(a, g, 0.95);
    const auto target = [&](int level, bool wide) {
      return 100 * provisionLevels[std::size_t(level - 1 + (wide ? 0 : 3))].target / typical;
    };
    // What each level asks for: a reached value and its bound.
    const auto asks = [&](int level) {
      std::vector<std::pair<Reached, double>> out;
      if (!rooflit)
        out = {{half, target(level, true)}, {most, target(level, false)}};
      else
        out = {{most, target(level, true)}};
      return out;
    };
    const auto reaches = [&](int level) {
      const auto list = asks(level);
      return std::all_of(list.begin(), list.end(), [](const auto& x) { return x.first.value >= x.second; });
    };
    double certain = 1;
    for (const auto& [is, bound] : asks(asked)) certain *= probabilityAbove(is.value, is.error, bound);
    int level = 0;
    while (level < 3 && reaches(level + 1)) ++level;
    ++all;
    good += level >= asked;
    together.add(level >= asked, level >= asked ? certain : 1 - certain);
    v.rows.push_back(
        {g.name, level >= asked ? Outcome3::Meets : Outcome3::FallsShort, double(level), NAN,
         fmt::format(
             "{}; half of the plane has {:.2f} ± {:.2f} % ({:.2f} % asked), 95 % of it {:.2f} ± {:.2f} % ({:.2f} %)",
             levelText(level), half.value, half.error, target(asked, true), most.value, most.error,
             rooflit ? target(asked, true) : target(asked, false))});
  }
  if (all == 0) return notJudged(std::move(v), "no room is regularly occupied");
  if (const std::string why = notEachOnce(p, judged); !why.empty()) {
    v.rows.clear();
    return notJudged(std::move(v), why);
  }
  v.certainty = together.certainty();
  v.unit = "%";
  v.figure = 100.0 * good / all;
  v.needed = 100;
  v.outcome = good == all ? Outcome3::Meets : Outcome3::FallsShort;
  v.text = good == all ? fmt::format("meets: every room reaches {} ({})", levelText(asked), certainText(v.certainty))
                       : fmt::format("falls short: {} of {} rooms reach {} ({})", good, all, levelText(asked),
                                     certainText(v.certainty));
  v.detail = fmt::format("against a median diffuse illuminance of {:.0f} lx", typical);
  return v;
}

struct MinAltitude {
  double degrees = 0;
  std::string from;
};
/// Typed, or by the table of the yardstick; an error where nothing is chosen.
Expected<MinAltitude> leastAltitudeOf(const Yardstick& y) {
  const std::string word = y.word("min-altitude");
  if (word.empty()) return MinAltitude{y.number("min-altitude"), "as typed"};
  if (const auto typed = numberFromText(word)) return MinAltitude{*typed, "as typed"};
  for (const Parameter& q : y.parameters)
    if (q.key == "min-altitude")
      for (const auto& [name, degrees] : q.table)
        if (name == word) return MinAltitude{degrees, "by the table for " + name + ", from memory"};
  return fail(
      "no least altitude of the sun is chosen: take your country's from the table of the yardstick, or type degrees");
}

Verdict judgeOpenings(const Project& p, const Yardstick& y, Verdict v) {
  const std::string day = y.word(p.site.place.latitude >= 0 ? "date-north" : "date-south");
  const auto date = dateFromText(fmt::format("{} {}", day, p.site.year));
  if (!date) return notJudged(std::move(v), fmt::format("\"{}\" is no day such as \"21 Mar\"", day));
  const auto least = leastAltitudeOf(y);
  if (!least) return notJudged(std::move(v), least.error().message);
  const auto rooms = openingSun(p, {*date, radians(least->degrees), y.number("height"), y.number("above-sill")});
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
      if (o.hours > longest) {
        longest = o.hours;
        best = o.opening;
      }
    v.rows.push_back({room.name, level >= asked ? Outcome3::Meets : Outcome3::FallsShort, s.hours, NAN,
                      s.openings == 0
                          ? "no opening"
                          : fmt::format("{}; {:.2f} h at {} opening{}, most at {} ({:.2f} h)", levelText(level),
                                        s.hours, s.openings, s.openings == 1 ? "" : "s", best, longest)});
  }
  if (all == 0) return notJudged(std::move(v), "no room is regularly occupied");
  const bool one = y.word("judged") == "one room";
  v.unit = "h";
  v.figure = most;
  v.needed = levels[std::size_t(asked - 1)];
  v.outcome = (one ? good > 0 : good == all) ? Outcome3::Meets : Outcome3::FallsShort;
  v.text = fmt::format("{}: {} of {} rooms have {:g} h or more", v.outcome == Outcome3::Meets ? "meets" : "falls short",
                       good, all, v.needed);
  v.detail = fmt::format("on {}, sun above {:g}° ({}){}", dayText(*date), least->degrees, least->from,
                         one ? "; one room is enough" : "");
  v.notes.push_back("Exact to the second; stretches and gaps under 20 s may be missed.");
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
    s.metrics.beam = y.number("ase-threshold");
    s.metrics.beamHours = y.number("ase-hours");
    s.closesAt = y.number("closes-at");
    s.closesAbove = y.number("closes-above") / 100;
    s.fabricDirect = y.number("fabric-direct") / 100;
    s.fabricDiffuse = y.number("fabric-diffuse") / 100;
    s.fabricReflectance.reset();
    if (y.has("fabric-reflectance")) s.fabricReflectance = y.number("fabric-reflectance") / 100;
    s.steps.fill(noStep);
    std::size_t at = 0;
    for (const char* key : {"first-step", "second-step", "third-step"})
      if (y.number(key) > 0) s.steps[at++] = y.number(key) / 100;
    s.stopFor = StopFor::Credit;
  }
  if (y.measure == Measure::ProvisionHours) {
    s.stopFor = StopFor::Provision;
    s.provisionReading = y.word("reading") == "own hours" ? ProvisionReading::OwnHours : ProvisionReading::SameHours;
  }
  if (y.has("blinds")) s.setBlinds(blindFromKey(y.word("blinds")).value_or(BlindRule::Standard));
  s.glassKept = 1;
  return s;
}

RoomGrid gridOf(const Yardstick& y) {
  RoomGrid g;
  g.height = y.number("grid-height");
  g.spacing = y.number("grid-spacing");
  g.wallDistance = y.number("wall-distance");
  if (y.has("grid-layout")) g.layout = gridLayoutFromKey(y.word("grid-layout")).value_or(g.layout);
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
    const StudyKind kind = ofYear(y.measure) ? StudyKind::Year : studyKindOf(y.measure);
    auto study = std::find_if(p.studies.begin(), p.studies.end(),
                              [&](const Study& s) { return s.name == y.title && s.kind == kind; });
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
  const auto old =
      std::find_if(p.judgements.begin(), p.judgements.end(), [&](const Judgement& o) { return o.yardstick == y.key; });
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
  if (r.end == RunEnd::Enough)
    v.notes.push_back("The run was stopped early; its uncertainty is that of the rays it had.");
  return y.measure == Measure::SdaCredit ? judgeCredit(p, y, f, r, std::move(v))
                                         : judgeProvision(p, y, f, r, std::move(v));
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
    const auto a = runs.light({StudyKind::DaylightFactor, groups, false});
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
