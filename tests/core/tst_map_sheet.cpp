// Aerial pictures and map sheets that know where they lie: world files, tags of a GeoTIFF, other reference systems,
// and what they cover.

#include "core/files/cities/map_sheet.h"
#include "core/files/cities/reference_system.h"
#include "core/model/form/edit.h"
#include "tests/green.h"
#include <QTemporaryDir>
#include <QtTest>
#include <cstring>
#include <fstream>

using namespace noonward;
using namespace noonward::test;

namespace {

void write(const std::filesystem::path& file, const std::string& text) {
  std::ofstream(file, std::ios::binary) << text;
}

Picture plain(const char* suffix = ".png") {
  return {"\x89PNG", suffix, {}};
}

/// The bytes of a TIFF with these tags and nothing else, in either order of bytes.
class Tiff {
public:
  explicit Tiff(bool little) : little_(little) {}
  Tiff& doubles(unsigned tag, const std::vector<double>& v) {
    std::string data;
    for (double d : v) {
      std::uint64_t bits = 0;
      std::memcpy(&bits, &d, 8);
      data += whole(bits, 8);
    }
    return put(tag, 12, v.size(), data);
  }
  Tiff& shorts(unsigned tag, const std::vector<int>& v) {
    std::string data;
    for (int s : v) data += whole(std::uint64_t(s), 2);
    return put(tag, 3, v.size(), data);
  }
  std::string bytes() const {
    std::string head = little_ ? std::string("II*\0", 4) : std::string("MM\0*", 4);
    std::string entries = whole(entries_.size(), 2), data;
    const std::size_t after = 8 + 2 + 12 * entries_.size() + 4;
    for (const Entry& e : entries_) {
      entries += whole(e.tag, 2) + whole(e.type, 2) + whole(e.count, 4) + whole(after + data.size(), 4);
      data += e.data;
    }
    return head + whole(8, 4) + entries + whole(0, 4) + data;
  }

private:
  struct Entry {
    unsigned tag, type;
    std::size_t count;
    std::string data;
  };
  Tiff& put(unsigned tag, unsigned type, std::size_t count, std::string data) {
    entries_.push_back({tag, type, count, std::move(data)});
    return *this;
  }
  std::string whole(std::uint64_t v, int length) const {
    std::string out;
    for (int i = 0; i < length; ++i) out += char(v >> 8 * (little_ ? i : length - 1 - i) & 255);
    return out;
  }
  bool little_;
  std::vector<Entry> entries_;
};

/// A project in EPSG:25832 with one house whose middle is at easting 691 005, northing 6 166 004.
Project inTheZone() {
  Project p = greenPlace(14, 55.6);
  p.site.referenceSystem = "https://www.opengis.net/def/crs/EPSG/0/25832";
  p.site.origin = {691'000, 6'166'000, 0};
  p.elements.clear();
  putMass(p, 1, rectangle(0, 0, 10, 8), 6, false);
  return p;
}

const char* const northUp = "0.5\n0\n0\n-0.5\n690950.25\n6166049.75\n"; // 0.5 m a pixel, corner at 690 950, 6 166 050

Expected<LaidSheet> laid(const Project& p, const char* world, std::string system = {}) {
  const auto grid = worldFileFrom(world);
  if (!grid) return tl::unexpected(grid.error());
  Underlay u;
  u.id = {5};
  u.name = "Aerial";
  return laidSheet(p, u, {400, 200}, {*grid, std::move(system), "aerial.pgw"});
}

bool near(Vec3 a, Vec2 b, double by) {
  return std::hypot(a.x - b.x, a.y - b.y) <= by;
}

} // namespace

class TestMapSheet : public QObject {
  Q_OBJECT
private slots:
  void aWorldFileSaysWhereTheMiddleOfTheFirstPixelLies() {
    const auto grid = worldFileFrom("0.5\r\n0.0\r\n0.0\r\n-0.5\r\n100.25\r\n199.75\r\n");
    QVERIFY(grid);
    const MapSheet sheet{*grid, {}, {}};
    QCOMPARE(sheet.at({0, 0}).x, 100.0); // the corner of the picture, half a pixel further out
    QCOMPARE(sheet.at({0, 0}).y, 200.0);
    QCOMPARE(sheet.at({10, 4}).x, 105.0);
    QCOMPARE(sheet.at({10, 4}).y, 198.0);
    // Turned by 90°: columns run north, rows run east.
    const auto turned = worldFileFrom("0\n2\n2\n0\n1\n1");
    QVERIFY(turned);
    const MapSheet t{*turned, {}, {}};
    QCOMPARE(t.at({0.5, 0.5}).x, 1.0);
    QCOMPARE(t.at({5.5, 0.5}).y, 11.0);
    QCOMPARE(t.at({0.5, 5.5}).x, 11.0);
  }

