#include "core/base/units.h"
#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

double metresPer(LengthUnit unit) {
  switch (unit) {
  case LengthUnit::Metre:
    return 1;
  case LengthUnit::Millimetre:
    return 0.001;
  case LengthUnit::Centimetre:
    return 0.01;
  case LengthUnit::Foot:
  case LengthUnit::FeetInches:
    return 0.3048;
  case LengthUnit::Inch:
    return 0.0254;
  }
  return 1;
}

const char* unitSymbol(LengthUnit unit) {
  switch (unit) {
  case LengthUnit::Metre:
    return "m";
  case LengthUnit::Millimetre:
    return "mm";
  case LengthUnit::Centimetre:
    return "cm";
  case LengthUnit::Foot:
  case LengthUnit::FeetInches:
    return "ft";
  case LengthUnit::Inch:
    return "in";
  }
  return "";
}

const char* unitName(LengthUnit unit) {
  switch (unit) {
  case LengthUnit::Metre:
    return "metres";
  case LengthUnit::Millimetre:
    return "millimetres";
  case LengthUnit::Centimetre:
    return "centimetres";
  case LengthUnit::Foot:
    return "feet";
  case LengthUnit::Inch:
    return "inches";
  case LengthUnit::FeetInches:
    return "feet and inches";
  }
  return "";
}

std::optional<LengthUnit> unitFromSymbol(std::string_view s) {
  for (LengthUnit u :
       {LengthUnit::Metre, LengthUnit::Millimetre, LengthUnit::Centimetre, LengthUnit::Foot, LengthUnit::Inch})
    if (s == unitSymbol(u) || s == unitName(u)) return u;
  return {};
}

namespace {
/// "10′ 6 1/2″", "−3″", "0″".
std::string feetInchesText(double metres) {
  const long long eighths = std::llround(std::abs(metres) / 0.0254 * 8), feet = eighths / 96, inches = eighths % 96 / 8;
  std::string text = metres < 0 && eighths > 0 ? "−" : "";
  if (feet > 0) text += fmt::format("{}′", feet);
  if (feet > 0 && eighths % 96 == 0) return text;
  if (feet > 0) text += " ";
  long long part = eighths % 8, of = 8;
  while (part > 0 && part % 2 == 0) part /= 2, of /= 2;
  if (part == 0) return text + fmt::format("{}″", inches);
  return text + (feet + inches > 0 ? fmt::format("{} {}/{}″", inches, part, of) : fmt::format("{}/{}″", part, of));
}
} // namespace

std::string lengthText(double metres, LengthUnit unit) {
  if (unit == LengthUnit::FeetInches) return feetInchesText(metres);
  const double v = metres / metresPer(unit);
  const int decimals = unit == LengthUnit::Millimetre                               ? 0
                       : unit == LengthUnit::Centimetre || unit == LengthUnit::Inch ? 1
                                                                                    : 2;
  return fmt::format("{:.{}f} {}", v, decimals, unitSymbol(unit));
}

namespace {
std::string_view trimmed(std::string_view s) {
  while (!s.empty() && static_cast<unsigned char>(s.front()) <= ' ') s.remove_prefix(1);
  while (!s.empty() && static_cast<unsigned char>(s.back()) <= ' ') s.remove_suffix(1);
  return s;
}
} // namespace

std::optional<double> numberFromText(std::string_view text) {
  std::string s(trimmed(text));
  for (char& c : s)
    if (c == ',') c = '.';
  if (!s.empty() && s.front() == '+') s.erase(0, 1);
  double v = 0;
  const auto [end, ec] = std::from_chars(s.data(), s.data() + s.size(), v);
  if (ec != std::errc{} || end != s.data() + s.size() || !std::isfinite(v)) return {};
  return v;
}

namespace {
/// "6", "6.5", "1/2", "6 1/2".
std::optional<double> numberWithFraction(std::string_view text) {
  text = trimmed(text);
  const auto slash = text.find('/');
  if (slash == text.npos) return numberFromText(text);
  const auto gap = text.substr(0, slash).find_last_of(' ');
  const auto whole = gap == text.npos ? std::optional(0.0) : numberFromText(text.substr(0, gap));
  const auto over = numberFromText(text.substr(gap == text.npos ? 0 : gap, slash - (gap == text.npos ? 0 : gap))),
             under = numberFromText(text.substr(slash + 1));
  if (!whole || !over || !under || *under <= 0 || (*over < 0 && gap != text.npos)) return {};
  return *whole < 0 ? *whole - *over / *under : *whole + *over / *under;
}
std::string replaced(std::string text, std::string_view from, std::string_view to) {
  for (std::size_t at = 0; (at = text.find(from, at)) != text.npos; at += to.size()) text.replace(at, from.size(), to);
  return text;
}
} // namespace

