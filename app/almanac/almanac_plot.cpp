#include "app/almanac/almanac.h"
#include "app/theme/style.h"
#include "core/studies/energy/energy_reading.h"
#include "core/studies/glare.h"
#include "core/studies/glare_year.h"
#include "core/studies/shade.h"
#include "core/sun/sun_path.h"
#include "picture/legend.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace noonward {

namespace {
bool ofRoom(YearPicture p) {
  return p == YearPicture::SensorLux || p == YearPicture::SensorBeam || p == YearPicture::BlindsClosed;
}
bool ofEnergy(YearPicture p) {
  return p == YearPicture::RoomTemperature || p == YearPicture::RoomLoad || p == YearPicture::RoomFree;
}
constexpr double coolest = 16, warmest = 30; ///< °C, of the colours
} // namespace

AlmanacPlot::AlmanacPlot(Document& document, Studies& studies, QWidget* parent)
    : QWidget(parent), document_(document), studies_(studies) {
  setAccessibleName("Almanac");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumHeight(80);
  connect(&document_, &Document::lookingChanged, this, &AlmanacPlot::refresh);
  connect(&document_, &Document::projectChanged, this, &AlmanacPlot::refresh);
  connect(&studies_, &Studies::probeChanged, this, &AlmanacPlot::refresh);
  connect(&studies_, &Studies::hoursChanged, this, &AlmanacPlot::refresh);
  connect(&studies_, &Studies::answerChanged, this, &AlmanacPlot::refresh);
}

AlmanacGeometry AlmanacPlot::geometryNow() const {
  const Project& p = document_.project();
  return {46,          2,        double(width()) - 48, double(height()) - 20,
          p.site.year, p.zone(), p.site.place,         document_.looking().clock};
}

void AlmanacPlot::refresh() {
  renderYear();
  update();
}

YearPicture AlmanacPlot::shown() const {
  const Looking& l = document_.looking();
  const auto& weather = document_.project().site.weather;
  YearPicture wanted = l.shownYear();
  if ((wanted == YearPicture::SensorLux || wanted == YearPicture::Glare) && weather && !glareYear().empty())
    return YearPicture::Glare;
  if (wanted == YearPicture::Glare) wanted = YearPicture::DayAndNight;
  if (wanted == YearPicture::SensorLux && weather && !energyYear(YearPicture::RoomLoad).empty())
    return YearPicture::RoomLoad;
  if (ofEnergy(wanted) && (!weather || energyYear(wanted).empty())) wanted = YearPicture::DayAndNight;
  if (ofRoom(wanted) && studies_.hours() && weather) return wanted;
  if (ofRoom(wanted)) wanted = l.year == YearPicture::Own ? YearPicture::Probe : YearPicture::DayAndNight;
  if (wanted == YearPicture::Probe && !studies_.probeResult()) return YearPicture::DayAndNight;
  const bool ofWeather =
      wanted == YearPicture::DirectNormal || wanted == YearPicture::Global || wanted == YearPicture::Column;
  return ofWeather && (!weather || !weather->whole()) ? YearPicture::DayAndNight : wanted;
}

