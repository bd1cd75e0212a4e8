#pragma once
// How bright each part of the sky is: cd/m² for a direction, in a distribution scaled so that the horizontal diffuse
// illuminance is met exactly. Directions are unit vectors with z up; the sun's direction is given in the same axes.
//
// ISO 15469:2004 / CIE S 011:2003 (15 general types), the traditional CIE overcast sky L = Lz (1 + 2 sin γ)/3, a
// uniform sky, and the all-weather model of Perez, Seals and Michalsky, Solar Energy 50 (1993) 235-245, with the
// luminous efficacies of Perez, Ineichen, Seals, Michalsky and Stewart, Solar Energy 44 (1990) 271-289. Departures, as
// science asks: in the bins 1.065 ≤ ε < 2.8 a brightness Δ below 0.2 is taken as 0.2 for the distribution alone; what
// the 1993 formula makes negative is 0; then the distribution is scaled again. Scale by quadrature with the sun on a
// panel's corner: within 0.0002 of a 0.25° sum for every type (tested).

#include "core/base/error.h"
#include "core/base/vec.h"
#include <span>

namespace noonward {

/// Gradation and indicatrix of an ISO 15469 sky.
struct CieSkyParameters {
  double a, b, c, d, e;
};
/// type 1…15.
const CieSkyParameters& cieSky(int type);

/// What an hour of weather, or a measurement, says of the sky. Irradiances in W/m².
struct PerezInput {
  double directNormal = 0, diffuseHorizontal = 0;
  Vec3 sun{0, 0, 1};    ///< unit; below the horizon the sky is uniform
  double dewPoint = 10; ///< °C
  int dayOfYear = 172;  ///< for the Earth's distance
};
/// Sky clearness ε, sky brightness Δ, and the efficacies that belong to them (lm/W).
struct PerezState {
  double clearness = 1, brightness = 0.2;
  double diffuseEfficacy = 0, directEfficacy = 0, globalEfficacy = 0;
};
PerezState perezState(const PerezInput& input);

class SkyLuminance {
public:
  /// `horizontal`: diffuse illuminance on the unobstructed horizontal, lx.
  static SkyLuminance uniform(double horizontal);
  static SkyLuminance cieOvercast(double horizontal);
  static Expected<SkyLuminance> cieGeneral(int type, Vec3 sun, double horizontal);
  /// Horizontal illuminance from the diffuse irradiance and its efficacy.
  static SkyLuminance perez(const PerezInput& input);
  /// The same distribution with nothing scaled: where whoever asks scales by a sum of its own. `horizontal()` holds.
  static SkyLuminance perezUnscaled(const PerezInput& input);

  double operator()(Vec3 direction) const; ///< cd/m²; 0 below the horizon
  /// Of many directions at once, unit, none below the horizon; `out` as long as each of the others. As the one above to
  /// 1e-6 of it, at about a third of the time.
  void luminances(std::span<const double> x, std::span<const double> y, std::span<const double> z,
                  std::span<double> out) const;
  double zenith() const { return (*this)({0, 0, 1}); }
  double horizontal() const { return horizontal_; } ///< lx
  /// lx on a plane of that normal with nothing in the way but the horizon; no light from the ground.
  double illuminance(Vec3 normal) const;

private:
  SkyLuminance(CieSkyParameters p, Vec3 sun, double horizontal, bool cieIndicatrix, bool scaled = true);
  static SkyLuminance perez(const PerezInput& input, bool scaled);
  double relative(Vec3 direction) const;
  double positiveShare() const; ///< of the dome, where the formula gives more than nothing
  static CieSkyParameters parametersOf(const double* table, int bin, double zenithAngle, double brightness);
  CieSkyParameters p_{};
  Vec3 sun_{0, 0, 1};
  double horizontal_ = 0, scale_ = 0, indicatrixOffset_ = 0;
  enum class Form { Uniform, Overcast, Standard, AllWeather } form_ = Form::Uniform;
};

/// Typical horizontal diffuse illuminance (lx) of a standard sky for a solar altitude, for when none is given:
/// IES RP-21 (1984): 800 + 15 500 √sin h (clear), 300 + 45 000 sin h (partly cloudy), 300 + 21 000 sin h (overcast).
enum class SkyCondition { Clear, PartlyCloudy, Overcast };
double typicalDiffuseIlluminance(SkyCondition condition, double solarAltitude);
/// Typical direct normal illuminance (lx), the same source: 127 500 exp(-c / sin h), c = 0.21 clear, 0.80 partly
/// cloudy; none under an overcast sky.
double typicalDirectIlluminance(SkyCondition condition, double solarAltitude);

} // namespace noonward
