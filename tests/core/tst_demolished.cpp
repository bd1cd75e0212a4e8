// What is demolished for a proposal: it stands before and not after, in every study alike; and buildings that stand in
// one another are found.

#include "core/base/json.h"
#include "core/files/project/project_file.h"
#include "core/files/save_file.h"
#include "core/light/scene.h"
#include "core/model/form/edit.h"
#include "core/model/light_model.h"
#include "core/model/mending/check.h"
#include "core/model/mending/check_overlap.h"
#include "core/studies/shadow_plan.h"
#include "tests/green.h"
#include <QTemporaryDir>
#include <QtTest>

using namespace noonward;
using namespace noonward::test;

namespace {

/// The green, a house beside it (1), and to the south an old hall (3); what is proposed comes as element 2.
Project withHall(double proposedHeight = 14) {
  Project p = greenPlace(proposedHeight);
  putMass(p, 3, rectangle(-15, -20, 10, -8), 9, false);
  return p;
}

Project changed(Project p, std::uint64_t id, const std::function<void(Element&)>& how) {
  return withEdited(std::move(p), {ElementId{id}}, how);
}
Project demolished(Project p, std::uint64_t id) {
  return changed(std::move(p), id, [](Element& e) { e.demolished = true; });
}
Project absent(Project p, std::uint64_t id) {
  return withoutElements(std::move(p), {ElementId{id}});
}

Digest geometryOf(const Project& p, bool withProposed) {
  Hasher h;
  hashGeometry(h, p, withProposed);
  return h.digest();
}

ShadowPlan shadows(const Project& p) {
  ShadowPlanSettings s;
  s.moments = {p.zone().instant({{2026, 3, 21}, 12 * 3600.0})};
  RunControl control;
  auto plan = shadowPlan(p, s, control);
  if (!plan) qFatal("%s", plan.error().text().c_str());
  return std::move(*plan);
}

std::vector<std::string> codes(const Findings& list) {
  std::vector<std::string> out;
  for (const Finding& f : list) out.push_back(f.code);
  return out;
}
Findings overlapsOf(const Project& p) {
  Findings out;
  checkOverlaps(p, out);
  return out;
}

} // namespace

class TestDemolished : public QObject {
  Q_OBJECT
private slots:
  void itStandsBeforeAndNotAfter() {
    const Project p = demolished(withHall(), 3);
    // After: as if it had never been there. Before: as if it were simply there.
    QVERIFY(geometryOf(p, true) == geometryOf(absent(withHall(), 3), true));
    QVERIFY(geometryOf(p, false) == geometryOf(withHall(), false));
    QVERIFY(geometryOf(p, true) != geometryOf(withHall(), true));
    const auto hit = [](const Project& of, bool with) {
      return buildScene(of, {.withProposed = with}).hidden({-10, -30, 5}, {0, 1, 0});
    };
    const Project alone = absent(p, 2); // nothing proposed: demolition is the proposal
    QVERIFY(!hit(alone, true) && hit(alone, false));
    QVERIFY(hasProposal(alone) && !hasProposal(absent(alone, 3)));
    QVERIFY(standsInTheLight(*alone.element({3}), false) && !standsInTheLight(*alone.element({3}), true));
    const Project before = withoutProposal(p);
    QVERIFY(before.element({3})->counted && !before.element({3})->demolished && !before.element({2})->counted);
  }

  void theGroundItStoodOnIsFree() {
    Project p = greenPlace();
    p.elements.clear();
    putMass(p, 3, rectangle(-15, -5, 0, 10), 9, false); // on a quarter of the green
    const auto sensors = [](const Project& of) { return layOutSensors(of, {GroupId{10}})->sensors.size(); };
    QVERIFY(sensors(p) < sensors(absent(p, 3)));
    QCOMPARE(sensors(demolished(p, 3)), sensors(absent(p, 3)));
    QCOMPARE(sensors(withoutProposal(demolished(p, 3))), sensors(p)); // before it was built over
  }

