// Models as they come: city models in XML, sizes that no such thing has, cities in one mesh, plans of loose lines;
// names in files that nobody reads, and findings that say the same of many things.

#ifndef Q_MOC_RUN
#include "core/base/words.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/project/project_file.h"
#include "core/geometry/mesh_build.h"
#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "core/model/mending/check_size.h"
#include "core/model/tracing/tracing.h"
#include "core/studies/light_check.h"
#include "tests/house.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#endif

using namespace noonward;

namespace {

std::string ring(const std::vector<Vec3>& points) {
  std::string out = "<gml:LinearRing><gml:posList>";
  for (std::size_t i = 0; i <= points.size(); ++i)
    out +=
        fmt::format("{} {} {} ", points[i % points.size()].x, points[i % points.size()].y, points[i % points.size()].z);
  return out + "</gml:posList></gml:LinearRing>";
}
std::string polygon(const std::vector<Vec3>& outer, const std::string& id = "", const std::vector<Vec3>& hole = {}) {
  return "<gml:surfaceMember><gml:Polygon" + (id.empty() ? "" : " gml:id=\"" + id + "\"") + "><gml:exterior>" +
         ring(outer) + "</gml:exterior>" + (hole.empty() ? "" : "<gml:interior>" + ring(hole) + "</gml:interior>") +
         "</gml:Polygon></gml:surfaceMember>";
}
std::string cityModel(const std::string& members,
                      const std::string& system = "urn:ogc:def:crs,crs:EPSG::25832,crs:EPSG::7837") {
  return R"(<?xml version="1.0" encoding="UTF-8"?><core:CityModel xmlns:core="http://www.opengis.net/citygml/2.0" xmlns:bldg="http://www.opengis.net/citygml/building/2.0" xmlns:gml="http://www.opengis.net/gml" xmlns:xlink="http://www.w3.org/1999/xlink">
<gml:boundedBy><gml:Envelope srsName=")" +
         system +
         R"(" srsDimension="3"><gml:lowerCorner>500000 6100000 0</gml:lowerCorner></gml:Envelope></gml:boundedBy>)" +
         members + "</core:CityModel>";
}
/// Walls, roof and floor of a block as thematic surfaces; `solid`: a lod2Solid that only refers to them.
std::string building(const char* id, Vec3 low, Vec3 size, bool solid = true) {
  const Vec3 a = low, b = low + Vec3{size.x, 0, 0}, c = low + Vec3{size.x, size.y, 0}, d = low + Vec3{0, size.y, 0},
             up{0, 0, size.z};
  std::string out =
      std::string("<core:cityObjectMember><bldg:Building gml:id=\"") + id + "\"><gml:name>Mill</gml:name>";
  const std::vector<std::pair<const char*, std::vector<Vec3>>> faces{
      {"GroundSurface", {d, c, b, a}},         {"RoofSurface", {a + up, b + up, c + up, d + up}},
      {"WallSurface", {a, b, b + up, a + up}}, {"WallSurface", {b, c, c + up, b + up}},
      {"WallSurface", {c, d, d + up, c + up}}, {"WallSurface", {d, a, a + up, d + up}}};
  int n = 0;
  std::string refers;
  for (const auto& [kind, points] : faces) {
    const std::string face = fmt::format("{}-{}", id, ++n);
    out += fmt::format("<bldg:boundedBy><bldg:{0}><bldg:lod2MultiSurface><gml:MultiSurface>{1}</gml:MultiSurface></"
                       "bldg:lod2MultiSurface></bldg:{0}></bldg:boundedBy>",
                       kind, polygon(points, face));
    refers += "<gml:surfaceMember xlink:href=\"#" + face + "\"/>";
  }
  if (solid)
    out += "<bldg:lod2Solid><gml:Solid><gml:exterior><gml:CompositeSurface>" + refers +
           "</gml:CompositeSurface></gml:exterior></gml:Solid></bldg:lod2Solid>";
  return out + "</bldg:Building></core:cityObjectMember>";
}

