#pragma once
// The daylight year of spaces: illuminance for every sensor and hour from daylight coefficients and hourly skies, the
// beam exactly for every sunlit hour, blinds worked group by group, and the annual metrics with their uncertainty.
//
// ASE: beam at the one sun position of the hour, through glass, blinds open, no reflections. Blinds by the rule of IES
// LM-83: each group is tested alone and closes in an hour when more than 2 % of the space's sensors get 1000 lx or more
// of beam through it. Closed, a group gives no beam; what the fabric lets through straight keeps its share of the open
// sky light, the scattered part leaves the panes evenly in all directions. Fabric that is said to reflect throws back
// what the room throws at it, in place of the panes' own reflectance (beam that crosses a room onto other closed panes
// is spread over 5° for this).
//
// Uncertainty is numerical only: four independent batches of paths, over every eighth hour with light. A quarter of the
// paths goes first through every space; where the verdict asked for is certain by then, the run stops by itself.

#include "core/base/parallel.h"
#include "core/base/run_control.h"
#include "core/light/light_scene.h"
#include "core/model/rooms/sensors.h"
#include "core/studies/annual_metrics.h"

namespace noonward {

struct HourlySky;        ///< hourly_sky.h
struct KeptCoefficients; ///< coefficients.h
struct LightInput;       ///< light_study.h

/// What is asked, without anything heavy: enough to name, weigh and judge a result.
struct YearFacts {
  SensorSet sensors;
  std::vector<WindowGroup> groups;    ///< of the simplified model
  std::vector<double> areas;          ///< m², floor of each space
  std::vector<bool> counted, rooflit; ///< spaces that count for the building; that have rooflights alone
  std::vector<RoomId> rooms;          ///< of each space; none for grids outside rooms
  YearSettings settings;
  Findings findings;
  Digest rays, sunKey, key; ///< of what is traced; of the hours' sun; of the whole question
};
Expected<YearFacts> yearFacts(const Project& project, const std::vector<GroupId>& groups, const YearSettings& settings);

struct YearInput : YearFacts {
  std::shared_ptr<const LightScene> scene;
  std::shared_ptr<const HourlySky> sky;
  std::vector<bool> mask, daylight;       ///< hours of the schedule; the 4380 with most diffuse light
  std::vector<bool> shut;                 ///< hours in which blinds are closed by the clock
  std::shared_ptr<const LightInput> eyes; ///< where blinds close by glare: the year of glare at the project's eyes
};
/// `kept` may hold the sky of the last question. `before`: without the proposal.
Expected<YearInput> yearInput(const Project& project, const std::vector<GroupId>& groups, const YearSettings& settings,
                              KeptCoefficients* kept = nullptr, bool before = false);

/// The hours of the schedule, of daylight and of closed blinds, by the input's settings.
void setHours(const Project& project, YearInput& input);

/// What a year depends on, rays, weather, schedule and blinds; equal digests, equal answers. No scene is built.
Digest hashYear(const Project& project, const std::vector<GroupId>& groups, const YearSettings& settings);

using ProvisionHours = std::array<double, 7>;
/// 300, 500, 750 lx on 50 %; 100, 300, 500, 750 lx on 95 %.
inline constexpr std::array<Provision, 7> provisionLevels{
    {{300, 0.5}, {500, 0.5}, {750, 0.5}, {100, 0.95}, {300, 0.95}, {500, 0.95}, {750, 0.95}}};

struct YearResult {
  std::vector<SensorYear> sensors;         ///< blinds as set
  std::vector<std::size_t> beamHours;      ///< of ASE, blinds open
  std::vector<float> relativeError;        ///< of a sensor's mean illuminance
  std::vector<SpaceYear> spaces;           ///< by sensor group
  std::vector<double> sdaError, meanError; ///< standard errors: of sDA (0…1), of the mean illuminance (lx)
  std::vector<ProvisionHours> provision,
      provisionError; ///< h, of EN 17037: in how many hours the share of the plane has the level
  std::vector<ProvisionHours> provisionOwn,
      provisionOwnError; ///< h, the other reading: the hours that the share of the plane reaches, each point by its own
  SpaceYear building;    ///< of the spaces that count
  double buildingSdaError = 0;
  std::size_t scheduleHours = 0;        ///< hours of the year that count
  bool everySpace = false;              ///< all have figures, if coarse ones
  int rounds = 0;                       ///< 1: of a quarter of the paths, 2: of all
  bool certain = false;                 ///< stopped by itself: the verdict was certain
  double certainty = 0;                 ///< probability (0…1) that more paths leave the verdict asked for where it is
  std::vector<std::size_t> closedHours; ///< by window group, within the schedule
  std::vector<float> series;            ///< sensor-major, 8760 each; only where asked for
  RunEnd end = RunEnd::Finished;
  double seconds = 0, tracing = 0; ///< s
  Digest key;
};
/// Spaces are done one after the other, twice; stopped early, what is there is kept. Coefficients that `kept` holds for
/// the same question are used again.
YearResult runYear(const YearInput& input, RunControl& control, Threads threads = {}, KeptCoefficients* kept = nullptr,
                   const std::function<void(const YearResult&)>& partial = {});

/// Beam at a place for each 1 lx facing the sun, and the group it is charged to (LightScene::charged); nothing where it
/// is hidden or behind.
struct BeamShare {
  double share = 0;
  std::uint32_t group = 0;
};
BeamShare beamAt(const LightScene& scene, Vec3 position, Vec3 normal, Vec3 sun);

/// How many steps a figure reaches.
int stepsReached(double figure, std::span<const double> steps);
/// Probability that a normal figure with this standard error lies above a bound; 0 or 1 where it is exact.
double probabilityAbove(double figure, double error, double bound);
/// Probability that a figure known with this standard error lies between the steps where it seems to lie.
double certaintyOfStep(double figure, double error, std::span<const double> steps);

inline constexpr double provisionNeeded = 2190; ///< h: half of 4380
/// The level of EN 17037 that a space reaches by its hours: 0 none, 1 minimum, 2 medium, 3 high; and how certain that
/// is. A space with rooflights alone must have the first value on 95 %.
struct ProvisionLevel {
  int level = 0;
  double certainty = 1;
};
/// Probability that a space reaches a level (1, 2, 3), its hours known with these errors.
double certaintyOfLevel(const ProvisionHours& hours, const ProvisionHours& errors, int level, bool rooflit = false);
ProvisionLevel provisionLevel(const ProvisionHours& hours, const ProvisionHours& errors, bool rooflit = false);

} // namespace noonward
