#include "app/panels/fisheye_panel.h"
#include "app/theme/style.h"
#include "core/base/units.h"
#include "core/files/results/glare_files.h"
#include "core/files/results/luminance_exr.h"
#include "core/files/save_file.h"
#include <QBuffer>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

FisheyeView::FisheyeView(QWidget* parent) : QWidget(parent) {
  setMinimumSize(600, 400);
  setMouseTracking(true);
  setCursor(Qt::OpenHandCursor);
  setAccessibleName("What the eye sees");
}

void FisheyeView::show(Shown shown) {
  shown_ = std::move(shown);
  drawn_ = {};
  update();
}

QRectF FisheyeView::place() const {
  const double side = std::min(height() - 42.0, width() - 330.0);
  return {2, 2, side - 4, side - 4};
}

QRectF FisheyeView::strip() const {
  const QRectF disc = place();
  return {disc.left() + 4, height() - 22.0, std::min(380.0, disc.width() - 8), 6};
}

FisheyeView::End FisheyeView::endUnder(QPointF at) const {
  const QRectF s = strip();
  if (!shown_.picture || std::abs(at.y() - s.center().y()) > 9) return End::None;
  if (std::abs(at.x() - s.left()) < 12) return End::Low;
  return std::abs(at.x() - s.right()) < 12 ? End::High : End::None;
}

void FisheyeView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  if (!shown_.picture) {
    p.fillRect(rect(), t.paper);
    return;
  }
  const qreal ratio = devicePixelRatioF();
  if (drawn_.isNull() || drawn_.size() != size() * ratio || dark_ != t.dark) {
    drawn_ = QPixmap(size() * ratio);
    drawn_.setDevicePixelRatio(ratio);
    drawn_.fill(t.paper);
    dark_ = t.dark;
    QPainter q(&drawn_);
    q.setRenderHint(QPainter::Antialiasing);
    q.setRenderHint(QPainter::SmoothPixmapTransform);
    const FisheyePage page{*shown_.project, *shown_.picture, shown_.title, shown_.moment, shown_.scale, true};
    const QRectF disc = place();
    paintFisheye(q, disc, page, t);
    paintLuminanceScale(q, strip(), shown_.scale, t);
    const double left = disc.right() + 22, wide = width() - left - 8;
    q.setFont(titleFont(15));
    q.setPen(t.ink);
    q.drawText(QRectF(left, 4, wide, 22), Qt::AlignLeft, shown_.title);
    q.setFont(textFont(11.5));
    q.setPen(t.muted);
    q.drawText(QRectF(left, 28, wide, 48), Qt::AlignLeft | Qt::TextWordWrap,
               shown_.moment + " · " + QString::fromStdString(shown_.picture->sky));
    paintFisheyeFigures(q, {left, 84, wide, height() - 90.0}, page, t, 0.92);
  }
  p.drawPixmap(0, 0, drawn_);
}

void FisheyeView::mousePressEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton) return;
  end_ = endUnder(e->position());
  taken_ = shown_.scale;
  if (end_ == End::None) pressed_ = e->position();
}

void FisheyeView::mouseMoveEvent(QMouseEvent* e) {
  if (end_ != End::None) { // as bright as the pointer stands in the scale, as far as it goes on beyond its ends
    const QRectF s = strip();
    const LuminanceScale& now = taken_;
    const double share = (e->position().x() - s.left()) / s.width();
    const double at =
        now.logarithmic ? now.low * std::pow(now.high / now.low, share) : now.low + (now.high - now.low) * share;
    const auto two = [](double v) { // to two digits
      const double step = std::pow(10, std::floor(std::log10(std::max(1e-3, v))) - 1);
      return std::round(v / step) * step;
    };
    const double value = two(std::clamp(at, now.logarithmic ? 0.01 : 0.0, 9e5));
    const double low = end_ == End::Low ? value : now.low, high = end_ == End::High ? value : now.high;
    if (high > low * 1.5) emit rangeDragged(low, high);
    return;
  }
  setCursor(endUnder(e->position()) != End::None ? Qt::SizeHorCursor : Qt::OpenHandCursor);
  const QRectF at = place();
  emit pointed({(e->position().x() - at.left()) / at.width(), (e->position().y() - at.top()) / at.height()});
}

