// Exact and stepped sun hours against closed forms and dense sampling; threads, stops, keys, probe.

#ifndef Q_MOC_RUN
#include "core/model/form/edit.h"
#include "core/studies/probe.h"
#include "core/studies/sun_hours.h"
#include <QtTest>
#include <cmath>
#include <random>
#endif

using namespace noonward;

namespace {

Project site(double latitude, double north = 0) {
  Project p;
  p.site.place = {radians(latitude), radians(12.5), 0};
  p.site.zone = "UTC+01:00";
  p.site.northAngle = north;
  return p;
}
ElementId build(Project& p, Outline o, double height, double base = 0) {
  Element e;
  e.id = {p.elements.size() + 1};
  e.name = "box " + std::to_string(p.elements.size() + 1);
  e.shape = Mass{std::move(o), base, height, 1};
  p = withElement(std::move(p), e);
  return e.id;
}
void points(Project& p, std::vector<PointSensor> list) {
  SensorGroup g;
  g.id = {p.groups.size() + 1};
  g.name = "points";
  g.layout = std::move(list);
  p.groups.push_back(std::move(g));
}
SunHoursSettings day(Date d) {
  SunHoursSettings s;
  s.dates = {d};
  s.sunriseToSunset = true;
  return s;
}
SunHoursResult run(const Project& p, const SunHoursSettings& s, Threads threads = {}) {
  const auto in = sunHoursInput(p, {}, s);
  if (!in) qFatal("%s", in.error().text().c_str());
  RunControl control;
  return runSunHours(*in, control, threads);
}
/// A town that differs by seed, with holes, gaps and overhangs.
Project town(unsigned seed, double latitude) {
  std::mt19937 random(seed);
  const auto u = [&](double a, double b) { return a + (b - a) * random() / 4294967296.0; };
  Project p = site(latitude, u(-1, 1));
  for (int i = 0; i < 25; ++i) {
    const double x = u(-80, 80), y = u(-80, 80), w = u(2, 22), d = u(2, 22);
    if (std::hypot(x + w / 2, y + d / 2) < 18) continue;
    build(p, rectangle(x, y, x + w, y + d), u(2, 35), i % 5 == 0 ? u(2, 8) : 0);
  }
  std::vector<PointSensor> list;
  for (int i = 0; i < 24; ++i) {
    const Vec3 n = i % 3 == 0 ? Vec3{0, 0, 1} : normalized(Vec3{u(-1, 1), u(-1, 1), u(-0.2, 0.5)});
    list.push_back({{u(-9, 9), u(-9, 9), u(0, 3)}, n, ""});
  }
  points(p, list);
  return p;
}

} // namespace

class TestSunHours : public QObject {
  Q_OBJECT
private slots:
  void aPointOnAWallSeesItsSun_data() {
    QTest::addColumn<double>("far");
    for (double far : {0.0, 100.0, 1000.0, 4000.0}) QTest::addRow("%g m from the origin", far) << far;
  }
  void aPointOnAWallSeesItsSun() { // given on the surface itself, as models have it; not a millimetre in front of it
    QFETCH(double, far);
    Project p = site(55.6);
    const Vec2 along{std::cos(0.3), std::sin(0.3)}, out{along.y, -along.x},
        corner{far, far}; // a wall that no axis follows
    Outline o;
    for (const auto& [u, v] : {std::pair{0.0, 0.0}, {10.0, 0.0}, {10.0, -8.0}, {0.0, -8.0}})
      o.outer.push_back(corner + along * u + out * v);
    build(p, o, 12);
    const Vec2 at = corner + along * 3.7, off = at + out * 0.002;
    points(p, {{{at.x, at.y, 6}, {out.x, out.y, 0}, ""}, {{off.x, off.y, 6}, {out.x, out.y, 0}, ""}});
    SunHoursSettings s = day({2026, 4, 10});
    const SunHoursResult r = run(p, s);
    QVERIFY(r.hours[0] > 8);
    QVERIFY(std::abs(r.hours[0] - r.hours[1]) * 3600 < 1);
    s.counting = Counting::Stepped;
    s.stepMinutes = 1;
    const SunHoursResult stepped = run(p, s);
    QVERIFY2(std::abs(stepped.hours[0] - r.hours[0]) < 2.5 / 60,
             qPrintable(QString("%1 of %2 h").arg(stepped.hours[0]).arg(r.hours[0])));
  }

