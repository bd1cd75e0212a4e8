#include "core/studies/light_study.h"
#include "core/studies/light_aims.h"
#include "core/studies/light_kinds.h"
#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <mutex>

namespace noonward {

namespace {

constexpr int replicates = 16;
/// Student's t for 15 degrees of freedom over the normal's, so that ± 2 standard errors hold 95 %; and 6 % for the rule
/// that stops where the spread looks small (figures: docs/methods.md; tests/core/tst_light holds the share above 93 %).
constexpr double studentFactor = 1.06 * 2.131 / 1.960;

/// What falls on the patches of rooms, for each replicate on its own, but for the beam that falls on them straight.
class RoomLight {
public:
  RoomLight(const LightInput& in, const Patches& patches, const std::vector<bool>& enclosed)
      : in_(in), patches_(patches), enclosed_(enclosed) {}
  bool knows(std::uint32_t patch) const { return seen_.slot[patch] >= 0; }
  double of(std::uint32_t patch, int replicate) const {
    return double(sums_[std::size_t(seen_.slot[patch]) * replicates + std::size_t(replicate)]) / samples_;
  }
  /// Marks what the sensors of rooms see; the same for any number of threads.
  void look(Threads threads);
  /// Takes the samples a replicate up to `upTo`. False where it was stopped.
  bool learn(int upTo, AimShelf& aims, RunControl& control, Threads threads);

private:
  const LightInput& in_;
  const Patches& patches_;
  const std::vector<bool>& enclosed_; ///< sensors that it serves
  SeenPatches seen_;
  std::vector<float> sums_;
  int samples_ = 0;
};

/// Sums light of one sky.
struct SkySum {
  const StudySky& light;
  double sum = 0, straightSum = 0;
  std::uint32_t straightHits = 0; ///< ways that met the sky straight
  void pane(std::uint32_t, double) {}
  void sky(std::uint32_t, Vec3 direction, double weight, bool straight) {
    const double value = weight * light.sky(direction);
    sum += value;
    if (straight && value > 0) {
      ++straightHits;
      straightSum += value;
    }
  }
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
  for (std::size_t i = 0; i < enclosed_.size(); ++i)
    if (enclosed_[i]) inside.push_back(in_.sensors.sensors[i]);
  seen_ = seenPatches(*in_.scene, patches_, inside, in_.patchLooks, in_.settings.seed, threads, in_.patchHits);
  sums_.assign(seen_.wanted.size() * replicates, 0);
}

bool RoomLight::learn(int upTo, AimShelf& aims, RunControl& control, Threads threads) {
  const std::size_t n = seen_.wanted.size(), chunks = (n + 15) / 16;
  const std::uint64_t seed = mixed(in_.settings.seed ^ 0x5ca1ab1eull);
  const std::size_t done = forChunks(
      n, 16, threads,
      [&](std::size_t a, std::size_t b) {
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
      },
      [&] { return control.goesOn(); });
  if (done != chunks) return false;
  samples_ = upTo;
  return true;
}

struct Progress {
  std::array<double, replicates> sums{};
  std::uint32_t perReplicate = 0;
  std::uint32_t hits = 0, straightHits = 0; ///< samples that brought light; ways that met the sky straight
  double straightSum = 0;
  bool settled = false;
  std::shared_ptr<const Aim> aim;
};

/// What a run over the sensors keeps: sums by replicate, and how far each has come.
class SensorRun {
public:
  SensorRun(const LightInput& in, RunControl& control, Threads threads,
            const std::function<void(const LightResult&)>& partial)
      : in_(in), control_(control), threads_(threads), partial_(partial), start_(std::chrono::steady_clock::now()),
        state_(in.sensors.sensors.size()), aims_(*in.scene, in.sky.sun, in.settings.seed),
        seed_(mixed(in.settings.seed)), reflections_(lightKind(in.kind).reflections),
        most_(std::uint32_t(std::max<std::size_t>(1, in.settings.maxSamples / replicates))) {
    const std::size_t n = state_.size();
    out.kind = in.kind;
    out.key = in.key;
    out.value.assign(n, std::nanf(""));
    out.standardError.assign(n, std::nanf(""));
    out.samples.assign(n, 0);
    // Values are in % of the horizontal, but for illuminance; a sky view factor is of the surface's own hemisphere,
    // whose uniform luminance 100/π gives 100.
    const double horizontal = in.sky.sky.horizontal() + (in.sky.sun ? in.sky.beam * std::max(0.0, in.sky.sun->z) : 0);
    // Below this a relative error means nothing: 0.02 % of the horizontal. Sky exposure is wanted to 0.05 points.
    floor_ = lightKind(in.kind).ofMoment ? 0.0002 * horizontal : 0.02;
    brightest_ = lightKind(in.kind).brightest;
    if (brightest_ == 0) { // of a coarse look at this sky
      for (int a = 0; a < 24; ++a)
        for (int h = 0; h < 9; ++h) {
          const double azimuth = radians(15.0 * a), altitude = radians(10.0 * h + 5);
          brightest_ = std::max(brightest_, pi * in.sky.sky(skyDirection(altitude, azimuth)));
        }
    }
  }

