// The year of glare: hours as sums against fresh pictures, blinds, causes, stopping, the same bits, the store, bad
// input.

#ifndef Q_MOC_RUN
#include "core/files/results/glare_files.h"
#include "core/files/results/result_store.h"
#include "core/model/light_model.h"
#include "core/studies/coefficients.h"
#include "core/studies/fisheye.h"
#include "core/studies/glare_year.h"
#include "core/studies/year_hours.h"
#include "core/studies/year_space.h"
#include "core/sun/sun_path.h"
#include "tests/house.h"
#endif
#include <QTemporaryDir>
#include <QTest>

using namespace noonward;
using namespace noonward::test;

namespace {

/// The house with a window to the south, the demo's weather, and an eye that looks the ways given (true degrees).
Project withEyes(std::vector<double> azimuths) {
  Project p = houseOfTheYear(0);
  SensorGroup g;
  g.id = {70};
  g.name = "Desk";
  g.eyes = true;
  std::vector<PointSensor> list;
  for (double a : azimuths)
    list.push_back({{3.5, 2.2, 1.2}, skyDirection(0, radians(a), p.site.northAngle), fmt::format("Looks {:g}", a)});
  g.layout = std::move(list);
  p.groups.push_back(g);
  return p;
}

Study glareStudy() {
  Study s;
  s.id = {90};
  s.kind = StudyKind::Glare;
  s.name = "Glare";
  s.year.error = 0.05;
  s.year.blinds = BlindRule::Never;
  return s;
}

LightResult ran(const Project& p, const Study& s, int threads = 0) {
  const auto in = lightInput(p, s);
  if (!in) throw std::runtime_error(in.error().text());
  RunControl control;
  return runLight(*in, control, {threads});
}

} // namespace

class TestGlareYear : public QObject {
  Q_OBJECT
private slots:
  void hoursAreThoseOfFreshPictures() {
    const Project p = withEyes({180, 90, 225});
    const LightResult r = ran(p, glareStudy());
    QVERIFY(r.glare && r.glare->hours.size() > 3000);
    const auto& list = std::get<std::vector<PointSensor>>(p.groups.back().layout);
    int compared = 0, sunny = 0;
    double worst = 0, sum = 0;
    QString at;
    for (std::size_t k = 37; k < r.glare->hours.size() && compared < 51; k += 61) {
      const std::size_t eye = std::size_t(compared) % 3;
      const std::string stamp = recordMoment(p, r.glare->hours[k]);
      const auto moment = stampFromText(stamp);
      QVERIFY(moment);
      // In the hours of sunrise and sunset the year's sun stands in the middle of the part with the sun up.
      const Instant middle = p.zone().instant(moment->time);
      const SunKnots knots = SunKnots::ofYear(p.site.year);
      const auto up = [&](double s) { return solarPosition(knots.at(middle + s), p.site.place).altitude > 0; };
      if (up(-1800) != up(1800)) continue;
      FisheyeSettings s;
      s.eye = list[eye].position;
      s.azimuth = radians(std::array{180.0, 90.0, 225.0}[eye]);
      s.pixels = 96;
      s.error = 0.2;
      SkyChoice sky;
      sky.kind = SkyKind::Weather;
      RunControl control;
      const auto f = fisheye(p, s, sky, middle, control);
      QVERIFY2(f, f ? "" : f.error().text().c_str());
      const double off = r.glare->dgpAt(eye, k) - f->glare.dgp;
      sunny += f->sun.has_value();
      sum += off;
      ++compared;
      if (std::abs(off) > std::abs(worst)) {
        worst = off;
        at = QString("%1: %2 of the sums, %3 of the picture")
                 .arg(QString::fromStdString(stamp))
                 .arg(r.glare->dgpAt(eye, k))
                 .arg(f->glare.dgp);
      }
    }
    QCOMPARE(compared, 51);
    QVERIFY(sunny > 3);
    qInfo("furthest apart %s; %.4f in the mean", qPrintable(at), sum / compared);
    QVERIFY2(std::abs(worst) < 0.012, qPrintable(at));
    QVERIFY2(std::abs(sum / compared) < 0.005, qPrintable(QString::number(sum / compared)));
  }

