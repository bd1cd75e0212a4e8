#pragma once
// Sensors of a group: where they stand and which way they look. Compact: 40 bytes each.

#include "core/base/finding.h"
#include "core/model/project.h"

namespace noonward {

struct Sensor {
  Vec3 position;
  std::array<float, 3> normal{0, 0, 1};
  std::uint32_t group = 0; ///< index into SensorSet::groups
  Vec3 normalVector() const { return {normal[0], normal[1], normal[2]}; }
};
static_assert(sizeof(Sensor) == 40);

/// The cell of the grid a sensor stands for: a quadrilateral for pictures, an area for shares.
struct SensorGridFacts {
  GroupId id;
  std::string name;
  std::size_t first = 0, count = 0; ///< its sensors in the set
  double spacing = 0;               ///< m; 0 for single points
  double distance = 0;         ///< m, of the point nearest to a wall, in rooms; `spacing` is the widest as it came out
  double cellArea = 0;         ///< m², where every cell counts alike; in rooms the mean
  std::vector<GridCell> cells; ///< of grids in rooms, along their sensors: each counts by its true area
  int room = -1;               ///< index in the project, of grids in rooms
  bool eyes = false;           ///< lines of sight: a sensor's cell is a needle along its own
  std::vector<std::string> pointNames;
  std::vector<std::array<float, 2>> sizes; ///< m, width and height of what each receiver by bay and storey stands for
};

struct SensorSet {
  std::vector<Sensor> sensors;
  std::vector<SensorGridFacts> groups;
  Findings findings;                               ///< groups without sensors, dropped points, elements that are gone
  std::string sensorName(std::size_t index) const; ///< "Market square 17"
  /// m² that a sensor speaks for; 1 for single points.
  double areaOf(std::size_t index) const;
  std::vector<double> areasOf(std::size_t first, std::size_t count) const;
  /// Corners of the cell on the surface, counter-clockwise seen from the front.
  std::array<Vec3, 4> cell(std::size_t index) const;
};

/// The project before: what is proposed counts for nothing, but stays to be referred to; what is demolished stands.
Project withoutProposal(Project project);

/// The groups a study takes: those it names; where it names none, all places of eyes for studies of what eyes see, and
/// all others for the rest.
std::vector<GroupId> groupsTaken(const Project& project, const std::vector<GroupId>& named, bool ofEyes = false);

/// Lays out the sensors of the groups named, or of all. Sensors that fall inside a mass's outline at ground level are
/// left out and counted. `limit`: more sensors than this are an error that names the group.
Expected<SensorSet> layOutSensors(const Project& project, const std::vector<GroupId>& only = {},
                                  std::size_t limit = 5'000'000);

} // namespace noonward
