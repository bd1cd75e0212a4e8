#pragma once
// The queue of runs: one worker, one question at a time, the newest first; beside it jobs that wait their turn. What
// becomes of each question comes out as a value. Nothing here knows the window: news are brought to the listener's
// thread by a call it hands in.
//
// A newer question supersedes the older of a running study; while something is dragged, the running frame ends first,
// or none would ever be seen. What a waiting question wanted is still wanted by the one that takes its place. Jobs are
// never superseded, only dropped.

#include "core/runs/answer.h"
#include <condition_variable>
#include <deque>
#include <thread>

namespace noonward {

/// What became of a question.
struct RunNews {
  std::uint64_t number = 0;
  RunEnd end = RunEnd::Finished; ///< superseded, dropped and failed leave no answer
  AnswerPtr answer;              ///< null where there is none
  std::shared_ptr<const ProbeResult> probe;
  bool newest = false; ///< no later question of its sort was asked: a spot that is probed supersedes no study
  bool more = false;   ///< a later one about a study waits
  bool wantedStudy = true;
  /// Is the answer to be shown? The newest is; an older one where nothing better is on its way, and frames of a drag.
  bool shown() const { return answer && (newest || answer->quick || !more); }
};

class RunQueue {
public:
  /// All are called in the listener's thread.
  struct Listener {
    std::function<void(const RunNews&)> answered;
    std::function<void(AnswerPtr)> soFar;          ///< values of the newest question, whose run goes on
    std::function<void(double)> progress;          ///< 0…1, of what runs
    std::function<void(const std::string&)> broke; ///< something threw; it was caught
    std::function<void()> changed;                 ///< busy() or jobs()
  };
  /// Brings a call to the listener's thread; called from the worker's. Must not call it at once where the listener
  /// locks anything that it also holds while asking.
  using Post = std::function<void(std::function<void()>)>;
  /// How a question is answered; tests hand in their own.
  struct Work {
    std::function<AnswerPtr(const StudyQuestion&, RunControl&, const std::function<void(AnswerPtr)>& soFar)> answer;
    std::function<std::shared_ptr<const ProbeResult>(const StudyQuestion&)> probe;
    std::function<void()> forget; ///< after something broke
  };
  /// Anything else for the worker: runs there and returns what to do in the listener's thread.
  using Job = std::function<std::function<void()>(RunControl&)>;

  RunQueue(Work work, Listener listener, Post post);
  ~RunQueue(); ///< drops what runs; no news come after it
  RunQueue(const RunQueue&) = delete;
  RunQueue& operator=(const RunQueue&) = delete;

  // ---- from the listener's thread
  /// The question's number.
  std::uint64_t ask(StudyQuestion question);
  void later(Job job);
  void enough();                      ///< what runs keeps what is done
  void drop();                        ///< all: what runs, what waits, jobs
  bool busy() const { return busy_; } ///< a question is not yet answered
  int jobs() const { return jobs_; }  ///< asked for and not yet done
  std::uint64_t newest() const { return number_; }

private:
  void run();
  void runQuestion(StudyQuestion q, const std::shared_ptr<RunControl>& control);
  void runJob(const Job& job, const std::shared_ptr<RunControl>& control);
  void tell(std::function<void()> news);
  std::shared_ptr<RunControl> freshControl();

  Work work_;
  Listener listener_;
  Post post_;
  std::shared_ptr<bool> alive_ =
      std::make_shared<bool>(true); ///< of the listener's thread: news after the end are none

  // the listener's thread alone
  std::uint64_t number_ = 0, newestStudy_ = 0;
  bool busy_ = false;
  int jobs_ = 0;

  std::mutex mutex_;
  std::condition_variable wake_;
  std::optional<StudyQuestion> waiting_;
  std::deque<Job> waitingJobs_;
  std::shared_ptr<RunControl> running_;
  bool stop_ = false, runningIsJob_ = false, superseded_ = false;
  std::thread worker_;
};

} // namespace noonward
