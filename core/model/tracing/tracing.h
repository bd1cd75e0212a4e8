#pragma once
// The simplified model out of a heavy one: storeys found or given, each cut just under its ceiling, the outer outline
// and the rooms between walls traced from the cut, windows taken from the source's glazing. The source stays, as a
// ghost that no study counts; shading, planting and ground of it go on counting as they are. Metres; deterministic.

#include "core/base/run_control.h"
#include "core/geometry/plan_cut.h"
#include "core/model/project.h"

namespace noonward {

struct TraceSettings {
  std::vector<ElementId> sources; ///< empty: every counted import that is a building or a part of one
  std::vector<double> floors;     ///< levels to start storeys from, ascending; empty: found
  double simplify = 0.02;         ///< m, that a corner may be left out by
  double gap = 0.03;              ///< m, between ends of walls that is closed
  double skin = 0.005;            ///< m: faces nearer than this are one
  double thickestWall = 0.6;      ///< m: narrower regions are wall
  double smallestRoom = 1.5;      ///< m²
  std::optional<double> cutBelow; ///< m under the ceiling; absent: the highest cut that closes nearly as much as any
};

struct TracedStorey {
  double floor = 0, ceiling = 0; ///< m, the clear height
  double top = 0;                ///< m, where its mass ends: the next floor, or what lies over it
  double cut = 0;                ///< m, level of the cut
  std::vector<CutLine> lines;    ///< of the cut, joined
  std::vector<Outline> traced;   ///< outer boundary as cut
  std::vector<Outline> outer;    ///< simplified
  std::size_t rooms = 0;
};

/// Simplified model against source.
struct TraceDeviation {
  double sourceArea = 0, area = 0;                  ///< m², of all storeys' outer outlines as cut, and simplified
  double sourceVolume = 0, volume = 0;              ///< m³
  std::array<double, 4> sourceGlazing{}, glazing{}; ///< m² by Facing; doubled panes count once
  double sourceRooflights = 0, rooflights = 0;      ///< m²
  double farthest = 0;                              ///< m, of a corner of one outline to the other
};

struct Trace {
  std::vector<ElementId> sources;
  std::vector<TracedStorey> storeys;
  std::vector<Element> masses;
  std::vector<Room> rooms;
  std::vector<Opening> openings;
  TraceDeviation deviation;
  std::vector<std::string> notes; ///< what could not be followed, in sentences
};

/// Names of rooms come from uncounted flat outlines with a name that lie in them (spaces of the source, texts of a
/// plan); a room traced before that lies there keeps its id, name and use. Errors: nothing to trace, no storeys,
/// nothing closed; `Drop` in `control`.
Expected<Trace> traceModel(const Project& project, const TraceSettings& settings, const RunControl* control = nullptr);

/// Puts the simplified model in: an earlier trace is replaced, the sources become ghosts. Rooms drawn by hand stay.
Project withTrace(Project project, const Trace& trace);
/// The sources count again, the simplified model's masses, rooms and windows go.
Project withoutTrace(Project project);
/// Layer and source of its masses, source of its rooms.
inline constexpr const char* simplifiedModelName = "simplified model";
/// Elements, rooms of the simplified model in hand.
bool isTraced(const Element& element);
bool isTraced(const Room& room);

/// What a trace would take by default.
std::vector<ElementId> traceSources(const Project& project);

/// Levels of floors and the clear heights over them, from the source's horizontal faces.
std::vector<TracedStorey> storeysFound(const Project& project, const std::vector<ElementId>& sources);

} // namespace noonward
