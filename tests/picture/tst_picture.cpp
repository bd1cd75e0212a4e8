// Pictures: sections, parts of the model, figures that never collide, ranges; without a window.

#include "core/files/meshes/mesh_files.h"
#include "core/files/project/project_file.h"
#include "core/model/form/edit.h"
#include "core/model/rooms/placing.h"
#include "core/studies/model_parts.h"
#include "picture/opened_rooms.h"
#include "picture/picture_export.h"
#include "picture/room_labels.h"
#include "picture/section.h"
#include "tests/house.h"
#include <QGuiApplication>
#include <QTemporaryDir>
#include <QtTest>

using namespace noonward;

namespace {
Project house() {
  Project p = test::house({.ratio = 0.3, .spacing = 0.5});
  Study s;
  s.id = {50};
  s.kind = StudyKind::DaylightFactor;
  s.name = "Light";
  s.light.error = 0.1;
  p.studies.push_back(s);
  return p;
}

SensorField painted(const Project& p) {
  const auto in = lightInput(p, p.studies[0]);
  RunControl control;
  auto result = std::make_shared<const LightResult>(runLight(*in, control));
  SensorField out;
  out.sensors = in->sensors;
  out.scale = scaleFor(*result, 2);
  out.light = std::move(result);
  return out;
}
} // namespace

class TestPicture : public QObject {
  Q_OBJECT
private slots:
  void aSectionCutsWallsAndLeavesRoomsAndWindowsOpen() {
    const Project p = house();
    const SectionCut cut = cutAt(p, {{4, -5}, {4, 11}}); // from south to north through the window's middle
    double solid = 0;
    for (const Outline& o : cut.solid) solid += area(o);
    const PlacedOpening window = placedOpenings(p).openings.at(0);
    // The house's profile without the room's and the window's hole in the wall.
    const double expected = 6 * 3.4 - 5.3 * 3 - 0.35 * window.opening.height;
    QVERIFY2(std::abs(solid - expected) < 0.01, qPrintable(QString("%1 against %2").arg(solid).arg(expected)));
    QCOMPARE(cut.panes.size(), std::size_t(1));
    QVERIFY(std::abs(cut.panes[0].first.y - window.opening.sill) < 1e-9);
    // u counts from a: the south face stands 5 m along the line.
    double first = 1e9;
    for (const Outline& o : cut.solid)
      for (Vec2 q : o.outer) first = std::min(first, q.x);
    QVERIFY(std::abs(first - 5) < 1e-6);
    QVERIFY(cutAt(p, {{40, -5}, {40, 11}}).solid.empty());
  }

  void sectionsTakeTheNearestRowOfSensors() {
    const Project p = house();
    const auto sensors = layOutSensors(p);
    const auto rows = rowsAt(*sensors, {{4, -5}, {4, 11}});
    QCOMPARE(rows.size(), std::size_t(1));
    QVERIFY(std::abs(rows[0].level - 0.85) < 1e-9);
    double last = -1e9;
    for (const auto& [u, i] : rows[0].sensors) {
      QVERIFY(u > last);
      last = u;
      QVERIFY(std::abs(sensors->sensors[i].position.x - 4) <= 0.75 * 0.5);
      QVERIFY(std::abs(sensors->sensors[i].position.y + 5 - u) < 1e-9);
    }
    QVERIFY(rows[0].sensors.size() >= 8);
  }

  void theSectionLooksTowardItsLeft() {
    const Project p = house();
    const SectionLine line{{4, -5}, {4, 11}}; // northward: its left is west, the eye stands in the east
    const Camera c = sectionCamera(p, line, 900, 500);
    QVERIFY(length(c.toEye() - Vec3{1, 0, 0}) < 1e-9);
    QVERIFY(length(c.right() - Vec3{0, 1, 0}) < 1e-9);
    QVERIFY(c.cutOpen());
    const Camera::Ray r = c.ray(450, 250, 900, 500);
    QVERIFY(std::abs(c.start(r).x - 4) < 1e-6); // rays begin on the plane
  }