void AlmanacPlot::renderYear() {
  const Project& p = document_.project();
  const Looking& l = document_.looking();
  const AlmanacGeometry g = geometryNow();
  const auto probed = studies_.probeResult();
  const YearPicture picture = shown();
  const auto hours = ofRoom(picture) ? studies_.hours() : nullptr;
  const bool energy = ofEnergy(picture), column = picture == YearPicture::Column;
  const auto glaring = picture == YearPicture::Glare || energy ? studies_.current() : nullptr;
  const QString key = QString("%12 %10 %11 ")
                          .arg(qulonglong(l.space.value_or(~std::size_t{0})))
                          .arg(quintptr(glaring ? static_cast<const void*>(glaring.get()) : hours.get()))
                          .arg(qulonglong(l.sensor.value_or(~std::size_t{0}))) +
                      QString("%1 %2 %3 %4 %5 %6 %7 %8 %9")
                          .arg(p.site.place.latitude)
                          .arg(p.site.place.longitude)
                          .arg(QString::fromStdString(p.site.zone))
                          .arg(g.year)
                          .arg(int(l.clock))
                          .arg(int(picture) + 100 * int(picture == YearPicture::Column ? l.column : WeatherField{}))
                          .arg(quintptr(picture == YearPicture::Probe ? probed.get() : nullptr))
                          .arg(theme().dark)
                          .arg(quintptr(p.site.weather.get())) +
                      QString(" %1").arg(quintptr(column ? l.against.get() : nullptr));
  if (key == drawn_) return;
  drawn_ = key;
  if (hours) {
    room_ = roomYear(picture);
    roomMost_ = std::max(1.0, double(*std::max_element(room_.begin(), room_.end())));
    if (picture == YearPicture::SensorLux) { // a few bright hours shall not darken all others
      std::vector<float> lit;
      for (float v : room_)
        if (v > 10) lit.push_back(v);
      std::sort(lit.begin(), lit.end());
      roomMost_ = lit.empty() ? 600 : std::max(600.0, roundedUp(double(lit[lit.size() * 95 / 100])));
    }
  } else if (energy) {
    room_ = energyYear(picture);
    roomMost_ = 1;
    for (float v : room_) roomMost_ = std::max(roomMost_, std::abs(double(v)));
  } else if (glaring) {
    room_ = glareYear();
  } else if (column) {
    room_.clear();
    std::vector<float> known;
    for (std::size_t h = 0; h < p.site.weather->hours.size(); ++h) {
      const double other = l.against ? l.against->hours[h][l.column] : 0;
      room_.push_back(float(p.site.weather->hours[h][l.column] - other));
      if (std::isfinite(room_.back())) known.push_back(l.against ? std::abs(room_.back()) : room_.back());
    }
    std::sort(known.begin(), known.end()); // a few odd hours shall not take all colours
    columnLow_ = known.empty() ? 0 : double(known[known.size() / 50]);
    columnHigh_ = known.empty() ? 1 : double(known[known.size() - 1 - known.size() / 50]);
    if (l.against) columnLow_ = -columnHigh_; // less and more alike
    if (!(columnHigh_ > columnLow_)) columnHigh_ = columnLow_ + 1;
  } else {
    room_.clear();
  }
  if (!knots_ || knotYear_ != g.year) {
    knots_.emplace(SunKnots::ofYear(g.year));
    knotYear_ = g.year;
  }
  const Theme& t = theme();
  const int days = g.days();
  year_ = QImage(days, 288, QImage::Format_RGB32);
  const QRgb night = t.night.rgb(), day = (t.dark ? QColor("#3A4056") : QColor("#D3CBBD")).rgb();
  const QRgb twilight = (t.dark ? QColor("#222840") : QColor("#4A4E66")).rgb();
  const QRgb sun = QColor("#F2D888").rgb(), shade = (t.dark ? QColor("#565C70") : QColor("#B8AF9F")).rgb(),
             behind = (t.dark ? QColor("#40455A") : QColor("#9A938A")).rgb();
  for (int d = 0; d < days; ++d) {
    const Date date = plusDays({g.year, 1, 1}, d);
    // Two bounds a day, linear between unless the clocks change.
    const Instant a = g.instant(date, 0), b = g.instant(date, 1439.999);
    const bool even = std::abs((b - a) - 1439.999 * 60) < 1;
    const SunPath path(*knots_, p.site.place, 0, a + -7200, 86400 + 3 * 7200);
    for (int k = 0; k < 288; ++k) {
      const Instant at = even ? a + (k + 0.5) * 300 : g.instant(date, (k + 0.5) * 5);
      const double z = path.direction(at - path.start()).z;
      QRgb c = night;
      if (z > std::sin(sunriseAltitude))
        c = day;
      else if (z > std::sin(radians(-6)))
        c = twilight;
      if (energy) { // at night too
        const double v = double(room_[weatherHourIndex(civil(at, p.site.weather->utcOffset))]);
        if (picture != YearPicture::RoomLoad)
          c = paletteColor(Palette::SunHours, std::clamp((v - coolest) / (warmest - coolest), 0.0, 1.0)).rgb();
        else if (std::abs(v) > 0.05) // heated is warm, cooled is cool; else it stays day and night
          c = paletteColor(Palette::Difference, 0.5 - (v > 0 ? 0.12 : -0.12) - 0.38 * v / roomMost_).rgb();
      } else if (column) { // likewise
        const double v = double(room_[weatherHourIndex(civil(at, p.site.weather->utcOffset))]);
        const double share = std::clamp((v - columnLow_) / (columnHigh_ - columnLow_), 0.0, 1.0);
        if (std::isfinite(v)) // more than the other is warm, as heating is
          c = paletteColor(l.against ? Palette::Difference : Palette::SunHours, l.against ? 1 - share : share).rgb();
      } else if (z > std::sin(sunriseAltitude)) {
        if (picture == YearPicture::Probe) {
          const ProbeState s = probed->at(at);
          c = s == ProbeState::Sun ? sun : s == ProbeState::Shade ? shade : s == ProbeState::Behind ? behind : day;
        } else if (glaring) {
          const double v = double(room_[weatherHourIndex(civil(at, p.site.weather->utcOffset))]);
          c = std::isnan(v) ? day : paletteColor(Palette::SunHours, std::clamp((v - 0.2) / 0.3, 0.0, 1.0)).rgb();
        } else if (hours) {
          const double v = double(room_[weatherHourIndex(civil(at, p.site.weather->utcOffset))]);
          c = picture == YearPicture::BlindsClosed ? (v > 0 ? mixed(t.ink, t.noon, 0.35 + 0.5 * v).rgb() : day)
              : v > 0 ? paletteColor(picture == YearPicture::SensorLux ? Palette::Illuminance : Palette::SunHours,
                                     std::min(1.0, v / roomMost_))
                            .rgb()
              : picture == YearPicture::SensorBeam ? shade
                                                   : night;
        } else if (picture == YearPicture::DirectNormal || picture == YearPicture::Global) {
          const Weather& w = *p.site.weather;
          const double v =
              w.hours[weatherHourIndex(civil(at, w.utcOffset))]
                     [picture == YearPicture::Global ? WeatherField::GlobalHorizontal : WeatherField::DirectNormal];
          c = std::isnan(v) ? QColor("#A5413B").rgb() : paletteColor(Palette::SunHours, v / 950).rgb();
        }
      }
      year_.setPixel(d, 287 - k, c);
    }
  }
}

