// The queue of runs, against a small model of what must come out: random schedules of asking, editing, enough,
// dropping, probing and jobs, with a fake study that lasts as many chunks as the schedule says; then the real studies
// through it.

#ifndef Q_MOC_RUN
#include "core/runs/queue.h"
#include "tests/house.h"
#include <QtTest>
#include <random>
#endif

using namespace noonward;

namespace {

/// The listener's thread is the test's: posted calls wait here until they are taken.
class Mailbox {
public:
  RunQueue::Post post() {
    return [this](std::function<void()> call) {
      const std::lock_guard lock(mutex_);
      calls_.push_back(std::move(call));
    };
  }
  /// Does what has come; tells how much that was.
  int take() {
    std::deque<std::function<void()>> now;
    {
      const std::lock_guard lock(mutex_);
      now.swap(calls_);
    }
    for (auto& call : now) call();
    return int(now.size());
  }
  bool until(const std::function<bool()>& done) {
    for (int k = 0; k < 100000; ++k) {
      take();
      if (done()) return true;
      std::this_thread::sleep_for(std::chrono::microseconds(100));
    }
    return false;
  }

private:
  std::mutex mutex_;
  std::deque<std::function<void()>> calls_;
};

AnswerPtr answerOf(const StudyQuestion& q, RunEnd end) {
  auto a = std::make_shared<StudyAnswer>();
  a->study = q.study.id;
  a->key = q.key;
  a->quick = q.quick;
  auto light = std::make_shared<LightResult>();
  light->end = end;
  auto field = std::make_shared<SensorField>();
  field->light = light;
  a->painted = field;
  return a;
}

/// A study that lasts so many chunks (Study::light.maxSamples); 13 breaks down; before each chunk it may have to wait.
struct FakeStudy {
  std::atomic<int> held{0}; ///< > 0: no chunk is done
  std::atomic<int> begun{0}, chunks{0};
  RunQueue::Work work() {
    RunQueue::Work w;
    w.answer = [this](const StudyQuestion& q, RunControl& control, const auto& soFar) -> AnswerPtr {
      ++begun;
      const auto all = int(q.study.light.maxSamples);
      if (q.onlyStored) return nullptr;
      for (int k = 0; k < all; ++k) {
        while (held > 0 && control.goesOn()) std::this_thread::yield();
        if (control.wish == Wish::Drop) return nullptr;
        if (control.wish == Wish::Enough) return answerOf(q, RunEnd::Enough);
        if (all == 13 && k == 5) throw std::runtime_error("thirteen");
        ++chunks;
        control.progress(double(k + 1) / all);
        if (k % 3 == 2) soFar(answerOf(q, RunEnd::Finished));
        std::this_thread::yield();
      }
      return answerOf(q, RunEnd::Finished);
    };
    w.probe = [](const StudyQuestion&) { return std::make_shared<const ProbeResult>(); };
    return w;
  }
};

StudyQuestion question(std::uint64_t study, int chunks) {
  StudyQuestion q;
  q.study.id = {study};
  q.study.light.maxSamples = std::size_t(chunks);
  q.key = Hasher().add(study).digest();
  return q;
}

/// Everything that was heard, in its order.
struct Heard {
  std::vector<RunNews> news;
  std::vector<std::uint64_t> soFar; ///< studies
  std::vector<std::string> broke;
  int probes = 0;
  RunQueue::Listener listener() {
    RunQueue::Listener l;
    l.answered = [this](const RunNews& n) {
      news.push_back(n);
      probes += n.probe != nullptr;
    };
    l.soFar = [this](AnswerPtr a) { soFar.push_back(a->study.value); };
    l.broke = [this](const std::string& what) { broke.push_back(what); };
    return l;
  }
  const RunNews* of(std::uint64_t number) const {
    for (const RunNews& n : news)
      if (n.number == number) return &n;
    return nullptr;
  }
};

} // namespace

