#include "picture/underlay_image.h"
#include <QBuffer>
#include <QImageReader>
#include <QPainter>
#include <fmt/format.h>

namespace noonward {

namespace {
struct Bytes {
  QByteArray data;
  QBuffer buffer;
  explicit Bytes(const Picture& p) : data(QByteArray::fromRawData(p.bytes.data(), qsizetype(p.bytes.size()))) {
    buffer.setBuffer(&data);
    buffer.open(QIODevice::ReadOnly);
  }
};
} // namespace

QSize sizeOf(const Picture& picture) {
  Bytes b(picture);
  QImageReader reader(&b.buffer);
  const QSize size = reader.size();
  if (size.isEmpty()) return {};
  return reader.autoTransform() && reader.transformation() & QImageIOHandler::TransformationRotate90 ? size.transposed()
                                                                                                     : size;
}

Expected<QImage> decoded(const Picture& picture, int most, double* factor) {
  Bytes b(picture);
  QImageReader reader(&b.buffer);
  reader.setAutoTransform(true); // photographs say how the camera was held
  const QSize size = reader.size();
  if (std::int64_t(size.width()) * size.height() > 400'000'000)
    return fail(fmt::format("The picture has {} × {} px: more than can be shown.", size.width(), size.height()));
  reader.setAllocationLimit(2048);
  double scale = 1;
  if (const int longest = std::max(size.width(), size.height()); longest > most) {
    scale = double(most) / longest;
    reader.setScaledSize(QSize(std::max(1, int(size.width() * scale)), std::max(1, int(size.height() * scale))));
  }
  QImage image = reader.read();
  if (image.isNull()) return fail("The picture can't be read: " + reader.errorString().toStdString() + ".");
  if (factor) *factor = scale;
  return image;
}

Expected<UnderlayQuad> quadOf(const Underlay& u, QSize size) {
  if (size.isEmpty()) return fail("The picture has no size.");
  const auto map = planeMapOf(u.pins);
  if (!map) return tl::unexpected(map.error());
  UnderlayQuad out;
  std::array<Vec2, 4> plane;
  if (kindOf(u) != UnderlayKind::Facade) {
    const double w = size.width(), h = size.height();
    const std::array<Vec2, 4> pixels{{{0, h}, {w, h}, {w, 0}, {0, 0}}};
    for (std::size_t i = 0; i < 4; ++i) {
      const Vec3 p = map->place(pixels[i]).value_or(Vec3{}) - map->origin;
      plane[i] = {dot(p, map->right), dot(p, map->up)};
    }
  } else {
    Vec2 low{1e300, 1e300}, high{-1e300, -1e300};
    for (const UnderlayPin& pin : u.pins) {
      const Vec3 p = pin.place - map->origin;
      const Vec2 q{dot(p, map->right), dot(p, map->up)};
      low = {std::min(low.x, q.x), std::min(low.y, q.y)};
      high = {std::max(high.x, q.x), std::max(high.y, q.y)};
    }
    const Vec2 more = high - low;
    low = low - more;
    high = high + more;
    plane = {{{low.x, low.y}, {high.x, low.y}, {high.x, high.y}, {low.x, high.y}}};
  }
  const auto& m = map->toPicture;
  for (std::size_t i = 0; i < 4; ++i) {
    const Vec2 p = plane[i];
    out.corners[i] = map->origin + map->right * p.x + map->up * p.y;
    out.reads[i] = {float((m[0] * p.x + m[1] * p.y + m[2]) / size.width()),
                    float((m[3] * p.x + m[4] * p.y + m[5]) / size.height()), float(m[6] * p.x + m[7] * p.y + m[8])};
  }
  return out;
}

std::vector<UnderlayCorner> trianglesOf(const Underlay& u, QSize size, const std::vector<ElementPtr>& ground) {
  std::vector<UnderlayCorner> out;
  auto quad = quadOf(u, size);
  const auto map = planeMapOf(u.pins);
  if (!quad || !map) return out;
  const auto& m = map->toPicture;
  const auto put = [&](Vec3 p, const std::array<float, 3>& read) {
    out.push_back({{float(p.x), float(p.y), float(p.z)}, read});
  };
  if (kindOf(u) == UnderlayKind::Sheet) {
    Box3 box;
    for (const Vec3& c : quad->corners) box.add(c);
    double lowest = quad->corners[0].z;
    for (const ElementPtr& e : ground) {
      const auto mesh = elementMesh(*e);
      if (!mesh) continue;
      for (std::size_t t = 0; t < (*mesh)->triangles.size(); ++t) {
        std::array<Vec3, 3> c;
        for (std::size_t k = 0; k < 3; ++k) c[k] = (*mesh)->points[(*mesh)->triangles[t][k]];
        if (!((*mesh)->areaVector(t).z > 0)) continue; // undersides, and walls of a plate
        if (std::max({c[0].x, c[1].x, c[2].x}) < box.low.x || std::min({c[0].x, c[1].x, c[2].x}) > box.high.x ||
            std::max({c[0].y, c[1].y, c[2].y}) < box.low.y || std::min({c[0].y, c[1].y, c[2].y}) > box.high.y)
          continue;
        for (const Vec3& p : c) {
          const Vec3 d = p - map->origin;
          const double x = dot(d, map->right), y = dot(d, map->up);
          lowest = std::min(lowest, p.z);
          put(p, {float((m[0] * x + m[1] * y + m[2]) / size.width()),
                  float((m[3] * x + m[4] * y + m[5]) / size.height()), float(m[6] * x + m[7] * y + m[8])});
        }
      }
    }
    for (Vec3& c : quad->corners) c.z = std::min(c.z, lowest);
  }
  for (std::size_t k : {0u, 1u, 2u, 0u, 2u, 3u}) put(quad->corners[k], quad->reads[k]);
  return out;
}

Expected<QImage> straightened(const Underlay& u, double pixelsPerMetre) {
  if (!u.picture) return fail("The picture's file is gone.");
  if (!(pixelsPerMetre > 0)) return fail("A number of pixels a metre is expected.");
  double factor = 1;
  const auto image = decoded(*u.picture, 1 << 15, &factor);
  if (!image) return tl::unexpected(image.error());
  const auto map = planeMapOf(u.pins);
  if (!map) return tl::unexpected(map.error());
  Box3 box;
  const auto add = [&](Vec3 p) { box.add({dot(p - map->origin, map->right), dot(p - map->origin, map->up), 0}); };
  if (kindOf(u) == UnderlayKind::Facade)
    for (const UnderlayPin& p : u.pins) add(p.place);
  else
    for (Vec2 q : {Vec2{0, 0}, Vec2{double(image->width()), 0}, Vec2{0, double(image->height())},
                   Vec2{double(image->width()), double(image->height())}})
      add(map->place(q * (1 / factor)).value_or(map->origin));
  const double w = box.size().x * pixelsPerMetre, h = box.size().y * pixelsPerMetre;
  if (w * h > 60e6 || w > 30000 || h > 30000)
    return fail(fmt::format("That would be {:.0f} × {:.0f} px: ask for fewer pixels a metre.", w, h));
  QImage out(std::max(1, int(std::lround(w))), std::max(1, int(std::lround(h))), QImage::Format_ARGB32);
  out.fill(Qt::transparent);
  // From picture to result: through the plane.
  const auto& m = map->toPlane;
  const QTransform toPlane(m[0], m[3], m[6], m[1], m[4], m[7], m[2], m[5], m[8]);
  const QTransform scaled = QTransform::fromScale(1 / factor, 1 / factor) * toPlane *
                            QTransform::fromTranslate(-box.low.x, -box.high.y) *
                            QTransform::fromScale(pixelsPerMetre, -pixelsPerMetre);
  QPainter p(&out);
  p.setRenderHint(QPainter::SmoothPixmapTransform, true);
  p.setTransform(scaled);
  p.drawImage(0, 0, *image);
  p.end();
  return out;
}

} // namespace noonward
