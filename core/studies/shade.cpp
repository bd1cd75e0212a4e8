#include "core/studies/shade.h"
#include "core/studies/shade_rays.h"
#include "core/sun/sun_path.h"
#include <cmath>
#include <fmt/format.h>
#include <mutex>

namespace noonward {

namespace {

/// Directions to look in, each with what it weighs.
struct Glances {
  std::vector<Vec3> directions;
  std::vector<double> weights;
};
/// An overcast sky's light on the pane: by the cosine, with the brightness of CIE's overcast sky; below the horizon
/// none.
Glances overcast(const OpeningFrame& f, std::size_t turn) {
  constexpr int n = 8;
  Glances out;
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j) {
      // Cells of equal weight by the cosine, shifted from point to point so that all together are dense.
      const double a = (i + std::fmod(0.5 + double(turn) * 0.6180339887, 1.0)) / n,
                   b = 2 * pi * (j + std::fmod(0.5 + double(turn) * 0.7548776662, 1.0)) / n;
      const double r = std::sqrt(a);
      const Vec3 d = f.along * (r * std::cos(b)) + f.up * (r * std::sin(b)) + f.outward * std::sqrt(1 - a);
      if (d.z <= 0) continue;
      out.directions.push_back(d);
      out.weights.push_back((1 + 2 * d.z) / 3);
    }
  return out;
}
/// The field straight out: 60° to both sides, 30° up and down, by solid angle.
std::vector<Vec3> straightOut(const OpeningFrame& f, std::size_t turn) {
  constexpr int across = 12, tall = 6;
  std::vector<Vec3> out;
  for (int i = 0; i < across; ++i)
    for (int j = 0; j < tall; ++j) {
      const double az = radians(-60 + 120 * (i + std::fmod(0.5 + double(turn) * 0.6180339887, 1.0)) / across),
                   sine = -0.5 + (j + std::fmod(0.5 + double(turn) * 0.7548776662, 1.0)) / tall,
                   level = std::sqrt(1 - sine * sine);
      out.push_back(f.along * (level * std::sin(az)) + f.up * sine + f.outward * (level * std::cos(az)));
    }
  return out;
}

struct Sums {
  GlassSun keepOut, letIn;
  double skyBare = 0, skyShaded = 0, viewAll = 0, viewFree = 0;
};
void add(GlassSun& into, const GlassSun& g, double weight) {
  into.open += weight * g.open;
  into.bare += weight * g.bare;
  into.shaded += weight * g.shaded;
  into.bareBeam += weight * g.bareBeam;
  into.shadedBeam += weight * g.shadedBeam;
}

Sums sumsAt(const ShadeScenes& scenes, const SunBlocks& sky, const GlassPane& pane, std::size_t point) {
  Sums out;
  const Vec3 at = pane.points[point], outward = pane.frame.outward;
  for (std::size_t b = 0; b < sky.blocks.size(); ++b) {
    Rays8 block = sky.blocks[b];
    const SunMoment* moments = &sky.moments[8 * b];
    const unsigned front = lanesInFront(block, moments, outward), bare = litLanes(scenes.bare, at, block, front),
                   shaded = litLanes(scenes.shading, at, block, bare);
    for (unsigned k = 0; k < 8; ++k) {
      if (!(front >> k & 1)) continue;
      const SunMoment& m = moments[k];
      GlassSun& g = m.wish == SunWish::KeepOut ? out.keepOut : out.letIn;
      const double beam = double(m.beam) * dot(m.direction, outward) * double(m.hours) / 1000;
      g.open += double(m.hours);
      if (bare >> k & 1) g.bare += double(m.hours), g.bareBeam += beam;
      if (shaded >> k & 1) g.shaded += double(m.hours), g.shadedBeam += beam;
    }
  }
  const Glances dome = overcast(pane.frame, point);
  for (std::size_t k = 0; k < dome.directions.size(); ++k) {
    if (scenes.bare.hidden(at, dome.directions[k])) continue;
    out.skyBare += dome.weights[k];
    if (!scenes.shading.hidden(at, dome.directions[k])) out.skyShaded += dome.weights[k];
  }
  if (outward.z < 0.5)
    for (const Vec3& d : straightOut(pane.frame, point)) {
      out.viewAll += 1;
      out.viewFree += !scenes.shading.hidden(at, d);
    }
  return out;
}

std::vector<Sums> sumsOf(const ShadeScenes& scenes, const SunBlocks& sky, const std::vector<GlassPane>& panes,
                         RunControl* control, Threads threads, bool& whole) {
  const std::size_t each = panes.empty() ? 1 : panes.front().points.size(), items = panes.size() * each;
  std::vector<Sums> out(items);
  std::mutex telling; // progress is told by one thread at a time
  std::size_t done = 0;
  const std::size_t ran = forChunks(
      items, 1, threads,
      [&](std::size_t a, std::size_t b) {
        for (std::size_t i = a; i < b; ++i) out[i] = sumsAt(scenes, sky, panes[i / each], i % each);
        if (!control || !control->progress) return;
        const std::lock_guard guard(telling);
        done += b - a;
        if (done % 64 == 0) control->progress(double(done) / double(items));
      },
      [&] { return !control || control->goesOn(); });
  whole = ran == items;
  return out;
}

/// One window out of several, each weighted by its glass; hours stay hours of the whole glass.
class Together {
public:
  void take(const WindowShade& w) {
    ++count_;
    sum_.area += w.area;
    add(sum_.keepOut, w.keepOut, w.area);
    add(sum_.letIn, w.letIn, w.area);
    sky_ += w.area * w.sky;
    view_ += w.area * w.view;
    if (count_ == 1)
      sum_.facing = w.facing;
    else if (sum_.facing != w.facing)
      sum_.facing.reset();
  }
  WindowShade result() const {
    WindowShade out;
    out.area = sum_.area;
    out.facing = sum_.facing;
    if (sum_.area <= 0) return out;
    add(out.keepOut, sum_.keepOut, 1 / sum_.area);
    add(out.letIn, sum_.letIn, 1 / sum_.area);
    out.sky = sky_ / sum_.area;
    out.view = view_ / sum_.area;
    return out;
  }

private:
  WindowShade sum_;
  double sky_ = 0, view_ = 0;
  std::size_t count_ = 0;
};

} // namespace

