#include "core/runs/sweep/sweep_outcomes.h"
#include "core/model/form/edit.h"
#include "core/model/light_model.h"
#include "core/studies/energy/energy_reading.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace noonward {

const std::array<ModelFigure, 7> modelFigures{{{"floor-area", "m²", "floor of the rooms that count"},
                                               {"volume", "m³", "clear volume of all rooms"},
                                               {"glass-area", "m²", "panes of all windows and rooflights"},
                                               {"shading-area", "m²", "planes of all shading parts, one side"},
                                               {"mass-volume", "m³", "solid volume of the proposed masses"},
                                               {"footprint", "m²", "ground that the proposed masses stand on"},
                                               {"height", "m", "highest point of what is proposed"}}};

namespace {

const Study* studyOf(const Project& p, const std::string& source) {
  for (const Study& s : p.studies)
    if (s.name == source || s.id.text() == source) return &s;
  return nullptr;
}
const Judgement* judgementOf(const Project& p, const std::string& source) {
  for (const Judgement& j : p.judgements)
    if (j.yardstick == source || j.id.text() == source) return &j;
  return nullptr;
}

struct YearFigure {
  const char *key, *unit;
};
constexpr YearFigure yearFigures[] = {{"sda", "%"},    {"ase", "%"},        {"mean", "lx"},   {"median", "lx"},
                                      {"useful", "%"}, {"too-bright", "%"}, {"too-dark", "%"}};
constexpr const char* fieldFigures[] = {"mean", "min", "max", "share"};
constexpr const char* energyFigures[] = {"heating", "cooling", "lighting", "demand"};
constexpr YearFigure ruleFigures[] = {{"figure", ""}, {"points", ""}, {"meets", ""}, {"certainty", "%"}};

template <class List> std::string listed(const List& list) {
  std::string out;
  for (const auto& x : list) {
    const char* key;
    if constexpr (std::is_convertible_v<decltype(x), const char*>)
      key = x;
    else
      key = x.key;
    out += (out.empty() ? "" : ", ") + std::string(key);
  }
  return out;
}

SweepFigure ofModel(const Project& p, const std::string& figure) {
  SweepFigure out;
  out.value = 0;
  if (figure == "floor-area" || figure == "volume" || figure == "glass-area") {
    for (const RoomFacts& r : roomFacts(p))
      out.value += figure == "volume" ? r.volume : figure == "glass-area" ? r.allWindows() : (r.counted ? r.area : 0);
    return out;
  }
  if (figure == "shading-area") {
    const LightModel model = derivedModel(p);
    for (const LightPart& part : model.parts)
      if (part.source == SurfaceSource::ShadeRule) out.value += surfaceArea(*part.mesh);
    return out;
  }
  double top = 0;
  for (const ElementPtr& e : p.elements) {
    if (!e->proposed) continue;
    if (const Mass* m = e->mass()) {
      if (figure == "footprint") out.value += area(m->outline);
      if (const auto mesh = figure == "mass-volume" ? elementMesh(*e) : Expected<MeshPtr>(nullptr); mesh && *mesh)
        out.value += volume(**mesh);
    }
    top = std::max(top, boxOf(*e).high.z);
  }
  if (figure == "height") out.value = top;
  return out;
}

SweepFigure ofYear(const YearAnswered& year, const SweepOutcome& o) {
  SweepFigure out;
  const YearResult& r = *year.result;
  const SpaceYear* space = &r.building;
  double sdaError = r.buildingSdaError, meanError = 0;
  if (o.group.empty()) {
    double all = 0;
    for (std::size_t k = 0; k < r.spaces.size(); ++k)
      if (year.facts.counted[k] && year.facts.sensors.groups[k].count > 0) {
        meanError += std::pow(year.facts.areas[k] * r.meanError[k], 2);
        all += year.facts.areas[k];
      }
    meanError = all > 0 ? std::sqrt(meanError) / all : 0;
  } else {
    std::size_t k = 0;
    while (k < r.spaces.size() && year.facts.sensors.groups[k].name != o.group) ++k;
    if (k == r.spaces.size()) {
      out.fault = fmt::format("The study has no room \"{}\".", o.group);
      return out;
    }
    space = &r.spaces[k];
    sdaError = r.sdaError[k];
    meanError = r.meanError[k];
  }
  const std::string& f = o.figure;
  if (f == "sda") {
    out.value = 100 * space->sda;
    out.error = 100 * sdaError;
  } else if (f == "ase") {
    out.value = 100 * space->ase;
  } else if (f == "mean" || f == "median") {
    out.value = f == "mean" ? space->meanLux : space->medianLux;
    out.error = meanError;
  } else if (f == "useful") {
    out.value = 100 * space->useful[2];
  } else if (f == "too-bright") {
    out.value = 100 * space->useful[3];
  } else {
    out.value = 100 * (space->useful[0] + space->useful[1]);
  }
  return out;
}

SweepFigure ofField(const SensorField& field, const SweepOutcome& o) {
  SweepFigure out;
  if (field.light && field.light->energy) {
    const EnergyYear& year = *field.light->energy;
    std::optional<EnergyRoom> room;
    if (o.group.empty())
      room = allRooms(year);
    else
      for (const EnergyRoom& r : year.rooms)
        if (r.name == o.group) room = r;
    if (!room) {
      out.fault = fmt::format("The study has no room \"{}\".", o.group);
      return out;
    }
    const EnergyParts parts = room->year();
    const double floor = std::max(1e-9, room->floorArea), heating = parts.heating / floor,
                 cooling = -parts.cooling / floor, lighting = parts.lighting / floor;
    out.value = o.figure == "heating"    ? heating
                : o.figure == "cooling"  ? cooling
                : o.figure == "lighting" ? lighting
                                         : heating + cooling + lighting;
    out.error = (o.figure == "lighting" ? room->lightingError : room->demandError()) / floor;
    return out;
  }
  const double least = usualThreshold(field.kind()) * field.scale.perSi;
  double area = 0, sum = 0, variance = 0, share = 0, low = INFINITY, high = -INFINITY, lowError = 0, highError = 0;
  bool met = false;
  for (const SensorGridFacts& g : field.sensors.groups) {
    if (!o.group.empty() && g.name != o.group) continue;
    met = true;
    for (std::size_t i = g.first; i < g.first + g.count && i < field.values().size(); ++i) {
      const double v = double(field.values()[i]);
      if (std::isnan(v)) continue;
      const double a = field.sensors.areaOf(i), e = field.light ? double(field.light->standardError[i]) : 0;
      area += a;
      sum += a * v;
      variance += a * a * e * e;
      share += v >= least - 1e-9 ? a : 0;
      if (v < low) {
        low = v;
        lowError = e;
      }
      if (v > high) {
        high = v;
        highError = e;
      }
    }
  }
  if (!met || !(area > 0)) {
    out.fault = o.group.empty() ? "The study has no sensors." : fmt::format("The study has no group \"{}\".", o.group);
    return out;
  }
  if (o.figure == "share") {
    out.value = 100 * share / area;
  } else if (o.figure == "min") {
    out.value = low;
    out.error = lowError;
  } else if (o.figure == "max") {
    out.value = high;
    out.error = highError;
  } else {
    out.value = sum / area;
    out.error = std::sqrt(variance) / area;
  }
  return out;
}

SweepFigure ofVerdict(const Verdict& v, const std::string& figure) {
  SweepFigure out;
  if (v.outcome == Outcome3::NotJudged) {
    out.fault = v.text;
    return out;
  }
  out.value = figure == "points"      ? v.points
              : figure == "meets"     ? double(v.outcome == Outcome3::Meets)
              : figure == "certainty" ? 100 * (std::isnan(v.certainty) ? 1 : v.certainty)
                                      : v.figure;
  if (std::isnan(out.value)) out.fault = fmt::format("{} has no {}.", v.title, figure);
  return out;
}

/// Does a list know the figure? The unit, or an error that lists what is known.
template <class List> Expected<std::string> known(const List& list, const SweepOutcome& o) {
  for (const auto& x : list)
    if (o.figure == x.key) return std::string(x.unit);
  return fail(fmt::format("{}: \"{}\" is none of {}.", o.name, o.figure, listed(list)));
}

Expected<std::string> unitOfOutcome(const Project& p, const SweepOutcome& o, const YardstickShelf& shelf) {
  if (o.of == SweepOutcome::Of::Model) return known(modelFigures, o);
  if (o.of == SweepOutcome::Of::Rule) {
    const Judgement* j = judgementOf(p, o.source);
    if (!j) return fail(fmt::format("{}: the rule \"{}\" is not laid on the project.", o.name, o.source));
    const Yardstick* y = shelf.find(j->yardstick);
    if (!y) return fail(fmt::format("{}: the file of the rule \"{}\" is not there.", o.name, j->yardstick));
    return known(ruleFigures, o);
  }
  const Study* s = studyOf(p, o.source);
  if (!s) return fail(fmt::format("{}: the project has no study \"{}\".", o.name, o.source));
  if (s->kind == StudyKind::Year) return known(yearFigures, o);
  const auto in = [&](const auto& list) {
    return std::any_of(std::begin(list), std::end(list), [&](const char* key) { return o.figure == key; });
  };
  if (s->kind == StudyKind::Energy) {
    if (!in(energyFigures))
      return fail(fmt::format("{}: \"{}\" is none of {}.", o.name, o.figure, listed(energyFigures)));
    return std::string("kWh/m²");
  }
  if (!in(fieldFigures)) return fail(fmt::format("{}: \"{}\" is none of {}.", o.name, o.figure, listed(fieldFigures)));
  if (o.figure == "share") return std::string("%");
  return std::string(s->kind == StudyKind::SunHours ? "h" : factsOf(s->kind).unit);
}

} // namespace

