// The record of any set of studies and rules: what goes in, in which order; figures against sums of their own; checked,
// and not believed once changed; what changed since an earlier one; the plan in files; records of the first format.

#ifndef Q_MOC_RUN
#include "core/files/project/project_file.h"
#include "core/runs/record/record.h"
#include "core/studies/model_parts.h"
#include "picture/picture_export.h"
#include "picture/record_pages.h"
#include "picture/theme.h"
#include "tests/green.h"
#include "tests/house.h"
#include <QProcess>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

RecordPart part(RecordPartKind kind, std::string of = {}, std::string text = {}) {
  RecordPart x;
  x.kind = kind;
  x.of = std::move(of);
  x.text = std::move(text);
  return x;
}

void study(Project& p, std::uint64_t id, StudyKind kind, const char* name, std::vector<GroupId> groups) {
  Study s;
  s.id = {id};
  s.kind = kind;
  s.name = name;
  s.groups = std::move(groups);
  s.sunHours.dates = {{2026, 3, 21}};
  p.studies.push_back(std::move(s));
}
void rule(Project& p, std::uint64_t id, const char* key, std::vector<GroupId> groups) {
  Judgement j;
  j.id = {id};
  j.yardstick = key;
  j.groups = std::move(groups);
  p.judgements.push_back(std::move(j));
}

/// The green with sun hours, sky at windows, three rules, a shadow plan and words of its own.
Project handIn(double height = 14) {
  Project p = greenPlace(height);
  study(p, 20, StudyKind::SunHours, "Sun on the green", {{10}});
  study(p, 21, StudyKind::Vsc, "Sky at windows", {{12}});
  rule(p, 30, "amenity-ground", {{10}});
  rule(p, 31, "window-sky", {{12}});
  rule(p, 32, "new-shadow", {{10}});
  RecordPart method = part(RecordPartKind::Text, "", "Measured on site in October.");
  method.title = "Preface";
  RecordPart shadows = part(RecordPartKind::Shadows);
  shadows.shadows.stepMinutes = 120;
  p.record.parts = {method,
                    part(RecordPartKind::Verdict, JudgementId{31}.text(), "Windows first."),
                    part(RecordPartKind::Study, StudyId{21}.text()),
                    part(RecordPartKind::Study, StudyId{20}.text()),
                    part(RecordPartKind::Verdict, JudgementId{30}.text()),
                    part(RecordPartKind::Verdict, JudgementId{32}.text()),
                    shadows};
  p.record.remarks = {{"Reviewer of the city", "Why March?", "The rule says so."}, {"", "And the trees?", ""}};
  return p;
}

Expected<RecordFacts> gathered(const Project& p, const std::filesystem::path& earlier = {}) {
  StudyRunner runner(nullptr);
  RunControl control;
  return gatherRecord(p, shippedRules(), runner, control, earlier);
}
Expected<VerifyReport> checked(const std::filesystem::path& folder) {
  RunControl control;
  return verifyRecord(folder, control);
}
QString wordsOf(const std::filesystem::path& pdf) {
  QProcess text;
  text.start("pdftotext", {"-layout", QString::fromStdString(pdf.string()), "-"});
  if (!text.waitForFinished(20000)) return {};
  return QString::fromUtf8(text.readAllStandardOutput());
}

class TestAnyRecord : public QObject {
  Q_OBJECT

  QTemporaryDir made_;
  std::filesystem::path first_;

  /// Seals a changed record anew, so that nothing but its claims can tell.
  void seal(const std::filesystem::path& folder, Json j) {
    j["fingerprint"] = digestOf(j["claims"].dump() + j["files"].dump()).hex();
    QVERIFY(saveFile(folder / "record.json", j.dump()).has_value());
  }

private slots:
  void initTestCase() {
    loadFonts(SOURCE_TREE "/resources");
    first_ = made_.filePath("first.record").toStdString();
    const auto facts = gathered(handIn());
    QVERIFY2(facts.has_value(), facts ? "" : facts.error().text().c_str());
    RunControl control;
    const Outcome o = makeRecordFolder(*facts, first_, control);
    QVERIFY2(o.has_value(), o ? "" : o.error().text().c_str());
  }

