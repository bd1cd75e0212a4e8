#include "app/shell/main_window.h"
#include "app/theme/style.h"
#include "core/base/hash.h"
#include "core/files/meshes/model_export.h"
#include "core/files/project/design_json.h"
#include "picture/opened_rooms.h"
#include "picture/picture_export.h"
#include "picture/saved_view.h"
#include <QApplication>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QScreen>
#include <QScrollArea>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <QToolButton>

namespace noonward {

MainWindow::MainWindow(const std::filesystem::path& resources) : document_(resources), studies_(document_) {
  setWindowTitle("Noonward");
  // 1280 × 800 with its frame, where the screen is no larger.
  const QSize room = screen() ? screen()->availableSize() : QSize(1280, 800);
  resize(std::min(1280, room.width()), std::min(800, room.height()));
  if (room.width() <= 1280 || room.height() <= 830) setWindowState(Qt::WindowMaximized);
  buildFrame();
  buildActions();
  modelTools_ = new ToolStrip(
      stage_, "Model tools",
      {{action("Draw a mass"), ToolSign::Mass,
        "Outline on the ground, then height. Inside a selected mass: a courtyard"},
       {action("Move what is selected"), ToolSign::Move, "Drag what is selected, or hold Alt"},
       {action("Correct corners"), ToolSign::Corners,
        "Of the selected mass, or of the simplified model where nothing is selected"},
       {action("Draw a shading plane"), ToolSign::Plate, "Corners on the ground; then lift and tilt it in the sheet"},
       {action("Cut masses along a line"), ToolSign::Cut, "Two clicks in plan; rooms are cut with their masses"},
       {action("Plant trees"), ToolSign::Tree, "A tree at each click, in leaf, bare, or solid"},
       {action("Draw guides"), ToolSign::Guide, "Endless lines that drawn and moved points snap to"},
       {action("Draw balconies"), ToolSign::Balcony,
        "Two corners on a facade, as a balcony is seen there, then how far it stands out"},
       {action("Import a model"), ToolSign::Import, "Meshes, drawings, building models, city models, terrain", true},
       {action("Trace a simplified model"), ToolSign::Trace,
        "Storeys cut out of what was imported, rooms between their walls, windows from the glazing"},
       {action("Lay a picture to trace over"), ToolSign::Picture,
        "A plan scaled by two points, or a photograph of a facade straightened by four corners"}});
  noticeTimer_.setSingleShot(true);
  noticeTimer_.setInterval(7000);
  connect(&noticeTimer_, &QTimer::timeout, notice_, &QWidget::hide);
  connect(&document_, &Document::notice, this, &MainWindow::say);
  connect(stage_, &Stage::said, this, [this](const QString& t) {
    if (t.isEmpty())
      notice_->hide();
    else
      say(t, false);
  });
  for (auto signal :
       {&Document::projectChanged, &Document::lookingChanged, &Document::findingsChanged, &Document::fileChanged})
    connect(&document_, signal, this, &MainWindow::refresh);
  connect(&studies_, &Studies::answerChanged, this, &MainWindow::refresh);
  connect(&studies_, &Studies::answerChanged, this, [this] {
    const auto answer = studies_.current();
    if (answer && answer->quick) return;
    Findings byRays; // the others are found without a run
    const Findings* told = !answer              ? nullptr
                           : answer->lightInput ? &answer->lightInput->findings
                           : answer->facts      ? &answer->facts->findings
                                                : nullptr;
    if (told)
      for (const Finding& f : *told)
        if (f.code.starts_with("glazing.") || f.code == "room.leak" || f.code == "sensors.outside" ||
            f.code == "finish.bright")
          byRays.push_back(f);
    document_.setRunFindings(std::move(byRays));
  });
  connect(&studies_, &Studies::progressChanged, this, &MainWindow::refresh);
  connect(stage_, &Stage::viewChanged, this, &MainWindow::refresh);
  connect(stage_, &Stage::toolChanged, this, &MainWindow::refresh);
  connect(almanac_, &Almanac::seasonChosen, this, [this] {
    // A study without dates of its own follows the season.
    Project p = document_.project();
    for (Study& s : p.studies)
      if (const bool energy =
              s.kind == StudyKind::Irradiation && s.light.sky.kind == SkyKind::Usual && !(s.light.season == Season{});
          s.id == document_.looking().study && (energy || s.sunHours.dates.empty())) {
        (energy ? s.light.season : s.sunHours.season) = document_.looking().season;
        document_.change(std::move(p), "Choose season");
        return;
      }
  });
  refresh();
  almanac_->setFolded(QSettings().value("layout/folded", false).toBool());
  stage_->setFocus();
}

MainWindow::~MainWindow() {
  if (readControl_) readControl_->wish = Wish::Drop;
  if (reading_.joinable()) reading_.join();
}

/// The guide where it tells of what is looked at.
void MainWindow::openHelp() {
  const Study* study = studies_.activeStudy();
  placePanels();
  help_->open(chapterOf(document_.looking().step, study ? study->kind : StudyKind::SunHours));
}

/// The tools make room for a panel that stands where they are.
bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::Show || event->type() == QEvent::Hide) QTimer::singleShot(0, this, &MainWindow::refresh);
  return QMainWindow::eventFilter(watched, event);
}

