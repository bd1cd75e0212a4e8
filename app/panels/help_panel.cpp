#include "app/panels/help_panel.h"
#include "app/theme/style.h"
#include <QComboBox>
#include <QFile>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollBar>
#include <QTextBlock>
#include <QTextBrowser>
#include <QTextDocument>
#include <QVBoxLayout>

namespace noonward {

namespace {
struct HelpPage {
  const char *name, *file;
};
constexpr HelpPage helpPages[] = {{"Guide", "guide.md"},
                                  {"Methods and sources", "methods.md"},
                                  {"Yardsticks", "yardsticks.md"},
                                  {"Project file", "project-format.md"},
                                  {"Shortcuts", nullptr}};

QPushButton* helpButton(const QString& text, const QString& name, const std::function<void()>& pressed) {
  auto* b = new QPushButton(text);
  b->setAccessibleName(name);
  QObject::connect(b, &QPushButton::clicked, b, [pressed] { pressed(); });
  return b;
}
} // namespace

QString chapterOf(Step step, StudyKind kind) {
  switch (step) {
  case Step::Site:
    return "Site";
  case Step::Model:
    return "Model";
  case Step::Finishes:
    return "Finishes";
  case Step::Rooms:
    return "Rooms, windows, shading";
  case Step::Options:
    return "Options";
  case Step::Record:
    return "Record";
  case Step::Studies:
    break;
  }
  const StudyKindFacts& facts = factsOf(kind);
  return facts.settings == SettingsOf::SunHours ? "Studies: sun hours"
         : facts.settings == SettingsOf::Year   ? "Studies: the daylight year"
         : facts.inside                         ? "Studies: light"
                                                : "Studies: neighbours' windows and rooms";
}

HelpPanel::HelpPanel(QWidget* parent, const std::filesystem::path& docs, std::function<QList<QAction*>()> actions)
    : Panel(parent), docs_(docs), actions_(std::move(actions)) {
  setAccessibleName("Help panel");
  auto* down = new QVBoxLayout(this);
  down->setContentsMargins(16, 10, 12, 12);
  auto* head = new QHBoxLayout;
  head->addWidget(words("Help", titleFont(17), false, false));
  head->addSpacing(10);
  page_ = new QComboBox;
  page_->setAccessibleName("Page of the help");
  explain({{page_, "Which page of the documentation is read"}});
  for (const HelpPage& p : helpPages) page_->addItem(p.name);
  head->addWidget(page_);
  words_ = new QLineEdit;
  words_->setPlaceholderText("search, then Enter for the next place");
  words_->setAccessibleName("Words to find in the help");
  words_->setMinimumWidth(220);
  head->addWidget(words_, 1);
  found_ = words({}, textFont(11.5), true, false);
  found_->setAccessibleName("Places found in the help");
  head->addWidget(found_);
  head->addWidget(helpButton("Close", "Close help", [this] { hide(); }));
  down->addLayout(head);
  text_ = new QTextBrowser;
  text_->setAccessibleName("Text of the help");
  text_->setOpenExternalLinks(false);
  text_->setFrameShape(QFrame::NoFrame);
  text_->setSearchPaths({QString::fromStdString(docs_.string())});
  down->addWidget(text_, 1);
  connect(page_, &QComboBox::activated, this, [this](int i) { showPage(i); });
  connect(words_, &QLineEdit::returnPressed, this, &HelpPanel::find);
  connect(words_, &QLineEdit::textChanged, this, [this] { found_->setText({}); });
  hide();
}

void HelpPanel::showPage(int index) {
  page_->setCurrentIndex(index);
  chapter_.clear();
  if (!helpPages[index].file) {
    QString md = "# Shortcuts\n\n| Key | What it does |\n|---|---|\n";
    for (const QAction* a : actions_())
      if (!a->shortcut().isEmpty())
        md += QString("| `%1` | %2 |\n").arg(a->shortcut().toString(QKeySequence::NativeText), a->text());
    md += "\nIn the Almanac: `Left`, `Right` 5 minutes · `Up`, `Down` a day · `PgUp`, `PgDn` 30 days · `Space` plays "
          "and stops.\n\nOn the stage: type a length while drawing or pulling, then `Enter` · `Esc` leaves the tool · "
          "`Alt` and drag moves.\n";
    text_->setMarkdown(md);
    return;
  }
  QFile file(QString::fromStdString((docs_ / helpPages[index].file).string()));
  if (!file.open(QIODevice::ReadOnly))
    text_->setPlainText(QString("The page %1 is not where the program looks for it (%2).")
                            .arg(helpPages[index].file, QString::fromStdString(docs_.string())));
  else
    text_->setMarkdown(QString::fromUtf8(file.readAll()));
}

void HelpPanel::open(const QString& chapter) {
  showPage(0);
  show();
  raise();
  for (QTextBlock b = text_->document()->begin(); b.isValid(); b = b.next())
    if (b.blockFormat().headingLevel() > 0 && b.text() == chapter) {
      chapter_ = chapter;
      text_->moveCursor(QTextCursor::End); // so that the heading ends up at the top
      text_->setTextCursor(QTextCursor(b));
      text_->ensureCursorVisible();
      text_->verticalScrollBar()->setValue(text_->verticalScrollBar()->value() + text_->cursorRect().top() - 6);
    }
  words_->setFocus();
}

void HelpPanel::openShortcuts() {
  showPage(int(std::size(helpPages)) - 1);
  show();
  raise();
  text_->setFocus();
}

QString HelpPanel::heading() const {
  QTextBlock at = text_->cursorForPosition({4, 12}).block();
  while (at.isValid() && at.blockFormat().headingLevel() == 0) at = at.previous();
  return at.isValid() ? at.text() : QString();
}

/// The next place on this page, else the first on the pages after it.
void HelpPanel::find() {
  const QString wanted = words_->text().trimmed();
  if (wanted.isEmpty()) return;
  if (text_->find(wanted)) return found_->setText("found");
  const int pages = int(std::size(helpPages));
  for (int k = 1; k <= pages; ++k) {
    showPage((page_->currentIndex() + 1) % pages);
    text_->moveCursor(QTextCursor::Start);
    if (text_->find(wanted)) return found_->setText(k == pages ? "from the beginning" : "found");
  }
  found_->setText("nowhere");
}

namespace {
struct TourStep {
  const char *title, *text;
  Step step;
  const char* study; ///< of the demo, by name
};
constexpr TourStep tourSteps[] = {
    {"A place and its year",
     "Below lies the Almanac: 365 days across, 24 hours up. Click in it and the sun moves, everywhere. Site holds "
     "place, "
     "weather and true north.",
     Step::Site, nullptr},
    {"A model to pull",
     "Click the proposed block and pull its roof: shadows and numbers follow while you pull. Type a length while "
     "pulling for an exact one. Undo takes any step back.",
     Step::Model, nullptr},
    {"A question and its verdict",
     "The market square must keep its spring sun. The verdict stands above the numbers; what was asked is folded under "
     "one line. Click a cell for its hours to the second.",
     Step::Studies, "Square in spring"},
    {"Light in rooms",
     "The roof is lifted: the daylight factor of the library, room by room, each value with its error. Drag the slider "
     "to another threshold.",
     Step::Studies, "Library daylight"},
    {"Options",
     "“Deep fins” is another design of the same place. Change it, then lay both beside each other: what differs in "
     "what "
     "went in, and how far each figure moved.",
     Step::Options, nullptr},
    {"The record",
     "Pictures, tables, pages, and a folder to hand in from which every number can be computed anew. Help on anything: "
     "F1. Every action by its name: Ctrl+K.",
     Step::Record, nullptr}};
} // namespace

TourPanel::TourPanel(QWidget* parent, Document& document) : Panel(parent), document_(document) {
  setAccessibleName("Tour panel");
  setFixedWidth(380);
  auto* down = new QVBoxLayout(this);
  down->setContentsMargins(18, 12, 18, 14);
  title_ = words({}, titleFont(16), false);
  text_ = words({}, textFont(12.5), false);
  text_->setAccessibleName("Words of the tour");
  down->addWidget(title_);
  down->addWidget(text_);
  auto* row = new QHBoxLayout;
  row->addWidget(helpButton("Leave the tour", "Leave the tour", [this] { hide(); }));
  row->addStretch();
  row->addWidget(back_ = helpButton("Back", "Back in the tour", [this] { go(step_ - 1); }));
  row->addWidget(next_ = helpButton("Next", "Next in the tour", [this] { go(step_ + 1); }));
  next_->setProperty("main", true);
  down->addLayout(row);
  hide();
}

void TourPanel::start() {
  go(0);
  show();
  raise();
  next_->setFocus();
}

void TourPanel::go(int step) {
  constexpr int last = int(std::size(tourSteps)) - 1;
  if (step > last) return hide();
  step_ = std::max(0, step);
  const TourStep& t = tourSteps[step_];
  title_->setText(QString("%1 of %2 · %3").arg(step_ + 1).arg(last + 1).arg(t.title));
  text_->setText(t.text);
  back_->setEnabled(step_ > 0);
  next_->setText(step_ == last ? "Done" : "Next");
  StudyId study;
  for (const Study& s : document_.project().studies)
    if (t.study && s.name == t.study) study = s.id;
  document_.look([&](Looking& l) {
    l.step = t.step;
    l.sensor.reset();
    if (study) l.study = study;
  });
  adjustSize();
  emit placed();
}

} // namespace noonward
