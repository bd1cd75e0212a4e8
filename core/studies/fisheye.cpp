#include "core/studies/fisheye.h"
#include "core/base/parallel.h"
#include "core/model/light_model.h"
#include "core/studies/sight.h"
#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <unordered_map>

namespace noonward {

namespace {

constexpr int mostPixels = 2048, leastPixels = 16;

} // namespace

// ---- directions and pixels ----------------------------------------------------------------------------------------

const char* fisheyeProjectionKey(FisheyeProjection p) {
  switch (p) {
  case FisheyeProjection::Equidistant:
    return "equidistant";
  case FisheyeProjection::Equisolid:
    return "equisolid";
  case FisheyeProjection::Orthographic:
    return "orthographic";
  case FisheyeProjection::Perspective:
    return "perspective";
  }
  return "";
}

std::optional<FisheyeProjection> fisheyeProjectionFromKey(std::string_view key) {
  for (FisheyeProjection p : {FisheyeProjection::Equidistant, FisheyeProjection::Equisolid,
                              FisheyeProjection::Orthographic, FisheyeProjection::Perspective})
    if (key == fisheyeProjectionKey(p)) return p;
  return {};
}

namespace {
constexpr double perspectiveHalf = 0.57735026918962576; // tan 30°

/// θ of a radius, and dω for each unit of the disc's area.
struct Opened {
  double theta, spread;
};
Opened opened(FisheyeProjection p, double r) {
  switch (p) {
  case FisheyeProjection::Equidistant: {
    const double theta = r * pi / 2;
    return {theta, r > 1e-9 ? std::sin(theta) * (pi / 2) / r : pi * pi / 4};
  }
  case FisheyeProjection::Equisolid:
    return {2 * std::asin(std::min(1.0, r / std::sqrt(2.0))), 2};
  case FisheyeProjection::Orthographic: {
    const double theta = std::asin(std::min(1.0, r));
    return {theta, 1 / std::max(1e-3, std::cos(theta))};
  }
  case FisheyeProjection::Perspective: {
    const double theta = std::atan(r * perspectiveHalf), c = std::cos(theta);
    return {theta, perspectiveHalf * perspectiveHalf * c * c * c};
  }
  }
  return {0, 0};
}
} // namespace

std::optional<Vec3> FisheyeMap::direction(double x, double y) const {
  const double half = size / 2.0, u = (x - half) / half, v = (half - y) / half, r = std::hypot(u, v);
  if (projection != FisheyeProjection::Perspective && r > 1) return {};
  const double theta = opened(projection, r).theta;
  if (r < 1e-12) return eye.forward;
  return normalized(eye.forward * std::cos(theta) + (eye.right * (u / r) + eye.up * (v / r)) * std::sin(theta));
}

std::optional<Vec2> FisheyeMap::pixel(Vec3 d) const {
  const double ahead = dot(d, eye.forward), side = dot(d, eye.right), over = dot(d, eye.up);
  if (ahead < (projection == FisheyeProjection::Perspective ? 1e-6 : -1e-12)) return {};
  const double theta = std::acos(std::clamp(ahead, -1.0, 1.0)), across = std::hypot(side, over);
  double r = 0;
  switch (projection) {
  case FisheyeProjection::Equidistant:
    r = theta / (pi / 2);
    break;
  case FisheyeProjection::Equisolid:
    r = std::sqrt(2.0) * std::sin(theta / 2);
    break;
  case FisheyeProjection::Orthographic:
    r = std::sin(theta);
    break;
  case FisheyeProjection::Perspective:
    r = std::tan(theta) / perspectiveHalf;
    break;
  }
  const double half = size / 2.0;
  if (across < 1e-12) return Vec2{half, half};
  return Vec2{half + half * r * side / across, half - half * r * over / across};
}

double FisheyeMap::solidAngle(int column, int row) const {
  const double half = size / 2.0, u = (column + 0.5 - half) / half, v = (row + 0.5 - half) / half, r = std::hypot(u, v);
  if (projection != FisheyeProjection::Perspective && r > 1) return 0;
  return opened(projection, r).spread / (half * half);
}

// ---- the picture --------------------------------------------------------------------------------------------------

namespace {

using Term = SightTerm;
struct Pixel {
  double fixed = 0; ///< cd/m², from the sky
  std::uint32_t first = 0, count = 0;
  std::uint64_t key = 0; ///< of all its surfaces
  std::uint64_t seen = 0;
};

/// Gathers what one pixel shows.
struct PixelSink {
  const StudySky& sky_;
  Pixel& pixel;
  std::vector<Term>& terms;
  double weight = 1; ///< of this look among those of the pixel
  void sky(Vec3 d, double share, std::uint32_t) { pixel.fixed += weight * share * sky_.sky(d); }
  void pane(std::uint32_t, double) {}
  void surface(const Term& t, bool mirrored) {
    terms.push_back(t);
    terms.back().factor *= weight;
    if (!mirrored && t.element != 0) pixel.seen = t.element;
  }
};

/// Illuminance of a term: of its own point, or between four of the same surface.
struct Light {
  std::array<std::uint32_t, 4> point{};
  std::array<float, 4> share{1, 0, 0, 0};
};

class PictureRun {
public:
  PictureRun(LightInput in, const FisheyeMap& map, Vec3 eye, RunControl& control, Threads threads)
      : in_(std::move(in)), map_(map), eye_(eye), control_(control), threads_(threads),
        pixels_(std::size_t(map.size) * std::size_t(map.size)) {}

