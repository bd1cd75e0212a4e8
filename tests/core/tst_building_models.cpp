// Building models: IFC through the reading program, gbXML spaces and glass, materials of OBJ; to rooms with names.

#include "core/files/meshes/mesh_files.h"
#include "core/files/meshes/model_export.h"
#include "core/files/save_file.h"
#include "core/model/form/edit.h"
#include "core/model/heat_library.h"
#include "core/model/mending/check.h"
#include "core/model/tracing/tracing.h"
#include <QDirIterator>
#include <QTemporaryDir>
#include <QtTest>
#include <map>
#include <set>

using namespace noonward;

namespace {
std::filesystem::path data(const char* file) {
  return std::filesystem::path(TEST_DATA) / file;
}
std::filesystem::path written(const QTemporaryDir& d, const char* name, const std::string& text) {
  const std::filesystem::path file = d.filePath(name).toStdString();
  if (!saveFile(file, text)) qFatal("no file");
  return file;
}
std::string house() {
  return *loadFile(data("house-2x3.ifc"));
}
bool holdsNote(const Model& m, const char* text) {
  return std::any_of(m.notes.begin(), m.notes.end(),
                     [&](const std::string& n) { return n.find(text) != std::string::npos; });
}
Project broughtInHouse(const Model& m) {
  return broughtIn({}, m, guessPlacement(m, {}).placement, Role::Neighbour, true).project;
}
std::string replaced(std::string s, const std::string& from, const std::string& to) {
  const auto at = s.find(from);
  if (at == std::string::npos) qFatal("nothing to replace");
  return s.replace(at, from.size(), to);
}
} // namespace

class TestBuildingModels : public QObject {
  Q_OBJECT
private slots:
  void productsBecomePartsWithRoles() {
    for (const auto& [file, storeys] : {std::pair{"house-2x3.ifc", 1}, {"house-4.ifc", 2}}) {
      const auto m = readModel(data(file));
      QVERIFY2(m, m ? "" : m.error().text().c_str());
      std::map<std::string, int> roles;
      for (const ModelPart& p : m->parts) ++roles[p.role ? roleKey(*p.role) : "?"];
      QCOMPARE(roles["wall"], 4 * storeys + 2 * storeys); // outer walls, frames
      QCOMPARE(roles["partition"], storeys);              // IsExternal says so
      QCOMPARE(roles["glazing"], 2 * storeys);
      QCOMPARE(roles["floor"], storeys);
      QCOMPARE(roles["roof"], 1);
      QCOMPARE(roles["ignore"], storeys);
      QCOMPARE(m->outlines.size(), std::size_t(2 * storeys)); // spaces
      QVERIFY(m->statedUnit == LengthUnit::Metre && m->statedZUp);
      const Vec3 size = m->box().size();
      QVERIFY(std::abs(size.x - 10) < 1e-6 && std::abs(size.y - 6) < 1e-6 &&
              std::abs(size.z - (storeys * 3.3 + 0.3)) < 1e-6);
      QVERIFY(m->geo.place && std::abs(degrees(m->geo.place->latitude) - 55.6) < 1e-9 &&
              std::abs(degrees(m->geo.place->longitude) - 12.5) < 1e-9 && m->geo.place->elevation == 4);
      // True north to the right of project north by 30°: up points 30° to the left of north.
      QVERIFY(m->geo.northAngle && std::abs(degrees(*m->geo.northAngle) + 30) < 1e-4);
      QCOMPARE(m->glazings.size(), std::size_t(1));
      QCOMPARE(m->glazings.front().transmittance, 0.62);
      // Openings are cut out of walls: the south wall has its area less two windows.
      const auto wall =
          std::find_if(m->parts.begin(), m->parts.end(), [](const ModelPart& p) { return p.name == "Wall 0.0"; });
      QVERIFY(wall != m->parts.end());
      QVERIFY(std::abs(volume(wall->mesh) - 0.3 * (10 * 3 - 2 * 1.8 * 1.4)) < 1e-3);
      std::set<std::string> names;
      for (const ModelPart& p : m->parts) QVERIFY(names.insert(p.name).second);
    }
  }

