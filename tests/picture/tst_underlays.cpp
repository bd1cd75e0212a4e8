// Pictures to trace over: laid by two points or four, straightened, kept in the project; balconies traced on them.

#include "core/files/project/project_file.h"
#include "core/files/project/underlay_json.h"
#include "core/model/form/edit.h"
#include "picture/underlay_image.h"
#include "tests/house.h"
#include <QBuffer>
#include <QImage>
#include <QPainter>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

using namespace noonward;
using namespace noonward::test;

namespace {

bool near(double a, double b, double by = 1e-6) {
  return std::abs(a - b) <= by;
}

/// A camera that looks at the wall y = 0 from the south-east, tilted up: the true picture of a place, px.
Vec2 photographed(Vec3 p) {
  const Vec3 eye{14, -18, 1.6}, look = normalized(Vec3{5, 0, 5} - eye), right = normalized(cross(look, Vec3{0, 0, 1})),
                                up = cross(right, look);
  const Vec3 d = p - eye;
  return {640 + 1100 * dot(d, right) / dot(d, look), 480 - 1100 * dot(d, up) / dot(d, look)};
}

std::shared_ptr<const Picture> pictureOf(const QImage& image, const char* format = "PNG") {
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  image.save(&buffer, format);
  const std::string text = bytes.toStdString();
  return std::make_shared<const Picture>(Picture{text, ".png", digestOf(text)});
}

/// The wall 10 m × 8 m with a dark window from (3, 2) to (5, 4.5), photographed.
QImage photograph() {
  QImage image(1280, 960, QImage::Format_RGB32);
  image.fill(QColor(120, 150, 190));
  QPainter p(&image);
  const auto quad = [&](double u0, double v0, double u1, double v1, QColor c) {
    QPolygonF q;
    for (Vec3 at : {Vec3{u0, 0, v0}, Vec3{u1, 0, v0}, Vec3{u1, 0, v1}, Vec3{u0, 0, v1}})
      q << QPointF(photographed(at).x, photographed(at).y);
    p.setPen(Qt::NoPen);
    p.setBrush(c);
    p.drawPolygon(q);
  };
  quad(0, 0, 10, 8, QColor(200, 190, 170));
  quad(3, 2, 5, 4.5, QColor(20, 20, 30));
  return image;
}

Underlay facade(std::shared_ptr<const Picture> picture) {
  Underlay u;
  u.id = {7};
  u.name = "South face";
  u.picture = std::move(picture);
  u.pins =
      facadePins({photographed({0, 0, 0}), photographed({10, 0, 0}), photographed({10, 0, 8}), photographed({0, 0, 8})},
                 {{0, 0, 0}, {1, 0, 0}, 10, 8});
  return u;
}

struct Ran {
  int code;
  QString out, err;
};
Ran cli(const QStringList& arguments) {
  QProcess p;
  p.start(NOONWARD_CLI, arguments);
  p.waitForFinished(60'000);
  return {p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -1, QString::fromUtf8(p.readAllStandardOutput()),
          QString::fromUtf8(p.readAllStandardError())};
}

} // namespace

class TestUnderlays : public QObject {
  Q_OBJECT
private slots:
  void twoPointsLayAPlan() {
    // 100 px in the picture are 5 m; turned by 30°; y runs down in the picture and up in the plan.
    const double c = std::cos(radians(30)), s = std::sin(radians(30));
    const auto map = planeMapOf({{{100, 400}, {2, 3, 6}}, {{200, 400}, {2 + 5 * c, 3 + 5 * s, 6}}});
    QVERIFY(map);
    for (Vec2 px : {Vec2{100, 400}, Vec2{150, 400}, Vec2{100, 300}, Vec2{37, 512}}) {
      const Vec2 d{(px.x - 100) * 0.05, (400 - px.y) * 0.05};
      const auto p = map->place(px);
      QVERIFY(p && near(p->x, 2 + d.x * c - d.y * s) && near(p->y, 3 + d.x * s + d.y * c) && near(p->z, 6));
      const auto back = map->pixel(*p);
      QVERIFY(back && near(back->x, px.x, 1e-9) && near(back->y, px.y, 1e-9));
    }
    Underlay u;
    u.pins = {{{0, 0}, {1, 1, 0}}, {{100, 0}, {4, 5, 0}}};
    u.scaled = false;
    const auto scaled = withTrueDistance(u, 10);
    QVERIFY(scaled && scaled->scaled && scaled->pins[0].place == u.pins[0].place);
    QVERIFY(near(scaled->pins[1].place.x, 7) && near(scaled->pins[1].place.y, 9));
    QVERIFY(!withTrueDistance(u, 0) && !withTrueDistance(u, -3) && !withTrueDistance(u, std::nan("")));
  }

