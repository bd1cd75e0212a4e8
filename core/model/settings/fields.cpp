#include "core/model/settings/fields.h"
#include "core/base/units.h"
#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

double tidyNumber(double v) {
  if (v == 0 || !std::isfinite(v)) return v;
  const std::string twelve = fmt::format("{:.12g}", v);
  double out = v;
  std::from_chars(twelve.data(), twelve.data() + twelve.size(), out); // whatever the decimal mark of the locale
  return out + 0.0;
}

std::string textWithUnit(double v, const std::string& unit) {
  return fmt::format("{:.10g}{}{}", v + 0.0, unit.empty() || unit == "°" ? "" : " ", unit);
}

std::optional<double> numberWithUnit(std::string_view text, const std::string& unit) {
  std::string bare(text);
  if (!unit.empty())
    if (const auto at = bare.rfind(unit); at != bare.npos) bare.erase(at, unit.size());
  return numberFromText(bare);
}

std::string shareAskedBack(std::string_view text) {
  if (text.find('%') != text.npos) return {};
  const auto v = numberFromText(text);
  if (!v || *v <= 0 || *v >= 1) return {};
  return fmt::format("{:g} % or {:g} %: write the sign with it", 100 * *v, *v);
}

std::string rangeText(double low, double high, const std::string& unit) {
  return fmt::format("{:.10g} to {}", low, textWithUnit(high, unit));
}

std::string listedWithOr(const std::vector<std::string>& words) {
  std::string out;
  for (std::size_t i = 0; i < words.size(); ++i)
    out += (i == 0 ? "" : i + 1 == words.size() ? " or " : ", ") + words[i];
  return out;
}

std::vector<std::string> quoted(std::vector<std::string> words) {
  for (std::string& w : words) w = "\"" + w + "\"";
  return words;
}

Json valueFromText(std::string_view text) {
  const Json whole = Json::parse(text, nullptr, false);
  if (!whole.is_discarded()) return whole;
  if (text.find(',') == text.npos) return std::string(text);
  Json list = Json::array();
  while (true) {
    const auto comma = text.find(',');
    const std::string_view part = text.substr(0, comma);
    const auto first = part.find_first_not_of(' '), last = part.find_last_not_of(' ');
    const std::string_view word = first == part.npos ? "" : part.substr(first, last - first + 1);
    const Json value = Json::parse(word, nullptr, false);
    list.push_back(value.is_discarded() ? Json(std::string(word)) : value);
    if (comma == text.npos) return list;
    text.remove_prefix(comma + 1);
  }
}

std::optional<std::array<double, 2>> clocksFromJson(JsonObject& o, const char* key, bool ordered) {
  const Json& v = o.raw(key);
  if (v.is_null()) return {};
  if (v.is_array() && v.size() == 2 && v[0].is_string() && v[1].is_string()) {
    const auto begin = minutesFromText(v[0].get<std::string>()), end = minutesFromText(v[1].get<std::string>());
    if (begin && end && (!ordered || *end > *begin)) return std::array{*begin, *end};
  }
  o.fault(key, "Two clock times such as [\"8:00\", \"18:00\"] are expected here, the beginning before the end.");
  return {};
}

} // namespace noonward