  void look() {
    const std::size_t n = std::size_t(map_.size);
    std::vector<std::vector<Term>> rows(n), edges(n);
    const Sight<PixelSink> sight(*in_.scene);
    forChunks(n, 4, threads_, [&](std::size_t a, std::size_t b) {
      for (std::size_t y = a; y < b; ++y)
        for (std::size_t x = 0; x < n; ++x) {
          Pixel& p = pixels_[y * n + x];
          p.first = std::uint32_t(rows[y].size());
          if (const auto d = map_.direction(double(x) + 0.5, double(y) + 0.5)) {
            PixelSink sink{in_.sky, p, rows[y], 1};
            sight.look(eye_, *d, sink);
          }
          p.count = std::uint32_t(rows[y].size()) - p.first;
          p.key = p.count;
          for (std::size_t k = p.first; k < rows[y].size(); ++k)
            p.key = mixed(p.key * 0x9e3779b97f4a7c15ull + rows[y][k].key);
        }
    });
    // Where surfaces meet, a pixel is the mean of four by four looks: the light of small windows hangs on their edges.
    std::vector<bool> meets(n * n, false);
    for (std::size_t y = 0; y < n; ++y)
      for (std::size_t x = 0; x < n; ++x)
        for (const auto& [dx, dy] : {std::pair<std::size_t, std::size_t>{1, 0}, {0, 1}})
          if (x + dx < n && y + dy < n && pixels_[y * n + x].key != pixels_[(y + dy) * n + x + dx].key)
            meets[y * n + x] = meets[(y + dy) * n + x + dx] = true;
    forChunks(n, 4, threads_, [&](std::size_t a, std::size_t b) {
      for (std::size_t y = a; y < b; ++y)
        for (std::size_t x = 0; x < n; ++x) {
          if (!meets[y * n + x]) continue;
          Pixel& p = pixels_[y * n + x];
          p.fixed = 0;
          p.first = std::uint32_t(edges[y].size());
          constexpr int cuts = 4;
          int inside = 0;
          for (int k = 0; k < cuts * cuts; ++k)
            inside +=
                map_.direction(double(x) + (k % cuts + 0.5) / cuts, double(y) + (k / cuts + 0.5) / cuts).has_value();
          for (int k = 0; k < cuts * cuts; ++k) {
            const auto d = map_.direction(double(x) + (k % cuts + 0.5) / cuts, double(y) + (k / cuts + 0.5) / cuts);
            if (!d) continue;
            PixelSink sink{in_.sky, p, edges[y], 1.0 / inside};
            sight.look(eye_, *d, sink);
          }
          p.count = std::uint32_t(edges[y].size()) - p.first;
          p.key = mixed(y * n + x + 1); // of no other
        }
    });
    for (std::size_t y = 0; y < n; ++y) {
      const auto base = std::uint32_t(terms_.size()), more = base + std::uint32_t(rows[y].size());
      for (std::size_t x = 0; x < n; ++x) pixels_[y * n + x].first += meets[y * n + x] ? more : base;
      terms_.insert(terms_.end(), rows[y].begin(), rows[y].end());
      terms_.insert(terms_.end(), edges[y].begin(), edges[y].end());
    }
    pointOf_.assign(terms_.size(), none);
    light_.resize(terms_.size());
    const int block = blockOf(map_.size);
    for (int y = 0; y < map_.size; y += block)
      for (int x = 0; x < map_.size; x += block) share(x, y, block);
    for (const auto& [term, key] : served_) light_[term] = {{pointOf(nearby_.at(key)), 0, 0, 0}, {1, 0, 0, 0}};
  }

