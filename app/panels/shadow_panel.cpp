#include "app/panels/shadow_panel.h"
#include "app/theme/style.h"
#include "core/base/units.h"
#include "core/files/results/shadow_files.h"
#include "core/files/save_file.h"
#include "picture/shadow_page.h"
#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

namespace noonward {

ShadowOutlines::ShadowOutlines(QWidget* parent) : QWidget(parent) {
  setMinimumSize(320, 320);
  setAccessibleName("Outlines of shadow");
}

void ShadowOutlines::show(std::shared_ptr<const Project> project, std::shared_ptr<const ShadowPlan> plan) {
  project_ = std::move(project);
  plan_ = std::move(plan);
  drawn_ = {};
  update();
}

void ShadowOutlines::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  if (!plan_) {
    p.fillRect(rect(), t.paper);
    return;
  }
  const qreal ratio = devicePixelRatioF();
  if (drawn_.isNull() || drawn_.size() != size() * ratio || dark_ != t.dark) {
    drawn_ = QPixmap(size() * ratio);
    drawn_.setDevicePixelRatio(ratio);
    drawn_.fill(t.paper);
    QPainter painter(&drawn_);
    paintShadowOutlines(painter, QRectF(rect()).adjusted(0, 0, -1, -1), {project_.get(), plan_.get(), ""}, t);
    dark_ = t.dark;
  }
  p.drawPixmap(0, 0, drawn_);
}

namespace {
enum class When { Moment, Day };
constexpr std::size_t mostMoments = 96;
} // namespace

ShadowPanel::ShadowPanel(Document& document, QWidget* parent) : Panel(parent), document_(document) {
  setAccessibleName("Shadow plan panel");
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(18, 10, 18, 12);
  all->setSpacing(6);
  all->addWidget(words("Shadow plan", titleFont(17), false));
  auto* both = new QHBoxLayout;
  both->setSpacing(18);
  all->addLayout(both, 1);
  both->addWidget(map_ = new ShadowOutlines, 1);
  auto* right = new QVBoxLayout;
  right->setSpacing(6);
  both->addLayout(right);
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(10);
  grid->setVerticalSpacing(5);
  grid->setColumnMinimumWidth(1, 190);
  right->addLayout(grid);
  const auto put = [&](const QString& label, QWidget* w, const QString& name, const QString& help) {
    const int row = grid->rowCount();
    auto* l = words(label, textFont(12), true, false);
    l->setToolTip(help);
    w->setToolTip(help);
    w->setAccessibleName(name);
    w->setAccessibleDescription(help);
    grid->addWidget(l, row, 0);
    grid->addWidget(w, row, 1);
  };
  put("At", when_ = new QComboBox, "Moments of the plan", "The moment of the Almanac, or hours of days");
  when_->addItems({"the moment looked at", "hours of days"});
  put("Days", days_ = new QLineEdit, "Days of the plan", "Days of the project's year, with commas between");
  put("From", from_ = new QLineEdit("9:00"), "Plan from", "Clock time at which the steps of a day begin");
  put("To", to_ = new QLineEdit("15:00"), "Plan to", "Clock time at which they end");
  put("Every, min", step_ = new QLineEdit("60"), "Step of the plan",
      "Minutes of a step; the sun is looked at in its middle, and what it casts counts for the whole of it");
  put("On", roofs_ = new QCheckBox("roofs too"), "Roofs too", "Shadows on roofs and decks beside those on the ground");
  table_ = new QTableWidget(0, 4);
  table_->setAccessibleName("Areas of shadow");
  table_->setHorizontalHeaderLabels({"Clock", "shadow m²", "before", "net new"});
  table_->verticalHeader()->hide();
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setSelectionMode(QAbstractItemView::NoSelection);
  table_->setShowGrid(false);
  table_->verticalHeader()->setDefaultSectionSize(22);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
  table_->setMinimumWidth(300);
  right->addWidget(table_, 1);
  told_ = words("", textFont(12), true);
  told_->setAccessibleName("Areas in words");
  told_->setFixedWidth(300);
  right->addWidget(told_);
  auto* foot = new QHBoxLayout;
  state_ = words("", textFont(12), true);
  state_->setAccessibleName("State of the plan");
  foot->addWidget(state_, 1);
  foot->addWidget(textButton("Save the plan …",
                             "PDF, SVG or PNG as a sheet; GeoJSON or DXF as polygons; CSV as a table",
                             [this] { emit fileWanted(); }));
  foot->addWidget(textButton("Close", "Escape closes too", [this] { hide(); }));
  all->addLayout(foot);
  asking_.setSingleShot(true);
  asking_.setInterval(80);
  connect(&asking_, &QTimer::timeout, this, &ShadowPanel::ask);
  const auto soon = [this] {
    if (isVisible()) asking_.start();
  };
  const auto enable = [this] {
    for (QWidget* w : std::initializer_list<QWidget*>{days_, from_, to_, step_})
      w->setEnabled(when_->currentIndex() == int(When::Day));
  };
  enable();
  connect(when_, &QComboBox::activated, this, [enable, soon] {
    enable();
    soon();
  });
  connect(roofs_, &QCheckBox::toggled, this, soon);
  for (QLineEdit* f : {days_, from_, to_, step_}) connect(f, &QLineEdit::editingFinished, this, soon);
  connect(&document_, &Document::projectChanged, this, soon);
  connect(&document_, &Document::lookingChanged, this, [this, soon] {
    if (when_->currentIndex() == int(When::Moment)) soon();
  });
  hide();
}

