#include "app/panels/trace_panel.h"
#include "app/theme/style.h"
#include <QGridLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

namespace noonward {

TracePanel::TracePanel(Document& document, QWidget* parent) : Panel(parent), document_(document) {
  setAccessibleName("Simplified model panel");
  setFixedWidth(420);
  auto* l = new QVBoxLayout(this);
  l->setContentsMargins(20, 12, 20, 14);
  l->setSpacing(6);
  l->addWidget(words("Simplified model", titleFont(17), false));
  l->addWidget(facts_ = words({}, textFont(12), true));
  facts_->setAccessibleName("Source of the simplified model");
  table_ = new QTableWidget(0, 5);
  table_->setAccessibleName("Storeys of the simplified model");
  table_->setHorizontalHeaderLabels({"Floor", "Clear height", "Cut at", "Rooms", "Inside"});
  table_->verticalHeader()->hide();
  table_->setShowGrid(false);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->verticalHeader()->setDefaultSectionSize(24);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
  table_->horizontalHeader()->setDefaultAlignment(Qt::AlignRight | Qt::AlignVCenter);
  connect(table_, &QTableWidget::itemSelectionChanged, this, [this] {
    if (filling_ || table_->selectedItems().isEmpty()) return;
    storey_ = table_->currentRow();
    emit previewed(trace_, storey_);
  });
  l->addWidget(table_);
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(10);
  grid->setVerticalSpacing(4);
  int row = 0;
  const auto field = [&](const QString& label, const QString& placeholder, const QString& help) {
    auto* name = words(label, textFont(12), true);
    name->setWordWrap(false);
    auto* f = new QLineEdit;
    f->setAccessibleName(label);
    f->setPlaceholderText(placeholder);
    f->setToolTip(help);
    name->setToolTip(help);
    grid->addWidget(name, row / 2, row % 2 * 2, Qt::AlignVCenter);
    grid->addWidget(f, row / 2, row % 2 * 2 + 1);
    ++row;
    connect(f, &QLineEdit::editingFinished, this, [this, f] {
      if (f->isModified()) ask();
      f->setModified(false);
    });
    return f;
  };
  floors_ = field("Floors at", "as found",
                  "Levels to start storeys from, such as 0; 3.7; empty: found from horizontal faces");
  below_ = field("Cut under ceiling", "as it closes",
                 "How far under the ceiling walls are cut; lower, where beams part the rooms");
  simplify_ = field("Simplify by", "0.02", "A corner is left out where that moves the outline by no more than this");
  gap_ = field("Close gaps of", "0.03", "Ends of walls that miss each other by this much are taken to meet");
  wall_ = field("Walls up to", "0.6", "Regions narrower than this are wall, not room");
  smallest_ = field("Rooms from", "1.5 m²", "Smaller regions become wall");
  l->addLayout(grid);
  l->addWidget(deviation_ = words({}, figureFont(11.5), false));
  deviation_->setAccessibleName("Simplified model against source");
  l->addWidget(notes_ = words({}, textFont(11.5), true));
  notes_->setAccessibleName("Notes on the simplified model");
  auto* buttons = new QHBoxLayout;
  const auto button = [&](const QString& text, auto pressed, bool main) {
    auto* b = new QPushButton(text);
    b->setAccessibleName(text);
    b->setProperty("main", main);
    connect(b, &QPushButton::clicked, this, pressed);
    buttons->addWidget(b);
    return b;
  };
  undo_ = button(
      "Back to the source",
      [this] {
        hide();
        document_.change(withoutTrace(document_.project()), "Back to the source");
      },
      false);
  undo_->setToolTip("Takes the simplified model out: what it was traced from counts again");
  buttons->addStretch();
  button(
      "Cancel", [this] { hide(); }, false);
  done_ = button(
      "Create", [this] { putIn(); }, true);
  l->addLayout(buttons);
  connect(&document_, &Document::projectChanged, this, [this] {
    if (isVisible() && !document_.previewing() && document_.revision() != of_) ask();
  });
  hide();
}

void TracePanel::hideEvent(QHideEvent* e) {
  if (control_) control_->wish = Wish::Drop;
  control_.reset();
  ++asked_;
  emit previewed(nullptr, 0);
  Panel::hideEvent(e);
}

void TracePanel::open() {
  trace_.reset();
  storey_ = 0;
  show();
  raise();
  setFocus();
  ask();
}

std::optional<double> TracePanel::length(QLineEdit* field, double least, double most) {
  const QString text = field->text().trimmed();
  field->setStyleSheet({});
  if (text.isEmpty()) return {};
  const auto v = lengthFromText(text.toStdString(), document_.project().units.length);
  if (v && *v >= least && *v <= most) return v;
  field->setStyleSheet(QString("border: 1px solid %1;").arg(theme().short_.name()));
  return {};
}

void TracePanel::ask() {
  TraceSettings s;
  const QStringList given = floors_->text().split(';', Qt::SkipEmptyParts);
  floors_->setStyleSheet({});
  for (const QString& f : given) {
    const auto v = lengthFromText(f.trimmed().toStdString(), document_.project().units.length);
    if (v)
      s.floors.push_back(*v);
    else
      floors_->setStyleSheet(QString("border: 1px solid %1;").arg(theme().short_.name()));
  }
  std::sort(s.floors.begin(), s.floors.end());
  s.simplify = length(simplify_, 0, 2).value_or(s.simplify);
  s.gap = length(gap_, 0, 1).value_or(s.gap);
  s.thickestWall = length(wall_, 0.05, 3).value_or(s.thickestWall);
  smallest_->setStyleSheet({});
  if (const QString text = smallest_->text().trimmed(); !text.isEmpty()) {
    const auto v = quantityFromText(text.toStdString(), "m²", document_.project().units);
    if (v && *v >= 0.1 && *v <= 1000)
      s.smallestRoom = *v;
    else
      smallest_->setStyleSheet(QString("border: 1px solid %1;").arg(theme().short_.name()));
  }
  s.cutBelow = length(below_, 0.01, 10);
  if (control_) control_->wish = Wish::Drop;
  control_ = std::make_shared<RunControl>();
  done_->setEnabled(false);
  undo_->setVisible(std::any_of(document_.project().elements.begin(), document_.project().elements.end(),
                                [](const ElementPtr& e) { return isTraced(*e); }));
  facts_->setText("Tracing…");
  document_.inBackground([this, s, project = document_.project(), control = control_, asked = ++asked_,
                          revision = document_.revision()]() -> std::function<void(Document&)> {
    auto done = std::make_shared<const Expected<Trace>>(traceModel(project, s, control.get()));
    return [this, done, asked, revision](Document&) {
      if (asked == asked_) answer(done, revision);
    };
  });
}

void TracePanel::answer(std::shared_ptr<const Expected<Trace>> answer, quint64 revision) {
  control_.reset();
  of_ = revision;
  trace_ = *answer ? std::shared_ptr<const Trace>(answer, &**answer) : nullptr;
  done_->setEnabled(trace_ != nullptr);
  if (!trace_) facts_->setText(QString::fromStdString(answer->error().message));
  fill();
  emit previewed(trace_, storey_);
}

void TracePanel::fill() {
  filling_ = true;
  table_->setRowCount(0);
  const DisplayUnits& units = document_.project().units;
  const auto square = [&](double v) { return shownQuantity(v, 1, "m²", units); };
  const LengthUnit unit = document_.project().units.length;
  const auto text = [&](double v) { return QString::fromStdString(lengthText(v, unit)); };
  deviation_->setVisible(trace_ != nullptr);
  notes_->setVisible(trace_ && !trace_->notes.empty());
  table_->setVisible(trace_ != nullptr);
  if (trace_) {
    const Trace& t = *trace_;
    facts_->setText(
        QString(
            "%1 room%2 with %3 window%4, traced out of %5 part%6. The source stays as a ghost that no study counts.")
            .arg(t.rooms.size())
            .arg(t.rooms.size() == 1 ? "" : "s")
            .arg(t.openings.size())
            .arg(t.openings.size() == 1 ? "" : "s")
            .arg(t.sources.size())
            .arg(t.sources.size() == 1 ? "" : "s"));
    table_->setRowCount(int(t.storeys.size()));
    storey_ = std::clamp(storey_, 0, int(t.storeys.size()) - 1);
    for (int i = 0; i < int(t.storeys.size()); ++i) {
      const TracedStorey& s = t.storeys[std::size_t(i)];
      double inside = 0;
      for (const Room& r : t.rooms)
        if (r.floor > s.floor - 1 && r.floor < s.ceiling - 0.5) inside += area(r.outline);
      int column = 0;
      for (const QString& cell :
           {text(s.floor), text(s.ceiling - s.floor), text(s.cut), QString::number(s.rooms), square(inside)}) {
        auto* item = new QTableWidgetItem(cell);
        item->setFont(figureFont(11.5));
        item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        table_->setItem(i, column++, item);
      }
    }
    table_->setFixedHeight(30 + 24 * std::clamp(int(t.storeys.size()), 1, 6));
    table_->selectRow(storey_);
    const TraceDeviation& d = t.deviation;
    const auto change = [](double now, double was) {
      return was > 0
                 ? QString("%1%2 %").arg(now >= was - 1e-9 ? "+" : "−").arg(100 * std::abs(now / was - 1), 0, 'f', 2)
                 : QString("none");
    };
    QStringList glass;
    const char* sides[] = {"N", "E", "S", "W"};
    for (std::size_t k = 0; k < 4; ++k)
      if (d.sourceGlazing[k] > 0.005 || d.glazing[k] > 0.005)
        glass << QString("%1 %2 of %3").arg(sides[k], square(d.glazing[k]), square(d.sourceGlazing[k]));
    if (d.sourceRooflights > 0.005)
      glass << QString("roof %1 of %2").arg(square(d.rooflights), square(d.sourceRooflights));
    deviation_->setText(QString("Against the source: area %1, volume %2, corners within %3.\nGlazing: %4")
                            .arg(change(d.area, d.sourceArea), change(d.volume, d.sourceVolume), text(d.farthest),
                                 glass.isEmpty() ? "none" : glass.join("   ")));
    QStringList notes;
    for (const std::string& n : t.notes) notes << QString::fromStdString(n);
    notes_->setText(notes.join("\n"));
  }
  filling_ = false;
  // Wrapped lines ask for their height only when the width is known.
  layout()->activate();
  resize(width(), layout()->totalHeightForWidth(width()));
}

void TracePanel::putIn() {
  if (!trace_ || document_.revision() != of_) return ask();
  const auto trace = trace_;
  hide();
  document_.change(withTrace(document_.project(), *trace), "Trace simplified model");
  document_.look([](Looking& l) {
    l.step = Step::Rooms;
    l.selected.clear();
  });
  emit document_.notice(QString("%1 traced. Name them, say which are regularly occupied, and lay a grid.")
                            .arg(countText(trace->rooms.size(), "room")),
                        false);
}

} // namespace noonward
