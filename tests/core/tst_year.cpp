// The daylight year: metrics exact, coefficients against the engine hour by hour, beam and blinds by hand, same bits.

#include "core/files/project/project_file.h"
#include "core/files/results/tables.h"
#include "core/sky/sky_bins.h"
#include "core/studies/coefficients.h"
#include "core/studies/hourly_sky.h"
#include "core/studies/light_study.h"
#include "core/studies/year_hours.h"
#include "tests/house.h"
#include <QtTest>
#include <set>

using namespace noonward;

namespace {

using test::demoWeather;
Project house(double spacing = 0.9) {
  return test::houseOfTheYear(spacing);
}

YearResult run(const Project& p, const YearSettings& s, int threads = 0, KeptCoefficients* kept = nullptr) {
  RunControl control;
  const auto in = yearInput(p, {}, s);
  if (!in) qFatal("%s", in.error().text().c_str());
  return runYear(*in, control, Threads{threads}, kept);
}

} // namespace

class TestYear : public QObject {
  Q_OBJECT
private slots:
  void skyBinsFillTheHemisphere() {
    double all = 0, horizontal = 0;
    for (std::size_t b = 0; b < SkyBins::count; ++b) {
      all += SkyBins::solidAngle(b);
      horizontal += SkyBins::solidAngle(b) * SkyBins::mean(b, [](Vec3 d) { return d.z; });
      QCOMPARE(SkyBins::of(SkyBins::middle(b)), b);
    }
    QVERIFY(std::abs(all - 2 * pi) < 1e-9);
    QVERIFY(std::abs(horizontal - pi) < 0.001 * pi);
    QCOMPARE(SkyBins::of({0, 0, 1}), SkyBins::count - 1);
    QCOMPARE(SkyBins::of({0, 1, 0}), std::size_t(0));
    QVERIFY(SkyBins::of({-1e-12, 1, 0}) < 60);
  }

  void clockWindowsFollowSummerTime() {
    const auto copenhagen = Zone::named("Europe/Copenhagen");
    const auto mask = clockMask(*copenhagen, 3600, 2026, 480, 1080);
    QCOMPARE(std::count(mask.begin(), mask.end(), true), 3650);
    const auto day = [&](int month, int date) {
      QStringList on;
      constexpr int before[] = {0, 31, 59, 90, 120, 151, 181, 212, 243, 273, 304, 334};
      for (int h = 0; h < 24; ++h)
        if (mask[std::size_t((before[month - 1] + date - 1) * 24 + h)]) on << QString::number(h + 1);
      return on.first() + "-" + on.last();
    };
    QCOMPARE(day(1, 15), QString("9-18")); // records end at their hour
    QCOMPARE(day(7, 15), QString("8-17"));
    const auto weekdays = clockMask(*copenhagen, 3600, 2026, 480, 1080, true);
    QCOMPARE(std::count(weekdays.begin(), weekdays.end(), true), 2610); // 261 of them in 2026
    const auto plain = clockMask(Zone(), 0, 2026, 480, 1080);
    QCOMPARE(std::count(plain.begin(), plain.end(), true), 3650);
    QVERIFY(!plain[7] && plain[8] && plain[17] && !plain[18]);
  }

