// The building of the last states is remembered: what is asked again is the same, and nothing that it depends on is
// missed.

#ifndef Q_MOC_RUN
#include "core/model/derived_memory.h"
#include "core/model/form/edit.h"
#include "core/model/options.h"
#include "tests/house.h"
#include <QtTest>
#include <thread>
#endif

using namespace noonward;
using test::house;

namespace {
Digest contentOf(const LightModel& m) {
  Hasher h;
  hashLightModel(h, m);
  for (const Finding& f : m.findings) h.add(f.code).add(f.text);
  for (const WindowGroup& g : m.groups) h.add(g.key).add(g.name).add(g.area);
  return h.digest();
}
/// The same project without a memory.
Project forgetful(Project p) {
  p.derived = freshDerivedMemory();
  return p;
}
Digest contentOf(const SensorSet& s) {
  Hasher h;
  h.add(std::uint64_t(s.sensors.size()));
  h.add(std::string_view(reinterpret_cast<const char*>(s.sensors.data()), s.sensors.size() * sizeof(Sensor)));
  for (const SensorGridFacts& g : s.groups) h.add(g.name).add(std::uint64_t(g.first)).add(std::uint64_t(g.count));
  return h.digest();
}
struct Edit {
  const char* name;
  std::function<void(Project&)> deed;
  bool changesBuilding, changesSensors;
};
const std::vector<Edit>& edits() {
  static const std::vector<Edit> list{
      {"nothing", [](Project&) {}, false, false},
      {"the project's name", [](Project& p) { p.name = "Else"; }, false, false},
      {"a study", [](Project& p) { p.studies.push_back({}); }, false, false},
      {"a mass moved", [](Project& p) { p = withEdited(p, {{10}}, [](Element& e) {
                                          moveElement(e, {3, 0, 0});
                                        }); },
       true, false},
      {"a mass raised", [](Project& p) { p = withEdited(p, {{10}}, [](Element& e) { setHeight(e, 9); }); }, true,
       false},
      {"a mass left out", [](Project& p) { p = withEdited(p, {{10}}, [](Element& e) { e.counted = false; }); }, true,
       false},
      {"a room widened", [](Project& p) { p.rooms[0].outline = rectangle(0.35, 0.35, 7.2, 5.65); }, true, true},
      {"a room raised", [](Project& p) { p.rooms[0].floor = 0.2; }, true, true},
      {"another ratio", [](Project& p) { p.windowRules[0].ratio = 0.5; }, true, false},
      {"another side", [](Project& p) { p.windowRules[0].facings = {Facing::North}; }, true, false},
      {"a window drawn",
       [](Project& p) {
         Opening o;
         o.id = {77};
         o.name = "Hatch";
         o.room = {1};
         o.edge = 1;
         o.along = 1;
         o.sill = 1;
         o.width = 1;
         o.height = 1;
         p.openings.push_back(o);
       },
       true, false},
      {"a shade",
       [](Project& p) {
         ShadeRule s;
         s.id = {88};
         s.depth = 1;
         p.shadeRules.push_back(s);
       },
       true, false},
      {"a finish of its own",
       [](Project& p) {
         p.finishes.push_back({"Chalk", 0.9, 0, 0, ""});
         p.assignments.push_back({"Chalk", {}, {}, "", "", {}, Role::Wall});
       },
       true, false},
      {"the ground's level", [](Project& p) { p.site.groundLevel = -1; }, true, false},
      {"the ground's reflectance", [](Project& p) { p.site.groundReflectance = 0.4; }, true, false},
      {"north", [](Project& p) { p.site.northAngle = radians(100); }, true, false},
      {"another spacing", [](Project& p) { std::get<RoomGrid>(p.groups[0].layout).spacing = 0.5; }, false, true},
      {"a second grid",
       [](Project& p) {
         SensorGroup g;
         g.id = {41};
         g.name = "Yard";
         g.layout = GroundArea{rectangle(20, 0, 26, 6), 0, 1};
         p.groups.push_back(g);
       },
       false, true},
      {"a grid's name", [](Project& p) { p.groups[0].name = "Desk height"; }, false, false}};
  return list;
}
void everyEdit() {
  QTest::addColumn<int>("edit");
  for (std::size_t i = 0; i < edits().size(); ++i) QTest::newRow(edits()[i].name) << int(i);
}
} // namespace