class TestQueue : public QObject {
  Q_OBJECT
private slots:
  void aQuestionIsAnsweredOnce() {
    Mailbox mail;
    FakeStudy study;
    Heard heard;
    RunQueue queue(study.work(), heard.listener(), mail.post());
    QVERIFY(!queue.busy());
    const auto number = queue.ask(question(7, 4));
    QVERIFY(queue.busy());
    QVERIFY(mail.until([&] { return !queue.busy(); }));
    QCOMPARE(heard.news.size(), std::size_t(1));
    QCOMPARE(heard.news[0].number, number);
    QVERIFY(heard.news[0].end == RunEnd::Finished);
    QVERIFY(heard.news[0].shown());
    QCOMPARE(heard.news[0].answer->study.value, std::uint64_t(7));
    QCOMPARE(heard.soFar, std::vector<std::uint64_t>{7});
  }

  void aNewerQuestionSupersedesTheOlder() {
    Mailbox mail;
    FakeStudy study;
    Heard heard;
    RunQueue queue(study.work(), heard.listener(), mail.post());
    study.held = 1;
    const auto first = queue.ask(question(1, 100));
    QVERIFY(mail.until([&] { return study.begun == 1; }));
    const auto second = queue.ask(question(2, 3));
    study.held = 0;
    QVERIFY(mail.until([&] { return !queue.busy(); }));
    QVERIFY(heard.of(first) && heard.of(first)->end == RunEnd::Superseded);
    QVERIFY(!heard.of(first)->answer);
    QVERIFY(heard.of(second) && heard.of(second)->shown());
  }

  void framesOfADragEndBeforeTheNext() {
    Mailbox mail;
    FakeStudy study;
    Heard heard;
    RunQueue queue(study.work(), heard.listener(), mail.post());
    study.held = 1;
    auto frame = question(1, 5);
    frame.quick = true;
    const auto first = queue.ask(frame);
    QVERIFY(mail.until([&] { return study.begun == 1; }));
    const auto skipped = queue.ask(frame), last = queue.ask(frame);
    study.held = 0;
    QVERIFY(mail.until([&] { return !queue.busy(); }));
    QVERIFY(heard.of(first) && heard.of(first)->shown()); // an older frame is still seen
    QVERIFY(!heard.of(skipped));                          // its place was taken before it began
    QVERIFY(heard.of(last) && heard.of(last)->shown());
  }

  void aSpotProbedWhileAStudyRunsCostsNoAnswer() {
    Mailbox mail;
    FakeStudy study;
    Heard heard;
    RunQueue queue(study.work(), heard.listener(), mail.post());
    study.held = 1;
    const auto asked = queue.ask(question(1, 8));
    QVERIFY(mail.until([&] { return study.begun == 1; }));
    StudyQuestion spot;
    spot.wantsStudy = false;
    spot.probe = ProbeSpot{};
    queue.ask(spot);
    study.held = 0;
    QVERIFY(mail.until([&] { return !queue.busy(); }));
    QVERIFY(heard.of(asked) && heard.of(asked)->end == RunEnd::Finished);
    QVERIFY(heard.of(asked)->shown());
    QVERIFY(!heard.soFar.empty());
    QCOMPARE(heard.probes, 1);
  }

  void whatAWaitingQuestionWantedIsStillWanted() {
    Mailbox mail;
    FakeStudy study;
    Heard heard;
    RunQueue queue(study.work(), heard.listener(), mail.post());
    study.held = 1;
    queue.ask(question(1, 50));
    QVERIFY(mail.until([&] { return study.begun == 1; }));
    auto both = question(2, 3);
    both.probe = ProbeSpot{{1, 2, 3}, {0, 0, 1}};
    queue.ask(both);
    StudyQuestion spot;
    spot.wantsStudy = false;
    spot.probe = ProbeSpot{{4, 5, 6}, {0, 0, 1}};
    const auto last = queue.ask(spot);
    study.held = 0;
    QVERIFY(mail.until([&] { return !queue.busy(); }));
    QVERIFY(heard.of(last) && heard.of(last)->answer);
    QCOMPARE(heard.of(last)->answer->study.value, std::uint64_t(2));
    QVERIFY(heard.of(last)->probe);
  }

