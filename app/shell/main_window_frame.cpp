// What the window is made of and where it stands; main_window.cpp tells what it does.

#include "app/shell/main_window.h"
#include "app/theme/style.h"
#include "core/base/hash.h"
#include "core/files/meshes/model_export.h"
#include "core/files/project/design_json.h"
#include "picture/opened_rooms.h"
#include "picture/picture_export.h"
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

namespace {
/// The strip along the top, with a rule below.
class TopBar : public QWidget {
public:
  TopBar() { setFixedHeight(41); }

protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.fillRect(rect(), theme().paper);
    p.setPen(theme().rule);
    p.drawLine(0, height() - 1, width(), height() - 1);
  }
};
class SheetHost : public QWidget {
protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.fillRect(rect(), theme().paper);
    p.setPen(theme().rule);
    p.drawLine(0, 0, 0, height());
  }
};
} // namespace

void MainWindow::buildFrame() {
  auto* all = new QWidget;
  auto* down = new QVBoxLayout(all);
  down->setContentsMargins(0, 0, 0, 0);
  down->setSpacing(0);

  auto* top = new TopBar;
  auto* bar = new QHBoxLayout(top);
  bar->setContentsMargins(12, 0, 12, 0);
  bar->setSpacing(8);
  title_ = new QPushButton;
  title_->setProperty("plain", true);
  title_->setAccessibleName("Project menu");
  title_->setStyleSheet("font-family: Vollkorn; font-size: 17px; font-weight: 600; text-align: left;");
  bar->addWidget(title_);
  bar->addSpacing(14);
  options_ = new QHBoxLayout;
  options_->setSpacing(4);
  bar->addLayout(options_);
  bar->addStretch(1);
  auto* search = new QPushButton("Do anything…      Ctrl+K");
  search->setAccessibleName("Do anything");
  search->setMinimumWidth(230);
  search->setStyleSheet(QString("text-align: left; color: %1;").arg(theme().muted.name()));
  bar->addWidget(search);
  bar->addSpacing(10);
  units_ = new QPushButton;
  units_->setProperty("plain", true);
  units_->setAccessibleName("Units");
  units_->setToolTip("Metres and lux, or feet, inches and foot-candles; others in the Site step");
  bar->addWidget(units_);
  findingsButton_ = new QPushButton;
  findingsButton_->setProperty("plain", true);
  findingsButton_->setAccessibleName("Findings");
  bar->addWidget(findingsButton_);
  auto* dark = new QPushButton("◐");
  dark->setProperty("plain", true);
  dark->setAccessibleName("Theme");
  dark->setToolTip("Light or dark");
  bar->addWidget(dark);
  down->addWidget(top);

  auto* middleWidget = new QWidget;
  auto* middle = new QHBoxLayout(middleWidget);
  middle->setContentsMargins(0, 0, 0, 0);
  middle->setSpacing(0);
  across_ = new QSplitter(Qt::Horizontal);
  path_ = new PathBar(document_, studies_);
  middle->addWidget(path_);
  stage_ = new Stage(document_, studies_);
  stages_ = new QSplitter(Qt::Horizontal);
  stages_->setChildrenCollapsible(false);
  stages_->setHandleWidth(3);
  stages_->addWidget(stage_);
  second_ = new SecondStage(document_, studies_, *stage_);
  stages_->addWidget(second_);
  across_->addWidget(stages_);
  middle->addWidget(across_, 1);

  // Over the stage: what is shown, and from where.
  auto* head = new QVBoxLayout(stage_);
  head->setContentsMargins(14, 9, 14, 8);
  head->setSpacing(0);
  auto* line = stageHead_ = new QBoxLayout(QBoxLayout::LeftToRight);
  auto* buttons = new QHBoxLayout;
  auto* names = new QVBoxLayout;
  names->setSpacing(1);
  stageTitle_ = new QLabel;
  stageTitle_->setFont(textFont(13, true));
  stageTitle_->setAccessibleName("Shown");
  stageLine_ = new QLabel;
  stageLine_->setFont(textFont(11.5));
  stageLine_->setProperty("quiet", true);
  for (QLabel* l : {stageTitle_, stageLine_}) {
    l->setProperty("caption", true); // stays readable over whatever the view shows
    names->addWidget(l, 0, Qt::AlignLeft);
  }
  line->addLayout(names, 1);
  const auto view = [&](const QString& text, ViewKind kind) {
    auto* b = new QPushButton(text);
    b->setProperty("view", true);
    b->setCheckable(true);
    b->setAccessibleName("View " + text);
    views_[kind] = b;
    buttons->addWidget(b, 0, Qt::AlignTop);
    connect(b, &QPushButton::clicked, this, [this, kind] { stage_->setView(kind); });
  };
  line->setSpacing(2);
  buttons->setSpacing(2);
  view("Solid", ViewKind::Solid);
  view("Plan", ViewKind::Plan);
  view("Facade", ViewKind::Facade);
  view("From the sun", ViewKind::FromSun);
  view("Section", ViewKind::Section);
  perspective_ = new QPushButton("∠");
  perspective_->setProperty("view", true);
  perspective_->setCheckable(true);
  perspective_->setAccessibleName("Perspective");
  perspective_->setToolTip("Perspective or parallel");
  buttons->addWidget(perspective_, 0, Qt::AlignTop);
  beside_ = new QPushButton("◫");
  beside_->setProperty("view", true);
  beside_->setCheckable(true);
  beside_->setAccessibleName("Two stages");
  beside_->setToolTip("A second stage: another option, another moment, plan beside solid (Ctrl+7)");
  buttons->addWidget(beside_, 0, Qt::AlignTop);
  line->addLayout(buttons);
  connect(beside_, &QPushButton::clicked, this, &MainWindow::showSecondStage);
  connect(second_, &SecondStage::closed, this, [this] { showSecondStage(false); });
  connect(&second_->stage(), &Stage::said, this, [this](const QString& t) { say(t, false); });
  connect(perspective_, &QPushButton::clicked, this, [this](bool on) { stage_->setPerspective(on); });
  head->addLayout(line);
  head->addStretch();
  for (QLabel* l : {stageTitle_, stageLine_}) l->setAttribute(Qt::WA_TransparentForMouseEvents);

  notice_ = new QLabel(stage_);
  notice_->setAccessibleName("Notice");
  notice_->setWordWrap(true);
  notice_->hide();
  stopReading_ = new QPushButton("Stop reading", stage_);
  stopReading_->setAccessibleName("Stop reading");
  stopReading_->adjustSize();
  stopReading_->hide();
  connect(stopReading_, &QPushButton::clicked, this, [this] {
    if (readControl_) readControl_->wish = Wish::Drop;
  });
  dial_ = new SkylineDial(document_, studies_, stage_);

  auto* host = new SheetHost;
  host->setMinimumWidth(300);
  auto* hostLayout = new QVBoxLayout(host);
  hostLayout->setContentsMargins(1, 0, 0, 0);
  sheets_ = new QStackedWidget;
  hostLayout->addWidget(sheets_);
  across_->addWidget(host);
  almanac_ = new Almanac(document_, studies_);
  upright_ = new QSplitter(Qt::Vertical);
  upright_->addWidget(middleWidget);
  upright_->addWidget(almanac_);
  for (QSplitter* s : {across_, upright_}) {
    s->setChildrenCollapsible(false);
    s->setHandleWidth(3);
    s->setStretchFactor(0, 1);
    s->setStretchFactor(1, 0);
    connect(s, &QSplitter::splitterMoved, this, [this] {
      QSettings().setValue("layout/across", across_->sizes().value(1));
      if (!almanac_->folded()) QSettings().setValue("layout/almanac", upright_->sizes().value(1));
      placePanels();
    });
  }
  down->addWidget(upright_, 1);
  connect(almanac_, &Almanac::foldedChanged, this, [this](bool folded) {
    QSettings().setValue("layout/folded", folded);
    layOut();
  });
  setCentralWidget(all);

  byStep_[Step::Site] = site_ = new SiteSheet(document_);
  byStep_[Step::Model] = model_ = new ModelSheet(document_, *stage_);
  byStep_[Step::Finishes] = new FinishesSheet(document_);
  auto* rooms = new RoomsSheet(document_, *stage_);
  byStep_[Step::Rooms] = rooms;
  auto* studies = new StudiesSheet(document_, studies_, *stage_);
  byStep_[Step::Studies] = studies;
  auto* options = new OptionsSheet(document_, studies_);
  byStep_[Step::Options] = options;
  byStep_[Step::Record] = record_ = new RecordSheet(document_, studies_, *stage_);
  for (Step s : allSteps) {
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setWidget(byStep_[s]);
    sheets_->addWidget(scroll);
  }

  findings_ = new FindingsPanel(document_, this);
  anything_ = new DoAnything(this, [this] { return actions(); });
  import_ = new ImportPanel(document_, this);
  connect(import_, &ImportPanel::distanceWanted, this, [this] {
    stage_->setTool(Tool::Distance);
    stage_->setFocus();
  });
  connect(import_, &ImportPanel::levelWanted, this,
          [this](const QString& path, const QString& level) { loadModel(path, level); });
  connect(import_, &ImportPanel::previewed, this,
          [this](const std::vector<std::uint64_t>& ids) { stage_->showBeside(ids, import_->width() + 30); });
  connect(stage_, &Stage::distanceMeasured, import_, &ImportPanel::setMeasured);
  tracing_ = new TracePanel(document_, this);
  connect(tracing_, &TracePanel::previewed, this, [this](std::shared_ptr<const Trace> trace, int storey) {
    stage_->setTrace(std::move(trace), storey, tracing_->width() + 20);
  });
  underlay_ = new UnderlayPanel(document_, this);
  connect(underlay_, &UnderlayPanel::spotWanted, this, [this](const QString& text, bool wall) {
    if (wall && stage_->camera().kind != ViewKind::Solid) stage_->setView(ViewKind::Solid);
    if (wall) stage_->fit();
    stage_->setTool(Tool::Spot);
    stage_->setFocus();
    say(text, false);
  });
  connect(underlay_, &UnderlayPanel::planWanted, this, [this](int covered) {
    stage_->setView(ViewKind::Plan);
    stage_->fitAllBeside(covered);
    placePanels();
  });
  connect(underlay_, &UnderlayPanel::wallWanted, stage_, &Stage::faceWall);
  connect(stage_, &Stage::spotPicked, underlay_, &UnderlayPanel::setSpot);
  connect(stage_, &Stage::toolChanged, underlay_, [this] {
    if (stage_->tool() != Tool::Spot) QTimer::singleShot(0, underlay_, &UnderlayPanel::comeBack);
  });
  for (QWidget* panel :
       {static_cast<QWidget*>(import_), static_cast<QWidget*>(tracing_), static_cast<QWidget*>(underlay_)})
    panel->installEventFilter(this);
  shade_ = new ShadePanel(document_, this);
  connect(rooms, &RoomsSheet::designWanted, shade_, &ShadePanel::open);
  connect(rooms, &RoomsSheet::varyWanted, this, [this](RuleId rule) {
    placePanels();
    sweeps_->varyRule(rule);
  });
  connect(rooms, &RoomsSheet::eyeWanted, this, [this] { action("What this eye sees")->trigger(); });
  connect(stage_, &Stage::eyeWanted, this, [this] { action("What this eye sees")->trigger(); });
  connect(shade_, &ShadePanel::spotWanted, this, [this](const QString& text) {
    stage_->setTool(Tool::Spot);
    stage_->setFocus();
    say(text, false);
  });
  connect(stage_, &Stage::spotPicked, shade_, [this](Vec3 place, Vec3 normal) { shade_->setSpot(place, normal); });
  connect(shade_, &ShadePanel::fileWanted, this, [this](const QString& kind) {
    if (kind == "dial")
      pickFile(
          "Save the dial", "Pictures (*.pdf *.svg *.png)", [this](const QString& f) { shade_->exportTo("dial", f); },
          "pdf");
    else
      pickFile(
          "Save the table", "CSV (*.csv)", [this](const QString& f) { shade_->exportTo("report", f); }, "csv");
  });
  pictures_ = new PicturesPanel(
      document_, [this] { return record_->picture(); }, this);
  connect(pictures_, &PicturesPanel::viewWanted, this, &MainWindow::goToView);
  connect(pictures_, &PicturesPanel::fileWanted, this, [this](const QString& kind) {
    const auto then = [this, kind](const QString& f) { pictures_->exportTo(kind, f); };
    if (kind == "sheet")
      pickFile("Save the sheet", "Pages (*.pdf *.png *.svg)", then, "pdf");
    else if (kind == "film")
      pickFile("Save the film", "Films (*.mp4 *.webm)", then, "mp4");
    else
      pickFile("Save pictures into a folder", "Folders (*.pictures)", then, "pictures");
  });
  shadows_ = new ShadowPanel(document_, this);
  connect(shadows_, &ShadowPanel::fileWanted, this, [this] {
    pickFile(
        "Save the shadow plan", "Shadow plans (*.pdf *.svg *.png *.geojson *.dxf *.csv)",
        [this](const QString& f) { shadows_->exportTo(f); }, "pdf");
  });
  bench_ = new WeatherBench(document_, this);
  connect(bench_, &WeatherBench::fileWanted, this, [this](const QString& kind) {
    if (kind == "in")
      pickFile("A station's file", "Tables (*.csv *.tsv *.txt *.dat *.xlsx);;All files (*)",
               [this](const QString& f) { bench_->addFile(f); });
    else
      pickFile(
          "Save the year", "Weather files and tables (*.epw *.csv)", [this](const QString& f) { bench_->saveTo(f); },
          "epw");
  });
  desk_ = new MeasuringDesk(document_, this);
  connect(desk_, &MeasuringDesk::fileWanted, this, [this](const QString& kind) {
    if (kind == "in")
      pickFile("A logger's file", "Tables (*.csv *.tsv *.txt *.dat *.xlsx);;All files (*)",
               [this](const QString& f) { desk_->takeFile(f); });
    else
      pickFile(
          "Save the hours", "CSV (*.csv)", [this](const QString& f) { desk_->saveTo(f); }, "csv");
  });
  sweeps_ = new SweepDesk(document_, this);
  connect(sweeps_, &SweepDesk::fileWanted, this, [this] {
    pickFile(
        "Save the sweep", "Tables and charts (*.csv *.xlsx *.json *.png *.svg *.pdf)",
        [this](const QString& f) { sweeps_->saveTo(f); }, "csv");
  });
  fisheye_ = new FisheyePanel(document_, studies_, this);
  connect(fisheye_, &FisheyePanel::fileWanted, this, [this] {
    pickFile(
        "Save what the eye sees", "Pictures and tables (*.png *.exr *.csv)",
        [this](const QString& f) { fisheye_->exportTo(f); }, "png");
  });
  connect(studies, &StudiesSheet::fisheyeWanted, this, [this] { action("What this eye sees")->trigger(); });
  receivers_ = new ReceiversPanel(document_, studies_, this);
  connect(receivers_, &ReceiversPanel::fileWanted, this, [this](const QString& kind) {
    if (kind == "in")
      pickFile("Receivers from a table", "Tables (*.csv *.txt *.geojson *.json)",
               [this](const QString& f) { receivers_->bring(f); });
    else
      pickFile(
          "Save the receivers", "CSV (*.csv)", [this](const QString& f) { receivers_->exportTo(f); }, "csv");
  });
  connect(studies, &StudiesSheet::receiversWanted, this, [this] { action("Receivers")->trigger(); });
  connect(studies, &StudiesSheet::shadowsWanted, this, [this] { action("Shadow plan")->trigger(); });
  connect(record_, &RecordSheet::picturesWanted, this, [this] { action("Views, sheets and films")->trigger(); });
  proofs_ = new ProofPanel(this);
  help_ = new HelpPanel(this, document_.resources().parent_path() / "docs", [this] { return actions(); });
  tour_ = new TourPanel(this, document_);
  connect(tour_, &TourPanel::placed, this, &MainWindow::placePanels);
  for (const auto& [step, sheet] : byStep_) connect(sheet, &Sheet::helpWanted, this, &MainWindow::openHelp);
  runs_ = new RunsPanel(document_, studies_, this);
  readings_ = new ReadingsPanel(document_, studies_, this);
  compare_ = new BesidePanel(document_, this);
  connect(compare_, &BesidePanel::fileWanted, this, [this] {
    pickFile(
        "Save the comparison", "Tables and pictures (*.csv *.xlsx *.png *.svg *.pdf)",
        [this](const QString& f) { compare_->saveTo(f); }, "csv");
  });
  shownDesign_ = new ShownDesign(document_, stage_);
  connect(shownDesign_, &ShownDesign::stepWanted, sweeps_, &SweepDesk::step);
  connect(shownDesign_, &ShownDesign::optionWanted, sweeps_, &SweepDesk::makeOption);
  connect(shownDesign_, &ShownDesign::backWanted, this, [this] {
    document_.dropPreview();
    action("Try many designs")->trigger();
  });
  connect(studies, &StudiesSheet::weightsWanted, this, [this, studies] {
    pickFile("Weights of energy", "Weights (*.json)", [studies](const QString& f) { studies->takeWeights(f); });
  });
  connect(studies, &StudiesSheet::runsWanted, this, [this] { openPanel(runs_); });
  connect(studies, &StudiesSheet::robustnessWanted, this, [this] { openPanel(readings_); });
  connect(options, &OptionsSheet::sweepWanted, this, [this] { action("Try many designs")->trigger(); });
  connect(options, &OptionsSheet::compareWanted, this, [this] { action("Compare options")->trigger(); });
  connect(search, &QPushButton::clicked, anything_, &DoAnything::open);
  connect(findingsButton_, &QPushButton::clicked, this, [this] {
    findings_->setVisible(!findings_->isVisible());
    findings_->refresh();
    placePanels();
    findings_->raise();
  });
  connect(findings_, &FindingsPanel::flyTo, this, &MainWindow::flyToFinding);
  connect(findings_, &FindingsPanel::previewed, this, [this](std::shared_ptr<const MendPreview> preview) {
    const int right = stage_->mapTo(this, QPoint(stage_->width(), 0)).x();
    stage_->setMendPreview(std::move(preview), std::max(0, right - findings_->x()));
  });
  connect(dark, &QPushButton::clicked, this, [this] { setDark(!theme().dark); });
  connect(units_, &QPushButton::clicked, this, [this] {
    Project p = document_.project();
    p.units = p.units.feet() ? DisplayUnits() : DisplayUnits{LengthUnit::FeetInches, LightUnit::FootCandle};
    document_.change(std::move(p), "Choose units");
  });
  connect(site_, &SiteSheet::benchWanted, this, [this] { action("Weather bench")->trigger(); });
  connect(studies, &StudiesSheet::deskWanted, this, [this] { action("Measuring desk")->trigger(); });
  connect(site_, &SiteSheet::againstWanted, this, [this] { action("Lay another year beside")->trigger(); });
  connect(site_, &SiteSheet::weatherWanted, this, [this] { action("Load a weather file")->trigger(); });
  connect(model_, &ModelSheet::adjustWanted, underlay_, &UnderlayPanel::adjust);
  connect(record_, &RecordSheet::fileWanted, this, [this](const QString& kind) {
    if (kind == "verify" || kind == "since")
      return pickFile(kind == "verify" ? "Check a record" : "An earlier record", "Records (record.json)",
                      [this, kind](const QString& f) { record_->exportTo(kind, f); });
    if (kind == "record")
      return pickFile(
          "Make the record", "Folders (*.record)", [this](const QString& f) { record_->exportTo("record", f); },
          "record");
    const QString suffix = kind == "verdict" ? "csv" : kind;
    pickFile(
        "Save " + suffix.toUpper(), suffix.toUpper() + " (*." + suffix + ")",
        [this, kind](const QString& f) { record_->exportTo(kind, f); }, suffix);
  });

  QSettings settings;
  first_ = new FirstPage(this, settings.value("recent").toStringList());
  connect(first_, &FirstPage::demo, this, [this] { openDemo("ropewalk-quay.noonward"); });
  connect(first_, &FirstPage::southernDemo, this, [this] { openDemo("tarrow-green.noonward"); });
  connect(first_, &FirstPage::quarter, this, [this] { openDemo("brevholm-quarter.noonward"); });
  connect(first_, &FirstPage::tour, this, [this] { action("Tour of the demo")->trigger(); });
  connect(first_, &FirstPage::weather, this, [this] { action("Load a weather file")->trigger(); });
  connect(first_, &FirstPage::model, this, [this] { action("Import a model")->trigger(); });
  connect(first_, &FirstPage::empty, first_, &QWidget::hide);
  connect(first_, &FirstPage::file, this, [this](const QString& f) {
    if (mayLeave()) openProject(f.toStdString());
  });
  connect(title_, &QPushButton::clicked, this, [this] {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    for (const char* name : {"New project", "Open a project", "Save", "Save as", "Import a model",
                             "Load a weather file", "Run the proofs"})
      menu->addAction(action(name));
    menu->popup(title_->mapToGlobal(QPoint(0, title_->height())));
  });
}

/// Sheet and Almanac as the user left them, else in proportion to the window.
void MainWindow::layOut() {
  const QSettings kept;
  const int sheet = std::clamp(kept.value("layout/across", std::clamp(width() * 300 / 1280, 300, 420)).toInt(), 300,
                               std::max(300, width() / 2)),
            year = almanac_->folded()
                       ? 40
                       : std::clamp(kept.value("layout/almanac", std::clamp(height() * 166 / 800, 166, 260)).toInt(),
                                    166, std::max(166, height() / 2));
  across_->setSizes({std::max(100, width() - 84 - sheet), sheet});
  upright_->setSizes({std::max(100, height() - 41 - year), year});
  placePanels();
}

} // namespace noonward