class TestDerived : public QObject {
  Q_OBJECT
private slots:
  void noEditIsMissed_data() { everyEdit(); }
  void noEditIsMissed() {
    QFETCH(int, edit);
    const Edit& e = edits()[std::size_t(edit)];
    Project p = house({.ratio = 0.3, .spacing = 1});
    const Digest before = contentOf(derivedModel(p)), sensorsBefore = contentOf(*layOutSensors(p));
    e.deed(p); // it shares the memory of what it was
    const Digest remembered = contentOf(derivedModel(p)), fresh = contentOf(derivedModel(forgetful(p)));
    QVERIFY(remembered == fresh);
    QCOMPARE(remembered != before, e.changesBuilding);
    const auto sensors = layOutSensors(p), freshSensors = layOutSensors(forgetful(p));
    QVERIFY(sensors && freshSensors);
    QVERIFY(contentOf(*sensors) == contentOf(*freshSensors));
    if (e.changesSensors) QVERIFY(contentOf(*sensors) != sensorsBefore);
  }

  void goingBackAndForthGivesTheSame() {
    Project a = house({.ratio = 0.3, .spacing = 1});
    Project b = a;
    b.windowRules[0].ratio = 0.45;
    const Digest first = contentOf(derivedModel(a)), second = contentOf(derivedModel(b));
    QVERIFY(first != second);
    for (int k = 0; k < 12; ++k) {
      QVERIFY(contentOf(derivedModel(k % 2 ? a : b)) == (k % 2 ? first : second));
      Project c = a; // many others push the two out
      c.rooms[0].height = 2.5 + 0.01 * k;
      (void)derivedModel(c);
    }
  }

  void beforeIsNotAfter() {
    Project p = house({.ratio = 0.3});
    p = withEdited(p, {{10}}, [](Element& e) { e.proposed = true; });
    QVERIFY(contentOf(derivedModel(p, true)) != contentOf(derivedModel(p, false)));
    QVERIFY(contentOf(derivedModel(p, false)) == contentOf(derivedModel(forgetful(p), false)));
  }

  void subsetsOfSensorsAreTheirOwn() {
    Project p = house({.ratio = 0.3, .spacing = 1});
    SensorGroup g;
    g.id = {41};
    g.name = "Yard";
    g.layout = GroundArea{rectangle(20, 0, 26, 6), 0, 1};
    p.groups.push_back(g);
    const auto all = layOutSensors(p), yard = layOutSensors(p, {{41}}), again = layOutSensors(p);
    QVERIFY(all && yard && again);
    QCOMPARE(yard->sensors.size(), std::size_t(36));
    QVERIFY(all->sensors.size() > yard->sensors.size());
    QVERIFY(contentOf(*all) == contentOf(*again));
    QVERIFY(!layOutSensors(p, {}, 10)); // a limit is asked for each time
  }

  void optionsDoNotMix() {
    Project p = house({.ratio = 0.3, .spacing = 1});
    p = withNewOption(std::move(p), "Wide");
    p.windowRules[0].ratio = 0.6;
    const Digest wide = contentOf(derivedModel(p));
    const Project first = withOption(p, 0);
    QVERIFY(contentOf(derivedModel(first)) != wide);
    QVERIFY(contentOf(derivedModel(withOption(first, 1))) == wide);
  }

  void manyThreadsMayAsk() {
    Project p = house({.ratio = 0.3, .spacing = 0.7});
    const Digest wanted = contentOf(derivedModel(forgetful(p)));
    std::atomic<int> wrong{0};
    std::vector<std::thread> threads;
    for (int t = 0; t < 6; ++t)
      threads.emplace_back([&, t] {
        for (int k = 0; k < 20; ++k) {
          Project own = p;
          if ((k + t) % 3 == 0) own.site.groundReflectance = 0.2 + 0.01 * k;
          const bool same = contentOf(derivedModel(own)) == contentOf(derivedModel(forgetful(own)));
          wrong += !same || (own.site.groundReflectance == 0.2 && contentOf(derivedModel(own)) != wanted);
          wrong += !layOutSensors(own);
        }
      });
    for (std::thread& t : threads) t.join();
    QCOMPARE(wrong.load(), 0);
  }
};

QTEST_GUILESS_MAIN(TestDerived)
#include "tst_derived.moc"
