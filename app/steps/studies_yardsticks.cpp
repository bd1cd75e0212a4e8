// The Studies sheet's part for yardsticks: which is laid against what, and what of it the project changes.

#include "app/steps/studies_sheet.h"
#include "app/theme/style.h"
#include "core/model/form/edit.h"
#include <QComboBox>
#include <QCompleter>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace noonward {

void StudiesSheet::addYardstick() {
  const int i = yardstick_->currentIndex();
  if (i < 0 || i >= int(document_.shelf().yardsticks.size())) return;
  Project p = document_.project();
  Judgement j;
  j.id = JudgementId::fresh();
  j.yardstick = document_.shelf().yardsticks[std::size_t(i)].key;
  if (const Study* s = study()) j.groups = s->groups;
  if (j.groups.empty() || document_.shelf().yardsticks[std::size_t(i)].measure == Measure::SunHoursDwellings) {
    j.groups.clear();
    for (const SensorGroup& g : p.groups) j.groups.push_back(g.id);
  }
  const Measure measure = document_.shelf().yardsticks[std::size_t(i)].measure;
  if (ofRooms(measure)) { // of the rooms that the study looks at
    j.groups.clear();
    if (const Study* s = study(); s && s->kind == studyKindOf(measure)) j.groups = s->groups;
    std::erase_if(p.judgements, [&](const Judgement& o) { return o.yardstick == j.yardstick; });
  }
  std::erase_if(p.judgements, [&](const Judgement& o) { return o.yardstick == j.yardstick && o.groups == j.groups; });
  p.judgements.push_back(std::move(j));
  document_.change(std::move(p), "Lay yardstick");
}

/// Where another kind of study is looked at, the first rule that goes with it.
void StudiesSheet::offerRuleFor(StudyKind kind) {
  if (ruleOffered_ == kind) return;
  ruleOffered_ = kind;
  const auto& rules = document_.shelf().yardsticks;
  const auto fits = [&](const Yardstick& y) { return studyKindOf(y.measure) == kind; };
  const int now = yardstick_->currentIndex();
  if (now >= 0 && now < int(rules.size()) && fits(rules[std::size_t(now)])) return;
  const auto rule = std::find_if(rules.begin(), rules.end(), fits);
  if (rule == rules.end()) return;
  yardstick_->setCurrentIndex(int(rule - rules.begin()));
  showParameters();
}

void StudiesSheet::setUpByYardstick() {
  const int i = yardstick_->currentIndex();
  if (i < 0 || i >= int(document_.shelf().yardsticks.size())) return;
  const Yardstick& y = document_.shelf().yardsticks[std::size_t(i)];
  Project p = withSetUp(document_.project(), y);
  StudyId id;
  for (const Study& s : p.studies)
    if (s.name == y.title) id = s.id;
  document_.change(std::move(p), "Set up by yardstick");
  if (id) document_.look([&](Looking& l) { l.study = id; });
}

void StudiesSheet::showParameters() {
  const int i = yardstick_->currentIndex();
  if (i >= 0 && i < int(document_.shelf().yardsticks.size())) {
    const Measure m = document_.shelf().yardsticks[std::size_t(i)].measure;
    lay_->setText(ofRooms(m)                                                    ? "Judge these rooms"
                  : judgedBy(m) == JudgedBy::Light && m != Measure::Irradiation ? "Judge these windows"
                                                                                : "Judge this area");
    lay_->setAccessibleName(lay_->text());
    setUp_->setVisible(ofRoomGrids(m));
  }
  while (QLayoutItem* item = parameters_->takeAt(0)) {
    if (item->widget()) {
      item->widget()->hide();
      item->widget()->deleteLater();
    }
    delete item;
  }
  if (i < 0 || i >= int(document_.shelf().yardsticks.size())) return;
  const Yardstick& y = document_.shelf().yardsticks[std::size_t(i)];
  const Judgement* own = nullptr;
  for (const Judgement& j : document_.project().judgements)
    if (j.yardstick == y.key) own = &j;
  auto* edition = new QLabel(QString::fromStdString(y.edition));
  edition->setWordWrap(true);
  edition->setFont(textFont(11));
  parameters_->addWidget(edition);
  for (const Parameter& q : y.parameters) {
    auto* line = new QWidget;
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(0, 0, 0, 0);
    auto* label = new QLabel(QString::fromStdString(q.label));
    label->setFont(textFont(11.5));
    row->addWidget(label, 1);
    auto* field = new QLineEdit;
    field->setAlignment(Qt::AlignRight);
    field->setFixedWidth(116);
    field->setAccessibleName(QString::fromStdString(q.label));
    field->setToolTip(QString::fromStdString(q.help));
    QString text = std::holds_alternative<double>(q.value) ? QString::number(std::get<double>(q.value))
                                                           : QString::fromStdString(std::get<std::string>(q.value));
    if (own && own->changed.contains(q.key)) text = QString::fromStdString(own->changed.at(q.key));
    const bool isNumber = numberFromText(text.toStdString()).has_value();
    field->setText(text + (q.unit.empty() || !isNumber ? QString() : " " + QString::fromStdString(q.unit)));
    QStringList offered;
    for (const std::string& c : q.choices) offered << QString::fromStdString(c);
    QString table;
    for (const auto& [name, number] : q.table) {
      offered << QString::fromStdString(name);
      table += QString("\n%1: %2 %3").arg(QString::fromStdString(name)).arg(number).arg(QString::fromStdString(q.unit));
    }
    if (!table.isEmpty()) field->setToolTip(field->toolTip() + "\n" + table);
    if (!offered.isEmpty()) { // the words that it takes, as one types
      auto* words = new QCompleter(offered, field);
      words->setCaseSensitivity(Qt::CaseInsensitive);
      words->setCompletionMode(QCompleter::PopupCompletion);
      field->setCompleter(words);
      if (q.choices.size() > 1) field->setToolTip(field->toolTip() + "\nOne of: " + offered.join(", "));
    }
    field->setEnabled(own != nullptr);
    const JudgementId id = own ? own->id : JudgementId{};
    connect(field, &QLineEdit::editingFinished, this, [this, field, q, id, y] {
      if (!field->isModified()) return;
      field->setModified(false);
      QString value = field->text().trimmed();
      if (!q.unit.empty() && value.endsWith(QString::fromStdString(q.unit)))
        value.chop(int(QString::fromStdString(q.unit).size()));
      const auto tried = withChanges(y, {{q.key, value.trimmed().toStdString()}});
      if (!tried) return showFault(field, QString::fromStdString(tried.error().message));
      Project p = document_.project();
      for (Judgement& j : p.judgements)
        if (j.id == id) j.changed[q.key] = value.trimmed().toStdString();
      document_.change(std::move(p), "Change yardstick");
    });
    row->addWidget(field);
    parameters_->addWidget(line);
  }
}

} // namespace noonward
