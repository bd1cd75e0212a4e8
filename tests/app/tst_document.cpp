// The open project without any widget: what is done behind the window comes out as if it had been done at once, and
// nothing of a project that was closed reaches the next.

#ifndef Q_MOC_RUN
#include "app/state/studies.h"
#include "core/files/project/project_file.h"
#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "tests/house.h"
#include <QApplication>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QtTest>
#endif

using namespace noonward;
using test::house;

namespace {

std::set<std::string> codes(const Findings& list) {
  std::set<std::string> out;
  for (const Finding& f : list) out.insert(f.code);
  return out;
}
/// A house with a grid in its shade and a study of the sun on it.
Project yard() {
  Project p = house({.ratio = 0.3});
  p.site.place = {radians(52), radians(13), 0};
  p.site.zone = "UTC+01:00";
  SensorGroup g;
  g.id = {2};
  g.name = "Yard";
  g.layout = GroundArea{rectangle(-2, 8, 4, 14), 0, 1};
  p.groups.push_back(g);
  Study s;
  s.id = {3};
  s.name = "Sun";
  s.groups = {{2}};
  s.sunHours.dates = {{2026, 3, 21}};
  s.sunHours.sunriseToSunset = true;
  p.studies.push_back(s);
  return p;
}

} // namespace

class TestDocument : public QObject {
  Q_OBJECT
  QTemporaryDir dir_;
  std::unique_ptr<Document> fresh() { return std::make_unique<Document>(SOURCE_TREE "/resources"); }

private slots:
  void initTestCase() { qputenv("XDG_DATA_HOME", dir_.filePath("data").toUtf8()); }

  void findingsAreThoseOfTheProjectAsItStands() {
    auto d = fresh();
    d->startNew(yard());
    QTRY_COMPARE(d->grids().size(), std::size_t(1));
    for (int round = 0; round < 12; ++round) { // faster than checks are done
      Project p = d->project();
      p = withEdited(p, {{10}}, [&](Element& e) { e.counted = round % 2 == 1; });
      if (round % 3 == 0) p.site.zone = "Nowhere/Land";
      if (round % 3 == 1) p.site.zone = "UTC+01:00";
      d->change(std::move(p), "Edit");
      if (round % 4 == 3) QTest::qWait(5);
    }
    const auto wanted = [&] {
      Findings all = checkProject(d->project());
      if (const auto s = layOutSensors(d->project())) all.insert(all.end(), s->findings.begin(), s->findings.end());
      return codes(merged(all));
    };
    QTRY_COMPARE(codes(d->findings()), wanted());
    QVERIFY(!codes(d->findings()).empty());
  }

  void checksOfAClosedProjectDoNotReachTheNext() {
    auto d = fresh();
    Project bad = yard();
    bad.site.zone = "Nowhere/Land";
    for (int k = 0; k < 20; ++k) {
      d->startNew(bad);
      d->startNew(yard());
      QTRY_VERIFY(d->gridKnown({2}));
      QVERIFY(!codes(d->findings()).contains("site.zone"));
    }
  }

  void sensorsAreCountedBehindTheWindow() {
    auto d = fresh();
    d->startNew(yard());
    QVERIFY(!d->gridKnown({2})); // not yet: nothing was laid out in the window's thread
    QTRY_VERIFY(d->gridKnown({2}));
    QCOMPARE(d->grids()[0].count, std::size_t(36));
    Project p = d->project();
    std::get<GroundArea>(p.groups[0].layout).spacing = 2;
    d->change(std::move(p), "Wider");
    QTRY_COMPARE(d->grids()[0].count, std::size_t(9));
  }

  void autosavesAreWrittenBehindAndNoneOutlivesASave() {
    auto d = fresh();
    d->setAutosaveDelay(1);
    const std::filesystem::path file = dir_.filePath("yard.noonward").toStdString();
    d->startNew(yard());
    QVERIFY(d->save(file));
    for (int round = 0; round < 8; ++round) {
      Project p = d->project();
      p.name = "Yard " + std::to_string(round);
      d->change(std::move(p), "Name");
      if (round % 2)
        QTRY_VERIFY(std::filesystem::exists(autosavePath(file)));
      else
        QTest::qWait(round); // caught before, while or after it is written
      QVERIFY(d->save());
      QTest::qWait(20);
      QVERIFY2(!std::filesystem::exists(autosavePath(file)), qPrintable(QString::number(round)));
      QVERIFY(!d->modified());
    }
    const auto read = readProject(file);
    QVERIFY(read && read->project.name == "Yard 7");
  }

  void anAutosaveHoldsWhatWasMade() {
    auto d = fresh();
    d->setAutosaveDelay(1);
    const std::filesystem::path file = dir_.filePath("kept.noonward").toStdString();
    d->startNew(yard());
    QVERIFY(d->save(file));
    d->change(withEdited(d->project(), {{10}}, [](Element& e) { setHeight(e, 11); }), "Raise");
    QTRY_VERIFY(Document::hasRecovery(file));
    auto other = fresh();
    QVERIFY(other->recover(file));
    QCOMPARE(heightOf(*other->project().element({10})), 11.0);
    other->discardRecovery();
    QVERIFY(!Document::hasRecovery(file));
  }