  /// Light at the points, by the engine of sensors; what falls there straight from the sun is asked pixel by pixel.
  void lighten() {
    const std::size_t n = points_.size();
    std::vector<std::uint32_t> order(n);
    for (std::size_t i = 0; i < n; ++i) order[i] = std::uint32_t(i);
    std::stable_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
      return terms_[points_[a]].room < terms_[points_[b]].room;
    });
    in_.sensors = {};
    for (std::uint32_t i : order) {
      const Term& t = terms_[points_[i]];
      if (in_.sensors.groups.empty() || in_.sensors.groups.back().room != t.room) {
        SensorGridFacts g;
        g.first = in_.sensors.sensors.size();
        g.room = t.room;
        in_.sensors.groups.push_back(g);
      }
      Sensor s;
      s.position = t.at;
      s.normal = {float(t.normal.x), float(t.normal.y), float(t.normal.z)};
      s.group = std::uint32_t(in_.sensors.groups.size() - 1);
      in_.sensors.sensors.push_back(s);
      ++in_.sensors.groups.back().count;
    }
    in_.sunOnSensors = false;
    in_.leastSamples = 32;
    // A patch that fewer of the 128 ways from a point are to meet than it takes to learn it is not worth learning.
    in_.patchSize = 1;
    in_.patchLooks = 32;
    in_.patchHits = 5;
    const LightResult r = n > 0 ? runLight(in_, control_, threads_) : LightResult{};
    end = n > 0 ? r.end : RunEnd::Finished;
    lux_.assign(n, 0);
    spread_.assign(n * replicates, 0);
    for (std::size_t k = 0; k < n; ++k) {
      const std::size_t i = order[k];
      const double value = std::isnan(r.value[k]) ? 0 : double(r.value[k]);
      lux_[i] = float(value);
      for (std::size_t j = 0; j < replicates; ++j) {
        const double own = r.replicates.empty() ? std::nan("") : double(r.replicates[k * replicates + j]);
        // Points without replicates are independent of each other: their error drawn by their place.
        const double drawn = value + 4 * double(r.standardError[k]) * normal(mixed(in_.settings.seed + k * 64 + j));
        spread_[i * replicates + j] = float(std::isnan(own) ? std::max(0.0, drawn) : own);
      }
    }
  }

  void sunOnSurfaces() {
    sun_.assign(terms_.size(), 0);
    if (!in_.sky.sun || !(in_.sky.beam > 0)) return;
    const Vec3 s = *in_.sky.sun;
    forChunks(terms_.size(), 512, threads_, [&](std::size_t a, std::size_t b) {
      for (std::size_t k = a; k < b; ++k) {
        const Term& t = terms_[k];
        const double facing = dot(t.normal, s);
        if (facing > 0) sun_[k] = float(in_.sky.beam * facing * arrives(t.at + t.normal * rayOffsetAt(t.at), s));
      }
    });
  }

  /// With light as found, or that of a replicate.
  std::vector<float> luminances(int replicate = -1) const {
    std::vector<float> out(pixels_.size(), std::nanf(""));
    for (std::size_t i = 0; i < pixels_.size(); ++i) {
      const Pixel& p = pixels_[i];
      const int x = int(i % std::size_t(map_.size)), y = int(i / std::size_t(map_.size));
      if (!(map_.solidAngle(x, y) > 0)) continue;
      double sum = p.fixed;
      for (std::uint32_t k = p.first; k < p.first + p.count; ++k) {
        double e = double(sun_[k]);
        for (std::size_t c = 0; c < 4; ++c)
          if (light_[k].share[c] > 0)
            e += double(light_[k].share[c]) *
                 double(replicate < 0 ? lux_[light_[k].point[c]]
                                      : spread_[light_[k].point[c] * replicates + std::size_t(replicate)]);
        sum += terms_[k].factor * e;
      }
      out[i] = float(sum);
    }
    return out;
  }