  void aWallOfTinyTrianglesHidesAsALargeOneDoes() { // 0.4 mm each, seen from 100 m: what counts is how their plane lies
    const auto hidden = [](int cells) {
      Project p = site(55.6);
      points(p, {{{0, 0, 0}, {0, 0, 1}, ""}});
      const SunHoursSettings s = day({2026, 6, 21});
      const auto in = sunHoursInput(p, {}, s);
      const SunWindow w = sunWindows(*in)[0];
      const Vec3 d = w.path.direction(43200), right = normalized(cross(d, Vec3{0, 0, 1})), up = cross(right, d),
                 middle = d * 100;
      auto mesh = std::make_shared<Mesh>();
      for (int i = 0; i <= cells; ++i)
        for (int k = 0; k <= cells; ++k)
          mesh->points.push_back(middle + right * (0.02 * (double(i) / cells - 0.5)) +
                                 up * (0.02 * (double(k) / cells - 0.5)));
      const auto at = [&](int i, int k) { return std::uint32_t(i * (cells + 1) + k); };
      for (int i = 0; i < cells; ++i)
        for (int k = 0; k < cells; ++k) {
          mesh->triangles.push_back({at(i, k), at(i + 1, k), at(i + 1, k + 1)});
          mesh->triangles.push_back({at(i, k), at(i + 1, k + 1), at(i, k + 1)});
        }
      Imported i;
      i.content = digestOf(*mesh);
      i.mesh = std::move(mesh);
      Element e;
      e.id = {90};
      e.shape = std::move(i);
      const double whole = double(run(p, s).hours[0]);
      p = withElement(std::move(p), e);
      return 3600 * (whole - double(run(p, s).hours[0]));
    };
    const double by1 = hidden(1), by50 = hidden(50);
    QVERIFY2(by1 > 1 && std::abs(by1 - by50) < 0.2,
             qPrintable(QString("%1 s by 2 triangles, %2 s by 5000").arg(by1).arg(by50)));
  }

  void freeGroundHasTheWholeDay() {
    Project p = site(55.6);
    points(p, {{{0, 0, 0}, {0, 0, 1}, "a"}});
    const SunHoursResult r = run(p, day({2026, 3, 21}));
    QVERIFY(std::abs(double(r.hours[0]) - r.possible) < 1e-5);
    QVERIFY(std::abs(r.possible - 12.0) < 0.15);
    QCOMPARE(r.hours[0], r.longest[0]);
  }

  void exactAgreesWithDenseSampling_data() {
    QTest::addColumn<double>("latitude");
    QTest::addColumn<QDate>("date");
    QTest::newRow("north, spring") << 55.6 << QDate(2026, 3, 21);
    QTest::newRow("north, winter") << 55.6 << QDate(2026, 12, 21);
    QTest::newRow("south, winter") << -36.9 << QDate(2026, 6, 21);
    QTest::newRow("equator") << 1.0 << QDate(2026, 9, 23);
    QTest::newRow("high latitude, sun all day") << 69.6 << QDate(2026, 6, 21);
  }
  void exactAgreesWithDenseSampling() {
    // Every second of the day by a ray of its own: what exact crossing must reproduce.
    QFETCH(double, latitude);
    QFETCH(QDate, date);
    for (unsigned seed = 1; seed <= 2; ++seed) {
      const Project p = town(seed, latitude);
      const auto in = sunHoursInput(p, {}, day({date.year(), date.month(), date.day()}));
      QVERIFY(in.has_value());
      const auto windows = sunWindows(*in);
      for (std::size_t i = 0; i < in->sensors.sensors.size(); i += 5) {
        const Sensor& s = in->sensors.sensors[i];
        const Intervals sun = sunAt(in->scene, s.position, s.normalVector(), windows[0]);
        std::size_t wrong = 0, k = 0;
        for (double t = 0.5; t < 86400; t += 2) {
          const Vec3 d = windows[0].path.direction(t);
          const bool lit = d.z > 0 && dot(d, s.normalVector()) > 0 && !in->scene.hidden(s.position, d);
          while (k < sun.size() && sun[k].end < t) ++k;
          const bool exact = k < sun.size() && sun[k].begin <= t;
          // Within a second of a crossing the two may differ: the ray is float32.
          const bool near = (k < sun.size() && (std::abs(sun[k].begin - t) < 1.5 || std::abs(sun[k].end - t) < 1.5)) ||
                            (k > 0 && std::abs(sun[k - 1].end - t) < 1.5);
          wrong += lit != exact && !near;
        }
        QVERIFY2(wrong <= 1, qPrintable(QString("seed %1 sensor %2: %3 samples differ").arg(seed).arg(i).arg(wrong)));
      }
    }
  }

