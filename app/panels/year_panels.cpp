#include "app/panels/year_panels.h"
#include "app/theme/style.h"
#include "app/theme/table_fill.h"
#include "core/files/project/design_json.h"
#include "core/runs/record/record.h"
#include <QHBoxLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTableWidget>

namespace noonward {

namespace {

QString q(const std::string& s) {
  return QString::fromStdString(s);
}

QLabel* quiet(const QString& name) {
  auto* l = new QLabel;
  l->setAccessibleName(name);
  l->setWordWrap(true);
  l->setFont(textFont(11.5));
  l->setProperty("quiet", true);
  return l;
}

QPushButton* pressed(const QString& text, QObject* to, const std::function<void()>& done) {
  auto* b = new QPushButton(text);
  b->setAccessibleName(text);
  QObject::connect(b, &QPushButton::clicked, to, [done] { done(); });
  return b;
}

QTableWidget* plainTable(const QString& name, const QStringList& heads) {
  auto* t = new QTableWidget(0, int(heads.size()));
  t->setAccessibleName(name);
  t->setHorizontalHeaderLabels(heads);
  t->verticalHeader()->hide();
  t->verticalHeader()->setDefaultSectionSize(24);
  t->setShowGrid(false);
  t->setEditTriggers(QAbstractItemView::NoEditTriggers);
  t->setSelectionBehavior(QAbstractItemView::SelectRows);
  t->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  t->horizontalHeader()->setHighlightSections(false);
  return t;
}

QTableWidgetItem* cell(const QString& text, bool figures = false) {
  auto* i = new QTableWidgetItem(text);
  i->setFont(figures ? figureFont(11) : textFont(11.5));
  i->setTextAlignment((figures ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
  return i;
}

/// Sorts by its number, not by its letters.
class NumberCell : public QTableWidgetItem {
public:
  NumberCell(double value, const QString& text) : QTableWidgetItem(text), value_(value) {
    setFont(figureFont(11));
    setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
  }
  bool operator<(const QTableWidgetItem& other) const override {
    const auto* o = dynamic_cast<const NumberCell*>(&other);
    return o ? value_ < o->value_ : QTableWidgetItem::operator<(other);
  }

private:
  double value_;
};

QVBoxLayout* panelLayout(QWidget* panel, const QString& title) {
  auto* box = new QVBoxLayout(panel);
  box->setContentsMargins(18, 12, 18, 14);
  box->setSpacing(8);
  auto* row = new QHBoxLayout;
  auto* head = new QLabel(title);
  head->setFont(titleFont(17));
  row->addWidget(head, 1);
  auto* close = new QPushButton("Close");
  close->setAccessibleName("Close " + title);
  QObject::connect(close, &QPushButton::clicked, panel, &QWidget::hide);
  row->addWidget(close);
  box->addLayout(row);
  return box;
}

} // namespace

// ---- runs ----------------------------------------------------------------------------------------------------------

RunsPanel::RunsPanel(Document& document, Studies& studies, QWidget* parent)
    : Panel(parent), document_(document), studies_(studies) {
  setAccessibleName("Runs panel");
  auto* box = panelLayout(this, "Runs");
  head_ = quiet("About the runs");
  box->addWidget(head_);
  table_ = plainTable("List of runs", {"Name", "Option", "When (UTC)", "Study", "Asked", "State", "s"});
  table_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
  table_->setSortingEnabled(true);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
  table_->horizontalHeader()->setSectionResizeMode(4, QHeaderView::Stretch);
  table_->sortByColumn(2, Qt::DescendingOrder);
  box->addWidget(table_, 3);
  auto* row = new QHBoxLayout;
  row->addWidget(pressed("What went in", this, [this] { tellWentIn(); }));
  row->addWidget(pressed("What differs", this, [this] { tellDifference(); }));
  row->addWidget(pressed("Run again", this, [this] { again(); }));
  row->addWidget(pressed("Delete run", this, [this] {
    for (const StoredRun& r : chosenRuns())
      if (const Outcome gone = document_.store()->removeRun(r.number); !gone)
        emit document_.notice(QString::fromStdString(gone.error().text()), true);
    studies_.refreshHistory();
  }));
  row->addStretch();
  box->addLayout(row);
  text_ = new QPlainTextEdit;
  text_->setAccessibleName("What went in or differs");
  text_->setReadOnly(true);
  text_->setFont(figureFont(11));
  text_->setPlaceholderText("Choose a run to see what went in; two runs, or one, to see what differs between them, or "
                            "from the project as it is now.");
  box->addWidget(text_, 2);
  connect(table_, &QTableWidget::itemChanged, this, [this](QTableWidgetItem* item) {
    if (filling_ || item->column() != 0) return;
    if (const Outcome o =
            document_.store()->rename(item->data(Qt::UserRole).toLongLong(), item->text().trimmed().toStdString());
        !o)
      emit document_.notice(q(o.error().text()), true);
    studies_.refreshHistory();
  });
  connect(&studies_, &Studies::historyChanged, this, &RunsPanel::refresh);
  hide();
}

void RunsPanel::refresh() {
  if (!isVisible()) return;
  filling_ = true;
  runs_ = studies_.history();
  head_->setText(QString("%1 beside the project. A name can be changed by a double click.")
                     .arg(runs_.size() == 1 ? QString("1 run is kept") : countText(runs_.size(), "run") + " are kept"));
  table_->setSortingEnabled(false);
  const TableFill fill(table_);
  table_->setRowCount(int(runs_.size()));
  for (std::size_t k = 0; k < runs_.size(); ++k) {
    const StoredRun& r = runs_[k];
    const int row = int(k);
    auto* name = cell(q(r.name));
    name->setData(Qt::UserRole, QVariant::fromValue(qlonglong(r.number)));
    table_->setItem(row, 0, name);
    const QStringList rest{q(r.option), q(r.when).replace('T', ' ').left(19), studyName(r.kind), q(r.asked),
                           q(r.state)};
    for (int c = 0; c < rest.size(); ++c) {
      auto* i = cell(rest[c]);
      i->setFlags(i->flags() & ~Qt::ItemIsEditable);
      i->setToolTip(rest[c]);
      table_->setItem(row, c + 1, i);
    }
    auto* seconds = new NumberCell(r.seconds, QString::number(r.seconds, 'f', 2));
    seconds->setFlags(seconds->flags() & ~Qt::ItemIsEditable);
    table_->setItem(row, 6, seconds);
  }
  table_->setSortingEnabled(true);
  filling_ = false;
}

std::vector<StoredRun> RunsPanel::chosenRuns() const {
  std::vector<StoredRun> out;
  for (const QModelIndex& i : table_->selectionModel()->selectedRows()) {
    const qlonglong number = table_->item(i.row(), 0)->data(Qt::UserRole).toLongLong();
    for (const StoredRun& r : runs_)
      if (r.number == number) out.push_back(r);
  }
  return out;
}

std::optional<StoredRun> RunsPanel::chosen() const {
  const auto list = chosenRuns();
  return list.empty() ? std::nullopt : std::optional(list.front());
}

void RunsPanel::tellWentIn() {
  const auto run = chosen();
  if (!run) return text_->setPlainText("Choose a run first.");
  const std::string text = document_.store()->wentIn(run->number);
  text_->setPlainText(text.empty() ? "What went in was not kept for this run." : q(text));
}

void RunsPanel::tellDifference() {
  const auto list = chosenRuns();
  if (list.empty()) return text_->setPlainText("Choose a run first.");
  const std::string first = document_.store()->wentIn(list[0].number);
  std::string second;
  QString head;
  if (list.size() > 1) {
    second = document_.store()->wentIn(list[1].number);
    head = QString("From \"%1\" to \"%2\":").arg(q(list[0].name), q(list[1].name));
  } else {
    const Study* study = nullptr;
    for (const Study& s : document_.project().studies)
      if (s.kind == list[0].kind && (!study || s.name == list[0].name)) study = &s;
    if (!study) return text_->setPlainText("The project has no study of this kind any more.");
    second = wentInText(document_.project(), *study);
    head = QString("From \"%1\" to the project as it is now:").arg(q(list[0].name));
  }
  QStringList lines;
  for (const std::string& t : wentInDifferences(first, second)) lines << q(t);
  text_->setPlainText(head + "\n" + (lines.isEmpty() ? QString("nothing differs") : lines.join("\n")));
}

void RunsPanel::again() {
  const auto run = chosen();
  if (!run) return text_->setPlainText("Choose a run first.");
  for (std::size_t k = 0; k < document_.project().options.size(); ++k)
    if (document_.project().options[k].name == run->option && k != document_.project().option)
      document_.change(withOption(document_.project(), k), "Choose option");
  // By the id that went in: the run may have been renamed since.
  const std::string wentIn = document_.store()->wentIn(run->number);
  for (const Study& s : document_.project().studies)
    if (s.kind == run->kind && wentIn.find(s.id.text()) != std::string::npos) {
      // The same question is asked anew; another one leaves the old answer where it is.
      if (s.kind == StudyKind::Year && hashYear(document_.project(), s.groups, s.year) == run->key)
        (void)document_.store()->removeRun(run->number); // else it only stays in the list
      document_.look([&](Looking& l) { l.study = s.id; });
      return studies_.run();
    }
  text_->setPlainText("The project no longer has this study: it can't be run again.");
}

// ---- readings ------------------------------------------------------------------------------------------------------

ReadingsPanel::ReadingsPanel(Document& document, Studies& studies, QWidget* parent)
    : Panel(parent), document_(document), studies_(studies) {
  setAccessibleName("Robustness panel");
  auto* box = panelLayout(this, "How robust is it?");
  head_ = quiet("About the readings");
  box->addWidget(head_);
  table_ = plainTable("Readings", {"Reading", "What differs", "sDA %", "±", "Points", "ASE %", "Rooms above",
                                   "Provision, same hours", "own hours"});
  table_->setSelectionMode(QAbstractItemView::NoSelection);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
  table_->horizontalHeader()->setSectionResizeMode(1, QHeaderView::Stretch);
  box->addWidget(table_, 1);
  connect(&studies_, &Studies::readingsChanged, this, &ReadingsPanel::refresh);
  connect(&studies_, &Studies::answerChanged, this, &ReadingsPanel::refresh);
  hide();
}

void ReadingsPanel::refresh() {
  if (!isVisible()) return;
  const auto answer = studies_.current();
  const auto list = answer && answer->year && studies_.readingsOf(answer->year->key) ? studies_.readings() : nullptr;
  if (!list) {
    table_->setRowCount(0);
    head_->setText(answer && answer->year ? "The same rays are read again…" : "Run the daylight year first.");
    return;
  }
  const auto& steps = answer->facts->settings.steps;
  const double limit = aseLimit(document_.project(), document_.shelf());
  const int asked = list->empty() ? 0 : stepsReached(list->front().building.sda, steps);
  int other = 0;
  const int provision = provisionAsked(document_.project(), document_.shelf());
  for (int c : {7, 8}) table_->setColumnHidden(c, provision == 0);
  const TableFill fill(table_);
  table_->setRowCount(int(list->size()));
  for (std::size_t k = 0; k < list->size(); ++k) {
    const Reading& r = (*list)[k];
    const int reached = stepsReached(r.building.sda, steps);
    other += reached != asked;
    int bright = 0;
    for (std::size_t s = 0; s < r.spaces.size(); ++s)
      bright += answer->facts->counted[s] && r.spaces[s].ase > limit + 1e-9;
    table_->setItem(int(k), 0, cell(q(r.name)));
    table_->setItem(int(k), 1, cell(r.changed.empty() ? "the study" : q(r.changed)));
    table_->setItem(int(k), 2, cell(QString::number(100 * r.building.sda, 'f', 1), true));
    table_->setItem(int(k), 3, cell(QString::number(100 * r.sdaError, 'f', 1), true));
    auto* points =
        cell(reached == asked
                 ? QString::number(reached)
                 : QString("%1 (%2%3)").arg(reached).arg(reached > asked ? "+" : "−").arg(std::abs(reached - asked)),
             true);
    if (reached != asked) points->setForeground(reached > asked ? theme().meets : theme().short_);
    table_->setItem(int(k), 4, points);
    table_->setItem(int(k), 5, cell(QString::number(100 * r.building.ase, 'f', 1), true));
    table_->setItem(int(k), 6, cell(QString::number(bright), true));
    if (provision == 0) continue;
    const ProvisionRooms n = provisionRooms(r, *answer->facts, provision);
    table_->setItem(int(k), 7, cell(QString("%1 of %2").arg(n.same).arg(n.all), true));
    table_->setItem(int(k), 8, cell(QString("%1 of %2").arg(n.own).arg(n.all), true));
  }
  head_->setText(other == 0 ? "From the same rays: every reading gives the same step."
                            : QString("From the same rays: %1 of %2 readings give another step than the study.")
                                  .arg(other)
                                  .arg(list->size() - 1));
}

} // namespace noonward