  void fourCornersStraightenAFacade() {
    const Underlay u = facade(nullptr);
    const auto map = planeMapOf(u.pins);
    QVERIFY(map);
    for (Vec3 at : {Vec3{5, 0, 4}, Vec3{3, 0, 2}, Vec3{9.7, 0, 0.4}, Vec3{-2, 0, 7},
                    Vec3{4, 0, 11}}) { // against the camera itself
      const auto p = map->place(photographed(at));
      QVERIFY(p && length(*p - at) < 1e-6);
      const auto px = map->pixel(at);
      QVERIFY(px && length(*px - photographed(at)) < 1e-6);
    }
    const auto wall = wallOf(u.pins);
    QVERIFY(wall && near(wall->width, 10) && near(wall->height, 8) && near(wall->right.x, 1));
    QVERIFY(near(dot(map->normal(), {0, -1, 0}), 1)); // towards the camera
    // Beyond the horizon of the photograph there is no wall.
    const auto far = map->place({-20000, 480});
    QVERIFY(!far || length(*far) > 20);
  }

  void badPinsAreTold() {
    const auto fault = [](std::vector<UnderlayPin> pins) {
      const auto map = planeMapOf(pins);
      return map ? QString() : QString::fromStdString(map.error().message);
    };
    QVERIFY(fault({}).contains("by two pins or by four"));
    QVERIFY(fault({{{5, 5}, {0, 0, 0}}, {{5, 5}, {1, 0, 0}}}).contains("on one another"));
    QVERIFY(fault({{{5, 5}, {0, 0, 0}}, {{9, 5}, {0, 0, 0}}}).contains("on one another"));
    QVERIFY(fault({{{5, 5}, {0, 0, 0}}, {{9, 5}, {1, 0, 2}}}).contains("one level"));
    QVERIFY(fault({{{5, 5}, {0, 0, 0}}, {{std::nan(""), 5}, {1, 0, 0}}}).contains("no number"));
    const WallRectangle wall{{0, 0, 0}, {1, 0, 0}, 10, 8};
    const std::array<Vec2, 4> sound{{{0, 100}, {100, 100}, {100, 0}, {0, 0}}};
    QVERIFY(fault(facadePins(sound, wall)).isEmpty());
    QVERIFY(fault(facadePins({{{0, 100}, {100, 0}, {100, 100}, {0, 0}}}, wall)).contains("in order"));  // crossed
    QVERIFY(fault(facadePins({{{0, 100}, {50, 100}, {100, 100}, {0, 0}}}, wall)).contains("in order")); // on a line
    QVERIFY(fault(facadePins({{{0, 0}, {100, 0}, {100, 100}, {0, 100}}}, wall)).contains("mirrored"));
    auto bent = facadePins(sound, wall);
    bent[2].place.y = 1;
    QVERIFY(fault(bent).contains("one plane"));
    auto line = facadePins(sound, wall);
    line[2].place = {5, 0, 0};
    line[3].place = {2, 0, 0};
    QVERIFY(!fault(line).isEmpty());
  }

