// Facade sheets, films and the dial as pictures: what is shown where, at which scale, under which name; and what can't
// be.

#ifndef Q_MOC_RUN
#include "core/files/library.h"
#include "core/model/form/edit.h"
#include "core/model/options.h"
#include "core/model/rooms/placing.h"
#include "picture/facade_sheet.h"
#include "picture/film.h"
#include "picture/saved_view.h"
#include "picture/shade_dial.h"
#include "tests/house.h"
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <fmt/format.h>
#endif

using namespace noonward;

namespace {

Project house(double turn = 0) {
  Project p = test::house({.ratio = 0.3});
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "Europe/Copenhagen";
  p.name = "House";
  if (turn != 0) {
    Element e = *p.elements[0];
    turnShape(std::get<Mass>(e.shape), {4, 3}, turn);
    p.elements[0] = std::make_shared<const Element>(e);
    for (Room& r : p.rooms)
      for (Vec2& q : r.outline.outer) {
        const Vec2 d = q - Vec2{4, 3};
        q = Vec2{4, 3} + Vec2{d.x * std::cos(turn) - d.y * std::sin(turn), d.x * std::sin(turn) + d.y * std::cos(turn)};
      }
  }
  return p;
}
SheetRequest noon(Facing side) {
  SheetRequest r;
  r.sides = {side};
  r.dates = {{2026, 6, 21}};
  r.minutes = {13 * 60};
  r.pixels = 0.5;
  return r;
}
Expected<FacadeSheet> made(const Project& p, const SheetRequest& r) {
  RunControl control;
  return makeFacadeSheet(p, r, control);
}
/// Pixels that are neither paper nor ground, as a box in shares of the picture.
QRectF inked(const QImage& image) {
  int x0 = image.width(), x1 = 0, y0 = image.height(), y1 = 0;
  for (int y = 0; y < image.height(); ++y)
    for (int x = 0; x < image.width(); ++x)
      if (qAbs(qRed(image.pixel(x, y)) - 255) + qAbs(qBlue(image.pixel(x, y)) - 255) > 24) {
        x0 = std::min(x0, x), x1 = std::max(x1, x), y0 = std::min(y0, y), y1 = std::max(y1, y);
      }
  return {double(x0), double(y0), double(x1 - x0 + 1), double(y1 - y0 + 1)};
}

} // namespace

class TestFacadeSheet : public QObject {
  Q_OBJECT
private slots:
  void initTestCase() { loadFonts(SOURCE_TREE "/resources"); }

  void aSideIsSeenSquareOnAndToScale() {
    // An 8 m wall of 3.4 m, turned or not, is as many pixels wide and high as its scale says.
    for (const double turn : {0.0, radians(20.0), radians(-31.0)}) {
      SheetRequest r = noon(Facing::South);
      r.pixels = 1;
      const auto s = made(house(turn), r);
      QVERIFY2(s, s ? "" : s.error().text().c_str());
      QCOMPARE(s->pages.size(), std::size_t(1));
      const QRectF box = inked(s->pages[0].rows[0].cells[0].image);
      const double metres = s->metresPerPoint;
      QVERIFY2(std::abs(box.width() * metres - 8) < 5 * metres, qPrintable(QString::number(box.width() * metres)));
      QVERIFY2(std::abs(box.height() * metres - 3.4) < 5 * metres, qPrintable(QString::number(box.height() * metres)));
    }
  }

  void sidesShareOneScale() {
    SheetRequest r = noon(Facing::South);
    r.sides.clear();
    const auto s = made(house(), r);
    QVERIFY(s);
    QCOMPARE(s->pages.size(), std::size_t(4));
    for (const SheetPage& page : s->pages) {
      const bool longSide = page.side == Facing::South || page.side == Facing::North;
      const QRectF box = inked(page.rows[0].cells[0].image);
      QVERIFY2(std::abs(box.width() * s->metresPerPoint / 0.5 - (longSide ? 8 : 6)) < 10 * s->metresPerPoint,
               facingKey(page.side));
      QCOMPARE(page.glass > 0, page.side == Facing::South);
    }
  }

  void sharesAreThoseOfTheGlass() {
    Project p = house();
    SheetRequest r = noon(Facing::South);
    r.minutes = {4 * 60, 9 * 60, 13 * 60, 23 * 60};
    const auto bare = made(p, r);
    p.shadeRules.push_back({.id = {50}, .name = "Brim", .depth = 1.2, .beyond = 1});
    const auto shaded = made(p, r);
    QVERIFY(bare && shaded);
    const auto& a = bare->pages[0].rows[0].cells;
    const auto& b = shaded->pages[0].rows[0].cells;
    QVERIFY(!a[0].up && !a[3].up && a[2].front);
    QVERIFY(QString::fromStdString(a[3].text()).contains("sun down"));
    QVERIFY(a[2].shaded && b[2].shaded && *b[2].shaded > *a[2].shaded + 0.3);
    const auto day = glassInSun(p, {2026, 6, 21});
    QVERIFY(std::abs((1 - *b[2].shaded) - double(day->windows[0].share[13 * 12])) < 1e-6);
    QVERIFY(bare->fingerprint != shaded->fingerprint);
    const auto north = made(p, noon(Facing::North));
    QVERIFY(north && !north->pages[0].rows[0].cells[0].shaded);
    QVERIFY(QString::fromStdString(north->pages[0].rows[0].cells[0].text()).contains("sun behind"));
  }

