#pragma once
// Findings of a project by itself, and the mends that change it.

#include "core/base/finding.h"
#include "core/model/project.h"
#include <functional>

namespace noonward {

/// Elements (outline, height, size, far away, left out), zone, weather by itself and against the site.
Findings checkProject(const Project& project);
/// The weather's own check is slow (tens of ms) and depends on the weather alone: give it in where it is known.
/// Examining large meshes is slow too: `knownMeshes` speaks only of those that have been examined
/// (core/geometry/healing.h).
Findings checkProject(const Project& project, const Findings& weatherFindings, bool knownMeshes = false);

/// A mesh after a mend that concerns it alone ("mesh.flipped", "element.heavy", …); nothing where the key is none of
/// these.
std::optional<Mesh> mendedMesh(const Mesh& mesh, const std::string& mend);
/// Carries out the mend of a finding. For "weather.place" and "weather.offset" the site follows the weather.
Expected<Project> mendProject(const Project& project, const Finding& finding);
/// Mends one after the other, each looked for anew, as long as there are wanted ones; what was carried out, in order.
Expected<Project> mendAll(Project project, const std::function<bool(const Finding&)>& wanted, Findings& carried);
/// What somebody may have decided: mended one by one, never among all.
bool neverOfAll(const Finding& finding);
/// The other way: the finding is accepted as it is and kept quiet.
/// `words`: why it is right as it is, for the record; empty keeps those given before.
Project accepted(Project project, const std::string& code, const std::string& words = {});

} // namespace noonward
