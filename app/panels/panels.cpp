#include "app/panels/panels.h"
#include "app/theme/style.h"
#include "core/base/hash.h"
#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "core/proof/proof.h"
#include <QComboBox>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QStandardPaths>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

namespace noonward {

Panel::Panel(QWidget* parent) : QFrame(parent) {
  setFocusPolicy(Qt::StrongFocus);
}

void Panel::keyPressEvent(QKeyEvent* e) {
  if (e->key() == Qt::Key_Escape)
    hide();
  else
    QFrame::keyPressEvent(e);
}

void Panel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing, true);
  p.setPen(theme().rule);
  p.setBrush(theme().raised);
  p.drawRoundedRect(QRectF(0.5, 0.5, width() - 1.0, height() - 1.0), 4, 4);
}

QLabel* words(const QString& text, const QFont& font, bool quiet, bool wrap) {
  auto* l = new QLabel(text);
  l->setFont(font);
  l->setWordWrap(wrap);
  if (quiet) l->setProperty("quiet", true);
  return l;
}

QPushButton* textButton(const QString& text, const QString& tip, const std::function<void()>& pressed) {
  auto* b = new QPushButton(text);
  b->setAccessibleName(text);
  b->setToolTip(tip);
  QObject::connect(b, &QPushButton::clicked, b, [pressed] { pressed(); });
  return b;
}

namespace {
QPushButton* button(const QString& text, const std::function<void()>& pressed, bool main = false) {
  auto* b = new QPushButton(text);
  b->setAccessibleName(text);
  b->setProperty("main", main);
  QObject::connect(b, &QPushButton::clicked, b, [pressed] { pressed(); });
  return b;
}
void empty(QLayout* layout) {
  while (QLayoutItem* item = layout->takeAt(0)) {
    if (item->widget()) {
      item->widget()->hide();
      item->widget()->deleteLater();
    }
    if (item->layout()) {
      empty(item->layout());
      item->layout()->deleteLater();
    } else {
      delete item;
    }
  }
}
} // namespace

FindingsPanel::FindingsPanel(Document& document, QWidget* parent) : Panel(parent), document_(document) {
  setAccessibleName("Findings panel");
  auto* outer = new QVBoxLayout(this);
  outer->setContentsMargins(16, 10, 10, 12);
  auto* head = new QHBoxLayout;
  head->addWidget(words("Findings", titleFont(17)), 1);
  all_ = button(
      "Mend all", [this] { document_.mendAll(); }, true);
  all_->setToolTip("Every mend below but those of what may be on purpose: left out, not counted, in an option");
  head->addWidget(all_);
  head->addSpacing(8);
  outer->addLayout(head);
  auto* scroll = scroll_ = new QScrollArea;
  scroll->setWidgetResizable(true);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* inside = new QWidget;
  list_ = new QVBoxLayout(inside);
  list_->setContentsMargins(0, 0, 8, 0);
  list_->setSpacing(4);
  scroll->setWidget(inside);
  outer->addWidget(scroll);
  connect(&document_, &Document::findingsChanged, this, &FindingsPanel::refresh);
  hide();
}

void FindingsPanel::hideEvent(QHideEvent* e) {
  seen_.reset();
  emit previewed(nullptr);
  Panel::hideEvent(e);
}

void FindingsPanel::preview(const Finding& finding) {
  const bool off = seen_ == finding;
  seen_.reset();
  emit previewed(nullptr);
  if (!off) {
    seen_ = finding;
    seenText_ = "Working out what it changes…";
    document_.previewMend(finding, [this, finding](Document& d, Expected<Project> after) {
      if (seen_ != finding || !isVisible()) return; // another was asked for meanwhile
      if (!after) {
        seenText_ = QString::fromStdString(after.error().text());
      } else {
        const auto change = std::make_shared<const MendPreview>(previewOf(d.project(), *after));
        seenText_ = QString::fromStdString(change->text());
        emit previewed(change);
      }
      refresh();
    });
  }
  refresh();
}