  void run() {
    // Light between a room's surfaces is remembered where many sensors ask for it and a small bias of the patches is
    // far below the error wanted.
    const auto& sensors = in_.sensors.sensors;
    enclosed_.assign(sensors.size(), false);
    if (reflections_) {
      aims_.share(in_.sensors, threads_);
      enclosed_ = shutIn(*in_.scene, sensors, in_.settings.seed, threads_);
      for (std::size_t i = 0; i < sensors.size(); ++i)
        if (in_.sensors.groups[sensors[i].group].room >= 0) enclosed_[i] = true;
    }
    darkRooms();
    const auto inRooms = std::size_t(std::count(enclosed_.begin(), enclosed_.end(), true));
    if (reflections_ && inRooms >= 24 && in_.settings.error >= 0.0075 && most_ >= 8) {
      if (partial_ && !rounds(4, nullptr)) return; // a first picture
      std::vector<Sensor> loose; // shut in, but in no drawn room: what surrounds them is remembered too
      for (std::size_t i = 0; i < sensors.size(); ++i)
        if (enclosed_[i] && in_.sensors.groups[sensors[i].group].room < 0) loose.push_back(sensors[i]);
      const Patches patches(*in_.scene, in_.patchSize,
                            loose.empty() ? std::vector<bool>{}
                                          : surroundings(*in_.scene, loose, 256, in_.settings.seed, threads_));
      RoomLight light(in_, patches, enclosed_);
      light.look(threads_);
      int samples = std::max(1, int(std::lround(2 * std::pow(0.03 / in_.settings.error, 2))));
      for (int pass = 0; pass < 3; ++pass, samples *= 4) {
        if (!light.learn(samples, aims_, control_, threads_)) return stop();
        for (std::size_t i = 0; i < state_.size(); ++i)
          if (inRoom(i) && !state_[i].settled) again(i);
        patches_ = &patches;
        out.replicates.resize(state_.size() * replicates, std::nanf(""));
        if (!rounds(std::min(512u, most_), &light)) return;
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
    for (std::size_t i = 0; i < n && !out.replicates.empty(); ++i)
      if (out.value[i] == 0 && out.samples[i] == 0)
        std::fill_n(out.replicates.begin() + std::ptrdiff_t(i * replicates), replicates, 0.0f);
    for (std::size_t i = 0; i < n; ++i)
      out.unsettled += out.value[i] != 0 && !(double(out.standardError[i]) <= wanted(double(out.value[i])));
    out.end = control_.end(!stopped_);
    out.seconds = elapsed();
    if (control_.progress) control_.progress(1);
    return std::move(out);
  }
  LightResult out;

private:
  bool inRoom(std::size_t i) const { return enclosed_[i]; }
  /// Rooms drawn without an opening are closed on all sides: exactly nothing, and no work.
  void darkRooms() {
    for (std::size_t i = 0; i < state_.size(); ++i) {
      const int room = in_.sensors.groups[in_.sensors.sensors[i].group].room;
      if (room < 0 || std::size_t(room) >= in_.windowless.size() || !in_.windowless[std::size_t(room)]) continue;
      out.value[i] = out.standardError[i] = 0;
      state_[i].settled = true;
      enclosed_[i] = false;
    }
  }
  void again(std::size_t i) {
    state_[i].sums.fill(0);
    state_[i].perReplicate = state_[i].hits = state_[i].straightHits = 0;
    state_[i].straightSum = 0;
  }
  std::size_t unsettledInRooms() const {
    std::size_t n = 0;
    for (std::size_t i = 0; i < state_.size(); ++i) n += inRoom(i) && !state_[i].settled;
    return n;
  }
  double elapsed() const { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count(); }
  double wanted(double mean) const { return reflections_ ? in_.settings.error * std::max(mean, floor_) : 0.05; }
  void stop() { stopped_ = true; }

  /// Doubles the samples until all are settled or have `upTo` a replicate. With remembered light only sensors in rooms
  /// are taken on. False where the run was stopped.
  bool rounds(std::uint32_t upTo, const RoomLight* light) {
    const std::size_t n = state_.size(), chunk = n < 256 ? 1 : 8, chunks = (n + chunk - 1) / chunk;
    for (std::uint32_t now = std::min(4u, upTo);; now = std::min(2 * now, upTo)) {
      std::mutex lock;
      std::size_t left = 0, passed = 0;
      const auto waits = [&](std::size_t i) {
        return !state_[i].settled && state_[i].perReplicate < now && (!light || inRoom(i));
      };
      for (std::size_t i = 0; i < n; ++i) left += !state_[i].settled;
      if (left == 0) return true;
      const std::size_t done = forChunks(
          n, chunk, threads_,
          [&](std::size_t a, std::size_t b) {
            SkySum total{in_.sky};
            total.remembered = light;
            LightPaths<SkySum> paths(*in_.scene, in_.sky.sun, reflections_, light ? patches_ : nullptr);
            for (std::size_t i = a; i < b; ++i)
              if (waits(i)) sensor(i, now, paths, total);
            if (control_.progress) {
              const std::lock_guard guard(lock);
              passed += b - a;
              control_.progress(
                  std::min(0.999, (double(n - left) + double(left) * 0.5 * double(passed) / double(n)) / double(n)));
            }
          },
          [&] { return control_.goesOn(); });
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
      total.sum = total.straightSum = 0;
      total.straightHits = 0;
      total.replicate = r;
      for (std::uint32_t k = p.perReplicate; k < upTo; ++k) {
        HashStream random(mixed(key ^ (std::uint64_t{k} << 20)));
        const double before = total.sum;
        paths.sample(s.position, normal, *p.aim, ScrambledPoint(key, k), random, total, in_.sunOnSensors);
        p.hits += total.sum > before;
      }
      p.straightHits += total.straightHits;
      p.straightSum += total.straightSum;
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
    if (p.hits == 0)
      out.standardError[i] =
          float(unseen(double(upTo) * replicates) / 2); // no light found: an upper bound, never an exact zero
    p.settled = (upTo >= in_.leastSamples / replicates && error <= wanted(mean) && believable(i, upTo, wanted(mean))) ||
                upTo >= most_;
  }

  /// What so many ways that all found nothing leave possible at 95 %: 3 in n (the rule of three), each bringing at most
  /// the brightest of this sky.
  double unseen(double ways) const { return 3 / ways * brightest_; }

  /// Is the spread of the samples to be believed? Not before enough of them brought light, of each kind: what few ways
  /// meet makes the spread look small until it is met.
  bool believable(std::size_t i, std::uint32_t upTo, double want) {
    const Progress& p = state_[i];
    const double n = double(upTo) * replicates;
    if (p.hits == 0) return n >= 16384;
    if (p.hits < 24) return false;
    if (p.straightHits >= 16 || n >= 65536) return true;
    if (p.straightHits > 0) return p.straightSum / n * (1 + 2 / std::sqrt(double(p.straightHits))) <= want;
    return unseen(n) * sightOf(i) <= 4 * want;
  }

  /// Share of a sensor's hemisphere (by cosine) that the panes it aims at would take if nothing stood before them; all
  /// of it where none is known.
  double sightOf(std::size_t i) const {
    const Aim& aim = *state_[i].aim;
    if (aim.empty()) return 1;
    const Sensor& s = in_.sensors.sensors[i];
    const Vec3 n = s.normalVector();
    double sight = 0;
    for (std::uint32_t k : aim.pieces) {
      const LightScene::Piece& piece = in_.scene->pieces()[k];
      const Vec3 to = piece.center() - s.position;
      const double r2 = dot(to, to) + piece.area / pi, r = std::sqrt(r2);
      sight +=
          piece.area * std::max(0.05, dot(n, to) / r) * std::max(0.05, std::abs(dot(piece.normal, to)) / r) / (pi * r2);
    }
    return std::min(1.0, sight);
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
  double floor_ = 0.02, brightest_ = 0; ///< in the study's unit: a way straight to the brightest of the sky
  std::vector<bool> enclosed_;          ///< sensors in drawn rooms, and all others that are shut in
  const Patches* patches_ = nullptr;
  const std::shared_ptr<const Aim> nothing_ = std::make_shared<const Aim>();
};

} // namespace

LightResult runLight(const LightInput& in, RunControl& control, Threads threads,
                     const std::function<void(const LightResult&)>& partial) {
  if (const auto own = lightKind(in.kind).run) return own(in, control, threads);
  SensorRun run(in, control, threads, partial);
  run.run();
  return run.finish();
}

} // namespace noonward
