// Rules for what eyes see: the worst line of sight of a room against a share of the time, the level from a share of the
// area; what is asked by a question is judged.

#ifndef Q_MOC_RUN
#include "core/runs/runner.h"
#include "core/studies/glare_year.h"
#include "core/yardsticks/questions.h"
#include "tests/green.h"
#include "tests/house.h"
#endif
#include <QTest>

using namespace noonward;
using namespace noonward::test;

namespace {

Verdict judged(const Project& p, const char* rule, std::map<std::string, std::string> changed = {}) {
  StudyRunner runner(nullptr);
  RunControl control;
  Judgement j;
  j.yardstick = rule;
  j.changed = std::move(changed);
  return runner.judgement(p, *shippedRules().find(rule), j, control);
}

} // namespace

class TestJudgeEyes : public QObject {
  Q_OBJECT
private slots:
  void glareIsJudgedAtTheWorstLineOfSight() {
    auto asked = ask(houseOfTheYear(0), "room-glare", {}, shippedRules());
    QVERIFY2(asked, asked ? "" : asked.error().text().c_str());
    Project& p = asked->project;
    QVERIFY(asked->told.find("Protection from glare") != std::string::npos);
    QCOMPARE(p.judgements.size(), std::size_t(1));
    p.studies[0].year.blinds = BlindRule::Never;
    p.studies[0].year.error = 0.1;
    RunControl control;
    const auto in = lightInput(p, p.studies[0]);
    const LightResult r = runLight(*in, control);
    double worst = 0;
    for (const GlareSeat& s : r.glare->seats) worst = std::max(worst, s.above[2]);
    QVERIFY(worst > 0.01);
    const auto share = [&](double more) { return fmt::format("{:.3f}", 100 * worst + more); };
    const Verdict falls = judged(p, "european-glare", {{"share", share(-0.2)}}),
                  meets = judged(p, "european-glare", {{"share", share(0.2)}});
    QVERIFY2(falls.outcome == Outcome3::FallsShort, falls.text.c_str());
    QVERIFY2(meets.outcome == Outcome3::Meets, meets.text.c_str());
    QCOMPARE(meets.rows.size(), std::size_t(1));
    QVERIFY(std::abs(meets.rows[0].after - 100 * worst) < 1e-6);
    QVERIFY(meets.text == "meets: 1 of 1 rooms" && falls.text == "falls short: 0 of 1 rooms");
    // A stricter level has the lower limit of DGP.
    QVERIFY(judged(p, "european-glare", {{"level", "high"}}).rows[0].after >= meets.rows[0].after);
    // Nobody there: not judged, and said why.
    Project none = houseOfTheYear(0);
    const Verdict v = judged(none, "european-glare");
    QCOMPARE(v.outcome, Outcome3::NotJudged);
    QVERIFY(v.text.find("no eyes") != std::string::npos);
  }

  void theViewIsJudgedByItsShareOfTheArea() {
    auto asked = ask(houseOfTheYear(0), "room-view", {}, shippedRules());
    QVERIFY2(asked, asked ? "" : asked.error().text().c_str());
    Project p = asked->project;
    const Verdict v = judged(p, "european-view");
    QVERIFY2(v.outcome == Outcome3::Meets, v.text.c_str());
    // All of a room that is not regularly occupied is left out.
    p.rooms[0].counted = false;
    QCOMPARE(judged(p, "european-view").outcome, Outcome3::NotJudged);
    p.rooms[0].counted = true;
    // A wall 4 m away takes the view: less than 6 m.
    Element wall;
    wall.id = {500};
    wall.role = Role::Neighbour;
    wall.shape = Mass{rectangle(-30, -5, 40, -4), 0, 12, 1};
    p.elements.push_back(std::make_shared<const Element>(wall));
    const Verdict less = judged(p, "european-view");
    QVERIFY2(less.outcome == Outcome3::FallsShort, less.text.c_str());
    QVERIFY(less.rows[0].after < 75);
  }

  void withoutRoomsOrWeatherItIsSaid() {
    Project p = houseOfTheYear(0);
    p.rooms.clear();
    for (const char* question : {"room-glare", "room-view"}) {
      const auto asked = ask(p, question, {}, shippedRules());
      QVERIFY(!asked && asked.error().text().find("No room is regularly occupied") != std::string::npos);
    }
    Project dry = houseOfTheYear(0);
    dry.site.weather.reset();
    QVERIFY(ask(dry, "room-glare", {}, shippedRules()).error().text().find("weather") != std::string::npos);
    QVERIFY(ask(dry, "room-view", {}, shippedRules()));
  }
};

QTEST_GUILESS_MAIN(TestJudgeEyes)
#include "tst_judge_eyes.moc"
