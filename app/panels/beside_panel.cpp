#include "app/panels/beside_panel.h"
#include "app/theme/style.h"
#include "app/theme/table_fill.h"
#include "core/files/save_file.h"
#include "picture/picture_export.h"
#include <QComboBox>
#include <QFileInfo>
#include <QHeaderView>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QTableWidget>
#include <QVBoxLayout>
#include <cmath>

namespace noonward {

namespace {
QString spelled(const std::string& text) {
  return QString::fromStdString(text);
}
} // namespace

BesidePanel::BesidePanel(Document& document, QWidget* parent) : Panel(parent), document_(document) {
  setAccessibleName("Comparison panel");
  build();
  connect(&writer_, &Writer::progressed, this, [this](double share) {
    if (writer_.busy()) state_->setText(QString("running … %1 %").arg(int(100 * share)));
  });
  connect(&writer_, &Writer::changed, this, [this] {
    stop_->setVisible(writer_.busy());
    run_->setEnabled(!writer_.busy());
  });
  connect(&document_, &Document::projectChanged, this, [this] {
    if (isVisible()) refresh();
  });
  connect(&document_, &Document::replaced, this, [this] {
    writer_.stop();
    found_.reset();
    fillFigures();
  });
  connect(&document_, &Document::lookingChanged, this, [this] {
    if (isVisible()) paint();
  });
  hide();
}

void BesidePanel::build() {
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(18, 10, 18, 12);
  all->setSpacing(6);
  auto* top = new QHBoxLayout;
  top->setSpacing(8);
  all->addLayout(top);
  top->addWidget(words("Designs beside each other", titleFont(17), false));
  top->addSpacing(12);
  const auto pick = [&](QComboBox*& box, const QString& label, const QString& name, const QString& help, int width) {
    top->addWidget(words(label, textFont(12), true, false));
    box = new QComboBox;
    box->setAccessibleName(name);
    box->setToolTip(help);
    box->setFixedWidth(width);
    top->addWidget(box);
  };
  pick(study_, "Studies", "Studies laid beside each other",
       "Which figures: of the daylight year, glare and energy; of all studies with all rules laid; or of one study",
       220);
  pick(way_, "Shown", "Shown of the designs",
       "Plans at one scale and one legend; what each has more or less than the first; or a bar for each figure", 110);
  way_->addItems({"plans", "differences", "bars"});
  top->addStretch();
  auto* middle = new QHBoxLayout;
  middle->setSpacing(18);
  all->addLayout(middle, 1);
  auto* left = new QVBoxLayout;
  left->setSpacing(4);
  middle->addLayout(left);
  left->addWidget(words("In this order", textFont(12, true), false, false));
  designs_ = new QListWidget;
  designs_->setAccessibleName("Designs in order");
  designs_->setToolTip("The first is what the others are measured against");
  designs_->setFixedWidth(240);
  designs_->setMaximumHeight(150);
  left->addWidget(designs_);
  auto* moves = new QHBoxLayout;
  moves->setSpacing(4);
  left->addLayout(moves);
  add_ = new QPushButton("Add …");
  add_->setAccessibleName("Add a design");
  add_->setToolTip("An option that is not listed yet; runs of a sweep are added from the desk of many designs");
  add_->setMenu(new QMenu(add_));
  add_->menu()->setAccessibleName("Add a design: offers");
  connect(add_->menu(), &QMenu::aboutToShow, this, &BesidePanel::fillAdd);
  moves->addWidget(add_);
  const auto move = [&](QPushButton*& b, const QString& text, const QString& name, const QString& tip, int by) {
    b = textButton(text, tip, [this, by] {
      const int row = designs_->currentRow();
      edit(
          "Order the designs",
          [&](std::vector<DesignRef>& list) {
            const auto at = std::size_t(row);
            if (row < 0 || at >= list.size()) return;
            if (by == 0)
              list.erase(list.begin() + row);
            else if (row + by >= 0 && row + by < int(list.size()))
              std::swap(list[at], list[std::size_t(row + by)]);
          },
          by == 0 ? std::max(0, row - 1) : row + by);
    });
    b->setAccessibleName(name);
    moves->addWidget(b);
  };
  move(sooner_, "↑", "Design sooner", "One place up", -1);
  move(later_, "↓", "Design later", "One place down", 1);
  move(out_, "Leave out", "Leave the design out", "Out of this list; the option itself stays", 0);
  left->addSpacing(6);
  left->addWidget(words("Inputs that differ from the first", textFont(12, true), false, false));
  auto* scroll = new QScrollArea;
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll->setFixedWidth(240);
  inputs_ = words("", textFont(11.5), true);
  inputs_->setAccessibleName("Inputs that differ");
  inputs_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  scroll->setWidget(inputs_);
  left->addWidget(scroll, 1);
  auto* right = new QVBoxLayout;
  right->setSpacing(6);
  middle->addLayout(right, 1);
  picture_ = new QLabel;
  picture_->setAccessibleName("Plans and difference");
  picture_->setMinimumHeight(150);
  picture_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Ignored);
  picture_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  right->addWidget(picture_, 4);
  table_ = new QTableWidget;
  table_->setAccessibleName("Figures that moved");
  table_->setToolTip("≈: moved by less than twice the standard error of both");
  table_->verticalHeader()->hide();
  table_->verticalHeader()->setDefaultSectionSize(22);
  table_->setShowGrid(false);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setSelectionMode(QAbstractItemView::NoSelection);
  table_->horizontalHeader()->setHighlightSections(false);
  table_->horizontalHeader()->setMinimumSectionSize(30);
  right->addWidget(table_, 3);
  auto* foot = new QHBoxLayout;
  foot->setSpacing(8);
  all->addLayout(foot);
  state_ = words("", textFont(12), true);
  state_->setAccessibleName("About the comparison");
  foot->addWidget(state_, 1);
  stop_ = textButton("Enough", "Ends the run", [this] { writer_.stop(); });
  stop_->setAccessibleName("Enough of the comparison");
  stop_->hide();
  foot->addWidget(stop_);
  run_ = textButton("Lay them beside each other", "Looks up or runs the studies of every design", [this] { run(); });
  foot->addWidget(run_);
  save_ = textButton("Save …", "Table as CSV or XLSX; plans, bars and inputs as PNG, SVG or PDF",
                     [this] { emit fileWanted(); });
  save_->setAccessibleName("Save the comparison");
  foot->addWidget(save_);
  auto* close = textButton("Close", "Escape closes too", [this] { hide(); });
  close->setAccessibleName("Close Designs beside each other");
  foot->addWidget(close);
  connect(way_, &QComboBox::activated, this, [this] { paint(); });
  connect(study_, &QComboBox::activated, this, [this] { run(); });
  connect(designs_, &QListWidget::currentRowChanged, this, [this](int row) {
    const int n = designs_->count();
    sooner_->setEnabled(row > 0);
    later_->setEnabled(row >= 0 && row + 1 < n);
    out_->setEnabled(row >= 0 && n > 1);
  });
}

