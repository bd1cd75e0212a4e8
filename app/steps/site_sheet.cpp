#include "app/steps/site_sheet.h"
#include "app/theme/style.h"
#include "core/files/epw.h"
#include "core/model/mending/check.h"
#include "core/sun/sun_day.h"
#include <QComboBox>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>

namespace noonward {

SiteSheet::SiteSheet(Document& document, QWidget* parent) : Sheet("Site", document, parent) {
  name_ =
      addName("Place", [this](const QString& t) { edit("Name place", [&](Site& s) { s.name = t.toStdString(); }); });
  search_ = new QLineEdit;
  search_->setPlaceholderText("a city…");
  search_->setAccessibleName("Search city");
  addRow("Find", search_, "Search the 26 000 places over 15 000 people that ship with the program");
  found_ = new QListWidget;
  found_->setAccessibleName("Cities found");
  found_->setMaximumHeight(118);
  found_->hide();
  addWidget(found_);
  connect(search_, &QLineEdit::textChanged, this, &SiteSheet::searchCities);
  const auto take = [this] {
    const int row = found_->currentRow();
    if (row < 0 || row >= int(shown_.size())) return;
    const City c = *shown_[std::size_t(row)];
    search_->clear();
    edit("Choose " + QString::fromStdString(c.name), [&](Site& s) {
      s.name = c.name;
      s.place = {radians(c.latitude), radians(c.longitude), c.elevation};
      s.zone = c.zone;
    });
  };
  connect(found_, &QListWidget::itemClicked, this, take);
  connect(found_, &QListWidget::itemActivated, this, take);
  connect(search_, &QLineEdit::returnPressed, this, [this, take] {
    if (found_->count() > 0 && found_->currentRow() < 0) found_->setCurrentRow(0);
    take();
  });
  const auto coordinate = [this](QLineEdit** field, double most, const char* positive, const char* negative, auto set) {
    return [this, field, most, positive, negative, set](const QString& t) {
      QString clean = t.trimmed();
      double sign = 1;
      if (clean.endsWith(negative, Qt::CaseInsensitive)) sign = -1;
      if (clean.endsWith(negative, Qt::CaseInsensitive) || clean.endsWith(positive, Qt::CaseInsensitive)) clean.chop(1);
      clean.remove("°");
      const auto v = numberFromText(clean.toStdString());
      if (!v || std::abs(*v) > most) return showFault(*field, QString("Degrees from -%1 to %1 are expected").arg(most));
      edit("Set coordinates", [&](Site& s) { set(s, radians(*v * sign)); });
    };
  };
  latitude_ =
      addField("Latitude", coordinate(&latitude_, 90, "N", "S", [](Site& s, double v) { s.place.latitude = v; }),
               "Degrees, north positive; 33.9 S is understood");
  longitude_ =
      addField("Longitude", coordinate(&longitude_, 180, "E", "W", [](Site& s, double v) { s.place.longitude = v; }),
               "Degrees, east positive; 70.7 W is understood");
  elevation_ = addField("Elevation", [this](const QString& t) {
    const auto v =
        lengthFromText(t.toStdString(), document_.project().units.feet() ? LengthUnit::Foot : LengthUnit::Metre);
    if (!v || *v < -500 || *v > 9000) return showFault(elevation_, "−500 to 9000 m, or as many feet, are expected");
    edit("Set elevation", [&](Site& s) { s.place.elevation = *v; });
  });
  zone_ = addField(
      "Time zone",
      [this](const QString& t) {
        const auto z = Zone::named(t.trimmed().toStdString());
        if (!z) return showFault(zone_, QString::fromStdString(z.error().message));
        edit("Set time zone", [&](Site& s) { s.zone = z->name(); });
      },
      "A name such as Europe/Copenhagen, or UTC+01:00");
  year_ = addField(
      "Calendar year",
      [this](const QString& t) {
        const auto v = numberFromText(t.toStdString());
        if (!v || *v < 1600 || *v > 2600) return showFault(year_, "A year from 1600 to 2600 is expected");
        edit("Set year", [&](Site& s) { s.year = int(*v); });
      },
      "Its weekdays and clock changes count");
  dayWords_ = addNote();

  addHeading("Weather");
  weather_ = addNote();
  weather_->setAccessibleName("Weather facts");
  addButton("Load a weather file…", [this] { emit weatherWanted(); });
  addButton("Weather bench…", [this] {
    emit benchWanted();
  })->setToolTip("A year from a station's or logger's columns, or from an address of the net");
  against_ = addButton("Compare with another year…", [this] { emit againstWanted(); });
  against_->setToolTip("The Almanac shows each column less that of the other year");

  addHeading("North");
  compass_ = new Compass;
  addWidget(compass_);
  connect(compass_, &Compass::turned, this, [this](double a, bool finished) {
    Project p = document_.project();
    p.site.northAngle = a;
    if (finished)
      document_.change(std::move(p), "Turn north");
    else
      document_.preview(std::move(p));
  });
  north_ = addField(
      "Project north",
      [this](const QString& t) {
        QString clean = t.trimmed();
        clean.remove("°");
        const auto v = numberFromText(clean.toStdString());
        if (!v || std::abs(*v) > 360) return showFault(north_, "Degrees are expected");
        edit("Turn north", [&](Site& s) { s.northAngle = wrapPi(radians(*v)); });
      },
      "True bearing of project north, degrees; east positive");
  north_->setAccessibleName("North angle");
  northWords_ = addNote();
  northWords_->setAccessibleName("North in words");
  const auto choose = [this](const std::function<void(DisplayUnits&)>& change) {
    Project p = document_.project();
    change(p.units);
    document_.change(std::move(p), "Choose units");
  };
  units_ = addChoice(
      "Lengths in", {"metres", "millimetres", "centimetres", "feet", "inches", "feet and inches"},
      [choose](int i) { choose([i](DisplayUnits& u) { u.length = LengthUnit(i); }); },
      "How lengths are shown and what a bare number means; areas, volumes and sums of energy follow: ft², kBtu/ft². "
      "3.2 m and 10' 6 1/2\" are understood anywhere");
  lightUnits_ = addChoice(
      "Light in", {"lux", "foot-candles"},
      [choose](int i) { choose([i](DisplayUnits& u) { u.light = LightUnit(i); }); },
      "How illuminance is shown and what a bare number means; files and tables of values stay in lux");
  body()->addStretch();
  if (auto list = readCities(document_.resources() / "cities/cities.tsv")) cities_ = std::move(*list);
  explain({{name_, "The name of the place, as it stands on pictures and pages"},
           {elevation_, "Above the sea: thins the air that the sun shines through, nothing else"}});
  refresh();
}

void SiteSheet::edit(const QString& name, const std::function<void(Site&)>& change) {
  Project p = document_.project();
  change(p.site);
  document_.change(std::move(p), name);
}

void SiteSheet::searchCities(const QString& words) {
  found_->clear();
  shown_.clear();
  if (words.trimmed().size() >= 2) {
    shown_ = noonward::searchCities(cities_, words.trimmed().toStdString(), 20);
    for (const City* c : shown_)
      found_->addItem(QString("%1, %2   %3°, %4°")
                          .arg(QString::fromStdString(c->name), QString::fromStdString(c->country))
                          .arg(c->latitude, 0, 'f', 1)
                          .arg(c->longitude, 0, 'f', 1));
    if (shown_.empty()) found_->addItem("nothing of this name");
  }
  found_->setVisible(found_->count() > 0);
}

void SiteSheet::loadWeather(const QString& path) {
  auto w = readEpw(path.toStdString());
  if (!w) {
    emit document_.notice("The weather file was not taken. " + QString::fromStdString(w.error().text()), true);
    return;
  }
  for (const std::string& n : w->notes) emit document_.notice(QString::fromStdString(n), false);
  Project p = document_.project();
  const bool fresh = p.elements.empty() && !p.site.weather && p.site.place == Place{};
  if (fresh) { // nothing stands yet: the weather's place is the place
    p.site.place = w->place;
    p.site.name = w->city;
    p.site.zone = Zone::fixed(w->utcOffset).name();
  }
  p.site.weather = std::make_shared<const Weather>(std::move(*w));
  p.site.weatherFile.clear();
  document_.change(std::move(p), "Load weather");
  document_.look([](Looking& l) { l.year = YearPicture::DirectNormal; });
}

void SiteSheet::refresh() {
  const Project& p = document_.project();
  const Site& s = p.site;
  show(name_, QString::fromStdString(s.name));
  const auto& against = document_.looking().against;
  against_->setAccessibleName(against ? "No longer compare with it" : "Compare with another year…");
  against_->setText(against ? "No longer compare with it" : "Compare with another year…");
  against_->setEnabled(against || (s.weather && s.weather->whole()));
  show(latitude_,
       QString("%1° %2").arg(std::abs(degrees(s.place.latitude)), 0, 'f', 4).arg(s.place.latitude < 0 ? "S" : "N"));
  show(longitude_,
       QString("%1° %2").arg(std::abs(degrees(s.place.longitude)), 0, 'f', 4).arg(s.place.longitude < 0 ? "W" : "E"));
  show(elevation_, p.units.feet() ? QString("%1 ft").arg(s.place.elevation / metresPer(LengthUnit::Foot), 0, 'f', 0)
                                  : QString("%1 m").arg(s.place.elevation, 0, 'f', 0));
  show(zone_, QString::fromStdString(s.zone));
  show(year_, QString::number(s.year));
  show(north_, QString("%1°").arg(degrees(wrapPi(s.northAngle)), 0, 'f', 1));
  northWords_->setText(QString::fromStdString(northText(s.northAngle)) + ".");
  compass_->setAngle(s.northAngle);
  units_->setCurrentIndex(int(p.units.length));
  lightUnits_->setCurrentIndex(int(p.units.light));
  const Zone zone = p.zone();
  const Date today = zone.clock(document_.looking().moment).date;
  const Instant noon = zone.instant({today, 43200});
  const SunDay day = sunDay(SunKnots(noon + -3 * 86400.0, noon + 3 * 86400.0), s.place, zone, today);
  const auto clock = [&](Instant t) { return QString::fromStdString(clockText(zone.clock(t).seconds / 60)); };
  QString words = QString::fromStdString(dayText(today)) + ": ";
  if (day.kind == DayKind::PolarDay) words += "the sun does not set, ";
  if (day.kind == DayKind::PolarNight) words += "the sun does not rise, ";
  if (!day.sunrises.empty()) words += "sunrise " + clock(day.sunrises.front()) + ", ";
  words += QString("noon %1 at %2°").arg(clock(day.noon)).arg(degrees(day.noonAltitude), 0, 'f', 1);
  if (!day.sunsets.empty()) words += ", sunset " + clock(day.sunsets.back());
  dayWords_->setText(words + ".");
  if (s.weather) {
    const double km = distanceBetween(s.weather->place, s.place) / 1000;
    double sum = 0;
    for (const WeatherHour& h : s.weather->hours)
      if (!std::isnan(h[WeatherField::GlobalHorizontal])) sum += h[WeatherField::GlobalHorizontal] / 1000;
    weather_->setText(
        QString("%1 (%2), %3 hours, UTC%4. %5 global a year. %6")
            .arg(QString::fromStdString(s.weather->name()), QString::fromStdString(s.weather->source))
            .arg(s.weather->hours.size())
            .arg(QString::fromStdString(offsetText(s.weather->utcOffset)))
            .arg(shownQuantity(sum, 0, "kWh/m²", p.units))
            .arg(km < 20 ? QString("For this place.") : QString("For a place %1 km away.").arg(km, 0, 'f', 0)));
  } else {
    weather_->setText("None yet. Sun and shade need none; everything with light in it does.");
  }
}

Compass::Compass(QWidget* parent) : QWidget(parent) {
  setFixedHeight(128);
  setAccessibleName("Compass");
  setFocusPolicy(Qt::StrongFocus);
  setToolTip("Drag the needle to true north");
}

void Compass::setAngle(double a) {
  angle_ = a;
  update();
}

double Compass::angleAt(QPointF at) const {
  // The needle shows true north in the drawing: counter-clockwise from up by the drawing's own bearing.
  const QPointF d = at - QPointF(width() / 2.0, height() / 2.0);
  return wrapPi(-std::atan2(d.x(), -d.y()));
}

void Compass::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing, true);
  const Theme& t = theme();
  const QPointF m(width() / 2.0, height() / 2.0);
  const double r = 46;
  p.setPen(QPen(t.rule, 1));
  p.drawEllipse(m, r, r);
  for (int k = 0; k < 36; ++k) {
    const double a = radians(k * 10), in = k % 9 == 0 ? r - 8 : r - 4;
    p.drawLine(m + QPointF(std::sin(a) * in, -std::cos(a) * in), m + QPointF(std::sin(a) * r, -std::cos(a) * r));
  }
  p.setPen(t.muted);
  p.setFont(textFont(10.5));
  p.drawText(QRectF(0, 2, 80, 30), Qt::AlignLeft | Qt::TextWordWrap, "up is project north");
  const QPointF u(std::sin(-angle_), -std::cos(-angle_)), v(-u.y(), u.x());
  p.setPen(QPen(hasFocus() ? t.noon : t.ink, 1.8));
  p.drawLine(m - u * (r - 14), m + u * (r - 12));
  p.setBrush(hasFocus() ? t.noon : t.ink);
  p.drawPolygon(QPolygonF({m + u * (r - 2), m + u * (r - 14) + v * 4.5, m + u * (r - 14) - v * 4.5}));
  p.drawEllipse(m - u * (r - 14), 3, 3);
  p.setFont(textFont(11, true));
  p.drawText(QRectF(m.x() + u.x() * (r + 9) - 8, m.y() + u.y() * (r + 9) - 8, 16, 16), Qt::AlignCenter, "N");
}

void Compass::mousePressEvent(QMouseEvent* e) {
  mouseMoveEvent(e);
}
void Compass::mouseMoveEvent(QMouseEvent* e) {
  if (e->buttons() & Qt::LeftButton) emit turned(radians(std::round(degrees(angleAt(e->position())) * 2) / 2), false);
}
void Compass::mouseReleaseEvent(QMouseEvent* e) {
  emit turned(radians(std::round(degrees(angleAt(e->position())) * 2) / 2), true);
}
void Compass::keyPressEvent(QKeyEvent* e) {
  if (e->key() == Qt::Key_Left) return emit turned(wrapPi(angle_ + radians(0.5)), true);
  if (e->key() == Qt::Key_Right) return emit turned(wrapPi(angle_ - radians(0.5)), true);
  QWidget::keyPressEvent(e);
}

} // namespace noonward
