#include "core/files/project/asked_json.h"
#include "core/files/project/design_json.h"
#include "core/runs/record/record.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

bool VerifyReport::holds() const {
  return !lines.empty() && std::all_of(lines.begin(), lines.end(), [](const VerifyLine& l) { return l.holds; });
}

namespace {

double numberAt(const Json& j, const char* key) {
  return j.is_object() && j.contains(key) && j[key].is_number() ? j[key].get<double>() : NAN;
}
std::string textAt(const Json& j, const char* key) {
  return j.is_object() && j.contains(key) && j[key].is_string() ? j[key].get<std::string>() : "";
}

/// Checks the claims of one record against what its project gives anew.
class Verifier {
public:
  Verifier(Project project, YardstickShelf shelf, StudyRunner& runner, RunControl& control, VerifyReport& out)
      : p_(std::move(project)), shelf_(std::move(shelf)), runner_(runner), control_(control), out_(out) {}

  void line(std::string what, std::string claimed, std::string found, bool holds) {
    out_.lines.push_back({std::move(what), std::move(claimed), std::move(found), holds});
  }
  /// Two runs of the same noise differ by no more than the noise; another build has noise of its own.
  void figure(const std::string& what, const Json& claimed, const char* key, double found, double allowed) {
    const double c = numberAt(claimed, key);
    if (std::isnan(c) && std::isnan(found)) return;
    line(what, fmt::format("{:.2f}", c), fmt::format("{:.2f}", found), std::abs(c - found) <= allowed + 1e-9);
  }

  Outcome study(const Json& claim) {
    const Study* study = nullptr;
    for (const Study& s : p_.studies)
      if (s.id.text() == textAt(claim, "id")) study = &s;
    if (!study) return fail("The project carried does not hold the study.");
    return study->kind == StudyKind::Year ? year(*study, claim) : field(*study, claim);
  }

  void verdict(const Json& claimed) {
    const std::string key = textAt(claimed, "yardstick"), id = textAt(claimed, "id");
    const Yardstick* y = shelf_.find(key);
    const auto judgement = std::find_if(p_.judgements.begin(), p_.judgements.end(), [&](const Judgement& x) {
      return id.empty() ? x.yardstick == key : x.id.text() == id && x.yardstick == key;
    });
    if (judgement != p_.judgements.end()) claimedVerdicts_.push_back(judgement->id);
    if (!y || judgement == p_.judgements.end())
      return line("verdict: " + key, textAt(claimed, "outcome"), "its yardstick is not in the record", false);
    const Verdict v = recordVerdict(p_, *y, *judgement, years_, runner_, control_);
    bool same = textAt(claimed, "outcome") == outcomeText(v.outcome);
    if (claimed.contains("points"))
      same = same && claimed["points"].is_number() && std::abs(numberAt(claimed, "points") - v.points) < 1e-9;
    line("verdict: " + v.title, textAt(claimed, "text"), v.text, same);
    if (claimed.contains("figure")) // format 1 has none
      figure(v.title + ", " + v.unit, claimed, "figure", v.figure,
             noisy(*y)
                 ? std::max(0.02 * std::abs(v.figure), 0.5 + 100.0 / double(std::max<std::size_t>(1, v.rows.size())))
                 : exactly(v.figure));
    if (claimed.contains("rows")) rows(claimed["rows"], *y, v);
  }
  /// Verdicts that the record's own plan lists and nobody claims. Those without a rule file in it are none of its.
  void verdictsLeftOut(const std::vector<RecordPart>& parts) {
    for (const Judgement& x : p_.judgements) {
      const bool listed = std::any_of(parts.begin(), parts.end(), [&](const RecordPart& part) {
        return part.kind == RecordPartKind::Verdict && part.of == x.id.text();
      });
      if (const Yardstick* y = shelf_.find(x.yardstick);
          y && listed && std::find(claimedVerdicts_.begin(), claimedVerdicts_.end(), x.id) == claimedVerdicts_.end())
        line("verdict: " + y->title, "not claimed", "the project is judged by it", false);
    }
  }

