#include "app/steps/sheet.h"
#include "app/theme/style.h"
#include <QComboBox>
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
  rowsInto_ = base_ = body_;
  title_ = new QLabel(title);
  title_->setFont(titleFont(20));
  body_->addWidget(title_);
}

void Sheet::setTitle(const QString& title) {
  title_->setText(title);
}

QWidget* Sheet::addGroup() {
  auto* group = new QWidget;
  auto* layout = new QVBoxLayout(group);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(5);
  body_->addWidget(group);
  base_ = rowsInto_ = layout;
  return group;
}

QLabel* Sheet::addHeading(const QString& text) {
  auto* l = new QLabel(text);
  l->setFont(titleFont(14.5));
  rowsInto_->addSpacing(8);
  rowsInto_->addWidget(l);
  return l;
}

QLabel* Sheet::addNote(const QString& text) {
  auto* l = new QLabel(text);
  l->setFont(textFont(11.5));
  l->setWordWrap(true);
  l->setProperty("quiet", true);
  l->setTextInteractionFlags(Qt::TextSelectableByMouse);
  rowsInto_->addWidget(l);
  return l;
}

void Sheet::addRow(const QString& label, QWidget* field, const QString& help) {
  auto* whole = new QWidget; // so that a row can vanish
  auto* row = new QHBoxLayout(whole);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(8);
  auto* l = new QLabel(label);
  l->setFont(textFont(12));
  l->setProperty("quiet", true);
  l->setFixedWidth(102);
  field->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
  row->addWidget(l);
  row->addWidget(field, 1);
  if (field->accessibleName().isEmpty()) field->setAccessibleName(label);
  if (!help.isEmpty()) {
    field->setToolTip(help);
    l->setToolTip(help);
    field->setAccessibleDescription(help);
  }
  rowsInto_->addWidget(whole);
}

QLineEdit* Sheet::addField(const QString& label, const std::function<void(const QString&)>& done, const QString& help) {
  auto* f = new QLineEdit;
  f->setAlignment(Qt::AlignRight);
  connect(f, &QLineEdit::editingFinished, this, [f, done] {
    if (!f->isModified()) return;
    f->setModified(false);
    showFault(f, {});
    done(f->text());
  });
  addRow(label, f, help);
  return f;
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
  rowsInto_->addWidget(b);
  return b;
}

QBoxLayout* Sheet::addButtons() {
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  rowsInto_->addLayout(row);
  return row;
}

QWidget* Sheet::addFold(const QString& label) {
  auto* b = new QPushButton("▸ " + label);
  b->setProperty("plain", true);
  b->setAccessibleName(label);
  b->setStyleSheet("text-align: left; padding-left: 0;");
  base_->addWidget(b);
  auto* inside = new QWidget;
  auto* layout = new QVBoxLayout(inside);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(5);
  base_->addWidget(inside);
  inside->hide();
  connect(b, &QPushButton::clicked, this, [b, inside, label] {
    inside->setVisible(!inside->isVisible());
    b->setText((inside->isVisible() ? "▾ " : "▸ ") + label);
  });
  rowsInto_ = layout;
  return inside;
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