  void thinPolesAreNeverMissed_data() {
    QTest::addColumn<double>("width");
    for (double w : {0.1, 0.02, 0.002}) QTest::addRow("%g m at 50 m", w) << w;
  }
  void thinPolesAreNeverMissed() {
    // 2 mm at 50 m hides the sun's centre for about half a second: five times the shortest stretch that is told apart.
    QFETCH(double, width);
    Project p = site(55.6);
    build(p, rectangle(-width / 2, -50 - width / 2, width / 2, -50 + width / 2), 80);
    points(p, {{{0, 0, 0}, {0, 0, 1}, "a"}});
    const SunHoursResult r = run(p, day({2026, 3, 21}));
    const double gap = (r.possible - double(r.hours[0])) * 3600;
    const auto in = sunHoursInput(p, {}, day({2026, 3, 21}));
    const auto stretches = sunStretches(*in, 0);
    QCOMPARE(stretches[0].second.size(), std::size_t(2));
    const double exact = stretches[0].second[1].begin - stretches[0].second[0].end;
    // While hidden the sun's azimuth turns by the angle that the pole fills.
    const SunPath& path = sunWindows(*in)[0].path;
    const double t = stretches[0].second[0].end;
    const Vec3 a = path.direction(t), b = path.direction(t + exact);
    const double turned = std::abs(std::atan2(a.x, -a.y) - std::atan2(b.x, -b.y));
    QVERIFY(std::abs(turned - 2 * std::atan(width / 2 / (50 - width / 2))) < 1e-6);
    QVERIFY(std::abs(gap - exact) < 0.02 + 0.001 * gap);
  }

  void steppedCountsSamplesAsAsked() {
    Project p = site(55.6);
    points(p, {{{0, 0, 0}, {0, 0, 1}, "a"}});
    SunHoursSettings s = day({2026, 6, 21});
    s.sunriseToSunset = false;
    s.season.beginMinute = 9 * 60;
    s.season.endMinute = 15 * 60;
    s.counting = Counting::Stepped;
    const auto in = sunHoursInput(p, {}, s);
    std::vector<Intervals> clock;
    const auto windows = sunWindows(*in, &clock);
    QCOMPARE(sampleWindows(windows, clock, 600, false).samples.size(), std::size_t(36));
    const auto ends = sampleWindows(windows, clock, 600, true);
    QCOMPARE(ends.samples.size(), std::size_t(37));
    QCOMPARE(ends.samples.front().weight, 300.0); // half weight at both ends
    QCOMPARE(ends.samples.back().weight, 300.0);
    QCOMPARE(run(p, s).hours[0], 6.0f);
    s.sample = StepSample::Ends;
    QCOMPARE(run(p, s).hours[0], 6.0f);
  }

  void steppedTendsToExact() {
    const Project p = town(3, 55.6);
    SunHoursSettings s = day({2026, 3, 21});
    const SunHoursResult exact = run(p, s);
    s.counting = Counting::Stepped;
    s.stepMinutes = 1;
    const SunHoursResult fine = run(p, s);
    for (std::size_t i = 0; i < exact.hours.size(); ++i)
      QVERIFY2(std::abs(exact.hours[i] - fine.hours[i]) < 0.1f,
               qPrintable(QString("%1: %2 against %3").arg(i).arg(exact.hours[i]).arg(fine.hours[i])));
  }

  void sameBitsOnAnyNumberOfThreads() {
    for (const Counting c : {Counting::Exact, Counting::Stepped}) {
      const Project p = town(5, 48);
      SunHoursSettings s = day({2026, 4, 11});
      s.counting = c;
      const SunHoursResult one = run(p, s, {1});
      for (int n : {2, 7}) {
        const SunHoursResult more = run(p, s, {n});
        QCOMPARE(more.hours, one.hours);
        QCOMPARE(more.longest, one.longest);
        QVERIFY(std::equal(one.first.begin(), one.first.end(), more.first.begin(),
                           [](float a, float b) { return a == b || (std::isnan(a) && std::isnan(b)); }));
      }
    }
  }

