#pragma once
// Global radiation split into beam and diffuse, hour by hour.
//
// Erbs: Erbs, Klein, Duffie (1982), Solar Energy 28, diffuse share by the hour's clearness alone. BRL: Ridley, Boland,
// Lauret (2010), Renewable Energy 35, a logistic curve over five predictors: the hour's clearness, apparent solar time,
// solar altitude, the day's clearness, and persistence (the mean clearness of the hours beside it; at sunrise and
// sunset of the one hour there is). Coefficients from memory: −5.38, 6.63, 0.006, −0.007, 1.75, 1.31.
//
// Clearness is global over extraterrestrial radiation on the horizontal, of the part of the hour with the sun up. Beam
// follows from closure, GHI = DNI · cos z + DHI, at the middle of that part; it is never above what comes from outside
// that bound: what is left then is diffuse, and counted. Angles in rad, W/m².
//
// The bound is what the cleanest and driest air lets through (Linke turbidity 1: exp(−0.8662 m δ), δ and the air mass m
// by Kasten 1996 and Kasten and Young 1989): 0.90 of it at the zenith, 0.4 at the horizon. A closure divided by the
// sine of a low sun would tell beams that no air gives.

#include "core/sky/weather.h"
#include <vector>

namespace noonward {

enum class SplitModel { Erbs, Brl };
const char* splitModelKey(SplitModel model); ///< "erbs"
std::optional<SplitModel> splitModelFromKey(std::string_view key);
const char* splitModelText(SplitModel model); ///< with its source

/// What the cleanest air lets through of the beam, 0…1, at a solar altitude.
double cleanAirShare(double altitude);
/// Diffuse share of global radiation, 0…1, by the hour's clearness.
double erbsDiffuseShare(double clearness);
struct BrlPredictors {
  double clearness = 0;    ///< of the hour
  double solarTime = 12;   ///< h, apparent
  double altitude = 0;     ///< rad
  double dayClearness = 0; ///< of the day
  double persistence = 0;  ///< mean clearness of the hours before and after
};
double brlDiffuseShare(const BrlPredictors& p);

/// Of one hour of a year.
struct SplitHour {
  bool up = false; ///< is the sun up, and the global radiation known?
  double altitude = 0, clearness = 0;
  double diffuseShare = 0;
  double beam = 0, diffuse = 0; ///< W/m²: direct normal, diffuse horizontal
};
struct SplitYear {
  std::vector<SplitHour> hours; ///< as those of the weather
  std::size_t held = 0;         ///< hours whose beam was held at what comes from outside the atmosphere
  std::size_t unknown = 0;      ///< hours with the sun up and no global radiation
};
/// The year's global horizontal irradiance split anew; what it says of beam and diffuse is not looked at.
SplitYear splitGlobal(const Weather& weather, SplitModel model);
/// The year with beam and diffuse of a split in place of its own, and a comment in its header that says so.
Weather withSplit(Weather weather, SplitModel model, const SplitYear& split);

} // namespace noonward