  void metricsAreExact() {
    // Ten hours whose figures can be counted on fingers.
    const std::vector<float> e{0, 50, 100, 299, 300, 600, 3000, 3001, NAN, 150};
    const std::vector<bool> all(10, true);
    const SensorYear y = sensorYear(e, all);
    QCOMPARE(y.hours, std::size_t(9));
    QCOMPARE(y.missing, std::size_t(1));
    QVERIFY(std::abs(y.autonomy - 4.0 / 9) < 1e-12);
    QVERIFY(std::abs(y.continuous - (0 + 50 / 300.0 + 100 / 300.0 + 299 / 300.0 + 4 + 0.5) / 9) < 1e-12);
    QVERIFY(std::abs(y.useful[0] - 2.0 / 9) < 1e-12 && std::abs(y.useful[1] - 3.0 / 9) < 1e-12);
    QVERIFY(std::abs(y.useful[2] - 3.0 / 9) < 1e-12 && std::abs(y.useful[3] - 1.0 / 9) < 1e-12); // 300 and 3000 both in
    QVERIFY(std::abs(y.mean - 7500.0 / 9) < 1e-9);
    QCOMPARE(y.median, 299.0);
    QCOMPARE(y.least, 0.0);
    QCOMPARE(y.most, 3001.0);
    std::vector<bool> half(10, false);
    half[3] = half[4] = true;
    QCOMPARE(sensorYear(e, half).autonomy, 0.5);
    QCOMPARE(sensorYear(e, half).median, 299.5);
    QCOMPARE(hoursAtLeast(e, all, 600), std::size_t(3));
    QCOMPARE(sensorYear({}, all).hours, std::size_t(0));
    // A space: sDA counts from exactly half of the hours, ASE from more than 250.
    SensorYear a, b, c;
    a.autonomy = 0.5;
    b.autonomy = 0.49999;
    c.autonomy = 0.9;
    const std::vector<SensorYear> three{a, b, c};
    const std::vector<std::size_t> beam{250, 251, 0};
    const SpaceYear s = spaceYear(three, beam);
    QVERIFY(std::abs(s.sda - 2.0 / 3) < 1e-12 && std::abs(s.ase - 1.0 / 3) < 1e-12);
    // A building by area, not by sensors.
    SpaceYear small, large;
    small.sda = 1;
    large.sda = 0.25;
    const std::vector<SpaceYear> two{small, large};
    const std::vector<double> areas{10, 90};
    QVERIFY(std::abs(buildingYear(two, areas).sda - (0.1 + 0.9 * 0.25)) < 1e-12);
    QCOMPARE(stepsReached(0.40, YearSettings{}.steps), 1);
    QCOMPARE(stepsReached(0.5499, YearSettings{}.steps), 1);
    QCOMPARE(stepsReached(0.55, YearSettings{}.steps), 2);
    QCOMPARE(stepsReached(0.75, YearSettings{}.steps), 3);
    QCOMPARE(stepsReached(0.39999, YearSettings{}.steps), 0);
    // Provision: two sensors, of three daylight hours in one both have 300 lx, in one a half.
    std::vector<float> series(2 * hoursOfYear, 0);
    std::vector<bool> day(hoursOfYear, false);
    day[10] = day[11] = day[12] = true;
    series[10] = series[hoursOfYear + 10] = 300;
    series[11] = 299;
    series[hoursOfYear + 11] = 400;
    QCOMPARE(provisionHours(series, 2, day, {300, 0.5}), 2.0);
    QCOMPARE(provisionHours(series, 2, day, {300, 0.95}), 1.0);
    std::vector<double> diffuse(hoursOfYear, 0);
    for (std::size_t i = 0; i < 5000; ++i) diffuse[i] = double(i);
    const auto most = daylightHours(diffuse);
    QCOMPARE(std::count(most.begin(), most.end(), true), 4380);
    QVERIFY(!most[619] && most[620] && most[4999]);
  }

  void hourlySkiesGiveTheDiffuseIlluminance() {
    const auto sky = hourlySky(house());
    QVERIFY(sky.has_value());
    const HourlySky& s = **sky;
    QVERIFY(s.hours.size() > 4000 && s.hours.size() < 4800);
    for (std::size_t h = 0; h < s.hours.size(); h += 97) {
      double e = 0;
      for (std::size_t b = 0; b < SkyBins::count; ++b) {
        QVERIFY(s.luminance(Eigen::Index(b), Eigen::Index(h)) >= 0);
        e += double(s.luminance(Eigen::Index(b), Eigen::Index(h))) * SkyBins::solidAngle(b) *
             SkyBins::mean(b, [](Vec3 d) { return d.z; });
      }
      QVERIFY2(std::abs(e - s.diffuse[s.hours[h]]) < 1e-3 * e + 1e-3,
               qPrintable(QString("%1 against %2").arg(e).arg(s.diffuse[s.hours[h]])));
    }
    Project none = house();
    none.site.weather = nullptr;
    QVERIFY(!yearInput(none, {}, {}).has_value());
    QVERIFY(!yearInput(house(), {},
                       [] {
                         YearSettings s;
                         s.endMinute = s.beginMinute;
                         return s;
                       }())
                 .has_value());
  }