  void enoughKeepsWhatIsDoneAndDropNothing() {
    Mailbox mail;
    FakeStudy study;
    Heard heard;
    RunQueue queue(study.work(), heard.listener(), mail.post());
    study.held = 1;
    const auto kept = queue.ask(question(1, 100));
    QVERIFY(mail.until([&] { return study.begun == 1; }));
    queue.enough();
    QVERIFY(mail.until([&] { return !queue.busy(); }));
    QVERIFY(heard.of(kept)->end == RunEnd::Enough);
    QVERIFY(heard.of(kept)->shown());
    const auto dropped = queue.ask(question(2, 100));
    QVERIFY(mail.until([&] { return study.begun == 2; }));
    queue.drop();
    QVERIFY(mail.until([&] { return !queue.busy(); }));
    QVERIFY(heard.of(dropped)->end == RunEnd::Dropped);
    QVERIFY(!heard.of(dropped)->answer);
  }

  void droppingAlsoTakesBackWhatWaits() {
    Mailbox mail;
    FakeStudy study;
    Heard heard;
    RunQueue queue(study.work(), heard.listener(), mail.post());
    study.held = 1;
    const auto running = queue.ask(question(1, 100));
    QVERIFY(mail.until([&] { return study.begun == 1; }));
    const auto waiting = queue.ask(question(2, 100));
    bool job = false;
    queue.later([&](RunControl&) -> std::function<void()> { return [&] { job = true; }; });
    queue.drop();
    QVERIFY(mail.until([&] { return !queue.busy() && queue.jobs() == 0; }));
    QVERIFY(heard.of(running));
    QVERIFY(!heard.of(waiting));
    QVERIFY(!job);
    study.held = 0;
    const auto after = queue.ask(question(3, 2));
    QVERIFY(mail.until([&] { return !queue.busy(); }));
    QVERIFY(heard.of(after) && heard.of(after)->shown());
  }

  void whatBreaksIsToldAndTheNextGoesOn() {
    Mailbox mail;
    FakeStudy study;
    Heard heard;
    RunQueue queue(study.work(), heard.listener(), mail.post());
    const auto broken = queue.ask(question(1, 13));
    QVERIFY(mail.until([&] { return !queue.busy(); }));
    QVERIFY(heard.of(broken)->end == RunEnd::Failed);
    QCOMPARE(heard.of(broken)->answer->fault, std::string("The study broke down: thirteen"));
    QCOMPARE(heard.broke, std::vector<std::string>{"thirteen"});
    queue.later([](RunControl&) -> std::function<void()> { throw std::runtime_error("a job"); });
    QVERIFY(mail.until([&] { return queue.jobs() == 0; }));
    QCOMPARE(heard.broke.back(), std::string("a job"));
    const auto sound = queue.ask(question(2, 2));
    QVERIFY(mail.until([&] { return !queue.busy(); }));
    QVERIFY(heard.of(sound)->end == RunEnd::Finished);
  }

  void jobsComeInTheirOrderAndGiveWayToQuestions() {
    Mailbox mail;
    FakeStudy study;
    Heard heard;
    RunQueue queue(study.work(), heard.listener(), mail.post());
    study.held = 1;
    queue.ask(question(1, 3));
    QVERIFY(mail.until([&] { return study.begun == 1; }));
    std::vector<int> done;
    for (int k = 0; k < 5; ++k)
      queue.later([&done, k](RunControl&) -> std::function<void()> { return [&done, k] { done.push_back(k); }; });
    QCOMPARE(queue.jobs(), 5);
    study.held = 0;
    QVERIFY(mail.until([&] { return queue.jobs() == 0; }));
    QCOMPARE(done, (std::vector<int>{0, 1, 2, 3, 4}));
    QCOMPARE(heard.news.size(), std::size_t(1));
  }

  void nothingIsHeardAfterTheEnd() {
    Mailbox mail;
    FakeStudy study;
    Heard heard;
    {
      RunQueue queue(study.work(), heard.listener(), mail.post());
      study.held = 1;
      queue.ask(question(1, 100));
      queue.later([](RunControl&) -> std::function<void()> { return [] { QFAIL("a job came after the end"); }; });
      QVERIFY(mail.until([&] { return study.begun == 1; }));
    }
    mail.take();
    QVERIFY(heard.news.empty());
  }

