#include "app/steps/record_plan_rows.h"
#include "app/theme/style.h"
#include "core/model/record_parts.h"
#include <QBoxLayout>
#include <QEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPlainTextEdit>
#include <QPushButton>

namespace noonward {

namespace {

QLineEdit* lineIn(QBoxLayout* into, const QString& name, int width, const QString& tip) {
  auto* label = new QLabel(name);
  label->setFont(textFont(11.5));
  into->addWidget(label);
  auto* field = new QLineEdit;
  field->setAccessibleName(name);
  field->setToolTip(tip);
  if (width > 0) field->setFixedWidth(width);
  label->setBuddy(field);
  into->addWidget(field);
  return field;
}

QBoxLayout* bare(QBoxLayout* layout) {
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(6);
  return layout;
}

} // namespace

RecordPlanRows::RecordPlanRows(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  auto* all = bare(new QVBoxLayout(this));
  parts_ = new QListWidget;
  parts_->setAccessibleName("Parts of the record");
  parts_->setFixedHeight(148);
  parts_->setToolTip("In the order of the pages; the front page, the inputs and the findings always go with them");
  all->addWidget(parts_);
  auto* line = bare(new QHBoxLayout);
  const auto button = [&](const QString& text, const QString& name, const QString& tip) {
    auto* b = new QPushButton(text);
    b->setAccessibleName(name);
    b->setToolTip(tip);
    line->addWidget(b);
    return b;
  };
  add_ = button("Add", "Add a part", "A study, a rule, a shadow plan, a saved view or a text of your own");
  sooner_ = button("↑", "Sooner in the record", "One place up");
  later_ = button("↓", "Later in the record", "One place down");
  out_ = button("Leave out", "Leave the part out", "The study or rule stays in the project");
  for (QPushButton* b : {sooner_, later_}) b->setFixedWidth(34);
  line->addStretch();
  all->addLayout(line);
  auto* menu = new QMenu(add_);
  menu->setAccessibleName("Parts to add");
  add_->setMenu(menu);
  connect(menu, &QMenu::aboutToShow, this, [this] { fillAdd(); });

  titleRow_ = new QWidget;
  title_ = lineIn(bare(new QHBoxLayout(titleRow_)), "Heading", 0, "Above the text, in the record");
  all->addWidget(titleRow_);
  shadowRow_ = new QWidget;
  auto* shadow = bare(new QVBoxLayout(shadowRow_));
  auto *when = bare(new QHBoxLayout), *hours = bare(new QHBoxLayout);
  shadow->addLayout(when);
  shadow->addLayout(hours);
  day_ = lineIn(when, "Day", 72, "Of the shadow plan, such as 21 Mar");
  when->addStretch();
  step_ = lineIn(when, "every, min", 56, "Minutes between its moments");
  from_ = lineIn(hours, "from", 66, "Clock time at which it begins");
  hours->addStretch();
  to_ = lineIn(hours, "to", 66, "Clock time at which it ends");
  day_->setAccessibleName("Day of the shadow plan");
  from_->setAccessibleName("Shadow plan from");
  to_->setAccessibleName("Shadow plan to");
  step_->setAccessibleName("Shadow plan every, min");
  all->addWidget(shadowRow_);
  said_ = new QWidget;
  auto* said = bare(new QVBoxLayout(said_));
  auto* label = new QLabel("Said before it");
  label->setFont(textFont(11.5));
  said->addWidget(label);
  text_ = new QPlainTextEdit;
  text_->setAccessibleName("Said before the part");
  text_->setToolTip("A paragraph of your own, printed before what the part shows");
  text_->setTabChangesFocus(true);
  text_->setFixedHeight(62);
  text_->installEventFilter(this);
  label->setBuddy(text_);
  said->addWidget(text_);
  all->addWidget(said_);

  connect(parts_, &QListWidget::currentRowChanged, this, [this] {
    if (!filling_) showChosen();
  });
  const auto move = [this](int by) {
    const int row = parts_->currentRow();
    edit(
        by < 0 ? "Tell sooner" : "Tell later",
        [&](std::vector<RecordPart>& parts) { std::swap(parts[std::size_t(row)], parts[std::size_t(row + by)]); },
        row + by);
  };
  connect(sooner_, &QPushButton::clicked, this, [move] { move(-1); });
  connect(later_, &QPushButton::clicked, this, [move] { move(1); });
  connect(out_, &QPushButton::clicked, this, [this] {
    const int row = parts_->currentRow();
    edit(
        "Leave out of the record", [&](std::vector<RecordPart>& parts) { parts.erase(parts.begin() + row); },
        std::max(0, row - 1));
  });
  connect(title_, &QLineEdit::editingFinished, this, [this] {
    editChosen("Head a text", [&](RecordPart& part) { part.title = title_->text().trimmed().toStdString(); });
  });
  const auto shadows = [this] {
    ShadowDay s;
    const auto date = dateFromText(day_->text().trimmed().toStdString() + " 2026");
    const auto from = minutesFromText(from_->text().trimmed().toStdString()),
               to = minutesFromText(to_->text().trimmed().toStdString());
    const auto step = numberFromText(step_->text().trimmed().toStdString());
    if (!date || !from || !to || *to <= *from || !step || *step < 1 || *step > 240) {
      showChosen();
      return emit document_.notice("A shadow plan needs a day such as 21 Mar, two clock times, the first before the "
                                   "second, and a step of 1 to 240 min.",
                                   true);
    }
    s.month = date->month;
    s.day = date->day;
    s.fromMinute = *from;
    s.toMinute = *to;
    s.stepMinutes = *step;
    editChosen("Set the shadow plan", [&](RecordPart& part) { part.shadows = s; });
  };
  for (QLineEdit* f : {day_, from_, to_, step_})
    connect(f, &QLineEdit::editingFinished, this, [f, shadows] {
      if (!f->isModified()) return;
      f->setModified(false);
      shadows();
    });
  refresh();
}

bool RecordPlanRows::eventFilter(QObject* watched, QEvent* event) {
  if (watched == text_ && event->type() == QEvent::FocusOut) takeParagraph();
  return QWidget::eventFilter(watched, event);
}

void RecordPlanRows::takeParagraph() {
  editChosen("Say in the record", [&](RecordPart& part) { part.text = text_->toPlainText().trimmed().toStdString(); });
}

QString RecordPlanRows::nameOf(const RecordPart& part) const {
  const Project& p = document_.project();
  QString name = QString::fromStdString(partName(p, part));
  if (part.kind == RecordPartKind::Verdict)
    for (const Judgement& j : p.judgements)
      if (const Yardstick* y = j.id.text() == part.of ? document_.shelf().find(j.yardstick) : nullptr)
        name = QString::fromStdString(y->title);
  const char* kind = part.kind == RecordPartKind::Study      ? "study"
                     : part.kind == RecordPartKind::Verdict  ? "rule"
                     : part.kind == RecordPartKind::View     ? "saved view"
                     : part.kind == RecordPartKind::Text     ? "text"
                     : part.kind == RecordPartKind::Measured ? "measured"
                     : part.kind == RecordPartKind::Sweep    ? "many designs"
                                                             : "";
  return QString(*kind ? "%1  ·  %2" : "%1%2").arg(name, QString(kind));
}

void RecordPlanRows::edit(const QString& name, const std::function<void(std::vector<RecordPart>&)>& how, int row) {
  Project p = document_.project();
  std::vector<RecordPart> parts = recordParts(p);
  how(parts);
  p.record.parts = std::move(parts);
  document_.change(std::move(p), name);
  refresh();
  if (row >= 0 && row < parts_->count()) parts_->setCurrentRow(row);
}

void RecordPlanRows::editChosen(const QString& name, const std::function<void(RecordPart&)>& how) {
  const int row = parts_->currentRow();
  std::vector<RecordPart> parts = recordParts(document_.project());
  if (filling_ || row < 0 || row >= int(parts.size())) return;
  RecordPart changed = parts[std::size_t(row)];
  how(changed);
  if (changed == parts[std::size_t(row)]) return;
  edit(
      name, [&](std::vector<RecordPart>& all) { all[std::size_t(row)] = changed; }, row);
}

void RecordPlanRows::fillAdd() {
  QMenu* menu = add_->menu();
  menu->clear();
  const Project& p = document_.project();
  const std::vector<RecordPart> there = recordParts(p);
  const auto put = [&](RecordPart part, const QString& text) {
    const bool listed = std::any_of(there.begin(), there.end(), [&](const RecordPart& x) {
      return x.kind == part.kind && !part.of.empty() && x.of == part.of;
    });
    if (listed) return;
    connect(menu->addAction(text), &QAction::triggered, this, [this, part] {
      const int row = parts_->currentRow() < 0 ? parts_->count() : parts_->currentRow() + 1;
      edit(
          "Add to the record", [&](std::vector<RecordPart>& parts) { parts.insert(parts.begin() + row, part); }, row);
    });
  };
  const auto part = [](RecordPartKind kind, const std::string& of) {
    RecordPart x;
    x.kind = kind;
    x.of = of;
    return x;
  };
  for (const Judgement& j : p.judgements) {
    const RecordPart x = part(RecordPartKind::Verdict, j.id.text());
    put(x, nameOf(x));
  }
  for (const Study& s : p.studies) {
    const RecordPart x = part(RecordPartKind::Study, s.id.text());
    put(x, nameOf(x));
  }
  for (const SavedView& v : p.views) {
    const RecordPart x = part(RecordPartKind::View, v.id.text());
    put(x, nameOf(x));
  }
  for (const MeasuredSeries& s : p.measured) {
    const RecordPart x = part(RecordPartKind::Measured, s.id.text());
    put(x, nameOf(x));
  }
  for (const Sweep& s : p.sweeps) {
    const RecordPart x = part(RecordPartKind::Sweep, s.id.text());
    put(x, nameOf(x));
  }
  if (p.beside.size() > 1 &&
      std::none_of(there.begin(), there.end(), [](const RecordPart& x) { return x.kind == RecordPartKind::Beside; })) {
    const RecordPart x = part(RecordPartKind::Beside, "");
    put(x, nameOf(x));
  }
  menu->addSeparator();
  RecordPart shadows = part(RecordPartKind::Shadows, "");
  if (p.site.place.latitude < 0) shadows.shadows.month = 9;
  put(shadows, "Shadow plan");
  RecordPart text = part(RecordPartKind::Text, "");
  text.title = "Remarks on method";
  put(text, "Text of your own");
}

void RecordPlanRows::showChosen() {
  const std::vector<RecordPart> parts = recordParts(document_.project());
  const int row = parts_->currentRow(), n = int(parts.size());
  const bool any = row >= 0 && row < n;
  sooner_->setEnabled(any && row > 0);
  later_->setEnabled(any && row + 1 < n);
  out_->setEnabled(any && n > 1);
  said_->setVisible(any);
  const RecordPart part = any ? parts[std::size_t(row)] : RecordPart{};
  titleRow_->setVisible(any && part.kind == RecordPartKind::Text);
  shadowRow_->setVisible(any && part.kind == RecordPartKind::Shadows);
  filling_ = true;
  if (!title_->hasFocus() || title_->text().trimmed().toStdString() != part.title)
    title_->setText(QString::fromStdString(part.title));
  if (text_->toPlainText().trimmed().toStdString() != part.text) text_->setPlainText(QString::fromStdString(part.text));
  const ShadowDay& s = part.shadows;
  day_->setText(QString::fromStdString(dayText({2026, s.month, s.day})));
  from_->setText(QString::fromStdString(clockText(s.fromMinute)));
  to_->setText(QString::fromStdString(clockText(s.toMinute)));
  step_->setText(QString::number(s.stepMinutes));
  filling_ = false;
}

void RecordPlanRows::refresh() {
  const std::vector<RecordPart> parts = recordParts(document_.project());
  QString key;
  for (const RecordPart& part : parts) key += nameOf(part) + "\n";
  if (key != shown_ || parts_->count() != int(parts.size())) {
    shown_ = key;
    filling_ = true;
    const int row = parts_->currentRow();
    parts_->clear();
    for (const RecordPart& part : parts) parts_->addItem(nameOf(part));
    parts_->setCurrentRow(std::clamp(row, -1, parts_->count() - 1));
    filling_ = false;
  }
  if (!text_->hasFocus() && !title_->hasFocus()) showChosen();
}

RemarkRows::RemarkRows(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  auto* all = bare(new QVBoxLayout(this));
  auto* rows = new QWidget;
  rows_ = bare(new QVBoxLayout(rows));
  all->addWidget(rows);
  by_ = lineIn(all, "Reviewer", 0, "Who made the remark");
  remark_ = lineIn(all, "Remark", 0, "What the reviewer said; it stands in the record with the answer");
  auto* add = new QPushButton("Add the remark");
  all->addWidget(add);
  const auto take = [this] {
    const std::string text = remark_->text().trimmed().toStdString(), by = by_->text().trimmed().toStdString();
    if (text.empty()) return;
    remark_->clear();
    edit("Note a remark", [&](std::vector<Remark>& all) { all.push_back({by, text, ""}); });
  };
  connect(add, &QPushButton::clicked, this, take);
  connect(remark_, &QLineEdit::returnPressed, this, take);
}

void RemarkRows::edit(const QString& name, const std::function<void(std::vector<Remark>&)>& how) {
  Project p = document_.project();
  how(p.record.remarks);
  document_.change(std::move(p), name);
}

void RemarkRows::refresh() {
  const std::vector<Remark>& remarks = document_.project().record.remarks;
  if (filled_ && remarks == shown_) return;
  filled_ = true;
  shown_ = remarks;
  while (QLayoutItem* item = rows_->takeAt(0)) {
    item->widget()->hide();
    item->widget()->deleteLater();
    delete item;
  }
  for (std::size_t k = 0; k < remarks.size(); ++k) {
    const Remark& r = remarks[k];
    const QString said = QString::fromStdString((r.by.empty() ? "" : r.by + ": ") + r.text);
    auto* label = new QLabel(said);
    label->setWordWrap(true);
    label->setFont(textFont(11.5));
    rows_->addWidget(label);
    auto* line = new QWidget;
    auto* cells = bare(new QHBoxLayout(line));
    auto* answer = new QLineEdit(QString::fromStdString(r.answer));
    answer->setAccessibleName("Answer: " + said);
    answer->setPlaceholderText("the answer, in a sentence");
    answer->setCursorPosition(0);
    answer->setToolTip("Stands below the remark in the record");
    cells->addWidget(answer, 1);
    auto* gone = new QPushButton("×");
    gone->setAccessibleName("Remove remark: " + said);
    gone->setToolTip("Remove this remark");
    gone->setFixedWidth(26);
    cells->addWidget(gone);
    rows_->addWidget(line);
    connect(answer, &QLineEdit::editingFinished, this, [this, answer, k] {
      if (!answer->isModified()) return;
      answer->setModified(false);
      edit("Answer a remark", [&](std::vector<Remark>& all) {
        if (k < all.size()) all[k].answer = answer->text().trimmed().toStdString();
      });
    });
    connect(gone, &QPushButton::clicked, this, [this, k] {
      edit("Remove a remark", [&](std::vector<Remark>& all) {
        if (k < all.size()) all.erase(all.begin() + std::ptrdiff_t(k));
      });
    });
  }
}

} // namespace noonward
