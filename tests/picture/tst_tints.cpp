// Layers with colours of their own, rooms coloured by a figure, the ray to the sun: what is shown is what is.

#ifndef Q_MOC_RUN
#include "core/files/project/project_file.h"
#include "core/model/form/edit.h"
#include "core/model/form/layers.h"
#include "picture/face_tint.h"
#include "picture/picture_export.h"
#include "picture/room_tint.h"
#include "picture/sun_ray.h"
#include "tests/house.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;

namespace {
Project row() {
  Project p;
  for (int k = 0; k < 5; ++k) {
    Element e;
    e.id = {std::uint64_t(10 + k)};
    e.name = "Block " + std::to_string(k);
    e.layer = k < 2 ? "old" : k < 4 ? "new" : "";
    e.shape = Mass{rectangle(20.0 * k, 0, 20.0 * k + 10, 8), k % 2 ? 3.2 : 0.1 * k, 6, 2};
    p.elements.push_back(std::make_shared<const Element>(e));
  }
  return p;
}
} // namespace

class TestTints : public QObject {
  Q_OBJECT
private slots:
  void layersAreToldInTheirOrder() {
    Project p = row();
    p = withEdited(std::move(p), {{10}}, [](Element& e) { e.hidden = true; });
    p = withEdited(std::move(p), {{12}, {13}}, [](Element& e) { e.counted = false; });
    const auto all = layersOf(p);
    QCOMPARE(all.size(), std::size_t(3));
    QCOMPARE(all[0].name, std::string("old"));
    QCOMPARE(all[0].shown, std::size_t(1));
    QCOMPARE(all[1].counted, std::size_t(0));
    QVERIFY(all[2].name.empty() && all[2].elements == std::vector<ElementId>{{14}});
  }

  void aColourIsKeptRenamedAndRefused() {
    Project p = row();
    p = *withLayerColour(p, "old", "#9C5A44");
    for (const char* wrong : {"red", "#12345", "#GG0000", "9C5A44#"}) QVERIFY(!withLayerColour(p, "old", wrong));
    Assignment a;
    a.finish = "Facade, standard";
    a.layer = "old";
    p.assignments = {a};
    p = withLayerRenamed(std::move(p), "old", "harbour side");
    QCOMPARE(p.elements[0]->layer, std::string("harbour side"));
    QCOMPARE(p.assignments[0].layer, std::string("harbour side")); // what was given by layer stays given
    QCOMPARE(layerColour(p, "harbour side"), std::string("#9C5A44"));
    QVERIFY(layerColour(p, "old").empty());
    QTemporaryDir dir;
    const std::filesystem::path file = dir.filePath("p.noonward").toStdString();
    QVERIFY(writeProject(p, file));
    const auto read = readProject(file);
    QVERIFY(read && read->project.layerColours == p.layerColours);
    QVERIFY(withLayerColour(p, "harbour side", "")->layerColours.empty());
    // A file with something else there says so.
    QFile text(dir.filePath("p.noonward"));
    QVERIFY(text.open(QIODevice::ReadOnly));
    QByteArray all = text.readAll();
    all.replace("#9C5A44", "reddish");
    QFile other(dir.filePath("q.noonward"));
    QVERIFY(other.open(QIODevice::WriteOnly));
    other.write(all);
    other.close();
    const auto faulty = readProject(dir.filePath("q.noonward").toStdString());
    QVERIFY(!faulty && QString::fromStdString(faulty.error().text()).contains("is no colour"));
  }

  void sortedByTheLevelTheyStandOn() {
    const Project p = row(); // feet at 0, 3.2, 0.2, 3.2, 0.4
    std::vector<ElementId> ids;
    for (const ElementPtr& e : p.elements) ids.push_back(e->id);
    const Project q = withLayersByLevel(p, ids);
    for (int k = 0; k < 5; ++k) QCOMPARE(q.elements[std::size_t(k)]->layer, std::string(k % 2 ? "Level 2" : "Level 1"));
  }

  void theColourIsInThePicture() {
    Project p = row();
    p.site.place = {radians(52), radians(13), 0};
    const auto count = [](const QImage& image, const QColor& like) {
      int n = 0;
      for (int y = 0; y < image.height(); y += 2)
        for (int x = 0; x < image.width(); x += 2) {
          const QColor c = image.pixelColor(x, y);
          n += std::abs(c.hslHue() - like.hslHue()) < 12 && c.hslSaturation() > 40;
        }
      return n;
    };
    const auto picture = [&] {
      QTemporaryDir dir;
      PictureRequest r;
      r.width = 500;
      r.height = 300;
      RunControl control;
      const Outcome o = exportPicture(p, r, dir.filePath("p.png").toStdString(), control, nullptr, nullptr);
      return o ? QImage(dir.filePath("p.png")) : QImage();
    };
    const QColor blue("#4C7F93");
    const int before = count(picture(), blue);
    p = *withLayerColour(p, "new", "#4C7F93");
    const int after = count(picture(), blue);
    QVERIFY2(after > before + 300, qPrintable(QString("%1 %2").arg(before).arg(after)));
  }