  void theWallUnderAClickIsFound() {
    Project p = house({.width = 8, .depth = 6});
    const auto wall = wallOf(p, {10}, {3, 0, 1}, {0, -1, 0});
    QVERIFY(wall && near(wall->width, 8) && near(wall->height, 3.4));
    QVERIFY(near(wall->corner.x, 0) && near(wall->corner.z, 0) &&
            near(wall->right.x, 1)); // seen from the south, west is left
    const auto east = wallOf(p, {10}, {8, 2, 1}, {1, 0, 0});
    QVERIFY(east && near(east->width, 6) && near(east->corner.y, 0) && near(east->right.y, 1));
    QVERIFY(!wallOf(p, {10}, {3, 3, 3.4}, {0, 0, 1}) && !wallOf(p, {99}, {3, 0, 1}, {0, -1, 0}));
  }

  void aStraightenedPhotographMeasuresTrue() {
    const Underlay u = facade(pictureOf(photograph()));
    const auto image = straightened(u, 20);
    QVERIFY2(image, image ? "" : image.error().message.c_str());
    QCOMPARE(image->size(), QSize(200, 160));
    // The window's edges, by its darkness along a row and a column.
    const auto dark = [&](int x, int y) { return qGray(image->pixel(x, y)) < 100; };
    int left = 0, right = 199, top = 0, bottom = 159;
    const int row = 160 - int(3.2 * 20), column = 4 * 20;
    while (!dark(left, row)) ++left;
    while (!dark(right, row)) --right;
    while (!dark(column, top)) ++top;
    while (!dark(column, bottom)) --bottom;
    QVERIFY2(std::abs(left - 60) <= 1 && std::abs(right - 99) <= 1, qPrintable(QString("%1 %2").arg(left).arg(right)));
    QVERIFY2(std::abs(top - (160 - 90)) <= 1 && std::abs(bottom - (160 - 41)) <= 1,
             qPrintable(QString("%1 %2").arg(top).arg(bottom)));
    QVERIFY(!straightened(u, 0) && !straightened(u, 1e6));
    Underlay gone = u;
    gone.picture = nullptr;
    QVERIFY(!straightened(gone, 20));
    // What the stage reads: the same map, in parts of the picture.
    const auto quad = quadOf(u, {1280, 960});
    QVERIFY(quad);
    const auto map = planeMapOf(u.pins);
    for (std::size_t k = 0; k < 4; ++k)
      if (const auto px = map->pixel(quad->corners[k]))
        QVERIFY(near(quad->reads[k][0] / quad->reads[k][2] * 1280, px->x, 0.05) &&
                near(quad->reads[k][1] / quad->reads[k][2] * 960, px->y, 0.05));
  }

  void aPlanStraightenedLiesNorthUp() {
    QImage image(200, 100, QImage::Format_RGB32);
    image.fill(Qt::white);
    for (int y = 40; y < 60; ++y)
      for (int x = 20; x < 40; ++x) image.setPixel(x, y, qRgb(0, 0, 0));
    Underlay u;
    u.picture = pictureOf(image);
    u.pins = {{{0, 100}, {0, 0, 0}}, {{200, 100}, {0, 20, 0}}}; // its right side points north
    const auto out = straightened(u, 10);
    QVERIFY(out);
    QCOMPARE(out->size(), QSize(100, 200));
    // The dark square: pixel (30, 50) lies 3 m along and 5 m to the left of the lower edge: at x = -5, y = 3.
    QVERIFY(qGray(out->pixel(100 - 50, 200 - 30)) < 60 && qGray(out->pixel(20, 100)) > 200);
  }

