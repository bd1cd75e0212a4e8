#pragma once
// The record of a daylight year: everything that is handed in, gathered once, so that page, spreadsheet, tables and the
// check afterwards tell the same numbers. A record is a folder: record.json with the claims, the project it was
// computed from, the yardsticks it was judged by, tables and pictures; docs/record.md tells its keys.

#include "core/base/json.h"
#include "core/files/library.h"
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

struct RecordFacts {
  Project project; ///< with the option in hand
  Study study;
  YearAnswered year;
  std::vector<std::pair<Judgement, Verdict>> verdicts;
  std::vector<Yardstick> yardsticks; ///< those judged by
  std::vector<Reading> readings;     ///< the first is the study as asked
  std::vector<BrightRoom> bright;
  Findings open, accepted;           ///< what is still found; what was accepted
  std::vector<std::string> defaults; ///< inputs that nobody touched
  double limit = 0.10;               ///< of ASE, 0…1, by the credit laid; 10 % where none is
  int provision = 0;                 ///< level asked for by the provision yardstick laid; 0 where none is
  std::string made;                  ///< UTC, ISO
};

/// `study`: a daylight year of the project. Runs what is missing.
Expected<RecordFacts> gatherRecord(const Project& project, const Study& study, const YardstickShelf& shelf,
                                   StudyRunner& runner, RunControl& control);

/// The claims: building, rooms, verdicts, key of the question.
Json recordClaims(const RecordFacts& facts);

/// A line of the settings table.
struct SettingLine {
  std::string name, value;
  std::string remark; ///< "proposed", "departs: …", "default"
};
std::vector<SettingLine> settingLines(const RecordFacts& facts);
/// Finishes and glazings that the model's surfaces have: name, reflectance or transmittance in words, area in m²,
/// source.
struct FinishLine {
  std::string name, value, source;
  double area = 0;
  bool isDefault = false;
};
std::vector<FinishLine> finishLines(const Project& project);

/// Everything but page and pictures: record.json, project, yardsticks, tables, spreadsheet. `made` lists files that
/// others put in the folder, to be fingerprinted with the rest.
Outcome writeRecord(const RecordFacts& facts, const std::filesystem::path& folder,
                    const std::vector<std::string>& made);

struct VerifyLine {
  std::string what, claimed, found;
  bool holds = false;
};
struct VerifyReport {
  std::vector<VerifyLine> lines;
  bool holds() const;
};
/// Recomputes a record from the project it carries. Figures of a daylight year must agree within their uncertainty (the
/// same build gives the same digits); files must be those that were written.
Expected<VerifyReport> verifyRecord(const std::filesystem::path& folder, RunControl& control, Threads threads = {});

} // namespace noonward
