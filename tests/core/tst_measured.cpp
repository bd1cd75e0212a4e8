// Computed beside measured: a made-up instrument whose faults are known, and what is found of them.

#ifndef Q_MOC_RUN
#include "core/base/json.h"
#include "core/files/save_file.h"
#include "core/files/station/guideline.h"
#include "core/files/station/stand_in_logger.h"
#include "core/runs/measuring.h"
#include "core/runs/record/record.h"
#include "picture/record_pages.h"
#include "tests/house.h"
#endif
#include <QElapsedTimer>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace noonward;
using namespace noonward::test;

namespace {
bool near(double a, double b, double by) {
  return std::abs(a - b) <= by;
}
Study yearOf(double error = 0.15) {
  Study s;
  s.kind = StudyKind::Year;
  s.name = "Year";
  s.year.error = error;
  return s;
}
const Suggestion& of(const Comparison& c, Suggestion::Kind kind) {
  for (const Suggestion& s : c.suggestions)
    if (s.kind == kind) return s;
  qFatal("no such suggestion");
}
} // namespace

class TestMeasured : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  Project p_ = houseOfTheYear(1.5);
  std::unique_ptr<ModelledHours> light_;
  std::filesystem::path path(const char* name) { return folder_.filePath(name).toStdString(); }
  std::filesystem::path logged(const char* name, LoggerWish wish) {
    std::string all;
    if (wish.sensors.empty()) wish.sensors = {2, 5};
    wish.weather = false;
    const Outcome o = standInLogger(light_.get(), *p_.site.weather, wish, [&](const std::string& row) {
      all += row + "\n";
      return true;
    });
    if (!o || !saveFile(path(name), all)) qFatal("no log");
    return path(name);
  }
  Measuring against(const std::filesystem::path& file, MeasuringWish wish = {}) {
    RunControl control;
    wish.files = {file};
    auto m = measureAgainst(p_, yearOf(), wish, control);
    if (!m) qFatal("%s", m.error().text().c_str());
    return std::move(*m);
  }
  struct Ran {
    int code;
    QString out, err;
  };
  Ran cli(const QStringList& args) {
    QProcess p;
    p.setWorkingDirectory(folder_.path());
    p.start(NOONWARD_CLI, args);
    if (!p.waitForFinished(300000)) qFatal("the command hangs");
    return {p.exitCode(), QString::fromUtf8(p.readAllStandardOutput()), QString::fromUtf8(p.readAllStandardError())};
  }