  std::vector<std::uint64_t> seen() const {
    std::vector<std::uint64_t> out;
    for (const Pixel& p : pixels_) out.push_back(p.seen);
    return out;
  }

  std::optional<GlareSource> sunDisc() const {
    if (!in_.sky.sun || !(in_.sky.beam > 0) || dot(*in_.sky.sun, map_.eye.forward) <= 0) return {};
    double share = 0;
    constexpr int looks = 64; // over the disc
    for (int k = 0; k < looks; ++k) {
      const double r = sunHalfAngle * std::sqrt((k + 0.5) / looks), turn = k * 2.399963229728653;
      const EyeFrame f = EyeFrame::along(*in_.sky.sun);
      share +=
          arrives(eye_, normalized(f.forward + f.right * (r * std::cos(turn)) + f.up * (r * std::sin(turn)))) / looks;
    }
    if (!(share > 0)) return {};
    const double omega = 2 * pi * (1 - std::cos(sunHalfAngle));
    return GlareSource{in_.sky.beam * share / omega, omega, *in_.sky.sun, positionIndex(*in_.sky.sun, map_.eye), true};
  }

  std::size_t points() const { return points_.size(); }
  static constexpr std::size_t replicates = 16;
  RunEnd end = RunEnd::Finished;

private:
  static constexpr std::uint32_t none = ~0u;
  /// Pixels between points of light on one surface, far from its edges.
  static int blockOf(int size) { return size >= 384 ? 16 : 8; }
  static double normal(std::uint64_t key) {
    HashStream random(key);
    return std::sqrt(-2 * std::log(std::max(1e-12, random.next()))) * std::cos(2 * pi * random.next());
  }
  double arrives(Vec3 o, Vec3 d) const {
    if (d.z <= 0 && o.z > in_.scene->groundLevel()) return 0;
    return in_.scene->blocked(o, d, 0, 1e30) ? 0 : in_.scene->throughGlass(o, d);
  }
  const Pixel* at(int x, int y) const {
    if (x >= map_.size || y >= map_.size || !(map_.solidAngle(x, y) > 0)) return nullptr;
    return &pixels_[std::size_t(y) * std::size_t(map_.size) + std::size_t(x)];
  }
  std::uint32_t pointOf(std::uint32_t term) {
    if (pointOf_[term] == none) {
      pointOf_[term] = std::uint32_t(points_.size());
      points_.push_back(term);
    }
    return pointOf_[term];
  }
  /// A pixel where surfaces meet: the light of a point nearby on the same surface serves.
  void own(const Pixel& p) {
    for (std::uint32_t k = p.first; k < p.first + p.count; ++k) {
      const Term& t = terms_[k];
      const double size = length(t.at - eye_) * blockOf(map_.size) * pi / map_.size; // m across a block
      const int level = int(std::floor(std::log2(std::max(1e-6, size))));
      std::uint64_t key = mixed(t.key + std::uint64_t(level + 64));
      for (double v : {t.at.x, t.at.y, t.at.z})
        key = mixed(key + std::uint64_t(std::int64_t(std::floor(std::ldexp(v, -level))) + (1 << 30)));
      // Any of them: the first would always be the one at the upper left.
      const auto [at, fresh] = nearby_.try_emplace(key, k);
      if (!fresh && mixed(k) < mixed(at->second)) at->second = k;
      served_.emplace_back(k, key);
    }
  }
  /// The block between four pixels: on one surface by what its corners have, else in four smaller ones.
  void share(int x0, int y0, int size) {
    if (size <= 2) {
      for (int k = 0; k < size * size; ++k)
        if (const Pixel* p = at(x0 + k % size, y0 + k / size)) own(*p);
      return;
    }
    const std::array<const Pixel*, 4> corner{at(x0, y0), at(x0 + size, y0), at(x0, y0 + size),
                                             at(x0 + size, y0 + size)};
    const bool one = std::all_of(corner.begin(), corner.end(),
                                 [&](const Pixel* p) { return p && p->key == corner[0]->key && p->count > 0; });
    if (!one) {
      for (int dy : {0, size / 2})
        for (int dx : {0, size / 2}) share(x0 + dx, y0 + dy, size / 2);
      return;
    }
    for (int y = y0; y < y0 + size; ++y)
      for (int x = x0; x < x0 + size; ++x) {
        const Pixel* p = at(x, y);
        if (!p) continue;
        if (p->key != corner[0]->key) {
          own(*p);
          continue;
        }
        const float u = float(x - x0) / float(size), v = float(y - y0) / float(size);
        for (std::uint32_t k = 0; k < p->count; ++k) {
          Light& l = light_[p->first + k];
          for (std::size_t c = 0; c < 4; ++c) l.point[c] = pointOf(corner[c]->first + k);
          l.share = {(1 - u) * (1 - v), u * (1 - v), (1 - u) * v, u * v};
        }
      }
  }

