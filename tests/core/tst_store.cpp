// The result store among other programs, on full and locked discs, and with records that are not what they say.

#ifndef Q_MOC_RUN
#include "core/files/results/result_store.h"
#include "core/files/results/sqlite.h"
#include "core/files/save_file.h"
#include <QtTest>
#include <csignal>
#include <fcntl.h>
#include <filesystem>
#include <sys/resource.h>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>
#endif

using namespace noonward;
namespace fs = std::filesystem;

namespace {

SunHoursResult result(const std::string& question, std::size_t n = 3) {
  SunHoursResult r;
  r.hours.assign(n, 1.5f);
  r.longest = r.first = r.last = r.hours;
  r.dates = {{2026, 3, 21}};
  r.key = digestOf(question);
  return r;
}

/// Files may not grow beyond so many bytes while this lives: a disc that is full.
struct FullDisc {
  rlimit before{};
  explicit FullDisc(rlim_t bytes) {
    std::signal(SIGXFSZ, SIG_IGN);
    getrlimit(RLIMIT_FSIZE, &before);
    const rlimit small{bytes, before.rlim_max};
    setrlimit(RLIMIT_FSIZE, &small);
  }
  ~FullDisc() { setrlimit(RLIMIT_FSIZE, &before); }
};

} // namespace