void FisheyeView::mouseReleaseEvent(QMouseEvent* e) {
  end_ = End::None;
  if (!pressed_) return;
  const QPointF by = e->position() - *pressed_;
  pressed_.reset();
  if (by.manhattanLength() < 6) return;
  const double degreesEach = 180 / place().width();
  emit turned(-radians(by.x() * degreesEach), radians(by.y() * degreesEach));
}

FisheyePanel::FisheyePanel(Document& document, Studies& studies, QWidget* parent)
    : Panel(parent), document_(document), studies_(studies) {
  setAccessibleName("Fisheye panel");
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(18, 10, 18, 12);
  all->setSpacing(6);
  auto* head = new QHBoxLayout;
  head->setSpacing(10);
  const auto put = [&](const QString& label, QWidget* w, const QString& name, const QString& help, int wide) {
    auto* l = words(label, textFont(12), true, false);
    l->setToolTip(help);
    w->setToolTip(help);
    w->setAccessibleName(name);
    w->setAccessibleDescription(help);
    w->setFixedWidth(wide);
    head->addWidget(l);
    head->addWidget(w);
  };
  put("Line of sight", way_ = new QLineEdit, "Line of sight",
      "True azimuth and altitude in degrees, such as 180, 0; dragging the picture turns the head", 74);
  put("Sky", sky_ = new QComboBox, "Sky of the fisheye", "The hour of the weather year, or a sky of the standard", 136);
  sky_->addItems({"of the weather", "clear", "overcast"});
  put("As", projection_ = new QComboBox, "Projection of the fisheye",
      "Equidistant: angles true; equisolid: areas true; orthographic: illuminance true; perspective: straight ahead",
      120);
  projection_->addItems({"equidistant", "equisolid", "orthographic", "perspective"});
  put("Scale", scale_ = new QComboBox, "Scale of the fisheye", "Logarithmic or linear, in cd/m²", 110);
  scale_->addItems({"logarithmic", "linear"});
  put("cd/m²", range_ = new QLineEdit("3 – 30000"), "Range of the fisheye", "Lower and upper end of the scale, cd/m²",
      100);
  head->addStretch(1);
  all->addLayout(head);
  all->addWidget(view_ = new FisheyeView, 1);
  auto* foot = new QHBoxLayout;
  state_ = words("", textFont(12), true, false);
  state_->setAccessibleName("State of the fisheye");
  under_ = words("", figureFont(12), false, false);
  under_->setAccessibleName("Under the pointer");
  foot->addWidget(state_);
  foot->addStretch(1);
  foot->addWidget(under_);
  foot->addSpacing(12);
  foot->addWidget(textButton("Keep as an eye", "A place and line of sight of the project, for a year of glare",
                             [this] { keep(); }));
  foot->addWidget(textButton("Save…", "PNG with legend and figures, OpenEXR with true values, CSV of the sources",
                             [this] { emit fileWanted(); }));
  foot->addWidget(textButton("Close", "Escape closes too", [this] { hide(); }));
  all->addLayout(foot);
  asking_.setSingleShot(true);
  asking_.setInterval(120);
  connect(&asking_, &QTimer::timeout, this, &FisheyePanel::ask);
  const auto soon = [this] {
    if (isVisible()) asking_.start();
  };
  connect(projection_, &QComboBox::activated, this, soon);
  connect(sky_, &QComboBox::activated, this, soon);
  connect(scale_, &QComboBox::activated, this, &FisheyePanel::draw);
  connect(range_, &QLineEdit::editingFinished, this, &FisheyePanel::draw);
  connect(way_, &QLineEdit::editingFinished, this, [this, soon] {
    const QStringList parts = way_->text().remove(QChar(0xb0)).split(',');
    const auto a = numberFromText(parts.value(0).trimmed().toStdString()),
               h = numberFromText(parts.value(1, "0").trimmed().toStdString());
    if (!a || !h || std::abs(*h) > 90) {
      state_->setText("An azimuth and an altitude such as 180, 0 are expected.");
      return;
    }
    if (std::abs(radians(*a) - azimuth_) < 1e-9 && std::abs(radians(*h) - altitude_) < 1e-9) return;
    azimuth_ = radians(*a);
    altitude_ = radians(*h);
    soon();
  });
  connect(view_, &FisheyeView::turned, this, [this](double a, double h) {
    azimuth_ = wrapTwoPi(azimuth_ + a);
    altitude_ = std::clamp(altitude_ + h, -pi / 2, pi / 2);
    ask();
  });
  connect(view_, &FisheyeView::rangeDragged, this, [this](double low, double high) {
    range_->setText(QString("%1 – %2").arg(low, 0, 'g', 6).arg(high, 0, 'g', 6));
    draw();
  });
  connect(view_, &FisheyeView::pointed, this, &FisheyePanel::told);
  connect(&document_, &Document::projectChanged, this, soon);
  connect(&document_, &Document::lookingChanged, this, soon);
  hide();
}