  void whoFacesTheWindowIsGlaredAtMore() {
    const Project p = withEyes({180, 0});
    const LightResult r = ran(p, glareStudy());
    QVERIFY(r.value[0] > 5 * r.value[1]);
    QVERIFY(r.value[0] > 1 && r.standardError[0] > 0 && r.standardError[0] < 2);
    const GlareSeat& seat = r.glare->seats[0];
    QVERIFY(seat.above[0] >= seat.above[1] && seat.above[1] >= seat.above[2]);
    QVERIFY(seat.worst >= seat.dgp95 && seat.worst > 0.45);
    // The value is the share above the limit asked for; the hours add up to it.
    std::size_t over = 0;
    for (std::size_t k = 0; k < r.glare->hours.size(); ++k) over += r.glare->dgpAt(0, k) > 0.40;
    QVERIFY(std::abs(100.0 * double(over) / double(r.glare->scheduleHours) - double(r.value[0])) < 1e-3);
    QCOMPARE(r.glare->scheduleHours, std::size_t(3650));
    // Causes are hours above 0.40, each charged once, all through the one group of windows.
    std::size_t charged = 0;
    for (std::size_t c = 0; c < r.glare->causeRow(); ++c) charged += r.glare->causes[c];
    QCOMPARE(charged, over);
    QVERIFY(glareCauseText(*r.glare, 0).find("through Hall, south") != std::string::npos);
    const std::vector<float> series = glareSeries(*r.glare, 0);
    QCOMPARE(series.size(), std::size_t(8760));
    QVERIFY(std::isnan(series[2]) && float(seat.worst) == series[seat.worstHour]);
  }

  void closedBlindsTakeGlareAway() {
    Project p = withEyes({180});
    Study s = glareStudy();
    const LightResult open = ran(p, s);
    s.year.blinds = BlindRule::Always;
    const LightResult closed = ran(p, s);
    QVERIFY2(closed.value[0] < 0.2f * open.value[0],
             qPrintable(QString("%1 %2").arg(open.value[0]).arg(closed.value[0])));
    QCOMPARE(closed.glare->closedHours[1], double(closed.glare->hours.size()));
    s.year.blinds = BlindRule::Standard;
    const LightResult ruled = ran(p, s);
    QVERIFY(ruled.value[0] <= open.value[0] && ruled.value[0] >= closed.value[0]);
    QVERIFY(ruled.glare->closedHours[1] > 0 && ruled.glare->closedHours[1] < closed.glare->closedHours[1]);
    // Cloth with holes lets the sun's disc be seen.
    s.year.blinds = BlindRule::Always;
    s.year.fabricDirect = 0.1;
    s.year.fabricDiffuse = 0;
    const LightResult holes = ran(p, s);
    QVERIFY(holes.glare->seats[0].worst > closed.glare->seats[0].worst);
  }

  void blindsCloseInTheHoursThatGlareAndNoOthers() {
    Project p = withEyes({180, 0});
    Study s = glareStudy();
    const LightResult open = ran(p, s);
    s.year.blinds = BlindRule::Always;
    const LightResult shut = ran(p, s);
    s.year.blinds = BlindRule::Glare;
    const LightResult ruled = ran(p, s);
    const std::size_t hours = open.glare->hours.size();
    std::size_t closed = 0, onLimit = 0;
    for (std::size_t k = 0; k < hours; ++k) {
      const double worst = std::max(open.glare->dgpAt(0, k), open.glare->dgpAt(1, k));
      bool glares = worst > 0.40;
      if (std::abs(worst - 0.40) < 1e-4) { // kept to four digits: on the limit either may be
        ++onLimit;
        glares = std::abs(ruled.glare->dgpAt(0, k) - shut.glare->dgpAt(0, k)) < 2e-4;
      }
      closed += glares;
      // One group of windows: the hour is that of open or of closed blinds, for both lines of sight.
      for (std::size_t i = 0; i < 2; ++i)
        QVERIFY2(std::abs(ruled.glare->dgpAt(i, k) - (glares ? shut : open).glare->dgpAt(i, k)) < 2e-4,
                 qPrintable(QString("eye %1, hour %2: %3, open %4, shut %5")
                                .arg(i)
                                .arg(k)
                                .arg(ruled.glare->dgpAt(i, k))
                                .arg(open.glare->dgpAt(i, k))
                                .arg(shut.glare->dgpAt(i, k))));
    }
    QVERIFY(onLimit < 4);
    QVERIFY2(closed > 20 && closed < hours - 20, qPrintable(QString("%1 of %2").arg(closed).arg(hours)));
    QCOMPARE(ruled.glare->closedHours[1], double(closed));
    s.year.closesAtGlare = 0.35; // earlier
    QVERIFY(ran(p, s).glare->closedHours[1] > double(closed));
  }

