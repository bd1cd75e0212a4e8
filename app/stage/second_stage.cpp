#include "app/stage/second_stage.h"
#include "app/theme/style.h"
#include "picture/picture_export.h"
#include <QHBoxLayout>
#include <QHideEvent>
#include <QPushButton>

namespace noonward {

namespace {
constexpr std::array views{ViewKind::Solid, ViewKind::Plan, ViewKind::Facade, ViewKind::FromSun};
} // namespace

SecondStage::SecondStage(Document& document, Studies& studies, Stage& first, QWidget* parent)
    : QWidget(parent), document_(document), first_(first) {
  auto* down = new QVBoxLayout(this);
  down->setContentsMargins(0, 0, 0, 0);
  stage_ = new Stage(document, studies);
  stage_->setAccessibleName("Second stage");
  down->addWidget(stage_);
  auto* over = new QVBoxLayout(stage_);
  over->setContentsMargins(14, 9, 10, 8);
  over->setSpacing(1);
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  what_ = new QComboBox;
  what_->setAccessibleName("Second stage shows");
  what_->setToolTip("Another option with its result, or a moment that stays while the Almanac goes on");
  view_ = new QComboBox;
  view_->addItems({"seen alike", "solid", "plan", "facade", "from the sun"});
  view_->setAccessibleName("Second stage seen");
  view_->setToolTip("Seen alike, both stages turn together");
  auto* close = new QPushButton("✕");
  close->setProperty("view", true);
  close->setAccessibleName("Close the second stage");
  close->setToolTip("One stage again");
  row->addWidget(what_, 1);
  row->addWidget(view_);
  row->addWidget(close);
  over->addLayout(row);
  caption_ = new QLabel;
  caption_->setFont(textFont(13, true));
  caption_->setAccessibleName("Shown beside");
  line_ = new QLabel;
  line_->setFont(textFont(11.5));
  line_->setProperty("quiet", true);
  for (QLabel* l : {caption_, line_}) {
    l->setProperty("caption", true);
    l->setAttribute(Qt::WA_TransparentForMouseEvents);
    over->addWidget(l, 0, Qt::AlignLeft);
  }
  over->addStretch();
  connect(close, &QPushButton::clicked, this, &SecondStage::closed);
  connect(what_, &QComboBox::activated, this, [this](int i) {
    Sight& s = stage_->sight();
    s.setOption(i >= 2 && i - 2 < int(options_.size()) ? std::optional(options_[std::size_t(i - 2)]) : std::nullopt);
    s.setOwnMoment(i == 1 ? std::optional(document_.looking().moment) : std::nullopt);
    refresh();
  });
  connect(view_, &QComboBox::activated, this,
          [this](int i) { setView(i == 0 ? std::nullopt : std::optional(views[std::size_t(i - 1)])); });
  connect(&first_, &Stage::viewChanged, this, &SecondStage::alike);
  connect(stage_, &Stage::viewChanged, this, [this] {
    if (turning_) return;
    if (view_->currentIndex() == 0) {
      turning_ = true;
      first_.setCamera(stage_->camera());
      turning_ = false;
    } else if (const auto at = std::find(views.begin(), views.end(), stage_->camera().kind); at != views.end()) {
      view_->setCurrentIndex(int(at - views.begin()) + 1); // a plan that is turned is a solid
    }
  });
  for (auto changed : {&Sight::projectChanged, &Sight::lookingChanged, &Sight::answerChanged})
    connect(&stage_->sight(), changed, this, &SecondStage::refresh);
  hide();
}

/// Closed, it asks for nothing behind the window.
void SecondStage::hideEvent(QHideEvent* e) {
  QWidget::hideEvent(e);
  if (e->spontaneous()) return; // minimised
  stage_->sight().setOption({});
  stage_->sight().setOwnMoment({});
}

void SecondStage::open() {
  show();
  const Project& p = document_.project();
  const bool another = p.options.size() > 1;
  stage_->sight().setOwnMoment({});
  std::optional<OptionId> option;
  for (std::size_t k = 0; k < p.options.size() && !option; ++k)
    if (k != p.option) option = p.options[k].id;
  stage_->sight().setOption(option);
  setView(another ? std::nullopt
                  : std::optional(first_.camera().kind == ViewKind::Plan ? ViewKind::Solid : ViewKind::Plan));
  refresh();
}

void SecondStage::setView(std::optional<ViewKind> kind) {
  view_->setCurrentIndex(0);
  if (!kind) return alike();
  view_->setCurrentIndex(int(std::find(views.begin(), views.end(), *kind) - views.begin()) + 1);
  stage_->setView(*kind);
}

void SecondStage::alike() {
  if (turning_ || !isVisible() || view_->currentIndex() != 0) return;
  turning_ = true;
  stage_->setCamera(first_.camera());
  turning_ = false;
}

void SecondStage::refresh() {
  if (!isVisible()) return;
  const Project& p = document_.project();
  Sight& s = stage_->sight();
  QStringList items{"the same", "a moment of its own"};
  options_.clear();
  int at = s.ownMoment() ? 1 : 0;
  for (std::size_t k = 0; k < p.options.size(); ++k) {
    if (p.options.size() < 2) break;
    items << QString("%1 %2").arg(QChar('A' + int(k))).arg(QString::fromStdString(p.options[k].name));
    options_.push_back(p.options[k].id);
    if (s.option() == p.options[k].id) at = int(k) + 2;
  }
  QStringList now;
  for (int i = 0; i < what_->count(); ++i) now << what_->itemText(i);
  if (now != items) {
    what_->clear();
    what_->addItems(items);
  }
  what_->setCurrentIndex(at);
  const Project& seen = s.project();
  const QString moment = QString::fromStdString(momentText(seen, s.looking().moment));
  const QString option = seen.options.size() > 1 ? QString("%1 %2")
                                                       .arg(QChar('A' + int(seen.option)))
                                                       .arg(QString::fromStdString(seen.options[seen.option].name))
                                                 : QString::fromStdString(seen.site.name);
  caption_->setText(option);
  const QString wanting = s.wanting();
  line_->setText(wanting.isEmpty() ? "shadows " + moment : wanting);
}

} // namespace noonward
