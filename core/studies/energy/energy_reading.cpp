#include "core/studies/energy/energy_reading.h"
#include "core/base/words.h"
#include "core/studies/year_hours.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

constexpr std::array<const char*, 12> monthNames{"January", "February", "March",     "April",   "May",      "June",
                                                 "July",    "August",   "September", "October", "November", "December"};

double of(const EnergyCause& c, std::optional<std::size_t> month) {
  if (month) return c.months[*month];
  double sum = 0;
  for (double m : c.months) sum += m;
  return sum;
}

} // namespace

std::optional<EnergyRoom> allRooms(const EnergyYear& year) {
  if (year.rooms.empty()) return {};
  EnergyRoom out;
  out.name = "All rooms";
  out.hours.assign(hoursOfYear, {});
  for (const EnergyRoom& r : year.rooms) {
    for (std::size_t m = 0; m < 12; ++m)
      for (double EnergyParts::*part :
           {&EnergyParts::heating, &EnergyParts::cooling, &EnergyParts::lighting, &EnergyParts::solar,
            &EnergyParts::internal, &EnergyParts::transmission, &EnergyParts::ventilation})
        out.months[m].*part += r.months[m].*part;
    for (const EnergyCause& c : r.causes) {
      auto at = std::find_if(out.causes.begin(), out.causes.end(),
                             [&](const EnergyCause& o) { return o.kind == c.kind && o.name == c.name; });
      if (at == out.causes.end()) at = out.causes.insert(out.causes.end(), {c.kind, c.name, {}});
      for (std::size_t m = 0; m < 12; ++m) at->months[m] += c.months[m];
    }
    for (std::size_t h = 0; h < r.hours.size() && h < hoursOfYear; ++h) {
      EnergyHour& o = out.hours[h];
      const EnergyHour& e = r.hours[h];
      o.heating += e.heating;
      o.cooling += e.cooling;
      o.lighting += e.lighting;
      o.solar += e.solar;
      o.internal += e.internal;
      o.transmission += e.transmission;
      o.ventilation += e.ventilation;
      o.air += e.air * float(r.floorArea);
      o.operative += e.operative * float(r.floorArea);
    }
    out.solarError = std::hypot(out.solarError, r.solarError);
    out.lightingError = std::hypot(out.lightingError, r.lightingError);
    for (std::size_t h = 0; h < r.free.size() && h < hoursOfYear; ++h) {
      out.free.resize(hoursOfYear);
      out.free[h] += r.free[h] * float(r.floorArea);
    }
    out.freeAbove = std::max(out.freeAbove, r.freeAbove);
    out.warmAbove = r.warmAbove;
    out.floorArea += r.floorArea;
    out.hoursAbove = std::max(out.hoursAbove, r.hoursAbove); // of the warmest
  }
  for (std::size_t h = 0; h < hoursOfYear; ++h) {
    EnergyHour& o = out.hours[h];
    o.air /= float(out.floorArea);
    o.operative /= float(out.floorArea);
    if (!out.free.empty()) out.free[h] /= float(out.floorArea);
    if (double(o.heating) > out.peakHeating) {
      out.peakHeating = double(o.heating);
      out.peakHeatingHour = std::uint32_t(h);
    }
    if (double(-o.cooling) > out.peakCooling) {
      out.peakCooling = double(-o.cooling);
      out.peakCoolingHour = std::uint32_t(h);
    }
  }
  return out;
}

std::vector<EnergyShare> energyShares(const EnergyRoom& room, std::optional<std::size_t> month) {
  std::vector<EnergyShare> out;
  for (const EnergyCause& c : room.causes)
    if (const double kwh = of(c, month); std::abs(kwh) > 1e-9) out.push_back({c.kind, c.name, kwh});
  std::stable_sort(out.begin(), out.end(), [](const EnergyShare& a, const EnergyShare& b) {
    return (a.kwh > 0) != (b.kwh > 0) ? a.kwh > 0 : std::abs(a.kwh) > std::abs(b.kwh);
  });
  return out;
}

std::string demandText(const EnergyRoom& room, std::optional<std::size_t> month, const DisplayUnits& units) {
  const EnergyParts y = month ? room.months[*month] : room.year();
  const ShownUnit unit = shownUnit("kWh/m²", units);
  const auto each = [&](double kwh) { return unit.shown(std::abs(kwh) / std::max(1e-9, room.floorArea)); };
  return fmt::format("heating {:.1f}, cooling {:.1f}, lighting {:.1f} {} {}", each(y.heating), each(y.cooling),
                     each(y.lighting), unit.symbol, month ? std::string("in ") + monthNames[*month] : "a year");
}

