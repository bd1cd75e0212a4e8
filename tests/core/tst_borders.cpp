// The program's borders: names in any encoding, endings in any case, files that say one thing twice, places without a
// clock, mends that are nobody's but the user's.

#ifndef Q_MOC_RUN
#include "core/files/library.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/project/project_file.h"
#include "core/geometry/plan_cut.h"
#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "tests/house.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <fcntl.h>
#include <filesystem>
#include <sys/stat.h>
#endif

using namespace noonward;
namespace fs = std::filesystem;

namespace {

constexpr const char* cube = "g %1\nv 0 0 0\nv 4 0 0\nv 4 6 0\nv 0 6 0\nv 0 0 3\nv 4 0 3\nv 4 6 3\nv 0 6 3\nf 1 4 3 "
                             "2\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n";

std::string written(const QTemporaryDir& d, const std::string& name, const QByteArray& bytes) {
  const std::string path = d.path().toStdString() + "/" + name;
  fs::create_directories(fs::path(path).parent_path());
  if (!saveFile(path, std::string_view(bytes.constData(), std::size_t(bytes.size())))) qFatal("could not write");
  return path;
}
Project imported(const std::string& path, Project p = {}) {
  const auto model = readModel(path);
  if (!model) qFatal("%s", model.error().text().c_str());
  return broughtIn(std::move(p), *model, guessPlacement(*model, {}).placement, Role::Neighbour, true).project;
}

/// A block 4 wide, 6 deep, 3 high in each format, by a writer of its own; y is up where the format says so.
QByteArray dae(const char* up, double metres) {
  const bool y = std::string(up) == "Y_UP";
  QByteArray points, index;
  for (int k = 0; k < 8; ++k) {
    const double x = k & 1 ? 4 : 0, n = k & 2 ? 6 : 0, z = k & 4 ? 3 : 0;
    points += y ? QByteArray::number(x / metres) + " " + QByteArray::number(z / metres) + " " +
                      QByteArray::number(-n / metres) + " "
                : QByteArray::number(x / metres) + " " + QByteArray::number(n / metres) + " " +
                      QByteArray::number(z / metres) + " ";
  }
  for (const auto& q :
       {std::array<int, 4>{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {1, 3, 7, 5}, {3, 2, 6, 7}, {2, 0, 4, 6}})
    index += QByteArray("%a %b %c %a %c %d ")
                 .replace("%a", QByteArray::number(q[0]))
                 .replace("%b", QByteArray::number(q[1]))
                 .replace("%c", QByteArray::number(q[2]))
                 .replace("%d", QByteArray::number(q[3]));
  return "<?xml version=\"1.0\"?><COLLADA xmlns=\"http://www.collada.org/2005/11/COLLADASchema\" "
         "version=\"1.4.1\"><asset><unit meter=\"" +
         QByteArray::number(metres) + "\" name=\"u\"/><up_axis>" + up +
         "</up_axis></asset><library_geometries><geometry id=\"g\" name=\"Block\"><mesh><source id=\"p\"><float_array "
         "id=\"pa\" count=\"24\">" +
         points +
         "</float_array><technique_common><accessor source=\"#pa\" count=\"8\" stride=\"3\"><param name=\"X\" "
         "type=\"float\"/><param name=\"Y\" type=\"float\"/><param name=\"Z\" "
         "type=\"float\"/></accessor></technique_common></source><vertices id=\"v\"><input semantic=\"POSITION\" "
         "source=\"#p\"/></vertices><triangles count=\"12\"><input semantic=\"VERTEX\" source=\"#v\" "
         "offset=\"0\"/><p>" +
         index +
         "</p></triangles></mesh></geometry></library_geometries><library_visual_scenes><visual_scene id=\"s\"><node "
         "id=\"n\" name=\"Block\"><instance_geometry "
         "url=\"#g\"/></node></visual_scene></library_visual_scenes><scene><instance_visual_scene "
         "url=\"#s\"/></scene></COLLADA>";
}

} // namespace

class TestBorders : public QObject {
  Q_OBJECT
private slots:
  void namesInLatin1_data() {
    QTest::addColumn<QString>("ending");
    QTest::addColumn<QByteArray>("bytes");
    const QByteArray name("M\xFChle \xC5str\xF6m");
    QTest::newRow("obj") << ".obj" << QByteArray(cube).replace("%1", name);
    QTest::newRow("stl")
        << ".stl"
        << QByteArray(
               "solid " + name +
               "\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 40 0 0\nvertex 0 30 0\nendloop\nendfacet\nfacet "
               "normal 1 0 0\nouter loop\nvertex 0 0 0\nvertex 0 30 0\nvertex 0 0 20\nendloop\nendfacet\nendsolid\n");
    QTest::newRow("dxf") << ".dxf"
                         << QByteArray("0\nSECTION\n2\nENTITIES\n0\n3DFACE\n8\n" + name +
                                       "\n10\n0\n20\n0\n30\n0\n11\n40\n21\n0\n31\n0\n12\n40\n22\n30\n32\n0\n13\n0\n23\n"
                                       "30\n33\n0\n0\nENDSEC\n0\nEOF\n");
  }
  void namesInLatin1() {
    QFETCH(QString, ending);
    QFETCH(QByteArray, bytes);
    QTemporaryDir d;
    Project p = imported(written(d, ("b\xE9ton" + ending).toStdString(), bytes));
    p.id = ProjectId::fresh();
    QVERIFY(!p.elements.empty());
    const fs::path file = d.path().toStdString() + "/saved.noonward";
    const Outcome saved = writeProject(p, file);
    QVERIFY2(saved.has_value(), saved ? "" : saved.error().text().c_str());
    const auto again = readProject(file);
    QVERIFY2(again.has_value(), again ? "" : again.error().text().c_str());
    QCOMPARE(again->project.elements.size(), p.elements.size());
    const ElementPtr e = again->project.elements[0];
    if (ending != ".stl")
      QVERIFY2((e->name + e->layer).find("Mühle Åström") != std::string::npos, (e->name + e->layer).c_str());
    QVERIFY(e->imported() && e->imported()->mesh);
  }