  void aYearAgreesWithTheEngineHourByHour() {
    // The engine traces single hours by itself, sun disc and all: the year must give the same light, blinds never
    // closed.
    const Project p = house(1.3);
    YearSettings s;
    s.blinds = BlindRule::Never;
    s.keepSeries = true;
    s.error = 0.01; // a few hours of one sensor are noisier than its year
    s.stopFor = StopFor::Nothing;
    const auto in = yearInput(p, {}, s);
    RunControl control;
    const YearResult year = runYear(*in, control);
    const std::size_t n = in->sensors.sensors.size();
    double sumYear = 0, sumEngine = 0;
    std::vector<double> sensorsYear(n), sensorsEngine(n);
    int hours = 0;
    for (std::size_t k = 40; k < in->sky->hours.size(); k += 211) {
      Study study;
      study.kind = StudyKind::Illuminance;
      study.light.error = 0.02;
      SkyChoice& sky = study.light.sky;
      const WeatherHour& w = p.site.weather->hours[in->sky->hours[k]];
      const Vec3 d = in->sky->sun[k];
      sky.kind = SkyKind::Perez;
      sky.directIrradiance = w[WeatherField::DirectNormal];
      sky.diffuseIrradiance = w[WeatherField::DiffuseHorizontal];
      sky.dewPoint = w[WeatherField::DewPoint];
      sky.sunAltitude = std::asin(d.z);
      sky.sunAzimuth = std::atan2(d.x, d.y);
      const auto light = lightInput(p, study, false, p.zone().instant({{2026, w.month, w.day}, 43200}));
      QVERIFY2(light.has_value(), light ? "" : light.error().text().c_str());
      RunControl c;
      const LightResult r = runLight(*light, c);
      for (std::size_t i = 0; i < n; ++i) {
        // The year takes the sun's middle, the engine its disc: hours in which a rim cuts the disc are no comparison.
        bool cut = false;
        const Vec3 x = in->sensors.sensors[i].position, side = normalized(cross(d, {0, 0, 1}));
        for (const Vec3& off : {side, -side, cross(side, d), -cross(side, d)})
          cut = cut || (beamAt(*in->scene, x, {0, 0, 1}, normalized(d + off * sunRadius)).share > 0) !=
                           (beamAt(*in->scene, x, {0, 0, 1}, d).share > 0);
        if (cut) continue;
        sensorsYear[i] += double(year.series[i * hoursOfYear + in->sky->hours[k]]);
        sensorsEngine[i] += double(r.value[i]);
      }
      ++hours;
    }
    QVERIFY(hours > 15);
    double worst = 0;
    QString all;
    for (std::size_t i = 0; i < n; ++i) {
      all += QString("(%1, %2): %3 ")
                 .arg(in->sensors.sensors[i].position.x)
                 .arg(in->sensors.sensors[i].position.y)
                 .arg(sensorsYear[i] / sensorsEngine[i], 0, 'f', 3);
      sumYear += sensorsYear[i];
      sumEngine += sensorsEngine[i];
      worst = std::max(worst, std::abs(sensorsYear[i] / sensorsEngine[i] - 1));
    }
    QVERIFY2(std::abs(sumYear / sumEngine - 1) < 0.03,
             qPrintable(QString("%1 against %2").arg(sumYear).arg(sumEngine)));
    QVERIFY2(worst < 0.08, qPrintable(all)); // a single sensor over a few hours, some reflected sun by the patch
  }

  void beamIsThatOfGeometry() {
    const Project p = house(0.6);
    const auto in = yearInput(p, {}, {});
    const PlacedOpening w = placedOpenings(p).openings.at(0);
    const auto outer = w.corners(0, 3, w.depth), inner = w.corners(0, 3, 0), glass = w.corners(0, 3, w.depth * 2 / 3);
    int lit = 0, dark = 0;
    for (std::size_t h = 0; h < in->sky->hours.size(); h += 37) {
      const Vec3 s = in->sky->sun[h];
      if (!(in->sky->beam[h] > 0)) continue;
      for (std::size_t i = 0; i < in->sensors.sensors.size(); i += 5) {
        const Vec3 x = in->sensors.sensors[i].position;
        // By hand: the ray to the sun passes the opening's inner and outer rim.
        bool through = s.y < 0 && s.z > 0;
        for (const auto& rim : {inner, outer}) {
          const double t = (rim[0].y - x.y) / s.y;
          const Vec3 q = x + s * t;
          const double edge = 2e-3;
          if (std::min({std::abs(q.x - rim[0].x), std::abs(q.x - rim[1].x), std::abs(q.z - rim[0].z),
                        std::abs(q.z - rim[2].z)}) < edge)
            through = false; // too near to tell
          through = through && q.x > std::min(rim[0].x, rim[1].x) && q.x < std::max(rim[0].x, rim[1].x) &&
                    q.z > rim[0].z && q.z < rim[2].z;
        }
        const BeamShare b = beamAt(*in->scene, x, {0, 0, 1}, s);
        if (through) {
          ++lit;
          const GlazingOptics optics(*findGlazing(libraryGlazings(), "Low-emissivity double"));
          QVERIFY2(std::abs(b.share - s.z * optics.straight(-s.y)) < 1e-6,
                   qPrintable(QString("%1 against %2").arg(b.share).arg(s.z * optics.straight(-s.y))));
          QCOMPARE(in->groups[b.group].room, 0);
        } else if (b.share > 0) {
          ++dark;
        }
      }
    }
    QVERIFY(lit > 50);
    QVERIFY(dark < lit / 20); // those too near an edge to tell by hand
    Q_UNUSED(glass);
  }

