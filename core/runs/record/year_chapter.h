#pragma once
// What the record tells of a daylight year: figures of rooms, the settings against those that the rule proposes, rooms
// that are too bright, and the readings that a reviewer may contest.

#include "core/runs/runner.h"
#include "core/studies/year_hours.h"

namespace noonward {

struct BrightRoom {
  std::size_t space = 0;
  double ase = 0;     ///< 0…1
  std::string when;   ///< in which hours, through which windows
  std::string remark; ///< the user's, on how glare is dealt with; may be empty
};

/// Level (1 minimum … 3 high) that a laid yardstick of provision by hours asks for; 0 where none is laid.
int provisionAsked(const Project& project, const YardstickShelf& shelf);
/// Rooms that count and reach a level of provision, by the share of the plane in the same hours and by each point's own
/// hours.
struct ProvisionRooms {
  std::size_t same = 0, own = 0, all = 0;
};
ProvisionRooms provisionRooms(const Reading& reading, const YearFacts& facts, int level);

struct YearChapter {
  Study study;
  YearAnswered year;
  std::vector<Reading> readings; ///< the first is the study as asked
  std::vector<BrightRoom> bright;
  std::optional<Yardstick> credit; ///< by which settings are proposed, where one is laid
  double limit = 0.10;             ///< of ASE, 0…1, by the credit laid; 10 % where none is
  int provision = 0;               ///< level asked for by the provision yardstick laid; 0 where none is
  Findings findings;               ///< of its input
};
/// Runs what is missing. Errors: what can't be run, or was stopped before every room had figures.
Expected<YearChapter> yearChapter(const Project& project, const Study& study, const YardstickShelf& shelf,
                                  StudyRunner& runner, RunControl& control);

/// A line of the settings table.
struct SettingLine {
  std::string name, value;
  std::string remark; ///< "as proposed", "departs: …", "default"
};
std::vector<SettingLine> settingLines(const Project& project, const YearChapter& chapter);

/// What a space is told apart by: its room's id; of a grid outdoors its group's.
std::string spaceId(const YearFacts& facts, std::size_t space);

} // namespace noonward
