// The two sun measures: share of an area, and dwellings.

#include "core/yardsticks/judge.h"
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

namespace {

struct AreaShare {
  double enough = 0, whole = 0; ///< m²; single points count one each
  double share() const { return whole > 0 ? enough / whole : NAN; }
};

AreaShare shareWith(const SensorSet& sensors, const SunHoursResult& r, double hours) {
  AreaShare out;
  for (const SensorGridFacts& g : sensors.groups) {
    const double cell = g.cellArea > 0 ? g.cellArea : 1;
    for (std::size_t i = g.first; i < g.first + g.count; ++i) {
      if (std::isnan(r.hours[i])) continue;
      out.whole += cell;
      if (r.hours[i] >= hours - 1e-6) out.enough += cell;
    }
  }
  return out;
}

Verdict judgeArea(const Project& p, const Yardstick& y, const std::vector<GroupId>& groups,
                  const SunHoursSettings& settings, const SensorSet& sensors, const SunHoursRunner& run, Verdict v) {
  const double hours = y.number("hours"), least = y.number("share") / 100, kept = y.number("kept-share") / 100;
  const auto after = run(groups, settings, false, 0);
  if (!after) return notJudged(std::move(v), lowered(after.error().text()));
  if ((*after)->end != RunEnd::Finished) return notJudged(std::move(v), "the run was stopped early");
  const double now = shareWith(sensors, **after, hours).share();
  v.unit = "%";
  v.figure = 100 * now;
  v.needed = 100 * least;
  v.key = (*after)->key;
  const bool anyProposed = std::any_of(p.elements.begin(), p.elements.end(), [](const auto& e) { return e->proposed; });
  double was = NAN;
  if (anyProposed && kept > 0) {
    const auto before = run(groups, settings, true, 0);
    if (!before) return notJudged(std::move(v), lowered(before.error().text()));
    if ((*before)->end != RunEnd::Finished) return notJudged(std::move(v), "the run of the state before was stopped early");
    was = shareWith(sensors, **before, hours).share();
    v.before = 100 * was;
    for (const SensorGridFacts& g : sensors.groups) {
      const HourStatistics a = statistics(**after, g.first, g.count, hours), b = statistics(**before, g.first, g.count, hours);
      v.rows.push_back({g.name, Outcome3::NotJudged, 100 * a.shareAtLeast, 100 * b.shareAtLeast, ""});
    }
  } else {
    for (const SensorGridFacts& g : sensors.groups)
      v.rows.push_back({g.name, Outcome3::NotJudged, 100 * statistics(**after, g.first, g.count, hours).shareAtLeast, NAN, ""});
  }
  for (VerdictRow& r : v.rows) {
    const bool enough = r.after >= 100 * least - 1e-9, keeps = !std::isnan(r.before) && r.after >= kept * r.before - 1e-9;
    r.outcome = enough || keeps ? Outcome3::Meets : Outcome3::FallsShort;
  }
  const bool enough = now >= least - 1e-12, keeps = !std::isnan(was) && now >= kept * was - 1e-12;
  v.outcome = enough || keeps ? Outcome3::Meets : Outcome3::FallsShort;
  v.detail = fmt::format("{:.1f} % of the area has {:g} h of sun or more; {:g} % are asked for", 100 * now, hours, 100 * least);
  if (!std::isnan(was)) {
    v.detail += fmt::format(", or {:g} % of the {:.1f} % before", 100 * kept, 100 * was);
    v.needed = std::min(v.needed, 100 * kept * was); // what would have been enough
  }
  if (enough)
    v.text = fmt::format("meets: {:.1f} % of {:g} %", 100 * now, 100 * least);
  else if (keeps)
    v.text = fmt::format("meets: keeps {:.0f} % of what had sun before", 100 * now / was);
  else
    v.text = fmt::format("falls short by {:.1f} points", v.needed - 100 * now);
  return v;
}

struct Dwelling {
  double living = NAN, open = NAN; ///< hours reached by the least area; NaN where the dwelling has none
};

/// The hours that at least `leastArea` of a group reaches; with 0, what its best sensor reaches.
double hoursOf(const SensorGridFacts& g, const std::vector<float>& hours, double leastArea) {
  std::vector<float> v(hours.begin() + std::ptrdiff_t(g.first), hours.begin() + std::ptrdiff_t(g.first + g.count));
  std::erase_if(v, [](float x) { return std::isnan(x); });
  if (v.empty()) return 0;
  std::sort(v.begin(), v.end(), std::greater<>());
  const double cell = g.cellArea > 0 ? g.cellArea : 1;
  const auto cells = std::size_t(std::ceil(leastArea / cell - 1e-9));
  if (cells > v.size()) return 0; // the group is smaller than the least area asked for
  return v[std::max<std::size_t>(cells, 1) - 1];
}

Verdict judgeDwellings(const Project& p, const Yardstick& y, const std::vector<GroupId>& groups,
                       const SunHoursSettings& settings, const SensorSet& sensors, const SunHoursRunner& run, Verdict v) {
  const double needed = y.number("hours"), share = y.number("share") / 100, none = y.number("none-share") / 100;
  const bool unbroken = y.word("counted") == "longest unbroken";
  const std::string subject = y.word("subject");
  const auto result = run(groups, settings, false, y.number("least-interval") * 60);
  if (!result) return notJudged(std::move(v), lowered(result.error().text()));
  if ((*result)->end != RunEnd::Finished) return notJudged(std::move(v), "the run was stopped early");
  v.key = (*result)->key;
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
    double& h = group->subject == Subject::LivingRoom ? d.living : d.open;
    const double own = hoursOf(g, hours, group->subject == Subject::LivingRoom && g.cellArea == 0 ? 0 : y.number("least-area"));
    h = std::isnan(h) ? own : std::max(h, own); // one window of several suffices
  }
  if (unnamed > 0)
    v.notes.push_back(fmt::format("{} group{} without a dwelling and a subject (living room or open space) left out.",
                                  unnamed, unnamed == 1 ? "" : "s"));
  if (dwellings.empty())
    return notJudged(std::move(v), "no group is marked as a living room or open space of a dwelling");

