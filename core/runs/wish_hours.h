#pragma once
// Hours of sun to keep out as a study of the project finds them.

#include "core/runs/runner.h"

namespace noonward {

/// Can hours be taken from this study? A year of glare and a daylight year tell them.
bool tellsHoursOfSun(const Study& study);
/// The project with the hours in which the study finds too much sun to keep out: lines of sight with a DGP above 0.40,
/// or beam on the working plane as ASE counts it. Errors: another kind of study, one that can't be run or was stopped,
/// no such hour.
Expected<Project> withHoursOfStudy(Project project, const Study& study, StudyRunner& runner, RunControl& control,
                                   Threads threads = {});

} // namespace noonward