  void blindsCloseWhenTheRuleSays() {
    const Project p = house(0.9);
    YearSettings s;
    s.keepSeries = true;
    KeptCoefficients kept;
    const auto in = yearInput(p, {}, s);
    const YearResult standard = run(p, s, 0, &kept);
    // Counted again by hand.
    std::size_t closed = 0, first = 0;
    bool found = false;
    for (std::size_t h = 0; h < in->sky->hours.size(); ++h) {
      if (!(in->sky->beam[h] > 0)) continue;
      std::size_t hit = 0;
      for (const Sensor& x : in->sensors.sensors)
        hit += beamAt(*in->scene, x.position, {0, 0, 1}, in->sky->sun[h]).share * double(in->sky->beam[h]) >= 1000;
      if (!(double(hit) > 0.02 * double(in->sensors.sensors.size()))) continue;
      closed += in->mask[in->sky->hours[h]];
      if (!found && hit > 3) {
        found = true;
        first = in->sky->hours[h];
      }
    }
    QVERIFY(found && closed > 100);
    QCOMPARE(standard.closedHours[1], closed);
    s.blinds = BlindRule::Never;
    const YearResult open = run(p, s, 0, &kept);
    QCOMPARE(open.closedHours[1], std::size_t(0));
    QCOMPARE(open.tracing, 0.0);                  // no path again
    QCOMPARE(open.beamHours, standard.beamHours); // ASE is with blinds open
    for (std::size_t i = 0; i < in->sensors.sensors.size(); ++i) {
      QVERIFY(standard.series[i * hoursOfYear + first] < 0.5f * open.series[i * hoursOfYear + first]);
      QVERIFY(standard.sensors[i].mean < open.sensors[i].mean);
    }
    s.blinds = BlindRule::Always;
    const YearResult shut = run(p, s, 0, &kept);
    QVERIFY(shut.building.meanLux < 0.2 * open.building.meanLux);
    QVERIFY(shut.building.meanLux > 0);
    QVERIFY(shut.closedHours[1] > 3000);
    s.fabricDiffuse *= 2; // what comes through fabric grows with it
    const double twice = run(p, s, 0, &kept).building.meanLux / shut.building.meanLux;
    QVERIFY2(std::abs(twice - 2) < 1e-3, qPrintable(QString::number(twice, 'g', 8)));
    s.fabricDiffuse = 0;
    s.fabricDirect = 0;
    QVERIFY(run(p, s, 0, &kept).building.meanLux < 1e-3);
  }

  void blindsByTheClockAndByIrradiance() {
    const Project p = house(1.5);
    YearSettings s;
    s.keepSeries = true;
    s.stopFor = StopFor::Nothing;
    s.error = 0.1;
    KeptCoefficients kept;
    s.blinds = BlindRule::Schedule;
    s.shutFrom = 12 * 60;
    s.shutTo = 14 * 60;
    QCOMPARE(run(p, s, 0, &kept).closedHours[1], std::size_t(730)); // light at noon on every day of this weather
    s.shutTo = s.shutFrom;
    const YearResult open = run(p, s, 0, &kept);
    QCOMPARE(open.closedHours[1], std::size_t(0));
    s.blinds = BlindRule::Irradiance;
    s.closesAtIrradiance = 2000;
    QVERIFY(run(p, s, 0, &kept).series == open.series);
    // A free vertical to the south: beam by its angle, and the sky by the tilted-plane model of 1990 within some per
    // cent.
    s.closesAtIrradiance = 250;
    const auto in = yearInput(p, {}, s);
    const std::size_t closed = run(p, s, 0, &kept).closedHours[1];
    std::size_t certain = 0, possible = 0;
    for (std::size_t h = 0; h < in->sky->hours.size(); ++h) {
      if (!in->mask[in->sky->hours[h]]) continue;
      const double beam = double(in->sky->beamIrradiance[h]) * std::max(0.0, -in->sky->sun[h].y);
      const double horizontal =
          in->sky->diffuse[in->sky->hours[h]] / std::max(1.0, double(in->sky->diffuseEfficacy[h]));
      certain += beam + 0.3 * horizontal >= 250;  // a vertical gets at least this of the sky's light,
      possible += beam + 1.6 * horizontal >= 250; // and with ground and a bright patch before it at most this
    }
    QVERIFY2(closed >= certain && closed <= possible && certain > 500,
             qPrintable(QString("%1 within %2 and %3").arg(closed).arg(certain).arg(possible)));
    s.closesAtIrradiance = 0;
    QVERIFY(run(p, s, 0, &kept).building.meanLux < 0.2 * open.building.meanLux);
  }

  void closedClothIsAnEvenlyShiningPane() {
    // Against a glazing that scatters everything: the same light, since closed shade fabric leaves the pane evenly.
    Project p = house(1.3);
    YearSettings s;
    s.blinds = BlindRule::Always;
    s.fabricDiffuse = 0.4;
    const YearResult shut = run(p, s);
    // An opal pane lets (τ scattered) through of what falls on it, at every angle; the clear pane before the fabric by
    // its angle.
    p.glazings.push_back({"Even", 1, 0, 1, 0, 1, 1, 0, 0, "", false});
    p.windowRules[0].glazing = "Even";
    s.blinds = BlindRule::Never;
    const YearResult even = run(p, s);
    const GlazingOptics clear(*findGlazing(libraryGlazings(), "Low-emissivity double"));
    // Between the transmittance for evenly scattered light and that at normal incidence.
    const double share = shut.building.meanLux / even.building.meanLux / 0.4;
    QVERIFY2(share > 0.55 && share < 0.80, qPrintable(QString::number(share)));
    QVERIFY(clear.straight(1) > share);
  }

