// The command line as a script sees it: columns, exit codes, messages.

#ifndef Q_MOC_RUN
#include "tests/coarse.h"
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#endif

namespace {
struct Ran {
  int code = -1;
  QString out, err;
};
QString written(const QTemporaryDir& d, const char* name, const QByteArray& text) {
  QFile f(d.filePath(name));
  if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
  f.write(text);
  return f.fileName();
}
Ran cli(const QStringList& args) {
  QProcess p;
  p.start(NOONWARD_CLI, args);
  if (!p.waitForFinished(900000)) qFatal("the command hangs");
  return {p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -1, QString::fromUtf8(p.readAllStandardOutput()),
          QString::fromUtf8(p.readAllStandardError())};
}
QString copyDemo(const QTemporaryDir& d) {
  for (const char* f : {"ropewalk-quay.noonward", "brevholm.epw", "tarrow-green.noonward", "tarrow-bay.epw"})
    QFile::copy(QString(SOURCE_TREE "/demo/") + f, d.filePath(f));
  return d.filePath("ropewalk-quay.noonward");
}
} // namespace

class TestCli : public QObject {
  Q_OBJECT
private slots:
  void sunPrintsItsFixedColumns() {
    const Ran r = cli({"sun", "--latitude", "39.742476", "--longitude", "-105.1786", "--elevation", "1830.14",
                       "--utc-offset", "-7", "--at", "2003-10-17T12:30:30", "--delta-t", "67", "--pressure", "820",
                       "--temperature", "11", "--csv"});
    QCOMPARE(r.code, 0);
    const QStringList lines = r.out.trimmed().split('\n');
    QCOMPARE(lines.size(), 2);
    QCOMPARE(lines[0], QString("time,azimuth_deg,altitude_deg,apparent_altitude_deg,equation_of_time_min"));
    const QStringList f = lines[1].split(',');
    QCOMPARE(f[0], QString("2003-10-17T12:30:30-07:00"));
    QVERIFY(std::abs(f[1].toDouble() - 194.34024) < 0.003);
    QVERIFY(std::abs(90 - f[2].toDouble() - 50.12795) < 0.003);
    QVERIFY(std::abs(90 - f[3].toDouble() - 50.11162) < 0.003);
    QVERIFY(std::abs(f[4].toDouble() - 14.641) < 0.02); // the paper prints 14.641503 min
  }

  void sunStepsThroughARange() {
    const Ran r = cli({"sun", "--latitude", "55.6", "--longitude", "12.5", "--elevation", "0", "--utc-offset", "2",
                       "--at", "2026-06-21T00:00:00", "--to", "2026-06-22T00:00:00", "--step", "30", "--csv"});
    QCOMPARE(r.out.trimmed().split('\n').size(), 50);
    const Ran j = cli({"sun", "--latitude", "69.6", "--longitude", "18.9", "--zone", "Europe/Oslo", "--at",
                       "2026-12-21T12:00:00", "--json"});
    QCOMPARE(QJsonDocument::fromJson(j.out.toUtf8()).object()["days"].toArray()[0].toObject()["kind"].toString(),
             QString("polar night"));
  }

  void wrongCallsAreToldAndCountAsTwo_data() {
    QTest::addColumn<QStringList>("args");
    QTest::newRow("nothing") << QStringList{};
    QTest::newRow("unknown command") << QStringList{"dance"};
    QTest::newRow("no place") << QStringList{"sun", "--at", "2026-06-21T00:00:00"};
    QTest::newRow("no such place") << QStringList{"sun",          "--latitude", "95",   "--longitude",        "0",
                                                  "--utc-offset", "0",          "--at", "2026-06-21T00:00:00"};
    QTest::newRow("odd date") << QStringList{"sun",          "--latitude", "5",    "--longitude", "0",
                                             "--utc-offset", "0",          "--at", "21/6/2026"};
    QTest::newRow("odd zone") << QStringList{"sun",    "--latitude", "5",    "--longitude", "0",
                                             "--zone", "No/Where",   "--at", "2026-06-21"};
    QTest::newRow("unknown study") << QStringList{"run", SOURCE_TREE "/demo/ropewalk-quay.noonward", "--study",
                                                  "moonlight"};
    QTest::newRow("unknown measurement") << QStringList{"bench", "nonsense"};
  }
  void wrongCallsAreToldAndCountAsTwo() {
    QFETCH(QStringList, args);
    const Ran r = cli(args);
    QCOMPARE(r.code, 2);
    QVERIFY(!r.err.isEmpty() || !r.out.isEmpty());
  }

  void runWritesTheFixedTable() {
    QTemporaryDir d;
    const QString project = copyDemo(d);
    const Ran r = cli({"run", project, "--study", "sun-hours", "--out", d.filePath("out")});
    QVERIFY2(r.code == 0, qPrintable(r.err));
    QFile f(d.filePath("out/sun-hours.csv"));
    QVERIFY(f.open(QIODevice::ReadOnly));
    const QStringList lines = QString::fromUtf8(f.readAll()).trimmed().split('\n');
    QCOMPARE(lines[0], QString("sensor,x,y,z,nx,ny,nz,hours,longest_hours,first,last"));
    QCOMPARE(lines.size(), 1161);
    const QStringList row = lines[1100].split(',');
    QCOMPARE(row.size(), 11);
    QVERIFY(row[7].toDouble() > 0 && row[7].toDouble() < 13 && row[8].toDouble() <= row[7].toDouble() + 1e-6);
    QVERIFY(QDateTime::fromString(row[9], Qt::ISODate).isValid());
    QVERIFY(row[9].endsWith("+01:00") && row[9] < row[10]);
    QVERIFY(QFile::exists(d.filePath("ropewalk-quay.results.sqlite")));
    const Ran before =
        cli({"run", project, "--before", "--name", "Square in spring", "--out", d.filePath("before"), "--json"});
    QVERIFY(before.out.contains("\"mean_hours\""));
    const Ran one =
        cli({"run", project, "--name", "Square in spring", "--no-store", "--threads", "1", "--out", d.filePath("one")});
    QCOMPARE(one.code, 0);
    QFile g(d.filePath("one/sun-hours.csv"));
    QVERIFY(g.open(QIODevice::ReadOnly));
    QCOMPARE(QString::fromUtf8(g.readAll()).trimmed().split('\n'), lines); // one thread, the same bits
  }

