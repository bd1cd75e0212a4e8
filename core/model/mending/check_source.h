#pragma once
// What is wrong with models brought in that no mesh shows by itself: panes doubled, parts far off, floors that are
// sills, too many faces; and that rooms can be traced out of them. Part of checkProject() and mendProject() (check.h).

#include "core/base/finding.h"
#include "core/model/project.h"

namespace noonward {

/// `quick`: looks only at what takes a few milliseconds.
void checkSources(const Project& project, bool quick, Findings& out);
/// Nothing where the mend is none of these.
std::optional<Expected<Project>> mendSource(const Project& project, const Finding& finding);

/// Triangles of one part beyond which a finding offers to thin them out.
inline constexpr std::size_t manyTriangles = 20000;
/// Noted at a mesh whose bodies stand for it (it is a ghost): they do not go when a simplified model goes.
inline constexpr const char* splitMend = "element.split";
inline constexpr double thinnedBy = 0.03; ///< m, that thinning may move a surface

} // namespace noonward