/// Hours in which sun is kept out are dotted, those in which it is let in lined.
void AlmanacPlot::renderWishes() {
  const Project& p = document_.project();
  const AlmanacGeometry g = geometryNow();
  if (!document_.looking().sunWishes || g.width < 1 || g.height < 1) {
    wishes_ = {};
    wishesDrawn_.clear();
    return;
  }
  const SunWishes wishes = p.sunWishes.empty() ? proposedWishes(p.site.place.latitude) : p.sunWishes;
  const QString key = QString("%1 %2 %3 %4 %5 %6 %7")
                          .arg(QString::fromStdString(wishesText(wishes)) + // as many other hours read alike
                               QString::number(qHashRange(wishes.keepOutHours.begin(), wishes.keepOutHours.end())))
                          .arg(int(g.width))
                          .arg(int(g.height))
                          .arg(theme().dark)
                          .arg(int(g.clock))
                          .arg(quintptr(p.site.weather.get()))
                          .arg(QString::fromStdString(p.site.zone) + QString::number(g.year));
  if (key == wishesDrawn_) return;
  wishesDrawn_ = key;
  const Weather* weather = p.site.weather && p.site.weather->whole() ? p.site.weather.get() : nullptr;
  constexpr int steps = 48;
  const int days = g.days(), width = int(g.width), height = int(g.height);
  std::vector<SunWish> at;
  for (int d = 0; d < days; ++d)
    for (int k = 0; k < steps; ++k) {
      const Date date = plusDays({g.year, 1, 1}, d);
      const Instant t = g.instant(date, (k + 0.5) * 30);
      const CivilTime clock = g.zone.clock(t);
      const bool up = knots_ && knots_->covers(t) && solarPosition(knots_->at(t), p.site.place).altitude > 0;
      at.push_back(up ? wishes.at(clock.date, clock.seconds / 60, hourOf(weather, t)) : SunWish::None);
    }
  wishes_ = QImage(width, height, QImage::Format_ARGB32_Premultiplied);
  wishes_.fill(Qt::transparent);
  const QRgb out = theme().short_.rgba(), in = theme().meets.rgba();
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      const auto day = std::size_t(x * days / width), step = std::size_t((height - 1 - y) * steps / height);
      const SunWish wish = at[day * steps + step];
      if (wish == SunWish::KeepOut && x % 4 < 2 && y % 4 < 2)
        wishes_.setPixel(x, y, out);
      else if (wish == SunWish::LetIn && (x + y) % 6 < 1)
        wishes_.setPixel(x, y, in);
    }
}

