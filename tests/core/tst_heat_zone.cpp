// The simple hourly method against what can be worked out otherwise: steady states, a fine integration of the same
// network, limits, and the balance of every hour.

#ifndef Q_MOC_RUN
#include "core/studies/energy/heat_zone.h"
#include <array>
#include <cmath>
#endif
#include <QTest>

using namespace noonward;

namespace {
constexpr std::array everyMass{ThermalMass::VeryLight, ThermalMass::Light, ThermalMass::Medium, ThermalMass::Heavy,
                               ThermalMass::VeryHeavy};
const HeatZone room{20, 18, 12, ThermalMass::Medium}; // m², W/K, W/K

double resistances(const HeatZone& z, double ventilation) { // air to outside, W/K
  const double his = 3.45 * 4.5 * z.floorArea;
  return ventilation + 1 / (1 / his + 1 / (z.windows + z.opaque));
}
/// A day and a year of weather and use, made up.
HeatHour hourOf(int h) {
  HeatHour out;
  const double day = h / 24.0, clock = h % 24;
  out.outdoor = out.supply = 8 - 10 * std::cos(2 * M_PI * (day - 15) / 365) - 4 * std::cos(2 * M_PI * (clock - 3) / 24);
  out.solar = std::max(0.0, std::sin(M_PI * (clock - 6) / 12)) * (600 - 400 * std::cos(2 * M_PI * (day - 10) / 365));
  out.internal = clock >= 8 && clock < 18 ? 240 : 30;
  out.ventilation = clock >= 8 && clock < 18 ? 22 : 6;
  out.heatTo = clock >= 7 && clock < 18 ? 20 : 15;
  out.coolTo = clock >= 7 && clock < 18 ? 26 : 40;
  return out;
}
} // namespace

class TestHeatZone : public QObject {
  Q_OBJECT
private slots:
  void aSteadyRoomNeedsWhatItLoses() {
    for (ThermalMass mass : everyMass)
      for (double ventilation : {0.0, 5.0, 40.0}) {
        HeatZone z = room;
        z.mass = mass;
        const HeatRoom r(z);
        HeatHour h;
        h.outdoor = h.supply = -5;
        h.ventilation = ventilation;
        h.heatTo = 21;
        double mass0 = 10;
        HeatStep s;
        for (int k = 0; k < 20000; ++k) {
          s = r.step(h, mass0);
          mass0 = s.massEnd;
        }
        QVERIFY(std::abs(s.air - 21) < 1e-9);
        QVERIFY2(std::abs(s.need - 26 * resistances(z, ventilation)) < 1e-6 * s.need,
                 qPrintable(QString::number(s.need)));
        QVERIFY(std::abs(s.stored) < 1e-6);
      }
  }

  void withoutGainsAndNeedItTakesTheTemperatureOutdoors() {
    const HeatRoom r(room);
    HeatHour h;
    h.outdoor = h.supply = 12;
    h.ventilation = 10;
    double mass = 30;
    for (int k = 0; k < 5000; ++k) mass = r.step(h, mass).massEnd;
    const HeatStep s = r.step(h, mass);
    QVERIFY(std::abs(s.air - 12) < 1e-9 && std::abs(s.operative - 12) < 1e-9 && s.need == 0);
  }

  void anAdiabaticRoomKeepsAllItIsGiven() {
    const HeatRoom r({20, 0, 0, ThermalMass::Heavy});
    HeatHour h;
    h.internal = 100;
    h.solar = 50;
    double mass = 20;
    for (int k = 0; k < 24; ++k) mass = r.step(h, mass).massEnd;
    QVERIFY2(std::abs((mass - 20) * r.capacity() - 150 * 24 * 3600) < 1e-3 * 150 * 24 * 3600,
             qPrintable(QString::number(mass)));
  }