  // ---- what goes in
  void allOfTheProjectGoesInWhereNothingIsListed() {
    Project p = handIn();
    p.record.parts.clear();
    QStringList names;
    for (const RecordPart& x : recordParts(p)) names << QString::fromStdString(partName(p, x));
    QCOMPARE(names, (QStringList{"amenity-ground", "window-sky", "new-shadow", "Sun on the green", "Sky at windows"}));
  }

  void whatIsGoneIsLeftOut() {
    Project p = handIn();
    p.studies.erase(p.studies.begin());
    p.judgements.clear();
    QStringList names;
    for (const RecordPart& x : recordParts(p)) names << QString::fromStdString(partName(p, x));
    QCOMPARE(names, (QStringList{"Preface", "Sky at windows", "Shadow plan 21 Mar"}));
  }

  void partsKeepTheOrderOfThePlan() {
    const QString pages = wordsOf(first_ / "record.pdf");
    qsizetype at = 0;
    for (const char* words : {"Measured on site", "Windows first.", "Sky at windows", "Sun on the green",
                              "Shadow plan 21 Mar", "Findings", "Versions"}) {
      const qsizetype next = pages.indexOf(words, at);
      QVERIFY2(next >= at, words);
      at = next;
    }
    for (const char* words : {"Remarks and answers", "Why March?", "The rule says so.", "Not answered yet.",
                              "How robust is it?", "What stands before those with least", "Net new on the ground"})
      QVERIFY2(pages.contains(words), words);
  }

  void theFolderHoldsTablesPicturesAndPlaces() {
    for (const char* name :
         {"record.xlsx", "verdicts.csv", "values-sky-at-windows.csv", "values-sky-at-windows.geojson",
          "values-sun-on-the-green.csv", "shadows-21-mar.csv", "shadows-21-mar.geojson", "pictures/sky-at-windows.png",
          "pictures/sun-on-the-green-difference.svg", "yardsticks/new-shadow.json"})
      QVERIFY2(std::filesystem::exists(first_ / name) && std::filesystem::file_size(first_ / name) > 100, name);
    const QString table = QString::fromStdString(*loadFile(first_ / "values-sky-at-windows.csv"));
    QVERIFY2(table.startsWith("sensor,x,y,z,nx,ny,nz,value,standard_error,before,difference\n"), qPrintable(table));
    QCOMPARE(table.count('\n'), 4);
    // The first window stands 22 m east and 2 cm south of the place at 52° N, 0° E.
    const Json geo = Json::parse(*loadFile(first_ / "values-sky-at-windows.geojson"));
    QCOMPARE(geo["features"].size(), std::size_t(3));
    const Json& at = geo["features"][0]["geometry"]["coordinates"];
    const double perDegree = 111'320 * std::cos(radians(52)); // of a sphere: within half a percent
    QVERIFY(std::abs(at[0].get<double>() * perDegree - 22) < 0.2);
    QVERIFY(std::abs(at[1].get<double>() - 52) < 1e-6);
    const Json& of = geo["features"][0]["properties"];
    QVERIFY(std::abs(of["azimuth_deg"].get<double>() - 180) < 1e-6);
    QVERIFY(of["difference"].get<double>() < 0);
    QVERIFY(std::abs(of["value"].get<double>() - of["before"].get<double>() - of["difference"].get<double>()) < 1e-4);
  }

  void nothingToRecordIsSaid() {
    Project p = greenPlace();
    auto none = gathered(p);
    QVERIFY(!none && QString::fromStdString(none.error().text()).contains("nothing to record"));
    p.record.parts = {part(RecordPartKind::Text, "", "Words alone.")};
    none = gathered(p);
    QVERIFY(!none);
    Project lost = handIn();
    lost.judgements[0].yardstick = "nobodys-rule";
    const auto rule = gathered(lost);
    QVERIFY(!rule && QString::fromStdString(rule.error().text()).contains("nobodys-rule"));
  }