  void nastyNamesComeBackAsTheyWent_data() {
    QTest::addColumn<QString>("name");
    for (const char* n :
         {"Tower [option two]", "[1, 2]", "[1,\n  2]", "a \"quoted\" {brace} [bracket", "]", "  [ 1 ]  ", "back\\slash",
          "tab\tand\nline", "𝄞 clef", "", "null", "{\"x\": [1, 2]}", "/* no comment */", "// none"})
      QTest::newRow(n) << QString::fromUtf8(n);
  }
  void nastyNamesComeBackAsTheyWent() {
    QFETCH(QString, name);
    const std::string n = name.toStdString();
    Project p = test::house({.ratio = 0.3, .spacing = 1});
    p.id = ProjectId::fresh();
    p.name = p.site.name = p.preparedBy = n;
    p.rooms[0].name = p.rooms[0].use = p.rooms[0].reason = n;
    p.groups[0].name = n.empty() ? "g" : n;
    p = withEdited(p, {{10}}, [&](Element& e) { e.name = e.layer = e.source = n; });
    p.windowRules[0].name = p.windowRules[0].type = n;
    Underlay u;
    u.id = UnderlayId::fresh();
    p.sources.push_back({n.empty() ? "f" : n, "/folder " + n + "/x.obj"});
    p.accepted["room.no-glazing"] = n;
    const auto again = parseProject(projectText(p, "x.files"), "x.noonward", {});
    QVERIFY2(again.has_value(), again ? "" : again.error().text().c_str());
    const Project& q = again->project;
    QCOMPARE(q.name, p.name);
    QCOMPARE(q.site.name, n);
    QCOMPARE(q.rooms[0], p.rooms[0]);
    QCOMPARE(q.element({10})->name, n);
    QCOMPARE(q.element({10})->layer, n);
    QCOMPARE(q.windowRules[0], p.windowRules[0]);
    QCOMPARE(q.sources[0].path, p.sources[0].path);
    QCOMPARE(q.accepted, p.accepted);
    QCOMPARE(projectText(q, "x.files"), projectText(p, "x.files"));
  }

