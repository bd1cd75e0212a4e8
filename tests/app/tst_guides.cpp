// Guides, dimension lines, facades by the side they look to, and the dial's projections: by mouse and keyboard.

#ifndef Q_MOC_RUN
#include "app/stage/skyline_dial.h"
#include "app/stage/snapping.h"
#include "app/stage/stage.h"
#include "core/model/form/edit.h"
#include "core/model/form/facades.h"
#include "core/model/rooms/placing.h"
#include "picture/dimension_lines.h"
#include "picture/face_tint.h"
#include "picture/skyline.h"
#include "tests/app/driver.h"
#include "tests/house.h"
#include <QAction>
#endif

using namespace noonward;
using namespace noonward::test;

namespace {
Project sunny(Project p) {
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "Europe/Copenhagen";
  return p;
}
const DimensionLine* line(const std::vector<DimensionLine>& all, const std::string& what) {
  const auto at = std::find_if(all.begin(), all.end(), [&](const DimensionLine& d) { return d.what == what; });
  return at == all.end() ? nullptr : &*at;
}
} // namespace

class TestGuides : public QObject {
  Q_OBJECT
private slots:
  void pointsSnapToGuides() {
    Project p;
    p.guides = {{{0, 3.3}, {10, 3.3}}, {{7.7, 0}, {7.7, 5}}};
    const Snap crossing = snapPoint(p, {}, {7.6, 3.4}, 0.3);
    QVERIFY(crossing.kind == SnapKind::Guide && length(crossing.at - Vec2{7.7, 3.3}) < 1e-9);
    const Snap along = snapPoint(p, {}, {40.1, 3.35}, 0.3); // endless
    QVERIFY(along.kind == SnapKind::Guide && length(along.at - Vec2{40.1, 3.3}) < 1e-9);
    QVERIFY(snapPoint(p, {}, {40.1, 3.9}, 0.3).kind == SnapKind::Grid);
    // A mass that is moved comes to lie on one.
    Element e;
    e.id = {10};
    e.shape = Mass{rectangle(0, 0, 4, 2), 0, 3, 1};
    p.elements.push_back(std::make_shared<const Element>(e));
    const MoveSnap move = snapMove(p, {{10}}, {1, 3.1}, 0.4, false, false);
    QVERIFY2(move.kind == SnapKind::Guide && std::abs(move.by.y - 3.3) < 1e-9, qPrintable(QString::number(move.by.y)));
    const auto edge = lineNear(p, {2, 2.2}, 0.5);
    QVERIFY(edge && length(edge->side - Vec2{0, 1}) < 1e-9);
    QVERIFY(!lineNear(p, {2, 2.8}, 0.4));
  }

  void guidesAreDrawnOffsetAndTakenAway() {
    auto w = openWindow();
    w->document().startNew(sunny(house()));
    QTest::keyClick(w.get(), Qt::Key_2, Qt::AltModifier);
    w->action("View plan")->trigger();
    auto* stage = w->findChild<Stage*>();
    stage->fit(true);
    const auto guides = [&]() -> const std::vector<Guide>& { return w->document().project().guides; };
    const auto at = [&](Vec2 v) { return *stage->pixelOf({v.x, v.y, 0}); };
    w->action("Draw guides")->trigger();
    QCOMPARE(stage->tool(), Tool::Guide);
    clickAt(stage, at({0, -2}));
    clickAt(stage, at({8, -2}));
    QCOMPARE(guides().size(), std::size_t(1));
    QVERIFY(std::abs(guides()[0].a.y + 2) < 1e-6 && std::abs(guides()[0].b.y + 2) < 1e-6);
    // Parallel to the edge under the pointer, 1.5 m out of the house.
    w->action("Draw guides")->trigger();
    QTest::mouseMove(stage, at({-0.1, 3}).toPoint());
    QCoreApplication::processEvents();
    QTest::keyClicks(stage, "1.5");
    QTest::keyClick(stage, Qt::Key_Return);
    QCOMPARE(guides().size(), std::size_t(2));
    QVERIFY2(std::abs(guides()[1].a.x + 1.5) < 1e-6, qPrintable(QString::number(guides()[1].a.x)));
    // The one under the pointer goes, one step of undo brings it back.
    QTest::mouseMove(stage, at({-1.5, 2}).toPoint());
    QCoreApplication::processEvents();
    QTest::keyClick(stage, Qt::Key_Backspace);
    QCOMPARE(guides().size(), std::size_t(1));
    w->document().undo();
    QCOMPARE(guides().size(), std::size_t(2));
    QTest::keyClick(stage, Qt::Key_Escape);
    w->action("Take all guides away")->trigger();
    QVERIFY(guides().empty());
  }