  void closedClothThrowsTheRoomsLightBack() {
    // Fabric that reflects R behind any glass gains as much over fabric that reflects nothing as an opal pane of R
    // gains over one of 0: both shine evenly, whatever light falls on them from outside. (The opal pane reflects to the
    // outside too, where the reveal gives a little of it back.)
    Project p = house(1.3);
    YearSettings s;
    s.stopFor = StopFor::Nothing;
    s.setBlinds(BlindRule::Always);
    s.fabricDiffuse = 0.4;
    s.fabricReflectance = 0;
    KeptCoefficients kept;
    const double black = run(p, s, 0, &kept).building.meanLux;
    s.fabricReflectance = 0.7;
    const YearResult pale = run(p, s, 0, &kept);
    QCOMPARE(pale.tracing, 0.0); // the room's own paths are known
    s.fabricReflectance.reset();
    const double asGlass = run(p, s, 0, &kept).building.meanLux;
    QVERIFY(black < asGlass && asGlass < pale.building.meanLux); // glass mirrors some of it
    p.glazings.push_back({"Even", 0.4, 0, 1, 0, 1, 1, 0, 0, "", false});
    p.windowRules[0].glazing = "Even";
    const auto meanFactor = [&](double reflectance) {
      p.glazings.back().reflectance = reflectance;
      Study factor;
      factor.kind = StudyKind::DaylightFactor;
      factor.light.error = 0.024; // of each sensor; their sum is four times surer
      RunControl control;
      const LightResult r = runLight(*lightInput(p, factor), control);
      return std::accumulate(r.value.begin(), r.value.end(), 0.0);
    };
    const double gained = pale.building.meanLux / black, wanted = meanFactor(0.7) / meanFactor(0);
    QVERIFY2(wanted > 1.05 && std::abs(gained / wanted - 1) < 0.01,
             qPrintable(QString("%1 for %2").arg(gained).arg(wanted)));
  }

  void aGroupOfWindowsMayHaveARuleOfItsOwn() {
    Project p = house(1.2);
    WindowRule east = p.windowRules.front();
    east.id = {31};
    east.facings = {Facing::East};
    east.type = "lantern";
    p.windowRules.push_back(east);
    YearSettings s;
    s.stopFor = StopFor::Nothing;
    s.error = 0.1;
    s.keepSeries = true;
    s.setBlinds(BlindRule::Never);
    KeptCoefficients kept;
    const auto facts = yearFacts(p, {}, s);
    QVERIFY(facts.has_value());
    QCOMPARE(facts->groups.size(), std::size_t(3));
    const std::string south = facts->groups[1].key, lantern = facts->groups[2].key;
    QCOMPARE(south, p.rooms[0].id.text() + ", south");
    QCOMPARE(lantern, p.rooms[0].id.text() + ", east, lantern");
    const auto with = [&](std::vector<GroupBlinds> own) {
      YearSettings one = s;
      one.groupBlinds = std::move(own);
      return run(p, one, 0, &kept);
    };
    const YearResult open = with({}), southShut = with({{south, BlindRule::Always}}),
                     lanternShut = with({{lantern, BlindRule::Always}}),
                     bothByName = with({{south, BlindRule::Always}, {lantern, BlindRule::Always}});
    QCOMPARE(open.closedHours, (std::vector<std::size_t>{0, 0, 0}));
    QCOMPARE(southShut.closedHours[2], std::size_t(0));
    QVERIFY(southShut.closedHours[1] > 3000);
    s.blinds = BlindRule::Always;
    QVERIFY(with({}).series == bothByName.series);
    s.blinds = BlindRule::Never;
    // Light by either group adds up: one shut and the other shut are together both open and both shut.
    for (std::size_t i = 0; i < open.series.size(); ++i) {
      const double one = double(southShut.series[i]) + double(lanternShut.series[i]),
                   other = double(open.series[i]) + double(bothByName.series[i]);
      QVERIFY2(std::abs(one - other) <= 1e-4 * other + 1e-3, qPrintable(QString("%1 %2").arg(one).arg(other)));
    }
    // A group that never closes among others that do by the standard.
    s.blinds = BlindRule::Standard;
    const YearResult standard = with({}), southFree = with({{south, BlindRule::Never}});
    QVERIFY(standard.closedHours[1] > 0 && standard.closedHours[2] > 0);
    QCOMPARE(southFree.closedHours[1], std::size_t(0));
    QCOMPARE(southFree.closedHours[2], standard.closedHours[2]); // each is tested alone
    QCOMPARE(southFree.beamHours, standard.beamHours);
    // A group that there is not is told, and a renamed room keeps its rules.
    s.groupBlinds = {{"nobody, south", BlindRule::Never}};
    const auto lost = yearFacts(p, {}, s);
    QVERIFY(std::any_of(lost->findings.begin(), lost->findings.end(), [](const Finding& f) {
      return f.code == "year.blinds-of" && f.text.find("nobody, south") != std::string::npos;
    }));
    p.rooms[0].name = "Another name";
    QCOMPARE(yearFacts(p, {}, s)->groups[1].key, south);
    QCOMPARE(yearFacts(p, {}, s)->groups[1].name, std::string("Another name, south"));
  }