  void shadows(const Json& claimed, const ShadowDay& asked) {
    const std::string what = "net new shadow on " + dayText({p_.site.year, asked.month, asked.day});
    const auto plan = recordShadows(p_, asked, control_);
    if (!plan) return line(what, textAt(claimed, "fault"), plan.error().text(), claimed.contains("fault"));
    const double all = plan->freshAreaHours();
    figure(what + ", m²·h", claimed, "net_new_area_hours", all, std::max(0.1, 1e-4 * all));
    const Json none = Json::array();
    const Json& moments = claimed.contains("moments") ? claimed["moments"] : none;
    for (std::size_t k = 0; k < std::max(moments.size(), plan->moments.size()); ++k) {
      if (k >= moments.size() || k >= plan->moments.size()) {
        line(what, fmt::format("{} moments", moments.size()), fmt::format("{} moments", plan->moments.size()), false);
        break;
      }
      const ShadowOn& on = plan->moments[k].ground;
      const std::string at = fmt::format("{}, moment {}, m²", what, k + 1);
      figure(at, moments[k], "shadow_m2", on.allArea, std::max(0.1, 1e-4 * on.allArea));
      figure(at + " before", moments[k], "before_m2", on.beforeArea, std::max(0.1, 1e-4 * on.beforeArea));
      figure(at + " net new", moments[k], "net_new_m2", on.freshArea, std::max(0.1, 1e-4 * on.freshArea));
    }
  }

  void measured(const Json& claim) {
    const auto series = std::find_if(p_.measured.begin(), p_.measured.end(),
                                     [&](const MeasuredSeries& s) { return s.id.text() == textAt(claim, "id"); });
    const std::string name = textAt(claim, "name");
    if (series == p_.measured.end()) return line(name, "claimed", "not in the project", false);
    const MeasuredChapter found = measuredChapter(p_, *series, {}, control_);
    if (!found.found) return line(name, textAt(claim, "fault"), found.fault, claim.contains("fault"));
    const auto agree = [&](const std::string& what, const Json& claimed, const Agreement& a) {
      figure(name + ", " + what + ": n", claimed, "n", double(a.n), 0);
      figure(name + ", " + what + ": NMBE, %", claimed, "nmbe_percent", 100 * a.nmbe, 2);
      figure(name + ", " + what + ": CV(RMSE), %", claimed, "cv_rmse_percent", 100 * a.cvRmse, 2);
      figure(name + ", " + what + ": R²", claimed, "r2", a.r2, 0.02);
    };
    static const Json none;
    const Comparison& x = found.found->comparison;
    agree("by hour", claim.contains("hours") ? claim["hours"] : none, x.hours);
    agree("by day", claim.contains("days") ? claim["days"] : none, x.days);
    agree("by month", claim.contains("months") ? claim["months"] : none, x.months);
    const Json& sensors = claim.contains("sensors") ? claim["sensors"] : none;
    for (std::size_t k = 0; k < std::max(sensors.size(), x.sensors.size()); ++k)
      if (k < sensors.size() && k < x.sensors.size() && textAt(sensors[k], "sensor") == x.sensors[k].sensor)
        agree(x.sensors[k].sensor, sensors[k], x.sensors[k].hours);
      else
        line(name, k < sensors.size() ? textAt(sensors[k], "sensor") : "not claimed",
             k < x.sensors.size() ? x.sensors[k].sensor : "not measured", false);
  }

