#pragma once
// Shadow plans: the outlines of shadow at given moments as polygons in plan, on the ground and on roofs, apart from
// what was in shadow before the proposal; with their area, their area × hours, and how long each part lies in shadow.
//
// Every surface of the derived model is cast along the sun onto each plane that receives it, and joined there: no rays,
// no grid; exact but for the 0.1 mm that outlines are kept to. The sun is a point (its centre, unrefracted), as for sun
// hours. Glazing casts none; trees cast their crown as a whole, leaves or not. Surfaces that receive: the level ground,
// or the terrain (elements of the role ground) where there is one; and, asked for, what else faces up (roofs, decks) by
// more than 11°. Where something stands on the ground, the ground under it is no ground. Local metres.

#include "core/base/hash.h"
#include "core/base/parallel.h"
#include "core/base/run_control.h"
#include "core/geometry/region.h"
#include "core/model/project.h"
#include "core/sun/sun_path.h"

namespace noonward {

struct ShadowPlanSettings {
  std::vector<Instant> moments;
  double hoursEach = 1;       ///< h that a moment stands for, in area × hours
  bool roofs = false;         ///< on roofs too
  std::vector<GroupId> areas; ///< ground areas (sensor groups) whose share is told; all of them where empty
  bool onlyAreas = false;     ///< outlines are wanted where these areas are, and nowhere else: a verdict asks no more
};

/// On one kind of receiver.
struct ShadowOn {
  Region all;                                        ///< with the proposal
  Region before;                                     ///< without it
  Region fresh;                                      ///< net new: in shadow now, and not before
  double allArea = 0, beforeArea = 0, freshArea = 0; ///< m² of plan
};
struct ShadowArea { ///< of one ground area
  GroupId group;
  std::string name;
  double area = 0, all = 0, before = 0, fresh = 0; ///< m²
  Region freshParts;
};
struct ShadowMoment {
  Instant at;
  double altitude = 0, azimuth = 0; ///< rad, true
  bool up = false;                  ///< above leastAltitude: otherwise nothing is cast
  ShadowOn ground, roofs;
  std::vector<ShadowArea> areas;
};
struct ShadowPlan {
  std::vector<ShadowMoment> moments;
  double hoursEach = 1;
  bool hasProposal = false, hasTerrain = false;
  /// On the ground, net new (all shadow where nothing is proposed): what lies in it for at least 1, 2, … moments.
  std::vector<Region> lasting;
  double freshAreaHours() const; ///< m²·h on the ground
  double freshAreaHours(GroupId area) const;
  double mostFresh(GroupId area, Instant* when = nullptr) const; ///< m², the most at any moment
  RunEnd end = RunEnd::Finished;
  double seconds = 0;
  Digest key; ///< of what it was made from
};

/// Below it shadows are longer than sixty times what casts them; nothing is cast.
inline constexpr double leastShadowAltitude = 0.95 * radiansPerDegree;

/// Errors: no moment, an area that is no ground area, a faulty model.
Expected<ShadowPlan> shadowPlan(const Project& project, const ShadowPlanSettings& settings, RunControl& control,
                                Threads threads = {});

/// Moments of a date by the site's clock, in the middle of steps: 9:00 to 15:00 by 60 min is 9:30, 10:30, …
std::vector<Instant> stepMoments(const Project& project, Date date, double beginMinute, double endMinute,
                                 double stepMinutes);

} // namespace noonward
