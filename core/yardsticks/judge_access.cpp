// The measures of ground and roofs: irradiation that a share of an area must reach, and the shadow that a proposal may
// add to ground that a rule protects.

#include "core/base/weighted.h"
#include "core/base/words.h"
#include "core/studies/annual_metrics.h"
#include "core/studies/irradiation.h"
#include "core/studies/shadow_plan.h"
#include "core/yardsticks/judge.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

/// The share of an area at or above a bound, and how much of the area the errors leave open.
struct ShareAbove {
  double area = 0, above = 0, unsure = 0;
  double share() const { return area > 0 ? above / area : 0; }
  void add(const ShareAbove& more) {
    area += more.area;
    above += more.above;
    unsure += more.unsure;
  }
};
ShareAbove shareAbove(const LightAnswered& a, const SensorGridFacts& g, double least) {
  ShareAbove out;
  for (std::size_t i = g.first; i < g.first + g.count; ++i) {
    const double value = double(a.result->value[i]), error = double(a.result->standardError[i]);
    if (std::isnan(value)) continue;
    const double area = a.sensors.areaOf(i);
    out.area += area;
    out.above += value >= least - 1e-9 ? area : 0;
    out.unsure += std::abs(value - least) < 2 * error ? area : 0;
  }
  return out;
}

Verdict judgeIrradiation(const Project& p, const Yardstick& y, const std::vector<GroupId>& groups,
                         const JudgeRuns& runs, Verdict v) {
  if (groups.empty()) return notJudged(std::move(v), "no group of sensors is chosen");
  const auto after = runs.light({StudyKind::Irradiation, groups, false});
  if (!after) return notJudged(std::move(v), lowered(after.error().message));
  if (after->result->end != RunEnd::Finished) return notJudged(std::move(v), "the run was stopped early");
  if (!after->result->unitText().starts_with("kWh"))
    return notJudged(std::move(v),
                     "its study looks at one moment: a bound in kWh/m² needs a season of the weather year");
  std::optional<LightAnswered> before;
  const double kept = y.number("kept-share") / 100, least = y.number("min"), share = y.number("share") / 100;
  const bool proposal = hasProposal(p);
  if (kept > 0 && proposal) {
    auto was = runs.light({StudyKind::Irradiation, groups, true});
    if (!was) return notJudged(std::move(v), lowered(was.error().message));
    before = std::move(*was);
  }
  v.key = after->result->key;
  v.unit = "%";
  v.needed = 100 * share;
  ShareAbove all, allBefore;
  std::size_t good = 0;
  for (const SensorGridFacts& g : after->sensors.groups) {
    if (g.count == 0) continue;
    const ShareAbove now = shareAbove(*after, g, least);
    const ShareAbove was = before ? shareAbove(*before, g, least) : ShareAbove{};
    all.add(now);
    allBefore.add(was);
    const bool meets = now.share() >= share - 1e-9 || (before && now.above >= kept * was.above - 1e-9);
    good += meets;
    const EnergyTotal total = energyTotal(after->sensors, *after->result, g.first, g.count, least);
    v.rows.push_back(
        {g.name, meets ? Outcome3::Meets : Outcome3::FallsShort, 100 * now.share(), before ? 100 * was.share() : NAN,
         fmt::format("{:.0f} % with {:g} {} or more{}{}", 100 * now.share(), least, after->result->unitText(),
                     total.area > 0 ? fmt::format(", {:.0f} kWh on {:.0f} m²", total.energy, total.area) : "",
                     before ? fmt::format(" ({:.0f} % before)", 100 * was.share()) : "")});
  }
  if (v.rows.empty() || !(all.area > 0)) return notJudged(std::move(v), "its groups have no sensors");
  v.figure = 100 * all.share();
  if (before) v.before = 100 * allBefore.share();
  v.outcome = good == v.rows.size() ? Outcome3::Meets : Outcome3::FallsShort;
  v.detail = fmt::format("{} of {}: {:g} {} on {:g} % of the area{}", good, counted(v.rows.size(), "group", "groups"),
                         least, after->result->unitText(), 100 * share,
                         before ? fmt::format(", or {:g} % of the area that had it before", 100 * kept) : "");
  v.text = v.outcome == Outcome3::Meets ? fmt::format("meets: {:.0f} % of {:g} %", v.figure, v.needed)
           : v.figure < v.needed ? fmt::format("falls short by {:.0f} points", std::ceil(v.needed - v.figure - 1e-9))
                                 : fmt::format("falls short in {} of {}", v.rows.size() - good,
                                               counted(v.rows.size(), "group", "groups"));
  v.notes.push_back(after->text);
  if (all.unsure > 0.005 * all.area)
    v.notes.push_back(fmt::format("{:.0f} % of the area lies within two standard errors of the bound; a smaller error "
                                  "at sensors makes it certain.",
                                  100 * all.unsure / all.area));
  return v;
}