class TestStore : public QObject {
  Q_OBJECT
private slots:
  void aFullDiscIsNoDamage() {
    QTemporaryDir d;
    const fs::path file = d.path().toStdString() + "/p.results.sqlite";
    {
      ResultStore store(file);
      for (int k = 0; k < 5; ++k) QVERIFY(store.keep(result(std::to_string(k)), {{}, "run " + std::to_string(k)}));
    }
    for (int round = 0; round < 3; ++round) {
      const FullDisc full(fs::file_size(file));
      ResultStore store(file);
      QCOMPARE(store.runs().size(), std::size_t(5));
      QVERIFY(store.find(digestOf("3")));
      (void)store.keep(result("late", 200'000), {{}, "late"});
      QVERIFY(store.find(digestOf("late"))); // for the session
      QCOMPARE(store.runs().size(), std::size_t(6));
      QVERIFY(!store.notes().empty());
    }
    ResultStore after(file);
    QVERIFY(after.notes().empty());
    QCOMPARE(after.runs().size(), std::size_t(5)); // nothing gone, nothing half
    {                                              // full while it is open
      const FullDisc full(1 << 20);
      const Outcome kept = after.keep(result("late", 200'000), {{}, "late"});
      QVERIFY(!kept);
      QVERIFY2(QString::fromStdString(kept.error().text()).contains("can't be written"), kept.error().text().c_str());
      QVERIFY(after.find(digestOf("late")) && after.notes().size() == 1);
    }
    QCOMPARE(after.runs().size(), std::size_t(6)); // the late one for the session alone
    QVERIFY(after.keep(result("again"), {}));
    for (const auto& e : fs::directory_iterator(d.path().toStdString()))
      QVERIFY(e.path().string().find("damaged") == std::string::npos);
  }

  void aLockedFileIsWaitedForAndLeftAlone() {
    QTemporaryDir d;
    const fs::path file = d.path().toStdString() + "/p.results.sqlite";
    ResultStore store(file);
    QVERIFY(store.keep(result("a"), {}));
    Sqlite other(file);
    auto lock = std::make_unique<Sqlite::Transaction>(other);
    Sqlite::Statement(other, "UPDATE run SET name = 'locked'").done();
    std::thread later([&] {
      std::this_thread::sleep_for(std::chrono::milliseconds(400));
      lock->commit();
      lock.reset();
    });
    const Outcome kept = store.keep(result("b"), {}); // waits until the other is done
    later.join();
    QVERIFY(kept);
    QCOMPARE(store.runs().size(), std::size_t(2));
    QVERIFY(store.notes().empty());
  }

  void twoProgramsKeepEverything() {
    QTemporaryDir d;
    const fs::path file = d.path().toStdString() + "/p.results.sqlite";
    constexpr int each = 40;
    std::vector<pid_t> children;
    for (int child = 0; child < 2; ++child) {
      const pid_t pid = ::fork();
      if (pid == 0) {
        ResultStore store(file);
        bool all = store.notes().empty();
        for (int k = 0; k < each; ++k)
          all = store.keep(result(std::to_string(child) + "/" + std::to_string(k)), {{}, "x"}).has_value() && all;
        for (const std::string& note : store.notes()) std::fprintf(stderr, "%s\n", note.c_str());
        ::_exit(all ? 0 : 1);
      }
      children.push_back(pid);
    }
    for (pid_t pid : children) {
      int status = 1;
      ::waitpid(pid, &status, 0);
      QVERIFY(WIFEXITED(status) && WEXITSTATUS(status) == 0);
    }
    ResultStore store(file);
    QCOMPARE(store.runs().size(), std::size_t(2 * each));
    for (int k = 0; k < each; ++k) QVERIFY(store.find(digestOf("1/" + std::to_string(k))));
  }

  void programsThatBeginTheFileTogetherAllWriteToIt() { // the first makes it, and the others wait
    QTemporaryDir d;
    for (int round = 0; round < 40; ++round) {
      const fs::path file = d.path().toStdString() + "/p" + std::to_string(round) + ".results.sqlite";
      std::vector<pid_t> children;
      for (int child = 0; child < 4; ++child) {
        const pid_t pid = ::fork();
        if (pid == 0) {
          ResultStore store(file);
          const bool kept = store.keep(result(std::to_string(child)), {{}, "x"}).has_value();
          ::_exit(kept && store.notes().empty() ? 0 : 1);
        }
        children.push_back(pid);
      }
      for (pid_t pid : children) {
        int status = 1;
        ::waitpid(pid, &status, 0);
        QVERIFY2(WIFEXITED(status) && WEXITSTATUS(status) == 0, qPrintable(QString::number(round)));
      }
      QCOMPARE(ResultStore(file).runs().size(), std::size_t(4));
    }
  }

  void aKillLeavesAllOrNothing() {
    QTemporaryDir d;
    const fs::path file = d.path().toStdString() + "/p.results.sqlite";
    for (int round = 0; round < 6; ++round) {
      const pid_t pid = ::fork();
      if (pid == 0) {
        ResultStore store(file);
        for (int k = 0;; ++k)
          (void)store.keep(result(std::to_string(round) + "/" + std::to_string(k), 5000), {{}, "x"});
      }
      ::usleep(useconds_t(60'000 + 17'000 * round));
      ::kill(pid, SIGKILL);
      ::waitpid(pid, nullptr, 0);
      ResultStore store(file);
      QVERIFY(store.notes().empty());
      for (const StoredRun& r : store.runs()) QVERIFY(store.find(r.key)); // every run that is listed has its result
    }
  }

  void damagedFilesAreNeverPutOverEachOther() {
    QTemporaryDir d;
    const fs::path file = d.path().toStdString() + "/p.results.sqlite";
    for (const char* text : {"this is no database and long enough to be looked at by anybody",
                             "nor is this one, which is another that was put here instead"}) {
      QVERIFY(saveFile(file, text));
      ResultStore store(file);
      QCOMPARE(store.notes().size(), std::size_t(1));
      QVERIFY(store.keep(result("x"), {}));
    }
    QVERIFY(fs::exists(file.string() + ".damaged") && fs::exists(file.string() + ".damaged-2"));
  }

  void recordsOfUnevenSizesAreNoAnswer() {
    QTemporaryDir d;
    const fs::path file = d.path().toStdString() + "/p.results.sqlite";
    ResultStore store(file);
    SunHoursResult odd = result("odd");
    odd.longest.push_back(1);
    QVERIFY(store.keep(odd, {}));
    QVERIFY(!store.find(odd.key));
    LightResult light;
    light.key = digestOf("light");
    light.value = {1, 2};
    light.standardError = {0.1f, 0.1f};
    light.samples = {16, 16};
    light.replicates.assign(31, 0.f); // one short of sixteen each
    QVERIFY(store.keep(light, {}));
    QVERIFY(!store.findLight(light.key));
    light.replicates.assign(32, 0.f);
    QVERIFY(store.keep(light, {}));
    QVERIFY(store.findLight(light.key));
  }

  void hundredsOfRunsAreKept() {
    QTemporaryDir d;
    ResultStore store(d.path().toStdString() + "/p.results.sqlite");
    for (int k = 0; k < 340; ++k) QVERIFY(store.keep(result(std::to_string(k)), {{}, std::to_string(k)}));
    QCOMPARE(store.runs().size(), std::size_t(340));
    QCOMPARE(store.runs().front().name, std::string("339"));
    QVERIFY(store.removeRun(store.runs().back().number));
    QVERIFY(!store.find(digestOf("0")) && store.find(digestOf("1")));
  }
};

QTEST_GUILESS_MAIN(TestStore)
#include "tst_store.moc"
