#include "core/runs/answer.h"
#include "core/runs/runner.h"
#include "core/runs/trial.h"
#include "core/studies/energy/energy_kept.h"
#include "core/studies/energy/energy_year.h"
#include "core/studies/model_parts.h"
#include <algorithm>
#include <chrono>
#include <fmt/format.h>

namespace noonward {

namespace {

class Stopwatch {
public:
  double seconds() const { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count(); }

private:
  std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
};

StudyAnswer begun(const StudyQuestion& q) {
  StudyAnswer a;
  a.study = q.study.id;
  a.key = q.key;
  a.quick = q.quick;
  a.asked = studyName(q.study.kind);
  return a;
}
AnswerPtr shared(StudyAnswer a) {
  return std::make_shared<const StudyAnswer>(std::move(a));
}
AnswerPtr faulty(const StudyQuestion& q, const Error& error) {
  StudyAnswer a = begun(q);
  a.fault = error.text();
  return shared(std::move(a));
}

/// Sensors × dates above which sun hours wait to be asked; sensors of light.
constexpr double sunLimit = 250'000, lightLimit = 20'000;

} // namespace

Findings StudyAnswer::findings() const {
  return lightInput ? lightInput->findings : facts ? facts->findings : Findings{};
}

Digest studyDigest(const Project& p, const Study& s, std::optional<Instant> moment) {
  switch (factsOf(s.kind).answer) {
  case AnswerOf::SunHours:
    return hashSunHours(p, s.groups, s.sunHours);
  case AnswerOf::Light:
    return hashLight(p, s, false, moment);
  case AnswerOf::Year:
    return hashYear(p, s.groups, s.year);
  }
  return {};
}

bool followsChanges(const Project& p, const Study& s, std::size_t sensors) {
  switch (factsOf(s.kind).settings) {
  case SettingsOf::SunHours:
    return double(sensors) * double(datesOf(s.sunHours, p.site.year).size()) <= sunLimit;
  case SettingsOf::Light:
    return double(sensors) <= lightLimit;
  case SettingsOf::Year: // seconds, not a blink
    return false;
  }
  return false;
}

AnswerPtr Answerer::answer(const StudyQuestion& whole, RunControl& control,
                           const std::function<void(AnswerPtr)>& soFar) {
  if (whole.trial) {
    StudyQuestion q = whole;
    q.trial = false;
    q.study = trialOf(whole.study, whole.project.site.year);
    q.store.reset();
    q.shelf.reset();
    const auto marked = [&](const AnswerPtr& answer) {
      if (!answer) return answer;
      StudyAnswer a = *answer;
      a.trial = true;
      a.asked += ", " + trialText(whole.study, whole.project.site.year);
      if (const double more = trialScale(whole.study, whole.project.site.year);
          a.painted && a.painted->result && more != 1) {
        a.painted = std::make_shared<const SensorField>(
            sunField(a.painted->sensors, std::make_shared<const SunHoursResult>(raised(*a.painted->result, more))));
      }
      if (const double more = trialScale(whole.study, whole.project.site.year);
          a.painted && a.state == DesignState::Difference && a.painted->kind() == StudyKind::SunHours && more != 1) {
        const FieldScale told = a.painted->scale;
        std::vector<float> hours = a.painted->values();
        for (float& h : hours) h = float(h * more);
        SensorField raisedField = asChange(*a.painted, std::move(hours), a.painted->light->standardError);
        raisedField.scale.title = told.title;
        a.painted = std::make_shared<const SensorField>(std::move(raisedField));
      }
      return shared(std::move(a));
    };
    return marked(answer(q, control, [&](AnswerPtr part) { soFar(marked(part)); }));
  }
  const StudyQuestion& q = whole;
  switch (factsOf(q.study.kind).answer) {
  case AnswerOf::SunHours:
    return inState(sunHours(q, control, soFar), q, control);
  case AnswerOf::Light:
    if (q.state == DesignState::Proposed) return light(q, control, soFar);
    return inState(light(q, control, [](const AnswerPtr&) {}), q, control);
  case AnswerOf::Year:
    return year(q, control, soFar);
  }
  return nullptr;
}

Expected<std::shared_ptr<const SensorField>> Answerer::before(const StudyQuestion& q, RunControl& control) {
  ResultStore* store = q.quick ? nullptr : q.store.get();
  StudyRunner runner(store, threads_);
  Study study = q.study;
  if (q.quick) {
    study.sunHours.counting = Counting::Stepped;
    study.light.maxSamples = 64;
  }
  const Digest key = factsOf(study.kind).answer == AnswerOf::SunHours
                         ? hashSunHours(q.project, study.groups, study.sunHours, true)
                         : hashLight(q.project, study, true, q.moment);
  if (const auto at = before_.find(key); at != before_.end() && at->second->isIn(q.project.units)) return at->second;
  auto made = runner.field(q.project, study, true, q.moment, control);
  if (!made) return tl::unexpected(made.error());
  auto field = std::make_shared<const SensorField>(std::move(*made));
  if (field->end() == RunEnd::Finished) before_[key] = field; // what was stopped early answers this question alone
  return field;
}

AnswerPtr Answerer::inState(AnswerPtr answer, const StudyQuestion& q, RunControl& control) {
  if (!answer || !answer->painted || q.state == DesignState::Proposed || q.onlyStored) return answer;
  if (before_.size() > 6) before_.clear();
  const auto without = before(q, control);
  if (control.wish == Wish::Drop) return nullptr;
  if (!without) return faulty(q, without.error());
  StudyAnswer a = *answer;
  a.state = q.state;
  a.painted = std::make_shared<const SensorField>(stateField(*a.painted, **without, q.state));
  return shared(std::move(a));
}

void Answerer::forget() {
  scene_ = {};
  recent_.clear();
  before_.clear();
  energyKept_.reset();
}

std::shared_ptr<const ProbeResult> Answerer::probe(const StudyQuestion& q) {
  const Scene scene = buildScene(q.project, {true, q.moving}, &scene_);
  const ProbeInput spot{q.probe->position, q.probe->normal,           q.project.site.place,
                        q.project.zone(),  q.project.site.northAngle, q.project.site.year};
  auto out = std::make_shared<const ProbeResult>(probeProject(q.project, spot, scene));
  if (!q.wantsStudy) scene_ = scene;
  return out;
}

AnswerPtr Answerer::sunHours(const StudyQuestion& q, RunControl& control, const std::function<void(AnswerPtr)>&) {
  const Stopwatch clock;
  StudyAnswer a = begun(q);
  bool dropped = false;
  const auto run =
      [&](const std::vector<GroupId>& groups, SunHoursSettings s, bool before, double least,
          std::shared_ptr<const SunHoursInput>* keepInput) -> Expected<std::shared_ptr<const SunHoursResult>> {
    if (q.quick) s.counting = Counting::Stepped;
    const Digest key = hashSunHours(q.project, groups, s, before, least);
    std::shared_ptr<const SunHoursResult> known;
    if (const auto at = recent_.find(key); at != recent_.end()) known = at->second;
    if (!known && !q.quick && q.store) known = q.store->find(key);
    if (!known && q.onlyStored) {
      dropped = true;
      return fail("It was not run yet.");
    }
    if (known && !keepInput) return known;
    auto input = sunHoursInput(q.project, groups, s, before, least, before ? nullptr : &scene_,
                               before ? std::vector<ElementId>{} : q.moving);
    if (!input) return tl::unexpected(input.error());
    if (!before) scene_ = input->scene;
    if (keepInput) *keepInput = std::make_shared<const SunHoursInput>(*input);
    if (known) return known;
    auto result = std::make_shared<SunHoursResult>(runSunHours(*input, control, threads_));
    if (result->end == RunEnd::Dropped) {
      dropped = true;
      return fail("The run was dropped.");
    }
    if (!q.quick && q.store) {
      StoredRun stored = runOf(q.project, q.study);
      if (before) stored.name += " (before)";
      stored.asked = settingsText(s);
      (void)q.store->keep(*result, std::move(stored)); // a store that can't be written costs only time later
    }
    if (recent_.size() > 12) recent_.clear();
    if (result->end == RunEnd::Finished) recent_[key] = result;
    return std::shared_ptr<const SunHoursResult>(std::move(result));
  };
  a.asked += ", " + settingsText(q.study.sunHours);
  auto result = run(q.study.groups, q.study.sunHours, false, 0, &a.input);
  if (dropped) return nullptr;
  if (!result) return faulty(q, result.error());
  a.painted = std::make_shared<const SensorField>(sunField(a.input->sensors, *result));
  for (const Judgement& j : q.project.judgements) {
    const Yardstick* y = q.shelf ? q.shelf->find(j.yardstick) : nullptr;
    if (!y || !ofSunHours(y->measure)) continue;
    Verdict v;
    auto changed = withChanges(*y, j.changed);
    if (changed && q.quick) // coarser, while something is dragged
      for (Parameter& parameter : changed->parameters)
        if (double* step = std::get_if<double>(&parameter.value); step && parameter.key == "moment-step")
          *step = std::max(*step, 60.0);
    if (changed)
      v = judge(q.project, *changed, j.groups,
                JudgeRuns{[&](const auto& groups, const auto& s, bool before, double least) {
                            return run(groups, s, before, least, nullptr);
                          },
                          {},
                          {}});
    else
      v.text = "not judged because " + changed.error().text();
    if (dropped) return nullptr;
    a.verdicts.emplace_back(j, std::move(v));
  }
  a.seconds = clock.seconds();
  return shared(std::move(a));
}

AnswerPtr Answerer::light(const StudyQuestion& q, RunControl& control, const std::function<void(AnswerPtr)>& soFar) {
  const Stopwatch clock;
  StudyAnswer a = begun(q);
  Study study = q.study;
  if (q.quick) study.light.maxSamples = 64;
  if (!energyKept_) energyKept_ = std::make_shared<EnergyKept>();
  auto input = lightInput(q.project, study, false, q.moment, energyKept_);
  if (!input) return faulty(q, input.error());
  a.lightInput = std::make_shared<const LightInput>(std::move(*input));
  a.asked += fmt::format(", {}, error at sensors {:g} %", a.lightInput->sky.text, 100 * study.light.error);
  const auto with = [&](std::shared_ptr<const LightResult> result, bool partial) {
    a.painted =
        std::make_shared<const SensorField>(lightField(a.lightInput->sensors, std::move(result), q.project.units));
    a.seconds = clock.seconds();
    a.partial = partial;
    return shared(a);
  };
  std::shared_ptr<const LightResult> result;
  if (!q.quick && q.store) result = q.store->findLight(a.lightInput->key);
  a.stored = result != nullptr;
  if (!result && q.onlyStored && !answeredByKept(*a.lightInput)) return nullptr; // what takes a blink follows changes
  if (!result) {
    auto fresh =
        std::make_shared<LightResult>(runLight(*a.lightInput, control, threads_, [&](const LightResult& round) {
          if (!q.quick) soFar(with(std::make_shared<const LightResult>(round), true));
        }));
    if (fresh->end == RunEnd::Dropped) return nullptr;
    if (!q.quick && q.store) (void)q.store->keep(*fresh, runOf(q.project, q.study));
    result = std::move(fresh);
  }
  // Verdicts beside this kind of study; they may run it again without the proposal.
  bool any = false;
  for (const Judgement& j : q.project.judgements) {
    const Yardstick* y = q.shelf ? q.shelf->find(j.yardstick) : nullptr;
    if (q.quick || result->end != RunEnd::Finished || !y || judgedBy(y->measure) != JudgedBy::Light ||
        studyKindOf(y->measure) != factsOf(study.kind).rulesOf)
      continue;
    if (!any) soFar(with(result, true));
    any = true;
    StudyRunner runner(q.store.get(), threads_);
    a.verdicts.emplace_back(j, runner.judgement(q.project, *y, j, control));
    if (control.wish == Wish::Drop) return nullptr;
  }
  return with(std::move(result), false);
}

std::vector<std::pair<Judgement, Verdict>> yearVerdicts(const Project& p, const YardstickShelf& shelf,
                                                        const StudyAnswer& a, ResultStore* store, RunControl& control) {
  StudyRunner runner(store);
  std::vector<std::pair<Judgement, Verdict>> out;
  for (const Judgement& j : p.judgements) {
    const Yardstick* y = shelf.find(j.yardstick);
    if (!y || !besideYear(y->measure)) continue;
    const auto changed = withChanges(*y, j.changed);
    if (changed && ofYear(y->measure)) {
      out.emplace_back(j, judgeYear(p, *changed, *a.facts, *a.year));
      continue;
    }
    const auto before = std::find_if(a.verdicts.begin(), a.verdicts.end(),
                                     [&](const auto& v) { return v.first.id == j.id && v.first.changed == j.changed; });
    if (before != a.verdicts.end()) { // these cost rays of their own: judged with the run
      out.push_back(*before);
      continue;
    }
    Verdict v;
    v.title = y->title;
    v.text = "not judged because the year was not run since it was laid";
    const bool now = store || y->measure == Measure::OpeningSun || !changed;
    out.emplace_back(j, now ? runner.judgement(p, *y, j, control) : v);
  }
  return out;
}

AnswerPtr Answerer::year(const StudyQuestion& q, RunControl& control, const std::function<void(AnswerPtr)>& soFar) {
  const Stopwatch clock;
  StudyAnswer a = begun(q);
  const auto show = [&](std::shared_ptr<const YearResult> year) {
    a.year = year;
    a.painted = std::make_shared<const SensorField>(yearField(*a.facts, std::move(year), q.metric, q.project.units));
    a.seconds = clock.seconds();
  };
  const auto judged = [&] {
    if (q.shelf) a.verdicts = yearVerdicts(q.project, *q.shelf, a, q.store.get(), control);
  };
  if (auto known = q.store ? q.store->findYear(q.key) : nullptr;
      known && (known->end == RunEnd::Finished || q.onlyStored)) {
    auto facts = yearFacts(q.project, q.study.groups, q.study.year);
    if (!facts) return faulty(q, facts.error());
    a.facts = std::make_shared<const YearFacts>(std::move(*facts));
    a.stored = true;
    show(std::move(known));
    a.seconds = a.year->seconds;
    judged();
    return shared(std::move(a));
  }
  if (q.onlyStored) return nullptr;
  auto input = yearInput(q.project, q.study.groups, q.study.year, &kept_);
  if (!input) return faulty(q, input.error());
  a.yearInput = std::make_shared<const YearInput>(std::move(*input));
  a.facts = a.yearInput;
  auto result =
      std::make_shared<YearResult>(runYear(*a.yearInput, control, threads_, &kept_, [&](const YearResult& room) {
        a.partial = true; // a room more: shown while the others are on their way
        show(std::make_shared<const YearResult>(room));
        soFar(shared(a));
      }));
  if (result->end == RunEnd::Dropped) return nullptr;
  a.partial = false;
  a.reused = result->tracing == 0;
  show(std::move(result));
  if (a.year->everySpace && q.store) (void)q.store->keep(*a.year, runOf(q.project, q.study));
  judged();
  return shared(std::move(a));
}

} // namespace noonward
