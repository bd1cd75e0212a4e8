// Other people's models: every reader on a small file written here by hand, on faulty ones, and on thousands of damaged
// ones; roles guessed; meshes examined and mended; models brought in again.

#include "core/files/epw.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/meshes/model_export.h"
#include "core/files/project/project_file.h"
#include "core/geometry/healing.h"
#include "core/model/form/edit.h"
#include "core/model/form/role_guess.h"
#include "core/model/mending/check.h"
#ifndef Q_MOC_RUN // moc 6.4 stumbles over raw strings of several lines
#include "tests/core/formats_data.h"
#endif
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>

using namespace noonward;
using namespace noonward::test;

namespace {

bool near(double a, double b, double within = 1e-9) {
  return std::abs(a - b) <= within;
}

Expected<Model> cityJson(std::string_view text, const std::string& file) {
  return parseCityJson(text, file);
}
Expected<Model> cityGml(std::string_view text, const std::string& file) {
  return parseCityGml(text, file);
}
/// A cube of 2 m with its foot at 0, whole and facing outward.
Mesh cube() {
  return *extrude(rectangle(0, 0, 2, 2), 0, 2);
}

std::string dxf(const std::string& entities, const std::string& blocks = "", int unit = 4) {
  return "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n" + std::to_string(unit) + "\n0\nENDSEC\n0\nSECTION\n2\nBLOCKS\n" +
         blocks + "0\nENDSEC\n0\nSECTION\n2\nENTITIES\n" + entities + "0\nENDSEC\n0\nEOF\n";
}
const std::string quad = "0\n3DFACE\n8\nwalls\n10\n0\n20\n0\n30\n0\n11\n1000\n21\n0\n31\n0\n12\n1000\n22\n0\n32\n3000\n"
                         "13\n0\n23\n0\n33\n3000\n";

bool holdsNote(const Model& m, const char* text) {
  return std::any_of(m.notes.begin(), m.notes.end(),
                     [&](const std::string& n) { return n.find(text) != std::string::npos; });
}

} // namespace

class TestFormats : public QObject {
  Q_OBJECT
private slots:
  // ---- DXF
  void dxfFacesKeepLayersAndUnits() {
    const auto m = parseDxf(dxf(quad + "0\n3DFACE\n8\nDÆK\n10\n0\n20\n0\n30\n0\n11\n1\n21\n0\n31\n0\n12\n0\n22\n1\n32\n"
                                       "0\n13\n0\n23\n1\n33\n0\n0\nLINE\n8\n0\n10\n0\n"),
                            "a.dxf");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    QCOMPARE(m->statedUnit, std::optional(LengthUnit::Millimetre));
    QCOMPARE(m->parts.size(), std::size_t(2));
    const ModelPart& walls = m->parts[m->parts[0].layer == "walls" ? 0 : 1];
    QVERIFY(near(surfaceArea(walls.mesh), 3e6, 1e-3));
    QCOMPARE(walls.mesh.triangles.size(), std::size_t(2));
    QCOMPARE(m->parts[m->parts[0].layer == "walls" ? 1 : 0].mesh.triangles.size(),
             std::size_t(1)); // a fourth corner upon the third
    QVERIFY(holdsNote(*m, "1 LINE"));
    const auto e = placedElements(*m, guessPlacement(*m, std::nullopt).placement, Role::Neighbour, true);
    QVERIFY(near(surfaceArea(*e[e[0].layer == "walls" ? 0 : 1].imported()->mesh), 3, 1e-9));
    QCOMPARE(e[e[0].layer == "walls" ? 0 : 1].role, Role::Wall);
  }

  void dxfPolylinesBecomeBlocksAndWalls() {
    const std::string block = "0\nLWPOLYLINE\n8\nplots\n90\n4\n70\n1\n38\n2\n39\n9\n10\n0\n20\n0\n10\n20\n20\n0\n10\n20"
                              "\n20\n10\n10\n0\n20\n10\n";
    const std::string flat = "0\nPOLYLINE\n8\nrooms\n66\n1\n70\n1\n10\n0\n20\n0\n30\n3\n0\nVERTEX\n10\n0\n20\n0\n0\nVER"
                             "TEX\n10\n4\n20\n0\n0\nVERTEX\n10\n4\n20\n5\n0\nSEQEND\n8\n0\n";
    const std::string wall = "0\nLWPOLYLINE\n8\nfence\n70\n0\n39\n2\n10\n0\n20\n0\n10\n6\n20\n0\n10\n6\n20\n6\n";
    const std::string disc = "0\nLWPOLYLINE\n8\ntower\n70\n1\n39\n5\n10\n-3\n20\n0\n42\n1\n10\n3\n20\n0\n42\n1\n";
    const auto m = parseDxf(dxf(block + flat + wall + disc, "", 6), "b.dxf");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    QCOMPARE(m->outlines.size(), std::size_t(3));
    const auto of = [&](const char* layer) -> const ModelOutline& {
      return *std::find_if(m->outlines.begin(), m->outlines.end(),
                           [&](const ModelOutline& o) { return o.layer == layer; });
    };
    QCOMPARE(of("plots").base, 2.0);
    QCOMPARE(of("plots").height, 9.0);
    QCOMPARE(area(of("plots").outline), 200.0);
    QCOMPARE(of("rooms").height, 0.0);
    QCOMPARE(of("rooms").base, 3.0);
    QVERIFY(near(area(of("tower").outline), pi * 9, 0.05 * pi * 9 * 0.1)); // two half circles, in chords
    QCOMPARE(m->parts.size(), std::size_t(1));
    QVERIFY(near(surfaceArea(m->parts[0].mesh), 24, 1e-9));
    const auto e = placedElements(*m, {}, Role::Building);
    QVERIFY(std::any_of(e.begin(), e.end(),
                        [](const Element& x) { return x.mass() && x.mass()->height == 9 && x.mass()->storeys == 3; }));
    auto room = std::find_if(e.begin(), e.end(), [](const Element& x) { return x.plate(); });
    QVERIFY(room != e.end() && !room->counted);
    Element raised = *room;
    setHeight(raised, 4); // a line on a plan is raised to a block
    QVERIFY(raised.mass() && raised.counted && raised.mass()->base == 3 && near(area(raised.mass()->outline), 10));
  }

