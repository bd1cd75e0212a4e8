#include "picture/camera.h"

namespace noonward {

Vec3 Camera::toEye() const {
  const double c = std::cos(altitude);
  return {std::sin(azimuth) * c, std::cos(azimuth) * c, std::sin(altitude)};
}
Vec3 Camera::right() const {
  return {-std::cos(azimuth), std::sin(azimuth), 0};
}
Vec3 Camera::up() const {
  return cross(toEye(), right());
}

Camera::Rays::Rays(const Camera& c, double width, double h)
    : target_(c.target), right_(c.right()), up_(c.up()), toEye_(c.toEye()),
      eye_(c.target + c.toEye() * c.eyeDistance()), metres_(c.height / h), width_(width), height_(h),
      parallel_(c.parallel()) {}
Camera::Ray Camera::Rays::operator()(double x, double y) const {
  const double dx = (x - width_ / 2) * metres_, dy = (height_ / 2 - y) * metres_;
  const Vec3 onPlane = target_ + right_ * dx + up_ * dy;
  if (parallel_) return {onPlane + toEye_ * 20000, -toEye_};
  return {eye_, normalized(onPlane - eye_)};
}
Camera::Ray Camera::ray(double x, double y, double width, double h) const {
  return Rays(*this, width, h)(x, y);
}
Vec3 Camera::start(const Ray& r) const {
  if (cutOpen()) return r.origin + r.direction * 20000;
  return parallel() ? r.origin + r.direction * (20000 - 3 * height - 1500) : r.origin;
}

std::optional<Camera::Seen> Camera::seen(Vec3 p, double width, double h) const {
  const Vec3 d = p - target;
  double x = dot(d, right()), y = dot(d, up());
  const double toward = dot(d, toEye());
  if (!parallel()) {
    const double distance = eyeDistance() - toward;
    if (distance <= 0.01) return {};
    const double s = eyeDistance() / distance;
    x *= s;
    y *= s;
  }
  const double m = h / height;
  return Seen{width / 2 + x * m, h / 2 - y * m, -toward};
}

std::array<float, 16> Camera::matrix(double width, double h, const Box3& scene) const {
  const Vec3 r = right(), u = up(), e = toEye(), c = scene.empty() ? target : scene.center();
  const double radius = scene.empty() ? 100 : 0.5 * length(scene.size()) + 1;
  const double ahead = dot(target - c, e);                    // the scene's middle lies this far beyond the target
  double nearest = ahead - radius, farthest = ahead + radius; // depth relative to the target's plane, away from the eye
  const double sx = 2 / (height * width / h), sy = 2 / height;
  const double tx = -dot(target, r), ty = -dot(target, u), tz = dot(target, e);
  std::array<float, 16> m{};
  // Rows: x = sx (p·r + tx), y likewise; depth d = tz - p·e.
  if (cutOpen()) {
    nearest = 0;
    farthest = std::max(farthest, 1.0);
  }
  if (parallel()) {
    const double s = 2 / (farthest - nearest);
    const double rows[4][4] = {{sx * r.x, sx * r.y, sx * r.z, sx * tx},
                               {sy * u.x, sy * u.y, sy * u.z, sy * ty},
                               {-s * e.x, -s * e.y, -s * e.z, s * (tz - nearest) - 1},
                               {0, 0, 0, 1}};
    for (int i = 0; i < 4; ++i)
      for (int k = 0; k < 4; ++k) m[std::size_t(k * 4 + i)] = float(rows[i][k]);
    return m;
  }
  const double D = eyeDistance();
  nearest = std::max(D + nearest, D * 0.01);
  farthest = std::max(D + farthest, nearest + 1);
  // w = D + depth; clip z so that near -> -w, far -> w.
  const double a = (farthest + nearest) / (farthest - nearest), b = -2 * farthest * nearest / (farthest - nearest);
  const double w[4] = {-e.x, -e.y, -e.z, D + tz};
  const double rows[4][4] = {{D * sx * r.x, D * sx * r.y, D * sx * r.z, D * sx * tx},
                             {D * sy * u.x, D * sy * u.y, D * sy * u.z, D * sy * ty},
                             {a * w[0], a * w[1], a * w[2], a * w[3] + b},
                             {w[0], w[1], w[2], w[3]}};
  for (int i = 0; i < 4; ++i)
    for (int k = 0; k < 4; ++k) m[std::size_t(k * 4 + i)] = float(rows[i][k]);
  return m;
}

void Camera::orbit(double dAzimuth, double dAltitude) {
  azimuth = wrapTwoPi(azimuth + dAzimuth);
  altitude = std::clamp(altitude + dAltitude, radians(2), radians(89.9));
}

void Camera::pan(double dx, double dy, double h) {
  const double m = metresPerPixel(h);
  target = target - right() * (dx * m) + up() * (dy * m);
}

void Camera::zoom(double factor, double x, double y, double width, double h) {
  const double next = std::clamp(height * factor, 0.5, 40000.0);
  const double dx = (x - width / 2) / h, dy = (h / 2 - y) / h;
  target = target + (right() * dx + up() * dy) * (height - next);
  height = next;
}

void Camera::fit(const std::vector<Box3>& boxes, double width, double h, double margin) {
  const Vec3 r = right(), u = up(), e = toEye();
  Box3 seenBox; // along right, up and toward the eye
  for (const Box3& b : boxes)
    for (int k = 0; k < 8 && !b.empty(); ++k) {
      const Vec3 p{k & 1 ? b.high.x : b.low.x, k & 2 ? b.high.y : b.low.y, k & 4 ? b.high.z : b.low.z};
      seenBox.add({dot(p, r), dot(p, u), dot(p, e)});
    }
  if (seenBox.empty()) return;
  const Vec3 c = seenBox.center(), s = seenBox.size();
  target = r * c.x + u * c.y + e * c.z;
  height = std::max({s.y, s.x * h / std::max(width, 1.0), 1.0}) / (1 - 2 * margin);
}

} // namespace noonward
