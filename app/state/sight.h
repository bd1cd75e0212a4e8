#pragma once
// What one stage sees: the project and the moment in hand, or another option of the project, or a moment of its own.
// The first stage's is the document's, a second stage's may differ. Another option's answer is taken from the store, or
// computed behind the window where the study follows changes.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/state/studies.h"
#endif

namespace noonward {

class Sight : public QObject {
  Q_OBJECT
public:
  Sight(Document& document, Studies& studies, QObject* parent = nullptr);
  ~Sight() override;

  const Project& project() const { return other_ ? *other_ : document_.project(); }
  const Looking& looking() const { return moment_ ? looking_ : document_.looking(); }
  quint64 revision() const { return document_.revision() * 64 + turn_; } ///< another whenever project() is
  /// The answer of the study looked at to project(); null where there is none, or none yet.
  std::shared_ptr<const StudyAnswer> answer() const { return other_ ? answer_ : studies_.current(); }
  /// It can be looked at and not changed: its option is not the one in hand.
  bool ofOtherOption() const { return other_.has_value(); }
  const std::optional<OptionId>& option() const { return option_; }
  const std::optional<Instant>& ownMoment() const { return moment_; }
  /// Nothing: the option in hand, whichever that is.
  void setOption(std::optional<OptionId> option);
  /// Nothing: the Almanac's.
  void setOwnMoment(std::optional<Instant> moment);
  /// A moment chosen here: its own where it has one, else everybody's.
  void chooseMoment(Instant moment);
  /// Why another option shows no result; empty where it does, or none is asked for.
  QString wanting() const;

signals:
  void projectChanged();
  void lookingChanged();
  void answerChanged();

private:
  void follow();
  void ask();
  void heard(quint64 number, AnswerPtr answer);

  Document& document_;
  Studies& studies_;
  std::optional<OptionId> option_;
  std::optional<Instant> moment_;
  std::optional<Project> other_;
  Looking looking_; ///< the document's with a moment of its own
  quint64 turn_ = 0;
  AnswerPtr answer_;
  bool answering_ = false;
  std::string fault_; ///< why there is no answer
  /// What was asked last: key, study, metric, units, and whether it was only looked for.
  std::optional<std::tuple<Digest, StudyId, YearMetric, DesignState, DisplayUnits, bool>> asked_;
  quint64 number_ = 0;
  std::shared_ptr<RunControl> control_;
  std::shared_ptr<Answerer> answerer_; ///< the worker's
  QThreadPool worker_;                 ///< one thread
  QTimer asking_;
};

} // namespace noonward
