#pragma once
// What a record tells of a year of glare beside its groups: the lines of sight that fare worst, and what the worst of
// them sees in its worst hour.

#include "core/studies/fisheye.h"
#include "core/studies/glare_year.h"
#include "core/studies/sensor_field.h"

namespace noonward {

struct SeatLine {
  std::string name;
  GlareSeat seat;
  std::string moment; ///< of its worst hour, by the site's clock: "9 Dec 11:30"
  std::string cause;  ///< of its hours above 0.40; empty where there are none
};
struct GlareChapter {
  std::vector<SeatLine> seats; ///< the largest share above 0.40 first, at most ten
  /// Of the first; blinds open, under the sky of the weather file. Null where no seat has light, or by the fault.
  std::shared_ptr<const Fisheye> worst;
  std::string fault;
  static constexpr std::size_t most = 10;
};
/// `field` is of a year of glare in `project`. A run that is dropped leaves a chapter without picture.
GlareChapter glareChapter(const Project& project, const SensorField& field, RunControl& control);

} // namespace noonward
