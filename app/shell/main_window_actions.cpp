// Everything that can be done, by name and by key.

#include "app/shell/main_window.h"
#include "app/theme/style.h"
#include "core/files/epw.h"
#include "core/files/meshes/model_export.h"
#include "core/files/project/design_json.h"
#include "picture/opened_rooms.h"
#include <QAction>
#include <QApplication>
#include <QComboBox>
#include <QPushButton>

namespace noonward {

QAction* MainWindow::add(const QString& name, const QKeySequence& keys, const std::function<void()>& done) {
  auto* a = new QAction(name, this);
  a->setShortcut(keys);
  a->setObjectName(name);
  connect(a, &QAction::triggered, this, [done] { done(); });
  addAction(a);
  return a;
}

QAction* MainWindow::action(const QString& name) const {
  for (QAction* a : actions())
    if (a->objectName() == name) return a;
  return nullptr;
}

void MainWindow::buildActions() {
  add("Do anything", QKeySequence("Ctrl+K"), [this] {
    placePanels();
    anything_->open();
  });
  add("Help", QKeySequence::HelpContents, [this] { openHelp(); });
  add("Shortcuts", QKeySequence("Ctrl+/"), [this] {
    placePanels();
    help_->openShortcuts();
  });
  add("Tour of the demo", {}, [this] {
    if (!mayLeave()) return;
    openDemo("ropewalk-quay.noonward");
    tour_->start();
    placePanels();
  });
  add("Fold the Almanac", {}, [this] { almanac_->setFolded(!almanac_->folded()); });
  add("New project", QKeySequence::New, [this] {
    if (!mayLeave()) return;
    document_.startNew();
    first_->hide();
  });
  add("Open a project", QKeySequence::Open, [this] {
    pickFile("Open a project", "Noonward projects (*.noonward)", [this](const QString& f) {
      if (mayLeave()) openProject(f.toStdString());
    });
  });
  add("Save", QKeySequence::Save, [this] { saveProject(false); });
  add("Save as", QKeySequence("Ctrl+Shift+S"), [this] { saveProject(true); });
  add("Undo", QKeySequence::Undo, [this] { document_.undo(); });
  add("Redo", QKeySequence("Ctrl+Shift+Z"), [this] { document_.redo(); });
  add("Lay another year beside", {}, [this] {
    if (document_.looking().against) {
      document_.look([](Looking& l) { l.against.reset(); });
      return say("The Almanac shows the weather as it is.", false);
    }
    const auto& own = document_.project().site.weather;
    if (!own || !own->whole()) return say("The project has no whole year to compare with.", true);
    pickFile("Another weather year", "Weather files (*.epw)", [this](const QString& f) {
      document_.inBackground([this, f]() -> std::function<void(Document&)> {
        const auto read = std::make_shared<Expected<Weather>>(readEpw(f.toStdString()));
        return [this, f, read](Document& d) {
          if (!*read) return say(QString::fromStdString(read->error().text()), true);
          if (!(*read)->whole()) return say(f + " holds a part of a year; a whole one is compared.", true);
          const auto other = std::make_shared<const Weather>(std::move(**read));
          d.look([&](Looking& l) {
            l.against = other;
            l.year = YearPicture::Column;
          });
          say("Columns in the Almanac are shown less those of " + QString::fromStdString(other->name()) + ".", false);
        };
      });
    });
  });
  add("Load a weather file", {}, [this] {
    pickFile("Load a weather file", "Weather files (*.epw);;All files (*)", [this](const QString& f) {
      first_->hide();
      site_->loadWeather(f);
    });
  });
  add("Import a model", QKeySequence("Ctrl+I"), [this] {
    pickFile("Import a model",
             "Models (*.obj *.stl *.ply *.gltf *.glb *.dae *.3ds *.dxf *.ifc *.xml *.gbxml *.gml *.json *.geojson "
             "*.asc *.grd);;All files (*)",
             [this](const QString& f) { loadModel(f); });
  });
  add("Lay a picture to trace over", {}, [this] {
    pickFile("Lay a picture to trace over",
             "Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.webp *.bmp *.gif);;All files (*)",
             [this](const QString& f) { layPicture(f); });
  });
  add("Trace a simplified model", {}, [this] {
    document_.look([](Looking& l) { l.step = Step::Model; });
    placePanels();
    tracing_->open();
  });
  add("Write the model", {}, [this] {
    pickFile(
        "Write the model (.obj .stl .dxf .glb .json .geojson .xml)",
        "Models (*.obj *.stl *.dxf *.glb *.json *.geojson *.xml);;All files (*)",
        [this](const QString& f) { writeModel(f); }, "obj");
  });
  add("Write the list of changes", {}, [this] {
    pickFile(
        "What was done to other people's files", "Tables (*.csv)",
        [this](const QString& f) {
          const Outcome o = saveFile(f.toStdString(), changesCsv(document_.project()));
          say(o ? "Written: what was mended, left out and replaced, part by part."
                : QString::fromStdString(o.error().text()),
              !o);
        },
        "csv");
  });
  const auto tool = [this](Tool t) {
    return [this, t] {
      document_.look([&](Looking& l) {
        if (t == Tool::Draw || t == Tool::Move || t == Tool::Cut || t == Tool::Mirror || t == Tool::Tree ||
            t == Tool::Guide)
          l.step = Step::Model;
      });
      stage_->setTool(t);
      stage_->setFocus();
    };
  };
  add("Draw a mass", QKeySequence("D"), tool(Tool::Draw));
  add("Draw a room", {}, [this] {
    document_.look([](Looking& l) { l.step = Step::Rooms; });
    stage_->setTool(Tool::Room);
    stage_->setFocus();
  });
  add("Draw an area to judge", QKeySequence("A"), tool(Tool::Area));
  add("Move what is selected", QKeySequence("M"), tool(Tool::Move));
  add("Probe a spot", QKeySequence("P"), tool(Tool::Probe));
  add("Leave the probe", {}, [this] { document_.look([](Looking& l) { l.probe.reset(); }); });
  add("Copy what is selected", QKeySequence("Ctrl+D"), [this] { model_->copySelected(); });
  add("Take along a copy", QKeySequence::Copy, [this] { model_->takeAlong(false); });
  add("Take along", QKeySequence::Cut, [this] { model_->takeAlong(true); });
  add("Put here", QKeySequence::Paste, [this] { model_->putHere(); });
  add("Hold together", QKeySequence("Ctrl+G"), [this] { model_->holdTogether({}); });
  add("Let go of each other", QKeySequence("Ctrl+Shift+G"), [this] { model_->letGo(); });
  add("Join masses", {}, [this] { model_->join(); });
  add("Cut masses along a line", {}, tool(Tool::Cut));
  add("Cut out of the first", {}, [this] { model_->cutOut(); });
  add("Mirror in a line", {}, tool(Tool::Mirror));
  add("Select all like it", {}, [this] { model_->selectAlike(); });
  add("Delete what is selected", QKeySequence::Delete, [this] { model_->deleteSelected(); });
  add("Turn left by 15°", QKeySequence("["), [this] { model_->turnSelected(radians(15)); });
  add("Turn right by 15°", QKeySequence("]"), [this] { model_->turnSelected(radians(-15)); });
  add("Fit everything", QKeySequence("F"),
      [this] { (second_->stage().hasFocus() ? second_->stage() : *stage_).fit(true); });
  add("View solid", QKeySequence("Ctrl+1"), [this] { viewAs(ViewKind::Solid); });
  add("View plan", QKeySequence("Ctrl+2"), [this] { viewAs(ViewKind::Plan); });
  add("View facade", QKeySequence("Ctrl+3"), [this] { viewAs(ViewKind::Facade); });
  add("View section", QKeySequence("Ctrl+6"), [this] { stage_->setView(ViewKind::Section); });
  add("Two stages side by side", QKeySequence("Ctrl+7"), [this] { showSecondStage(!second_->isVisible()); });
  add("Draw a section", {}, [this] {
    document_.look([](Looking& l) { l.section.reset(); });
    stage_->setView(ViewKind::Section);
    stage_->setFocus();
  });
  add("Draw windows", QKeySequence("W"), [this] {
    document_.look([](Looking& l) { l.step = Step::Rooms; });
    stage_->setTool(Tool::Window);
    stage_->setFocus();
  });
  add("Set eyes", QKeySequence("Y"), [this] {
    document_.look([](Looking& l) { l.step = Step::Rooms; });
    stage_->setTool(Tool::Eye);
    stage_->setFocus();
  });
  add("Draw guides", QKeySequence("L"), tool(Tool::Guide));
  add("Take all guides away", {}, [this] {
    Project p = document_.project();
    if (p.guides.empty()) return say("There are no guides.", false);
    p.guides.clear();
    document_.change(std::move(p), "Take guides away");
  });
  add("Draw a shading plane", {}, tool(Tool::Plate));
  add("Plant trees", QKeySequence("T"), tool(Tool::Tree));
  add("Draw balconies", QKeySequence("B"), [this] {
    document_.look([](Looking& l) { l.step = Step::Model; });
    stage_->setTool(Tool::Balcony);
    stage_->setFocus();
  });
  add("Correct corners", QKeySequence("C"), tool(Tool::Corners));
  const auto nextElement = [this](int by) {
    return [this, by] {
      std::vector<ElementId> all;
      for (const ElementPtr& e : document_.project().elements)
        if (!e->hidden) all.push_back(e->id);
      if (all.empty()) return say("There is no element to go to.", false);
      const auto& now = document_.looking().selected;
      const auto at = now.empty() ? all.end() : std::find(all.begin(), all.end(), now.front());
      const auto n = std::ptrdiff_t(all.size());
      const auto next = at == all.end() ? (by > 0 ? 0 : n - 1) : (at - all.begin() + by + n) % n;
      document_.look([&](Looking& l) {
        l.selected = {all[std::size_t(next)]};
        l.face.reset();
      });
    };
  };
  add("Next element", QKeySequence("N"), nextElement(1));
  add("Previous element", QKeySequence("Shift+N"), nextElement(-1));
  const auto nextCell = [this](int by) {
    return [this, by] {
      const auto answer = studies_.current();
      const auto n = answer && answer->painted ? std::ptrdiff_t(answer->painted->sensors.sensors.size()) : 0;
      if (n == 0) return say("There is no result whose cells could be gone through.", false);
      const auto& now = document_.looking().sensor;
      const auto next = now ? (std::ptrdiff_t(*now) + by + n) % n : by > 0 ? 0 : n - 1;
      document_.look([&](Looking& l) { l.sensor = std::size_t(next); });
    };
  };
  add("Next cell of the result", QKeySequence("J"), nextCell(1));
  add("Previous cell of the result", QKeySequence("Shift+J"), nextCell(-1));
  add("Dimensions of what is selected", QKeySequence("X"),
      [this] { document_.look([](Looking& l) { l.dimensions = !l.dimensions; }); });
  add("Figures at the sensors", QKeySequence("V"),
      [this] { document_.look([](Looking& l) { l.values = !l.values; }); });
  const auto storey = [this](int by) {
    return [this, by] {
      const std::vector<double> all = storeys(document_.project());
      if (all.empty()) return;
      const double now = storeyNear(document_.project(), document_.looking().storey);
      const auto at = std::find(all.begin(), all.end(), now) - all.begin() + by;
      if (at < 0 || at >= std::ptrdiff_t(all.size()))
        return say(by > 0 ? "This is the topmost storey with rooms." : "This is the lowest storey with rooms.", false);
      document_.look([&](Looking& l) { l.storey = all[std::size_t(at)]; });
    };
  };
  add("Storey above", QKeySequence(Qt::Key_PageUp), storey(1));
  add("Storey below", QKeySequence(Qt::Key_PageDown), storey(-1));
  add("Show everything", {}, [this] {
    document_.look([](Looking& l) {
      l.onlyRole.reset();
      l.onlyGlazing.clear();
    });
  });
  add("View from the sun", QKeySequence("Ctrl+4"), [this] { viewAs(ViewKind::FromSun); });
  add("Perspective or parallel", QKeySequence("Ctrl+5"),
      [this] { stage_->setPerspective(!stage_->camera().perspective); });
  add("Play or stop the day", QKeySequence(Qt::Key_Space), [this] {
    // Space on a focused button or choice still means that button or choice.
    QWidget* focus = QApplication::focusWidget();
    if (auto* b = qobject_cast<QAbstractButton*>(focus))
      b->click();
    else if (auto* c = qobject_cast<QComboBox*>(focus))
      c->showPopup();
    else
      almanac_->play(!almanac_->playing());
  });
  add("Run the study", QKeySequence("Ctrl+R"), [this] { studies_.run(); });
  add("Enough", {}, [this] { studies_.enough(); });
  add("Drop the run", {}, [this] {
    studies_.drop();
    record_->stop();
  });
  add("Run the proofs", {}, [this] {
    placePanels();
    proofs_->run();
  });
  add("Light or dark", {}, [this] { setDark(!theme().dark); });
  add("Findings", QKeySequence("Ctrl+J"), [this] { findingsButton_->click(); });
  add("Save this season", {}, [this] {
    Project p = document_.project();
    Season s = document_.looking().season;
    s.name = "season " + std::to_string(p.seasons.size() + 1);
    s.id = SeasonId::fresh();
    p.seasons.push_back(s);
    document_.change(std::move(p), "Save season");
    document_.look([&](Looking& l) { l.season = s; });
  });
  add("All runs", {}, [this] { openPanel(runs_); });
  add("Shade against the sun", {}, [this] {
    placePanels();
    shade_->open();
  });
  add("Shadow plan", QKeySequence("Ctrl+Shift+H"), [this] {
    placePanels();
    shadows_->open();
  });
  add("What this eye sees", QKeySequence("Ctrl+Shift+Y"), [this] {
    placePanels();
    fisheye_->open();
  });
  add("Weather bench", QKeySequence("Ctrl+Shift+B"), [this] {
    placePanels();
    bench_->open();
  });
  add("Measuring desk", QKeySequence("Ctrl+Shift+M"), [this] {
    placePanels();
    desk_->open();
  });
  add("Try many designs", QKeySequence("Ctrl+Shift+T"), [this] {
    placePanels();
    sweeps_->open();
  });
  add("Receivers", QKeySequence("Ctrl+Shift+R"), [this] { openPanel(receivers_); });
  add("Receivers from a table", {}, [this] { emit receivers_->fileWanted("in"); });
  add("Views, sheets and films", {}, [this] {
    placePanels();
    pictures_->open();
  });
  add("Save this view", QKeySequence("Ctrl+Alt+S"), [this] { pictures_->saveView(); });
  for (int k = 1; k <= 9; ++k)
    add(QString("Go to saved view %1").arg(k), QKeySequence(QString("Ctrl+Alt+%1").arg(k)),
        [this, k] { pictures_->go(std::size_t(k - 1)); });
  add("How robust is the year?", {}, [this] {
    if (const auto a = studies_.current(); a && a->year && !studies_.readingsOf(a->year->key)) studies_.askReadings();
    openPanel(readings_);
  });
  add("Compare options", {}, [this] {
    const Project& p = document_.project();
    if (p.options.size() < 2 && p.beside.size() < 2)
      return say("There is one design alone: add an option, or lay a run of many designs beside it.", false);
    placePanels();
    compare_->open();
  });
  add("Vary what is selected", {}, [this] {
    placePanels();
    sweeps_->vary(document_.looking().selected, document_.looking().opening);
  });
  add("Back from the design shown", {}, [this] {
    if (!document_.showing()) return say("The project itself is shown.", false);
    document_.dropPreview();
  });
  add("Add an option", {}, [this] {
    document_.change(withNewOption(document_.project(), nextOptionName(document_.project()).toStdString()),
                     "Add option");
  });
  add("Next option", QKeySequence("Ctrl+Tab"), [this] {
    const Project& p = document_.project();
    if (p.options.size() > 1) document_.change(withOption(p, (p.option + 1) % p.options.size()), "Choose option");
  });
  add("Make the record", {}, [this] { emit record_->fileWanted("record"); });
  add("Compare the record with an earlier one", {}, [this] { emit record_->fileWanted("since"); });
  add("Check a record", {}, [this] { emit record_->fileWanted("verify"); });
  add("Save picture", {}, [this] { emit record_->fileWanted("png"); });
  add("Save table", {}, [this] { emit record_->fileWanted("csv"); });
  add("Save page", {}, [this] { emit record_->fileWanted("pdf"); });
  int n = 0;
  for (Step s : allSteps)
    add(QString("Go to %1").arg(stepName(s)), QKeySequence(QString("Alt+%1").arg(++n)),
        [this, s] { document_.look([&](Looking& l) { l.step = s; }); });
  add("Go to the Almanac", QKeySequence("Alt+A"), [this] { almanac_->plot()->setFocus(); });
  add("Go to the stage", QKeySequence("Alt+S"), [this] { stage_->setFocus(); });
  add("Go to the second stage", QKeySequence("Alt+Shift+S"), [this] {
    if (!second_->isVisible()) showSecondStage(true);
    second_->stage().setFocus();
  });
  add("Close Noonward", QKeySequence("Ctrl+Q"), [this] { close(); });
}

} // namespace noonward