Mesh block(Vec3 low, Vec3 size) {
  Mesh m = *extrude(rectangle(low.x, low.y, low.x + size.x, low.y + size.y), low.z, size.z);
  return m;
}
void append(Mesh& m, const Mesh& o) {
  const auto from = std::uint32_t(m.points.size());
  m.points.insert(m.points.end(), o.points.begin(), o.points.end());
  for (Triangle t : o.triangles) m.triangles.push_back({t[0] + from, t[1] + from, t[2] + from});
  m.face.clear();
}
Element imported(std::uint64_t id, const char* name, Mesh m, Role role = Role::Building,
                 const char* source = "house.obj") {
  Element e;
  e.id = {id};
  e.name = e.layer = name;
  e.role = role;
  e.source = source;
  const Digest content = digestOf(m);
  e.shape = Imported{std::make_shared<const Mesh>(std::move(m)), content, {}, 0, 1};
  return e;
}
const Finding* found(const Findings& list, const std::string& code) {
  for (const Finding& f : list)
    if (f.code == code) return &f;
  return nullptr;
}
std::string line(double x0, double y0, double x1, double y1) {
  return fmt::format("0\nLINE\n8\nwalls\n10\n{}\n20\n{}\n30\n0\n11\n{}\n21\n{}\n31\n0\n", x0, y0, x1, y1);
}
std::string drawing(const std::string& entities, int unit = 6) {
  return fmt::format(
      "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n{}\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n{}0\nENDSEC\n0\nEOF\n", unit,
      entities);
}

} // namespace

class TestMessyModels : public QObject {
  Q_OBJECT
private slots:
  // ---- CityGML ----

  void facesOfThematicSurfacesAreTakenOnce() {
    const auto m = parseCityGml(cityModel(building("b1", {500000, 6100000, 3}, {12, 8, 9})), "town.gml");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    QVERIFY(m->parts.empty());
    QCOMPARE(m->outlines.size(), std::size_t(1)); // a box is an outline raised; with a face twice it were none
    const ModelOutline& p = m->outlines[0];
    QCOMPARE(p.name, std::string("Mill (b1)"));
    QCOMPARE(p.layer, std::string("Building"));
    QCOMPARE(*p.role, Role::Neighbour);
    QVERIFY(std::abs(area(p.outline) - 12 * 8) < 1e-6 && signedArea(p.outline.outer) > 0);
    QVERIFY(std::abs(p.base - 3) < 1e-9 && std::abs(p.height - 9) < 1e-9);
    QCOMPARE(m->geo.system, std::string("EPSG:25832"));
    QCOMPARE(*m->statedUnit, LengthUnit::Metre);
    QCOMPARE(m->levels, std::vector<std::string>{"2"});
  }

  void theSystemIsReadInEverySpelling_data() {
    QTest::addColumn<QString>("written");
    QTest::addColumn<QString>("system");
    QTest::newRow("short") << "EPSG:25833"
                           << "EPSG:25833";
    QTest::newRow("urn") << "urn:ogc:def:crs:EPSG::28992"
                         << "EPSG:28992";
    QTest::newRow("urn with an edition") << "urn:ogc:def:crs:EPSG:6.12:3068"
                                         << "EPSG:3068";
    QTest::newRow("compound urn") << "urn:ogc:def:crs,crs:EPSG::25832,crs:EPSG::5783"
                                  << "EPSG:25832";
    QTest::newRow("compound plus") << "EPSG:25832+7837"
                                   << "EPSG:25832";
    QTest::newRow("http") << "http://www.opengis.net/def/crs/EPSG/0/7415"
                          << "EPSG:7415";
    QTest::newRow("a survey's own") << "urn:adv:crs:ETRS89_UTM33*DE_DHHN2016_NH"
                                    << "EPSG:25833";
    QTest::newRow("none") << ""
                          << "";
  }
  void theSystemIsReadInEverySpelling() {
    QFETCH(QString, written);
    QFETCH(QString, system);
    const auto m = parseCityGml(cityModel(building("b", {300, 200, 0}, {9, 9, 9}), written.toStdString()), "a.gml");
    QVERIFY(m.has_value());
    QCOMPARE(QString::fromStdString(m->geo.system), system);
  }

  void theFinestLevelIsTakenOrTheOneAskedFor() {
    const std::string both = cityModel(
        R"(<core:cityObjectMember><bldg:Building gml:id="x"><bldg:lod1Solid><gml:Solid><gml:exterior><gml:CompositeSurface>)" +
        polygon({{0, 0, 0}, {10, 0, 0}, {10, 10, 0}, {0, 10, 0}}) +
        R"(</gml:CompositeSurface></gml:exterior></gml:Solid></bldg:lod1Solid><bldg:lod2MultiSurface><gml:MultiSurface>)" +
        polygon({{0, 0, 0}, {4, 0, 0}, {4, 4, 0}, {0, 4, 0}}) +
        "</gml:MultiSurface></bldg:lod2MultiSurface></bldg:Building></core:cityObjectMember>");
    const auto fine = parseCityGml(both, "a.gml"), coarse = parseCityGml(both, "a.gml", {"1"}),
               none = parseCityGml(both, "a.gml", {"3"});
    QVERIFY(fine && coarse && !none);
    QVERIFY(std::abs(surfaceArea(fine->parts[0].mesh) - 16) < 1e-9);
    QVERIFY(std::abs(surfaceArea(coarse->parts[0].mesh) - 100) < 1e-9);
    QVERIFY(none.error().text().find("there are 1, 2") != std::string::npos);
  }