void ShadowPanel::open() {
  if (days_->text().isEmpty()) days_->setText("21 Mar");
  show();
  raise();
  setFocus();
  ask();
}

std::optional<ShadowPlanSettings> ShadowPanel::settings() {
  const Project& p = document_.project();
  const bool day = when_->currentIndex() == int(When::Day);
  ShadowPlanSettings s;
  s.roofs = roofs_->isChecked();
  if (!day) {
    s.moments = {document_.looking().moment};
    return s;
  }
  const auto wrong = [&](const QString& says) {
    state_->setText(says);
    return std::nullopt;
  };
  const auto from = minutesFromText(from_->text().trimmed().toStdString()),
             to = minutesFromText(to_->text().trimmed().toStdString());
  const auto step = numberFromText(step_->text().trimmed().toStdString());
  if (!from || !to || *to <= *from) return wrong("Clock times such as 9:00, in order, are expected.");
  if (!step || *step < 1 || *step > 720) return wrong("A step of 1 to 720 minutes is expected.");
  for (const QString& part : days_->text().split(',', Qt::SkipEmptyParts)) {
    auto date = dateFromText(part.trimmed().toStdString());
    if (!date) date = dateFromText(part.trimmed().toStdString() + " " + std::to_string(p.site.year));
    if (!date) return wrong(QString("\"%1\" is no day: write 21 Mar.").arg(part.trimmed()));
    for (const Instant& at : stepMoments(p, *date, *from, *to, *step)) s.moments.push_back(at);
  }
  if (s.moments.empty()) return wrong("A day such as 21 Mar is expected.");
  if (s.moments.size() > mostMoments)
    return wrong(QString("%1 moments are too many to be read: %2 at most.").arg(s.moments.size()).arg(mostMoments));
  s.hoursEach = *step / 60;
  return s;
}

void ShadowPanel::ask() {
  if (busy_) {
    again_ = true;
    if (control_) control_->wish = Wish::Drop; // what is under way is of yesterday
    return;
  }
  const auto wish = settings();
  if (!wish) return;
  busy_ = true;
  state_->setText("casting …");
  control_ = std::make_shared<RunControl>();
  document_.inBackground([this, wish = *wish, project = std::make_shared<const Project>(document_.project()),
                          control = control_]() -> std::function<void(Document&)> {
    auto made = std::make_shared<Expected<ShadowPlan>>(shadowPlan(*project, wish, *control));
    return [this, made, project](Document&) {
      busy_ = false;
      if (*made && (*made)->end == RunEnd::Finished) {
        of_ = project;
        plan_ = std::make_shared<const ShadowPlan>(std::move(**made));
        state_->setText(QString("%1 s").arg(plan_->seconds, 0, 'f', 2));
        fill();
        emit planChanged();
      } else if (!*made) {
        state_->setText(QString::fromStdString(made->error().text()));
        emit planChanged();
      }
      if (std::exchange(again_, false)) ask();
    };
  });
}