void FindingsPanel::refresh() {
  const int at = scroll_->verticalScrollBar()->value(); // the list is made anew and keeps its place
  if (scroll_->isAncestorOf(focusWidget() ? focusWidget() : this))
    setFocus(); // else the focus wanders off with its button, and the list after it
  QTimer::singleShot(20, scroll_, [bar = scroll_->verticalScrollBar(), at] { bar->setValue(at); });
  empty(list_);
  const Findings& all = document_.findings();
  if (seen_ && std::none_of(all.begin(), all.end(), [&](const Finding& f) { // mended, or changed
        if (f == *seen_) return true;
        return std::any_of(f.ways.begin(), f.ways.end(),
                           [&](const MendWay& w) { return w.mend == seen_->mend && f.text == seen_->text; });
      })) {
    seen_.reset();
    emit previewed(nullptr);
  }
  all_->setVisible(
      std::count_if(all.begin(), all.end(), [](const Finding& f) { return !f.mend.empty() && !neverOfAll(f); }) > 1);
  if (all.empty()) list_->addWidget(words("Nothing to mend.", textFont(12.5), true));
  for (Rank rank : {Rank::StopsStudy, Rank::BendsResult, Rank::WorthKnowing}) {
    bool first = true;
    for (const Finding& f : all) {
      if (f.rank != rank) continue;
      if (first) {
        auto* head = words(rankText(rank), textFont(11.5, true));
        head->setStyleSheet(QString("color: %1;")
                                .arg((rank == Rank::StopsStudy    ? theme().short_
                                      : rank == Rank::BendsResult ? theme().noonText
                                                                  : theme().muted)
                                         .name()));
        list_->addSpacing(4);
        list_->addWidget(head);
      }
      first = false;
      list_->addWidget(words(QString::fromStdString(f.text) +
                                 (f.count > 1 && !QString::fromStdString(f.text).startsWith(QString::number(f.count))
                                      ? QString("  (%1)").arg(f.count)
                                      : QString()),
                             textFont(12.5)));
      // One line for each way to mend it, with what that would change.
      std::vector<MendWay> ways = f.ways;
      if (!f.mend.empty()) ways.insert(ways.begin(), {f.mend, f.mendText});
      const int across = std::max(200, std::min(width(), 510) - 60);
      QHBoxLayout* row = nullptr;
      int used = 0;
      const auto another = [&] {
        used = 0;
        if (row) row->addStretch();
        row = new QHBoxLayout;
        row->setSpacing(6);
        list_->addLayout(row);
      };
      another();
      // What would not fit goes to a line of its own, and is cut with its whole text as its tip.
      const auto put = [&](QPushButton* b) {
        b->setParent(this); // so that it has its style, and with it its width
        b->ensurePolished();
        if (b->sizeHint().width() > across) {
          b->setToolTip(b->text());
          b->setText(b->fontMetrics().elidedText(b->text(), Qt::ElideRight, across - 28));
        }
        if (used > 0 && used + 6 + b->sizeHint().width() > across) another();
        used += 6 + b->sizeHint().width(); // a layout does not count what is not shown yet
        row->addWidget(b);
      };
      for (std::size_t k = 0; k < ways.size(); ++k) {
        Finding other = f;
        other.mend = ways[k].mend;
        other.mendText = ways[k].text;
        auto* b = button(
            "Mend: " + QString::fromStdString(other.mendText), [this, other] { document_.mend(other); }, k == 0);
        b->setAccessibleName("Mend " + QString::fromStdString(k == 0 ? f.code : other.mend));
        put(b);
        auto* look = button(seen_ == other ? "Hide change" : "Preview", [this, other] { preview(other); });
        look->setAccessibleName("Preview " + QString::fromStdString(k == 0 ? f.code : other.mend));
        put(look);
        if (k + 1 < ways.size()) another();
      }
      const auto quiet = [&](QPushButton* b) {
        b->setProperty("plain", true);
        put(b);
        return b;
      };
      if (!f.elements.empty() || f.at) quiet(button("Show", [this, f] { emit flyTo(f); }));
      if (f.rank != Rank::StopsStudy)
        quiet(button(f.code == "weather.place" ? "Keep the project's place" : "Keep as it is", [this, f] {
          document_.acceptFinding(f);
        }))->setAccessibleName("Keep " + QString::fromStdString(f.code));
      row->addStretch();
      if (seen_ && seen_->code == f.code && seen_->text == f.text) {
        auto* change = words(seenText_, textFont(12.5, true));
        change->setAccessibleName("What the mend changes");
        list_->addWidget(change);
      }
    }
  }
  list_->addStretch();
}

