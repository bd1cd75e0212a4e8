// What a project was, is and would be: undo against a plain list of states, options against the whole of their changes,
// stretches of time against minutes counted one by one. All by chance, with a seed that can be tried again.

#ifndef Q_MOC_RUN
#include "core/files/project/design_json.h"
#include "core/model/form/edit.h"
#include "core/model/history.h"
#include "core/sun/intervals.h"
#include "tests/house.h"
#include <QtTest>
#include <random>
#endif

using namespace noonward;
using test::house;

namespace {

class Chance {
public:
  explicit Chance(unsigned seed) : random_(seed) {}
  int upTo(int n) { return int(random_() % unsigned(n)); }
  double real(double low, double high) { return low + (high - low) * double(random_()) / 4294967296.0; }

private:
  std::mt19937 random_;
};

void seeds(int count) {
  QTest::addColumn<unsigned>("seed");
  for (int s = 1; s <= count; ++s) QTest::addRow("seed %d", s) << unsigned(s);
}

/// Some edit of a design, such as people make.
Project edited(Project p, Chance& chance) {
  switch (chance.upTo(9)) {
  case 0:
    return withEdited(std::move(p), {{10}}, [&](Element& e) {
      moveElement(e, {chance.real(-2, 2), chance.real(-2, 2), 0});
    });
  case 1: {
    Element e;
    e.id = ElementId::fresh();
    e.name = "Block " + std::to_string(chance.upTo(1000));
    e.shape = Mass{rectangle(20, 0, 20 + chance.real(2, 9), 6), 0, chance.real(3, 12), 1};
    return withElement(std::move(p), e);
  }
  case 2:
    if (p.elements.size() > 1) return withoutElements(p, {p.elements.back()->id});
    return p;
  case 3:
    p.rooms[0].height = chance.real(2.4, 3.2);
    return p;
  case 4: {
    Room r;
    r.id = RoomId::fresh();
    r.name = "Room " + std::to_string(chance.upTo(1000));
    r.outline = rectangle(0.4, 0.4, chance.real(3, 7), 5);
    p.rooms.push_back(r);
    return p;
  }
  case 5:
    p.windowRules[0].ratio = 0.1 + 0.01 * chance.upTo(60);
    return p;
  case 6: {
    ShadeRule s;
    s.id = RuleId::fresh();
    s.name = "Shade " + std::to_string(chance.upTo(1000));
    s.depth = 0.1 * chance.upTo(20);
    p.shadeRules.push_back(s);
    return p;
  }
  case 7: {
    Opening o;
    o.id = OpeningId::fresh();
    o.name = "Window " + std::to_string(chance.upTo(1000));
    o.room = p.rooms[std::size_t(chance.upTo(int(p.rooms.size())))].id;
    o.edge = chance.upTo(4);
    o.along = chance.real(0.2, 2);
    o.sill = 0.9;
    o.width = 1;
    o.height = 1.2;
    p.openings.push_back(o);
    return p;
  }
  default:
    p.assignments.push_back({chance.upTo(2) ? "White paint" : "Grey carpet",
                             {},
                             {},
                             "",
                             "",
                             {},
                             chance.upTo(2) ? Role::Wall : Role::Floor});
    return p;
  }
}

/// The others after an edit of the first, from the whole of both designs: slow, and without any shortcut.
std::vector<std::string> rebasedSlowly(const Project& after, const Project& before) {
  const Json was = designJson(before), is = designJson(after);
  std::vector<std::string> out;
  for (std::size_t k = 1; k < after.options.size(); ++k)
    out.push_back(withChanges(is, differences(was, designJson(designOf(after, k)))).dump());
  return out;
}

} // namespace

class TestState : public QObject {
  Q_OBJECT
private slots:
  void undoIsAListOfStates_data() { seeds(25); }
  void undoIsAListOfStates() {
    QFETCH(unsigned, seed);
    Chance chance(seed);
    const Project start = house({.ratio = 0.3});
    History history(start);
    std::vector<Project> list{start}; // what undo and redo must come to
    std::size_t at = 0;
    std::string gesture;
    for (int step = 0; step < 80; ++step) {
      switch (chance.upTo(6)) {
      case 0:
        history.undo();
        if (at == 0) break; // with nothing to undo the gesture goes on
        --at;
        gesture.clear();
        break;
      case 1:
        history.redo();
        if (at + 1 == list.size()) break;
        ++at;
        gesture.clear();
        break;
      case 2:
        history.endGesture();
        gesture.clear();
        break;
      default: {
        const std::string own = chance.upTo(3) == 0 ? "drag" : "";
        const Project next = edited(list[at], chance);
        const bool merges = !own.empty() && own == gesture && at > 0;
        history.change(next, "Edit", own);
        if (merges) {
          list.resize(at + 1);
          list[at] = next;
          if (sameProject(list[at - 1], next)) { // it came back to where it began
            list.resize(at--);
            gesture.clear();
            break;
          }
        } else if (!sameProject(list[at], next)) {
          list.resize(at + 1);
          list.push_back(next);
          ++at;
        } else {
          break; // nothing changed: no step, and the gesture before goes on
        }
        gesture = own;
      }
      }
      QVERIFY2(sameProject(history.now(), list[at]), qPrintable(QString::number(step)));
      QCOMPARE(history.canUndo(), at > 0);
      QCOMPARE(history.canRedo(), at + 1 < list.size());
      QCOMPARE(history.steps(), at);
    }
  }

