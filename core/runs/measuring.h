#pragma once
// The measuring desk: a logger's file laid beside a study of the project.

#include "core/files/station/station_reader.h"
#include "core/studies/measured_light.h"

namespace noonward {

struct MeasuringWish {
  std::vector<std::filesystem::path> files;
  StationMap map;
  Stretch stretch;
  int year = 0;              ///< of the measurement; 0: that with most hours
  bool reflectances = false; ///< try other ones, which takes the rays of a second year
};

struct Measuring {
  StationMap map; ///< with what was found
  std::vector<std::string> notes;
  std::size_t rows = 0, used = 0;
  std::vector<RowFault> faults;
  std::vector<std::string> lost; ///< columns that belong to no sensor
  const char* unit = "lx";
  Digest key; ///< of the study's question
  Comparison comparison;
  Findings findings;
};
/// `study`: a daylight year, whose sensors, blinds and error count. Errors: of reading and of the study; no column
/// belongs to a sensor.
Expected<Measuring> measureAgainst(const Project& project, const Study& study, const MeasuringWish& wish,
                                   RunControl& control, Threads threads = {});

/// What a series of the project asks. Errors: no files, a map that can't be read.
Expected<MeasuringWish> wishOf(const MeasuredSeries& series);
/// The other way: what is asked, as a series that a project keeps.
MeasuredSeries seriesOf(const MeasuringWish& wish, const std::string& name, StudyId study,
                        const std::string& guideline = {});
/// Added; one of that name is put right.
Project withSeries(Project project, MeasuredSeries series);
/// The daylight year that is meant: by its name, else the only or first one, else one of all sensors.
Expected<Study> studyForMeasuring(const Project& project, const std::string& name);

/// Hours as CSV: month, day, hour, and for each sensor what was measured and computed.
std::string measuringCsv(const Measuring& measuring);

} // namespace noonward
