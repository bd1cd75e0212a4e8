// The two sun measures: share of an area, and dwellings.

#include "core/yardsticks/judge.h"
#include "core/base/tolerances.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>

namespace noonward {

Verdict notJudged(Verdict v, const std::string& why) {
  v.outcome = Outcome3::NotJudged;
  v.text = "not judged because " + why;
  return v;
}

std::string lowered(std::string s) {
  if (!s.empty()) s[0] = char(std::tolower(s[0]));
  if (!s.empty() && s.back() == '.') s.pop_back();
  return s;
}

std::string certainText(double certainty) {
  return certainty >= 0.9995 ? "certain" : fmt::format("{:.{}f} % certain", 100 * certainty, certainty > 0.99 ? 1 : 0);
}

void TogetherCertain::add(bool passes, double certain) {
  if (passes) {
    ++pass_;
    unsurePass_ += 1 - certain;
  } else {
    ++fall_;
    unsureFall_ += 1 - certain;
    surestFall_ = std::max(surestFall_, certain);
  }
}

double TogetherCertain::certainty(std::optional<std::size_t> wanted) const {
  const std::size_t needed = wanted.value_or(pass_ + fall_);
  if (pass_ >= needed) return std::max(0.0, 1 - unsurePass_ / double(pass_ - needed + 1));
  if (needed == pass_ + fall_) return surestFall_; // one that falls short is enough
  return std::max(0.0, 1 - unsureFall_ / double(needed - pass_));
}

namespace {

struct AreaShare {
  double enough = 0, whole = 0; ///< m²; single points count one each
  double share() const { return whole > 0 ? enough / whole : NAN; }
};

AreaShare shareWith(const SensorSet& sensors, std::size_t group, const SunHoursResult& r, double hours) {
  AreaShare out;
  const SensorGridFacts& g = sensors.groups[group];
  for (std::size_t i = g.first; i < g.first + g.count && i < r.hours.size(); ++i) {
    const double cell = sensors.areaOf(i);
    out.whole += cell; // also where nothing is known: that is not enough
    if (!std::isnan(r.hours[i]) && r.hours[i] >= hours - 1e-6) out.enough += cell;
  }
  return out;
}

std::string exactText(const SunHoursSettings& s) {
  return s.counting == Counting::Exact
             ? "Exact: times of sun and shade are solved for; no numerical error."
             : fmt::format("Counted by steps of {} min, as the rule asks; no other numerical error.", s.stepMinutes);
}

Verdict judgeArea(const Project& p, const Yardstick& y, const std::vector<GroupId>& groups,
                  const SunHoursSettings& settings, const SensorSet& sensors, const SunHoursRunner& run, Verdict v) {
  const double hours = y.number("hours"), least = y.number("share") / 100, kept = y.number("kept-share") / 100;
  const auto after = run(groups, settings, false, 0);
  if (!after) return notJudged(std::move(v), lowered(after.error().text()));
  if ((*after)->end != RunEnd::Finished) return notJudged(std::move(v), "the run was stopped early");
  v.unit = "%";
  v.needed = 100 * least;
  v.key = (*after)->key;
  v.notes.push_back(exactText(settings));
  const bool anyProposed = hasProposal(p);
  // With a proposal all is measured against the ground as it was: what it builds over is lost.
  std::optional<SensorSet> groundBefore;
  std::shared_ptr<const SunHoursResult> before;
  if (anyProposed) {
    auto laid = layOutSensors(withoutProposal(p), groupsTaken(p, groups));
    if (!laid) return notJudged(std::move(v), lowered(laid.error().text()));
    groundBefore = std::move(*laid);
    if (kept > 0) {
      const auto run2 = run(groups, settings, true, 0);
      if (!run2) return notJudged(std::move(v), lowered(run2.error().text()));
      if ((*run2)->end != RunEnd::Finished)
        return notJudged(std::move(v), "the run of the state before was stopped early");
      before = *run2;
    }
  }
  AreaShare now, was;
  double lost = 0;
  for (std::size_t k = 0; k < sensors.groups.size(); ++k) {
    AreaShare a = shareWith(sensors, k, **after, hours), b;
    if (groundBefore) {
      double whole = 0;
      const SensorGridFacts& g = groundBefore->groups[k];
      for (std::size_t i = g.first; i < g.first + g.count; ++i) whole += groundBefore->areaOf(i);
      lost += std::max(0.0, whole - a.whole);
      a.whole = std::max(a.whole, whole);
      if (before) b = shareWith(*groundBefore, k, *before, hours);
    }
    v.rows.push_back(
        {sensors.groups[k].name, Outcome3::NotJudged, 100 * a.share(), before ? 100 * b.share() : NAN, ""});
    now.enough += a.enough;
    now.whole += a.whole;
    was.enough += b.enough;
    was.whole += b.whole;
  }
  v.figure = 100 * now.share();
  if (before) v.before = 100 * was.share();
  for (VerdictRow& r : v.rows) {
    const bool enough = r.after >= 100 * least - 1e-9,
               keeps = !std::isnan(r.before) && r.after >= kept * r.before - 1e-9;
    r.outcome = enough || keeps ? Outcome3::Meets : Outcome3::FallsShort;
  }
  const bool enough = now.share() >= least - 1e-12, keeps = before && now.share() >= kept * was.share() - 1e-12;
  v.outcome = enough || keeps ? Outcome3::Meets : Outcome3::FallsShort;
  v.detail =
      fmt::format("{:.1f} % of the area has {:g} h of sun or more; {:g} % are asked for", v.figure, hours, 100 * least);
  if (before) {
    v.detail += fmt::format(", or {:g} % of the {:.1f} % before", 100 * kept, v.before);
    v.needed = std::min(v.needed, kept * v.before); // what would have been enough
  }
  if (lost > 1e-6)
    v.notes.push_back(
        fmt::format("The proposal builds over {:.0f} m² of {:.0f} m²: shares are of the ground as it was before.", lost,
                    now.whole));
  if (enough)
    v.text = fmt::format("meets: {:.1f} % of {:g} %", v.figure, 100 * least);
  else if (keeps)
    v.text =
        fmt::format("meets: keeps {:.0f} % of what had sun before", v.before > 0 ? 100 * v.figure / v.before : 100.0);
  else
    v.text = fmt::format("falls short by {:.1f} points", v.needed - v.figure);
  return v;
}

struct Dwelling {
  double living = NAN, open = NAN;       ///< hours reached by the least area; NaN where the dwelling has none
  double any = 0;                        ///< of the sunniest sensor of either
  std::vector<std::size_t> livingPoints; ///< sensors of its living room that count by themselves
  std::optional<std::size_t> sunniest;   ///< sensor, of its living room where it has one
  double sunniestHours = -1;
};

/// The hours that at least `leastArea` of a group reaches; with 0, what its best sensor reaches.
double hoursOf(const SensorSet& sensors, const SensorGridFacts& g, const std::vector<float>& hours, double leastArea) {
  std::vector<std::pair<double, double>> v; // hours, area
  for (std::size_t i = g.first; i < g.first + g.count; ++i)
    if (!std::isnan(hours[i])) v.emplace_back(double(hours[i]), sensors.areaOf(i));
  std::sort(v.begin(), v.end(), std::greater<>());
  double area = 0;
  for (const auto& [h, cell] : v)
    if ((area += cell) >= leastArea - 1e-9) return h;
  return 0; // nothing, or smaller than the least area asked for
}

Verdict judgeDwellings(const Project& p, const Yardstick& y, const std::vector<GroupId>& groups,
                       const SunHoursSettings& settings, const SensorSet& sensors, const SunHoursRunner& run,
                       Verdict v) {
  const double needed = y.number("hours"), share = y.number("share") / 100, none = y.number("none-share") / 100;
  const bool unbroken = y.word("counted") == "longest unbroken", together = y.word("windows") == "union";
  const std::string subject = y.word("subject"), withoutOpen = y.word("without-open-space");
  const double minInterval = y.number("min-interval") * 60;
  const auto result = run(groups, settings, false, minInterval);
  if (!result) return notJudged(std::move(v), lowered(result.error().text()));
  if ((*result)->end != RunEnd::Finished) return notJudged(std::move(v), "the run was stopped early");
  v.key = (*result)->key;
  v.notes.push_back(exactText(settings));
  const std::vector<float>& hours = unbroken ? (*result)->longest : (*result)->hours;

  std::map<std::string, Dwelling> dwellings;
  int unnamed = 0;
  for (const SensorGridFacts& g : sensors.groups) {
    const SensorGroup* group = p.group(g.id);
    if (group->subject == Subject::None || group->dwelling.empty()) {
      ++unnamed;
      continue;
    }
    Dwelling& d = dwellings[group->dwelling];
    const bool living = group->subject == Subject::LivingRoom, points = g.cellArea == 0;
    double& h = living ? d.living : d.open;
    const double own = hoursOf(sensors, g, hours, living && points ? 0 : y.number("min-area"));
    h = std::isnan(h) ? own : std::max(h, own); // one window of several suffices, unless they count together below
    for (std::size_t i = g.first; i < g.first + g.count; ++i) {
      if (!std::isnan((*result)->hours[i])) d.any = std::max(d.any, double((*result)->hours[i]));
      if (living && points) d.livingPoints.push_back(i);
      const double rank = double(hours[i]) + (living ? 1000 : 0);
      if (!std::isnan(rank) && rank > d.sunniestHours) {
        d.sunniestHours = rank;
        d.sunniest = i;
      }
    }
  }
  if (unnamed > 0)
    v.notes.push_back(fmt::format("{} group{} without a dwelling and a subject (living room or open space) left out.",
                                  unnamed, unnamed == 1 ? "" : "s"));
  if (dwellings.empty())
    return notJudged(std::move(v), "no group is marked as a living room or open space of a dwelling");
  if (together) { // the stretches of several windows of one living room, joined
    const auto input = sunHoursInput(p, groups, settings, false, minInterval);
    if (!input) return notJudged(std::move(v), lowered(input.error().text()));
    for (auto& [name, d] : dwellings) {
      if (d.livingPoints.size() < 2) continue;
      std::map<Date, Intervals> byDate;
      for (std::size_t i : d.livingPoints)
        for (const auto& [date, stretches] : sunStretches(*input, i))
          byDate[date].insert(byDate[date].end(), stretches.begin(), stretches.end());
      double all = 0, longest = 0;
      for (auto& [date, stretches] : byDate)
        for (const Interval& i : joined(std::move(stretches), tolerance::shortestStretch))
          if (i.length() >= minInterval) {
            all += i.length() / 3600;
            longest = std::max(longest, i.length() / 3600);
          }
      d.living = unbroken ? longest : all;
    }
    v.notes.push_back("Several windows of one living room count together: sun in any of them.");
  }

  int enough = 0, dark = 0;
  std::vector<std::string> bare;
  for (const auto& [name, d] : dwellings) {
    const double living = std::isnan(d.living) ? 0 : d.living, open = std::isnan(d.open) ? 0 : d.open;
    double h = subject == "both"         ? std::min(living, open)
               : subject == "either"     ? std::max(living, open)
               : subject == "open space" ? open
                                         : living;
    const bool noOpen = std::isnan(d.open) && !std::isnan(d.living) && (subject == "both" || subject == "open space");
    if (noOpen) bare.push_back(name);
    if (noOpen && withoutOpen == "its living room alone") h = living;
    const auto part = [](const char* what, double x) {
      return std::isnan(x) ? fmt::format("no {}", what) : fmt::format("{} {:.2f} h", what, x);
    };
    VerdictRow row{name, h >= needed - 1e-6 ? Outcome3::Meets : Outcome3::FallsShort, h, NAN,
                   part("living room", d.living) + ", " + part("open space", d.open)};
    if (d.sunniest)
      row.spot = ProbeSpot{sensors.sensors[*d.sunniest].position, sensors.sensors[*d.sunniest].normalVector()};
    enough += row.outcome == Outcome3::Meets;
    dark += d.any <= 0; // neither living room nor open space has any
    v.rows.push_back(std::move(row));
  }
  if (!bare.empty())
    v.notes.push_back(
        fmt::format("{} dwelling{} no open space ({}{}): judged {}.", bare.size(), bare.size() == 1 ? " has" : "s have",
                    bare.front(), bare.size() > 1 ? ", …" : "",
                    withoutOpen == "its living room alone" ? "by the living room alone" : "as falling short"));
  const double n = double(dwellings.size());
  v.unit = "%";
  v.figure = 100 * enough / n;
  v.needed = 100 * share;
  const bool shareMet = enough >= share * n - 1e-9, noneMet = dark <= none * n + 1e-9;
  v.outcome = shareMet && noneMet ? Outcome3::Meets : Outcome3::FallsShort;
  v.detail = fmt::format("{} of {} dwellings have {:g} h {}; {} have none at all ({:g} % may)", enough,
                         dwellings.size(), needed, unbroken ? "in one stretch" : "together", dark, 100 * none);
  if (v.outcome == Outcome3::Meets)
    v.text = fmt::format("meets: {:.0f} % of {:g} %", v.figure, v.needed);
  else if (!shareMet)
    v.text = fmt::format("falls short by {:.0f} points", std::ceil(v.needed - v.figure - 1e-9));
  else
    v.text =
        fmt::format("falls short: {:.0f} % of dwellings have no sun at all, {:g} % may", 100 * dark / n, 100 * none);
  return v;
}

} // namespace

Verdict judge(const Project& project, const Yardstick& y, const std::vector<GroupId>& groups, const JudgeRuns& runs) {
  Verdict v;
  v.title = y.title;
  if (y.measure == Measure::WindowSky || y.measure == Measure::WindowSun || y.measure == Measure::NoSkyLine)
    return judgeExposure(project, y, groups, runs);
  if (y.measure == Measure::Irradiation || y.measure == Measure::NewShadow)
    return judgeAccess(project, y, groups, runs);
  if (y.measure == Measure::EyesGlare || y.measure == Measure::ViewOut) return judgeEyes(project, y, groups, runs);
  if (!ofSunHours(y.measure)) return judgeRooms(project, y, groups, runs);
  if (groups.empty()) return notJudged(std::move(v), "no group of sensors is chosen");
  const auto settings = settingsOf(y, project.site);
  if (!settings) return notJudged(std::move(v), lowered(settings.error().text()));
  const auto sensors = layOutSensors(project, groupsTaken(project, groups));
  if (!sensors) return notJudged(std::move(v), lowered(sensors.error().text()));
  if (sensors->sensors.empty()) return notJudged(std::move(v), "its groups have no sensors");
  v.notes.push_back(settingsText(*settings));
  return y.measure == Measure::SunHoursArea
             ? judgeArea(project, y, groups, *settings, *sensors, runs.sunHours, std::move(v))
             : judgeDwellings(project, y, groups, *settings, *sensors, runs.sunHours, std::move(v));
}

} // namespace noonward