  void sameBitsOnAnyNumberOfThreadsAndKeptOrNot() {
    const Project p = house(0.9);
    YearSettings s;
    s.error = 0.06;
    s.keepSeries = true;
    const YearResult one = run(p, s, 1);
    KeptCoefficients kept;
    for (int threads : {2, 7}) QVERIFY(run(p, s, threads).series == one.series);
    QVERIFY(run(p, s, 0, &kept).series == one.series);
    QVERIFY(run(p, s, 0, &kept).series == one.series); // from what is kept
    s.seed = 2;
    const YearResult other = run(p, s);
    QVERIFY(other.series != one.series);
    const double apart = std::abs(other.building.meanLux - one.building.meanLux);
    QVERIFY2(apart < 4 * std::hypot(one.meanError[0], other.meanError[0]),
             qPrintable(QString("%1, stated %2").arg(apart).arg(one.meanError[0])));
  }

  void stoppedYearsKeepWholeRooms() {
    Project p = house(0.9);
    Room r = p.rooms[0];
    r.id = {2};
    r.name = "Annex";
    r.outline = rectangle(20, 0, 26, 5);
    p.rooms.push_back(r);
    const auto in = yearInput(p, {}, {});
    RunControl control;
    int told = 0;
    const YearResult stopped = runYear(*in, control, {}, nullptr, [&](const YearResult& soFar) {
      ++told;
      if (soFar.end == RunEnd::Finished) qFatal("a part is told as the whole");
      control.wish = Wish::Enough;
    });
    QCOMPARE(stopped.end, RunEnd::Enough);
    QCOMPARE(told, 1);
    QVERIFY(stopped.spaces[0].meanLux > 0);
    QCOMPARE(stopped.building.meanLux,
             stopped.spaces[0].meanLux); // of what is done; nothing counts as dark because it was not reached
    QVERIFY(std::isnan(stopped.relativeError[in->sensors.groups[1].first]));
    RunControl again;
    const YearResult whole = runYear(*in, again);
    QCOMPARE(whole.end, RunEnd::Finished);
    QCOMPARE(whole.spaces[0].meanLux, stopped.spaces[0].meanLux);
    RunControl dropped;
    dropped.wish = Wish::Drop;
    QCOMPARE(runYear(*in, dropped).end, RunEnd::Dropped);
  }

  void darkRoomsAndFreePointsAreCounted() {
    Project dark = house();
    dark.windowRules.clear();
    const YearResult none = run(dark, {});
    QCOMPARE(none.building.sda, 0.0);
    QCOMPARE(none.building.ase, 0.0);
    for (const SensorYear& y : none.sensors) QVERIFY(y.mean == 0 && y.useful[0] == 1);
    // A point in the open: the horizontal illuminance of the weather file.
    Project open;
    open.site = house().site;
    SensorGroup g;
    g.id = {1};
    g.layout = std::vector<PointSensor>{{{0, 0, 0.01}, {0, 0, 1}, ""}};
    open.groups.push_back(g);
    const auto in = yearInput(open, {}, {});
    YearSettings s;
    s.keepSeries = true;
    const YearResult y = run(open, s);
    double expected = 0, got = 0;
    for (std::size_t h = 0; h < in->sky->hours.size(); ++h) {
      expected += in->sky->diffuse[in->sky->hours[h]] + double(in->sky->beam[h]) * std::max(0.0, in->sky->sun[h].z);
      got += double(y.series[in->sky->hours[h]]);
    }
    QVERIFY2(std::abs(got / expected - 1) < 0.01, qPrintable(QString("%1 against %2").arg(got).arg(expected)));
  }