  void whatStandsBeforeCastsItsShadeAndHidesNothing() {
    Project p = house();
    Element wall;
    wall.id = {11};
    wall.name = "Wall";
    wall.role = Role::Neighbour;
    wall.shape = Mass{rectangle(-30, -8, 38, -7), 0, 40, 1};
    const Project walled = withElement(p, wall);
    const auto open = made(p, noon(Facing::South)), dark = made(walled, noon(Facing::South));
    QVERIFY(open && dark);
    const QRectF a = inked(open->pages[0].rows[0].cells[0].image), b = inked(dark->pages[0].rows[0].cells[0].image);
    QVERIFY(b.width() >= a.width() - 2 && b.height() >= a.height() - 2);
    QCOMPARE(*dark->pages[0].rows[0].cells[0].shaded, 1.0);
  }

  void optionsStandBelowEachOther() {
    Project p = withNewOption(house(), "Deep");
    p.shadeRules.push_back({.id = {50}, .name = "Brim", .depth = 1.5, .beyond = 1});
    SheetRequest r = noon(Facing::South);
    r.beside = {0, 1};
    const auto s = made(p, r);
    QVERIFY2(s, s ? "" : s.error().text().c_str());
    QCOMPARE(s->pages[0].rows.size(), std::size_t(2));
    QVERIFY(s->pages[0].rows[0].label != s->pages[0].rows[1].label);
    QVERIFY(*s->pages[0].rows[1].cells[0].shaded > *s->pages[0].rows[0].cells[0].shaded + 0.3);
    QTemporaryDir d;
    const auto n = writeSheetPictures(*s, d.path().toStdString());
    QVERIFY(n && *n == 2);
    QVERIFY2(QFile::exists(d.filePath("south-Deep-2026-06-21-1300.png")),
             qPrintable(QDir(d.path()).entryList().join(" ")));
  }

  void sheetsAreFiles() {
    QTemporaryDir d;
    SheetRequest r = noon(Facing::South);
    r.sides = {Facing::South, Facing::East};
    const auto s = made(house(), r);
    QVERIFY(s);
    for (const char* name : {"a.pdf", "a.png", "a.svg"}) {
      const Outcome o = writeFacadeSheet(*s, d.filePath(name).toStdString());
      QVERIFY2(o, o ? "" : o.error().text().c_str());
    }
    QVERIFY(QFile::exists(d.filePath("a.pdf")));
    for (const char* name : {"a-south.png", "a-east.png", "a-south.svg", "a-east.svg"})
      QVERIFY2(QFileInfo(d.filePath(name)).size() > 4000, name);
    QProcess info; // two pages, and words that can be searched for
    info.start("pdftotext", {d.filePath("a.pdf"), "-"});
    QVERIFY(info.waitForFinished(20000));
    const QString text = QString::fromUtf8(info.readAllStandardOutput());
    QVERIFY2(text.contains("South side") && text.contains("East side") && text.contains("page 2 of 2"),
             qPrintable(text));
    QVERIFY(!writeFacadeSheet(*s, d.filePath("a.bmp").toStdString()));
    QVERIFY(!writeFacadeSheet(*s, "/nowhere/at/all/a.pdf"));
  }

  void whatNoSheetCanShowIsSaid() {
    SheetRequest r = noon(Facing::South);
    r.minutes = {1500};
    QVERIFY(!made(house(), r));
    r = noon(Facing::South);
    r.dates = {{2026, 2, 30}};
    QVERIFY(!made(house(), r));
    r = noon(Facing::South);
    r.beside = {3};
    QVERIFY(!made(house(), r));
    QVERIFY(!made(Project{}, noon(Facing::South)));
    RunControl stopped;
    stopped.wish = Wish::Drop;
    QVERIFY(!makeFacadeSheet(house(), noon(Facing::South), stopped));
  }