  LightInput in_;
  const FisheyeMap& map_;
  Vec3 eye_;
  RunControl& control_;
  Threads threads_;
  std::vector<Pixel> pixels_;
  std::vector<Term> terms_;
  std::vector<std::uint32_t> pointOf_, points_;                 ///< term → point; point → term
  std::vector<Light> light_;                                    ///< by term
  std::unordered_map<std::uint64_t, std::uint32_t> nearby_;     ///< term by surface and place
  std::vector<std::pair<std::uint32_t, std::uint64_t>> served_; ///< terms that have the light of one nearby
  std::vector<float> lux_, spread_, sun_;
};

struct Summed {
  double ev = 0, light = 0, solidAngle = 0;
  std::vector<GlareSpot> spots;
};
Summed summed(const FisheyeMap& map, const std::vector<float>& luminance) {
  Summed out;
  for (int y = 0; y < map.size; ++y)
    for (int x = 0; x < map.size; ++x) {
      const double omega = map.solidAngle(x, y);
      const auto d = map.direction(x + 0.5, y + 0.5);
      if (!(omega > 0) || !d) continue;
      const double l = double(luminance[std::size_t(y) * std::size_t(map.size) + std::size_t(x)]);
      out.ev += l * omega * std::max(0.0, dot(*d, map.eye.forward));
      out.light += l * omega;
      out.solidAngle += omega;
      out.spots.push_back({*d, l, omega});
    }
  return out;
}

Glare glareIn(const FisheyeMap& map, const std::vector<float>& luminance, const std::optional<GlareSource>& sun,
              const FisheyeSettings& s, std::optional<Vec3> task) {
  const Summed all = summed(map, luminance);
  Glare g;
  g.ev = all.ev;
  g.mean = all.solidAngle > 0 ? all.light / all.solidAngle : 0;
  g.threshold = s.threshold;
  if (task) { // 5 × the mean of a zone 30° wide
    double light = 0, omega = 0;
    for (const GlareSpot& spot : all.spots)
      if (dot(spot.direction, *task) >= std::cos(radians(15))) {
        light += spot.luminance * spot.solidAngle;
        omega += spot.solidAngle;
      }
    if (omega > 0) g.threshold = 5 * light / omega;
  }
  g.sources = sourcesAmong(all.spots, g.threshold, map.eye);
  if (sun) {
    g.ev += sun->luminance * sun->solidAngle * std::max(0.0, dot(sun->direction, map.eye.forward));
    g.mean += all.solidAngle > 0 ? sun->luminance * sun->solidAngle / all.solidAngle : 0;
    g.sources.push_back(*sun);
    std::stable_sort(g.sources.begin(), g.sources.end(),
                     [](const GlareSource& a, const GlareSource& b) { return a.weight() > b.weight(); });
  }
  g.dgp = daylightGlareProbability(g.ev, g.sources);
  g.contrast = g.dgp - daylightGlareProbability(g.ev, {});
  return g;
}

