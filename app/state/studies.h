#pragma once
// Studies for the window: asks the queue (core/runs/queue.h) when the project or what is looked at changes, and tells
// what came. What is computed, superseded, kept and dropped is the core's.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/state/document.h"
#include "core/runs/queue.h"
#include "core/studies/year_hours.h"
#endif

namespace noonward {

/// The hours behind one room of the year shown.
struct HoursBehind {
  Digest key; ///< of the year
  std::shared_ptr<const SpaceSeries> series;
  std::vector<WindowGroup> groups;
};
class Studies : public QObject {
  Q_OBJECT
public:
  explicit Studies(Document& document, QObject* parent = nullptr);
  ~Studies() override;

  /// The study being looked at, or the first; null where there is none.
  const Study* activeStudy() const;
  /// With the proposal, before it or what it changes, as looked at: where there is a proposal, and no year.
  DesignState stateOf(const Study& study) const;
  /// The answer to the project as it stands; null while it is stale or being computed.
  std::shared_ptr<const StudyAnswer> current() const;
  std::shared_ptr<const StudyAnswer> latest() const { return answer_; } ///< may be stale
  std::shared_ptr<const ProbeResult> probeResult() const { return probe_; }
  bool busy() const { return queue_->busy() || queue_->jobs() > 0; }
  double progress() const { return progress_; }
  bool live() const { return live_; }
  void setLive(bool on);
  /// Runs the study now, live or not.
  void run();
  /// A part of the work, in seconds; never judged, never kept.
  void runTrial();
  void enough();
  void drop();
  /// What moves: kept in a layer of its own, and counted by steps until released.
  void setMoving(std::vector<ElementId> moving);
  const std::vector<StoredRun>& history() const { return runs_; }
  void refreshHistory();
  /// The hours of the room that is asked about (Looking::space, or the room of Looking::sensor), once they are there.
  std::shared_ptr<const HoursBehind> hours() const;
  /// The year under readings that may be contested; runs in the background.
  void askReadings();
  std::shared_ptr<const std::vector<Reading>> readings() const { return readings_; }
  bool readingsOf(const Digest& key) const { return readings_ && readingsKey_ == key; }
  /// The year of two options; what the store does not know is run.
  /// Anything else for the worker, after what it has to do: `work` runs there and returns what to do in the window.
  void later(std::function<std::function<void()>(RunControl&, KeptCoefficients&)> work);
  bool jobRunning() const { return queue_->jobs() > 0; }
  /// Does it wait for Run, because a change would take too long to follow?
  bool tooLargeForLive() const;

signals:
  void answerChanged();
  void probeChanged();
  void progressChanged();
  void historyChanged();
  void hoursChanged();
  void readingsChanged();

private:
  void ask(bool force, bool trial = false);
  void heard(const RunNews& news);
  void repaint();    ///< the year that is there by another metric, any study in other units
  void judgeAgain(); ///< the year that is there, by what is laid now
  void askHours();
  Digest keyOf(const Study& study) const;

  Document& document_;
  std::shared_ptr<const StudyAnswer> answer_;
  std::shared_ptr<const ProbeResult> probe_;
  std::vector<StoredRun> runs_;
  std::vector<ElementId> moving_;
  bool live_ = true;
  double progress_ = 0;
  std::optional<Digest> asked_;
  std::optional<ProbeSpot> askedProbe_;
  quint64 askedProbeRevision_ = 0;
  QTimer debounce_;

  std::optional<YearMetric> paintedMetric_;
  std::optional<DisplayUnits> paintedUnits_;
  std::shared_ptr<const HoursBehind> hours_;
  std::pair<Digest, std::size_t> hoursAsked_{{}, ~std::size_t{0}};
  std::shared_ptr<const std::vector<Reading>> readings_;
  Digest readingsKey_;
  std::optional<Digest> storedAsked_;
  mutable std::tuple<quint64, StudyId, Instant, Digest> keyNow_; ///< the key of the project as it stands, by revision
  Answerer answerer_;                                            ///< the worker's
  std::unique_ptr<RunQueue> queue_;                              ///< the last to come and the first to go
};

} // namespace noonward