  void receiversOnItAreLeftOutAndSaidSo() {
    Project p = demolished(greenPlace(), 1); // the house whose roof is looked at
    const auto set = layOutSensors(p, {GroupId{11}});
    QVERIFY(set && set->sensors.empty());
    const auto all = codes(set->findings);
    QVERIFY(std::find(all.begin(), all.end(), "sensors.demolished") != all.end());
  }

  void newShadowIsWhatTheOldDidNotCast() {
    // The proposal takes the hall's place: the same size throws nothing new; a taller one what it throws further.
    Project p = greenPlace(9);
    p.elements.clear();
    putMass(p, 2, rectangle(-15, -20, 10, -8), 9, true);
    putMass(p, 3, rectangle(-15, -20, 10, -8), 9, false);
    const auto same = shadows(demolished(p, 3));
    QVERIFY2(same.moments[0].ground.freshArea < 0.05, qPrintable(QString::number(same.moments[0].ground.freshArea)));
    QVERIFY(same.moments[0].ground.beforeArea > 100);
    const Project taller = demolished(changed(p, 2, [](Element& e) { setHeight(e, 15); }), 3);
    const auto plan = shadows(taller);
    const auto old = shadows(absent(p, 2)), fresh = shadows(absent(taller, 3));
    // By hand: the shadow of a box is its footprint swept; 6 m more sweep it further, by east and north.
    const double more = 6 / std::tan(plan.moments[0].altitude), a = plan.moments[0].azimuth;
    const double byHand = 25 * more * std::abs(std::cos(a)) + 12 * more * std::abs(std::sin(a));
    QVERIFY2(std::abs(plan.moments[0].ground.freshArea - byHand) < 0.1,
             qPrintable(QString("%1 %2").arg(plan.moments[0].ground.freshArea).arg(byHand)));
    QVERIFY(std::abs(old.moments[0].ground.allArea - plan.moments[0].ground.beforeArea) < 0.05);
    QVERIFY(std::abs(fresh.moments[0].ground.allArea - plan.moments[0].ground.allArea) < 0.05);
    // A lower one in its place: light comes back, and nothing is new.
    const Project lower = demolished(changed(p, 2, [](Element& e) { setHeight(e, 4); }), 3);
    const auto less = shadows(lower);
    QVERIFY(less.moments[0].ground.freshArea < 0.05);
    QVERIFY(less.moments[0].ground.allArea < less.moments[0].ground.beforeArea - 50);
  }

  void roomsInItGoWithIt() {
    Project p = withHall();
    Room r;
    r.id = {40};
    r.name = "Old room";
    r.outline = rectangle(-14, -19, -9, -9);
    r.height = 3;
    p.rooms.push_back(r);
    QVERIFY(!isDemolished(p, r));
    const Project gone = demolished(absent(p, 2), 3);
    QVERIFY(isDemolished(gone, r) && !isProposed(gone, r));
    const auto parts = [](const Project& of, bool with) { return derivedModel(of, with).parts.size(); };
    QVERIFY(parts(gone, false) > parts(gone, true));
    QCOMPARE(parts(gone, false), parts(absent(p, 2), true));
    // The proposal in the same place takes the room over.
    QCOMPARE(hostOf(demolished(p, 3), r)->id.value, std::uint64_t(2));
  }

  void theFileKeepsIt() {
    Project p = demolished(withHall(), 3);
    QTemporaryDir d;
    const std::filesystem::path file = d.filePath("p.noonward").toStdString();
    QVERIFY(writeProject(p, file));
    const auto text = loadFile(file);
    QVERIFY(text);
    const auto again = readProject(file);
    QVERIFY(again && again->project.element({3})->demolished && !again->project.element({1})->demolished);
    Json both = Json::parse(*text);
    for (Json& e : both["elements"])
      if (e.contains("demolished")) e["proposed"] = true;
    QVERIFY(saveFile(d.filePath("both.noonward").toStdString(), both.dump()));
    const auto faulty = readProject(d.filePath("both.noonward").toStdString());
    QVERIFY(!faulty && faulty.error().text().find("one of both") != std::string::npos);
  }