void BesidePanel::open() {
  document_.dropPreview();
  show();
  raise();
  refresh();
  designs_->setFocus();
  const bool known = found_ && of_ == designsBeside(document_.project()) && revision_ == document_.revision();
  if (!known && designs_->count() > 1 && !writer_.busy()) run();
}

void BesidePanel::edit(const QString& name, const std::function<void(std::vector<DesignRef>&)>& how, int row) {
  Project p = document_.project();
  std::vector<DesignRef> list = designsBeside(p);
  how(list);
  p.beside = std::move(list);
  document_.change(std::move(p), name);
  if (row >= 0 && row < designs_->count()) designs_->setCurrentRow(row);
}

std::string BesidePanel::studyAsked() const {
  return study_->currentData().toString().toStdString();
}

BesideView BesidePanel::view() const {
  const Project& p = document_.project();
  BesideView v;
  v.metric = document_.looking().metric;
  v.storey = document_.looking().storey;
  v.units = p.units;
  v.project = p.name;
  v.place = p.site.name + ", " + placeText(p.site.place);
  return v;
}

void BesidePanel::refresh() {
  const Project& p = document_.project();
  const QString asked = study_->currentData().toString();
  {
    const QSignalBlocker quiet(study_);
    study_->clear();
    study_->addItem("daylight year, glare, energy", "");
    study_->addItem("all studies and rules", "*");
    for (const Study& s : p.studies) study_->addItem(spelled(s.name), spelled(s.id.text()));
    study_->setCurrentIndex(std::max(0, study_->findData(asked)));
  }
  {
    const QSignalBlocker quiet(designs_);
    const int row = designs_->currentRow();
    designs_->clear();
    for (const DesignRef& ref : designsBeside(p)) {
      designs_->addItem(spelled(designName(p, ref)));
      designs_->item(designs_->count() - 1)->setToolTip(designs_->item(designs_->count() - 1)->text());
    }
    designs_->setCurrentRow(std::clamp(row, 0, std::max(0, designs_->count() - 1)));
  }
  emit designs_->currentRowChanged(designs_->currentRow());
  fillFigures();
}