  void everyEndingInEveryCase_data() {
    QTest::addColumn<QString>("ending");
    QTest::addColumn<QByteArray>("bytes");
    const QByteArray block = QByteArray(cube).replace("%1", "Block");
    for (const char* up : {"Y_UP", "Z_UP"})
      for (const double metres : {1.0, 0.01, 0.0254})
        for (const char* ending : {".dae", ".DAE", ".Dae"})
          QTest::addRow("%s %s %g m", ending, up, metres) << QString(ending) << dae(up, metres);
    for (const char* ending : {".obj", ".OBJ"}) QTest::newRow(ending) << QString(ending) << block;
    // glTF and GLB by our own writer, which is held against others elsewhere.
    QFile sail(TEST_DATA "/sail.gltf");
    QVERIFY(sail.open(QIODevice::ReadOnly));
    const QByteArray gltf = sail.readAll();
    for (const char* ending : {".gltf", ".GLTF"}) QTest::newRow(ending) << QString(ending) << gltf;
  }
  void everyEndingInEveryCase() {
    QFETCH(QString, ending);
    QFETCH(QByteArray, bytes);
    QTemporaryDir d;
    const auto model = readModel(written(d, ("block" + ending).toStdString(), bytes));
    QVERIFY2(model.has_value(), model ? "" : model.error().text().c_str());
    const auto small = readModel(written(d, ("block" + ending.toLower()).toStdString(), bytes));
    QVERIFY(small.has_value());
    QCOMPARE(model->statedYUp, small->statedYUp);
    QCOMPARE(model->statedUnit, small->statedUnit);
    QCOMPARE(model->box().size(), small->box().size());
    if (!ending.toLower().startsWith(".dae")) return;
    const PlacementGuess g = guessPlacement(*model, {});
    Box3 box;
    for (const Element& e : placedElements(*model, g.placement, Role::Neighbour)) box.addBox(boxOf(e));
    const Vec3 s = box.size();
    QVERIFY2(std::abs(s.x - 4) < 1e-3 && std::abs(s.y - 6) < 1e-3 && std::abs(s.z - 3) < 1e-3,
             qPrintable(QString("%1 × %2 × %3 m, %4").arg(s.x).arg(s.y).arg(s.z).arg(g.reason.c_str())));
    QVERIFY(model->parts[0].name.find("Block") == 0);
  }

  void basesCountOnce_data() {
    QTest::addColumn<QString>("properties");
    QTest::addColumn<double>("base");
    QTest::addColumn<double>("top");
    QTest::newRow("height alone") << R"("height": 40)" << 0.0 << 40.0;
    QTest::newRow("base_height") << R"("height": 40, "base_height": 30)" << 30.0 << 40.0;
    QTest::newRow("min_height") << R"("height": 40, "min_height": 10)" << 10.0 << 40.0;
    QTest::newRow("building:min_height") << R"("building:height": "40 m", "building:min_height": 10)" << 10.0 << 40.0;
    QTest::newRow("a height over its base") << R"("height": 5, "base": 12)" << 12.0 << 17.0;
  }
  void basesCountOnce() {
    QFETCH(QString, properties);
    QFETCH(double, base);
    QFETCH(double, top);
    const QString text =
        R"({"type":"Feature","properties":{)" + properties +
        R"(},"geometry":{"type":"Polygon","coordinates":[[[1000,1000],[1020,1000],[1020,1010],[1000,1010]]]}})";
    const auto m = parseGeoJson(text.toStdString(), "x.geojson");
    QVERIFY(m.has_value());
    QCOMPARE(m->outlines[0].base, base);
    QCOMPARE(m->outlines[0].base + m->outlines[0].height, top);
  }

  void crossingOutlinesKeepTheirArea_data() {
    QTest::addColumn<QList<QPointF>>("ring");
    QTest::addColumn<double>("area");
    using L = QList<QPointF>;
    QTest::newRow("sound") << L{{0, 0}, {4, 0}, {4, 4}, {0, 4}} << 16.0;
    QTest::newRow("bow") << L{{0, 0}, {4, 4}, {4, 0}, {0, 4}} << 8.0;
    QTest::newRow("crosses itself twice")
        << L{{0, 0}, {6, 0}, {6, 2}, {0, 2}, {0, 4}, {6, 4}, {6, 6}, {-1, 6}, {-1, 1}, {7, 1}, {7, -1}, {0, -1}}
        << -1.0;
    QTest::newRow("out and back") << L{{0, 0}, {4, 0}, {8, 0}, {4, 0}, {4, 4}, {0, 4}} << 16.0;
    QTest::newRow("nothing") << L{{0, 0}, {4, 0}, {8, 0}} << 0.0;
  }
  void crossingOutlinesKeepTheirArea() {
    QFETCH(QList<QPointF>, ring);
    QFETCH(double, area);
    for (const double far : {0.0, 1e6}) {
      Outline o;
      for (const QPointF& p : ring) o.outer.push_back({p.x() + far, p.y() - far});
      double sum = 0;
      for (const Outline& x : repaired(o)) {
        QVERIFY(checkOutline(x).fault == OutlineFault::None);
        sum += noonward::area(x);
      }
      if (area >= 0)
        QVERIFY2(std::abs(sum - area) < 0.01, qPrintable(QString("%1 for %2").arg(sum).arg(area)));
      else
        QVERIFY(sum > 5);
    }
  }