void MainWindow::say(const QString& text, bool fault) {
  notice_->setText(text);
  const Theme& t = theme();
  notice_->setStyleSheet(QString("background: %1; color: %2; border-radius: 3px; padding: 6px 10px;")
                             .arg((fault    ? t.short_
                                   : t.dark ? QColor("#ECE7DC")
                                            : t.ink)
                                      .name(),
                                  (fault    ? QColor("#FFFFFF")
                                   : t.dark ? QColor("#171A26")
                                            : t.paper)
                                      .name()));
  notice_->setMaximumWidth(std::max(240, stage_->width() - 240));
  notice_->adjustSize();
  placePanels();
  notice_->show();
  notice_->raise();
  if (stage_->tool() == Tool::Select)
    noticeTimer_.start();
  else
    noticeTimer_.stop();
}

void MainWindow::placePanels() {
  if (!stage_ || !first_ || !modelTools_) return;
  modelTools_->move(12, 56);
  notice_->move((stage_->width() - notice_->width()) / 2, 56);
  stopReading_->move((stage_->width() - stopReading_->width()) / 2, 100);
  const QPoint stageAt = stage_->mapTo(this, QPoint(0, 0));
  findings_->setGeometry(std::max(0, width() - 524), 42, std::min(510, width()), std::min(460, height() - 200));
  anything_->setGeometry(stageAt.x() + std::max(0, (stage_->width() - 480) / 2), 46, 480, 380);
  import_->move(stageAt.x() + 20, stageAt.y() + 60);
  tracing_->move(stageAt.x() + 12, stageAt.y() + 44);
  underlay_->move(stageAt.x() + 12, stageAt.y() + 44);
  shade_->move(stageAt.x() + 12, stageAt.y() + 44);
  pictures_->move(stageAt.x() + 12, stageAt.y() + 44);
  proofs_->setGeometry(stageAt.x() + std::max(0, (stage_->width() - 620) / 2), 60, std::min(620, stage_->width()),
                       std::min(500, height() - 200));
  for (Panel* p : {static_cast<Panel*>(runs_), static_cast<Panel*>(readings_), static_cast<Panel*>(shadows_),
                   static_cast<Panel*>(fisheye_), static_cast<Panel*>(receivers_), static_cast<Panel*>(bench_),
                   static_cast<Panel*>(desk_)})
    p->setGeometry(stageAt.x() + 12, stageAt.y() + 44, std::max(400, stage_->width() - 24),
                   std::max(260, stage_->height() - 56));
  for (Panel* p : {static_cast<Panel*>(sweeps_), static_cast<Panel*>(compare_)})
    p->setGeometry(stageAt.x() + 12, stageAt.y() + 44, std::max(400, width() - stageAt.x() - 24),
                   std::max(260, stage_->height() - 56)); // over the sheet: their tables are wide
  shownDesign_->place();
  help_->setGeometry(stageAt.x() + 12, stageAt.y() + 44, std::max(400, stage_->width() - 24),
                     std::max(260, stage_->height() - 56));
  tour_->move(stageAt.x() + 14, stageAt.y() + std::max(50, stage_->height() - tour_->height() - 70));
  first_->adjustSize();
  first_->setFixedWidth(440);
  first_->move(stageAt.x() + (stage_->width() - 440) / 2,
               stageAt.y() + std::max(20, (stage_->height() - first_->height()) / 2));
  dial_->setLarge(dial_->large());
}

