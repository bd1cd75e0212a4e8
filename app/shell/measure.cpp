#include "app/shell/measure.h"
#include "core/model/form/edit.h"
#include <QApplication>
#include <QElapsedTimer>
#include <cstdio>
#include <fmt/format.h>
#include <fstream>

namespace noonward {

namespace {

void print(const char* name, double value, const char* unit, double target, bool higher) {
  fmt::print("{{\"name\":\"{}\",\"value\":{:.4g},\"unit\":\"{}\",\"target\":{:g},\"better\":\"{}\"}}\n", name, value,
             unit, target, higher ? "higher" : "lower");
  std::fflush(stdout);
}

template <class Done> bool waitUntil(double limit, Done&& done) {
  QElapsedTimer clock;
  clock.start();
  while (!done()) {
    if (clock.elapsed() > limit * 1000) return false;
    QApplication::processEvents(QEventLoop::AllEvents | QEventLoop::WaitForMoreEvents, 5);
  }
  return true;
}

double framesPerSecond(Stage& stage, bool quick) {
  QElapsedTimer clock;
  clock.start();
  int frames = 0;
  Camera c = stage.camera();
  while (clock.elapsed() < 2000 || frames < 3) {
    c.orbit(0.02, 0);
    stage.setCamera(c);
    stage.frame(quick);
    ++frames;
  }
  return frames * 1000.0 / double(clock.elapsed());
}

double memoryPeakMb() {
  std::ifstream status("/proc/self/status");
  for (std::string line; std::getline(status, line);)
    if (line.starts_with("VmHWM:")) return std::stod(line.substr(6)) / 1024;
  return 0;
}

void measureDemo(MainWindow& w, double started) {
  QElapsedTimer rest;
  rest.start();
  waitUntil(20, [&] { return w.studies().current() != nullptr; });
  w.stage().frame(false);
  print("window-start", started + double(rest.nsecsElapsed()) * 1e-9, "s", 2, false);
  print("stage-frames-moving", framesPerSecond(w.stage(), true), "frames/s", 10, true);
  print("stage-frames-still", framesPerSecond(w.stage(), false), "frames/s", 10, true);
  // A mass moved: from the preview to the picture with its new numbers.
  Document& d = w.document();
  const Project before = d.project();
  ElementId moving;
  for (const ElementPtr& e : before.elements)
    if (e->proposed) moving = e->id;
  w.studies().setMoving({moving});
  std::vector<double> times;
  for (int k = 1; k <= 9; ++k) {
    const auto old = w.studies().latest();
    QElapsedTimer clock;
    clock.start();
    d.preview(withEdited(before, {moving}, [&](Element& e) { moveElement(e, {0.5 * k, 0, 0}); }));
    waitUntil(10, [&] { return w.studies().latest() != old; });
    w.stage().frame(true);
    times.push_back(double(clock.nsecsElapsed()) * 1e-9);
  }
  std::sort(times.begin(), times.end());
  print("live-edit-painted", times[times.size() / 2], "s", 0.3, false);
  d.dropPreview();
  w.studies().setMoving({});
}

void measureCity(MainWindow& w, const QString& file) {
  QElapsedTimer clock;
  clock.start();
  auto model = readModel(file.toStdString());
  if (!model) {
    std::fputs((model.error().text() + "\n").c_str(), stderr);
    return;
  }
  Project p = w.document().project();
  for (Element& e : placedElements(*model, guessPlacement(*model, std::nullopt).placement, Role::Neighbour))
    p = withElement(std::move(p), std::move(e));
  model = fail("");
  w.document().change(std::move(p), "Import model");
  w.stage().fit(true);
  w.stage().frame(true); // sets the large model on its way
  waitUntil(60, [&] { return !w.stage().preparing(); });
  w.stage().frame(true);
  print("city-import-shown", double(clock.nsecsElapsed()) * 1e-9, "s", 8, false);
  print("city-frames", framesPerSecond(w.stage(), true), "frames/s", 3, true);
  print("city-memory", memoryPeakMb(), "MB", 1500, false);
}

} // namespace

void measureWindow(MainWindow& window, const QString& what, double started) {
  if (what == "demo")
    measureDemo(window, started);
  else if (what == "rooms")
    measureRooms(window);
  else
    measureCity(window, what);
  window.document().undo();
  std::fflush(stdout);
  std::_Exit(0); // nothing to save, nobody to ask
}

} // namespace noonward
