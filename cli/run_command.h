#pragma once
// `run`: what is asked of the studies of a project, and the tables that come out.

#include "core/runs/runner.h"

namespace noonward::cli {

struct RunCall {
  std::string project, name, out = ".", option;
  std::string kind = "sun-hours";
  std::vector<std::string> set; ///< key=value, of the settings of the kind
  std::vector<std::pair<const char*, std::string>>
      shorthands; ///< options of `run` that stand for a setting: key, value
  std::string at; ///< moment of the sky
  int threads = 0;
  bool before = false, noStore = false, json = false, series = false, stretches = false;
  bool difference = false;  ///< beside each value what it is without the proposal
  bool trial = false;       ///< a part of the work: never kept, files and facts say so (core/runs/trial.h)
  bool months = false;      ///< irradiation: also month by month
  std::string weights = {}; ///< energy: file of what a kWh is weighed by
};

/// The studies of one kind as the call wants them, settings put in; made up over every group where the project has
/// none. Errors say what the call got wrong.
Expected<std::vector<Study>> askedStudies(const Project& project, StudyKind kind, const RunCall& call);
/// Puts the call's settings into a study.
Outcome putSettings(Study& study, const RunCall& call, int year);

/// "-trial" in names of files.
inline const char* trialTail(const RunCall& c) {
  return c.trial ? "-trial" : "";
}
int runLightStudies(const RunCall& call, StudyKind kind);
int runYearStudy(const RunCall& call);

} // namespace noonward::cli
