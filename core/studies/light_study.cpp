#include "core/studies/light_study.h"
#include "core/studies/light_aims.h"
#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <mutex>

namespace noonward {

namespace {

constexpr int replicates = 16;
/// Student's t for 15 degrees of freedom over the normal's, so that ± 2 standard errors hold 95 %; and 6 % for the rule that stops
/// where the spread looks small (figures: docs/methods.md; tests/core/tst_light holds the share above 93 %).
constexpr double studentFactor = 1.06 * 2.131 / 1.960;

/// What falls on the patches of rooms, for each replicate on its own, but for the beam that falls on them straight.
class RoomLight {
public:
  RoomLight(const LightInput& in, const Patches& patches) : in_(in), patches_(patches) {}
  bool knows(std::uint32_t patch) const { return seen_.slot[patch] >= 0; }
  double of(std::uint32_t patch, int replicate) const { return double(sums_[std::size_t(seen_.slot[patch]) * replicates + std::size_t(replicate)]) / samples_; }
  /// Marks what the sensors of rooms see; the same for any number of threads.
  void look(Threads threads);
  /// Takes the samples a replicate up to `upTo`. False where it was stopped.
  bool learn(int upTo, AimShelf& aims, RunControl& control, Threads threads);

private:
  const LightInput& in_;
  const Patches& patches_;
  SeenPatches seen_;
  std::vector<float> sums_;
  int samples_ = 0;
};

/// Sums light of one sky.
struct SkySum {
  const StudySky& light;
  double sum = 0;
  void pane(std::uint32_t, double) {}
  void sky(std::uint32_t, Vec3 direction, double weight, bool) { sum += weight * light.sky(direction); }
  void sun(std::uint32_t, double weight) { sum += weight * light.beam; }
  bool known(std::uint32_t patch, std::uint32_t, double weight) {
    if (!remembered || !remembered->knows(patch)) return false;
    sum += weight * remembered->of(patch, replicate);
    return true;
  }
  const RoomLight* remembered = nullptr;
  int replicate = 0;
};

void RoomLight::look(Threads threads) {
  std::vector<Sensor> inside;
  for (const Sensor& s : in_.sensors.sensors)
    if (in_.sensors.groups[s.group].room >= 0) inside.push_back(s);
  seen_ = seenPatches(*in_.scene, patches_, inside, 256, in_.settings.seed, threads);
  sums_.assign(seen_.wanted.size() * replicates, 0);
}

bool RoomLight::learn(int upTo, AimShelf& aims, RunControl& control, Threads threads) {
  const std::size_t n = seen_.wanted.size(), chunks = (n + 15) / 16;
  const std::uint64_t seed = mixed(in_.settings.seed ^ 0x5ca1ab1eull);
  const std::size_t done = forChunks(n, 16, threads, [&](std::size_t a, std::size_t b) {
    SkySum total{in_.sky};
    LightPaths<SkySum> paths(*in_.scene, in_.sky.sun, true);
    for (std::size_t i = a; i < b; ++i) {
      const std::uint32_t patch = seen_.wanted[i];
      std::shared_ptr<const Aim> aim; // one for the patch: in a room without panes the look for some is long
      for (int r = 0; r < replicates; ++r) {
        const std::uint64_t key = mixed(seed + patch * 1315423911ull + std::uint64_t(r) * 2654435761ull);
        total.sum = 0;
        for (int k = samples_; k < upTo; ++k) {
          HashStream random(mixed(key ^ (std::uint64_t(k) << 20)));
          const ScrambledPoint q(key, std::uint32_t(k));
          const Patches::Place place = patches_.at(patch, q[7], random.next());
          if (!aim) aim = aims.of(place.position, place.normal, place.room, patch);
          paths.sample(place.position, place.normal, *aim, q, random, total, false);
        }
        sums_[i * replicates + std::size_t(r)] += float(total.sum);
      }
    }
  }, [&] { return control.goesOn(); });
  if (done != chunks) return false;
  samples_ = upTo;
  return true;
}

struct Progress {
  std::array<double, replicates> sums{};
  std::uint32_t perReplicate = 0;
  bool settled = false;
  std::shared_ptr<const Aim> aim;
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

/// What a run over the sensors keeps: sums by replicate, and how far each has come.
class SensorRun {
public:
  SensorRun(const LightInput& in, RunControl& control, Threads threads, const std::function<void(const LightResult&)>& partial)
      : in_(in), control_(control), threads_(threads), partial_(partial), start_(std::chrono::steady_clock::now()), state_(in.sensors.sensors.size()), aims_(*in.scene, in.sky.sun, in.settings.seed),
        seed_(mixed(in.settings.seed)), reflections_(in.kind == StudyKind::DaylightFactor || in.kind == StudyKind::Illuminance),
        most_(std::uint32_t(std::max<std::size_t>(1, in.settings.mostSamples / replicates))) {
    const std::size_t n = state_.size();
    out.kind = in.kind;
    out.key = in.key;
    out.value.assign(n, std::nanf(""));
    out.standardError.assign(n, std::nanf(""));
    out.samples.assign(n, 0);
    // Values are in % of the horizontal, but for illuminance; a sky view factor is of the surface's own hemisphere, whose
    // uniform luminance 100/π gives 100.
    const double horizontal = in.sky.sky.horizontal() + (in.sky.sun ? in.sky.beam * std::max(0.0, in.sky.sun->z) : 0);
    // Below this a relative error means nothing: 0.02 % of the horizontal. Sky exposure is wanted to 0.05 points.
    floor_ = in.kind == StudyKind::Illuminance ? 0.0002 * horizontal : 0.02;
  }