  void framesOfADayAndAYear() {
    const Zone zone = *Zone::named("Europe/Copenhagen");
    QCOMPARE(dayFrames(zone, {2026, 6, 21}, 240, 1320, 60).size(), std::size_t(19));
    QVERIFY(dayFrames(zone, {2026, 6, 21}, 240, 200, 60).empty());
    QVERIFY(dayFrames(zone, {2026, 6, 21}, 240, 1320, 0).empty());
    const auto year = yearFrames(zone, 2026, 720, 1);
    QCOMPARE(year.size(), std::size_t(365));
    for (const FilmFrame& f : {year.front(), year[180]}) QCOMPARE(zone.clock(f.moment).seconds, 12.0 * 3600);
  }

  void viewsComeBackAndLeadToEachOther() {
    Camera a;
    a.target = {1, 2, 3};
    a.azimuth = radians(350.0);
    a.altitude = 0.4;
    a.height = 40;
    Camera b = a;
    b.azimuth = radians(10.0);
    b.target = {5, 2, 3};
    b.height = 10;
    const auto back = cameraFromJson(cameraJson(a).dump());
    QVERIFY(back && length(back->target - a.target) < 1e-12 && std::abs(wrapPi(back->azimuth - a.azimuth)) < 1e-12 &&
            back->height == a.height);
    const Camera middle = between(a, b, 0.5); // the short way round, through north
    QVERIFY(std::abs(wrapPi(middle.azimuth)) < 1e-9 && std::abs(middle.height - 20) < 1e-9 && middle.target.x == 3);
    QVERIFY(between(a, b, 0) == a);
    for (const char* bad : {"", "{}", "[]", R"({"target": [1, 2]})", R"({"target": [1, 2, 3], "view": "fish"})",
                            R"({"target": [1, 2, 3], "height": 0})", "{\"target\": "})
      QVERIFY2(!cameraFromJson(bad), bad);
    Project p = house();
    p.views = {{{1}, "A", cameraJson(a).dump(), "2026-06-21T08:00:00+02:00", "", ""},
               {{2}, "B", cameraJson(b).dump(), "2026-06-21T12:00:00+02:00", "", ""},
               {{3}, "Broken", "{}", "", "", ""}};
    const auto way = viewFrames(p, {"A", "B"}, 4, {});
    QVERIFY(way && way->size() == 5);
    QCOMPARE(way->at(2).moment - way->front().moment, 2.0 * 3600);
    QVERIFY(!viewFrames(p, {"A"}, 4, {}));
    QVERIFY(!viewFrames(p, {"A", "C"}, 4, {}));
    QVERIFY(!viewFrames(p, {}, 4, {})); // one of all is broken, and named
    QVERIFY(viewFrames(p, {}, 4, {}).error().message.find("Broken") != std::string::npos);
  }

  void filmsAreSeriesOrFiles() {
    QTemporaryDir d;
    const Project p = house();
    FilmRequest r;
    r.picture.study = "-";
    r.picture.width = 320;
    r.picture.height = 200;
    r.frames = dayFrames(p.zone(), {2026, 6, 21}, 8 * 60, 16 * 60, 120);
    RunControl control;
    double told = 0;
    control.progress = [&](double share) { told = std::max(told, share); };
    QVERIFY(writeFilm(p, r, d.filePath("series").toStdString(), control));
    QCOMPARE(told, 1.0);
    QStringList frames = QDir(d.filePath("series")).entryList({"*.png"});
    QCOMPARE(frames.size(), 5);
    const QImage morning(d.filePath("series/frame-0001.png")), noon(d.filePath("series/frame-0003.png"));
    QCOMPARE(morning.size(), QSize(320, 200));
    QVERIFY(morning != noon); // the shadow moved, and the line above it says when
    FilmRequest bad = r;
    bad.frames.clear();
    QVERIFY(!writeFilm(p, bad, d.filePath("x").toStdString(), control));
    bad = r;
    bad.picture.width = 321;
    QVERIFY(!writeFilm(p, bad, d.filePath("x.mp4").toStdString(), control));
    QVERIFY(!writeFilm(p, r, d.filePath("x.avi").toStdString(), control));
    RunControl stopped;
    stopped.wish = Wish::Drop;
    QVERIFY(!writeFilm(p, r, d.filePath("y").toStdString(), stopped));
  }

