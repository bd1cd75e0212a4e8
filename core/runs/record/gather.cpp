#include "core/base/words.h"
#include "core/model/mending/check.h"
#include "core/runs/record/record.h"
#include "core/studies/annual_metrics.h"
#include "core/studies/model_parts.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace noonward {

std::vector<GroupFigures> groupFigures(const Project& p, const SensorField& now, const SensorField* before) {
  std::vector<GroupFigures> out;
  const double least = usualThreshold(now.kind()) * now.scale.perSi;
  const SensorSet& set = now.sensors;
  struct Sums {
    double area = 0, mean = 0, variance = 0, above = 0, min = INFINITY, max = -INFINITY;
    std::size_t count = 0;
  };
  const auto sums = [&](const SensorField& f, const SensorGridFacts& g) {
    Sums s;
    for (std::size_t i = g.first; i < g.first + g.count && i < f.values().size(); ++i) {
      const double v = double(f.values()[i]);
      if (std::isnan(v)) continue;
      const double a = set.areaOf(i), e = f.light ? double(f.light->standardError[i]) : 0;
      s.area += a;
      s.mean += a * v;
      s.variance += a * a * e * e;
      s.above += v >= least - 1e-9 ? a : 0;
      s.min = std::min(s.min, v);
      s.max = std::max(s.max, v);
      ++s.count;
    }
    return s;
  };
  std::map<std::uint64_t, std::string> buildings;
  for (const SensorGroup& g : p.groups) buildings[g.id.value] = g.building;
  for (const SensorGridFacts& g : set.groups) {
    if (g.count == 0) continue;
    GroupFigures x;
    x.name = g.name;
    x.id = g.room >= 0 ? p.rooms[std::size_t(g.room)].id.text() : g.id.text();
    if (const auto at = buildings.find(g.id.value); at != buildings.end()) x.building = at->second;
    x.sensors = g.count;
    const Sums s = sums(now, g);
    if (s.count > 0 && s.area > 0) {
      x.area = g.spacing > 0 ? s.area : 0;
      x.mean = s.mean / s.area;
      x.error = std::sqrt(s.variance) / s.area;
      x.share = s.above / s.area;
      x.min = s.min;
      x.max = s.max;
    }
    if (before)
      if (const Sums b = sums(*before, g); b.count > 0 && b.area > 0) {
        x.beforeMean = b.mean / b.area;
        x.beforeShare = b.above / b.area;
      }
    out.push_back(std::move(x));
  }
  return out;
}

std::vector<GroupFigures> byBuilding(const std::vector<GroupFigures>& groups) {
  std::vector<GroupFigures> out;
  std::map<std::string, std::size_t> at;
  std::vector<double> weights, before; // of what is known; of that, what has a state before
  const auto weighed = [](double& sum, double had, double more, double weight) {
    if (!std::isnan(more)) sum = (std::isnan(sum) ? 0 : sum * had) / (had + weight) + more * weight / (had + weight);
  };
  for (const GroupFigures& g : groups) {
    const double weight = g.area > 0 ? g.area : double(g.sensors);
    const auto [known, fresh] = g.building.empty() ? std::pair{at.end(), true} : at.try_emplace(g.building, out.size());
    if (fresh) {
      out.push_back(g);
      if (!g.building.empty()) out.back().name = g.building;
      weights.push_back(g.known() ? weight : 0);
      before.push_back(std::isnan(g.beforeMean) ? 0 : weight);
      continue;
    }
    GroupFigures& x = out[known->second];
    double& had = weights[known->second];
    x.sensors += g.sensors;
    x.area += g.area;
    if (!g.known()) continue;
    weighed(x.mean, had, g.mean, weight);
    weighed(x.share, had, g.share, weight);
    if (double& was = before[known->second]; !std::isnan(g.beforeMean)) {
      weighed(x.beforeMean, was, g.beforeMean, weight);
      weighed(x.beforeShare, was, g.beforeShare, weight);
      was += weight;
    }
    x.error = std::hypot(x.error * had, g.error * weight) / (had + weight);
    x.min = std::isnan(x.min) ? g.min : std::min(x.min, g.min);
    x.max = std::isnan(x.max) ? g.max : std::max(x.max, g.max);
    had += weight;
  }
  return out;
}

