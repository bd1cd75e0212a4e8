#include "core/runs/compare.h"
#include "core/files/project/design_json.h"
#include "core/studies/energy/energy_reading.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace noonward {

YearComparison compareYears(const YearAnswered& a, const YearAnswered& b) {
  YearComparison out;
  const YearResult &x = *a.result, &y = *b.result;
  const auto put = [&](const std::string& space, const SpaceYear& p, const SpaceYear& q, double sda, double mean) {
    out.moves.push_back({space, "sDA", "%", 100 * p.sda, 100 * q.sda, 100 * sda});
    out.moves.push_back({space, "ASE", "%", 100 * p.ase, 100 * q.ase, 0});
    out.moves.push_back({space, "mean", "lx", p.meanLux, q.meanLux, mean});
  };
  const auto buildingMean = [](const YearFacts& f, const YearResult& r) {
    double variance = 0, all = 0;
    for (std::size_t k = 0; k < r.spaces.size(); ++k)
      if (f.counted[k] && f.sensors.groups[k].count > 0) {
        variance += std::pow(f.areas[k] * r.meanError[k], 2);
        all += f.areas[k];
      }
    return all > 0 ? std::sqrt(variance) / all : 0;
  };
  put("Building", x.building, y.building, std::hypot(x.buildingSdaError, y.buildingSdaError),
      std::hypot(buildingMean(a.facts, x), buildingMean(b.facts, y)));
  std::vector<bool> met(y.spaces.size(), false);
  for (std::size_t k = 0; k < x.spaces.size(); ++k) {
    bool found = false;
    for (std::size_t j = 0; j < y.spaces.size() && !found; ++j) {
      if (met[j] || (a.facts.rooms[k] ? a.facts.rooms[k] != b.facts.rooms[j]
                                      : a.facts.sensors.groups[k].name != b.facts.sensors.groups[j].name))
        continue;
      found = met[j] = true;
      put(b.facts.sensors.groups[j].name, x.spaces[k], y.spaces[j], std::hypot(x.sdaError[k], y.sdaError[j]),
          std::hypot(x.meanError[k], y.meanError[j]));
    }
    if (!found) out.onlyFrom.push_back(a.facts.sensors.groups[k].name);
  }
  for (std::size_t j = 0; j < met.size(); ++j)
    if (!met[j]) out.onlyTo.push_back(b.facts.sensors.groups[j].name);
  return out;
}

std::vector<FigureMove> compareFields(const Study& study, const SensorField& a, const SensorField& b) {
  std::vector<FigureMove> out;
  if (a.light && b.light && a.light->energy && b.light->energy) {
    const auto put = [&](const EnergyRoom& x, const EnergyRoom& y, const std::string& space) {
      const EnergyParts p = x.year(), q = y.year();
      const double from = std::max(1e-9, x.floorArea), to = std::max(1e-9, y.floorArea);
      const auto figure = [&](const char* name, double was, double is, double e, double f) {
        out.push_back({space, name, "kWh/m²", was / from, is / to, std::hypot(e / from, f / to)});
      };
      figure("heating", p.heating, q.heating, x.demandError(), y.demandError());
      figure("cooling", -p.cooling, -q.cooling, x.demandError(), y.demandError());
      figure("lighting", p.lighting, q.lighting, x.lightingError, y.lightingError);
    };
    const auto all = allRooms(*a.light->energy), other = allRooms(*b.light->energy);
    if (all && other) put(*all, *other, all->name);
    for (const EnergyRoom& x : a.light->energy->rooms)
      for (const EnergyRoom& y : b.light->energy->rooms)
        if (x.room == y.room) put(x, y, y.name);
    return out;
  }
  const bool glare = study.kind == StudyKind::Glare;
  for (const SensorGridFacts& x : a.sensors.groups)
    for (const SensorGridFacts& y : b.sensors.groups) {
      if (x.name != y.name || x.count == 0 || y.count == 0) continue;
      const auto mean = [&](const SensorField& f, const SensorGridFacts& g) {
        const std::vector<double> areas = f.sensors.areasOf(g.first, g.count);
        double sum = 0, all = 0, error = 0, worst = 0, worstError = 0;
        for (std::size_t i = 0; i < g.count; ++i) {
          const double v = double(f.values()[g.first + i]),
                       e = f.light ? double(f.light->standardError[g.first + i]) : 0;
          if (std::isnan(v)) continue;
          sum += areas[i] * v;
          all += areas[i];
          error += std::pow(areas[i] * e, 2);
          if (v >= worst) {
            worst = v;
            worstError = e;
          }
        }
        return std::array{all > 0 ? sum / all : 0, all > 0 ? std::sqrt(error) / all : 0, worst, worstError};
      };
      const auto p = mean(a, x), q = mean(b, y);
      const std::string unit = a.scale.unit;
      if (glare) out.push_back({y.name, "glare, worst", unit, p[2], q[2], std::hypot(p[3], q[3])});
      out.push_back({y.name, glare ? "glare, mean" : "mean", unit, p[0], q[0], std::hypot(p[1], q[1])});
      break;
    }
  return out;
}

