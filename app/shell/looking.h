#pragma once
// What is being looked at: one value for every view. Not part of the project, not undone.

#include "core/model/project.h"
#include "picture/camera.h"
#include "picture/cells.h"

namespace noonward {

enum class Step { Site, Model, Finishes, Rooms, Studies, Options, Record };
inline constexpr std::array allSteps{Step::Site, Step::Model, Step::Finishes, Step::Rooms, Step::Studies, Step::Options, Step::Record};

enum class ClockKind { Clock, Standard, Solar };
enum class YearPicture { DayAndNight, Probe, DirectNormal, Global };

struct ProbeSpot {
  Vec3 position;
  Vec3 normal{0, 0, 1};
  bool operator==(const ProbeSpot&) const = default;
};

struct Looking {
  Step step = Step::Site;
  Instant moment;
  Season season;
  ClockKind clock = ClockKind::Clock;
  YearPicture year = YearPicture::DayAndNight;
  std::vector<ElementId> selected;
  std::optional<std::uint32_t> face; ///< of the only selected element
  std::optional<ProbeSpot> probe;
  std::optional<std::size_t> sensor; ///< of the shown result
  StudyId study;
  std::map<StudyKind, double> thresholds; ///< those the user moved
  double threshold(StudyKind kind) const {
    const auto at = thresholds.find(kind);
    return at == thresholds.end() ? usualThreshold(kind) : at->second;
  }
  bool operator==(const Looking&) const = default;
};

} // namespace noonward
