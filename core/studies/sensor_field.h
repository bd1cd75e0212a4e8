#pragma once
// What a study gives to the eye: values on its sensors with their errors, their unit and the scale on which they are
// shown. Plans, sections, the stage, tables, exports and comparisons know only this. A daylight year gives several, one
// a figure.

#include "core/studies/light_study.h"
#include "core/studies/palette.h"
#include "core/studies/sun_hours.h"
#include "core/studies/year_study.h"

namespace noonward {

/// A range of values and how it is drawn.
struct FieldScale {
  Palette palette = Palette::SunHours;
  double low = 0, high = 8; ///< in `unit`
  double threshold = 2;     ///< marked on the strip; below it cells are dotted
  bool dotBelow = true;
  std::string unit = "h"; ///< on the strip and under the pointer
  double perSi = 1;       ///< shown values and scale are SI times this: foot-candles for lux
  std::string title = "hours of sun";
};

/// What of a daylight year is shown.
enum class YearMetric { Autonomy, Continuous, BeamHours, Useful, TooMuch, MeanLux };
inline constexpr std::array<YearMetric, 6> allYearMetrics{YearMetric::Autonomy,  YearMetric::Continuous,
                                                          YearMetric::BeamHours, YearMetric::Useful,
                                                          YearMetric::TooMuch,   YearMetric::MeanLux};
const char* yearMetricName(YearMetric metric); ///< "daylight autonomy"

struct SensorField {
  SensorSet sensors;                            ///< in groups: rooms, areas, facades
  std::shared_ptr<const SunHoursResult> result; ///< what the values are of: exact hours of sun, or …
  std::shared_ptr<const LightResult> light;     ///< … values with errors of any other kind
  FieldScale scale;
  std::shared_ptr<const YearResult> year; ///< of a figure of a year: the whole of it
  std::vector<double> areas;              ///< m², of the year's spaces
  std::vector<bool> counted;
  bool isChange = false; ///< values are differences or shares (change.h): scale and threshold are the field's own

  StudyKind kind() const { return light ? light->kind : StudyKind::SunHours; }
  const std::vector<float>& values() const { return light ? light->value : result->hours; } ///< NaN: not computed
  RunEnd end() const { return light ? light->end : result->end; }
  const Digest& key() const { return light ? light->key : result->key; }
  /// "4 h 12 min of sun", "3.1 ± 0.1 %", "612 ± 9 lx"; "not computed".
  std::string valueText(std::size_t sensor) const;
  bool inRooms() const;
  bool isIn(const DisplayUnits& units) const; ///< are its values shown in these already?
  /// The strip as looked at: with a threshold and, where given, a range of the user's own, both in SI.
  FieldScale scaled(std::optional<double> threshold, const std::optional<std::pair<double, double>>& range) const;
};

/// A rounded upper end for a largest value.
double roundedUp(double value);
/// Range of the strip for a result: 0 to the hours that the sky alone would give, rounded up.
FieldScale scaleFor(const SunHoursResult& result, double threshold = 2);
FieldScale scaleFor(const LightResult& result, double threshold);
/// What is usually asked of a kind: 2 h, 2 %, 300 lx, 27 % …
inline double usualThreshold(StudyKind kind) {
  return factsOf(kind).threshold;
}

/// The scale of the same values with another threshold, in SI.
FieldScale rescaled(const SensorField& field, double threshold);

SensorField sunField(SensorSet sensors, std::shared_ptr<const SunHoursResult> result);
SensorField lightField(SensorSet sensors, std::shared_ptr<const LightResult> result, const DisplayUnits& units = {});
SensorField yearField(const YearFacts& facts, std::shared_ptr<const YearResult> year, YearMetric metric,
                      const DisplayUnits& units = {});
/// The same values in other units.
SensorField inUnits(SensorField field, const DisplayUnits& units);

} // namespace noonward
