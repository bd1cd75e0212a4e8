#include "app/steps/options_sheet.h"
#include "app/theme/style.h"
#include "core/files/project/design_json.h"
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>

namespace noonward {

QString nextOptionName(const Project& p) {
  for (char c = 'B'; c <= 'Z'; ++c) {
    const QString name = QString("Option %1").arg(QLatin1Char(c));
    if (std::none_of(p.options.begin(), p.options.end(), [&](const Option& o) { return o.name == name.toStdString(); }))
      return name;
  }
  return "Another option";
}

OptionsSheet::OptionsSheet(Document& document, Studies& studies, QWidget* parent)
    : Sheet("Options", document, parent), studies_(studies) {
  about_ = addNote();
  about_->setAccessibleName("About the options");
  list_ = new QListWidget;
  list_->setAccessibleName("Options");
  list_->setFixedHeight(120);
  connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
    const Project& p = document_.project();
    if (row < 0 || std::size_t(row) >= p.options.size() || std::size_t(row) == p.option) return;
    document_.change(withOption(p, std::size_t(row)), "Choose option");
  });
  addWidget(list_);
  addButton(
      "Add an option",
      [this] {
        document_.change(withNewOption(document_.project(), nextOptionName(document_.project()).toStdString()),
                         "Add option");
      },
      true);
  withOptions_ = addGroup();
  name_ = addName("Name", [this](const QString& t) {
    Project p = document_.project();
    if (p.options.empty() || t.trimmed().isEmpty()) return;
    p.options[p.option].name = t.trimmed().toStdString();
    document_.change(std::move(p), "Name option");
  });
  name_->setAccessibleName("Name of the option");
  remove_ = addButton("Remove this option", [this] {
    document_.change(withoutOption(document_.project(), document_.project().option), "Remove option");
  });
  addHeading("What it changes");
  changes_ = addNote();
  changes_->setAccessibleName("Changes of the option");
  addHeading("Beside each other");
  compare_ = addButton("Compare them …", [this] { emit compareWanted(); });
  addNote("Any number of options and runs of sweeps in an order of your own: inputs that differ, figures with their "
          "errors, plans at one scale.");
  endGroup();
  many_ = addGroup();
  addHeading("Many designs");
  addButton("Try many designs …", [this] { emit sweepWanted(); });
  addNote("Values of windows, shading, masses, glass or settings, run one after the other: what matters, what is best, "
          "and the least change that passes.");
  endGroup();
  body()->addStretch();
  explain({{name_, "What this option is called in the window, in tables and in the record"}});
  refresh();
}

void OptionsSheet::refresh() {
  const Project& p = document_.project();
  const bool any = !p.options.empty();
  withOptions_->setVisible(any);
  many_->setVisible(!p.elements.empty() || !p.rooms.empty()); // else there is nothing to vary
  about_->setText(any ? "Masses, rooms, windows, shading and finishes belong to an option; place, sensors and studies "
                        "are shared. An edit of the first reaches the others, except where they change the same."
                      : "One design alone. An added option begins alike; what you then change belongs to it.");
  QString key;
  for (const Option& o : p.options) key += QString::fromStdString(o.id.text() + o.name);
  const QSignalBlocker quiet(list_);
  if (key != shown_) {
    shown_ = key;
    list_->clear();
    char letter = 'A';
    for (const Option& o : p.options)
      list_->addItem(QString("%1  %2").arg(QLatin1Char(letter++)).arg(QString::fromStdString(o.name)));
  }
  list_->setFixedHeight(int(std::min<std::size_t>(8, p.options.size())) * 26 + 6);
  if (any) list_->setCurrentRow(int(p.option));
  list_->setVisible(any);
  show(name_, any ? QString::fromStdString(p.options[p.option].name) : QString());
  name_->setEnabled(any);
  remove_->setEnabled(any);
  compare_->setEnabled(p.options.size() > 1 || p.beside.size() > 1);
  QStringList lines;
  if (any && p.option > 0) {
    for (const std::string& t : optionDifferences(p, 0, p.option)) lines << "· " + QString::fromStdString(t);
    for (const std::string& t : p.options[p.option].orphans)
      lines << "no longer finds its place: " + QString::fromStdString(t);
    if (lines.isEmpty()) lines << QString("Nothing yet against %1.").arg(QString::fromStdString(p.options[0].name));
  }
  if (lines.size() > 40) lines = lines.mid(0, 40) << QString("and %1 more").arg(lines.size() - 40);
  changes_->setText(lines.isEmpty() ? (any ? "The first option: the others are stated against it." : "")
                                    : lines.join("\n"));
}

} // namespace noonward
