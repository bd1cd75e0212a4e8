// Values on sensors as they are shown: what is written beside a value, the scale they stand on, and that the legend and
// the cells are painted in the colours that the scale says.

#ifndef Q_MOC_RUN
#include "core/runs/answer.h"
#include "picture/cells.h"
#include "tests/house.h"
#include <QImage>
#include <QPainter>
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;

namespace {

SensorField field(StudyKind kind, std::vector<float> values, std::vector<float> errors = {}) {
  auto r = std::make_shared<LightResult>();
  r->kind = kind;
  r->value = std::move(values);
  r->standardError = errors.empty() ? std::vector<float>(r->value.size(), 0) : std::move(errors);
  r->samples.assign(r->value.size(), 1);
  return lightField({}, r);
}
SensorField sun(std::vector<float> hours, double possible, std::size_t days = 1) {
  auto r = std::make_shared<SunHoursResult>();
  r->hours = std::move(hours);
  r->possible = possible;
  r->dates.assign(days, Date{2026, 3, 21});
  return sunField({}, r);
}

} // namespace

class TestSensorField : public QObject {
  Q_OBJECT
private slots:
  void valuesAreWrittenWithTheirErrors_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<double>("value");
    QTest::addColumn<double>("error");
    QTest::addColumn<QString>("text");
    const auto row = [](const char* name, StudyKind k, double value, double error, const char* text) {
      QTest::newRow(name) << int(k) << value << error << QString::fromUtf8(text);
    };
    row("small share", StudyKind::DaylightFactor, 0.456, 0.0123, "0.46 ± 0.012 %");
    row("share", StudyKind::DaylightFactor, 12.34, 0.25, "12.3 ± 0.25 %");
    row("lux", StudyKind::Illuminance, 612.4, 9.2, "612 ± 9.2 lx");
    row("exact", StudyKind::NoSkyLine, 100, 0, "100 %");
    row("nothing found", StudyKind::Vsc, 0, 0.02, "no light found: at most 0.04 %");
    row("nothing there", StudyKind::NoSkyLine, 0, 0, "0.00 %");
    row("not computed", StudyKind::Vsc, NAN, 0, "not computed");
    row("huge", StudyKind::Illuminance, 1234567, 1200, "1234567 ± 1.2e+03 lx");
  }
  void valuesAreWrittenWithTheirErrors() {
    QFETCH(int, kind);
    QFETCH(double, value);
    QFETCH(double, error);
    QFETCH(QString, text);
    const SensorField f = field(StudyKind(kind), {float(value)}, {float(error)});
    QCOMPARE(QString::fromStdString(f.valueText(0)), text);
  }

  void hoursAreWrittenAsHoursAndMinutes_data() {
    QTest::addColumn<double>("hours");
    QTest::addColumn<QString>("text");
    QTest::newRow("none") << 0.0 << "0 h 0 min of sun";
    QTest::newRow("two") << 2.0 << "2 h 0 min of sun";
    QTest::newRow("a minute less") << 2.0 - 1.0 / 60 << "1 h 59 min of sun";
    QTest::newRow("a quarter") << 4.25 << "4 h 15 min of sun";
    QTest::newRow("a year") << 1800.5 << "1800 h 30 min of sun";
    QTest::newRow("not computed") << double(NAN) << "not computed";
  }
  void hoursAreWrittenAsHoursAndMinutes() {
    QFETCH(double, hours);
    QFETCH(QString, text);
    QCOMPARE(QString::fromStdString(sun({float(hours)}, 12).valueText(0)), text);
  }

  void everyKindHasAScaleOfItsOwn_data() {
    QTest::addColumn<int>("kind");
    for (const StudyKindFacts& k : studyKinds)
      if (k.kind != StudyKind::SunHours) QTest::newRow(k.key) << int(k.kind);
  }
  void everyKindHasAScaleOfItsOwn() {
    QFETCH(int, kind);
    const StudyKindFacts& k = factsOf(StudyKind(kind));
    const bool sum = k.kind == StudyKind::Irradiation; // on a range of its own, marked where a year's sum reaches
    const SensorField f = sum ? field(k.kind, {300, 700, 900, 1150}) : field(k.kind, {1, 5, 20, 30});
    QCOMPARE(f.scale.unit, std::string(k.unit));
    QCOMPARE(f.scale.threshold, k.threshold);
    QVERIFY(f.scale.high > f.scale.threshold);
    if (sum) QCOMPARE(field(k.kind, {1, 5, 20, 30}).scale.threshold, 0.0);
    QCOMPARE(f.scale.low, 0.0);
    if (k.top > 0) QCOMPARE(f.scale.high, k.top);
    QVERIFY(QString::fromStdString(f.scale.title).compare(k.name, Qt::CaseInsensitive) == 0);
    QVERIFY(f.kind() == k.kind);
    for (const std::vector<float>& odd :
         {std::vector<float>{}, {NAN, NAN}, {0, 0, 0}, {1e9f}}) { // never an empty strip
      const SensorField o = field(k.kind, odd);
      QVERIFY(std::isfinite(o.scale.high) && o.scale.high > o.scale.low);
    }
  }

  void hoursReachToWhatTheSkyWouldGive() {
    QCOMPARE(sun({1, 2}, 12.2).scale.high, 13.0);
    QCOMPARE(sun({1, 2}, 12.0).scale.high, 12.0);
    QCOMPARE(sun({1, 2}, 0).scale.high, 1.0); // no sun at all
    QCOMPARE(sun({100, 200}, 1700, 180).scale.high, 2000.0);
    QCOMPARE(sun({100, 200}, 1700, 180).scale.title, std::string("hours of sun, 180 days"));
  }

  void rangesOfOnesOwnAreKeptAndFoolishOnesNot() {
    const SensorField f = field(StudyKind::Vsc, {5, 20});
    const FieldScale own = f.scaled(15, std::pair{10.0, 30.0});
    QCOMPARE(own.low, 10.0);
    QCOMPARE(own.high, 30.0);
    QCOMPARE(own.threshold, 15.0);
    for (const auto& bad : {std::pair{30.0, 10.0}, std::pair{5.0, 5.0}}) {
      QCOMPARE(f.scaled(15, bad).low, f.scale.low);
      QCOMPARE(f.scaled(15, bad).high, f.scale.high);
    }
    QCOMPARE(rescaled(f, 12).threshold, 12.0);
  }

  void theLegendIsPaintedInTheColoursOfTheCells_data() {
    QTest::addColumn<int>("palette");
    for (int p : {int(Palette::SunHours), int(Palette::Illuminance), int(Palette::Difference)})
      QTest::addRow("palette %d", p) << p;
  }
  void theLegendIsPaintedInTheColoursOfTheCells() {
    QFETCH(int, palette);
    FieldScale s;
    s.palette = Palette(palette);
    s.low = s.palette == Palette::Difference ? -10 : 0;
    s.high = 10;
    s.threshold = 1e9; // no dots over the colours
    s.dotBelow = false;
    s.title = "made up";
    QImage image(420, 80, QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter p(&image);
    paintLegend(p, {40, 10, 300, 46}, s, Theme::light());
    p.end();
    // The strip is painted from end to end; what is written over and under it is not.
    std::vector<int> strip;
    for (int y = 0; y < image.height(); ++y) {
      int painted = 0;
      for (int x = 50; x < 330; ++x) painted += image.pixelColor(x, y) != QColor(Qt::white);
      if (painted > 270) strip.push_back(y);
    }
    QVERIFY(strip.size() > 5);
    const int best = strip[strip.size() / 2];
    const auto apart = [](QColor a, QColor b) {
      return std::abs(a.red() - b.red()) + std::abs(a.green() - b.green()) + std::abs(a.blue() - b.blue());
    };
    int from = 0, to = 0; // where it begins and ends
    for (int x = 0; x < image.width(); ++x)
      if (image.pixelColor(x, best) != QColor(Qt::white)) {
        if (!from) from = x;
        to = x;
      }
    QVERIFY(to - from > 150);
    double before = -1;
    for (double share : {0.05, 0.25, 0.5, 0.75, 0.95}) {
      const QColor painted = image.pixelColor(int(from + share * (to - from)), best);
      // Which value does the scale give this colour? It must lie where the strip has it, within a few of its steps.
      double nearest = 1e9, at = 0;
      for (int k = 0; k <= 400; ++k) {
        const double v = s.low + (s.high - s.low) * k / 400;
        if (const int d = apart(painted, colorOf(s, v)); d < nearest) {
          nearest = d;
          at = double(k) / 400;
        }
      }
      QVERIFY2(nearest < 12, "a colour that is none of the scale");
      QVERIFY2(std::abs(at - share) < 0.12, qPrintable(QString("%1 instead of %2").arg(at).arg(share)));
      QVERIFY(at > before);
      before = at;
    }
  }

  void coloursEndWhereTheScaleEnds() {
    FieldScale s;
    s.low = 2;
    s.high = 8;
    QCOMPARE(colorOf(s, -100), colorOf(s, 2));
    QCOMPARE(colorOf(s, 1e9), colorOf(s, 8));
    QVERIFY(colorOf(s, 3) != colorOf(s, 7));
    s.high = s.low; // an empty range paints, and does not divide by nothing
    QVERIFY(colorOf(s, 5).isValid());
  }

  void cellsStandForTheirSensors() {
    const Project p = test::house({.ratio = 0.3, .spacing = 0.8});
    const auto sensors = layOutSensors(p);
    QVERIFY(sensors.has_value());
    SensorField field;
    field.sensors = *sensors;
    const Mesh m = cellMesh(field, 0);
    QCOMPARE(m.triangles.size(), 2 * sensors->groups[0].count);
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
      const Sensor& s = sensors->sensors[sensors->groups[0].first + m.face[t]];
      Vec3 middle;
      for (const std::uint32_t corner : m.triangles[t]) middle = middle + m.points[corner] * (1.0 / 3);
      QVERIFY(length(xy(middle) - xy(s.position)) < 0.8);
      QVERIFY(std::abs(middle.z - s.position.z - 0.03) < 1e-9);
    }
  }

  void aNeedleIsAsLongAsItsValueAsks() {
    SensorField field;
    SensorGridFacts g;
    g.eyes = true;
    g.count = 4;
    field.sensors.groups = {g};
    for (int k = 0; k < 4; ++k) field.sensors.sensors.push_back({{3.0 * k, 0, 1.2}, {0, 1, 0}, 0});
    auto glare = std::make_shared<LightResult>();
    glare->kind = StudyKind::Glare;
    glare->value = {0, 5, 10, std::nanf("")};
    field.light = glare;
    const Mesh m = cellMesh(field, 0);
    const auto reach = [&](std::size_t k) {
      double most = 0;
      for (std::size_t c = 4 * k; c < 4 * k + 4; ++c) most = std::max(most, m.points[c].y - 0.03);
      return most;
    };
    QVERIFY(std::abs(reach(2) - 0.9) < 1e-6); // whole, of a single eye
    QVERIFY(std::abs(reach(1) - 0.7 * 0.9) < 1e-6);
    QVERIFY(std::abs(reach(0) - 0.4 * 0.9) < 1e-6 && std::abs(reach(3) - 0.4 * 0.9) < 1e-6);
    glare->value = {0, 0, 0, 0};
    const Mesh none = cellMesh(field, 0);
    for (Vec3 p : none.points) QVERIFY(std::isfinite(p.x) && p.y < 0.4);
  }

  void figuresOfAYearAreFieldsOfOneRun() {
    YearFacts facts;
    facts.settings.metrics.threshold = 500;
    auto year = std::make_shared<YearResult>();
    SensorYear one;
    one.autonomy = 0.42;
    one.continuous = 0.6;
    one.useful = {0.1, 0.2, 0.5, 0.2};
    one.mean = 640;
    year->sensors = {one, one};
    year->beamHours = {310, 0};
    year->relativeError = {0.02f, std::nanf("")};
    const std::map<YearMetric, std::pair<double, std::string>> wanted{
        {YearMetric::Autonomy, {42, "%"}}, {YearMetric::Continuous, {60, "%"}}, {YearMetric::BeamHours, {310, "h"}},
        {YearMetric::Useful, {70, "%"}},   {YearMetric::TooMuch, {20, "%"}},    {YearMetric::MeanLux, {640, "lx"}}};
    for (YearMetric metric : allYearMetrics) {
      const SensorField f = yearField(facts, year, metric);
      QVERIFY2(std::abs(double(f.values()[0]) - wanted.at(metric).first) < 1e-4, yearMetricName(metric));
      QVERIFY(std::isnan(f.values()[1])); // not reached
      QCOMPARE(f.scale.unit, wanted.at(metric).second);
      QVERIFY(f.year == year && f.kind() == StudyKind::Year);
      QVERIFY(!f.scale.title.empty());
    }
    QCOMPARE(yearField(facts, year, YearMetric::Autonomy).scale.title, std::string("autonomy at 500 lx"));
    QVERIFY(std::abs(double(yearField(facts, year, YearMetric::MeanLux).light->standardError[0]) - 12.8) < 1e-4);
  }

  void answersOfEveryKindCarryAField_data() {
    QTest::addColumn<int>("kind");
    for (const StudyKindFacts& k : studyKinds) QTest::newRow(k.key) << int(k.kind);
  }
  void answersOfEveryKindCarryAField() {
    QFETCH(int, kind);
    StudyQuestion q;
    q.project = test::houseOfTheYear(2);
    q.study.id = {5};
    q.study.kind = StudyKind(kind);
    q.study.groups = {q.project.groups.front().id}; // unasked, what eyes see takes eyes alone
    q.study.light.error = 0.2;
    q.study.light.maxSamples = 1024;
    q.study.year.error = 0.4;
    q.study.sunHours.dates = {{2026, 6, 21}};
    q.moment = q.project.zone().instant({{2026, 6, 21}, 12 * 3600});
    q.key = studyDigest(q.project, q.study, q.moment);
    RunControl control;
    const AnswerPtr a = Answerer().answer(q, control, [](const AnswerPtr&) {});
    QVERIFY(a != nullptr);
    QVERIFY2(a->fault.empty(), a->fault.c_str());
    const SensorField& f = *a->painted;
    QVERIFY(f.kind() == StudyKind(kind));
    QCOMPARE(f.values().size(), f.sensors.sensors.size());
    QVERIFY(f.key() == q.key); // the key made without a scene is the key of the answer
    QVERIFY(f.end() == RunEnd::Finished);
    QVERIFY(f.inRooms());
    QVERIFY(a->asked.starts_with(studyName(StudyKind(kind))));
    for (std::size_t i = 0; i < f.values().size(); ++i) QVERIFY(!f.valueText(i).empty());
  }
};

QTEST_MAIN(TestSensorField)
#include "tst_sensor_field.moc"
