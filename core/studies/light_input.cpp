#include "core/sky/weather.h"
#include "core/studies/light_check.h"
#include "core/studies/light_study.h"
#include "core/sun/sun_path.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

Vec3 toModel(Vec3 v, double northAngle) {
  const double c = std::cos(northAngle), s = std::sin(northAngle);
  return {v.x * c - v.y * s, v.x * s + v.y * c, v.z};
}

Vec3 directionOf(double altitude, double azimuth, double northAngle) {
  return toModel({std::cos(altitude) * std::sin(azimuth), std::cos(altitude) * std::cos(azimuth), std::sin(altitude)},
                 northAngle);
}

} // namespace

Expected<StudySky> studySky(const Project& p, const SkyChoice& c, std::optional<Instant> fallback) {
  StudySky out;
  out.text = skyText(c);
  const double usual = 10000;
  if (c.kind == SkyKind::CieOvercast || c.kind == SkyKind::Uniform) {
    const double e = c.diffuse.value_or(usual);
    if (!(e >= 0)) return fail("The horizontal diffuse illuminance must not be negative.", "sky.diffuse");
    out.sky = c.kind == SkyKind::Uniform ? SkyLuminance::uniform(e) : SkyLuminance::cieOvercast(e);
    out.text += fmt::format(", {:.0f} lx on the horizontal", e);
    return out;
  }
  if (c.kind == SkyKind::CieGeneral && (c.type == 1 || c.type == 3 || c.type == 5) && !c.sunAltitude && !c.moment &&
      !fallback) { // alike on every side: no sun is needed
    auto even = SkyLuminance::cieGeneral(c.type, {0, 0, 1}, c.diffuse.value_or(usual));
    if (!even) return tl::unexpected(even.error());
    out.sky = *even;
    out.text += fmt::format(", {:.0f} lx on the horizontal", c.diffuse.value_or(usual));
    return out;
  }
  // Where the sun stands.
  std::optional<Instant> moment = fallback;
  if (c.moment) moment = p.zone().instant(*c.moment);
  Vec3 sun;
  if (c.sunAltitude) {
    sun = directionOf(*c.sunAltitude, c.sunAzimuth.value_or(pi), p.site.northAngle);
  } else {
    if (!moment)
      return fail("This sky needs a moment (\"2026-06-21T14:00\") or the sun's altitude and azimuth.", "sky.moment");
    const SolarPosition s = solarPosition(sunOfDate(*moment), p.site.place);
    sun = toModel(s.direction, p.site.northAngle);
  }
  const double altitude = std::asin(std::clamp(sun.z, -1.0, 1.0));
  if (c.kind == SkyKind::CieGeneral) {
    if (c.type < 1 || c.type > 15)
      return fail(fmt::format("The CIE general sky has types 1 to 15; {} is none.", c.type), "sky.type");
    if (sun.z <= 0 && !c.diffuse)
      return fail("The sun is below the horizon at this moment: this sky has no light of its own then.", "sky.moment");
    const SkyCondition condition = c.type <= 5    ? SkyCondition::Overcast
                                   : c.type <= 10 ? SkyCondition::PartlyCloudy
                                                  : SkyCondition::Clear;
    const double e = c.diffuse.value_or(typicalDiffuseIlluminance(condition, altitude));
    auto sky = SkyLuminance::cieGeneral(c.type, sun, e);
    if (!sky) return tl::unexpected(sky.error());
    out.sky = *sky;
    out.beam = sun.z > 0 ? c.direct.value_or(typicalDirectIlluminance(condition, altitude)) : 0;
  } else {
    PerezInput in;
    in.sun = sun;
    in.directNormal = c.directIrradiance;
    in.diffuseHorizontal = c.diffuseIrradiance;
    in.dewPoint = c.dewPoint;
    in.dayOfYear = moment ? dayOfYear(p.zone().clock(*moment).date) : 172;
    if (c.kind == SkyKind::Weather) {
      if (!p.site.weather || !p.site.weather->whole())
        return fail("This sky needs a weather year; the project has none.", "sky.kind");
      if (!moment) return fail("The sky of the weather file needs a moment.", "sky.moment");
      const Weather& w = *p.site.weather;
      const CivilTime standard = civil(*moment, w.utcOffset);
      const std::size_t i = weatherHourIndex(standard);
      const WeatherHour& h = w.hours[i];
      in.directNormal = h[WeatherField::DirectNormal];
      in.diffuseHorizontal = h[WeatherField::DiffuseHorizontal];
      if (std::isnan(in.directNormal) || std::isnan(in.diffuseHorizontal))
        return fail(fmt::format("The weather file has no radiation for {} {}:00.", dayText(standard.date), h.hour),
                    "weather");
      if (!std::isnan(h[WeatherField::DewPoint])) in.dewPoint = h[WeatherField::DewPoint];
      out.text =
          fmt::format("sky of the weather file, {} {}, {:.0f} W/m² beam and {:.0f} W/m² diffuse",
                      dayText(standard.date), clockText(standard.seconds / 60), in.directNormal, in.diffuseHorizontal);
    }
    if (!(in.directNormal >= 0) || !(in.diffuseHorizontal >= 0))
      return fail("Irradiances must not be negative.", "sky");
    out.sky = SkyLuminance::perez(in);
    out.beam = sun.z > 0 ? in.directNormal * perezState(in).directEfficacy : 0;
  }
  if (out.beam > 0) out.sun = sun;
  out.text += fmt::format(", {:.0f} lx diffuse on the horizontal, {:.0f} lx beam facing the sun", out.sky.horizontal(),
                          out.beam);
  return out;
}

