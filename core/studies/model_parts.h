#pragma once
// The model taken apart into the surfaces that light meets: floors, ceilings, walls with their reveals, panes, shades.
// For pictures of one role alone, of one glazing, of a section, and for what is seen from inside a room.

#include "core/model/light_model.h"
#include "core/studies/probe.h"
#include <functional>

namespace noonward {

/// Each wanted part as an element of its own, with the name and role it has; elements keep their id where they are one
/// part.
Project modelParts(const Project& project, const std::function<bool(const LightModel&, const LightPart&)>& wanted);
Project partsOfRole(const Project& project, Role role);
/// Every pane of one glazing, whatever window it is in.
Project panesOf(const Project& project, const std::string& glazing);
/// The project with its panes laid on the facades and the shades of its rules, so that they can be seen and clicked: a
/// pane is an element with the opening's id.
Project withFittings(const Project& project);
/// Everything that is not glazing.
Project opaqueParts(const Project& project);
/// Everything where it truly stands, panes in their reveals: what the sun sees.
Project allParts(const Project& project);

/// A probe of the project on its derived model, `scene`; in a room panes are told apart in the dome.
ProbeResult probeProject(const Project& project, const ProbeInput& spot, const Scene& scene);

} // namespace noonward
