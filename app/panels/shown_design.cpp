#include "app/panels/shown_design.h"
#include "app/theme/style.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>

namespace noonward {

ShownDesign::ShownDesign(Document& document, QWidget* stage) : QFrame(stage), document_(document) {
  setAccessibleName("Design that is only shown");
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(10, 4, 6, 4);
  row->setSpacing(6);
  text_ = words("", textFont(12), false, false);
  text_->setAccessibleName("Design shown");
  row->addWidget(text_);
  const auto put = [&](const QString& text, const QString& name, const QString& tip, auto&& pressed) {
    auto* b = textButton(text, tip, pressed);
    b->setAccessibleName(name);
    row->addWidget(b);
  };
  put("‹", "Show the run before", "The run before it in the table", [this] { emit stepWanted(-1); });
  put("›", "Show the run after", "The run after it in the table", [this] { emit stepWanted(1); });
  put("Make it an option", "Make the shown design an option", "It becomes an option of the project, in hand",
      [this] { emit optionWanted(); });
  put("Back", "Back from the design shown", "The project again, and the desk of many designs",
      [this] { emit backWanted(); });
  connect(&document_, &Document::projectChanged, this, [this] {
    setVisible(document_.showing());
    if (!document_.showing()) return;
    text_->setText(document_.shown() + " · only shown");
    place();
  });
  hide();
}

void ShownDesign::place() {
  setStyleSheet(QString("noonward--ShownDesign { background: %1; border: 1px solid %2; border-radius: 3px; }")
                    .arg(theme().raised.name(), theme().noon.name()));
  const int most = parentWidget()->width() - 24;
  text_->setMaximumWidth(std::max(120, most - 300));
  adjustSize();
  move(std::max(12, (parentWidget()->width() - width()) / 2), 52);
  raise();
}

} // namespace noonward