  void windowsAcrossTheClockChange() {
    Project p = site(55.6);
    p.site.zone = "Europe/Copenhagen";
    points(p, {{{0, 0, 0}, {0, 0, 1}, "a"}});
    SunHoursSettings s = day({2026, 3, 29});
    s.sunriseToSunset = false;
    s.season.beginMinute = 60;
    s.season.endMinute = 12 * 60;
    const auto in = sunHoursInput(p, {}, s);
    std::vector<Intervals> clock;
    sunWindows(*in, &clock);
    QCOMPARE(clock[0][0].length(), 10 * 3600.0); // 1:00 to 12:00 holds ten hours that day
    s.dates = {{2026, 10, 25}};
    const auto autumn = sunHoursInput(p, {}, s);
    clock.clear();
    sunWindows(*autumn, &clock);
    QCOMPARE(clock[0][0].length(), 12 * 3600.0);
  }

  void seasonsCrossNewYear() {
    Season winter;
    winter.fromMonth = 11;
    winter.fromDay = 15;
    winter.toMonth = 2;
    winter.toDay = 10;
    const auto dates = datesOf(winter, 2026);
    QCOMPARE(dates.size(), std::size_t(41 + 16 + 31));
    QCOMPARE(dates.front(), (Date{2026, 1, 1}));
    QVERIFY(holds(winter, {2026, 12, 31}) && !holds(winter, {2026, 6, 1}));
    Project p = site(55.6);
    points(p, {{{0, 0, 0}, {0, 0, 1}, "a"}});
    SunHoursSettings s;
    s.season = winter;
    const SunHoursResult r = run(p, s);
    QVERIFY(r.hours[0] > 500 && r.hours[0] < 800);
    QVERIFY(std::isnan(r.first[0])); // several dates have no one first sun
    QVERIFY(r.longest[0] < 10.0f);
  }

  void polarNightHasNoSun() {
    Project p = site(69.6);
    points(p, {{{0, 0, 0}, {0, 0, 1}, "a"}});
    const SunHoursResult r = run(p, day({2026, 12, 21}));
    QCOMPARE(r.hours[0], 0.0f);
    QVERIFY(std::isnan(r.first[0]));
    QCOMPARE(run(p, day({2026, 6, 21})).hours[0], 24.0f);
  }

  void leastAltitudeAndRefraction() {
    Project p = site(55.6);
    points(p, {{{0, 0, 0}, {0, 0, 1}, "a"}});
    SunHoursSettings s = day({2026, 3, 21});
    const double all = double(run(p, s).hours[0]);
    s.minAltitude = radians(6);
    const double above = double(run(p, s).hours[0]);
    s.altitudeKind = AltitudeKind::Apparent;
    const double apparent = double(run(p, s).hours[0]);
    QVERIFY(all > apparent && apparent > above); // refraction lifts the sun over the limit earlier
    QVERIFY((all - above) > 1.3 && (all - above) < 1.6);
  }

  void surfacesSeeOnlyTheirSide() {
    Project p = site(55.6);
    points(p, {{{0, 0, 1}, {0, 1, 0}, "north"}, {{0, 0, 1}, {0, -1, 0}, "south"}});
    const SunHoursResult r = run(p, day({2026, 3, 20}));
    QVERIFY(r.hours[0] < 0.2f);
    QVERIFY(r.hours[1] > 11.8f);
  }

  void northTurnsTheSky() {
    // The same box, once turned by the drawing's north, once by hand.
    Project a = site(50, radians(30)), b = site(50);
    build(a, rectangle(-5, -15, 5, -8), 10);
    Outline turned = rectangle(-5, -15, 5, -8);
    for (Vec2& q : turned.outer) { // drawing axes to true axes: clockwise by 30°
      const double c = std::cos(radians(-30)), s = std::sin(radians(-30));
      q = {q.x * c - q.y * s, q.x * s + q.y * c};
    }
    build(b, turned, 10);
    for (Project* p : {&a, &b}) points(*p, {{{0, 0, 0}, {0, 0, 1}, "p"}});
    QVERIFY(std::abs(run(a, day({2026, 3, 21})).hours[0] - run(b, day({2026, 3, 21})).hours[0]) < 1e-4f);
  }

