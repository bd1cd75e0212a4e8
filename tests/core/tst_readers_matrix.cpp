// Every reader of models, with every encoding it may meet and every fault that a file can have: each is read alike or
// refused in a sentence that names the file; nothing crashes and nothing comes out that no scene could hold.

#ifndef Q_MOC_RUN
#include "core/files/meshes/mesh_files.h"
#include "core/files/save_file.h"
#include "tests/core/formats_data.h"
#include <QtTest>
#include <cmath>
#include <fmt/format.h>
#endif

using namespace noonward;

namespace {

using Parse = Expected<Model> (*)(std::string_view, const std::string&);
struct Reader {
  const char* name;
  Parse parse;
  const char* ending;
  std::string sound; ///< with a name of two letters beyond ASCII where the format has names
  bool text;         ///< encodings and line ends may vary
};
Expected<Model> cityJson(std::string_view text, const std::string& file) {
  return parseCityJson(text, file);
}
Expected<Model> cityGml(std::string_view text, const std::string& file) {
  return parseCityGml(text, file);
}

constexpr const char* objText =
    "mtllib a.mtl\no Häuser\nusemtl wand\nv 0 0 0\nv 4 0 0\nv 4 3 0\nv 0 3 0\nv 0 0 3\nv 4 0 3\n"
    "f 1 2 3 4\nf 1 2 6 5\n";
constexpr const char* stlText =
    "solid Häuser\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 4 0 0\nvertex 4 3 0\nendloop\n"
    "endfacet\nendsolid Häuser\n";
constexpr const char* plyText =
    "ply\nformat ascii 1.0\ncomment Häuser\nelement vertex 4\nproperty double x\nproperty double y\n"
    "property double z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n"
    "0 0 0\n4 0 0\n4 3 0\n0 3 0\n4 0 1 2 3\n";
constexpr const char* dxfText =
    "0\nSECTION\n2\nENTITIES\n0\n3DFACE\n8\nWände\n10\n0\n20\n0\n30\n0\n11\n4\n21\n0\n31\n0\n12\n4\n22\n3\n"
    "32\n0\n13\n0\n23\n3\n33\n0\n0\nENDSEC\n0\nEOF\n";
constexpr const char* gmlText =
    "<?xml version=\"1.0\"?><core:CityModel xmlns:core=\"http://www.opengis.net/citygml/2.0\" "
    "xmlns:bldg=\"http://www.opengis.net/citygml/building/2.0\" xmlns:gml=\"http://www.opengis.net/gml\">"
    "<core:cityObjectMember><bldg:Building gml:id=\"b\"><gml:name>Haus</gml:name><bldg:boundedBy><bldg:WallSurface>"
    "<bldg:lod2MultiSurface><gml:MultiSurface><gml:surfaceMember><gml:Polygon><gml:exterior><gml:LinearRing><gml:"
    "posList>"
    "0 0 0 4 0 0 4 0 3 0 0 3 0 0 0</gml:posList></gml:LinearRing></gml:exterior></gml:Polygon></gml:surfaceMember>"
    "</gml:MultiSurface></bldg:lod2MultiSurface></bldg:WallSurface></bldg:boundedBy></bldg:Building></"
    "core:cityObjectMember>"
    "</core:CityModel>";

const std::vector<Reader>& readers() {
  static const std::vector<Reader> list{{"obj", parseObj, ".obj", objText, true},
                                        {"stl", parseStl, ".stl", stlText, true},
                                        {"ply", parsePly, ".ply", plyText, true},
                                        {"dxf", parseDxf, ".dxf", dxfText, true},
                                        {"city-json", cityJson, ".city.json", test::town, true},
                                        {"city-gml", cityGml, ".gml", gmlText, false},
                                        {"geo-json", parseGeoJson, ".geojson", test::footprints, true},
                                        {"gbxml", parseGbXml, ".xml", test::greenHouse, false},
                                        {"height-grid", parseHeightGrid, ".asc", test::grid, true}};
  return list;
}
void everyReader() {
  QTest::addColumn<int>("reader");
  for (std::size_t i = 0; i < readers().size(); ++i) QTest::newRow(readers()[i].name) << int(i);
}

/// What of a model has to be the same however the file was written.
struct Told {
  std::size_t parts = 0, triangles = 0;
  double area = 0;
  bool operator==(const Told& o) const {
    return parts == o.parts && triangles == o.triangles && std::abs(area - o.area) <= 1e-9 * (1 + area);
  }
};
Told toldOf(const Model& m) {
  Told s;
  s.parts = m.parts.size();
  for (const auto& p : m.parts) {
    s.triangles += p.mesh.triangles.size();
    s.area += surfaceArea(p.mesh);
  }
  s.parts += m.outlines.size();
  for (const auto& o : m.outlines) {
    s.triangles += o.outline.outer.size();
    s.area += area(o.outline);
  }
  return s;
}
/// Nothing that a scene could not hold.
bool isSound(const Model& m) {
  for (const auto& p : m.parts) {
    for (const Vec3& v : p.mesh.points)
      if (!std::isfinite(v.x) || !std::isfinite(v.y) || !std::isfinite(v.z)) return false;
    for (const Triangle& t : p.mesh.triangles)
      for (const std::uint32_t corner : t)
        if (corner >= p.mesh.points.size()) return false;
    if (!p.mesh.face.empty() && p.mesh.face.size() != p.mesh.triangles.size()) return false;
  }
  for (const auto& o : m.outlines) {
    if (!std::isfinite(o.base) || !std::isfinite(o.height)) return false;
    for (const Vec2& v : o.outline.outer)
      if (!std::isfinite(v.x) || !std::isfinite(v.y)) return false;
  }
  return true;
}
std::string replaced(std::string text, const std::string& what, const std::string& with) {
  for (std::size_t at = 0; (at = text.find(what, at)) != std::string::npos; at += with.size())
    text.replace(at, what.size(), with);
  return text;
}
std::string latin1(const std::string& utf8) {
  return QString::fromStdString(utf8).toLatin1().toStdString();
}
std::string utf16(const std::string& utf8) {
  const QString wide = QString::fromStdString(utf8);
  std::string out = "\xFF\xFE";
  for (const QChar c : wide) {
    out += char(c.cell());
    out += char(c.row());
  }
  return out;
}

} // namespace

