#pragma once
// Rules as text files that an office can copy and edit: which sun, on which dates, for which groups of sensors, and how
// much of it is enough. docs/yardsticks.md tells the format.

#include "core/studies/light_study.h"
#include "core/studies/probe.h"
#include "core/studies/sun_hours.h"
#include "core/studies/year_study.h"
#include <variant>

namespace noonward {

struct Parameter {
  std::string key;
  std::string label; ///< "Hours of sun"
  std::string unit;  ///< "h", "%", "°", "m²", "min", "" for words
  std::string help;  ///< one sentence
  std::variant<double, std::string> value;
  std::vector<std::string> choices;                  ///< for words
  std::vector<std::pair<std::string, double>> table; ///< named values of a word that may also be a number
};

enum class Measure {
  SunHoursArea,
  SunHoursDwellings,
  SdaCredit,
  ProvisionHours,
  ProvisionFactor,
  OpeningSun,
  WindowSky,
  WindowSun,
  NoSkyLine,
  Irradiation,
  NewShadow,
  EyesGlare,
  ViewOut
};
/// What a measure has to have run.
enum class JudgedBy { SunHours, Year, Light, OpeningSun };
JudgedBy judgedBy(Measure measure);
/// Is it judged by the daylight year?
inline bool ofYear(Measure m) {
  return judgedBy(m) == JudgedBy::Year;
}
inline bool ofSunHours(Measure m) {
  return judgedBy(m) == JudgedBy::SunHours;
}
/// Of grids in rooms, which a yardstick proposes; the others are of any sensors.
bool ofRoomGrids(Measure measure);
/// Of rooms, without sensors or by grids in them; the others need groups of sensors that are chosen.
bool ofRooms(Measure measure);
/// Judged with a daylight year and told in its record.
bool besideYear(Measure measure);
/// The study beside which a verdict stands; the winter half of probable sunlight goes with its year.
StudyKind studyKindOf(Measure measure);

struct Yardstick {
  std::string key;     ///< "amenity-ground"; unique among the files
  std::string title;   ///< "Amenity ground"
  std::string edition; ///< which rule, which edition
  std::string source;
  std::string file; ///< where it was read
  Measure measure = Measure::SunHoursArea;
  std::vector<Parameter> parameters;
  double number(std::string_view key) const; ///< 0 where it is not there
  std::string word(std::string_view key) const;
  bool has(std::string_view key) const;
};

Expected<Yardstick> readYardstick(std::string_view text, const std::string& file);
/// The key by which a parameter is known: earlier files had other words for some.
std::string parameterKey(const std::string& key);
/// With the user's changes; an unknown parameter or a value out of place is an error naming it.
Expected<Yardstick> withChanges(Yardstick yardstick, const std::map<std::string, std::string>& changed);

enum class Outcome3 { Meets, FallsShort, NotJudged };

struct VerdictRow {
  std::string name; ///< a dwelling or a group
  Outcome3 outcome = Outcome3::NotJudged;
  double after = 0, before = NAN;  ///< in the verdict's unit
  std::string text;                ///< "living room 2.4 h, open space 1.1 h"
  std::optional<ProbeSpot> spot{}; ///< where it is judged, of a single receiver or the sunniest of several
};

struct Verdict {
  std::string title;
  Outcome3 outcome = Outcome3::NotJudged;
  double figure = 0, needed = 0; ///< in `unit`
  bool atMost = false;           ///< the figure must not be above `needed`
  double before = NAN;           ///< the same figure without what is proposed; NaN where the rule needs none
  std::string unit;              ///< "%"
  std::string text;              ///< "meets: 72 % of 50 %", "falls short by 6 points", "not judged because …"
  std::string detail;
  std::vector<VerdictRow> rows;
  std::vector<std::string> notes;      ///< how it was judged, departures from the file
  std::vector<std::string> departures; ///< where the study is not as the rule proposes
  double points = NAN;                 ///< of a credit
  double certainty = NAN;              ///< 0…1, of the outcome, numerical alone; NaN where it is exact
  Digest key;
};
const char* outcomeText(Outcome3 outcome); ///< "meets", "falls short", "not judged"

/// The sun-hours settings that the rule asks for.
Expected<SunHoursSettings> settingsOf(const Yardstick& yardstick, const Site& site);

/// Carries out sun-hours studies; handed in from above so that results are shared and stored.
using SunHoursRunner = std::function<Expected<std::shared_ptr<const SunHoursResult>>(
    const std::vector<GroupId>&, const SunHoursSettings&, bool before, double leastStretch)>;

/// A daylight year that was asked for, and its answer.
struct YearAnswered {
  YearFacts facts;
  std::shared_ptr<const YearResult> result;
};
struct LightQuestion {
  StudyKind kind = StudyKind::DaylightFactor;
  std::vector<GroupId> groups;
  bool before = false; ///< without the proposal
};
struct LightAnswered {
  SensorSet sensors;
  std::shared_ptr<const LightResult> result;
  std::string text; ///< what was asked, in words: which sunshine
};
/// Whatever a verdict needs to have run; results are shared and stored by whoever hands these in.
struct JudgeRuns {
  SunHoursRunner sunHours;
  std::function<Expected<YearAnswered>(const std::vector<GroupId>&, const YearSettings&)> year;
  std::function<Expected<LightAnswered>(const LightQuestion&)>
      light; ///< studies of light; settings of the project's own where it has one
};

Verdict judge(const Project& project, const Yardstick& yardstick, const std::vector<GroupId>& groups,
              const JudgeRuns& runs);
/// The verdict of a year that has been run, by a yardstick that is judged by it.
Verdict judgeYear(const Project& project, const Yardstick& yardstick, const YearFacts& facts, const YearResult& result);

/// What a yardstick proposes: settings of the daylight year, and the grid of rooms.
YearSettings yearSettingsOf(const Yardstick& yardstick, YearSettings base = {});
RoomGrid gridOf(const Yardstick& yardstick);
/// The project with grid, study and judgement as the yardstick proposes them; what is there under their names is put
/// right.
Project withSetUp(Project project, const Yardstick& yardstick);
/// The daylight year that a judgement with these groups looks at: one of theirs, else the first.
const Study* yearStudyFor(const Project& project, const std::vector<GroupId>& groups);

/// Shipped rules and the user's own (the user's wins where keys are equal).
struct YardstickShelf {
  std::vector<Yardstick> yardsticks;
  std::vector<Error> faults;
  const Yardstick* find(std::string_view key) const;
};

/// Of ASE, 0…1, by the project's daylight credit as it was changed there; 10 % where there is none.
double aseLimit(const Project& project, const YardstickShelf& shelf);

} // namespace noonward