namespace {

template <class T, class Is> const T* chapterOf(const std::vector<T>& list, const Is& is) {
  const auto at = std::find_if(list.begin(), list.end(), is);
  return at == list.end() ? nullptr : &*at;
}

FieldChapter fieldChapter(const Project& p, const Study& study, bool proposal, StudyRunner& runner,
                          RunControl& control) {
  FieldChapter out;
  out.study = study;
  out.asked = askedText(study);
  Project si = p; // claims and tables are in SI, pages in what is preferred
  si.units = {};
  auto now = runner.field(si, study, false, {}, control);
  if (now && now->end() != RunEnd::Finished) now = fail("The run was stopped early.");
  if (!now) {
    out.fault = now.error().text();
    return out;
  }
  if (proposal) {
    auto before = runner.field(si, study, true, {}, control);
    if (!before) {
      out.fault = "Without the proposal: " + before.error().text();
      return out;
    }
    if (before->values().size() == now->values().size())
      out.before = std::make_shared<const SensorField>(std::move(*before));
  }
  out.now = std::make_shared<const SensorField>(std::move(*now));
  out.groups = groupFigures(si, *out.now, out.before.get());
  if (out.now->light && out.now->light->glare) out.glare = glareChapter(si, *out.now, control);
  return out;
}

/// Skylines of the worst that fall short, at most three.
std::vector<WorstReceiver> worstOf(const Project& p, const Verdict& v, std::optional<Scene>& scene) {
  std::vector<const VerdictRow*> rows;
  for (const VerdictRow& r : v.rows)
    if (r.outcome == Outcome3::FallsShort && r.spot) rows.push_back(&r);
  const std::size_t n = std::min<std::size_t>(3, rows.size());
  std::partial_sort(rows.begin(), rows.begin() + std::ptrdiff_t(n), rows.end(),
                    [](const VerdictRow* a, const VerdictRow* b) { return a->after < b->after; });
  std::vector<WorstReceiver> out;
  for (std::size_t k = 0; k < n; ++k) {
    if (!scene) scene = buildScene(p);
    const ProbeInput at{
        rows[k]->spot->position, rows[k]->spot->normal, p.site.place, p.zone(), p.site.northAngle, p.site.year};
    out.push_back({rows[k]->name, rows[k]->text, std::make_shared<const ProbeResult>(probeProject(p, at, *scene))});
  }
  return out;
}

/// Inputs that nobody touched and that the parts chosen go by.
std::vector<std::string> defaultsOf(const RecordFacts& f) {
  std::vector<std::string> out;
  const Project& p = f.project;
  const bool reflected = !f.years.empty() || std::any_of(f.fields.begin(), f.fields.end(), [](const FieldChapter& x) {
    return factsOf(x.study.kind).inside;
  });
  if (!reflected) return out;
  for (const FinishLine& x : finishLines(p))
    if (x.isDefault)
      out.push_back(
          fmt::format("{} ({}) on {}, by its role alone", x.name, x.value, quantityText(x.area, 0, "m²", p.units)));
  if (p.site.groundReflectance == 0.2) out.push_back("ground reflectance 0.2");
  for (const auto& g : p.glazings) {
    if (g.frame == 1) out.push_back(fmt::format("{}: no frame counted in the glazed area", g.name));
    if (g.dirt == 1) out.push_back(fmt::format("{}: clean glass", g.name));
  }
  for (const YearChapter& y : f.years)
    if (y.study.year.seed == 1) out.push_back(fmt::format("{}: seed 1", y.study.name));
  return out;
}

void gatherFindings(RecordFacts& f) {
  const Project& p = f.project;
  f.open = checkProject(p);
  for (const YearChapter& y : f.years) f.open.insert(f.open.end(), y.findings.begin(), y.findings.end());
  for (const FieldChapter& x : f.fields)
    if (x.now) f.open.insert(f.open.end(), x.now->sensors.findings.begin(), x.now->sensors.findings.end());
  for (const MeasuredChapter& x : f.measured)
    if (x.found) f.open.insert(f.open.end(), x.found->findings.begin(), x.found->findings.end());
  Project strict = p;
  strict.accepted.clear();
  Findings all = checkProject(strict);
  for (const YearChapter& y : f.years) all.insert(all.end(), y.findings.begin(), y.findings.end());
  for (const Finding& x : merged(std::move(all)))
    if (p.accepted.contains(x.code)) f.accepted.push_back(x);
  std::erase_if(f.open, [&](const Finding& x) { return p.accepted.contains(x.code) && x.rank != Rank::StopsStudy; });
  Findings once;
  for (Finding& x : f.open)
    if (std::find(once.begin(), once.end(), x) == once.end()) once.push_back(std::move(x));
  f.open = merged(std::move(once));
}

} // namespace

