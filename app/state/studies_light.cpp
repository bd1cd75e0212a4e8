// Studies of light by themselves, with the verdicts beside them: from the worker's thread.

#include "app/state/studies.h"
#include "core/files/project/design_json.h"
#include "picture/model_parts.h"
#include <QElapsedTimer>
#include <QPointer>

namespace noonward {

std::shared_ptr<StudyAnswer> Studies::lightAnswer(Question& q) {
  QElapsedTimer clock;
  clock.start();
  StudyAnswer a;
  a.study = q.study.id;
  a.quick = q.quick;
  a.key = q.key;
  Study study = q.study;
  if (q.quick) study.light.mostSamples = 64;
  auto input = lightInput(q.project, study, false, q.moment);
  if (!input) {
    a.fault = QString::fromStdString(input.error().text());
    return std::make_shared<StudyAnswer>(std::move(a));
  }
  a.lightInput = std::make_shared<const LightInput>(std::move(*input));
  const auto paint = [&](std::shared_ptr<const LightResult> result) {
    auto painted = std::make_shared<PaintedResult>();
    painted->sensors = a.lightInput->sensors;
    painted->scale = scaleFor(*result, usualThreshold(study.kind));
    painted->light = std::move(result);
    a.painted = std::move(painted);
    a.seconds = double(clock.nsecsElapsed()) * 1e-9;
    return std::make_shared<StudyAnswer>(a);
  };
  const quint64 number = q.number;
  const auto showSoFar = [&](std::shared_ptr<const LightResult> soFar) {
    a.partial = true; // a round: shown while the run goes on
    auto shown = paint(std::move(soFar));
    a.partial = false;
    QMetaObject::invokeMethod(
        this,
        [this, number, shown] {
          if (number != number_) return; // news of an older run
          answer_ = shown;
          emit answerChanged();
        },
        Qt::QueuedConnection);
  };
  // Verdicts beside this kind of study; they may run it again without the proposal.
  const auto judged = [&](std::shared_ptr<const LightResult> result) -> std::shared_ptr<StudyAnswer> {
    const StudyKind beside = study.kind == StudyKind::SunlightWinter ? StudyKind::SunlightYear : study.kind;
    bool any = false;
    for (const Judgement& j : q.project.judgements) {
      const Yardstick* y = document_.shelf().find(j.yardstick);
      if (q.quick || result->end != RunEnd::Finished || !y || judgedBy(y->measure) != JudgedBy::Light ||
          studyKindOf(y->measure) != beside)
        continue;
      if (!any) showSoFar(result);
      any = true;
      StudyRunner runner(q.store.get());
      a.verdicts.emplace_back(j, runner.judgement(q.project, *y, j, *q.control));
      if (q.control->wish == Wish::Drop) return nullptr;
    }
    return paint(std::move(result));
  };
  if (!q.quick)
    if (auto known = q.store->findLight(a.lightInput->key)) return judged(std::move(known));
  auto result = std::make_shared<LightResult>(runLight(*a.lightInput, *q.control, {}, [&](const LightResult& soFar) {
    if (!q.quick) showSoFar(std::make_shared<const LightResult>(soFar));
  }));
  if (result->end == RunEnd::Dropped) return nullptr;
  if (!q.quick) (void)q.store->keep(*result, runOf(q.project, q.study));
  return judged(std::move(result));
}

} // namespace noonward
