#include "core/studies/sun_hours.h"
#include "core/base/tolerances.h"
#include "core/base/weighted.h"
#include "core/light/ray_offset.h"
#include "core/model/settings/fields.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <mutex>

namespace noonward {

std::vector<Date> datesOf(const SunHoursSettings& s, int year) {
  if (s.dates.empty()) return datesOf(s.season, year);
  std::vector<Date> out = s.dates;
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

std::string settingsText(const SunHoursSettings& s) {
  std::string days;
  if (s.dates.empty()) {
    days = seasonText(s.season);
    days = days.substr(0, days.find(" · "));
  } else {
    for (std::size_t i = 0; i < s.dates.size() && i < 4; ++i) days += (i ? ", " : "") + dayText(s.dates[i]);
    if (s.dates.size() > 4) days += fmt::format(" and {} more", s.dates.size() - 4);
  }
  const std::string clock = s.sunriseToSunset || (s.season.beginMinute <= 0 && s.season.endMinute >= 1440)
                                ? "sunrise to sunset"
                                : clockText(s.season.beginMinute) + "–" + clockText(s.season.endMinute);
  const std::string how = s.counting == Counting::Exact
                              ? "counted exactly"
                              : fmt::format("by steps of {} min{}", s.stepMinutes,
                                            s.sample == StepSample::Ends ? ", both ends sampled" : "");
  std::string low;
  if (s.minAltitude > 0)
    low = fmt::format(", sun above {:.1f}°{}", degrees(s.minAltitude),
                      s.altitudeKind == AltitudeKind::Apparent ? " apparent" : "");
  return days + ", " + clock + ", " + how + low;
}

namespace {

Outcome settingsAreSound(const SunHoursSettings& s, int year) {
  if (datesOf(s, year).empty()) return fail("The study has no dates.", "dates");
  for (const Date& d : s.dates)
    if (!exists(d)) return fail("One of the dates does not exist.", "dates");
  if (!s.sunriseToSunset && !(s.season.endMinute > s.season.beginMinute))
    return fail("The clock window ends before it begins.", "window");
  if (s.counting == Counting::Stepped && (s.stepMinutes < 1 || s.stepMinutes > 60))
    return fail("Steps of 1 to 60 minutes can be counted.", "step");
  if (!(s.minAltitude >= 0 && s.minAltitude < pi / 2))
    return fail("The least altitude lies outside 0 to 90°.", "altitude");
  return {};
}

} // namespace

namespace {

Digest hashed(const Project& p, const SunHoursSettings& s, bool before, double leastStretch,
              const Expected<SensorSet>& laid) {
  Hasher h;
  h.add("sun-hours 2").add(p.site.place.latitude).add(p.site.place.longitude).add(p.site.place.elevation);
  h.add(p.site.zone).add(timeZoneDataVersion()).add(p.site.northAngle);
  for (const Date& d : datesOf(s, p.site.year)) h.add(d.year).add(d.month).add(d.day);
  const bool whole = s.sunriseToSunset;
  h.add(whole).add(whole ? 0.0 : s.season.beginMinute).add(whole ? 1440.0 : s.season.endMinute);
  hashFields(h, s);
  h.add(leastStretch);
  hashGeometry(h, p, !before);
  // The sensors as they stand: two projects that lay out the same ones ask the same question.
  h.add("sensors");
  if (laid) {
    h.add(std::uint64_t(laid->sensors.size()));
    h.add(std::string_view(reinterpret_cast<const char*>(laid->sensors.data()), laid->sensors.size() * sizeof(Sensor)));
  } else {
    h.add(laid.error().text());
  }
  return h.digest();
}

} // namespace

Digest hashSunHours(const Project& p, const std::vector<GroupId>& groups, const SunHoursSettings& s, bool before,
                    double leastStretch) {
  return hashed(p, s, before, leastStretch,
                before ? layOutSensors(withoutProposal(p), groupsTaken(p, groups))
                       : layOutSensors(p, groupsTaken(p, groups)));
}

Expected<SunHoursInput> sunHoursInput(const Project& p, const std::vector<GroupId>& groups, const SunHoursSettings& s,
                                      bool before, double leastStretch, const Scene* previous,
                                      const std::vector<ElementId>& apart) {
  if (Outcome o = settingsAreSound(s, p.site.year); !o) return tl::unexpected(o.error());
  const auto zone = Zone::named(p.site.zone);
  if (!zone) return tl::unexpected(zone.error());
  if (std::abs(p.site.place.latitude) > pi / 2 + 1e-9 || !std::isfinite(p.site.place.longitude))
    return fail("The project's place is no place on Earth.", "site");
  auto sensors = before ? layOutSensors(withoutProposal(p), groupsTaken(p, groups))
                        : layOutSensors(p, groupsTaken(p, groups)); // ground that the proposal builds over was there
  if (!sensors) return tl::unexpected(sensors.error());
  const Digest key = hashed(p, s, before, leastStretch, sensors);
  SunHoursInput in{buildScene(p, {!before, apart}, previous),
                   std::move(*sensors),
                   p.site.place,
                   *zone,
                   p.site.northAngle,
                   p.site.year,
                   s,
                   leastStretch,
                   key};
  if (in.sensors.sensors.empty())
    return fail("There are no sensors: choose an area, a facade or points first.", "groups");
  if (anyStops(in.scene.findings)) return fail(in.scene.findings.front().text, "elements");
  return in;
}

std::vector<SunWindow> sunWindows(const SunHoursInput& in, std::vector<Intervals>* clockParts) {
  const std::vector<Date> dates = datesOf(in.settings, in.year);
  std::vector<SunWindow> out;
  if (dates.empty()) return out;
  const SunHoursSettings& s = in.settings;
  const double least = s.altitudeKind == AltitudeKind::Apparent && s.minAltitude > 0
                           ? std::max(0.0, trueAltitudeOf(s.minAltitude, standardAir(in.place.elevation)))
                           : s.minAltitude;
  std::optional<SunKnots> knots;
  int knotYear = 0;
  for (const Date& date : dates) {
    if (!knots || date.year != knotYear) {
      knots.emplace(SunKnots::ofYear(date.year));
      knotYear = date.year;
    }
    const Instant midnight = in.zone.instant({date, 0}), next = in.zone.instant({plusDays(date, 1), 0});
    SunWindow w{date, SunPath(*knots, in.place, in.northAngle, midnight, next - midnight), {}};
    Interval clock{0, next - midnight};
    if (!s.sunriseToSunset) {
      // Each end goes through the clock by itself, so that a change of clocks inside the window is met.
      clock.begin = in.zone.instant({date, s.season.beginMinute * 60}) - midnight;
      if (s.season.endMinute < 1440) clock.end = in.zone.instant({date, s.season.endMinute * 60}) - midnight;
    }
    const Intervals up = w.path.above(std::max(0.0, least));
    w.counts = intersection(up, {clock});
    // Stepped counting of a whole day begins its steps at midnight, as of a window at the window's begin.
    if (clockParts) clockParts->push_back({clock});
    out.push_back(std::move(w));
  }
  return out;
}

std::vector<std::pair<Date, Intervals>> sunStretches(const SunHoursInput& in, std::size_t sensor) {
  std::vector<std::pair<Date, Intervals>> out;
  const Sensor& s = in.sensors.sensors[sensor];
  for (const SunWindow& w : sunWindows(in)) out.emplace_back(w.date, sunAt(in.scene, s.position, s.normalVector(), w));
  return out;
}

namespace {

struct Tally {
  double total = 0, longest = 0, first = NAN, last = NAN;
  void add(const Intervals& sun, double leastStretch) {
    for (const Interval& i : sun) {
      if (i.length() < leastStretch) continue;
      total += i.length();
      longest = std::max(longest, i.length());
      if (std::isnan(first)) first = i.begin;
      last = i.end;
    }
  }
};

void exactSensor(const SunHoursInput& in, const std::vector<SunWindow>& windows, const Sensor& s, Tally& tally) {
  const Vec3 n = s.normalVector();
  for (const SunWindow& w : windows) tally.add(sunAt(in.scene, s.position, n, w), in.leastStretch);
}

void steppedSensor(const SunHoursInput& in, const SunSamples& samples, const Sensor& s, Tally& tally) {
  Intervals run;
  std::uint32_t window = 0;
  const auto close = [&] {
    tally.add(run, in.leastStretch);
    run.clear();
  };
  const Vec3 origin = s.position + s.normalVector() * rayOffsetAt(s.position);
  for (std::size_t b = 0; b < samples.blocks.size(); ++b) {
    Rays8 rays = samples.blocks[b];
    int any = 0;
    for (int i = 0; i < 8; ++i) {
      const float front = rays.x[i] * s.normal[0] + rays.y[i] * s.normal[1] + rays.z[i] * s.normal[2];
      rays.active[i] = rays.active[i] && front > 0 ? -1 : 0;
      any |= rays.active[i];
    }
    if (any) in.scene.hidden8(origin, rays);
    for (std::size_t i = 0; i < 8; ++i) {
      if (!rays.active[i] || rays.hidden[i]) continue;
      const SunSamples::Sample& sample = samples.samples[8 * b + i];
      if (sample.window != window) close();
      window = sample.window;
      if (!run.empty() && sample.begin <= run.back().end + 1e-6)
        run.back().end = sample.end;
      else
        run.push_back({sample.begin, sample.end});
    }
  }
  close();
}

} // namespace

SunHoursResult runSunHours(const SunHoursInput& in, RunControl& control, Threads threads) {
  const auto start = std::chrono::steady_clock::now();
  SunHoursResult out;
  std::vector<Intervals> clockParts;
  const std::vector<SunWindow> windows = sunWindows(in, &clockParts);
  for (const SunWindow& w : windows) {
    out.dates.push_back(w.date);
    out.possible += total(w.counts) / 3600;
  }
  const bool single = windows.size() == 1;
  if (single) out.midnight = windows.front().path.start();
  const std::size_t n = in.sensors.sensors.size();
  const bool exact = in.settings.counting == Counting::Exact;
  SunSamples samples;
  if (!exact)
    samples =
        sampleWindows(windows, clockParts, in.settings.stepMinutes * 60.0, in.settings.sample == StepSample::Ends);
  for (auto* v : {&out.hours, &out.longest, &out.first, &out.last}) v->assign(n, std::nanf(""));

  std::mutex progress;
  std::size_t finished = 0;
  const auto work = [&](std::size_t begin, std::size_t end) {
    for (std::size_t i = begin; i < end; ++i) {
      Tally tally;
      if (exact)
        exactSensor(in, windows, in.sensors.sensors[i], tally);
      else
        steppedSensor(in, samples, in.sensors.sensors[i], tally);
      out.hours[i] = float(tally.total / 3600);
      out.longest[i] = float(tally.longest / 3600);
      if (single) {
        out.first[i] = float(tally.first);
        out.last[i] = float(tally.last);
      }
    }
    if (control.progress) {
      const std::lock_guard lock(progress);
      finished += end - begin;
      control.progress(double(finished) / double(n));
    }
  };
  const std::size_t chunk = 64, chunks = (n + chunk - 1) / chunk;
  const std::size_t done = forChunks(n, chunk, threads, work, [&] { return control.goesOn(); });
  out.end = control.end(done == chunks);
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  out.key = in.key;
  return out;
}

HourStatistics statistics(const SunHoursResult& r, std::size_t first, std::size_t count, double threshold,
                          std::span<const double> areas) {
  HourStatistics s;
  const std::vector<double> given = weightsOf(areas, count);
  std::vector<std::pair<double, double>> v; // hours, weight
  double whole = 0;
  for (std::size_t i = first; i < first + count && i < r.hours.size(); ++i) {
    if (std::isnan(r.hours[i])) continue;
    v.emplace_back(double(r.hours[i]), given[i - first]);
    whole += given[i - first];
  }
  s.count = v.size();
  if (v.empty()) return s;
  for (const auto& [hours, weight] : v) {
    s.mean += hours * weight / whole;
    if (hours >= threshold - 1e-6) s.shareAtLeast += weight / whole;
  }
  const auto [least, most] = std::minmax_element(v.begin(), v.end());
  s.least = least->first;
  s.most = most->first;
  s.median = weightedMedian(std::move(v));
  return s;
}

} // namespace noonward