void ShadowPanel::fill() {
  map_->show(of_, plan_);
  const Project& p = *of_;
  const auto square = [&](double v) { return shownQuantity(v, v >= 100 ? 0 : 1, "m²", p.units); };
  table_->setHorizontalHeaderLabels({"Clock", "shadow", "before", "net new"});
  table_->setRowCount(0);
  bool days = false;
  for (const ShadowMoment& m : plan_->moments)
    days = days || !(p.zone().clock(m.at).date == p.zone().clock(plan_->moments[0].at).date);
  for (const ShadowMoment& m : plan_->moments) {
    const CivilTime clock = p.zone().clock(m.at);
    QString when = QString::fromStdString(clockText(clock.seconds / 60));
    if (days) when = QString::fromStdString(dayText(clock.date)) + " " + when;
    const QStringList cells = m.up ? QStringList{when, square(m.ground.allArea), square(m.ground.beforeArea),
                                                 plan_->hasProposal ? square(m.ground.freshArea) : "–"}
                                   : QStringList{when, "sun too low", "", ""};
    const int row = table_->rowCount();
    table_->insertRow(row);
    for (int c = 0; c < 4; ++c) {
      auto* item = new QTableWidgetItem(cells[c]);
      item->setFont(figureFont(11));
      item->setTextAlignment((c == 0 ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter);
      if (m.up)
        item->setToolTip(QString("altitude %1°, azimuth %2°")
                             .arg(degrees(m.altitude), 0, 'f', 1)
                             .arg(degrees(m.azimuth), 0, 'f', 1));
      table_->setItem(row, c, item);
    }
  }
  QStringList lines;
  if (!plan_->hasProposal) lines << "Nothing is marked as proposed: no shadow is new.";
  if (plan_->hasProposal && plan_->moments.size() > 1)
    lines << QString("Net new on the ground: %1·h.").arg(square(plan_->freshAreaHours()));
  if (plan_->hasProposal)
    for (const ShadowArea& a : plan_->moments[0].areas) {
      Instant when{};
      const double most = plan_->mostFresh(a.group, &when);
      lines << QString("%1: %2").arg(
          QString::fromStdString(a.name),
          most > 0 ? QString("%1·h net new, max %2 at %3")
                         .arg(square(plan_->freshAreaHours(a.group)), square(most),
                              QString::fromStdString(clockText(p.zone().clock(when).seconds / 60)))
                   : QString("no new shadow"));
    }
  if (roofs_->isChecked()) {
    double all = 0, fresh = 0;
    for (const ShadowMoment& m : plan_->moments) {
      all = std::max(all, m.roofs.allArea);
      fresh = std::max(fresh, m.roofs.freshArea);
    }
    lines << QString("On roofs at most %1, %2 of it net new.").arg(square(all), square(fresh));
  }
  told_->setText(lines.join("\n"));
}

void ShadowPanel::exportTo(const QString& path) {
  if (!plan_) {
    state_->setText("There is no plan to save yet.");
    return;
  }
  const auto first = of_->zone().clock(plan_->moments[0].at).date;
  const std::string title = of_->name + " · shadow plan " + dayText(first);
  writer_.start(
      [file = std::filesystem::path(path.toStdString()), plan = plan_, project = of_, title](RunControl&) -> Outcome {
        const std::string kind = file.extension().string();
        if (kind == ".geojson") return saveFile(file, shadowGeoJson(*project, *plan));
        if (kind == ".dxf") return saveFile(file, shadowDxf(*project, *plan));
        if (kind == ".csv") return saveFile(file, shadowCsv(*project, *plan));
        return writeShadowPage({project.get(), plan.get(), title}, file);
      },
      [this, path](const Outcome& done) {
        const QString says = done ? "Saved " + path + "." : "Not saved. " + QString::fromStdString(done.error().text());
        state_->setText(says);
        emit document_.notice(says, !done);
      });
}

} // namespace noonward