std::string whyText(const Project& p, const EnergyRoom& room, std::optional<std::size_t> month) {
  if (!p.site.weather || room.hours.size() != hoursOfYear) return {};
  const EnergyParts y = month ? room.months[*month] : room.year();
  const bool cools = -y.cooling > y.heating;
  const double need = cools ? -y.cooling : y.heating;
  const std::string when = month ? std::string("in ") + monthNames[*month] : "a year";
  if (!(need > 0.05)) return fmt::format("Neither heating nor cooling is needed {}.", month ? when : "at any hour");
  const auto quantity = [&](double kwh, int digits, const char* unit) {
    return quantityText(kwh, digits, unit, p.units);
  };
  std::string out =
      fmt::format("{} takes {} {}, {}.", cools ? "Cooling" : "Heating", quantity(need, need < 10 ? 1 : 0, "kWh"), when,
                  quantity(need / std::max(1e-9, room.floorArea), 1, "kWh/m²"));
  double all = 0;
  std::vector<EnergyShare> sides;
  for (const EnergyShare& s : energyShares(room, month)) {
    if ((s.kwh > 0) != cools || s.kind == EnergyCauseKind::Heating || s.kind == EnergyCauseKind::Cooling) continue;
    all += std::abs(s.kwh);
    sides.push_back(s);
  }
  if (all > 0) {
    std::vector<std::string> words;
    for (std::size_t k = 0; k < sides.size() && k < 4 && std::abs(sides[k].kwh) >= 0.03 * all; ++k)
      words.push_back(fmt::format("{} {:.0f} %", sides[k].name, 100 * std::abs(sides[k].kwh) / all));
    out += fmt::format(" Of what {} then: ", cools ? "warms it" : "it loses");
    for (std::size_t k = 0; k < words.size(); ++k) out += (k > 0 ? "; " : "") + words[k];
    out += ".";
  }
  // When: the six hours of the clock that hold most of its hours, and the highest of all.
  std::array<int, 24> byClock{};
  int hours = 0;
  double most = 0;
  std::size_t peak = 0;
  for (std::size_t h = 0; h < hoursOfYear; ++h) {
    const double w = cools ? -double(room.hours[h].cooling) : double(room.hours[h].heating);
    if (!(w > 0) || (month && std::size_t(p.site.weather->hours[h].month) != *month + 1)) continue;
    ++hours;
    ++byClock[std::size_t(int(recordClock(p, h, 0).seconds / 3600 + 1e-6) % 24)];
    if (w > most) {
      most = w;
      peak = h;
    }
  }
  int best = -1, from = 0;
  for (int begin = 0; begin < 24; ++begin) {
    int sum = 0;
    for (int k = 0; k < 6; ++k) sum += byClock[std::size_t((begin + k) % 24)];
    if (sum > best) {
      best = sum;
      from = begin;
    }
  }
  const CivilTime at = recordClock(p, peak, 0);
  out +=
      fmt::format(" It {} in {}, {} of them from {}:00 to {}:00; {:.1f} kW at most, {} {}.", cools ? "cools" : "heats",
                  counted(std::size_t(hours), "hour", "hours"), best, from, (from + 6) % 24 == 0 ? 24 : (from + 6) % 24,
                  most / 1000, dayText(at.date), clockText(at.seconds / 60));
  return out;
}

std::string freeText(const EnergyRoom& room) {
  if (room.free.empty()) return {};
  const auto [low, high] = std::minmax_element(room.free.begin(), room.free.end());
  return fmt::format("Left to itself: {:.0f} to {:.0f} °C, {}above {:g} °C in {}.", *low, *high,
                     room.room == 0 ? "the warmest room " : "", room.warmAbove,
                     counted(std::size_t(room.freeAbove), "hour of use", "hours of use"));
}

EnergyParts partsOf(const EnergyRoom& room, const std::vector<bool>& hours) {
  EnergyParts out;
  for (std::size_t h = 0; h < room.hours.size() && h < hours.size(); ++h) {
    if (!hours[h]) continue;
    const EnergyHour& e = room.hours[h];
    out.heating += double(e.heating) / 1000;
    out.cooling += double(e.cooling) / 1000;
    out.lighting += double(e.lighting) / 1000;
    out.solar += double(e.solar) / 1000;
    out.internal += double(e.internal) / 1000;
    out.transmission += double(e.transmission) / 1000;
    out.ventilation += double(e.ventilation) / 1000;
  }
  return out;
}

std::string stretchText(const EnergyRoom& room, const std::vector<bool>& hours, const std::string& when,
                        const DisplayUnits& units) {
  const EnergyParts y = partsOf(room, hours);
  const auto kwh = [&](double v) { // never "-0.0"
    return quantityText(std::abs(v) < 0.05 ? 0.0 : v, std::abs(v) < 10 ? 1 : 0, "kWh", units);
  };
  return fmt::format("{}: heating {}, cooling {}, lighting {}; sun {}, people and equipment {}, walls and windows {}, "
                     "air {}.",
                     when, kwh(y.heating), kwh(-y.cooling), kwh(y.lighting), kwh(y.solar), kwh(y.internal),
                     kwh(y.transmission), kwh(y.ventilation));
}

double weighed(const EnergyRoom& room, const EnergyWeight& w) {
  const EnergyParts y = room.year();
  return y.heating * w.heating - y.cooling * w.cooling + y.lighting * w.lighting;
}

std::string weighedText(const EnergyRoom& room, const std::vector<EnergyWeight>& weights, const DisplayUnits& units) {
  const ShownUnit area = shownUnit("m²", units);
  std::string out;
  for (const EnergyWeight& w : weights) {
    const double all = weighed(room, w);
    out += fmt::format("{}{} {:.0f} {}, {:.2f} {}/{}", out.empty() ? "" : "; ", w.name, all, w.unit,
                       all / std::max(1e-9, area.shown(room.floorArea)), w.unit, area.symbol);
  }
  return out.empty() ? out : out + " a year";
}

std::vector<float> energySeries(const EnergyRoom& room, EnergySeries which) {
  if (which == EnergySeries::Free) return room.free;
  std::vector<float> out;
  for (const EnergyHour& h : room.hours)
    out.push_back(which == EnergySeries::Temperature ? h.operative
                                                     : (h.heating + h.cooling) / float(std::max(1e-9, room.floorArea)));
  return out;
}

} // namespace noonward
