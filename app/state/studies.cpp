#include "app/state/studies.h"
#include "core/files/project/design_json.h"
#include "core/model/settings/study_fields.h"
#include <algorithm>

namespace noonward {

Studies::Studies(Document& document, QObject* parent) : QObject(parent), document_(document) {
  debounce_.setSingleShot(true);
  debounce_.setInterval(0);
  connect(&debounce_, &QTimer::timeout, this, [this] { ask(false); });
  connect(&document_, &Document::projectChanged, &debounce_, qOverload<>(&QTimer::start));
  connect(&document_, &Document::lookingChanged, &debounce_, qOverload<>(&QTimer::start));
  connect(&document_, &Document::findingsChanged, &debounce_, qOverload<>(&QTimer::start)); // grids are known then
  connect(&document_, &Document::lookingChanged, this, &Studies::repaint);
  connect(&document_, &Document::lookingChanged, this, &Studies::askHours);
  connect(&document_, &Document::projectChanged, this, &Studies::judgeAgain);
  connect(&document_, &Document::projectChanged, this, &Studies::repaint); // units are the project's
  connect(this, &Studies::answerChanged, this, &Studies::askHours);
  connect(&document_, &Document::replaced, this, [this] {
    answer_.reset();
    hours_.reset();
    readings_.reset();
    storedAsked_.reset();
    probe_.reset();
    asked_.reset();
    askedProbe_.reset();
    refreshHistory();
    emit answerChanged();
    emit probeChanged();
  });
  RunQueue::Work work;
  work.answer = [this](const StudyQuestion& q, RunControl& control, const auto& soFar) {
    return answerer_.answer(q, control, soFar);
  };
  work.probe = [this](const StudyQuestion& q) { return answerer_.probe(q); };
  work.forget = [this] { answerer_.forget(); };
  RunQueue::Listener listener;
  listener.answered = [this](const RunNews& news) { heard(news); };
  listener.soFar = [this](AnswerPtr answer) {
    answer_ = std::move(answer);
    paintedMetric_.reset();
    paintedUnits_.reset();
    emit answerChanged();
    repaint();
  };
  listener.progress = [this](double share) {
    progress_ = share;
    emit progressChanged();
  };
  listener.broke = [this](const std::string& what) { document_.tellBroken(QString::fromStdString(what)); };
  listener.changed = [this] { emit progressChanged(); };
  queue_ = std::make_unique<RunQueue>(std::move(work), std::move(listener), [this](std::function<void()> call) {
    QMetaObject::invokeMethod(this, std::move(call), Qt::QueuedConnection);
  });
}

Studies::~Studies() = default;

void Studies::heard(const RunNews& news) {
  if (news.probe) {
    probe_ = news.probe;
    emit probeChanged();
  }
  if (news.wantedStudy && !news.answer && news.newest) asked_.reset(); // dropped: may be asked again
  if (!news.answer) return;
  if (news.shown()) answer_ = news.answer;
  if (!news.answer->quick && !news.answer->trial) refreshHistory();
  paintedMetric_.reset();
  paintedUnits_.reset();
  emit answerChanged();
  repaint();
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
  if (!answer_->year && answer_->state != stateOf(*s) && answer_->painted) return nullptr;
  return answer_->key == keyOf(*s) ? answer_ : nullptr;
}

DesignState Studies::stateOf(const Study& s) const {
  return s.kind == StudyKind::Year || !hasProposal(document_.project()) ? DesignState::Proposed
                                                                        : document_.looking().state;
}

Digest Studies::keyOf(const Study& s) const {
  auto& [revision, study, moment, key] = keyNow_;
  const Instant now = usesField(s.kind, "sky") && !s.light.sky.moment ? document_.looking().moment : Instant{};
  if (revision != document_.revision() || study != s.id || moment != now)
    keyNow_ = {document_.revision(), s.id, now, studyDigest(document_.project(), s, now)};
  return key;
}

bool Studies::tooLargeForLive() const {
  const Study* s = activeStudy();
  if (!s) return false;
  for (const SensorGroup& g : document_.project().groups) // laid out behind the window, by the check
    if ((s->groups.empty() || std::find(s->groups.begin(), s->groups.end(), g.id) != s->groups.end()) &&
        !document_.gridKnown(g.id))
      return true;
  std::size_t sensors = 0;
  for (const SensorGridFacts& g : document_.grids())
    if (s->groups.empty() || std::find(s->groups.begin(), s->groups.end(), g.id) != s->groups.end()) sensors += g.count;
  return !followsChanges(document_.project(), *s, sensors);
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
  if (const Study* s = activeStudy(); s && runsWhenAsked(s->kind))
    storedAsked_ = keyOf(*s); // no look into the store comes after it
  ask(true);
}

void Studies::runTrial() {
  asked_.reset();
  if (const Study* s = activeStudy(); s && runsWhenAsked(s->kind)) storedAsked_ = keyOf(*s);
  ask(true, true);
}

void Studies::enough() {
  queue_->enough();
}

void Studies::drop() {
  asked_.reset();
  queue_->drop();
}

void Studies::refreshHistory() {
  runs_ = document_.store()->runs();
  emit historyChanged();
}

void Studies::ask(bool force, bool trial) {
  const Project& p = document_.project();
  const Study* s = activeStudy();
  StudyQuestion q;
  q.quick = document_.previewingModel();
  q.trial = trial;
  bool wantsStudy = false;
  // A year that was run before is shown again; it is not run unasked.
  if (s && runsWhenAsked(s->kind) && !force && !q.quick) {
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
    q.state = stateOf(*s);
    const Digest key = Hasher()
                           .add(keyOf(*s))
                           .add(std::uint64_t(q.state))
                           .add(q.quick)
                           .add(s->id.value)
                           .add(std::uint64_t(p.judgements.size()))
                           .digest();
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
  q.project = p;
  q.moving = moving_;
  q.wantsStudy = wantsStudy;
  q.store = document_.store();
  q.shelf = document_.sharedShelf();
  progress_ = 0;
  queue_->ask(std::move(q));
  emit progressChanged();
}

void Studies::repaint() {
  if (!answer_ || !answer_->painted) return;
  const DisplayUnits& units = document_.project().units;
  const bool asShown = answer_->year ? paintedMetric_ == document_.looking().metric && paintedUnits_ == units
                                     : answer_->painted->isIn(units);
  if (asShown) return;
  paintedMetric_ = document_.looking().metric;
  paintedUnits_ = units;
  auto next = std::make_shared<StudyAnswer>(*answer_);
  next->painted = std::make_shared<const SensorField>(
      next->year ? yearField(*next->facts, next->year, *paintedMetric_, units) : inUnits(*next->painted, units));
  answer_ = std::move(next);
  emit answerChanged();
}

void Studies::judgeAgain() {
  if (!answer_ || !answer_->year || answer_->partial || answer_->trial || document_.previewingModel() || !current())
    return;
  auto next = std::make_shared<StudyAnswer>(*answer_);
  RunControl control;
  next->verdicts = yearVerdicts(document_.project(), document_.shelf(), *next, nullptr, control);
  answer_ = std::move(next);
  emit answerChanged();
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

void Studies::later(std::function<std::function<void()>(RunControl&, KeptCoefficients&)> work) {
  queue_->later([this, work = std::move(work)](RunControl& control) { return work(control, answerer_.kept()); });
}

} // namespace noonward
