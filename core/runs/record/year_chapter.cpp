#include "core/runs/record/year_chapter.h"
#include "core/model/settings/study_fields.h"
#include "core/studies/hourly_sky.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

int provisionAsked(const Project& p, const YardstickShelf& shelf) {
  for (const Judgement& j : p.judgements)
    if (const Yardstick* y = shelf.find(j.yardstick); y && y->measure == Measure::ProvisionHours)
      if (const auto changed = withChanges(*y, j.changed))
        return changed->word("level") == "high" ? 3 : changed->word("level") == "medium" ? 2 : 1;
  return 0;
}

ProvisionRooms provisionRooms(const Reading& r, const YearFacts& f, int level) {
  ProvisionRooms out;
  for (std::size_t k = 0; k < r.provisionLevels.size() && k < f.counted.size(); ++k) {
    if (!f.counted[k] || f.sensors.groups[k].count == 0) continue;
    ++out.all;
    out.same += int(r.provisionLevels[k]) >= level;
    out.own += int(r.provisionOwnLevels[k]) >= level;
  }
  return out;
}

Expected<YearChapter> yearChapter(const Project& p, const Study& study, const YardstickShelf& shelf,
                                  StudyRunner& runner, RunControl& control) {
  YearChapter out;
  out.study = study;
  auto year = runner.year(p, study.groups, study.year, control, study.name);
  if (!year) return tl::unexpected(year.error());
  if (!year->result->everySpace) return fail("The run was stopped before every room had figures.");
  out.year = std::move(*year);
  const YearFacts& f = out.year.facts;
  out.limit = aseLimit(p, shelf);
  out.provision = provisionAsked(p, shelf);
  for (const Judgement& j : p.judgements)
    if (const Yardstick* y = shelf.find(j.yardstick); y && y->measure == Measure::SdaCredit && !out.credit)
      out.credit = *y;
  const auto input = yearInput(p, study.groups, study.year, &runner.kept());
  if (!input) return tl::unexpected(input.error());
  out.readings = contestedReadings(p, *input, out.year.result->rounds, runner.kept(), control);
  for (std::size_t k = 0; k < f.sensors.groups.size(); ++k) {
    if (!f.counted[k] || f.sensors.groups[k].count == 0 || out.year.result->spaces[k].ase <= out.limit + 1e-9) continue;
    const auto series = spaceSeries(*input, k, 0, runner.kept(), control);
    if (!series) return tl::unexpected(series.error());
    const BeamHours beam = beamHours(*series, study.year, p.zone(), p.site.weather->utcOffset, p.site.year, {});
    const Room* room = f.rooms[k] ? p.room(f.rooms[k]) : nullptr;
    out.bright.push_back({k, out.year.result->spaces[k].ase,
                          "Sensors above the limit have on average " + beamHoursText(beam, *series, f.groups),
                          room ? room->glare : ""});
  }
  out.findings = f.findings;
  for (const Finding& x : input->findings)
    if (std::find(f.findings.begin(), f.findings.end(), x) == f.findings.end()) out.findings.push_back(x);
  return out;
}