  void run() {
    // Light between a room's surfaces is remembered where many sensors ask for it and a small bias of the patches is far
    // below the error wanted.
    std::size_t inRooms = 0;
    for (const Sensor& s : in_.sensors.sensors) inRooms += in_.sensors.groups[s.group].room >= 0;
    if (reflections_ && inRooms >= 24 && in_.settings.error >= 0.0075 && most_ >= 64) {
      if (!rounds(4, nullptr)) return; // a first picture
      const Patches patches(*in_.scene, patchSize);
      RoomLight light(in_, patches);
      light.look(threads_);
      int samples = std::max(1, int(std::lround(2 * std::pow(0.03 / in_.settings.error, 2))));
      for (int pass = 0; pass < 3; ++pass, samples *= 4) {
        if (!light.learn(samples, aims_, control_, threads_)) return stop();
        for (std::size_t i = 0; i < state_.size(); ++i)
          if (inRoom(i) && !state_[i].settled) again(i);
        patches_ = &patches;
        out.replicates.resize(state_.size() * replicates, std::nanf(""));
        if (!rounds(512, &light)) return;
        if (unsettledInRooms() <= inRooms / 50) break; // a few are cheaper without what is remembered
      }
      patches_ = nullptr;
      for (std::size_t i = 0; i < state_.size(); ++i) // the few that this does not serve
        if (inRoom(i) && !state_[i].settled) again(i);
    }
    rounds(most_, nullptr);
  }

  LightResult finish() {
    const std::size_t n = state_.size();
    for (std::size_t i = 0; i < n; ++i) out.unsettled += !(double(out.standardError[i]) <= wanted(double(out.value[i])));
    out.end = control_.end(!stopped_);
    out.seconds = elapsed();
    if (control_.progress) control_.progress(1);
    return std::move(out);
  }
  LightResult out;

private:
  static constexpr double patchSize = 0.6; // m: no bias was seen at 0.6 and 1.0 against 0.3 (docs/methods.md)
  bool inRoom(std::size_t i) const { return in_.sensors.groups[in_.sensors.sensors[i].group].room >= 0; }
  void again(std::size_t i) {
    state_[i].sums.fill(0);
    state_[i].perReplicate = 0;
  }
  std::size_t unsettledInRooms() const {
    std::size_t n = 0;
    for (std::size_t i = 0; i < state_.size(); ++i) n += inRoom(i) && !state_[i].settled;
    return n;
  }
  double elapsed() const { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count(); }
  double wanted(double mean) const { return reflections_ ? in_.settings.error * std::max(mean, floor_) : 0.05; }
  void stop() { stopped_ = true; }