SunWishes::Hour hourOf(const Weather* weather, Instant t) {
  constexpr double none = std::numeric_limits<double>::quiet_NaN();
  if (!weather) return {-1, none, none};
  const auto record = weatherHourIndex(civil(t, weather->utcOffset));
  const WeatherHour& hour = weather->hours[record];
  return {int(record), hour[WeatherField::DryBulb], hour[WeatherField::DirectNormal]};
}

Expected<std::vector<SunMoment>> sunMoments(const Project& p, const ShadeSettings& s) {
  const auto zone = Zone::named(p.site.zone);
  if (!zone) return tl::unexpected(zone.error());
  const SunWishes wishes = p.sunWishes.empty() ? proposedWishes(p.site.place.latitude) : p.sunWishes;
  const Weather* weather = p.site.weather && p.site.weather->whole() ? p.site.weather.get() : nullptr;
  const double step = 60.0 * std::clamp(s.stepMinutes, 1, 60);
  const SunKnots knots = SunKnots::ofYear(p.site.year);
  const Instant begin = zone->instant({{p.site.year, 1, 1}, 0}), end = zone->instant({{p.site.year + 1, 1, 1}, 0});
  std::vector<SunMoment> out;
  for (Instant t = begin + step / 2; t < end; t = t + step) {
    const SolarPosition sun = solarPosition(knots.at(t), p.site.place);
    if (sun.altitude <= 0) continue;
    const CivilTime clock = zone->clock(t);
    const SunWishes::Hour now = hourOf(weather, t);
    double beam = std::max(0.0, now.directNormal);
    if (!std::isfinite(beam)) beam = 0;
    const SunWish wish = wishes.at(clock.date, clock.seconds / 60, now);
    if (wish == SunWish::None) continue;
    out.push_back({toModel(sun.direction, p.site.northAngle), wish, float(step / 3600), float(beam)});
  }
  return out;
}

