#include "app/panels/measuring_desk.h"
#include "app/theme/style.h"
#include "app/theme/table_fill.h"
#include "core/base/units.h"
#include "core/files/save_file.h"
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QRegularExpression>
#include <QVBoxLayout>

namespace noonward {

namespace {
constexpr std::array<const char*, 3> clockKeys{"standard", "local", "utc"};

std::optional<int> dayOf(const QString& text) {
  auto date = dateFromText(text.trimmed().toStdString());
  if (!date) date = dateFromText(text.trimmed().toStdString() + " 2025");
  if (!date || (date->month == 2 && date->day == 29)) return {};
  return dayOfYear({2025, date->month, date->day}) - 1;
}
} // namespace

MeasuringDesk::MeasuringDesk(Document& document, QWidget* parent) : Panel(parent), document_(document) {
  setAccessibleName("Measuring desk panel");
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(18, 10, 18, 12);
  all->setSpacing(6);
  auto* head = new QHBoxLayout;
  head->setSpacing(8);
  all->addLayout(head);
  head->addWidget(words("Measuring desk", titleFont(17), false));
  head->addStretch();
  auto* top = new QHBoxLayout;
  top->setSpacing(8);
  all->addLayout(top);
  top->addWidget(textButton("A logger's file …", "CSV, TSV or XLSX with columns called as the sensors of a grid",
                            [this] { emit fileWanted("in"); }));
  fileText_ = words("No file yet.", textFont(12), true, false);
  fileText_->setAccessibleName("File of the desk");
  top->addWidget(fileText_, 1);
  const auto put = [&](QHBoxLayout* row, const QString& label, QWidget* w, const QString& name, const QString& help,
                       int width) {
    auto* l = words(label, textFont(12), true, false);
    l->setToolTip(help);
    w->setToolTip(help);
    w->setAccessibleName(name);
    w->setAccessibleDescription(help);
    if (width > 0) w->setFixedWidth(width);
    row->addWidget(l);
    row->addWidget(w);
  };
  put(head, "kept as", kept_ = new QComboBox, "Kept series",
      "Series of the project: choose one to take it up again, or type a name and keep what is asked here under it",
      150);
  kept_->setEditable(true);
  kept_->setInsertPolicy(QComboBox::NoInsert);
  kept_->lineEdit()->setAccessibleName("Name of the series");
  kept_->lineEdit()->setAccessibleDescription("Under this name the project keeps what is asked here");
  kept_->lineEdit()->setPlaceholderText("not kept");
  kept_->setCurrentText("");
  connect(kept_, &QComboBox::activated, this, [this] { takeKept(kept_->currentText()); });
  keep_ =
      textButton("Keep", "The project keeps the file's name, how it is read and what is asked; the record can tell it",
                 [this] { keep(kept_->currentText()); });
  keep_->setAccessibleName("Keep the series in the project");
  head->addWidget(keep_);
  put(top, "against", study_ = new QComboBox, "Study measured against",
      "A daylight year of the project: its blinds and its error count", 190);
  guidelines_ = readGuidelines(document_.resources() / "guidelines");
  put(top, "judged by", guideline_ = new QComboBox, "Guideline of agreement",
      "Thresholds that agreement is judged by; files in resources/guidelines, to be copied and edited", 150);
  guideline_->addItem("nothing");
  for (const AgreementGuideline& g : guidelines_) guideline_->addItem(QString::fromStdString(g.name));
  connect(guideline_, &QComboBox::activated, this, &MeasuringDesk::judge);
  auto* second = new QHBoxLayout;
  second->setSpacing(8);
  all->addLayout(second);
  put(second, "From", from_ = new QLineEdit("1 Jan"), "First day compared", "First day of the stretch, such as 1 May",
      64);
  put(second, "to", to_ = new QLineEdit("31 Dec"), "Last day compared", "Last day of the stretch", 64);
  put(second, "hours", hours_ = new QLineEdit("0-24"), "Hours compared",
      "Hours of the day, standard time of the weather, such as 8-18; hours with the sun down never count", 60);
  put(second, "stamps keep", clock_ = new QComboBox, "Clock of the logger",
      "Which clock the file's times were written by", 118);
  clock_->addItems({"standard time", "local clock", "UTC"});
  put(second, "moved by, min", slip_ = new QLineEdit("0"), "Slip of the logger", "Minutes added to every stamp", 52);
  reflectances_ = new QCheckBox("try reflectances");
  reflectances_->setAccessibleName("Try reflectances");
  reflectances_->setToolTip(
      "Computes a second year with surfaces a fifth darker, to tell which reflectance would agree best");
  second->addWidget(reflectances_);
  second->addStretch();

  figures_ = words("", textFont(13), false);
  figures_->setAccessibleName("Agreement");
  all->addWidget(figures_);
  verdict_ = words("", textFont(13, true), false);
  verdict_->setAccessibleName("Verdict on the agreement");
  verdict_->hide();
  all->addWidget(verdict_);
  auto* both = new QHBoxLayout;
  both->setSpacing(18);
  all->addLayout(both, 1);
  table_ = new QTableWidget(0, 7);
  table_->setAccessibleName("Sensors compared");
  table_->setHorizontalHeaderLabels({"Sensor", "n", "measured", "computed", "NMBE %", "CV %", "R²"});
  table_->verticalHeader()->hide();
  table_->setShowGrid(false);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->verticalHeader()->setDefaultSectionSize(22);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  table_->horizontalHeader()->setMinimumSectionSize(36);
  table_->setMinimumWidth(446);
  both->addWidget(table_, 4);
  connect(table_, &QTableWidget::itemSelectionChanged, this, &MeasuringDesk::showPlot);
  auto* right = new QVBoxLayout;
  both->addLayout(right, 5);
  auto* show = new QHBoxLayout;
  right->addLayout(show);
  put(show, "Shown", way_ = new QComboBox, "Plot of the desk",
      "Both curves from the day of the Almanac on; one against the other; their difference by day and hour; how large "
      "it is how often",
      190);
  way_->addItems({"both, a week", "one against the other", "difference, day by hour", "how often how far apart"});
  show->addStretch();
  connect(way_, &QComboBox::activated, this, &MeasuringDesk::showPlot);
  right->addWidget(plot_ = new MeasuredPlot, 1);
  all->addWidget(words("What would bring them nearer; nothing of it is applied", textFont(12, true), false));
  suggestions_ = words("", textFont(12), false);
  suggestions_->setAccessibleName("What would bring them nearer");
  all->addWidget(suggestions_);
  auto* foot = new QHBoxLayout;
  state_ = words("", textFont(12), true);
  state_->setAccessibleName("State of the desk");
  foot->addWidget(state_, 1);
  stop_ = textButton("Stop", "Ends the run", [this] {
    if (control_) control_->wish = Wish::Drop;
  });
  stop_->setAccessibleName("Stop the desk");
  stop_->hide();
  foot->addWidget(stop_);
  save_ = textButton("Save the hours …", "CSV: every hour, measured and computed", [this] { emit fileWanted("out"); });
  save_->setEnabled(false);
  foot->addWidget(save_);
  foot->addWidget(textButton("Close", "Escape closes too", [this] { hide(); }));
  all->addLayout(foot);
  asking_.setSingleShot(true);
  asking_.setInterval(300);
  connect(&asking_, &QTimer::timeout, this, &MeasuringDesk::ask);
  const auto soon = [this] {
    if (!files_.empty()) asking_.start();
  };
  connect(study_, &QComboBox::activated, this, soon);
  connect(clock_, &QComboBox::activated, this, soon);
  connect(reflectances_, &QCheckBox::toggled, this, soon);
  for (QLineEdit* f : {from_, to_, hours_, slip_}) connect(f, &QLineEdit::editingFinished, this, soon);
  connect(&document_, &Document::projectChanged, this, [this] {
    if (isVisible()) fillKept();
  });
  connect(&document_, &Document::lookingChanged, this, [this] {
    if (isVisible()) showPlot();
  });
  connect(&watch_, &QFileSystemWatcher::fileChanged, this, [this](const QString& path) {
    if (!watch_.files().contains(path) && QFile::exists(path)) watch_.addPath(path);
    if (isVisible()) asking_.start();
  });
  hide();
}

void MeasuringDesk::say(const QString& text) {
  state_->setText(text);
}

void MeasuringDesk::open() {
  const QString before = study_->currentText();
  study_->clear();
  for (const Study& s : document_.project().studies)
    if (s.kind == StudyKind::Year) study_->addItem(QString::fromStdString(s.name));
  if (study_->count() == 0) study_->addItem("every grid, as a daylight year");
  if (const int at = study_->findText(before); at >= 0) study_->setCurrentIndex(at);
  fillKept();
  show();
  raise();
  setFocus();
}

void MeasuringDesk::takeFile(const QString& path) {
  map_ = {};
  kept_->setCurrentText("");
  takeFiles({std::filesystem::path(path.toStdString())});
}

void MeasuringDesk::takeFiles(std::vector<std::filesystem::path> files) {
  for (const auto& file : files_) watch_.removePath(QString::fromStdString(file.string()));
  files_ = std::move(files);
  QStringList names;
  for (const auto& file : files_) {
    watch_.addPath(QString::fromStdString(file.string()));
    names << QString::fromStdString(file.filename().string());
  }
  fileText_->setText(names.join(", "));
  open();
  ask();
}

void MeasuringDesk::fillKept() {
  const QString now = kept_->currentText();
  kept_->clear();
  for (const MeasuredSeries& s : document_.project().measured) kept_->addItem(QString::fromStdString(s.name));
  kept_->setCurrentIndex(kept_->findText(now)); // none where it is not kept: the first can then be chosen by keys too
  kept_->setCurrentText(now);
}

void MeasuringDesk::takeKept(const QString& name) {
  const auto& all = document_.project().measured;
  const auto at =
      std::find_if(all.begin(), all.end(), [&](const MeasuredSeries& s) { return s.name == name.toStdString(); });
  if (at == all.end()) return say("The project keeps no series of that name.");
  const auto asked = wishOf(*at);
  if (!asked) return say(QString::fromStdString(asked.error().text()));
  map_ = asked->map;
  const auto day = [](int n) { return QString::fromStdString(dayText(plusDays({2025, 1, 1}, n))); };
  from_->setText(day(asked->stretch.firstDay));
  to_->setText(day(asked->stretch.lastDay));
  hours_->setText(QString("%1-%2").arg(asked->stretch.firstHour).arg(asked->stretch.lastHour));
  slip_->setText(QString::number(map_.slip));
  for (std::size_t k = 0; k < clockKeys.size(); ++k)
    if (map_.clock == clockKeys[k]) clock_->setCurrentIndex(int(k));
  for (std::size_t k = 0; k < guidelines_.size(); ++k)
    if (guidelines_[k].key == at->guideline) guideline_->setCurrentIndex(int(k) + 1);
  if (at->guideline.empty()) guideline_->setCurrentIndex(0);
  for (const Study& s : document_.project().studies)
    if (s.id.text() == at->study) study_->setCurrentText(QString::fromStdString(s.name));
  takeFiles(asked->files);
  kept_->setCurrentText(name);
}

void MeasuringDesk::keep(const QString& name) {
  const std::string called = name.trimmed().toStdString();
  if (files_.empty()) return say("There is no file to keep yet.");
  if (called.empty()) return say("Type a name to keep it under.");
  const auto asked = wish();
  if (!asked) return say(QString::fromStdString(asked.error().text()));
  const Project& p = document_.project();
  StudyId study;
  for (const Study& x : p.studies)
    if (x.kind == StudyKind::Year && x.name == study_->currentText().toStdString()) study = x.id;
  const int g = guideline_->currentIndex();
  document_.change(
      withSeries(p, seriesOf(*asked, called, study, g > 0 ? guidelines_[std::size_t(g - 1)].key : std::string())),
      "Keep a measured series");
  kept_->setCurrentText(name.trimmed());
  say("Kept; the record tells it.");
}

Expected<MeasuringWish> MeasuringDesk::wish() const {
  MeasuringWish wish;
  wish.files = files_;
  wish.map = map_;
  wish.map.clock = clockKeys[std::size_t(clock_->currentIndex())];
  wish.reflectances = reflectances_->isChecked();
  const auto from = dayOf(from_->text()), to = dayOf(to_->text());
  if (!from || !to) return fail("Days such as 1 May are expected.");
  wish.stretch.firstDay = *from;
  wish.stretch.lastDay = *to;
  const QStringList hours = hours_->text().split(QRegularExpression("[-–]"));
  const auto first = numberFromText(hours.value(0).toStdString()), last = numberFromText(hours.value(1).toStdString());
  if (hours.size() != 2 || !first || !last || *first < 0 || *last > 24 || *first >= *last)
    return fail("Hours such as 8-18 are expected.");
  wish.stretch.firstHour = *first;
  wish.stretch.lastHour = *last;
  const auto slip = numberFromText(slip_->text().toStdString());
  if (!slip || std::abs(*slip) > 1440) return fail("Minutes from −1440 to 1440 are expected for the stamps.");
  wish.map.slip = *slip;
  return wish;
}

void MeasuringDesk::ask() {
  if (files_.empty()) return;
  if (busy_) {
    again_ = true;
    if (control_) control_->wish = Wish::Drop;
    return;
  }
  const auto wrong = [this](const QString& text) {
    say(text);
    emit measured();
  };
  const auto asked = wish();
  if (!asked) return wrong(QString::fromStdString(asked.error().text()));
  const Project& p = document_.project();
  const bool any =
      std::any_of(p.studies.begin(), p.studies.end(), [](const Study& s) { return s.kind == StudyKind::Year; });
  const auto study = studyForMeasuring(p, any ? study_->currentText().toStdString() : std::string());
  if (!study) return wrong(QString::fromStdString(study.error().text()));
  busy_ = true;
  stop_->show();
  say("reading …");
  control_ = std::make_shared<RunControl>();
  control_->progress = [this](double share) {
    QMetaObject::invokeMethod(this, [this, share] {
      if (busy_) say(QString(share < 0.2 ? "reading … %1 %" : "computing … %1 %").arg(int(100 * share)));
    });
  };
  document_.inBackground([this, wish = *asked, control = control_, study = *study,
                          project = std::make_shared<const Project>(p)]() -> std::function<void(Document&)> {
    auto done = std::make_shared<Expected<Measuring>>(measureAgainst(*project, study, wish, *control));
    return [this, done](Document&) {
      busy_ = false;
      stop_->hide();
      if (*done) {
        measuring_ = std::make_shared<const Measuring>(std::move(**done));
        say("");
      } else {
        measuring_.reset();
        say(QString::fromStdString(done->error().text()));
      }
      fill();
      emit measured();
      if (std::exchange(again_, false)) ask();
    };
  });
}

void MeasuringDesk::fill() {
  save_->setEnabled(bool(measuring_));
  table_->setRowCount(0);
  figures_->clear();
  judge();
  suggestions_->clear();
  if (!measuring_) return plot_->show(nullptr, 0, MeasuredPlot::Way::Curves, 0);
  const Comparison& c = measuring_->comparison;
  figures_->setText(QString("%L1 hours of %2: MBE %3 %4 (%5 %), RMSE %6 %4 (%7 %), R² %8. By day CV(RMSE) %9 %, by "
                            "month %10 %. Left out: "
                            "%L11 not measured, %L12 with the sun down, %L13 outside the stretch.")
                        .arg(c.hours.n)
                        .arg(c.year)
                        .arg(c.hours.mbe, 0, 'f', 1)
                        .arg(measuring_->unit)
                        .arg(100 * c.hours.nmbe, 0, 'f', 1)
                        .arg(c.hours.rmse, 0, 'f', 1)
                        .arg(100 * c.hours.cvRmse, 0, 'f', 1)
                        .arg(c.hours.r2, 0, 'f', 3)
                        .arg(100 * c.days.cvRmse, 0, 'f', 1)
                        .arg(100 * c.months.cvRmse, 0, 'f', 1)
                        .arg(c.leftOut.notMeasured + c.leftOut.noWeather)
                        .arg(c.leftOut.night)
                        .arg(c.leftOut.outside));
  {
    const TableFill filling(table_);
    for (const ComparedSensor& s : c.sensors) {
      const int row = table_->rowCount();
      table_->insertRow(row);
      const QStringList cells{QString::fromStdString(s.sensor),
                              QString("%L1").arg(s.hours.n),
                              QString::number(s.hours.meanObserved, 'f', 0),
                              QString::number(s.hours.meanModelled, 'f', 0),
                              QString::number(100 * s.hours.nmbe, 'f', 1),
                              QString::number(100 * s.hours.cvRmse, 'f', 1),
                              QString::number(s.hours.r2, 'f', 3)};
      for (int k = 0; k < cells.size(); ++k) {
        auto* item = new QTableWidgetItem(cells[k]);
        item->setFont(k == 0 ? textFont(12) : figureFont(11));
        item->setTextAlignment((k == 0 ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter);
        if (k == 2 || k == 3) item->setToolTip(QString("Mean of the hours that count, %1").arg(measuring_->unit));
        table_->setItem(row, k, item);
      }
    }
  }
  QStringList lines;
  for (const Suggestion& s : c.suggestions)
    if (s.counts) lines << "· " + QString::fromStdString(s.text) + ".";
  if (lines.isEmpty()) lines << "Nothing that was tried counts for more than its noise.";
  for (const Finding& f : measuring_->findings)
    if (f.rank != Rank::WorthKnowing) lines << QString::fromStdString(f.text);
  suggestions_->setText(lines.join("\n"));
  table_->selectRow(0);
  showPlot();
}

void MeasuringDesk::judge() {
  const int at = guideline_->currentIndex() - 1;
  verdict_->setVisible(measuring_ && at >= 0);
  if (!measuring_ || at < 0) return;
  const AgreementGuideline& g = guidelines_[std::size_t(at)];
  const AgreementVerdict v = judgeAgreement(measuring_->comparison, g);
  verdict_->setText((v.meets ? "✓ " : "× ") + QString::fromStdString(v.text) + ".");
  verdict_->setToolTip(QString::fromStdString(g.source));
  QPalette colours = verdict_->palette();
  colours.setColor(QPalette::WindowText, v.meets ? theme().meets : theme().short_);
  verdict_->setPalette(colours);
}

void MeasuringDesk::showPlot() {
  const int day = dayOfYear([&] {
                    Date d = document_.project().zone().clock(document_.looking().moment).date;
                    d.year = 2025;
                    if (d.month == 2 && d.day == 29) d.day = 28;
                    return d;
                  }()) -
                  1;
  plot_->show(measuring_, std::size_t(std::max(0, table_->currentRow())), MeasuredPlot::Way(way_->currentIndex()), day);
}

void MeasuringDesk::saveTo(const QString& path) {
  if (!measuring_) return say("There is nothing to save yet.");
  writer_.start([file = std::filesystem::path(path.toStdString()),
                 m = measuring_](RunControl&) -> Outcome { return saveFile(file, measuringCsv(*m)); },
                [this, path](const Outcome& done) {
                  const QString says =
                      done ? "Saved " + path + "." : "Not saved. " + QString::fromStdString(done.error().text());
                  say(says);
                  emit document_.notice(says, !done);
                });
}

} // namespace noonward