  void randomSchedulesComeOutAsTheModelSays_data() {
    QTest::addColumn<unsigned>("seed");
    for (unsigned seed = 1; seed <= 60; ++seed) QTest::addRow("seed %u", seed) << seed;
  }
  void randomSchedulesComeOutAsTheModelSays() {
    QFETCH(unsigned, seed);
    std::mt19937 random(seed);
    const auto upTo = [&](int n) { return int(random() % unsigned(n)); };
    Mailbox mail;
    FakeStudy study;
    Heard heard;
    RunQueue queue(study.work(), heard.listener(), mail.post());
    // The model: what was asked, by number; what a drop took back; which job must have come.
    struct Asked {
      std::uint64_t study;
      bool quick, wantsStudy, breaks;
      int drops; ///< that came before it
    };
    std::map<std::uint64_t, Asked> asked;
    std::map<std::uint64_t, std::uint64_t> wanted; ///< study that a number stands for, its place taken or not
    int drops = 0, jobsAsked = 0;
    std::vector<int> jobsDone;
    std::uint64_t lastStudy = 0;
    int lastDrops = -1;
    bool lastBreaks = false;
    for (int step = 0; step < 120; ++step) {
      switch (upTo(10)) {
      case 0:
      case 1:
      case 2:
      case 3: {
        auto q = question(std::uint64_t(step + 1), upTo(12) == 0 ? 13 : 1 + upTo(9));
        q.quick = upTo(3) == 0;
        const bool breaks = q.study.light.maxSamples == 13;
        if (upTo(4) == 0) q.probe = ProbeSpot{};
        const auto number = queue.ask(q);
        asked[number] = {q.study.id.value, q.quick, true, breaks, drops};
        lastStudy = q.study.id.value;
        lastDrops = drops;
        lastBreaks = breaks;
        break;
      }
      case 4: {
        StudyQuestion q;
        q.wantsStudy = false;
        q.probe = ProbeSpot{};
        asked[queue.ask(q)] = {0, false, false, false, drops};
        break;
      }
      case 5:
        queue.enough();
        break;
      case 6:
        if (upTo(3) == 0) {
          queue.drop();
          ++drops;
        }
        break;
      case 7: {
        const int k = jobsAsked++;
        queue.later([&jobsDone, k](RunControl& c) -> std::function<void()> {
          for (int i = 0; i < 4 && c.goesOn(); ++i) std::this_thread::yield();
          return [&jobsDone, k] { jobsDone.push_back(k); };
        });
        break;
      }
      case 8:
        study.held = upTo(2);
        break;
      default:
        std::this_thread::sleep_for(std::chrono::microseconds(upTo(300)));
        mail.take();
      }
    }
    study.held = 0;
    QVERIFY(mail.until([&] { return !queue.busy() && queue.jobs() == 0; }));
    mail.take();
    // Each question is heard of once at most, in the order in which they were asked, and as what it was.
    std::uint64_t before = 0;
    for (const RunNews& n : heard.news) {
      QVERIFY(n.number > before);
      before = n.number;
      QVERIFY(asked.contains(n.number));
      if (n.answer && n.answer->fault.empty() && asked[n.number].wantsStudy)
        QCOMPARE(n.answer->study.value, asked[n.number].study);
      if (n.end == RunEnd::Superseded) {
        QVERIFY(!n.answer);
        const auto later = std::find_if(asked.upper_bound(n.number), asked.end(),
                                        [](const auto& a) { return a.second.wantsStudy && !a.second.quick; });
        QVERIFY(later != asked.end() || drops > 0);
      }
      if (n.end == RunEnd::Dropped) QVERIFY(drops > asked[n.number].drops);
      QCOMPARE(n.end == RunEnd::Failed, n.answer && !n.answer->fault.empty());
    }
    // The last study asked about is answered, unless a drop came after it.
    if (lastStudy != 0 && lastDrops == drops) {
      const auto at = std::find_if(heard.news.rbegin(), heard.news.rend(),
                                   [&](const RunNews& n) { return n.answer && n.answer->study.value == lastStudy; });
      QVERIFY(at != heard.news.rend());
      QVERIFY(at->newest && at->shown());
      QCOMPARE(!at->answer->fault.empty(), lastBreaks && at->end == RunEnd::Failed);
    }
    // Jobs: in order, none twice, and all of them where nothing was dropped.
    QVERIFY(std::is_sorted(jobsDone.begin(), jobsDone.end()));
    QVERIFY(std::adjacent_find(jobsDone.begin(), jobsDone.end()) == jobsDone.end());
    if (drops == 0) QCOMPARE(int(jobsDone.size()), jobsAsked);
  }

