#include "core/sky/radiant_sky.h"
#include "core/sky/hour_input.h"
#include <algorithm>
#include <array>
#include <cmath>

namespace noonward {

namespace {

/// The points at which a distribution is looked at, four in each patch, and the patches' weight on the horizontal.
struct PatchPoints {
  std::vector<Vec3> points;
  std::array<std::size_t, SkyBins::count + 1> first{};
  std::array<double, SkyBins::count> facing{}; ///< ∫ sin γ dω
  PatchPoints() {
    for (std::size_t b = 0; b < SkyBins::count; ++b) {
      double z = 0;
      (void)SkyBins::mean(b, [&](Vec3 d) {
        points.push_back(d);
        z += d.z;
        return 0.0;
      });
      first[b + 1] = points.size();
      facing[b] = z / double(first[b + 1] - first[b]) * SkyBins::solidAngle(b);
    }
  }
};

/// Adds the radiance of one hour's sky to the patches.
void addHour(const PatchPoints& at, const PerezInput& in, std::vector<double>& bins) {
  const SkyLuminance sky = SkyLuminance::perezUnscaled(in);
  std::array<double, SkyBins::count> l{};
  double horizontal = 0;
  for (std::size_t b = 0; b < SkyBins::count; ++b) {
    for (std::size_t k = at.first[b]; k < at.first[b + 1]; ++k) l[b] += sky(at.points[k]);
    l[b] /= double(at.first[b + 1] - at.first[b]);
    horizontal += l[b] * at.facing[b];
  }
  if (!(horizontal > 0)) return;
  const double scale = in.diffuseHorizontal / horizontal / 1000; // Wh to kWh
  for (std::size_t b = 0; b < SkyBins::count; ++b) bins[b] += l[b] * scale;
}

/// Suns of one hour of the day, day by day, taken together while none is moved too far.
std::vector<RadiantSky::Sun> together(const std::vector<RadiantSky::Sun>& days, double farthest) {
  std::vector<RadiantSky::Sun> out;
  const double least = std::cos(farthest);
  std::size_t from = 0;
  while (from < days.size()) {
    Vec3 sum = days[from].direction * days[from].energy;
    std::size_t to = from + 1;
    for (; to < days.size(); ++to) {
      const Vec3 next = sum + days[to].direction * days[to].energy, middle = normalized(next);
      bool near = true;
      for (std::size_t k = from; k <= to && near; ++k) near = dot(days[k].direction, middle) >= least;
      if (!near) break;
      sum = next;
    }
    out.push_back({normalized(sum), length(sum)});
    from = to;
  }
  return out;
}

} // namespace

RadiantSky RadiantSky::ofMoment(const SkyLuminance& shape, double diffuse, std::optional<Vec3> sun, double beam) {
  RadiantSky out;
  out.shape_ = shape;
  out.shapeScale_ = shape.horizontal() > 0 ? diffuse / shape.horizontal() : 0;
  out.diffuse_ = diffuse;
  if (sun && beam > 0) out.suns_.push_back({*sun, beam});
  out.gatherSuns();
  return out;
}

Expected<RadiantSky> RadiantSky::ofHours(const Weather& w, const std::vector<bool>& chosen, double northAngle,
                                         int missingYear, double farthest, Threads threads) {
  const std::vector<HourSun> suns = hourSuns(w, missingYear);
  RadiantSky out;
  out.bins_.assign(SkyBins::count, 0);
  std::vector<PerezInput> skies;
  std::array<std::vector<Sun>, 24> byHour;
  for (std::size_t i = 0; i < w.hours.size() && i < chosen.size(); ++i) {
    if (!chosen[i]) continue;
    const auto hour = perezOf(w.hours[i], suns[i], northAngle);
    if (!hour) return tl::unexpected(hour.error());
    const PerezInput& in = *hour;
    const bool shines = in.directNormal > 0 && in.sun.z > 0;
    out.hours_ += shines || in.diffuseHorizontal > 0;
    if (shines) byHour[i % 24].push_back({in.sun, in.directNormal / 1000});
    if (in.diffuseHorizontal > 0) skies.push_back(in);
    out.diffuse_ += in.diffuseHorizontal / 1000;
  }
  const PatchPoints at;
  constexpr std::size_t chunk = 64;
  std::vector<std::vector<double>> parts((skies.size() + chunk - 1) / chunk, std::vector<double>(SkyBins::count, 0));
  forChunks(skies.size(), chunk, threads, [&](std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i) addHour(at, skies[i], parts[a / chunk]);
  });
  for (const auto& part : parts)
    for (std::size_t b = 0; b < SkyBins::count; ++b) out.bins_[b] += part[b];
  for (const auto& days : byHour)
    for (const Sun& s : together(days, farthest)) out.suns_.push_back(s);
  out.gatherSuns();
  return out;
}

void RadiantSky::gatherSuns() {
  beam_ = 0;
  upTo_.clear();
  for (const Sun& s : suns_) upTo_.push_back(beam_ += s.energy);
  guide_.assign(suns_.empty() ? 0 : guides, 0);
  for (std::size_t g = 0, at = 0; g < guide_.size(); ++g) {
    while (at + 1 < upTo_.size() && upTo_[at] <= beam_ * double(g) / guides) ++at;
    guide_[g] = std::uint32_t(at);
  }
}

double RadiantSky::operator()(Vec3 d) const {
  if (d.z <= 0) return 0;
  return shape_ ? shapeScale_ * (*shape_)(d) : bins_[SkyBins::of(d)];
}

double RadiantSky::beamOnHorizontal() const {
  return beamOn({0, 0, 1});
}

double RadiantSky::beamOn(Vec3 normal) const {
  double sum = 0;
  for (const Sun& s : suns_) sum += s.energy * std::max(0.0, dot(s.direction, normal));
  return sum;
}

double RadiantSky::diffuseOn(Vec3 normal) const {
  if (shape_) return shapeScale_ * shape_->illuminance(normal);
  double sum = 0;
  for (std::size_t b = 0; b < SkyBins::count; ++b)
    if (bins_[b] > 0)
      sum += bins_[b] * SkyBins::solidAngle(b) *
             SkyBins::mean(
                 b, [&](Vec3 d) { return std::max(0.0, dot(d, normal)); }, 8);
  return sum;
}

double RadiantSky::brightest() const {
  double most = 0;
  if (!shape_) {
    for (double l : bins_) most = std::max(most, l);
    return pi * most;
  }
  for (int a = 0; a < 24; ++a)
    for (int h = 0; h < 9; ++h) most = std::max(most, (*this)(skyDirection(radians(10.0 * h + 5), radians(15.0 * a))));
  return pi * most;
}

Vec3 RadiantSky::pick(double u) const {
  std::size_t at = guide_[std::min(guides - 1, std::size_t(u * guides))];
  while (at + 1 < upTo_.size() && upTo_[at] <= u * beam_) ++at;
  return suns_[at].direction;
}

} // namespace noonward
