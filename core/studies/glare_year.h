#pragma once
// The year of glare: DGP for every eye, line of sight and hour of a schedule, in full: illuminance at the eye over the
// whole hemisphere and sources found among 3072 directions of equal weight a hemisphere, the sun exactly through glass.
//
// Tracing happens once for an eye: what each direction meets. Surfaces that are seen get their light hour by hour from
// daylight coefficients at places on them (0.2 m apart near the eye, wider with distance, at the angle between two
// directions) and beam traced there for every sunlit hour; hours are sums. Blinds work by the rules of the year
// (year_study.h) on a grid of 0.6 m at 0.76 m in the eye's room. Through closed shade fabric an eye sees sky, surfaces
// and the sun's disc by its openness, and the fabric as bright as it is. What clear panes mirror is counted once.
//
// Windows of other rooms that are seen stay open. The value of a line of sight is the share of the schedule above a
// limit of DGP, %; nights in the schedule count as hours without glare.

#include "core/studies/light_study.h"
#include <array>

namespace noonward {

enum class GlareCause { Sun, Sky, Inside, Outside, Fabric };
inline constexpr std::size_t glareCauses = 5;
const char* glareCauseName(GlareCause cause); ///< "sun's disc"

/// Of one line of sight, over the hours of the schedule.
struct GlareSeat {
  std::array<double, 3> above{};      ///< share of the schedule (0…1) with DGP > 0.35, 0.40, 0.45
  std::array<double, 3> aboveError{}; ///< standard errors
  double dgp95 = 0;                   ///< exceeded in 5 % of the schedule
  double worst = 0;                   ///< highest DGP, and the record (0…8759) it belongs to
  std::uint32_t worstHour = 0;
  double dim = 0; ///< share of the lit hours with less than 380 lx at the eye, where DGP is doubtful
};
struct GlareYear {
  static constexpr std::array<double, 3> limits{0.35, 0.40, 0.45};
  std::vector<std::uint32_t> hours; ///< records 0…8759 of the schedule with light, in order
  std::size_t scheduleHours = 0;    ///< all of the schedule
  std::vector<std::uint16_t> dgp;   ///< sensor-major along `hours`, in 1/10000, up to 6.5
  std::vector<GlareSeat> seats;     ///< by sensor
  std::vector<std::string> groups;  ///< window groups of the model by name; the first: none
  /// Hours above 0.40 by sensor, cause and window group that the strongest source is seen through.
  std::vector<std::uint16_t> causes;
  std::size_t causeRow() const { return glareCauses * groups.size(); }
  double dgpAt(std::size_t sensor, std::size_t hour) const { return dgp[sensor * hours.size() + hour] / 10000.0; }
  std::vector<double> closedHours; ///< h of the schedule, by window group
};
/// "Sun's disc through Reading room, south in 61 h, sky through … in 12 h"; empty where nothing glares.
std::string glareCauseText(const GlareYear& year, std::size_t sensor);
std::vector<float> glareSeries(const GlareYear& year, std::size_t sensor); ///< DGP, 8760; NaN outside the schedule

struct YearInput;        ///< year_study.h
struct KeptCoefficients; ///< coefficients.h
struct GlareInput;       ///< the year's sky, schedule and blinds
/// Of LightKind: what is asked, what it is made from, the run.
Outcome glareQuestion(const Project& project, const Study& study, std::optional<Instant> moment, LightInput& input,
                      Hasher& hash);
Outcome glareYearInput(const Project& project, const Study& study, std::optional<Instant> moment, LightInput& input);
LightResult runGlareYear(const LightInput& input, RunControl& control, Threads threads);

/// When blinds close by glare, into `kept`, for a daylight year that asks for it; known, it is not asked again. False
/// where it was stopped.
bool workGlare(const YearInput& year, KeptCoefficients& kept, RunControl& control, Threads threads);

} // namespace noonward
