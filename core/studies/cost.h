#pragma once
// What a study of a model will take, told before it runs: rough figures from measurements on two cores
// (docs/methods.md), within a factor of two or three; they are for choosing spacings and for leaving furniture out, not
// for planning.

#include "core/model/project.h"

namespace noonward {

struct Cost {
  std::size_t triangles = 0; ///< that rays meet, about
  std::size_t sensors = 0;
  double seconds = 0;   ///< on two cores
  double megabytes = 0; ///< beside what is there already
};
/// `sensors`: of the study's groups; `inRooms`: those of them in rooms.
Cost costOf(const Project& project, const Study& study, std::size_t sensors, std::size_t inRooms);
std::string costText(const Cost& cost); ///< "about 5 s and 60 MB: 1098 sensors, 2100 triangles"

} // namespace noonward