DoAnything::DoAnything(QWidget* parent, std::function<QList<QAction*>()> actions)
    : Panel(parent), actions_(std::move(actions)) {
  setAccessibleName("Do anything panel");
  auto* l = new QVBoxLayout(this);
  l->setContentsMargins(10, 10, 10, 8);
  words_ = new QLineEdit;
  words_->setAccessibleName("Do anything words");
  words_->setPlaceholderText("Name an action…");
  words_->installEventFilter(this);
  l->addWidget(words_);
  list_ = new QListWidget;
  list_->setAccessibleName("Actions");
  l->addWidget(list_);
  connect(words_, &QLineEdit::textChanged, this, &DoAnything::fill);
  connect(list_, &QListWidget::itemClicked, this, &DoAnything::carryOut);
  hide();
}

void DoAnything::open() {
  words_->clear();
  fill();
  show();
  raise();
  words_->setFocus();
}

void DoAnything::fill() {
  list_->clear();
  shown_.clear();
  const QStringList wanted = words_->text().toLower().split(' ', Qt::SkipEmptyParts);
  for (QAction* a : actions_()) {
    const QString name = a->text();
    bool all = a->isEnabled();
    for (const QString& w : wanted) all = all && name.toLower().contains(w);
    if (all) shown_ << a;
  }
  // What begins with the first word comes first.
  if (!wanted.isEmpty())
    std::stable_partition(shown_.begin(), shown_.end(),
                          [&](const QAction* a) { return a->text().toLower().startsWith(wanted.front()); });
  for (const QAction* a : shown_)
    list_->addItem(a->text() +
                   (a->shortcut().isEmpty() ? QString() : "      " + a->shortcut().toString(QKeySequence::NativeText)));
  if (list_->count() > 0) list_->setCurrentRow(0);
  const int rows = std::clamp(list_->count(), 1, 11);
  resize(width(), 66 + rows * 27);
}

void DoAnything::carryOut() {
  const int row = list_->currentRow();
  hide();
  if (row >= 0 && row < shown_.size()) shown_[row]->trigger();
}

bool DoAnything::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    auto* k = static_cast<QKeyEvent*>(event);
    const int row = list_->currentRow();
    if (k->key() == Qt::Key_Down) return list_->setCurrentRow(std::min(row + 1, list_->count() - 1)), true;
    if (k->key() == Qt::Key_Up) return list_->setCurrentRow(std::max(row - 1, 0)), true;
    if (k->key() == Qt::Key_Return || k->key() == Qt::Key_Enter) return carryOut(), true;
    if (k->key() == Qt::Key_Escape) return hide(), true;
  }
  return Panel::eventFilter(watched, event);
}

ProofPanel::ProofPanel(QWidget* parent) : Panel(parent) {
  setAccessibleName("Proofs");
  auto* down = new QVBoxLayout(this);
  down->setContentsMargins(18, 14, 18, 14);
  head_ = new QLabel;
  head_->setFont(titleFont(16));
  head_->setAccessibleName("Proofs in words");
  down->addWidget(head_);
  auto* note =
      new QLabel("Known answers: worked examples, closed forms and slow independent methods, computed here and now.");
  note->setProperty("quiet", true);
  note->setWordWrap(true);
  down->addWidget(note);
  list_ = new QListWidget;
  list_->setAccessibleName("Proof cases");
  list_->setWordWrap(true);
  down->addWidget(list_, 1);
  hide();
}

ProofPanel::~ProofPanel() {
  stop_ = true;
  if (worker_.joinable()) worker_.join();
}

void ProofPanel::hideEvent(QHideEvent* event) {
  stop_ = true;
  Panel::hideEvent(event);
}

