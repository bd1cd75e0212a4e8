#include "core/files/results/energy_files.h"
#include "core/files/results/tables.h"
#include "core/studies/energy/energy_reading.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

std::string energyCsv(const EnergyYear& year) {
  std::string out = "room,month,heating_kwh,cooling_kwh,lighting_kwh,solar_gain_kwh,internal_gain_kwh,"
                    "transmission_kwh,ventilation_kwh\n";
  const auto row = [&](const EnergyRoom& r, const std::string& month, const EnergyParts& p) {
    out += fmt::format("{},{},{:.3f},{:.3f},{:.3f},{:.3f},{:.3f},{:.3f},{:.3f}\n", csvField(r.name), month, p.heating,
                       p.cooling, p.lighting, p.solar, p.internal, p.transmission, p.ventilation);
  };
  for (const EnergyRoom& r : year.rooms) {
    for (std::size_t m = 0; m < 12; ++m) row(r, std::to_string(m + 1), r.months[m]);
    row(r, "year", r.year());
  }
  return out;
}

std::string energyHoursCsv(const EnergyYear& year) {
  std::string out = "room,hour,air_c,operative_c,heating_w,cooling_w,lighting_w,solar_w\n";
  for (const EnergyRoom& r : year.rooms)
    for (std::size_t h = 0; h < r.hours.size(); ++h) {
      const EnergyHour& e = r.hours[h];
      out += fmt::format("{},{},{:.2f},{:.2f},{:.1f},{:.1f},{:.1f},{:.1f}\n", csvField(r.name), h + 1, e.air,
                         e.operative, e.heating, e.cooling, e.lighting, e.solar);
    }
  return out;
}

std::string energyWeightsCsv(const EnergyYear& year, const std::vector<EnergyWeight>& weights) {
  std::string out = "room,weight,unit,heating,cooling,lighting,all,all_per_m2\n";
  for (const EnergyRoom& r : year.rooms) {
    const EnergyParts y = r.year();
    for (const EnergyWeight& w : weights) {
      const double all = weighed(r, w);
      out += fmt::format("{},{},{},{:.3f},{:.3f},{:.3f},{:.3f},{:.4f}\n", csvField(r.name), csvField(w.name),
                         csvField(w.unit), y.heating * w.heating, -y.cooling * w.cooling, y.lighting * w.lighting, all,
                         all / std::max(1e-9, r.floorArea));
    }
  }
  return out;
}

} // namespace noonward