  void aWorldFileThatCannotBeFollowedSaysWhy_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("says");
    QTest::newRow("cut off") << "0.5\n0\n0\n-0.5\n"
                             << "this one has 4";
    QTest::newRow("words") << "0.5\n0\nnone\n-0.5\n1\n1\n"
                           << "Line 3: a number is expected; it is \"none\"";
    QTest::newRow("nan") << "0.5\n0\n0\nnan\n1\n1\n"
                         << "Line 4";
    QTest::newRow("no size") << "0\n0\n0\n-0.5\n1\n1\n"
                             << "nothing";
    QTest::newRow("mirrored") << "0.5\n0\n0\n0.5\n1\n1\n"
                              << "mirrored";
    QTest::newRow("empty") << ""
                           << "this one has 0";
  }
  void aWorldFileThatCannotBeFollowedSaysWhy() {
    QFETCH(QString, text);
    QFETCH(QString, says);
    const auto grid = worldFileFrom(text.toStdString());
    QVERIFY(!grid);
    QVERIFY2(QString::fromStdString(grid.error().message).contains(says), grid.error().message.c_str());
  }

  void decimalCommasAreRead() {
    const auto grid = worldFileFrom("0,5\n0,0\n0,0\n-0,5\n100,25\n199,75\n");
    QVERIFY(grid && (*grid)[2] == 100.0 && (*grid)[5] == 200.0);
  }

