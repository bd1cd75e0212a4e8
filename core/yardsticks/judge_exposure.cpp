// The measures of site layout: vertical sky component and probable sunlight at windows, and the no-sky line in rooms,
// against a bound and against what was there before. Windows are the sensors of the chosen groups that look sideways.

#include "core/base/weighted.h"
#include "core/base/words.h"
#include "core/studies/annual_metrics.h"
#include "core/yardsticks/judge.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

bool anyProposed(const Project& p) {
  return hasProposal(p) || std::any_of(p.rooms.begin(), p.rooms.end(), [&](const Room& r) { return isProposed(p, r); });
}

/// One study with the proposal, and the same without it where there is one.
struct BothStates {
  LightAnswered after;
  std::optional<LightAnswered> before;
};
Expected<LightAnswered> asked(const JudgeRuns& runs, const LightQuestion& q) {
  auto a = runs.light(q);
  if (!a) return a;
  if (a->result->end != RunEnd::Finished)
    return fail(q.before ? "The run of the state before was stopped early." : "The run was stopped early.");
  for (std::size_t i = 0; i < a->result->value.size(); ++i)
    if (!std::isfinite(a->result->value[i])) return fail(fmt::format("\"{}\" has no value.", a->sensors.sensorName(i)));
  return a;
}
Expected<BothStates> bothStates(const Project& p, const JudgeRuns& runs, StudyKind kind,
                                const std::vector<GroupId>& groups) {
  auto after = asked(runs, {kind, groups, false});
  if (!after) return tl::unexpected(after.error());
  BothStates out{std::move(*after), {}};
  if (anyProposed(p)) {
    auto before = asked(runs, {kind, groups, true});
    if (!before) return tl::unexpected(before.error());
    if (before->result->value.size() != out.after.result->value.size())
      return fail("The sensors before are others than those after.");
    out.before = std::move(*before);
  }
  return out;
}

/// A value with its standard error.
struct Measured {
  double value = 0, error = 0;
};
ProbeSpot spotOf(const SensorSet& sensors, std::size_t i) {
  return {sensors.sensors[i].position, sensors.sensors[i].normalVector()};
}
Measured at(const LightAnswered& a, std::size_t i) {
  return {double(a.result->value[i]), double(a.result->standardError[i])};
}

/// Does it reach a bound, or keep a share of what it was? With the certainty of the answer.
struct Passes {
  bool least = false, kept = false;
  double certain = 1;
  bool any() const { return least || kept; }
};
Passes passes(Measured now, std::optional<Measured> was, double least, double keptShare) {
  Passes out;
  out.least = now.value >= least - 1e-9;
  out.kept = was && keptShare > 0 && now.value >= keptShare * was->value - 1e-9;
  const auto above = [](double value, double error, double bound) {
    return error > 0 ? probabilityAbove(value, error, bound) : value >= bound - 1e-9 ? 1.0 : 0.0;
  };
  double pass = above(now.value, now.error, least);
  if (was && keptShare > 0)
    pass = std::max(pass, above(now.value - keptShare * was->value, std::hypot(now.error, keptShare * was->error), 0));
  out.certain = out.any() ? pass : 1 - pass;
  return out;
}

/// Sensors that look sideways: windows. The others are counted.
std::vector<std::size_t> windowsOf(const SensorSet& sensors, std::size_t& others) {
  std::vector<std::size_t> out;
  others = 0;
  for (std::size_t i = 0; i < sensors.sensors.size(); ++i)
    if (std::abs(sensors.sensors[i].normal[2]) <= 0.5f)
      out.push_back(i); // within 30° of upright
    else
      ++others;
  return out;
}

/// Away from the equator's side: rad, 0 for a window that looks straight to it.
double fromEquator(const Project& p, const Sensor& s) {
  const double azimuth = std::atan2(double(s.normal[0]), double(s.normal[1])) + p.site.northAngle;
  return std::abs(std::remainder(azimuth - (p.site.place.latitude >= 0 ? pi : 0), 2 * pi));
}

/// What a share of windows makes of the verdict.
Verdict concluded(const Yardstick& y, Verdict v, std::size_t good, const TogetherCertain* together) {
  const std::size_t all = v.rows.size();
  const double share = y.number("share") / 100;
  const auto needed = std::size_t(std::ceil(share * double(all) - 1e-9));
  v.unit = "%";
  v.figure = 100.0 * double(good) / double(all);
  v.needed = 100 * share;
  v.outcome = good >= needed ? Outcome3::Meets : Outcome3::FallsShort;
  if (together) v.certainty = together->certainty(needed);
  const std::string certain = together ? fmt::format(" ({})", certainText(v.certainty)) : "";
  v.text = v.outcome == Outcome3::Meets
               ? fmt::format("meets: {} of {} windows{}", good, all, certain)
               : fmt::format("falls short: {} of {} windows, {} are asked for{}", good, all, needed, certain);
  return v;
}

