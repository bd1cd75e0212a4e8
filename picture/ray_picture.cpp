#include "picture/ray_picture.h"
#include "picture/face_tint.h"
#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace noonward {

namespace {

struct Rgb {
  float r = 0, g = 0, b = 0;
};
Rgb rgb(const QColor& c) {
  return {float(c.redF()), float(c.greenF()), float(c.blueF())};
}
Rgb mix(Rgb a, Rgb b, double t) {
  const auto f = float(t);
  return {a.r + (b.r - a.r) * f, a.g + (b.g - a.g) * f, a.b + (b.b - a.b) * f};
}

struct Surface { // what a pixel shows: enough to find edges between neighbours
  std::uint64_t element = 0;
  std::uint32_t face = 0;
  float distance = 0; ///< m
};

} // namespace

QImage rayPicture(const RayPictureInput& in, const Theme& theme, int width, int height, int samples,
                  RunControl& control) {
  const int W = width * samples, H = height * samples;
  Scene cells;
  std::vector<std::size_t> groupOf;
  if (in.painted) {
    std::vector<SceneLayer::Part> parts;
    for (std::size_t g = 0; g < in.painted->sensors.groups.size(); ++g) {
      auto mesh = std::make_shared<const Mesh>(cellMesh(*in.painted, g));
      if (!mesh->triangles.empty()) parts.push_back({g + 1, 0, mesh});
    }
    if (!parts.empty()) cells.layers.push_back(std::make_shared<const SceneLayer>(std::move(parts), nullptr));
  }
  const bool sunny = in.sun && in.sun->z > 0.001;
  enum : unsigned { isProposed = 1, isSelected = 2, isLeftOut = 4 };
  std::unordered_map<std::uint64_t, unsigned> standing;
  for (ElementId id : in.proposed) standing[id.value] |= isProposed;
  for (ElementId id : in.selected) standing[id.value] |= isSelected;
  for (ElementId id : in.leftOut) standing[id.value] |= isLeftOut;
  struct Tint {
    Rgb lit, shade;
  };
  std::array<std::array<Tint, 2>, allRoles.size()> tints;
  for (Role role : allRoles)
    for (const bool proposed : {false, true}) {
      const FaceTint t = faceTint(theme, role, proposed);
      tints[std::size_t(role)][proposed] = {rgb(t.lit), rgb(t.shade)};
    }
  std::unordered_map<std::uint64_t, Rgb> own;
  for (const auto& [id, colour] : in.coloured) own[id.value] = rgb(QColor(QString::fromStdString(colour)));
  std::vector<Rgb> colors(std::size_t(W) * std::size_t(H));
  std::vector<Surface> surfaces(colors.size());
  const Rgb stage = rgb(theme.stage), shadow = rgb(theme.shadow), noon = rgb(theme.noon);
  const Camera::Rays rays(in.camera, W, H);
  std::vector<Rgb> cellColors; // by sensor: a colour costs more than a ray
  if (in.painted)
    for (const float v : in.painted->values())
      cellColors.push_back(std::isnan(v) ? mix(stage, shadow, 0.5) : rgb(colorOf(in.painted->scale, double(v))));
  const Scene& casters = in.casters ? *in.casters : in.scene;
  const auto hiddenFromSun = [&](Vec3 p, Vec3 n) { return sunny && casters.hidden(p + n * 0.01, *in.sun); };

  // What a ray through (x, y) of the large picture sees. Plain: the same colour all over its surface.
  struct Seen {
    Rgb color;
    Surface surface;
    bool plain = true;
    bool like(const Seen& o) const {
      return plain && o.plain && surface.element == o.surface.element && surface.face == o.surface.face &&
             color.r == o.color.r && color.g == o.color.g && color.b == o.color.b;
    }
  };
  const auto look = [&](double x, double y) {
    Seen out;
    const Camera::Ray ray = rays(x, y);
    const Vec3 origin = in.camera.start(ray);
    const RayHit hit = in.scene.firstHit(origin, ray.direction);
    const RayHit cell = cells.layers.empty() ? RayHit{} : cells.firstHit(origin, ray.direction);
    double toGround = ray.direction.z < -1e-6 ? (in.groundLevel - origin.z) / ray.direction.z : -1;
    if (toGround < 0) toGround = INFINITY;
    Rgb& c = out.color;
    c = stage;
    const double far = hit.hit() ? hit.distance : INFINITY;
    if (cell.hit() && cell.distance < std::min(far, toGround + 0.2) + 0.05) {
      const Vec3 p = origin + ray.direction * cell.distance;
      const SensorGridFacts& g = in.painted->sensors.groups[cell.element - 1];
      const double v = double(in.painted->values()[g.first + cell.face]);
      c = cellColors[g.first + cell.face];
      if (!std::isnan(v)) {
        // Below the threshold: dots on the surface itself, so that they keep their place.
        if (in.painted->scale.dotBelow && v < in.painted->scale.threshold - 1e-6) {
          out.plain = false;
          const double pitch = std::max(g.spacing, 6 * in.camera.metresPerPixel(height));
          const Vec3 n = in.painted->sensors.sensors[g.first + cell.face].normalVector();
          const Vec3 u = std::abs(n.z) > 0.9 ? Vec3{1, 0, 0} : normalized(cross({0, 0, 1}, n)), w = cross(n, u);
          const double a = dot(p, u) / pitch, b = dot(p, w) / pitch;
          if (std::hypot(a - std::round(a), b - std::round(b)) < 0.16) c = mix(c, {1, 1, 1}, 0.55);
        }
        out.plain &= !(v > in.painted->scale.high + 1e-6);
        if (v > in.painted->scale.high + 1e-6 &&
            std::fmod(std::floor(x) + std::floor(y), 6.0 * samples) < 1.2 * samples)
          c = mix(c, rgb(theme.ink), 0.6);
      }
      if (hiddenFromSun(p, {0, 0, 0.02})) c = mix(c, {0.1f, 0.1f, 0.2f}, 0.14);
      out.surface = {std::uint64_t{1}, 0, float(cell.distance)};
    } else if (hit.hit() && hit.distance <= toGround + 0.01) {
      Vec3 n = hit.normal;
      if (dot(n, ray.direction) > 0) n = -n;
      const Vec3 p = origin + ray.direction * hit.distance;
      const auto known = standing.find(hit.element);
      const unsigned how = known == standing.end() ? 0 : known->second;
      Tint tint = tints[std::size_t(hit.role)][how & isProposed ? 1 : 0];
      if (const auto mine = own.find(hit.element); mine != own.end())
        tint = {mix(tint.lit, mine->second, 0.55), mix(tint.shade, mine->second, 0.55)};
      double light = 0.55 + 0.25 * n.z;
      if (sunny) {
        const double facing = dot(n, *in.sun);
        light = facing > 0 && !hiddenFromSun(p, n) ? 0.72 + 0.28 * facing : 0.12 + 0.16 * n.z + 0.1 * std::abs(n.x);
      }
      c = mix(tint.shade, tint.lit, light);
      if (how & isLeftOut) c = rgb(theme.leftOut);
      if (how & isSelected) c = mix(c, noon, 0.3);
      out.surface = {hit.element, hit.face, float(hit.distance)};
    } else if (std::isfinite(toGround)) {
      const Vec3 p = origin + ray.direction * toGround;
      if (hiddenFromSun(p, {0, 0, 1})) c = shadow;
    }
    return out;
  };
  // One ray a pixel; where neighbours differ, or a pattern lies, as many as were asked for.
  std::vector<Seen> middles(std::size_t(width) * std::size_t(height));
  const auto at = [&](int x, int y) -> const Seen& {
    return middles[std::size_t(y) * std::size_t(width) + std::size_t(x)];
  };
  const auto goesOn = [&] { return control.goesOn(); };
  const std::size_t bands = (std::size_t(height) + 7) / 8;
  if (forChunks(
          std::size_t(height), 8, {},
          [&](std::size_t first, std::size_t last) {
            for (std::size_t y = first; y < last; ++y)
              for (int x = 0; x < width; ++x)
                middles[y * std::size_t(width) + std::size_t(x)] =
                    look((x + 0.5) * samples, (double(y) + 0.5) * samples);
            if (control.progress) control.progress(0.4 * double(last) / height);
          },
          goesOn) != bands)
    return {};
  const auto alike = [&](int x, int y) {
    for (int v = std::max(0, y - 1); v <= std::min(height - 1, y + 1); ++v)
      for (int u = std::max(0, x - 1); u <= std::min(width - 1, x + 1); ++u)
        if (!at(u, v).like(at(x, y))) return false;
    return true;
  };
  if (forChunks(
          std::size_t(height), 8, {},
          [&](std::size_t first, std::size_t last) {
            for (std::size_t y = first; y < last; ++y)
              for (int x = 0; x < width; ++x) {
                const bool one = alike(x, int(y));
                for (int v = 0; v < samples; ++v)
                  for (int u = 0; u < samples; ++u) {
                    const double px = double(x * samples + u) + 0.5, py = double(y) * samples + v + 0.5;
                    const Seen seen = one ? at(x, int(y)) : look(px, py);
                    const std::size_t i = std::size_t(py) * std::size_t(W) + std::size_t(px);
                    colors[i] = seen.color;
                    surfaces[i] = seen.surface;
                  }
              }
            if (control.progress) control.progress(0.4 + 0.6 * double(last) / height);
          },
          goesOn) != bands)
    return {};

  // Edges: where the face changes to the right or below; silhouettes a little stronger.
  std::vector<Rgb> inked = colors;
  const Rgb edge = rgb(theme.edge);
  for (int y = 0; y + 1 < H; ++y)
    for (int x = 0; x + 1 < W; ++x) {
      const std::size_t i = std::size_t(y) * std::size_t(W) + std::size_t(x);
      for (const std::size_t j : {i + 1, i + std::size_t(W)}) {
        const Surface &a = surfaces[i], &b = surfaces[j];
        if (a.element == b.element && a.face == b.face) continue;
        const double strength = a.element == b.element ? 0.55 : 0.8;
        const std::size_t nearer = b.element && (!a.element || b.distance < a.distance) ? j : i;
        inked[nearer] = mix(colors[nearer], edge, strength);
        if (samples > 2) inked[nearer == i ? j : i] = mix(colors[nearer == i ? j : i], edge, strength * 0.6);
      }
    }
  QImage image(width, height, QImage::Format_RGB32);
  for (int y = 0; y < height; ++y) {
    auto* line = reinterpret_cast<QRgb*>(image.scanLine(y));
    for (int x = 0; x < width; ++x) {
      Rgb sum;
      for (int v = 0; v < samples; ++v)
        for (int u = 0; u < samples; ++u) {
          const Rgb& c = inked[std::size_t(y * samples + v) * std::size_t(W) + std::size_t(x * samples + u)];
          sum = {sum.r + c.r, sum.g + c.g, sum.b + c.b};
        }
      const float k = 255.0f / float(samples * samples);
      line[x] = qRgb(int(sum.r * k + 0.5f), int(sum.g * k + 0.5f), int(sum.b * k + 0.5f));
    }
  }
  return image;
}

} // namespace noonward