  void aStudyThatCantBeRunStandsWithTheReason() {
    Project p = handIn();
    p.record.parts.clear();
    study(p, 22, StudyKind::SunlightYear, "Probable sunlight", {{12}});
    p.site.weather.reset();
    const auto facts = gathered(p);
    QVERIFY2(facts.has_value(), facts ? "" : facts.error().text().c_str());
    const FieldChapter& last = facts->fields.back();
    QVERIFY2(!last.now && QString::fromStdString(last.fault).contains("weather"), last.fault.c_str());
    const Json claims = recordClaims(*facts);
    QVERIFY(claims["studies"].back().contains("fault"));
    // Such a record is made, and holds.
    const std::filesystem::path folder = made_.filePath("without-weather.record").toStdString();
    RunControl control;
    const Outcome o = makeRecordFolder(*facts, folder, control);
    QVERIFY2(o.has_value(), o ? "" : o.error().text().c_str());
    const auto report = checked(folder);
    QVERIFY2(report && report->holds(), report ? "" : report.error().text().c_str());
    QVERIFY(wordsOf(folder / "record.pdf").contains("Not run:"));
  }

  void aRecordThatIsDroppedIsNone_data() {
    QTest::addColumn<int>("after"); ///< pieces of progress
    for (const int after : {0, 1, 3, 9}) QTest::addRow("after %d", after) << after;
  }
  void aRecordThatIsDroppedIsNone() {
    QFETCH(int, after);
    StudyRunner runner(nullptr);
    RunControl control;
    std::atomic<int> told{0};
    control.progress = [&](double) {
      if (++told > after) control.wish = Wish::Drop;
    };
    if (after == 0) control.wish = Wish::Drop;
    const auto facts = gatherRecord(handIn(), shippedRules(), runner, control);
    QVERIFY2(!facts && QString::fromStdString(facts.error().text()).contains("dropped"),
             facts ? "made" : facts.error().text().c_str());
    // The same runner, asked again, gives the whole of it: nothing half done was kept.
    RunControl again;
    const auto whole = gatherRecord(handIn(), shippedRules(), runner, again);
    const auto plain = gathered(handIn());
    QVERIFY(whole && plain && recordClaims(*whole).dump() == recordClaims(*plain).dump());
  }

  void pagesHaveThePaperChosen_data() {
    QTest::addColumn<QString>("paper");
    QTest::addColumn<QString>("size");
    QTest::newRow("A4") << "a4"
                        << "595 x 842";
    QTest::newRow("A3") << "a3"
                        << "842 x 1191";
    QTest::newRow("Letter") << "letter"
                            << "612 x 792";
  }
  void pagesHaveThePaperChosen() {
    QFETCH(QString, paper);
    QFETCH(QString, size);
    Project p = handIn();
    p.record.paper = *paperFromKey(paper.toStdString());
    p.record.parts = {part(RecordPartKind::Verdict, JudgementId{30}.text())};
    const auto facts = gathered(p);
    QVERIFY(facts.has_value());
    const std::filesystem::path folder = made_.filePath(paper + ".record").toStdString();
    RunControl control;
    QVERIFY(makeRecordFolder(*facts, folder, control).has_value());
    QProcess info;
    info.start("pdfinfo", {QString::fromStdString((folder / "record.pdf").string())});
    QVERIFY(info.waitForFinished(20000));
    const QString told = QString::fromUtf8(info.readAllStandardOutput());
    const QRegularExpressionMatch m = QRegularExpression("Page size: +([0-9.]+) x ([0-9.]+)").match(told);
    QVERIFY2(m.hasMatch(), qPrintable(told));
    QCOMPARE(QString("%1 x %2").arg(std::lround(m.captured(1).toDouble())).arg(std::lround(m.captured(2).toDouble())),
             size);
  }

