#pragma once
// SI inside, what the user prefers at the edges.

#include <optional>
#include <string>
#include <string_view>

namespace noonward {

/// FeetInches is a way to show lengths (10′ 6″); files have one of the others.
enum class LengthUnit { Metre, Millimetre, Centimetre, Foot, Inch, FeetInches };
enum class LightUnit { Lux, FootCandle };

/// What is shown and typed. Files, commands' tables and formulas stay in SI.
struct DisplayUnits {
  LengthUnit length = LengthUnit::Metre;
  LightUnit light = LightUnit::Lux;
  bool feet() const { return length >= LengthUnit::Foot; }
  bool operator==(const DisplayUnits&) const = default;
};

/// A unit as shown in place of the SI one: shown = SI · factor.
struct ShownUnit {
  std::string symbol;
  double factor = 1;
  double shown(double si) const { return si * factor; }
};
/// For "lx" (foot-candle: one lumen on a square foot), "m²", "m³" and "kWh/m²" (kBtu/ft²); any other unit is its own.
ShownUnit shownUnit(std::string_view si, const DisplayUnits& units);
/// "373 lx", "34.7 fc": as many digits more as a unit is larger.
std::string quantityText(double si, int digits, std::string_view unit, const DisplayUnits& units);
/// A number typed with or without a unit, which may be `si` or feet's and foot-candles' for it; bare: the one shown. In
/// SI.
std::optional<double> quantityFromText(std::string_view text, std::string_view si, const DisplayUnits& units);

double metresPer(LengthUnit unit);
const char* unitSymbol(LengthUnit unit); ///< "m", "mm", "cm", "ft", "in"
const char* unitName(LengthUnit unit);   ///< "metres", …
std::optional<LengthUnit> unitFromSymbol(std::string_view symbol);
/// "12.40 m", "40.68 ft", "10′ 6 1/2″": two decimals for metres and feet, one for cm and inches, none for mm, eighths
/// of an inch with feet and inches.
std::string lengthText(double metres, LengthUnit unit);
/// A typed length: "12.5", "12,5", "12.5 m", "40 ft", "3 in", 10'6", 10' 6 1/2", 10 ft 6 in; a bare number is in `unit`
/// (feet and inches: feet). Metres, or nothing.
std::optional<double> lengthFromText(std::string_view text, LengthUnit unit);
/// A number with point or comma as decimal mark, nothing else around it but blanks; no infinity, no NaN.
std::optional<double> numberFromText(std::string_view text);

} // namespace noonward
