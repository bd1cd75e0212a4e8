#pragma once
// Saved views: a camera with its moment, option and what is shown, as the project keeps them, and the way between two.

#include "core/base/json.h"
#include "core/model/project.h"
#include "picture/camera.h"

namespace noonward {

Json cameraJson(const Camera& camera);
/// Errors: a key that is none of a camera's, a number that is none.
Expected<Camera> cameraFromJson(const std::string& text);

/// The moment kept with a view; nothing where it has none.
std::optional<Instant> momentOf(const SavedView& view, const Zone& zone);

/// Of a way from one camera to another, 0 to 1, slow at both ends; where they are of different kinds it jumps at half.
Camera between(const Camera& a, const Camera& b, double t);

} // namespace noonward
