#include "app/state/studies.h"
#include "core/files/project/design_json.h"
#include "picture/model_parts.h"
#include <QElapsedTimer>
#include <QPointer>

namespace noonward {

Studies::Studies(Document& document, QObject* parent) : QObject(parent), document_(document) {
  debounce_.setSingleShot(true);
  debounce_.setInterval(0);
  connect(&debounce_, &QTimer::timeout, this, [this] { ask(false); });
  connect(&document_, &Document::projectChanged, &debounce_, qOverload<>(&QTimer::start));
  connect(&document_, &Document::lookingChanged, &debounce_, qOverload<>(&QTimer::start));
  connect(&document_, &Document::lookingChanged, this, &Studies::repaintYear);
  connect(&document_, &Document::lookingChanged, this, &Studies::askHours);
  connect(&document_, &Document::projectChanged, this, &Studies::judgeAgain);
  connect(this, &Studies::answerChanged, this, &Studies::askHours);
  connect(&document_, &Document::replaced, this, [this] {
    answer_.reset();
    hours_.reset();
    readings_.reset();
    compared_.reset();
    storedAsked_.reset();
    probe_.reset();
    asked_.reset();
    askedProbe_.reset();
    refreshHistory();
    emit answerChanged();
    emit probeChanged();
  });
  worker_ = std::thread([this] { work(); });
}

Studies::~Studies() {
  {
    const std::lock_guard lock(mutex_);
    stop_ = true;
    waiting_.reset();
    waitingJobs_.clear();
    if (running_) running_->wish = Wish::Drop;
  }
  wake_.notify_all();
  worker_.join();
}

const Study* Studies::activeStudy() const {
  const Project& p = document_.project();
  for (const Study& s : p.studies)
    if (s.id == document_.looking().study) return &s;
  return p.studies.empty() ? nullptr : &p.studies.front();
}

std::shared_ptr<const StudyAnswer> Studies::current() const {
  const Study* s = activeStudy();
  if (!answer_ || !s || answer_->study != s->id) return nullptr;
  if (answer_->quick || document_.previewingModel())
    return answer_->quick ? answer_ : nullptr; // follows the drag, and says so
  return answer_->key == keyOf(*s) ? answer_ : nullptr;
}

Digest Studies::keyOf(const Study& s) const {
  auto& [revision, study, moment, key] = keyNow_;
  const Instant now = s.kind == StudyKind::Illuminance && !s.light.sky.moment ? document_.looking().moment : Instant{};
  if (revision != document_.revision() || study != s.id || moment != now)
    keyNow_ = {document_.revision(), s.id, now,
               s.kind == StudyKind::SunHours ? hashSunHours(document_.project(), s.groups, s.sunHours)
               : s.kind == StudyKind::Year   ? hashYear(document_.project(), s.groups, s.year)
                                             : hashLight(document_.project(), s, false, now)};
  return key;
}

bool Studies::tooLargeForLive() const {
  const Study* s = activeStudy();
  if (!s) return false;
  if (s->kind == StudyKind::Year) return true; // seconds, not a blink: it waits for Run
  const auto sensors = layOutSensors(document_.project(), s->groups, 2'000'000);
  if (s->kind != StudyKind::SunHours) return !sensors || sensors->sensors.size() > lightLiveLimit;
  return !sensors ||
         double(sensors->sensors.size()) * double(datesOf(s->sunHours, document_.project().site.year).size()) >
             liveLimit;
}

void Studies::setLive(bool on) {
  live_ = on;
  if (on) asked_.reset();
  debounce_.start();
}

void Studies::setMoving(std::vector<ElementId> moving) {
  moving_ = std::move(moving);
  debounce_.start();
}

void Studies::run() {
  asked_.reset();
  if (const Study* s = activeStudy(); s && s->kind == StudyKind::Year)
    storedAsked_ = keyOf(*s); // no look into the store comes after it
  ask(true);
}

void Studies::enough() {
  const std::lock_guard lock(mutex_);
  if (running_) running_->wish = Wish::Enough;
}

void Studies::drop() {
  {
    const std::lock_guard lock(mutex_);
    waiting_.reset();
    jobs_ -= int(waitingJobs_.size());
    waitingJobs_.clear();
    if (running_)
      running_->wish = Wish::Drop;
    else
      busy_ = false; // what had not begun leaves nothing behind
  }
  asked_.reset();
  emit progressChanged();
}

void Studies::refreshHistory() {
  runs_ = document_.store()->runs();
  emit historyChanged();
}

void Studies::ask(bool force) {
  const Project& p = document_.project();
  const Study* s = activeStudy();
  Question q;
  q.quick = document_.previewingModel();
  bool wantsStudy = false;
  // A year that was run before is shown again; it is not run unasked.
  if (s && s->kind == StudyKind::Year && !force && !q.quick) {
    const Digest key = keyOf(*s);
    if (!current() && storedAsked_ != key) {
      storedAsked_ = key;
      q.onlyStored = wantsStudy = true;
      q.key = key;
      q.metric = document_.looking().metric;
      q.study = *s;
    }
  }
  if (s && !q.onlyStored && (force || (live_ && !tooLargeForLive()))) {
    const Digest key =
        Hasher().add(keyOf(*s)).add(q.quick).add(s->id.value).add(std::uint64_t(p.judgements.size())).digest();
    Hasher h;
    h.add(key);
    for (const Judgement& j : p.judgements) {
      h.add(j.yardstick);
      for (GroupId g : j.groups) h.add(g.value);
      for (const auto& [k, v] : j.changed) h.add(k).add(v);
    }
    q.key = keyOf(*s);
    q.moment = document_.looking().moment;
    q.metric = document_.looking().metric;
    const Digest whole = h.digest();
    wantsStudy = force || asked_ != whole;
    asked_ = whole;
    q.study = *s;
  }
  const auto& spot = document_.looking().probe;
  const bool wantsProbe = spot && (spot != askedProbe_ || askedProbeRevision_ != document_.revision());
  if (!spot && probe_) {
    probe_.reset();
    askedProbe_.reset();
    emit probeChanged();
  }
  if (!wantsStudy && !wantsProbe) {
    if (!current()) emit answerChanged();
    return;
  }
  if (wantsProbe) {
    q.probe = spot;
    askedProbe_ = spot;
    askedProbeRevision_ = document_.revision();
  }
  q.number = ++number_;
  q.project = p;
  q.moving = moving_;
  q.wantsStudy = wantsStudy;
  q.control = std::make_shared<RunControl>();
  q.store = document_.store();
  busy_ = true;
  progress_ = 0;
  {
    const std::lock_guard lock(mutex_);
    if (waiting_) { // what it wanted is still wanted
      if (waiting_->wantsStudy && !q.wantsStudy) {
        q.wantsStudy = true;
        q.key = waiting_->key;
        q.moment = waiting_->moment;
        q.onlyStored = waiting_->onlyStored;
        if (s) q.study = *s;
      }
      if (waiting_->probe && !q.probe) q.probe = spot;
    }
    // A running answer to the same study is superseded; a drag lets its own frames finish, or it would never show one.
    if (running_ && wantsStudy && !q.quick && !runningIsJob_) running_->wish = Wish::Drop;
    waiting_ = std::move(q);
  }
  wake_.notify_all();
  emit progressChanged();
}

void Studies::repaintYear() {
  if (!answer_ || !answer_->year || paintedMetric_ == document_.looking().metric) return;
  paintedMetric_ = document_.looking().metric;
  auto next = std::make_shared<StudyAnswer>(*answer_);
  next->painted = std::make_shared<const PaintedResult>(paintedYear(*next->facts, next->year, *paintedMetric_));
  answer_ = std::move(next);
  emit answerChanged();
}

void Studies::judgeYearInto(StudyAnswer& a, const Project& p, StudyRunner& runner, RunControl& control) const {
  std::vector<std::pair<Judgement, Verdict>> out;
  for (const Judgement& j : p.judgements) {
    const Yardstick* y = document_.shelf().find(j.yardstick);
    if (!y || !besideYear(y->measure)) continue;
    const auto changed = withChanges(*y, j.changed);
    if (!changed || !ofYear(y->measure)) {
      const auto before = std::find_if(a.verdicts.begin(), a.verdicts.end(), [&](const auto& v) {
        return v.first.id == j.id && v.first.changed == j.changed;
      });
      if (before != a.verdicts.end()) { // these cost rays of their own: judged with the run
        out.push_back(*before);
      } else {
        Verdict v;
        v.title = y->title;
        v.text = "not judged because the year was not run since it was laid";
        out.emplace_back(j, y->measure == Measure::OpeningSun || !changed ? runner.judgement(p, *y, j, control) : v);
      }
      continue;
    }
    out.emplace_back(j, judgeYear(p, *changed, *a.facts, *a.year));
  }
  a.verdicts = std::move(out);
}

void Studies::judgeAgain() {
  if (!answer_ || !answer_->year || answer_->partial || document_.previewingModel() || !current()) return;
  auto next = std::make_shared<StudyAnswer>(*answer_);
  StudyRunner runner(nullptr);
  RunControl control;
  judgeYearInto(*next, document_.project(), runner, control);
  answer_ = std::move(next);
  emit answerChanged();
}

std::shared_ptr<StudyAnswer> Studies::yearAnswer(Question& q) {
  QElapsedTimer clock;
  clock.start();
  auto a = std::make_shared<StudyAnswer>();
  a->study = q.study.id;
  a->key = q.key;
  const auto show = [&, metric = q.metric](std::shared_ptr<const YearResult> year) {
    a->year = year;
    a->painted = std::make_shared<const PaintedResult>(paintedYear(*a->facts, std::move(year), metric));
    a->seconds = double(clock.nsecsElapsed()) * 1e-9;
  };
  const auto judged = [&] {
    StudyRunner runner(q.store.get());
    judgeYearInto(*a, q.project, runner, *q.control);
  };
  if (auto known = q.store->findYear(q.key); known && (known->end == RunEnd::Finished || q.onlyStored)) {
    auto facts = yearFacts(q.project, q.study.groups, q.study.year);
    if (!facts) return nullptr;
    a->facts = std::make_shared<const YearFacts>(std::move(*facts));
    a->stored = true;
    show(std::move(known));
    a->seconds = a->year->seconds;
    judged();
    return a;
  }
  if (q.onlyStored) return nullptr;
  auto input = yearInput(q.project, q.study.groups, q.study.year, &kept_);
  if (!input) {
    a->fault = QString::fromStdString(input.error().text());
    return a;
  }
  a->yearInput = std::make_shared<const YearInput>(std::move(*input));
  a->facts = a->yearInput;
  const quint64 number = q.number;
  auto result =
      std::make_shared<YearResult>(runYear(*a->yearInput, *q.control, {}, &kept_, [&](const YearResult& soFar) {
        a->partial = true; // a room more: shown while the others are on their way
        show(std::make_shared<const YearResult>(soFar));
        const auto shown = std::make_shared<StudyAnswer>(*a);
        QMetaObject::invokeMethod(
            this,
            [this, number, shown] {
              if (number != number_) return;
              answer_ = shown;
              paintedMetric_.reset();
              repaintYear();
            },
            Qt::QueuedConnection);
      }));
  if (result->end == RunEnd::Dropped) return nullptr;
  a->partial = false;
  a->reused = result->tracing == 0;
  show(std::move(result));
  if (a->year->everySpace) (void)q.store->keep(*a->year, runOf(q.project, q.study));
  judged();
  return a;
}

std::shared_ptr<const HoursBehind> Studies::hours() const {
  const auto a = current();
  return hours_ && a && a->year && hours_->key == a->year->key && hoursAsked_.first == hours_->key &&
                 hoursAsked_.second == hours_->series->space
             ? hours_
             : nullptr;
}

void Studies::askHours() {
  const auto a = current();
  const Looking& l = document_.looking();
  if (!a || !a->year || a->partial) return;
  std::optional<std::size_t> space = l.space;
  if (!space && l.sensor && *l.sensor < a->facts->sensors.sensors.size())
    space = a->facts->sensors.sensors[*l.sensor].group;
  if (!space || *space >= a->facts->sensors.groups.size() || a->facts->sensors.groups[*space].count == 0) return;
  if (hoursAsked_ == std::pair{a->year->key, *space}) return;
  hoursAsked_ = {a->year->key, *space};
  const Study* s = activeStudy();
  later([this, a, space = *space, project = document_.project(),
         study = *s](RunControl& control, KeptCoefficients& kept) -> std::function<void()> {
    std::shared_ptr<const YearInput> input = a->yearInput;
    if (!input) {
      auto made = yearInput(project, study.groups, study.year, &kept);
      if (!made) return {};
      input = std::make_shared<const YearInput>(std::move(*made));
    }
    auto series = spaceSeries(*input, space, std::max(1, a->year->rounds), kept, control);
    if (!series) return [this] { hoursAsked_ = {{}, ~std::size_t{0}}; };
    auto hours = std::make_shared<HoursBehind>(
        HoursBehind{a->year->key, std::make_shared<const SpaceSeries>(std::move(*series)), input->groups});
    return [this, hours] {
      hours_ = hours;
      emit hoursChanged();
    };
  });
}

void Studies::askReadings() {
  const auto a = current();
  const Study* s = activeStudy();
  if (!a || !a->year || a->partial || !s) return;
  readingsKey_ = a->year->key;
  readings_.reset();
  emit readingsChanged();
  later([this, a, project = document_.project(), study = *s](RunControl& control,
                                                             KeptCoefficients& kept) -> std::function<void()> {
    std::shared_ptr<const YearInput> input = a->yearInput;
    if (!input) {
      auto made = yearInput(project, study.groups, study.year, &kept);
      if (!made) return {};
      input = std::make_shared<const YearInput>(std::move(*made));
    }
    auto list = std::make_shared<const std::vector<Reading>>(
        contestedReadings(project, *input, std::max(1, a->year->rounds), kept, control));
    return [this, list, key = a->year->key] {
      if (!(readingsKey_ == key)) return;
      readings_ = list;
      emit readingsChanged();
    };
  });
}

void Studies::compare(std::size_t from, std::size_t to) {
  const Project& p = document_.project();
  const Study* s = activeStudy();
  if (!s || s->kind != StudyKind::Year) {
    s = nullptr;
    for (const Study& x : p.studies)
      if (x.kind == StudyKind::Year && !s) s = &x;
  }
  if (from >= p.options.size() || to >= p.options.size()) return;
  if (!s) {
    auto fault = std::make_shared<OptionsCompared>();
    fault->fault = "The project has no daylight year: add one in Studies.";
    compared_ = fault;
    emit comparedChanged();
    return;
  }
  later([this, from, to, project = p, study = *s, store = document_.store(),
         revision = document_.revision()](RunControl& control, KeptCoefficients&) -> std::function<void()> {
    auto out = std::make_shared<OptionsCompared>();
    out->from = from;
    out->to = to;
    out->revision = revision;
    out->inputs = optionDifferences(project, from, to);
    StudyRunner runner(store.get());
    if (auto years = yearsOfOptions(project, from, to, study, runner, control)) {
      out->years[0] = std::move((*years)[0]);
      out->years[1] = std::move((*years)[1]);
      out->moves = compareYears(out->years[0], out->years[1]);
    } else {
      out->fault = QString::fromStdString(years.error().text());
    }
    return [this, out] {
      compared_ = out;
      refreshHistory();
      emit comparedChanged();
    };
  });
}

void Studies::later(std::function<std::function<void()>(RunControl&, KeptCoefficients&)> work) {
  ++jobs_;
  {
    const std::lock_guard lock(mutex_);
    waitingJobs_.push_back(std::move(work));
  }
  wake_.notify_all();
  emit progressChanged();
}

std::shared_ptr<StudyAnswer> Studies::answer(Question& q) {
  if (q.study.kind == StudyKind::Year) return yearAnswer(q);
  if (q.study.kind != StudyKind::SunHours) return lightAnswer(q);
  QElapsedTimer clock;
  clock.start();
  auto a = std::make_shared<StudyAnswer>();
  a->study = q.study.id;
  a->quick = q.quick;
  SunHoursSettings settings = q.study.sunHours;
  if (q.quick) settings.counting = Counting::Stepped;
  a->key = hashSunHours(q.project, q.study.groups, q.study.sunHours);
  const auto run =
      [&](const std::vector<GroupId>& groups, SunHoursSettings s, bool before, double least,
          std::shared_ptr<const SunHoursInput>* keepInput) -> Expected<std::shared_ptr<const SunHoursResult>> {
    if (q.quick) s.counting = Counting::Stepped;
    const Digest key = hashSunHours(q.project, groups, s, before, least);
    std::shared_ptr<const SunHoursResult> known;
    if (const auto at = recent_.find(key); at != recent_.end()) known = at->second;
    if (!known && !q.quick) known = q.store->find(key);
    if (known && !keepInput) return known;
    auto input = sunHoursInput(q.project, groups, s, before, least, before ? nullptr : &scene_,
                               before ? std::vector<ElementId>{} : q.moving);
    if (!input) return tl::unexpected(input.error());
    if (!before) scene_ = input->scene;
    if (keepInput) *keepInput = std::make_shared<const SunHoursInput>(*input);
    if (known) return known;
    auto result = std::make_shared<SunHoursResult>(runSunHours(*input, *q.control));
    if (result->end == RunEnd::Dropped) return fail("dropped");
    if (!q.quick) {
      StoredRun stored = runOf(q.project, q.study);
      if (before) stored.name += " (before)";
      stored.asked = settingsText(s);
      (void)q.store->keep(*result, std::move(stored));
    }
    if (recent_.size() > 12) recent_.clear();
    if (result->end == RunEnd::Finished) recent_[key] = result;
    return std::shared_ptr<const SunHoursResult>(std::move(result));
  };
  auto result = run(q.study.groups, settings, false, 0, &a->input);
  if (!result) {
    if (result.error().message == "dropped") return nullptr;
    a->fault = QString::fromStdString(result.error().text());
    return a;
  }
  auto painted = std::make_shared<PaintedResult>();
  painted->sensors = a->input->sensors;
  painted->result = *result;
  painted->scale = scaleFor(**result);
  a->painted = painted;
  for (const Judgement& j : q.project.judgements) {
    const Yardstick* y = document_.shelf().find(j.yardstick);
    if (!y || !ofSunHours(y->measure)) continue;
    Verdict v;
    if (const auto changed = withChanges(*y, j.changed))
      v = judge(q.project, *changed, j.groups,
                JudgeRuns{[&](const auto& groups, const auto& s, bool before, double least) {
                            return run(groups, s, before, least, nullptr);
                          },
                          {},
                          {}});
    else
      v.text = "not judged because " + changed.error().text();
    if (v.text.ends_with("dropped")) return nullptr;
    a->verdicts.emplace_back(j, std::move(v));
  }
  a->seconds = double(clock.nsecsElapsed()) * 1e-9;
  return a;
}

void Studies::work() {
  while (true) {
    Question q;
    std::function<std::function<void()>(RunControl&, KeptCoefficients&)> job;
    auto jobControl = std::make_shared<RunControl>();
    {
      std::unique_lock lock(mutex_);
      wake_.wait(lock, [&] { return stop_ || waiting_ || !waitingJobs_.empty(); });
      if (stop_) return;
      if (waiting_) {
        q = std::move(*waiting_);
        waiting_.reset();
        running_ = q.control;
        runningIsJob_ = false;
      } else {
        job = std::move(waitingJobs_.front());
        waitingJobs_.pop_front();
        running_ = jobControl;
        runningIsJob_ = true;
      }
    }
    if (job) {
      jobControl->progress = [this, last = 0.0](double share) mutable {
        if (std::abs(share - last) < 0.02) return;
        last = share;
        QMetaObject::invokeMethod(
            this,
            [this, share] {
              progress_ = share;
              emit progressChanged();
            },
            Qt::QueuedConnection);
      };
      std::function<void()> done;
      try {
        done = job(*jobControl, kept_);
      } catch (const std::exception& e) { // never out of the thread
        done = [this, what = QString(e.what())] { document_.tellBroken(what); };
      }
      {
        const std::lock_guard lock(mutex_);
        running_.reset();
      }
      QMetaObject::invokeMethod(
          this,
          [this, done] {
            --jobs_;
            if (done) done();
            emit progressChanged();
          },
          Qt::QueuedConnection);
      continue;
    }
    const quint64 number = q.number;
    q.control->progress = [this, last = 0.0](double share) mutable {
      if (share - last < 0.02 && share < 1) return;
      last = share;
      QMetaObject::invokeMethod(
          this,
          [this, share] {
            progress_ = share;
            emit progressChanged();
          },
          Qt::QueuedConnection);
    };
    std::shared_ptr<ProbeResult> probed;
    std::shared_ptr<StudyAnswer> answered;
    try {
      if (q.probe) {
        const Scene scene = buildScene(q.project, {true, q.moving}, &scene_);
        const ProbeInput spot{q.probe->position, q.probe->normal,           q.project.site.place,
                              q.project.zone(),  q.project.site.northAngle, q.project.site.year};
        probed = std::make_shared<ProbeResult>(probeProject(q.project, spot, scene));
        if (!q.wantsStudy) scene_ = scene;
      }
      if (q.wantsStudy) answered = answer(q);
    } catch (const std::exception& e) { // never out of the thread
      answered = std::make_shared<StudyAnswer>();
      answered->study = q.study.id;
      answered->key = q.key;
      answered->fault = QString("The study broke down: %1").arg(e.what());
      scene_ = {};
      QMetaObject::invokeMethod(
          this, [this, what = QString(e.what())] { document_.tellBroken(what); }, Qt::QueuedConnection);
    }
    bool more = false;
    {
      const std::lock_guard lock(mutex_);
      running_.reset();
      more = waiting_.has_value();
    }
    QMetaObject::invokeMethod(
        this,
        [this, number, probed, answered, more, wanted = q.wantsStudy] {
          if (probed) {
            probe_ = probed;
            emit probeChanged();
          }
          if (answered && (number == number_ || answered->quick || !more)) answer_ = answered;
          if (wanted && !answered && number == number_) asked_.reset(); // dropped: may be asked again
          if (number == number_) busy_ = false;
          if (answered) {
            if (!answered->quick) refreshHistory();
            paintedMetric_.reset();
            emit answerChanged();
            repaintYear();
          }
          emit progressChanged();
        },
        Qt::QueuedConnection);
  }
}

} // namespace noonward