  void theBalanceOfEveryHourCloses() {
    const HeatRoom r(room);
    double mass = 20, worst = 0;
    for (int k = 0; k < 8760; ++k) {
      const HeatHour h = hourOf(k);
      const HeatStep s = r.step(h, mass);
      worst = std::max(worst, std::abs(h.internal + h.solar + s.need + s.throughWindows + s.throughOpaque +
                                       s.byVentilation - s.stored));
      mass = s.massEnd;
      if (s.need > 0) QVERIFY(std::abs(s.air - h.heatTo) < 1e-9);
      if (s.need < 0) QVERIFY(std::abs(s.air - h.coolTo) < 1e-9);
    }
    QVERIFY2(worst < 1e-8, qPrintable(QString::number(worst)));
  }

  void itAgreesWithAFineIntegrationOfTheSameNetwork() {
    // Nodes air, star (no capacity) and mass; the mass forward in steps of ten seconds; the need held over the hour at
    // what keeps the mean of the air at the set-point, found by itself from the network of that hour.
    const HeatRoom r(room);
    const double am = 2.5 * room.floorArea, atot = 4.5 * room.floorArea, hms = 9.1 * am, his = 3.45 * atot,
                 hem = 1 / (1 / room.opaque - 1 / hms), cm = 165e3 * room.floorArea, hw = room.windows;
    double ours = 20, fine = 20, heating[2]{}, cooling[2]{};
    for (int k = 0; k < 8760; ++k) {
      const HeatHour h = hourOf(k);
      const HeatStep s = r.step(h, ours);
      ours = s.massEnd;
      (s.need > 0 ? heating : cooling)[0] += std::abs(s.need);
      const double half = 0.5 * h.internal + h.solar, toMass = am / atot * half,
                   toStar = half - toMass - hw / (9.1 * atot) * half;
      const auto hour = [&](double need, double& end) { // mean air
        double mass = fine, mean = 0;
        constexpr int steps = 360;
        for (int i = 0; i < steps; ++i) {
          // air: his (star − air) + hve (sup − air) + 0.5 int + need = 0; star: his (air − star) + hw (out − star) +
          // hms (mass − star) + toStar = 0
          const double a = his + h.ventilation, b = h.ventilation * h.supply + 0.5 * h.internal + need;
          const double star = (hw * h.outdoor + hms * mass + toStar + his * b / a) / (his + hw + hms - his * his / a);
          mean += (his * star + b) / a / steps;
          mass += 10 * (hem * (h.outdoor - mass) + hms * (star - mass) + toMass) / cm;
        }
        end = mass;
        return mean;
      };
      double end = 0;
      const double free = hour(0, end);
      double need = 0;
      if (free < h.heatTo || free > h.coolTo) {
        const double set = free < h.heatTo ? h.heatTo : h.coolTo;
        need = 1000 * (set - free) / (hour(1000, end) - free);
        hour(need, end);
      }
      fine = end;
      (need > 0 ? heating : cooling)[1] += std::abs(need);
    }
    QVERIFY2(heating[1] > 1e5 && cooling[1] > 1e4, qPrintable(QString("%1 %2").arg(heating[1]).arg(cooling[1])));
    QVERIFY2(std::abs(heating[0] / heating[1] - 1) < 0.01,
             qPrintable(QString("%1 %2").arg(heating[0]).arg(heating[1])));
    QVERIFY2(std::abs(cooling[0] / cooling[1] - 1) < 0.01,
             qPrintable(QString("%1 %2").arg(cooling[0]).arg(cooling[1])));
  }

  void aPlantHasItsLimit() {
    const HeatRoom r(room);
    HeatHour h;
    h.outdoor = h.supply = -10;
    h.ventilation = 20;
    h.heatTo = 21;
    h.mostHeating = 300;
    const HeatStep s = r.step(h, 10);
    QCOMPARE(s.need, 300.0);
    QVERIFY(s.air < 21);
  }
};

QTEST_APPLESS_MAIN(TestHeatZone)
#include "tst_heat_zone.moc"