void BesidePanel::fillAdd() {
  add_->menu()->clear();
  const Project& p = document_.project();
  const std::vector<DesignRef> there = designsBeside(p);
  for (const Option& o : p.options) {
    if (std::any_of(there.begin(), there.end(),
                    [&](const DesignRef& d) { return d.option == o.id.text() || d.option == o.name; }))
      continue;
    connect(add_->menu()->addAction(spelled(o.name)), &QAction::triggered, this, [this, id = o.id.text()] {
      edit("Lay a design beside others", [&](std::vector<DesignRef>& list) {
        DesignRef ref;
        ref.option = id;
        list.push_back(std::move(ref));
      });
    });
  }
  if (add_->menu()->isEmpty()) add_->menu()->addAction("Every option is listed")->setEnabled(false);
}

void BesidePanel::run() {
  const Project project = document_.project();
  std::vector<DesignRef> refs = designsBeside(project);
  if (refs.size() < 2) {
    state_->setText("There is one design alone: add an option, or lay a run of a sweep beside it.");
    return;
  }
  auto result = std::make_shared<std::shared_ptr<const Beside>>();
  const std::string study = studyAsked();
  const bool begun = writer_.start(
      [project, refs, study, shelf = document_.sharedShelf(), store = document_.store(),
       result](RunControl& control) -> Outcome {
        StudyRunner runner(store.get());
        auto beside = laidBeside(project, refs, study, *shelf, runner, control);
        if (!beside) return tl::unexpected(beside.error());
        *result = std::make_shared<const Beside>(std::move(*beside));
        return {};
      },
      [this, result, refs, study, revision = document_.revision()](const Outcome& done) {
        found_ = done ? *result : nullptr;
        of_ = refs;
        studyOf_ = study;
        revision_ = revision;
        fillFigures();
        if (!done) state_->setText(spelled(done.error().text()));
        emit ran();
      });
  state_->setText(begun ? "The studies of all designs are being looked up or run …" : "A run is on its way.");
}