  /// The runs claimed, computed anew; which is the best, by the whole table that the record carries.
  void sweep(const Json& claim, const Sweep& sweep, const std::filesystem::path& folder, const Json& files) {
    const std::string name = textAt(claim, "name");
    static const Json none = Json::array();
    const Json& rows = claim.contains("rows") ? claim["rows"] : none;
    const auto variation = Variation::of(p_, sweep);
    const auto units = outcomeUnits(p_, sweep, shelf_);
    if (!variation || !units)
      return line(name, textAt(claim, "fault"), (variation ? units.error() : variation.error()).text(),
                  claim.contains("fault"));
    for (const Json& row : rows) {
      if (control_.wish == Wish::Drop) return;
      const std::string what = fmt::format("{}, run {:.0f}", name, numberAt(row, "run"));
      VaryPoint point;
      for (const Variable& v : sweep.variables)
        if (const auto value = row.contains("values") && row["values"].contains(v.name)
                                   ? varyValue(row["values"][v.name])
                                   : std::nullopt)
          point.push_back(*value);
      if (point.size() != sweep.variables.size()) {
        line(what, "claimed", "its values are not those of the sweep", false);
        continue;
      }
      const auto design = variation->at(point);
      if (!design) {
        line(what, textAt(row, "fault"), design.error().text(), row.contains("fault"));
        continue;
      }
      const std::vector<SweepFigure> found = figuresOf(*design, sweep, shelf_, runner_, control_);
      for (std::size_t k = 0; k < found.size(); ++k)
        sweepFigure(what + ", " + sweep.outcomes[k].name,
                    row.contains("figures") && k < row["figures"].size() ? row["figures"][k] : none, found[k]);
    }
    for (const auto& [file, digest] : files.items()) {
      if (!file.starts_with("sweep-") || !file.ends_with(".json")) continue;
      const auto bytes = loadFile(folder / file);
      const auto table = bytes ? sweepTableFromText(*bytes, file) : tl::unexpected(bytes.error());
      if (!table || table->sweep.id != sweep.id) continue;
      const auto best = bestOf(*table);
      const Json& claimed = claim.contains("best") ? claim["best"] : none;
      for (std::size_t k = 0; k < std::max(best.size(), claimed.size()); ++k) {
        const double was = k < claimed.size() ? numberAt(claimed[k], "run") : NAN,
                     is = k < best.size() ? double(table->rows[best[k].row].number + 1) : NAN;
        line(fmt::format("{}, best run", name), fmt::format("{:.0f}", was), fmt::format("{:.0f}", is), was == is);
      }
      return;
    }
    line(name, "claimed", "its table is not in the record", false);
  }

  void beside(const Json& claim) {
    const BesideChapter found = besideChapter(p_, shelf_, runner_, control_);
    if (!found.found)
      return line("designs beside each other", textAt(claim, "fault"), found.fault, claim.contains("fault"));
    static const Json none = Json::array();
    const Json& figures = claim.contains("figures") ? claim["figures"] : none;
    const std::vector<BesideFigure>& is = found.found->figures;
    if (figures.size() != is.size())
      return line("designs beside each other", fmt::format("{} figures", figures.size()),
                  fmt::format("{} figures", is.size()), false);
    for (std::size_t k = 0; k < is.size(); ++k)
      for (std::size_t d = 0; d < is[k].of.size(); ++d) {
        const Json& of = figures[k].contains("of") ? figures[k]["of"] : none;
        sweepFigure(fmt::format("{}, {}{} {}", found.found->designs[d].name, is[k].study,
                                is[k].space.empty() ? "" : " · " + is[k].space, is[k].figure),
                    d < of.size() ? of[d] : none, is[k].of[d]);
      }
  }

private:
  void sweepFigure(const std::string& what, const Json& claimed, const SweepFigure& found) {
    if (!std::isfinite(found.value))
      return line(what, textAt(claimed, "fault"), found.fault, claimed.is_object() && claimed.contains("fault"));
    if (!claimed.is_array() || claimed.size() != 2 || !claimed[0].is_number())
      return line(what, claimed.is_object() ? textAt(claimed, "fault") : "not claimed",
                  fmt::format("{:.2f}", found.value), false);
    const double c = claimed[0].get<double>();
    line(what, fmt::format("{:.2f}", c), fmt::format("{:.2f}", found.value),
         std::abs(c - found.value) <= allowedApart(found) + 1e-9);
  }

