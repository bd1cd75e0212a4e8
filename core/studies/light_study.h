#pragma once
// Light at sensors under one sky: daylight factor, illuminance at a moment, sky view factor, vertical sky component;
// and probable sunlight hours from the weather year. Every value carries its standard error: the spread of sixteen
// independent scrambled sequences, widened by Student's t so that ± 2 of it hold the truth for 95 % of sensors. It is
// numerical uncertainty only, not that of weather, model or finishes.

#include "core/base/parallel.h"
#include "core/base/run_control.h"
#include "core/light/light_scene.h"
#include "core/model/rooms/sensors.h"
#include "core/sky/radiant_sky.h"
#include "core/sky/sky_luminance.h"
#include <functional>
#include <map>
#include <span>

namespace noonward {

/// The sky of a study in the model's axes.
struct StudySky {
  SkyLuminance sky = SkyLuminance::cieOvercast(10000);
  std::optional<Vec3> sun;                            ///< toward the sun; absent where there is no beam
  double beam = 0;                                    ///< lx, on a plane facing the sun
  double diffuseIrradiance = 0, directIrradiance = 0; ///< W/m², of skies made from irradiances
  std::string text;                                   ///< as chosen, with its illuminances
};
/// `moment`: used where the choice names none. A usual sky is the CIE overcast one.
Expected<StudySky> studySky(const Project& project, const SkyChoice& choice, std::optional<Instant> moment);
/// Where the sun of a chosen sky stands in the model's axes, and when (absent where altitude and azimuth are given and
/// no moment is).
Expected<std::pair<Vec3, std::optional<Instant>>> sunOfSky(const Project& project, const SkyChoice& choice,
                                                           std::optional<Instant> moment);

/// What can be seen outdoors.
struct SeenThing {
  Role role = Role::Building;
  std::string name;
};

struct LightInput {
  std::shared_ptr<const LightScene> scene;
  SensorSet sensors;
  StudyKind kind = StudyKind::DaylightFactor;
  StudySky sky;
  LightSettings settings;
  Findings findings;
  std::vector<std::string> groups;
  Digest key;
  bool before = false;      ///< without the proposal, with what is demolished for it
  bool sunOnSensors = true; ///< with the sun that falls straight on a sensor; false: whoever asks adds it himself
  std::uint32_t leastSamples = 512; ///< no sensor is settled with fewer
  /// How light between the surfaces of rooms is remembered: by patches no longer than so many m, those that so many
  /// looks from each sensor meet so often. The others are followed on; at 0.6 and 1.0 m no bias was seen against 0.3
  /// (docs/methods.md).
  double patchSize = 0.6;
  std::uint32_t patchLooks = 256, patchHits = 1;
  // probable sunlight hours: directions to the sun in hours with sunshine, whether they are of winter, and how much of
  // the hour counts
  std::vector<Vec3> sunHours;
  std::vector<bool> sunHourInWinter;
  std::vector<double> sunHourWeight;                ///< h; 1 by the weather year
  std::string sunshine;                             ///< where it comes from, in words
  std::shared_ptr<const struct GlareInput> glare;   ///< of a year of glare (glare_year.h)
  std::shared_ptr<const struct EnergyInput> energy; ///< of a year of energy (energy/energy_year.h)
  std::shared_ptr<struct EnergyKept> energyKept;    ///< what the run before it learnt; null: nothing
  std::map<std::uint64_t, SeenThing> things;        ///< of a view out, by element
  /// Irradiation: the sky as energy, in W/m² of a moment or kWh/m² of the hours counted, and what values are told by.
  std::shared_ptr<const RadiantSky> radiant;
  double days = 1;              ///< that the energy is divided by
  std::string unit;             ///< of the values
  std::vector<bool> windowless; ///< by room: a shell without an opening lets nothing in, so that its sensors are dark
                                ///< without a single ray
};
/// `moment`: that of the window or command line, for skies without one of their own. `kept`: for a year of energy, as
/// LightInput::energyKept.
/// The key of lightInput() alone, without building a scene; equal keys, equal answers.
Digest hashLight(const Project& project, const Study& study, bool before = false, std::optional<Instant> moment = {});
Expected<LightInput> lightInput(const Project& project, const Study& study, bool before = false,
                                std::optional<Instant> moment = {}, std::shared_ptr<struct EnergyKept> kept = nullptr);

/// A further figure at each sensor, NaN where not computed.
struct ResultColumn {
  std::string key; ///< as in files: "sight_angle_deg"
  std::vector<float> values;
};

struct LightResult {
  StudyKind kind = StudyKind::DaylightFactor;
  std::string unit;                 ///< of the values; empty: studyUnit(kind)
  std::vector<float> value;         ///< NaN where not computed
  std::vector<float> standardError; ///< same unit; 0 where the value is exact
  std::vector<std::uint32_t> samples;
  /// Sixteen independent estimates of each sensor, sensor by sensor; empty where sensors are independent of each other.
  /// Where light between a room's surfaces is remembered, all sensors of a replicate share what is remembered.
  std::vector<float> replicates;
  /// Of irradiation: what comes from the sun straight, from the sky straight, and what has met a surface; together the
  /// value. Empty for other kinds.
  std::vector<float> direct, sky, reflected;
  std::vector<ResultColumn> columns;               ///< of kinds with more figures than one
  std::shared_ptr<const struct GlareYear> glare;   ///< of a year of glare: its hours
  std::shared_ptr<const struct EnergyYear> energy; ///< of a year of energy: its rooms
  std::size_t unsettled = 0;                       ///< sensors that kept a larger error than asked for
  RunEnd end = RunEnd::Finished;
  double seconds = 0;
  Digest key;
  std::string unitText() const { return unit.empty() ? studyUnit(kind) : unit; }
};
/// `partial` is called after every round over the sensors, from a worker thread: values so far, all sensors.
LightResult runLight(const LightInput& input, RunControl& control, Threads threads = {},
                     const std::function<void(const LightResult&)>& partial = {});

/// Why is the value of a sensor what it is? Plain sentences, from rays of its own.
struct Explanation {
  std::vector<std::string> sentences;
  bool buried = false;   ///< inside something, or facing a surface at no distance
  double skyShare = 0;   ///< share of its hemisphere (by cosine) in which it sees sky straight, glass counted
  double glassShare = 0; ///< share that meets glazing first
  double nearest = 0;    ///< m, median distance to what it sees
};
Explanation explain(const LightInput& input, const LightResult* result, std::size_t sensor, std::string_view unit = {});

struct LightStatistics {
  std::size_t count = 0;
  double mean = 0, median = 0, least = 0, most = 0, uniformity = 0; ///< uniformity: least / mean
  double meanError = 0;                                             ///< standard error of the mean
  double shareBelow = 0, shareAtLeast = 0, shareAbove = 0;          ///< of sensors: < low, ≥ low, > high
};
/// `areas`: m² of each of these sensors (SensorSet::areasOf), which count by them; empty: all alike.
LightStatistics lightStatistics(const LightResult& result, std::size_t first, std::size_t count, double low,
                                double high, std::span<const double> areas = {});

} // namespace noonward