WindowShade ShadeReport::sum(const std::function<bool(const WindowShade&)>& takes) const {
  Together all;
  for (const WindowShade& w : windows)
    if (takes(w)) all.take(w);
  return all.result();
}

Expected<ShadeReport> shadeReport(const Project& p, const ShadeSettings& s, const std::vector<OpeningId>& only,
                                  RunControl* control, Threads threads) {
  auto moments = sunMoments(p, s);
  if (!moments) return tl::unexpected(moments.error());
  const auto model = lightModel(p);
  if (!model) return tl::unexpected(model.error());
  const ShadeScenes scenes = shadeScenes(*model);
  const OpeningLayout layout = placedOpenings(p);
  const std::vector<GlassPane> panes = glassPanes(p, layout, std::clamp(s.points, 1, 32), [&](const PlacedOpening& o) {
    return only.empty() || std::find(only.begin(), only.end(), o.opening.id) != only.end();
  });
  bool whole = false;
  const std::vector<Sums> sums = sumsOf(scenes, SunBlocks(std::move(*moments)), panes, control, threads, whole);
  if (!whole) return fail("The shading report was stopped.");
  ShadeReport out;
  out.hasWeather = p.site.weather && p.site.weather->whole();
  for (std::size_t i = 0; i < panes.size(); ++i) {
    const PlacedOpening& o = layout.openings[panes[i].at];
    const std::size_t each = panes[i].points.size();
    WindowShade w;
    w.room = o.room;
    w.opening = o.opening.id;
    w.name = openingName(p, o);
    w.facing = o.facing;
    w.area = o.area();
    Sums all;
    for (std::size_t k = 0; k < each; ++k) {
      const Sums& x = sums[i * each + k];
      add(all.keepOut, x.keepOut, 1.0 / double(each));
      add(all.letIn, x.letIn, 1.0 / double(each));
      all.skyBare += x.skyBare;
      all.skyShaded += x.skyShaded;
      all.viewAll += x.viewAll;
      all.viewFree += x.viewFree;
    }
    w.keepOut = all.keepOut;
    w.letIn = all.letIn;
    w.sky = all.skyBare > 0 ? all.skyShaded / all.skyBare : 1;
    w.view = all.viewAll > 0 ? all.viewFree / all.viewAll : 1;
    out.windows.push_back(std::move(w));
  }
  return out;
}

