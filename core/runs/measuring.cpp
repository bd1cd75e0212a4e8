#include "core/runs/measuring.h"
#include "core/base/words.h"
#include "core/files/results/tables.h"
#include "core/model/rooms/sensors.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace noonward {

Expected<Study> studyForMeasuring(const Project& p, const std::string& name) {
  for (const Study& s : p.studies)
    if (s.kind == StudyKind::Year && (name.empty() || s.name == name || s.id.text() == name)) return s;
  if (!name.empty()) {
    std::string all;
    for (const Study& s : p.studies)
      if (s.kind == StudyKind::Year) all += (all.empty() ? "\"" : ", \"") + s.name + "\"";
    return fail(all.empty() ? fmt::format("The project has no daylight year called \"{}\".", name)
                            : fmt::format("The project has no daylight year called \"{}\"; it has {}.", name, all));
  }
  Study s;
  s.kind = StudyKind::Year;
  s.name = studyName(s.kind);
  return s;
}

Expected<MeasuringWish> wishOf(const MeasuredSeries& s) {
  if (s.files.empty()) return fail("No file is named.", s.name);
  MeasuringWish out;
  out.files.assign(s.files.begin(), s.files.end());
  if (!s.map.empty()) {
    auto map = stationMapFromJson(s.map, s.name + ": map");
    if (!map) return tl::unexpected(map.error());
    out.map = std::move(*map);
  }
  out.stretch = {s.firstDay, s.lastDay, s.firstHour, s.lastHour, s.night, s.leastAltitude, s.mostAltitude};
  out.year = s.year;
  return out;
}

MeasuredSeries seriesOf(const MeasuringWish& wish, const std::string& name, StudyId study,
                        const std::string& guideline) {
  MeasuredSeries s;
  s.name = name;
  for (const auto& file : wish.files) s.files.push_back(std::filesystem::absolute(file).lexically_normal().string());
  s.map = stationMapJson(wish.map).dump();
  if (study) s.study = study.text();
  const Stretch& x = wish.stretch;
  s.firstDay = x.firstDay;
  s.lastDay = x.lastDay;
  s.firstHour = x.firstHour;
  s.lastHour = x.lastHour;
  s.night = x.night;
  s.leastAltitude = x.leastAltitude;
  s.mostAltitude = x.mostAltitude;
  s.year = wish.year;
  s.guideline = guideline;
  return s;
}

Project withSeries(Project p, MeasuredSeries s) {
  for (MeasuredSeries& there : p.measured)
    if (there.name == s.name) {
      s.id = there.id;
      there = std::move(s);
      return p;
    }
  if (!s.id) s.id = SeriesId::fresh();
  p.measured.push_back(std::move(s));
  return p;
}