  void picturesLiveInTheProject() {
    QTemporaryDir d;
    const std::filesystem::path folder = d.path().toStdString();
    Project p = house();
    p.underlays.push_back(facade(pictureOf(photograph())));
    Underlay plan;
    plan.id = {8};
    plan.name = "Plan";
    plan.picture = p.underlays[0].picture;
    plan.pins = {{{0, 0}, {1, 1, 0}}, {{100, 0}, {4, 5, 0}}};
    plan.scaled = plan.shown = false;
    plan.strength = 0.3;
    p.underlays.push_back(plan);
    QVERIFY(writeProject(p, folder / "a.noonward"));
    QVERIFY(std::filesystem::exists(folder / p.underlays[0].file));
    const auto again = readProject(folder / "a.noonward");
    QVERIFY2(again, again ? "" : again.error().text().c_str());
    QCOMPARE(again->project.underlays.size(), std::size_t(2));
    for (std::size_t k = 0; k < 2; ++k) {
      const Underlay &a = p.underlays[k], &b = again->project.underlays[k];
      QVERIFY(a.id == b.id && a.name == b.name && a.pins == b.pins && a.scaled == b.scaled && a.shown == b.shown &&
              a.strength == b.strength);
      QVERIFY(b.picture && b.picture->content == a.picture->content);
    }
    // Saved elsewhere, the picture goes along; gone, it is a note and the pins stay.
    std::filesystem::create_directories(folder / "other");
    Project carried = again->project;
    QVERIFY(writeProject(carried, folder / "other" / "b.noonward"));
    QVERIFY(std::filesystem::exists(folder / "other" / carried.underlays[0].file));
    std::filesystem::remove(folder / p.underlays[0].file);
    auto without = readProject(folder / "a.noonward");
    QVERIFY(without && !without->project.underlays[0].picture && without->project.underlays[0].pins.size() == 4);
    QVERIFY(std::any_of(without->notes.begin(), without->notes.end(),
                        [](const std::string& n) { return n.find("can't be shown") != std::string::npos; }));
    QVERIFY(writeProject(without->project, folder / "a.noonward"));
    // A picture of the user's own beside a project written by hand is named, not copied.
    const std::string bytes = p.underlays[0].picture->bytes;
    QVERIFY(saveFile(folder / "photo.jpg", bytes)); // a wrong ending: the first bytes say what it is
    QVERIFY(saveFile(folder / "hand.noonward",
                     R"({"format": "noonward-project", "version": 1, "site": {"latitude": 55, "longitude": 12},
      "underlays": [{"file": "photo.jpg", "pins": [{"pixel": [0, 0], "at": [0, 0, 0]}, {"pixel": [100, 0], "at": [5, 0, 0]}]}]})"));
    auto hand = readProject(folder / "hand.noonward");
    QVERIFY2(hand, hand ? "" : hand.error().text().c_str());
    QCOMPARE(hand->project.underlays[0].name, std::string("photo"));
    QCOMPARE(hand->project.underlays[0].picture->suffix, std::string(".png"));
    QVERIFY(writeProject(hand->project, folder / "hand.noonward"));
    QCOMPARE(hand->project.underlays[0].file, std::string("photo.jpg"));
    // Faults name their place.
    for (const char* bad : {R"("pins": [{"pixel": [0], "at": [0, 0, 0]}])",
                            R"("pins": [{"pixel": [0, 0], "at": [0, 0, 0]}])", R"("strength": 3, "pins": [])"}) {
      QVERIFY(saveFile(
          folder / "bad.noonward",
          std::string(
              R"({"format": "noonward-project", "version": 1, "site": {"latitude": 55, "longitude": 12}, "underlays": [{"file": "photo.jpg", )") +
              bad + "}]}"));
      const auto r = readProject(folder / "bad.noonward");
      QVERIFY(!r && r.error().text().find("underlays[0]") != std::string::npos);
    }
  }

  void whatIsNoPictureIsRefused() {
    QTemporaryDir d;
    const std::filesystem::path folder = d.path().toStdString();
    QVERIFY(saveFile(folder / "text.png", "this is no picture"));
    QVERIFY(!readPicture(folder / "text.png") && !readPicture(folder / "none.png"));
    const std::string whole = pictureOf(photograph())->bytes;
    QVERIFY(saveFile(folder / "cut.png", whole.substr(0, 20)));
    const auto cut = readPicture(folder / "cut.png");
    QVERIFY(cut && sizeOf(**cut).isEmpty() && !decoded(**cut));
    for (std::size_t n : {std::size_t(200), whole.size() / 2, whole.size() - 10}) {
      QVERIFY(saveFile(folder / "cut.png", whole.substr(0, n)));
      const auto part = readPicture(folder / "cut.png");
      QVERIFY(part);
      (void)decoded(**part); // an error or what could be read, never a crash
    }
    double factor = 1;
    const auto small = decoded(*pictureOf(photograph()), 320, &factor);
    QVERIFY(small && small->width() == 320 && near(factor, 0.25));
  }

