#pragma once
// Crowns of trees as bodies of revolution: whole, or as flat leaves strewn through them so that a stated share of the
// light passes. Metres; the crown's axis is upright.
//
// Leaves are small squares at random places in the body and in random directions, the same for every tree of one shape.
// A ray that runs l through a body with the leaf area A in the volume V meets none with probability exp(−A l / 2V)
// (Beer and Lambert; random directions show half their area). The share that passes the crown is the mean of that over
// rays from all over the sky that meet it; A is found so that it is the one stated. Checked by rays: within 0.03,
// for cones, whose leaves stick out near the tip, within 0.04 (tests/core/tst_trees.cpp).

#include "core/geometry/mesh.h"

namespace noonward {

enum class Crown { Ball, Cone, Column, Umbrella };

struct CrownSize {
  Crown crown = Crown::Ball;
  double width = 6, height = 6; ///< m
};
/// m, at a share (0…1) of its height from below.
double crownRadius(const CrownSize& size, double at);
double crownVolume(const CrownSize& size); ///< m³

/// m² of leaves (one side) with which a share of the light passes, 0.01…0.99.
double leafArea(const CrownSize& size, double passes);

/// About the axis through (0, 0), foot at z = 0. Faces all 1.
Mesh solidCrown(const CrownSize& size);
Mesh leavesOf(const CrownSize& size, double passes);

} // namespace noonward
