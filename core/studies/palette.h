#pragma once
// Which run of colours values have; the colours themselves stand in picture/theme.h.

namespace noonward {

enum class Palette { SunHours, Illuminance, Difference };

} // namespace noonward