  void aCityIsFirstSeenAtItsProposal() {
    Project p = greenPlace();
    const auto across = [](const std::vector<Box3>& boxes) {
      Box3 all;
      for (const Box3& b : boxes) all.addBox(b);
      return std::hypot(all.size().x, all.size().y);
    };
    QCOMPARE(framedBoxes(p).size(), sceneBoxes(p).size()); // a small place is seen whole
    for (std::uint64_t k = 0; k < 40; ++k)                 // a city around it
      putMass(p, 100 + k, rectangle(-600 + 30.0 * double(k), 80, -580 + 30.0 * double(k), 95), 9, false);
    const auto seen = framedBoxes(p);
    QVERIFY(across(sceneBoxes(p)) > 1000 && across(seen) < 200);
    QVERIFY(seen[0].low.x < -15 && seen[0].high.x > 40 && seen[0].low.y < -20); // the proposal, and around it
    for (ElementPtr& e : p.elements) {
      Element plain = *e;
      plain.proposed = false;
      e = std::make_shared<const Element>(plain);
    }
    QVERIFY(across(framedBoxes(p)) > 1000); // nothing proposed: all of it
  }

  // ---- figures
  void figuresOfGroupsAreSumsByArea() {
    SensorField f;
    f.sensors.sensors.resize(5);
    f.sensors.sensors[3].group = f.sensors.sensors[4].group = 1;
    SensorGridFacts a, b;
    a.id = {1};
    a.name = "A";
    a.count = 3;
    a.spacing = 2;
    a.sizes = {{{1, 1}}, {{2, 1}}, {{1, 1}}};
    b.id = {2};
    b.name = "B";
    b.first = 3;
    b.count = 2;
    f.sensors.groups = {a, b};
    auto values = std::make_shared<LightResult>();
    values->kind = StudyKind::Vsc;
    values->value = {20, 30, std::nanf(""), 10, 40};
    values->standardError = {0.3f, 0.4f, 1, 0, 0};
    f.light = values;
    const auto got = groupFigures(Project{}, f, nullptr);
    QCOMPARE(got.size(), std::size_t(2));
    QCOMPARE(got[0].area, 3.0); // what has no value counts for nothing
    QVERIFY(std::abs(got[0].mean - (20 + 2 * 30) / 3.0) < 1e-6);
    QVERIFY(std::abs(got[0].error - std::hypot(0.3, 0.8) / 3) < 1e-6);
    QVERIFY(std::abs(got[0].share - 2.0 / 3) < 1e-9); // 27 % and more
    QCOMPARE(got[0].sensors, std::size_t(3));
    QCOMPARE(got[1].mean, 25.0);
    QCOMPARE(got[1].area, 0.0); // single points
    QCOMPARE(got[1].min, 10.0);
    QCOMPARE(got[1].max, 40.0);
    QVERIFY(std::isnan(got[1].beforeMean));
    SensorField was = f;
    auto earlier = std::make_shared<LightResult>(*values);
    earlier->value = {30, 30, 30, 30, 30};
    was.light = earlier;
    QCOMPARE(groupFigures(Project{}, f, &was)[0].beforeMean, 30.0);
    QCOMPARE(groupFigures(Project{}, f, &was)[0].beforeShare, 1.0);
  }

  void groupsOfABuildingAreOneLine() {
    GroupFigures a, b, c, none;
    a.name = "Flat 1";
    a.building = b.building = none.building = "Row";
    a.sensors = 1;
    a.mean = 20;
    a.error = 0.3;
    a.min = a.max = 20;
    a.share = 0;
    b.name = "Flat 2";
    b.sensors = 3;
    b.mean = 30;
    b.error = 0.1;
    b.min = 28;
    b.max = 33;
    b.share = 1;
    b.beforeMean = 40;
    none.sensors = 2; // without values: counted, and nothing more
    c.name = "Green";
    c.area = 50;
    c.sensors = 50;
    c.mean = 2;
    const auto lines = byBuilding({a, b, none, c});
    QCOMPARE(lines.size(), std::size_t(2));
    QCOMPARE(lines[0].name, std::string("Row"));
    QCOMPARE(lines[0].sensors, std::size_t(6));
    QCOMPARE(lines[0].mean, (20 + 3 * 30) / 4.0);
    QVERIFY(std::abs(lines[0].error - std::hypot(0.3, 0.3) / 4) < 1e-12);
    QCOMPARE(lines[0].share, 0.75);
    QCOMPARE(lines[0].min, 20.0);
    QCOMPARE(lines[0].max, 33.0);
    QCOMPARE(lines[0].beforeMean, 40.0); // of those that have one
    QCOMPARE(lines[1].name, std::string("Green"));
    QCOMPARE(byBuilding({none, a})[0].mean, 20.0);
  }

