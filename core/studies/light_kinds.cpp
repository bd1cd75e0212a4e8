#include "core/studies/light_kinds.h"
#include "core/base/hash.h"
#include "core/sky/weather.h"
#include "core/studies/energy/energy_year.h"
#include "core/studies/exposure.h"
#include "core/studies/glare_year.h"
#include "core/studies/irradiation.h"
#include "core/studies/view_out.h"
#include "core/sun/sun_path.h"
#include <cmath>

namespace noonward {

namespace {

/// Where the sun stands in the hours of a year with sunshine, and how much of each hour counts. By the weather: an hour
/// with 120 W/m² of beam or more (the WMO's bright sunshine) counts whole. By a table: all time with the sun up, in
/// steps of 20 minutes, by its month's share.
Outcome addSunshine(const Project& p, const LightSettings& s, LightInput& in) {
  const bool north = p.site.place.latitude >= 0;
  Season winter; // 21 September to 21 March, and the other half in the south
  winter.fromMonth = north ? 9 : 3;
  winter.fromDay = 21;
  winter.toMonth = north ? 3 : 9;
  winter.toDay = 21;
  const auto put = [&](const SolarPosition& sun, int month, int day, double weight) {
    if (!(weight > 0)) return;
    in.sunHours.push_back(toModel(sun.direction, p.site.northAngle));
    in.sunHourInWinter.push_back(holds(winter, {2025, month, day}));
    in.sunHourWeight.push_back(weight);
  };
  if (s.sunshine) {
    constexpr double step = 1200; // s
    const SunKnots knots = SunKnots::ofYear(p.site.year);
    const double offset = p.zone().standardOffset(p.site.year);
    for (int month = 1; month <= 12; ++month)
      for (int day = 1; day <= daysInMonth(p.site.year, month); ++day)
        for (double t = step / 2; t < 86400; t += step) {
          const SolarPosition sun =
              solarPosition(knots.at(utc({{p.site.year, month, day}, t}) + -offset), p.site.place);
          if (sun.altitude > 0) put(sun, month, day, (*s.sunshine)[std::size_t(month - 1)] * step / 3600);
        }
    in.sunshine = "sunshine by a table of the months";
  } else {
    if (!p.site.weather || !p.site.weather->whole())
      return fail("Probable sunlight hours (APSH) need a weather year, or a table of the months' sunshine; the project "
                  "has neither.",
                  "weather");
    const Weather& w = *p.site.weather;
    const std::vector<HourSun> suns = hourSuns(w, p.site.year);
    for (std::size_t i = 0; i < suns.size(); ++i)
      if (suns[i].up)
        put(suns[i].position, w.hours[i].month, w.hours[i].day, w.hours[i][WeatherField::DirectNormal] >= 120 ? 1 : 0);
    in.sunshine = "sunshine by the weather year, from 120 W/m² of beam on";
  }
  if (in.sunHours.empty())
    return fail(s.sunshine ? "The table of sunshine leaves no hour with sun."
                           : "The weather year has no hour with 120 W/m² of beam.",
                "weather");
  in.sky.text = in.sunshine;
  return {};
}

/// Sky exposure: under a sky that is the same in every question.
Outcome uniformSky(const Project&, const Study&, std::optional<Instant>, LightInput& in, Hasher&) {
  in.sky.sky = SkyLuminance::uniform(100);
  in.sky.text = "uniform sky, share of the surface's own hemisphere";
  return {};
}
Outcome overcastSky(const Project&, const Study&, std::optional<Instant>, LightInput& in, Hasher&) {
  in.sky.sky = SkyLuminance::cieOvercast(100);
  in.sky.text = "CIE overcast sky, share of the unobstructed horizontal outdoors";
  return {};
}
Outcome anySky(const Project&, const Study&, std::optional<Instant>, LightInput& in, Hasher&) {
  in.sky.text = "any sky seen through openings, whatever their glass lets through";
  return {};
}
Outcome skyOfMoment(const Project& p, const Study& study, std::optional<Instant> moment, LightInput& in, Hasher& h) {
  auto sky = studySky(p, study.light.sky, moment);
  if (!sky) return tl::unexpected(sky.error());
  in.sky = std::move(*sky);
  // The sky enters as it is: a dozen luminances tell it from any other.
  h.add(in.sky.sky.horizontal()).add(in.sky.beam).add(in.sky.sun.value_or(Vec3{}));
  for (int k = 0; k < 12; ++k) h.add(in.sky.sky(skyDirection(0.1 + 0.12 * k, 0.7 * k)));
  return {};
}
Outcome sunOfYear(const Project& p, const Study& study, std::optional<Instant>, LightInput& in, Hasher& h) {
  const LightSettings& s = study.light;
  if (const Outcome o = addSunshine(p, s, in); !o) return o;
  h.add(s.sunshine ? Digest{} : p.site.weather->digest)
      .add(p.site.northAngle)
      .add(p.site.place.latitude)
      .add(p.site.year);
  if (s.sunshine) h.add(p.site.place.longitude);
  return {};
}

using Panes = LightKind::Panes;
constexpr std::array<LightKind, 11> kinds{{
    {StudyKind::DaylightFactor, Panes::Transmit, true, false, 130, overcastSky, nullptr, nullptr},
    {StudyKind::Illuminance, Panes::Transmit, true, true, 0, skyOfMoment, nullptr, nullptr},
    {StudyKind::SkyView, Panes::Absent, false, false, 100, uniformSky, nullptr, runSkyExposure},
    {StudyKind::Vsc, Panes::Absent, false, false, 130, overcastSky, nullptr, runSkyExposure},
    {StudyKind::NoSkyLine, Panes::SeenThrough, false, false, 130, anySky, nullptr, runSkySeen},
    {StudyKind::SunlightYear, Panes::Absent, false, false, 130, sunOfYear, nullptr, runSunlight},
    {StudyKind::SunlightWinter, Panes::Absent, false, false, 130, sunOfYear, nullptr, runSunlight},
    {StudyKind::Glare, Panes::Transmit, true, false, 100, glareQuestion, glareYearInput, runGlareYear},
    {StudyKind::ViewOut, Panes::Transmit, false, false, 100, viewQuestion, nullptr, runViewOut},
    {StudyKind::Energy, Panes::Transmit, true, false, 0, energyQuestion, energyInput, runEnergy},
    {StudyKind::Irradiation, Panes::Transmit, true, false, 0, irradiationHours, irradiationSky, runIrradiation},
}};

} // namespace

const LightKind& lightKind(StudyKind kind) {
  for (const LightKind& k : kinds)
    if (k.kind == kind) return k;
  throw std::logic_error(std::string("no light study: ") + studyKey(kind));
}

} // namespace noonward