  int enough = 0, dark = 0;
  for (const auto& [name, d] : dwellings) {
    double h = 0;
    if (subject == "both")
      h = std::min(std::isnan(d.living) ? 0 : d.living, std::isnan(d.open) ? 0 : d.open);
    else if (subject == "either")
      h = std::max(std::isnan(d.living) ? 0 : d.living, std::isnan(d.open) ? 0 : d.open);
    else
      h = subject == "open space" ? (std::isnan(d.open) ? 0 : d.open) : (std::isnan(d.living) ? 0 : d.living);
    const auto part = [](const char* what, double x) {
      return std::isnan(x) ? fmt::format("no {}", what) : fmt::format("{} {:.2f} h", what, x);
    };
    VerdictRow row{name, h >= needed - 1e-6 ? Outcome3::Meets : Outcome3::FallsShort, h, NAN,
                   part("living room", d.living) + ", " + part("open space", d.open)};
    enough += row.outcome == Outcome3::Meets;
    dark += h <= 0;
    v.rows.push_back(std::move(row));
  }
  const double n = double(dwellings.size());
  v.unit = "%";
  v.figure = 100 * enough / n;
  v.needed = 100 * share;
  const bool shareMet = enough >= share * n - 1e-9, noneMet = dark <= none * n + 1e-9;
  v.outcome = shareMet && noneMet ? Outcome3::Meets : Outcome3::FallsShort;
  v.detail = fmt::format("{} of {} dwellings have {:g} h {}; {} have none at all ({:g} % may)", enough, dwellings.size(),
                         needed, unbroken ? "in one stretch" : "together", dark, 100 * none);
  if (v.outcome == Outcome3::Meets)
    v.text = fmt::format("meets: {:.0f} % of {:g} %", v.figure, v.needed);
  else if (!shareMet)
    v.text = fmt::format("falls short by {:.0f} points", std::ceil(v.needed - v.figure - 1e-9));
  else
    v.text = fmt::format("falls short: {:.0f} % of dwellings have no sun at all, {:g} % may", 100 * dark / n, 100 * none);
  return v;
}

} // namespace

Verdict judge(const Project& project, const Yardstick& y, const std::vector<GroupId>& groups, const JudgeRuns& runs) {
  Verdict v;
  v.title = y.title;
  if (y.measure != Measure::SunHoursArea && y.measure != Measure::SunHoursDwellings) return judgeRooms(project, y, groups, runs);
  if (groups.empty()) return notJudged(std::move(v), "no group of sensors is chosen");
  const auto settings = settingsOf(y, project.site);
  if (!settings) return notJudged(std::move(v), lowered(settings.error().text()));
  const auto sensors = layOutSensors(project, groups);
  if (!sensors) return notJudged(std::move(v), lowered(sensors.error().text()));
  if (sensors->sensors.empty()) return notJudged(std::move(v), "its groups have no sensors");
  v.notes.push_back(settingsText(*settings));
  return y.measure == Measure::SunHoursArea ? judgeArea(project, y, groups, *settings, *sensors, runs.sunHours, std::move(v))
                                            : judgeDwellings(project, y, groups, *settings, *sensors, runs.sunHours, std::move(v));
}

} // namespace noonward