private slots:
  void initTestCase() {
    RunControl control;
    auto light = modelledHours(p_, {}, yearOf().year, false, control);
    QVERIFY2(light, light ? "" : light.error().text().c_str());
    light_ = std::make_unique<ModelledHours>(std::move(*light));
    QVERIFY(light_->sensors.sensors.size() > 8 &&
            light_->values.size() == light_->sensors.sensors.size() * hoursOfYear);
  }

  void anHonestInstrumentAgrees() {
    const Measuring m = against(logged("honest.csv", {.step = 600, .noise = 0}));
    const Comparison& c = m.comparison;
    QCOMPARE(c.sensors.size(), std::size_t(2));
    QCOMPARE(c.sensors[0].sensor, light_->sensors.sensorName(2));
    QVERIFY2(c.hours.cvRmse < 0.002 && near(c.hours.slope, 1, 0.001) && c.hours.r2 > 0.9999,
             qPrintable(QString::number(c.hours.cvRmse)));
    for (const Suggestion& s : c.suggestions) QVERIFY2(!s.counts, s.text.c_str());
    QVERIFY(c.leftOut.notMeasured == 0 && c.leftOut.outside == 0);
    QCOMPARE(c.hours.n + c.leftOut.night, std::size_t(2 * 8760));
    QVERIFY(c.year == 2025 && std::string(m.unit) == "lx" && m.lost.empty());
    std::size_t binned = 0;
    for (const SunBin& b : c.bySun) binned += b.agreement.n;
    QVERIFY(binned <= c.hours.n &&
            binned > c.hours.n * 9 / 10); // hours in which the sun rises have it below for some of them
  }

  void knownFaultsAreRecoveredWithinTheirNoise() {
    for (const auto& [slip, drift, gain] : {std::tuple{30.0, 6.0, 1.0}, {-20.0, -8.0, 1.1}, {0.0, 5.0, 0.9}}) {
      const Measuring m = against(logged(
          "faults.csv", {.step = 300, .noise = 3, .drift = drift, .gain = gain, .slip = slip, .gaps = 8, .seed = 7}));
      const Comparison& c = m.comparison;
      const Suggestion& clock = of(c, Suggestion::Kind::Slip);
      QVERIFY2(near(clock.slip, -slip, std::max(2.0, 3 * clock.slipError)), clock.text.c_str());
      QCOMPARE(clock.counts, slip != 0);
      const Suggestion& both = of(c, slip != 0 ? Suggestion::Kind::SlipAndDrift : Suggestion::Kind::Drift);
      QVERIFY2(near(both.gain, gain, std::max(0.004, 4 * both.gainError)), both.text.c_str());
      QVERIFY2(near(100 * both.drift, drift, std::max(0.6, 400 * both.driftError)), both.text.c_str());
      QVERIFY(both.counts && both.reached.cvRmse < 0.05 && both.reached.cvRmse < c.hours.cvRmse);
      QVERIFY(c.leftOut.notMeasured > 0 && c.hours.n > 5000);
    }
  }

  void aReflectanceIsFoundFromASecondRun() {
    // What would be measured under surfaces three quarters as bright.
    RunControl control;
    auto dark = modelledHours(p_, {}, yearOf(0.06).year, false, control, {}, 0.75);
    QVERIFY(dark);
    const std::unique_ptr<ModelledHours> bright = std::move(light_);
    light_ = std::make_unique<ModelledHours>(std::move(*dark));
    const auto file = logged("dark.csv", {.step = 1800, .noise = 0, .sensors = {1, 4, 7, 10}});
    const double sum = std::accumulate(light_->values.begin(), light_->values.end(), 0.0),
                 before = std::accumulate(bright->values.begin(), bright->values.end(), 0.0);
    light_ = std::make_unique<ModelledHours>(std::move(*bright));
    QVERIFY(sum < before);
    const Measuring m = against(file, {.reflectances = true});
    const Suggestion& s = of(m.comparison, Suggestion::Kind::Reflectance);
    QVERIFY2(near(s.reflectance, 0.75, 0.08) && s.counts, s.text.c_str());
    QVERIFY(s.reached.cvRmse < m.comparison.hours.cvRmse);
  }

  void stretchesAreCountedByHand() {
    const auto file = logged("stretch.csv", {.step = 3600, .noise = 0, .sensors = {2}});
    Stretch june{.firstDay = 151, .lastDay = 180, .firstHour = 10, .lastHour = 14};
    const Comparison c = against(file, {.stretch = june}).comparison;
    QCOMPARE(c.hours.n, std::size_t(30 * 4));
    QCOMPARE(c.leftOut.outside, std::size_t(8760 - 120));
    QVERIFY(c.leftOut.night == 0);
    Stretch turn{.firstDay = 350, .lastDay = 10, .firstHour = 11, .lastHour = 13}; // over the turn of the year
    QCOMPARE(against(file, {.stretch = turn}).comparison.hours.n, std::size_t(26 * 2));
    Stretch high;
    high.leastAltitude = radians(40);
    const Comparison h = against(file, {.stretch = high}).comparison;
    for (std::size_t k = 0; k < 8760; ++k)
      QCOMPARE(std::isfinite(h.sensors[0].measured[k]), light_->up[k] && double(light_->altitude[k]) >= radians(40));
    Stretch all;
    all.night = true;
    QCOMPARE(against(file, {.stretch = all}).comparison.hours.n, std::size_t(8760));
    RunControl control;
    MeasuringWish nothing{.files = {file}, .stretch = {.firstDay = 355, .lastDay = 356, .firstHour = 0, .lastHour = 3}};
    const auto none = measureAgainst(p_, yearOf(), nothing, control);
    QVERIFY(!none && none.error().message.find("No hour of 2025 counts") == 0);
    // The figures are those of the two columns.
    const ComparedSensor& s = c.sensors[0];
    std::vector<double> m, o;
    for (std::size_t k = 0; k < 8760; ++k)
      if (std::isfinite(s.measured[k])) m.push_back(double(s.modelled[k])), o.push_back(double(s.measured[k]));
    QCOMPARE(agreement(m, o).rmse, s.hours.rmse);
    const std::string csv = measuringCsv(against(file, {.stretch = june}));
    QCOMPARE(std::count(csv.begin(), csv.end(), '\n'), std::ptrdiff_t(8761));
  }

  void sensorsAreFoundByNameAndByPlace() {
    std::vector<std::string> lost;
    const Vec3 at = light_->sensors.sensors[5].position;
    const auto found = matchSensors({{light_->sensors.sensorName(3), 0},
                                     {"HALL 2", 1},
                                     {fmt::format("({} {} {})", at.x, at.y, at.z + 0.2), 2},
                                     {"Hal 4", 3},
                                     {"desk", 4},
                                     {"1 2", 5}},
                                    light_->sensors, lost);
    QVERIFY(found.size() >= 2 && found.front().sensor == 3);
    QVERIFY(
        std::any_of(found.begin(), found.end(), [](const MeasuredAt& m) { return m.column == 2 && m.sensor == 5; }));
    QVERIFY(std::find(lost.begin(), lost.end(), "\"desk\"") != lost.end());
    RunControl control;
    QVERIFY(
        saveFile(path("strange.csv"), "Time,desk [lx]\n2025-05-01 10:00,5\n2025-05-01 11:00,5\n2025-05-01 12:00,5\n"));
    const auto none = measureAgainst(p_, yearOf(), {.files = {path("strange.csv")}}, control);
    QVERIFY(!none && none.error().message.find("No column is called as a sensor of the study") == 0);
    StationMap map;
    map.columns = {{"desk [lx]", Measured::Light, "", light_->sensors.sensorName(0)}};
    const auto mapped = measureAgainst(p_, yearOf(), {.files = {path("strange.csv")}, .map = map}, control);
    QVERIFY2(mapped, mapped ? "" : mapped.error().text().c_str());
    QVERIFY(mapped->comparison.hours.n == 3);
    RunControl stop;
    stop.wish = Wish::Drop;
    const auto stopped = measureAgainst(p_, yearOf(), {.files = {path("strange.csv")}, .map = map}, stop);
    QVERIFY(!stopped && stopped.error().message == "Stopped.");
    Project bare = p_;
    bare.site.weather.reset();
    QVERIFY(!measureAgainst(bare, yearOf(), {.files = {path("strange.csv")}, .map = map}, control));
  }

  void irradianceIsTheSameSkyInWatts() {
    // Outdoors on the open ground what falls is the file's own global radiation.
    Project open;
    open.site = p_.site;
    SensorGroup g;
    g.id = {1};
    g.name = "Roof";
    g.layout = std::vector<PointSensor>{{{0, 0, 10}, {0, 0, 1}, "Pyranometer"}};
    open.groups.push_back(g);
    RunControl control;
    const auto m = modelledHours(open, {}, yearOf(0.05).year, true, control);
    QVERIFY2(m, m ? "" : m.error().text().c_str());
    double sum = 0, truth = 0;
    for (std::size_t h = 0; h < hoursOfYear; ++h)
      sum += double(m->values[h]), truth += m->up[h] ? open.site.weather->hours[h][WeatherField::GlobalHorizontal] : 0;
    QVERIFY2(near(sum / truth, 1, 0.01), qPrintable(QString::number(sum / truth)));
    QCOMPARE(std::string(m->unit()), std::string("W/m²"));
  }

  void guidelinesJudgeByTheirBounds() {
    Comparison c;
    c.hours = {.n = 100, .nmbe = 0.08, .cvRmse = 0.31, .r2 = 0.9};
    c.months = {.n = 12, .nmbe = -0.04, .cvRmse = 0.1, .r2 = 0.99};
    const auto shipped = readGuidelines(SOURCE_TREE "/resources/guidelines");
    QVERIFY(!shipped.empty() && shipped[0].key == "agreement-guideline-14" && !shipped[0].source.empty());
    AgreementVerdict v = judgeAgreement(c, shipped[0]);
    QVERIFY(!v.meets);
    QCOMPARE(v.text, std::string("Falls short of Agreement by ASHRAE Guideline 14, 2014: by hour NMBE +8.0 % (± 10), "
                                 "CV(RMSE) 31.0 % (at most 30) "
                                 "falls short; by month NMBE -4.0 % (± 5), CV(RMSE) 10.0 % (at most 15)"));
    c.hours.cvRmse = 0.3;
    QVERIFY(judgeAgreement(c, shipped[0]).meets);
    c.months.nmbe = 0.051;
    QVERIFY(!judgeAgreement(c, shipped[0]).meets);
    c.months.nmbe = std::nan(""); // means nothing: holds nothing
    QVERIFY(!judgeAgreement(c, shipped[0]).meets);
    const auto own = guidelineFromJson(
        R"({"format": "noonward-agreement-guideline", "name": "Own", "days": {"r2": 0.95}})", "own.json");
    QVERIFY(own && !judgeAgreement(c, *own).meets);
    c.days.r2 = 0.95;
    QVERIFY(judgeAgreement(c, *own).meets);
    for (const char* bad :
         {"{}", R"({"format": "noonward-agreement-guideline", "name": "x"})",
          R"({"format": "noonward-agreement-guideline", "name": "x", "hours": {"nmbe": -1}})",
          R"({"format": "noonward-agreement-guideline", "name": "x", "hours": {"nmbe": 1}, "hrs": 1})", "["})
      QVERIFY2(!guidelineFromJson(bad, "bad.json"), bad);
  }

  void theCommandLineDoesAllOfIt() {
    QVERIFY(writeProject(p_, path("house.noonward")));
    const QString sensor = QString::fromStdString(light_->sensors.sensorName(2));
    Ran r = cli({"stand-in", "logger", "house.noonward", "--sensors", sensor, "--slip", "30", "--noise", "1", "--gaps",
                 "3", "--out", "log.csv"});
    QVERIFY2(r.code == 0 && r.out.contains("rows"), qPrintable(r.err));
    r = cli({"measured", "house.noonward", "log.csv", "--json"});
    QVERIFY2(r.code == 0, qPrintable(r.err));
    const Json j = Json::parse(r.out.toStdString());
    for (const char* key : {"n", "mbe", "nmbe", "rmse", "cv_rmse", "r2", "left_out"}) QVERIFY2(j.contains(key), key);
    QVERIFY(j["n"].get<int>() > 4000 && j["left_out"].get<int>() > 0);
    QVERIFY(near(j["suggestions"][0]["slip_min"].get<double>(), -30, 3));
    r = cli(
        {"weather", "make", "log.csv", "--project", "house.noonward", "--out", "made.epw", "--mend", "slip", "--json"});
    QVERIFY2(r.code == 0, qPrintable(r.err));
    const Json w = Json::parse(r.out.toStdString());
    QCOMPARE(w["map"]["slip"].get<double>(), -30.0);
    QVERIFY(w["invented"].get<int>() > 0 && w["hours"]["missing"].get<int>() == 0);
    r = cli({"weather", "check", "made.epw"});
    QVERIFY2(r.code == 0 && r.out.contains("nothing found"), qPrintable(r.out));
    r = cli({"weather", "make", "log.csv", "--look"});
    QVERIFY2(r.code == 0 && r.out.contains("dry bulb temperature in °C"), qPrintable(r.out));
    QCOMPARE(cli({"measured", "house.noonward", "none.csv"}).code, 2);
    QCOMPARE(cli({"measured", "house.noonward", "log.csv", "--study", "Nothing"}).code, 2);
    QCOMPARE(cli({"measured", "house.noonward", "log.csv", "--from", "30 Feb"}).code, 2);
    QCOMPARE(cli({"weather", "make", "log.csv"}).code, 2);
    r = cli({"weather", "make", "log.csv", "--out", "made.epw"});
    QVERIFY2(r.code == 1 && r.err.contains("Where the station stands is not known"), qPrintable(r.err));
    QCOMPARE(cli({"stand-in", "logger", "house.noonward", "--sensors", "nobody", "--out", "x.csv"}).code, 2);
    QCOMPARE(cli({"stand-in", "logger", "house.noonward", "--out", "/nowhere/x.csv"}).code, 1);
  }

  void aCatalogueIsAsked() {
    QProcess server;
    server.start(NOONWARD_CLI, {"stand-in", "weather", "--folder", SOURCE_TREE "/demo"});
    QVERIFY(server.waitForReadyRead(30000));
    const QString at = QString::fromUtf8(server.readLine()).trimmed();
    QVERIFY2(at.startsWith("http://127.0.0.1:"), qPrintable(at));
    for (const auto& [what, code, says] : {std::tuple{"brevholm.epw", 0, "8760 hours"},
                                           {"brevholm.zip", 0, "8760 hours"},
                                           {"moved/brevholm.zip", 0, "8760 hours"},
                                           {"", 1, "It links to 4 weather files"},
                                           {"half/brevholm.epw", 1, "The connection ended after"},
                                           {"locked", 1, "a refusal (403)"},
                                           {"none", 1, "404"}}) {
      const Ran r = cli({"weather", "fetch", at + what, "--out", "got.epw"});
      QVERIFY2(r.code == code && (r.out + r.err).contains(says),
               qPrintable(QString("%1: %2 %3").arg(what, r.out, r.err)));
    }
    QVERIFY(*loadFile(path("got.epw")) == *loadFile(SOURCE_TREE "/demo/brevholm.epw"));
    QVERIFY(writeProject(p_, path("house.noonward")));
    QVERIFY(cli({"weather", "fetch", at + "tarrow-bay.zip", "--project", "house.noonward"})
                .out.contains("different hemispheres"));
    const auto back = readProject(path("house.noonward"));
    QVERIFY(back && back->project.site.weather->city == "Tarrow Bay");
    server.kill();
    server.waitForFinished();
    Ran r = cli({"weather", "fetch", at});
    QVERIFY2(r.code == 1 && r.err.contains("Nobody answers there."), qPrintable(r.err));
    r = cli({"weather", "fetch", "none.epw"});
    QVERIFY2(r.code == 1 && r.err.contains("no such file"), qPrintable(r.err));
  }
  void aKeptSeriesIsToldInTheRecordAndCheckedAnew() {
    Project p = p_;
    Study year = yearOf();
    year.id = {60};
    p.studies = {year};
    MeasuringWish wish;
    wish.files = {logged("roof.csv", {.step = 600, .noise = 2, .slip = 20})};
    wish.stretch.firstDay = 60;
    wish.stretch.lastDay = 200;
    p = withSeries(p, seriesOf(wish, "Roof", year.id, "agreement-guideline-14"));
    p = withSeries(p, seriesOf(wish, "Roof", year.id, "agreement-guideline-14")); // of one name: put right, not doubled
    QCOMPARE(p.measured.size(), std::size_t(1));
    const auto again = wishOf(p.measured[0]);
    QVERIFY(again && again->stretch.firstDay == 60 && again->files == wish.files);
    RecordPart part;
    part.kind = RecordPartKind::Measured;
    part.of = p.measured[0].id.text();
    p.record.parts = {part};
    StudyRunner runner(nullptr);
    RunControl control;
    const auto guidelines = readGuidelines(SOURCE_TREE "/resources/guidelines");
    const auto facts =
        gatherRecord(p, readYardsticks({SOURCE_TREE "/resources/yardsticks"}), runner, control, {}, guidelines);
    QVERIFY2(facts, facts ? "" : facts.error().text().c_str());
    QCOMPARE(facts->measured.size(), std::size_t(1));
    const MeasuredChapter& c = facts->measured[0];
    QVERIFY2(c.found && c.verdict, c.fault.c_str());
    // The same figures as the desk's.
    const Measuring plain = against(wish.files.front(), wish);
    QCOMPARE(c.found->comparison.hours.n, plain.comparison.hours.n);
    QCOMPARE(c.found->comparison.hours.nmbe, plain.comparison.hours.nmbe);
    const std::filesystem::path folder = path("record");
    const Outcome made = makeRecordFolder(*facts, folder, control);
    QVERIFY2(made, made ? "" : made.error().text().c_str());
    QVERIFY(std::filesystem::exists(folder / "project/measured/1-roof.csv") &&
            std::filesystem::exists(folder / "measured-roof.csv"));
    QProcess text;
    text.start("pdftotext", {"-layout", QString::fromStdString((folder / "record.pdf").string()), "-"});
    QVERIFY(text.waitForFinished(20000));
    const QString words = QString::fromUtf8(text.readAllStandardOutput());
    QVERIFY2(words.contains("Roof") && words.contains("altitude of the sun") && words.contains("Stamps moved by"),
             qPrintable(words.right(3000)));
    // Carried elsewhere it is computed anew from the files it carries.
    std::filesystem::remove(wish.files.front());
    auto report = verifyRecord(folder, control);
    QVERIFY2(report, report ? "" : report.error().text().c_str());
    for (const VerifyLine& l : report->lines)
      QVERIFY2(l.holds, (l.what + ": " + l.claimed + ", found " + l.found).c_str());
    QVERIFY(std::any_of(report->lines.begin(), report->lines.end(),
                        [](const VerifyLine& l) { return l.what.find("Roof, by hour: NMBE") == 0; }));
    // Readings that are a fifth too high do not hold, and say where.
    const std::string whole = *loadFile(folder / "project/measured/1-roof.csv");
    std::string tampered;
    for (const QString& row : QString::fromStdString(whole).split('\n')) {
      const QStringList cells = row.split(',');
      bool number = false;
      const double first = cells.size() > 1 ? cells[1].toDouble(&number) : 0;
      tampered += (number ? QStringList{cells[0], QString::number(first * 1.2), cells.mid(2).join(',')}.join(',') : row)
                      .toStdString() +
                  "\n";
    }
    QVERIFY(saveFile(folder / "project/measured/1-roof.csv", tampered));
    report = verifyRecord(folder, control);
    QVERIFY(report && !report->holds());
    QVERIFY(std::any_of(report->lines.begin(), report->lines.end(),
                        [](const VerifyLine& l) { return !l.holds && l.what.find("Roof, by hour: NMBE") == 0; }));
    // Without its file a series stands in the record with the reason.
    const auto gone =
        gatherRecord(p, readYardsticks({SOURCE_TREE "/resources/yardsticks"}), runner, control, {}, guidelines);
    QVERIFY(gone && !gone->measured[0].found && !gone->measured[0].fault.empty());
    QVERIFY(makeRecordFolder(*gone, path("record-without"), control));
  }
  void theCommandLineKeepsAndTakesUp() {
    Project p = p_;
    Study year = yearOf();
    year.id = {60};
    p.studies = {year};
    QVERIFY(writeProject(p, path("kept.noonward")));
    logged("desk.csv", {.step = 900, .noise = 1});
    Ran r =
        cli({"measured", "kept.noonward", "desk.csv", "--keep", "Desk", "--from", "1 May", "--to", "31 Aug", "--json"});
    QVERIFY2(r.code == 0, qPrintable(r.err));
    const Json first = Json::parse(r.out.toStdString(), nullptr, false);
    r = cli({"measured", "kept.noonward", "--kept", "Desk", "--json"});
    QVERIFY2(r.code == 0, qPrintable(r.err));
    const Json second = Json::parse(r.out.toStdString(), nullptr, false);
    QVERIFY(first["n"] == second["n"] && first["nmbe"] == second["nmbe"] && first["n"].get<int>() > 1000);
    const auto back = readProject(path("kept.noonward"));
    QVERIFY(back && back->project.measured.size() == 1);
    // Beside the project it is named from there.
    const std::string text = *loadFile(path("kept.noonward"));
    QVERIFY(text.find("\"desk.csv\"") != std::string::npos);
  }
};

QTEST_MAIN(TestMeasured)
#include "tst_measured.moc"