  void sunsOfNeighbouringDaysStandTogether() {
    const auto sky = hourlySky(withEyes({180}));
    QVERIFY(sky);
    std::vector<std::uint32_t> wanted;
    for (std::uint32_t h = 0; h < (*sky)->hours.size(); ++h)
      if (const auto clock = (*sky)->hours[h] % 24; clock >= 8 && clock < 18) wanted.push_back(h);
    const auto suns = YearSpace::sunsTogether(**sky, wanted);
    QCOMPARE(suns.size(), (*sky)->hours.size());
    std::size_t asked = 0, alone = 0;
    for (std::uint32_t h = 0; h < suns.size(); ++h) {
      const bool in = std::binary_search(wanted.begin(), wanted.end(), h) && (*sky)->beam[h] > 0;
      QCOMPARE(suns[h] != YearSpace::notAsked, in);
      if (!in) continue;
      const std::uint32_t of = suns[h];
      QCOMPARE(suns[of], of); // who stands for others stands for itself
      QCOMPARE((*sky)->hours[of] % 24, (*sky)->hours[h] % 24);
      QVERIFY(dot((*sky)->sun[h], (*sky)->sun[of]) >= std::cos(0.2501 * radiansPerDegree));
      ++asked;
      alone += of == h;
    }
    QVERIFY2(asked > 1000 && alone < 0.9 * double(asked), qPrintable(QString("%1 of %2").arg(alone).arg(asked)));
  }

  void theGroupThatGlaresClosesFirst() {
    Project p = withEyes({180, 90});
    WindowRule east = p.windowRules[0];
    east.id = {31};
    east.facings = {Facing::East};
    p.windowRules.push_back(east);
    Study s = glareStudy();
    const LightResult open = ran(p, s);
    s.year.blinds = BlindRule::Glare;
    const LightResult ruled = ran(p, s);
    std::size_t glares = 0, left = 0;
    for (std::size_t k = 0; k < open.glare->hours.size(); ++k) {
      glares += std::max(open.glare->dgpAt(0, k), open.glare->dgpAt(1, k)) > 0.40;
      left += std::max(ruled.glare->dgpAt(0, k), ruled.glare->dgpAt(1, k)) > 0.40;
    }
    const auto closed = [](const LightResult& r, const std::string& group) {
      const auto& names = r.glare->groups;
      return r.glare->closedHours[std::size_t(std::find(names.begin(), names.end(), group) - names.begin())];
    };
    const double south = closed(ruled, "Hall, south"), other = closed(ruled, "Hall, east");
    QVERIFY(south > 0 && other > 0);
    QVERIFY2(std::max(south, other) < double(glares), "in some hours one of them is enough");
    QVERIFY(south + other >= double(glares) - 0.5);
    QVERIFY2(left < glares / 20, qPrintable(QString("%1 of %2 hours").arg(left).arg(glares)));
    // A group that is told to stay open stays open.
    const auto model = lightModel(p);
    for (const WindowGroup& g : model->groups)
      if (g.name == "Hall, east") s.year.groupBlinds = {{g.key, BlindRule::Never}};
    QCOMPARE(s.year.groupBlinds.size(), std::size_t(1));
    const LightResult own = ran(p, s);
    QCOMPARE(closed(own, "Hall, east"), 0.0);
    QVERIFY(closed(own, "Hall, south") >= south);
  }

  void theDaylightYearClosesTheSameBlinds() {
    Project p = withEyes({180});
    SensorGroup grid;
    grid.id = {41};
    grid.name = "Plane";
    RoomGrid plane;
    plane.spacing = 2;
    grid.layout = plane;
    p.groups.push_back(grid);
    Study s = glareStudy();
    s.year.blinds = BlindRule::Glare;
    s.year.stopFor = StopFor::Nothing;
    const LightResult glare = ran(p, s);
    RunControl control;
    KeptCoefficients kept;
    const auto in = yearInput(p, {grid.id}, s.year, &kept);
    QVERIFY(in && in->eyes);
    const YearResult year = runYear(*in, control, {}, &kept);
    QCOMPARE(double(year.closedHours[1]), glare.glare->closedHours[1]);
    YearSettings never = s.year;
    never.blinds = BlindRule::Never;
    const auto bare = yearInput(p, {grid.id}, never);
    QVERIFY(bare && !bare->eyes && !(bare->key == in->key));
    QVERIFY(runYear(*bare, control).spaces[0].meanLux > year.spaces[0].meanLux);
    // What is asked of single hours has them too.
    const auto series = spaceSeries(*in, 0, 2, kept, control);
    QVERIFY(series);
    QCOMPARE(std::size_t(std::count(series->closed[0].begin(), series->closed[0].end(), true)), year.closedHours[1]);
    // An eye moved is another question; none at all is told, and they stay open.
    Project moved = p;
    std::get<std::vector<PointSensor>>(moved.groups[0].layout)[0].position.x += 0.5;
    QVERIFY(!(hashYear(moved, {grid.id}, s.year) == in->key));
    Project alone = p;
    alone.groups.erase(alone.groups.begin());
    const auto without = yearInput(alone, {grid.id}, s.year);
    QVERIFY(without);
    QVERIFY(std::any_of(without->findings.begin(), without->findings.end(),
                        [](const Finding& f) { return f.code == "blinds.no-eyes"; }));
    QCOMPARE(runYear(*without, control).closedHours[1], std::size_t(0));
    // Stopped on its way it gives nothing that looks whole.
    control.wish = Wish::Drop;
    KeptCoefficients other;
    QVERIFY(runYear(*in, control, {}, &other).end == RunEnd::Dropped && other.glareShut.empty());
  }

