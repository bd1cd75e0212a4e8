#pragma once
// How the model is looked at: a plain value, used by the stage, by picking and by pictures. Pixels count from the top
// left; local metres.

#include "core/base/vec.h"
#include <array>
#include <optional>
#include <vector>

namespace noonward {

enum class ViewKind { Solid, Plan, Facade, FromSun, Section };

struct Camera {
  ViewKind kind = ViewKind::Solid;
  bool perspective = false; ///< solid only
  Vec3 target;
  double azimuth = 3.7;    ///< rad, where the eye is seen from the target: clockwise from the drawing's +y
  double altitude = 0.75;  ///< rad
  double height = 100;     ///< m, seen from top to bottom of the picture at the target
  bool fromTarget = false; ///< facade and section: nothing between the eye and the target's plane is drawn
  bool cutOpen() const { return fromTarget && (kind == ViewKind::Facade || kind == ViewKind::Section); }
  bool operator==(const Camera&) const = default;

  Vec3 toEye() const;
  Vec3 right() const;
  Vec3 up() const;
  bool parallel() const { return !perspective || kind != ViewKind::Solid; }
  static constexpr double halfOpening = 0.3; ///< rad, of the perspective's height
  double eyeDistance() const { return height / 2 / std::tan(halfOpening); }

  struct Ray {
    Vec3 origin, direction;
  };
  Ray ray(double x, double y, double width, double heightPixels) const;
  /// The same for many pixels of one picture: what all of them share is worked out once.
  class Rays {
  public:
    Rays(const Camera& camera, double width, double heightPixels);
    Ray operator()(double x, double y) const;

  private:
    Vec3 target_, right_, up_, toEye_, eye_;
    double metres_, width_, height_;
    bool parallel_;
  };
  struct Seen {
    double x, y;  ///< pixels
    double depth; ///< m toward the target's plane and beyond; larger is farther
  };
  /// Where a ray should begin: near the model, since float32 loses precision over 20 km; on the plane of a section.
  Vec3 start(const Ray& ray) const;
  std::optional<Seen> seen(Vec3 p, double width, double heightPixels) const;
  double metresPerPixel(double heightPixels) const { return height / heightPixels; }
  /// Column-major matrix for OpenGL clip space, holding `scene` between near and far.
  std::array<float, 16> matrix(double width, double heightPixels, const Box3& scene) const;

  void orbit(double dAzimuth, double dAltitude);
  void pan(double dx, double dy, double heightPixels); ///< pixels
  /// Zoom by a factor, keeping the point under the pixel where it is.
  void zoom(double factor, double x, double y, double width, double heightPixels);
  /// Everything in the boxes fits, with a rim of `margin` of the picture's size.
  void fit(const std::vector<Box3>& boxes, double width, double heightPixels, double margin = 0.07);
};

} // namespace noonward
