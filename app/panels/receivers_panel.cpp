#include "app/panels/receivers_panel.h"
#include "app/theme/style.h"
#include "core/base/words.h"
#include "core/files/receiver_table.h"
#include "core/files/save_file.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableView>
#include <algorithm>
#include <cmath>

namespace noonward {

// ---- the rows

void ReceiverModel::setRows(std::vector<ReceiverRow> rows, const QString& unit) {
  beginResetModel();
  rows_ = std::move(rows);
  unit_ = unit;
  endResetModel();
}

int ReceiverModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : int(rows_.size());
}
int ReceiverModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : int(columns);
}

QVariant ReceiverModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  const QStringList names{"No.",      "receiver", "dwelling",
                          "building", "subject",  unit_.isEmpty() ? "value" : "value, " + unit_,
                          "outcome",  "verdict"};
  return names.value(section);
}

QVariant ReceiverModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid() || std::size_t(index.row()) >= rows_.size()) return {};
  const ReceiverRow& r = rows_[std::size_t(index.row())];
  const bool figures = index.column() == Number || index.column() == Value;
  if (role == Qt::TextAlignmentRole) return int((figures ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
  if (role == Qt::ForegroundRole && index.column() == Outcome && r.outcome)
    return *r.outcome == Outcome3::Meets        ? theme().meets
           : *r.outcome == Outcome3::FallsShort ? theme().short_
                                                : theme().muted;
  if (role == Qt::ToolTipRole && index.column() == Value && r.error > 0)
    return QString("± %1, numerical only").arg(r.error, 0, 'g', 2);
  if (role == Qt::ToolTipRole && index.column() == Verdict) return QString::fromStdString(r.verdict);
  if (role != Qt::DisplayRole && role != sortRole) return {};
  switch (Column(index.column())) {
  case Number:
    return role == sortRole ? QVariant(qulonglong(r.sensor)) : QVariant(QString::number(r.sensor + 1));
  case Receiver:
    return QString::fromStdString(r.receiver);
  case Dwelling:
    return QString::fromStdString(r.dwelling);
  case Building:
    return QString::fromStdString(r.building);
  case SubjectColumn:
    return QString(subjectName(r.subject));
  case Value:
    if (role == sortRole) return std::isnan(r.value) ? -1e300 : r.value;
    return std::isnan(r.value) ? QString("–") : QString::number(r.value, 'f', std::abs(r.value) >= 100 ? 0 : 2);
  case Outcome:
    return r.outcome ? QString(outcomeText(*r.outcome)) : QString();
  case Verdict:
    return QString::fromStdString(r.verdict);
  case columns:
    break;
  }
  return {};
}

void ReceiverFilter::setWords(const QString& words) {
  words_ = words.split(' ', Qt::SkipEmptyParts);
  invalidateFilter();
}
void ReceiverFilter::setOutcome(std::optional<Outcome3> outcome) {
  outcome_ = outcome;
  invalidateFilter();
}
bool ReceiverFilter::filterAcceptsRow(int row, const QModelIndex&) const {
  const auto* model = static_cast<const ReceiverModel*>(sourceModel());
  const ReceiverRow& r = model->rows()[std::size_t(row)];
  if (outcome_ && r.outcome != outcome_) return false;
  return std::all_of(words_.begin(), words_.end(), [&](const QString& word) {
    for (const std::string* text : {&r.receiver, &r.group, &r.dwelling, &r.building, &r.verdict})
      if (QString::fromStdString(*text).contains(word, Qt::CaseInsensitive)) return true;
    return QString(subjectName(r.subject)).contains(word, Qt::CaseInsensitive);
  });
}

// ---- the panel

ReceiversPanel::ReceiversPanel(Document& document, Studies& studies, QWidget* parent)
    : Panel(parent), document_(document), studies_(studies) {
  setAccessibleName("Receivers panel");
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(18, 10, 18, 12);
  all->setSpacing(6);
  all->addWidget(words("Receivers", titleFont(17), false));
  told_ = words("", textFont(12), true);
  told_->setAccessibleName("What the receivers come to");
  all->addWidget(told_);
  auto* top = new QHBoxLayout;
  top->setSpacing(8);
  words_ = new QLineEdit;
  words_->setAccessibleName("Receivers with the words");
  words_->setPlaceholderText("words in any column");
  words_->setToolTip("Rows that hold all of these words, in any column");
  words_->setClearButtonEnabled(true);
  top->addWidget(words_, 1);
  outcome_ = new QComboBox;
  outcome_->setAccessibleName("Receivers with the outcome");
  outcome_->addItems({"any outcome", outcomeText(Outcome3::FallsShort), outcomeText(Outcome3::Meets),
                      outcomeText(Outcome3::NotJudged)});
  outcome_->setToolTip("Those alone of which a rule beside the study says so");
  top->addWidget(outcome_);
  top->addWidget(textButton("Own order", "As the project has them, whatever column they were sorted by",
                            [this] { table_->sortByColumn(ReceiverModel::Number, Qt::AscendingOrder); }));
  counts_ = words("", textFont(12), true, false);
  counts_->setAccessibleName("Receivers shown");
  top->addWidget(counts_);
  all->addLayout(top);

  model_ = new ReceiverModel(this);
  shown_ = new ReceiverFilter(this);
  shown_->setSourceModel(model_);
  shown_->setSortRole(ReceiverModel::sortRole);
  table_ = new QTableView;
  table_->setAccessibleName("Receivers");
  table_->setModel(shown_);
  table_->setSortingEnabled(true);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
  table_->setShowGrid(false);
  table_->setWordWrap(false);
  table_->setTextElideMode(Qt::ElideMiddle); // names differ at their end
  table_->verticalHeader()->hide();
  table_->verticalHeader()->setDefaultSectionSize(22);
  table_->verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
  QHeaderView* h = table_->horizontalHeader();
  h->setSectionResizeMode(QHeaderView::Interactive);
  h->setStretchLastSection(true);
  h->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  const int widths[] = {52, 210, 170, 110, 82, 90, 82, 200};
  for (int c = 0; c < ReceiverModel::columns; ++c) table_->setColumnWidth(c, widths[c]);
  table_->sortByColumn(ReceiverModel::Number, Qt::AscendingOrder);
  all->addWidget(table_, 1);

  auto* row = new QHBoxLayout;
  row->setSpacing(8);
  row->addWidget(words("Chosen:", textFont(12), true, false));
  const auto field = [&](const QString& name, const QString& hint, const QString& help) {
    auto* f = new QLineEdit;
    f->setAccessibleName(name);
    f->setPlaceholderText(hint);
    f->setToolTip(help);
    row->addWidget(f, 1);
    return f;
  };
  dwelling_ = field("Dwelling of the chosen", "dwelling", "Name of the dwelling they belong to; left empty it stays");
  building_ = field("Building of the chosen", "building or plot", "Name of the building or plot; left empty it stays");
  subject_ = new QComboBox;
  subject_->setAccessibleName("Subject of the chosen");
  subject_->addItems({"subject as it is", "living room", "open space", "no subject"});
  subject_->setToolTip("What the chosen stand for in rules that count dwellings");
  row->addWidget(subject_);
  row->addWidget(
      give_ = textButton("Give to the chosen", "Dwelling, building and subject as typed here", [this] { give(); }));
  all->addLayout(row);
  auto* foot = new QHBoxLayout;
  foot->setSpacing(8);
  foot->addWidget(textButton("From a table …", "CSV or GeoJSON with names: points, or names of what is here",
                             [this] { emit fileWanted("in"); }));
  foot->addWidget(
      textButton("Save the table …", "The rows shown, in their order (CSV)", [this] { emit fileWanted("out"); }));
  foot->addStretch();
  foot->addWidget(textButton("Close", "Escape closes too", [this] { hide(); }));
  all->addLayout(foot);

  filling_.setSingleShot(true);
  filling_.setInterval(120);
  searching_.setSingleShot(true);
  searching_.setInterval(300);
  connect(&filling_, &QTimer::timeout, this, &ReceiversPanel::fill);
  connect(&searching_, &QTimer::timeout, this, [this] {
    shown_->setWords(words_->text());
    told();
  });
  connect(words_, &QLineEdit::textChanged, this, [this] { searching_.start(); });
  connect(outcome_, &QComboBox::currentIndexChanged, this, [this](int k) {
    constexpr Outcome3 by[] = {Outcome3::FallsShort, Outcome3::Meets, Outcome3::NotJudged};
    shown_->setOutcome(k <= 0 ? std::nullopt : std::optional(by[k - 1]));
    told();
  });
  const auto soon = [this] {
    filled_ = false;
    if (isVisible()) filling_.start();
  };
  connect(&document_, &Document::projectChanged, this, soon);
  connect(&document_, &Document::replaced, this, soon);
  connect(&studies_, &Studies::answerChanged, this, soon);
  connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] { told(); });
  connect(table_->selectionModel(), &QItemSelectionModel::currentRowChanged, this, [this](const QModelIndex& now) {
    if (!now.isValid() || !table_->hasFocus()) return;
    const ReceiverRow& r = model_->rows()[std::size_t(shown_->mapToSource(now).row())];
    document_.look([&](Looking& l) { l.probe = r.spot; });
  });
  hide();
}

