#pragma once
// The hours behind a daylight year: what a sensor gets hour by hour, and when and through which windows the beam comes.

#include "core/studies/coefficients.h"
#include "core/studies/year_study.h"

namespace noonward {

/// One space, every hour, blinds as set.
struct SpaceSeries {
  std::size_t space = 0;
  std::vector<std::uint32_t> groups;     ///< window groups of the space (of the model)
  std::vector<float> lux;                ///< sensor-major, 8760 each
  std::vector<float> beam;               ///< lx, alike, blinds open, no reflections
  std::vector<std::uint8_t> through;     ///< alike: index in groups of the way of the beam; groups.size(): no named one
  std::vector<std::vector<bool>> closed; ///< by group: 8760 hours
  std::vector<bool> mask;                ///< hours of the schedule
  std::size_t sensors() const { return lux.size() / hoursOfYear; }
};
/// Of the rays that `kept` holds; what is missing is traced. `rounds`: as of the result that is looked into (1, 2); 0:
/// the beam alone, `lux` holds 0.
Expected<SpaceSeries> spaceSeries(const YearInput& input, std::size_t space, int rounds, KeptCoefficients& kept,
                                  RunControl& control, Threads threads = {});

/// Hours of the schedule with the beam of ASE at a sensor, by window group and by month and clock hour.
struct BeamHours {
  double all = 0;
  std::vector<double> byGroup;                      ///< along SpaceSeries::groups, then those of no named one
  std::array<std::array<double, 24>, 12> byMonth{}; ///< month × hour of the site's clock
  std::vector<std::array<std::array<double, 24>, 12>> byGroupMonth;
};
/// `sensor`: within the space; none: the mean over its sensors that are above the limit of ASE (all, where none is).
BeamHours beamHours(const SpaceSeries& series, const YearSettings& settings, const Zone& zone, double standardOffset,
                    int year, std::optional<std::size_t> sensor);
/// "313 h: 288 h through Reading room, south, most in Mar to Sep from 11:00 to 15:00".
std::string beamHoursText(const BeamHours& hours, const SpaceSeries& series, const std::vector<WindowGroup>& groups);

/// By the site's clock in the project's year; `minute`: within the record. Its records stand in the weather file's
/// time.
CivilTime recordClock(const Project& project, std::size_t record, double minute);

/// The clock hour (0…23) and month (0…11) in which each record's middle lies.
struct ClockHour {
  std::uint8_t month = 0, day = 1, hour = 0;
};
std::vector<ClockHour> clockHours(const Zone& zone, double standardOffset, int year);

/// The same year under readings a reviewer may contest, from the same rays.
struct Reading {
  std::string name;    ///< "Blinds never close"
  std::string changed; ///< what differs from the study, in words; empty for the study itself
  SpaceYear building;
  double sdaError = 0;
  std::vector<SpaceYear> spaces;
  std::vector<std::size_t> provisionLevels;    ///< by space, as the study reads the hours
  std::vector<std::size_t> provisionOwnLevels; ///< by space, each point by its own hours
};
std::vector<Reading> contestedReadings(const Project& project, const YearInput& input, int rounds,
                                       KeptCoefficients& kept, RunControl& control, Threads threads = {});

} // namespace noonward