  void theFileBesideThePictureIsFound_data() {
    QTest::addColumn<QString>("picture");
    QTest::addColumn<QString>("world");
    QTest::newRow("png") << "harbour.png"
                         << "harbour.pgw";
    QTest::newRow("whole ending") << "harbour.png"
                                  << "harbour.pngw";
    QTest::newRow("jpeg") << "harbour.jpeg"
                          << "harbour.jgw";
    QTest::newRow("tiff") << "harbour.tif"
                          << "harbour.tfw";
    QTest::newRow("capitals") << "HARBOUR.TIF"
                              << "HARBOUR.TFW";
    QTest::newRow("any") << "harbour.jpg"
                         << "harbour.wld";
    QTest::newRow("after the name") << "harbour.png"
                                    << "harbour.png.wld";
  }
  void theFileBesideThePictureIsFound() {
    QFETCH(QString, picture);
    QFETCH(QString, world);
    QTemporaryDir dir;
    const std::filesystem::path at = dir.path().toStdString();
    QVERIFY(!*mapSheetOf(at / picture.toStdString(), plain()));
    write(at / world.toStdString(), northUp);
    write(at / "harbour.prj", "PROJCS[\"ETRS89 / UTM zone 32N\"]");
    const auto sheet = mapSheetOf(at / picture.toStdString(), plain());
    QVERIFY(sheet && *sheet);
    QCOMPARE((*sheet)->by, world.toStdString());
    QCOMPARE((*sheet)->at({0, 0}).x, 690'950.0);
    QCOMPARE((*sheet)->system.empty(), picture == "HARBOUR.TIF"); // harbour.prj is of another name there
    write(at / world.toStdString(), "0.5\n0\n");
    const auto broken = mapSheetOf(at / picture.toStdString(), plain());
    QVERIFY(!broken && broken.error().text().starts_with(world.toStdString() + ": "));
  }

  void tagsOfAGeoTiffAreRead_data() {
    QTest::addColumn<bool>("little");
    QTest::addColumn<bool>("matrix");
    QTest::addColumn<bool>("spots");
    for (bool little : {true, false})
      for (bool matrix : {true, false})
        for (bool spots : {true, false})
          QTest::addRow("%s, %s, %s", little ? "little" : "big", matrix ? "matrix" : "scale and tie",
                        spots ? "middles" : "corners")
              << little << matrix << spots;
  }
  void tagsOfAGeoTiffAreRead() {
    QFETCH(bool, little);
    QFETCH(bool, matrix);
    QFETCH(bool, spots);
    Tiff tiff(little);
    if (matrix)
      tiff.doubles(34264, {0.5, 0, 0, 1000, 0, -0.5, 0, 2000, 0, 0, 0, 0, 0, 0, 0, 1});
    else
      tiff.doubles(33550, {0.5, 0.5, 0}).doubles(33922, {10, 20, 0, 1005, 1990, 0});
    tiff.shorts(34735, {1, 1, 0, 3, 1024, 0, 1, 1, 1025, 0, 1, spots ? 2 : 1, 3072, 0, 1, 25832});
    const std::string bytes = tiff.bytes();
    const auto sheet = mapSheetOf("/nowhere/a.tif", {bytes, ".tif", {}});
    QVERIFY(sheet && *sheet);
    QCOMPARE((*sheet)->system, std::string("EPSG:25832"));
    QCOMPARE((*sheet)->at({0, 0}).x, spots ? 999.75 : 1000.0);
    QCOMPARE((*sheet)->at({0, 0}).y, spots ? 2000.25 : 2000.0);
    QCOMPARE((*sheet)->at({4, 6}).x, spots ? 1001.75 : 1002.0);
    QCOMPARE((*sheet)->at({4, 6}).y, spots ? 1997.25 : 1997.0);
    for (std::size_t n = 0; n < bytes.size(); ++n) { // cut off anywhere: never read beyond
      const auto cut = mapSheetOf("/nowhere/a.tif", {bytes.substr(0, n), ".tif", {}});
      QVERIFY(cut && (!*cut || (*cut)->grid[0] == 0.5));
    }
  }

  void itLiesByTheCoordinatesOfTheProject() {
    const auto s = laid(inTheZone(), northUp);
    QVERIFY2(s, s ? "" : s.error().text().c_str());
    const auto& pins = s->underlay.pins;
    QCOMPARE(pins.size(), std::size_t(4));
    QVERIFY(kindOf(s->underlay) == UnderlayKind::Sheet);
    QVERIFY(near(pins[3].place, {-50, 50}, 1e-6)); // upper left
    QVERIFY(near(pins[1].place, {150, -50}, 1e-6));
    const auto map = planeMapOf(pins);
    QVERIFY(map && near(*map->place({110, 92}), {5, 4}, 1e-6)); // the middle of the house
    QVERIFY2(s->told.find("200 m × 100 m") != std::string::npos &&
                 s->told.find("covers all of 1") != std::string::npos &&
                 s->told.find("names no reference system") != std::string::npos,
             s->told.c_str());
    QVERIFY(s->site.place.latitude == inTheZone().site.place.latitude); // a project with parts stays where it is
  }

  void anotherSystemIsBroughtIntoThatOfTheProject() {
    // Another route: the middle of the picture by longitude and latitude, there and back.
    const auto corner = reprojected("EPSG:25832", "EPSG:25833", {{691'000, 6'166'000}, {691'100, 6'166'000}});
    QVERIFY(corner);
    const Vec2 o = corner->points[0], e = corner->points[1] - o; // its east lies turned in the other zone
    const auto back =
        reprojected("EPSG:4326", "EPSG:25833", reprojected("EPSG:25832", "EPSG:4326", {{691'000, 6'166'000}})->points);
    QVERIFY(back && length(back->points[0] - o) < 1e-3);
    QVERIFY(std::abs(length(e) / 100 - 1) < 2e-3 && std::abs(e.y) > 3);
    const std::string world =
        QString("1\n0\n0\n-1\n%1\n%2\n").arg(o.x + 0.5, 0, 'f', 6).arg(o.y - 0.5, 0, 'f', 6).toStdString();
    const auto s = laid(inTheZone(), world.c_str(), "EPSG:25833");
    QVERIFY2(s, s ? "" : s.error().text().c_str());
    QVERIFY(near(s->underlay.pins[3].place, {0, 0}, 2e-3));
    const Vec3 along = s->underlay.pins[2].place - s->underlay.pins[3].place; // its own east, seen in the project
    QVERIFY(std::abs(std::atan2(along.y, along.x) + std::atan2(e.y, e.x)) < 1e-4);
    QVERIFY(s->told.find("from EPSG:25833 into EPSG:25832") != std::string::npos);
    // Digits alone name the same.
    const auto digits = laid(inTheZone(), world.c_str(), "25833");
    QVERIFY(digits && digits->underlay.pins == s->underlay.pins);
  }

  void everyPixelLiesWhereItsOwnCoordinatesSay() {
    // A sheet 1 km wide in the next zone: the map through its corners against each spot brought by itself.
    const Project p = inTheZone();
    const Vec2 o = reprojected("EPSG:25832", "EPSG:25833", {{690'600, 6'166'400}})->points[0];
    const auto grid =
        worldFileFrom(QString("2.5\n0\n0\n-2.5\n%1\n%2\n").arg(o.x, 0, 'f', 4).arg(o.y, 0, 'f', 4).toStdString());
    QVERIFY(grid);
    const MapSheet sheet{*grid, "EPSG:25833", "a"};
    const auto s = laidSheet(p, Underlay{}, {400, 400}, sheet);
    QVERIFY2(s, s ? "" : s.error().text().c_str());
    const auto map = planeMapOf(s->underlay.pins);
    double worst = 0;
    for (double x : {0.0, 100.0, 200.0, 317.0, 400.0})
      for (double y : {0.0, 50.0, 200.0, 333.0, 400.0}) {
        const Vec2 there = reprojected("EPSG:25833", "EPSG:25832", {sheet.at({x, y})})->points[0];
        const Vec3 laidAt = *map->place({x, y});
        worst = std::max(worst, std::hypot(laidAt.x - (there.x - 691'000), laidAt.y - (there.y - 6'166'000)));
      }
    QVERIFY2(worst < 0.01, qPrintable(QString::number(worst)));
  }

  void aProjectWithoutASystemTakesItByItsPlace() {
    Project p = inTheZone();
    const auto there = locate("EPSG:25832", 691'000, 6'166'000);
    QVERIFY(there);
    p.site.referenceSystem.clear();
    p.site.origin = {};
    p.site.place = there->place;
    p.site.northAngle = there->northAngle;
    const auto s = laid(p, northUp, "EPSG:25832");
    QVERIFY2(s, s ? "" : s.error().text().c_str());
    QVERIFY(near(s->underlay.pins[3].place, {-50, 50}, 0.06)); // the plane's scale: 0.9996 to 1.0004
    QVERIFY(s->told.find("project's place") != std::string::npos);
  }

  void anEmptyProjectStandsWhereItsSheetLies() {
    Project p;
    const auto s = laid(p, northUp, "EPSG:25832");
    QVERIFY2(s, s ? "" : s.error().text().c_str());
    QVERIFY(s->site.origin == (Vec3{691'100, 6'166'000, 0})); // its middle, to 100 m
    const auto there = locate("EPSG:25832", 691'100, 6'166'000);
    QVERIFY(there && std::abs(s->site.place.latitude - there->place.latitude) < 1e-12);
    QCOMPARE(s->site.referenceSystem, std::string("EPSG:25832"));
    QVERIFY(s->site.zone != "UTC");
    const Vec2 upper{690'950 - s->site.origin.x, 6'166'050 - s->site.origin.y};
    QVERIFY(near(s->underlay.pins[3].place, upper, 1e-6));
    // In degrees: a picture 0.001° wide at the equator is 111.3 m wide.
    const auto degrees = laid(p, "0.0000025\n0\n0\n-0.0000025\n10.0\n0.0\n", "EPSG:4326");
    QVERIFY2(degrees, degrees ? "" : degrees.error().text().c_str());
    const double w = length(degrees->underlay.pins[1].place - degrees->underlay.pins[0].place);
    QVERIFY2(std::abs(w - 0.001 * 111'319.49) < 0.01, qPrintable(QString::number(w)));
  }

  void whatLiesElsewhereIsRefusedAndSaysHowFar() {
    const auto far = laid(inTheZone(), "0.5\n0\n0\n-0.5\n500000\n6166000\n");
    QVERIFY(!far && far.error().message.find("190.8 km from the model") != std::string::npos);
    const auto unknown = laid(inTheZone(), northUp, "EPSG:999999");
    QVERIFY(!unknown && unknown.error().message.find("no reference system that is known") != std::string::npos);
    const auto words = laid(inTheZone(), northUp, "the old grid");
    QVERIFY(!words && words.error().message.find("the old grid") != std::string::npos);
    const auto wide = laid(inTheZone(), "500\n0\n0\n-500\n690000\n6166000\n");
    QVERIFY(!wide && wide.error().message.find("cut it") != std::string::npos);
  }

  void whatItCoversAndOverlapsIsTold() {
    Project p = inTheZone();
    putMass(p, 2, rectangle(400, 0, 410, 8), 6, false);
    const auto first = laid(p, northUp);
    QVERIFY(first && first->told.find("It covers 1 of 2 parts.") != std::string::npos);
    p.underlays.push_back(first->underlay);
    p.underlays.back().id = {6};
    // The same size, 150 m further east: a quarter of it lies over the first.
    const auto second = laid(p, "0.5\n0\n0\n-0.5\n691100.25\n6166049.75\n");
    QVERIFY(second);
    QVERIFY2(second->told.find("lies over \"Aerial\" with 25 % of its area") != std::string::npos,
             second->told.c_str());
    const auto beside = laid(p, "0.5\n0\n0\n-0.5\n693000.25\n6166049.75\n");
    QVERIFY(beside &&
            beside->told.find("covers nothing of the model, which begins 1.6 km beside it") != std::string::npos);
  }
};

QTEST_GUILESS_MAIN(TestMapSheet)
#include "tst_map_sheet.moc"
