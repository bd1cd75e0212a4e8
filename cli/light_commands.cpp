#include "cli/commands.h"
#include "cli/run_command.h"
#include "core/base/json.h"
#include "core/base/units.h"
#include "core/base/words.h"
#include "core/files/project/heat_json.h"
#include "core/files/project/project_file.h"
#include "core/files/results/energy_files.h"
#include "core/files/results/glare_files.h"
#include "core/files/results/tables.h"
#include "core/model/rooms/placing.h"
#include "core/model/settings/study_fields.h"
#include "core/runs/runner.h"
#include "core/runs/trial.h"
#include "core/studies/glare_year.h"
#include "core/studies/irradiation.h"
#include "core/studies/sensor_field.h"
#include <cstdio>
#include <fmt/format.h>
#include <memory>

namespace noonward::cli {

namespace {

Json statisticsJson(const SensorSet& sensors, const SensorGridFacts& g, const LightResult& r) {
  const LightStatistics s = lightStatistics(r, g.first, g.count, 0, 1e30, sensors.areasOf(g.first, g.count));
  return Json{{"name", g.name},     {"sensors", s.count}, {"mean", s.mean}, {"mean_standard_error", s.meanError},
              {"median", s.median}, {"min", s.least},     {"max", s.most},  {"uniformity", s.uniformity}};
}

Json energyJson(const EnergyTotal& t) {
  return Json{{"area_m2", t.area},
              {"energy", t.energy},
              {"energy_standard_error", t.energyError},
              {"mean", t.mean()},
              {"direct", t.direct},
              {"sky", t.sky},
              {"reflected", t.reflected},
              {"sensors", t.sensors},
              {"area_at_least_m2", t.areaAtLeast},
              {"energy_at_least", t.energyAtLeast}};
}
Json energyJson(const EnergyRoom& r) {
  const EnergyParts y = r.year();
  return Json{{"use", r.use},
              {"floor_area_m2", r.floorArea},
              {"heating_kwh", y.heating},
              {"cooling_kwh", y.cooling},
              {"lighting_kwh", y.lighting},
              {"solar_gain_kwh", y.solar},
              {"internal_gain_kwh", y.internal},
              {"transmission_kwh", y.transmission},
              {"ventilation_kwh", y.ventilation},
              {"peak_heating_w", r.peakHeating},
              {"peak_heating_hour", r.peakHeatingHour + 1},
              {"peak_cooling_w", r.peakCooling},
              {"peak_cooling_hour", r.peakCoolingHour + 1},
              {"hours_above_26", r.hoursAbove}};
}
/// kWh (W under the sky of a moment) of a group and of its sides; "at least" by a threshold.
Json energyOf(const SensorSet& sensors, const SensorGridFacts& g, const LightResult& r, double threshold,
              double northAngle) {
  Json out = energyJson(energyTotal(sensors, r, g.first, g.count, threshold));
  out["threshold"] = threshold;
  for (const EnergyBySide& side : energyBySide(sensors, r, g.first, g.count, threshold, northAngle))
    out["sides"][side.side] = energyJson(side.total);
  return out;
}

} // namespace

void printFindings(const Findings& list) {
  for (const Finding& f : merged(list)) std::fputs(fmt::format("{}: {}\n", rankText(f.rank), f.text).c_str(), stderr);
}

Outcome putSettings(Study& s, const RunCall& c, int year) {
  for (const auto& [key, value] : c.shorthands) {
    if (value.empty()) continue;
    if (!usesField(s.kind, key)) {
      std::fputs(fmt::format("note: {} does not matter for a study of {}\n", key, studyName(s.kind)).c_str(), stderr);
      continue;
    }
    if (std::string_view(key) == "blinds") s.year.groupBlinds.clear(); // one rule for every group
    if (Outcome o = setStudyField(s, fmt::format("{}={}", key, value), year); !o) return o;
  }
  for (const std::string& text : c.set)
    if (Outcome o = setStudyField(s, text, year); !o) return o;
  if (!c.at.empty()) {
    const auto t = stampFromText(c.at);
    if (!t) return fail("run: --at 2026-06-21T14:00:00");
    s.light.sky.moment = t->time;
  }
  return {};
}

Expected<std::vector<Study>> askedStudies(const Project& p, StudyKind kind, const RunCall& c) {
  std::vector<Study> out;
  for (const Study& s : p.studies)
    if (s.kind == kind && (c.name.empty() || s.name == c.name || s.id.text() == c.name)) out.push_back(s);
  if (out.empty() && !c.name.empty())
    return fail(fmt::format("run: the project has no {} study \"{}\"", studyKey(kind), c.name));
  if (out.empty()) {
    Study s;
    s.kind = kind;
    s.name = studyName(kind);
    out.push_back(std::move(s));
  }
  for (Study& s : out)
    if (Outcome o = putSettings(s, c, p.site.year); !o) return tl::unexpected(o.error());
  return out;
}

int runLightStudies(const RunCall& c, StudyKind kind) {
  auto loaded = openProject(c.project, c.option);
  if (!loaded) return complain(loaded.error().text(), 1);
  for (const std::string& n : loaded->notes) std::fputs(("note: " + n + "\n").c_str(), stderr);
  auto studies = askedStudies(loaded->project, kind, c);
  if (studies && c.trial)
    for (Study& s : *studies) s = trialOf(s, loaded->project.site.year);
  if (!studies) return complain(studies.error().text(), 2);
  std::error_code error;
  std::filesystem::create_directories(c.out, error);
  if (error) return complain(fmt::format("{}: {}", c.out, error.message()), 1);
  std::optional<ResultStore> store;
  if (!c.noStore && !c.trial) store.emplace(ResultStore::besideProject(c.project));
  if (!c.weights.empty()) {
    auto weights = readWeights(c.weights);
    if (!weights) return complain(weights.error().text(), 2);
    loaded->project.heat.weights = std::move(*weights);
  }
  StudyRunner runner(store ? &*store : nullptr, {c.threads});
  for (std::size_t i = 0; i < studies->size(); ++i) {
    const Study& s = (*studies)[i];
    const auto input = lightInput(loaded->project, s, c.before);
    if (!input) return complain(fmt::format("study \"{}\": {}", s.name, input.error().text()), 1);
    printFindings(input->findings);
    RunControl control;
    control.progress = progressLine();
    const auto result = runner.light(*input, control, s.name);
    std::shared_ptr<const LightResult> earlier; // without the proposal
    if (result && c.difference) {
      const auto without = lightInput(loaded->project, s, true);
      if (!without) return complain(fmt::format("study \"{}\": {}", s.name, without.error().text()), 1);
      auto run = runner.light(*without, control, s.name + " (before)");
      if (!run) return complain(fmt::format("study \"{}\": {}", s.name, run.error().text()), 1);
      earlier = *run;
    }
    std::fputs("\r     \r", stderr);
    if (!result) return complain(fmt::format("study \"{}\": {}", s.name, result.error().text()), 1);
    std::string tail = trialTail(c);
    if (i > 0) {
      tail = "-" + s.name + tail;
      for (char& ch : tail)
        if (!std::isalnum(static_cast<unsigned char>(ch))) ch = '-';
    }
    const auto path = std::filesystem::path(c.out) / (std::string(studyKey(kind)) + tail + ".csv");
    const std::string table = kind == StudyKind::Glare ? glareCsv(loaded->project, input->sensors, **result)
                              : (*result)->energy      ? energyCsv(*(*result)->energy)
                                                       : lightCsv(input->sensors, **result, earlier.get());
    if (const Outcome o = saveFile(path, table); !o) return complain(o.error().text(), 1);
    if ((*result)->energy && c.series) {
      auto hours = path;
      hours.replace_filename(path.stem().string() + "-hours.csv");
      if (const Outcome o = saveFile(hours, energyHoursCsv(*(*result)->energy)); !o)
        return complain(o.error().text(), 1);
    }
    if ((*result)->energy && !loaded->project.heat.weights.empty()) {
      auto weights = path;
      weights.replace_filename(path.stem().string() + "-weights.csv");
      if (const Outcome o = saveFile(weights, energyWeightsCsv(*(*result)->energy, loaded->project.heat.weights)); !o)
        return complain(o.error().text(), 1);
    }
    if (kind == StudyKind::Glare && c.series) {
      auto hours = path;
      hours.replace_filename(path.stem().string() + "-series.csv");
      if (const Outcome o = saveFile(hours, glareSeriesCsv(loaded->project, input->sensors, **result)); !o)
        return complain(o.error().text(), 1);
    }
    Json facts{{"study", s.name},
               {"kind", studyKey(kind)},
               {"sky", input->sky.text},
               {"unit", (*result)->unitText()},
               {"fingerprint", (*result)->key.fingerprint()},
               {"key", (*result)->key.hex()},
               {"sensors", input->sensors.sensors.size()},
               {"triangles", input->scene->triangleCount()},
               {"seconds", (*result)->seconds},
               {"error_wanted_percent", 100 * s.light.error},
               {"sensors_with_larger_error", (*result)->unsettled},
               {"csv", path.filename().string()}};
    if (c.months) {
      const auto months = irradiationByMonth(loaded->project, s, *input, {}, control, {c.threads});
      std::fputs("\r     \r", stderr);
      if (!months) return complain(fmt::format("study \"{}\": {}", s.name, months.error().text()), 1);
      auto table = path;
      table.replace_filename(path.stem().string() + "-months.csv");
      if (const Outcome o = saveFile(table, energyMonthsCsv(input->sensors, *months)); !o)
        return complain(o.error().text(), 1);
      facts["months"] = table.filename().string();
    }
    if (c.trial) facts["trial"] = trialText(s, loaded->project.site.year);
    for (const SensorGridFacts& g : input->sensors.groups) {
      Json group = statisticsJson(input->sensors, g, **result);
      if (earlier) group["mean_before"] = statisticsJson(input->sensors, g, *earlier)["mean"];
      if ((*result)->energy)
        for (const EnergyRoom& r : (*result)->energy->rooms)
          if (r.name == g.name) group["energy"] = energyJson(r);
      if ((*result)->glare)
        for (std::size_t k = g.first; k < g.first + g.count; ++k)
          if (const std::string why = glareCauseText(*(*result)->glare, k); !why.empty())
            group["causes"].push_back({{"eye", input->sensors.sensorName(k)}, {"text", why}});
      if (kind == StudyKind::Irradiation)
        group["energy"] = energyOf(input->sensors, g, **result, usualThreshold(kind), loaded->project.site.northAngle);
      facts["groups"].push_back(std::move(group));
    }
    if (const Outcome o = saveFile(std::filesystem::path(path).replace_extension(".json"), facts.dump(2) + "\n"); !o)
      return complain(o.error().text(), 1);
    if (c.json)
      fmt::print("{}\n", facts.dump());
    else
      fmt::print("{}: {}, {}, {:.2f} s, fingerprint {} -> {}\n", s.name,
                 counted(input->sensors.sensors.size(), "sensor", "sensors"), input->sky.text, (*result)->seconds,
                 (*result)->key.fingerprint(), path.string());
    if ((*result)->unsettled > 0)
      std::fputs(fmt::format("note: {} sensors keep a larger error than {:g} %; their column says so\n",
                             (*result)->unsettled, 100 * s.light.error)
                     .c_str(),
                 stderr);
  }
  return 0;
}

namespace {

struct SkyCall {
  std::string sky = "cie-overcast", at, zone = "UTC";
  double sunAltitude = -1000, sunAzimuth = 180, diffuse = -1, direct = -1, dni = 0, dhi = 0, dewPoint = 10,
         latitude = -1000, longitude = 0;
  std::vector<std::string> directions;
  int day = 0;
  bool json = false, csv = false;
};

int runSky(const SkyCall& c) {
  auto choice = skyFromKey(c.sky);
  if (!choice)
    return complain(
        fmt::format("sky: \"{}\" is no sky: cie-overcast, uniform, cie-1 … cie-15, clear, intermediate or perez",
                    c.sky),
        2);
  if (choice->kind == SkyKind::Weather)
    return complain("sky: the sky of a weather file is asked for with run --study illuminance; here give --dni and "
                    "--dhi with --sky perez",
                    2);
  if (c.diffuse >= 0) choice->diffuse = c.diffuse;
  if (c.direct >= 0) choice->direct = c.direct;
  choice->directIrradiance = c.dni;
  choice->diffuseIrradiance = c.dhi;
  choice->dewPoint = c.dewPoint;
  Project p;
  if (c.latitude > -999) p.site.place = {radians(c.latitude), radians(c.longitude), 0};
  p.site.zone = c.zone;
  if (!Zone::named(c.zone)) return complain(Zone::named(c.zone).error().text(), 2);
  if (c.sunAltitude > -999) {
    choice->sunAltitude = radians(c.sunAltitude);
    choice->sunAzimuth = radians(c.sunAzimuth);
  }
  std::optional<Instant> moment;
  if (!c.at.empty()) {
    const auto t = stampFromText(c.at);
    if (!t) return complain("sky: --at 2026-06-21T14:00:00", 2);
    moment = t->utcOffset ? utc(t->time) + -*t->utcOffset : p.zone().instant(t->time);
    if (c.latitude < -999 && !choice->sunAltitude) return complain("sky: --at needs --latitude and --longitude", 2);
  } else if (c.day > 0) {
    moment = utc({plusDays({2025, 1, 1}, c.day - 1), 43200}); // for the Earth's distance
  }
  const auto sky = studySky(p, *choice, moment);
  if (!sky) return complain(sky.error().text(), 1);
  struct Row {
    double altitude, azimuth, luminance;
  };
  std::vector<Row> rows;
  for (const std::string& d : c.directions) {
    const auto comma = d.find(',');
    const auto altitude = numberFromText(d.substr(0, comma)),
               azimuth = comma == std::string::npos ? std::nullopt : numberFromText(d.substr(comma + 1));
    if (!altitude || !azimuth) return complain("sky: --direction ALTITUDE,AZIMUTH in degrees", 2);
    rows.push_back({*altitude, *azimuth, sky->sky(skyDirection(radians(*altitude), radians(*azimuth)))});
  }
  const double beamFlat = sky->sun ? sky->beam * std::max(0.0, sky->sun->z) : 0;
  const struct {
    const char* name;
    Vec3 normal;
  } planes[] = {{"north", {0, 1, 0}}, {"east", {1, 0, 0}}, {"south", {0, -1, 0}}, {"west", {-1, 0, 0}}};
  if (c.csv) {
    fmt::print("altitude_deg,azimuth_deg,luminance_cd_m2\n");
    for (const Row& r : rows) fmt::print("{:.6g},{:.6g},{:.8g}\n", r.altitude, r.azimuth, r.luminance);
    return 0;
  }
  Json j{{"sky", sky->text},
         {"zenith_cd_m2", sky->sky.zenith()},
         {"horizontal_diffuse_lx", sky->sky.horizontal()},
         {"beam_normal_lx", sky->beam},
         {"horizontal_global_lx", sky->sky.horizontal() + beamFlat}};
  for (const auto& plane : planes) {
    j["vertical_diffuse_lx"][plane.name] = sky->sky.illuminance(plane.normal);
    j["vertical_beam_lx"][plane.name] = sky->sun ? sky->beam * std::max(0.0, dot(*sky->sun, plane.normal)) : 0.0;
  }
  j["directions"] = Json::array();
  for (const Row& r : rows)
    j["directions"].push_back(
        Json{{"altitude_deg", r.altitude}, {"azimuth_deg", r.azimuth}, {"luminance_cd_m2", r.luminance}});
  if (c.json) {
    fmt::print("{}\n", j.dump(2));
    return 0;
  }
  fmt::print("{}\nzenith {:.6g} cd/m², horizontal {:.6g} lx diffuse + {:.6g} lx beam\n", sky->text, sky->sky.zenith(),
             sky->sky.horizontal(), beamFlat);
  for (const auto& plane : planes)
    fmt::print("facing {:<6} {:>10.1f} lx diffuse {:>10.1f} lx beam\n", plane.name,
               j["vertical_diffuse_lx"][plane.name].get<double>(), j["vertical_beam_lx"][plane.name].get<double>());
  for (const Row& r : rows)
    fmt::print("altitude {:g}°, azimuth {:g}°: {:.6g} cd/m²\n", r.altitude, r.azimuth, r.luminance);
  return 0;
}

int runRooms(const std::string& project, bool json, bool csv) {
  const auto loaded = readProject(project);
  if (!loaded) return complain(loaded.error().text(), 1);
  const std::vector<RoomFacts> rooms = roomFacts(loaded->project);
  const Findings findings = merged(checkRooms(loaded->project));
  if (csv) {
    fmt::print("{}", roomsCsv(rooms));
  } else if (json) {
    Json all = Json::array();
    for (const RoomFacts& r : rooms) {
      Json j{{"room", r.name},
             {"use", r.use},
             {"area_m2", r.area},
             {"volume_m3", r.volume},
             {"exposed_m2", r.exposedArea},
             {"regularly_occupied", r.counted},
             {"reason", r.reason},
             {"rooflight_m2", r.rooflightArea}};
      for (Facing f : allFacings) j["window_m2"][facingKey(f)] = r.windowArea[std::size_t(f)];
      all.push_back(std::move(j));
    }
    fmt::print("{}\n", all.dump(2));
  } else {
    fmt::print("{:<28}{:>9}{:>9}{:>10}{:>10}  {}\n", "room", "m²", "m³", "outer m²", "glass m²", "occupied");
    for (const RoomFacts& r : rooms)
      fmt::print("{:<28}{:>9.1f}{:>9.1f}{:>10.1f}{:>10.2f}  {}\n", r.name, r.area, r.volume, r.exposedArea,
                 r.allWindows(), r.counted ? "yes" : "no: " + r.reason);
  }
  printFindings(findings);
  return anyStops(findings) ? 1 : 0;
}

int runWhy(const RunCall& c, StudyKind kind, const std::string& sensor) {
  const auto loaded = readProject(c.project);
  if (!loaded) return complain(loaded.error().text(), 1);
  const auto studies = askedStudies(loaded->project, kind, c);
  if (!studies) return complain(studies.error().text(), 2);
  const auto input = lightInput(loaded->project, studies->front());
  if (!input) return complain(input.error().text(), 1);
  RunControl control;
  StudyRunner runner(nullptr, {c.threads});
  for (std::size_t i = 0; i < input->sensors.sensors.size(); ++i) {
    if (input->sensors.sensorName(i) != sensor) continue;
    // A run of its own for the one that is asked about, not the whole study.
    LightInput one = *input;
    SensorGridFacts own = input->sensors.groups[input->sensors.sensors[i].group];
    own.first = 0;
    own.count = 1;
    own.cells.clear();
    own.pointNames = {sensor};
    one.sensors.sensors = {input->sensors.sensors[i]};
    one.sensors.sensors[0].group = 0;
    one.sensors.groups = {own};
    const auto result = runner.light(one, control, "why");
    for (const std::string& line : explain(one, result ? result->get() : nullptr, 0).sentences)
      fmt::print("{}\n", line);
    return 0;
  }
  return complain(fmt::format("why: there is no sensor called \"{}\"", sensor), 2);
}

} // namespace

void addLight(CLI::App& app, Session& session) {
  auto* sky = app.add_subcommand("sky", "Luminance of a sky in given directions, horizontal and vertical illuminance");
  auto s = std::make_shared<SkyCall>();
  sky->add_option("--sky", s->sky, "cie-overcast, uniform, cie-1 … cie-15, clear, intermediate, perez");
  sky->add_option("--sun-altitude", s->sunAltitude, "degrees");
  sky->add_option("--sun-azimuth", s->sunAzimuth, "degrees from north through east (180)");
  sky->add_option("--latitude", s->latitude, "degrees, with --at instead of the sun's angles");
  sky->add_option("--longitude", s->longitude, "degrees");
  sky->add_option("--zone", s->zone, "of --at (UTC)");
  sky->add_option("--at", s->at, "2026-06-21T14:00:00");
  sky->add_option("--diffuse", s->diffuse, "lx on the horizontal");
  sky->add_option("--direct", s->direct, "lx on a plane facing the sun");
  sky->add_option("--dni", s->dni, "W/m², direct normal; perez");
  sky->add_option("--dhi", s->dhi, "W/m², diffuse horizontal; perez");
  sky->add_option("--dew-point", s->dewPoint, "°C; perez (10)");
  sky->add_option("--day", s->day, "day of the year, for the Earth's distance; perez (172)")->check(CLI::Range(1, 366));
  sky->add_option("--direction", s->directions, "ALTITUDE,AZIMUTH in degrees; may be repeated");
  sky->add_flag("--json", s->json, "as JSON");
  sky->add_flag("--csv", s->csv, "directions as CSV");
  sky->callback([s, &session] { session.exit = runSky(*s); });

  struct RoomsCall {
    std::string project;
    bool json = false, csv = false;
  };
  auto* rooms = app.add_subcommand("rooms", "The table of rooms");
  auto r = std::make_shared<RoomsCall>();
  rooms->add_option("project", r->project, "project file")->required();
  rooms->add_flag("--json", r->json, "as JSON");
  rooms->add_flag("--csv", r->csv, "as CSV");
  rooms->callback([r, &session] { session.exit = runRooms(r->project, r->json, r->csv); });

  auto* finishes = app.add_subcommand("finishes", "Finishes and glazings that ship, as JSON");
  finishes->callback([] {
    Json j;
    for (const Finish& f : libraryFinishes())
      j["finishes"].push_back(Json{{"name", f.name},
                                   {"reflectance", f.reflectance},
                                   {"specular", f.specular},
                                   {"roughness", f.roughness},
                                   {"source", f.source}});
    for (const Glazing& g : libraryGlazings())
      j["glazings"].push_back(Json{{"name", g.name},
                                   {"transmittance", g.transmittance},
                                   {"panes", g.panes},
                                   {"diffuse", g.diffuse},
                                   {"solar_factor", g.solarFactor},
                                   {"u_value", g.uValue},
                                   {"source", g.source}});
    fmt::print("{}\n", j.dump(2));
  });

  auto* why = app.add_subcommand("why", "Why is the value of a sensor what it is?");
  struct WhyCall {
    RunCall call;
    std::string study = "daylight-factor", sensor;
  };
  auto w = std::make_shared<WhyCall>();
  why->add_option("project", w->call.project, "project file")->required();
  why->add_option("--study", w->study, "kind of study (daylight-factor)");
  why->add_option("--name", w->call.name, "only the study of this name or id");
  why->add_option("--sensor", w->sensor, "name of the sensor, as in the table")->required();
  why->callback([w, &session] {
    const auto kind = studyFromKey(w->study);
    session.exit = !kind || *kind == StudyKind::SunHours
                       ? complain("why: --study daylight-factor, illuminance, sky-view or vsc", 2)
                       : runWhy(w->call, *kind, w->sensor);
  });
}

} // namespace noonward::cli
