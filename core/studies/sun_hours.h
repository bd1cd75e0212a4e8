#pragma once
// Sun hours of sensors for dates and a clock window: totals, longest unbroken stretch, first and last sun.

#include "core/base/parallel.h"
#include "core/base/run_control.h"
#include "core/light/direct_sun.h"
#include <span>

namespace noonward {

struct SunHoursInput {
  Scene scene;
  SensorSet sensors;
  Place place;
  Zone zone;
  double northAngle = 0; ///< rad
  int year = 2026;
  SunHoursSettings settings;
  double leastStretch = 0; ///< s; shorter stretches of sun don't count (some rules ask for it)
  Digest key;              ///< what the result depends on; see hashSunHours()
};

/// The input of a study as the project stands. `before`: without the elements marked proposed.
Expected<SunHoursInput> sunHoursInput(const Project& project, const std::vector<GroupId>& groups,
                                      const SunHoursSettings& settings, bool before = false, double leastStretch = 0,
                                      const Scene* previous = nullptr, const std::vector<ElementId>& apart = {});
/// The key alone, without building a scene.
Digest hashSunHours(const Project& project, const std::vector<GroupId>& groups, const SunHoursSettings& settings,
                    bool before = false, double leastStretch = 0);

struct SunHoursResult {
  std::vector<float> hours;       ///< h over all dates; NaN where not computed (stopped early)
  std::vector<float> longest;     ///< h, longest unbroken stretch of any one date
  std::vector<float> first, last; ///< s after the local midnight's instant; NaN where none or for several dates
  std::vector<Date> dates;
  Instant midnight;    ///< of the only date
  double possible = 0; ///< h, sun with nothing in the way on level ground
  RunEnd end = RunEnd::Finished;
  double seconds = 0; ///< the run took
  Digest key;
};
SunHoursResult runSunHours(const SunHoursInput& input, RunControl& control, Threads threads = {});

/// The dates of the settings: the single ones, or the season's.
std::vector<Date> datesOf(const SunHoursSettings& settings, int year);
/// The windows, one a date, in order. Clock parts: the clock window alone, before altitude.
std::vector<SunWindow> sunWindows(const SunHoursInput& input, std::vector<Intervals>* clockParts = nullptr);
/// The list of stretches behind one sensor, date by date.
std::vector<std::pair<Date, Intervals>> sunStretches(const SunHoursInput& input, std::size_t sensor);

/// In words: "21 Mar, sunrise to sunset, counted exactly".
std::string settingsText(const SunHoursSettings& settings);

struct HourStatistics {
  std::size_t count = 0;
  double mean = 0, median = 0, least = 0, most = 0; ///< h
  double shareAtLeast = 0;                          ///< of the sensors, 0…1
};
/// Over sensors [first, first + count); those not computed are left out.
/// `areas`: m² of each of these sensors, which count by them; empty: all alike.
HourStatistics statistics(const SunHoursResult& result, std::size_t first, std::size_t count, double threshold,
                          std::span<const double> areas = {});

} // namespace noonward