class TestReadersMatrix : public QObject {
  Q_OBJECT
  QTemporaryDir dir_;
private slots:
  void soundFilesAreRead_data() { everyReader(); }
  void soundFilesAreRead() {
    QFETCH(int, reader);
    const Reader& r = readers()[std::size_t(reader)];
    const auto m = r.parse(r.sound, "sound");
    QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
    QVERIFY(isSound(*m));
    QVERIFY(toldOf(*m).triangles > 0);
    QVERIFY(toldOf(*m).area > 1);
  }

  void encodingsAndLineEndsChangeNothing_data() { everyReader(); }
  void encodingsAndLineEndsChangeNothing() {
    QFETCH(int, reader);
    const Reader& r = readers()[std::size_t(reader)];
    if (!r.text) QSKIP("its encoding is a matter of XML");
    const Told wanted = toldOf(*r.parse(r.sound, "sound"));
    const std::pair<const char*, std::string> ways[] = {{"byte order mark", "\xEF\xBB\xBF" + r.sound},
                                                        {"Windows lines", replaced(r.sound, "\n", "\r\n")},
                                                        {"old Macintosh lines", replaced(r.sound, "\n", "\r")},
                                                        {"Latin-1", latin1(r.sound)},
                                                        {"UTF-16", utf16(r.sound)},
                                                        {"blanks at line ends", replaced(r.sound, "\n", " \n")}};
    for (const auto& [name, text] : ways) {
      const bool mayBeBinary = std::string_view(r.name) == "stl" || std::string_view(r.name) == "ply";
      if (mayBeBinary && std::string_view(name) == "UTF-16") continue; // bytes decide what it is
      const std::filesystem::path file = dir_.filePath(QString("other") + r.ending).toStdString();
      QVERIFY(saveFile(file, text));
      const auto m = readModel(file); // the border of every reader
      QVERIFY2(m.has_value(), (std::string(name) + ": " + (m ? "" : m.error().text())).c_str());
      QVERIFY2(toldOf(*m) == wanted, name);
    }
  }