  void memoryOfUndoIsLimited() {
    Project p = house();
    History history(p, 200'000);
    for (int k = 0; k < 60; ++k) {
      Element e;
      e.id = {std::uint64_t(1000 + k)};
      Imported mesh;
      auto m = std::make_shared<Mesh>();
      m->points.resize(1000, Vec3{double(k), 0, 0});
      mesh.mesh = m;
      mesh.content = digestOf(*m);
      e.shape = mesh;
      p = withElement(withoutElements(p, {{std::uint64_t(999 + k)}}), e); // each step holds a mesh that no other has
      history.change(p, "Swap");
    }
    QVERIFY(history.canUndo());
    QVERIFY2(history.steps() < 20, qPrintable(QString::number(history.steps())));
    while (history.canUndo()) history.undo();
    QVERIFY(history.now().elements.size() == 2);
  }

  void othersFollowTheFirstAsIfAllWereCompared_data() { seeds(40); }
  void othersFollowTheFirstAsIfAllWereCompared() {
    QFETCH(unsigned, seed);
    Chance chance(seed);
    Project p = house({.ratio = 0.3});
    for (int k = 0; k < 3; ++k) {
      p = withNewOption(std::move(p), "Option " + std::to_string(k + 2));
      for (int edits = chance.upTo(4); edits >= 0; --edits) p = edited(std::move(p), chance);
    }
    p = withOption(std::move(p), 0);
    for (int step = 0; step < 6; ++step) {
      const Project before = p;
      const Project after = edited(p, chance);
      const auto wanted = rebasedSlowly(after, before);
      p = withOthersRebased(after, before);
      QCOMPARE(p.options.size(), before.options.size());
      for (std::size_t k = 1; k < p.options.size(); ++k) {
        // Read as a project would be, so that what a change leaves unsaid is the same on both sides.
        const auto read = designFromJson(Json::parse(wanted[k - 1]), p, {&p, &before, p.options[k].design.get()});
        QVERIFY2(read.has_value(), read ? "" : read.error().text().c_str());
        QCOMPARE(designJson(designOf(p, k)).dump(), designJson(*read).dump());
      }
    }
  }

  void anEditThatChangesNothingCostsTheOthersNothing() {
    Project p = house({.ratio = 0.3});
    p = withNewOption(std::move(p), "B");
    p.windowRules[0].ratio = 0.6;
    p = withOption(std::move(p), 0);
    const auto design = p.options[1].design;
    Project named = p;
    named.name = "Else";
    named.studies.push_back({});
    QVERIFY(withOthersRebased(named, p).options[1].design == design); // not even made anew
    Project taller = p;
    taller.rooms[0].height = 3.1;
    const Project next = withOthersRebased(taller, p);
    QCOMPARE(next.options[1].design->rooms[0].height, 3.1);
    QCOMPARE(next.options[1].design->windowRules[0].ratio, 0.6);
    QVERIFY(next.options[1].design->elements[0] == p.elements[0]); // what is shared stays shared
  }

  void stretchesAreMinutesCounted_data() { seeds(60); }
  void stretchesAreMinutesCounted() {
    QFETCH(unsigned, seed);
    Chance chance(seed);
    constexpr int minutes = 240;
    const auto some = [&](std::vector<bool>& counted) {
      Intervals parts;
      for (int k = chance.upTo(9); k > 0; --k) {
        const int a = chance.upTo(minutes), b = chance.upTo(minutes + 1);
        parts.push_back({double(a), double(b)}); // the wrong way round: no stretch at all
        for (int m = a; m < b; ++m) counted[std::size_t(m)] = true;
      }
      return joined(std::move(parts));
    };
    std::vector<bool> a(minutes), b(minutes);
    const Intervals one = some(a), other = some(b);
    const auto minutesOf = [](const Intervals& list) {
      std::vector<bool> out(minutes);
      for (const Interval& i : list)
        for (int m = int(i.begin); m < int(i.end); ++m) out[std::size_t(m)] = true;
      return out;
    };
    const auto sound = [](const Intervals& list) { // in order, apart, none empty
      for (std::size_t k = 0; k < list.size(); ++k) {
        if (!(list[k].end > list[k].begin)) return false;
        if (k > 0 && !(list[k].begin > list[k - 1].end)) return false;
      }
      return true;
    };
    QVERIFY(minutesOf(one) == a && minutesOf(other) == b);
    std::vector<bool> both(minutes), without(minutes);
    int sum = 0, run = 0, most = 0;
    for (std::size_t m = 0; m < minutes; ++m) {
      both[m] = a[m] && b[m];
      without[m] = a[m] && !b[m];
      sum += a[m];
      run = a[m] ? run + 1 : 0;
      most = std::max(most, run);
    }
    QVERIFY(minutesOf(intersection(one, other)) == both);
    QVERIFY(minutesOf(intersection(other, one)) == both);
    QVERIFY(minutesOf(difference(one, other)) == without);
    QVERIFY(sound(one) && sound(intersection(one, other)) && sound(difference(one, other)));
    QCOMPARE(total(one), double(sum));
    QCOMPARE(longest(one), double(most));
    QVERIFY(difference(one, one).empty());
    QVERIFY(intersection(one, one) == one);
    QCOMPARE(total(one), total(intersection(one, other)) + total(difference(one, other)));
    for (double seam : {0.5, 3.0, 20.0}) { // gaps up to the seam are closed, wider ones stay
      const Intervals closed = joined(one, seam);
      for (std::size_t k = 1; k < closed.size(); ++k) QVERIFY(closed[k].begin - closed[k - 1].end >= seam);
      QVERIFY(total(closed) >= total(one));
      if (!one.empty()) QVERIFY(closed.front().begin == one.front().begin && closed.back().end == one.back().end);
    }
  }
};

QTEST_GUILESS_MAIN(TestState)
#include "tst_state.moc"