std::string beforeText(const std::optional<Measured>& was, int digits) {
  return was ? fmt::format(" ({:.{}f} % before)", was->value, digits) : "";
}

Verdict judgeSky(const Project& p, const Yardstick& y, const std::vector<GroupId>& groups, const JudgeRuns& runs,
                 Verdict v) {
  const auto vsc = bothStates(p, runs, StudyKind::Vsc, groups);
  if (!vsc) return notJudged(std::move(v), lowered(vsc.error().message));
  v.key = vsc->after.result->key;
  std::size_t others = 0, good = 0, byKept = 0;
  TogetherCertain together;
  for (std::size_t i : windowsOf(vsc->after.sensors, others)) {
    const Measured now = at(vsc->after, i);
    std::optional<Measured> was;
    if (vsc->before) was = at(*vsc->before, i);
    const Passes pass = passes(now, was, y.number("min"), y.number("kept-share") / 100);
    good += pass.any();
    byKept += pass.kept && !pass.least;
    together.add(pass.any(), pass.certain);
    v.rows.push_back({vsc->after.sensors.sensorName(i), pass.any() ? Outcome3::Meets : Outcome3::FallsShort, now.value,
                      was ? was->value : NAN,
                      fmt::format("VSC {:.1f} ± {:.2f} %{}", now.value, now.error, beforeText(was, 1)) +
                          (was && was->value > 0 ? fmt::format(", {:.2f} of it", now.value / was->value) : ""),
                      spotOf(vsc->after.sensors, i)});
  }
  if (v.rows.empty()) return notJudged(std::move(v), "none of its sensors looks sideways as a window does");
  v = concluded(y, std::move(v), good, &together);
  v.detail = fmt::format(
      "{:g} % of the sky's light on the unobstructed horizontal{}", y.number("min"),
      vsc->before ? fmt::format(", or {:g} % of what it was before; {} by that", y.number("kept-share"), byKept)
                  : "; nothing is proposed, so that there is no before");
  if (others > 0)
    v.notes.push_back(
        counted(others, "sensor does not look sideways: left out.", "sensors do not look sideways: left out."));
  return v;
}

Verdict judgeSun(const Project& p, const Yardstick& y, const std::vector<GroupId>& groups, const JudgeRuns& runs,
                 Verdict v) {
  const auto year = bothStates(p, runs, StudyKind::SunlightYear, groups);
  if (!year) return notJudged(std::move(v), lowered(year.error().message));
  const auto winter = bothStates(p, runs, StudyKind::SunlightWinter, groups);
  if (!winter) return notJudged(std::move(v), lowered(winter.error().message));
  v.key = year->after.result->key;
  const double least = y.number("annual"), leastWinter = y.number("winter"), kept = y.number("kept-share") / 100,
               loss = y.number("max-loss");
  std::size_t others = 0, good = 0, away = 0;
  for (std::size_t i : windowsOf(year->after.sensors, others)) {
    if (fromEquator(p, year->after.sensors.sensors[i]) > radians(y.number("facing")) + 1e-6) {
      ++away;
      continue;
    }
    const Measured a = at(year->after, i), w = at(winter->after, i);
    std::optional<Measured> wasA, wasW;
    if (year->before) {
      wasA = at(*year->before, i);
      wasW = at(*winter->before, i);
    }
    const bool lossCounts = !wasA || wasA->value - a.value > loss + 1e-9;
    const bool falls = lossCounts && ((a.value < least - 1e-9 && (!wasA || a.value < kept * wasA->value - 1e-9)) ||
                                      (w.value < leastWinter - 1e-9 && (!wasW || w.value < kept * wasW->value - 1e-9)));
    good += !falls;
    v.rows.push_back(
        {year->after.sensors.sensorName(i), falls ? Outcome3::FallsShort : Outcome3::Meets, a.value,
         wasA ? wasA->value : NAN,
         fmt::format("year {:.1f} %{}, winter {:.1f} %{}", a.value, beforeText(wasA, 1), w.value, beforeText(wasW, 1)),
         spotOf(year->after.sensors, i)});
  }
  if (away > 0)
    v.notes.push_back(counted(away, "window looks", "windows look") +
                      fmt::format(" more than {:g}° away from the equator's side: not judged.", y.number("facing")));
  if (others > 0)
    v.notes.push_back(
        counted(others, "sensor does not look sideways: left out.", "sensors do not look sideways: left out."));
  if (v.rows.empty()) return notJudged(std::move(v), "none of its windows looks to the equator's side");
  v = concluded(y, std::move(v), good, nullptr);
  v.detail =
      fmt::format("{:g} % of the year's sunshine, {:g} % in winter{}; {}", least, leastWinter,
                  year->before ? fmt::format(", or {:g} % of what it was before, or a loss of {:g} points at most",
                                             100 * kept, loss)
                               : "",
                  year->after.text);
  v.notes.push_back(
      "Exact at one position of the sun for each hour, or each 20 minutes by a table; no numerical error beside it.");
  return v;
}

