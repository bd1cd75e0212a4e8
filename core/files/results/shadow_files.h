#pragma once
// Shadow plans out: polygons for maps and drawings, areas as a table.

#include "core/studies/shadow_plan.h"

namespace noonward {

/// GeoJSON (RFC 7946: longitude and latitude by the place and the north angle; `local`: the drawing's metres, which
/// other programs take for degrees). A feature for each moment, receiver and state, with its area.
std::string shadowGeoJson(const Project& project, const ShadowPlan& plan, bool local = false);
/// Closed polylines on layers "shadow 2026-03-21 12:00", "net new 2026-03-21 12:00"; the project's origin put back.
std::string shadowDxf(const Project& project, const ShadowPlan& plan);
/// moment,altitude_deg,azimuth_deg,receiver,of,shadow_m2,before_m2,net_new_m2,net_new_m2_h: a line for each moment and
/// receiver, and for each ground area (`of`).
std::string shadowCsv(const Project& project, const ShadowPlan& plan);

} // namespace noonward
