#pragma once
// Lengths: metres inside, other units at the edges.

#include <optional>
#include <string>
#include <string_view>

namespace noonward {

enum class LengthUnit { Metre, Millimetre, Centimetre, Foot, Inch };

double metresPer(LengthUnit unit);
const char* unitSymbol(LengthUnit unit); ///< "m", "mm", "cm", "ft", "in"
const char* unitName(LengthUnit unit);   ///< "metres", …
std::optional<LengthUnit> unitFromSymbol(std::string_view symbol);
/// "12.40 m", "40.68 ft": two decimals for metres and feet, one for cm and inches, none for mm.
std::string lengthText(double metres, LengthUnit unit);
/// A typed length: "12.5", "12,5", "12.5 m", "40 ft", "3 in"; a bare number is in `unit`. Metres, or nothing.
std::optional<double> lengthFromText(std::string_view text, LengthUnit unit);
/// A number with point or comma as decimal mark, nothing else around it but blanks; no infinity, no NaN.
std::optional<double> numberFromText(std::string_view text);

} // namespace noonward
