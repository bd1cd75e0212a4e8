#pragma once
// What surfaces are made of: opaque finishes and glazings, by name. The names of the library that ships are locked; a
// project carries copies of what it uses, so that it can be computed anywhere, and its own.

#include "core/base/error.h"
#include <string>
#include <vector>

namespace noonward {

/// Reflects diffusely, and a part of it as a (rough) mirror.
struct Finish {
  std::string name;
  double reflectance = 0.5; ///< 0…1, of visible light, all of it
  double specular = 0;      ///< 0…1, share of the reflected light that is mirrored
  double roughness = 0;     ///< 0…1, spread of the mirrored part: 0 a mirror, 1 nearly diffuse
  std::string source;
  bool locked = false; ///< as shipped
  bool operator==(const Finish&) const = default;
};

struct Glazing {
  std::string name;
  double transmittance = 0.78; ///< 0…1, visible, at normal incidence
  int panes = 2;               ///< 0: no glass, the same at every angle
  double diffuse = 0;          ///< 0…1, share of the transmitted light that is scattered
  double reflectance = 0.15;   ///< 0…1, diffuse, both sides; of scattering glazings only
  double frame = 1;            ///< 0…1, share of the opening that is glass
  double dirt = 1;             ///< 0…1, what dirt leaves
  double solarFactor = 0;      ///< g, 0…1; 0 not stated
  double uValue = 0;           ///< W/(m²K); 0 not stated
  std::string source;
  bool locked = false;
  bool operator==(const Glazing&) const = default;
};

inline constexpr double glassIndex = 1.52;
/// The most that so many clear panes let through at normal incidence: 0.918, 0.849 (two), 0.790 (three). Each face
/// reflects r = ((n − 1)/(n + 1))², and 2 m faces in a row let (1 − r)/(1 + (2 m − 1) r) through, all reflections
/// counted.
double mostTransmittance(int panes);

/// What ships: generic values of the trade, no maker's.
std::vector<Finish> libraryFinishes();
std::vector<Glazing> libraryGlazings();
const Finish* findFinish(const std::vector<Finish>& list, const std::string& name);
const Glazing* findGlazing(const std::vector<Glazing>& list, const std::string& name);

} // namespace noonward
