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

MainWindow::MainWindow(const std::filesystem::path& resources) : document_(resources), studies_(document_) {
  setWindowTitle("Noonward");
  // 1280 × 800 with its frame, where the screen is no larger.
  const QSize room = screen() ? screen()->availableSize() : QSize(1280, 800);
  resize(std::min(1280, room.width()), std::min(800, room.height()));
  if (room.width() <= 1280 || room.height() <= 830) setWindowState(Qt::WindowMaximized);
  buildFrame();
  buildActions();
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
  connect(almanac_, &Almanac::seasonChosen, this, [this] {
    // A study without dates of its own follows the season.
    Project p = document_.project();
    for (Study& s : p.studies)
      if (s.id == document_.looking().study && s.sunHours.dates.empty()) {
        s.sunHours.season = document_.looking().season;
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
  across_->addWidget(stage_);
  middle->addWidget(across_, 1);

  // Over the stage: what is shown, and from where.
  auto* head = new QVBoxLayout(stage_);
  head->setContentsMargins(14, 9, 14, 8);
  head->setSpacing(0);
  auto* line = new QHBoxLayout;
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
    line->addWidget(b, 0, Qt::AlignTop);
    connect(b, &QPushButton::clicked, this, [this, kind] { stage_->setView(kind); });
  };
  line->setSpacing(2);
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
  line->addWidget(perspective_, 0, Qt::AlignTop);
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
  byStep_[Step::Rooms] = new RoomsSheet(document_, *stage_);
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
  proofs_ = new ProofPanel(this);
  help_ = new HelpPanel(this, document_.resources().parent_path() / "docs", [this] { return actions(); });
  tour_ = new TourPanel(this, document_);
  connect(tour_, &TourPanel::placed, this, &MainWindow::placePanels);
  for (const auto& [step, sheet] : byStep_) connect(sheet, &Sheet::helpWanted, this, &MainWindow::openHelp);
  runs_ = new RunsPanel(document_, studies_, this);
  readings_ = new ReadingsPanel(document_, studies_, this);
  compare_ = new ComparePanel(document_, studies_, this);
  connect(studies, &StudiesSheet::runsWanted, this, [this] { openPanel(runs_); });
  connect(studies, &StudiesSheet::robustnessWanted, this, [this] { openPanel(readings_); });
  connect(options, &OptionsSheet::compareWanted, this, [this] { openPanel(compare_); });
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
    p.units = p.units == LengthUnit::Metre ? LengthUnit::Foot : LengthUnit::Metre;
    document_.change(std::move(p), "Choose units");
  });
  connect(site_, &SiteSheet::weatherWanted, this, [this] { action("Load a weather file")->trigger(); });
  connect(model_, &ModelSheet::traceWanted, this, [this] { action("Trace a simplified model")->trigger(); });
  connect(model_, &ModelSheet::pictureWanted, this, [this] { action("Lay a picture to trace over")->trigger(); });
  connect(model_, &ModelSheet::adjustWanted, underlay_, &UnderlayPanel::adjust);
  connect(model_, &ModelSheet::importWanted, this, [this] { action("Import a model")->trigger(); });
  connect(record_, &RecordSheet::fileWanted, this, [this](const QString& kind) {
    if (kind == "verify")
      return pickFile("Check a record", "Records (record.json)",
                      [this](const QString& f) { record_->exportTo("verify", f); });
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

/// The guide where it tells of what is looked at.
void MainWindow::openHelp() {
  const Study* study = studies_.activeStudy();
  placePanels();
  help_->open(chapterOf(document_.looking().step, study ? study->kind : StudyKind::SunHours));
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
  if (!stage_ || !first_) return;
  notice_->move((stage_->width() - notice_->width()) / 2, 56);
  stopReading_->move((stage_->width() - stopReading_->width()) / 2, 100);
  const QPoint stageAt = stage_->mapTo(this, QPoint(0, 0));
  findings_->setGeometry(std::max(0, width() - 524), 42, std::min(510, width()), std::min(460, height() - 200));
  anything_->setGeometry(stageAt.x() + std::max(0, (stage_->width() - 480) / 2), 46, 480, 380);
  import_->move(stageAt.x() + 20, stageAt.y() + 60);
  tracing_->move(stageAt.x() + 12, stageAt.y() + 44);
  underlay_->move(stageAt.x() + 12, stageAt.y() + 44);
  proofs_->setGeometry(stageAt.x() + std::max(0, (stage_->width() - 620) / 2), 60, std::min(620, stage_->width()),
                       std::min(500, height() - 200));
  for (Panel* p : {static_cast<Panel*>(runs_), static_cast<Panel*>(readings_), static_cast<Panel*>(compare_)})
    p->setGeometry(stageAt.x() + 12, stageAt.y() + 44, std::max(400, stage_->width() - 24),
                   std::max(260, stage_->height() - 56));
  help_->setGeometry(stageAt.x() + 12, stageAt.y() + 44, std::max(400, stage_->width() - 24),
                     std::max(260, stage_->height() - 56));
  tour_->move(stageAt.x() + 14, stageAt.y() + std::max(50, stage_->height() - tour_->height() - 70));
  first_->adjustSize();
  first_->setFixedWidth(440);
  first_->move(stageAt.x() + (stage_->width() - 440) / 2,
               stageAt.y() + std::max(20, (stage_->height() - first_->height()) / 2));
  dial_->setLarge(dial_->large());
}

void MainWindow::refresh() {
  const Project& p = document_.project();
  title_->setText(QString::fromStdString(p.name) + (document_.modified() ? " •" : "") + " ▾");
  const auto study = studies_.current();
  setWindowTitle(
      QString("%1%2 – Noonward%3")
          .arg(QString::fromStdString(p.name), document_.modified() ? " •" : "",
               studies_.busy() ? QString(" · running %1 %").arg(int(100 * studies_.progress())) : QString()));
  units_->setText(unitName(p.units));
  showOptions();
  int serious = 0;
  for (const Finding& f : document_.findings()) serious += f.rank != Rank::WorthKnowing;
  findingsButton_->setText(QString("Findings  %1").arg(document_.findings().size()));
  findingsButton_->setStyleSheet(serious ? QString("color: %1; font-weight: 600;").arg(theme().noon.name())
                                         : QString());
  const Looking& l = document_.looking();
  if (sheets_->currentIndex() != int(l.step))
    for (Panel* panel : {static_cast<Panel*>(runs_), static_cast<Panel*>(readings_), static_cast<Panel*>(compare_)})
      panel->hide();
  sheets_->setCurrentIndex(int(l.step));
  if (!document_.previewing() || l.step != Step::Site) byStep_[l.step]->refresh();
  QString title = QString::fromStdString(p.site.name), line = QString::fromStdString(placeText(p.site.place));
  for (const Study& s : p.studies)
    if (study && study->painted && s.id == study->study) {
      title = QString::fromStdString(s.name) + " · " + QString(studyName(s.kind)).toLower() +
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
  if (const auto all = storeys(p); all.size() > 1 && l.step != Step::Site && l.step != Step::Model)
    title += QString(" · storey %1 of %2")
                 .arg(std::find(all.begin(), all.end(), storeyNear(p, l.storey)) - all.begin() + 1)
                 .arg(all.size());
  if (l.onlyRole) title += QString(" · %1 alone").arg(QString(roleName(*l.onlyRole)).toLower());
  if (!l.onlyGlazing.empty()) title += QString(" · %1 alone").arg(QString::fromStdString(l.onlyGlazing));
  stageTitle_->setText(title);
  const QString whole = line + " · shadows " + QString::fromStdString(momentText(p, l.moment));
  stageLine_->setText(stageLine_->fontMetrics().elidedText(
      whole, Qt::ElideRight, std::max(200, stage_->width() - 420))); // the views stand at its right
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
          if (control->wish.load() == Wish::Drop) return say("Reading was stopped; nothing was brought in.", false);
          if (!*model)
            return say("The model was not brought in. " + QString::fromStdString(model->error().text()), true);
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