  void roomsComeOutWithNamesAndGlass() {
    const auto m = readModel(data("house-4.ifc"));
    QVERIFY(m);
    Project p = broughtInHouse(*m);
    QVERIFY(std::abs(degrees(p.site.northAngle) + 30) < 1e-4);
    for (const Finding& f : checkProject(p))
      QVERIFY2(f.code != "element.left-out", f.text.c_str()); // spaces are names, nothing left out
    const auto t = traceModel(p, {});
    QVERIFY2(t, t ? "" : t.error().message.c_str());
    QCOMPARE(t->rooms.size(), std::size_t(4));
    const Project traced = withTrace(p, *t);
    for (const char* name : {"Living room 0", "Bedroom 0", "Living room 1", "Bedroom 1"})
      QVERIFY2(std::any_of(traced.rooms.begin(), traced.rooms.end(), [&](const Room& r) { return r.name == name; }),
               name);
    QCOMPARE(traced.openings.size(), std::size_t(4));
    for (const Opening& o : traced.openings) {
      QVERIFY(std::abs(o.width - 1.8) < 1e-6 && std::abs(o.height - 1.4) < 1e-6 && std::abs(o.sill - 0.9) < 1e-6);
      QCOMPARE(o.glazing, std::string("Glass of 62 %"));
      QVERIFY(findGlazing(traced.glazings, o.glazing));
    }
    double inside = 0;
    for (const Room& r : traced.rooms) inside += area(r.outline);
    QVERIFY(std::abs(inside - 2 * 5.4 * (5.28 + 3.7)) < 1e-2);
  }

  void damagedFilesAreAnErrorOrLess() {
    QTemporaryDir d;
    const std::string whole = house();
    const auto why = [&](const std::string& text) {
      const auto m = readModel(written(d, "house.ifc", text));
      return m ? std::string() : m.error().message;
    };
    QVERIFY(why("hello").find("no IFC file") != std::string::npos);
    QVERIFY(!why(std::string(5000, '\0')).empty());
    QVERIFY(!why(whole.substr(0, 400)).empty());
    const auto half = readModel(written(d, "half.ifc", whole.substr(0, whole.size() / 2)));
    if (half) QVERIFY(holdsNote(*half, "before its end mark"));
    const auto unitless =
        readModel(written(d, "unitless.ifc", replaced(whole, "IFCUNITASSIGNMENT((#6,#7))", "IFCUNITASSIGNMENT(())")));
    QVERIFY2(unitless, unitless ? "" : unitless.error().message.c_str());
    QVERIFY(!unitless->statedUnit && holdsNote(*unitless, "no unit"));
    QVERIFY(guessPlacement(*unitless, {}).placement.unit == LengthUnit::Millimetre);
    // What has no shape is told by kind.
    const std::string bare =
        replaced(replaced(whole, "'Body','SweptSolid',(#39)", "'Body','SweptSolid',()"), "'Body','SweptSolid',(#54)",
                 "'Body','SweptSolid',()"); // of two walls
    QVERIFY(bare.size() == whole.size() - 6);
    const auto without = readModel(written(d, "bare.ifc", bare));
    QVERIFY2(without, without ? "" : without.error().message.c_str());
    QVERIFY2(holdsNote(*without, "2 products have no shape that could be made: 2 of Wall"),
             without->notes.empty() ? "no note" : without->notes.back().c_str());
    QVERIFY(!holdsNote(*readModel(written(d, "whole.ifc", whole)), "no shape"));
    std::uint32_t chance = 7; // damaged here and there: never more than a message
    for (int k = 0; k < 12; ++k) {
      std::string bad = whole;
      for (int n = 0; n < 1 + k * 4; ++n) {
        chance = chance * 1664525 + 1013904223;
        bad[600 + chance % (bad.size() - 600)] = "0123456789(),$*#.'AE"[(chance >> 16) % 20];
      }
      (void)readModel(written(d, "bad.ifc", bad));
    }
    RunControl stop;
    stop.wish = Wish::Drop;
    const auto stopped = readModel(data("house-4.ifc"), &stop);
    QVERIFY(!stopped && stopped.error().message == "Stopped.");
    RunControl told;
    double last = 0;
    told.progress = [&](double share) { last = share; };
    QVERIFY(readModel(data("house-4.ifc"), &told) && last > 0.5);
    QVERIFY(!readModel(d.filePath("absent.ifc").toStdString()));
  }