  void dxfMeshesAndBlocks() {
    // A polyface pyramid in a block, put twice: scaled and turned, and in a row mirrored.
    const std::string pyramid =
        "0\nPOLYLINE\n8\n0\n66\n1\n70\n64\n71\n4\n72\n2\n0\nVERTEX\n8\n0\n10\n0\n20\n0\n30\n0\n70\n192\n0\nVERTEX\n10\n"
        "1\n20\n0\n30\n0\n70\n192\n0\nVERTEX\n10\n0\n20\n1\n30\n0\n70\n192\n0\nVERTEX\n10\n0\n20\n0\n30\n1\n70\n192\n"
        "0\nVERTEX\n70\n128\n71\n1\n72\n2\n73\n4\n0\nVERTEX\n70\n128\n71\n2\n72\n-"
        "3\n73\n4\n0\nVERTEX\n70\n128\n71\n2\n72\n3\n73\n9\n0\nSEQEND\n";
    const std::string blocks =
        "0\nBLOCK\n2\nP\n10\n0\n20\n0\n30\n0\n" + pyramid +
        "0\nENDBLK\n0\nBLOCK\n2\nLOOP\n10\n0\n20\n0\n30\n0\n0\nINSERT\n2\nLOOP\n10\n1\n20\n0\n30\n0\n" + quad +
        "0\nENDBLK\n";
    const std::string inserts =
        "0\nINSERT\n8\ntents\n2\nP\n10\n5\n20\n6\n30\n7\n41\n2\n42\n2\n43\n2\n50\n90\n0\nINSERT\n8\nrow\n2\nP\n10\n0\n2"
        "0\n0\n30\n0\n41\n-"
        "1\n70\n3\n44\n10\n0\nINSERT\n8\n0\n2\nLOOP\n10\n0\n20\n0\n30\n0\n0\nINSERT\n2\nNOBODY\n10\n0\n20\n0\n30\n0\n";
    const std::string meshed = "0\nPOLYLINE\n8\nhill\n70\n16\n71\n2\n72\n3\n0\nVERTEX\n10\n0\n20\n0\n30\n0\n0\nVERTEX\n"
                               "10\n1\n20\n0\n30\n0\n0\nVERTEX\n10\n2\n20\n0\n30\n0\n0\nVERTEX\n10\n0\n20\n1\n30\n0\n0"
                               "\nVERTEX\n10\n1\n20\n1\n30\n0\n0\nVERTEX\n10\n2\n20\n1\n30\n0\n0\nSEQEND\n";
    const auto m = parseDxf(dxf(inserts + meshed, blocks, 6), "c.dxf");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    const auto of = [&](const char* layer) -> const Mesh& {
      return std::find_if(m->parts.begin(), m->parts.end(), [&](const ModelPart& p) { return p.layer == layer; })->mesh;
    };
    QCOMPARE(of("tents").triangles.size(), std::size_t(2));
    const Box3 box = of("tents").box(); // turned by 90°: x runs along y
    QVERIFY(near(box.low.x, 3) && near(box.high.x, 5) && near(box.low.y, 6) && near(box.high.y, 8) &&
            near(box.high.z, 9));
    QCOMPARE(of("row").triangles.size(), std::size_t(6));
    QVERIFY(near(of("row").box().low.x, -1) && near(of("row").box().high.x, 20));
    QVERIFY(near(of("row").areaVector(0).y, -1)); // mirrored, and yet facing as before
    QVERIFY(near(surfaceArea(of("hill")), 2));
    QVERIFY(holdsNote(*m, "contain themselves") && holdsNote(*m, "LOOP") && holdsNote(*m, "NOBODY") &&
            holdsNote(*m, "corners that are missing"));
  }

