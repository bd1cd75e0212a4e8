#include "app/almanac/almanac.h"
#include "app/theme/style.h"
#include <QAbstractItemView>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

namespace noonward {

/// Date, time, height and bearing of the sun, large enough to read across a desk.
class Readout : public QWidget {
public:
  Readout(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setAccessibleName("Moment");
    setFixedWidth(112);
  }

protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    const Theme& t = theme();
    const Project& project = document_.project();
    const Looking& l = document_.looking();
    const AlmanacGeometry g{0, 0, 1, 1, project.site.year, project.zone(), project.site.place, l.clock};
    const auto r = g.reading(l.moment);
    const SolarPosition s = solarPosition(sunOfDate(l.moment), project.site.place);
    p.setPen(t.ink);
    p.setFont(titleFont(19));
    p.drawText(QPointF(0, 20), QString::fromStdString(dayText(r.date)));
    p.drawText(QPointF(0, 42), QString::fromStdString(clockText(r.minutes)));
    p.setPen(t.muted);
    p.setFont(figureFont(10.5));
    const QString offset =
        l.clock == ClockKind::Solar ? QString("solar time")
        : l.clock == ClockKind::Standard
            ? QString("UTC%1").arg(QString::fromStdString(offsetText(g.zone.standardOffset(project.site.year))))
            : QString("UTC%1").arg(QString::fromStdString(offsetText(g.zone.offset(l.moment))));
    p.drawText(QPointF(0, 58), offset);
    p.drawText(QPointF(0, 74),
               s.altitude > 0 ? QString("altitude %1°").arg(degrees(s.altitude), 0, 'f', 1) : QString("sun down"));
    p.drawText(QPointF(0, 89), QString("azimuth %1°").arg(degrees(s.azimuth), 0, 'f', 1));
    setAccessibleDescription(
        QString("%1 %2 %3")
            .arg(QString::fromStdString(dayText(r.date)), QString::fromStdString(clockText(r.minutes)), offset));
  }

private:
  Document& document_;
};

Almanac::Almanac(Document& document, Studies& studies, QWidget* parent) : QWidget(parent), document_(document) {
  setMinimumHeight(166);
  auto* across = new QHBoxLayout(this);
  across->setContentsMargins(16, 6, 14, 4);
  across->setSpacing(12);
  auto* left = new QVBoxLayout;
  left->setSpacing(4);
  auto* head = new QHBoxLayout;
  head->setSpacing(6);
  auto* title = new QLabel("Almanac");
  title->setFont(titleFont(14));
  head->addWidget(title);
  head->addSpacing(6);
  picture_ = new QComboBox;
  picture_->setAccessibleName("Picture of the year");
  picture_->addItems({"what is looked at", "day and night", "sun at the probe", "direct normal light", "global light",
                      "light in the room", "beam in the room", "blinds of the room", "glare of the eye",
                      "temperature of the room", "heating and cooling", "temperature left to itself"});
  picture_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon); // not by its longest column
  picture_->setMinimumContentsLength(18);
  picture_->view()->setMinimumWidth(280);
  head->addWidget(picture_);
  clock_ = new QComboBox;
  clock_->setAccessibleName("Clock");
  clock_->addItems({"clock time", "standard time", "solar time"});
  head->addWidget(clock_);
  explain({{picture_, "What the picture of the year shows: days across, hours up"},
           {clock_, "The clock of the place with its changes, its standard time, or the sun's"}});
  head->addSpacing(10);
  auto* words = new QWidget;
  seasons_ = new QHBoxLayout(words);
  seasons_->setContentsMargins(0, 0, 0, 0);
  seasons_->setSpacing(0);
  head->addWidget(words);
  mark_ = new QPushButton("mark a season");
  mark_->setProperty("plain", true);
  mark_->setCheckable(true);
  mark_->setAccessibleName("Mark a season");
  mark_->setToolTip("Drag out months × hours in the Almanac (also with Shift, or the right button)");
  head->addWidget(mark_);
  line_ = new QLabel;
  line_->setFont(figureFont(11));
  line_->setAccessibleName("Moment in one line");
  line_->hide();
  head->addWidget(line_);
  head->addStretch();
  fold_ = new QPushButton("▾");
  fold_->setProperty("plain", true);
  fold_->setAccessibleName("Fold the Almanac");
  fold_->setToolTip("One line, or the whole year");
  head->addWidget(fold_);
  connect(fold_, &QPushButton::clicked, this, [this] { setFolded(!folded_); });
  left->addLayout(head);
  plot_ = new AlmanacPlot(document, studies);
  left->addWidget(plot_, 1);
  across->addLayout(left, 1);
  auto* right = new QVBoxLayout;
  right->setSpacing(0);
  right->addSpacing(20);
  readout_ = new Readout(document, this);
  right->addWidget(readout_, 1);
  play_ = new QPushButton("▶ play the day");
  play_->setProperty("plain", true);
  play_->setAccessibleName("Play");
  play_->setStyleSheet("padding-left: 0; text-align: left;");
  right->addWidget(play_);
  across->addLayout(right);

  connect(picture_, &QComboBox::activated, this, [this](int i) {
    document_.look([&](Looking& l) {
      l.year = std::min(YearPicture(i), YearPicture::Column);
      if (l.year == YearPicture::Column) l.column = WeatherField(picture_->itemData(i).toInt());
    });
  });
  connect(clock_, &QComboBox::activated, this,
          [this](int i) { document_.look([&](Looking& l) { l.clock = ClockKind(i); }); });
  connect(mark_, &QPushButton::toggled, plot_, &AlmanacPlot::setMarking);
  connect(plot_, &AlmanacPlot::seasonMarked, this, [this] {
    mark_->setChecked(false);
    emit seasonChosen();
  });
  connect(play_, &QPushButton::clicked, this, [this] { play(!playing()); });
  timer_.setInterval(50);
  connect(&timer_, &QTimer::timeout, this, [this] {
    const AlmanacGeometry g = plot_->geometryNow();
    document_.look([&](Looking& l) {
      const auto before = g.reading(l.moment);
      const auto after = g.reading(l.moment + 300);
      l.moment = after.date == before.date ? l.moment + 300 : g.instant(before.date, 0); // the day over and over
    });
  });
  connect(&document_, &Document::lookingChanged, this, &Almanac::refresh);
  connect(&document_, &Document::projectChanged, this, &Almanac::refresh);
  refresh();
}

