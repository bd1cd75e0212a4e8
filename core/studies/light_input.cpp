#include "core/model/settings/study_fields.h"
#include "core/sky/weather.h"
#include "core/studies/energy/energy_kept.h"
#include "core/studies/light_check.h"
#include "core/studies/light_kinds.h"
#include "core/studies/light_study.h"
#include "core/sun/sun_path.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

Expected<std::pair<Vec3, std::optional<Instant>>> sunOfSky(const Project& p, const SkyChoice& c,
                                                           std::optional<Instant> fallback) {
  std::optional<Instant> moment = fallback;
  if (c.moment) moment = p.zone().instant(*c.moment);
  if (c.sunAltitude)
    return std::pair{skyDirection(*c.sunAltitude, c.sunAzimuth.value_or(pi), p.site.northAngle), moment};
  if (!moment)
    return fail("This sky needs a moment (\"2026-06-21T14:00\") or the sun's altitude and azimuth.", "sky.moment");
  return std::pair{toModel(solarPosition(sunOfDate(*moment), p.site.place).direction, p.site.northAngle), moment};
}

Expected<StudySky> studySky(const Project& p, const SkyChoice& c, std::optional<Instant> fallback) {
  StudySky out;
  out.text = skyText(c);
  const double usual = 10000;
  if (c.kind == SkyKind::Usual || c.kind == SkyKind::CieOvercast || c.kind == SkyKind::Uniform) {
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
  const auto sunThere = sunOfSky(p, c, fallback);
  if (!sunThere) return tl::unexpected(sunThere.error());
  const auto [sun, moment] = *sunThere;
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
    out.diffuseIrradiance = in.diffuseHorizontal;
    out.directIrradiance = in.directNormal;
    out.sky = SkyLuminance::perez(in);
    out.beam = sun.z > 0 ? in.directNormal * perezState(in).directEfficacy : 0;
  }
  if (out.beam > 0) out.sun = sun;
  out.text += fmt::format(", {:.0f} lx diffuse on the horizontal, {:.0f} lx beam facing the sun", out.sky.horizontal(),
                          out.beam);
  return out;
}

namespace {

bool ofEyes(StudyKind kind) {
  return kind == StudyKind::Glare || kind == StudyKind::ViewOut;
}

/// All of an input but the scene, and the model that the scene is made of.
Expected<std::pair<LightInput, LightModel>> preparedInput(const Project& p, const Study& study, bool before,
                                                          std::optional<Instant> moment) {
  if (factsOf(study.kind).answer != AnswerOf::Light)
    return fail(fmt::format("{} is a study of its own, not one of light under one sky.", studyName(study.kind)),
                "kind");
  const LightSettings& s = study.light;
  if (!(s.error > 0.0001 && s.error < 1))
    return fail("The error wanted at the sensors must lie between 0.0001 and 1.", "error");
  const auto zone = Zone::named(p.site.zone);
  if (!zone) return tl::unexpected(zone.error());
  LightInput in;
  in.kind = study.kind;
  in.settings = s;
  in.before = before;
  auto model = lightModel(p, !before);
  if (!model) return tl::unexpected(model.error());
  in.findings = model->findings;
  for (const WindowGroup& g : model->groups) in.groups.push_back(g.name);
  auto sensors = layOutSensors(p, groupsTaken(p, study.groups, ofEyes(study.kind)));
  if (!sensors) return tl::unexpected(sensors.error());
  if (sensors->sensors.empty())
    return fail(ofEyes(study.kind) ? "There are no eyes: lay eyes in rooms or place one first."
                                   : "There are no sensors: choose rooms, an area, a facade or points first.",
                "groups");
  in.sensors = std::move(*sensors);
  in.findings.insert(in.findings.end(), in.sensors.findings.begin(), in.sensors.findings.end());
  const LightKind& kind = lightKind(study.kind);
  if (!kind.reflections)
    std::erase_if(in.findings,
                  [](const Finding& f) { return f.code == "finish.default"; }); // what reflects does not matter
  if (kind.panes == LightKind::Panes::Absent)
    std::erase_if(model->parts, [](const LightPart& part) { return part.glazed; });
  Hasher h;
  h.add("light 4").add(studyKey(study.kind));
  hashStudyFields(h, study);
  hashLightModel(h, *model, kind.reflections);
  if (Outcome o = kind.prepare(p, study, moment, in, h); !o) return tl::unexpected(o.error());
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

Expected<LightInput> lightInput(const Project& p, const Study& study, bool before, std::optional<Instant> moment,
                                std::shared_ptr<EnergyKept> kept) {
  auto prepared = preparedInput(p, study, before, moment);
  if (!prepared) return tl::unexpected(prepared.error());
  LightInput in = std::move(prepared->first);
  if (in.kind == StudyKind::Energy) in.energyKept = std::move(kept);
  if (const auto fill = lightKind(in.kind).fill)
    if (Outcome o = fill(p, study, moment, in); !o) return tl::unexpected(o.error());
  if (!in.scene) in.scene = std::make_shared<const LightScene>(prepared->second);
  Findings checks;
  if (in.energyKept && in.energyKept->checked == in.scene) {
    checks = in.energyKept->checks;
  } else {
    checks = checkGlazing(p, *in.scene, prepared->second);
    if (lightKind(in.kind).reflections)
      for (Finding& f : checkLeaks(*in.scene, in.sensors)) checks.push_back(std::move(f));
    if (in.energyKept) {
      in.energyKept->checked = in.scene;
      in.energyKept->checks = checks;
    }
  }
  in.findings.insert(in.findings.end(), checks.begin(), checks.end());
  return in;
}

Digest hashLight(const Project& p, const Study& study, bool before, std::optional<Instant> moment) {
  const auto prepared = preparedInput(p, study, before, moment);
  return prepared ? prepared->first.key : Hasher().add("light fault").add(prepared.error().text()).digest();
}

} // namespace noonward