  void aProposalInWhatIsThereIsFoundAndMended() {
    const Project p = withHall();
    const Findings found = overlapsOf(p);
    QCOMPARE(codes(found), (std::vector<std::string>{"proposal.overlap"}));
    QVERIFY(found[0].text.find("The proposal stands in \"E3\", which is there") != std::string::npos);
    QCOMPARE(found[0].elements, (std::vector<std::uint64_t>{3}));
    const auto mended = mendProject(p, found[0]);
    QVERIFY(mended && mended->element({3})->demolished && !mended->element({1})->demolished);
    QVERIFY(overlapsOf(*mended).empty());
    QVERIFY(neverOfAll(found[0])); // asked about: *Mend all* leaves it
    Findings carried;
    const auto all = mendAll(
        p, [](const Finding& f) { return !neverOfAll(f); }, carried);
    QVERIFY(all && !all->element({3})->demolished);
  }

  void whatOnlyTouchesIsNoOverlap_data() {
    QTest::addColumn<double>("x");
    QTest::addColumn<double>("base");
    QTest::addColumn<bool>("found");
    QTest::newRow("beside, wall to wall") << 10.0 << 0.0 << false;
    QTest::newRow("eaves of 10 cm") << 9.9 << 0.0 << false;
    QTest::newRow("a tenth of it") << 9.0 << 0.0 << false;
    QTest::newRow("a third of it") << 6.7 << 0.0 << true;
    QTest::newRow("on top of it") << 0.0 << 9.0 << false;
    QTest::newRow("half a metre into its roof") << 0.0 << 8.5 << false;
    QTest::newRow("two metres into it") << 0.0 << 7.0 << true;
  }
  void whatOnlyTouchesIsNoOverlap() {
    QFETCH(double, x);
    QFETCH(double, base);
    QFETCH(bool, found);
    for (double far : {0.0, 1e6}) {
      Project p;
      putMass(p, 1, rectangle(far, 0, far + 10, 10), 9, false);
      putMass(p, 2, rectangle(far + x, 0, far + x + 10, 10), 9, true);
      p = changed(p, 2, [&](Element& e) { std::get<Mass>(e.shape).base = base; });
      QCOMPARE(!overlapsOf(p).empty(), found);
    }
  }

  void oneBuildingFromTwoFilesIsTold() {
    Project p;
    putMass(p, 1, rectangle(0, 0, 10, 10), 9, false);
    putMass(p, 2, rectangle(0.3, 0, 10.2, 10), 8, false);
    putMass(p, 3, rectangle(30, 0, 40, 10), 8, false);
    p = changed(p, 1, [](Element& e) { e.source = "city.json"; });
    for (std::uint64_t id : {2, 3}) p = changed(p, id, [](Element& e) { e.source = "footprints.geojson"; });
    const Findings found = overlapsOf(p);
    QCOMPARE(codes(found), (std::vector<std::string>{"element.twice"}));
    QCOMPARE(found[0].text,
             std::string("1 building of \"footprints.geojson\" stands where \"city.json\" has a building "
                         "already: \"E2\"."));
    const auto mended = mendProject(p, found[0]);
    QVERIFY(mended && !mended->element({2})->counted && mended->element({1})->counted && mended->element({3})->counted);
    QVERIFY(overlapsOf(*mended).empty());
    // What one person drew in one file may be meant: a tower in its podium.
    p = changed(p, 2, [](Element& e) { e.source = "city.json"; });
    QVERIFY(overlapsOf(p).empty());
  }

  void theDemosStandClear() {
    for (const char* file : {"ropewalk-quay", "brevholm-quarter", "tarrow-green", "library-site"}) {
      const auto loaded = readProject(std::string(SOURCE_TREE "/demo/") + file + ".noonward");
      QVERIFY2(loaded, file);
      QVERIFY2(overlapsOf(loaded->project).empty(), file);
    }
  }
};

QTEST_GUILESS_MAIN(TestDemolished)
#include "tst_demolished.moc"