void MainWindow::showSecondStage(bool on) {
  if (on) {
    second_->open();
    const int half = stages_->width() / 2;
    stages_->setSizes({half, half});
    stage_->fit();
  } else {
    second_->hide();
    stage_->setFocus();
  }
  beside_->setChecked(on);
  placePanels();
  refresh();
}

/// Of the stage that has the focus.
void MainWindow::viewAs(ViewKind kind) {
  if (second_->isVisible() && second_->stage().hasFocus())
    second_->setView(kind);
  else
    stage_->setView(kind);
}

void MainWindow::refresh() {
  const Project& p = document_.project();
  title_->setText(QString::fromStdString(p.name) + (document_.modified() ? " •" : "") + " ▾");
  const auto study = studies_.current();
  setWindowTitle(
      QString("%1%2 – Noonward%3")
          .arg(QString::fromStdString(p.name), document_.modified() ? " •" : "",
               studies_.busy() ? QString(" · running %1 %").arg(int(100 * studies_.progress())) : QString()));
  units_->setText(QString("%1 · %2").arg(unitSymbol(p.units.length), p.units.light == LightUnit::Lux ? "lx" : "fc"));
  showOptions();
  int serious = 0;
  for (const Finding& f : document_.findings()) serious += f.rank != Rank::WorthKnowing;
  findingsButton_->setText(QString("Findings  %1").arg(document_.findings().size()));
  findingsButton_->setStyleSheet(serious ? QString("color: %1; font-weight: 600;").arg(theme().noonText.name())
                                         : QString());
  const Looking& l = document_.looking();
  if (sheets_->currentIndex() != int(l.step))
    for (Panel* panel : {static_cast<Panel*>(runs_), static_cast<Panel*>(readings_), static_cast<Panel*>(compare_)})
      panel->hide();
  sheets_->setCurrentIndex(int(l.step));
  modelTools_->setVisible(l.step == Step::Model && stage_->tool() == Tool::Select && !import_->isVisible() &&
                          !tracing_->isVisible() && !underlay_->isVisible());
  if (!document_.previewing() || l.step != Step::Site) byStep_[l.step]->refresh();
  QString title = QString::fromStdString(p.site.name), line = QString::fromStdString(placeText(p.site.place));
  for (const Study& s : p.studies)
    if (study && study->painted && s.id == study->study) {
      title = QString::fromStdString(s.name) + " · " + QString(studyName(s.kind)).toLower() +
              (study->state == DesignState::Proposed ? "" : QString(" · ") + designStateName(study->state)) +
              (study->trial ? " · TRIAL, not judged" : "");
      line = s.kind == StudyKind::Year
                 ? QString("%1, hours %2 to %3, %4")
                           .arg(yearMetricName(l.metric), QString::fromStdString(clockText(s.year.beginMinute)),
                                QString::fromStdString(clockText(s.year.endMinute)),
                                QString::fromStdString(blindsText(s.year))) +
                       (study->partial ? " · more rooms on their way" : "")
             : s.kind == StudyKind::SunHours
                 ? QString::fromStdString(settingsText(s.sunHours)) + (study->quick ? " · while dragging by steps" : "")
                 : QString::fromStdString(study->lightInput ? study->lightInput->sky.text : std::string()) +
                       (study->quick     ? " · rough while dragging"
                        : study->partial ? " · refining"
                                         : "");
    }
  if (l.step == Step::Rooms && l.rooms != RoomFigure::None && !p.rooms.empty()) { // in place of the result
    title = "Rooms · " + QString(roomFigureName(l.rooms));
    line = QString::fromStdString(placeText(p.site.place));
  }
  const bool closed = l.step == Step::Rooms && l.rooms == RoomFigure::Facing;
  if (const auto all = storeys(p); all.size() > 1 && l.step != Step::Site && l.step != Step::Model && !closed)
    title += QString(" · storey %1 of %2")
                 .arg(std::find(all.begin(), all.end(), storeyNear(p, l.storey)) - all.begin() + 1)
                 .arg(all.size());
  if (l.onlyRole) title += QString(" · %1 alone").arg(QString(roleName(*l.onlyRole)).toLower());
  if (!l.onlyGlazing.empty()) title += QString(" · %1 alone").arg(QString::fromStdString(l.onlyGlazing));
  stageTitle_->setText(title);
  const bool narrow = stage_->width() < 640;
  stageHead_->setDirection(narrow ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight);
  stageHead_->setStretch(0, narrow ? 0 : 1);
  const QString whole = line + " · shadows " + QString::fromStdString(momentText(p, l.moment));
  stageLine_->setText(stageLine_->fontMetrics().elidedText(
      whole, Qt::ElideRight,
      narrow ? stage_->width() - 30 : std::max(200, stage_->width() - 440))); // the views stand at its right
  stageLine_->setToolTip(whole);
  for (const auto& [kind, button] : views_) button->setChecked(stage_->camera().kind == kind);
  perspective_->setChecked(stage_->camera().perspective);
  perspective_->setEnabled(stage_->camera().kind == ViewKind::Solid);
  action("Undo")->setEnabled(document_.canUndo());
  action("Redo")->setEnabled(document_.canRedo());
}

