#include "core/files/station/station_weather.h"
#include "core/files/epw.h"
#include "core/sky/weather_check.h"
#include <cmath>

namespace noonward {

Expected<StationWeather> stationWeather(const std::vector<std::filesystem::path>& files, const StationMap& map,
                                        const StationSite* site, RunControl& control) {
  StationMap asked = map;
  if (!asked.place && site == nullptr)
    return fail("Where the station stands is not known: say \"place\" in the map, or name a project.", "place");
  if (!asked.place) {
    asked.place = site->place;
    if (asked.name.empty()) asked.name = site->name;
  }
  std::optional<Weather> other;
  if (!asked.otherYear.empty()) {
    auto read = readEpw(asked.otherYear);
    if (!read) return tl::unexpected(read.error());
    if (!read->whole()) return fail("The other year's file has not all hours of a year.", asked.otherYear);
    other = std::move(*read);
  }
  auto read = readStations(files, asked, site != nullptr ? &site->zone : nullptr, control);
  if (!read) return tl::unexpected(read.error());
  if (read->end != RunEnd::Finished) return fail("Stopped.");
  MakingRules rules;
  rules.place = *asked.place;
  rules.name = asked.name;
  for (const std::filesystem::path& f : files)
    rules.source += (rules.source.empty() ? "" : " and ") + f.filename().string();
  rules.clock = clockWords(read->map);
  rules.year = asked.year;
  rules.split = asked.split;
  rules.gaps = asked.gaps;
  rules.other = other ? &*other : nullptr;
  auto made = makeWeather(read->means, read->kinds, rules);
  if (!made) return tl::unexpected(made.error());
  StationWeather out{std::move(*read), std::move(*made), {}};
  out.findings = out.read.findings;
  out.findings.insert(out.findings.end(), out.made.findings.begin(), out.made.findings.end());
  for (Finding& f : checkWeather(out.made.weather).findings)
    if (f.code != "weather.missing" || out.made.hours[std::size_t(HourOrigin::Missing)] == 0)
      out.findings.push_back(std::move(f));
  return out;
}

std::string madeCsv(const MadeWeather& made) {
  constexpr std::array<std::pair<WeatherField, const char*>, 11> columns{
      {{WeatherField::DryBulb, "dry_bulb_c"},
       {WeatherField::DewPoint, "dew_point_c"},
       {WeatherField::RelativeHumidity, "relative_humidity_percent"},
       {WeatherField::Pressure, "pressure_pa"},
       {WeatherField::GlobalHorizontal, "global_horizontal_w_m2"},
       {WeatherField::DirectNormal, "direct_normal_w_m2"},
       {WeatherField::DiffuseHorizontal, "diffuse_horizontal_w_m2"},
       {WeatherField::GlobalIlluminance, "global_illuminance_lx"},
       {WeatherField::DiffuseIlluminance, "diffuse_illuminance_lx"},
       {WeatherField::WindDirection, "wind_direction_deg"},
       {WeatherField::WindSpeed, "wind_speed_m_s"}}};
  std::string out = "month,day,hour";
  for (const auto& [field, name] : columns) out += std::string(",") + name;
  out += ",origin\n";
  for (std::size_t i = 0; i < made.weather.hours.size(); ++i) {
    const WeatherHour& h = made.weather.hours[i];
    out += fmt::format("{},{},{}", h.month, h.day, h.hour);
    for (const auto& [field, name] : columns) out += std::isfinite(h[field]) ? fmt::format(",{}", h[field]) : ",";
    out += fmt::format(",{}\n", originText(made.origin[i]));
  }
  return out;
}

} // namespace noonward
