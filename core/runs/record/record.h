#pragma once
// The record: everything that is handed in, gathered once, so that page, spreadsheet, tables and the check afterwards
// tell the same numbers. Any set of studies, rules and shadow plans, in the user's order (core/model/record_plan.h). A
// record is a folder: record.json with the claims, the project it was computed from, the rules it was judged by, tables
// and pictures; docs/record.md tells its keys.

#include "core/base/json.h"
#include "core/files/library.h"
#include "core/model/record_parts.h"
#include "core/runs/record/changes.h"
#include "core/runs/record/glare_chapter.h"
#include "core/runs/record/measured_chapter.h"
#include "core/runs/record/sweep_chapter.h"
#include "core/runs/record/year_chapter.h"
#include "core/studies/shadow_plan.h"

namespace noonward {

/// What a group of sensors comes to in a study that is no year; each sensor counts by its area.
struct GroupFigures {
  std::string name, id; ///< id of the group; in rooms of the room
  std::string building; ///< it is told with; empty: none
  std::size_t sensors = 0;
  double area = 0;                                 ///< m²; 0 for single points
  double mean = NAN, error = 0;                    ///< in the field's unit; standard error of the mean
  double min = NAN, max = NAN;                     ///< of its sensors
  double share = NAN;                              ///< 0…1, at or above the threshold
  double beforeMean = NAN, beforeShare = NAN;      ///< without the proposal
  bool known() const { return !std::isnan(mean); } ///< has a sensor with a value
};
std::vector<GroupFigures> groupFigures(const Project& project, const SensorField& now, const SensorField* before);

/// One line a building where groups have one; what has none stays by itself.
std::vector<GroupFigures> byBuilding(const std::vector<GroupFigures>& groups);

struct FieldChapter {
  Study study;
  std::string asked;                              ///< in words
  std::string fault;                              ///< why there is none; all else is empty then
  std::shared_ptr<const SensorField> now, before; ///< before: null where nothing is proposed
  std::vector<GroupFigures> groups;
  std::optional<GlareChapter> glare; ///< of a year of glare
};
struct WorstReceiver {
  std::string name, text;
  std::shared_ptr<const ProbeResult> seen; ///< its skyline
};
struct VerdictChapter {
  Judgement judgement;
  Yardstick yardstick;
  Verdict verdict;
  std::vector<RuleReading> readings; ///< empty where the year has its own
  std::vector<WorstReceiver> worst;  ///< of those that fall short, at most three
};
struct ShadowChapter {
  ShadowDay asked;
  ShadowPlan plan;
  std::string fault;
};

struct RecordFacts {
  Project project;                ///< with the option in hand
  std::vector<RecordPart> parts;  ///< in order
  std::vector<YearChapter> years; ///< in the order of the parts, as the others
  std::vector<FieldChapter> fields;
  std::vector<VerdictChapter> verdicts;
  std::vector<ShadowChapter> shadows;
  std::vector<MeasuredChapter> measured;
  std::vector<SweepChapter> sweeps;
  std::optional<BesideChapter> beside;
  Findings open, accepted;              ///< what is still found; what was accepted
  std::vector<std::string> defaults;    ///< inputs that nobody touched
  std::string made;                     ///< UTC, ISO
  std::optional<RecordChanges> changes; ///< since an earlier record, where one was named

  const YearChapter* year(const RecordPart& part) const;
  const FieldChapter* field(const RecordPart& part) const;
  const VerdictChapter* verdict(const RecordPart& part) const;
  const ShadowChapter* shadow(const RecordPart& part) const;
  const MeasuredChapter* measuredOf(const RecordPart& part) const;
  const SweepChapter* sweepOf(const RecordPart& part) const;
  bool proposal() const; ///< is anything proposed?
  /// Of the whole record: over the claims.
  std::string fingerprint() const;
};

/// Runs what is missing. `earlier`: folder of an earlier record to compare with; empty for none. `guidelines`: those
/// that measured series are judged by. Errors: nothing to
/// record, a daylight year that can't be run, a run that was dropped, an earlier record that can't be read. Another
/// study that can't be run stands in the record with the reason.
Expected<RecordFacts> gatherRecord(const Project& project, const YardstickShelf& shelf, StudyRunner& runner,
                                   RunControl& control, const std::filesystem::path& earlier = {},
                                   const std::vector<AgreementGuideline>& guidelines = {});
/// Verdicts laid that the record tells, years and fields as they are there.
Verdict recordVerdict(const Project& project, const Yardstick& yardstick, const Judgement& judgement,
                      const std::vector<YearChapter>& years, StudyRunner& runner, RunControl& control);
Expected<ShadowPlan> recordShadows(const Project& project, const ShadowDay& day, RunControl& control);

/// How a kind of study is computed, in a sentence or two.
std::string methodText(StudyKind kind);

/// The claims: every figure that the check computes anew.
Json recordClaims(const RecordFacts& facts);

/// Finishes and glazings that the model's surfaces have: name, reflectance or transmittance in words, area in m²,
/// source.
struct FinishLine {
  std::string name, value, source;
  double area = 0;
  bool isDefault = false;
};
std::vector<FinishLine> finishLines(const Project& project);

/// A name for files, told apart from those before: "sky-at-windows", "sky-at-windows-2".
class FileNames {
public:
  std::string operator()(const std::string& name);

private:
  std::map<std::string, int> taken_;
};

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
/// Recomputes a record from the project it carries. Figures must agree within their uncertainty (the same build gives
/// the same digits); files must be those that were written.
Expected<VerifyReport> verifyRecord(const std::filesystem::path& folder, RunControl& control, Threads threads = {});

} // namespace noonward