  void byCommandLine() {
    QTemporaryDir d;
    const QString project = d.filePath("p.noonward"), photo = d.filePath("face.png"), out = d.filePath("straight.png");
    Project p = house();
    QVERIFY(writeProject(p, project.toStdString()));
    photograph().save(photo);
    QStringList call{"underlay", project, photo, "--name", "South", "--straighten", out, "--pixels-per-metre", "20"};
    for (Vec3 at : {Vec3{0, 0, 0}, Vec3{10, 0, 0}, Vec3{10, 0, 8}, Vec3{0, 0, 8}})
      call << "--pin"
           << QString("%1,%2=%3,0,%4")
                  .arg(photographed(at).x, 0, 'f', 3)
                  .arg(photographed(at).y, 0, 'f', 3)
                  .arg(at.x)
                  .arg(at.z);
    Ran r = cli(call);
    QVERIFY2(r.code == 0 && r.out.contains("South: facade, 1280 × 960 px"), qPrintable(r.out + r.err));
    QCOMPARE(QImage(out).size(), QSize(200, 160));
    r = cli({"underlay", project, photo, "--name", "Plan", "--pin", "0,0=1,1,0", "--pin", "100,0=2,1,0", "--distance",
             "25"});
    QVERIFY2(r.code == 0 && r.out.contains("Plan: plan") && r.out.contains("250.0 mm a pixel"),
             qPrintable(r.out + r.err));
    QVERIFY(cli({"underlay", project, "--json"}).out.contains("\"metres_per_pixel\""));
    r = cli({"underlay", project, photo, "--pin", "0,0=1,1"});
    QVERIFY(r.code == 2 && r.err.contains("PIXEL-X,PIXEL-Y=X,Y,Z"));
    r = cli({"underlay", project, photo, "--pin", "0,0=1,1,0", "--pin", "0,0=2,1,0"});
    QVERIFY(r.code == 2 && r.err.contains("on one another"));
    QVERIFY(cli({"underlay", project, "--remove", "Nobody"}).code == 2);
    r = cli({"underlay", project, "--remove", "South"});
    QVERIFY(r.code == 0 && !r.out.contains("South") && r.out.contains("Plan"));
    QVERIFY(cli({"underlay", project, d.filePath("none.png"), "--pin", "0,0=1,1,0", "--pin", "9,0=2,1,0"}).code == 1);
  }

  void balconiesAreTracedAsPlates() {
    std::vector<ElementId> made;
    Project p = withBalcony(house({.width = 8, .depth = 6, .ratio = 0.3, .spacing = 0.8}),
                            {{2, 0, 2.6}, {1, 0, 0}, 3, 1.1}, 1.4, true, &made);
    QCOMPARE(made.size(), std::size_t(4));
    const auto box = boxOf(*p.element(made[0]));
    QVERIFY(near(box.low.y, -1.4) && near(box.high.y, 0) && near(box.low.x, 2) && near(box.high.x, 5) &&
            near(box.low.z, 2.6));
    QCOMPARE(p.element(made[1])->name, std::string("Balcony 1 front"));
    QVERIFY(near(boxOf(*p.element(made[1])).high.z, 3.7) && near(boxOf(*p.element(made[1])).low.y, -1.4));
    QVERIFY(p.element(made[0])->role == Role::Shading && p.element(made[0])->proposed &&
            p.element(made[0])->layer == "Balconies");
    p = withBalcony(std::move(p), {{2, 0, 0.1}, {1, 0, 0}, 3, 0.15}, 1.4, false, &made);
    QCOMPARE(made.size(), std::size_t(5)); // a slab alone
    QCOMPARE(p.element(made[4])->name, std::string("Balcony 2 slab"));
    for (ElementId id : made) QVERIFY(elementMesh(*p.element(id)));
  }
};

QTEST_MAIN(TestUnderlays)
#include "tst_underlays.moc"
