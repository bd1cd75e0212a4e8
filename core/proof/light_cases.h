#pragma once
// Closed forms and independent slow methods for light: configuration factors, VSC behind endless obstructions, a
// radiosity solution of a box. Shared by the cases that ship and by the tests.

#include "core/proof/proof.h"
#include "core/studies/light_study.h"

namespace noonward {

/// Configuration factor from a small surface to a parallel rectangle a × b at height h, one corner right above it.
/// (Howell, A catalog of radiation heat transfer configuration factors, B-3.)
double parallelCorner(double a, double b, double h);
/// To a rectangle of width b and height a that stands on the surface's plane, one foot corner at distance c straight
/// ahead along the plane (Howell, B-4).
double uprightCorner(double b, double a, double c);
/// VSC (0…1) behind an endless obstruction whose top stands at an angle over the horizon: 3/(7π) (π/2 (1 − sin θ) + 4/3
/// cos² θ).
double vscBehindEndless(double angle);

/// A year of clear and dull days for a place, by a rule simple enough to be counted by hand.
std::shared_ptr<const Weather> madeUpYear(const Place& place);

/// A box room 0…x, 0…y, 0…z with an opening in its roof, alone on the ground: sensors by hand, finishes by reflectance.
struct BoxRoom {
  Vec3 size{4, 4, 3};
  double roofX0 = 0, roofY0 = 0, roofX1 = 0, roofY1 = 0;         ///< opening in the roof; none where x1 ≤ x0
  double windowX0 = 0, windowX1 = 0, windowZ0 = 0, windowZ1 = 0; ///< opening in the wall y = 0
  double floor = 0, walls = 0, ceiling = 0;                      ///< reflectances
  bool glazed = false;
  Glazing glazing{"Pane", 0.8, 2};
};
Project boxProject(const BoxRoom& box, const std::vector<PointSensor>& sensors);
/// Values of a study on the project's sensors.
Expected<LightResult> lightOf(const Project& project, StudyKind kind, double error, const SkyChoice& sky = {});
/// Horizontal illuminance factor (% of the horizontal) at a point facing up from a sky L(sin γ) relative to its zenith,
/// straight through the openings alone, by a fine midpoint sum; `glass` weighs by the cosine at the pane.
double straightFactor(const BoxRoom& box, Vec3 at, const std::function<double(double)>& sky, double horizontal,
                      const std::function<double(double)>& glass);
/// Irradiance factor (%) on the floor's middle by patch radiosity: `n` × `n` patches a face, exact factors (Lambert's
/// contour sum) from the middle of each, uniform sky through the roof's opening.
double radiosityFactor(const BoxRoom& box, Vec3 at, Vec3 normal, int n);

std::vector<ProofCase> proveLight();
std::vector<ProofCase> proveSky();
std::vector<ProofCase> proveExposure(); ///< no-sky lines, probable sunlight
std::vector<ProofCase> proveShade();    ///< cut-off angles of every kind of part, the dial against rays
std::vector<ProofCase> proveEnergy();   ///< irradiation on planes, behind obstructions, of a year
std::vector<ProofCase> proveHeat();     ///< rooms' heat: steady, of a year, between rooms, by layers
std::vector<ProofCase> proveGlare();    ///< the formula, the position index, pictures, views by geometry
std::vector<ProofCase> proveBuilding(); ///< furnaces, shading rules, glass, the year, openings under skies

} // namespace noonward