  void figuresNeverTouchEachOther() {
    const Project p = house();
    const SensorField result = painted(p);
    QImage image(900, 600, QImage::Format_ARGB32);
    for (const double height : {6.0, 20.0, 200.0}) {
      Camera c = fittedCamera(p, ViewKind::Plan, 900, 600);
      c.height = height;
      QPainter painter(&image);
      std::vector<QRectF> taken{QRectF(400, 250, 100, 60)};
      paintSensorValues(painter, image.rect(), c, result, result.scale, Theme::light(), 1, taken);
      QVERIFY(taken.size() > 1 || height > 100);
      for (std::size_t i = 0; i < taken.size(); ++i)
        for (std::size_t k = 0; k < i; ++k) QVERIFY(!taken[i].intersects(taken[k]));
    }
  }

  void aRangeOfOnesOwnChangesTheStripAndNothingElse() {
    const SensorField result = painted(house());
    const FieldScale own = result.scaled(3, std::pair{1.0, 4.0}), bad = result.scaled(3, std::pair{4.0, 1.0});
    QCOMPARE(own.low, 1.0);
    QCOMPARE(own.high, 4.0);
    QCOMPARE(own.threshold, 3.0);
    QCOMPARE(bad.high, result.scale.high);
    QCOMPARE(own.unit, result.scale.unit);
    QVERIFY(colorOf(own, 1.5) != colorOf(result.scale, 1.5));
  }

  void rolesAndGlazingsCanBeTakenApart() {
    Project p = house();
    QCOMPARE(partsOfRole(p, Role::Ceiling).elements.size(), std::size_t(1));
    QCOMPARE(partsOfRole(p, Role::Glazing).elements.size(), std::size_t(1));
    QVERIFY(partsOfRole(p, Role::Planting).elements.empty());
    QCOMPARE(panesOf(p, "Low-emissivity double").elements.size(), std::size_t(1));
    QVERIFY(panesOf(p, "Clear single").elements.empty());
    for (const ElementPtr& e : opaqueParts(p).elements) QVERIFY(e->role != Role::Glazing);
    // Panes on the facade carry the opening's id and lie a little before it.
    const Project fitted = withFittings(p);
    const PlacedOpening window = placedOpenings(p).openings.at(0);
    const ElementPtr pane = fitted.element({window.opening.id.value});
    QVERIFY(pane && pane->plate());
    for (Vec3 c : pane->plate()->corners) QVERIFY(std::abs(c.y + 0.02) < 1e-9);
  }

  void openedWallsStandWithGapsWhereWindowsAre() {
    const Project p = house();
    const Project open = openedRooms(p, 0, 1.3);
    double area13 = 0;
    for (const ElementPtr& e : open.elements)
      if (const Mass* m = e->mass(); m && m->base + m->height > 1.29) area13 += area(m->outline);
    const double ring = 8 * 6 - 7.3 * 5.3, gap = 0.35 * placedOpenings(p).openings.at(0).opening.width;
    QVERIFY2(std::abs(area13 - (ring - gap)) < 0.05, qPrintable(QString("%1 against %2").arg(area13).arg(ring - gap)));
  }

  void eachStoreyIsLookedIntoByItself() {
    Project p = house();
    Room up = p.rooms[0];
    up.id = {2};
    up.name = "Loft";
    up.floor = 3.3;
    p.rooms.push_back(up);
    auto block = std::make_shared<Element>(*p.elements[0]);
    block->shape = Mass{rectangle(0, 0, 8, 6), 0, 7, 2};
    p.elements[0] = block;
    QCOMPARE(storeys(p), (std::vector<double>{0, 3.3}));
    QCOMPARE(storeyNear(p, {}), 0.0);
    QCOMPARE(storeyNear(p, 5), 3.3);
    QCOMPARE(storeyNear(Project(), 5), 0.0);
    const SensorField all = painted(p), upper = ofStorey(all, p, 3.3);
    QCOMPARE(all.sensors.groups.size(), std::size_t(2));
    QVERIFY(cellMesh(upper, 0).triangles.empty() && !cellMesh(upper, 1).triangles.empty());
    double top = 0;
    for (const ElementPtr& e : openedRooms(p, 3.3).elements)
      if (e->mass()) top = std::max(top, e->mass()->base + e->mass()->height);
    QVERIFY(std::abs(top - 4.6) < 1e-6); // cut 1.3 m above that floor
    QVERIFY(roomBoxes(p, 3.3)[0].low.z == 3.3 && roomBoxes(p)[0].low.z == 0);
  }