  void claimsAreThoseOfTheStudiesThemselves() {
    const Json claims = Json::parse(*loadFile(first_ / "record.json"))["claims"];
    const Project p = handIn();
    RunControl control;
    for (const bool before : {false, true}) {
      const auto in = sunHoursInput(p, {{10}}, p.studies[0].sunHours, before);
      QVERIFY(in.has_value());
      const SunHoursResult r = runSunHours(*in, control);
      double sum = 0, above = 0;
      for (const float h : r.hours) {
        sum += double(h);
        above += h >= 2;
      }
      const Json& group = claims["studies"][1]["groups"][0];
      QVERIFY(std::abs(group[before ? "before_mean" : "mean"].get<double>() - sum / double(r.hours.size())) < 1e-4);
      QVERIFY(std::abs(group[before ? "before_share_percent" : "share_percent"].get<double>() -
                       100 * above / double(r.hours.size())) < 1e-6);
    }
    const auto shadows = recordShadows(p, p.record.parts.back().shadows, control);
    QVERIFY(shadows && shadows->freshAreaHours() > 100);
    QVERIFY(std::abs(claims["shadows"][0]["net_new_area_hours"].get<double>() - shadows->freshAreaHours()) < 1e-6);
    // Units shown are none of the claims.
    Project feet = p;
    feet.units = {LengthUnit::FeetInches, LightUnit::FootCandle};
    const auto facts = gathered(feet);
    QVERIFY(facts && recordClaims(*facts).dump() == claims.dump());
  }

  void theWorstReceiversAreThoseWithLeast() {
    const auto facts = gathered(handIn());
    const VerdictChapter& sky = facts->verdicts[0];
    QCOMPARE(sky.judgement.yardstick, std::string("window-sky"));
    QVERIFY(sky.verdict.outcome == Outcome3::FallsShort && !sky.worst.empty() && sky.worst.size() <= 3);
    double least = 1e9;
    std::string name;
    for (const VerdictRow& r : sky.verdict.rows)
      if (r.after < least) {
        least = r.after;
        name = r.name;
      }
    QCOMPARE(sky.worst[0].name, name);
    // Its sky: the proposal stands 8 m before it and 12.4 m above it, to the south.
    const SkylineStep& south = sky.worst[0].seen->skyline[360];
    QVERIFY(std::abs(south.altitude - std::atan2(14 - 1.6, 8 - 0.02)) < radians(0.2));
    QCOMPARE(south.element, std::uint64_t(2));
  }

  // ---- checked
  void itHoldsAsMade() {
    const auto report = checked(first_);
    QVERIFY2(report.has_value(), report ? "" : report.error().text().c_str());
    for (const VerifyLine& l : report->lines)
      QVERIFY2(l.holds, qPrintable(QString::fromStdString(l.what + ": " + l.claimed + " / " + l.found)));
    QVERIFY(report->lines.size() > 30);
  }