  void settingsAndKeysFollowWhatMatters() {
    Project p = house();
    p.id = ProjectId::fresh();
    Study s;
    s.id = StudyId::fresh();
    s.kind = StudyKind::Year;
    s.name = "Year";
    s.year = {7 * 60,
              19 * 60,
              true,
              {500, 0.6, 900, 200, {100, 300, 3000}},
              BlindRule::Schedule,
              1200,
              0.05,
              200,
              0.4,
              600,
              900,
              0.01,
              0.07,
              0.45,
              {{"r1, south", BlindRule::Never}, {"r2, above, lantern", BlindRule::Always}},
              0.04,
              false,
              0.9,
              StopFor::Provision,
              ProvisionReading::OwnHours,
              0.95,
              {0.5, 0.6, noStep},
              9,
              false};
    p.studies.push_back(s);
    p.site.weather = nullptr;
    p.site.weatherFile.clear();
    const auto back = parseProject(projectText(p, "x.files"), "x", ".");
    QVERIFY2(back.has_value(), back ? "" : back.error().text().c_str());
    QVERIFY(back->project.studies[0].year == s.year);
    QVERIFY(
        !parseProject(
             R"({"format":"noonward-project","version":1,"site":{"latitude":0,"longitude":0},"studies":[{"kind":"year","name":"Y","blinds":"sometimes"}]})",
             "x", ".")
             .has_value());
    QVERIFY(
        !parseProject(
             R"({"format":"noonward-project","version":1,"site":{"latitude":0,"longitude":0},"studies":[{"kind":"year","name":"Y","schedule":["18:00","8:00"]}]})",
             "x", ".")
             .has_value());
    const Project q = house();
    YearSettings a;
    const auto in = yearInput(q, {}, a);
    QCOMPARE(hashYear(q, {}, a).hex(), in->key.hex());
    std::set<std::string> keys{in->key.hex()};
    const auto fresh = [&](const Project& project, const YearSettings& settings) {
      return keys.insert(hashYear(project, {}, settings).hex()).second;
    };
    YearSettings b = a;
    b.blinds = BlindRule::Never;
    QVERIFY(fresh(q, b));
    QCOMPARE(yearInput(q, {}, b)->rays.hex(), in->rays.hex()); // no new rays
    b = a;
    b.groupBlinds = {{"r1, south", BlindRule::Never}};
    QVERIFY(fresh(q, b));
    b.groupBlinds.front().rule = BlindRule::Always;
    QVERIFY(fresh(q, b));
    b = a;
    b.fabricReflectance = 0.5;
    QVERIFY(fresh(q, b));
    b = a;
    b.metrics.threshold = 500;
    QVERIFY(fresh(q, b));
    Project glass = q;
    glass.windowRules[0].glazing = "Clear single";
    QVERIFY(fresh(glass, a));
    QVERIFY(yearInput(glass, {}, a)->rays.hex() != in->rays.hex());
    Project named = q;
    named.rooms[0].name = "Other";
    QVERIFY(!fresh(named, a)); // names are nothing
    const YearResult r = run(q, a);
    QVERIFY(yearCsv(*in, r).starts_with("sensor,x,y,z,nx,ny,nz,autonomy_percent,"));
    QVERIFY(yearSpacesCsv(*in, r).find("Hall,") != std::string::npos);
  }

  void theRunStopsByItselfWhenTheVerdictIsCertain() {
    const Project p = house(0.9);
    YearSettings s;
    s.stopFor = StopFor::Nothing;
    const YearResult all = run(p, s);
    QCOMPARE(all.rounds, 2);
    QVERIFY(!all.certain && all.everySpace);
    s.stopFor = StopFor::Credit;
    s.steps = {0.02, noStep, noStep}; // far from what the room reaches
    s.confidence = 0.999;
    const YearResult sure = run(p, s);
    QVERIFY2(sure.building.sda > 0.1, qPrintable(QString::number(sure.building.sda)));
    QCOMPARE(sure.rounds, 1);
    QVERIFY(sure.certain && sure.certainty >= 0.999);
    QCOMPARE(sure.end, RunEnd::Finished);
    QVERIFY(sure.buildingSdaError > all.buildingSdaError);
    // A step where it stands: no certainty to be had, all paths are traced.
    s.steps[0] = all.building.sda;
    KeptCoefficients kept;
    const YearResult unsure = run(p, s, 0, &kept);
    QCOMPARE(unsure.rounds, 2);
    QVERIFY(!unsure.certain && unsure.certainty < 0.9);
    QCOMPARE(unsure.building.meanLux, all.building.meanLux);
    // What was kept of two rounds gives the one round that another question asks for, bit by bit.
    s.steps[0] = 0.02;
    const YearResult again = run(p, s, 0, &kept);
    QCOMPARE(again.rounds, 1);
    QCOMPARE(again.tracing, 0.0);
    QCOMPARE(again.building.meanLux, sure.building.meanLux);
    // A first round is kept; the second, of a later run, works on surfaces of a scene that nobody else holds any more.
    KeptCoefficients first;
    std::weak_ptr<const LightScene> scene;
    {
      const auto in = yearInput(p, {}, s);
      scene = in->scene;
      RunControl control;
      QCOMPARE(runYear(*in, control, {}, &first).rounds, 1);
    }
    QVERIFY(!scene.expired());
    s.steps[0] = all.building.sda;
    QCOMPARE(run(p, s, 0, &first).building.meanLux, all.building.meanLux);
    QVERIFY(scene.expired()); // both rounds done: let go
  }

  /// Noise in single hours takes from sDA: the default must lie within a point of a run with nine times its paths, and
  /// own to the distance; ASE is exact.
  void sdaIsNearAConvergedRun() {
    Project p = house(0.45);
    YearSettings s;
    s.stopFor = StopFor::Nothing;
    const YearResult usual = run(p, s);
    s.error = 0.01;
    const YearResult converged = run(p, s);
    QVERIFY(usual.sensors.size() > 100);
    const double apart = std::abs(usual.building.sda - converged.building.sda);
    QVERIFY2(apart <= 0.0101, qPrintable(QString("%1 against %2").arg(usual.building.sda).arg(converged.building.sda)));
    QVERIFY(apart <= 2 * std::hypot(usual.buildingSdaError, converged.buildingSdaError));
    QCOMPARE(usual.building.ase, converged.building.ase);
    QVERIFY(std::abs(usual.building.meanLux / converged.building.meanLux - 1) < 0.03);
  }

