#pragma once
// Draws the stage with OpenGL 3.3 into an image: faces, parallel shadows from a map fitted to the model (it depends on
// the sun and the model alone, never on the camera, so shadows stand still while one moves), edges, result cells.
// Drawn off screen and handed over as an image: overlay text stays crisp, and the same stage works without OpenGL.

#include "app/stage/stage_geometry.h"
#include "picture/underlay_image.h"
#include <QImage>
#include <memory>

namespace noonward {

struct RenderRequest {
  Camera camera;
  int width = 0, height = 0; ///< px
  Vec3 sun{0, 0, 1};         ///< drawing axes
  bool sunUp = false;
  bool quick = false; ///< something is dragged: no multisampling
  const Theme* theme = nullptr;
  double dotPitch = 1; ///< m, of the dots below the threshold
};

/// A picture on its plane.
struct UnderlayDraw {
  QString key;  ///< of the picture: uploaded anew where it changes
  QImage image; ///< any size; scaled down where the device asks for it
  std::vector<UnderlayCorner> triangles;
  double strength = 1;
};

class GlRenderer {
public:
  GlRenderer();
  ~GlRenderer();
  bool works() const; ///< OpenGL 3.3 is there
  QString device() const;
  /// Casters throw the shadows and are not seen; where there are none, what is seen throws its own.
  enum Part { Still, Moving, Cells, Casters, PartCount };
  void upload(Part part, const StageGeometry& geometry);
  void setUnderlays(const std::vector<UnderlayDraw>& underlays);
  QImage render(const RenderRequest& request);

private:
  struct Inside;
  std::unique_ptr<Inside> in_;
};

} // namespace noonward
