#include "core/studies/light_study.h"
#include "core/light/light_paths.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <map>
#include <mutex>

namespace noonward {

namespace {

constexpr int replicates = 16;
/// Student's t for 15 degrees of freedom over the normal's, so that ± 2 standard errors hold 95 %; and 6 % for the rule that stops
/// where the spread looks small (figures: docs/methods.md; tests/core/tst_light holds the share above 93 %).
constexpr double studentFactor = 1.06 * 2.131 / 1.960;

/// Sums light of one sky.
struct SkySum {
  const StudySky& light;
  double sum = 0;
  void sky(std::uint32_t, Vec3 direction, double weight) { sum += weight * light.sky(direction); }
  void sun(std::uint32_t, double weight) { sum += weight * light.beam; }
};

constexpr std::size_t mostAims = 128;

/// The pieces of glazing worth aiming at from a sensor: those of its room where that is known, else what short walks and
/// a look at the likeliest find. Any choice is unbiased; a poor one only costs samples.
std::vector<std::uint32_t> aimOf(const LightInput& in, std::size_t sensor) {
  const auto& pieces = in.scene->pieces();
  if (pieces.empty()) return {};
  const Sensor& s = in.sensors.sensors[sensor];
  const Vec3 n = s.normalVector(), x = s.position + n * 1e-3;
  std::vector<std::uint32_t> aim;
  const int room = in.sensors.groups[s.group].room;
  if (room >= 0)
    for (std::uint32_t k = 0; k < pieces.size(); ++k)
      if (pieces[k].room == room) aim.push_back(k);
  if (!aim.empty() && aim.size() <= mostAims) return aim;
  aim.clear();
  const LightPaths<SkySum> paths(*in.scene, {}, true);
  HashStream random(mixed(in.settings.seed * 77 + sensor));
  std::vector<std::uint32_t> seen;
  const double open = paths.pilot(s.position, n, random, 96, [&](std::uint32_t k) { seen.push_back(k); });
  if (open > 0.3) return {}; // outdoors: the sky itself is found easily
  std::vector<std::pair<double, std::uint32_t>> likely;
  for (std::uint32_t k = 0; k < pieces.size(); ++k)
    if (const double w = paths.weightOf(x, n, pieces[k]); w > 0) likely.emplace_back(-w, k);
  const std::size_t top = std::min<std::size_t>(likely.size(), 96);
  std::partial_sort(likely.begin(), likely.begin() + std::ptrdiff_t(top), likely.end());
  for (std::size_t i = 0; i < top; ++i) {
    const LightScene::Piece& p = pieces[likely[i].second];
    for (const Vec3& y : {p.center(), p.a * 0.8 + p.center() * 0.2, p.b * 0.8 + p.center() * 0.2, p.c * 0.8 + p.center() * 0.2}) {
      const Vec3 d = y - x;
      if (dot(d, n) > 0 && !in.scene->blocked(x, normalized(d), 0, length(d) * (1 - 1e-6))) {
        seen.push_back(likely[i].second);
        break;
      }
    }
  }
  std::sort(seen.begin(), seen.end());
  seen.erase(std::unique(seen.begin(), seen.end()), seen.end());
  // Neighbours of what was seen belong to it: pieces of the same pane.
  std::vector<std::uint32_t> parts;
  for (std::uint32_t k : seen) parts.push_back(pieces[k].part);
  std::sort(parts.begin(), parts.end());
  parts.erase(std::unique(parts.begin(), parts.end()), parts.end());
  if (parts.size() <= 24)
    for (std::uint32_t k = 0; k < pieces.size() && aim.size() <= mostAims; ++k)
      if (std::binary_search(parts.begin(), parts.end(), pieces[k].part)) aim.push_back(k);
  if (aim.empty() || aim.size() > mostAims) aim = seen;
  if (aim.size() > mostAims) aim.resize(mostAims);
  return aim;
}

struct Progress {
  std::array<double, replicates> sums{};
  std::uint32_t perReplicate = 0;
  bool settled = false, aimed = false;
  std::shared_ptr<const Aim> aim;
};

/// Aims made once and shared by the sensors that have the same panes in sight.
class AimShelf {
public:
  explicit AimShelf(const LightInput& in) : in_(in) {}
  std::shared_ptr<const Aim> of(std::size_t sensor) {
    std::vector<std::uint32_t> pieces = aimOf(in_, sensor);
    std::sort(pieces.begin(), pieces.end());
    {
      const std::lock_guard lock(mutex_);
      if (const auto at = known_.find(pieces); at != known_.end()) return at->second;
    }
    auto made = std::make_shared<const Aim>(makeAim(*in_.scene, pieces, in_.sky.sun));
    const std::lock_guard lock(mutex_);
    return known_.emplace(std::move(pieces), std::move(made)).first->second;
  }

private:
  const LightInput& in_;
  std::mutex mutex_;
  std::map<std::vector<std::uint32_t>, std::shared_ptr<const Aim>> known_;
};

LightResult sunlightHours(const LightInput& in, RunControl& control, Threads threads) {
  const auto start = std::chrono::steady_clock::now();
  LightResult out;
  out.kind = in.kind;
  out.key = in.key;
  const std::size_t n = in.sensors.sensors.size();
  out.value.assign(n, std::nanf(""));
  out.standardError.assign(n, 0);
  out.samples.assign(n, std::uint32_t(in.sunHours.size()));
  const bool winterOnly = in.kind == StudyKind::SunlightWinter;
  std::mutex lock;
  std::size_t done = 0;
  const std::size_t chunks = (n + 31) / 32;
  const std::size_t finished = forChunks(n, 32, threads, [&](std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i) {
      const Sensor& s = in.sensors.sensors[i];
      const Vec3 normal = s.normalVector(), o = s.position + normal * 1e-3;
      std::size_t lit = 0;
      for (std::size_t k = 0; k < in.sunHours.size(); ++k) {
        if (winterOnly && !in.sunHourInWinter[k]) continue;
        if (dot(normal, in.sunHours[k]) > 0 && !in.scene->blocked(o, in.sunHours[k], 0, 1e30)) ++lit;
      }
      out.value[i] = float(100.0 * double(lit) / double(in.sunHours.size()));
    }
    if (control.progress) {
      const std::lock_guard guard(lock);
      done += b - a;
      control.progress(double(done) / double(n));
    }
  }, [&] { return control.goesOn(); });
  out.end = control.end(finished == chunks);
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  return out;
}

} // namespace

