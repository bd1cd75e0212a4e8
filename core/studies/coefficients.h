#pragma once
// Daylight coefficients of one space: what its sensors get for each unit of luminance of each patch of the sky, kept
// apart by window group, so that blinds, weather, schedules and thresholds never ask for rays again. Light between the
// surfaces of rooms is remembered by patches (core/light/patches.h), with a whole vector of coefficients each.

#include "core/base/hash.h"
#include "core/base/parallel.h"
#include "core/base/run_control.h"
#include "core/light/patches.h"
#include "core/sky/sky_bins.h"
#include "core/studies/light_aims.h"
#include <Eigen/Core>
#include <memory>

namespace noonward {

struct SpaceCoefficients {
  std::vector<std::uint32_t>
      groups; ///< window groups of the space (of the model); what comes by any other is the last, unnamed
  std::size_t parts() const { return groups.size() + 1; }
  std::vector<Eigen::MatrixXf> all;       ///< by part: sensors × 577, lx for 1 cd/m² of a patch
  std::vector<Eigen::MatrixXf> reflected; ///< of that what has met a surface: the beam takes it from the sun's patch
  Eigen::MatrixXf pane;                   ///< sensors × groups: lx for 1 cd/m² of the panes seen from inside
};

/// The surfaces of a room that its sensors see, cut into patches; none where too few sensors stand there.
struct SurfacesSeen {
  std::unique_ptr<Patches> patches;
  SeenPatches seen;
};
std::shared_ptr<const SurfacesSeen> surfacesSeen(const LightScene& scene, const SensorSet& sensors, std::size_t space,
                                                 std::uint64_t seed, Threads threads);

/// What is known of one space.
struct SpaceKept {
  std::vector<SpaceCoefficients> batches;   ///< independent: those of the first round, then those of the second
  std::shared_ptr<const SurfacesSeen> seen; ///< between the rounds
  std::vector<float> beam;                  ///< at sensors × hours, for each 1 lx facing the sun
  std::vector<std::uint8_t> through;        ///< the part that it comes through
  std::vector<std::uint32_t> litFrom, lit;  ///< sensors with any of it, hour by hour: lit[litFrom[h]…litFrom[h + 1])
  std::optional<SpaceCoefficients> insides; ///< of the panes seen as sensors that face the room: a row for each group,
                                            ///< where closed shade fabric reflects
  /// Light of the open sky by part, sensors × hours, of all batches or of one: what blinds and schedules leave as it
  /// is.
  struct Open {
    int rounds;
    std::optional<std::size_t> batch;
    std::size_t every;
    std::shared_ptr<const struct HourlySky> sky;
    std::shared_ptr<const std::vector<Eigen::MatrixXf>> parts;
  };
  std::vector<Open> open;
  /// What the space came to last, with all that it depends on beside the rays; null for nothing.
  std::shared_ptr<const struct SpaceAnswered> answered;
};
/// What falls through a group's panes for 1 cd/m² of each patch of the sky; empty until asked for.
struct PaneLight {
  Eigen::VectorXf all, reflected;            ///< lx; of that what has met a surface: the sun's comes by it too
  std::array<Eigen::VectorXf, 4> quarters{}; ///< `all` by a quarter of the paths each: how far they part is its error
};
/// Of a whole question, so that another blind, schedule, threshold or weather asks for no rays.
struct KeptCoefficients {
  static constexpr std::size_t batches = 4;
  Digest key, sun;                             ///< YearInput::rays; of the hours' sun positions
  std::shared_ptr<const struct HourlySky> sky; ///< of the last question, whatever its rays
  Digest skyKey;
  std::vector<SpaceKept> spaces;
  std::vector<PaneLight> panes;        ///< by window group
  std::vector<PaneLight> panesOutside; ///< before the glass, where blinds ask for it
  /// Closed by glare: by window group, by hour with light; of the question whose key it is.
  std::vector<std::vector<std::uint8_t>> glareShut;
  Digest glareKey;
  std::size_t openBytes = 0; ///< of `open`, never above `mostOpenBytes`
  static constexpr std::size_t mostOpenBytes = 384u << 20;
  /// Forgets what answers another question.
  void startFor(const struct YearInput& input);
};

/// Standard error of the mean of independent batches; Student's t for three degrees of freedom.
double batchError(const std::vector<double>& batches);

struct CoefficientQuestion {
  const LightScene* scene = nullptr;
  const SensorSet* sensors = nullptr;
  std::size_t space = 0; ///< index of the sensor group
  std::vector<std::uint32_t> groups;
  std::uint64_t seed = 1;
  int samples = 256;    ///< paths a sensor, of one batch
  int patchSamples = 8; ///< paths a patch, of one batch
};
/// One independent batch. Nothing where it was dropped. Same bits for any number of threads.
std::optional<SpaceCoefficients> spaceCoefficients(const CoefficientQuestion& question, std::uint32_t batch,
                                                   const SurfacesSeen& seen, AimShelf& aims, RunControl& control,
                                                   Threads threads);

/// Illuminance just inside the panes of a group (glass counted, straight and scattered; no reflections in the room);
/// `outside`: on their outside, no glass counted.
PaneLight paneCoefficients(const LightScene& scene, std::uint32_t group, std::uint64_t seed, int samples,
                           Threads threads, bool outside = false);

} // namespace noonward