Expected<OptionsFigures> figuresOfOptions(const Project& p, std::size_t from, std::size_t to, const Study* study,
                                          StudyRunner& runner, RunControl& control) {
  OptionsFigures out;
  std::vector<const Study*> wanted;
  const bool alone = study && study->kind != StudyKind::Year;
  for (const Study& s : p.studies) {
    if (alone ? s.id == study->id : s.kind == StudyKind::Glare || s.kind == StudyKind::Energy) wanted.push_back(&s);
    if (!alone && !study && s.kind == StudyKind::Year) study = &s;
  }
  if (!alone && study) {
    auto years = yearsOfOptions(p, from, to, *study, runner, control);
    if (!years) return tl::unexpected(years.error());
    out.moves = compareYears((*years)[0], (*years)[1]);
    out.years = std::move(*years);
  } else if (wanted.empty()) {
    return fail("The project has no daylight year, and no study of glare or energy: add one in Studies.");
  }
  for (const Study* s : wanted) {
    std::array<std::optional<SensorField>, 2> fields;
    for (std::size_t k = 0; k < 2; ++k) {
      const std::size_t option = k == 0 ? from : to;
      const Project design = withOption(p, option);
      auto field = runner.field(design, *s, false, std::nullopt, control);
      if (!field) return fail(p.options[option].name + ": " + s->name + ": " + field.error().text());
      fields[k] = inUnits(std::move(*field), DisplayUnits{});
    }
    for (FigureMove& m : compareFields(*s, *fields[0], *fields[1])) out.moves.moves.push_back(std::move(m));
  }
  // What is of the whole first, so that daylight, glare and energy are seen together.
  std::stable_partition(out.moves.moves.begin(), out.moves.moves.end(),
                        [](const FigureMove& m) { return m.space == "Building" || m.space == "All rooms"; });
  return out;
}

Expected<std::array<YearAnswered, 2>> yearsOfOptions(const Project& p, std::size_t from, std::size_t to,
                                                     const Study& study, StudyRunner& runner, RunControl& control) {
  std::array<YearAnswered, 2> out;
  YearSettings settings = study.year;
  for (int pass = 0; pass < 2; ++pass) {
    for (std::size_t k = 0; k < 2; ++k) {
      if (pass == 1 && out[k].result->rounds > 1) continue;
      const std::size_t option = k == 0 ? from : to;
      auto year = runner.year(withOption(p, option), study.groups, settings, control, study.name);
      if (!year) return fail(p.options[option].name + ": " + year.error().text());
      out[k] = std::move(*year);
    }
    if (out[0].result->rounds == out[1].result->rounds) break;
    settings.stopFor = StopFor::Nothing;
  }
  return out;
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
