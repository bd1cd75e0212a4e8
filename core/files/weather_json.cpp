#include "core/files/weather_json.h"
#include "core/base/json.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

namespace {
void byMonth(JsonObject& o, const char* key, ByMonth& into, double low, double high) {
  const Json& v = o.raw(key);
  if (v.is_null()) return;
  const auto good = [&](const Json& x) { return x.is_number() && x.get<double>() >= low && x.get<double>() <= high; };
  if (good(v)) {
    into = everyMonth(v.get<double>());
  } else if (v.is_array() && v.size() == 12 && std::all_of(v.begin(), v.end(), good)) {
    for (std::size_t m = 0; m < 12; ++m) into[m] = v[m].get<double>();
  } else {
    o.fault(key,
            fmt::format("A number from {:g} to {:g} is expected here, or a list of twelve, January first.", low, high));
  }
}
} // namespace

Expected<WeatherShift> weatherShiftFromJson(std::string_view text, const std::string& name) {
  const Json root = Json::parse(text, nullptr, false);
  if (root.is_discarded() || !root.is_object()) return fail("This is no JSON object.", name);
  WeatherShift s;
  JsonFault fault;
  {
    JsonObject o(root, "", fault);
    if (o.text("format") != "noonward-weather-shift") o.fault("format", "\"noonward-weather-shift\" is expected here.");
    s.name = o.text("name");
    byMonth(o, "warmer", s.warmer, -30, 30);
    byMonth(o, "stretch", s.stretch, 0, 10);
    byMonth(o, "humidity", s.humidity, -100, 100);
    byMonth(o, "radiation", s.radiation, 0, 10);
    byMonth(o, "wind", s.wind, 0, 10);
  }
  if (fault.error)
    return fail(fault.error->message, name + (fault.error->place.empty() ? "" : ": " + fault.error->place));
  if (!fault.unknown.empty())
    return fail(fmt::format("\"{}\" is no key here: format, name, warmer, stretch, humidity, radiation and wind are.",
                            fault.unknown.front().first),
                name);
  return s;
}

} // namespace noonward