void MainWindow::showOptions() {
  const Project& p = document_.project();
  QString key = QString::number(p.option);
  for (const Option& o : p.options) key += QString::fromStdString("|" + o.id.text() + o.name);
  if (key == optionsShown_) return;
  optionsShown_ = key;
  while (QLayoutItem* item = options_->takeAt(0)) {
    item->widget()->hide();
    item->widget()->deleteLater();
    delete item;
  }
  for (std::size_t k = 0; k < p.options.size() && k < 5; ++k) {
    const QString name = QString::fromStdString(p.options[k].name);
    auto* b = new QPushButton(
        QString("%1  %2").arg(QLatin1Char(char('A' + char(k)))).arg(name.size() > 18 ? name.left(17) + "…" : name));
    b->setProperty("view", true);
    b->setCheckable(true);
    b->setChecked(k == p.option);
    b->setAccessibleName("Option " + name);
    b->setToolTip(name);
    connect(b, &QPushButton::clicked, this, [this, k] {
      optionsShown_.clear();
      document_.change(withOption(document_.project(), k), "Choose option");
      showOptions();
    });
    options_->addWidget(b);
  }
  auto* more = new QPushButton(p.options.empty() ? "+ option" : "+");
  more->setProperty("plain", true);
  more->setAccessibleName("Another option");
  more->setToolTip("Another option, alike to this one");
  connect(more, &QPushButton::clicked, this, [this] { action("Add an option")->trigger(); });
  options_->addWidget(more);
}

void MainWindow::setDark(bool dark) {
  applyTheme(*qApp, dark ? Theme::darkTheme() : Theme::light());
  QSettings().setValue("dark", dark);
  almanac_->plot()->refresh();
  stage_->setCamera(stage_->camera());
  emit document_.projectChanged();
  for (QWidget* w : findChildren<QWidget*>()) w->update();
}

void MainWindow::resizeEvent(QResizeEvent* e) {
  QMainWindow::resizeEvent(e);
  QTimer::singleShot(0, this, [this] { layOut(); });
}

void MainWindow::goToView(const SavedView& view) {
  const auto camera = cameraFromJson(view.camera);
  if (!camera) return say(QString::fromStdString("The view can't be shown: " + camera.error().text()), true);
  const Project& p = document_.project();
  for (std::size_t k = 0; k < p.options.size(); ++k)
    if (p.options[k].id.text() == view.option && k != p.option) {
      document_.change(withOption(p, k), "Choose option");
      break;
    }
  document_.look([&](Looking& l) {
    if (const auto at = momentOf(view, p.zone())) l.moment = *at;
    for (const Study& s : p.studies)
      if (s.id.text() == view.study) l.study = s.id;
  });
  stage_->setCamera(*camera);
}