  void dimensionsAreThoseOfTheModel() {
    Project p = house({.width = 8, .depth = 6, .wall = 0.3, .ratio = 0.3});
    ShadeRule s;
    s.id = {60};
    s.kind = ShadeRule::Kind::Louvres;
    s.depth = 0.4;
    s.spacing = 0.25;
    s.offset = 0.1;
    p.shadeRules.push_back(s);
    const auto all = dimensionsOf(p, {{10}});
    QCOMPARE(std::count_if(all.begin(), all.end(), [](const DimensionLine& d) { return d.what.empty(); }), 4);
    QVERIFY(line(all, "height") && std::abs(line(all, "height")->metres() - 3.4) < 1e-9);
    QVERIFY(line(all, "depth") && std::abs(line(all, "depth")->metres() - 0.4) < 1e-9);
    QVERIFY(line(all, "spacing") && std::abs(line(all, "spacing")->metres() - 0.25) < 1e-9);
    QVERIFY(line(all, "offset") && !line(all, "sill"));
    const PlacedOpening window = placedOpenings(p).openings.at(0);
    const auto own = dimensionsOf(p, {}, window.opening.id);
    QVERIFY(line(own, "sill") && std::abs(line(own, "sill")->metres() - window.opening.sill) < 1e-9);
    QVERIFY(line(own, "width") && std::abs(line(own, "width")->metres() - window.opening.width) < 1e-9);
    QVERIFY(dimensionsOf(p, {}).empty());
    Project roofed = withEdited(p, {{10}}, [](Element& e) { std::get<Mass>(e.shape).roof = {Roof::Kind::Hip, 2, 0}; });
    QVERIFY(line(dimensionsOf(roofed, {{10}}), "rise"));
  }

  void dimensionsShowOnTheStage() {
    auto w = openWindow();
    w->document().startNew(sunny(house()));
    QTest::keyClick(w.get(), Qt::Key_2, Qt::AltModifier);
    w->action("View plan")->trigger();
    auto* stage = w->findChild<Stage*>();
    stage->fit(true);
    w->document().look([](Looking& l) { l.selected = {{10}}; });
    const auto picture = [&] {
      QCoreApplication::processEvents();
      return stage->grab().toImage();
    };
    const QImage without = picture();
    w->action("Dimensions of what is selected")->trigger();
    QVERIFY(w->document().looking().dimensions);
    const QImage with = picture();
    // Beside the house's south side there is a line now: ink where there was ground.
    const QPointF south = *stage->pixelOf({4, 0, 0});
    int changed = 0;
    for (int y = 4; y < 30; ++y)
      changed +=
          without.pixel(int(south.x()) - 60, int(south.y()) + y) != with.pixel(int(south.x()) - 60, int(south.y()) + y);
    QVERIFY2(changed > 0, qPrintable(QString::number(changed)));
    w->action("Dimensions of what is selected")->trigger();
    QVERIFY(!w->document().looking().dimensions);
  }