void Almanac::setFolded(bool folded) {
  folded_ = folded;
  for (QWidget* w : {static_cast<QWidget*>(plot_), static_cast<QWidget*>(readout_), static_cast<QWidget*>(play_),
                     static_cast<QWidget*>(picture_), static_cast<QWidget*>(mark_)})
    w->setVisible(!folded);
  line_->setVisible(folded);
  fold_->setText(folded ? "▴" : "▾");
  setMinimumHeight(folded ? 40 : 166);
  setMaximumHeight(folded ? 40 : QWIDGETSIZE_MAX);
  refresh();
  emit foldedChanged(folded);
}

void Almanac::play(bool on) {
  on ? timer_.start() : timer_.stop();
  play_->setText(on ? "■ stop" : "▶ play the day");
}

void Almanac::fillSeasons() {
  const Project& p = document_.project();
  std::vector<Season> all = builtInSeasons(p.site.place.latitude);
  all.insert(all.end(), p.seasons.begin(), p.seasons.end());
  const Season& now = document_.looking().season;
  std::string key;
  for (const Season& s : all) key += s.name + seasonText(s) + (s == now ? "*" : "") + ";";
  if (key == seasonsShown_) return;
  seasonsShown_ = key;
  while (QLayoutItem* item = seasons_->takeAt(0)) {
    item->widget()->hide();
    item->widget()->deleteLater();
    delete item;
  }
  for (const Season& s : all) {
    auto* b = new QPushButton(QString::fromStdString(s.name));
    b->setProperty("plain", true);
    b->setCheckable(true);
    b->setChecked(s == now);
    b->setAccessibleName("Season " + b->text());
    b->setToolTip(QString::fromStdString(seasonText(s)));
    connect(b, &QPushButton::clicked, this, [this, s] {
      document_.look([&](Looking& l) {
        l.season = s;
        const AlmanacGeometry g = plot_->geometryNow();
        if (s.fromMonth == s.toMonth && s.fromDay == s.toDay)
          l.moment = g.instant({g.year, s.fromMonth, s.fromDay}, g.reading(l.moment).minutes);
      });
      emit seasonChosen();
    });
    seasons_->addWidget(b);
  }
}

void Almanac::fillColumns() {
  const auto& weather = document_.project().site.weather;
  if (columnsOf_ == weather.get()) return;
  columnsOf_ = weather.get();
  while (picture_->count() > int(YearPicture::Column)) picture_->removeItem(picture_->count() - 1);
  if (!weather || !weather->whole()) return;
  for (std::size_t f = 0; f < weatherFieldCount; ++f)
    if (std::any_of(weather->hours.begin(), weather->hours.end(),
                    [&](const WeatherHour& h) { return std::isfinite(h.values[f]) && h.values[f] != 0; }))
      picture_->addItem(facts(WeatherField(f)).name, int(f));
}

void Almanac::refresh() {
  fillSeasons();
  fillColumns();
  const Looking& looking = document_.looking();
  picture_->setCurrentIndex(looking.year == YearPicture::Column ? picture_->findData(int(looking.column))
                                                                : int(looking.year));
  const auto [low, high] = plot_->columnRange();
  picture_->setToolTip(looking.year == YearPicture::Column
                           ? QString(looking.against
                                         ? "Against %4: from %1 (verdigris) to %2 %3 (madder); days across, hours up"
                                         : "Colours from %1 (dark) to %2 %3 (bright); days across, hours up%4")
                                 .arg(low, 0, 'g', 3)
                                 .arg(high, 0, 'g', 3)
                                 .arg(facts(looking.column).unit)
                                 .arg(looking.against ? QString::fromStdString(looking.against->name()) : QString())
                           : QString("What the picture of the year shows: days across, hours up"));
  clock_->setCurrentIndex(int(document_.looking().clock));
  readout_->update();
  const Looking& l = document_.looking();
  line_->setText(
      plot_->textAt(plot_->geometryNow().reading(l.moment).date, plot_->geometryNow().reading(l.moment).minutes));
}

void Almanac::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme().paper);
  p.setPen(theme().rule);
  p.drawLine(0, 0, width(), 0);
}

} // namespace noonward
