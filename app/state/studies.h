#pragma once
// Studies in the background for the window: the live one that follows every change, and runs asked for. One worker; a
// newer live question supersedes the older; late news of an older run is dropped by its number.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/state/document.h"
#include "core/runs/compare.h"
#include "core/runs/runner.h"
#include "core/studies/coefficients.h"
#include "core/studies/probe.h"
#include "core/studies/year_hours.h"
#include "picture/cells.h"
#include <condition_variable>
#include <deque>
#include <map>
#include <thread>
#endif

namespace noonward {

/// What the window shows of a study, with the question it answers.
struct StudyAnswer {
  std::shared_ptr<const SunHoursInput> input;   ///< for the stretches behind a sensor
  std::shared_ptr<const LightInput> lightInput; ///< of light studies: why a value is what it is
  std::shared_ptr<const YearFacts> facts;       ///< of a year
  std::shared_ptr<const YearInput> yearInput;   ///< with its scene; null where the year came from the store
  std::shared_ptr<const YearResult> year;
  std::shared_ptr<const PaintedResult> painted;
  std::vector<std::pair<Judgement, Verdict>> verdicts;
  StudyId study;
  Digest key;           ///< of the project as it was asked
  bool quick = false;   ///< stepped or rough, while something is dragged
  bool reused = false;  ///< a year that asked for no rays: known ones served
  bool stored = false;  ///< it was found in the store
  bool partial = false; ///< a round of a run that goes on
  double seconds = 0;
  QString fault; ///< why there is none
};

/// The hours behind one room of the year shown.
struct HoursBehind {
  Digest key; ///< of the year
  std::shared_ptr<const SpaceSeries> series;
  std::vector<WindowGroup> groups;
};
/// Two options beside each other.
struct OptionsCompared {
  std::size_t from = 0, to = 1;    ///< options of the project
  std::vector<std::string> inputs; ///< what differs
  YearAnswered years[2];
  YearComparison moves;
  QString fault;
  quint64 revision = 0; ///< of the document, as asked
};

class Studies : public QObject {
  Q_OBJECT
public:
  explicit Studies(Document& document, QObject* parent = nullptr);
  ~Studies() override;

  /// The study being looked at, or the first; null where there is none.
  const Study* activeStudy() const;
  /// The answer to the project as it stands; null while it is stale or being computed.
  std::shared_ptr<const StudyAnswer> current() const;
  std::shared_ptr<const StudyAnswer> latest() const { return answer_; } ///< may be stale
  std::shared_ptr<const ProbeResult> probeResult() const { return probe_; }
  bool busy() const { return busy_ || jobs_ > 0; }
  double progress() const { return progress_; }
  bool live() const { return live_; }
  void setLive(bool on);
  /// Runs the study now, live or not.
  void run();
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
  void compare(std::size_t from, std::size_t to);
  std::shared_ptr<const OptionsCompared> compared() const { return compared_; }
  /// Anything else for the worker, after what it has to do: `work` runs there and returns what to do in the window.
  void later(std::function<std::function<void()>(RunControl&, KeptCoefficients&)> work);
  bool jobRunning() const { return jobs_ > 0; }
  /// Sensors × dates above which the study waits for Run.
  static constexpr double liveLimit = 250'000;
  static constexpr std::size_t lightLiveLimit = 20'000; ///< sensors
  bool tooLargeForLive() const;

signals:
  void answerChanged();
  void probeChanged();
  void progressChanged();
  void historyChanged();
  void hoursChanged();
  void readingsChanged();
  void comparedChanged();

private:
  struct Question {
    quint64 number = 0;
    Project project;
    Study study;
    std::vector<ElementId> moving;
    bool quick = false;
    std::optional<ProbeSpot> probe;
    bool wantsStudy = true;
    std::shared_ptr<RunControl> control;
    std::shared_ptr<ResultStore> store;
    Digest key;
    YearMetric metric = YearMetric::Autonomy;
    bool onlyStored = false; ///< a year is looked for in the store, not run
    Instant moment;          ///< for skies without one of their own
  };
  void ask(bool force);
  void work();
  std::shared_ptr<StudyAnswer> answer(Question& q);
  std::shared_ptr<StudyAnswer> lightAnswer(Question& q);
  std::shared_ptr<StudyAnswer> yearAnswer(Question& q);
  void repaintYear(); ///< another metric of the year that is there
  void judgeAgain();  ///< the year that is there, by what is laid now
  void askHours();
  void judgeYearInto(StudyAnswer& answer, const Project& project, StudyRunner& runner, RunControl& control) const;
  Digest keyOf(const Study& study) const;

  Document& document_;
  std::shared_ptr<const StudyAnswer> answer_;
  std::shared_ptr<const ProbeResult> probe_;
  std::vector<StoredRun> runs_;
  std::vector<ElementId> moving_;
  bool live_ = true, busy_ = false, forced_ = false;
  double progress_ = 0;
  quint64 number_ = 0;
  std::optional<Digest> asked_;
  std::optional<ProbeSpot> askedProbe_;
  quint64 askedProbeRevision_ = 0;
  QTimer debounce_;

  std::mutex mutex_;
  std::condition_variable wake_;
  std::optional<Question> waiting_;
  std::shared_ptr<RunControl> running_;
  bool stop_ = false, runningIsJob_ = false; ///< a newer question drops an older one, but no job
  KeptCoefficients kept_; ///< the worker's: another glass traces again, another blind or schedule does not
  std::optional<YearMetric> paintedMetric_;
  std::shared_ptr<const HoursBehind> hours_;
  std::pair<Digest, std::size_t> hoursAsked_{{}, ~std::size_t{0}};
  std::shared_ptr<const std::vector<Reading>> readings_;
  Digest readingsKey_;
  std::shared_ptr<const OptionsCompared> compared_;
  std::deque<std::function<std::function<void()>(RunControl&, KeptCoefficients&)>> waitingJobs_; ///< under the mutex
  int jobs_ = 0; ///< asked for and not yet done
  std::optional<Digest> storedAsked_;
  Scene scene_;                                                    ///< the worker's last scene: layers are taken over
  std::map<Digest, std::shared_ptr<const SunHoursResult>> recent_; ///< the worker's, so that a drag asks nothing twice
  mutable std::tuple<quint64, StudyId, Instant, Digest> keyNow_;   ///< the key of the project as it stands, by revision
  std::thread worker_;
};

} // namespace noonward