  void theEncoderIsCalledFedAndHeard() {
    // A stand-in under ffmpeg's name: it counts what it is fed, or fails as the real one would.
    QTemporaryDir d;
    const auto standIn = [&](const QByteArray& does) {
      QFile f(d.filePath("ffmpeg"));
      QVERIFY(f.open(QIODevice::WriteOnly));
      f.write("#!/bin/sh\nfor last; do :; done\n" + does);
      f.close();
      f.setPermissions(QFile::ReadOwner | QFile::WriteOwner | QFile::ExeOwner);
    };
    const QByteArray path = qgetenv("PATH");
    qputenv("PATH", d.path().toUtf8() + ":" + path);
    const Project p = house();
    FilmRequest r;
    r.picture.study = "-";
    r.picture.width = 160;
    r.picture.height = 100;
    r.frames = dayFrames(p.zone(), {2026, 6, 21}, 8 * 60, 16 * 60, 120);
    RunControl control;
    standIn("wc -c > \"$last\"\n");
    QVERIFY(writeFilm(p, r, d.filePath("day.mp4").toStdString(), control));
    QFile film(d.filePath("day.mp4"));
    QVERIFY(film.open(QIODevice::ReadOnly));
    QCOMPARE(film.readAll().trimmed().toInt(), 5 * 160 * 100 * 3);
    film.close();
    // One that fails: what it said is told, the film that was there stays, nothing half made is left.
    standIn("cat > /dev/null; echo 'no such codec'; exit 1\n");
    const Outcome failed = writeFilm(p, r, d.filePath("day.mp4").toStdString(), control);
    QVERIFY(!failed);
    QVERIFY2(failed.error().message.find("no such codec") != std::string::npos, failed.error().message.c_str());
    QVERIFY(film.open(QIODevice::ReadOnly));
    QCOMPARE(film.readAll().trimmed().toInt(), 5 * 160 * 100 * 3);
    QVERIFY(!QFile::exists(d.filePath("day.part.mp4")));
    // None at all: said before a frame is made.
    QFile::remove(d.filePath("ffmpeg"));
    qputenv("PATH", d.path().toUtf8());
    const Outcome absent = writeFilm(p, r, d.filePath("day.webm").toStdString(), control);
    qputenv("PATH", path);
    QVERIFY(!absent && absent.error().message.find("not installed") != std::string::npos);
  }

  void dialsMapTheSkyBothWays() {
    for (const DialProjection projection : allProjections) {
      const DialMap m{projection, QRectF(10, 20, 300, 300), radians(190.0)};
      for (double azimuth = 5; azimuth < 360; azimuth += 35)
        for (const double altitude : {3.0, 25.0, 60.0, 86.0}) {
          const auto back = m.from(m.at(radians(azimuth), radians(altitude)));
          QVERIFY(back);
          QVERIFY2(std::abs(wrapPi(back->first - radians(azimuth))) < 1e-6 &&
                       std::abs(back->second - radians(altitude)) < 1e-6,
                   projectionKey(projection));
        }
      QVERIFY(projectionFromKey(projectionKey(projection)) == projection);
      QVERIFY(!m.from({-50, -50}));
    }
    // By their definitions: half way up the sky.
    const auto out = [](DialProjection p) {
      const DialMap m{p, QRectF(0, 0, 200, 200), pi};
      return (m.at(pi / 2, radians(45.0)).x() - 100) / 100;
    };
    QVERIFY(std::abs(out(DialProjection::Equidistant) - 0.5) < 1e-12);
    QVERIFY(std::abs(out(DialProjection::Stereographic) - std::tan(radians(22.5))) < 1e-12);
    QVERIFY(std::abs(out(DialProjection::Orthographic) - std::cos(radians(45.0))) < 1e-12);
  }

  void aDialPaintsWhatItsMaskSays() {
    Project p = house();
    p.shadeRules.push_back({.id = {50}, .name = "Brim", .depth = 1.5, .beyond = 300});
    const OpeningId window = placedOpenings(p).openings[0].opening.id;
    const auto mask = shadeMask(p, window);
    QVERIFY(mask);
    // South, at the horizon: all of the glass; high: none; north: behind the wall.
    QVERIFY(mask->at(mask->shaded, pi, radians(1.0)) > 0.95);
    QVERIFY(mask->at(mask->shaded, pi, radians(75.0)) < 0.01);
    QVERIFY(mask->bare[std::size_t(30 * ShadeMask::azimuths)] < 0);
    DialPicture d;
    d.mask = std::make_shared<const ShadeMask>(*mask);
    d.place = p.site.place;
    d.zone = p.zone();
    d.outward = pi;
    d.moment = p.zone().instant({{2026, 1, 1}, 0});
    const DialMap m{DialProjection::Equidistant, QRectF(20, 20, 360, 360), pi};
    QImage image(400, 400, QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter painter(&image);
    paintShadeDial(painter, m, d, paperTheme());
    painter.end();
    const auto brightness = [&](double azimuth, double altitude) {
      const QPointF q = m.at(radians(azimuth), radians(altitude));
      return qGray(image.pixel(q.toPoint()));
    };
    QVERIFY(brightness(185, 8) > brightness(185, 70) + 40);
    QTemporaryDir folder;
    QVERIFY(!exportShadeDial(p, {99}, DialProjection::Flat, d.moment, folder.filePath("d.png").toStdString()));
  }
};

QTEST_MAIN(TestFacadeSheet)
#include "tst_facade_sheet.moc"