  void windowsAndPartsAndHolesAndRelief() {
    const std::string text = cityModel(
        R"(<core:cityObjectMember><bldg:Building gml:id="h"><bldg:boundedBy><bldg:WallSurface><bldg:lod3MultiSurface><gml:MultiSurface>)" +
        polygon({{0, 0, 0}, {8, 0, 0}, {8, 0, 3}, {0, 0, 3}}, "", {{2, 0, 1}, {2, 0, 2}, {4, 0, 2}, {4, 0, 1}}) +
        R"(</gml:MultiSurface></bldg:lod3MultiSurface><bldg:opening><bldg:Window gml:id="w"><bldg:lod3MultiSurface><gml:MultiSurface>)" +
        polygon({{2, 0, 1}, {4, 0, 1}, {4, 0, 2}, {2, 0, 2}}) +
        R"(</gml:MultiSurface></bldg:lod3MultiSurface></bldg:Window></bldg:opening></bldg:WallSurface></bldg:boundedBy><bldg:consistsOfBuildingPart><bldg:BuildingPart gml:id="tower"><bldg:lod2MultiSurface><gml:MultiSurface>)" +
        polygon({{20, 0, 0}, {25, 0, 0}, {25, 0, 9}, {20, 0, 9}}) +
        R"(</gml:MultiSurface></bldg:lod2MultiSurface></bldg:BuildingPart></bldg:consistsOfBuildingPart></bldg:Building></core:cityObjectMember>
<core:cityObjectMember><dem:ReliefFeature gml:id="r"><dem:lod>1</dem:lod><dem:reliefComponent><dem:TINRelief gml:id="t"><dem:lod>1</dem:lod><dem:tin><gml:TriangulatedSurface><gml:trianglePatches><gml:Triangle><gml:exterior>)" +
        ring({{0, 0, 0}, {90, 0, 1}, {0, 90, 2}}) +
        R"(</gml:exterior></gml:Triangle></gml:trianglePatches></gml:TriangulatedSurface></dem:tin></dem:TINRelief></dem:reliefComponent></dem:ReliefFeature></core:cityObjectMember>
<core:cityObjectMember><grp:CityObjectGroup gml:id="g"/></core:cityObjectMember>)");
    const auto m = parseCityGml(text, "a.gml");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    std::map<std::string, const ModelPart*> by;
    for (const ModelPart& p : m->parts) by[p.name] = &p;
    QVERIFY(by.contains("h") && by.contains("h, windows and doors") && by.contains("tower") && by.contains("t"));
    QVERIFY(std::abs(surfaceArea(by["h"]->mesh) - 22) < 1e-9);
    QCOMPARE(*by["h, windows and doors"]->role, Role::Glazing);
    QCOMPARE(*by["t"]->role, Role::Ground);
    QVERIFY(std::any_of(m->notes.begin(), m->notes.end(),
                        [](const std::string& n) { return n.find("1 CityObjectGroup") != n.npos; }));
  }

  void faultyCityModelsAreNamed_data() {
    QTest::addColumn<QByteArray>("text");
    QTest::addColumn<QString>("message");
    const std::string whole = cityModel(building("b1", {0, 0, 0}, {12, 8, 9}));
    QTest::newRow("cut short") << QByteArray::fromStdString(whole.substr(0, whole.size() / 2)) << "no sound XML";
    QTest::newRow("no city model") << QByteArray("<kml/>") << "its root is \"kml\"";
    QTest::newRow("empty") << QByteArray::fromStdString(cityModel("")) << "no faces";
    QTest::newRow("nothing") << QByteArray() << "no sound XML";
    std::string words = whole;
    for (std::size_t at; (at = words.find("<gml:posList>")) != words.npos;) words.replace(at, 13, "<gml:posList >a ");
    QTest::newRow("words for numbers") << QByteArray::fromStdString(words) << "every face lacks coordinates";
    std::string deep;
    for (int k = 0; k < 300; ++k) deep += "<a>";
    for (int k = 0; k < 300; ++k) deep += "</a>";
    QTest::newRow("very deep") << QByteArray::fromStdString(cityModel(deep)) << "200 deep";
    QTest::newRow("degrees") << QByteArray::fromStdString(cityModel(building("b1", {11, 55, 0}, {0.001, 0.001, 9}),
                                                                    "urn:ogc:def:crs:EPSG::4979"))
                             << "degrees";
  }
  void faultyCityModelsAreNamed() {
    QFETCH(QByteArray, text);
    QFETCH(QString, message);
    const auto m = parseCityGml(std::string_view(text.constData(), std::size_t(text.size())), "a.gml");
    QVERIFY(!m);
    QVERIFY2(QString::fromStdString(m.error().text()).contains(message), m.error().text().c_str());
  }

  void everyCutOfACityModelEndsWell() { // whatever is missing, a model or a fault, never a crash
    const std::string whole = cityModel(building("b1", {0, 0, 0}, {12, 8, 9}));
    int read = 0;
    for (std::size_t n = 0; n < whole.size(); n += 7)
      read += parseCityGml(std::string_view(whole).substr(0, n), "a.gml").has_value();
    QCOMPARE(read, 0);
  }

  void anXmlFileIsKnownByItsRoot() {
    QTemporaryDir dir;
    const auto put = [&](const char* name, const std::string& text) {
      QFile f(dir.filePath(name));
      if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
      f.write(text.data(), qint64(text.size()));
      f.close();
      return readModel(dir.filePath(name).toStdString());
    };
    QVERIFY(put("town.xml", cityModel(building("b", {0, 0, 0}, {9, 9, 9}))).has_value());
    QVERIFY(put("TOWN.GML", cityModel(building("b", {0, 0, 0}, {9, 9, 9}))).has_value());
    const auto other = put("other.xml", "<landxml/>");
    QVERIFY(!other && other.error().text().find("landxml") != std::string::npos);
  }

  void aFileThatContradictsItselfIsToldSo_data() {
    QTest::addColumn<QString>("unit");
    QTest::addColumn<QString>("area");
    QTest::addColumn<QString>("per");
    QTest::addColumn<bool>("told");
    QTest::newRow("alike") << "Meters"
                           << "30"
                           << "SquareMeters" << false;
    QTest::newRow("a little off: walls counted in") << "Meters"
                                                    << "38"
                                                    << "SquareMeters" << false;
    QTest::newRow("feet in metres") << "Feet"
                                    << "30"
                                    << "SquareMeters" << true;
    QTest::newRow("both in feet") << "Feet"
                                  << "30"
                                  << "SquareFeet" << false;
    QTest::newRow("millimetres") << "Millimeters"
                                 << "30"
                                 << "SquareMeters" << true;
    QTest::newRow("no area") << "Millimeters"
                             << ""
                             << "SquareMeters" << false;
  }
  void aFileThatContradictsItselfIsToldSo() {
    QFETCH(QString, unit);
    QFETCH(QString, area);
    QFETCH(QString, per);
    QFETCH(bool, told);
    std::string corners;
    for (const auto& [x, y] : {std::pair{0, 0}, {0, 5}, {6, 5}, {6, 0}})
      corners += fmt::format("<CartesianPoint><Coordinate>{}</Coordinate><Coordinate>{}</Coordinate><Coordinate>0</"
                             "Coordinate></CartesianPoint>",
                             x, y);
    const std::string text =
        fmt::format(
            R"(<gbXML lengthUnit="{}" areaUnit="{}"><Campus id="c"><Building id="b"><Space id="s"><Name>Studio</Name>{}</Space></Building>)",
            unit.toStdString(), per.toStdString(), area.isEmpty() ? "" : "<Area>" + area.toStdString() + "</Area>") +
        R"(<Surface id="f" surfaceType="SlabOnGrade"><AdjacentSpaceId spaceIdRef="s"/><PlanarGeometry><PolyLoop>)" +
        corners + "</PolyLoop></PlanarGeometry></Surface></Campus></gbXML>";
    const auto m = parseGbXml(text, "a.xml");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    QCOMPARE(
        std::any_of(m->notes.begin(), m->notes.end(),
                    [](const std::string& n) { return n.find("contradicts itself in 1 space: \"Studio\"") != n.npos; }),
        told);
  }

  // ---- sizes ----

  void thingsOfTheWrongSizeAreAskedAbout_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<double>("height");
    QTest::addColumn<double>("factor"); // of the mend that is offered first; 0: nothing is odd
    QTest::newRow("a door") << "Door 1" << 2.1 << 0.0;
    QTest::newRow("a gate") << "Door 2" << 4.2 << 0.0;
    QTest::newRow("a door in millimetres") << "Door 3" << 2100.0 << 0.001;
    QTest::newRow("a door in centimetres") << "Tür" << 210.0 << 0.01;
    QTest::newRow("a door in inches") << "porte d'entrée" << 82.0 << 0.0254;
    QTest::newRow("a door in feet") << "dør" << 6.9 << 0.3048;
    QTest::newRow("a door that was metres") << "Door" << 0.0021 << 1000.0;
    QTest::newRow("a wash basin") << "Waschbecken" << 0.6 << 0.0;
    QTest::newRow("a wash basin of 30 m") << "Waschbecken" << 30.0 << 0.0254;
    QTest::newRow("no door but a doorstep-sized name") << "Adorno" << 40.0 << 0.0;
  }
  void thingsOfTheWrongSizeAreAskedAbout() {
    QFETCH(QString, name);
    QFETCH(double, height);
    QFETCH(double, factor);
    Project p;
    p.elements.push_back(std::make_shared<const Element>(
        imported(1, name.toUtf8().constData(), block({0, 0, 0}, {height / 2, height / 10, height}), Role::Wall)));
    const Findings list = checkProject(p);
    const Finding* f = found(list, "model.size");
    QCOMPARE(f != nullptr, factor != 0);
    if (!f) return;
    QVERIFY2(std::abs(*factorOf(f->mend) / factor - 1) < 1e-9, f->mend.c_str());
    QVERIFY(neverOfAll(*f));
    const auto mended = mendProject(p, *f);
    QVERIFY(mended.has_value());
    QVERIFY(std::abs(boxOf(*mended->elements[0]).size().z - height * factor) < 1e-9 * height * factor);
    const Findings after = checkProject(*mended);
    QVERIFY(!found(after, "model.size"));
  }

  void aLayerOfDoorsInOneMeshIsNoHugeDoor() { // as drawings have it: one mesh a layer, over all storeys
    Mesh layer = block({0, 0, 0}, {0.9, 0.05, 2.1});
    for (int storey = 1; storey < 6; ++storey) append(layer, block({4.0 * storey, 0, 3.2 * storey}, {0.9, 0.05, 2.1}));
    Project p;
    p.elements.push_back(std::make_shared<const Element>(imported(1, "Doors", layer, Role::Wall)));
    QVERIFY(!found(checkProject(p), "model.size"));
  }

  void aSizeIsAQuestionForTheWholeFile() { // and is remembered with it, so that it comes in alike again
    Project p;
    p.elements.push_back(
        std::make_shared<const Element>(imported(1, "door", block({0, 0, 0}, {900, 40, 2100}), Role::Wall)));
    p.elements.push_back(
        std::make_shared<const Element>(imported(2, "roof", block({0, 0, 3000}, {9000, 7000, 200}), Role::Roof)));
    p.elements.push_back(
        std::make_shared<const Element>(imported(3, "shed", block({0, 0, 0}, {5, 4, 3}), Role::Building, "other.obj")));
    p.sources.push_back({"house.obj", "house.obj"});
    p.sources.push_back({"other.obj", "other.obj"});
    const Findings list = checkProject(p);
    const Finding* f = found(list, "model.size");
    QVERIFY(f && f->elements == (std::vector<std::uint64_t>{1, 2}));
    const auto mended = mendProject(p, *f);
    QVERIFY(mended && std::abs(boxOf(*mended->element({2})).high.x - 9) < 1e-9);
    QCOMPARE(boxOf(*mended->element({3})).high.x, 5.0);
    QCOMPARE(mended->sources[0].scale, 0.001);
    QCOMPARE(mended->sources[1].scale, 1.0);
  }

  void theWholeOfAFileMayBeOdd() {
    const auto oddly = [](Vec3 size, int parts) {
      Project p;
      for (int k = 0; k < parts; ++k)
        for (int m = 0; m < 2; ++m)
          p.elements.push_back(std::make_shared<const Element>(
              imported(std::uint64_t(2 * k + m + 1), "part",
                       block({size.x * m / 2, size.y * k / parts, 0}, {size.x / 2, size.y / parts, size.z}))));
      const Findings list = checkProject(p);
      return found(list, "model.size") != nullptr;
    };
    QVERIFY(oddly({1636, 900, 60}, 1)); // a house of a mile
    QVERIFY(oddly({0.8, 0.5, 0.3}, 1)); // a plan 0.80 m wide
    QVERIFY(!oddly({40, 20, 12}, 1));
    QVERIFY(!oddly({1900, 1500, 80}, 30)); // a town
    Project p;                             // a survey mark left lying far off says nothing of the house
    p.elements.push_back(std::make_shared<const Element>(imported(1, "house", block({0, 0, 0}, {20, 12, 9}))));
    p.elements.push_back(std::make_shared<const Element>(imported(2, "mark", block({900, 0, 0}, {2, 2, 2}))));
    QVERIFY(!found(checkProject(p), "model.size"));
  }

  void everyUnitIsOfferedForAHugeElement() {
    Project p;
    Element e;
    e.id = {1};
    e.name = "hall";
    e.shape = Mass{rectangle(0, 0, 24000, 9000), 0, 6000, 1};
    p.elements.push_back(std::make_shared<const Element>(e));
    const Findings list = checkProject(p);
    const Finding* f = found(list, "element.size");
    QVERIFY(f && f->mend == "element.size");
    std::vector<double> factors;
    for (const MendWay& w : f->ways) factors.push_back(*factorOf(w.mend));
    QVERIFY(std::find(factors.begin(), factors.end(), 0.01) != factors.end() &&
            std::find(factors.begin(), factors.end(), 0.3048) != factors.end() &&
            std::find(factors.begin(), factors.end(), 0.0254) != factors.end());
    Finding inches = *f;
    inches.mend = "element.size:0.0254";
    QVERIFY(std::abs(boxOf(*mendProject(p, inches)->elements[0]).high.x - 24000 * 0.0254) < 1e-6);
    QVERIFY(std::abs(boxOf(*mendProject(p, *f)->elements[0]).high.x - 24) < 1e-9);
  }

  // ---- a city in one mesh ----

  void oneMeshBecomesItsBuildings() {
    Mesh city = block({0, 0, 0}, {10, 8, 12});
    append(city, block({20, 0, 0}, {6, 6, 9}));
    append(city, block({40, 0, 0}, {5, 9, 15}));
    append(city, block({3, 3, 12}, {1, 1, 1})); // a chimney goes with what it stands on
    Project p;
    Element e = imported(1, "city", city, Role::Neighbour, "city.obj");
    e.proposed = false;
    p.elements.push_back(std::make_shared<const Element>(e));
    const Findings list = checkProject(p);
    const Finding* f = found(list, "mesh.city");
    QVERIFY(f && f->text.find("3 separate bodies") != std::string::npos && neverOfAll(*f));
    const auto split = mendProject(p, *f);
    QVERIFY(split.has_value());
    QCOMPARE(split->elements.size(), std::size_t(4));
    QVERIFY(split->elements[0]->ghost && !split->elements[0]->counted);
    double area = 0;
    std::size_t triangles = 0;
    for (std::size_t k = 1; k < 4; ++k) {
      const Element& part = *split->elements[k];
      QVERIFY(part.counted && !part.ghost && part.role == Role::Neighbour && part.source.empty());
      area += surfaceArea(*part.imported()->mesh);
      triangles += part.imported()->mesh->triangles.size();
    }
    QVERIFY(std::abs(area - surfaceArea(city)) < 1e-9);
    QCOMPARE(triangles, city.triangles.size());
    QVERIFY(std::abs(boxOf(*split->elements[1]).high.z - 13) < 1e-9); // the largest ground first, with its chimney
    QVERIFY(!found(checkProject(*split), "mesh.city"));
    QVERIFY(!withoutTrace(*split).elements[0]->counted); // a simplified model that goes does not bring the whole back
    Element few = imported(2, "two", block({0, 0, 0}, {9, 9, 9}));
    Project q;
    q.elements.push_back(std::make_shared<const Element>(few));
    QVERIFY(!found(checkProject(q), "mesh.city"));
  }

  // ---- plans of loose lines ----

  void roomsBetweenLooseLinesAreOfferedToTrace_data() {
    QTest::addColumn<double>("per"); // drawing units a metre
    QTest::addColumn<int>("unit");   // of the header
    QTest::addColumn<double>("far");
    QTest::newRow("metres") << 1.0 << 6 << 0.0;
    QTest::newRow("millimetres") << 1000.0 << 4 << 0.0;
    QTest::newRow("no unit, numbers of millimetres") << 1000.0 << 0 << 0.0;
    QTest::newRow("far away") << 1.0 << 6 << 500000.0;
  }
  void roomsBetweenLooseLinesAreOfferedToTrace() {
    QFETCH(double, per);
    QFETCH(int, unit);
    QFETCH(double, far);
    // Two rooms 4 × 5 and 6 × 5 m; a wall of two lines 0.2 m apart between them; corners that miss each other by 1 cm.
    std::string text;
    const auto put = [&](double a, double b, double c, double d) {
      text += line((a + far) * per, (b + far) * per, (c + far) * per, (d + far) * per);
    };
    put(0, 0, 10.21, 0), put(10.2, 0.01, 10.2, 5), put(10.2, 5, 0, 5), put(0, 4.99, 0, 0), put(4, 0, 4, 5),
        put(4.2, 0, 4.2, 5);
    const auto m = parseDxf(drawing(text, unit), "plan.dxf");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    QCOMPARE(m->outlines.size(), std::size_t(2)); // not the wall
    std::vector<double> areas;
    for (const ModelOutline& o : m->outlines) areas.push_back(area(o.outline) / per / per);
    std::sort(areas.begin(), areas.end());
    QVERIFY2(std::abs(areas[0] - 20) < 0.15 && std::abs(areas[1] - 30) < 0.15,
             qPrintable(QString("%1 %2").arg(areas[0]).arg(areas[1])));
    QCOMPARE(m->outlines[0].layer, std::string("closed by lines"));
  }

  void linesThatCloseNothingAreNamed() {
    const auto m = parseDxf(drawing(line(0, 0, 5, 0) + line(5, 0, 5, 5) + line(9, 9, 12, 9)), "plan.dxf");
    QVERIFY(!m);
    const auto with = parseDxf(
        drawing(
            line(0, 0, 5, 0) + line(5, 0, 5, 5) + line(9, 9, 12, 9) +
            "0\n3DFACE\n8\nroof\n10\n0\n20\n0\n30\n3\n11\n4\n21\n0\n31\n3\n12\n4\n22\n4\n32\n3\n13\n0\n23\n4\n33\n3\n"),
        "plan.dxf");
    QVERIFY(with.has_value());
    QVERIFY(std::any_of(with->notes.begin(), with->notes.end(),
                        [](const std::string& n) { return n.find("3 LINE") != n.npos; }));
  }

  // ---- edges that touch ----

  void edgesThatLieOnEachOtherExactlyAreNoGaps() {
    // A closed box whose top is cut in two at x = 1 while its sides are not: the cut meets their edges in their middle.
    Mesh m = block({0, 0, 0}, {2, 2, 2});
    std::erase_if(m.triangles, [&](const Triangle& t) {
      return m.points[t[0]].z == 2 && m.points[t[1]].z == 2 && m.points[t[2]].z == 2;
    });
    m.face.clear();
    for (const double x : {0.0, 1.0}) {
      Mesh half = *flatPlate({{x, 0, 2}, {x + 1, 0, 2}, {x + 1, 2, 2}, {x, 2, 2}});
      append(m, half);
    }
    const MeshHealth h = examine(m);
    QCOMPARE(h.gaps, std::size_t(0));
    QCOMPARE(h.holes, std::size_t(0));
    QVERIFY(h.closed());
    Mesh apart = m; // the same with the halves 2 mm off: that is a gap
    for (std::size_t v = apart.points.size() - 4; v < apart.points.size(); ++v) apart.points[v].x += 0.002;
    QVERIFY(examine(apart).gaps > 0);
  }

  // ---- names nobody reads ----

  void wordsThatWereMeant_data() {
    QTest::addColumn<QString>("word");
    QTest::addColumn<QString>("meant");
    QTest::newRow("a letter too few") << "eror"
                                      << "error";
    QTest::newRow("a letter too many") << "seeed"
                                       << "seed";
    QTest::newRow("swapped") << "spcaing"
                             << "spacing";
    QTest::newRow("capital") << "Seed"
                             << "seed";
    QTest::newRow("another word") << "remark"
                                  << "";
    QTest::newRow("short ones far apart") << "so"
                                          << "";
  }
  void wordsThatWereMeant() {
    QFETCH(QString, word);
    QFETCH(QString, meant);
    QCOMPARE(QString::fromStdString(meantWord(word.toStdString(), {"error", "seed", "spacing", "up"})), meant);
  }

  void misspeltKeysAreFound() {
    const auto p = parseProject(
        R"({"format":"noonward-project","version":1,"site":{"latitude":50,"longitude":8,"lattitude":1},"office":{"job":7},
      "studies":[{"kind":"daylight-factor","eror":1,"sky":{"kind":"cie-overcast","difuse":9000}}],"elements":[{"name":"a","mass":{"outline":[[0,0],[5,0],[5,5]],"height":3,"hieght":4}}]})",
        "x", ".");
    QVERIFY2(p.has_value(), p ? "" : p.error().text().c_str());
    std::map<std::string, std::string> keys;
    for (const UnknownKey& k : p->project.unknownKeys) keys[k.path] = k.nearest;
    QCOMPARE(keys.size(), std::size_t(5));
    QCOMPARE(keys["studies[0].eror"], std::string("error"));
    QCOMPARE(keys["studies[0].sky.difuse"], std::string("diffuse"));
    QVERIFY(keys.contains("site.lattitude") && keys.contains("office"));
    QVERIFY(keys.contains("elements[0].mass.hieght")); // the right one is there too: nothing is meant by it
    QVERIFY(keys["elements[0].mass.hieght"].empty());
    const Findings list = checkProject(p->project);
    const Finding* f = found(list, "file.unknown-key");
    QVERIFY(f && f->rank == Rank::BendsResult);
    QVERIFY2(f->text.find("\"error\" meant?") != std::string::npos, f->text.c_str());
  }

  void filesOfOursHaveNoUnknownKeys() {
    const auto demo = readProject(SOURCE_TREE "/demo/ropewalk-quay.noonward");
    QVERIFY(demo.has_value());
    for (const UnknownKey& k : demo->project.unknownKeys) QFAIL(k.path.c_str());
    QTemporaryDir dir;
    Project p = demo->project;
    QVERIFY(writeProject(p, dir.filePath("a.noonward").toStdString()));
    const auto back = readProject(dir.filePath("a.noonward").toStdString());
    QVERIFY(back.has_value());
    for (const UnknownKey& k : back->project.unknownKeys) QFAIL(k.path.c_str());
  }

  // ---- findings that say the same ----

  void manyFindingsOfOneKindAreOne() {
    Findings list;
    for (int k = 1; k <= 500; ++k)
      list.push_back({Rank::BendsResult,
                      "room.dark",
                      fmt::format("\"Room {}\" has no window and {} sensors.", k, 3 * k),
                      1,
                      {std::uint64_t(k)},
                      "room.not-counted",
                      "Say it is not regularly occupied"});
    list.push_back({Rank::BendsResult, "room.dark", "\"Hall\" is something else.", 1, {900}, "", ""});
    const Findings m = merged(list);
    QCOMPARE(m.size(), std::size_t(2));
    QCOMPARE(m[0].count, 500);
    QCOMPARE(m[0].elements.size(), std::size_t(500));
    QCOMPARE(
        QString::fromStdString(m[0].text),
        QString("\"Room 1\" has no window and 3 sensors. Likewise \"Room 2\", \"Room 3\", \"Room 4\" and 496 more."));
    QCOMPARE(merged(m).size(), std::size_t(2)); // merging again changes nothing
    list.resize(5);
    QCOMPARE(merged(list).size(), std::size_t(5)); // a few are told one by one
  }

  void whatIsMendedOneByOneStaysApart() {
    Findings list;
    for (int k = 1; k <= 20; ++k)
      list.push_back({Rank::BendsResult,
                      "room.overlap",
                      fmt::format("\"A{}\" and \"B{}\" overlap.", k, k),
                      1,
                      {std::uint64_t(k), std::uint64_t(100 + k)},
                      "room.overlap",
                      "Take it off"});
    QCOMPARE(merged(list).size(), std::size_t(20));
  }

  void aLeakIsToldOnceForItsRoom() {
    Project p = test::house({.width = 9, .depth = 7, .ratio = 0.2, .spacing = 0.8});
    SensorGroup again = p.groups[0]; // a second grid in the same room
    again.id = {41};
    again.name = "Low plane";
    std::get<RoomGrid>(again.layout).height = 0.3;
    p.groups.push_back(again);
    auto model = lightModel(p);
    QVERIFY(model.has_value());
    // A slit along the whole of the ceiling.
    for (LightPart& part : model->parts) {
      if (part.room != 0 || part.glazed) continue;
      Mesh open = *part.mesh;
      std::erase_if(open.triangles, [&](const Triangle& t) {
        return std::all_of(t.begin(), t.end(), [&](std::uint32_t v) { return open.points[v].z > 2.99; });
      });
      open.face.clear();
      part.mesh = std::make_shared<const Mesh>(std::move(open));
    }
    std::erase_if(model->parts, [](const LightPart& part) { return part.source == SurfaceSource::Element; });
    const LightScene scene(*model);
    const Findings list = checkLeaks(scene, *layOutSensors(p));
    const auto leaks = std::count_if(list.begin(), list.end(), [](const Finding& f) { return f.code == "room.leak"; });
    QVERIFY2(leaks == 1, qPrintable(QString::number(leaks)));
  }
};

QTEST_GUILESS_MAIN(TestMessyModels)
#include "tst_messy_models.moc"