Expected<GlassDays> glassInSun(const Project& p, Date date, double step, int n, const std::vector<OpeningId>& only,
                               Threads threads) {
  const auto zone = Zone::named(p.site.zone);
  if (!zone) return tl::unexpected(zone.error());
  if (!(step >= 1) || step > 7200) return fail("Steps of a day run from 1 s to 2 h.");
  const auto model = lightModel(p);
  if (!model) return tl::unexpected(model.error());
  const Scene scene = buildScene(*model);
  const OpeningLayout layout = placedOpenings(p);
  const Instant midnight = zone->instant({date, 0}), next = zone->instant({plusDays(date, 1), 0});
  const double whole = next - midnight;
  const SunPath path(SunKnots(midnight + -86400, next + 86400), p.site.place, p.site.northAngle, midnight, whole);
  std::vector<SunMoment> moments;
  for (double t = 0; t <= whole + 1e-9; t += step) moments.push_back({path.direction(std::min(t, whole)), {}, 1, 0});
  const std::size_t steps = moments.size();
  const SunBlocks sky(std::move(moments));
  const Intervals up = path.above(0);
  GlassDays out;
  out.date = date;
  out.step = step;
  const std::vector<GlassPane> panes = glassPanes(p, layout, std::clamp(n, 1, 32), [&](const PlacedOpening& o) {
    return only.empty() || std::find(only.begin(), only.end(), o.opening.id) != only.end();
  });
  out.windows.resize(panes.size());
  forChunks(panes.size(), 1, threads, [&](std::size_t first, std::size_t last) {
    for (std::size_t i = first; i < last; ++i) {
      const GlassPane& pane = panes[i];
      const PlacedOpening& o = layout.openings[pane.at];
      const Vec3 outward = o.facingOutward();
      GlassDay& day = out.windows[i];
      day.room = o.room;
      day.opening = o.opening.id;
      day.name = openingName(p, o);
      day.share.assign(steps, 0);
      Intervals front;
      for (const Interval& part : up) path.positive(path.side(outward), part, front);
      day.inFront = joined(std::move(front));
      const auto counts = [&](double t) {
        return std::any_of(day.inFront.begin(), day.inFront.end(),
                           [&](const Interval& x) { return t >= x.begin && t <= x.end; });
      };
      for (const Vec3& at : pane.points)
        for (std::size_t b = 0; b < sky.blocks.size(); ++b) {
          Rays8 block = sky.blocks[b];
          unsigned lanes = 0;
          for (unsigned k = 0; k < 8; ++k)
            lanes |= unsigned(8 * b + k < steps && counts(double(8 * b + k) * step)) << k;
          const unsigned lit = litLanes(scene, at, block, lanes);
          for (unsigned k = 0; k < 8; ++k)
            if (lit >> k & 1) day.share[8 * b + k] += 1.0f / float(pane.points.size());
        }
      // To the second: any of the points in sun, between the steps where that changes.
      const auto lit = [&](double t) {
        const Vec3 d = path.direction(t);
        return dot(d, outward) > 0 &&
               std::any_of(pane.points.begin(), pane.points.end(), [&](Vec3 at) { return !scene.hidden(at, d); });
      };
      const auto edge = [&](double dark, double light) {
        while (std::abs(light - dark) > 0.5) {
          const double middle = 0.5 * (dark + light);
          (lit(middle) ? light : dark) = middle;
        }
        return light;
      };
      for (const Interval& part : day.inFront) {
        double before = part.begin, begin = part.begin;
        bool was = lit(before);
        const auto pass = [&](double t, bool is) {
          if (is && !was) begin = edge(before, t);
          if (!is && was) day.sun.push_back({begin, edge(t, before)});
          before = t;
          was = is;
        };
        for (std::size_t k = std::size_t(std::ceil(part.begin / step)); double(k) * step < part.end; ++k)
          pass(double(k) * step, day.share[k] > 0);
        pass(part.end - 1e-3, lit(part.end - 1e-3));
        if (was) day.sun.push_back({begin, part.end});
      }
      day.shaded = difference(day.inFront, day.sun);
    }
  });
  return out;
}

Expected<std::vector<GlassShares>> glassShares(const Project& p, const std::vector<Instant>& moments,
                                               const std::vector<OpeningId>& only, int n, Threads threads) {
  const auto model = lightModel(p);
  if (!model) return tl::unexpected(model.error());
  const Scene scene = buildScene(*model);
  const OpeningLayout layout = placedOpenings(p);
  std::vector<SunMoment> suns;
  for (const Instant t : moments) {
    const SolarPosition s = solarPosition(sunOfDate(t), p.site.place);
    suns.push_back({toModel(s.direction, p.site.northAngle), {}, s.altitude > 0 ? 1.0f : 0.0f, 0});
  }
  const SunBlocks sky(std::move(suns));
  const std::vector<GlassPane> panes = glassPanes(p, layout, std::clamp(n, 1, 32), [&](const PlacedOpening& o) {
    return only.empty() || std::find(only.begin(), only.end(), o.opening.id) != only.end();
  });
  std::vector<GlassShares> out(panes.size());
  forChunks(panes.size(), 1, threads, [&](std::size_t first, std::size_t last) {
    for (std::size_t i = first; i < last; ++i) {
      const PlacedOpening& o = layout.openings[panes[i].at];
      out[i] = {o.room, o.opening.id, o.area(), std::vector<float>(moments.size(), 0)};
      for (const Vec3& at : panes[i].points)
        for (std::size_t b = 0; b < sky.blocks.size(); ++b) {
          Rays8 block = sky.blocks[b];
          const unsigned lit =
              litLanes(scene, at, block, lanesInFront(block, &sky.moments[8 * b], panes[i].frame.outward));
          for (unsigned k = 0; k < 8 && 8 * b + k < moments.size(); ++k)
            if (lit >> k & 1) out[i].share[8 * b + k] += 1.0f / float(panes[i].points.size());
        }
    }
  });
  return out;
}