  void hoursBehindARoomGiveItsFigures() {
    const Project p = house(0.9);
    YearSettings s;
    s.stopFor = StopFor::Nothing;
    const auto in = yearInput(p, {}, s);
    KeptCoefficients kept;
    RunControl control;
    const YearResult r = runYear(*in, control, {}, &kept);
    const auto hours = spaceSeries(*in, 0, r.rounds, kept, control);
    QVERIFY(hours.has_value());
    QCOMPARE(hours->sensors(), r.sensors.size());
    std::size_t worst = 0;
    for (std::size_t i = 0; i < r.sensors.size(); ++i) {
      const SensorYear y = sensorYear({hours->lux.data() + i * hoursOfYear, hoursOfYear}, hours->mask, s.metrics);
      QCOMPARE(y.mean, r.sensors[i].mean);
      QCOMPARE(y.autonomy, r.sensors[i].autonomy);
      QCOMPARE(hoursAtLeast({hours->beam.data() + i * hoursOfYear, hoursOfYear}, hours->mask, s.metrics.beam),
               r.beamHours[i]);
      if (r.beamHours[i] > r.beamHours[worst]) worst = i;
    }
    QCOMPARE(std::size_t(std::count_if(hours->closed[0].begin(), hours->closed[0].end(), [](bool b) { return b; })) >=
                 r.closedHours[1],
             true);
    // Where the beam comes from adds up: by window group, by month and hour, and all of it by day.
    const BeamHours b = beamHours(*hours, s, p.zone(), p.site.weather->utcOffset, p.site.year, worst);
    QCOMPARE(b.all, double(r.beamHours[worst]));
    QCOMPARE(b.byGroup[0], b.all); // one window
    double sum = 0;
    for (const auto& month : b.byMonth)
      for (std::size_t h = 0; h < 24; ++h) {
        sum += month[h];
        if (h < 8 || h >= 18) QCOMPARE(month[h], 0.0);
      }
    QVERIFY(std::abs(sum - b.all) < 1e-6);
    QVERIFY2(QString::fromStdString(beamHoursText(b, *hours, in->groups)).contains("100 % of them through Hall, south"),
             beamHoursText(b, *hours, in->groups).c_str());
    // The beam alone asks for no paths.
    KeptCoefficients none;
    const auto beamOnly = spaceSeries(*in, 0, 0, none, control);
    QVERIFY(beamOnly->beam == hours->beam && none.spaces[0].batches.empty());
  }

  void readingsSayWhatTheyChange() {
    const Project p = house(0.9);
    YearSettings s;
    const auto in = yearInput(p, {}, s);
    KeptCoefficients kept;
    RunControl control;
    const YearResult r = runYear(*in, control, {}, &kept);
    const std::size_t before = kept.spaces[0].batches.size();
    const auto list = contestedReadings(p, *in, r.rounds, kept, control);
    QCOMPARE(kept.spaces[0].batches.size(), before); // from the same rays
    QCOMPARE(list[0].building.sda, r.building.sda);
    const auto of = [&](const char* name) {
      const auto at = std::find_if(list.begin(), list.end(), [&](const Reading& x) { return x.name == name; });
      if (at == list.end()) qFatal("no reading %s", name);
      return *at;
    };
    QVERIFY(of("Blinds never close").building.meanLux > r.building.meanLux);
    QVERIFY(of("Blinds always closed").building.meanLux < 0.3 * r.building.meanLux);
    QCOMPARE(of("Blinds never close").building.ase, r.building.ase);
    // A tenth less light is a tenth less where blinds stay as they were, and a study of its own says the same.
    s.glassKept = 0.9;
    QCOMPARE(run(p, s).building.sda, of("Frames and dirt 10 %").building.sda);
    s.blinds = BlindRule::Never;
    YearSettings full = s;
    full.glassKept = 1;
    QVERIFY(std::abs(run(p, s).building.meanLux / run(p, full).building.meanLux - 0.9) < 1e-4);
    s = {};
    s.clockChanges = false;
    QCOMPARE(run(p, s).building.ase, of("No summer time").building.ase);
    QVERIFY(std::none_of(list.begin(), list.end(), [](const Reading& x) {
      return x.name == "Blinds by the standard" || x.name == "Trees bare";
    })); // it is the study; there are none
    // A hedge before the window: without it there is the light of the house alone.
    Project planted = p;
    Element hedge;
    hedge.id = {50};
    hedge.role = Role::Planting;
    hedge.shape = Mass{rectangle(-3, -4, 10, -3), 0, 3, 1};
    planted.elements.push_back(std::make_shared<const Element>(hedge));
    const auto behind = yearInput(planted, {}, {});
    KeptCoefficients own;
    const YearResult dim = runYear(*behind, control, {}, &own);
    const auto contested = contestedReadings(planted, *behind, dim.rounds, own, control);
    QCOMPARE(contested.back().name, std::string("Trees bare"));
    QVERIFY(contested.back().building.meanLux > 1.1 * dim.building.meanLux);
    QVERIFY(std::abs(contested.back().building.meanLux / r.building.meanLux - 1) < 0.05);
  }
};

QTEST_APPLESS_MAIN(TestYear)
#include "tst_year.moc"