const YearChapter* RecordFacts::year(const RecordPart& part) const {
  return chapterOf(years, [&](const YearChapter& x) { return x.study.id.text() == part.of; });
}
const FieldChapter* RecordFacts::field(const RecordPart& part) const {
  return chapterOf(fields, [&](const FieldChapter& x) { return x.study.id.text() == part.of; });
}
const VerdictChapter* RecordFacts::verdict(const RecordPart& part) const {
  return chapterOf(verdicts, [&](const VerdictChapter& x) { return x.judgement.id.text() == part.of; });
}
const ShadowChapter* RecordFacts::shadow(const RecordPart& part) const {
  return chapterOf(shadows, [&](const ShadowChapter& x) { return x.asked == part.shadows; });
}
const MeasuredChapter* RecordFacts::measuredOf(const RecordPart& part) const {
  return chapterOf(measured, [&](const MeasuredChapter& x) { return x.series.id.text() == part.of; });
}
const SweepChapter* RecordFacts::sweepOf(const RecordPart& part) const {
  return chapterOf(sweeps, [&](const SweepChapter& x) { return x.sweep.id.text() == part.of; });
}
bool RecordFacts::proposal() const {
  return hasProposal(project);
}
std::string RecordFacts::fingerprint() const {
  return digestOf(recordClaims(*this).dump()).fingerprint();
}

Expected<ShadowPlan> recordShadows(const Project& p, const ShadowDay& s, RunControl& control) {
  ShadowPlanSettings settings;
  settings.moments = stepMoments(p, {p.site.year, s.month, s.day}, s.fromMinute, s.toMinute, s.stepMinutes);
  settings.hoursEach = s.stepMinutes / 60;
  return shadowPlan(p, settings, control);
}

Verdict recordVerdict(const Project& p, const Yardstick& y, const Judgement& j, const std::vector<YearChapter>& years,
                      StudyRunner& runner, RunControl& control) {
  const auto changed = withChanges(y, j.changed);
  if (changed && ofYear(y.measure)) {
    const Study* study = yearStudyFor(p, j.groups);
    const YearChapter* year = chapterOf(years, [&](const YearChapter& x) { return study && x.study.id == study->id; });
    if (!year && years.size() == 1) year = &years.front();
    if (year) {
      Verdict v = judgeYear(p, *changed, year->year.facts, *year->year.result);
      for (const auto& [key, value] : j.changed) v.notes.push_back(key + " changed to " + value + ".");
      return v;
    }
  }
  return runner.judgement(p, y, j, control);
}

