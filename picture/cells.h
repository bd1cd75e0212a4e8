#pragma once
// Results as coloured cells on the ground and on facades: one mesh a group, two triangles a cell; the face number is
// the sensor's place within its group.

#include "core/studies/light_study.h"
#include "core/studies/sun_hours.h"
#include "core/studies/year_study.h"
#include "picture/legend.h"

namespace noonward {

/// What of a daylight year is painted.
enum class YearMetric { Autonomy, Continuous, BeamHours, Useful, TooMuch, MeanLux };
inline constexpr std::array<YearMetric, 6> allYearMetrics{YearMetric::Autonomy,  YearMetric::Continuous,
                                                          YearMetric::BeamHours, YearMetric::Useful,
                                                          YearMetric::TooMuch,   YearMetric::MeanLux};
const char* yearMetricName(YearMetric metric); ///< "daylight autonomy"

/// A result on its sensors: sun hours, or light; a metric of a year is light too, with the year beside it.
struct PaintedResult {
  SensorSet sensors;
  std::shared_ptr<const SunHoursResult> result;
  std::shared_ptr<const LightResult> light;
  ResultScale scale;
  std::shared_ptr<const YearResult> year;
  std::vector<double> areas; ///< m², of the year's spaces
  std::vector<bool> counted;
  StudyKind kind() const { return light ? light->kind : StudyKind::SunHours; }
  const std::vector<float>& values() const { return light ? light->value : result->hours; }
  RunEnd end() const { return light ? light->end : result->end; }
  /// "4.2 h", "3.1 ± 0.1 %", "612 ± 9 lx"; "not computed".
  QString valueText(std::size_t sensor) const;
  bool inRooms() const;
  /// The strip as looked at: with a threshold and, where given, a range of the user's own.
  ResultScale scaled(double threshold, const std::optional<std::pair<double, double>>& range) const;
};

/// Cells of one group as a mesh, lifted 3 cm off the surface so that they lie on top. Single points give small squares.
Mesh cellMesh(const SensorSet& sensors, std::size_t group);
/// Range of the strip for a result: 0 to the hours that the sky alone would give, rounded up.
ResultScale scaleFor(const SunHoursResult& result, double threshold = 2);
ResultScale scaleFor(const LightResult& result, double threshold);
/// What is usually asked of a kind: 2 h, 2 %, 300 lx, 27 % …
double usualThreshold(StudyKind kind);
PaintedResult paintedYear(const YearFacts& input, std::shared_ptr<const YearResult> year, YearMetric metric);

} // namespace noonward