  void aBetteredClaimIsFound_data() {
    QTest::addColumn<QString>("what");
    for (const char* what : {"mean", "share", "before", "group", "study", "verdict", "row", "rows", "shadow", "shadows",
                             "readings", "sensors", "min", "max", "figure", "after", "moment", "moments"})
      QTest::newRow(what) << what;
  }
  void aBetteredClaimIsFound() {
    QFETCH(QString, what);
    const std::string original = *loadFile(first_ / "record.json");
    Json j = Json::parse(original);
    Json& c = j["claims"];
    Json& group = c["studies"][1]["groups"][0];
    if (what == "mean") group["mean"] = group["mean"].get<double>() + 0.2;
    if (what == "share") group["share_percent"] = group["share_percent"].get<double>() + 3;
    if (what == "before") group["before_mean"] = group["before_mean"].get<double>() - 0.5;
    if (what == "group") c["studies"][1]["groups"].erase(0);
    if (what == "study") c["studies"].erase(0);
    if (what == "verdict") c["verdicts"].erase(1);
    if (what == "row") {
      for (Json& r : c["verdicts"][1]["rows"]) // an exact rule: not one may differ
        r["outcome"] = r["outcome"] == "meets" ? "falls short" : "meets";
    }
    if (what == "rows") c["verdicts"][0]["rows"].erase(0);
    if (what == "shadow")
      c["shadows"][0]["net_new_area_hours"] = c["shadows"][0]["net_new_area_hours"].get<double>() - 5;
    if (what == "shadows") c["shadows"].clear();
    if (what == "sensors") group["sensors"] = 3;
    if (what == "min") group["min"] = group["min"].get<double>() + 0.1;
    if (what == "max") group["max"] = group["max"].get<double>() - 0.1;
    if (what == "figure") c["verdicts"][1]["figure"] = c["verdicts"][1]["figure"].get<double>() + 2;
    if (what == "after") c["verdicts"][1]["rows"][0]["after"] = c["verdicts"][1]["rows"][0]["after"].get<double>() + 2;
    if (what == "moment") c["shadows"][0]["moments"][1]["net_new_m2"] = 1.0;
    if (what == "moments") c["shadows"][0]["moments"].erase(0);
    if (what == "readings") { // what nothing recomputes is guarded by the fingerprint alone
      c["verdicts"][0]["readings"][0]["outcome"] = "meets";
      QVERIFY(saveFile(first_ / "record.json", j.dump()).has_value());
    } else {
      seal(first_, j);
    }
    const auto report = checked(first_);
    QVERIFY(saveFile(first_ / "record.json", original).has_value());
    QVERIFY2(report && !report->holds(), qPrintable(what));
  }

  // ---- since the last hand-in
  void nothingChangedIsSaid() {
    const auto again = gathered(handIn(), first_);
    QVERIFY2(again.has_value(), again ? "" : again.error().text().c_str());
    QVERIFY2(again->changes && again->changes->none(),
             again->changes->inputs.empty() ? "" : again->changes->inputs[0].c_str());
  }

  void whatChangedIsTold() {
    Project p = handIn(9);
    p.record.remarks[1].answer = "Left out of winter.";
    const auto facts = gathered(p, first_);
    QVERIFY2(facts.has_value(), facts ? "" : facts.error().text().c_str());
    const RecordChanges& c = *facts->changes;
    QCOMPARE(c.inputs.size(), std::size_t(1));
    QVERIFY2(QString::fromStdString(c.inputs[0]).contains("height: 14 → 9"), c.inputs[0].c_str());
    QVERIFY(!c.verdicts.empty() && !c.figures.empty());
    bool sun = false;
    for (const RecordChange& f : c.figures)
      if (f.what == "Sun on the green, Green: mean") sun = f.was != f.is;
    QVERIFY(sun);
    // The same from the two folders.
    const std::filesystem::path second = made_.filePath("second.record").toStdString();
    RunControl control;
    QVERIFY(makeRecordFolder(*facts, second, control).has_value());
    const auto told = recordChanges(first_, second);
    QVERIFY(told.has_value());
    QCOMPARE(told->inputs, c.inputs);
    QCOMPARE(told->figures.size(), c.figures.size());
    QCOMPARE(told->receivers, c.receivers);
    const QString pages = wordsOf(second / "record.pdf");
    for (const char* words : {"What changed since the last hand-in", "height: 14", "Left out of winter."})
      QVERIFY2(pages.contains(words), words);
    const auto holds = checked(second);
    QVERIFY(holds && holds->holds());
  }

  void anEarlierRecordThatIsNoneIsRefused() {
    const auto none = gathered(handIn(), made_.path().toStdString());
    QVERIFY(!none);
    QVERIFY(!recordChanges(first_, made_.path().toStdString()));
  }