  void aPlaceBringsItsClock_data() {
    QTest::addColumn<double>("latitude");
    QTest::addColumn<double>("longitude");
    QTest::addColumn<QString>("zone");
    QTest::newRow("a city") << 55.676 << 12.57 << "Europe/Copenhagen";
    QTest::newRow("another hemisphere") << -36.85 << 174.76 << "Pacific/Auckland";
    QTest::newRow("beside a border") << 47.55 << 7.59 << "Europe/Zurich";
    QTest::newRow("an ocean") << -40.0 << -120.0 << "UTC-08:00";
  }
  void aPlaceBringsItsClock() {
    QFETCH(double, latitude);
    QFETCH(double, longitude);
    QFETCH(QString, zone);
    const ZoneOfPlace z = zoneOfPlace({radians(latitude), radians(longitude), 0});
    if (zone == "UTC-08:00")
      QVERIFY2(z.zone == zone.toStdString() && z.how.find("longitude") != std::string::npos, z.zone.c_str());
    else
      QCOMPARE(z.zone, zone.toStdString());
    // A footprint in degrees that opens a project: 9 to 15 o'clock are those of its place.
    const QString text =
        QString(
            R"({"type":"Feature","properties":{"height":8},"geometry":{"type":"Polygon","coordinates":[[[%1,%2],[%3,%2],[%3,%4],[%1,%4]]]}})")
            .arg(longitude, 0, 'f', 5)
            .arg(latitude, 0, 'f', 5)
            .arg(longitude + 0.0003, 0, 'f', 5)
            .arg(latitude + 0.0002, 0, 'f', 5);
    const auto m = parseGeoJson(text.toStdString(), "x.geojson");
    const ImportOutcome o = broughtIn({}, *m, guessPlacement(*m, {}).placement, Role::Neighbour, true);
    QCOMPARE(o.project.site.zone, z.zone);
    QVERIFY(o.remark.find("clock") != std::string::npos);
    for (const Finding& f : checkProject(o.project)) QVERIFY(f.code != "site.zone");
  }

  void aClockFarFromTheSunsIsFound() {
    Project p;
    p.site.place = {radians(40), radians(-74), 0};
    p.site.zone = "UTC";
    const Findings f = checkProject(p);
    const auto at = std::find_if(f.begin(), f.end(), [](const Finding& x) { return x.code == "site.zone"; });
    QVERIFY(at != f.end() && at->rank == Rank::BendsResult);
    QCOMPARE(mendProject(p, *at)->site.zone, std::string("UTC-05:00"));
    p.site.zone = "America/New_York";
    for (const Finding& x : checkProject(p)) QVERIFY(x.code != "site.zone");
  }

  void mendAllLeavesSizesPlacesAndMeasurementsAlone() {
    Project p;
    p.site.place = test::demoWeather()->place;
    p.site.zone = "Europe/Copenhagen";
    Weather w = *test::demoWeather();
    w.place.longitude = radians(-60); // the header's fault; the light itself is right
    finishWeather(w);
    p.site.weather = std::make_shared<const Weather>(w);
    Element terrain;
    terrain.id = {1};
    terrain.name = "terrain";
    terrain.role = Role::Neighbour;
    terrain.shape = Mass{rectangle(-2200, -2200, 2200, 2200), 0, 20, 1};
    p = withElement(std::move(p), terrain);
    Element flat = terrain;
    flat.id = {2};
    flat.shape = Mass{rectangle(0, 0, 5, 5), 0, 0, 1}; // no height: that one is a fault that all may mend
    p = withElement(std::move(p), flat);
    Findings carried;
    const auto mended = mendAll(
        p, [](const Finding& f) { return !neverOfAll(f); }, carried);
    QVERIFY(mended.has_value());
    QVERIFY(mended->site.weather == p.site.weather);
    QVERIFY(mended->site.place == p.site.place && mended->site.zone == p.site.zone);
    QCOMPARE(boxOf(*mended->element({1})).size(), boxOf(terrain).size());
    QVERIFY(heightOf(*mended->element({2})) > 1);
    for (const Finding& f : carried)
      QVERIFY(!f.code.starts_with("weather.") && !f.code.starts_with("site.") && !f.code.starts_with("element.size"));
    // And the cause is told, one by one to be mended.
    const Findings left = checkProject(*mended);
    QVERIFY(std::any_of(left.begin(), left.end(),
                        [](const Finding& f) { return f.code == "weather.longitude" || f.code == "weather.noon"; }));
    QVERIFY(std::none_of(left.begin(), left.end(), [](const Finding& f) { return f.code == "weather.night"; }));
  }