double ShadeMask::at(const std::vector<float>& values, double azimuth, double altitude) const {
  const double x = degrees(wrapTwoPi(azimuth)) - 0.5, y = std::clamp(degrees(altitude) - 0.5, 0.0, altitudes - 1.0);
  const double fx = x - std::floor(x), fy = y - std::floor(y);
  double sum = 0, weight = 0;
  for (const int j : {0, 1})
    for (const int i : {0, 1}) {
      const int a = ((int(std::floor(x)) + i) % azimuths + azimuths) % azimuths,
                h = std::min(altitudes - 1, int(std::floor(y)) + j);
      const float v = values[std::size_t(h * azimuths + a)];
      if (v < 0) continue; // behind the wall
      const double w = (i ? fx : 1 - fx) * (j ? fy : 1 - fy);
      sum += w * double(v);
      weight += w;
    }
  return weight > 0 ? sum / weight : 0;
}

Expected<ShadeMask> shadeMask(const Project& p, OpeningId opening, int n, Threads threads) {
  const auto model = lightModel(p);
  if (!model) return tl::unexpected(model.error());
  const OpeningLayout layout = placedOpenings(p);
  const std::vector<GlassPane> panes =
      glassPanes(p, layout, std::clamp(n, 1, 32), [&](const PlacedOpening& o) { return o.opening.id == opening; });
  if (panes.empty()) return fail("There is no such window.");
  const ShadeScenes scenes = shadeScenes(*model);
  const GlassPane& pane = panes.front();
  ShadeMask out;
  out.bare.assign(std::size_t(ShadeMask::azimuths * ShadeMask::altitudes), -1);
  out.shaded = out.bare;
  forChunks(ShadeMask::altitudes, 1, threads, [&](std::size_t first, std::size_t last) {
    for (std::size_t h = first; h < last; ++h) {
      std::vector<SunMoment> row;
      for (int a = 0; a < ShadeMask::azimuths; ++a)
        row.push_back({skyDirection(radians(double(h) + 0.5), radians(a + 0.5), p.site.northAngle), {}, 1, 0});
      const SunBlocks sky(std::move(row));
      for (std::size_t b = 0; b < sky.blocks.size(); ++b) {
        const unsigned lanes = lanesInFront(sky.blocks[b], &sky.moments[8 * b], pane.frame.outward);
        std::array<float, 8> bare{}, shaded{};
        for (const Vec3& at : pane.points) {
          Rays8 block = sky.blocks[b];
          const unsigned free = litLanes(scenes.bare, at, block, lanes),
                         lit = litLanes(scenes.shading, at, block, free);
          for (unsigned k = 0; k < 8; ++k) bare[k] += free >> k & 1, shaded[k] += lit >> k & 1;
        }
        for (unsigned k = 0; k < 8; ++k) {
          if (!(lanes >> k & 1)) continue;
          const std::size_t cell = h * ShadeMask::azimuths + 8 * b + k;
          out.bare[cell] = bare[k] / float(pane.points.size());
          out.shaded[cell] = shaded[k] / float(pane.points.size());
        }
      }
    }
  });
  return out;
}

GlassSun sunByMask(const ShadeMask& mask, const std::vector<SunMoment>& moments, SunWish wish, Vec3 outward,
                   double northAngle) {
  GlassSun out;
  for (const SunMoment& m : moments) {
    const double front = dot(m.direction, outward);
    if (m.wish != wish || front <= 0) continue;
    const double azimuth = std::atan2(m.direction.x, m.direction.y) + northAngle, altitude = std::asin(m.direction.z);
    const double bare = mask.at(mask.bare, azimuth, altitude), shaded = mask.at(mask.shaded, azimuth, altitude);
    const double hours = double(m.hours), beam = double(m.beam) * front * hours / 1000;
    out.open += hours;
    out.bare += hours * bare;
    out.shaded += hours * shaded;
    out.bareBeam += beam * bare;
    out.shadedBeam += beam * shaded;
  }
  return out;
}

} // namespace noonward