void FisheyePanel::hideEvent(QHideEvent* e) {
  if (busy_ && control_) control_->wish = Wish::Drop; // nobody looks any more
  again_ = false;
  Panel::hideEvent(e);
}

bool FisheyePanel::open() {
  const Looking& l = document_.looking();
  const auto a = studies_.current();
  const Project& p = document_.project();
  if (a && a->painted && l.sensor && *l.sensor < a->painted->sensors.sensors.size()) {
    const Sensor& s = a->painted->sensors.sensors[*l.sensor];
    const Vec3 n = s.normalVector();
    const bool looksUp = n.z > 0.99;
    eye_ = looksUp ? s.position : s.position + n * 0.01;
    azimuth_ = looksUp ? pi : wrapTwoPi(std::atan2(n.x, n.y) + p.site.northAngle);
    altitude_ = looksUp ? 0 : std::asin(std::clamp(n.z, -1.0, 1.0));
    name_ = QString::fromStdString(a->painted->sensors.sensorName(*l.sensor));
  } else if (const PointSensor* eye = l.eye ? eyeAt(p, *l.eye) : nullptr) {
    const LineOfSight sight = lineOfSight(p, *eye);
    eye_ = eye->position;
    azimuth_ = sight.azimuth;
    altitude_ = sight.altitude;
    name_ = QString::fromStdString(eye->name);
  } else if (l.probe) {
    const Vec3 n = l.probe->normal;
    const bool level = std::abs(n.z) < 0.7;
    eye_ = l.probe->position + (level ? n * 0.05 : Vec3{0, 0, n.z > 0 ? 1.2 : -0.3});
    azimuth_ = level ? wrapTwoPi(std::atan2(n.x, n.y) + p.site.northAngle) : pi;
    altitude_ = 0;
    name_ = "The probe";
  } else {
    emit document_.notice("Click an eye of a study, or probe a spot: then it can be looked through.", false);
    return false;
  }
  QWidget::show();
  raise();
  setFocus();
  ask();
  return true;
}

void FisheyePanel::ask() {
  way_->setText(QString("%1, %2").arg(degrees(azimuth_), 0, 'f', 0).arg(degrees(altitude_), 0, 'f', 0));
  if (busy_) {
    again_ = true;
    if (control_) control_->wish = Wish::Drop;
    return;
  }
  run(true);
}

void FisheyePanel::run(bool coarse) {
  const Project& p = document_.project();
  FisheyeSettings s;
  s.eye = eye_;
  s.azimuth = azimuth_;
  s.altitude = altitude_;
  s.projection = FisheyeProjection(projection_->currentIndex());
  s.pixels = coarse ? 80 : 400;
  s.error = coarse ? 0.3 : 0.03;
  SkyChoice sky;
  const bool weather = sky_->currentIndex() == 0 && p.site.weather && p.site.weather->whole();
  sky.kind = weather ? SkyKind::Weather : sky_->currentIndex() == 2 ? SkyKind::CieOvercast : SkyKind::CieGeneral;
  const Instant at = document_.looking().moment;
  const CivilTime clock = p.zone().clock(at);
  moment_ = QString("%1 %2 %3")
                .arg(QString::fromStdString(dayText(clock.date)))
                .arg(clock.date.year)
                .arg(QString::fromStdString(clockText(clock.seconds / 60)));
  busy_ = true;
  state_->setText(coarse ? "looking …" : "looking closer …");
  control_ = std::make_shared<RunControl>();
  document_.inBackground([this, s, sky, at, coarse, project = std::make_shared<const Project>(p),
                          control = control_]() -> std::function<void(Document&)> {
    auto made = std::make_shared<Expected<Fisheye>>(fisheye(*project, s, sky, at, *control));
    return [this, made, project, coarse, control](Document&) {
      busy_ = false;
      const bool dropped = control->wish.load() == Wish::Drop;
      if (!dropped && *made) {
        of_ = project;
        picture_ = std::make_shared<const Fisheye>(std::move(**made));
        state_->setText(coarse ? "a coarse look" : QString("%1 s").arg(picture_->seconds, 0, 'f', 1));
        draw();
        if (!coarse) emit pictureChanged();
      } else if (!dropped) {
        state_->setText(QString::fromStdString(made->error().text()));
        emit pictureChanged();
      }
      if (std::exchange(again_, false))
        run(true);
      else if (coarse && !dropped && *made && isVisible())
        run(false);
    };
  });
}

