#pragma once
// Studies of light, called by `run`.

#include "core/model/project.h"

namespace noonward::cli {

struct LightCall {
  std::string project, name, out = ".", sky, at;
  double error = 0; ///< %, 0: the study's own
  int seed = -1, threads = 0;
  bool before = false, noStore = false, json = false;
  std::string blinds; ///< year: standard, never, always
  std::string option;
  bool series = false;     ///< year: every hour of every sensor too
  std::string illuminance; ///< year: irradiance, weather
  std::string sunshine;    ///< probable sunlight: "weather" or twelve shares in %
};
int runLightStudies(const LightCall& call, StudyKind kind);
int runYearStudy(const LightCall& call);

} // namespace noonward::cli
