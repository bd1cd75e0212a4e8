#pragma once
// Sizes against what things are: doors are about two metres high whatever the file, a wash basin is no hall. A size is
// a question for the whole file. Part of checkProject() and mendProject() (check.h).

#include "core/base/finding.h"
#include "core/model/project.h"

namespace noonward {

/// "model.size" for each file brought in whose parts have sizes that no such part has, with a way to mend for every
/// unit that makes them plausible, "model.unit:FACTOR".
void checkSizes(const Project& project, Findings& out);

/// The ways of mending an element's or a file's size, one for each unit its numbers may be in: "element.size:0.001".
/// `largest`: m, as it is.
std::vector<MendWay> unitWays(const std::string& mend, double largest);
/// The factor in "model.unit:0.001"; nothing where there is none.
std::optional<double> factorOf(const std::string& mend);

} // namespace noonward