void ReceiversPanel::refresh() {
  if (!filled_) fill();
  words_->setFocus();
}

void ReceiversPanel::fill() {
  const Study* study = studies_.activeStudy();
  const auto current = studies_.current();
  const bool painted = current && current->painted && !current->year && !current->trial;
  document_.inBackground([this, project = document_.project(), groups = study ? study->groups : std::vector<GroupId>{},
                          field = painted ? current->painted : nullptr,
                          verdicts = current ? current->verdicts : decltype(current->verdicts){}] {
    Expected<SensorSet> sensors = field ? field->sensors : layOutSensors(project, groups);
    std::vector<ReceiverRow> rows;
    if (sensors) rows = receiverRows(project, *sensors, field.get(), verdicts);
    const QString unit = field ? QString::fromStdString(field->scale.unit) : QString();
    return std::function<void(Document&)>([this, rows = std::move(rows), unit,
                                           fault =
                                               sensors ? std::string() : sensors.error().text()](Document&) mutable {
      // What was chosen stays so.
      const std::vector<ReceiverRef> before = chosen();
      model_->setRows(std::move(rows), unit);
      filled_ = true;
      // What nobody has is not shown.
      const auto& all = model_->rows();
      const auto any = [&](const auto& has) { return std::any_of(all.begin(), all.end(), has); };
      table_->setColumnHidden(ReceiverModel::Dwelling, !any([](const ReceiverRow& r) { return !r.dwelling.empty(); }));
      table_->setColumnHidden(ReceiverModel::Building, !any([](const ReceiverRow& r) { return !r.building.empty(); }));
      table_->setColumnHidden(ReceiverModel::SubjectColumn,
                              !any([](const ReceiverRow& r) { return r.subject != Subject::None; }));
      const bool judged = any([](const ReceiverRow& r) { return r.outcome.has_value(); });
      table_->setColumnHidden(ReceiverModel::Outcome, !judged);
      table_->setColumnHidden(ReceiverModel::Verdict, !judged);
      if (!before.empty() && before.size() < 2000) {
        QItemSelection again;
        for (int k = 0; k < shown_->rowCount(); ++k) {
          const ReceiverRef ref = model_->rows()[std::size_t(shown_->mapToSource(shown_->index(k, 0)).row())].ref;
          if (std::find(before.begin(), before.end(), ref) != before.end())
            again.select(shown_->index(k, 0), shown_->index(k, ReceiverModel::columns - 1));
        }
        table_->selectionModel()->select(again, QItemSelectionModel::ClearAndSelect);
      }
      told();
      if (!fault.empty()) told_->setText(QString::fromStdString(fault));
    });
  });
}