  void everyCutIsReadOrRefusedInASentence_data() { everyReader(); }
  void everyCutIsReadOrRefusedInASentence() {
    QFETCH(int, reader);
    const Reader& r = readers()[std::size_t(reader)];
    const std::size_t whole = toldOf(*r.parse(r.sound, "sound")).triangles;
    for (std::size_t n = 0; n<r.sound.size(); n += r.sound.size()> 4000 ? 7 : 1) {
      const auto m = r.parse(r.sound.substr(0, n), "cut-off-file");
      if (m) {
        QVERIFY2(isSound(*m), std::to_string(n).c_str());
        QVERIFY(toldOf(*m).triangles <= whole);
      } else {
        QVERIFY2(m.error().message.size() > 10, std::to_string(n).c_str());
        QVERIFY2(m.error().text().find("cut-off-file") != std::string::npos, m.error().text().c_str());
      }
    }
  }

  void foreignBytesAreRefused_data() { everyReader(); }
  void foreignBytesAreRefused() {
    QFETCH(int, reader);
    const Reader& r = readers()[std::size_t(reader)];
    for (const Reader& other : readers()) {
      if (&other == &r) continue;
      const auto m = r.parse(other.sound, "wrong-kind");
      if (m) QVERIFY2(isSound(*m), other.name);
    }
    std::string zeros(4096, '\0'), noise;
    std::uint32_t state = 7;
    for (int k = 0; k < 5000; ++k) {
      state = state * 1664525 + 1013904223;
      noise += char(state >> 24);
    }
    for (const std::string& text : {std::string(), std::string("\n"), zeros, noise, std::string("\xEF\xBB\xBF")}) {
      const auto m = r.parse(text, "noise");
      if (m) {
        QVERIFY(isSound(*m));
        QCOMPARE(toldOf(*m).triangles, std::size_t(0));
      } else {
        QVERIFY(m.error().message.size() > 10);
      }
    }
  }

  void numbersThatAreNoneNeverEnterAScene_data() { everyReader(); }
  void numbersThatAreNoneNeverEnterAScene() {
    QFETCH(int, reader);
    const Reader& r = readers()[std::size_t(reader)];
    // Each number of the file in its turn becomes something that is no number, or one too large.
    const QRegularExpression number("(?<![A-Za-z0-9.#_:-])-?[0-9]+(\\.[0-9]+)?(?![A-Za-z0-9.:-])");
    const QString text = QString::fromStdString(r.sound);
    auto all = number.globalMatch(text);
    int tried = 0;
    while (all.hasNext() && tried < 150) {
      const auto one = all.next();
      for (const char* bad : {"nan", "inf", "1e400", "-1e308", "99999999999999999999", "4,5", ""}) {
        QString changed = text;
        changed.replace(one.capturedStart(), one.capturedLength(), bad);
        const auto m = r.parse(changed.toStdString(), "bad-number");
        if (m)
          QVERIFY2(isSound(*m), qPrintable(QString("%1 at %2").arg(bad).arg(one.capturedStart())));
        else
          QVERIFY(m.error().message.size() > 10);
        ++tried;
      }
    }
    QVERIFY(tried > 20);
  }

  void facesWithoutAreaDoNoHarm() {
    const auto m = parseObj(
        "v 0 0 0\nv 1 0 0\nv 1 0 0\nv 2 0 0\nv 0 1 0\nf 1 1 1\nf 1 2 3\nf 1 2 4\nf 1 2 5\nf 1 2 5\n", "flat.obj");
    QVERIFY(m);
    QVERIFY(isSound(*m));
    QVERIFY(std::abs(toldOf(*m).area - 0.5) < 1e-9 || std::abs(toldOf(*m).area - 1) < 1e-9);
  }

  void farCoordinatesKeepTheirMillimetres() {
    for (const double far : {1e3, 1e5, 1e6, 6e6}) {
      const auto at = [&](double x, double y, double z) {
        return fmt::format("{:.4f} {:.4f} {:.4f}", far + x, far + y, z);
      };
      const std::string text = "v " + at(0, 0, 0) + "\nv " + at(4.001, 0, 0) + "\nv " + at(4.001, 3.002, 0) + "\nv " +
                               at(0, 3.002, 0) + "\nf 1 2 3 4\n";
      const auto m = parseObj(text, "far.obj");
      QVERIFY(m);
      QVERIFY2(std::abs(toldOf(*m).area - 4.001 * 3.002) < 1e-5 * std::max(1.0, far / 1e6),
               std::to_string(far).c_str());
    }
  }
};

QTEST_GUILESS_MAIN(TestReadersMatrix)
#include "tst_readers_matrix.moc"