  void twoFilesOfOneNameAreTwoSources() {
    QTemporaryDir d;
    Project p = imported(written(d, "east/house.obj", QByteArray(cube).replace("%1", "A")));
    p = imported(written(d, "west/house.obj", QByteArray(cube).replace("%1", "A").replace("v 4", "v 14")),
                 std::move(p));
    QCOMPARE(p.elements.size(), std::size_t(2));
    QCOMPARE(p.sources.size(), std::size_t(2));
    QVERIFY(p.sources[0].name == "house.obj" && p.sources[1].name == "west/house.obj");
    // The first again, where it lies; and moved elsewhere it is still itself.
    p = imported(d.path().toStdString() + "/east/house.obj", std::move(p));
    QCOMPARE(p.elements.size(), std::size_t(2));
    fs::create_directories(d.path().toStdString() + "/north");
    fs::rename(d.path().toStdString() + "/east/house.obj", d.path().toStdString() + "/north/house.obj");
    p = imported(d.path().toStdString() + "/north/house.obj", std::move(p));
    QCOMPARE(p.elements.size(), std::size_t(2));
    QVERIFY(p.sources[0].path.find("/north/") != std::string::npos);
  }

  void leftoversOfKilledSavesGo() {
    QTemporaryDir d;
    const std::string target = d.path().toStdString() + "/p.noonward";
    for (const char* name : {"p.noonward.part-abc123", "p.noonward.part-new456", "other.noonward.part-abc123"})
      written(d, name, "half");
    const timespec old[2]{{::time(nullptr) - 7200, 0}, {::time(nullptr) - 7200, 0}};
    for (const char* name : {"p.noonward.part-abc123", "other.noonward.part-abc123"})
      QVERIFY(::utimensat(AT_FDCWD, (d.path().toStdString() + "/" + name).c_str(), old, 0) == 0);
    QVERIFY(saveFile(target, "whole"));
    QVERIFY(!fs::exists(target + ".part-abc123"));
    QVERIFY(fs::exists(target + ".part-new456")); // may be somebody's save under way
    QVERIFY(fs::exists(d.path().toStdString() + "/other.noonward.part-abc123"));
  }

  void aFileSavedElsewhereIsTold() {
    QTemporaryDir d;
    const fs::path file = d.path().toStdString() + "/p.noonward";
    Project p = test::house();
    p.id = ProjectId::fresh();
    QVERIFY(writeProject(p, file));
    const auto mine = readProject(file);
    QVERIFY(stillTheSame(file, mine->content));
    p.name = "theirs";
    QVERIFY(writeProject(p, file));
    const Outcome told = stillTheSame(file, mine->content);
    QVERIFY(!told && told.error().text().find("Another program") != std::string::npos);
    fs::remove(file);
    QVERIFY(stillTheSame(file, mine->content)); // nothing of theirs to lose
  }

  void namesThatNothingKnowsStopLight() {
    Project p = test::house({.ratio = 0.3});
    p.windowRules[0].glazing = "Unobtainable";
    const Findings f = checkProject(p);
    const auto at = std::find_if(f.begin(), f.end(), [](const Finding& x) { return x.code == "finish.unknown"; });
    QVERIFY(at != f.end() && at->rank == Rank::StopsStudy && at->text.find("Unobtainable") != std::string::npos);
  }

  void groundThatDoesNotFitIsFound_data() {
    QTest::addColumn<double>("ground");
    QTest::addColumn<QString>("code");
    QTest::newRow("where it stands") << 0.0 << "";
    QTest::newRow("a little under") << -1.5 << "";
    QTest::newRow("far below") << -30.0 << "ground.below";
    QTest::newRow("over all of it") << 50.0 << "ground.above";
    QTest::newRow("over its windows") << 2.8 << "ground.window";
  }
  void groundThatDoesNotFitIsFound() {
    QFETCH(double, ground);
    QFETCH(QString, code);
    Project p = test::house({.ratio = 0.3});
    p.site.groundLevel = ground;
    bool found = false;
    for (const Finding& f : checkProject(p))
      if (f.code.starts_with("ground.")) {
        found |= code == QString::fromStdString(f.code);
        if (code.isEmpty()) QFAIL(f.text.c_str());
        if (!f.mend.empty()) QCOMPARE(mendProject(p, f)->site.groundLevel, 0.0);
      }
    QCOMPARE(found, !code.isEmpty());
  }
};

QTEST_GUILESS_MAIN(TestBorders)
#include "tst_borders.moc"