void FisheyePanel::draw() {
  if (!picture_) return;
  LuminanceScale scale;
  scale.logarithmic = scale_->currentIndex() == 0;
  const QStringList ends = range_->text().replace('-', QChar(0x2013)).split(QChar(0x2013));
  const auto low = numberFromText(ends.value(0).trimmed().toStdString()),
             high = numberFromText(ends.value(1).trimmed().toStdString());
  if (low && high && *high > *low && (*low > 0 || (!scale.logarithmic && *low >= 0))) {
    scale.low = *low;
    scale.high = *high;
  } else {
    state_->setText("A range such as 3 – 30000 is expected, above 0 and rising.");
  }
  shownScale_ = scale;
  view_->show({of_, picture_, name_, moment_, scale});
}

/// Luminance under the pointer.
void FisheyePanel::told(QPointF share) {
  under_->clear();
  if (!picture_) return;
  const FisheyeMap& m = picture_->map;
  const double x = share.x() * m.size, y = share.y() * m.size;
  if (!(x >= 0 && y >= 0 && x < m.size && y < m.size)) return;
  const float l = picture_->luminance[std::size_t(y) * std::size_t(m.size) + std::size_t(x)];
  if (!std::isnan(l)) under_->setText(QString("%1 cd/m²").arg(double(l), 0, 'f', l < 10 ? 1 : 0));
}

void FisheyePanel::keep() {
  EyeRef made;
  Project p = withEye(document_.project(), eye_, {azimuth_, altitude_}, {}, &made);
  state_->setText(QString::fromStdString(eyeAt(p, made)->name) + " is kept.");
  document_.change(std::move(p), "Keep an eye");
}

void FisheyePanel::exportTo(const QString& path) {
  if (!picture_) {
    state_->setText("There is no picture to save yet.");
    return;
  }
  writer_.start(
      [picture = picture_, project = of_, name = name_, moment = moment_, scale = shownScale_,
       way = fmt::format("{:.3f},{:.3f}", degrees(azimuth_), degrees(altitude_)),
       file = std::filesystem::path(path.toStdString())](RunControl&) -> Outcome {
        if (file.extension() == ".exr")
          return writeLuminanceExr(file, picture->map.size, picture->map.size, picture->luminance,
                                   {{"projection", fisheyeProjectionKey(picture->map.projection)},
                                    {"eye", name.toStdString()},
                                    {"direction", way},
                                    {"moment", moment.toStdString()},
                                    {"sky", picture->sky},
                                    {"unit", "cd/m2"}});
        if (file.extension() == ".csv")
          return saveFile(file, glareSourcesCsv(picture->map.eye, picture->glare.sources));
        QByteArray bytes;
        QBuffer buffer(&bytes);
        const QImage page = fisheyePage({*project, *picture, name, moment, scale, true}, Theme::light(), 1);
        if (!page.save(&buffer, "PNG")) return fail("The picture could not be made.", file.string());
        return saveFile(file, bytes.toStdString());
      },
      [this, path](const Outcome& done) {
        const QString says = done ? "Saved " + path + "." : "Not saved. " + QString::fromStdString(done.error().text());
        state_->setText(says);
        emit document_.notice(says, !done);
      });
}

} // namespace noonward
