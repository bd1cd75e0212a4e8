#pragma once
// What an eye sees: the hemisphere about its line of sight as a picture of luminances, cd/m², under the sky of a
// moment; and the glare in it.
//
// For every pixel a ray through glass to what it meets. Sky: the sky's luminance. A surface of reflectance ρ: ρ E / π,
// E its illuminance on the side that is seen, from the same engine as illuminance at sensors (light_study.h): on a net
// of points in the picture, closer where surfaces change, and between them on one surface interpolated; direct sun is
// asked pixel by pixel. Cloth and opal panes send on what falls on them by their scattered share; clear panes mirror
// once. The mirrored part of finishes counts as diffuse. The sun's disc is no pixel but a source of its own.
//
// Directions: rows from the top, columns from the left, as the eye sees; vectors away from the eye, model axes.

#include "core/studies/glare.h"
#include "core/studies/light_study.h"

namespace noonward {

/// r of a direction at angle θ off the line of sight, in half widths of the picture.
enum class FisheyeProjection {
  Equidistant,  ///< 2θ/π
  Equisolid,    ///< √2 sin(θ/2)
  Orthographic, ///< sin θ
  Perspective   ///< tan θ / tan 30°: 60° wide, straight lines stay straight; no glare, since it is no hemisphere
};
const char* fisheyeProjectionKey(FisheyeProjection projection);
std::optional<FisheyeProjection> fisheyeProjectionFromKey(std::string_view key);

/// Between pixels of a picture `size` wide and directions.
struct FisheyeMap {
  FisheyeProjection projection = FisheyeProjection::Equidistant;
  int size = 512;
  EyeFrame eye;
  /// Nothing outside the hemisphere's circle. Pixel corners are whole numbers.
  std::optional<Vec3> direction(double x, double y) const;
  std::optional<Vec2> pixel(Vec3 direction) const;
  double solidAngle(int column, int row) const; ///< sr, of a pixel; 0 outside
};

struct FisheyeSettings {
  Vec3 eye;
  double azimuth = 0, altitude = 0; ///< rad, true: the line of sight
  FisheyeProjection projection = FisheyeProjection::Equidistant;
  int pixels = 512;
  double error = 0.03; ///< relative standard error wanted of surfaces' light
  std::uint64_t seed = 1;
  double threshold = 2000; ///< cd/m² from which a spot is a source; where a task is given 5 × its zone's mean
  std::optional<std::pair<double, double>> task; ///< azimuth, altitude, rad: middle of a zone 30° wide
};

struct Fisheye {
  FisheyeMap map;
  std::vector<float> luminance;    ///< cd/m², row by row; NaN outside
  std::vector<std::uint64_t> seen; ///< id of the element or room that a pixel shows; 0 sky, ground, nothing
  std::optional<GlareSource> sun;  ///< the disc as far as it is seen
  Glare glare;                     ///< of a hemisphere
  Findings findings;
  std::string sky;        ///< in words, with its illuminances
  std::size_t points = 0; ///< at which light on surfaces was worked out
  RunEnd end = RunEnd::Finished;
  double seconds = 0;
  Digest key;
};

/// Errors: a direction or size that is none, an eye inside something or under ground, a sky that can't be made.
Expected<Fisheye> fisheye(const Project& project, const FisheyeSettings& settings, const SkyChoice& sky,
                          std::optional<Instant> moment, RunControl& control, Threads threads = {});

} // namespace noonward
