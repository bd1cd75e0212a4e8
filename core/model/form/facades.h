#pragma once
// Facades by the side they look to: how much of them there is, and how much of that is glass. Metres.

#include "core/model/project.h"

namespace noonward {

struct FacadeFacts {
  double area = 0;  ///< m², of upright outer faces
  double glass = 0; ///< m², of the windows in them
};
/// By Facing, of what is proposed and counted, or, where nothing is proposed, of every building and wall that counts:
/// masses, and imports with the roles building or wall. Gables count, slopes do not.
std::array<FacadeFacts, 4> facadeFacts(const Project& project);
/// Is it among those?
bool isFacade(const Project& project, const Element& element);

} // namespace noonward
