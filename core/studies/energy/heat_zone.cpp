#include "core/studies/energy/heat_zone.h"
#include <algorithm>
#include <array>

namespace noonward {

namespace {
struct MassFacts {
  double area, capacity; ///< Am/Af; Cm/Af, J/(m²K)
};
constexpr std::array<MassFacts, 5> masses{{{2.5, 80e3}, {2.5, 110e3}, {2.5, 165e3}, {3.0, 260e3}, {3.5, 370e3}}};
MassFacts massOf(const HeatZone& z) {
  if (z.mass == ThermalMass::OfLayers && z.capacity > 0) // Am no more than the surfaces that there are
    return {std::clamp(z.massArea / z.floorArea, 0.5, 4.5), z.capacity / z.floorArea};
  return masses[z.mass == ThermalMass::OfLayers ? std::size_t(ThermalMass::Medium) : std::size_t(z.mass)];
}
constexpr double his = 3.45, hms = 9.1, rat = 4.5; ///< W/(m²K), 7.2.2.2; W/(m²K), 12.2.2; Λat
} // namespace

HeatRoom::HeatRoom(const HeatZone& z)
    : area_(z.floorArea), am_(massOf(z).area * z.floorArea), cm_(massOf(z).capacity * z.floorArea),
      atot_(rat * z.floorArea), hms_(hms * am_), his_(his * atot_), hw_(z.windows) {
  hem_ = z.opaque > 0 ? 1 / (1 / std::min(z.opaque, 0.999 * hms_) - 1 / hms_) : 0; // (63)
}

HeatStep HeatRoom::with(const HeatHour& h, double before, double need) const {
  const double half = 0.5 * h.internal + h.solar, air = 0.5 * h.internal;          // (C.1)
  const double mass = am_ / atot_ * half, straight = hw_ / (hms * atot_) * half;   // (C.2)
  const double star = half - mass - straight;                                      // (C.3)
  const double hve = h.ventilation, share = his_ / (his_ + hve), h1 = hve * share; // (C.6)
  const double h2 = h1 + hw_, h3 = 1 / (1 / std::max(1e-12, h2) + 1 / hms_);       // (C.7), (C.8)
  const double given = star + hw_ * h.outdoor + h1 * h.supply + share * (air + need);
  const double beyond = h.beyond.value_or(h.outdoor);
  const double total = mass + hem_ * beyond + h3 * given / std::max(1e-12, h2); // (C.5)
  HeatStep s;
  s.massEnd = (before * (cm_ / 3600 - 0.5 * (h3 + hem_)) + total) / (cm_ / 3600 + 0.5 * (h3 + hem_)); // (C.4)
  const double mean = (before + s.massEnd) / 2;                                                       // (C.9)
  s.surface = (hms_ * mean + given) / (hms_ + hw_ + h1);                                              // (C.10)
  s.air = (his_ * s.surface + hve * h.supply + air + need) / (his_ + hve);                            // (C.11)
  s.operative = 0.3 * s.air + 0.7 * s.surface;                                                        // (C.12)
  s.need = need;
  s.throughWindows = hw_ * (h.outdoor - s.surface) - straight;
  s.throughOpaque = hem_ * (beyond - mean);
  s.byVentilation = hve * (h.supply - s.air);
  s.stored = cm_ / 3600 * (s.massEnd - before);
  return s;
}

HeatStep HeatRoom::step(const HeatHour& h, double before) const {
  const HeatStep free = with(h, before, 0);
  if (free.air >= h.heatTo && free.air <= h.coolTo) return free;
  const double set = free.air < h.heatTo ? h.heatTo : h.coolTo, try10 = 10 * area_; // C.4.2: linear in the need
  const HeatStep tried = with(h, before, try10);
  const double need = try10 * (set - free.air) / (tried.air - free.air);
  return with(h, before, std::clamp(need, -h.mostCooling, h.mostHeating));
}

} // namespace noonward