  void materialsOfAnObjMakeParts() {
    QTemporaryDir d;
    written(d, "glass.mtl", "newmtl Clear\nKd 0.8 0.9 1\nd 0.2\nnewmtl Paint\nd 1\nnewmtl Tinted\nTr 0,6\n");
    const std::string box = "v 0 0 0\nv 4 0 0\nv 4 0 3\nv 0 0 3\nv 1 0 1\nv 3 0 1\nv 3 0 2\nv 1 0 2\n";
    auto m = readModel(written(
        d, "a.obj",
        "mtllib glass.mtl\n" + box +
            "g front\nusemtl Paint\nf 1 2 3 4\nusemtl Clear\nf 5 6 7 8\ng back\nf 5 6 7\nusemtl Tinted\nf 6 7 8\n"));
    QVERIFY2(m, m ? "" : m.error().text().c_str());
    QCOMPARE(m->parts.size(), std::size_t(4));
    const auto part = [&](const char* name) {
      return *std::find_if(m->parts.begin(), m->parts.end(), [&](const ModelPart& p) { return p.name == name; });
    };
    QVERIFY(part("front").material == "Paint" && part("front").transparency == 0);
    QVERIFY(part("front: Clear").layer == "front" && std::abs(part("front: Clear").transparency - 0.8) < 1e-12);
    QVERIFY(part("back").material == "Clear"); // it goes on from one group to the next
    QVERIFY(std::abs(part("back: Tinted").transparency - 0.6) < 1e-12);
    const Project p = broughtIn({}, *m, {}, Role::Building, true).project;
    const auto role = [&](const char* name) {
      return (*std::find_if(p.elements.begin(), p.elements.end(), [&](const ElementPtr& e) { return e->name == name; }))
          ->role;
    };
    QVERIFY(role("front") == Role::Building && role("front: Clear") == Role::Glazing &&
            role("back: Tinted") == Role::Glazing);
    m = readModel(written(d, "b.obj", "mtllib elsewhere.mtl\n" + box + "usemtl Clear\nf 1 2 3\n"));
    QVERIFY(m && holdsNote(*m, "elsewhere.mtl"));
    // A material that is called as a glazing of the project is that glazing; another leaves no name behind.
    Project own;
    own.site.name = "x";
    Glazing g;
    g.name = "Clear";
    own.glazings.push_back(g);
    m = readModel(d.filePath("a.obj").toStdString());
    own = broughtIn(own, *m, {}, Role::Building, true).project;
    for (const ElementPtr& e : own.elements)
      QCOMPARE(e->finish, e->name == "front: Clear" || e->name == "back"
                              ? std::string(e->role == Role::Glazing ? "Clear" : "")
                              : std::string());
  }