  void theProposalIsNotThereBefore() {
    Project p = withEyes({180});
    Element wall;
    wall.id = {500};
    wall.name = "Slab";
    wall.proposed = true;
    wall.shape = Mass{rectangle(-30, -8, 40, -6), 0, 25, 1}; // before the window
    p.elements.push_back(std::make_shared<const Element>(wall));
    const auto input = [&](bool before) { return lightInput(p, glareStudy(), before); };
    RunControl control;
    const auto then = input(true), now = input(false);
    QVERIFY(then && now && !(then->key == now->key));
    const LightResult without = runLight(*then, control), with = runLight(*now, control);
    QVERIFY2(with.value[0] < 0.3f * without.value[0],
             qPrintable(QString("%1 %2").arg(with.value[0]).arg(without.value[0])));
    Project gone = p;
    gone.elements.pop_back();
    QVERIFY(std::abs(ran(gone, glareStudy()).value[0] - without.value[0]) < 1e-6f);
  }

  void theSameQuestionGivesTheSameBits() {
    const Project p = withEyes({180, 135});
    const LightResult one = ran(p, glareStudy(), 1), two = ran(p, glareStudy(), 2), seven = ran(p, glareStudy(), 7);
    QVERIFY(one.glare->dgp == two.glare->dgp && one.glare->dgp == seven.glare->dgp);
    QVERIFY(one.value == seven.value && one.standardError == seven.standardError);
    QVERIFY(one.glare->causes == two.glare->causes);
  }

  void itIsKeptAndFoundAgain() {
    const Project p = withEyes({180});
    const LightResult r = ran(p, glareStudy());
    QTemporaryDir d;
    ResultStore store(d.filePath("runs.results").toStdString());
    StoredRun run;
    run.name = "Glare";
    QVERIFY(store.keep(r, run));
    const auto again = store.findLight(r.key);
    QVERIFY(again && again->glare);
    QVERIFY(again->glare->dgp == r.glare->dgp && again->glare->groups == r.glare->groups);
    QCOMPARE(glareCauseText(*again->glare, 0), glareCauseText(*r.glare, 0));
    QCOMPARE(again->glare->seats[0].worstHour, r.glare->seats[0].worstHour);
  }

  void tablesSayWhatIsAsked() {
    const Project p = withEyes({180, 90});
    const auto in = lightInput(p, glareStudy());
    QVERIFY(in);
    RunControl control;
    const LightResult r = runLight(*in, control);
    const std::string csv = glareCsv(p, in->sensors, r);
    QVERIFY(csv.starts_with(
        "eye,x,y,z,azimuth_deg,hours,share_above_035,share_above_040,share_above_045,dgp_95,worst_hour"));
    QVERIFY(csv.find("\nLooks 180,3.5000,2.2000,1.2000,180.000,3650,") != std::string::npos);
    const std::string series = glareSeriesCsv(p, in->sensors, r);
    QCOMPARE(std::size_t(std::count(series.begin(), series.end(), '\n')), 1 + 2 * r.glare->hours.size());
    QCOMPARE(recordMoment(p, 8), "2026-01-01T08:30");
    QCOMPARE(recordMoment(p, 24 * 180 + 8).substr(10), "T09:30"); // summer time
  }

  void itStopsAndSaysWhatIsMissing() {
    const Project p = withEyes({180});
    const auto in = lightInput(p, glareStudy());
    RunControl control;
    control.wish = Wish::Drop;
    const LightResult r = runLight(*in, control);
    QCOMPARE(r.end, RunEnd::Dropped);
    QVERIFY(std::isnan(r.value[0]));
    const std::string csv = glareCsv(p, in->sensors, r);
    QVERIFY(csv.find(",,,,") != std::string::npos);
  }