  void stoppedRunsKeepWhatIsWholeAndCanBeRunAgain() {
    const Project p = [] {
      Project q = town(7, 55.6);
      SensorGroup g;
      g.id = {77};
      g.name = "grid";
      GroundArea area;
      area.outline = rectangle(-40, -40, 40, 40);
      area.spacing = 1;
      g.layout = area;
      q.groups.push_back(g);
      return q;
    }();
    const auto in = sunHoursInput(p, {}, day({2026, 3, 21}));
    RunControl whole;
    const SunHoursResult all = runSunHours(*in, whole);
    QCOMPARE(all.end, RunEnd::Finished);
    for (double share : {0.1, 0.35, 0.8}) {
      for (Wish wish : {Wish::Enough, Wish::Drop}) {
        RunControl control;
        control.progress = [&](double s) {
          if (s > share) control.wish = wish;
        };
        const SunHoursResult part = runSunHours(*in, control);
        QCOMPARE(part.end, wish == Wish::Enough ? RunEnd::Enough : RunEnd::Dropped);
        std::size_t done = 0;
        for (std::size_t i = 0; i < part.hours.size(); ++i)
          if (!std::isnan(part.hours[i])) {
            ++done;
            QCOMPARE(part.hours[i], all.hours[i]);
          }
        QVERIFY(done > 0 && done < part.hours.size());
      }
    }
    RunControl again;
    QCOMPARE(runSunHours(*in, again).hours, all.hours);
  }

  void keysFollowWhatMattersAndNothingElse() {
    Project p = town(2, 55.6);
    const SunHoursSettings s = day({2026, 3, 21});
    const Digest key = hashSunHours(p, {}, s);
    const auto changed = [&](auto&& edit) {
      Project q = p;
      edit(q);
      return hashSunHours(q, {}, s) != key;
    };
    QVERIFY(changed([](Project& q) { q.site.place.latitude += 0.01; }));
    QVERIFY(changed([](Project& q) { q.site.place.longitude += 0.01; }));
    QVERIFY(changed([](Project& q) { q.site.northAngle += 0.01; }));
    QVERIFY(changed([](Project& q) { q.site.zone = "UTC+02:00"; }));
    QVERIFY(changed([](Project& q) { q = withEdited(q, {q.elements[3]->id}, [](Element& e) { setHeight(e, 50); }); }));
    QVERIFY(changed([](Project& q) { q = withEdited(q, {q.elements[3]->id}, [](Element& e) { e.counted = false; }); }));
    QVERIFY(changed([](Project& q) { std::get<std::vector<PointSensor>>(q.groups[0].layout)[0].position.x += 0.1; }));
    QVERIFY(!changed([](Project& q) { q.name = "another name"; }));
    QVERIFY(!changed([](Project& q) { q.site.weatherFile = "x.epw"; }));
    QVERIFY(!changed([](Project& q) { q.groups[0].name = "renamed"; }));
    QVERIFY(!changed([](Project& q) {
      q = withEdited(q, {q.elements[3]->id}, [](Element& e) {
        e.hidden = true;
        e.name = "x";
      });
    }));
    SunHoursSettings t = s;
    t.stepMinutes = 5; // means nothing while counting exactly
    QVERIFY(hashSunHours(p, {}, t) == key);
    t.counting = Counting::Stepped;
    QVERIFY(hashSunHours(p, {}, t) != key);
    QVERIFY(hashSunHours(p, {}, s, true) == key); // nothing is proposed: before and after are one question
  }

  void senselessSettingsAreRefused() {
    Project p = town(1, 55.6);
    SunHoursSettings s;
    s.dates = {{2026, 3, 21}};
    s.season.beginMinute = 900;
    s.season.endMinute = 600;
    QVERIFY(!sunHoursInput(p, {}, s));
    s = day({2026, 3, 21});
    s.minAltitude = -1;
    QVERIFY(!sunHoursInput(p, {}, s));
    p.groups.clear();
    const auto none = sunHoursInput(p, {}, day({2026, 3, 21}));
    QVERIFY(!none && none.error().message.find("no sensors") != std::string::npos);
    Project bad = town(1, 55.6);
    bad.site.zone = "Nowhere";
    QVERIFY(!sunHoursInput(bad, {}, day({2026, 3, 21})));
    build(bad, rectangle(0, 0, 1, 1), 0);
    bad.site.zone = "UTC";
    QVERIFY(!sunHoursInput(bad, {}, day({2026, 3, 21}))); // a mass without height stops a study
  }