Verdict judgeNoSky(const Project& p, const Yardstick& y, const std::vector<GroupId>& groups, const JudgeRuns& runs,
                   Verdict v) {
  const auto sky = bothStates(p, runs, StudyKind::NoSkyLine, groups);
  if (!sky) return notJudged(std::move(v), lowered(sky.error().message));
  v.key = sky->after.result->key;
  const double least = y.number("share"), kept = y.number("kept-share") / 100;
  std::size_t good = 0, fresh = 0;
  double step = 0;
  for (const SensorGridFacts& g : sky->after.sensors.groups) {
    const Room* room = g.room >= 0 ? &p.rooms[std::size_t(g.room)] : nullptr;
    if (!room || !room->counted || g.count == 0) continue;
    const auto share = [&](const LightAnswered& a) {
      const std::vector<double> weight = weightsOf(a.sensors.areasOf(g.first, g.count), g.count);
      double sum = 0, seen = 0;
      for (std::size_t i = 0; i < g.count; ++i) {
        sum += weight[i];
        seen += weight[i] * double(a.result->value[g.first + i]);
      }
      return Measured{seen / sum, 0};
    };
    const Measured now = share(sky->after);
    std::optional<Measured> was;
    if (sky->before && !isProposed(p, *room)) was = share(*sky->before);
    if (!was && least <= 0) {
      ++fresh;
      continue;
    }
    const Passes pass = passes(now, was, least > 0 ? least : 1e9, kept);
    good += pass.any();
    step = std::max(step, 100.0 / double(g.count));
    v.rows.push_back({g.name, pass.any() ? Outcome3::Meets : Outcome3::FallsShort, now.value, was ? was->value : NAN,
                      fmt::format("{:.1f} % of the plane sees sky{}", now.value, beforeText(was, 1)) +
                          (was && was->value > 0 ? fmt::format(", {:.2f} of it", now.value / was->value) : "")});
  }
  if (v.rows.empty())
    return notJudged(std::move(v),
                     fresh == 0 ? "no room is regularly occupied"
                     : sky->before
                         ? "every regularly occupied room is proposed, and no share of the plane is asked for"
                         : "nothing is proposed, so that there is no before, and no share of the plane is asked for");
  v.unit = "%";
  v.figure = 100.0 * double(good) / double(v.rows.size());
  v.needed = 100;
  v.outcome = good == v.rows.size() ? Outcome3::Meets : Outcome3::FallsShort;
  v.text =
      fmt::format("{}: {} of {} rooms", v.outcome == Outcome3::Meets ? "meets" : "falls short", good, v.rows.size());
  if (least > 0) v.detail = fmt::format("{:g} % of the plane must see sky", least);
  if (sky->before)
    v.detail += fmt::format("{}{:g} % of what saw it before must still", least > 0 ? ", or " : "", 100 * kept);
  if (fresh > 0)
    v.notes.push_back(counted(fresh, "room is proposed: without a before it is not judged.",
                              "rooms are proposed: without a before they are not judged."));
  v.notes.push_back(fmt::format(
      "Counted by the cells of the grid, {:.1f} % of a room at most each; no other numerical error.", step));
  return v;
}

} // namespace

Verdict judgeExposure(const Project& p, const Yardstick& y, const std::vector<GroupId>& given, const JudgeRuns& runs) {
  Verdict v;
  v.title = y.title;
  const bool rooms = y.measure == Measure::NoSkyLine;
  std::vector<GroupId> groups;
  for (const SensorGroup& g : p.groups) {
    const bool grid = std::holds_alternative<RoomGrid>(g.layout),
               flat = std::holds_alternative<GroundArea>(g.layout) || std::holds_alternative<GroundAround>(g.layout);
    const bool named = std::find(given.begin(), given.end(), g.id) != given.end();
    if ((given.empty() || named) && (rooms ? grid : !grid && !flat)) groups.push_back(g.id);
  }
  if (groups.empty())
    return notJudged(std::move(v), rooms
                                       ? "no room has a grid of sensors"
                                       : "no group of sensors stands for windows: points that look sideways, or walls");
  return y.measure == Measure::WindowSky   ? judgeSky(p, y, groups, runs, std::move(v))
         : y.measure == Measure::WindowSun ? judgeSun(p, y, groups, runs, std::move(v))
                                           : judgeNoSky(p, y, groups, runs, std::move(v));
}

} // namespace noonward