Expected<std::vector<std::string>> outcomeUnits(const Project& p, const Sweep& sweep, const YardstickShelf& shelf) {
  if (sweep.outcomes.empty()) return fail("The sweep looks at nothing.", sweep.name);
  std::vector<std::string> out;
  std::set<std::string> names;
  for (const Variable& v : sweep.variables) names.insert(v.name);
  for (const SweepOutcome& o : sweep.outcomes) {
    if (!names.insert(o.name).second) return fail(fmt::format("Two columns are called \"{}\".", o.name), sweep.name);
    auto unit = unitOfOutcome(p, o, shelf);
    if (!unit) return tl::unexpected(unit.error());
    out.push_back(std::move(*unit));
  }
  for (const SweepGoal& g : sweep.goals)
    if (std::none_of(sweep.outcomes.begin(), sweep.outcomes.end(),
                     [&](const SweepOutcome& o) { return o.name == g.outcome; }))
      return fail(fmt::format("A goal is set for \"{}\", which the sweep does not look at.", g.outcome), sweep.name);
  return out;
}

std::vector<SweepFigure> figuresOf(const Project& p, const Sweep& sweep, const YardstickShelf& shelf,
                                   StudyRunner& runner, RunControl& control) {
  std::vector<SweepFigure> out;
  std::map<std::string, Expected<YearAnswered>> years;
  std::map<std::string, Expected<SensorField>> fields;
  std::map<std::string, Verdict> verdicts;
  const auto fault = [](std::string text) {
    SweepFigure f;
    f.fault = std::move(text);
    return f;
  };
  for (const SweepOutcome& o : sweep.outcomes) {
    if (control.wish == Wish::Drop) {
      out.push_back(fault("The run was dropped."));
      continue;
    }
    if (o.of == SweepOutcome::Of::Model) {
      out.push_back(ofModel(p, o.figure));
      continue;
    }
    if (o.of == SweepOutcome::Of::Rule) {
      const Judgement* j = judgementOf(p, o.source);
      const Yardstick* y = j ? shelf.find(j->yardstick) : nullptr;
      if (!y) {
        out.push_back(fault("The rule is not there."));
        continue;
      }
      auto at = verdicts.find(o.source);
      if (at == verdicts.end()) at = verdicts.emplace(o.source, runner.judgement(p, *y, *j, control)).first;
      out.push_back(ofVerdict(at->second, o.figure));
      continue;
    }
    const Study* s = studyOf(p, o.source);
    if (!s) {
      out.push_back(fault("The study is not there."));
    } else if (s->kind == StudyKind::Year) {
      auto at = years.find(o.source);
      if (at == years.end()) at = years.emplace(o.source, runner.year(p, s->groups, s->year, control, s->name)).first;
      out.push_back(at->second ? ofYear(*at->second, o) : fault(at->second.error().text()));
    } else {
      auto at = fields.find(o.source);
      if (at == fields.end()) {
        Project si = p;
        si.units = {};
        at = fields.emplace(o.source, runner.field(si, *s, false, {}, control)).first;
      }
      out.push_back(at->second ? ofField(*at->second, o) : fault(at->second.error().text()));
    }
  }
  return out;
}

Digest raysOf(const Project& p, const Sweep& sweep, const YardstickShelf& shelf) {
  Hasher h;
  for (const SweepOutcome& o : sweep.outcomes) {
    const Study* s = o.of == SweepOutcome::Of::Study ? studyOf(p, o.source) : nullptr;
    const Judgement* j = o.of == SweepOutcome::Of::Rule ? judgementOf(p, o.source) : nullptr;
    if (const Yardstick* y = j ? shelf.find(j->yardstick) : nullptr; y && ofYear(y->measure))
      s = yearStudyFor(p, j->groups);
    if (!s || s->kind != StudyKind::Year) continue;
    if (const auto facts = yearFacts(p, s->groups, s->year)) h.add(facts->rays);
  }
  return h.digest();
}

} // namespace noonward