  void studiesDroppedAtAnyMomentAnswerAlikeAfterwards_data() {
    QTest::addColumn<int>("kind");
    for (const StudyKindFacts& k : studyKinds) QTest::newRow(k.key) << int(k.kind);
  }
  void studiesDroppedAtAnyMomentAnswerAlikeAfterwards() {
    QFETCH(int, kind);
    StudyQuestion q;
    q.project = test::houseOfTheYear(1.5);
    q.study.id = {5};
    q.study.kind = StudyKind(kind);
    q.study.groups = {q.project.groups.front().id}; // unasked, what eyes see takes eyes alone
    q.study.light.error = 0.1;
    q.study.light.maxSamples = 4096;
    q.study.year.error = 0.3;
    q.study.sunHours.dates = {{2026, 3, 21}, {2026, 6, 21}};
    q.study.sunHours.sunriseToSunset = true;
    q.moment = q.project.zone().instant({{2026, 6, 21}, 12 * 3600});
    q.key = studyDigest(q.project, q.study, q.moment);
    std::vector<std::vector<float>> values;
    std::mt19937 random{unsigned(kind)};
    for (int round = 0; round < 3; ++round) {
      Mailbox mail;
      Answerer answerer;
      RunQueue::Work work;
      work.answer = [&](const StudyQuestion& asked, RunControl& control, const auto& soFar) {
        return answerer.answer(asked, control, soFar);
      };
      Heard heard;
      RunQueue queue(std::move(work), heard.listener(), mail.post());
      if (round > 0) { // begun, and dropped somewhere
        queue.ask(q);
        std::this_thread::sleep_for(std::chrono::microseconds(random() % 20000));
        queue.drop();
      }
      queue.ask(q);
      QVERIFY(mail.until([&] { return !queue.busy(); }));
      const auto& last = heard.news.back();
      QVERIFY2(last.answer && last.answer->fault.empty(), last.answer ? last.answer->fault.c_str() : "no answer");
      QVERIFY(last.answer->painted);
      values.push_back(last.answer->painted->values());
      QCOMPARE(values.back().size(), last.answer->painted->sensors.sensors.size());
    }
    for (std::size_t i = 0; i < values[0].size(); ++i)
      for (const auto& again : values)
        QVERIFY(again[i] == values[0][i] || (std::isnan(again[i]) && std::isnan(values[0][i])));
  }

  void faultyQuestionsFailInASentence() {
    Mailbox mail;
    Answerer answerer;
    RunQueue::Work work;
    work.answer = [&](const StudyQuestion& asked, RunControl& control, const auto& soFar) {
      return answerer.answer(asked, control, soFar);
    };
    for (const StudyKindFacts& k : studyKinds) {
      Heard heard;
      RunQueue queue(work, heard.listener(), mail.post());
      StudyQuestion q;
      q.project = test::house(); // no sensors, no weather
      q.study.kind = k.kind;
      q.key = studyDigest(q.project, q.study);
      queue.ask(q);
      QVERIFY(mail.until([&] { return !queue.busy(); }));
      QVERIFY2(heard.news.back().end == RunEnd::Failed, k.key);
      QVERIFY2(heard.news.back().answer->fault.size() > 20, k.key);
      QVERIFY2(heard.broke.empty(), k.key);
    }
  }
};

QTEST_GUILESS_MAIN(TestQueue)
#include "tst_queue.moc"
