// Rules for what eyes see: glare in the year, the view out.

#include "core/studies/glare_year.h"
#include "core/studies/view_out.h"
#include "core/studies/year_study.h"
#include "core/yardsticks/judge.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

int levelOf(const std::string& word) {
  return word == "high" ? 2 : word == "medium" ? 1 : 0;
}

/// The eyes that a rule is laid on: those named, else those of the first study of the kind, else all that there are.
std::vector<GroupId> eyesMeant(const Project& p, const std::vector<GroupId>& given, StudyKind kind) {
  if (!given.empty()) return given;
  for (const Study& s : p.studies)
    if (s.kind == kind && !s.groups.empty()) return s.groups;
  std::vector<GroupId> out;
  for (const SensorGroup& g : p.groups) {
    const auto* grid = std::get_if<RoomGrid>(&g.layout);
    if (g.eyes && (kind == StudyKind::ViewOut || !grid || grid->directions > 0)) out.push_back(g.id);
  }
  return out;
}

/// The verdict of its rows: every one must meet.
Verdict ofRoomsTogether(Verdict v) {
  if (v.rows.empty()) return notJudged(std::move(v), "no regularly occupied room has eyes");
  const auto good =
      std::count_if(v.rows.begin(), v.rows.end(), [](const auto& row) { return row.outcome == Outcome3::Meets; });
  const bool all = std::size_t(good) == v.rows.size();
  v.unit = "%";
  v.figure = 100.0 * double(good) / double(v.rows.size());
  v.needed = 100;
  v.outcome = all ? Outcome3::Meets : Outcome3::FallsShort;
  v.text = fmt::format("{}: {} of {} rooms", all ? "meets" : "falls short", good, v.rows.size());
  return v;
}

Verdict judgeGlare(const Project& p, const Yardstick& y, const LightAnswered& a, Verdict v) {
  const auto limit = std::size_t(2 - levelOf(y.word("level"))); // high: 0.35
  const double most = y.number("share") / 100;
  double certain = 1;
  for (const SensorGridFacts& g : a.sensors.groups) {
    if (g.count == 0 || (g.room >= 0 && !p.rooms[std::size_t(g.room)].counted)) continue;
    double worst = -1, error = 0;
    std::size_t at = g.first;
    for (std::size_t i = g.first; i < g.first + g.count; ++i)
      if (a.result->glare->seats[i].above[limit] > worst) {
        worst = a.result->glare->seats[i].above[limit];
        error = a.result->glare->seats[i].aboveError[limit];
        at = i;
      }
    const bool meets = worst <= most + 1e-12;
    const double above = probabilityAbove(worst, error, most);
    certain *= meets ? 1 - above : above;
    const std::string why = glareCauseText(*a.result->glare, at);
    v.rows.push_back({g.name, meets ? Outcome3::Meets : Outcome3::FallsShort, 100 * worst, NAN,
                      fmt::format("{:.1f} ± {:.1f} % above DGP {:.2f} at {}{}", 100 * worst, 100 * error,
                                  GlareYear::limits[limit], a.sensors.sensorName(at), why.empty() ? "" : "; " + why)});
  }
  v = ofRoomsTogether(std::move(v));
  if (v.rows.empty()) return v;
  v.detail =
      fmt::format("at every line of sight DGP above {:.2f} in at most {:g} % of the {} hours of use; {:.0f} % certain",
                  GlareYear::limits[limit], 100 * most, a.result->glare->scheduleHours, 100 * certain);
  double dim = 0;
  for (const GlareSeat& s : a.result->glare->seats) dim = std::max(dim, s.dim);
  if (dim > 0.5)
    v.notes.push_back(
        "Some eyes have less than 380 lx in more than half of the lit hours: DGP is doubtful there, and low.");
  return v;
}

Verdict judgeView(const Project& p, const Yardstick& y, const LightAnswered& a, Verdict v) {
  const int asked = levelOf(y.word("level")) + 1;
  const double share = y.number("share") / 100;
  static constexpr std::array<const char*, 4> names{"none", "minimum", "medium", "high"};
  for (const SensorGridFacts& g : a.sensors.groups) {
    if (g.count == 0 || (g.room >= 0 && !p.rooms[std::size_t(g.room)].counted)) continue;
    const std::vector<double> weight = weightsOf(a.sensors.areasOf(g.first, g.count), g.count);
    std::array<double, 4> reached{}; // share of the area with the level or more
    for (std::size_t i = 0; i < g.count; ++i)
      for (int l = 0; l <= int(a.result->columns[0].values[g.first + i]); ++l) reached[std::size_t(l)] += weight[i];
    int level = 0;
    while (level < 3 && reached[std::size_t(level + 1)] >= share - 1e-9) ++level;
    v.rows.push_back({g.name, level >= asked ? Outcome3::Meets : Outcome3::FallsShort,
                      100 * reached[std::size_t(asked)], NAN,
                      fmt::format("{}; {:.1f} % of the area has the {} level",
                                  level == 0 ? "no level" : fmt::format("{} level", names[std::size_t(level)]),
                                  100 * reached[std::size_t(asked)], names[std::size_t(asked)])});
  }
  v = ofRoomsTogether(std::move(v));
  if (v.rows.empty()) return v;
  v.detail = fmt::format("{} level from {:g} % of the area: sight angle, outside distance and layers at one point",
                         names[std::size_t(asked)], 100 * share);
  v.notes.push_back("Counted by the cells of the grid; sight angles within 1.5°, no other numerical error.");
  return v;
}

} // namespace

Verdict judgeEyes(const Project& p, const Yardstick& y, const std::vector<GroupId>& given, const JudgeRuns& runs) {
  Verdict v;
  v.title = y.title;
  const StudyKind kind = studyKindOf(y.measure);
  const std::vector<GroupId> groups = eyesMeant(p, given, kind);
  if (groups.empty()) return notJudged(std::move(v), "there are no eyes: lay eyes in rooms first");
  const auto a = runs.light({kind, groups, false});
  if (!a) return notJudged(std::move(v), lowered(a.error().text()));
  if (a->result->end != RunEnd::Finished) return notJudged(std::move(v), "the run was stopped early");
  v.key = a->result->key;
  return kind == StudyKind::Glare ? judgeGlare(p, y, *a, std::move(v)) : judgeView(p, y, *a, std::move(v));
}

} // namespace noonward
