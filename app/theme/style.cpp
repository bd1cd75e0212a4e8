#include "app/theme/style.h"
#include <QApplication>
#include <QPalette>
#include <QStyleFactory>
#include <QWidget>

namespace noonward {

namespace {
const Theme* current = &Theme::light();
QString icons;
} // namespace

const Theme& theme() {
  return *current;
}

void applyTheme(QApplication& app, const Theme& t, const QString& resources) {
  current = &t;
  if (!resources.isEmpty()) icons = resources + "/icons";
  app.setStyle(QStyleFactory::create("Fusion"));
  app.setFont(textFont(12.5));
  QPalette p;
  p.setColor(QPalette::Window, t.paper);
  p.setColor(QPalette::Base, t.raised);
  p.setColor(QPalette::AlternateBase, t.paper);
  p.setColor(QPalette::Text, t.ink);
  p.setColor(QPalette::WindowText, t.ink);
  p.setColor(QPalette::ButtonText, t.ink);
  p.setColor(QPalette::Button, t.paper);
  p.setColor(QPalette::Highlight, t.noon);
  p.setColor(QPalette::HighlightedText, t.dark ? QColor("#171A26") : QColor("#FFFFFF"));
  p.setColor(QPalette::PlaceholderText, t.muted);
  p.setColor(QPalette::ToolTipBase, t.ink);
  p.setColor(QPalette::ToolTipText, t.paper);
  p.setColor(QPalette::Link, t.noonText);
  app.setPalette(p);
  const QString sheet = R"(
QWidget { color: %ink; }
QLabel[quiet="true"] { color: %muted; }
QLabel[caption="true"] { background: %stage; padding: 0 3px; margin-left: -3px; }
QMainWindow, QDialog { background: %paper; }
QLineEdit, QComboBox, QSpinBox, QDoubleSpinBox, QPlainTextEdit { background: %raised; border: 1px solid %rule; border-radius: 3px; padding: 3px 6px; min-height: 18px; selection-background-color: %noon; }
QLineEdit:focus, QComboBox:focus, QPlainTextEdit:focus { border: 1px solid %noon; }
QLineEdit:disabled, QComboBox:disabled, QPlainTextEdit:disabled { background: transparent; color: %muted; }
QLineEdit[flat="true"] { background: transparent; border: none; border-radius: 0; padding: 2px 0; }
QLineEdit[flat="true"]:hover { background: %raised; }
QLineEdit[flat="true"]:focus { background: %raised; border-bottom: 1px solid %noon; }
QComboBox::drop-down { border: none; width: 18px; }
QComboBox::down-arrow { image: url(%icons/chevron-for-%theme.svg); width: 12px; height: 12px; }
QPushButton { background: transparent; border: 1px solid %rule; border-radius: 3px; padding: 4px 10px; }
QPushButton:hover { border-color: %muted; }
QPushButton:focus { border-color: %noon; }
QPushButton:pressed { background: %rule; }
QPushButton:disabled { color: %muted; }
QPushButton[main="true"] { background: %ink; color: %paper; border-color: %ink; }
QPushButton[main="true"]:hover { background: %accent; border-color: %accent; color: %paper; }
QPushButton[main="true"]:disabled { background: %rule; color: %muted; border-color: %rule; }
QPushButton[plain="true"] { border: none; padding: 3px 7px; }
QPushButton[plain="true"]:hover { color: %accent; }
QPushButton[plain="true"]:focus { border-bottom: 1px solid %noon; }
QPushButton[plain="true"]:checked { color: %accent; font-weight: 600; }
QPushButton[view="true"] { border: none; padding: 3px 8px; color: %muted; }
QPushButton[view="true"]:checked { background: %ink; color: %paper; }
QPushButton[view="true"]:hover:!checked { color: %ink; }
QPushButton[view="true"]:focus { border: 1px solid %noon; }
QCheckBox { spacing: 7px; }
QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
QListView, QTreeView, QTableView { background: transparent; border: none; border-top: 1px solid %rule; outline: 0; }
QListView::item, QTreeView::item { padding: 4px 2px; border-bottom: 1px solid %rule; }
QListView::indicator { width: 12px; height: 12px; background: %raised; border: 1px solid %muted; border-radius: 2px; }
QListView::indicator:checked { image: url(%icons/check-for-%theme.svg); }
QListView::indicator:indeterminate { background: %rule; }
QListView::item:selected, QTreeView::item:selected { background: %raised; color: %accent; }
QHeaderView { background: transparent; }
QHeaderView::section { background: transparent; border: none; border-bottom: 1px solid %ink; color: %muted; font-size: 11px; padding: 2px 3px; }
QTableView::item:selected { background: %raised; color: %accent; }
QListView:focus, QTableView:focus { border-top: 1px solid %noon; }
QScrollBar:vertical { width: 8px; background: transparent; }
QScrollBar::handle:vertical { background: %rule; border-radius: 3px; min-height: 24px; }
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page { height: 0; background: none; }
QSlider::groove:horizontal { height: 2px; background: %rule; }
QSlider::handle:horizontal { width: 12px; height: 12px; margin: -6px 0; border-radius: 6px; background: %noon; }
QSlider::handle:horizontal:focus { border: 2px solid %ink; }
QMenu { background: %raised; border: 1px solid %rule; padding: 4px; }
QMenu::item { padding: 5px 18px; }
QMenu::item:selected { background: %rule; }
QToolTip { background: %ink; color: %paper; border: none; padding: 4px; }
)";
  QString text = sheet;
  text.replace("%ink", t.ink.name())
      .replace("%paper", t.paper.name())
      .replace("%raised", t.raised.name())
      .replace("%rule", t.rule.name());
  text.replace("%stage", QString("rgba(%1,%2,%3,215)").arg(t.stage.red()).arg(t.stage.green()).arg(t.stage.blue()));
  text.replace("%noon", t.noon.name()).replace("%accent", t.noonText.name()).replace("%muted", t.muted.name());
  text.replace("%icons", icons).replace("%theme", t.dark ? "dark" : "light");
  app.setStyleSheet(text);
}

void explain(std::initializer_list<std::pair<QWidget*, const char*>> sentences) {
  for (const auto& [widget, sentence] : sentences) {
    widget->setToolTip(sentence);
    widget->setAccessibleDescription(sentence);
  }
}

QString shownQuantity(double si, int digits, const char* unit, const DisplayUnits& units) {
  return QString::fromStdString(quantityText(si, digits, unit, units));
}

QString countText(std::size_t n, const char* one, const char* more) {
  return QString("%1 %2").arg(n).arg(n == 1 ? QString(one) : more ? QString(more) : QString(one) + "s");
}

} // namespace noonward