  void aSpotInARoomSeesItsWallsAndTheSkyThroughGlass() {
    const Project p = house();
    const ProbeInput spot{{4, 1.5, 0.85}, {0, 0, 1}, {radians(55), radians(12), 0}, Zone(), 0, 2026};
    const ProbeResult r = probeProject(p, spot, buildScene(p));
    QCOMPARE(r.room, 0);
    int sky = 0, ceiling = 0, bare = 0;
    for (int a = 0; a < Dome::azimuths; ++a)
      for (int h = 0; h < Dome::altitudes; ++h) {
        const std::uint64_t e = r.dome.at(a, h);
        if (!e)
          r.dome.glazed(a, h) ? ++sky : ++bare;
        else if (r.dome.roleAt(a, h) == Role::Ceiling)
          ++ceiling;
      }
    QVERIFY(sky > 500);
    QVERIFY(ceiling > 5000);
    QCOMPARE(bare, 0); // no way out but through the pane
    QVERIFY(r.sunHours > 100 && r.sunHours < 3500);
    // Southward, some way up, there is sky through the pane; northward the wall.
    QVERIFY(r.dome.glazed(180, 20) && !r.dome.glazed(0, 20));
    const ProbeResult outside =
        probeProject(p, {{4, -3, 0}, {0, 0, 1}, {radians(55), radians(12), 0}, Zone(), 0, 2026}, buildScene(p));
    QCOMPARE(outside.room, -1);
    QVERIFY(outside.dome.glass.empty());
  }

  void resultsGoOutAsColouredMeshes() {
    QTemporaryDir d;
    Project p = test::house({.ratio = 0.4, .spacing = 1});
    p.site.origin = {500000, 6000000, 0};
    Study s;
    s.id = {60};
    s.name = "Sky";
    s.kind = StudyKind::SkyView;
    p.studies.push_back(s);
    RunControl control;
    const auto sensors = layOutSensors(p);
    QVERIFY(sensors);
    for (const char* file : {"r.ply", "r.glb"}) {
      const std::filesystem::path path = d.filePath(file).toStdString();
      const Outcome o = exportPicture(p, {}, path, control);
      QVERIFY2(o, o ? "" : o.error().text().c_str());
      const auto m = readModel(path);
      QVERIFY2(m, m ? "" : m.error().text().c_str());
      QCOMPARE(m->triangleCount(), 2 * sensors->sensors.size());
      const Box3 b = m->box();
      if (QByteArray(file) == "r.ply")
        QVERIFY(b.low.x > 500000 && b.low.y > 6000000 && std::abs(b.size().z) < 1e-6);
      else
        QVERIFY(b.size().y < 1e-4 && b.high.x < 10); // y up, near the origin
    }
    const std::string ply = *loadFile(d.filePath("r.ply").toStdString());
    QVERIFY(ply.find("comment value in %") != std::string::npos && ply.find("fingerprint") != std::string::npos);
    p.studies.clear();
    QVERIFY(!exportPicture(p, {}, d.filePath("none.ply").toStdString(), control));
  }

  void exportsCarrySectionValuesAndRange() {
    QTemporaryDir d;
    const Project p = house();
    RunControl control;
    for (const bool section : {false, true})
      for (const char* name : {"a.png", "a.svg"}) {
        PictureRequest r;
        r.view = ViewKind::Plan;
        r.width = 900;
        r.height = 600;
        r.values = true;
        r.range = std::pair{0.5, 3.0};
        if (section) r.section = SectionLine{{4, -2}, {4, 8}};
        const auto file = std::filesystem::path(d.filePath(name).toStdString());
        const Outcome o = exportPicture(p, r, file, control);
        QVERIFY2(o.has_value(), o ? "" : o.error().text().c_str());
        QVERIFY(std::filesystem::file_size(file) > 3000);
        if (std::string(name).ends_with("svg")) {
          QFile f(d.filePath(name));
          QVERIFY(f.open(QIODevice::ReadOnly));
          const QByteArray text = f.readAll();
          QCOMPARE(text.contains("section from"), section);
          QVERIFY(text.contains("daylight factor"));
        }
      }
  }
};

QTEST_MAIN(TestPicture)
#include "tst_picture.moc"