void ProofPanel::run() {
  show();
  raise();
  setFocus();
  stop_ = false;
  if (worker_.joinable()) return; // running, or its last answer is on the way
  list_->clear();
  holding_ = 0;
  head_->setText("Proving…");
  worker_ = std::thread([this] {
    bool whole = true;
    for (const ProofSubject& subject : proofSubjects()) {
      if (stop_) {
        whole = false;
        break;
      }
      QMetaObject::invokeMethod(
          this,
          [this, name = subject.name] {
            head_->setText(
                QString("%1 of %2 known answers hold so far; proving: %3").arg(holding_).arg(list_->count()).arg(name));
          },
          Qt::QueuedConnection);
      QMetaObject::invokeMethod(
          this, [this, cases = subject.prove()] { add(cases); }, Qt::QueuedConnection);
    }
    QMetaObject::invokeMethod(
        this,
        [this, whole] {
          worker_.join();
          head_->setText(QString("%1 of %2 known answers hold%3")
                             .arg(holding_)
                             .arg(list_->count())
                             .arg(whole ? "" : "; the others were not asked: the run was stopped"));
          if (whole) emit proved(holding_, list_->count());
        },
        Qt::QueuedConnection);
  });
}

void ProofPanel::add(const std::vector<ProofCase>& cases) {
  for (const ProofCase& c : cases) {
    holding_ += c.pass();
    auto* item = new QListWidgetItem(QString("%1 %2\n      expected %3 %4, got %5, off by %6 (allowed %7) · %8")
                                         .arg(c.pass() ? "✓" : "✗", QString::fromStdString(c.name))
                                         .arg(c.expected, 0, 'g', 7)
                                         .arg(QString::fromStdString(c.unit))
                                         .arg(c.got, 0, 'g', 7)
                                         .arg(c.deviation(), 0, 'g', 2)
                                         .arg(c.allowed, 0, 'g', 2)
                                         .arg(QString::fromStdString(c.source)));
    item->setForeground(c.pass() ? theme().ink : theme().short_);
    list_->addItem(item);
  }
}

QString recentPicture(const QString& project) {
  return QStandardPaths::writableLocation(QStandardPaths::CacheLocation) + "/recent/" +
         QString::fromStdString(Hasher().add(project.toStdString()).digest().hex().substr(0, 16)) + ".png";
}

FirstPage::FirstPage(QWidget* parent, const QStringList& recent) : Panel(parent) {
  setAccessibleName("First page");
  auto* l = new QVBoxLayout(this);
  l->setContentsMargins(40, 28, 40, 30);
  l->setSpacing(8);
  l->addWidget(words("Noonward", titleFont(32)));
  l->addWidget(words("How sun and daylight reach a place: known, shown, proved.", textFont(13), true));
  l->addSpacing(12);
  l->addWidget(button(
      "Open the demo: Ropewalk Quay", [this] { emit demo(); }, true));
  l->addWidget(button("Open the southern demo: Tarrow Green", [this] { emit southernDemo(); }));
  l->addWidget(button("Open a quarter of a city: Brevholm", [this] { emit quarter(); }));
  l->addWidget(button("A tour of the demo, in six steps", [this] { emit tour(); }));
  l->addWidget(button("Start from a weather file…", [this] { emit weather(); }));
  l->addWidget(button("Import a model…", [this] { emit model(); }));
  l->addWidget(button("Start with an empty site", [this] { emit empty(); }));
  if (!recent.isEmpty()) {
    l->addSpacing(10);
    l->addWidget(words("Recent", titleFont(14.5)));
    for (const QString& f : recent.mid(0, 5)) {
      auto* b = button(f.section('/', -1), [this, f] { emit file(f); });
      b->setToolTip(f);
      b->setProperty("plain", true);
      b->setStyleSheet("text-align: left;");
      if (const QPixmap small(recentPicture(f)); !small.isNull()) {
        b->setIcon(small);
        b->setIconSize({72, 45});
        b->setFixedHeight(51);
      }
      l->addWidget(b);
    }
  }
}

} // namespace noonward