  void judgeSaysWhatTheSquareLacks() {
    QTemporaryDir d;
    const Ran r = cli({"judge", copyDemo(d), "--yardstick", "amenity-ground", "--json"});
    QCOMPARE(r.code, 1); // falls short
    const QJsonObject v = QJsonDocument::fromJson(r.out.toUtf8()).array()[0].toObject();
    QCOMPARE(v["outcome"].toString(), QString("falls short"));
    QVERIFY(v["figure"].toDouble() < 50 && v["before"].toDouble() > 99);
    const Ran south = cli({"judge", d.filePath("tarrow-green.noonward")});
    QVERIFY(south.out.contains("Midwinter sun"));
    QCOMPARE(cli({"judge", d.filePath("tarrow-green.noonward"), "--yardstick", "none-such"}).code, 2);
  }

  void probeAndCheckAndWeather() {
    QTemporaryDir d;
    const QString project = copyDemo(d);
    const Ran probe = cli({"probe", project, "--point", "0,0,0", "--csv"});
    QCOMPARE(probe.out.trimmed().split('\n').size(), 721);
    QVERIFY(probe.out.contains("Proposed block"));
    QCOMPARE(QJsonDocument::fromJson(cli({"probe", project, "--point", "0,0,0", "--json"}).out.toUtf8())
                 .object()["year"]
                 .toString()
                 .size(),
             105120);
    QCOMPARE(cli({"probe", project, "--point", "here"}).code, 2);
    QCOMPARE(cli({"check", project}).out.trimmed(), QString("nothing found"));
    QCOMPARE(cli({"check", d.filePath("absent.noonward")}).code, 1);
    QCOMPARE(cli({"weather", "check", d.filePath("brevholm.epw")}).code, 0);
    QVERIFY(cli({"weather", "show", d.filePath("brevholm.epw"), "--json"}).out.contains("global_horizontal_kwh_m2"));
    QFile epw(d.filePath("brevholm.epw"));
    QVERIFY(epw.open(QIODevice::ReadOnly));
    const QByteArray cut = epw.readAll().left(700'000);
    QFile damaged(d.filePath("cut.epw"));
    QVERIFY(damaged.open(QIODevice::WriteOnly) && damaged.write(cut) > 0);
    damaged.close();
    const Ran gap = cli({"weather", "check", d.filePath("cut.epw")});
    QCOMPARE(gap.code, 1);
    QVERIFY2(gap.out.contains("hours are missing"), qPrintable(gap.out));
  }

  void picturesAndPages() {
    QTemporaryDir d;
    const QString project = copyDemo(d);
    QCOMPARE(
        cli({"picture", project, "--out", d.filePath("p.png"), "--size", "640x420", "--moment", "2026-03-21T11:30:00"})
            .code,
        0);
    QImage image(d.filePath("p.png"));
    QCOMPARE(image.size(), QSize(640, 420));
    QVERIFY(image.text("Fingerprint").size() == 15);
    int colours = 0; // the result is in it: the palette's warm half
    for (int y = 60; y < 360; ++y)
      for (int x = 0; x < 640; ++x) {
        const QColor c = image.pixelColor(x, y);
        colours += c.red() > 140 && c.red() - c.blue() > 60;
      }
    QVERIFY(colours > 200);
    QCOMPARE(cli({"picture", project, "--out", d.filePath("p.pdf")}).code, 0);
    QFile pdf(d.filePath("p.pdf"));
    QVERIFY(pdf.open(QIODevice::ReadOnly) && pdf.readAll().startsWith("%PDF"));
    QCOMPARE(cli({"picture", project, "--out", d.filePath("p.svg"), "--size", "640x420", "--view", "plan"}).code, 0);
    QCOMPARE(cli({"picture", project, "--out", d.filePath("p.bmp")}).code, 1);
  }

  void lightRunsOnAHandWrittenModel() {
    // An OBJ beside the project, roles and finishes by group name, one sensor by hand.
    QTemporaryDir d;
    const auto write = [&](const char* name, const QByteArray& text) {
      QFile f(d.filePath(name));
      return f.open(QIODevice::WriteOnly) && f.write(text) == text.size();
    };
    QVERIFY(write(
        "room.obj",
        "v 0 0 0\nv 4 0 0\nv 4 5 0\nv 0 5 0\nv 0 0 3\nv 4 0 3\nv 4 5 3\nv 0 5 3\nv 1 0 1\nv 3 0 1\nv 3 0 2\nv 1 0 2\n"
        "g floor\nf 1 2 3 4\ng ceiling\nf 5 6 7 8\ng walls\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n"
        "f 1 2 10 9\nf 2 6 11 10\nf 6 5 12 11\nf 5 1 9 12\ng pane\nf 9 10 11 12\n"));
    QVERIFY(write(
        "room.noonward",
        R"({"format": "noonward-project", "version": 1, "site": {"latitude": 55.6, "longitude": 12.5, "zone": "Europe/Copenhagen"},
      "finishes": [{"name": "pale", "reflectance": 0.7}], "glazings": [{"name": "glass", "transmittance": 0.75, "panes": 2}],
      "imports": [{"file": "room.obj", "unit": "m", "up": "z", "roles": {"floor": "floor", "ceiling": "ceiling", "walls": "wall", "pane": "glazing"}, "finish": "pale", "glazing": "glass"}],
      "groups": [{"name": "P", "points": [{"at": [2, 1.5, 0.85], "normal": [0, 0, 1], "name": "near"}, {"at": [2, 4.5, 0.85], "normal": [0, 0, 1], "name": "far"}]}]})"));
    const Ran r = cli({"run", d.filePath("room.noonward"), "--study", "daylight-factor", "--out", d.path(), "--error",
                       "1", "--json"});
    QVERIFY2(r.code == 0, qPrintable(r.err));
    QFile csv(d.filePath("daylight-factor.csv"));
    QVERIFY(csv.open(QIODevice::ReadOnly));
    const QStringList lines = QString::fromUtf8(csv.readAll()).trimmed().split('\n');
    QCOMPARE(lines.size(), 3);
    QCOMPARE(lines[0], QString("sensor,x,y,z,nx,ny,nz,value,standard_error"));
    const QStringList near = lines[1].split(','), far = lines[2].split(',');
    QCOMPARE(near[0], QString("near"));
    QVERIFY(near[7].toDouble() > far[7].toDouble() && far[7].toDouble() > 0.3);
    QVERIFY(near[8].toDouble() <= 0.0101 * near[7].toDouble() && near[8].toDouble() > 0);
    // Kept beside the project: the same question again costs nothing and gives the same.
    const Ran again = cli({"run", d.filePath("room.noonward"), "--study", "daylight-factor", "--out", d.path(),
                           "--error", "1", "--json"});
    QCOMPARE(QJsonDocument::fromJson(again.out.toUtf8()).object()["key"],
             QJsonDocument::fromJson(r.out.toUtf8()).object()["key"]);
    QCOMPARE(
        cli({"run", d.filePath("room.noonward"), "--study", "illuminance", "--sky", "clear", "--out", d.path()}).code,
        1); // no moment
    const Ran lux = cli({"run", d.filePath("room.noonward"), "--study", "illuminance", "--sky", "clear", "--at",
                         "2026-03-21T12:00:00", "--out", d.path(), "--json"});
    QVERIFY2(lux.code == 0 && lux.out.contains("\"unit\":\"lx\""), qPrintable(lux.err));
    QCOMPARE(cli({"run", d.filePath("room.noonward"), "--study", "moonlight"}).code, 2);
    QVERIFY(cli({"why", d.filePath("room.noonward"), "--sensor", "near"}).out.contains("glazing in"));
    QVERIFY(cli({"run", d.filePath("room.noonward"), "--study", "sunlight-year", "--out", d.path()})
                .err.contains("need a weather year"));
  }

  void skiesAndRoomsArePrinted() {
    const Ran overcast = cli(
        {"sky", "--sky", "cie-overcast", "--diffuse", "10000", "--direction", "90,0", "--direction", "0,90", "--json"});
    QCOMPARE(overcast.code, 0);
    const QJsonObject o = QJsonDocument::fromJson(overcast.out.toUtf8()).object();
    QVERIFY(std::abs(o["zenith_cd_m2"].toDouble() - 10000 * 9 / (7 * M_PI)) < 0.01);
    QVERIFY(std::abs(o["vertical_diffuse_lx"].toObject()["south"].toDouble() - 3961.8) < 1);
    QVERIFY(std::abs(o["directions"].toArray()[1].toObject()["luminance_cd_m2"].toDouble() * 3 -
                     o["zenith_cd_m2"].toDouble()) < 0.01);
    QCOMPARE(cli({"sky", "--sky", "cie-16"}).code, 2);
    QCOMPARE(cli({"sky", "--sky", "clear"}).code, 1); // no sun
    const Ran perez = cli({"sky", "--sky", "perez", "--dni", "500", "--dhi", "120", "--sun-altitude", "40", "--csv",
                           "--direction", "40,180", "--direction", "40,0"});
    const QStringList rows = perez.out.trimmed().split('\n');
    QVERIFY(rows.size() == 3 && rows[1].split(',')[2].toDouble() > 3 * rows[2].split(',')[2].toDouble());
    QTemporaryDir d;
    const Ran rooms = cli({"rooms", copyDemo(d), "--csv"});
    QVERIFY(rooms.out.startsWith("room,use,area_m2,volume_m3,exposed_m2,window_north_m2,window_east_m2,window_south_m2,"
                                 "window_west_m2,rooflight_m2,regularly_occupied,reason\n"));
    QVERIFY(rooms.out.contains("Reading room"));
  }

  void modelsAreLookedAtAndBroughtIn() {
    QTemporaryDir d;
    const QString project = copyDemo(d);
    QFile obj(d.filePath("shed.obj"));
    QVERIFY(obj.open(QIODevice::WriteOnly));
    obj.write("g shed\nv 0 0 0\nv 6000 0 0\nv 6000 4000 0\nv 0 4000 3000\nf 1 2 3 4\n");
    obj.close();
    const Ran look = cli({"import", d.filePath("shed.obj")});
    QVERIFY2(look.out.contains("millimetres") && look.out.contains("6.00 × 4.00 × 3.00 m"), qPrintable(look.out));
    QCOMPARE(cli({"import", d.filePath("shed.obj"), "--project", project, "--save", d.filePath("more.noonward")}).code,
             0);
    QVERIFY(cli({"check", d.filePath("more.noonward")}).code == 0);
    QCOMPARE(cli({"import", d.filePath("absent.obj")}).code, 1);
  }

  void othersModelsBecomeProjectsAndAreMended() {
    QTemporaryDir d;
    const auto write = [&](const char* name, const QByteArray& text) { return written(d, name, text); };
    // Two files at once: a wall that stands twice, in millimetres, and a footprint on Earth.
    const QString wall =
        write("wall.obj", "g Mur nord\nv 0 0 0\nv 8000 0 0\nv 8000 0 3000\nv 0 0 3000\nf 1 2 3 4\nf 1 2 3 4\n");
    const QString town = write(
        "town.geojson",
        R"({"type":"Feature","properties":{"height":9},"geometry":{"type":"Polygon","coordinates":[[[12.5,55.6],[12.5003,55.6],[12.5003,55.6002],[12.5,55.6]]]}})");
    const QString project = d.filePath("both.noonward");
    const Ran made = cli({"import", town, wall, "--out", project, "--up", "z", "--json"});
    QVERIFY2(made.code == 0, qPrintable(made.err));
    const QJsonObject j = QJsonDocument::fromJson(made.out.toUtf8()).object();
    QCOMPARE(j["triangles"].toInt(), 4);
    QCOMPARE(j["units"].toString(), QString("metres, millimetres"));
    QVERIFY(j["size_m"].toArray().size() == 3 && j["origin_m"].toArray().size() == 3);
    QCOMPARE(j["groups"].toArray().size(), 2);
    const QJsonObject mur = j["groups"].toArray()[1].toObject();
    QVERIFY(mur["role"].toString() == "wall" && mur["sure"].toDouble() == 0.8 && mur["why"].toString().contains("mur"));
    const auto coded = [](const QJsonArray& list, const char* code) {
      for (const auto& f : list)
        if (f.toObject()["code"].toString() == code) return f.toObject();
      return QJsonObject();
    };
    const QJsonObject twice = coded(j["findings"].toArray(), "mesh.duplicates");
    QVERIFY(twice["rank"].toString() == "note" && twice["mend"].toString() == "Remove the second ones");
    const Ran mended = cli({"mend", project, "--all", "--json"});
    QVERIFY2(mended.code == 0, qPrintable(mended.out + mended.err));
    const QJsonObject done = QJsonDocument::fromJson(mended.out.toUtf8()).object();
    QVERIFY(!coded(done["mended"].toArray(), "mesh.duplicates").isEmpty() &&
            coded(done["left"].toArray(), "mesh.duplicates").isEmpty());
    QVERIFY(!cli({"check", project}).out.contains("stands already"));
    QVERIFY(cli({"mend", project}).out.isEmpty() ||
            !cli({"mend", project}).out.contains("mended:")); // alone it only lists
    // What is left out on purpose stays so, unless its code is named.
    const QString plan = write("plan.dxf", "0\nSECTION\n2\nENTITIES\n0\nLWPOLYLINE\n8\nWege\n70\n1\n10\n0\n20\n0\n10\n9"
                                           "\n20\n0\n10\n9\n20\n5\n0\nENDSEC\n0\nEOF\n"),
                  traced = d.filePath("plan.noonward");
    const Ran flat = cli({"import", plan, "--units", "m", "--out", traced, "--json"});
    const QJsonObject way = QJsonDocument::fromJson(flat.out.toUtf8()).object()["groups"].toArray()[0].toObject();
    QVERIFY2(way["height"].toDouble() == 0 && way["role"].toString() == "neighbour", qPrintable(flat.out + flat.err));
    QVERIFY(cli({"mend", traced, "--all"}).out.contains("is left out of studies"));
    QVERIFY(cli({"mend", traced, "--code", "element.left-out"}).out.contains("mended: "));
    // Again, changed: what is gone is told.
    write("wall.obj", "g Mur sud\nv 0 0 0\nv 8000 0 0\nv 8000 0 3000\nf 1 2 3\n");
    QVERIFY(cli({"import", wall, "--project", project, "--units", "mm", "--up", "z"})
                .out.contains("1 element is no longer in the file"));
    QCOMPARE(cli({"import", wall, "--units", "furlongs"}).code, 2);
    const Ran out = cli({"export", project, "--out", d.filePath("both.dxf"), "--json"});
    QVERIFY2(out.code == 0 && QJsonDocument::fromJson(out.out.toUtf8()).object()["elements"].toInt() == 3,
             qPrintable(out.out + out.err));
    QVERIFY(cli({"import", d.filePath("both.dxf")}).out.contains("the file says metres"));
    QCOMPARE(cli({"export", project, "--out", d.filePath("both.xyz")}).code, 2);
    QCOMPARE(cli({"export", project, "--out", "/nowhere/x.obj"}).code, 1);
    QCOMPARE(cli({"import", wall, "--role", "hero"}).code, 2);
    QCOMPARE(cli({"import", write("bad.dxf", "not a drawing\n"), "--out", project}).code, 1);
  }

  void aHeavyModelBecomesRoomsByMendsAlone() {
    // The library as its architect sends it, into the place without it: brought in, mended, its daylight within 3 % of
    // the clean one.
    QTemporaryDir d;
    const QString folder = d.filePath("demo"), in = d.filePath("demo/in.noonward");
    QCOMPARE(cli({"demo", "--out", folder}).code, 0);
    for (const char* file :
         {"brevholm.city.json", "brevholm-quarter.noonward", "ropewalk-quay.noonward"}) { // as shipped
      const auto made = noonward::loadFile((folder + "/" + file).toStdString()),
                 shipped = noonward::loadFile(std::string(SOURCE_TREE "/demo/") + file);
      QVERIFY2(made && shipped && *made == *shipped, file);
    }
    const Ran made = cli({"import", folder + "/library-as-received.obj", "--project", folder + "/library-site.noonward",
                          "--north", "38", "--out", in, "--json"});
    QVERIFY2(made.code == 0, qPrintable(made.err));
    QCOMPARE(QJsonDocument::fromJson(made.out.toUtf8()).object()["units"].toString(), QString("millimetres"));
    for (const char* code : {"mesh.duplicates", "mesh.flipped", "glass.doubled", "element.stray", "model.trace"})
      QVERIFY2(made.out.contains(code), code);
    // The faults as the guide tells them.
    QStringList faults;
    for (const auto& v : QJsonDocument::fromJson(made.out.toUtf8()).object()["findings"].toArray())
      if (!v.toObject()["mend"].toString().isEmpty()) faults << v.toObject()["text"].toString();
    QCOMPARE(faults.size(), 7);
    for (const char* told : {"478 faces", "86 edges", "894 m away", "20 panes", "66 faces"})
      QVERIFY2(faults.join("\n").contains(told), told);
    const Ran look = cli({"trace", in, "--look", "--json"});
    const QJsonObject traced = QJsonDocument::fromJson(look.out.toUtf8()).object();
    QCOMPARE(traced["storeys"].toArray().size(), 2);
    QCOMPARE(traced["rooms"].toArray().size(), 9);
    QVERIFY(std::abs(traced["deviation"].toObject()["area_m2"].toDouble() -
                     traced["deviation"].toObject()["source_area_m2"].toDouble()) < 0.1);
    const Ran mended = cli({"mend", in, "--all"});
    QVERIFY2(mended.code == 0, qPrintable(mended.out + mended.err));
    const auto facts = [&](const QString& project) {
      const Ran run =
          cli({"run", project, "--study", "daylight-factor", "--json", "--no-store", "--out", d.filePath("tables")});
      std::vector<QJsonObject> rooms;
      for (const auto& g : QJsonDocument::fromJson(run.out.toUtf8()).object()["groups"].toArray())
        rooms.push_back(g.toObject());
      return rooms;
    };
    const auto heavy = facts(in), clean = facts(folder + "/ropewalk-quay.noonward");
    QCOMPARE(clean.size(), std::size_t(7));
    for (const QJsonObject& room : clean) { // told by their sensors and light: the file names none
      const double mean = room["mean"].toDouble();
      QVERIFY2(std::any_of(heavy.begin(), heavy.end(),
                           [&](const QJsonObject& h) {
                             return h["sensors"] == room["sensors"] &&
                                    std::abs(h["mean"].toDouble() - mean) < 0.03 * mean;
                           }),
               qPrintable(room["name"].toString()));
    }
    const QJsonObject cost =
        QJsonDocument::fromJson(cli({"run", in, "--study", "daylight-factor", "--estimate", "--json"}).out.toUtf8())
            .object();
    QVERIFY(cost["sensors"].toInt() > 446 && cost["seconds"].toDouble() > 0.5 && cost["seconds"].toDouble() < 60 &&
            cost["triangles"].toInt() > 500);
    // Its rooms out as gbXML, and traced again from there: the same rooms.
    const QString xml = d.filePath("rooms.xml"), back = d.filePath("back.noonward");
    QCOMPARE(cli({"export", in, "--out", xml}).code, 0);
    QCOMPARE(cli({"import", xml, "--out", back}).code, 0);
    const QJsonArray again = QJsonDocument::fromJson(cli({"trace", back, "--look", "--json"}).out.toUtf8())
                                 .object()["rooms"]
                                 .toArray(),
                     first = traced["rooms"].toArray();
    QCOMPARE(again.size(), first.size());
    for (const auto& r : first)
      QVERIFY2(
          std::any_of(again.begin(), again.end(),
                      [&](const auto& a) {
                        return std::abs(a.toObject()["area"].toDouble() - r.toObject()["area"].toDouble()) < 0.02 &&
                               std::abs(a.toObject()["glazing"].toDouble() - r.toObject()["glazing"].toDouble()) < 0.01;
                      }),
          qPrintable(r.toObject()["name"].toString()));
    // Back to the source, and again by other wishes.
    QCOMPARE(cli({"trace", in, "--undo"}).code, 0);
    QVERIFY(cli({"rooms", in}).out.count("\n") < 3);
    QVERIFY(cli({"trace", in, "--floors", "0", "--cut-below", "0.2", "--source", "library-as-received.obj"})
                .out.contains("cut at 3.10 m: 8 rooms"));
    QCOMPARE(cli({"trace", in, "--source", "nothing"}).code, 2);
    QCOMPARE(cli({"trace", folder + "/tarrow-green.noonward"}).code, 1);
  }

  void filesAreBroughtAgainAndListedForTheirMakers() {
    QTemporaryDir d;
    const auto yard = [](double x, bool twice) {
      QByteArray out = "o kiln\n";
      for (double z : {0.0, 5.0})
        for (const auto& [u, v] : {std::pair{0.0, 0.0}, {6.0, 0.0}, {6.0, 4.0}, {0.0, 4.0}})
          out += QString("v %1 %2 %3\n").arg(x + u).arg(v).arg(z).toUtf8();
      for (const char* f : {"1 4 3 2", "5 6 7 8", "1 2 6 5", "2 3 7 6", "3 4 8 7", "4 1 5 8"})
        out += QByteArray("f ") + f + "\n";
      if (twice) out += "f 5 6 7 8\n";
      return out;
    };
    const QString file = written(d, "yard.obj", yard(0, true)), project = d.filePath("yard.noonward"),
                  list = d.filePath("list.csv");
    QCOMPARE(cli({"import", file, "--units", "m", "--out", project}).code, 0);
    QVERIFY(!cli({"check", project}).out.contains("has changed"));
    Ran r = cli({"mend", project, "--code", "mesh.duplicates"});
    QVERIFY2(r.code == 0 && r.out.contains("mended:"), qPrintable(r.out + r.err));
    QCOMPARE(cli({"export", project, "--changes", list}).code, 0);
    QFile changes(list);
    QVERIFY(changes.open(QIODevice::ReadOnly));
    const QByteArray lines = changes.readAll();
    QVERIFY2(lines.startsWith("file,part,layer,role,done\nyard.obj,kiln,") &&
                 lines.contains("faces that stood twice removed") && lines.count('\n') == 2,
             lines.constData());
    QCOMPARE(cli({"export", project}).code, 2);
    // Drawn anew, still with its face twice: told, brought in again, mended again without being asked.
    written(d, "yard.obj", yard(7, true));
    r = cli({"check", project});
    QVERIFY2(r.out.contains("\"yard.obj\" has changed"), qPrintable(r.out));
    r = cli({"mend", project, "--code", "source.changed"});
    QVERIFY2(r.code == 0 && r.out.contains("0 new, 1 renewed, 1 of them moved"), qPrintable(r.out + r.err));
    r = cli({"check", project});
    QVERIFY2(!r.out.contains("has changed") && !r.out.contains("stand where another"), qPrintable(r.out));
    QVERIFY(QFile::remove(file));
    QVERIFY(cli({"check", project}).out.contains("no longer at"));
    QCOMPARE(cli({"mend", project, "--code", "source.changed"}).code, 0); // nothing to bring: nothing happens
    // A level of detail that is not there is told with those that are.
    const QString town = written(
        d, "town.json",
        R"({"type":"CityJSON","version":"1.1","CityObjects":{"b":{"type":"Building","geometry":[{"type":"MultiSurface","lod":"1","boundaries":[[[0,1,2]]]},{"type":"MultiSurface","lod":"2","boundaries":[[[0,1,2]],[[0,2,3]]]}]}},"vertices":[[0,0,0],[9,0,0],[9,9,4],[0,9,4]]})");
    r = cli({"import", town, "--level", "3"});
    QVERIFY2(r.code == 1 && r.err.contains("there are 1, 2"), qPrintable(r.err));
    QVERIFY(cli({"import", town, "--level", "1"}).out.contains("1 triangle;") &&
            cli({"import", town}).out.contains("2 triangles"));
  }

  void metricsOfGivenSeriesAreExact() {
    QTemporaryDir d;
    const auto write = [&](const char* name, const QByteArray& text) { return written(d, name, text); };
    // Two sensors: one has 300 lx in every hour, the other 600 lx from 12:00 to 14:00 by standard time and 50 lx else.
    QByteArray text = "hour,desk,corner\n", beam = "hour,desk,corner\n";
    for (int h = 0; h < 8760; ++h) {
      const int end = h % 24 + 1;
      text += QByteArray::number(h + 1) + ",300," + (end == 13 || end == 14 ? "600" : "50") + "\n";
      beam += QByteArray::number(h + 1) + "," + (h < 24 * 251 && end == 12 ? "1000" : "999") + ",0\n";
    }
    const QString series = write("s.csv", text), beams = write("b.csv", beam);
    const Ran r = cli({"metrics", series, "--beam", beams, "--json"});
    QVERIFY2(r.code == 0, qPrintable(r.err));
    const QJsonObject o = QJsonDocument::fromJson(r.out.toUtf8()).object(), space = o["space"].toObject();
    QCOMPARE(o["hours"].toInt(), 3650);
    const QJsonArray sensors = o["sensors"].toArray();
    QCOMPARE(sensors[0].toObject()["autonomy_percent"].toDouble(), 100.0);
    QVERIFY(std::abs(sensors[1].toObject()["autonomy_percent"].toDouble() - 20) < 1e-9); // two of ten hours
    QVERIFY(std::abs(sensors[1].toObject()["continuous_autonomy_percent"].toDouble() - (20 + 80 * 50.0 / 300)) < 1e-9);
    QVERIFY(std::abs(sensors[1].toObject()["mean_lux"].toDouble() - 160) < 1e-9);
    QCOMPARE(sensors[0].toObject()["beam_hours"].toInt(), 251);
    QCOMPARE(space["sda_percent"].toDouble(), 50.0);
    QCOMPARE(space["ase_percent"].toDouble(), 50.0);
    // A wider window, decimal commas and semicolons; a gap.
    QByteArray comma = "Stunde;a\n";
    for (int h = 0; h < 8760; ++h) comma += QByteArray::number(h + 1) + ";" + (h == 12 ? "" : "299,5") + "\n";
    comma.replace("Stunde", "hour");
    const Ran c = cli({"metrics", write("c.csv", comma), "--threshold", "299.5", "--begin", "0", "--end", "24"});
    QVERIFY2(c.code == 0, qPrintable(c.err));
    QVERIFY2(c.out.contains("a,100,100,0,0,0,0") || c.out.contains("a,100,100,"), qPrintable(c.out));
    QVERIFY(c.out.trimmed().endsWith(",1"));
    // What can't be used is told with its row.
    QCOMPARE(cli({"metrics", write("short.csv", "hour,a\n1,300\n2,300\n")}).code, 1);
    QCOMPARE(cli({"metrics", write("short.csv", "hour,a\n1,300\n2,300\n"), "--all-hours"}).code, 0);
    QVERIFY(cli({"metrics", write("bad.csv", "hour,a\n1,300\n2,light\n"), "--all-hours"}).err.contains("Row 3"));
    QVERIFY(cli({"metrics", write("ragged.csv", "hour,a,b\n1,300\n"), "--all-hours"}).err.contains("Row 2"));
    QCOMPARE(cli({"metrics", write("minus.csv", "a\n-5\n"), "--all-hours"}).code, 1);
    QCOMPARE(cli({"metrics", write("empty.csv", "")}).code, 1);
    QCOMPARE(cli({"metrics", d.filePath("none.csv")}).code, 1);
  }

  void theYearOfAProjectIsTold() {
    QTemporaryDir d;
    const QString project = copyDemo(d);
    const Ran r = cli({"run", project, "--study", "year", "--error", "10", "--out", d.filePath("out"), "--json"});
    QVERIFY2(r.code == 0, qPrintable(r.err));
    const QJsonObject o = QJsonDocument::fromJson(r.out.toUtf8()).object();
    QCOMPARE(o["spaces"].toArray().size(), 7);
    QCOMPARE(o["hours"].toInt(), 3650);
    // The building is its rooms by area.
    double sda = 0, area = 0;
    for (const QJsonValue& v : o["spaces"].toArray()) {
      sda += v.toObject()["sda_percent"].toDouble() * v.toObject()["area_m2"].toDouble();
      area += v.toObject()["area_m2"].toDouble();
    }
    QVERIFY(std::abs(o["building"].toObject()["sda_percent"].toDouble() - sda / area) < 1e-6);
    QFile table(d.filePath("out/year.csv"));
    QVERIFY(table.open(QIODevice::ReadOnly));
    QCOMPARE(table.readAll().count('\n'), o["sensors"].toInt() + 1);
    QVERIFY(QFile::exists(d.filePath("out/year-spaces.csv")));
    QCOMPARE(cli({"run", project, "--study", "year", "--blinds", "sometimes"}).code, 2);
    QCOMPARE(cli({"run", project, "--study", "year", "--name", "nobody"}).code, 2);
    QCOMPARE(cli({"run", project, "--study", "year", "--weights", "none.json"}).code, 2);
    QCOMPARE(cli({"run", project, "--study", "energy", "--weights", d.filePath("none.json")}).code, 2);
    QCOMPARE(cli({"run", d.filePath("tarrow-green.noonward"), "--study", "year", "--name", "Village green", "--error",
                  "30", "--out", d.filePath("green")})
                 .code,
             0);
  }

  void questionsAndTrialsAreOnTheCommandLine() {
    QTemporaryDir d;
    const QString project = copyDemo(d);
    QVERIFY(cli({"ask"}).out.contains("room-year"));
    QCOMPARE(cli({"ask", project}).code, 2); // neither a question nor a rule
    QCOMPARE(cli({"ask", project, "sun-facades", "--of", "Nowhere"}).code, 2);
    const Ran typo = cli({"ask", project, "sun-facade"});
    QVERIFY2(typo.code == 1 && typo.err.contains("\"sun-facades\" is meant?"), qPrintable(typo.err));
    const QString asked = d.filePath("asked.noonward");
    const Ran laid = cli({"ask", project, "sun-facades", "--of", "Weighhouse", "--save", asked});
    QVERIFY2(laid.code == 0 && laid.out.contains("“Weighhouse”"), qPrintable(laid.err));
    const auto run = [&](const char* kind, const QString& file) {
      const Ran r = cli({"run", asked, "--study", kind, "--trial", "--out", d.filePath("out")});
      QVERIFY2(r.code == 0 && QFile::exists(d.filePath("out/" + file)), qPrintable(r.err + r.out));
    };
    run("sun-hours", "sun-hours-trial.csv");
    run("vsc", "vsc-trial.csv");
    run("year", "year-trial.csv");
    QFile facts(d.filePath("out/vsc-trial.json"));
    QVERIFY(facts.open(QIODevice::ReadOnly));
    QVERIFY(QJsonDocument::fromJson(facts.readAll()).object()["trial"].toString().contains("not judged"));
    QVERIFY(!QFile::exists(d.filePath("asked.results.sqlite"))); // nothing is kept
  }

  void optionsRunsAndTheRecordAreOnTheCommandLine() {
    QTemporaryDir d;
    const QString project = copyDemo(d);
    QVERIFY(noonward::test::coarsen(project.toStdString()));
    const Ran options = cli({"options", project});
    QVERIFY2(options.code == 0 && options.out.contains("A As drawn  (in hand)") &&
                 options.out.contains("depth: 0.6 → 0.9"),
             qPrintable(options.out + options.err));
    const Ran compared = cli({"compare", project, "A", "B", "--json"});
    QVERIFY2(compared.code == 0, qPrintable(compared.err));
    const QJsonArray moves = QJsonDocument::fromJson(compared.out.toUtf8()).object()["moves"].toArray();
    int ofYear = 0;
    for (const QJsonValue& m : moves) ofYear += m.toObject()["study"].toString() == "Library year";
    QCOMPARE(ofYear, 24); // all and seven rooms: sDA, ASE, mean
    QCOMPARE(moves[0].toObject()["space"].toString(), QString("all"));
    QCOMPARE(moves[0].toObject()["figure"].toString(), QString("sDA"));
    for (const QJsonValue& m :
         moves) // on the other side nothing moves, but for a path in 10⁵ that comes by the fins late
      if (m.toObject()["space"].toString().startsWith("Study"))
        QVERIFY2(std::abs(m.toObject()["from"].toDouble() - m.toObject()["to"].toDouble()) <=
                     2e-5 * m.toObject()["from"].toDouble(),
                 qPrintable(QString::number(m.toObject()["to"].toDouble(), 'g', 10)));
    QCOMPARE(cli({"compare", project, "A", "Z"}).code, 2);
    const QJsonArray runs = QJsonDocument::fromJson(cli({"runs", project, "--json"}).out.toUtf8()).array();
    QCOMPARE(runs.size(), 2);
    QCOMPARE(runs[0].toObject()["option"].toString(), QString("Deep fins"));
    const QString last = QString::number(runs[0].toObject()["number"].toInt()),
                  first = QString::number(runs[1].toObject()["number"].toInt());
    QVERIFY(cli({"runs", project, "--run", last, "--against", first}).out.contains("shading · Fins: added"));
    QCOMPARE(cli({"runs", project, "--run", "99"}).code, 2);
    QCOMPARE(cli({"runs", project, "--run", last, "--rename", "Kept"}).code, 0);
    QVERIFY(cli({"runs", project}).out.contains("Kept"));
    // The credit is met with one point, as stored; by the older edition it falls short.
    const Ran judged = cli({"judge", project, "--yardstick", "daylight-credit", "--json"});
    const QJsonObject verdict = QJsonDocument::fromJson(judged.out.toUtf8()).array()[0].toObject();
    QCOMPARE(judged.code == 0, verdict["outcome"].toString() == "meets");
    const QJsonArray departures = verdict["departures"].toArray(); // none but the sensors set wider above
    QVERIFY(departures.size() == 1 && departures[0].toString().contains("spacing 1 m, 0.6 m at most"));
    QVERIFY(verdict["rows"].toArray().size() == 7 && verdict.contains("certainty"));
    QCOMPARE(cli({"judge", project, "--yardstick", "daylight-credit-older"}).code, 1);
    QVERIFY(cli({"judge", project, "--yardstick", "european-sunlight", "--option", "Deep fins"})
                .out.contains("Exposure to sunlight"));
    QCOMPARE(cli({"judge", project, "--yardstick", "european-sunlight", "--option", "None such"}).code, 1);
    QCOMPARE(cli({"set-up", project, "--yardstick", "daylight-credit", "--save", d.filePath("set.noonward")}).code, 0);
    QVERIFY(QFile::exists(d.filePath("set.noonward")));
    QCOMPARE(cli({"set-up", project, "--yardstick", "nothing"}).code, 2);
    // The record of the other option, on Letter, holds; changed, it does not.
    const QString folder = d.filePath("hand-in");
    const Ran record =
        cli({"record", project, "--option", "B", "--page", "letter", "--study", "Library year", "--out", folder});
    QVERIFY2(record.code == 0, qPrintable(record.err));
    const Ran holds = cli({"verify", folder});
    QVERIFY2(holds.code == 0 && holds.out.startsWith("The record holds"), qPrintable(holds.out + holds.err));
    QFile table(folder + "/rooms.csv");
    QVERIFY(table.open(QIODevice::Append));
    table.write("one more,1\n");
    table.close();
    const Ran changed = cli({"verify", folder});
    QVERIFY(changed.code == 1 && changed.out.contains("DIFFERS  rooms.csv"));
    QCOMPARE(cli({"verify", d.filePath("nowhere")}).code, 1);
    // Any study and rule makes one; what changed since is told.
    const QString green = d.filePath("tarrow-green.noonward"), hand = d.filePath("first"),
                  second = d.filePath("second");
    QCOMPARE(cli({"record", green, "--study", "Nothing", "--out", hand}).code, 2);
    QCOMPARE(cli({"record", green, "--out", hand, "--page", "a3"}).code, 0);
    QVERIFY(cli({"verify", hand}).out.startsWith("The record holds"));
    QCOMPARE(cli({"record", green, "--out", second, "--since", hand}).code, 0);
    QVERIFY(cli({"record-changes", hand, second}).out.startsWith("Nothing changed"));
    QCOMPARE(cli({"record-changes", hand, d.filePath("nowhere")}).code, 1);
    const Ran robust = cli({"judge", green, "--yardstick", "midwinter", "--robust", "--json"});
    const QJsonObject told = QJsonDocument::fromJson(robust.out.toUtf8()).array()[0].toObject();
    QVERIFY2(told["readings"].toArray().size() >= 4, qPrintable(robust.out));
    QCOMPARE(told["readings"][0]["text"].toString(), told["text"].toString());
  }
};

QTEST_GUILESS_MAIN(TestCli)
#include "tst_cli.moc"