  /// Doubles the samples until all are settled or have `upTo` a replicate. With remembered light only sensors in rooms are
  /// taken on. False where the run was stopped.
  bool rounds(std::uint32_t upTo, const RoomLight* light) {
    const std::size_t n = state_.size(), chunk = n < 256 ? 1 : 8, chunks = (n + chunk - 1) / chunk;
    for (std::uint32_t now = std::min(4u, upTo);; now = std::min(2 * now, upTo)) {
      std::mutex lock;
      std::size_t left = 0, passed = 0;
      const auto waits = [&](std::size_t i) { return !state_[i].settled && state_[i].perReplicate < now && (!light || inRoom(i)); };
      for (std::size_t i = 0; i < n; ++i) left += !state_[i].settled;
      if (left == 0) return true;
      const std::size_t done = forChunks(n, chunk, threads_, [&](std::size_t a, std::size_t b) {
        SkySum total{in_.sky};
        total.remembered = light;
        LightPaths<SkySum> paths(*in_.scene, in_.sky.sun, reflections_, light ? patches_ : nullptr);
        for (std::size_t i = a; i < b; ++i)
          if (waits(i)) sensor(i, now, paths, total);
        if (control_.progress) {
          const std::lock_guard guard(lock);
          passed += b - a;
          control_.progress(std::min(0.999, (double(n - left) + double(left) * 0.5 * double(passed) / double(n)) / double(n)));
        }
      }, [&] { return control_.goesOn(); });
      if (done != chunks) {
        stop();
        return false;
      }
      if (partial_) {
        out.seconds = elapsed();
        partial_(out);
      }
      if (now >= upTo) return true;
    }
  }

  void sensor(std::size_t i, std::uint32_t upTo, LightPaths<SkySum>& paths, SkySum& total) {
    Progress& p = state_[i];
    if (!p.aim) p.aim = reflections_ ? aims_.of(in_.sensors, i) : nothing_;
    const Sensor& s = in_.sensors.sensors[i];
    const Vec3 normal = s.normalVector();
    for (int r = 0; r < replicates; ++r) {
      const std::uint64_t key = mixed(seed_ + i * 1315423911ull + std::uint64_t(r) * 2654435761ull);
      total.sum = 0;
      total.replicate = r;
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
    if (!out.replicates.empty())
      for (std::size_t r = 0; r < replicates; ++r) out.replicates[i * replicates + r] = float(p.sums[r] / upTo);
    // 32 samples a replicate before the spread is believed.
    p.settled = (upTo >= 32 && error <= wanted(mean)) || upTo >= most_;
  }

  const LightInput& in_;
  RunControl& control_;
  Threads threads_;
  const std::function<void(const LightResult&)>& partial_;
  std::chrono::steady_clock::time_point start_;
  std::vector<Progress> state_;
  AimShelf aims_;
  std::uint64_t seed_;
  bool reflections_, stopped_ = false;
  std::uint32_t most_;
  double floor_ = 0.02;
  const Patches* patches_ = nullptr;
  const std::shared_ptr<const Aim> nothing_ = std::make_shared<const Aim>();
};

} // namespace

LightResult runLight(const LightInput& in, RunControl& control, Threads threads, const std::function<void(const LightResult&)>& partial) {
  if (!in.sunHours.empty()) return sunlightHours(in, control, threads);
  SensorRun run(in, control, threads, partial);
  run.run();
  return run.finish();
}

} // namespace noonward
