// What is shown and typed: lengths in feet and inches, areas in square feet, light in foot-candles; SI inside.

#ifndef Q_MOC_RUN
#include "core/base/units.h"
#include "core/files/project/project_file.h"
#include "core/model/settings/study_fields.h"
#include "core/studies/sensor_field.h"
#include "tests/house.h"
#include <QtTest>
#endif

using namespace noonward;

namespace {
const DisplayUnits american{LengthUnit::FeetInches, LightUnit::FootCandle};
bool near(std::optional<double> v, double wanted) {
  return v && std::abs(*v - wanted) < 1e-9 * std::max(1.0, std::abs(wanted));
}
SensorField illuminance(std::vector<float> values) {
  auto r = std::make_shared<LightResult>();
  r->kind = StudyKind::Illuminance;
  r->value = std::move(values);
  for (float v : r->value) r->standardError.push_back(v / 50);
  r->samples.assign(r->value.size(), 1);
  SensorSet set;
  set.sensors.resize(r->value.size());
  return lightField(set, r);
}
} // namespace

class TestUnits : public QObject {
  Q_OBJECT
private slots:
  void feetAndInchesAreTyped_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<double>("inches"); // 0: not a length
    for (const auto& [text, inches] : {std::pair{"10'6\"", 126.0},
                                       {"10' 6\"", 126.0},
                                       {"10' 6", 126.0},
                                       {"10′ 6″", 126.0},
                                       {"10’ 6”", 126.0},
                                       {"10'", 120.0},
                                       {"6\"", 6.0},
                                       {"6''", 6.0},
                                       {"10' 6 1/2\"", 126.5},
                                       {"1/2\"", 0.5},
                                       {"10 ft 6 in", 126.0},
                                       {"10ft6in", 126.0},
                                       {"10.5 ft", 126.0},
                                       {"10,5 ft", 126.0},
                                       {"10.5'", 126.0},
                                       {"10.5", 126.0},
                                       {"5 1/2", 66.0},
                                       {"-3' 6\"", -42.0},
                                       {"−3′ 6″", -42.0},
                                       {"-6\"", -6.0},
                                       {" 8 feet ", 96.0},
                                       {"3 inches", 3.0},
                                       {"2.54 cm", 1.0},
                                       {"0.0254 m", 1.0},
                                       // none of these is a length
                                       {"", 0.0},
                                       {"'", 0.0},
                                       {"\"", 0.0},
                                       {"6\" 10'", 0.0},
                                       {"10' -6\"", 0.0},
                                       {"10'6\"x", 0.0},
                                       {"1/0\"", 0.0},
                                       {"1/-2\"", 0.0},
                                       {"ten'", 0.0},
                                       {"10''6'", 0.0},
                                       {"10' 6' ", 0.0},
                                       {"nan'", 0.0},
                                       {"1e400'", 0.0},
                                       {"10 furlongs", 0.0},
                                       {"/2\"", 0.0}})
      QTest::addRow("%s", text) << text << inches;
  }
  void feetAndInchesAreTyped() {
    QFETCH(QString, text);
    QFETCH(double, inches);
    const auto v = lengthFromText(text.toStdString(), LengthUnit::FeetInches);
    if (inches == 0)
      QVERIFY2(!v, qPrintable(QString::number(v.value_or(0))));
    else
      QVERIFY2(near(v, inches * 0.0254), qPrintable(QString::number(v.value_or(-999) / 0.0254)));
  }

  void feetAndInchesAreShown_data() {
    QTest::addColumn<double>("inches");
    QTest::addColumn<QString>("text");
    for (const auto& [inches, text] : {std::pair{126.0, "10′ 6″"},
                                       {126.5, "10′ 6 1/2″"},
                                       {120.0, "10′"},
                                       {6.0, "6″"},
                                       {0.125, "1/8″"},
                                       {120.25, "10′ 0 1/4″"},
                                       {-42.0, "−3′ 6″"},
                                       {0.0, "0″"},
                                       {-0.01, "0″"},
                                       {11.999, "1′"}, // rounded over the foot
                                       {143.9999, "12′"},
                                       {3.75, "3 3/4″"}})
      QTest::addRow("%s", text) << inches << text;
  }
  void feetAndInchesAreShown() {
    QFETCH(double, inches);
    QFETCH(QString, text);
    QCOMPARE(QString::fromStdString(lengthText(inches * 0.0254, LengthUnit::FeetInches)), text);
    // What is shown can be typed again.
    const auto again = lengthFromText(text.toStdString(), LengthUnit::FeetInches);
    QVERIFY(again && std::abs(*again - inches * 0.0254) <= 0.0254 / 16 + 1e-12);
  }
  void whatIsShownIsUnderstoodEverywhere() {
    for (int eighths = -2000; eighths <= 2000; eighths += 7) {
      const double m = eighths * 0.0254 / 8;
      const auto again = lengthFromText(lengthText(m, LengthUnit::FeetInches), LengthUnit::Metre); // marks go before
      QVERIFY2(again && std::abs(*again - m) < 1e-12, lengthText(m, LengthUnit::FeetInches).c_str());
    }
  }

  void quantitiesKeepTheirMeaning() {
    // A lumen on a square foot; the international table's Btu.
    QVERIFY(near(shownUnit("lx", american).shown(1 / (0.3048 * 0.3048)), 1));
    QCOMPARE(quantityText(300, 0, "lx", american), std::string("27.9 fc"));
    QCOMPARE(quantityText(300, 0, "lx", {}), std::string("300 lx"));
    QCOMPARE(quantityText(100, 1, "m²", american), std::string("1076 ft²"));
    QCOMPARE(quantityText(100, 1, "m²", {LengthUnit::Centimetre}), std::string("100.0 m²"));
    QCOMPARE(quantityText(1, 0, "m³", {LengthUnit::Inch}), std::string("35 ft³"));
    QVERIFY(std::abs(shownUnit("kWh/m²", american).factor - 0.3169983) < 1e-6);
    QVERIFY(std::abs(shownUnit("kWh", american).factor - 3.412142) < 1e-6);
    QCOMPARE(quantityText(50, 0, "%", american), std::string("50 %"));
    for (const char* text : {"300 lx", "27.87091 fc", "27.87091", " 27,87091fc"})
      QVERIFY2(std::abs(quantityFromText(text, "lx", american).value_or(0) - 300) < 1e-3, text);
    QVERIFY(near(quantityFromText("300", "lx", {}), 300));
    QVERIFY(near(quantityFromText("10 fc", "lx", {}), 10 / (0.3048 * 0.3048))); // whatever is shown
    QVERIFY(near(quantityFromText("100 ft2", "m²", {}), 9.290304));
    QVERIFY(near(quantityFromText("100 ft2", "m²", american), 9.290304));
    for (const char* text : {"", "fc", "much", "300 m²", "nan", "inf lx"})
      QVERIFY2(!quantityFromText(text, "lx", american), text);
  }

  void settingsAreShownAndTakenInThem() {
    Study s;
    s.kind = StudyKind::Year;
    int seen = 0;
    for (const auto& field : studyFields(StudyKind::Year))
      for (const auto& row : field.rows) {
        if (row.unit != "lx") {
          QCOMPARE(shownText(row, s, american), row.text(s)); // nothing else changes
          continue;
        }
        ++seen;
        QVERIFY2(shownText(row, s, american).ends_with(" fc"), row.name.c_str());
        QCOMPARE(shownText(row, s, {}), row.text(s));
        if (field.key != "threshold") continue;
        QCOMPARE(shownText(row, s, american), std::string("27.87 fc"));
        QVERIFY(row.take(s, typedText(row, "50 fc", american)).empty());
        QVERIFY(std::abs(s.year.metrics.threshold - 538.1955) < 1e-3);
        QVERIFY(row.take(s, typedText(row, "50 fc", {})).empty());
        QVERIFY(std::abs(s.year.metrics.threshold - 538.1955) < 1e-3);
        QVERIFY(row.take(s, typedText(row, "500 lx", american)).empty());
        QVERIFY(near(s.year.metrics.threshold, 500));
        QVERIFY(row.take(s, typedText(row, "30", american)).empty());
        QVERIFY(std::abs(s.year.metrics.threshold - 322.9173) < 1e-3);
        QVERIFY(!row.take(s, typedText(row, "plenty", american)).empty());
        QVERIFY(!row.take(s, typedText(row, "-1 fc", american)).empty());
      }
    QVERIFY(seen >= 3);
  }

  void theProjectKeepsThem() {
    Project p = test::house({});
    p.units = american;
    const auto read = [](const std::string& text) { return parseProject(text, "p.noonward", "."); };
    const auto again = read(projectText(p, "p.files"));
    QVERIFY2(again.has_value(), again ? "" : again.error().text().c_str());
    QVERIFY(again->project.units == american);
    p.units = {};
    QVERIFY(projectText(p, "p.files").find("light-unit") == std::string::npos); // as files were before
    QVERIFY(read(projectText(p, "p.files"))->project.units == DisplayUnits());
    std::string odd = projectText(p, "p.files");
    odd.replace(odd.find("\"units\": \"m\""), 12, "\"units\": \"m\", \"light-unit\": \"candles\"");
    const auto faulty = read(odd);
    QVERIFY(!faulty.has_value());
    QVERIFY2(faulty.error().text().find("lx or fc") != std::string::npos, faulty.error().text().c_str());
  }

  void fieldsChangeUnitsWithoutChangingLight() {
    const SensorField lux = illuminance({10, 500, 1234, std::nanf(""), 0});
    const SensorField candles = inUnits(lux, american);
    QCOMPARE(candles.scale.unit, std::string("fc"));
    const double foot = 0.3048 * 0.3048;
    for (std::size_t i : {0u, 1u, 2u, 4u}) {
      QVERIFY(std::abs(double(candles.values()[i]) - double(lux.values()[i]) * foot) < 1e-4);
      QVERIFY(std::abs(double(candles.light->standardError[i]) - double(lux.light->standardError[i]) * foot) < 1e-4);
    }
    QVERIFY(std::isnan(candles.values()[3]));
    QVERIFY(std::abs(candles.scale.threshold - lux.scale.threshold * foot) < 1e-9);
    QVERIFY(candles.valueText(1).ends_with(" fc"));
    QVERIFY(candles.scale.high >= 2 * candles.scale.threshold);
    // A range and a threshold of the user's own are kept in SI and shown.
    const FieldScale own = candles.scaled(500, std::pair{0.0, 2000.0});
    QVERIFY(std::abs(own.threshold - 500 * foot) < 1e-9 && std::abs(own.high - 2000 * foot) < 1e-9);
    QCOMPARE(rescaled(candles, 500).unit, std::string("fc"));
    QVERIFY(candles.isIn(american) && !candles.isIn({}));
    const SensorField back = inUnits(candles, {});
    for (std::size_t i : {0u, 1u, 2u}) QVERIFY(std::abs(back.values()[i] - lux.values()[i]) < 1e-3f);
    QCOMPARE(back.scale.unit, std::string("lx"));
    QVERIFY(std::abs(back.scale.high - lux.scale.high) < 1e-6);
    // What is no illuminance stays as it is.
    auto factor = std::make_shared<LightResult>(*lux.light);
    factor->kind = StudyKind::DaylightFactor;
    const SensorField share = lightField(lux.sensors, factor, american);
    QCOMPARE(share.scale.unit, std::string("%"));
    QCOMPARE(share.values()[1], 500.0f);
  }
};

QTEST_GUILESS_MAIN(TestUnits)
#include "tst_units.moc"
