#include "cli/commands.h"
#include "core/base/json.h"
#include "core/files/epw.h"
#include "core/sky/weather_check.h"
#include <fmt/format.h>
#include <memory>

namespace noonward::cli {

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
    Json j{{"file", file}, {"hours", w->hours.size()}, {"notes", w->notes}, {"findings", Json::array()}};
    for (const Finding& f : c.findings)
      j["findings"].push_back(Json{
          {"rank", rankText(f.rank)}, {"code", f.code}, {"text", f.text}, {"count", f.count}, {"mend", f.mendText}});
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

int show(const std::string& file, bool json) {
  const auto w = readEpw(file);
  if (!w) return complain(w.error().text(), 1);
  struct Month {
    double ghi = 0, dni = 0, dhi = 0, temperature = 0;
    int hours = 0;
  };
  std::array<Month, 13> months;
  for (const WeatherHour& h : w->hours)
    for (std::size_t m : {std::size_t(0), std::size_t(h.month)}) {
      const auto known = [](double v) { return std::isnan(v) ? 0 : v; };
      months[m].ghi += known(h[WeatherField::GlobalHorizontal]) / 1000;
      months[m].dni += known(h[WeatherField::DirectNormal]) / 1000;
      months[m].dhi += known(h[WeatherField::DiffuseHorizontal]) / 1000;
      months[m].temperature += known(h[WeatherField::DryBulb]);
      ++months[m].hours;
    }
  Json rows = Json::array();
  if (!json)
    fmt::print("{} ({}), kWh/m²\n{:<8}{:>10}{:>10}{:>10}{:>8}\n", w->name(), w->source, "", "global", "direct",
               "diffuse", "°C");
  for (std::size_t k = 1; k <= 13; ++k) {
    const Month& m = months[k % 13];
    if (m.hours == 0) continue;
    const std::string name = k == 13 ? "year" : monthName(int(k));
    if (json)
      rows.push_back(Json{{"period", name},
                          {"global_horizontal_kwh_m2", m.ghi},
                          {"direct_normal_kwh_m2", m.dni},
                          {"diffuse_horizontal_kwh_m2", m.dhi},
                          {"dry_bulb_mean_c", m.temperature / m.hours}});
    else
      fmt::print("{:<8}{:>10.1f}{:>10.1f}{:>10.1f}{:>8.1f}\n", name, m.ghi, m.dni, m.dhi, m.temperature / m.hours);
  }
  if (json) fmt::print("{}\n", rows.dump(2));
  return 0;
}

} // namespace

void addWeather(CLI::App& app, Session& session) {
  auto* w = app.add_subcommand("weather", "Weather files: check them, mend them, show their months");
  w->require_subcommand(1);
  struct WeatherCall {
    std::string file, out;
    std::vector<std::string> mends;
    bool json = false;
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
  showCommand->add_flag("--json", c->json, "as JSON");
  showCommand->callback([c, &session] { session.exit = show(c->file, c->json); });
}

} // namespace noonward::cli
