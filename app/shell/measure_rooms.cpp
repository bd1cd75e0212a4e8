// How long the window's thread is held at a time by work of any sort, with 500 rooms, five options and 200 000
// triangles.

#include "app/shell/measure.h"
#include "core/files/project/design_json.h"
#include "core/model/form/edit.h"
#include <QApplication>
#include <QElapsedTimer>
#include <algorithm>
#include <atomic>
#include <chrono>
#include <fmt/format.h>
#include <thread>

namespace noonward {

namespace {

/// A thread beside the window asks it for a sign of life every two milliseconds; how late the sign comes is how long
/// the window was held. What the software renderer draws is taken off: on a graphics card it is none of the window's
/// thread.
class HoldWatch {
public:
  explicit HoldWatch(const Stage& stage) : stage_(stage) {
    thread_ = std::thread([this] {
      while (!stop_) {
        if (!asked_.exchange(true)) {
          const auto when = std::chrono::steady_clock::now();
          QMetaObject::invokeMethod(
              &here_, [this, when] { sign(when); }, Qt::QueuedConnection);
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(2));
      }
    });
  }
  ~HoldWatch() {
    stop_ = true;
    thread_.join();
  }
  /// The longest since the last call, s.
  double longest() { return std::exchange(longest_, 0); }

private:
  void sign(std::chrono::steady_clock::time_point when) {
    const double late = std::chrono::duration<double>(std::chrono::steady_clock::now() - when).count(),
                 drawn = stage_.drawnSeconds();
    longest_ = std::max(longest_, late - (drawn - drawn_));
    drawn_ = drawn;
    asked_ = false;
  }
  const Stage& stage_;
  QObject here_; ///< of the window's thread
  double drawn_ = 0, longest_ = 0;
  std::atomic<bool> stop_{false}, asked_{false};
  std::thread thread_;
};

/// Rows of boxes, 12 triangles each.
Mesh boxes(int count) {
  Mesh m;
  for (int k = 0; k < count; ++k) {
    const double x = 300 + 14.0 * (k % 130), y = 14.0 * double(k / 130);
    const auto solid = extrude(rectangle(x, y, x + 9, y + 9), 0, 6 + k % 7);
    const auto base = std::uint32_t(m.points.size());
    m.points.insert(m.points.end(), solid->points.begin(), solid->points.end());
    for (Triangle t : solid->triangles) {
      for (auto& corner : t) corner += base;
      m.triangles.push_back(t);
    }
  }
  findFaces(m);
  return m;
}

/// Ten blocks of five storeys with ten rooms each, a window rule, a town around them, five options.
Project manyRooms(const Project& like) {
  Project p;
  p.site = like.site;
  p.name = "Five hundred rooms";
  for (int block = 0; block < 10; ++block) {
    const double x = 40.0 * (block % 5), y = 40.0 * double(block / 5);
    Element e;
    e.id = ElementId::fresh();
    e.name = fmt::format("Block {}", block + 1);
    e.proposed = block < 5;
    e.shape = Mass{rectangle(x, y, x + 31, y + 13), 0, 16, 5};
    p.elements.push_back(std::make_shared<const Element>(e));
    for (int storey = 0; storey < 5; ++storey)
      for (int k = 0; k < 10; ++k) {
        const double a = x + 0.4 + 6.1 * (k % 5), b = y + 0.4 + 6.2 * double(k / 5);
        Room r;
        r.id = RoomId::fresh();
        r.name = fmt::format("Room {}.{}.{}", block + 1, storey + 1, k + 1);
        r.outline = rectangle(a, b, a + 5.9, b + 5.9);
        r.floor = 3.2 * storey;
        r.height = 2.8;
        p.rooms.push_back(r);
      }
  }
  WindowRule w;
  w.id = RuleId::fresh();
  w.name = "Window";
  w.ratio = 0.3;
  w.kind = WindowRule::Kind::Ratio;
  p.windowRules.push_back(w);
  Element town;
  town.id = ElementId::fresh();
  town.name = "Town";
  town.role = Role::Neighbour;
  Imported mesh;
  mesh.mesh = std::make_shared<const Mesh>(boxes(16'700));
  mesh.content = digestOf(*mesh.mesh);
  town.shape = mesh;
  p.elements.push_back(std::make_shared<const Element>(town));
  SensorGroup g;
  g.id = GroupId::fresh();
  g.name = "Rooms";
  RoomGrid grid;
  grid.spacing = 1.5;
  g.layout = grid;
  p.groups.push_back(g);
  Study s;
  s.id = StudyId::fresh();
  s.kind = StudyKind::Year;
  s.name = studyName(s.kind);
  s.groups = {g.id};
  p.studies.push_back(s);
  for (int k = 1; k < 5; ++k) {
    p = withNewOption(std::move(p), fmt::format("Option {}", k + 1));
    p.windowRules.front().ratio = 0.3 + 0.05 * k;
  }
  return withOption(std::move(p), 0);
}

} // namespace

void measureRooms(MainWindow& w) {
  Document& d = w.document();
  HoldWatch watch(w.stage());
  const auto settle = [&](double seconds) { // events for a while, and until nothing runs
    QElapsedTimer clock;
    clock.start();
    while (clock.elapsed() < seconds * 1000 || (w.studies().busy() && clock.elapsed() < 60'000) ||
           w.stage().preparing())
      QApplication::processEvents(QEventLoop::AllEvents | QEventLoop::WaitForMoreEvents, 20);
  };
  double worst = 0;
  std::string worstAt;
  const auto act = [&](const char* name, const std::function<void()>& deed, bool told = true) {
    settle(0.3);
    (void)watch.longest();
    QTimer::singleShot(0, &w, deed);
    settle(1.2);
    const double longest = watch.longest();
    std::fprintf(stderr, "%-28s %6.0f ms\n", name, 1000 * longest);
    if (told && longest > worst) {
      worst = longest;
      worstAt = name;
    }
  };
  const Project project = manyRooms(d.project());
  act(
      "open", [&] { d.startNew(project); }, false);
  settle(3);
  (void)watch.longest();
  const ElementId block = project.elements.front()->id;
  const auto edited = [&](const std::function<void(Project&)>& change, const char* name) {
    Project p = d.project();
    change(p);
    d.change(std::move(p), name);
  };
  act("name a room", [&] { edited([](Project& p) { p.rooms[7].name = "Reading"; }, "Name room"); });
  act("another ratio", [&] { edited([](Project& p) { p.windowRules.front().ratio = 0.42; }, "Set ratio"); });
  act("a finish for a role", [&] {
    edited([](Project& p) { p.assignments.push_back({"White paint", {}, {}, "", "", {}, Role::Ceiling}); }, "Assign");
  });
  act("another threshold", [&] { edited([](Project& p) { p.studies.front().year.metrics.threshold = 500; }, "Set"); });
  act("move a block by drag", [&] {
    const Project before = d.project();
    w.studies().setMoving({block});
    d.preview(withEdited(before, {block}, [&](Element& e) { moveElement(e, {1, 0, 0}); }));
  });
  act("let go of it", [&] {
    d.commitPreview("Move");
    w.studies().setMoving({});
  });
  act("undo", [&] { d.undo(); });
  act("redo", [&] { d.redo(); });
  act("choose a block", [&] { d.look([&](Looking& l) { l.selected = {block}; }); });
  act("probe a spot", [&] { d.look([](Looking& l) { l.probe = ProbeSpot{{-5, 5, 0.1}, {0, 0, 1}}; }); });
  act("another moment", [&] { d.look([](Looking& l) { l.moment = l.moment + 7200; }); });
  for (Step s : allSteps)
    act((std::string("step ") + stepName(s)).c_str(), [&d, s] { d.look([s](Looking& l) { l.step = s; }); });
  act("another option", [&] { d.change(withOption(d.project(), 2), "Choose option"); });
  act("study VSC on walls", [&] {
    edited(
        [&](Project& p) {
          SensorGroup g;
          g.id = GroupId::fresh();
          g.name = "Walls";
          FaceGrid f;
          f.faces.push_back({block, {}});
          f.spacing = 1;
          g.layout = f;
          Study s;
          s.id = StudyId::fresh();
          s.kind = StudyKind::Vsc;
          s.name = "Walls";
          s.groups = {g.id};
          p.groups.push_back(g);
          p.studies.push_back(s);
        },
        "Add");
    d.look([&](Looking& l) { l.study = d.project().studies.back().id; });
  });
  act("ask why of a sensor", [&] { d.look([](Looking& l) { l.sensor = 3; }); });
  std::fprintf(stderr, "longest: %s\n", worstAt.c_str());
  fmt::print(
      "{{\"name\":\"window-longest-hold\",\"value\":{:.4g},\"unit\":\"s\",\"target\":0.1,\"better\":\"lower\"}}\n",
      worst);
}

} // namespace noonward