Outcome soundSettings(const Project& p, const FisheyeSettings& s) {
  if (!finite(s.eye)) return fail("The eye's place is no number.", "at");
  if (!std::isfinite(s.azimuth) || !std::isfinite(s.altitude) || std::abs(s.altitude) > pi / 2 + 1e-9)
    return fail("A line of sight has an azimuth and an altitude of −90° to 90°.", "direction");
  if (s.pixels < leastPixels || s.pixels > mostPixels)
    return fail(fmt::format("A picture of {} to {} pixels is made; {} was asked.", leastPixels, mostPixels, s.pixels),
                "pixels");
  if (!(s.error >= 0.002 && s.error <= 0.5))
    return fail("The error of the surfaces' light lies between 0.2 and 50 %.", "error");
  if (!(s.threshold > 0)) return fail("A threshold of glare sources is above 0 cd/m².", "threshold");
  if (s.eye.z <= p.site.groundLevel)
    return fail(fmt::format("The eye lies {:.2f} m under the ground.", p.site.groundLevel - s.eye.z), "at");
  return {};
}

/// Inside a wall or a solid: the surface met first is seen from its back in most directions.
bool inMass(const Project& p, Vec3 eye) {
  const bool inRoom = std::any_of(p.rooms.begin(), p.rooms.end(), [&](const Room& r) {
    return eye.z >= r.floor && eye.z <= r.floor + r.height && contains(r.outline, {eye.x, eye.y});
  });
  return !inRoom && std::any_of(p.elements.begin(), p.elements.end(), [&](const ElementPtr& e) {
    return e->mass() && standsInTheLight(*e, true) && e->role != Role::Planting && encloses(*e->mass(), eye);
  });
}

} // namespace

Expected<Fisheye> fisheye(const Project& project, const FisheyeSettings& s, const SkyChoice& sky,
                          std::optional<Instant> moment, RunControl& control, Threads threads) {
  const auto start = std::chrono::steady_clock::now();
  if (const Outcome o = soundSettings(project, s); !o) return tl::unexpected(o.error());
  const Vec3 forward = skyDirection(s.altitude, s.azimuth, project.site.northAngle);
  Project p = project;
  SensorGroup eye;
  eye.id = {1};
  eye.name = "Eye";
  PointSensor at;
  at.position = s.eye;
  at.normal = forward;
  eye.layout = std::vector<PointSensor>{at};
  p.groups = {eye};
  Study study;
  study.id = {1};
  study.kind = StudyKind::Illuminance;
  study.groups = {eye.id};
  study.light.sky = sky;
  study.light.error = std::min(0.9, 1.42 * s.error); // of a point: pixels between four have less
  study.light.seed = s.seed;
  // Errors of single points fade in the sum over the picture: dark corners are not followed to the end.
  study.light.maxSamples = std::size_t(std::clamp(128 * std::pow(0.03 / s.error, 2), 32.0, 262144.0));
  auto in = lightInput(p, study, false, moment);
  if (!in) return tl::unexpected(in.error());
  if (inMass(p, s.eye) || buried(*in->scene, s.eye))
    return fail("The eye lies inside something: move it into a room or outdoors.", "at");
  Fisheye out;
  out.map = {s.projection, s.pixels, EyeFrame::along(forward)};
  out.findings = in->findings;
  out.sky = in->sky.text;
  out.key = in->key;
  PictureRun run(std::move(*in), out.map, s.eye, control, threads);
  run.look();
  run.lighten();
  run.sunOnSurfaces();
  out.luminance = run.luminances();
  out.seen = run.seen();
  out.points = run.points();
  out.end = run.end;
  out.sun = run.sunDisc();
  if (s.projection != FisheyeProjection::Perspective) {
    std::optional<Vec3> task;
    if (s.task) task = skyDirection(s.task->second, s.task->first, project.site.northAngle);
    out.glare = glareIn(out.map, out.luminance, out.sun, s, task);
    double ev = 0, dgp = 0, ev2 = 0, dgp2 = 0;
    constexpr int n = int(PictureRun::replicates);
    for (int r = 0; r < n; ++r) {
      const Glare g = glareIn(out.map, run.luminances(r), out.sun, s, task);
      ev += g.ev / n;
      ev2 += g.ev * g.ev / n;
      dgp += g.dgp / n;
      dgp2 += g.dgp * g.dgp / n;
    }
    out.glare.evError = std::sqrt(std::max(0.0, ev2 - ev * ev) / (n - 1));
    out.glare.dgpError = std::sqrt(std::max(0.0, dgp2 - dgp * dgp) / (n - 1));
  }
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  return out;
}

} // namespace noonward