  void whatCanNotBeAskedIsSaid() {
    Project none = withEyes({180});
    none.groups.clear();
    QVERIFY(QString::fromStdString(lightInput(none, glareStudy()).error().text()).contains("no eyes"));
    Project dark = withEyes({180});
    dark.site.weather.reset();
    QVERIFY(QString::fromStdString(lightInput(dark, glareStudy()).error().text()).contains("weather year"));
    Study backward = glareStudy();
    backward.year.endMinute = backward.year.beginMinute;
    QVERIFY(!lightInput(withEyes({180}), backward));
    // A schedule without daylight: no hour is lit, and no one is glared at.
    Study night = glareStudy();
    night.year.beginMinute = 0;
    night.year.endMinute = 60;
    const LightResult r = ran(withEyes({180}), night);
    QCOMPARE(r.value[0], 0.0f);
    QVERIFY(r.glare->hours.empty());
    // Sensors that look up are no eyes: told.
    Project up = withEyes({180});
    std::get<std::vector<PointSensor>>(up.groups.back().layout)[0].normal = {0, 0, 1};
    const auto in = lightInput(up, glareStudy());
    QVERIFY(in && std::any_of(in->findings.begin(), in->findings.end(),
                              [](const Finding& f) { return f.code == "glare.looks-up"; }));
    // In a wall, and a rule for windows that there are not: told.
    Project wall = withEyes({180});
    std::get<std::vector<PointSensor>>(wall.groups.back().layout)[0].position = {3.5, 0.15, 0.4};
    Element block;
    block.id = {500};
    block.shape = Mass{rectangle(3.497, 0.147, 3.503, 0.153), 0, 2, 1};
    wall.elements.push_back(std::make_shared<const Element>(block));
    Study ruled = glareStudy();
    ruled.year.groupBlinds = {{"nowhere, south", BlindRule::Never}};
    const auto told = lightInput(wall, ruled);
    QVERIFY(told);
    for (const char* code : {"glare.buried", "year.blinds-of"})
      QVERIFY2(
          std::any_of(told->findings.begin(), told->findings.end(), [&](const Finding& f) { return f.code == code; }),
          code);
    // Outdoors there are no blinds to be worked, and the sky is open.
    Project outdoors = withEyes({180});
    std::get<std::vector<PointSensor>>(outdoors.groups.back().layout)[0].position = {3.5, -10, 1.2};
    QVERIFY(ran(outdoors, glareStudy()).value[0] > 30);
  }

  void eyesAreForGlareAlone() {
    Project p = withEyes({180});
    SensorGroup plane;
    plane.id = {71};
    plane.name = "Plane";
    plane.layout = RoomGrid{};
    p.groups.push_back(plane);
    Study df;
    df.kind = StudyKind::DaylightFactor;
    const auto in = lightInput(p, df);
    QVERIFY(in);
    for (const SensorGridFacts& g : in->sensors.groups) QVERIFY(!g.eyes);
    const auto glare = lightInput(p, glareStudy());
    QCOMPARE(glare->sensors.sensors.size(), std::size_t(1));
    // A grid of eyes: so many lines of sight at each place, round from the first, sharing its area.
    SensorGroup eyes;
    eyes.id = {72};
    eyes.name = "Eyes";
    eyes.eyes = true;
    RoomGrid grid;
    grid.height = 1.2;
    grid.spacing = 2;
    grid.directions = 4;
    grid.firstDirection = radians(30);
    eyes.layout = grid;
    p.groups.push_back(eyes);
    const auto laid = layOutSensors(p, {eyes.id});
    QVERIFY(laid && laid->sensors.size() % 4 == 0 && laid->sensors.size() > 8);
    for (std::size_t k = 0; k < 4; ++k) {
      const Vec3 n = laid->sensors[k].normalVector();
      QVERIFY(length(n - skyDirection(0, radians(30 + 90.0 * double(k)), p.site.northAngle)) < 1e-6);
      QVERIFY(laid->sensors[k].position == laid->sensors[0].position);
      const auto needle = laid->cell(k); // points where it looks
      QVERIFY(dot(needle[2] - needle[0], n) > 0.5 && std::abs(dot(needle[1] - needle[3], n)) < 1e-6);
    }
    double area = 0, floor = 0;
    for (std::size_t k = 0; k < laid->sensors.size(); ++k) area += laid->areaOf(k);
    for (const Room& r : p.rooms) floor += noonward::area(r.outline);
    QVERIFY(std::abs(area / floor - 1) < 0.01);
  }
};

QTEST_GUILESS_MAIN(TestGlareYear)
#include "tst_glare_year.moc"