/// The year of what is asked about, by record: lx of the sensor or the room's mean; share of its groups whose blinds
/// are closed.
std::vector<float> AlmanacPlot::roomYear(YearPicture picture) const {
  std::vector<float> out(hoursOfYear, 0);
  const auto behind = studies_.hours();
  if (!behind) return out;
  const SpaceSeries& s = *behind->series;
  if (picture == YearPicture::BlindsClosed) {
    for (const auto& group : s.closed)
      for (std::size_t h = 0; h < hoursOfYear; ++h) out[h] += float(group[h]) / float(s.closed.size());
    return out;
  }
  const std::vector<float>& v = picture == YearPicture::SensorLux ? s.lux : s.beam;
  const auto answer = studies_.current();
  const auto& sensor = document_.looking().sensor;
  const std::size_t first = answer && answer->facts ? answer->facts->sensors.groups[s.space].first : 0;
  if (sensor && *sensor >= first && *sensor < first + s.sensors()) {
    const auto at = v.begin() + std::ptrdiff_t((*sensor - first) * hoursOfYear);
    return {at, at + std::ptrdiff_t(hoursOfYear)};
  }
  for (std::size_t i = 0; i < s.sensors(); ++i)
    for (std::size_t h = 0; h < hoursOfYear; ++h) out[h] += v[i * hoursOfYear + h] / float(s.sensors());
  return out;
}

std::vector<float> AlmanacPlot::glareYear() const {
  const auto a = studies_.current();
  const auto& sensor = document_.looking().sensor;
  if (!a || !a->painted || !a->painted->light || !a->painted->light->glare || !sensor ||
      *sensor >= a->painted->values().size() || std::isnan(a->painted->values()[*sensor]))
    return {};
  return glareSeries(*a->painted->light->glare, *sensor);
}

std::vector<float> AlmanacPlot::energyYear(YearPicture picture) const {
  const auto a = studies_.current();
  if (!a || !a->painted || !a->painted->light || !a->painted->light->energy) return {};
  const EnergyYear& year = *a->painted->light->energy;
  const Looking& l = document_.looking();
  const auto& sensors = a->painted->sensors.sensors;
  std::optional<std::size_t> group = l.space;
  if (l.sensor && *l.sensor < sensors.size()) group = sensors[*l.sensor].group;
  const EnergySeries which = picture == YearPicture::RoomTemperature ? EnergySeries::Temperature
                             : picture == YearPicture::RoomFree      ? EnergySeries::Free
                                                                     : EnergySeries::Load;
  if (const EnergyRoom* room = group ? year.room(*group) : nullptr) return energySeries(*room, which);
  const auto all = group ? std::nullopt : allRooms(year);
  return all ? energySeries(*all, which) : std::vector<float>{};
}