  void receiversThatTurnAreNamed() {
    const auto row = [](const char* name, const char* outcome) {
      return Json{{"name", name}, {"outcome", outcome}, {"text", ""}};
    };
    ReadRecord was;
    was.folder = first_;
    was.json = Json::parse(*loadFile(first_ / "record.json"));
    was.json["claims"]["verdicts"] =
        Json::array({Json{{"id", "1"},
                          {"title", "Sky"},
                          {"outcome", "meets"},
                          {"text", "meets"},
                          {"rows", Json::array({row("W1", "meets"), row("W2", "meets"), row("W3", "falls short")})}}});
    Json now = was.json["claims"];
    now["verdicts"][0]["rows"][1]["outcome"] = "falls short";
    now["verdicts"][0]["rows"].push_back(row("W4", "meets")); // new: no turn
    const auto c = recordChanges(was, now, comparedText(handIn()));
    QCOMPARE(c.receivers, std::vector<std::string>{"Sky · W2: meets → falls short"});
    QVERIFY(c.verdicts.empty());
    now["verdicts"] = Json::array();
    const auto gone = recordChanges(was, now, comparedText(handIn()));
    QCOMPARE(gone.verdicts.size(), std::size_t(1));
    QCOMPARE(gone.verdicts[0].is, std::string("no longer recorded"));
  }

  // ---- files
  void thePlanIsKeptInTheFile() {
    Project p = handIn();
    p.record.paper = Paper::A3;
    p.groups[2].building = "Weavers' row";
    const std::string text = projectText(p, "files");
    const auto read = parseProject(text, "p.noonward", ".");
    QVERIFY2(read.has_value(), read ? "" : read.error().text().c_str());
    QVERIFY(read->project.record == p.record);
    QCOMPARE(read->project.groups[2].building, std::string("Weavers' row"));
    QCOMPARE(projectText(read->project, "files"), text);
    QVERIFY(read->project.unknownKeys.empty());
    QVERIFY(QString::fromStdString(projectText(greenPlace(), "files")).contains("\"record\"") == false);
  }

  void faultsOfThePlanAreTold_data() {
    QTest::addColumn<QString>("record");
    QTest::addColumn<QString>("told");
    QTest::newRow("paper") << R"({"paper": "a7"})"
                           << "none of a4, a3, letter";
    QTest::newRow("day") << R"({"parts": [{"shadows": {"day": "32 Mar"}}]})"
                         << "no day such as";
    QTest::newRow("clock") << R"({"parts": [{"shadows": {"from": "noonish"}}]})"
                           << "no clock time";
    QTest::newRow("window") << R"({"parts": [{"shadows": {"from": "16:00", "to": "9:00"}}]})"
                            << "before its beginning";
    QTest::newRow("step") << R"({"parts": [{"shadows": {"step": 0}}]})"
                          << "record.parts[0].shadows.step";
    QTest::newRow("remark") << R"({"remarks": [{"by": "City"}]})"
                            << "record.remarks[0]";
  }
  void faultsOfThePlanAreTold() {
    QFETCH(QString, record);
    QFETCH(QString, told);
    const auto read = parseProject(
        R"({"format": "noonward-project", "version": 1, "name": "P", "site": {"latitude": 52, "longitude": 0}, "record": )" +
            record.toStdString() + "}",
        "p.noonward", ".");
    QVERIFY2(!read && QString::fromStdString(read.error().text()).contains(told),
             read ? "read" : read.error().text().c_str());
  }

  void namesOfFilesAreToldApart() {
    FileNames names;
    QCOMPARE(names("Sky at windows"), std::string("sky-at-windows"));
    QCOMPARE(names("Sky, at windows!"), std::string("sky-at-windows-2"));
    QCOMPARE(names("../../etc"), std::string("etc"));
    QCOMPARE(names("Höfe"), std::string("h-fe"));
    QCOMPARE(names("日照"), std::string("study"));
    QCOMPARE(names("plan floor-0.0"), std::string("plan-floor-0.0"));
  }