LightResult runLight(const LightInput& in, RunControl& control, Threads threads, const std::function<void(const LightResult&)>& partial) {
  if (!in.sunHours.empty()) return sunlightHours(in, control, threads);
  const auto start = std::chrono::steady_clock::now();
  LightResult out;
  out.kind = in.kind;
  out.key = in.key;
  const std::size_t n = in.sensors.sensors.size();
  out.value.assign(n, std::nanf(""));
  out.standardError.assign(n, std::nanf(""));
  out.samples.assign(n, 0);
  const bool reflections = in.kind == StudyKind::DaylightFactor || in.kind == StudyKind::Illuminance;
  // Values are in % of the horizontal, but for illuminance; a sky view factor is of the surface's own hemisphere, whose
  // uniform luminance 100/π gives 100.
  const double horizontal = in.sky.sky.horizontal() + (in.sky.sun ? in.sky.beam * std::max(0.0, in.sky.sun->z) : 0);
  // Below this a relative error means nothing: 0.02 % of the horizontal. Sky exposure is wanted to 0.05 points.
  const double floor = in.kind == StudyKind::Illuminance ? 0.0002 * horizontal : 0.02;
  std::vector<Progress> state(n);
  AimShelf shelf(in);
  const auto nothing = std::make_shared<const Aim>();
  const std::uint64_t seed = mixed(in.settings.seed);
  const auto most = std::uint32_t(std::max<std::size_t>(1, in.settings.mostSamples / replicates));
  const std::size_t chunk = n < 256 ? 1 : 8, chunks = (n + chunk - 1) / chunk;
  bool stopped = false;
  for (std::uint32_t upTo = 4; !stopped; upTo *= 2) {
    std::mutex lock;
    std::size_t left = 0, passed = 0;
    for (const Progress& p : state) left += !p.settled;
    if (left == 0) break;
    const std::size_t done = forChunks(n, chunk, threads, [&](std::size_t a, std::size_t b) {
      SkySum total{in.sky};
      LightPaths<SkySum> paths(*in.scene, in.sky.sun, reflections);
      for (std::size_t i = a; i < b; ++i) {
        Progress& p = state[i];
        if (p.settled) continue;
        if (!p.aimed) {
          p.aimed = true;
          p.aim = reflections ? shelf.of(i) : nothing;
        }
        const Sensor& s = in.sensors.sensors[i];
        const Vec3 normal = s.normalVector();
        for (int r = 0; r < replicates; ++r) {
          const std::uint64_t key = mixed(seed + i * 1315423911ull + std::uint64_t(r) * 2654435761ull);
          total.sum = 0;
          for (std::uint32_t k = p.perReplicate; k < upTo; ++k) {
            HashStream random(mixed(key ^ (std::uint64_t{k} << 20)));
            paths.sample(s.position, normal, *p.aim, ScrambledPoint(key, k), random, total);
          }
          p.sums[std::size_t(r)] += total.sum;
        }
        p.perReplicate = upTo;
        double mean = 0, square = 0;
        for (double sum : p.sums) mean += sum / upTo / replicates;
        for (double sum : p.sums) square += std::pow(sum / upTo - mean, 2);
        const double error = studentFactor * std::sqrt(square / (replicates - 1) / replicates);
        out.value[i] = float(mean);
        out.standardError[i] = float(error);
        out.samples[i] = upTo * replicates;
        // 32 samples a replicate before the spread is believed.
        const double wanted = reflections ? in.settings.error * std::max(mean, floor) : 0.05;
        p.settled = (upTo >= 32 && error <= wanted) || upTo >= most;
      }
      if (control.progress) {
        const std::lock_guard guard(lock);
        passed += b - a;
        control.progress(std::min(0.999, (double(n - left) + double(left) * 0.5 * double(passed) / double(n)) / double(n)));
      }
    }, [&] { return control.goesOn(); });
    stopped = done != chunks;
    if (partial && !stopped) {
      out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
      partial(out);
    }
  }
  for (std::size_t i = 0; i < n; ++i) {
    const double wanted = reflections ? in.settings.error * std::max(double(out.value[i]), floor) : 0.05;
    out.unsettled += !(double(out.standardError[i]) <= wanted);
  }
  out.end = control.end(!stopped);
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  if (control.progress) control.progress(1);
  return out;
}

} // namespace noonward