  void facadesAreTintedByTheSideTheyLookTo() {
    Project p = sunny(house({.width = 8, .depth = 6, .wall = 0.3, .ratio = 0.3}));
    const auto facts = facadeFacts(p);
    QVERIFY(std::abs(facts[std::size_t(Facing::South)].area - 8 * 3.4) < 1e-9);
    QVERIFY(std::abs(facts[std::size_t(Facing::East)].area - 6 * 3.4) < 1e-9);
    QVERIFY(std::abs(facts[std::size_t(Facing::South)].glass - 0.3 * 7.4 * 3) < 1e-6);
    QVERIFY(facts[std::size_t(Facing::North)].glass == 0);
    p.site.northAngle = radians(90); // the drawing's up is east: its south side looks west
    QVERIFY(std::abs(facadeFacts(p)[std::size_t(Facing::West)].area - 8 * 3.4) < 1e-6 ||
            std::abs(facadeFacts(p)[std::size_t(Facing::East)].area - 8 * 3.4) < 1e-6);
    auto w = openWindow();
    w->document().startNew(sunny(house({.ratio = 0.3})));
    QTest::keyClick(w.get(), Qt::Key_4, Qt::AltModifier);
    choose(*w, "Rooms coloured by", "orientation of facades");
    QCOMPARE(w->document().looking().rooms, RoomFigure::Facing);
    w->action("View solid")->trigger();
    auto* stage = w->findChild<Stage*>();
    stage->fit(true);
    // The house is closed, and its roof can be met from above.
    QTRY_VERIFY_WITH_TIMEOUT(stage->pixelOf({4, 3, 3.4}).has_value(), 5000);
    QCoreApplication::processEvents();
    const QImage seen = stage->grab().toImage();
    int tinted = 0; // some of the picture has a tint of a side, in light or in shade
    for (int y = 60; y < seen.height() - 80; y += 3)
      for (int x = 10; x < seen.width() - 10; x += 3)
        for (const Facing f : allFacings)
          for (const QColor& c : {facingTint(theme(), f).lit, facingTint(theme(), f).shade}) {
            const QColor at = seen.pixelColor(x, y);
            tinted +=
                std::abs(at.red() - c.red()) + std::abs(at.green() - c.green()) + std::abs(at.blue() - c.blue()) < 9;
          }
    QVERIFY2(tinted > 50, qPrintable(QString::number(tinted)));
  }

  void theDialTakesAnotherProjection() {
    auto w = openWindow();
    w->document().startNew(sunny(house()));
    w->document().look([](Looking& l) { l.probe = ProbeSpot{{4, -3, 0.01}, {0, 0, 1}}; });
    auto* dial = w->findChild<SkylineDial*>();
    QTRY_VERIFY_WITH_TIMEOUT(dial->isVisible(), 20000);
    auto* choice = named<QComboBox>(*w, "Projection of the skyline");
    QVERIFY(!choice->isVisible()); // of the large dial alone
    QTest::mouseClick(dial, Qt::LeftButton, {}, dial->rect().center());
    QVERIFY(dial->large() && choice->isVisible());
    QCoreApplication::processEvents();
    const QImage before = dial->grab().toImage();
    choose(*w, "Projection of the skyline", "orthographic");
    const QImage after = dial->grab().toImage();
    QVERIFY(before != after && dial->large());
    // The house's roof stands lower on it: altitude 45° lies at 0.71 of the radius instead of half.
    const DialMap flat = dialRound({100, 100}, 100, DialProjection::Orthographic);
    QVERIFY(std::abs(100 - flat.at(0, radians(45)).y() - 100 * std::sqrt(0.5)) < 1e-9);
    for (const DialProjection way : allProjections) {
      if (way == DialProjection::Flat) continue;
      const DialMap map = dialRound({100, 100}, 80, way);
      for (const double azimuth : {0.1, 2.0, 4.5})
        for (const double altitude : {0.05, 0.7, 1.5}) {
          const auto back = map.from(map.at(azimuth, altitude));
          QVERIFY(back && std::abs(back->first - azimuth) < 1e-9 && std::abs(back->second - altitude) < 1e-9);
        }
    }
  }
};

QTEST_MAIN(TestGuides)
#include "tst_guides.moc"
