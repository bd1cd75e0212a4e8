#include "core/studies/coefficients.h"
#include "core/studies/year_study.h"
#include <algorithm>
#include <cmath>
#include <numeric>
#include <tuple>

namespace noonward {

namespace {

constexpr std::size_t bins = SkyBins::count;

/// What is remembered of patches: for each slot parts × 577 coefficients and one for each group's panes.
struct PatchVectors {
  const std::vector<std::int32_t>* slot; ///< by patch; −1 unknown
  std::vector<float> values;
  std::size_t stride = 0;
};

struct VectorSink {
  const std::vector<std::uint8_t>& local; ///< part of each window group of the model
  std::size_t groups;                     ///< named ones
  float *all = nullptr, *reflected = nullptr, *panes = nullptr;
  const PatchVectors* remembered = nullptr;
  struct Met {
    std::int32_t slot;
    int part; ///< −1: met inside, by whatever way its light came; else outside, through the panes of that part
    float weight;
    bool operator<(const Met& o) const { return std::tie(slot, part, weight) < std::tie(o.slot, o.part, o.weight); }
  };
  std::vector<Met>* met = nullptr;
  void sky(std::uint32_t group, Vec3 d, double weight, bool straight) {
    const std::size_t at = local[group] * bins + SkyBins::of(d);
    all[at] += float(weight);
    if (reflected && !straight) reflected[at] += float(weight);
  }
  void sun(std::uint32_t, double) {}
  void pane(std::uint32_t group, double weight) {
    if (local[group] < groups) panes[local[group]] += float(weight);
  }
  bool known(std::uint32_t patch, std::uint32_t group, double weight) {
    if (!remembered || (*remembered->slot)[patch] < 0) return false;
    met->push_back({(*remembered->slot)[patch], group == 0 ? -1 : int(local[group]), float(weight)});
    return true;
  }
};

} // namespace

std::shared_ptr<const SurfacesSeen> surfacesSeen(const LightScene& scene, const SensorSet& sensors, std::size_t space,
                                                 std::uint64_t seed, Threads threads) {
  const SensorGridFacts& g = sensors.groups[space];
  auto out = std::make_shared<SurfacesSeen>();
  if (g.count < 12) return out;
  const std::span<const Sensor> own(sensors.sensors.data() + g.first, g.count);
  std::vector<bool> also;
  if (g.room < 0) { // no room is drawn: what surrounds sensors that are shut in serves as well
    const std::vector<bool> shut = shutIn(scene, own, seed, threads);
    if (std::count(shut.begin(), shut.end(), true) < std::ptrdiff_t(g.count - g.count / 10)) return out;
    also = surroundings(scene, own, 192, seed, threads);
  }
  out->patches = std::make_unique<Patches>(scene, 0.6, also);
  out->seen = seenPatches(scene, *out->patches, {sensors.sensors.data() + g.first, g.count}, 192, seed, threads);
  return out;
}

std::optional<SpaceCoefficients> spaceCoefficients(const CoefficientQuestion& q, std::uint32_t batch,
                                                   const SurfacesSeen& seen, AimShelf& aims, RunControl& control,
                                                   Threads threads) {
  const LightScene& scene = *q.scene;
  const SensorGridFacts& space = q.sensors->groups[q.space];
  const std::size_t n = space.count, parts = q.groups.size() + 1, stride = parts * bins + q.groups.size();
  std::vector<std::uint8_t> local(std::max<std::size_t>(scene.groupCount(), 1), std::uint8_t(q.groups.size()));
  for (std::size_t k = 0; k < q.groups.size(); ++k) local[q.groups[k]] = std::uint8_t(k);
  const std::uint64_t seed = mixed(q.seed + 0x9e37ull * (batch + 1));

  // ---- the surfaces that the sensors see
  const Patches* patches = seen.patches.get();
  const std::vector<std::uint32_t>& wanted = seen.seen.wanted;
  PatchVectors remembered{&seen.seen.slot, {}, stride};
  if (patches) {
    remembered.values.assign(wanted.size() * stride, 0);
    const std::size_t chunks = (wanted.size() + 15) / 16;
    const std::size_t done = forChunks(
        wanted.size(), 16, threads,
        [&](std::size_t a, std::size_t b) {
          LightPaths<VectorSink> paths(scene, {}, true);
          for (std::size_t i = a; i < b; ++i) {
            float* row = &remembered.values[i * stride];
            VectorSink sink{local, q.groups.size(), row, nullptr, row + parts * bins, nullptr, nullptr};
            const std::uint64_t key = mixed(seed + wanted[i] * 1315423911ull);
            // One for the patch, from its middle: to look for panes costs more than many samples.
            const Patches::Place middle = patches->at(wanted[i], 0.5, 0.5);
            const auto aim = aims.of(middle.position, middle.normal, middle.room, wanted[i]);
            for (int k = 0; k < q.patchSamples; ++k) {
              HashStream random(mixed(key ^ (std::uint64_t(k) << 20)));
              const ScrambledPoint u(key, std::uint32_t(k));
              const Patches::Place place = patches->at(wanted[i], u[7], random.next());
              paths.sample(place.position, place.normal, *aim, u, random, sink, false);
            }
            for (std::size_t k = 0; k < stride; ++k) row[k] /= float(q.patchSamples);
          }
        },
        [&] { return control.goesOn(); });
    if (done != chunks) return {};
  }

  // ---- the sensors
  SpaceCoefficients out;
  out.groups = q.groups;
  for (std::size_t k = 0; k < parts; ++k) {
    out.all.emplace_back(Eigen::MatrixXf::Zero(Eigen::Index(n), Eigen::Index(bins)));
    out.reflected.emplace_back(Eigen::MatrixXf::Zero(Eigen::Index(n), Eigen::Index(bins)));
  }
  out.pane = Eigen::MatrixXf::Zero(Eigen::Index(n), Eigen::Index(q.groups.size()));
  const std::size_t chunk = n < 64 ? 1 : 4, chunks = (n + chunk - 1) / chunk;
  const std::size_t done = forChunks(
      n, chunk, threads,
      [&](std::size_t a, std::size_t b) {
        LightPaths<VectorSink> paths(scene, {}, true, patches);
        std::vector<float> all(stride), reflected(parts * bins);
        std::vector<VectorSink::Met> met;
        for (std::size_t i = a; i < b; ++i) {
          const Sensor& s = q.sensors->sensors[space.first + i];
          std::fill(all.begin(), all.end(), 0.0f);
          std::fill(reflected.begin(), reflected.end(), 0.0f);
          met.clear();
          VectorSink sink{local,
                          q.groups.size(),
                          all.data(),
                          reflected.data(),
                          all.data() + parts * bins,
                          patches ? &remembered : nullptr,
                          &met};
          const auto aim = aims.of(*q.sensors, space.first + i);
          const std::uint64_t key = mixed(seed ^ mixed(i + 77));
          for (int k = 0; k < q.samples; ++k) {
            HashStream random(mixed(key ^ (std::uint64_t(k) << 20)));
            paths.sample(s.position, s.normalVector(), *aim, ScrambledPoint(key, std::uint32_t(k)), random, sink);
          }
          std::sort(met.begin(), met.end());
          for (std::size_t k = 0; k < met.size();) {
            const std::int32_t slot = met[k].slot;
            const int part = met[k].part;
            float w = 0;
            for (; k < met.size() && met[k].slot == slot && met[k].part == part; ++k) w += met[k].weight;
            const float* row = &remembered.values[std::size_t(slot) * stride];
            if (part >= 0) { // a reveal outside the glass, say: all its light comes in through that pane
              for (std::size_t from = 0; from < parts; ++from)
                for (std::size_t v = 0; v < bins; ++v) {
                  reflected[std::size_t(part) * bins + v] += w * row[from * bins + v];
                  all[std::size_t(part) * bins + v] += w * row[from * bins + v];
                }
              continue;
            }
            for (std::size_t v = 0; v < parts * bins; ++v) reflected[v] += w * row[v];
            for (std::size_t v = 0; v < stride; ++v) all[v] += w * row[v];
          }
          const float scale = 1 / float(q.samples);
          for (std::size_t k = 0; k < parts; ++k) {
            out.all[k].row(Eigen::Index(i)) =
                scale * Eigen::Map<const Eigen::RowVectorXf>(all.data() + k * bins, Eigen::Index(bins));
            out.reflected[k].row(Eigen::Index(i)) =
                scale * Eigen::Map<const Eigen::RowVectorXf>(reflected.data() + k * bins, Eigen::Index(bins));
          }
          for (std::size_t k = 0; k < q.groups.size(); ++k)
            out.pane(Eigen::Index(i), Eigen::Index(k)) = scale * all[parts * bins + k];
        }
      },
      [&] { return control.goesOn(); });
  if (done != chunks) return {};
  return out;
}

PaneLight paneCoefficients(const LightScene& scene, std::uint32_t group, std::uint64_t seed, int samples,
                           Threads threads, bool outside) {
  std::vector<std::uint32_t> pieces;
  std::vector<double> upTo;
  double area = 0;
  for (std::uint32_t k = 0; k < scene.pieces().size(); ++k)
    if (scene.pieces()[k].group == group) {
      pieces.push_back(k);
      upTo.push_back(area += scene.pieces()[k].area);
    }
  const Eigen::VectorXf zero = Eigen::VectorXf::Zero(Eigen::Index(bins));
  if (pieces.empty()) return {zero, zero, {}};
  const std::vector<std::uint8_t> local(scene.groupCount(), 0);
  constexpr std::size_t chunks = 16; // fixed, so that sums keep their order
  std::vector<PaneLight> sums(chunks, {zero, zero, {}});
  forChunks(chunks, 1, threads, [&](std::size_t a, std::size_t b) {
    LightPaths<VectorSink> paths(scene, {}, true);
    for (std::size_t c = a; c < b; ++c) {
      float unused = 0;
      VectorSink sink{local, 0, sums[c].all.data(), sums[c].reflected.data(), &unused, nullptr, nullptr};
      for (int k = int(c); k < samples; k += int(chunks)) {
        const std::uint64_t key = mixed(seed + group * 7919ull);
        const ScrambledPoint u(key, std::uint32_t(k));
        HashStream random(mixed(key ^ (std::uint64_t(k) << 20)));
        const auto at = std::size_t(std::lower_bound(upTo.begin(), upTo.end(), u[0] * area) - upTo.begin());
        const LightScene::Piece& p = scene.pieces()[pieces[std::min(at, pieces.size() - 1)]];
        const double s = std::sqrt(u[1]), t = u[2] * s;
        const Vec3 y = p.a * (1 - s) + p.b * (s - t) + p.c * t, d = cosineDirection(p.normal, u[3], u[4]);
        const double c1 = dot(p.normal, d),
                     through = outside ? 1 : scene.optics(p.optics).straight(c1) + scene.optics(p.optics).scattered(c1);
        if (through > 0)
          paths.follow(y + p.normal * LightPaths<VectorSink>::offset(y), d, pi * through, 1, random, sink);
      }
    }
  });
  PaneLight out{zero, zero, {}};
  for (const PaneLight& s : sums) {
    out.all += s.all;
    out.reflected += s.reflected;
  }
  for (std::size_t q = 0; q < out.quarters.size(); ++q) {
    out.quarters[q] = zero;
    for (std::size_t c = q; c < chunks; c += out.quarters.size()) out.quarters[q] += sums[c].all;
    out.quarters[q] *= float(out.quarters.size()) / float(samples);
  }
  out.all /= float(samples);
  out.reflected /= float(samples);
  return out;
}

double batchError(const std::vector<double>& v) {
  const double mean = std::accumulate(v.begin(), v.end(), 0.0) / double(v.size());
  double square = 0;
  for (double x : v) square += (x - mean) * (x - mean);
  return 3.182 / 1.960 * std::sqrt(square / double(v.size() - 1) / double(v.size()));
}

void KeptCoefficients::startFor(const YearInput& in) {
  if (!(key == in.rays) || spaces.size() != in.sensors.groups.size()) {
    key = in.rays;
    spaces.assign(in.sensors.groups.size(), {});
    openBytes = 0;
    for (auto* list : {&panes, &panesOutside}) list->assign(in.groups.size(), {});
  }
  if (!(sun == in.sunKey))
    for (SpaceKept& s : spaces) s.beam.clear(), s.through.clear(), s.litFrom.clear(), s.lit.clear(), s.answered.reset();
  sun = in.sunKey;
}

} // namespace noonward