QString AlmanacPlot::textAt(Date date, double minutes) const {
  const Project& p = document_.project();
  const AlmanacGeometry g = geometryNow();
  const Instant t = g.instant(date, minutes);
  const SolarPosition s = solarPosition(sunOfDate(t), p.site.place);
  QString text =
      QString("%1 · %2 · ").arg(QString::fromStdString(dayText(date)), QString::fromStdString(clockText(minutes)));
  text +=
      s.altitude > 0
          ? QString("altitude %1° · azimuth %2°").arg(degrees(s.altitude), 0, 'f', 1).arg(degrees(s.azimuth), 0, 'f', 0)
          : QString("sun down");
  const auto probed = studies_.probeResult();
  if (shown() == YearPicture::Probe && probed && s.altitude > 0) {
    const ProbeState state = probed->at(t);
    text += state == ProbeState::Sun      ? " · sun at the probe"
            : state == ProbeState::Behind ? " · sun behind the surface"
                                          : " · shade at the probe";
  } else if (ofEnergy(shown()) && room_.size() == hoursOfYear && p.site.weather) {
    const double v = double(room_[weatherHourIndex(civil(t, p.site.weather->utcOffset))]);
    text += shown() == YearPicture::RoomTemperature ? QString(" · %1 °C, operative").arg(v, 0, 'f', 1)
            : shown() == YearPicture::RoomFree      ? QString(" · %1 °C, left to itself").arg(v, 0, 'f', 1)
            : std::abs(v) < 0.05
                ? QString(" · neither heated nor cooled")
                : QString(" · %1 %2")
                      .arg(v > 0 ? "heated with" : "cooled with", shownQuantity(std::abs(v), 1, "W/m²", p.units));
  } else if (shown() == YearPicture::Glare && room_.size() == hoursOfYear && p.site.weather) {
    const double v = double(room_[weatherHourIndex(civil(t, p.site.weather->utcOffset))]);
    if (!std::isnan(v)) text += QString(" · DGP %1, %2").arg(v, 0, 'f', 2).arg(glareWord(v));
  } else if (ofRoom(shown()) && room_.size() == hoursOfYear && p.site.weather) {
    const double v = double(room_[weatherHourIndex(civil(t, p.site.weather->utcOffset))]);
    text += shown() == YearPicture::BlindsClosed
                ? QString(" · %1 % of the window groups closed").arg(100 * v, 0, 'f', 0)
                : QString(" · %1%2").arg(shownQuantity(v, 0, "lx", p.units),
                                         shown() == YearPicture::SensorBeam ? " of beam" : "");
  } else if (p.site.weather && p.site.weather->whole()) {
    const WeatherHour& h = p.site.weather->hours[weatherHourIndex(civil(t, p.site.weather->utcOffset))];
    if (shown() == YearPicture::Column) {
      const WeatherField field = document_.looking().column;
      const double value = h[field];
      if (const auto& other = document_.looking().against) {
        const double less = value - other->hours[weatherHourIndex(civil(t, p.site.weather->utcOffset))][field];
        return text + (std::isnan(less) ? QString(" · %1 missing in one").arg(facts(field).name)
                                        : QString(" · %1 %2%3 %4 against %5")
                                              .arg(facts(field).name, less < 0 ? "−" : "+")
                                              .arg(std::abs(less), 0, 'g', 4)
                                              .arg(facts(field).unit, QString::fromStdString(other->name())));
      }
      return text + (std::isnan(value)
                         ? QString(" · %1 missing").arg(facts(field).name)
                         : QString(" · %1 %2 %3").arg(facts(field).name).arg(value).arg(facts(field).unit));
    }
    const bool global = shown() == YearPicture::Global;
    const double v = h[global ? WeatherField::GlobalHorizontal : WeatherField::DirectNormal];
    text += std::isnan(v) ? " · missing" : QString(" · %1 %2 W/m²").arg(global ? "global" : "direct").arg(v, 0, 'f', 0);
  }
  return text;
}

void AlmanacPlot::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  const AlmanacGeometry g = geometryNow();
  if (year_.isNull()) renderYear();
  const QRectF plot(g.left, g.top, g.width, g.height);
  p.setRenderHint(QPainter::SmoothPixmapTransform, false);
  p.drawImage(plot, year_);
  renderWishes();
  if (!wishes_.isNull()) p.drawImage(plot.topLeft(), wishes_);
  p.setFont(figureFont(10));
  for (int h = 6; h < 24; h += 6) {
    p.setPen(QPen(QColor(255, 255, 255, 46), 1));
    p.drawLine(QPointF(g.left, g.y(h * 60)), QPointF(g.left + g.width, g.y(h * 60)));
    p.setPen(t.muted);
    p.drawText(QRectF(0, g.y(h * 60) - 8, g.left - 6, 16), Qt::AlignRight | Qt::AlignVCenter, QString("%1:00").arg(h));
  }
  p.setFont(textFont(11));
  for (int m = 1; m <= 12; ++m) {
    const double x = g.x({g.year, m, 1});
    if (m > 1) {
      p.setPen(QPen(QColor(255, 255, 255, 46), 1));
      p.drawLine(QPointF(x, g.top), QPointF(x, g.top + g.height));
    }
    p.setPen(t.muted);
    p.drawText(QRectF(x, g.top + g.height + 2, g.width / 12, 16), Qt::AlignCenter, monthName(m));
  }
  p.setRenderHint(QPainter::Antialiasing, true);
  const auto drawSeason = [&](const Season& s, bool strong) {
    for (const SeasonBox& b : boxesOf(g, s)) {
      QRectF r(b.x, b.y, std::max(b.width, 3.0), b.height);
      p.setPen(QPen(t.noon, strong ? 1.8 : 1));
      p.setBrush(Qt::NoBrush);
      p.drawRect(r.adjusted(0.5, 0.5, -0.5, -0.5));
    }
  };
  drawSeason(document_.looking().season, true);
  if (stroke_)
    if (const auto s = seasonOf(g, stroke_->x(), stroke_->y(), strokeEnd_.x(), strokeEnd_.y())) drawSeason(*s, false);
  const auto r = g.reading(document_.looking().moment);
  if (r.date.year == g.year) {
    const QPointF at(g.x(r.date) + g.dayWidth() / 2, g.y(r.minutes));
    p.setPen(QPen(QColor(t.noon.red(), t.noon.green(), t.noon.blue(), 150), 1));
    p.drawLine(QPointF(g.left, at.y()), QPointF(g.left + g.width, at.y()));
    p.drawLine(QPointF(at.x(), g.top), QPointF(at.x(), g.top + g.height));
    p.setPen(QPen(t.noon, 2));
    p.setBrush(QColor("#FFFFFF"));
    p.drawEllipse(at, 5, 5);
  }
  if (hasFocus()) {
    p.setPen(QPen(t.noon, 1, Qt::DotLine));
    p.setBrush(Qt::NoBrush);
    p.drawRect(plot.adjusted(-1, -1, 1, 1));
  }
  if (hover_ && plot.contains(*hover_)) {
    QString text = textAt(g.dateAt(hover_->x()), std::floor(g.minutesAt(hover_->y()) / 5) * 5);
    if (stroke_)
      if (const auto s = seasonOf(g, stroke_->x(), stroke_->y(), strokeEnd_.x(), strokeEnd_.y()))
        text = QString::fromStdString(seasonText(*s));
    const QFont f = textFont(11.5);
    p.setFont(f);
    const double w = QFontMetricsF(f).horizontalAdvance(text) + 14;
    double x = hover_->x() + 14;
    if (x + w > width()) x = hover_->x() - 14 - w;
    const double y = std::clamp(hover_->y() - 26, 0.0, double(height()) - 22);
    p.setPen(Qt::NoPen);
    p.setBrush(t.dark ? QColor("#ECE7DC") : t.ink);
    p.drawRoundedRect(QRectF(x, y, w, 20), 3, 3);
    p.setPen(t.dark ? QColor("#171A26") : t.paper);
    p.drawText(QRectF(x, y, w, 20), Qt::AlignCenter, text);
  }
}

