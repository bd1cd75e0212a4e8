#include "core/files/station/station_map.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {
constexpr std::pair<StampAt, const char*> stampKeys[] = {
    {StampAt::Begin, "begin"}, {StampAt::Middle, "middle"}, {StampAt::End, "end"}};
constexpr std::pair<DateOrder, const char*> orderKeys[] = {
    {DateOrder::YearFirst, "ymd"}, {DateOrder::DayFirst, "dmy"}, {DateOrder::MonthFirst, "mdy"}};

std::string quantityKeys() {
  std::string out;
  for (std::size_t k = 0; k < measuredCount; ++k) out += (k > 0 ? ", " : "") + std::string(facts(Measured(k)).key);
  return out;
}

void readColumn(const Json& value, const std::string& path, const std::string& is, JsonFault& fault, StationMap& map) {
  StationColumn c;
  std::string key = is;
  if (value.is_string() || value.is_number_integer()) {
    c.column = value.is_string() ? value.get<std::string>() : std::to_string(value.get<int>());
  } else {
    JsonObject o(value, path, fault);
    const Json& named = o.raw("column");
    c.column = named.is_number_integer() ? std::to_string(named.get<int>()) : o.requiredText("column");
    if (is.empty()) key = o.requiredText("is");
    c.unit = o.text("unit");
    c.sensor = o.text("sensor");
    if (!fault.error && measuredFromKey(key) && !c.unit.empty() &&
        unitNamed(*measuredFromKey(key), c.unit) == nullptr) {
      std::string units;
      for (const MeasuredUnit& u : unitsOf(*measuredFromKey(key)))
        units += (units.empty() ? "" : ", ") + std::string(u.name);
      o.fault("unit", fmt::format("\"{}\" is no unit of {}: {}.", c.unit, key, units));
    }
  }
  if (fault.error) return;
  if (const auto q = measuredFromKey(key))
    c.is = *q;
  else
    fault.error = Error{fmt::format("\"{}\" is nothing that is measured: {}.", key, quantityKeys()), path};
  map.columns.push_back(std::move(c));
}

/// One of a few words.
template <class T, std::size_t N>
std::optional<T> word(JsonObject& o, const char* key, const std::pair<T, const char*> (&words)[N]) {
  const std::string text = o.text(key);
  if (text.empty()) return {};
  std::string all;
  for (const auto& [value, name] : words) {
    if (text == name) return value;
    all += (all.empty() ? "\"" : ", \"") + std::string(name) + "\"";
  }
  o.fault(key, "One of " + all + " is expected here.");
  return {};
}
} // namespace

const char* stampAtKey(StampAt at) {
  for (const auto& [value, key] : stampKeys)
    if (value == at) return key;
  return "";
}
std::optional<StampAt> stampAtFromKey(std::string_view key) {
  for (const auto& [value, k] : stampKeys)
    if (key == k) return value;
  return {};
}