void ReceiversPanel::told() {
  const Study* study = studies_.activeStudy();
  std::size_t falls = 0, meets = 0, judged = 0;
  for (const ReceiverRow& r : model_->rows()) {
    judged += r.outcome.has_value();
    falls += r.outcome == Outcome3::FallsShort;
    meets += r.outcome == Outcome3::Meets;
  }
  QString text = study ? QString::fromStdString(study->name) + ". " : QString();
  if (model_->rows().empty())
    text += "No receivers yet: lay some in Studies, or bring a table.";
  else if (judged == 0)
    text += "No rule that is laid beside this study names them.";
  else
    text += QString("Of %1 judged %2, %3.")
                .arg(judged)
                .arg(QString::fromStdString(counted(falls, "falls short", "fall short")),
                     QString::fromStdString(counted(meets, "meets", "meet")));
  told_->setText(text);
  const int selected = int(table_->selectionModel()->selectedRows().size());
  counts_->setText(QString("%1 of %2").arg(shown_->rowCount()).arg(model_->rows().size()) +
                   (selected > 0 ? QString(" · %1 chosen").arg(selected) : QString()));
  give_->setEnabled(selected > 0);
}

std::vector<ReceiverRef> ReceiversPanel::chosen() const {
  std::vector<ReceiverRef> out;
  for (const QModelIndex& i : table_->selectionModel()->selectedRows())
    out.push_back(model_->rows()[std::size_t(shown_->mapToSource(i).row())].ref);
  return out;
}