Expected<Measuring> measureAgainst(const Project& p, const Study& study, const MeasuringWish& wish, RunControl& control,
                                   Threads threads) {
  if (!p.site.weather) return fail("The project has no weather: computed light needs one.", "weather");
  // Hours in the clock of the weather, whatever the file keeps.
  const Zone zone = p.zone();
  const auto part = [&control](double from, double to) {
    return [&control, from, to](double share) {
      if (control.progress) control.progress(from + (to - from) * share);
    };
  };
  RunControl own;
  const auto follow = [&] { own.wish = control.wish.load(); };
  follow();
  own.progress = [&, put = part(0, 0.2)](double share) {
    follow();
    put(share);
  };
  StationMap map = wish.map;
  // By themselves, columns that name sensors count whatever they are called otherwise.
  const auto sensors = layOutSensors(p, groupsTaken(p, study.groups, false));
  if (!sensors) return tl::unexpected(sensors.error());
  if (map.columns.empty() && !wish.files.empty()) {
    const auto guess = guessStation(wish.files.front(), map);
    if (!guess) return tl::unexpected(guess.error());
    map = guess->map;
    map.columns.clear();
    for (std::size_t k = 0; k < guess->table.names.size(); ++k) {
      if (k == guess->time || (guess->date && k == *guess->date)) continue;
      std::string bare = guess->table.names[k], unit = guess->table.units[k];
      if (const auto at = bare.find_last_of("[("); at != std::string::npos && at > 0) {
        if (unit.empty()) unit = bare.substr(at + 1, bare.find_last_of("])") - at - 1);
        bare = bare.substr(0, at);
        while (!bare.empty() && bare.back() == ' ') bare.pop_back();
      }
      std::vector<std::string> lost;
      if (matchSensors({{bare, 0}}, *sensors, lost).empty()) continue;
      const bool radiant = unitNamed(Measured::Radiant, unit) != nullptr;
      map.columns.push_back({guess->table.names[k], radiant ? Measured::Radiant : Measured::Light,
                             radiant || unitNamed(Measured::Light, unit) ? unit : "", bare});
    }
    if (map.columns.empty()) {
      std::string named;
      for (const std::string& n : guess->table.names) named += (named.empty() ? "\"" : ", \"") + n + "\"";
      return fail(
          fmt::format("No column is called as a sensor of the study, such as \"{}\"; the file has {}. Name them "
                      "in a map (\"sensor\").",
                      sensors->sensors.empty() ? std::string("Room 1") : sensors->sensorName(0), named),
          wish.files.front().filename().string());
    }
  }
  auto read = readStations(wish.files, map, &zone, own, 300);
  if (!read) return tl::unexpected(read.error());
  if (read->end != RunEnd::Finished) return fail("Stopped.");
  bool light = false, radiant = false;
  std::vector<std::pair<std::string, std::size_t>> columns;
  for (std::size_t c = 0; c < read->columns.size(); ++c) {
    const StationColumn& column = read->columns[c];
    if (column.is != Measured::Light && column.is != Measured::Radiant) continue;
    (column.is == Measured::Light ? light : radiant) = true;
    columns.emplace_back(column.sensor.empty() ? column.column : column.sensor, c);
  }
  if (light && radiant)
    return fail("Some columns hold illuminance and some irradiance: compare one after the other.",
                wish.files.front().filename().string());
  Measuring out;
  std::vector<MeasuredAt> at = matchSensors(columns, *sensors, out.lost);
  if (at.empty())
    return fail(fmt::format("No measured column belongs to a sensor of the study: {}. Sensors are called as \"{}\".",
                            out.lost.empty() ? std::string("there are none of light")
                                             : fmt::format("{}", fmt::join(out.lost, ", ")),
                            sensors->sensors.empty() ? std::string("Room 1") : sensors->sensorName(0)),
                wish.files.front().filename().string());
  // Rays for the grids that were measured in alone.
  std::vector<GroupId> groups;
  for (const MeasuredAt& m : at)
    if (const GroupId g = sensors->groups[sensors->sensors[m.sensor].group].id;
        std::find(groups.begin(), groups.end(), g) == groups.end())
      groups.push_back(g);
  own.progress = [&, put = part(0.2, wish.reflectances ? 0.6 : 0.95)](double share) {
    follow();
    put(share);
  };
  auto modelled = modelledHours(p, groups, study.year, radiant, own, threads);
  if (!modelled) return tl::unexpected(modelled.error());
  out.lost.clear();
  at = matchSensors(columns, modelled->sensors, out.lost);
  std::optional<ModelledHours> darker;
  constexpr double darkerBy = 0.8;
  if (wish.reflectances) {
    own.progress = [&, put = part(0.6, 0.95)](double share) {
      follow();
      put(share);
    };
    auto other = modelledHours(p, groups, study.year, radiant, own, threads, darkerBy);
    if (!other) return tl::unexpected(other.error());
    darker = std::move(*other);
  }
  auto comparison = compareMeasured(*modelled, read->means, at, wish.stretch, wish.year > 0 ? wish.year : map.year,
                                    darker ? &*darker : nullptr, darkerBy);
  if (!comparison) return tl::unexpected(comparison.error());
  out.map = std::move(read->map);
  out.notes = std::move(read->notes);
  out.rows = read->rows;
  out.used = read->used;
  out.faults = std::move(read->faults);
  out.unit = modelled->unit();
  out.key = modelled->key;
  out.comparison = std::move(*comparison);
  for (const Findings* list : {&read->findings, &modelled->findings, &out.comparison.findings})
    out.findings.insert(out.findings.end(), list->begin(), list->end());
  if (!out.lost.empty())
    out.findings.push_back({Rank::BendsResult,
                            "measured.lost",
                            fmt::format("{} to no sensor of the study and {} left out: {}.",
                                        counted(out.lost.size(), "column belongs", "columns belong"),
                                        out.lost.size() == 1 ? "is" : "are", fmt::join(out.lost, ", ")),
                            int(out.lost.size()),
                            {},
                            "",
                            ""});
  out.findings = merged(std::move(out.findings));
  if (control.progress) control.progress(1);
  return out;
}

std::string measuringCsv(const Measuring& m) {
  std::string out = "month,day,hour";
  for (const ComparedSensor& s : m.comparison.sensors)
    out += fmt::format(",{},{}", csvField(s.sensor + " measured"), csvField(s.sensor + " computed"));
  out += "\n";
  for (std::size_t h = 0; h < hoursOfYear; ++h) {
    const Date d = plusDays({2025, 1, 1}, int(h / 24));
    out += fmt::format("{},{},{}", d.month, d.day, h % 24 + 1);
    for (const ComparedSensor& s : m.comparison.sensors)
      out += std::isfinite(s.measured[h]) ? fmt::format(",{:.1f},{:.1f}", s.measured[h], s.modelled[h]) : ",,";
    out += "\n";
  }
  return out;
}

} // namespace noonward