  Outcome year(const Study& study, const Json& claims) {
    YearChapter chapter;
    chapter.study = study;
    auto year = runner_.year(p_, study.groups, study.year, control_, study.name);
    if (!year) return tl::unexpected(year.error());
    const YearResult& r = *year->result;
    line("key of the question", textAt(claims, "key"), r.key.hex(), textAt(claims, "key") == r.key.hex());
    const Json none;
    const Json& building = claims.contains("building") ? claims["building"] : none;
    figure("building sDA, %", building, "sda_percent", 100 * r.building.sda,
           std::max(1.0, 4 * 100 * r.buildingSdaError));
    figure("building ASE, %", building, "ase_percent", 100 * r.building.ase, 0.5);
    std::vector<bool> claimedSpace(r.spaces.size(), false);
    for (const Json& room : claims.contains("rooms") ? claims["rooms"] : Json::array()) {
      const std::string name = textAt(room, "name"), id = textAt(room, "id");
      bool found = false;
      for (std::size_t k = 0; k < r.spaces.size() && !found; ++k) {
        const SensorGridFacts& g = year->facts.sensors.groups[k];
        // By id: two rooms may share a name. Records of before have names alone.
        if (claimedSpace[k] || g.count == 0 || (id.empty() ? g.name != name : spaceId(year->facts, k) != id)) continue;
        found = claimedSpace[k] = true;
        figure(name + ": sDA, %", room, "sda_percent", 100 * r.spaces[k].sda,
               std::max(100.0 / double(g.count) + 1, 4 * 100 * r.sdaError[k]));
        figure(name + ": ASE, %", room, "ase_percent", 100 * r.spaces[k].ase, 100.0 / double(g.count));
        figure(name + ": mean, lx", room, "mean_lux", r.spaces[k].meanLux,
               std::max(0.03 * r.spaces[k].meanLux, 4 * r.meanError[k]));
        figure(name + ": median, lx", room, "median_lux", r.spaces[k].medianLux,
               std::max(0.05 * r.spaces[k].medianLux, 4 * r.meanError[k]));
      }
      if (!found) line(name, "claimed", "not in the project", false);
    }
    for (std::size_t k = 0; k < r.spaces.size(); ++k)
      if (const SensorGridFacts& g = year->facts.sensors.groups[k]; !claimedSpace[k] && g.count > 0)
        line(g.name, "not claimed", fmt::format("sDA {:.2f} %", 100 * r.spaces[k].sda), false);
    chapter.year = std::move(*year);
    years_.push_back(std::move(chapter));
    return {};
  }

  Outcome field(const Study& study, const Json& claims) {
    Project si = p_;
    si.units = {};
    const auto now = runner_.field(si, study, false, {}, control_);
    if (!now) {
      line(study.name, claims.contains("fault") ? textAt(claims, "fault") : "claimed", now.error().text(),
           claims.contains("fault"));
      return {};
    }
    if (control_.wish == Wish::Drop) return fail("The check was dropped.");
    line(study.name + ": key of the question", textAt(claims, "key"), now->key().hex(),
         textAt(claims, "key") == now->key().hex());
    std::optional<SensorField> before;
    if (claims.contains("key_before")) {
      auto was = runner_.field(si, study, true, {}, control_);
      if (!was) return tl::unexpected(was.error());
      before = std::move(*was);
    }
    const auto found = groupFigures(si, *now, before ? &*before : nullptr);
    std::vector<bool> met(found.size(), false);
    for (const Json& claim : claims.contains("groups") ? claims["groups"] : Json::array()) {
      const std::string name = textAt(claim, "name");
      std::size_t k = 0;
      while (k < found.size() && (met[k] || found[k].id != textAt(claim, "id"))) ++k;
      if (k == found.size()) {
        line(study.name + ", " + name, "claimed", "not in the project", false);
        continue;
      }
      met[k] = true;
      const GroupFigures& g = found[k];
      const std::string where = study.name + ", " + name + ": ";
      const double mean = std::max({0.005 * std::abs(g.mean), 4 * g.error, 0.002}),
                   share = std::max(1.0, 200.0 / double(g.sensors));
      figure(where + "sensors", claim, "sensors", double(g.sensors), 0);
      figure(where + "mean", claim, "mean", g.mean, mean);
      const bool exact = g.error == 0; // of single sensors an estimate is good to some percent
      figure(where + "min", claim, "min", g.min, exact ? exactly(g.min) : std::max(0.05 * std::abs(g.min), 0.1));
      figure(where + "max", claim, "max", g.max, exact ? exactly(g.max) : std::max(0.05 * std::abs(g.max), 0.1));
      figure(where + "share, %", claim, "share_percent", 100 * g.share, share);
      figure(where + "mean before", claim, "before_mean", g.beforeMean, mean);
      figure(where + "share before, %", claim, "before_share_percent", 100 * g.beforeShare, share);
    }
    for (std::size_t k = 0; k < found.size(); ++k)
      if (!met[k]) line(study.name + ", " + found[k].name, "not claimed", fmt::format("{:.2f}", found[k].mean), false);
    if (claims.contains("glare")) glare(study, claims["glare"], *now);
    return {};
  }
  void glare(const Study& study, const Json& claims, const SensorField& field) {
    if (!field.light || !field.light->glare)
      return line(study.name + ": worst seats", "claimed", "not in the study", false);
    const GlareChapter found = glareChapter(p_, field, control_);
    const Json none = Json::array();
    const Json& seats = claims.contains("worst_seats") ? claims["worst_seats"] : none;
    std::vector<bool> met(found.seats.size(), false); // two may share a name
    for (std::size_t n = 0; n < seats.size(); ++n) {
      const std::string name = textAt(seats[n], "name"), who = study.name + ", " + name;
      std::size_t k = 0;
      while (k < found.seats.size() && (met[k] || found.seats[k].name != name)) ++k;
      if (k == found.seats.size()) { // the last of those told may be another by noise
        if (n + 1 < seats.size()) line(who, "among the worst", "not among them", false);
        continue;
      }
      met[k] = true;
      const GlareSeat& seat = found.seats[k].seat;
      figure(who + ": share above 0.40, %", seats[n], "share_above_040_percent", 100 * seat.above[1],
             std::max(1.0, 400 * seat.aboveError[1]));
      figure(who + ": DGP exceeded in 5 %", seats[n], "dgp_95", seat.dgp95, 0.02);
      figure(who + ": highest DGP", seats[n], "worst_dgp", seat.worst, 0.05); // a source may pass its threshold
    }
    if (seats.empty() || found.seats.empty() || textAt(seats[0], "name") != found.seats.front().name) return;
    if (!claims.contains("fisheye")) return;
    const Glare dark, &seen = found.worst ? found.worst->glare : dark;
    figure(study.name + ", worst seat: DGP of the picture", claims["fisheye"], "dgp", seen.dgp,
           0.01 + 4 * seen.dgpError);
    figure(study.name + ", worst seat: Ev of the picture, lx", claims["fisheye"], "ev_lux", seen.ev,
           0.02 * seen.ev + 4 * seen.evError);
  }

