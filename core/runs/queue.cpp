#include "core/runs/queue.h"

namespace noonward {

RunQueue::RunQueue(Work work, Listener listener, Post post)
    : work_(std::move(work)), listener_(std::move(listener)), post_(std::move(post)) {
  worker_ = std::thread([this] { run(); });
}

RunQueue::~RunQueue() {
  *alive_ = false;
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

std::uint64_t RunQueue::ask(StudyQuestion q) {
  q.number = ++number_;
  busy_ = true;
  {
    const std::lock_guard lock(mutex_);
    if (waiting_) { // what it wanted is still wanted
      if (waiting_->wantsStudy && !q.wantsStudy) {
        q.wantsStudy = true;
        q.study = waiting_->study;
        q.key = waiting_->key;
        q.moment = waiting_->moment;
        q.metric = waiting_->metric;
        q.onlyStored = waiting_->onlyStored;
      }
      if (waiting_->probe && !q.probe) q.probe = waiting_->probe;
    }
    if (q.wantsStudy) newestStudy_ = number_;
    if (running_ && q.wantsStudy && !q.quick && !runningIsJob_) {
      superseded_ = true;
      running_->wish = Wish::Drop;
    }
    waiting_ = std::move(q);
  }
  wake_.notify_all();
  return number_;
}

void RunQueue::later(Job job) {
  ++jobs_;
  {
    const std::lock_guard lock(mutex_);
    waitingJobs_.push_back(std::move(job));
  }
  wake_.notify_all();
  if (listener_.changed) listener_.changed();
}

void RunQueue::enough() {
  const std::lock_guard lock(mutex_);
  if (running_) running_->wish = Wish::Enough;
}

void RunQueue::drop() {
  {
    const std::lock_guard lock(mutex_);
    waiting_.reset();
    jobs_ -= int(waitingJobs_.size());
    waitingJobs_.clear();
    if (running_) running_->wish = Wish::Drop;
    if (!running_ || runningIsJob_) busy_ = false; // a question that had not begun leaves nothing behind
  }
  if (listener_.changed) listener_.changed();
}

void RunQueue::tell(std::function<void()> news) {
  post_([alive = alive_, news = std::move(news)] {
    if (*alive) news();
  });
}

std::shared_ptr<RunControl> RunQueue::freshControl() {
  auto control = std::make_shared<RunControl>();
  control->progress = [this, last = 0.0](double share) mutable {
    if (std::abs(share - last) < 0.02 && share < 1) return;
    last = share;
    tell([this, share] {
      if (listener_.progress) listener_.progress(share);
    });
  };
  return control;
}

void RunQueue::run() {
  while (true) {
    std::optional<StudyQuestion> question;
    Job job;
    const auto control = freshControl();
    {
      std::unique_lock lock(mutex_);
      wake_.wait(lock, [&] { return stop_ || waiting_ || !waitingJobs_.empty(); });
      if (stop_) return;
      if (waiting_) {
        question = std::exchange(waiting_, std::nullopt);
      } else {
        job = std::move(waitingJobs_.front());
        waitingJobs_.pop_front();
      }
      running_ = control;
      runningIsJob_ = !question;
      superseded_ = false;
    }
    if (question)
      runQuestion(std::move(*question), control);
    else
      runJob(job, control);
  }
}

void RunQueue::runJob(const Job& job, const std::shared_ptr<RunControl>& control) {
  std::function<void()> done;
  std::string broke;
  try {
    done = job(*control);
  } catch (const std::exception& e) { // never out of the thread
    broke = e.what();
  }
  {
    const std::lock_guard lock(mutex_);
    running_.reset();
  }
  tell([this, done, broke] {
    --jobs_;
    if (!broke.empty() && listener_.broke) listener_.broke(broke);
    if (done) done();
    if (listener_.changed) listener_.changed();
  });
}

void RunQueue::runQuestion(StudyQuestion q, const std::shared_ptr<RunControl>& control) {
  RunNews news;
  news.number = q.number;
  news.wantedStudy = q.wantsStudy;
  std::string broke;
  try {
    if (q.probe && work_.probe) news.probe = work_.probe(q);
    if (q.wantsStudy)
      news.answer = work_.answer(q, *control, [this, number = q.number](AnswerPtr answer) {
        tell([this, number, answer] { // late news of an older run are none
          if (number == newestStudy_ && listener_.soFar) listener_.soFar(answer);
        });
      });
  } catch (const std::exception& e) { // never out of the thread
    broke = e.what();
    auto fault = std::make_shared<StudyAnswer>();
    fault->study = q.study.id;
    fault->key = q.key;
    fault->fault = std::string("The study broke down: ") + e.what();
    news.answer = std::move(fault);
    if (work_.forget) work_.forget();
  }
  {
    const std::lock_guard lock(mutex_);
    running_.reset();
    news.more = waiting_ && waiting_->wantsStudy;
    news.end = !broke.empty()                                  ? RunEnd::Failed
               : news.answer && !news.answer->fault.empty()    ? RunEnd::Failed
               : news.answer && news.answer->painted           ? news.answer->painted->end()
               : q.wantsStudy && !news.answer && superseded_   ? RunEnd::Superseded
               : q.wantsStudy && !news.answer && !q.onlyStored ? RunEnd::Dropped
                                                               : RunEnd::Finished;
  }
  tell([this, news, broke]() mutable {
    news.newest = news.number == (news.wantedStudy ? newestStudy_ : number_);
    {
      const std::lock_guard lock(mutex_);
      busy_ = waiting_ || (running_ && !runningIsJob_);
    }
    if (!broke.empty() && listener_.broke) listener_.broke(broke);
    if (listener_.answered) listener_.answered(news);
    if (listener_.changed) listener_.changed();
  });
}

} // namespace noonward
