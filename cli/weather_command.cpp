#include "cli/weather_command.h"
#include "cli/commands.h"
#include "core/files/epw.h"
#include "core/files/weather_json.h"
#include "core/sky/splitting.h"
#include "core/sky/weather_check.h"
#include "core/sky/weather_means.h"
#include <fmt/format.h>
#include <memory>

namespace noonward::cli {

Json weatherFindings(const Findings& findings) {
  Json out = Json::array();
  for (const Finding& f : findings)
    out.push_back(
        Json{{"rank", rankText(f.rank)}, {"code", f.code}, {"text", f.text}, {"count", f.count}, {"mend", f.mendText}});
  return out;
}

namespace {

int check(const std::string& file, bool json, const std::vector<std::string>& mends, const std::string& out) {
  auto w = readEpw(file);
  if (!w) return complain(w.error().text(), 1);
  for (const std::string& code : mends) {
    auto mended = mendWeather(*w, code);
    if (!mended) return complain(mended.error().text(), 2);
    w = std::move(mended);
  }
  if (!out.empty())
    if (const Outcome o = saveFile(out, epwText(*w)); !o) return complain(o.error().text(), 1);
  const WeatherCheck c = checkWeather(*w);
  if (json) {
    Json j{{"file", file}, {"hours", w->hours.size()}, {"notes", w->notes}, {"findings", weatherFindings(c.findings)}};
    for (const auto& r : c.rows) j["rows"].push_back(Json{{"code", r.code}, {"row", rowOf(*w, r.hour)}});
    fmt::print("{}\n", j.dump(2));
  } else {
    fmt::print("{}: {} hours, {:.4f}°, {:.4f}°, {:.0f} m, UTC{}\n", w->name(), w->hours.size(),
               degrees(w->place.latitude), degrees(w->place.longitude), w->place.elevation, offsetText(w->utcOffset));
    for (const std::string& n : w->notes) fmt::print("note: {}\n", n);
    for (const Finding& f : c.findings)
      fmt::print("{}: {}{}\n", rankText(f.rank), f.text,
                 f.mend.empty() ? "" : fmt::format(" [--mend {}: {}]", f.mend, f.mendText));
    if (c.findings.empty()) fmt::print("nothing found\n");
  }
  return anyStops(c.findings) ? 1 : 0;
}

/// One year's months, or two side by side with what the second has more.
int show(const std::string& file, const std::string& against, bool json) {
  const auto w = readEpw(file);
  if (!w) return complain(w.error().text(), 1);
  const auto months = monthsOf(*w);
  std::optional<std::array<WeatherMonth, 13>> others;
  if (!against.empty()) {
    const auto other = readEpw(against);
    if (!other) return complain(other.error().text(), 1);
    others = monthsOf(*other);
  }
  const auto figure = [](double v) { return std::isfinite(v) ? Json(v) : Json(); };
  Json rows = Json::array();
  if (!json)
    fmt::print("{} ({}), kWh/m²{}\n{:<8}{:>10}{:>10}{:>10}{:>8}\n", w->name(), w->source,
               others ? "; below each month what " + against + " has more" : "", "", "global", "direct", "diffuse",
               "°C");
  for (std::size_t k = 0; k < 13; ++k) {
    const WeatherMonth& m = months[k];
    if (m.hours == 0) continue;
    const std::string name = k == 12 ? "year" : monthName(int(k) + 1);
    if (json) {
      Json row{{"period", name},
               {"global_horizontal_kwh_m2", m.global},
               {"direct_normal_kwh_m2", m.beam},
               {"diffuse_horizontal_kwh_m2", m.diffuse},
               {"dry_bulb_mean_c", figure(m.temperature)}};
      if (others) {
        const WeatherMonth& o = (*others)[k];
        row["more"] = Json{{"global_horizontal_kwh_m2", o.global - m.global},
                           {"direct_normal_kwh_m2", o.beam - m.beam},
                           {"diffuse_horizontal_kwh_m2", o.diffuse - m.diffuse},
                           {"dry_bulb_mean_c", figure(o.temperature - m.temperature)}};
      }
      rows.push_back(std::move(row));
      continue;
    }
    fmt::print("{:<8}{:>10.1f}{:>10.1f}{:>10.1f}{:>8.1f}\n", name, m.global, m.beam, m.diffuse, m.temperature);
    if (others)
      fmt::print("{:<8}{:>+10.1f}{:>+10.1f}{:>+10.1f}{:>+8.1f}\n", "", (*others)[k].global - m.global,
                 (*others)[k].beam - m.beam, (*others)[k].diffuse - m.diffuse,
                 (*others)[k].temperature - m.temperature);
  }
  if (json) fmt::print("{}\n", rows.dump(2));
  return 0;
}

/// A column by month, and by month and hour.
int showColumn(const std::string& file, const std::string& column, bool json) {
  const auto w = readEpw(file);
  if (!w) return complain(w.error().text(), 1);
  std::optional<WeatherField> field;
  std::string known;
  for (std::size_t f = 0; f < weatherFieldCount; ++f) {
    if (column == facts(WeatherField(f)).name) field = WeatherField(f);
    known += (known.empty() ? "" : ", ") + std::string(facts(WeatherField(f)).name);
  }
  if (!field) return complain(fmt::format("There is no column \"{}\": {}.", column, known), 2);
  const auto months = columnByMonth(*w, *field);
  const auto hours = columnByHour(*w, *field);
  const auto figure = [](double v) { return std::isfinite(v) ? Json(v) : Json(); };
  Json rows = Json::array();
  if (!json)
    fmt::print("{}, {}\n{:<8}{:>10}{:>10}{:>10}{:>8}\n", column, facts(*field).unit, "", "mean", "low", "high",
               "hours");
  for (std::size_t m = 0; m < 12; ++m) {
    const MonthSpread& s = months[m];
    if (json) {
      Json day = Json::array();
      for (double v : hours[m]) day.push_back(figure(v));
      rows.push_back(Json{{"month", monthName(int(m) + 1)},
                          {"mean", figure(s.mean)},
                          {"low", figure(s.low)},
                          {"high", figure(s.high)},
                          {"hours", s.hours},
                          {"by_hour", day}});
    } else {
      fmt::print("{:<8}{:>10.1f}{:>10.1f}{:>10.1f}{:>8}\n", monthName(int(m) + 1), s.mean, s.low, s.high, s.hours);
    }
  }
  if (json) fmt::print("{}\n", rows.dump(2));
  return 0;
}

int mix(const std::string& file, const std::string& other, const std::vector<int>& months, const std::string& out) {
  auto w = readEpw(file);
  if (!w) return complain(w.error().text(), 1);
  const auto with = readEpw(other);
  if (!with) return complain(with.error().text(), 1);
  const auto mixedYear = mixed(std::move(*w), *with, months[0], months[1]);
  if (!mixedYear) return complain(mixedYear.error().text(), 1);
  if (const Outcome o = saveFile(out, epwText(*mixedYear)); !o) return complain(o.error().text(), 1);
  return 0;
}

int move(const std::string& file, int hours, const std::string& out) {
  auto w = readEpw(file);
  if (!w) return complain(w.error().text(), 1);
  if (const Outcome o = saveFile(out, epwText(movedInTime(std::move(*w), hours))); !o)
    return complain(o.error().text(), 1);
  return 0;
}

int split(const std::string& file, const std::string& model, bool csv, const std::string& out) {
  auto w = readEpw(file);
  if (!w) return complain(w.error().text(), 1);
  const SplitModel by = *splitModelFromKey(model);
  const SplitYear year = splitGlobal(*w, by);
  double global = 0, beam = 0, diffuse = 0, hours = 0;
  for (std::size_t i = 0; i < year.hours.size(); ++i) {
    const SplitHour& s = year.hours[i];
    if (!s.up) continue;
    hours += 1;
    global += std::max(0.0, w->hours[i][WeatherField::GlobalHorizontal]) / 1000;
    beam += s.beam / 1000;
    diffuse += s.diffuse / 1000;
  }
  if (hours == 0)
    return complain(file + ": no hour has the sun up and global radiation: there is nothing to split.", 1);
  if (!out.empty())
    if (const Outcome o = saveFile(out, epwText(withSplit(*w, by, year))); !o) return complain(o.error().text(), 1);
  if (csv) {
    fmt::print("month,day,hour,altitude_deg,clearness,global_horizontal_w_m2,diffuse_share,direct_normal_w_m2,"
               "diffuse_horizontal_w_m2\n");
    for (std::size_t i = 0; i < year.hours.size(); ++i) {
      const SplitHour& s = year.hours[i];
      const WeatherHour& h = w->hours[i];
      const double g = h[WeatherField::GlobalHorizontal];
      fmt::print("{},{},{},{:.3f},{:.4f},{},{:.4f},{:.1f},{:.1f}\n", h.month, h.day, h.hour, degrees(s.altitude),
                 s.clearness, std::isfinite(g) ? fmt::format("{:.1f}", g) : "", s.diffuseShare, s.beam, s.diffuse);
    }
    return 0;
  }
  fmt::print("{}: {}\nglobal {:.1f}, direct normal {:.1f}, diffuse {:.1f} kWh/m²; {:.0f} hours with the sun up{}{}\n",
             w->name(), splitModelText(by), global, beam, diffuse, hours,
             year.unknown > 0 ? fmt::format("; {} without global radiation, left dark", year.unknown) : "",
             year.held > 0 ? fmt::format("; in {} the beam was held at what the cleanest air lets through", year.held)
                           : "");
  return 0;
}

int shift(const std::string& file, const std::string& by, const std::string& out) {
  auto w = readEpw(file);
  if (!w) return complain(w.error().text(), 1);
  const auto bytes = loadFile(by);
  if (!bytes) return complain(bytes.error().text(), 1);
  const auto how = weatherShiftFromJson(*bytes, by);
  if (!how) return complain(how.error().text(), 2);
  const ShiftedWeather s = shifted(std::move(*w), *how);
  if (const Outcome o = saveFile(out, epwText(s.weather)); !o) return complain(o.error().text(), 1);
  if (s.bounded > 0) fmt::print("{} hours: humidity held within 0 and 100 %\n", s.bounded);
  if (s.bright > 0) fmt::print("{} hours: the beam is above what comes from outside the atmosphere\n", s.bright);
  return 0;
}

} // namespace

void addWeather(CLI::App& app, Session& session) {
  auto* w = app.add_subcommand(
      "weather",
      "Weather files: make, fetch, check, mend, split, shift, mix, move them, show and compare their months");
  w->require_subcommand(1);
  struct WeatherCall {
    std::string file, out, model = "brl", by, other, column;
    std::vector<int> months;
    int hours = 0;
    std::vector<std::string> mends;
    bool json = false, csv = false;
  };
  auto c = std::make_shared<WeatherCall>();
  auto* checkCommand = w->add_subcommand("check", "What is wrong with a weather file");
  checkCommand->add_option("file", c->file, "EPW file")->required();
  checkCommand->add_flag("--json", c->json, "as JSON, every row named");
  checkCommand->add_option("--mend", c->mends, "carry out the mend of this code (several, in order)");
  checkCommand->add_option("--out", c->out, "write the mended year here");
  checkCommand->callback([c, &session] { session.exit = check(c->file, c->json, c->mends, c->out); });
  auto* showCommand = w->add_subcommand("show", "Monthly sums");
  showCommand->add_option("file", c->file, "EPW file")->required();
  showCommand->add_option("--against", c->other, "another year: what it has more, month by month");
  showCommand->add_option(
      "--column", c->column,
      "one column instead, such as \"dry bulb temperature\": mean, low, high (a tenth beyond each), by hour in --json");
  showCommand->add_flag("--json", c->json, "as JSON");
  showCommand->callback([c, &session] {
    session.exit = c->column.empty() ? show(c->file, c->other, c->json) : showColumn(c->file, c->column, c->json);
  });
  auto* splitCommand = w->add_subcommand("split", "Global radiation of a year split into beam and diffuse");
  splitCommand->add_option("file", c->file, "EPW file")->required();
  splitCommand->add_option("--model", c->model, "brl: by five predictors; erbs: by the hour's clearness alone (brl)")
      ->check(CLI::IsMember({"brl", "erbs"}));
  splitCommand->add_flag("--csv", c->csv, "every hour, on standard output");
  splitCommand->add_option("--out", c->out, "write the year with the new beam and diffuse here");
  splitCommand->callback([c, &session] { session.exit = split(c->file, c->model, c->csv, c->out); });
  auto* shiftCommand = w->add_subcommand("shift", "A year shifted by monthly changes, as to a warmer climate");
  shiftCommand->add_option("file", c->file, "EPW file")->required();
  shiftCommand->add_option("--by", c->by, "JSON file of the changes (docs/project-format.md)")->required();
  shiftCommand->add_option("--out", c->out, "EPW file to write")->required();
  addWeatherMake(*w, session);
  auto* mixCommand = w->add_subcommand("mix", "A year with some months of another one of the same place");
  mixCommand->add_option("file", c->file, "EPW file")->required();
  mixCommand->add_option("--with", c->other, "EPW file of the other months")->required();
  mixCommand->add_option("--months", c->months, "first and last of them, 1 to 12")
      ->expected(2)
      ->required()
      ->check(CLI::Range(1, 12));
  mixCommand->add_option("--out", c->out, "EPW file to write")->required();
  mixCommand->callback([c, &session] { session.exit = mix(c->file, c->other, c->months, c->out); });
  auto* moveCommand = w->add_subcommand("move", "A year with every hour moved, its ends joined: for files an hour off");
  moveCommand->add_option("file", c->file, "EPW file")->required();
  moveCommand->add_option("--hours", c->hours, "later where positive")->required()->check(CLI::Range(-8760, 8760));
  moveCommand->add_option("--out", c->out, "EPW file to write")->required();
  moveCommand->callback([c, &session] { session.exit = move(c->file, c->hours, c->out); });
  shiftCommand->callback([c, &session] { session.exit = shift(c->file, c->by, c->out); });
}

} // namespace noonward::cli