void AlmanacPlot::setMoment(QPointF at) {
  const AlmanacGeometry g = geometryNow();
  const double minutes = std::min(1435.0, std::round(g.minutesAt(at.y()) / 5) * 5);
  document_.look([&](Looking& l) { l.moment = g.instant(g.dateAt(at.x()), minutes); });
}

void AlmanacPlot::mousePressEvent(QMouseEvent* e) {
  if ((e->button() == Qt::LeftButton && (e->modifiers() & Qt::ShiftModifier || marking_)) ||
      e->button() == Qt::RightButton) {
    stroke_ = strokeEnd_ = e->position();
  } else if (e->button() == Qt::LeftButton) {
    dragging_ = true;
    setMoment(e->position());
  }
  update();
}

void AlmanacPlot::mouseMoveEvent(QMouseEvent* e) {
  hover_ = e->position();
  if (stroke_) strokeEnd_ = e->position();
  if (dragging_) setMoment(e->position());
  update();
}

void AlmanacPlot::mouseReleaseEvent(QMouseEvent* e) {
  if (stroke_) {
    const AlmanacGeometry g = geometryNow();
    const auto s = seasonOf(g, stroke_->x(), stroke_->y(), e->position().x(), e->position().y());
    stroke_.reset();
    if (s) {
      document_.look([&](Looking& l) { l.season = *s; });
      emit seasonMarked();
    }
  }
  dragging_ = false;
  update();
}

void AlmanacPlot::leaveEvent(QEvent*) {
  hover_.reset();
  update();
}

void AlmanacPlot::keyPressEvent(QKeyEvent* e) {
  int days = 0;
  double minutes = 0;
  switch (e->key()) {
  case Qt::Key_Left:
    minutes = -5;
    break;
  case Qt::Key_Right:
    minutes = 5;
    break;
  case Qt::Key_Up:
    days = 1;
    break;
  case Qt::Key_Down:
    days = -1;
    break;
  case Qt::Key_PageUp:
    days = 30;
    break;
  case Qt::Key_PageDown:
    days = -30;
    break;
  default:
    QWidget::keyPressEvent(e);
    return;
  }
  const AlmanacGeometry g = geometryNow();
  document_.look([&](Looking& l) { l.moment = moved(g, l.moment, days, minutes); });
}

} // namespace noonward