  void gridsAreLaidOut() {
    Project p = site(50);
    const ElementId box = build(p, rectangle(0, 0, 10, 8), 6);
    const auto lay = [&](SensorLayout layout) {
      SensorGroup g;
      g.id = {9};
      g.name = "g";
      g.layout = std::move(layout);
      p.groups = {g};
      return layOutSensors(p);
    };
    GroundArea area;
    area.outline = rectangle(-5, -5, 15, 13);
    area.spacing = 1;
    const auto ground = lay(area);
    QCOMPARE(ground->sensors.size(), std::size_t(20 * 18 - 80)); // none inside the mass
    QVERIFY(!ground->findings.empty());
    const auto around = lay(GroundAround{{box}, 5, 0, 1});
    QCOMPARE(around->sensors.size(), ground->sensors.size());
    const auto walls = lay(FaceGrid{{{box, {}}}, true, true, 1});
    QCOMPARE(walls->sensors.size(), std::size_t(2 * 60 + 2 * 48 + 80));
    const auto wall = lay(FaceGrid{{{box, 3u}}, true, false, 2});
    QCOMPARE(wall->sensors.size(), std::size_t(4 * 3)); // 8 m × 6 m by 2 m
    for (const Sensor& s : wall->sensors) QVERIFY(std::abs(s.position.x - 10.002) < 1e-9);
    area.spacing = 0.0001;
    QVERIFY(!lay(area));
    area.spacing = 0.02;
    SensorGroup dense;
    dense.id = {10};
    dense.name = "dense";
    dense.layout = area;
    p.groups = {dense};
    QVERIFY(!layOutSensors(p, {}, 1000)); // more than the limit
    const auto gone = lay(FaceGrid{{{ElementId{999}, {}}}, true, false, 1});
    QVERIFY(gone && gone->sensors.empty() && gone->findings.size() == 2);
  }

  void probeAgreesWithStudyAndGeometry() {
    Project p = site(55.6);
    build(p, rectangle(-200, 20, 200, 30), 15); // an endless wall to the north
    build(p, rectangle(20, -200, 30, 19), 20);  // and one to the east
    const Scene scene = buildScene(p);
    const ProbeResult r = probe(scene, {{0, 0, 0}, {0, 0, 1}, p.site.place, p.zone(), 0, 2026});
    QVERIFY(std::abs(degrees(r.skyline[0].altitude) - degrees(std::atan(15.0 / 20))) < 0.02);
    QVERIFY(std::abs(degrees(r.skyline[180].altitude) - degrees(std::atan(20.0 / 20))) < 0.02); // due east
    QCOMPARE(r.skyline[180].element, std::uint64_t(2));
    QCOMPARE(r.skyline[360].altitude, 0.0);
    points(p, {{{0, 0, 0}, {0, 0, 1}, "a"}});
    for (Date d : {Date{2026, 3, 21}, Date{2026, 6, 21}, Date{2026, 12, 21}}) {
      const double exact = double(run(p, day(d)).hours[0]);
      const Instant midnight = p.zone().instant({d, 0});
      double counted = 0;
      for (int k = 0; k < 288; ++k) counted += r.at(midnight + k * 300.0 + 150) == ProbeState::Sun ? 1 / 12.0 : 0;
      QVERIFY2(std::abs(counted - exact) < 0.1, qPrintable(QString("%1 against %2").arg(counted).arg(exact)));
    }
    QVERIFY(r.seconds < 5); // far from the target on purpose: speed never decides a test
  }

  void layersGiveTheSameSceneAsOne() {
    const Project p = town(4, 55.6);
    const Scene whole = buildScene(p), parts = buildScene(p, {true, {p.elements[2]->id, p.elements[5]->id}});
    QCOMPARE(parts.layers.size(), std::size_t(2));
    QCOMPARE(parts.triangleCount(), whole.triangleCount());
    std::mt19937 random(1);
    for (int i = 0; i < 3000; ++i) {
      const double a = random() / 4294967296.0 * 2 * pi, z = random() / 4294967296.0;
      const Vec3 d = normalized({std::cos(a), std::sin(a), z});
      QCOMPARE(parts.hidden({0, 0, 1}, d), whole.hidden({0, 0, 1}, d));
      QCOMPARE(parts.firstHit({0, 0, 1}, d).element, whole.firstHit({0, 0, 1}, d).element);
    }
    const Scene moved = buildScene(withEdited(p, {p.elements[2]->id},
                                              [](Element& e) {
                                                moveElement(e, {1, 0, 0});
                                              }),
                                   {true, {p.elements[2]->id, p.elements[5]->id}}, &parts);
    QVERIFY(moved.layers[0] == parts.layers[0]); // what stands still is taken over
    QVERIFY(moved.layers[1] != parts.layers[1]);
  }
};

QTEST_GUILESS_MAIN(TestSunHours)
#include "tst_sun_hours.moc"
