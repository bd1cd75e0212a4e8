#include "core/runs/beside.h"
#include "core/files/project/design_json.h"
#include "core/files/results/tables.h"
#include "core/model/settings/study_fields.h"
#include "core/runs/sweep/sweep_points.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <set>

namespace noonward {

namespace {

Expected<const Sweep*> sweepNamed(const Project& p, const std::string& name) {
  for (const Sweep& s : p.sweeps)
    if (s.id.text() == name || s.name == name) return &s;
  return fail(fmt::format("The project has no sweep \"{}\".", name));
}

Expected<std::size_t> optionOf(const Project& p, const std::string& text) {
  for (std::size_t k = 0; k < p.options.size(); ++k)
    if (p.options[k].id.text() == text) return k;
  if (const auto at = optionNamed(p, text)) return *at;
  return fail(fmt::format("The project has no option \"{}\".", text));
}

/// What is asked of every design: outcomes of a sweep that varies nothing, and where each is told.
struct Asked {
  Sweep sweep;
  std::vector<BesideFigure> rows; ///< by outcome
  std::vector<const Judgement*> rules;
};

const char* yearWords(std::string_view key) {
  return key == "sda" ? "sDA" : key == "ase" ? "ASE" : "mean";
}

void askOf(Asked& asked, const Study& s, const std::vector<Project>& designs) {
  const auto put = [&](const std::string& space, const char* figure, const char* words, std::string unit) {
    SweepOutcome o;
    o.name = fmt::format("f{}", asked.rows.size());
    o.of = SweepOutcome::Of::Study;
    o.source = s.id.text();
    o.figure = figure;
    o.group = space;
    asked.sweep.outcomes.push_back(std::move(o));
    asked.rows.push_back({s.name, space, words, std::move(unit), {}});
  };
  // Spaces of all designs, each once, in the order in which they come.
  std::vector<std::string> spaces;
  if (s.kind == StudyKind::Energy) {
    for (const Project& d : designs)
      for (const Room& r : d.rooms)
        if (std::find(spaces.begin(), spaces.end(), r.name) == spaces.end()) spaces.push_back(r.name);
  } else {
    for (const Project& d : designs)
      if (const auto sensors = layOutSensors(d, groupsTaken(d, s.groups, s.kind == StudyKind::Glare)))
        for (const SensorGridFacts& g : sensors->groups)
          if (g.count > 0 && std::find(spaces.begin(), spaces.end(), g.name) == spaces.end()) spaces.push_back(g.name);
  }
  std::vector<std::string> where{""};
  if (spaces.size() > 1) where.insert(where.end(), spaces.begin(), spaces.end());
  const std::string unit =
      s.kind == StudyKind::Energy ? "kWh/m²" : std::string(s.kind == StudyKind::SunHours ? "h" : factsOf(s.kind).unit);
  for (const std::string& space : where) {
    switch (s.kind) {
    case StudyKind::Year:
      for (const auto& [key, own] : {std::pair{"sda", "%"}, {"ase", "%"}, {"mean", "lx"}})
        put(space, key, yearWords(key), own);
      break;
    case StudyKind::Energy:
      for (const char* key : {"heating", "cooling", "lighting", "demand"}) put(space, key, key, unit);
      break;
    case StudyKind::Glare:
      put(space, "max", "glare, worst", unit);
      put(space, "mean", "glare, mean", unit);
      break;
    default:
      put(space, "mean", "mean", unit);
    }
  }
}

Expected<std::vector<const Study*>> studiesAsked(const Project& p, const std::string& study) {
  std::vector<const Study*> out;
  if (!study.empty() && study != "*") {
    for (const Study& s : p.studies)
      if (out.empty() && (s.id.text() == study || s.name == study)) out.push_back(&s);
    if (out.empty()) return fail(fmt::format("The project has no study \"{}\".", study));
    return out;
  }
  for (const Study& s : p.studies)
    if (study == "*" || s.kind == StudyKind::Year || s.kind == StudyKind::Glare || s.kind == StudyKind::Energy)
      out.push_back(&s);
  if (out.empty())
    for (const Study& s : p.studies) out.push_back(&s);
  if (out.empty()) return fail("The project has no study: add one in Studies.");
  return out;
}

/// Designs with their years from as many rays each.
void equalRounds(std::vector<Project>& designs, const Study& study, StudyRunner& runner, RunControl& control) {
  if (study.year.stopFor == StopFor::Nothing || designs.size() < 2) return;
  std::set<int> rounds;
  for (const Project& d : designs) {
    if (!control.goesOn()) return;
    for (const Study& s : d.studies)
      if (s.id == study.id)
        if (const auto year = runner.year(d, s.groups, s.year, control, s.name)) rounds.insert(year->result->rounds);
  }
  if (rounds.size() < 2) return;
  for (Project& d : designs)
    for (Study& s : d.studies)
      if (s.id == study.id) s.year.stopFor = StopFor::Nothing;
}

SweepFigure verdictFigure(const Verdict& v) {
  SweepFigure f;
  if (v.outcome == Outcome3::NotJudged)
    f.fault = v.text;
  else
    f.value = std::isnan(v.points) ? v.figure : v.points;
  return f;
}

} // namespace

Expected<Project> designOf(const Project& p, const DesignRef& ref) {
  if (!ref.sweep.empty()) {
    const auto sweep = sweepNamed(p, ref.sweep);
    if (!sweep) return tl::unexpected(sweep.error());
    const auto variation = Variation::of(p, **sweep);
    if (!variation) return tl::unexpected(variation.error());
    VaryPoint point;
    for (const Variable& v : (*sweep)->variables) {
      const auto at =
          std::find_if(ref.values.begin(), ref.values.end(), [&](const auto& x) { return x.first == v.name; });
      if (at == ref.values.end())
        return fail(fmt::format("The design says no value of {}, which \"{}\" varies.", v.name, (*sweep)->name));
      point.push_back(at->second);
    }
    for (const auto& [name, value] : ref.values)
      if (std::none_of((*sweep)->variables.begin(), (*sweep)->variables.end(),
                       [&](const Variable& v) { return v.name == name; }))
        return fail(fmt::format("\"{}\" does not vary {}.", (*sweep)->name, name));
    return variation->at(point);
  }
  if (ref.option.empty()) return p;
  const auto option = optionOf(p, ref.option);
  if (!option) return tl::unexpected(option.error());
  return withOption(p, *option);
}

std::string designName(const Project& p, const DesignRef& ref) {
  if (!ref.name.empty()) return ref.name;
  if (!ref.sweep.empty()) {
    const auto sweep = sweepNamed(p, ref.sweep);
    std::string values;
    for (const auto& [name, value] : ref.values)
      values += fmt::format("{}{} {}", values.empty() ? "" : ", ", name, valueText(value));
    return sweep ? (*sweep)->name + ": " + values : values;
  }
  if (ref.option.empty()) return p.options.empty() ? p.name : p.options[p.option].name;
  const auto option = optionOf(p, ref.option);
  return option ? p.options[*option].name : ref.option;
}

std::vector<DesignRef> designsBeside(const Project& p) {
  if (!p.beside.empty()) return p.beside;
  std::vector<DesignRef> out;
  for (const Option& o : p.options) {
    DesignRef ref;
    ref.option = o.id.text();
    out.push_back(std::move(ref));
  }
  if (out.empty()) out.emplace_back();
  return out;
}

DesignRef refOfRun(const Sweep& sweep, const VaryPoint& values) {
  DesignRef out;
  out.sweep = sweep.id.text();
  for (std::size_t k = 0; k < values.size(); ++k) out.values.emplace_back(sweep.variables[k].name, values[k]);
  return out;
}

Expected<DesignRef> designRefFromText(const Project& p, const std::string& text) {
  DesignRef out;
  if (const auto option = optionNamed(p, text)) {
    out.option = p.options[*option].id.text();
    return out;
  }
  const auto colon = text.rfind(':');
  const auto digits = colon == text.npos ? std::string() : text.substr(colon + 1);
  if (digits.empty() || digits.size() > 9 || digits.find_first_not_of("0123456789") != digits.npos)
    return fail(fmt::format("The project has no option \"{}\"; runs of a sweep are written as NAME:12.", text));
  const auto sweep = sweepNamed(p, text.substr(0, colon));
  if (!sweep) return tl::unexpected(sweep.error());
  const auto variation = Variation::of(p, **sweep);
  if (!variation) return tl::unexpected(variation.error());
  const auto points = sweepPoints(*variation);
  if (!points) return tl::unexpected(points.error());
  const std::size_t run = std::stoul(digits);
  if (run < 1 || run > points->points.size())
    return fail(fmt::format("\"{}\" has no run {}; there are {}.", (*sweep)->name, run, points->points.size()));
  return refOfRun(**sweep, points->values(*variation, run - 1));
}

double BesideFigure::moved(std::size_t k) const {
  return of[k].value - of[0].value;
}
double BesideFigure::error(std::size_t k) const {
  return k == 0 ? 0 : std::hypot(of[k].error, of[0].error);
}
bool BesideFigure::sure(std::size_t k) const {
  return std::abs(moved(k)) > 2 * error(k) + 1e-9;
}

Expected<Beside> laidBeside(const Project& p, const std::vector<DesignRef>& refs, const std::string& study,
                            const YardstickShelf& shelf, StudyRunner& runner, RunControl& control) {
  if (refs.empty()) return fail("No design is named that could be laid beside others.");
  const auto studies = studiesAsked(p, study);
  if (!studies) return tl::unexpected(studies.error());
  Beside out;
  out.refs = refs;
  std::vector<Project> designs;
  for (const DesignRef& ref : refs) {
    BesideDesign d;
    d.name = designName(p, ref);
    auto made = designOf(p, ref);
    if (made) {
      d.project = *made;
      designs.push_back(std::move(*made));
    } else {
      d.fault = made.error().text();
    }
    out.designs.push_back(std::move(d));
  }
  if (designs.empty()) return fail(out.designs.front().name + ": " + out.designs.front().fault);
  for (std::size_t k = 1; k < out.designs.size(); ++k)
    if (out.designs[0].fault.empty() && out.designs[k].fault.empty()) {
      out.designs[k].inputs = designDifferences(out.designs[0].project, out.designs[k].project);
      for (const Study* s : *studies) {
        const auto fields = [&](const Project& of) {
          Json j;
          for (const Study& x : of.studies)
            if (x.id == s->id) writeStudyFields(j, x);
          return j;
        };
        const Json a = fields(out.designs[0].project), b = fields(out.designs[k].project);
        for (const JsonChange& c : differences(a, b))
          out.designs[k].inputs.push_back("studies · " + s->name + " · " + changeText(c, a, b));
      }
    }
  for (const Study* s : *studies) {
    if (!out.mapped || (s->kind == StudyKind::Year && out.mapped->kind != StudyKind::Year)) out.mapped = *s;
    if (s->kind == StudyKind::Year) equalRounds(designs, *s, runner, control);
  }
  Asked asked;
  for (const Study* s : *studies) askOf(asked, *s, designs);
  if (study.empty() || study == "*")
    for (const Judgement& j : p.judgements)
      if (const Yardstick* y = shelf.find(j.yardstick); y && (study == "*" || ofYear(y->measure)))
        asked.rules.push_back(&j);
  out.figures = asked.rows;
  for (const Judgement* j : asked.rules) out.figures.push_back({shelf.find(j->yardstick)->title, "", "", "", {}});
  for (const ModelFigure& m : modelFigures) {
    SweepOutcome o;
    o.name = m.key;
    o.figure = m.key;
    asked.sweep.outcomes.push_back(o);
    std::string words = m.key; // "glass-area"
    std::replace(words.begin(), words.end(), '-', ' ');
    out.figures.push_back({"Model", "", std::move(words), m.unit, {}});
  }
  std::size_t at = 0;
  const auto none = [&](const std::string& why) {
    SweepFigure f;
    f.fault = why;
    for (BesideFigure& row : out.figures) row.of.push_back(f);
  };
  for (BesideDesign& d : out.designs) {
    if (!d.fault.empty() || !control.goesOn()) {
      none(d.fault.empty() ? "The run was stopped before it." : d.fault);
      continue;
    }
    const std::size_t k = at++;
    RunControl own;
    own.wish = control.wish.load();
    own.progress = [&, k](double share) {
      own.wish = control.wish.load();
      if (control.progress) control.progress((double(k) + share) / double(designs.size()));
    };
    d.project = designs[k]; // with as many rays as the others
    const std::vector<SweepFigure> of = figuresOf(d.project, asked.sweep, shelf, runner, own);
    std::vector<Verdict> verdicts;
    for (const Judgement* j : asked.rules)
      verdicts.push_back(runner.judgement(d.project, *shelf.find(j->yardstick), *j, own));
    if (!control.goesOn()) { // what was stopped in the middle has no figures
      none("The run was stopped in it.");
      continue;
    }
    std::size_t row = 0;
    for (std::size_t f = 0; f < asked.rows.size(); ++f) out.figures[row++].of.push_back(of[f]);
    for (const Verdict& v : verdicts) {
      if (v.outcome != Outcome3::NotJudged && out.figures[row].figure.empty()) {
        out.figures[row].figure = std::isnan(v.points) ? "figure" : "points";
        out.figures[row].unit = std::isnan(v.points) ? v.unit : "";
      }
      out.figures[row++].of.push_back(verdictFigure(v));
    }
    for (std::size_t m = 0; m < modelFigures.size(); ++m) out.figures[row++].of.push_back(of[asked.rows.size() + m]);
    for (const Study& s : d.project.studies) {
      if (s.id != out.mapped->id) continue;
      if (s.kind == StudyKind::Year) {
        if (auto year = runner.year(d.project, s.groups, s.year, own, s.name)) d.year = std::move(*year);
      } else {
        Project si = d.project;
        si.units = {};
        if (auto field = runner.field(si, s, false, {}, own))
          d.field = std::make_shared<const SensorField>(std::move(*field));
      }
    }
  }
  if (control.wish == Wish::Drop) return fail("Laying them beside each other was dropped.");
  out.end = control.end(control.goesOn());
  // A figure of the model that no design has, or that is nothing in all, tells nothing; nor does a space without one.
  std::erase_if(out.figures, [](const BesideFigure& f) {
    return std::all_of(f.of.begin(), f.of.end(), [&](const SweepFigure& x) {
      return f.study == "Model" ? !(std::abs(x.value) > 0) : std::isnan(x.value) && !f.space.empty();
    });
  });
  std::stable_partition(out.figures.begin(), out.figures.end(), [](const BesideFigure& f) { return f.space.empty(); });
  if (control.progress) control.progress(1);
  return out;
}

namespace {
std::vector<std::string> besideHead(const Beside& b) {
  std::vector<std::string> head{"study", "space", "figure", "unit"};
  for (std::size_t k = 0; k < b.designs.size(); ++k) {
    head.push_back(b.designs[k].name);
    head.push_back(b.designs[k].name + ", standard error");
    if (k == 0) continue;
    head.push_back(b.designs[k].name + ", moved");
    head.push_back(b.designs[k].name + ", error of that");
  }
  return head;
}
std::vector<double> besideCells(const BesideFigure& f) {
  std::vector<double> out;
  for (std::size_t k = 0; k < f.of.size(); ++k) {
    const bool known = std::isfinite(f.of[k].value);
    out.push_back(f.of[k].value);
    out.push_back(known ? f.of[k].error : NAN);
    if (k == 0) continue;
    out.push_back(f.moved(k));
    out.push_back(std::isfinite(f.moved(k)) ? f.error(k) : NAN);
  }
  return out;
}
} // namespace

std::string besideCsv(const Beside& b) {
  std::string out;
  for (const std::string& h : besideHead(b)) out += (out.empty() ? "" : ",") + csvField(h);
  out += "\n";
  for (const BesideFigure& f : b.figures) {
    out += fmt::format("{},{},{},{}", csvField(f.study), csvField(f.space), csvField(f.figure), csvField(f.unit));
    for (const double v : besideCells(f)) out += std::isfinite(v) ? fmt::format(",{:.6g}", v) : ",";
    out += "\n";
  }
  return out;
}

WorkSheet besideSheet(const Beside& b, std::string name) {
  WorkSheet out{std::move(name), besideHead(b), {}};
  for (const BesideFigure& f : b.figures) {
    out.rows.push_back({f.study, f.space, f.figure, f.unit});
    for (const double v : besideCells(f)) out.rows.back().push_back(v);
  }
  return out;
}

Outcome besideWorkbook(const Beside& b, const std::filesystem::path& file) {
  WorkSheet inputs{"Inputs", {"design", "differs from the first"}, {}};
  for (const BesideDesign& d : b.designs) {
    if (!d.fault.empty()) inputs.rows.push_back({d.name, d.fault});
    for (const std::string& t : d.inputs) inputs.rows.push_back({d.name, t});
  }
  return writeWorkbook(file, {besideSheet(b, "Beside each other"), inputs}, "Designs beside each other");
}

std::vector<float> differenceMap(const SensorSet& a, const std::vector<float>& values, const SensorSet& b,
                                 const std::vector<float>& other) {
  const auto key = [](Vec3 p) {
    return std::array<long, 3>{std::lround(p.x * 100), std::lround(p.y * 100), std::lround(p.z * 100)};
  };
  std::map<std::array<long, 3>, float> at;
  for (std::size_t i = 0; i < a.sensors.size() && i < values.size(); ++i) at[key(a.sensors[i].position)] = values[i];
  std::vector<float> out(b.sensors.size(), std::nanf(""));
  for (std::size_t i = 0; i < b.sensors.size() && i < other.size(); ++i) {
    const auto k = key(b.sensors[i].position);
    // A neighbouring cell of the rounding may hold it.
    for (long dx = -1; dx <= 1 && std::isnan(out[i]); ++dx)
      for (long dy = -1; dy <= 1 && std::isnan(out[i]); ++dy)
        if (const auto found = at.find({k[0] + dx, k[1] + dy, k[2]}); found != at.end())
          out[i] = other[i] - found->second;
  }
  return out;
}

} // namespace noonward
