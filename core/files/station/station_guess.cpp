#include "core/base/units.h"
#include "core/base/words.h"
#include "core/files/station/station_reader.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace noonward {

namespace {
std::string lower(std::string s) {
  for (char& c : s) c = char(c >= 'A' && c <= 'Z' ? c + 32 : c);
  return s;
}

/// Whole words of a name: "T_air [°C]" → t, air, c.
std::vector<std::string> wordsOfName(const std::string& name) {
  std::vector<std::string> out(1);
  for (const char c : lower(name)) {
    const auto u = static_cast<unsigned char>(c);
    if (std::isalpha(u) != 0 || u >= 0x80)
      out.back() += c;
    else if (!out.back().empty())
      out.emplace_back();
  }
  if (out.back().empty()) out.pop_back();
  return out;
}

/// What a column is by its name; nothing where the name says nothing, or something else (soil, battery).
std::optional<Measured> byName(const std::string& name) {
  const std::string n = lower(name);
  const std::vector<std::string> words = wordsOfName(name);
  const auto part = [&](std::initializer_list<const char*> list) {
    return std::any_of(list.begin(), list.end(), [&](const char* w) { return n.find(w) != std::string::npos; });
  };
  const auto word = [&](std::initializer_list<const char*> list) {
    return std::any_of(list.begin(), list.end(),
                       [&](const char* w) { return std::find(words.begin(), words.end(), w) != words.end(); });
  };
  if (part({"soil", "ground temp", "batter", "panel", "module", "water", "surface", "jord", "boden", "status", "flag",
            "quality"}))
    return {};
  if (part({"dew", "taup", "dugpunkt"}) || word({"td", "tdew"})) return Measured::DewPoint;
  if (part({"humid", "feuchte", "fugt", "fuktighet"}) || word({"rh", "rf"})) return Measured::RelativeHumidity;
  if (part({"press", "luftdruck", "lufttryk", "baro"}) || word({"hpa", "mbar"})) return Measured::Pressure;
  if (part({"wind", "vind"}) && part({"dir", "richtung", "retning"})) return Measured::WindDirection;
  if (word({"wd"})) return Measured::WindDirection;
  if (part({"wind", "vind"}) || word({"ws", "ff"})) return Measured::WindSpeed;
  if (part({"diffus"}) && (part({"lux", "illum"}) || word({"lx", "klx"}))) return Measured::DiffuseIlluminance;
  if (part({"diffus"}) || word({"dhi"})) return Measured::Diffuse;
  if (part({"direct", "beam", "direkt"}) || word({"dni", "bni"})) return Measured::Beam;
  if (part({"global"}) && (part({"lux", "illum"}) || word({"lx", "klx"}))) return Measured::GlobalIlluminance;
  if (part({"global", "solar rad", "pyrano"}) || word({"ghi", "gh"})) return Measured::Global;
  if (part({"cloud", "sky cover", "bewölk", "skydække"})) return Measured::SkyCover;
  if (part({"rain", "precip", "niedersch", "nedbør"})) return Measured::Rain;
  if (part({"lufttemp", "air temp", "temp", "tair", "t_air"}) || word({"ta", "tl", "temperature", "tdb"}))
    return Measured::DryBulb;
  if (part({"illum", "lux"}) || word({"lx", "klx"})) return Measured::Light;
  if (part({"irradiance", "irrad"}) || n.find("w/m") != std::string::npos) return Measured::Radiant;
  return {};
}

/// What stands in brackets at a name's end.
std::string inBrackets(const std::string& name) {
  for (const auto& [open, close] : {std::pair{'[', ']'}, {'(', ')'}}) {
    const auto from = name.rfind(open), to = name.rfind(close);
    if (from != std::string::npos && to != std::string::npos && to > from) return name.substr(from + 1, to - from - 1);
  }
  return {};
}

/// By its numbers, where neither head nor map say.
const MeasuredUnit* byNumbers(Measured q, const std::vector<double>& values, double step) {
  if (values.empty()) return &unitsOf(q)[0];
  const auto [low, high] = std::minmax_element(values.begin(), values.end());
  const auto named = [&](const char* name) { return unitNamed(q, name); };
  switch (q) {
  case Measured::DryBulb:
  case Measured::DewPoint:
    return *low > 200 ? named("K") : *high > 62 ? named("°F") : named("°C");
  case Measured::RelativeHumidity:
    return *high <= 1.05 ? named("0…1") : named("%");
  case Measured::Pressure:
    return *high > 20000 ? named("Pa") : *high > 200 ? named("hPa") : named("kPa");
  case Measured::Global:
  case Measured::Beam:
  case Measured::Diffuse:
    if (*high <= 0) return named("W/m²");
    return *high <= 1.6 ? named("kW/m²") : *high <= 5.5 && step >= 3000 ? named("MJ/m²") : named("W/m²");
  case Measured::GlobalIlluminance:
  case Measured::DiffuseIlluminance:
    return *high > 0 && *high <= 160 ? named("klx") : named("lx");
  default:
    return &unitsOf(q)[0];
  }
}

/// Of a column asked for by name or by its number from 1 on.
std::optional<std::size_t> columnNamed(const TableFacts& table, const std::string& asked) {
  for (std::size_t k = 0; k < table.names.size(); ++k)
    if (table.names[k] == asked) return k;
  for (std::size_t k = 0; k < table.names.size(); ++k)
    if (lower(table.names[k]) == lower(asked)) return k;
  const auto number = numberFromText(asked);
  if (number && *number >= 1 && *number <= double(table.names.size()) && *number == std::floor(*number))
    return std::size_t(*number) - 1;
  return {};
}
tl::unexpected<Error> noColumn(const TableFacts& table, const std::string& asked, const std::string& file) {
  const std::string meant = meantWord(asked, table.names);
  std::string all;
  for (std::size_t k = 0; k < table.names.size() && k < 12; ++k) all += (k > 0 ? ", \"" : "\"") + table.names[k] + "\"";
  return fail(meant.empty() ? fmt::format("No column is called \"{}\"; there are {}.", asked, all)
                            : fmt::format("No column is called \"{}\"; \"{}\" is one.", asked, meant),
              file);
}

std::vector<std::string> columnOf(const TableFacts& table, std::size_t time, std::optional<std::size_t> date) {
  std::vector<std::string> out;
  for (const auto& row : table.sample)
    if (time < row.size() && (!date || *date < row.size()))
      out.push_back(date ? row[*date] + " " + row[time] : row[time]);
  return out;
}

double usualStep(const std::vector<std::string>& stamps, const StampForm& form) {
  std::vector<double> steps;
  std::optional<double> last;
  for (const std::string& text : stamps)
    if (const auto t = stampOf(text, form)) {
      const double s = utc(t->time).seconds;
      if (last && s > *last) steps.push_back(s - *last);
      last = s;
    }
  if (steps.empty()) return 3600;
  std::nth_element(steps.begin(), steps.begin() + std::ptrdiff_t(steps.size() / 2), steps.end());
  return steps[steps.size() / 2];
}
} // namespace