  /// Is it judged by estimates?
  static bool noisy(const Yardstick& y) {
    return judgedBy(y.measure) == JudgedBy::Light || judgedBy(y.measure) == JudgedBy::Year;
  }
  /// What arithmetic on another machine may move a figure by that has no noise.
  static double exactly(double figure) { return std::max(1e-3 * std::abs(figure), 0.01); }

  /// Each receiver of a verdict: outcome and figures must be the same, but for the noise of an estimate: of a hundred
  /// at most one may differ, and one in any case, where the study has errors at all.
  void rows(const Json& claimed, const Yardstick& y, const Verdict& v) {
    std::size_t same = 0;
    std::string first;
    for (std::size_t k = 0; k < std::max(claimed.size(), v.rows.size()); ++k) {
      const bool both = k < claimed.size() && k < v.rows.size();
      const auto near = [&](const char* key, double found) {
        const double c = numberAt(claimed[k], key);
        const double allowed = noisy(y) ? std::max(0.05 * std::abs(found), 0.5) : exactly(found);
        return std::isnan(c) ? !std::isfinite(found) : std::abs(c - found) <= allowed;
      };
      const bool alike = both && textAt(claimed[k], "name") == v.rows[k].name &&
                         textAt(claimed[k], "outcome") == outcomeText(v.rows[k].outcome) &&
                         near("after", v.rows[k].after) && near("before", v.rows[k].before);
      same += alike;
      if (!alike && first.empty())
        first = k < v.rows.size() ? v.rows[k].name + " " + outcomeText(v.rows[k].outcome)
                                  : textAt(claimed[k], "name") + " is not in the project";
    }
    const std::size_t differing = std::max(claimed.size(), v.rows.size()) - same,
                      may = noisy(y) && claimed.size() == v.rows.size() ? std::max<std::size_t>(1, v.rows.size() / 100)
                                                                        : 0;
    line("receivers: " + v.title, fmt::format("{} of {}", claimed.size(), v.rows.size()),
         differing == 0 ? "all alike" : fmt::format("{} differ, first: {}", differing, first), differing <= may);
  }