std::vector<SettingLine> settingLines(const Project& p, const YearChapter& f) {
  const YearSettings& s = f.study.year;
  const YearResult& r = *f.year.result;
  std::vector<SettingLine> out;
  std::optional<YearSettings> proposed;
  if (f.credit) proposed = yearSettingsOf(*f.credit, s);
  const auto line = [&](std::string name, std::string value, const std::string& wanted) {
    out.push_back({std::move(name), value,
                   !proposed         ? ""
                   : value == wanted ? "as proposed"
                                     : "departs: " + wanted + " proposed"});
  };
  const YearSettings w = proposed.value_or(s);
  const auto hours = [](const YearSettings& y) {
    return fmt::format("{} to {} by the clock{}{}", clockText(y.beginMinute), clockText(y.endMinute),
                       y.weekdaysOnly ? ", Monday to Friday" : ", every day", y.clockChanges ? "" : ", standard time");
  };
  line("Hours", hours(s), hours(w));
  const ShownUnit light = shownUnit("lx", p.units);
  const auto lux = [&](double v) { return fmt::format("{:.4g} {}", light.shown(v), light.symbol); };
  const auto enough = [&](const MetricSettings& m) {
    return fmt::format("≥ {} in ≥ {:g} % of the hours", lux(m.threshold), 100 * m.autonomy);
  };
  line("Target illuminance", enough(s.metrics), enough(w.metrics));
  const auto beam = [&](const MetricSettings& m) { return fmt::format("≥ {} in > {:g} h", lux(m.beam), m.beamHours); };
  line("ASE threshold (direct)", beam(s.metrics), beam(w.metrics));
  const auto blinds = [&](const YearSettings& y) {
    return y.blinds != BlindRule::Standard
               ? blindsText(y)
               : fmt::format(
                     "a group of windows closes while > {:g} % of the room's sensors get ≥ {} of beam through it",
                     100 * y.closesAbove, lux(y.closesAt));
  };
  line("Blinds", blinds(s), blinds(w));
  for (const WindowGroup& g : f.year.facts.groups)
    if (const BlindRule own = s.blindsOf(g.key);
        !g.key.empty() &&
        std::any_of(s.groupBlinds.begin(), s.groupBlinds.end(), [&](const GroupBlinds& b) { return b.group == g.key; }))
      line("Blinds of " + g.name, blindsText(s, own), blindsText(w, w.blindsOf(g.key)));
  const auto fabric = [](const YearSettings& y) {
    return fmt::format("{:g} % straight, {:g} % scattered; {}", 100 * y.fabricDirect, 100 * y.fabricDiffuse,
                       fabricText(y));
  };
  line("Shade fabric, closed", fabric(s), fabric(w));
  for (const SensorGroup& g : p.groups)
    if (const auto* grid = std::get_if<RoomGrid>(&g.layout);
        grid && (f.study.groups.empty() ||
                 std::find(f.study.groups.begin(), f.study.groups.end(), g.id) != f.study.groups.end())) {
      const bool feet = p.units.feet(); // with decimals: a fraction of an inch would hide a departure
      const auto metres = [&](double v) {
        return feet ? fmt::format("{:.4g} ft", v / metresPer(LengthUnit::Foot)) : fmt::format("{:g} m", v);
      };
      const auto text = [&](const RoomGrid& x) {
        return fmt::format("{} above the floor, spacing {} at most, {} from walls: {}", metres(x.height),
                           metres(x.spacing), metres(x.wallDistance), gridLayoutText(x.layout));
      };
      RoomGrid wanted = f.credit ? gridOf(*f.credit) : *grid;
      if (grid->spacing <= wanted.spacing) wanted.spacing = grid->spacing; // finer is as proposed
      line("Sensor grid \"" + g.name + "\"", text(*grid), text(wanted));
      double widest = 0, nearest = 1e300; // as it came out
      for (const SensorGridFacts& laid : f.year.facts.sensors.groups)
        if (laid.id == g.id && laid.count > 0) {
          widest = std::max(widest, laid.spacing);
          nearest = std::min(nearest, laid.distance);
        }
      if (widest > 0)
        out.push_back({"Sensor grid \"" + g.name + "\", as laid",
                       fmt::format("widest spacing {:.3f} {}, nearest point {:.3f} {} from a wall, each counted by the "
                                   "true area of its cell",
                                   widest / (feet ? metresPer(LengthUnit::Foot) : 1), feet ? "ft" : "m",
                                   nearest / (feet ? metresPer(LengthUnit::Foot) : 1), feet ? "ft" : "m"),
                       ""});
    }
  if (p.site.weather)
    line("Illuminance from", illuminanceText(*p.site.weather, s.ownIlluminance), "irradiance × efficacy");
  line("Further loss in frames and dirt", fmt::format("{:g} %", 100 * (1 - s.glassKept)), "0 %");
  // Whatever else there is to set, by its description: a field that is added stands here without a word more.
  static constexpr std::string_view told[] = {"schedule",
                                              "weekdays",
                                              "clock-changes",
                                              "threshold",
                                              "share-of-hours",
                                              "ase-threshold",
                                              "ase-hours",
                                              "blinds",
                                              "closes-at",
                                              "closes-above",
                                              "closes-at-irradiance",
                                              "shut",
                                              "blinds-of",
                                              "fabric-direct",
                                              "fabric-diffuse",
                                              "fabric-reflectance",
                                              "error",
                                              "illuminance",
                                              "glass-kept",
                                              "stop-when-certain",
                                              "confidence"};
  Study asProposed = f.study;
  asProposed.year = w;
  const auto wanted = settingTexts(asProposed, p.units);
  for (const SettingText& t : settingTexts(f.study, p.units)) {
    if (std::find(std::begin(told), std::end(told), t.key) != std::end(told)) continue;
    const auto like =
        std::find_if(wanted.begin(), wanted.end(), [&](const SettingText& x) { return x.name == t.name; });
    line(t.name, t.value, like == wanted.end() ? t.value : like->value);
  }
  out.push_back({"Sensors", fmt::format("{}", r.sensors.size()), ""});
  out.push_back({"Error asked of a sensor's mean", fmt::format("{:g} %", 100 * s.error),
                 s.error == YearSettings{}.error ? "default" : ""});
  out.push_back({"How the run ended",
                 r.end == RunEnd::Enough ? "stopped early by hand"
                 : r.certain ? fmt::format("stopped by itself: the verdict was {:.2f} % certain ({:g} % asked)",
                                           100 * r.certainty, 100 * s.confidence)
                             : "all paths traced",
                 ""});
  return out;
}

std::string spaceId(const YearFacts& f, std::size_t space) {
  return f.rooms[space] ? f.rooms[space].text() : f.sensors.groups[space].id.text();
}

} // namespace noonward
