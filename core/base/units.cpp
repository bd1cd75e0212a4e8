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
  }
  return "";
}

std::optional<LengthUnit> unitFromSymbol(std::string_view s) {
  for (LengthUnit u :
       {LengthUnit::Metre, LengthUnit::Millimetre, LengthUnit::Centimetre, LengthUnit::Foot, LengthUnit::Inch})
    if (s == unitSymbol(u) || s == unitName(u)) return u;
  return {};
}

std::string lengthText(double metres, LengthUnit unit) {
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

std::optional<double> lengthFromText(std::string_view text, LengthUnit unit) {
  text = trimmed(text);
  std::size_t cut = text.size();
  while (cut > 0 && ((text[cut - 1] >= 'a' && text[cut - 1] <= 'z'))) --cut;
  if (cut < text.size()) {
    const auto named = unitFromSymbol(text.substr(cut));
    if (!named) return {};
    unit = *named;
  }
  const auto v = numberFromText(text.substr(0, cut));
  if (!v) return {};
  return *v * metresPer(unit);
}

} // namespace noonward
