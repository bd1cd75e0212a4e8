#include "cli/demo_weather.h"
#include <fmt/format.h>
#include <random>

namespace noonward::cli {

Weather syntheticWeather(const ClimateWish& wish) {
  Weather w;
  w.city = wish.city;
  w.region = "-";
  w.country = wish.country;
  w.source = "Noonward synthetic";
  w.station = "000000";
  w.place = wish.place;
  w.utcOffset = wish.utcOffset;
  w.headers = {"DESIGN CONDITIONS,0",
               "TYPICAL/EXTREME PERIODS,0",
               "GROUND TEMPERATURES,0",
               "HOLIDAYS/DAYLIGHT SAVINGS,No,0,0,0",
               fmt::format("COMMENTS 1,Synthetic year for an invented place: no measurement behind it. Generator: "
                           "noonward-cli demo, seed {}",
                           wish.seed),
               "COMMENTS 2,Ground temperatures and design conditions are not given",
               "DATA PERIODS,1,1,Data,Sunday, 1/ 1,12/31"};
  constexpr int year = 2025;
  for (int day = 0; day < 365; ++day)
    for (int h = 1; h <= 24; ++h) {
      const Date d = plusDays({year, 1, 1}, day);
      WeatherHour hour;
      hour.year = year;
      hour.month = d.month;
      hour.day = d.day;
      hour.hour = h;
      hour.minute = 60;
      hour.flags = "?9?9?9?9E0?9?9?9?9?9?9?9?9?9?9?9?9?9?9?9*9*9?9?9?9";
      hour.values.fill(std::nan(""));
      w.hours.push_back(hour);
    }
  const std::vector<HourSun> suns = hourSuns(w);
  std::mt19937 random(wish.seed);
  // Box-Muller by hand: the library's own normal distribution may differ between machines.
  const auto normal = [&] {
    const double u = (random() + 1.0) / 4294967297.0, v = random() / 4294967296.0;
    return std::sqrt(-2 * std::log(u)) * std::cos(2 * pi * v);
  };
  const bool north = wish.place.latitude >= 0;
  double dayState = 0, hourState = 0;
  for (std::size_t i = 0; i < w.hours.size(); ++i) {
    WeatherHour& h = w.hours[i];
    const double yearPhase = 2 * pi * (double(i) / 24 - (north ? 196 : 14)) / 365; // warmest in mid July or January
    const double summer = 0.5 + 0.5 * std::cos(yearPhase);
    if (i % 24 == 0) dayState = 0.6 * dayState + 0.8 * normal();
    hourState = 0.8 * hourState + 0.6 * normal();
    const double mean = wish.clearWinter + (wish.clearSummer - wish.clearWinter) * summer;
    const double clear = std::clamp(mean + 0.33 * dayState + 0.12 * hourState, 0.0, 1.0);
    const double s = std::sin(suns[i].position.altitude);
    double dni = 0, dhi = 0;
    const double extraterrestrial = 1361 * (1 + 0.033 * std::cos(2 * pi * (double(i) / 24 - 3) / 365));
    if (suns[i].up && s > 0) {
      const double altitude = degrees(suns[i].position.altitude);
      const double mass = 1 / (s + 0.50572 * std::pow(altitude + 6.07995, -1.6364));
      const double clearBeam = extraterrestrial * std::pow(0.7, std::pow(mass, 0.678));
      // Part of the hour's sky may be below the horizon at sunrise and sunset.
      dni = clearBeam * std::pow(clear, 1.3);
      const double clearDiffuse = 0.12 * extraterrestrial * std::pow(s, 0.6),
                   cloudDiffuse = 0.32 * extraterrestrial * s;
      dhi = clear * clearDiffuse + (1 - clear) * cloudDiffuse;
    }
    dni = std::round(dni);
    dhi = std::round(dhi);
    using F = WeatherField;
    h[F::DirectNormal] = dni;
    h[F::DiffuseHorizontal] = dhi;
    h[F::GlobalHorizontal] = std::round(dni * std::max(0.0, s) + dhi);
    h[F::ExtraterrestrialNormal] = suns[i].up ? std::round(extraterrestrial) : 0;
    h[F::ExtraterrestrialHorizontal] = suns[i].up ? std::round(extraterrestrial * std::max(0.0, s)) : 0;
    h[F::DirectIlluminance] = std::round(dni * 0.98) * 100;
    h[F::DiffuseIlluminance] = std::round(dhi * 1.2) * 100;
    h[F::GlobalIlluminance] = std::round(dni * std::max(0.0, s) * 0.98 + dhi * 1.2) * 100;
    const double hourPhase = 2 * pi * (h.hour - 15) / 24;
    const double t =
        wish.meanTemperature + wish.swing * std::cos(yearPhase) + (1 + 3.5 * clear * summer) * std::cos(hourPhase);
    h[F::DryBulb] = std::round(t * 10) / 10;
    h[F::RelativeHumidity] = std::round(std::clamp(82 - 14 * clear * std::cos(hourPhase) - 8 * summer, 20.0, 100.0));
    h[F::DewPoint] = std::round((t - (100 - h[F::RelativeHumidity]) / 5) * 10) / 10;
    h[F::Pressure] = std::round(101325 * std::pow(1 - 2.25577e-5 * wish.place.elevation, 5.25588));
    h[F::HorizontalInfrared] = std::round(5.67e-8 * std::pow(t + 273.15, 4) * (0.75 + 0.15 * (1 - clear)));
    h[F::WindDirection] = std::round(std::fmod(240 + 60 * hourState + 720, 360.0));
    h[F::WindSpeed] = std::round(10 * std::max(0.2, 4.2 - 1.2 * summer + 1.3 * hourState)) / 10;
    h[F::TotalSkyCover] = h[F::OpaqueSkyCover] = std::round(10 * (1 - clear));
    h[F::Albedo] = 0.2;
  }
  finishWeather(w);
  return w;
}

} // namespace noonward::cli