void ReceiversPanel::give() {
  Grouping wish;
  if (const std::string d = dwelling_->text().trimmed().toStdString(); !d.empty()) wish.dwelling = d;
  if (const std::string b = building_->text().trimmed().toStdString(); !b.empty()) wish.building = b;
  if (subject_->currentIndex() > 0)
    wish.subject = subject_->currentIndex() == 1   ? Subject::LivingRoom
                   : subject_->currentIndex() == 2 ? Subject::OpenSpace
                                                   : Subject::None;
  if (!wish.dwelling && !wish.building && !wish.subject)
    return emit document_.notice("Say what the chosen are given: a dwelling, a building or a subject.", true);
  document_.change(regrouped(document_.project(), chosen(), wish), "Group receivers");
}

void ReceiversPanel::bring(const QString& path) {
  document_.inBackground([project = document_.project(), file = std::filesystem::path(path.toStdString()),
                          revision = document_.revision()]() -> std::function<void(Document&)> {
    const auto table = readReceivers(project, file);
    if (!table)
      return [text = table.error().text()](Document& d) { emit d.notice(QString::fromStdString(text), true); };
    auto laid = std::make_shared<ReceiversLaid>(withReceivers(project, *table));
    std::string text = laid->told;
    for (const std::string& n : table->notes) text += " " + n;
    return [laid, text, revision](Document& d) {
      if (d.revision() != revision)
        return emit d.notice("The project was changed while the table was read: bring it in again.", true);
      if (!laid->groups.empty()) d.change(laid->project, "Receivers from a table");
      emit d.notice(QString::fromStdString(text), laid->groups.empty());
    };
  });
}

void ReceiversPanel::exportTo(const QString& path) {
  std::vector<ReceiverRow> rows;
  for (int k = 0; k < shown_->rowCount(); ++k)
    rows.push_back(model_->rows()[std::size_t(shown_->mapToSource(shown_->index(k, 0)).row())]);
  const Outcome done =
      saveFile(path.toStdString(), receiverRowsCsv(document_.project(), rows, model_->unit().toStdString()));
  emit document_.notice(done ? QString("Saved %1 with %2 receivers.").arg(path).arg(rows.size())
                             : "Not saved. " + QString::fromStdString(done.error().text()),
                        !done);
}

} // namespace noonward
