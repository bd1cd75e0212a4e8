#include "core/studies/hourly_sky.h"
#include "core/base/parallel.h"
#include "core/sky/hour_input.h"
#include "core/sky/measured/weather_making.h"
#include "core/sky/sky_luminance.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {
bool fits(double lux, double watts, double least, double most) {
  if (std::isnan(lux) || std::isnan(watts) || lux < 0 || watts < 0) return false;
  if (watts < 5) return lux <= 5 * most; // so little that the ratio means nothing
  return lux >= least * watts && lux <= most * watts;
}
bool plausible(const WeatherHour& h) {
  return fits(h[WeatherField::DiffuseIlluminance], h[WeatherField::DiffuseHorizontal], 40, 200) &&
         fits(h[WeatherField::DirectIlluminance], h[WeatherField::DirectNormal], 10, 160);
}
bool lit(const WeatherHour& h) {
  return h[WeatherField::DirectNormal] > 0 || h[WeatherField::DiffuseHorizontal] > 0;
}
} // namespace

IlluminanceColumns illuminanceColumns(const Weather& w) {
  IlluminanceColumns out;
  for (const WeatherHour& h : w.hours)
    if (lit(h)) {
      ++out.lit;
      out.plausible += plausible(h);
    }
  return out;
}

std::string illuminanceText(const Weather& w, bool own) {
  if (!own) return "irradiance × efficacy";
  const IlluminanceColumns c = illuminanceColumns(w);
  if (!c.usable())
    return fmt::format(
        "irradiance × efficacy, since the weather file's illuminances are plausible in only {} of {} hours",
        c.plausible, c.lit);
  return c.plausible == c.lit ? "the weather file's illuminances"
                              : fmt::format("the weather file's illuminances; irradiance × efficacy in {} of {} hours "
                                            "where they are not plausible",
                                            c.lit - c.plausible, c.lit);
}