void MainWindow::flyToFinding(const Finding& finding) {
  if (finding.at)
    stage_->flyTo(*finding.at);
  else
    stage_->flyTo(finding.elements);
}

void MainWindow::loadModel(const QString& path, const QString& level) {
  if (readControl_) return say("Another model is still being read: stop that first.", true);
  if (reading_.joinable()) reading_.join(); // it has said that it is done
  const QString name = path.section('/', -1);
  say("Reading " + name + "…", false);
  readControl_ = std::make_shared<RunControl>();
  readControl_->progress = [this, name](double share) {
    QMetaObject::invokeMethod(
        this,
        [this, name, share] {
          if (readControl_) say(QString("Reading %1… %2 %").arg(name).arg(100 * share, 0, 'f', 0), false);
        },
        Qt::QueuedConnection);
  };
  QTimer::singleShot(400, this, [this, control = readControl_] {
    if (readControl_ == control) stopReading_->show(), stopReading_->raise();
  });
  reading_ = std::thread([this, path, level, control = readControl_] {
    auto model = std::make_shared<Expected<Model>>(readModel(path.toStdString(), control.get(), {level.toStdString()}));
    QMetaObject::invokeMethod(
        this,
        [this, model, control] {
          readControl_.reset();
          stopReading_->hide();
          if (control->wish.load() == Wish::Drop) return say("Reading was stopped; nothing was imported.", false);
          if (!*model) return say("The model was not imported. " + QString::fromStdString(model->error().text()), true);
          notice_->hide();
          first_->hide();
          document_.look([](Looking& l) { l.step = Step::Model; });
          import_->show(std::shared_ptr<const Model>(model, &**model));
        },
        Qt::QueuedConnection);
  });
}

void MainWindow::layPicture(const QString& path) {
  first_->hide();
  document_.look([](Looking& l) { l.step = Step::Model; });
  underlay_->lay(path);
}

void MainWindow::changeEvent(QEvent* e) {
  QMainWindow::changeEvent(e);
  if (e->type() == QEvent::ActivationChange && isActiveWindow())
    document_.lookAtSources(); // back from the program that drew them
}

void MainWindow::writeModel(const QString& path) {
  const auto format = exportFormatOf(path.toStdString());
  if (!format)
    return say("The ending says the format: .obj, .stl, .dxf, .glb, .json (CityJSON), .geojson or .xml (gbXML).", true);
  say("Writing " + path.section('/', -1) + "…", false);
  document_.inBackground(
      [this, project = document_.project(), path, format = *format]() -> std::function<void(Document&)> {
        const auto model = exportModel(project, format);
        Outcome o;
        if (!model)
          o = tl::unexpected(model.error());
        else
          o = saveFile(path.toStdString(), model->bytes);
        QString text =
            o ? QString("Written: %1, %L2 triangles.").arg(countText(model->elements, "element")).arg(model->triangles)
              : "The model was not written. " + QString::fromStdString(o.error().text());
        for (const std::string& n : model ? model->notes : std::vector<std::string>{})
          text += " " + QString::fromStdString(n);
        return [this, text, fault = !o](Document&) { say(text, fault); };
      });
}

void MainWindow::pickFile(const QString& title, const QString& filter, const std::function<void(const QString&)>& done,
                          const QString& suffix) {
  auto* d = new QFileDialog(this, title, {}, filter);
  d->setAttribute(Qt::WA_DeleteOnClose);
  d->setOption(QFileDialog::DontUseNativeDialog);
  d->setAcceptMode(suffix.isEmpty() ? QFileDialog::AcceptOpen : QFileDialog::AcceptSave);
  d->setFileMode(suffix.isEmpty() ? QFileDialog::ExistingFile : QFileDialog::AnyFile);
  if (!suffix.isEmpty()) d->setDefaultSuffix(suffix);
  if (!document_.path().empty()) d->setDirectory(QString::fromStdString(document_.path().parent_path().string()));
  connect(d, &QFileDialog::fileSelected, this, [done](const QString& f) { done(f); });
  d->open();
}

} // namespace noonward
