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
  template <class D> static void describe(D& d) {
    using S = YearSettings;
    const auto standard = [](const S& s) { return s.anyBlinds(BlindRule::Standard); };
    const auto byIrradiance = [](const S& s) { return s.anyBlinds(BlindRule::Irradiance); };
    const auto byClock = [](const S& s) { return s.anyBlinds(BlindRule::Schedule); };
    const auto byGlare = [](const S& s) { return s.anyBlinds(BlindRule::Glare); };
    d.number("glare-limit", "DGP above", "", 0.2, 1, &S::glareLimit,
             "0.35 perceptible, 0.40 disturbing, 0.45 intolerable: the share of the hours above it is told")
        .unlessDefault();
    d.number(
        "threshold", "Target illuminance", "lx", 0, 1e6, [](auto& s) -> auto& { return s.metrics.threshold; },
        "≥ 300 lx in the standard");
    d.choice("blinds", "Blinds", blindWays(d), &S::blinds,
             "Each group of windows closes while > 2 % of its room gets ≥ 1000 lx of beam through it")
        .spoken("Rule of the blinds");
    d.clocks("schedule", "Hours from", "Hours to", &S::beginMinute, &S::endMinute,
             "By the site's clock, every day: 8:00 to 18:00 in the standard")
        .folded();
    d.choice("stop-when-certain", "Stops",
             {{StopFor::Nothing, {"nothing", "error reached"}},
              {StopFor::Credit, {"credit", "credit certain"}},
              {StopFor::Provision, {"provision", "provision certain"}}},
             &S::stopFor,
             "A quarter of the paths goes first through every room; if the verdict is certain by then, the run stops "
             "by itself")
        .spoken("When the run stops")
        .folded();
    d.choice("provision-reading", "Provision by",
             {{ProvisionReading::SameHours, {"same-hours", "the same hours"}},
              {ProvisionReading::OwnHours, {"own-hours", "each point's own hours"}}},
             &S::provisionReading, "Which reading a run that stops for provision looks at")
        .folded()
        .matters([](const S& s) { return s.stopFor == StopFor::Provision; })
        .unlessDefault();
    d.share("confidence", "Confidence", 50, 99.9999, &S::confidence,
            "Probability that more paths leave the verdict where it is")
        .folded()
        .matters([](const S& s) { return s.stopFor != StopFor::Nothing; });
    d.share("error", "Error of the mean", 0.2, 50, &S::error, "Of a sensor's mean illuminance, about: 3 % is usual")
        .folded();
    d.flag("weekdays", "Days", "every day", "Monday to Friday", &S::weekdaysOnly, "Days that count")
        .spoken("Days of the year")
        .folded()
        .unlessDefault();
    d.flag("clock-changes", "Summer time", "standard time all year", "as the site's clock", &S::clockChanges,
           "The schedule follows the clock, or keeps standard time")
        .folded()
        .unlessDefault();
    d.share(
         "share-of-hours", "Share of hours", 0, 100, [](auto& s) -> auto& { return s.metrics.autonomy; },
         "Of sDA: ≥ 50 % in the standard")
        .folded();
    d.number(
         "ase-threshold", "ASE threshold (direct)", "lx", 0, 1e6, [](auto& s) -> auto& { return s.metrics.beam; },
         "≥ 1000 lx in the standard")
        .formerly("beam")
        .folded();
    d.number(
         "ase-hours", "ASE hours", "h", 0, 8760, [](auto& s) -> auto& { return s.metrics.beamHours; },
         "More than 250 h in the standard")
        .formerly("beam-hours")
        .folded();
    d.number("closes-at", "Blinds close at", "lx", 0, 1e6, &S::closesAt, "Of beam through one group of windows")
        .folded()
        .matters(standard);
    d.share("closes-above", "Share of sensors", 0, 100, &S::closesAbove,
            "Of the room's sensors in beam, above which blinds close")
        .folded()
        .matters(standard);
    d.number("closes-at-irradiance", "Closes from", "W/m²", 0, 2000, &S::closesAtIrradiance,
             "By irradiance: beam and sky on the outside of a group's panes")
        .folded()
        .matters(byIrradiance)
        .keptWhen(byIrradiance);
    d.number("closes-at-glare", "Closes above DGP", "", 0.2, 1, &S::closesAtGlare,
             "By glare at the eyes: the group of windows that glares most closes first")
        .folded()
        .matters(byGlare)
        .keptWhen(byGlare);
    d.clocks("shut", "Shut from", "Shut to", &S::shutFrom, &S::shutTo, "By the clock: closed every day in these hours",
             false)
        .folded()
        .matters(byClock)
        .keptWhen(byClock);
    describeGroupBlinds(d, "blinds-of", &S::groupBlinds);
    d.share("fabric-direct", "Fabric: openness", 0, 100, &S::fabricDirect,
            "Direct transmittance of closed shade fabric: what it lets through straight")
        .formerly("cloth-straight")
        .folded();
    d.share("fabric-diffuse", "Fabric: diffuse", 0, 100, &S::fabricDiffuse,
            "Diffuse transmittance of closed shade fabric: what it scatters to the inside")
        .formerly("cloth-scattered")
        .folded();
    d.optionalShare("fabric-reflectance", "Fabric: reflectance", 0, 100, &S::fabricReflectance, "as glass",
                    "Of the room's light, back into it; left empty, closed panes reflect as open ones do")
        .formerly("cloth-reflected")
        .folded();
    describeUseful(
        d, "useful", [](auto& s) -> auto& { return s.metrics.useful; });
    d.share("glass-kept", "Frames and dirt keep", 1, 100, &S::glassKept, "Of the light, on top of each glazing's own")
        .folded()
        .unlessDefault();
    d.choice("illuminance", "Light from",
             {{false, {"irradiance", "irradiance × efficacy"}}, {true, {"weather", "the file's illuminances"}}},
             &S::ownIlluminance,
             "The weather file's columns of direct and diffuse illuminance are taken where they are plausible against "
             "the irradiance beside them")
        .folded()
        .unlessDefault();
    d.number("glare-source", "Sources from", "cd/m²", 50, 1e6, &S::glareSource,
             "Luminance from which a spot counts as a glare source: 2000 cd/m² is usual")
        .folded()
        .unlessDefault();
    describeSteps(d, "steps", &S::steps);
    d.count("seed", "Seed", "", 0, 1 << 30, &S::seed, "Another seed gives independent noise").quiet();
  }
};

} // namespace noonward
