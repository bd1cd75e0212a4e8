#include "core/studies/year_hours.h"
#include "core/studies/glare_year.h"
#include "core/studies/year_space.h"
#include <algorithm>
#include <fmt/format.h>
#include <numeric>

namespace noonward {

Expected<SpaceSeries> spaceSeries(const YearInput& in, std::size_t space, int rounds, KeptCoefficients& kept,
                                  RunControl& control, Threads threads) {
  kept.startFor(in);
  YearSpace s(in, space, threads);
  AimShelf aims(*in.scene, {}, in.settings.seed);
  if (!s.trace(kept, rounds, aims, control) || !s.takeBeam(kept, control)) return fail("The run was dropped.");
  if (!workGlare(in, kept, control, threads)) return fail("The run was dropped.");
  s.workBlinds(kept);
  if (rounds > 0 && !s.lightBehind(kept, aims, control)) return fail("The run was dropped.");
  const Eigen::MatrixXf e = rounds > 0 ? s.illuminance(kept, rounds, 1)
                                       : Eigen::MatrixXf::Zero(Eigen::Index(s.sensors()), Eigen::Index(s.hours()));
  SpaceSeries out;
  out.space = space;
  out.groups = s.groups();
  out.mask = in.mask;
  out.lux.assign(s.sensors() * hoursOfYear, 0);
  out.beam.assign(out.lux.size(), 0);
  out.through.assign(out.lux.size(), std::uint8_t(s.groups().size()));
  out.closed.assign(s.groups().size(), std::vector<bool>(hoursOfYear, false));
  for (std::size_t h = 0; h < s.hours(); ++h) {
    const std::size_t record = in.sky->hours[h];
    for (std::size_t i = 0; i < s.sensors(); ++i) {
      out.lux[i * hoursOfYear + record] = e(Eigen::Index(i), Eigen::Index(h));
      out.beam[i * hoursOfYear + record] = s.beam(i, h);
      out.through[i * hoursOfYear + record] = std::uint8_t(s.through(i, h));
    }
    for (std::size_t k = 0; k < s.groups().size(); ++k) out.closed[k][record] = s.closed(h, k);
  }
  return out;
}

CivilTime recordClock(const Project& p, std::size_t record, double minute) {
  const double offset = p.site.weather ? p.site.weather->utcOffset : p.zone().standardOffset(p.site.year);
  const Date day = plusDays({p.site.year, 1, 1}, int(record / 24));
  return p.zone().clock(utc({day, 3600.0 * double(record % 24) + 60 * minute}) + -offset);
}

std::vector<ClockHour> clockHours(const Zone& zone, double standardOffset, int year) {
  std::vector<ClockHour> out;
  constexpr std::array<int, 12> days{31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
  for (int month = 1; month <= 12; ++month)
    for (int day = 1; day <= days[std::size_t(month - 1)]; ++day)
      for (int hour = 0; hour < 24; ++hour) {
        const CivilTime clock = zone.clock(utc({{year, month, day}, hour * 3600.0 + 1800}) + -standardOffset);
        out.push_back(
            {std::uint8_t(clock.date.month - 1), std::uint8_t(clock.date.day), std::uint8_t(clock.seconds / 3600)});
      }
  return out;
}

BeamHours beamHours(const SpaceSeries& s, const YearSettings& settings, const Zone& zone, double standardOffset,
                    int year, std::optional<std::size_t> sensor) {
  BeamHours out;
  out.byGroup.assign(s.groups.size() + 1, 0);
  out.byGroupMonth.assign(s.groups.size() + 1, {});
  const auto bright = [&](std::size_t i, std::size_t h) {
    return s.mask[h] && double(s.beam[i * hoursOfYear + h]) >= settings.metrics.beam;
  };
  std::vector<std::size_t> of;
  if (sensor) {
    of = {*sensor};
  } else {
    for (std::size_t i = 0; i < s.sensors(); ++i) {
      std::size_t n = 0;
      for (std::size_t h = 0; h < hoursOfYear; ++h) n += bright(i, h);
      if (double(n) > settings.metrics.beamHours) of.push_back(i);
    }
    if (of.empty()) {
      of.resize(s.sensors());
      std::iota(of.begin(), of.end(), std::size_t{0});
    }
  }
  const std::vector<ClockHour> clock = clockHours(zone, standardOffset, year);
  const double share = 1 / double(std::max<std::size_t>(1, of.size()));
  for (std::size_t i : of)
    for (std::size_t h = 0; h < hoursOfYear; ++h) {
      if (!bright(i, h)) continue;
      const std::size_t g = s.through[i * hoursOfYear + h];
      out.all += share;
      out.byGroup[g] += share;
      out.byMonth[clock[h].month][clock[h].hour] += share;
      out.byGroupMonth[g][clock[h].month][clock[h].hour] += share;
    }
  return out;
}

std::string beamHoursText(const BeamHours& b, const SpaceSeries& s, const std::vector<WindowGroup>& groups) {
  if (!(b.all > 0.5)) return "No hour of the schedule brings beam above the limit.";
  const auto g = std::size_t(std::max_element(b.byGroup.begin(), b.byGroup.end()) - b.byGroup.begin());
  std::array<double, 12> months{};
  std::array<double, 24> hours{};
  for (std::size_t m = 0; m < 12; ++m)
    for (std::size_t h = 0; h < 24; ++h) {
      months[m] += b.byMonth[m][h];
      hours[h] += b.byMonth[m][h];
    }
  // The shortest run of months, and of hours, that holds four fifths.
  const auto shortest = [&](std::span<const double> v, bool round) {
    const std::size_t n = v.size();
    for (std::size_t length = 1; length < n; ++length)
      for (std::size_t at = 0; at < (round ? n : n - length + 1); ++at) {
        double sum = 0;
        for (std::size_t k = 0; k < length; ++k) sum += v[(at + k) % n];
        if (sum >= 0.8 * b.all) return std::pair{at, length};
      }
    return std::pair{std::size_t{0}, n};
  };
  const auto [firstMonth, monthCount] = shortest(months, true);
  const auto [firstHour, hourCount] = shortest(hours, false);
  constexpr std::array<const char*, 12> names{"Jan", "Feb", "Mar", "Apr", "May", "Jun",
                                              "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"};
  const std::string span = monthCount == 12 ? "all year"
                           : monthCount == 1
                               ? fmt::format("in {}", names[firstMonth])
                               : fmt::format("{} to {}", names[firstMonth], names[(firstMonth + monthCount - 1) % 12]);
  const std::string window = g < s.groups.size() ? groups[s.groups[g]].name : "no window of its own";
  return fmt::format("{:.0f} h, {:.0f} % of them through {}; four fifths {}, {}:00 to {}:00.", b.all,
                     100 * b.byGroup[g] / b.all, window, span, firstHour, firstHour + hourCount);
}

std::vector<Reading> contestedReadings(const Project& p, const YearInput& in, int rounds, KeptCoefficients& kept,
                                       RunControl& control, Threads threads) {
  struct Variant {
    std::string name, changed;
    YearSettings settings;
  };
  std::vector<Variant> variants{{"As asked", "", in.settings}};
  const auto add = [&](std::string name, std::string changed, auto edit) {
    YearSettings s = in.settings;
    edit(s);
    if (!(s == in.settings)) variants.push_back({std::move(name), std::move(changed), s});
  };
  add("Blinds by the standard", "blinds close by the rule of the standard",
      [](YearSettings& s) { s.setBlinds(BlindRule::Standard); });
  add("Blinds never close", "blinds stay open all year", [](YearSettings& s) { s.setBlinds(BlindRule::Never); });
  add("Blinds always closed", "blinds stay closed all year", [](YearSettings& s) { s.setBlinds(BlindRule::Always); });
  add("Denser shade fabric", "closed blinds let half of the stated light through",
      [](YearSettings& s) { s.fabricDirect /= 2, s.fabricDiffuse /= 2; });
  add("No summer time", "the schedule keeps standard time", [](YearSettings& s) { s.clockChanges = false; });
  add("Monday to Friday", "weekends do not count", [](YearSettings& s) { s.weekdaysOnly = true; });
  add("Frames and dirt 10 %", "a further tenth of the light is lost in frames and dirt",
      [](YearSettings& s) { s.glassKept *= 0.9; });
  add("Frames and dirt 20 %", "a further fifth of the light is lost in frames and dirt",
      [](YearSettings& s) { s.glassKept *= 0.8; });
  const Zone zone = p.zone();
  std::vector<Reading> out;
  // As many rounds as the result that is contested.
  const auto sameRounds = [&](YearSettings& s) {
    s.keepSeries = false;
    s.stopFor = rounds == 1 ? StopFor::Credit : StopFor::Nothing;
    s.confidence = rounds == 1 ? 0 : 1;
  };
  const auto read = [&](const std::string& name, const std::string& changed, const YearInput& one,
                        KeptCoefficients& from) {
    const YearResult r = runYear(one, control, threads, &from);
    if (r.end != RunEnd::Finished) return false;
    Reading reading{name, changed, r.building, r.buildingSdaError, r.spaces, {}, {}};
    for (std::size_t k = 0; k < r.spaces.size(); ++k) {
      reading.provisionLevels.push_back(
          std::size_t(provisionLevel(r.provision[k], r.provisionError[k], one.rooflit[k]).level));
      reading.provisionOwnLevels.push_back(
          std::size_t(provisionLevel(r.provisionOwn[k], r.provisionOwnError[k], one.rooflit[k]).level));
    }
    out.push_back(std::move(reading));
    return true;
  };
  for (const Variant& v : variants) {
    YearInput one = in;
    one.settings = v.settings;
    sameRounds(one.settings);
    one.mask =
        clockMask(v.settings.clockChanges ? zone : Zone::fixed(p.site.weather->utcOffset), p.site.weather->utcOffset,
                  p.site.year, v.settings.beginMinute, v.settings.endMinute, v.settings.weekdaysOnly);
    if (!control.goesOn() || !read(v.name, v.changed, one, kept)) return out;
  }
  // Trees stand all year as they were drawn; the other end is that they hide nothing. That asks for rays of its own.
  Project bare = p;
  bool trees = false;
  for (ElementPtr& e : bare.elements)
    if (e->role == Role::Planting && e->counted) {
      auto gone = std::make_shared<Element>(*e);
      gone->counted = false;
      e = std::move(gone);
      trees = true;
    }
  std::vector<GroupId> groups;
  for (const SensorGridFacts& g : in.sensors.groups)
    if (std::find(groups.begin(), groups.end(), g.id) == groups.end()) groups.push_back(g.id);
  if (trees) {
    KeptCoefficients own;
    own.sky = kept.sky;
    own.skyKey = kept.skyKey;
    YearSettings s = in.settings;
    sameRounds(s);
    if (const auto one = yearInput(bare, groups, s, &own); one && control.goesOn())
      (void)read("Trees bare",
                 "planting hides nothing (rays of its own); in the study it stands all year as it was drawn", *one,
                 own);
  }
  return out;
}

} // namespace noonward