Expected<StationGuess> guessStation(const std::filesystem::path& path, const StationMap& map) {
  auto table = TableStream::open(path, map.table);
  if (!table) return tl::unexpected(table.error());
  StationGuess out;
  out.table = (*table)->facts();
  out.map = map;
  const std::string file = path.filename().string();
  const TableFacts& t = out.table;
  // The stamp.
  const auto wanted = [&](const std::string& asked, std::size_t& to) -> Outcome {
    const auto k = columnNamed(t, asked);
    if (!k) return noColumn(t, asked, file);
    to = *k;
    return {};
  };
  if (!map.time.empty()) {
    if (const Outcome o = wanted(map.time, out.time); !o) return tl::unexpected(o.error());
    if (!map.date.empty()) {
      std::size_t k = 0;
      if (const Outcome o = wanted(map.date, k); !o) return tl::unexpected(o.error());
      out.date = k;
    }
    const auto form = stampFormOf(columnOf(t, out.time, out.date), map.dates);
    if (!form) return fail(fmt::format("Most of column \"{}\" are no times.", t.names[out.time]), file);
    out.form = *form;
  } else {
    bool found = false;
    for (std::size_t k = 0; k < t.names.size() && !found; ++k) {
      const std::vector<std::string> one = columnOf(t, k, {});
      const bool stamp = std::any_of(
          one.begin(), one.end(), [](const std::string& s) { return s.find_first_of(":-/.T") != std::string::npos; });
      const std::string name = lower(t.names[k]);
      const bool called = name.find("time") != std::string::npos || name.find("date") != std::string::npos ||
                          name.find("stamp") != std::string::npos || name.find("zeit") != std::string::npos ||
                          name.find("datum") != std::string::npos || name.find("tid") != std::string::npos ||
                          name.find("dato") != std::string::npos;
      const auto form = stampFormOf(one, map.dates);
      if (!form || (form->kind != StampForm::Kind::Calendar && !called && k > 0) || (!stamp && !called && k > 0))
        continue;
      if (form->kind == StampForm::Kind::Calendar && k > 0 && !called && !stamp) continue;
      out.form = *form;
      out.time = k;
      found = true;
      // A date alone: does the next column hold the clock?
      const bool clock =
          std::any_of(one.begin(), one.end(), [](const std::string& s) { return s.find(':') != std::string::npos; });
      if (form->kind == StampForm::Kind::Calendar && !clock && k + 1 < t.names.size()) {
        const std::vector<std::string> next = columnOf(t, k + 1, {});
        const std::string nextName = lower(t.names[k + 1]);
        const auto clocks = std::count_if(next.begin(), next.end(),
                                          [](const std::string& s) { return s.find(':') != std::string::npos; });
        if (2 * std::size_t(clocks) > next.size() || nextName.find("hour") == 0 ||
            nextName.find("time") != std::string::npos || nextName.find("zeit") != std::string::npos) {
          out.date = k;
          out.time = k + 1;
          if (const auto both = stampFormOf(columnOf(t, out.time, out.date), map.dates)) out.form = *both;
        }
      }
    }
    if (!found)
      return fail("No column of times was found: name it in the map as \"time\" (and \"date\", where it stands apart).",
                  file);
    out.map.time = t.names[out.time];
    if (out.date) out.map.date = t.names[*out.date];
  }
  out.step = map.step > 0 ? map.step : usualStep(columnOf(t, out.time, out.date), out.form);
  out.map.step = out.step;
  if (!out.map.stamps) out.map.stamps = out.step >= 60 ? StampAt::End : StampAt::Begin;
  if (!out.map.dates && out.form.kind == StampForm::Kind::Calendar) out.map.dates = out.form.order;
  out.map.table = {t.separator, t.decimalComma ? ',' : '.'};

  if (map.columns.empty()) {
    std::set<Measured> once;
    for (std::size_t k = 0; k < t.names.size(); ++k) {
      if (k == out.time || (out.date && k == *out.date)) continue;
      std::optional<Measured> is = byName(t.names[k]);
      if (!is && !t.units[k].empty() && unitNamed(Measured::Light, t.units[k]) != nullptr) is = Measured::Light;
      if (is && *is != Measured::Light && *is != Measured::Radiant && !once.insert(*is).second) is = {};
      if (!is) {
        out.unused.push_back(t.names[k]);
        continue;
      }
      out.map.columns.push_back({t.names[k], *is, "", ""});
      out.at.push_back(k);
    }
  } else {
    for (const StationColumn& c : map.columns) {
      const auto k = columnNamed(t, c.column);
      if (!k) return noColumn(t, c.column, file);
      out.at.push_back(*k);
    }
  }
  for (std::size_t c = 0; c < out.map.columns.size(); ++c) {
    StationColumn& column = out.map.columns[c];
    if (!column.unit.empty()) continue;
    const std::size_t k = out.at[c];
    const MeasuredUnit* unit = unitNamed(column.is, t.units[k]);
    if (unit == nullptr) unit = unitNamed(column.is, inBrackets(t.names[k]));
    if (unit == nullptr) { // "T_C", "wind_kmh"
      const auto words = wordsOfName(t.names[k]);
      if (words.size() > 1) unit = unitNamed(column.is, words.back());
    }
    if (unit == nullptr) {
      std::vector<double> values;
      for (const auto& row : t.sample)
        if (k < row.size())
          if (const auto v = cellNumber(row[k], t.decimalComma); v && std::isfinite(*v)) values.push_back(*v);
      unit = byNumbers(column.is, values, out.step);
    }
    column.unit = unit->name;
  }
  return out;
}

} // namespace noonward