Expected<std::shared_ptr<const HourlySky>> hourlySky(const Project& p, bool ownIlluminance) {
  if (!p.site.weather || !p.site.weather->whole())
    return fail("The daylight year needs a weather year; the project has none.", "weather");
  const Weather& w = *p.site.weather;
  auto out = std::make_shared<HourlySky>();
  const std::vector<HourSun> suns = hourSuns(w, p.site.year);
  std::vector<PerezInput> inputs;
  const bool own = ownIlluminance && illuminanceColumns(w).usable();
  std::vector<double> given; // lx, diffuse by the file; NaN where the efficacy tells it
  out->diffuse.assign(w.hours.size(), 0);
  const bool part = partOfYear(w);
  for (std::size_t i = 0; i < w.hours.size(); ++i) {
    const WeatherHour& h = w.hours[i];
    const auto hour = perezOf(h, suns[i], p.site.northAngle);
    if (!hour && part) {
      out->unknown.resize(w.hours.size(), false);
      out->unknown[i] = true;
      continue;
    }
    if (!hour) return tl::unexpected(hour.error());
    const PerezInput& in = *hour;
    if (!(in.diffuseHorizontal > 0) && !(in.directNormal > 0)) continue;
    out->hours.push_back(std::uint32_t(i));
    out->sun.push_back(in.sun);
    const bool byFile = own && plausible(h);
    const auto beam = [&] {
      return byFile ? h[WeatherField::DirectIlluminance] : in.directNormal * perezState(in).directEfficacy;
    };
    out->beam.push_back(suns[i].up && in.sun.z > 0 && in.directNormal > 0 ? float(beam()) : 0.0f);
    given.push_back(byFile ? h[WeatherField::DiffuseIlluminance] : NAN);
    out->beamIrradiance.push_back(out->beam.back() > 0 ? float(in.directNormal) : 0.0f);
    inputs.push_back(in);
  }
  for (std::size_t day = 0; day + 24 <= out->unknown.size(); day += 24) { // nights of days that are not there
    bool any = false;
    for (std::size_t i = day; i < day + 24; ++i) any |= suns[i].up && !out->unknown[i];
    if (!any) std::fill_n(out->unknown.begin() + std::ptrdiff_t(day), 24, true);
  }
  if (out->hours.empty()) return fail("The weather year has no hour with light.", "weather");
  out->diffuseEfficacy.assign(inputs.size(), 0);
  out->luminance.resize(Eigen::Index(SkyBins::count), Eigen::Index(inputs.size()));
  std::array<double, SkyBins::count> facing{}; // ∫ sin γ dω of each patch
  for (std::size_t b = 0; b < SkyBins::count; ++b)
    facing[b] = SkyBins::mean(b, [](Vec3 d) { return d.z; }) * SkyBins::solidAngle(b);
  std::vector<double> x, y, z; // the four points of each patch
  std::array<std::size_t, SkyBins::count + 1> firstPoint{};
  for (std::size_t b = 0; b < SkyBins::count; ++b) {
    (void)SkyBins::mean(b, [&](Vec3 d) {
      x.push_back(d.x);
      y.push_back(d.y);
      z.push_back(d.z);
      return 0.0;
    });
    firstPoint[b + 1] = x.size();
  }
  forChunks(inputs.size(), 16, {}, [&](std::size_t from, std::size_t to) {
    std::vector<double> at(x.size());
    for (std::size_t i = from; i < to; ++i) {
      const SkyLuminance sky = SkyLuminance::perezUnscaled(inputs[i]); // scaled by the patches below
      sky.luminances(x, y, z, at);
      std::array<double, SkyBins::count> l{};
      double horizontal = 0;
      for (std::size_t b = 0; b < SkyBins::count; ++b) {
        for (std::size_t k = firstPoint[b]; k < firstPoint[b + 1]; ++k) l[b] += at[k];
        l[b] /= double(firstPoint[b + 1] - firstPoint[b]);
        horizontal += l[b] * facing[b];
      }
      const double wanted = std::isnan(given[i]) ? sky.horizontal() : given[i];
      const double scale = horizontal > 0 ? wanted / horizontal : 0;
      for (std::size_t b = 0; b < SkyBins::count; ++b)
        out->luminance(Eigen::Index(b), Eigen::Index(i)) = float(l[b] * scale);
      out->diffuse[out->hours[i]] = wanted;
      out->diffuseEfficacy[i] = inputs[i].diffuseHorizontal > 0 ? float(wanted / inputs[i].diffuseHorizontal) : 0.0f;
    }
  });
  const double width =
      radians(5); // 4° to 6° leave a converged run where it is, 9° lifts sDA by a point (docs/methods.md)
  std::vector<Eigen::Triplet<float>> spread;
  std::array<Vec3, SkyBins::count> middles;
  for (std::size_t b = 0; b < SkyBins::count; ++b) middles[b] = SkyBins::middle(b);
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    if (!(out->beam[i] > 0)) continue;
    std::vector<std::pair<std::size_t, double>> weights;
    for (std::size_t b = 0; b < SkyBins::count; ++b) {
      const double angle = std::acos(std::clamp(dot(middles[b], out->sun[i]), -1.0, 1.0));
      if (angle > 3 * width) continue;
      weights.push_back({b, std::exp(-0.5 * angle * angle / (width * width))});
    }
    // Cut off at the horizon the bell would stand higher than the sun, and light the level ground too much (by three
    // quarters at 3°): it is tilted so that its mean height is the sun's again, as far as the lowest patches allow.
    const auto meanHeight = [&](double tilt) {
      double sum = 0, up = 0;
      for (const auto& [b, w] : weights) {
        const double z = facing[b] / SkyBins::solidAngle(b),
                     v = w * SkyBins::solidAngle(b) * std::exp(-tilt * (z - out->sun[i].z));
        sum += v;
        up += v * z;
      }
      return sum > 0 ? up / sum : 0.0;
    };
    double low = -60, high = 60;
    for (int k = 0; k < 40; ++k) {
      const double middle = 0.5 * (low + high);
      (meanHeight(middle) > out->sun[i].z ? low : high) = middle;
    }
    double all = 0;
    for (auto& [b, w] : weights) {
      w *= std::exp(-high * (facing[b] / SkyBins::solidAngle(b) - out->sun[i].z));
      all += w * SkyBins::solidAngle(b);
    }
    for (const auto& [b, w] : weights) spread.emplace_back(int(b), int(i), float(w / all * double(out->beam[i])));
  }
  out->spreadBeam.resize(Eigen::Index(SkyBins::count), Eigen::Index(inputs.size()));
  out->spreadBeam.setFromTriplets(spread.begin(), spread.end());
  return std::shared_ptr<const HourlySky>(std::move(out));
}

} // namespace noonward