  void roomsGoOutAndComeBackAsGbXml() {
    const auto m = readModel(data("house-4.ifc"));
    QVERIFY(m);
    Project p = broughtInHouse(*m);
    p = withTrace(p, *traceModel(p, {}));
    Element tower;
    tower.id = ElementId::fresh();
    tower.name = "Tower & <lamp>";
    tower.shape = Mass{rectangle(30, 0, 34, 4), 0, 20, 1};
    p = withElement(std::move(p), tower);
    Opening top;
    top.id = OpeningId::fresh();
    top.room = p.rooms.front().id;
    top.edge = -1;
    const Vec2 c = pointInside(p.rooms.front().outline);
    top.along = c.x - 0.5;
    top.sill = c.y - 0.5;
    top.width = top.height = 1;
    p.openings.push_back(top);
    p.site.origin = {5000, 3000, 0};
    RoomUse hobby = *findUse({}, "office");
    hobby.name = "hobby";
    hobby.locked = false;
    hobby.lighting = 9.5;
    hobby.heatTo = 18;
    hobby.heatBack = 15;
    p.heat.uses = {hobby};
    p.rooms[0].use = "hobby";
    p.rooms[1].use = "unheated";
    const auto out = exportModel(p, ExportFormat::GbXml);
    QVERIFY2(out, out ? "" : out.error().message.c_str());
    const auto back = parseGbXml(out->bytes, "house.xml");
    QVERIFY2(back, back ? "" : back.error().text().c_str());
    QVERIFY(back->statedUnit == LengthUnit::Metre && back->geo.place &&
            std::abs(degrees(back->geo.place->latitude) - 55.6) < 1e-6 &&
            std::abs(degrees(*back->geo.northAngle) + 30) < 1e-3);
    std::map<std::string, double> areas;
    for (const ModelPart& part : back->parts) areas[part.role ? roleKey(*part.role) : "?"] += surfaceArea(part.mesh);
    QVERIFY(std::abs(areas["glazing"] - (4 * 1.8 * 1.4 + 1)) < 1e-4);
    QVERIFY(std::abs(areas["floor"] - 2 * 5.4 * (5.28 + 3.7)) < 1e-3);
    QVERIFY(std::abs(areas["shading"] - (4 * 4 * 20 + 2 * 16)) < 1e-3); // the tower
    QCOMPARE(back->outlines.size(), std::size_t(4));
    std::set<std::string> names;
    for (const ModelOutline& o : back->outlines) {
      names.insert(o.name);
      QVERIFY(o.outline.outer.front().x > 4900);
    }
    QVERIFY(names.contains("Living room 0") && names.contains("Bedroom 1"));
    QVERIFY(back->glazings.size() >= 1 &&
            std::any_of(back->glazings.begin(), back->glazings.end(), [](const Glazing& g) {
              return g.name == "Glass of 62 %" && std::abs(g.transmittance - 0.62) < 1e-9;
            }));
    // Uses come back with the rooms traced from its spaces.
    Project again = broughtInHouse(*back);
    const auto use = findUse(again.heat, "hobby");
    QVERIFY(use && use->lighting == 9.5 && use->heatTo == 18 && use->people == hobby.people && use->conditioned);
    QVERIFY(!findUse(again.heat, "unheated")->conditioned);
    again = withTrace(again, *traceModel(again, {}));
    std::map<std::string, std::string> were;
    std::string all;
    for (const Room& r : p.rooms) were[r.name] = r.use;
    std::size_t same = 0;
    for (const Room& r : again.rooms) {
      all += r.name + ": " + r.use + "; ";
      const std::string largest = r.name.substr(0, r.name.find(" + ")); // walls without thickness: some are one room
      QVERIFY2(were.contains(largest) && were[largest] == r.use, all.c_str());
      same += !r.use.empty();
    }
    QVERIFY2(same >= 1, all.c_str());
    QVERIFY(!exportModel({}, ExportFormat::GbXml));
  }

  void textsOfADrawingNameRooms() {
    const auto text = [](const char* kind, const char* layer, const char* words, double x, double y) {
      return std::string("0\n") + kind + "\n8\n" + layer + "\n10\n" + std::to_string(x) + "\n20\n" + std::to_string(y) +
             "\n30\n0\n40\n250\n1\n" + words + "\n";
    };
    const std::string drawing = "0\nSECTION\n2\nHEADER\n9\n$"
                                "INSUNITS\n70\n4\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n0\n3DFACE\n8\nwalls\n10\n0\n20\n0"
                                "\n30\n0\n11\n9000\n21\n0\n31\n0\n12\n9000\n22\n0\n32\n3000\n" +
                                text("TEXT", "Room names", "Reading room", 1000, 2000) +
                                text("MTEXT", "ROOMS", "{\\fArial|b0;Hall}\\P24 m²", 5000, 2000) +
                                text("TEXT", "Room names", "3.30", 1000, 1500) +
                                text("TEXT", "Notes", "Mind the step", 1, 1) +
                                text("TEXT", "Räume", "Hall", 7000, 100) + "0\nENDSEC\n0\nEOF\n";
    const auto m = parseDxf(drawing, "plan.dxf");
    QVERIFY2(m, m ? "" : m.error().text().c_str());
    QCOMPARE(m->outlines.size(), std::size_t(3));
    QVERIFY(m->outlines[0].name == "Reading room" && m->outlines[1].name == "Hall" &&
            m->outlines[2].name == "Hall (2)");
    QVERIFY(m->outlines[0].layer == spacesLayer && m->outlines[0].height == 0 &&
            std::abs(m->outlines[1].outline.outer.front().x - 5000) < 1e-9);
    QVERIFY(holdsNote(*m, "1 TEXT")); // the note about the step
    Project p = broughtIn({}, *m, guessPlacement(*m, {}).placement, Role::Building, true).project;
    QCOMPARE(std::count_if(p.elements.begin(), p.elements.end(),
                           [](const ElementPtr& e) { return e->plate() && !e->counted; }),
             std::ptrdiff_t(3));
  }

