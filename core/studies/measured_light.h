#pragma once
// Computed light beside measured light, hour by hour at the same places: figures of agreement by hour, day and month
// and by where the sun stood, and what would bring the two nearer.
//
// An hour counts where it lies in the stretch asked for, was measured and computed, and the sun is up (at night both
// are dark, which flatters every figure; it may be asked for). Hours that do not count are counted by why. What shifts
// them best is told, never applied: a slip of the clock (least mean square over moved readings), a gain and a drift of
// the instrument (readings = computed × (gain + drift · t), least squares), another reflectance of all surfaces. Errors
// are from twelve parts of the days, each told by itself.

#include "core/sky/measured/hour_means.h"
#include "core/sky/measured/quantity.h"
#include "core/studies/agreement.h"
#include "core/studies/year_study.h"

namespace noonward {

/// What the project's model gives at some sensors.
struct ModelledHours {
  SensorSet sensors;
  std::vector<float> values;            ///< lx or W/m², sensor-major, 8760 each
  std::vector<float> altitude, azimuth; ///< rad, of each hour's sun; azimuth from true north
  std::vector<bool> up, known;          ///< is the sun up; has the weather radiation
  std::vector<int> years;               ///< of the weather's rows
  double utcOffset = 0;                 ///< s, of the weather's hours
  bool radiant = false;
  Digest key;
  Findings findings;
  const char* unit() const { return radiant ? "W/m²" : "lx"; }
};
/// A year with every hour kept, blinds as `settings` say (of irradiance: open). `reflectances`: of all opaque finishes,
/// times this. Errors: as yearInput(); stopped.
Expected<ModelledHours> modelledHours(const Project& project, const std::vector<GroupId>& groups,
                                      const YearSettings& settings, bool radiant, RunControl& control,
                                      Threads threads = {}, double reflectances = 1);

struct MeasuredAt {
  std::size_t column = 0; ///< of the means
  std::size_t sensor = 0; ///< of ModelledHours::sensors
  std::string name;       ///< of the column
};
/// By name (as sensors are called in tables, capital or small letters), or by a place "x y z" within 0.25 m. `lost`:
/// names that match nothing, with the nearest known one.
std::vector<MeasuredAt> matchSensors(const std::vector<std::pair<std::string, std::size_t>>& columns,
                                     const SensorSet& sensors, std::vector<std::string>& lost);

struct Stretch {
  int firstDay = 0, lastDay = 364;     ///< of 365, both within
  double firstHour = 0, lastHour = 24; ///< standard time of the weather
  bool night = false;
  double leastAltitude = -pi / 2, mostAltitude = pi / 2; ///< rad, of the sun
};

struct LeftOut {
  std::size_t outside = 0, night = 0, notMeasured = 0, noWeather = 0;
};

struct Suggestion {
  enum class Kind { Slip, Gain, Drift, SlipAndDrift, Reflectance } kind = Kind::Slip;
  double slip = 0, slipError = 0;               ///< min to add to the stamps
  double gain = 1, gainError = 0;               ///< readings over computed
  double drift = 0, driftError = 0;             ///< share of the reading a year
  double reflectance = 1, reflectanceError = 0; ///< all reflectances times this
  Agreement reached;
  std::string text;    ///< "Stamps moved by −30 ± 1 min: CV(RMSE) 41 % → 9 %"
  bool counts = false; ///< more than its noise
};

struct ComparedSensor {
  std::string column, sensor;
  Agreement hours;
  std::vector<float> measured, modelled; ///< 8760; NaN where the hour does not count
};
struct SunBin {
  double from = 0; ///< rad of altitude, 10° each
  Agreement agreement;
};
struct Comparison {
  std::vector<ComparedSensor> sensors;
  Agreement hours, days, months; ///< all sensors; means of days and months that have half of their hours
  LeftOut leftOut;               ///< sensor hours
  std::vector<SunBin> bySun;
  std::vector<Suggestion> suggestions;
  int year = 0; ///< of the measurement
  Findings findings;
};
/// `year`: of the measurement; 0: that with most hours. `darker`: the same with other reflectances, for that
/// suggestion.
Expected<Comparison> compareMeasured(const ModelledHours& modelled, const HourMeans& measured,
                                     const std::vector<MeasuredAt>& at, const Stretch& stretch, int year,
                                     const ModelledHours* darker = nullptr, double darkerBy = 1);

} // namespace noonward