Verdict judgeNewShadow(const Project& p, const Yardstick& y, const std::vector<GroupId>& groups, Verdict v) {
  if (groups.empty()) return notJudged(std::move(v), "no area is chosen");
  v.atMost = true;
  ShadowPlanSettings s;
  s.areas = groups;
  s.onlyAreas = true;
  const double step = y.number("moment-step"), most = y.number("max-area-hours"),
               mostShare = y.number("max-share") / 100;
  if (!(step >= 1 && step <= 240)) return notJudged(std::move(v), "a step of 1 to 240 minutes is expected");
  const std::string dates = y.word(p.site.place.latitude >= 0 ? "date-north" : "date-south");
  const std::string from = y.word("window-from"), to = y.word("window-to");
  const auto a = from == "sunrise" ? 0.0 : minutesFromText(from), b = to == "sunset" ? 1440.0 : minutesFromText(to);
  if (!a || !b || *b <= *a) return notJudged(std::move(v), fmt::format("\"{}–{}\" is no clock window", from, to));
  std::vector<std::pair<std::string, std::size_t>> days; // named, and its first moment
  for (std::size_t at = 0; at <= dates.size();) {
    const std::size_t comma = std::min(dates.find(',', at), dates.size());
    std::string day = dates.substr(at, comma - at);
    day.erase(0, day.find_first_not_of(' '));
    const auto date = dateFromText(fmt::format("{} {}", day.substr(0, day.find_last_not_of(' ') + 1), p.site.year));
    if (!date) return notJudged(std::move(v), fmt::format("\"{}\" are no days such as \"21 Mar, 21 Sep\"", dates));
    days.emplace_back(dayText(*date), s.moments.size());
    for (const Instant& t : stepMoments(p, *date, *a, *b, step)) s.moments.push_back(t);
    at = comma + 1;
  }
  s.hoursEach = step / 60;
  RunControl control;
  const auto plan = shadowPlan(p, s, control);
  if (!plan) return notJudged(std::move(v), lowered(plan.error().message));
  v.key = plan->key;
  if (!plan->hasProposal) return notJudged(std::move(v), "nothing is marked as proposed, so that no shadow is new");
  if (std::none_of(plan->moments.begin(), plan->moments.end(), [](const ShadowMoment& m) { return m.up; }))
    return notJudged(std::move(v), "the sun is never up in its window");
  v.unit = "m²·h";
  v.needed = most;
  double worstShare = 0;
  std::size_t good = 0;
  for (GroupId id : groups)
    for (std::size_t d = 0; d < days.size(); ++d) {
      const std::size_t end = d + 1 < days.size() ? days[d + 1].second : plan->moments.size();
      double areaHours = 0, largest = 0, area = 0;
      std::string name, when;
      for (std::size_t k = days[d].second; k < end; ++k)
        for (const ShadowArea& of : plan->moments[k].areas) {
          if (of.group != id) continue;
          name = of.name;
          area = of.area;
          areaHours += of.fresh * plan->hoursEach;
          if (of.fresh > largest) {
            largest = of.fresh;
            when = clockText(p.zone().clock(plan->moments[k].at).seconds / 60);
          }
        }
      if (!(area > 0)) continue;
      const double share = largest / area;
      const bool meets = areaHours <= most + 1e-6 && share <= mostShare + 1e-9;
      good += meets;
      worstShare = std::max(worstShare, share);
      v.figure = std::max(v.figure, areaHours);
      v.rows.push_back({days.size() > 1 ? name + ", " + days[d].first : name,
                        meets ? Outcome3::Meets : Outcome3::FallsShort, areaHours, NAN,
                        largest > 0 ? fmt::format("{:.0f} m²·h net new, most at {}: {:.0f} m², {:.1f} % of it",
                                                  areaHours, when, largest, 100 * share)
                                    : std::string("no new shadow")});
    }
  if (v.rows.empty()) return notJudged(std::move(v), "its groups have no area on the ground");
  v.outcome = good == v.rows.size() ? Outcome3::Meets : Outcome3::FallsShort;
  v.detail = fmt::format("at most {:g} m²·h of net new shadow a day and {:g} % of the area at any moment, {} {}–{}",
                         most, 100 * mostShare, dates, from, to);
  v.text = v.outcome == Outcome3::Meets ? fmt::format("meets: {:.0f} m²·h, {:g} may be", v.figure, most)
           : v.figure > most
               ? fmt::format("exceeds by {:.0f} m²·h", std::ceil(v.figure - most))
               : fmt::format("exceeds: {:.1f} % of the area at once, {:g} % may be", 100 * worstShare, 100 * mostShare);
  v.notes.push_back(fmt::format("Outlines of shadow every {:g} min, in the middle of the step; exact in plan, without "
                                "sensors.",
                                step));
  return v;
}

} // namespace

Verdict judgeAccess(const Project& project, const Yardstick& y, const std::vector<GroupId>& groups,
                    const JudgeRuns& runs) {
  Verdict v;
  v.title = y.title;
  return y.measure == Measure::Irradiation ? judgeIrradiation(project, y, groups, runs, std::move(v))
                                           : judgeNewShadow(project, y, groups, std::move(v));
}

} // namespace noonward