  void filesOfOtherWritersAreReadOrRefusedInWords() {
    // The general-purpose sample models that Debian ships: many writers, many faults.
    const QString folder = "/usr/share/assimp/models";
    if (!QDir(folder).exists()) QSKIP("assimp-testmodels is not installed");
    std::map<QString, int> good, bad;
    QDirIterator files(folder, {"*.obj", "*.stl", "*.ply", "*.dxf", "*.ifc", "*.dae", "*.3ds", "*.glb", "*.gltf"},
                       QDir::Files, QDirIterator::Subdirectories);
    while (files.hasNext()) {
      const QString file = files.next();
      const auto m = readModel(file.toStdString());
      ++(m ? good : bad)[files.fileInfo().suffix().toLower()];
      if (!m) {
        QVERIFY2(!m.error().message.empty() && m.error().message.find("broke down") == std::string::npos,
                 qPrintable(file));
        continue;
      }
      QVERIFY2(m->triangleCount() > 0, qPrintable(file));
      const PlacementGuess g = guessPlacement(*m, {});
      for (const Element& e : placedElements(*m, g.placement, Role::Neighbour, true))
        if (const Imported* i = e.imported()) (void)i->health->of(*i->mesh);
    }
    for (const auto& [kind, least] : {std::pair{"obj", 8},
                                      {"stl", 5},
                                      {"ply", 4},
                                      {"dxf", 4},
                                      {"ifc", 1},
                                      {"dae", 15},
                                      {"3ds", 6},
                                      {"glb", 2},
                                      {"gltf", 20}})
      QVERIFY2(good[kind] >= least,
               qPrintable(QString("%1: %2 read, %3 refused").arg(kind).arg(good[kind]).arg(bad[kind])));
    // A house by another writer, on two floors: its rooms come out under the names it gives them.
    QDirIterator houses(folder, {"*.ifc"}, QDir::Files, QDirIterator::Subdirectories);
    const auto m = readModel(houses.next().toStdString());
    QVERIFY(m);
    const Project p = broughtInHouse(*m);
    const auto t = traceModel(p, {});
    QVERIFY2(t, t ? "" : t.error().message.c_str());
    QCOMPARE(t->storeys.size(), std::size_t(2));
    QCOMPARE(t->rooms.size(), std::size_t(5));
    for (const Room& r : t->rooms) QVERIFY2(r.name.find("Room ") == std::string::npos, r.name.c_str());
    double glass = 0, source = 0;
    for (int k = 0; k < 4; ++k) {
      glass += t->deviation.glazing[std::size_t(k)];
      source += t->deviation.sourceGlazing[std::size_t(k)];
    }
    QVERIFY2(glass > 15 && std::abs(glass - source) < 0.02 * source,
             qPrintable(QString("%1 of %2").arg(glass).arg(source)));
    QVERIFY(t->deviation.farthest < 0.05);
  }

  void northAndScaleSaidByTheUserCount() {
    Model m;
    m.file = "plan.obj";
    Mesh box = *extrude(rectangle(10, 0, 14, 2), 0, 3);
    m.parts.push_back({"box", box});
    Project p;
    p.site.northAngle = radians(12);
    Element e;
    e.id = ElementId::fresh();
    e.shape = Mass{rectangle(0, 0, 1, 1), 0, 3, 1};
    p = withElement(std::move(p), e);
    Placement placed;
    placed.northAngle = radians(-78); // its +y points to where the project's −x does: turned by 90° to the left
    placed.scale = 0.5;
    const Project q = broughtIn(p, m, placed, Role::Building, false).project;
    const Box3 b = boxOf(*q.elements.back());
    QVERIFY2(std::abs(b.low.x + 1) < 1e-9 && std::abs(b.high.x) < 1e-9 && std::abs(b.low.y - 5) < 1e-9 &&
                 std::abs(b.high.y - 7) < 1e-9 && std::abs(b.high.z - 1.5) < 1e-9,
             qPrintable(QString("%1 %2").arg(b.low.x).arg(b.low.y)));
    const Project fresh =
        broughtIn({}, m, placed, Role::Building, false).project; // an empty one is laid as the file lies
    QVERIFY(std::abs(fresh.site.northAngle - radians(-78)) < 1e-12 &&
            std::abs(boxOf(*fresh.elements.back()).low.x - 5) < 1e-9);
  }
};

QTEST_APPLESS_MAIN(TestBuildingModels)
#include "tst_building_models.moc"
