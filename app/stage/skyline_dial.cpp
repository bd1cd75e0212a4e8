#include "app/stage/skyline_dial.h"
#include "app/theme/style.h"
#include "core/model/light_model.h"
#include "picture/skyline.h"
#include <QComboBox>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace noonward {

SkylineDial::SkylineDial(Document& document, Studies& studies, QWidget* parent)
    : QWidget(parent), document_(document), studies_(studies) {
  setAccessibleName("Skyline dial");
  setFocusPolicy(Qt::TabFocus);
  setMouseTracking(true);
  choice_ = new QComboBox(this);
  choice_->setAccessibleName("Projection of the skyline");
  choice_->setToolTip("How the dome of the sky is laid flat");
  for (const DialProjection way : allProjections)
    if (way != DialProjection::Flat) choice_->addItem(projectionKey(way));
  choice_->move(0, 0);
  connect(choice_, &QComboBox::activated, this, [this](int i) { setProjection(allProjections[std::size_t(i)]); });
  setLarge(false);
  connect(&studies_, &Studies::probeChanged, this, &SkylineDial::refresh);
  connect(&document_, &Document::lookingChanged, this, &SkylineDial::refresh);
  hide();
}

void SkylineDial::setLarge(bool large) {
  large_ = large;
  choice_->setVisible(large);
  const int d = large ? 420 : 168;
  resize(d + 36, d + 44);
  if (parentWidget()) move(parentWidget()->width() - width() - 8, parentWidget()->height() - height() - 6);
  update();
}

void SkylineDial::setProjection(DialProjection projection) {
  projection_ = projection;
  choice_->setCurrentIndex(int(projection));
  drawn_.reset();
  under_.clear();
  update();
}

void SkylineDial::refresh() {
  setVisible(document_.looking().probe && studies_.probeResult());
  if (parentWidget()) move(parentWidget()->width() - width() - 8, parentWidget()->height() - height() - 6);
  update();
}

void SkylineDial::paintEvent(QPaintEvent*) {
  const auto r = studies_.probeResult();
  if (!r) return;
  const Theme& t = theme();
  const Project& project = document_.project();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing, true);
  const double radius = (width() - 36) / 2.0;
  const QPointF m(width() / 2.0, 16 + radius);
  QColor back = t.paper;
  back.setAlpha(235);
  p.setPen(Qt::NoPen);
  p.setBrush(back);
  p.drawEllipse(m, radius + 15, radius + 15);
  if (drawn_ != r || dome_.width() != int(2 * radius)) {
    drawn_ = r;
    dome_ = skylineDome(project, *r, int(2 * radius), t, projection_);
  }
  const int year = project.site.year;
  if (!knots_ || knotYear_ != year) {
    knots_.emplace(SunKnots::ofYear(year));
    knotYear_ = year;
  }
  paintSkyline(p, m, radius, project, dome_, {&*knots_, large_, document_.looking().moment, projection_}, t);
  const QString caption =
      under_.isEmpty() ? QString(r->room >= 0 ? (large_ ? "what the spot sees · click for small" : "what the spot sees")
                                 : large_     ? "skyline at the probe · click for small"
                                              : "skyline at the probe")
                       : under_;
  p.setPen(t.muted);
  p.drawText(QRectF(0, height() - 16, width(), 14), Qt::AlignCenter, caption);
}

void SkylineDial::mousePressEvent(QMouseEvent*) {
  setLarge(!large_);
}

void SkylineDial::keyPressEvent(QKeyEvent* e) {
  if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Space)
    setLarge(!large_);
  else
    QWidget::keyPressEvent(e);
}

void SkylineDial::mouseMoveEvent(QMouseEvent* e) {
  under_.clear();
  if (const auto r = studies_.probeResult()) {
    const double radius = (width() - 36) / 2.0;
    const DialMap map = dialRound(QPointF(width() / 2.0, 16 + radius), radius, projection_);
    if (const auto direction = map.from(e->position())) {
      const double azimuth = degrees(direction->first), altitude = degrees(direction->second);
      const SkylineStep& s = r->skyline[std::size_t(std::lround(azimuth * 2)) % 720];
      if (r->room >= 0) {
        const int az = std::min(359, int(azimuth)), al = std::clamp(int(altitude), 0, 89);
        const std::uint64_t seen = r->dome.at(az, al);
        const bool own = seen && !document_.project().element({seen});
        under_ = QString("azimuth %1°, altitude %2° · ").arg(azimuth, 0, 'f', 0).arg(al) +
                 (!r->dome.at(az, al) ? r->dome.glazed(az, al) ? "sky through glass" : "open sky"
                  : own               ? QString(roleName(r->dome.roleAt(az, al))).toLower()
                                      : QString("outdoors, through glass"));
        update();
        return;
      }
      under_ = QString("azimuth %1° · free above %2°").arg(azimuth, 0, 'f', 0).arg(degrees(s.altitude), 0, 'f', 1);
      const std::uint64_t id = r->dome.at(std::min(359, int(azimuth)), std::clamp(int(altitude), 0, 89));
      if (const std::string name = id ? surfaceName(document_.project(), id) : std::string(); !name.empty())
        under_ = QString::fromStdString(name) + QString(" · %1°").arg(azimuth, 0, 'f', 0);
    }
  }
  update();
}

} // namespace noonward
