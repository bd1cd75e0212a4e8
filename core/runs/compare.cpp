#include "core/runs/compare.h"
#include "core/files/project/design_json.h"
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