Expected<RecordFacts> gatherRecord(const Project& p, const YardstickShelf& shelf, StudyRunner& runner,
                                   RunControl& control, const std::filesystem::path& earlier,
                                   const std::vector<AgreementGuideline>& guidelines) {
  RecordFacts out;
  out.project = p;
  out.parts = recordParts(p);
  if (std::none_of(out.parts.begin(), out.parts.end(), [](const RecordPart& x) {
        return x.kind == RecordPartKind::Study || x.kind == RecordPartKind::Verdict ||
               x.kind == RecordPartKind::Shadows || x.kind == RecordPartKind::Measured ||
               x.kind == RecordPartKind::Sweep || x.kind == RecordPartKind::Beside;
      }))
    return fail("There is nothing to record: no study, no rule laid, no shadow plan, nothing measured, no sweep.");
  std::optional<ReadRecord> was;
  if (!earlier.empty()) {
    auto read = readRecord(earlier);
    if (!read) return tl::unexpected(read.error());
    was = std::move(*read);
  }
  const bool proposal = out.proposal();
  for (const RecordPart& part : out.parts) {
    if (part.kind == RecordPartKind::Shadows) {
      if (out.shadow(part)) continue;
      ShadowChapter chapter{part.shadows, {}, ""};
      if (auto plan = recordShadows(p, part.shadows, control))
        chapter.plan = std::move(*plan);
      else
        chapter.fault = plan.error().text();
      out.shadows.push_back(std::move(chapter));
      if (control.wish == Wish::Drop) return fail("The record was dropped.");
    }
    if (part.kind == RecordPartKind::Measured && !out.measuredOf(part)) {
      const auto& series = *std::find_if(p.measured.begin(), p.measured.end(),
                                         [&](const MeasuredSeries& s) { return s.id.text() == part.of; });
      out.measured.push_back(measuredChapter(p, series, guidelines, control));
      if (control.wish == Wish::Drop) return fail("The record was dropped.");
    }
    if (part.kind == RecordPartKind::Sweep && !out.sweepOf(part)) {
      const Sweep& sweep =
          *std::find_if(p.sweeps.begin(), p.sweeps.end(), [&](const Sweep& s) { return s.id.text() == part.of; });
      out.sweeps.push_back(sweepChapter(p, sweep, shelf, runner, control));
    }
    if (part.kind == RecordPartKind::Beside && !out.beside) out.beside = besideChapter(p, shelf, runner, control);
    if (control.wish == Wish::Drop) return fail("The record was dropped.");
    if (part.kind != RecordPartKind::Study || out.year(part) || out.field(part)) continue;
    const Study& study =
        *std::find_if(p.studies.begin(), p.studies.end(), [&](const Study& s) { return s.id.text() == part.of; });
    if (study.kind == StudyKind::Year) {
      auto year = yearChapter(p, study, shelf, runner, control);
      if (!year) return tl::unexpected(year.error());
      out.years.push_back(std::move(*year));
    } else {
      out.fields.push_back(fieldChapter(p, study, proposal, runner, control));
    }
    if (control.wish == Wish::Drop) return fail("The record was dropped.");
  }
  std::optional<Scene> scene;
  for (const RecordPart& part : out.parts) {
    if (part.kind != RecordPartKind::Verdict || out.verdict(part)) continue;
    VerdictChapter chapter;
    chapter.judgement = *std::find_if(p.judgements.begin(), p.judgements.end(),
                                      [&](const Judgement& j) { return j.id.text() == part.of; });
    const Yardstick* y = shelf.find(chapter.judgement.yardstick);
    if (!y)
      return fail(fmt::format("The rule \"{}\" is laid, but its file is not there.", chapter.judgement.yardstick));
    chapter.yardstick = *y;
    chapter.verdict = recordVerdict(p, *y, chapter.judgement, out.years, runner, control);
    if (!ofYear(y->measure) && chapter.verdict.outcome != Outcome3::NotJudged)
      chapter.readings = runner.readings(p, *y, chapter.judgement, control);
    if (control.wish == Wish::Drop) return fail("The record was dropped.");
    chapter.worst = worstOf(p, chapter.verdict, scene);
    out.verdicts.push_back(std::move(chapter));
  }
  gatherFindings(out);
  out.defaults = defaultsOf(out);
  const Instant now{std::chrono::duration<double>(std::chrono::system_clock::now().time_since_epoch()).count()};
  out.made = isoText(now, 0);
  if (was) out.changes = recordChanges(*was, recordClaims(out), comparedText(p));
  return out;
}

std::string FileNames::operator()(const std::string& name) {
  std::string slug;
  for (const char c : name) {
    const auto code = static_cast<unsigned char>(c);
    const bool plain = code < 128 && (std::isalnum(code) || (c == '.' && !slug.empty()));
    if (plain)
      slug += char(std::tolower(static_cast<unsigned char>(c)));
    else if (!slug.empty() && slug.back() != '-')
      slug += '-';
  }
  while (!slug.empty() && (slug.back() == '-' || slug.back() == '.')) slug.pop_back();
  if (slug.empty()) slug = "study";
  if (slug.size() > 60) slug.resize(60);
  const int n = ++taken_[slug];
  return n == 1 ? slug : fmt::format("{}-{}", slug, n);
}

std::vector<FinishLine> finishLines(const Project& p) {
  std::vector<FinishLine> out;
  const auto model = lightModel(p);
  if (!model) return out;
  std::map<std::string, FinishLine> lines;
  for (const SurfaceEntry& s : surfaces(p)) {
    const SurfaceAnswer answer = finishFor(p, s.question);
    FinishLine& line = lines[answer.name];
    line.name = answer.name;
    line.area += s.area;
    line.isDefault |= answer.isDefault;
  }
  for (auto& [name, line] : lines) {
    if (const Finish* f = findFinish(model->finishes, name)) {
      line.value = fmt::format("reflectance {:.0f} %{}", 100 * f->reflectance,
                               f->specular > 0 ? fmt::format(", {:.0f} % of it mirrored", 100 * f->specular) : "");
      line.source = f->source;
    } else if (const Glazing* g = findGlazing(model->glazings, name)) {
      line.value =
          fmt::format("transmittance {:.0f} %, {} pane{}, frame {:.0f} %, dirt {:.0f} %", 100 * g->transmittance,
                      g->panes, g->panes == 1 ? "" : "s", 100 * g->frame, 100 * g->dirt);
      line.source = g->source;
    } else {
      continue;
    }
    out.push_back(line);
  }
  std::stable_sort(out.begin(), out.end(), [](const FinishLine& a, const FinishLine& b) { return a.area > b.area; });
  return out;
}

} // namespace noonward
