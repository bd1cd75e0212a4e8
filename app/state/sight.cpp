#include "app/state/sight.h"
#include "core/model/options.h"
#include "core/model/settings/study_fields.h"

namespace noonward {

Sight::Sight(Document& document, Studies& studies, QObject* parent)
    : QObject(parent), document_(document), studies_(studies) {
  worker_.setMaxThreadCount(1);
  asking_.setSingleShot(true);
  asking_.setInterval(60); // after the option in hand, whose answer is waited for
  connect(&asking_, &QTimer::timeout, this, &Sight::ask);
  connect(&document_, &Document::projectChanged, this, [this] {
    follow();
    emit projectChanged();
  });
  connect(&document_, &Document::lookingChanged, this, [this] {
    looking_ = document_.looking();
    if (moment_) looking_.moment = *moment_;
    if (other_) asking_.start();
    emit lookingChanged();
  });
  connect(&studies_, &Studies::answerChanged, this, [this] {
    if (other_)
      asking_.start(); // the study is another, or may now follow changes
    else
      emit answerChanged();
  });
  connect(&studies_, &Studies::historyChanged, this, [this] {
    if (!other_ || answer_) return;
    asked_.reset(); // what was looked for in vain may be there now
    asking_.start();
  });
}

Sight::~Sight() {
  if (control_) control_->wish = Wish::Drop;
  worker_.waitForDone();
}

void Sight::setOption(std::optional<OptionId> option) {
  if (option == option_) return;
  option_ = option;
  follow();
  emit projectChanged();
  emit answerChanged();
}

void Sight::setOwnMoment(std::optional<Instant> moment) {
  if (moment == moment_) return;
  moment_ = moment;
  looking_ = document_.looking();
  if (moment_) looking_.moment = *moment_;
  emit lookingChanged();
}

void Sight::chooseMoment(Instant moment) {
  if (moment_)
    setOwnMoment(moment);
  else
    document_.look([&](Looking& l) { l.moment = moment; });
}

/// The other option as it is now: it shares place, sensors and studies with the one in hand.
void Sight::follow() {
  const Project& p = document_.project();
  std::optional<std::size_t> at;
  for (std::size_t k = 0; option_ && k < p.options.size(); ++k)
    if (p.options[k].id == *option_ && k != p.option) at = k;
  if (at)
    other_ = withOption(p, *at);
  else
    other_.reset();
  turn_ = (turn_ + 1) % 64;
  if (other_) return asking_.start();
  if (control_) control_->wish = Wish::Drop;
  ++number_; // what is under way is nobody's
  answer_.reset();
  answering_ = false;
  asked_.reset();
}

QString Sight::wanting() const {
  if (!other_ || answer_ || !studies_.activeStudy()) return {};
  if (!fault_.empty()) return QString::fromStdString(fault_);
  return answering_ ? "its result is on its way" : "not run for this option: choose it above and run";
}

void Sight::ask() {
  const Study* s = studies_.activeStudy();
  if (!other_ || document_.previewing()) return; // the last answer stands until the hand lets go
  if (!s) {
    answer_.reset();
    emit answerChanged();
    return;
  }
  StudyQuestion q;
  q.moment =
      usesField(s->kind, "sky") && !s->light.sky.moment ? std::optional(document_.looking().moment) : std::nullopt;
  q.key = studyDigest(*other_, *s, q.moment);
  q.metric = document_.looking().metric;
  q.state = studies_.stateOf(*s);
  q.onlyStored = runsWhenAsked(s->kind) || !studies_.live() || studies_.tooLargeForLive();
  const auto asked = std::tuple(q.key, s->id, q.metric, q.state, other_->units, q.onlyStored);
  if (asked_ == asked) return;
  asked_ = asked;
  q.project = *other_;
  q.study = *s;
  q.store = document_.store();
  if (control_) control_->wish = Wish::Drop;
  control_ = std::make_shared<RunControl>();
  if (!answerer_) answerer_ = std::make_shared<Answerer>();
  answer_.reset();
  fault_.clear();
  answering_ = true;
  emit answerChanged();
  worker_.start([this, number = ++number_, q = std::move(q), control = control_, answerer = answerer_] {
    AnswerPtr answer;
    try {
      answer = control->wish == Wish::Drop ? nullptr : answerer->answer(q, *control, [](const AnswerPtr&) {});
    } catch (const std::exception&) { // the option in hand tells what broke
      answerer->forget();
    }
    QMetaObject::invokeMethod(
        this, [this, number, answer] { heard(number, answer); }, Qt::QueuedConnection);
  });
}

void Sight::heard(quint64 number, AnswerPtr answer) {
  if (number != number_) return; // another is under way
  answering_ = false;
  fault_ = answer ? answer->fault : "";
  answer_ = answer && answer->fault.empty() ? std::move(answer) : nullptr;
  emit answerChanged();
}

} // namespace noonward
