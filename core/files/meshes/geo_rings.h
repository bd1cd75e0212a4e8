#pragma once
// Outlines of the drawing as rings of GeoJSON: closed, longitude and latitude in degrees by the place and the north
// angle, or the drawing's metres.

#include "core/base/json.h"
#include "core/model/project.h"

namespace noonward {

class GeoRings {
public:
  explicit GeoRings(const Project& project, bool local = false);
  Json point(Vec2 at) const;
  Json ring(const Ring& ring) const;
  Json polygon(const Outline& outline) const;

private:
  Place place_;
  Vec2 metresPerRadian_;
  double cosine_, sine_; ///< of the north angle
  bool local_;
};

} // namespace noonward
