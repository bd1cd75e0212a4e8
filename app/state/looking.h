#pragma once
// What is being looked at: one value for every view. Not part of the project, not undone.

#include "core/model/project.h"
#include "core/model/rooms/eyes.h"
#include "core/studies/change.h"
#include "core/studies/probe.h"
#include "core/studies/sensor_field.h"
#include "picture/camera.h"
#include "picture/room_tint.h"
#include "picture/section.h"

namespace noonward {

enum class Step { Site, Model, Finishes, Rooms, Studies, Options, Record };
inline constexpr std::array allSteps{Step::Site,    Step::Model,   Step::Finishes, Step::Rooms,
                                     Step::Studies, Step::Options, Step::Record};

enum class ClockKind { Clock, Standard, Solar };
/// Own: of what is looked at, else of the place.
enum class YearPicture {
  Own,
  DayAndNight,
  Probe,
  DirectNormal,
  Global,
  SensorLux,
  SensorBeam,
  BlindsClosed,
  Glare,
  RoomTemperature,
  RoomLoad,
  RoomFree,
  Column ///< of the weather file, Looking::column
};

struct Looking {
  Step step = Step::Site;
  Instant moment;
  Season season;
  ClockKind clock = ClockKind::Clock;
  YearPicture year = YearPicture::Own;
  WeatherField column = WeatherField::DryBulb;
  std::shared_ptr<const Weather> against; ///< another year: columns are shown less those of it; null: as they are
  std::vector<ElementId> selected;
  std::optional<std::uint32_t> face; ///< of the only selected element
  std::optional<ProbeSpot> probe;
  std::optional<std::size_t> sensor; ///< of the shown result
  std::optional<std::size_t> space;  ///< of the shown year: a room asked about as a whole
  StudyId study;
  /// The chosen picture of the year, or that of what is looked at: a room or sensor goes before a probe.
  YearPicture shownYear() const {
    return year != YearPicture::Own ? year
           : space || sensor        ? YearPicture::SensorLux
           : probe                  ? YearPicture::Probe
                                    : YearPicture::DayAndNight;
  }
  std::map<StudyKind, double> thresholds; ///< those the user moved
  double threshold(StudyKind kind) const {
    const auto at = thresholds.find(kind);
    return at == thresholds.end() ? usualThreshold(kind) : at->second;
  }
  YearMetric metric = YearMetric::Autonomy;              ///< of a daylight year
  DesignState state = DesignState::Proposed;             ///< of every other study
  std::map<StudyKind, std::pair<double, double>> ranges; ///< of the strip, where the user chose one
  FieldScale scale(const SensorField& painted) const {
    const auto at = ranges.find(painted.kind());
    if (painted.year) return painted.scaled(std::nullopt, std::nullopt); // its thresholds belong to the question
    const auto moved = thresholds.find(painted.kind());
    return painted.scaled(moved == thresholds.end() ? std::nullopt : std::optional(moved->second),
                          at == ranges.end() ? std::nullopt : std::optional(at->second));
  }
  std::optional<double> storey;        ///< m, floor of the rooms looked into; the lowest where absent
  RoomFigure rooms = RoomFigure::None; ///< what the rooms are coloured by, in the Rooms step
  std::optional<std::pair<std::uint64_t, int>> heatSurface; ///< room and edge (HeatSurface) that is looked at
  bool values = false;                                      ///< figures at the sensors
  bool dimensions = false;                                  ///< dimension lines of what is selected
  bool sunWishes = false;                                   ///< hours of sun kept out and let in, over the Almanac
  std::optional<Role> onlyRole;                             ///< this role alone on the stage
  std::string onlyGlazing;                                  ///< every pane of this glazing alone
  OpeningId opening;                                        ///< the drawn window looked at
  std::optional<EyeRef> eye;                                ///< the eye set by hand that is looked at
  std::optional<SectionLine> section;
  bool operator==(const Looking&) const = default;
};

} // namespace noonward
