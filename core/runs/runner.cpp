#include "core/runs/runner.h"
#include "core/studies/energy/energy_kept.h"
#include "core/studies/energy/energy_year.h"
#include <chrono>
#include <fmt/format.h>

namespace noonward {

namespace {
Instant nowUtc() {
  return {std::chrono::duration<double>(std::chrono::system_clock::now().time_since_epoch()).count()};
}
template <class T>
void remember(std::map<Digest, std::shared_ptr<const T>>& among, const Digest& key, std::shared_ptr<const T> result) {
  if (among.size() >= 64) among.clear();
  among[key] = std::move(result);
}
} // namespace

Expected<std::shared_ptr<const SunHoursResult>>
StudyRunner::sunHours(const Project& project, const std::vector<GroupId>& groups, const SunHoursSettings& settings,
                      bool before, double leastStretch, RunControl& control, const std::string& name) {
  const Digest key = hashSunHours(project, groups, settings, before, leastStretch);
  if (const auto at = sun_.find(key); at != sun_.end()) return at->second;
  if (store_)
    if (auto known = store_->find(key)) return known;
  auto input = sunHoursInput(project, groups, settings, before, leastStretch);
  if (!input) return tl::unexpected(input.error());
  auto result = std::make_shared<SunHoursResult>(runSunHours(*input, control, threads_));
  ++computed_;
  if (result->end == RunEnd::Dropped) return fail("The run was dropped.");
  if (store_) {
    // A store that can't be written costs only time later; the result itself stands.
    (void)store_->keep(*result,
                       {{}, before ? name + " (before)" : name, settingsText(settings), isoText(nowUtc(), 0), 0});
  }
  if (result->end == RunEnd::Finished) remember<SunHoursResult>(sun_, key, result);
  return std::shared_ptr<const SunHoursResult>(std::move(result));
}

std::shared_ptr<EnergyKept> StudyRunner::energyKept() {
  if (!energyKept_) energyKept_ = std::make_shared<EnergyKept>();
  return energyKept_;
}

Expected<std::shared_ptr<const LightResult>> StudyRunner::light(const LightInput& input, RunControl& control,
                                                                const std::string& name) {
  if (const auto at = light_.find(input.key); at != light_.end()) return at->second;
  if (store_)
    if (auto known = store_->findLight(input.key)) return known;
  LightInput asked = input;
  if (input.energy && !asked.energyKept) asked.energyKept = energyKept();
  auto result = std::make_shared<LightResult>(runLight(asked, control, threads_));
  ++computed_;
  if (result->end == RunEnd::Dropped) return fail("The run was dropped.");
  if (store_)
    (void)store_->keep(
        *result, {{}, name, fmt::format("{}, {}", studyName(input.kind), input.sky.text), isoText(nowUtc(), 0), 0});
  if (result->end == RunEnd::Finished) remember<LightResult>(light_, input.key, result);
  return std::shared_ptr<const LightResult>(std::move(result));
}

Expected<SensorField> StudyRunner::field(const Project& p, const Study& study, bool before,
                                         std::optional<Instant> moment, RunControl& control) {
  const std::string name = study.name + (before ? " (before)" : "");
  switch (factsOf(study.kind).answer) {
  case AnswerOf::SunHours: {
    auto sensors = layOutSensors(p, groupsTaken(p, study.groups));
    if (!sensors) return tl::unexpected(sensors.error());
    auto result = sunHours(p, study.groups, study.sunHours, before, 0, control, study.name);
    if (!result) return tl::unexpected(result.error());
    return sunField(std::move(*sensors), std::move(*result));
  }
  case AnswerOf::Light: {
    const auto input = lightInput(p, study, before, moment, energyKept());
    if (!input) return tl::unexpected(input.error());
    auto result = light(*input, control, name);
    if (!result) return tl::unexpected(result.error());
    return lightField(input->sensors, std::move(*result), p.units);
  }
  case AnswerOf::Year:
    break;
  }
  return fail("A daylight year has several figures, and no single field.");
}

std::string askedText(const YearSettings& s) {
  const std::string blinds = blindsText(s);
  return fmt::format("{} to {}{}, {:g} lx, {}{}", clockText(s.beginMinute), clockText(s.endMinute),
                     s.weekdaysOnly ? " Mon to Fri" : "", s.metrics.threshold,
                     blinds + (s.ownIlluminance ? ", the weather file's illuminances" : ""),
                     s.glassKept < 1 ? fmt::format(", {:g} % kept by frames and dirt", 100 * s.glassKept) : "");
}

std::string askedText(const Study& s) {
  return s.kind == StudyKind::Year ? askedText(s.year)
         : s.kind == StudyKind::Glare
             ? fmt::format("DGP above {:g}, {} to {}{}, {}", s.year.glareLimit, clockText(s.year.beginMinute),
                           clockText(s.year.endMinute), s.year.weekdaysOnly ? " Mon to Fri" : "", blindsText(s.year))
         : s.kind == StudyKind::Energy   ? fmt::format("{}, {}", studyName(s.kind), blindsText(s.year))
         : s.kind == StudyKind::ViewOut  ? std::string(studyName(s.kind)) + ", EN 17037"
         : s.kind == StudyKind::SunHours ? settingsText(s.sunHours)
         : s.kind == StudyKind::Irradiation && s.light.sky.kind == SkyKind::Usual
             ? fmt::format("{}, {}{}", studyName(s.kind), seasonText(s.light.season),
                           s.light.amount == EnergyAmount::DailyMean ? ", mean of a day" : "")
             : fmt::format("{}, {}", studyName(s.kind), skyText(s.light.sky));
}

StoredRun runOf(const Project& p, const Study& s) {
  StoredRun run;
  run.name = s.name;
  run.option = p.options.empty() ? "" : p.options[p.option].name;
  run.kind = s.kind;
  run.asked = askedText(s);
  run.when = isoText(nowUtc(), 0);
  run.wentIn = wentInText(p, s);
  return run;
}

Expected<YearAnswered> StudyRunner::year(const Project& project, const std::vector<GroupId>& groups,
                                         const YearSettings& settings, RunControl& control, const std::string& name) {
  auto facts = yearFacts(project, groups, settings);
  if (!facts) return tl::unexpected(facts.error());
  if (store_ && !settings.keepSeries)
    if (auto known = store_->findYear(facts->key); known && known->end == RunEnd::Finished)
      return YearAnswered{std::move(*facts), std::move(known)};
  auto input = yearInput(project, groups, settings, kept_.get());
  if (!input) return tl::unexpected(input.error());
  auto result = std::make_shared<YearResult>(runYear(*input, control, threads_, kept_.get()));
  ++computed_;
  if (result->end == RunEnd::Dropped) return fail("The run was dropped.");
  if (store_) {
    Study s;
    s.kind = StudyKind::Year;
    s.name = name;
    s.groups = groups;
    s.year = settings;
    (void)store_->keep(*result, runOf(project, s));
  }
  return YearAnswered{std::move(static_cast<YearFacts&>(*input)), std::move(result)};
}

Verdict StudyRunner::judgement(const Project& project, const Yardstick& yardstick, const Judgement& j,
                               RunControl& control) {
  const auto changed = withChanges(yardstick, j.changed);
  if (!changed) {
    Verdict v;
    v.title = yardstick.title;
    v.text = "not judged because of a changed parameter: " + changed.error().text();
    return v;
  }
  JudgeRuns runs;
  runs.sunHours = [&](const std::vector<GroupId>& groups, const SunHoursSettings& settings, bool before, double least) {
    return sunHours(project, groups, settings, before, least, control, yardstick.title);
  };
  runs.year = [&](const std::vector<GroupId>& groups, const YearSettings& settings) {
    return year(project, groups, settings, control, yardstick.title);
  };
  runs.light = [&](const LightQuestion& q) -> Expected<LightAnswered> {
    const bool winter = q.kind == StudyKind::SunlightWinter; // goes by the settings of its year
    Study s;
    for (const Study& own : project.studies)
      if ((own.kind == q.kind || (winter && own.kind == StudyKind::SunlightYear)) && own.groups == q.groups) s = own;
    s.kind = q.kind;
    s.groups = q.groups;
    const auto input = lightInput(project, s, q.before, {}, energyKept());
    if (!input) return tl::unexpected(input.error());
    auto result = light(*input, control, yardstick.title);
    if (!result) return tl::unexpected(result.error());
    return LightAnswered{input->sensors, *result, input->sky.text};
  };
  Verdict v = judge(project, *changed, j.groups, runs);
  for (const auto& [key, value] : j.changed) v.notes.push_back(key + " changed to " + value);
  return v;
}

std::vector<RuleReading> StudyRunner::readings(const Project& p, const Yardstick& yardstick, const Judgement& j,
                                               RunControl& control) {
  const auto changed = withChanges(yardstick, j.changed);
  if (!changed) return {};
  Judgement as = j;
  as.changed.clear(); // they are in the yardstick already
  return ruleReadings(p, *changed, [&](const Project& other, const Yardstick& y) {
    return control.wish == Wish::GoOn ? judgement(other, y, as, control) : Verdict{};
  });
}

} // namespace noonward