  Project p_;
  YardstickShelf shelf_;
  StudyRunner& runner_;
  RunControl& control_;
  VerifyReport& out_;
  std::vector<YearChapter> years_;
  std::vector<JudgementId> claimedVerdicts_;
};

Expected<VerifyReport> verified(const std::filesystem::path& given, RunControl& control, Threads threads) {
  const auto record = readRecord(given);
  if (!record) return tl::unexpected(record.error());
  const Json& j = record->json;
  const std::filesystem::path& folder = record->folder;
  VerifyReport out;
  const std::string print = digestOf(j["claims"].dump() + j["files"].dump()).hex();
  out.lines.push_back(
      {"fingerprint of the record", textAt(j, "fingerprint"), print, textAt(j, "fingerprint") == print});
  for (const auto& [name, digest] : j["files"].items()) {
    if (name.find("..") != std::string::npos || name.starts_with('/'))
      return fail("A file of the record lies outside its folder.", name);
    const auto bytes = loadFile(folder / name);
    const std::string found = bytes ? digestOf(*bytes).hex() : "missing";
    out.lines.push_back({name, digest.is_string() ? digest.get<std::string>() : "", found, digest == found});
  }
  const Json claims = claimsOfTwo(*record);
  const auto loaded = readProject(folder / textAt(j, "project"));
  if (!loaded) return tl::unexpected(loaded.error());
  Project p = loaded->project;
  const std::string option = textAt(claims, "option");
  if (!option.empty()) {
    const auto at = optionNamed(p, option);
    if (!at) return fail(fmt::format("The project carried has no option \"{}\".", option));
    p = withOption(std::move(p), *at);
  }
  const std::vector<RecordPart> parts = recordParts(p);
  StudyRunner runner(nullptr, threads);
  Verifier check(p, readYardsticks({folder / "yardsticks"}), runner, control, out);
  const Json& studies = claims.at("studies");
  for (const Json& study : studies)
    if (const Outcome o = check.study(study); !o) return tl::unexpected(o.error());
  if (record->version > 1) { // a study that was left out of the claims
    std::size_t shadow = 0;
    const Json& shadows = claims.at("shadows");
    std::vector<ShadowDay> done;
    for (const RecordPart& part : parts) {
      if (part.kind == RecordPartKind::Study &&
          std::none_of(studies.begin(), studies.end(), [&](const Json& s) { return textAt(s, "id") == part.of; }))
        check.line("study: " + partName(p, part), "not claimed", "the record lists it", false);
      if (part.kind == RecordPartKind::Measured) {
        const Json none = Json::array();
        const Json& all = claims.contains("measured") ? claims["measured"] : none;
        const auto at = std::find_if(all.begin(), all.end(), [&](const Json& c) { return textAt(c, "id") == part.of; });
        if (at == all.end())
          check.line(partName(p, part), "not claimed", "the record lists it", false);
        else
          check.measured(*at);
      }
      if (part.kind == RecordPartKind::Sweep) {
        const Json none = Json::array();
        const Json& all = claims.contains("sweeps") ? claims["sweeps"] : none;
        const auto at = std::find_if(all.begin(), all.end(), [&](const Json& c) { return textAt(c, "id") == part.of; });
        const auto sweep =
            std::find_if(p.sweeps.begin(), p.sweeps.end(), [&](const Sweep& s) { return s.id.text() == part.of; });
        if (at == all.end())
          check.line(partName(p, part), "not claimed", "the record lists it", false);
        else
          check.sweep(*at, *sweep, folder, j["files"]);
      }
      if (part.kind == RecordPartKind::Beside) {
        if (claims.contains("beside"))
          check.beside(claims["beside"]);
        else
          check.line(partName(p, part), "not claimed", "the record lists it", false);
      }
      if (part.kind != RecordPartKind::Shadows || std::find(done.begin(), done.end(), part.shadows) != done.end())
        continue;
      done.push_back(part.shadows);
      if (shadow < shadows.size())
        check.shadows(shadows[shadow], part.shadows);
      else
        check.line(partName(p, part), "not claimed", "the record lists it", false);
      ++shadow;
    }
  }
  for (const Json& claimed : claims.contains("verdicts") ? claims["verdicts"] : Json::array()) check.verdict(claimed);
  check.verdictsLeftOut(parts);
  if (control.wish == Wish::Drop) return fail("The check was dropped.");
  return out;
}

} // namespace

Expected<VerifyReport> verifyRecord(const std::filesystem::path& given, RunControl& control, Threads threads) {
  try {
    return verified(given, control, threads);
  } catch (const Json::exception& e) { // a claim of another type than it has
    return fail(fmt::format("The record's claims are not as they should be ({}).", e.what()), "record.json");
  }
}

} // namespace noonward