  void discardedWorkLeavesNothingBehind() {
    const std::filesystem::path file = dir_.filePath("left.noonward").toStdString();
    for (int wait : {0, 1, 2, 5, 20}) {
      auto d = fresh();
      d->setAutosaveDelay(1);
      d->startNew(yard());
      QVERIFY(d->save(file));
      d->change(withEdited(d->project(), {{10}}, [](Element& e) { setHeight(e, 11); }), "Raise");
      QTest::qWait(wait);
      d->discardRecovery();
      d.reset();
      QVERIFY2(!Document::hasRecovery(file), qPrintable(QString::number(wait)));
    }
  }

  void studiesFollowEditsAndForgetWhatIsGone() {
    auto d = fresh();
    Studies studies(*d);
    d->startNew(yard());
    QTRY_VERIFY(studies.current() && studies.current()->painted);
    const auto first = studies.current();
    Project p = d->project();
    p.name = "Else"; // of no study
    d->change(std::move(p), "Name");
    QVERIFY(studies.current() == first); // and so the answer still holds
    d->change(withEdited(d->project(), {{10}}, [](Element& e) { setHeight(e, 30); }), "Raise");
    QVERIFY(!studies.current()); // a stale answer is never shown as current
    QTRY_VERIFY(studies.current() && studies.current() != first);
    QVERIFY(studies.current()->painted->values() != first->painted->values());
    d->undo();
    QTRY_VERIFY(studies.current() && studies.current()->key == first->key);
    QVERIFY(studies.current()->painted->values() == first->painted->values());
    p = d->project();
    p.studies.clear();
    d->change(std::move(p), "Remove");
    QVERIFY(!studies.current());
    d->startNew(yard());
    QVERIFY(!studies.latest());
  }

  void aSpotProbedWhileAStudyRunsCostsNoAnswer() {
    auto d = fresh();
    Studies studies(*d);
    Project p = yard();
    std::get<GroundArea>(p.groups[0].layout).spacing = 0.15;
    d->startNew(std::move(p));
    QTRY_VERIFY(studies.busy());
    for (int k = 0; k < 6; ++k) {
      d->look([&](Looking& l) { l.probe = ProbeSpot{{-5.0 - k, -5, 0.1}, {0, 0, 1}}; });
      QTest::qWait(1);
    }
    QTRY_VERIFY(studies.probeResult() != nullptr);
    QTRY_VERIFY(!studies.busy());
    QTRY_VERIFY(studies.current() && studies.current()->painted);
  }

  void whatDoesNotFollowWaitsToBeAsked() {
    auto d = fresh();
    Studies studies(*d);
    Project p = yard();
    p.studies[0].kind = StudyKind::Year;
    d->startNew(std::move(p));
    QTRY_VERIFY(d->gridKnown({2}));
    QVERIFY(studies.tooLargeForLive());
    QTRY_VERIFY(!studies.busy());
    QVERIFY(!studies.current());
    studies.run(); // asked: it says why it can't
    QTRY_VERIFY(studies.current() && !studies.current()->fault.empty());
    QVERIFY(studies.current()->fault.find("weather") != std::string::npos);
  }

  void jobsRunBehindAndComeBack() {
    auto d = fresh();
    Studies studies(*d);
    d->startNew(yard());
    const auto window = std::this_thread::get_id();
    bool there = false, elsewhere = false, here = false;
    studies.later([&](RunControl&, KeptCoefficients&) -> std::function<void()> {
      elsewhere = std::this_thread::get_id() != window;
      return [&] {
        there = true;
        here = std::this_thread::get_id() == window;
      };
    });
    QVERIFY(studies.jobRunning());
    QTRY_VERIFY(there);
    QVERIFY(elsewhere && here);
    QTRY_VERIFY(!studies.jobRunning());
  }

  void whatBreaksBecomesAFindingWithACopyAsItsMend() {
    auto d = fresh();
    Studies studies(*d);
    d->startNew(yard());
    QTRY_VERIFY(d->gridKnown({2}));
    studies.later(
        [](RunControl&, KeptCoefficients&) -> std::function<void()> { throw std::runtime_error("a wheel came off"); });
    QTRY_VERIFY(std::any_of(d->findings().begin(), d->findings().end(),
                            [](const Finding& f) { return f.text.find("a wheel came off") != std::string::npos; }));
    d->change(withEdited(d->project(), {{10}}, [](Element& e) { setHeight(e, 7); }), "Raise"); // and work goes on
    QTRY_VERIFY(studies.current() && studies.current()->painted);
  }
};

int main(int argc, char** argv) {
  QApplication app(argc, argv);
  TestDocument test;
  return QTest::qExec(&test, argc, argv);
}
#include "tst_document.moc"