  void dxfFaults_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("wanted");
    QTest::newRow("nothing") << ""
                             << "no DXF drawing";
    QTest::newRow("other text") << "hello\nworld\n"
                                << "a.dxf:1: A group code is expected";
    QTest::newRow("no faces") << QString::fromStdString(dxf("0\nLINE\n8\n0\n")) << "no faces and no closed outlines";
    QTest::newRow("cut") << QString::fromStdString(dxf(quad)).left(90) << "ends early, before any face";
    QTest::newRow("code") << "0\nSECTION\n2\nENTITIES\nzero\n3DFACE\n"
                          << "a.dxf:5: A group code is expected here, not \"zero\".";
  }
  void dxfFaults() {
    QFETCH(QString, text);
    QFETCH(QString, wanted);
    const auto m = parseDxf(text.toStdString(), "a.dxf");
    QVERIFY(!m);
    QVERIFY2(QString::fromStdString(m.error().text()).contains(wanted), m.error().text().c_str());
    QVERIFY(!parseDxf(std::string("0\0SECTION", 9), "bin.dxf"));
    const auto half = parseDxf(dxf(quad).substr(0, dxf(quad).size() - 20), "half.dxf"); // what could be read is offered
    QVERIFY(half && holdsNote(*half, "ends early"));
  }

  // ---- city models, footprints, terrain
  void cityModelsKeepKindsAndNames() {
    const auto m = parseCityJson(town, "town.json");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    QCOMPARE(m->parts.size(), std::size_t(4));
    const auto of = [&](const char* name) -> const ModelPart& {
      return *std::find_if(m->parts.begin(), m->parts.end(), [&](const ModelPart& p) { return p.name == name; });
    };
    const ModelPart& house = of("Kiln house (b1)");
    QVERIFY(near(surfaceArea(house.mesh), 100 + 100 + 3 * 80, 1e-6)); // the finest geometry, its window wall apart
    QCOMPARE(house.role, std::optional(Role::Neighbour));
    QVERIFY(near(house.mesh.box().low.x, 500000) && near(house.mesh.box().low.z, 10));
    QVERIFY(std::find(house.mesh.faceGroup.begin(), house.mesh.faceGroup.end(), "RoofSurface") !=
            house.mesh.faceGroup.end());
    QCOMPARE(of("Kiln house (b1), windows and doors").role, std::optional(Role::Glazing));
    QVERIFY(near(surfaceArea(of("Kiln house (b1), windows and doors").mesh), 80, 1e-6));
    QCOMPARE(of("t").role, std::optional(Role::Planting));
    QVERIFY(near(surfaceArea(of("h").mesh), 96, 1e-6)); // a hole of 2 m × 2 m
    QVERIFY(QString::fromStdString(m->geo.system).contains("25832"));
    const ImportOutcome in = broughtIn(Project{}, *m, guessPlacement(*m, std::nullopt).placement, Role::Building, true);
    QCOMPARE(in.fresh.size(), std::size_t(4));
    QVERIFY(length(boxOf(*in.project.elements[0]).center()) < 200); // far coordinates are taken off
    QVERIFY(in.project.site.origin.y > 6e6);
  }

  void cityFaults() {
    const auto with = [](QString from, QString to) {
      return parseCityJson(QString(town).replace(from, to).toStdString(), "town.json");
    };
    QVERIFY(!parseCityJson("{}", "x.json") && !parseCityJson("{", "x.json") && !parseCityJson("[]", "x.json"));
    const auto bad = with("[[0,1,5,4]]", "[[0,1,500,4]]");
    QVERIFY(bad && holdsNote(*bad, "b1 names vertex 500; there are 12"));
    QVERIFY(!with("\"vertices\":[[0,0,0]", "\"vertices\":[[0,0]"));
    QVERIFY(QString::fromStdString(with("\"vertices\":[[0,0,0]", "\"vertices\":[[0,\"x\",0]").error().text())
                .contains("vertices[0]"));
    QVERIFY(!with("\"scale\":[0.001", "\"scale\":[\"fine\""));
    const auto turned = with("\"values\":[[0,1,2,2,2,3]]", "\"values\":[[0,1,2,2,2,77]]");
    QVERIFY(turned && turned->parts.size() == 2); // a kind that there is not is none: the house is a plain box
  }

  void footprintsStandWhereTheyAre() {
    const auto m = parseGeoJson(footprints, "f.geojson");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    QCOMPARE(m->outlines.size(), std::size_t(4));
    const ModelOutline& hall = m->outlines[0];
    QCOMPARE(hall.name, std::string("Hall"));
    QCOMPARE(hall.height, 12.5);
    QCOMPARE(hall.outline.holes.size(), std::size_t(1));
    // On the ellipsoid at 55.6° N: 0.001° of longitude 63.026 m, 0.0005° of latitude 55.674 m (radii of curvature N,
    // M).
    const double n = 6378137 / std::sqrt(1 - 6.69437999014e-3 * std::pow(std::sin(radians(55.60025)), 2)),
                 meridian =
                     n * (1 - 6.69437999014e-3) / (1 - 6.69437999014e-3 * std::pow(std::sin(radians(55.60025)), 2));
    const double width = n * std::cos(radians(55.60025)) * radians(0.001), depth = meridian * radians(0.0005);
    QVERIFY2(near(area(hall.outline), width * depth * 0.96, 1.0), qPrintable(QString::number(area(hall.outline))));
    QVERIFY(near(m->outlines[1].height, 9.6) && m->outlines[1].name != m->outlines[2].name);
    QCOMPARE(m->outlines[3].height, 0.0);
    QVERIFY(holdsNote(*m, "no height") && holdsNote(*m, "1 feature could not be read") &&
            holdsNote(*m, "1 feature is no polygon"));
    // Into a project that stands elsewhere, turned: it lies where it is on Earth.
    Project p;
    p.site.place = {radians(55.6), radians(12.5), 0};
    p.site.northAngle = radians(90); // project north points east
    Element e;
    e.id = ElementId::fresh();
    e.shape = Mass{rectangle(0, 0, 5, 5), 0, 3, 1};
    p = withElement(std::move(p), e);
    const ImportOutcome in = broughtIn(p, *m, guessPlacement(*m, p.site.origin).placement, Role::Neighbour, true);
    const Box3 box =
        boxOf(*in.project.element(in.fresh[0])); // from (12.5, 55.6): east is up (+y), north to the left (-x)
    QVERIFY2(near(box.low.y, 0, 0.05) && near(box.high.y, width, 0.05) && near(box.high.x, 0, 0.05) &&
                 near(box.low.x, -depth, 0.05),
             qPrintable(QString("%1 %2 %3 %4").arg(box.low.x).arg(box.high.x).arg(box.low.y).arg(box.high.y)));
    QCOMPARE(in.project.site.northAngle, p.site.northAngle);
    Project far = p; // an origin taken off earlier is none of the file's
    far.site.origin = {600000, 6100000, 0};
    const ImportOutcome there =
        broughtIn(far, *m, guessPlacement(*m, far.site.origin).placement, Role::Neighbour, true);
    QVERIFY(length(boxOf(*there.project.element(there.fresh[0])).low - box.low) < 1e-6);
    QVERIFY(there.remark.empty());
    far.site.place.longitude = 0; // another country
    QVERIFY(broughtIn(far, *m, guessPlacement(*m, far.site.origin).placement, Role::Neighbour, true)
                .remark.find("km from the project's place") != std::string::npos);
    // Metres are told from degrees.
    const auto metric = parseGeoJson(
        R"({"type":"Polygon","coordinates":[[[500000,6100000],[500020,6100000],[500020,6100010],[500000,6100010],[500000,6100000]]]})",
        "m.json");
    QVERIFY(metric && near(area(metric->outlines[0].outline), 200) && !metric->geo.place);
    QVERIFY(!parseGeoJson("{\"type\":\"FeatureCollection\",\"features\":[]}", "e.json"));
    QVERIFY(!parseGeoJson(R"({"type":"Polygon","coordinates":[[[0,0],[1e999,0],[0,1]]]})", "e.json"));
  }

  void heightGridsBecomeTerrain() {
    const auto m = parseHeightGrid(grid, "hill.asc");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    const Mesh& mesh = m->parts[0].mesh;
    QCOMPARE(m->parts[0].role, std::optional(Role::Ground));
    QCOMPARE(mesh.points.size(), std::size_t(11));
    QCOMPARE(mesh.triangles.size(), std::size_t(2 * 6 - 3)); // three triangles need the height that is missing
    const Box3 b = mesh.box();
    QVERIFY(near(b.low.x, 1002.5) && near(b.high.x, 1017.5) && near(b.low.y, 2002.5) && near(b.high.y, 2012.5) &&
            near(b.low.z, 10) && near(b.high.z, 33));
    QVERIFY(std::find(mesh.points.begin(), mesh.points.end(), Vec3{1002.5, 2012.5, 10}) !=
            mesh.points.end()); // rows run from the north
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) QVERIFY(mesh.areaVector(t).z > 0);
    for (const char* bad :
         {"", "ncols 4\nnrows 3\n", "ncols 4\nnrows 3\ncellsize 5\n1 2 3\n", "ncols 2\nnrows 2\ncellsize 5\n1 2 x 3\n",
          "ncols 1e9\nnrows 1e9\ncellsize 5\n1\n", "ncols 2\nnrows 2\ncellsize 0\n1 2 3 4\n"})
      QVERIFY2(!parseHeightGrid(bad, "b.asc"), bad);
    QVERIFY(parseHeightGrid("NCOLS 2\r\nNROWS 2\r\nXLLCENTER 0\r\nYLLCENTER 0\r\nCELLSIZE 1,5\r\n1,5 2\r\n3 4\r\n",
                            "comma.asc"));
    std::string fine = "ncols 3000\nnrows 500\ncellsize 1\n";
    for (int i = 0; i < 1500000; ++i) fine += "7 ";
    const auto large = parseHeightGrid(fine, "fine.asc");
    QVERIFY(large && holdsNote(*large, "one in 2 was") && large->parts[0].mesh.points.size() == 1500u * 250u);
  }

  void buildingFilesKeepSurfacesAndOpenings() {
    const auto m = parseGbXml(greenHouse, "library.xml");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    QCOMPARE(m->statedUnit, std::optional(LengthUnit::Foot));
    QVERIFY(m->geo.place && near(degrees(m->geo.place->latitude), 55.6) && near(degrees(*m->geo.northAngle), 15));
    const auto of = [&](const char* name) -> const ModelPart& {
      return *std::find_if(m->parts.begin(), m->parts.end(), [&](const ModelPart& p) { return p.name == name; });
    };
    QCOMPARE(m->parts.size(), std::size_t(4));
    QVERIFY(near(surfaceArea(of("South wall").mesh), 200 - 30 - 21, 1e-2)); // the door reaches down to its edge
    QCOMPARE(of("South wall").role, std::optional(Role::Wall));
    QVERIFY(near(surfaceArea(of("South wall: o1").mesh), 30, 1e-9) && of("South wall: o1").role == Role::Glazing);
    QVERIFY(near(surfaceArea(of("South wall: o2").mesh), 21, 1e-9) && of("South wall: o2").role == Role::Wall);
    QCOMPARE(of("x1").role, std::optional(Role::Shading));
    QVERIFY(holdsNote(*m, "1 surface was left out") && holdsNote(*m, "nobody") && holdsNote(*m, "1 air boundary"));
    for (const char* bad : {"", "<a/>", "<gbXML>", "<gbXML lengthUnit='Meters'><Campus/></gbXML>"})
      QVERIFY2(!parseGbXml(bad, "b.xml"), bad);
    QVERIFY(QString::fromStdString(parseGbXml("<gbXML>\n<Campus>\n</Surface>", "b.xml").error().text())
                .contains("b.xml:3"));
  }

  void damagedFilesNeverCrash() {
    const std::string files[] = {dxf(quad + quad, "0\nBLOCK\n2\nP\n10\n0\n20\n0\n30\n0\n" + quad + "0\nENDBLK\n") + "",
                                 town,
                                 footprints,
                                 grid,
                                 greenHouse,
                                 "v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\ng a\nf -1 -2 -3\n"};
    using Parse = Expected<Model> (*)(std::string_view, const std::string&);
    const Parse parsers[] = {parseDxf, cityJson, parseGeoJson, parseHeightGrid, parseGbXml, cityGml, parseObj};
    std::uint64_t state = 20261126;
    const auto random = [&](std::size_t n) {
      state = state * 6364136223846793005ull + 1442695040888963407ull;
      return std::size_t(state >> 33) % std::max<std::size_t>(1, n);
    };
    std::size_t read = 0, refused = 0;
    for (std::size_t k = 0; k < 6; ++k)
      for (int round = 0; round < 1500; ++round) {
        std::string text = files[k];
        for (std::size_t n = 1 + random(6); n > 0; --n) {
          const std::size_t at = random(text.size());
          switch (random(6)) {
          case 0:
            text.resize(at);
            break;
          case 1:
            text[at] = char(random(256));
            break;
          case 2:
            text.erase(at, 1 + random(12));
            break;
          case 3:
            text.insert(at, text.substr(random(text.size()), random(40)));
            break;
          case 4:
            text.insert(at, std::array{"-1", "1e308", "nan", "99999999999", "[[", "}", "\n0\n", "\xff\xfe"}[random(8)]);
            break;
          default:
            text[at] = "0123456789"[random(10)];
          }
          if (text.empty()) text = "x";
        }
        const auto m = parsers[k](text, "damaged");
        ++(m ? read : refused);
        if (!m) QVERIFY(!m.error().message.empty());
        if (!m) continue;
        for (const ModelPart& p : m->parts)
          for (const Triangle& t : p.mesh.triangles)
            for (std::uint32_t v : t) QVERIFY(v < p.mesh.points.size() && finite(p.mesh.points[v]));
        (void)placedElements(*m, guessPlacement(*m, std::nullopt).placement, Role::Neighbour, true);
      }
    QVERIFY(read > 100 && refused > 100);
  }

  void whatTheFuzzersFoundStaysMended() {
    QVERIFY(!parsePly("ply\nformat ascii 1.0\nelement face 1*x\n5 0end_header",
                      "a.ply")); // went round for ever without a line's end
    QVERIFY(!parsePly("ply\nformat ascii 1.0\nelement vertex 499999999\nend_header\n",
                      "a.ply")); // half a thousand million of nothing
    QVERIFY(!parsePly("ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nelement face 1\nproperty list uchar "
                      "float vertex_indices\nend_header\n0\n3 0 1e30 -5\n",
                      "a.ply"));
    const Ring huge{{0, 0}, {1e300, 0}, {0, 1e300}};
    QVERIFY(difference({huge, {}}, {rectangle(0, 0, 1, 1).outer}).empty()); // ended the program
    QVERIFY(offset({huge, {}}, -0.3).empty());
    Mesh far = cube();
    for (Vec3& p : far.points) p = p * 1e200;
    QCOMPARE(examine(far).duplicates, std::size_t(0));
  }

  void theFuzzersCorpusIsRead() {
    using Parse = Expected<Model> (*)(std::string_view, const std::string&);
    const std::map<std::string, Parse> parsers{{"obj", parseObj},
                                               {"stl", parseStl},
                                               {"ply", parsePly},
                                               {"dxf", parseDxf},
                                               {"city-json", cityJson},
                                               {"geo-json", parseGeoJson},
                                               {"height-grid", parseHeightGrid},
                                               {"gbxml", parseGbXml},
                                               {"city-gml", cityGml}};
    std::size_t sound = 0;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(SOURCE_TREE "/tests/fuzz/corpus")) {
      if (!entry.is_regular_file()) continue;
      const auto bytes = loadFile(entry.path());
      QVERIFY(bytes.has_value());
      const std::string kind = entry.path().parent_path().filename().string();
      if (kind == "weather") {
        (void)parseEpw(*bytes, "corpus");
      } else if (kind == "project") {
        sound += parseProject(*bytes, "corpus", ".").has_value();
      } else {
        const auto m = parsers.at(kind)(*bytes, "corpus");
        if (m) (void)placedElements(*m, guessPlacement(*m, std::nullopt).placement, Role::Neighbour, true);
        sound += m.has_value();
      }
    }
    QVERIFY2(sound >= 13, qPrintable(QString::number(sound)));
  }

  // ---- roles
  void rolesAreGuessed_data() {
    QTest::addColumn<QString>("layer");
    QTest::addColumn<QString>("name");
    QTest::addColumn<QString>("role");
    const auto row = [](const char* layer, const char* name, const char* role) {
      QTest::newRow(qPrintable(QString("%1/%2").arg(layer, name))) << layer << name << role;
    };
    row("A-GLAZ", "x", "glazing");
    row("A-WALL-EXTR", "x", "wall");
    row("Innenwand", "", "partition");
    row("DACHFENSTER", "", "glazing");
    row("Wände außen", "", "wall");
    row("Fenêtres", "", "glazing");
    row("FENÊTRES", "", "glazing");
    row("02_toiture", "", "roof");
    row("vinduer", "", "glazing");
    row("Möbel EG", "", "ignore");
    row("sol", "", "ground");
    row("solar", "", "neighbour"); // no ground
    row("Ground floor slab", "", "floor");
    row("Decke ü. EG", "", "ceiling");
    row("Trees", "", "planting");
    row("0", "north louvre 3", "shading");
    row("0", "Object 12", "neighbour");
    row("Curtain Wall Panels", "", "glazing");
    row("ściana", "", "wall");
    row("tag", "", "neighbour");
  }
  void rolesAreGuessed() {
    QFETCH(QString, layer);
    QFETCH(QString, name);
    QFETCH(QString, role);
    const RoleGuess g = guessRole({name.toStdString(), layer.toStdString()}, Role::Neighbour);
    QVERIFY2(roleKey(g.role) == role.toStdString(), (std::string(roleKey(g.role)) + " " + g.why).c_str());
  }

  void shapeAndMaterialSayWhereWordsDoNot() {
    const RoleGuess glass = guessRole({"Mesh 4", "", 0.6}, Role::Building);
    QVERIFY(glass.role == Role::Glazing && glass.why.find("60 %") != std::string::npos);
    const Mesh plain = *flatPlate({{0, 0, 0}, {200, 0, 0}, {200, 150, 1}, {0, 150, 1}});
    QVERIFY(guessRole({"a", "", 0, &plain, 5}, Role::Building).role == Role::Ground);
    const Mesh block = *extrude(rectangle(0, 0, 20, 12), 0, 15);
    const RoleGuess solid = guessRole({"a", "", 0, &block, 5}, Role::Building);
    QVERIFY(solid.role == Role::Neighbour && solid.sure < 0.5);
    QVERIFY(guessRole({"a", "", 0, nullptr, 1}, Role::Building).sure == 0);
  }

  // ---- out again
  void modelsComeBackAsTheyWentOut_data() {
    QTest::addColumn<QString>("ending");
    QTest::addColumn<double>("within");
    for (const auto& [ending, within] : std::initializer_list<std::pair<const char*, double>>{
             {".obj", 1e-4}, {".stl", 1e-3}, {".dxf", 1e-4}, {".glb", 1e-3}, {".json", 1e-4}, {".geojson", 0.02}})
      QTest::newRow(ending) << ending << within;
  }
  void modelsComeBackAsTheyWentOut() {
    QFETCH(QString, ending);
    QFETCH(double, within);
    Project p;
    p.site.place = {radians(55.6), radians(12.5), 0};
    p.site.northAngle = radians(20);
    const auto add = [&](const char* name, Role role, double x, bool is) {
      Element e;
      e.id = ElementId::fresh();
      e.name = name;
      e.role = role;
      e.counted = is;
      e.shape = Mass{{rectangle(x, 0, x + 10, 6).outer, {rectangle(x + 3, 2, x + 5, 4).outer}}, 1, 8, 2};
      p = withElement(std::move(p), e);
    };
    add("Søhus", Role::Building, 0, true);
    add("Gable, glass", Role::Glazing, 20, true);
    add("Søhus", Role::Neighbour, 40, true); // the same name again
    add("Not counted", Role::Building, 60, false);
    if (ending == ".obj" || ending == ".dxf" || ending == ".json") p.site.origin = {600000, 6100000, 0};
    const auto out = exportModel(p, *exportFormatOf("x" + ending.toStdString()));
    QVERIFY2(out.has_value(), out ? "" : out.error().text().c_str());
    QCOMPARE(out->elements, std::size_t(3));
    QVERIFY(std::any_of(out->notes.begin(), out->notes.end(),
                        [](const std::string& n) { return n.find("1 element is") != std::string::npos; }));
    QTemporaryDir d;
    const std::filesystem::path file = d.filePath("x" + ending).toStdString();
    QVERIFY(saveFile(file, out->bytes).has_value());
    const auto back = readModel(file);
    QVERIFY2(back.has_value(), back ? "" : back.error().text().c_str());
    Project blank; // on the same spot, turned alike, so that places on Earth come back
    if (ending == ".geojson") {
      blank = p;
      blank.elements.resize(1);
    }
    PlacementGuess g = guessPlacement(*back, p.site.origin);
    if (ending == ".obj" || ending == ".stl") g.placement = {LengthUnit::Metre, false, p.site.origin};
    const Project again = broughtIn(blank, *back, g.placement, Role::Neighbour, false).project;
    double volumes = 0;
    Box3 box;
    for (const ElementPtr& e : again.elements)
      if (ending != ".geojson" || !p.element(e->id)) {
        volumes += volume(**elementMesh(*e));
        box.addBox(boxOf(*e));
      }
    QVERIFY2(near(volumes, 3 * 56 * 8, 1344 * within), qPrintable(QString::number(volumes)));
    QVERIFY2(near(box.low.x, 0, within * 10) && near(box.high.x, 50, within * 10) && near(box.low.y, 0, within * 10) &&
                 near(box.high.y, 6, within * 10) && near(box.low.z, 1, within) && near(box.high.z, 9, within),
             qPrintable(QString("%1 %2 %3 %4 %5 %6")
                            .arg(box.low.x)
                            .arg(box.high.x)
                            .arg(box.low.y)
                            .arg(box.high.y)
                            .arg(box.low.z)
                            .arg(box.high.z)));
    if (ending == ".obj" || ending == ".json" || ending == ".geojson" || ending == ".glb")
      QVERIFY(std::any_of(again.elements.begin(), again.elements.end(),
                          [](const ElementPtr& e) { return e->name.find("Søhus") != std::string::npos; }));
    if (ending == ".dxf" || ending == ".json" || ending == ".geojson")
      QVERIFY(std::any_of(again.elements.begin(), again.elements.end(), [&](const ElementPtr& e) {
        return ending == ".dxf" ? e->layer == "glazing" : e->role == Role::Glazing;
      }));
  }

  void nothingToWriteIsSaid() {
    QVERIFY(!exportModel(Project{}, ExportFormat::Obj));
    QVERIFY(!exportModel(Project{}, ExportFormat::GeoJson));
    QVERIFY(!exportFormatOf("model.xyz"));
  }

  // ---- healing
  void aSoundSolidHasNoFault() {
    const MeshHealth h = examine(cube());
    QCOMPARE(h.noArea + h.slivers + h.duplicates + h.flipped + h.openEdges + h.tangledEdges, std::size_t(0));
    Mesh soup; // the same with points of its own for each triangle
    const Mesh c = cube();
    for (std::size_t t = 0; t < c.triangles.size(); ++t) {
      for (std::uint32_t v : c.triangles[t]) soup.points.push_back(c.points[v]);
      soup.triangles.push_back({std::uint32_t(3 * t), std::uint32_t(3 * t + 1), std::uint32_t(3 * t + 2)});
    }
    const MeshHealth s = examine(soup);
    QCOMPARE(s.openEdges + s.duplicates + s.flipped, std::size_t(0));
  }

  void duplicatesAndSliversAreFoundAndTaken() {
    Mesh m = cube();
    const std::size_t sound = m.triangles.size();
    const Triangle first = m.triangles[0];
    m.triangles.push_back({first[1], first[2], first[0]}); // the same turned round,
    m.triangles.push_back({first[1], first[0], first[2]}); // and the other way
    m.triangles.push_back({first[0], first[1], first[1]}); // no area
    m.points.push_back(m.points[first[0]] + (m.points[first[1]] - m.points[first[0]]) * 0.5 + Vec3{0, 0, 5e-5});
    m.triangles.push_back({first[0], first[1], std::uint32_t(m.points.size() - 1)});
    for (int i = 0; i < 4; ++i) m.face.push_back(99);
    const MeshHealth h = examine(m);
    QCOMPARE(h.duplicates, std::size_t(2));
    QCOMPARE(h.noArea, std::size_t(1));
    QCOMPARE(h.slivers, std::size_t(1));
    std::size_t n = 0, k = 0;
    const Mesh once = withoutDuplicates(m, n), clean = withoutSlivers(once, k);
    QCOMPARE(n, std::size_t(2));
    QCOMPARE(k, std::size_t(2));
    QCOMPARE(clean.triangles.size(), sound);
    QVERIFY(near(volume(clean), 8) && near(surfaceArea(clean), 24));
    QCOMPARE(clean.face, cube().face);
    QVERIFY(examine(clean).closed());
  }

  void facesTurnOutward() {
    Mesh m = cube();
    for (std::size_t t : {1u, 4u, 7u}) std::swap(m.triangles[t][1], m.triangles[t][2]);
    MeshHealth h = examine(m);
    QCOMPARE(h.flipped, std::size_t(3));
    std::size_t n = 0;
    const Mesh right = turnedOutward(m, n);
    QCOMPARE(n, std::size_t(3));
    QVERIFY(near(volume(right), 8));
    Mesh inside = cube();
    for (Triangle& t : inside.triangles) std::swap(t[1], t[2]);
    QCOMPARE(examine(inside).flipped, inside.triangles.size());
    QVERIFY(near(volume(turnedOutward(inside, n)), 8));
    // An open one goes with most of its area; two shells are told apart.
    Mesh open = *flatPlate({{0, 0, 0}, {4, 0, 0}, {4, 4, 0}, {0, 4, 0}});
    open.points.push_back({6, 2, 0});
    open.triangles.push_back({1, 2, std::uint32_t(open.points.size() - 1)}); // looks down
    open.face.push_back(1);
    QCOMPARE(examine(open).flipped, std::size_t(1));
    QCOMPARE(examine(open).openEdges, std::size_t(5));
  }

  void tangledEdgesAreNamed() {
    Mesh m = cube();
    const Mesh fin = *flatPlate({{0, 0, 0}, {0, 0, 2}, {-1, 0, 2}, {-1, 0, 0}});
    const auto from = std::uint32_t(m.points.size());
    m.points.insert(m.points.end(), fin.points.begin(), fin.points.end());
    for (Triangle t : fin.triangles)
      m.triangles.push_back({t[0] + from, t[1] + from, t[2] + from}), m.face.push_back(50);
    const MeshHealth h = examine(m);
    QCOMPARE(h.tangledEdges, std::size_t(1));
    QVERIFY(h.tangledAt && near(h.tangledAt->x, 0) && near(h.tangledAt->y, 0));
  }

  void gapsAndTJunctionsAreWelded() {
    // Two halves of a floor 3 mm apart, one edge of it met by two others in its middle.
    Mesh m = *flatPlate({{0, 0, 0}, {2, 0, 0}, {2, 2, 0}, {0, 2, 0}});
    const auto add = [&](const Mesh& o) {
      const auto from = std::uint32_t(m.points.size());
      m.points.insert(m.points.end(), o.points.begin(), o.points.end());
      for (Triangle t : o.triangles)
        m.triangles.push_back({t[0] + from, t[1] + from, t[2] + from}), m.face.push_back(from);
    };
    add(*flatPlate({{2.003, 0, 0}, {4, 0, 0}, {4, 1, 0}, {2.003, 1, 0}}));
    add(*flatPlate({{2.003, 1, 0}, {4, 1, 0}, {4, 2, 0}, {2.003, 2, 0}}));
    QCOMPARE(examine(m).openEdges, std::size_t(4 + 6));
    std::size_t joined = 0;
    const Mesh w = welded(m, 0.005, joined);
    QVERIFY(joined >= 3);
    QCOMPARE(examine(w).openEdges,
             std::size_t(3 + 2 + 2)); // the outline alone: 0,0 to 4,2 with a corner at 4,1 and ends at x = 2
    QVERIFY(near(surfaceArea(w), 8, 0.01));
    std::size_t none = 0;
    QCOMPARE(welded(cube(), 0.005, none).triangles.size(), cube().triangles.size());
    QCOMPARE(none, std::size_t(0));
  }

  void findingsMendImportedMeshes() {
    Mesh m = cube();
    m.triangles.push_back(m.triangles[0]);
    m.face.push_back(m.face[0]);
    std::swap(m.triangles[3][1], m.triangles[3][2]);
    Model model;
    model.file = "box.obj";
    model.parts.push_back({"box", m});
    Project p = broughtIn(Project{}, model, {}, Role::Building, false).project;
    p.site.zone = "UTC";
    const auto of = [](const Findings& list, const char* code) {
      return std::find_if(list.begin(), list.end(), [&](const Finding& f) { return f.code == code; });
    };
    const Findings early = checkProject(p, {}, true); // nobody has examined the mesh yet, and nobody waits for it
    QVERIFY(of(early, "mesh.duplicates") == early.end());
    for (const char* code : {"mesh.duplicates", "mesh.flipped"}) {
      const Findings found = checkProject(p);
      const auto f = of(found, code);
      QVERIFY2(f != found.end() && !f->mend.empty(), code);
      const Findings known = checkProject(p, {}, true);
      QVERIFY(of(known, code) != known.end());
      p = *mendProject(p, *f);
    }
    const Findings left = checkProject(p);
    QVERIFY(std::none_of(left.begin(), left.end(), [](const Finding& f) { return f.code.starts_with("mesh."); }));
    QVERIFY(near(volume(*p.elements[0]->imported()->mesh), 8));
    QCOMPARE(p.elements[0]->imported()->content.hex(), digestOf(*p.elements[0]->imported()->mesh).hex());
    // Glass that counts twice bends results.
    Project glass = broughtIn(Project{}, model, {}, Role::Glazing, false).project;
    const Findings bends = checkProject(glass);
    QVERIFY(of(bends, "mesh.duplicates")->rank == Rank::BendsResult);
  }

  void aModelBroughtAgainKeepsWhatWasGiven() {
    Model first;
    first.file = "house.obj";
    first.parts.push_back({"walls", cube()});
    first.parts.push_back({"shed", cube()});
    Project p = broughtIn(Project{}, first, {}, Role::Neighbour, true).project;
    const ElementId walls = p.elements[0]->id;
    p = withEdited(p, {walls}, [](Element& e) {
      e.role = Role::Building;
      e.finish = "Brick";
      e.name = "Outer walls";
      e.proposed = true;
    });
    Model second = first;
    second.parts[1].name = "barn";
    for (Vec3& v : second.parts[0].mesh.points) v.x += 1;
    const ImportOutcome again = broughtIn(p, second, {}, Role::Neighbour, true);
    QCOMPARE(again.fresh.size(), std::size_t(1));
    QCOMPARE(again.renewed, std::vector<ElementId>{walls});
    QCOMPARE(again.moved, std::vector<ElementId>{walls});
    QCOMPARE(again.gone.size(), std::size_t(1));
    QCOMPARE(again.project.element(again.gone[0])->name, std::string("shed"));
    const Element& kept = *again.project.element(walls);
    QVERIFY(kept.role == Role::Building && kept.finish == "Brick" && kept.name == "Outer walls" && kept.proposed &&
            kept.layer == "walls");
    QVERIFY(near(boxOf(kept).low.x, 1));
    QVERIFY(broughtIn(again.project, second, {}, Role::Neighbour, true).moved.empty());
  }
};

QTEST_APPLESS_MAIN(TestFormats)
#include "tst_formats.moc"