  void aRecordOfTheFirstFormatIsStillRead() {
    ReadRecord old;
    old.version = 1;
    old.json = Json{{"claims", Json{{"study", Json{{"id", "5"}, {"name", "Year"}}},
                                    {"key", "abc"},
                                    {"building", Json{{"sda_percent", 40}}},
                                    {"rooms", Json::array()},
                                    {"verdicts", Json::array()}}}};
    const Json c = claimsOfTwo(old);
    QCOMPARE(c["studies"].size(), std::size_t(1));
    QCOMPARE(c["studies"][0]["id"].get<std::string>(), std::string("5"));
    QCOMPARE(c["studies"][0]["kind"].get<std::string>(), std::string("year"));
    QCOMPARE(c["studies"][0]["building"]["sda_percent"].get<int>(), 40);
    QCOMPARE(claimsOfTwo({{}, Json{{"claims", c}}, 2}).dump(), c.dump());
  }

  void aYearOfGlareTellsItsWorstSeatsAndShowsOne() {
    Project p = houseOfTheYear(1.2);
    SensorGroup eyes;
    eyes.id = {60};
    eyes.name = "Desks";
    eyes.eyes = true;
    PointSensor at;
    at.position = {4, 4, 1.2};
    at.normal = {0, -1, 0}; // at the window
    at.name = "At the window";
    PointSensor away = at;
    away.normal = {0, 1, 0};
    away.name = "Away from it";
    PointSensor back = at; // farther in, under the same name
    back.position.y = 5.2;
    eyes.layout = std::vector<PointSensor>{away, at, back};
    p.groups.push_back(eyes);
    study(p, 41, StudyKind::Glare, "Glare at desks", {{60}});
    p.studies.back().year.blinds = BlindRule::Never;
    p.record.parts = {part(RecordPartKind::Study, StudyId{41}.text())};
    const auto facts = gathered(p);
    QVERIFY2(facts, facts ? "" : facts.error().text().c_str());
    const FieldChapter& chapter = facts->fields.at(0);
    QVERIFY2(chapter.glare.has_value(), chapter.fault.c_str());
    const GlareChapter& glare = *chapter.glare;
    QCOMPARE(glare.seats.size(), std::size_t(3));
    QCOMPARE(glare.seats[0].name, std::string("At the window"));
    QVERIFY(glare.seats[0].seat.above[1] >= glare.seats[1].seat.above[1] && !glare.seats[0].moment.empty());
    QVERIFY2(glare.worst != nullptr, glare.fault.c_str());
    // Without blinds the picture shows what the year has reckoned for that hour.
    QVERIFY2(std::abs(glare.worst->glare.dgp - glare.seats[0].seat.worst) < 0.02,
             qPrintable(QString("%1 %2").arg(glare.worst->glare.dgp).arg(glare.seats[0].seat.worst)));
    QVERIFY(glare.worst->map.eye.forward.y < -0.99);
    QTemporaryDir dir;
    const auto folder = std::filesystem::path(dir.path().toStdString()) / "r";
    RunControl control;
    const Outcome made = makeRecordFolder(*facts, folder, control);
    QVERIFY2(made, made ? "" : made.error().text().c_str());
    QVERIFY(std::filesystem::exists(folder / "pictures" / "worst-seat-of-glare-at-desks.png"));
    QVERIFY(std::filesystem::file_size(folder / "values-glare-at-desks-worst-sources.csv") > 60);
    const auto report = checked(folder);
    QVERIFY(report && report->holds());
    QVERIFY(std::any_of(report->lines.begin(), report->lines.end(), [](const VerifyLine& l) {
      return l.what.find("At the window: share above 0.40") != std::string::npos;
    }));
    // A claim that flatters is not believed.
    auto json = *loadFile(folder / "record.json");
    const auto where = json.find("\"dgp_95\": ");
    QVERIFY(where != std::string::npos);
    json.replace(where, 11, "\"dgp_95\": -");
    QVERIFY(saveFile(folder / "record.json", json));
    const auto again = checked(folder);
    QVERIFY(!again || !again->holds());
  }
};

} // namespace

QTEST_MAIN(TestAnyRecord)
#include "tst_any_record.moc"
