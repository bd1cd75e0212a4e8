#include "core/studies/energy_months.h"
#include "core/sky/weather.h"
#include <algorithm>

namespace noonward {

namespace {

/// The month of each hour's middle by the site's clock, in the project's year.
std::vector<int> monthsOfHours(const Project& p) {
  std::vector<int> out(8760);
  for (int m = 1; m <= 12; ++m) {
    Season s;
    s.fromMonth = s.toMonth = m;
    s.fromDay = 1;
    s.toDay = 31;
    const std::vector<bool> in = hoursOfSeason(p, s);
    for (std::size_t h = 0; h < in.size(); ++h)
      if (in[h]) out[h] = m;
  }
  return out;
}

/// These sensors alone, each in its group.
SensorSet chosenOf(const SensorSet& all, const std::vector<std::size_t>& sensors) {
  SensorSet out;
  for (std::size_t k = 0; k < all.groups.size(); ++k) {
    const SensorGridFacts& was = all.groups[k];
    SensorGridFacts g = was;
    g.first = out.sensors.size();
    g.cells.clear();
    g.sizes.clear();
    g.pointNames.clear();
    for (std::size_t i : sensors) {
      if (i < was.first || i >= was.first + was.count) continue;
      const std::size_t in = i - was.first;
      out.sensors.push_back(all.sensors[i]);
      if (!was.cells.empty()) g.cells.push_back(was.cells[in]);
      if (!was.sizes.empty()) g.sizes.push_back(was.sizes[in]);
      if (!was.pointNames.empty()) g.pointNames.push_back(was.pointNames[in]);
    }
    g.count = out.sensors.size() - g.first;
    out.groups.push_back(std::move(g));
  }
  return out;
}

LightResult nothing(const LightInput& in) {
  LightResult r;
  r.kind = in.kind;
  r.unit = in.unit;
  const std::size_t n = in.sensors.sensors.size();
  for (auto* v : {&r.value, &r.standardError, &r.direct, &r.sky, &r.reflected}) v->assign(n, 0);
  r.samples.assign(n, 0);
  return r;
}

} // namespace

Expected<std::vector<EnergyMonth>> irradiationByMonth(const Project& p, const Study& study, LightInput in,
                                                      const std::vector<std::size_t>& sensors, RunControl& control,
                                                      Threads threads) {
  if (study.kind != StudyKind::Irradiation || !in.radiant || in.radiant->hours() == 0 || !p.site.weather ||
      !p.site.weather->whole())
    return fail("Months lie behind an irradiation over the hours of a weather year alone.");
  if (!sensors.empty()) {
    in.sensors = chosenOf(in.sensors, sensors);
    require(in.sensors.sensors.size() == sensors.size(), "irradiationByMonth: sensors of the study");
  }
  in.unit = "kWh/m²";
  in.days = 1;
  const std::vector<bool> season = hoursOfSeason(p, study.light.season);
  const std::vector<int> month = monthsOfHours(p);
  std::vector<EnergyMonth> out;
  for (int m = 1; m <= 12 && control.goesOn(); ++m) {
    std::vector<bool> hours(season.size());
    for (std::size_t h = 0; h < hours.size(); ++h) hours[h] = season[h] && month[h] == m;
    EnergyMonth one{m, std::size_t(std::count(hours.begin(), hours.end(), true)), {}};
    if (one.hours == 0) continue;
    auto sky = RadiantSky::ofHours(*p.site.weather, hours, p.site.northAngle, p.site.year);
    if (!sky) return tl::unexpected(sky.error());
    if (sky->horizontal() > 0 || sky->beam() > 0) {
      in.radiant = std::make_shared<const RadiantSky>(std::move(*sky));
      one.result = runLight(in, control, threads);
    } else {
      one.result = nothing(in); // the polar night
    }
    out.push_back(std::move(one));
  }
  return out;
}

} // namespace noonward
