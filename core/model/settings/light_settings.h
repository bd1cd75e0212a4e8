#pragma once
// What is asked of a study of light at sensors under one sky, and the sky of a moment.

#include "core/model/settings/sun_hours_settings.h"
#include "core/sun/time.h"
#include <array>
#include <optional>
#include <string>

namespace noonward {

/// The sky of a moment. Usual, where none was chosen: the CIE overcast sky for light; for irradiation all hours of the
/// weather year within the season.
enum class SkyKind { Usual, CieOvercast, Uniform, CieGeneral, Perez, Weather };
struct SkyChoice {
  SkyKind kind = SkyKind::Usual;
  int type = 12;                         ///< CIE general sky: 1…15
  std::optional<double> diffuse, direct; ///< lx: horizontal diffuse, direct normal; typical values where absent
  double diffuseIrradiance = 0, directIrradiance = 0, dewPoint = 10; ///< W/m², W/m², °C; Perez, and irradiation
  std::optional<CivilTime> moment;               ///< by the site's clock; the moment looked at where absent
  std::optional<double> sunAltitude, sunAzimuth; ///< rad, true: instead of a moment
  bool operator==(const SkyChoice& o) const {
    const auto same = [](const auto& a, const auto& b) { return a.has_value() == b.has_value() && (!a || *a == *b); };
    const bool moments = moment.has_value() == o.moment.has_value() &&
                         (!moment || (moment->date == o.moment->date && moment->seconds == o.moment->seconds));
    return kind == o.kind && type == o.type && same(diffuse, o.diffuse) && same(direct, o.direct) &&
           diffuseIrradiance == o.diffuseIrradiance && directIrradiance == o.directIrradiance &&
           dewPoint == o.dewPoint && moments && same(sunAltitude, o.sunAltitude) && same(sunAzimuth, o.sunAzimuth);
  }
};
/// "usual", "cie-overcast", "uniform", "cie-1" … "cie-15", "clear" (12), "intermediate" (7), "perez", "weather".
std::optional<SkyChoice> skyFromKey(std::string_view key);
std::string skyKey(const SkyChoice& sky);
std::string skyText(const SkyChoice& sky); ///< "CIE overcast sky", "CIE general sky 12, 21 Jun 14:00"

/// What of the energy of a season is told.
enum class EnergyAmount { Total, DailyMean };

/// Which figure of the view out is told: the level (0…3), the horizontal sight angle, the outside distance, or the
/// share of what lies within 60° of the horizon.
enum class ViewFigure { Level, Angle, Distance, Share };
const char* viewFigureUnit(ViewFigure figure); ///< "", "°", "m", "%"

struct LightSettings {
  SkyChoice sky;
  Season season; ///< of irradiation: days and clock window whose hours count
  EnergyAmount amount = EnergyAmount::Total;
  ViewFigure viewFigure = ViewFigure::Level;
  double error = 0.02; ///< relative standard error wanted at every sensor
  std::uint64_t seed = 1;
  std::size_t maxSamples = 1 << 18; ///< a sensor that needs more keeps its larger error, and says so
  /// Probable sunlight: share (0…1) of the time the sun is up in which it shines, January first; the weather year's
  /// where absent.
  std::optional<std::array<double, 12>> sunshine;
  bool operator==(const LightSettings&) const = default;

  /// How files, commands, sheets and the docs see it (core/model/settings/fields.h). Which of it a kind of study goes
  /// by stands in its row of the table (study_kind.h).
  template <class D> static void describe(D& d) {
    using S = LightSettings;
    describeSky(d, "sky", &S::sky);
    describeSeason(d, "season", &S::season);
    d.choice("amount", "Told as",
             {{EnergyAmount::Total, {"total", "sum of the season"}},
              {EnergyAmount::DailyMean, {"daily-mean", "mean of its days"}}},
             &S::amount, "Energy of all hours counted, or of a day of the season in the mean")
        .unlessDefault();
    d.choice("view-figure", "Told as",
             {{ViewFigure::Level, {"level", "level reached (1 to 3)"}},
              {ViewFigure::Angle, {"sight-angle", "horizontal sight angle"}},
              {ViewFigure::Distance, {"distance", "outside distance"}},
              {ViewFigure::Share, {"share", "share of the field of view"}}},
             &S::viewFigure, "Of the view out at each point: the level, or one figure behind it")
        .spoken("Figure of the view out")
        .unlessDefault();
    d.share("error", "Error at sensors", 0.05, 50, &S::error,
            "Standard error wanted at every sensor: 5 % is quick, 2 % usual, 1 % slow. It is numerical only.");
    d.count("seed", "Seed", "", 0, 1 << 30, &S::seed, "Another seed gives independent noise").quiet();
    d.count("max-samples", "Max samples", "", 16, 1 << 28, &S::maxSamples,
            "A sensor that needs more keeps its larger error, and says so")
        .formerly("most-samples")
        .quiet();
    describeMonths(d, "sunshine", "Sunshine by month", &S::sunshine, "by the weather year",
                   "Share of the time the sun is up in which it shines, in % for each month. Left empty: the hours of "
                   "the weather year with 120 W/m² of beam or more.");
  }
};

} // namespace noonward
