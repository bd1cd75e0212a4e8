#include "app/steps/sheet.h"
#include "app/theme/style.h"
#include <QComboBox>
#include <QEvent>
#include <QFrame>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace noonward {

Sheet::Sheet(const QString& title, Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  setAccessibleName(title + " sheet");
  body_ = new QVBoxLayout(this);
  body_->setContentsMargins(18, 10, 16, 14);
  body_->setSpacing(5);
  into_ = {body_};
  title_ = new QLabel(title);
  title_->setFont(titleFont(20));
  title_->setWordWrap(true);
  auto* head = new QHBoxLayout;
  head->addWidget(title_, 1);
  auto* what = new QPushButton("?");
  what->setProperty("plain", true);
  what->setFixedWidth(26);
  what->setAccessibleName("Help on " + title);
  what->setToolTip("The guide on this step (F1)");
  what->setFocusPolicy(Qt::TabFocus);
  connect(what, &QPushButton::clicked, this, &Sheet::helpWanted);
  head->addWidget(what, 0, Qt::AlignTop);
  body_->addLayout(head);
}

void Sheet::setTitle(const QString& title) {
  title_->setText(title);
}

QWidget* Sheet::addGroup() {
  auto* group = new QWidget;
  auto* layout = new QVBoxLayout(group);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(5);
  into_.back()->addWidget(group);
  into_.push_back(layout);
  return group;
}

QLabel* Sheet::addHeading(const QString& text) {
  auto* l = new QLabel(text);
  l->setFont(titleFont(14.5));
  l->setProperty("heading", true);
  into_.back()->addSpacing(8);
  into_.back()->addWidget(l);
  return l;
}

QLabel* Sheet::addNote(const QString& text) {
  auto* l = new QLabel(text);
  l->setFont(textFont(11.5));
  l->setWordWrap(true);
  l->setProperty("quiet", true);
  l->setTextInteractionFlags(Qt::TextSelectableByMouse);
  into_.back()->addWidget(l);
  return l;
}

void Sheet::help(QWidget* field, QLabel* label, const QString& name, const QString& text) {
  if (field->accessibleName().isEmpty()) field->setAccessibleName(name);
  if (text.isEmpty()) return;
  field->setToolTip(text);
  label->setToolTip(text);
  field->setAccessibleDescription(text);
}

void Sheet::addRow(const QString& label, QWidget* field, const QString& text) {
  auto* whole = new QWidget; // so that a row can vanish
  auto* row = new QHBoxLayout(whole);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(8);
  auto* l = new QLabel(label);
  l->setFont(textFont(12));
  l->setProperty("quiet", true);
  l->setFixedWidth(76);
  l->setWordWrap(true);
  field->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
  row->addWidget(l);
  row->addWidget(field, 1);
  field->installEventFilter(this);
  help(field, l, label, text);
  into_.back()->addWidget(whole);
}

void Sheet::addWide(const QString& label, QWidget* field, const QString& text) {
  auto* whole = new QWidget;
  auto* down = new QVBoxLayout(whole);
  down->setContentsMargins(0, 0, 0, 0);
  down->setSpacing(1);
  auto* l = new QLabel(label);
  l->setFont(textFont(11.5));
  l->setProperty("quiet", true);
  l->setVisible(!label.isEmpty());
  field->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
  down->addWidget(l);
  down->addWidget(field);
  field->installEventFilter(this);
  help(field, l, label, text);
  into_.back()->addWidget(whole);
}

/// The wheel scrolls the sheet; it never changes a choice that happens to lie under the pointer.
bool Sheet::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() != QEvent::Wheel || !qobject_cast<QComboBox*>(watched)) return QWidget::eventFilter(watched, event);
  event->ignore(); // goes on to what scrolls
  return true;
}

QLineEdit* Sheet::fieldFor(const std::function<void(const QString&)>& done) {
  auto* f = new QLineEdit;
  connect(f, &QLineEdit::editingFinished, this, [f, done] {
    if (!f->isModified()) return;
    f->setModified(false);
    showFault(f, {});
    done(f->text());
  });
  return f;
}

QLineEdit* Sheet::addField(const QString& label, const std::function<void(const QString&)>& done, const QString& help) {
  QLineEdit* f = fieldFor(done);
  f->setAlignment(Qt::AlignRight);
  addRow(label, f, help);
  return f;
}

QLineEdit* Sheet::addName(const QString& label, const std::function<void(const QString&)>& done, const QString& help) {
  QLineEdit* f = fieldFor(done);
  addWide(label, f, help);
  return f;
}

QComboBox* Sheet::addNames(const QString& label, const std::function<void(int)>& done, const QString& help) {
  auto* c = new QComboBox;
  connect(c, &QComboBox::activated, this, [done](int i) { done(i); });
  addWide(label, c, help);
  return c;
}

QComboBox* Sheet::addChoice(const QString& label, const QStringList& choices, const std::function<void(int)>& done,
                            const QString& help) {
  auto* c = new QComboBox;
  c->addItems(choices);
  connect(c, &QComboBox::activated, this, [done](int i) { done(i); });
  addRow(label, c, help);
  return c;
}

QPushButton* Sheet::addButton(const QString& text, const std::function<void()>& pressed, bool main) {
  auto* b = new QPushButton(text);
  b->setAccessibleName(text);
  b->setProperty("main", main);
  connect(b, &QPushButton::clicked, this, [pressed] { pressed(); });
  into_.back()->addWidget(b);
  return b;
}

QBoxLayout* Sheet::addButtons() {
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  into_.back()->addLayout(row);
  return row;
}

Fold::Fold(QPushButton* head, QWidget* inside, const QString& label)
    : QObject(head), head_(head), inside_(inside), label_(label) {
  inside_->setProperty("foldHead", QVariant::fromValue<QObject*>(head));
  setOpen(false);
  connect(head_, &QPushButton::clicked, this, [this] {
    setOpen(!isOpen());
    emit clicked(isOpen());
  });
}

bool Fold::isOpen() const {
  return !inside_->isHidden();
}

void Fold::setOpen(bool open) {
  inside_->setVisible(open);
  head_->setText((open ? "▾ " : "▸ ") + label_);
}

Fold* Sheet::addFold(const QString& label) {
  auto* b = new QPushButton;
  b->setProperty("plain", true);
  b->setAccessibleName(label);
  b->setStyleSheet("text-align: left; padding-left: 0;");
  into_.back()->addWidget(b);
  auto* inside = new QWidget;
  auto* layout = new QVBoxLayout(inside);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(5);
  into_.back()->addWidget(inside);
  into_.push_back(layout);
  return new Fold(b, inside, label);
}

void Sheet::show(QLineEdit* field, const QString& text) {
  const bool faulty = !field->styleSheet().isEmpty();
  if (field->hasFocus() && (field->isModified() || faulty)) return; // what is being typed is nobody else's
  if (field->text() != text) field->setText(text);
  if (!field->hasFocus()) field->setCursorPosition(0); // a long text shows its beginning
  showFault(field, {});
}

void Sheet::showFault(QLineEdit* field, const QString& text) {
  field->setStyleSheet(text.isEmpty() ? QString() : QString("border: 1px solid %1;").arg(theme().short_.name()));
  if (!text.isEmpty()) field->setToolTip(text);
}

} // namespace noonward