  void roomsAreColouredByWhatTheyAre_data() {
    QTest::addColumn<int>("figure");
    QTest::addColumn<double>("value");
    QTest::addColumn<QString>("unit");
    const double area = 7.3 * 5.3;
    QTest::newRow("area") << int(RoomFigure::Area) << area << "m²";
    QTest::newRow("volume") << int(RoomFigure::Volume) << 3 * area << "m³";
    QTest::newRow("height") << int(RoomFigure::Height) << 3.0 << "m";
    QTest::newRow("glass") << int(RoomFigure::Glass) << 0.4 * 7.3 * 3 << "m²";
    QTest::newRow("glass by floor") << int(RoomFigure::GlassOfFloor) << 100 * 0.4 * 7.3 * 3 / area << "%";
    QTest::newRow("glass by wall") << int(RoomFigure::GlassOfWall) << 100 * 0.4 * 7.3 / (2 * (7.3 + 5.3)) << "%";
  }
  void roomsAreColouredByWhatTheyAre() {
    QFETCH(int, figure);
    QFETCH(double, value);
    QFETCH(QString, unit);
    const Project p = test::house({.width = 8, .depth = 6, .wall = 0.35, .ratio = 0.4});
    const RoomTints t = roomTints(p, RoomFigure(figure));
    QCOMPARE(t.value.size(), std::size_t(1));
    QVERIFY2(std::abs(t.value[0] - value) < 1e-6, qPrintable(QString::number(t.value[0])));
    QCOMPARE(QString::fromStdString(t.scale.unit), unit);
    QVERIFY(t.scale.low == 0 && t.scale.high >= value && t.scale.high < 1.2 * value);
    QVERIFY(QString::fromStdString(t.words[0]).contains(unit));
  }

  void roomsAreColouredInTheUnitsLookedAt() {
    Project p = test::house({.width = 8, .depth = 6, .wall = 0.35, .ratio = 0.4});
    p.units.length = LengthUnit::Foot;
    QVERIFY(std::abs(roomTints(p, RoomFigure::Area).value[0] - 7.3 * 5.3 / 0.09290304) < 1e-6);
    QVERIFY(std::abs(roomTints(p, RoomFigure::Height).value[0] - 3 / 0.3048) < 1e-6);
    const Mesh floors = roomFloors(p, 0);
    QVERIFY(std::abs(surfaceArea(floors) - 7.3 * 5.3) < 1e-6);
    QVERIFY(roomFloors(p, 9).triangles.empty());
  }

  void theRayEndsInTheSunAndItsArcsHaveItsAngles() {
    Project p = test::house();
    p.site.place = {radians(55.6), radians(12.5), 0};
    p.site.zone = "Europe/Copenhagen";
    for (const double north : {0.0, radians(12), radians(-140)}) {
      p.site.northAngle = north;
      const Instant noon = p.zone().instant({{2026, 6, 21}, 15 * 3600});
      const auto ray = sunRay(p, noon, {1, 2, 3}, 5);
      QVERIFY(ray);
      QVERIFY(length(ray->toward - sunDirection(p, noon)) < 1e-12);
      const Vec3 end = (ray->altitude.back() - ray->spot) * (1.0 / 5);
      QVERIFY(length(end - ray->toward) < 1e-9);
      QVERIFY(length(ray->azimuth.back() - ray->altitude.front()) < 1e-9);
      QVERIFY(std::abs(dot(ray->toward, {0, 0, 1}) - std::sin(ray->altitudeAngle)) < 1e-12);
      // Whichever way the drawing lies: as an almanac has it for that place and minute.
      QVERIFY(std::abs(degrees(ray->azimuthAngle) - 222.86) < 0.01);
      QVERIFY(std::abs(degrees(ray->altitudeAngle) - 52.17) < 0.01);
      const Vec3 n = (ray->azimuth.front() - ray->spot) * (1.0 / 5);
      QVERIFY(std::abs(wrapPi(std::atan2(n.x, n.y) + north)) < 1e-9); // begins at true north
      for (Vec3 x : ray->azimuth) QVERIFY(std::abs(x.z - 3) < 1e-12 && std::abs(length(x - ray->spot) - 5) < 1e-9);
    }
    QVERIFY(!sunRay(p, p.zone().instant({{2026, 6, 21}, 0}), {0, 0, 0}, 5)); // at night there is none
  }
};

QTEST_MAIN(TestTints)
#include "tst_tints.moc"