Expected<StationMap> stationMapFromJson(std::string_view text, const std::string& name) {
  const auto root = parseJson(text, name);
  if (!root) return tl::unexpected(root.error());
  StationMap m;
  JsonFault fault;
  {
    JsonObject o(*root, "", fault);
    if (o.text("format", "noonward-station-map") != "noonward-station-map")
      o.fault("format", "\"noonward-station-map\" is expected here.");
    if (o.has("place")) {
      JsonObject p = o.object("place");
      m.name = p.text("name");
      m.place = Place{radians(p.requiredNumber("latitude", -90, 90)), radians(p.requiredNumber("longitude", -180, 180)),
                      p.number("elevation", 0, -500, 9000)};
    }
    m.clock = o.text("clock", "standard");
    if (m.clock != "standard" && m.clock != "local" && m.clock != "utc" && !stampFromText("2025-01-01T00:00" + m.clock))
      o.fault("clock", "\"standard\", \"local\", \"utc\" or an offset such as \"+01:00\" is expected here.");
    m.zone = o.text("zone");
    if (!m.zone.empty())
      if (const auto zone = Zone::named(m.zone); !zone) o.fault("zone", zone.error().message);
    m.stamps = word(o, "stamps", stampKeys);
    m.step = o.number("step", 0, 0, 86400);
    m.slip = o.number("slip", 0, -1440, 1440);
    m.year = o.integer("year", 0, 0, 2199);
    const std::string separator = o.text("separator"), decimal = o.text("decimal");
    if (separator.size() > 1 && separator != "tab") o.fault("separator", "One character is expected here, or \"tab\".");
    m.table.separator = separator == "tab" ? '\t' : separator.empty() ? char(0) : separator[0];
    if (!decimal.empty() && decimal != "." && decimal != ",") o.fault("decimal", "\".\" or \",\" is expected here.");
    m.table.decimal = decimal.empty() ? char(0) : decimal[0];
    m.dates = word(o, "dates", orderKeys);
    m.time = o.text("time");
    m.date = o.text("date");
    if (const Json& columns = o.raw("columns"); columns.is_object()) {
      for (const auto& [key, value] : columns.items()) readColumn(value, "columns." + key, key, fault, m);
    } else if (columns.is_array()) {
      for (std::size_t k = 0; k < columns.size(); ++k)
        readColumn(columns[k], fmt::format("columns[{}]", k), "", fault, m);
    } else if (!columns.is_null()) {
      o.fault("columns", "An object is expected here, as {\"dry-bulb\": \"T_air\"}, or a list.");
    }
    if (const std::string split = o.text("split"); !split.empty()) {
      if (const auto model = splitModelFromKey(split))
        m.split = *model;
      else
        o.fault("split", "\"brl\" or \"erbs\" is expected here.");
    }
    if (o.has("gaps")) {
      JsonObject g = o.object("gaps");
      m.gaps.interpolate = g.integer("interpolate", m.gaps.interpolate, 0, 24);
      m.gaps.days = g.integer("days", m.gaps.days, 0, 60);
      m.otherYear = g.text("file");
    }
  }
  if (fault.error)
    return fail(fault.error->message, name + (fault.error->place.empty() ? "" : ": " + fault.error->place));
  if (!fault.unknown.empty())
    return fail(fmt::format("\"{}\" is no key here{}.", fault.unknown.front().first,
                            fault.unknown.front().second.empty()
                                ? std::string()
                                : fmt::format("; \"{}\" is one", fault.unknown.front().second)),
                name);
  return m;
}

Json stationMapJson(const StationMap& m) {
  Json j{{"format", "noonward-station-map"}};
  if (m.place)
    j["place"] = Json{{"name", m.name},
                      {"latitude", std::round(degrees(m.place->latitude) * 1e7) / 1e7},
                      {"longitude", std::round(degrees(m.place->longitude) * 1e7) / 1e7},
                      {"elevation", m.place->elevation}};
  j["clock"] = m.clock;
  if (!m.zone.empty()) j["zone"] = m.zone;
  if (m.stamps) j["stamps"] = stampAtKey(*m.stamps);
  if (m.step > 0) j["step"] = m.step;
  if (m.slip != 0) j["slip"] = m.slip;
  if (m.year > 0) j["year"] = m.year;
  if (m.table.separator != 0) j["separator"] = m.table.separator == '\t' ? "tab" : std::string(1, m.table.separator);
  if (m.table.decimal != 0) j["decimal"] = std::string(1, m.table.decimal);
  for (const auto& [order, key] : orderKeys)
    if (m.dates == order) j["dates"] = key;
  if (!m.time.empty()) j["time"] = m.time;
  if (!m.date.empty()) j["date"] = m.date;
  for (const StationColumn& c : m.columns) {
    Json one{{"column", c.column}, {"is", facts(c.is).key}};
    if (!c.unit.empty()) one["unit"] = c.unit;
    if (!c.sensor.empty()) one["sensor"] = c.sensor;
    j["columns"].push_back(std::move(one));
  }
  j["split"] = splitModelKey(m.split);
  j["gaps"] = Json{{"interpolate", m.gaps.interpolate}, {"days", m.gaps.days}};
  if (!m.otherYear.empty()) j["gaps"]["file"] = m.otherYear;
  return j;
}

} // namespace noonward