std::optional<double> lengthFromText(std::string_view typed, LengthUnit unit) {
  // All marks of feet and inches as ' and ", which no other length has.
  std::string text(trimmed(typed));
  for (const auto& [from, to] : {std::pair{"−", "-"},
                                 {"′′", "\""},
                                 {"″", "\""},
                                 {"”", "\""},
                                 {"''", "\""},
                                 {"′", "'"},
                                 {"’", "'"},
                                 {"feet", "'"},
                                 {"ft", "'"},
                                 {"inches", "\""},
                                 {"in", "\""}})
    text = replaced(std::move(text), from, to);
  const auto feet = text.find('\''), inches = text.find('"');
  if (feet != text.npos || inches != text.npos) {
    if (inches != text.npos && inches + 1 != text.size()) return {};
    const std::size_t from = feet == text.npos ? 0 : feet + 1;
    if (from > std::min(inches, text.size())) return {};
    const std::string_view rest = trimmed(std::string_view(text).substr(from, std::min(inches, text.size()) - from));
    const auto f = feet == text.npos ? std::optional(0.0) : numberWithFraction(text.substr(0, feet));
    const auto i = rest.empty() ? std::optional(0.0) : numberWithFraction(rest);
    if (!f || !i || (rest.empty() && feet == text.npos)) return {};
    if (feet != text.npos && (*i < 0 || rest.starts_with('-'))) return {};
    const bool minus = text.front() == '-';
    return 0.0254 * (12 * *f + (minus && feet != text.npos ? -*i : *i));
  }
  std::string_view left = text;
  std::size_t cut = left.size();
  while (cut > 0 && ((left[cut - 1] >= 'a' && left[cut - 1] <= 'z'))) --cut;
  if (cut < left.size()) {
    const auto named = unitFromSymbol(left.substr(cut));
    if (!named) return {};
    unit = *named;
  }
  const auto v = unit == LengthUnit::FeetInches || unit == LengthUnit::Inch ? numberWithFraction(left.substr(0, cut))
                                                                            : numberFromText(left.substr(0, cut));
  if (!v) return {};
  return *v * metresPer(unit);
}

ShownUnit shownUnit(std::string_view si, const DisplayUnits& u) {
  constexpr double foot = 0.3048, kilowattHour = 3.412141633; // kBtu (international table)
  if (si == "lx" && u.light == LightUnit::FootCandle) return {"fc", foot * foot};
  if (u.feet()) {
    if (si == "m²") return {"ft²", 1 / (foot * foot)};
    if (si == "m³") return {"ft³", 1 / (foot * foot * foot)};
    if (si == "kWh") return {"kBtu", kilowattHour};
    if (si == "kWh/m²") return {"kBtu/ft²", kilowattHour * foot * foot};
  }
  return {std::string(si)};
}

std::string quantityText(double si, int digits, std::string_view unit, const DisplayUnits& units) {
  const ShownUnit u = shownUnit(unit, units);
  const int more = u.factor < 0.3 ? 1 : u.factor > 3 ? -1 : 0;
  return fmt::format("{:.{}f} {}", u.shown(si), std::max(0, digits + more), u.symbol);
}

std::optional<double> quantityFromText(std::string_view text, std::string_view si, const DisplayUnits& units) {
  const ShownUnit u = shownUnit(si, units);
  text = trimmed(text);
  const auto without = [&](std::string_view unit) {
    return !unit.empty() && text.ends_with(unit) ? std::optional(text.substr(0, text.size() - unit.size()))
                                                 : std::nullopt;
  };
  if (const auto bare = without(si)) return numberFromText(*bare);
  const ShownUnit other = shownUnit(si, {LengthUnit::Foot, LightUnit::FootCandle}); // understood whatever is shown
  for (const std::string& symbol : {other.symbol, std::string(other.symbol == "ft²" ? "ft2" : "")})
    if (const auto bare = other.factor == 1 ? std::nullopt : without(symbol)) {
      const auto v = numberFromText(*bare);
      return v ? std::optional(*v / other.factor) : std::nullopt;
    }
  const auto v = numberFromText(without(u.symbol).value_or(text));
  return v ? std::optional(*v / u.factor) : std::nullopt;
}

} // namespace noonward
