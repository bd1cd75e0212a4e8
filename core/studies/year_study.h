#pragma once
// The daylight year of spaces: illuminance for every sensor and hour from daylight coefficients and hourly skies, the beam
// exactly for every sunlit hour, blinds worked group by group, and the annual metrics with their uncertainty.
//
// ASE: beam at the one sun position of the hour, through glass, blinds open, no reflections. Blinds by the rule of IES LM-83:
// each group is tested alone and closes in an hour when more than 2 % of the space's sensors get 1000 lx or more of beam
// through it. Closed, a group gives no beam; what the cloth lets through straight keeps its share of the open sky light, the
// scattered part leaves the panes evenly in all directions. The inner reflectance of closed cloth is not followed.
//
// Uncertainty is numerical only: four independent batches of paths, over every eighth hour with light.

#include "core/base/run_control.h"
#include "core/base/parallel.h"
#include "core/light/light_scene.h"
#include "core/model/sensors.h"
#include "core/studies/annual_metrics.h"

namespace noonward {

struct HourlySky;        ///< hourly_sky.h
struct KeptCoefficients; ///< coefficients.h

struct YearInput {
  std::shared_ptr<const LightScene> scene;
  SensorSet sensors;
  std::vector<WindowGroup> groups;         ///< of the light model
  std::shared_ptr<const HourlySky> sky;
  std::vector<bool> mask, daylight;        ///< hours of the schedule; the 4380 with most diffuse light
  std::vector<double> areas;               ///< m², floor of each space
  std::vector<bool> counted;               ///< spaces that count for the building
  YearSettings settings;
  Findings findings;
  Digest rays, key;                        ///< of what is traced; of the whole question
};
Expected<YearInput> yearInput(const Project& project, const std::vector<GroupId>& groups, const YearSettings& settings);

/// What a year depends on, rays, weather, schedule and blinds; equal digests, equal answers. No scene is built.
Digest hashYear(const Project& project, const std::vector<GroupId>& groups, const YearSettings& settings);

struct YearResult {
  std::vector<SensorYear> sensors;          ///< blinds as set
  std::vector<std::size_t> beamHours;       ///< of ASE, blinds open
  std::vector<float> relativeError;         ///< of a sensor's mean illuminance
  std::vector<SpaceYear> spaces;            ///< by sensor group
  std::vector<double> sdaError, meanError;  ///< standard errors: of sDA (0…1), of the mean illuminance (lx)
  std::vector<std::array<double, 6>> provision; ///< hours of EN 17037: 300, 500, 750 lx on 50 %, 100, 300, 500 lx on 95 %
  SpaceYear building;                       ///< of the spaces that count
  double buildingSdaError = 0;
  std::vector<std::size_t> closedHours;     ///< by window group, within the schedule
  std::vector<float> series;                ///< sensor-major, 8760 each; only where asked for
  RunEnd end = RunEnd::Finished;
  double seconds = 0, tracing = 0;          ///< s
  Digest key;
};
/// Spaces are done one after the other; stopped early, those that are whole are kept. Coefficients that `kept` holds for the
/// same question are used again.
YearResult runYear(const YearInput& input, RunControl& control, Threads threads = {}, KeptCoefficients* kept = nullptr,
                   const std::function<void(const YearResult&)>& partial = {});

/// Beam at a place for each 1 lx facing the sun, and the group of the outermost pane; nothing where it is hidden or behind.
struct BeamShare {
  double share = 0;
  std::uint32_t group = 0;
};
BeamShare beamAt(const LightScene& scene, Vec3 position, Vec3 normal, Vec3 sun);

/// Points of the daylight credit's simulation path by its area-weighted sDA: 40, 55, 75 % give 1, 2, 3.
int creditPoints(double sda);

} // namespace noonward
