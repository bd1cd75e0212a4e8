#pragma once
// Annual daylight metrics of hourly illuminance series: exact sums, no model behind them. A year has 8760 hours in
// local standard time; record i (0…8759) is the hour that ends at (i mod 24) + 1 o'clock.
//
// sDA and ASE: IES LM-83-12. Useful daylight illuminance: Nabil and Mardaljevic (2006), bounds editable. Continuous
// daylight autonomy: Rogers (2006). Provision by illuminance: EN 17037:2018.

#include "core/base/error.h"
#include "core/base/weighted.h"
#include "core/model/settings/year_settings.h"
#include "core/sun/time.h"
#include <array>
#include <span>
#include <vector>

namespace noonward {

inline constexpr std::size_t hoursOfYear = 8760;

/// Records whose middle lies in a clock window [begin, end), in minutes, every day or Monday to Friday. Clock windows
/// go through UTC, so that under summer time 8:00–18:00 is records 8 to 17 of the day. `year`: whose calendar counts.
std::vector<bool> clockMask(const Zone& zone, double standardOffset, int year, double beginMinute, double endMinute,
                            bool weekdaysOnly = false);

/// One sensor's year, over the hours of a mask. Shares 0…1.
struct SensorYear {
  double autonomy = 0, continuous = 0; ///< share ≥ threshold; mean of min(1, E / threshold)
  std::array<double, 4> useful{};
  double mean = 0, median = 0, least = 0, most = 0; ///< lx
  std::size_t hours = 0;                            ///< in the mask with a value
  std::size_t missing = 0;                          ///< in the mask without
};
SensorYear sensorYear(std::span<const float> series, const std::vector<bool>& mask,
                      const MetricSettings& settings = {});
/// Hours of the mask with at least `beam` lx.
std::size_t hoursAtLeast(std::span<const float> series, const std::vector<bool>& mask, double beam);

/// Of a space: shares of its sensors, each by the area of its cell.
struct SpaceYear {
  double sda = 0, ase = 0; ///< 0…1
  double meanLux = 0, medianLux = 0;
  std::array<double, 4> useful{};
};
/// `areas`: m² of each sensor's cell; empty: all alike.
SpaceYear spaceYear(std::span<const SensorYear> sensors, std::span<const std::size_t> beamHours,
                    const MetricSettings& settings = {}, std::span<const double> areas = {});
/// Of a building: Σ(figure × floor area) / Σ area, never pooled sensors.
SpaceYear buildingYear(std::span<const SpaceYear> spaces, std::span<const double> areas);

/// EN 17037, first way: of 4380 daylight hours, in how many does the share of sensors reach the level? True where in at
/// least half. `series`: sensor-major, 8760 each; `daylight`: mask of the daylight hours.
struct Provision {
  double target = 300, share = 0.5;
};
double provisionHours(std::span<const float> series, std::size_t sensors, const std::vector<bool>& daylight,
                      const Provision& p, std::span<const double> areas = {});
/// The other reading: the hours that the share of the plane reaches, where each point counts hours of its own.
double provisionOwnHours(std::span<const float> series, std::size_t sensors, const std::vector<bool>& daylight,
                         const Provision& p, std::span<const double> areas = {});
/// The `count` hours with the highest diffuse horizontal illuminance.
std::vector<bool> daylightHours(std::span<const double> diffuse, std::size_t count = 4380);

} // namespace noonward
