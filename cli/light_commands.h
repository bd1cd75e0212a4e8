#pragma once
// Studies of light, called by `run`.

#include "core/model/project.h"

namespace noonward::cli {

struct LightCall {
  std::string project, name, out = ".", sky, at;
  double error = 0;   ///< %, 0: the study's own
  int seed = -1, threads = 0;
  bool before = false, noStore = false, json = false;
};
int runLightStudies(const LightCall& call, StudyKind kind);

} // namespace noonward::cli