void BesidePanel::fillFigures() {
  const TableFill filling(table_);
  save_->setEnabled(found_ != nullptr);
  painted_.clear();
  if (!found_) {
    table_->setRowCount(0);
    picture_->clear();
    inputs_->clear();
    return;
  }
  const Beside& b = *found_;
  const BesideView v = view();
  QStringList heads{"study", "space", "figure"};
  for (std::size_t k = 0; k < b.designs.size(); ++k) {
    heads << spelled(b.designs[k].name);
    if (k > 0)
      heads << "moved"
            << "±";
  }
  table_->setColumnCount(int(heads.size()));
  table_->setHorizontalHeaderLabels(heads);
  table_->setRowCount(int(b.figures.size()));
  for (std::size_t r = 0; r < b.figures.size(); ++r) {
    const BesideFigure& f = b.figures[r];
    const ShownUnit unit = shownUnit(f.unit, v.units);
    int column = 0;
    const auto put = [&](const QString& text, bool figure, const QString& tip = {}) {
      auto* item = new QTableWidgetItem(text);
      item->setFont(figure ? figureFont(11) : textFont(11.5));
      item->setTextAlignment((figure ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
      item->setToolTip(tip);
      table_->setItem(int(r), column++, item);
    };
    put(spelled(f.study), false);
    put(f.space.empty() ? QString("all") : spelled(f.space), false);
    put(spelled(f.figure + (unit.symbol.empty() ? "" : ", " + unit.symbol)), false);
    for (std::size_t k = 0; k < f.of.size(); ++k) {
      const bool known = std::isfinite(f.of[k].value);
      put(known ? besideFigureText(f, k, v) : QString("–"), true,
          known ? (f.of[k].error > 0 ? QString("± %1").arg(unit.shown(f.of[k].error), 0, 'g', 2) : QString())
                : spelled(f.of[k].fault));
      if (k == 0) continue;
      put(besideMovedText(f, k, v), true, f.sure(k) ? QString() : QString("Within the error of both"));
      put(std::isfinite(f.moved(k)) && f.error(k) > 0 ? QString::number(unit.shown(f.error(k)), 'g', 2) : QString(),
          true);
    }
  }
  // Figures need little room; long names of designs give way, and stand whole in their tips.
  const int widths[3] = {136, 110, 150};
  for (int c = 0; c < table_->columnCount(); ++c) {
    table_->horizontalHeader()->setSectionResizeMode(c, QHeaderView::Interactive);
    table_->setColumnWidth(c, c < 3 ? widths[c] : c == 3 || c % 3 == 1 ? 96 : c % 3 == 2 ? 62 : 48);
    if (auto* head = table_->horizontalHeaderItem(c)) {
      head->setToolTip(head->text());
      const QFontMetrics metrics(table_->horizontalHeader()->font());
      head->setText(metrics.elidedText(head->text(), Qt::ElideRight, table_->columnWidth(c) - 14));
      head->setTextAlignment((c < 3 ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter);
    }
  }
  QStringList lines;
  for (std::size_t k = 0; k < b.designs.size(); ++k) {
    const BesideDesign& d = b.designs[k];
    if (k == 0 && d.fault.empty()) continue;
    lines << spelled(d.name) + ":";
    if (!d.fault.empty()) lines << "  " + spelled(d.fault);
    for (std::size_t i = 0; i < std::min<std::size_t>(d.inputs.size(), 12); ++i) lines << "· " + spelled(d.inputs[i]);
    if (d.inputs.size() > 12) lines << QString("· and %1 more").arg(d.inputs.size() - 12);
    if (d.inputs.empty() && d.fault.empty()) lines << "· no input differs";
  }
  inputs_->setText(lines.join("\n"));
  const bool stale =
      of_ != designsBeside(document_.project()) || studyOf_ != studyAsked() || revision_ != document_.revision();
  if (!writer_.busy())
    state_->setText(stale ? "The project changed since: lay them beside each other again."
                          : QString("%1, %2.%3")
                                .arg(countText(b.designs.size(), "design", "designs"),
                                     countText(b.figures.size(), "figure", "figures"),
                                     b.end == RunEnd::Finished ? QString() : QString(" Stopped early.")));
  paint();
}

void BesidePanel::resizeEvent(QResizeEvent* e) {
  Panel::resizeEvent(e);
  paint();
}

void BesidePanel::paint() {
  if (!isVisible() || !found_ || picture_->width() < 200 || picture_->height() < 80) return;
  const auto maps = besideMaps(*found_, view());
  const bool mapped = std::any_of(maps.begin(), maps.end(), [](const auto& m) { return m != nullptr; });
  const bool bars = way_->currentIndex() == 2 || !mapped;
  const BesideView v = view();
  const QString key = QString("%1 %2 %3 %4 %5 %6 %7")
                          .arg(quintptr(found_.get()))
                          .arg(int(v.metric))
                          .arg(v.storey.value_or(-1e9))
                          .arg(picture_->width())
                          .arg(picture_->height())
                          .arg(theme().dark)
                          .arg(bars ? 2 : way_->currentIndex());
  if (key == painted_) return;
  painted_ = key;
  const double ratio = devicePixelRatioF();
  QImage image(int(picture_->width() * ratio), int(picture_->height() * ratio), QImage::Format_RGB32);
  image.setDevicePixelRatio(ratio);
  image.fill(theme().raised);
  QPainter p(&image);
  const QRectF area(0, 0, picture_->width(), picture_->height());
  if (bars)
    paintBesideBars(&p, area, *found_, v, theme());
  else
    paintBesidePlans(p, area, *found_, v, way_->currentIndex() == 1 ? BesidePlans::Moves : BesidePlans::Each, theme());
  p.end();
  picture_->setPixmap(QPixmap::fromImage(image));
}

void BesidePanel::saveTo(const QString& path) {
  if (!found_) return state_->setText("There is nothing to save yet.");
  const std::filesystem::path file(path.toStdString());
  const QString ending = QFileInfo(path).suffix().toLower();
  const bool started = writer_.start(
      [file, found = found_, ending, v = view()](RunControl&) -> Outcome {
        if (ending == "csv") return saveFile(file, besideCsv(*found));
        if (ending == "xlsx") return besideWorkbook(*found, file);
        return saveBesidePage(*found, v, file);
      },
      [this, path](const Outcome& done) {
        const QString says = done ? "Saved " + path + "." : "Not saved. " + spelled(done.error().text());
        state_->setText(says);
        emit document_.notice(says, !done);
      });
  if (!started) state_->setText("A run is on its way: say Enough, or wait.");
}

} // namespace noonward
