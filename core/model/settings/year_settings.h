#pragma once
// What is asked of a daylight year: hours, thresholds, blinds. Defaults are those of IES LM-83-12.

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace noonward {

struct MetricSettings {
  double threshold = 300;                       ///< lx, of daylight autonomy
  double autonomy = 0.5;                        ///< share of the hours, of sDA
  double beam = 1000;                           ///< lx, of ASE
  double beamHours = 250;                       ///< h, of ASE: more than this
  std::array<double, 3> useful{100, 300, 3000}; ///< lx: below | supplementary | sufficient (both ends in) | above
  bool operator==(const MetricSettings&) const = default;
};

/// By beam on the room's sensors; never; always; by what falls on the panes; by the clock; by glare at the eyes, the
/// group that glares most first (docs/methods.md).
enum class BlindRule { Standard, Never, Always, Irradiance, Schedule, Glare };
const char* blindKey(BlindRule rule); ///< "standard"
std::optional<BlindRule> blindFromKey(std::string_view key);
std::string blindsText(const struct YearSettings& settings, BlindRule rule);
std::string blindsText(const struct YearSettings& settings);
std::string fabricText(const struct YearSettings& settings); ///< "closed shade fabric reflects 50 % to the inside"

/// A rule of its own for one group of windows, by the group's key (core/model/light_model.h).
struct GroupBlinds {
  std::string group;
  BlindRule rule = BlindRule::Standard;
  bool operator==(const GroupBlinds&) const = default;
};

inline constexpr double noStep = 1.01; ///< a step of sDA that nothing reaches

/// Which verdict must be certain for a run to stop by itself before its error is reached.
enum class StopFor { Nothing, Credit, Provision };

/// EN 17037's provision: the share of the plane in the same hours, or each point's own hours and then the share.
enum class ProvisionReading { SameHours, OwnHours };

struct YearSettings {
  double beginMinute = 8 * 60, endMinute = 18 * 60; ///< by the site's clock
  bool weekdaysOnly = false;
  MetricSettings metrics;
  BlindRule blinds = BlindRule::Standard;
  double closesAt = 1000, closesAbove = 0.02;            ///< lx of beam; share of the space's sensors
  double closesAtIrradiance = 200, closesAtGlare = 0.40; ///< W/m² of beam and sky on the panes, outside; DGP at an eye
  double shutFrom = 12 * 60, shutTo = 16 * 60;           ///< minutes by the site's clock, closed every day
  double fabricDirect = 0, fabricDiffuse = 0.05;         ///< transmittances of closed blinds
  std::optional<double>
      fabricReflectance; ///< 0…1, diffuse, of closed blinds' inner face; none: panes reflect as open ones do
  std::vector<GroupBlinds> groupBlinds; ///< groups that do not follow `blinds`, by key, each once
  BlindRule blindsOf(std::string_view group) const;
  /// Every group by one rule.
  void setBlinds(BlindRule rule) { blinds = rule, groupBlinds.clear(); }
  /// Is the rule anybody's?
  bool anyBlinds(BlindRule rule) const;
  double error = 0.03;      ///< wanted of a sensor's mean illuminance, about: sets the number of paths
  bool clockChanges = true; ///< false: the schedule keeps standard time all year
  double glassKept = 1;     ///< 0…1: what frames and dirt leave on top of each glazing's own, once for all light
  StopFor stopFor = StopFor::Credit;
  ProvisionReading provisionReading = ProvisionReading::SameHours; ///< which a run that stops for provision looks at
  double confidence = 0.99;                                        ///< of the verdict, 0.5…1
  std::array<double, 3> steps{0.40, 0.55, 0.75};                   ///< of sDA, rising, at which the credit changes
  std::uint64_t seed = 1;
  bool ownIlluminance =
      false; ///< the weather file's illuminance columns where they are plausible, instead of irradiance × efficacy
  double glareLimit = 0.40;  ///< of DGP, of a year of glare: hours above it are told
  double glareSource = 2000; ///< cd/m² from which a spot is a glare source
  bool keepSeries = false;   ///< all 8760 hours of every sensor, for tables and the Almanac; not of the question
  bool operator==(const YearSettings&) const = default;

  /// How files, commands, sheets, the question's hash, the record and the docs see it (core/model/settings/fields.h).
  template <class D> static void describe(D& d); // settings.cpp: all else only holds it
};

} // namespace noonward