namespace {

/// Where the sun stands in the hours of a year with sunshine, and how much of each hour counts. By the weather: an hour
/// with 120 W/m² of beam or more (the WMO's bright sunshine) counts whole. By a table: all time with the sun up, in
/// steps of 20 minutes, by its month's share.
Outcome addSunshine(const Project& p, const LightSettings& s, LightInput& in) {
  const bool north = p.site.place.latitude >= 0;
  Season winter; // 21 September to 21 March, and the other half in the south
  winter.fromMonth = north ? 9 : 3, winter.fromDay = 21, winter.toMonth = north ? 3 : 9, winter.toDay = 21;
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
      return fail(
          "Probable sunlight hours need a weather year, or a table of the months' sunshine; the project has neither.",
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

/// All of an input but the scene, and the model that the scene is made of.
Expected<std::pair<LightInput, LightModel>> preparedInput(const Project& p, const Study& study, bool before,
                                                          std::optional<Instant> moment) {
  require(study.kind != StudyKind::SunHours, "lightInput: sun hours are a study of their own");
  if (study.kind == StudyKind::Year) return fail("The daylight year is a study of its own.", "kind");
  const LightSettings& s = study.light;
  if (!(s.error > 0.0001 && s.error < 1))
    return fail("The error wanted at the sensors must lie between 0.0001 and 1.", "error");
  const auto zone = Zone::named(p.site.zone);
  if (!zone) return tl::unexpected(zone.error());
  LightInput in;
  in.kind = study.kind;
  in.settings = s;
  auto model = lightModel(p, !before);
  if (!model) return tl::unexpected(model.error());
  in.findings = model->findings;
  for (const WindowGroup& g : model->groups) in.groups.push_back(g.name);
  auto sensors = layOutSensors(p, study.groups);
  if (!sensors) return tl::unexpected(sensors.error());
  if (sensors->sensors.empty())
    return fail("There are no sensors: choose rooms, an area, a facade or points first.", "groups");
  in.sensors = std::move(*sensors);
  in.findings.insert(in.findings.end(), in.sensors.findings.begin(), in.sensors.findings.end());
  const bool inside = study.kind == StudyKind::DaylightFactor || study.kind == StudyKind::Illuminance;
  if (!inside)
    std::erase_if(in.findings,
                  [](const Finding& f) { return f.code == "finish.default"; }); // what reflects does not matter
  if (!inside &&
      study.kind !=
          StudyKind::NoSkyLine) // sky exposure is that of the outer plane: glazing hides nothing, as for sun hours
    std::erase_if(model->parts, [](const LightPart& part) { return part.glazed; });
  if (study.kind == StudyKind::Illuminance) {
    auto sky = studySky(p, s.sky, moment);
    if (!sky) return tl::unexpected(sky.error());
    in.sky = std::move(*sky);
  } else if (study.kind == StudyKind::SkyView) {
    in.sky.sky = SkyLuminance::uniform(100);
    in.sky.text = "uniform sky, share of the surface's own hemisphere";
  } else if (study.kind == StudyKind::NoSkyLine) {
    in.sky.text = "any sky seen through openings, whatever their glass lets through";
  } else {
    in.sky.sky = SkyLuminance::cieOvercast(100);
    in.sky.text = "CIE overcast sky, share of the unobstructed horizontal outdoors";
  }
  Hasher h;
  const bool bySun = study.kind == StudyKind::SunlightYear || study.kind == StudyKind::SunlightWinter;
  h.add("light 2").add(int(study.kind));
  if (inside) h.add(s.error); // sky exposure is always wanted to 0.05 points
  if (!bySun) h.add(std::uint64_t(s.mostSamples)).add(s.seed);
  if (bySun && s.sunshine)
    for (double share : *s.sunshine) h.add(share);
  hashLightModel(h, *model, inside);
  if (bySun) {
    if (const Outcome o = addSunshine(p, s, in); !o) return tl::unexpected(o.error());
    h.add(s.sunshine ? Digest{} : p.site.weather->digest)
        .add(p.site.northAngle)
        .add(p.site.place.latitude)
        .add(p.site.year);
    if (s.sunshine) h.add(p.site.place.longitude);
  }
  if (study.kind == StudyKind::Illuminance) {
    // The sky enters as it is: a dozen luminances tell it from any other.
    h.add(in.sky.sky.horizontal()).add(in.sky.beam).add(in.sky.sun.value_or(Vec3{}));
    for (int k = 0; k < 12; ++k) h.add(in.sky.sky(directionOf(0.1 + 0.12 * k, 0.7 * k, 0)));
  }
  h.add(std::uint64_t(in.sensors.sensors.size()));
  h.add(std::string_view(reinterpret_cast<const char*>(in.sensors.sensors.data()),
                         in.sensors.sensors.size() * sizeof(Sensor)));
  in.key = h.digest();
  in.windowless.assign(p.rooms.size(), true);
  for (const WindowGroup& g : model->groups)
    if (g.room >= 0) in.windowless[std::size_t(g.room)] = false;
  return std::pair{std::move(in), std::move(*model)};
}

} // namespace

Expected<LightInput> lightInput(const Project& p, const Study& study, bool before, std::optional<Instant> moment) {
  auto prepared = preparedInput(p, study, before, moment);
  if (!prepared) return tl::unexpected(prepared.error());
  LightInput in = std::move(prepared->first);
  in.scene = std::make_shared<const LightScene>(prepared->second);
  for (Finding& f : checkGlazing(p, *in.scene, prepared->second)) in.findings.push_back(std::move(f));
  if (in.kind == StudyKind::DaylightFactor || in.kind == StudyKind::Illuminance)
    for (Finding& f : checkLeaks(*in.scene, in.sensors)) in.findings.push_back(std::move(f));
  return in;
}

Digest hashLight(const Project& p, const Study& study, bool before, std::optional<Instant> moment) {
  const auto prepared = preparedInput(p, study, before, moment);
  return prepared ? prepared->first.key : Hasher().add("light fault").add(prepared.error().text()).digest();
}

} // namespace noonward
