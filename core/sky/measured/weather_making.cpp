#include "core/sky/measured/weather_making.h"
#include "core/base/units.h"
#include "core/base/words.h"
#include "core/sky/sky_luminance.h"
#include "core/sky/weather_shift.h"
#include "core/sun/earth.h"
#include "core/sun/sun_path.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace noonward {

const char* originText(HourOrigin origin) {
  switch (origin) {
  case HourOrigin::Measured:
    return "measured";
  case HourOrigin::Derived:
    return "derived from what was measured";
  case HourOrigin::Interpolated:
    return "interpolated";
  case HourOrigin::Days:
    return "from the days around";
  case HourOrigin::Other:
    return "from another year's file";
  case HourOrigin::Missing:
    return "missing";
  }
  return "";
}

namespace {
using F = WeatherField;
constexpr std::size_t year8760 = 8760;
constexpr std::array<F, 3> radiationFields{F::GlobalHorizontal, F::DirectNormal, F::DiffuseHorizontal};
bool isRadiation(F f) {
  return f == F::GlobalHorizontal || f == F::DirectNormal || f == F::DiffuseHorizontal || f == F::GlobalIlluminance ||
         f == F::DiffuseIlluminance;
}

/// What comes from outside the atmosphere in an hour, W/m² facing the sun, mean of the hour; its sun.
struct Outside {
  bool up = false;
  double altitude = 0, normal = 0, share = 0;
  double horizontal() const { return normal * share * std::max(0.0, std::sin(altitude)); }
};
std::vector<Outside> outsideOf(const Weather& w) {
  const std::vector<HourSun> suns = hourSuns(w);
  const SunKnots knots(w.middle(0) + -2 * 86400.0, w.middle(w.hours.size() - 1) + 2 * 86400.0);
  std::vector<Outside> out(w.hours.size());
  for (std::size_t i = 0; i < out.size(); ++i) {
    if (!suns[i].up) continue;
    const Instant begin = w.middle(i) + -1800;
    const double distance = knots.at(begin + 1800).distance;
    out[i] = {true, suns[i].position.altitude, earth::solarConstant / (distance * distance), 1};
    if (std::abs(out[i].altitude) < radians(9))
      out[i].share = total(SunPath(knots, w.place, 0, begin, 3600).above(0)) / 3600;
  }
  return out;
}

/// One year being made.
class Making {
public:
  Making(const HourMeans& means, const std::vector<Measured>& columns, const MakingRules& rules)
      : means_(means), columns_(columns), rules_(rules) {}

  Expected<MadeWeather> run() {
    if (means_.empty()) return fail("There is no reading with a time and a value.");
    if (std::none_of(columns_.begin(), columns_.end(),
                     [](Measured m) { return facts(m).field && isRadiation(*facts(m).field); }))
      return fail("No column holds radiation or illuminance on the horizontal: a weather year is made of light.");
    made_.year = rules_.year > 0 ? rules_.year : bestYear();
    blank();
    if (const Outcome o = take(); !o) return tl::unexpected(o.error());
    outside_ = outsideOf(made_.weather);
    if (!has(F::GlobalHorizontal) && has(F::GlobalIlluminance)) byEfficacy();
    const bool all = has(F::GlobalHorizontal) && has(F::DirectNormal) && has(F::DiffuseHorizontal);
    if (has(F::GlobalHorizontal)) made_.slip = clockSlip(made_.weather, all);
    sift();
    std::vector<F> filled;
    for (std::size_t f = 0; f < weatherFieldCount; ++f)
      if (has_[f]) filled.push_back(F(f));
    for (F f : filled) fill(f);
    if (const Outcome o = closeRadiation(); !o) return tl::unexpected(o.error());
    moisture();
    computed();
    tell();
    return std::move(made_);
  }

private:
  WeatherHour& hour(std::size_t i) { return made_.weather.hours[i]; }
  bool has(F f) const { return has_[std::size_t(f)]; }
  HourOrigin& origin(std::size_t i, F f) { return of_[std::size_t(f)][i]; }

  int bestYear() const {
    std::map<int, std::size_t> hours;
    for (std::int64_t h = means_.first(); h <= means_.last(); ++h)
      for (std::size_t k = 0; k < columns_.size(); ++k)
        if (facts(columns_[k]).field && isRadiation(*facts(columns_[k]).field) && means_.covered(h, k) > 0) {
          ++hours[civil(means_.begin(h), means_.utcOffset()).date.year];
          break;
        }
    int best = civil(means_.begin(means_.first()), means_.utcOffset()).date.year;
    std::size_t most = 0;
    for (const auto& [year, n] : hours)
      if (n > most) most = n, best = year;
    return best;
  }

  void blank() {
    Weather& w = made_.weather;
    w.city = rules_.name.empty() ? "Measured" : rules_.name;
    w.region = w.country = "-";
    w.source = "Measured";
    w.station = "-";
    w.place = rules_.place;
    w.utcOffset = means_.utcOffset();
    w.headers = {"DESIGN CONDITIONS,0",
                 "TYPICAL/EXTREME PERIODS,0",
                 "GROUND TEMPERATURES,0",
                 "HOLIDAYS/DAYLIGHT SAVINGS,No,0,0,0",
                 "COMMENTS 1,",
                 "COMMENTS 2,",
                 "DATA PERIODS,1,1,Data,Sunday, 1/ 1,12/31"};
    for (int day = 0; day < 365; ++day) {
      const Date d = plusDays({2025, 1, 1}, day); // 29 February is in no weather year
      for (int h = 1; h <= 24; ++h) {
        WeatherHour hour;
        hour.year = made_.year;
        hour.month = d.month;
        hour.day = d.day;
        hour.hour = h;
        hour.minute = 60;
        hour.values.fill(std::nan(""));
        w.hours.push_back(hour);
      }
    }
    for (auto& of : of_) of.assign(year8760, HourOrigin::Missing);
  }

  Outcome take() {
    std::size_t taken = 0;
    for (std::size_t i = 0; i < year8760; ++i) {
      WeatherHour& to = hour(i);
      const Instant begin{double(dayNumber({made_.year, to.month, to.day})) * 86400 + 3600.0 * (to.hour - 1) -
                          means_.utcOffset()};
      for (std::size_t k = 0; k < columns_.size(); ++k) {
        const auto field = facts(columns_[k]).field;
        if (!field) continue;
        has_[std::size_t(*field)] = true;
        double v = means_.mean(means_.hourOf(begin + 1), k);
        if (!std::isfinite(v)) continue;
        to[*field] = v;
        origin(i, *field) = HourOrigin::Measured;
        ++taken;
      }
    }
    if (taken == 0) return fail(fmt::format("No reading lies in {}.", made_.year));
    return {};
  }

  /// Irradiance by measured illuminance: the efficacy depends on what it tells, so it is found by turns.
  void byEfficacy() {
    Weather& w = made_.weather;
    const bool both = has(F::DiffuseIlluminance);
    for (std::size_t i = 0; i < year8760; ++i) {
      hour(i)[F::GlobalHorizontal] = hour(i)[F::GlobalIlluminance] / 110;
      if (both) hour(i)[F::DiffuseHorizontal] = hour(i)[F::DiffuseIlluminance] / 120;
    }
    for (int turn = 0; turn < 6; ++turn) {
      const SplitYear split = splitGlobal(w, rules_.split);
      for (std::size_t i = 0; i < year8760; ++i) {
        const SplitHour& s = split.hours[i];
        const double lux = hour(i)[F::GlobalIlluminance];
        if (!s.up || !(lux > 0)) continue;
        const double sine = std::max(0.02, std::sin(s.altitude));
        PerezInput in;
        in.diffuseHorizontal = both ? std::min(hour(i)[F::DiffuseHorizontal], hour(i)[F::GlobalHorizontal]) : s.diffuse;
        in.directNormal = both ? std::max(0.0, hour(i)[F::GlobalHorizontal] - in.diffuseHorizontal) / sine : s.beam;
        in.sun = skyDirection(s.altitude, 0);
        in.dayOfYear = dayOfYear({2025, hour(i).month, hour(i).day});
        if (std::isfinite(hour(i)[F::DewPoint])) in.dewPoint = hour(i)[F::DewPoint];
        const PerezState state = perezState(in);
        if (both && state.diffuseEfficacy > 0 && std::isfinite(hour(i)[F::DiffuseIlluminance])) {
          hour(i)[F::DiffuseHorizontal] = hour(i)[F::DiffuseIlluminance] / state.diffuseEfficacy;
          const double beam = std::max(0.0, lux - hour(i)[F::DiffuseIlluminance]);
          hour(i)[F::GlobalHorizontal] =
              hour(i)[F::DiffuseHorizontal] + (state.directEfficacy > 0 ? beam / state.directEfficacy : beam / 100);
        } else {
          const double told =
              in.diffuseHorizontal * state.diffuseEfficacy + in.directNormal * sine * state.directEfficacy;
          if (told > 0) hour(i)[F::GlobalHorizontal] *= lux / told;
        }
      }
    }
    for (F f : {F::GlobalHorizontal, F::DiffuseHorizontal}) {
      if (f == F::DiffuseHorizontal && !both) continue;
      has_[std::size_t(f)] = true;
      for (std::size_t i = 0; i < year8760; ++i)
        if (std::isfinite(hour(i)[f])) origin(i, f) = HourOrigin::Derived;
    }
    note("Irradiance follows from measured illuminance by the efficacies of Perez and others (1990)");
  }

  /// What can't be is not taken.
  void sift() {
    std::set<std::size_t> impossible, night, negative;
    for (std::size_t i = 0; i < year8760; ++i)
      for (std::size_t f = 0; f < weatherFieldCount; ++f) {
        if (!has_[f] || !isRadiation(F(f))) continue;
        double& v = hour(i).values[f];
        if (!std::isfinite(v)) continue;
        const bool light = F(f) == F::GlobalIlluminance || F(f) == F::DiffuseIlluminance;
        const double watts = light ? v / 110 : v;
        const Outside& o = outside_[i];
        // Long and Dutton (2002), physically possible limits; the sun as high as it gets within the hour.
        const double lifted = std::pow(std::max(0.0, std::sin(std::min(pi / 2, o.altitude + radians(8)))), 1.2);
        const double normal = o.up ? o.normal : earth::solarConstant;
        const double most = F(f) == F::DirectNormal        ? normal
                            : F(f) == F::DiffuseHorizontal ? 0.95 * normal * lifted + 50
                                                           : 1.5 * normal * lifted + 100;
        if (watts < -20 || (o.up && watts > most)) {
          v = std::nan("");
          origin(i, F(f)) = HourOrigin::Missing;
          impossible.insert(i);
        } else if (!o.up) {
          if (watts > 5) night.insert(i);
          v = 0;
        } else if (watts < 0) {
          v = 0;
          negative.insert(i);
        }
      }
    made_.impossible = impossible.size();
    made_.night = night.size();
    made_.negative = negative.size();
  }

  /// Of what comes from outside; illuminance in lm for each W of it.
  static double mostShare(F f) { return f == F::GlobalIlluminance || f == F::DiffuseIlluminance ? 130 : 1; }
  /// Is it the share of what comes from outside that is filled?
  double scale(std::size_t i, F f) const {
    if (!isRadiation(f)) return 1;
    const Outside& o = outside_[i];
    return !o.up ? 0 : f == F::DirectNormal ? o.normal * o.share : o.horizontal();
  }

  void fill(F f) {
    std::vector<double> share(year8760, std::nan(""));
    for (std::size_t i = 0; i < year8760; ++i) {
      const double s = scale(i, f), v = hour(i)[f];
      if (isRadiation(f) && s <= 0) {
        hour(i)[f] = 0; // the night needs no measurement
        if (origin(i, f) == HourOrigin::Missing) origin(i, f) = HourOrigin::Derived;
      } else if (std::isfinite(v)) {
        // At the edge of the day a slipped clock gives light to hours that have next to none: no sky gives more than
        // all.
        share[i] = isRadiation(f) ? std::min(v / s, mostShare(f)) : v;
      }
    }
    const std::vector<double> given = share;
    const auto dark = [&](std::size_t i) { return isRadiation(f) && scale(i, f) <= 0; };
    const auto put = [&](std::size_t i, double s, HourOrigin from) {
      hour(i)[f] = s * scale(i, f);
      origin(i, f) = from;
    };
    // Missing hours one after the other; nights between them neither end nor lengthen a gap of radiation.
    for (std::size_t i = 0; i < year8760;) {
      if (dark(i) || std::isfinite(given[i])) {
        ++i;
        continue;
      }
      std::vector<std::size_t> gap;
      std::size_t end = i;
      for (; end < year8760 && !std::isfinite(given[end]); ++end)
        if (!dark(end)) gap.push_back(end);
      constexpr std::size_t nowhere = year8760;
      std::size_t before = nowhere;
      for (std::size_t k = i; k-- > 0 && i - k <= 24;)
        if (std::isfinite(given[k])) {
          before = k;
          break;
        }
      const bool near = before != nowhere && end != nowhere &&
                        (!isRadiation(f) || end - before <= std::size_t(rules_.gaps.interpolate) + 1);
      if (int(gap.size()) <= rules_.gaps.interpolate && near) {
        for (std::size_t k : gap) {
          const double t = double(k - before) / double(end - before);
          put(k, f == F::WindDirection ? given[before] : (1 - t) * given[before] + t * given[end],
              HourOrigin::Interpolated);
        }
      } else {
        const std::size_t length = end - i;
        for (std::size_t k : gap) {
          if (int((length + 23) / 24) <= rules_.gaps.days)
            if (const double s = aroundDays(given, k); std::isfinite(s)) {
              put(k, s, HourOrigin::Days);
              continue;
            }
          if (rules_.other != nullptr && rules_.other->hours.size() == year8760)
            if (const double v = rules_.other->hours[k][f]; std::isfinite(v)) {
              hour(k)[f] = isRadiation(f) ? std::max(0.0, v) : v;
              origin(k, f) = HourOrigin::Other;
            }
        }
      }
      i = end;
    }
  }

  /// The mean of the same hour on the nearest day before and the nearest after that have it, within ten days; of one
  /// alone where the year ends.
  static double aroundDays(const std::vector<double>& given, std::size_t i) {
    double sum = 0;
    int n = 0;
    for (const int way : {-1, 1})
      for (int day = 1; day <= 10; ++day) {
        const std::ptrdiff_t at = std::ptrdiff_t(i) + way * 24 * day;
        if (at < 0 || at >= std::ptrdiff_t(year8760)) break;
        if (!std::isfinite(given[std::size_t(at)])) continue;
        sum += given[std::size_t(at)];
        ++n;
        break;
      }
    return n > 0 ? sum / n : std::nan("");
  }

  Outcome closeRadiation() {
    const bool g = has(F::GlobalHorizontal), b = has(F::DirectNormal), d = has(F::DiffuseHorizontal);
    if (g + b + d == 1 && !g)
      return fail(fmt::format("{} alone tells no sky: global radiation, or both beam and diffuse, are wanted.",
                              b ? "Beam radiation" : "Diffuse radiation"));
    std::size_t bright = 0;
    if (g && !b && !d) {
      const SplitYear split = splitGlobal(made_.weather, rules_.split);
      made_.held = split.held;
      for (std::size_t i = 0; i < year8760; ++i) {
        if (!std::isfinite(hour(i)[F::GlobalHorizontal])) continue;
        hour(i)[F::DirectNormal] = split.hours[i].beam;
        hour(i)[F::DiffuseHorizontal] = split.hours[i].diffuse;
      }
      note(fmt::format("Beam and diffuse irradiance split from global by {}", splitModelText(rules_.split)));
    } else {
      for (std::size_t i = 0; i < year8760; ++i) {
        double &global = hour(i)[F::GlobalHorizontal], &beam = hour(i)[F::DirectNormal],
               &diffuse = hour(i)[F::DiffuseHorizontal];
        const Outside& o = outside_[i];
        if (!o.up) {
          global = beam = diffuse = 0;
          continue;
        }
        const double s = std::max(1e-3, std::sin(o.altitude));
        if (!std::isfinite(global)) global = beam * s + diffuse;
        if (!std::isfinite(beam)) {
          diffuse = std::min(diffuse, global);
          beam = (global - diffuse) / s;
          if (const double most = o.normal * o.share * cleanAirShare(o.altitude); beam > most) {
            beam = most; // a sun so low tells nothing of its beam
            diffuse = global - beam * s;
            ++made_.held;
          }
        }
        if (!std::isfinite(diffuse)) {
          bright += global < beam * s;
          diffuse = std::max(0.0, global - beam * s);
        }
      }
      if (!b || !d || !g)
        note(fmt::format("{} irradiance by closure from the two others", !b ? "Beam" : !d ? "Diffuse" : "Global"));
    }
    if (bright > 0)
      finding(Rank::BendsResult, "station.closure",
              fmt::format("In {} the beam alone gives more than the global radiation beside it: their clocks or "
                          "calibrations part; diffuse was taken as 0.",
                          counted(bright, "hour", "hours")),
              bright);
    for (F f : radiationFields) {
      for (std::size_t i = 0; i < year8760; ++i)
        if (std::isfinite(hour(i)[f]) && origin(i, f) == HourOrigin::Missing) origin(i, f) = HourOrigin::Derived;
    }
    return {};
  }

  /// Dew point from humidity or the other way round, by the Magnus form (WMO 2008).
  void moisture() {
    constexpr double a = 17.62, b = 243.12;
    for (std::size_t i = 0; i < year8760; ++i) {
      const double t = hour(i)[F::DryBulb];
      double &dew = hour(i)[F::DewPoint], &humidity = hour(i)[F::RelativeHumidity];
      if (std::isfinite(humidity)) humidity = std::clamp(humidity, 0.0, 110.0);
      if (!std::isfinite(t)) continue;
      if (!std::isfinite(dew) && std::isfinite(humidity)) {
        const double g = std::log(std::max(0.1, humidity) / 100) + a * t / (b + t);
        dew = std::min(t, b * g / (a - g));
        origin(i, F::DewPoint) = HourOrigin::Derived;
      } else if (!std::isfinite(humidity) && std::isfinite(dew)) {
        humidity = std::min(100.0, 100 * std::exp(a * dew / (b + dew) - a * t / (b + t)));
        origin(i, F::RelativeHumidity) = HourOrigin::Derived;
      }
    }
  }

  /// Columns that follow from the sun and the radiation; rounded as far as the format's readers count on.
  void computed() {
    const auto to = [&](double& v, double step) {
      if (std::isfinite(v)) v = std::round(v / step) * step;
    };
    for (std::size_t i = 0; i < year8760; ++i) {
      WeatherHour& h = hour(i);
      const Outside& o = outside_[i];
      h[F::ExtraterrestrialHorizontal] = o.up ? o.horizontal() : 0;
      h[F::ExtraterrestrialNormal] = o.up ? o.normal * o.share : 0;
      of_[std::size_t(F::ExtraterrestrialHorizontal)][i] = of_[std::size_t(F::ExtraterrestrialNormal)][i] =
          HourOrigin::Derived;
      if (std::isfinite(h[F::DirectNormal] + h[F::DiffuseHorizontal])) {
        PerezInput in{h[F::DirectNormal], h[F::DiffuseHorizontal], skyDirection(o.altitude, 0)};
        if (std::isfinite(h[F::DewPoint])) in.dewPoint = h[F::DewPoint];
        in.dayOfYear = dayOfYear({2025, h.month, h.day});
        const bool any = o.up && in.diffuseHorizontal > 0;
        const PerezState state = any ? perezState(in) : PerezState{};
        const double beam = any ? in.directNormal * state.directEfficacy : 0,
                     diffuse = any ? in.diffuseHorizontal * state.diffuseEfficacy : 0,
                     s = std::max(0.0, std::sin(o.altitude));
        for (const auto& [f, v] : {std::pair{F::DirectIlluminance, beam},
                                   {F::DiffuseIlluminance, diffuse},
                                   {F::GlobalIlluminance, beam * s + diffuse}})
          if (!std::isfinite(h[f])) h[f] = v, origin(i, f) = HourOrigin::Derived;
      }
      for (F f : {F::DryBulb, F::DewPoint, F::RelativeHumidity, F::WindSpeed}) to(h[f], 0.1);
      for (std::size_t f = 0; f < weatherFieldCount; ++f) {
        // To a tenth: closer than any instrument, and short enough to read.
        if (isRadiation(F(f)) || F(f) == F::ExtraterrestrialHorizontal || F(f) == F::ExtraterrestrialNormal)
          to(h.values[f], 0.1);
        if (F(f) == F::Pressure || F(f) == F::WindDirection || F(f) == F::DirectIlluminance) to(h.values[f], 1);
        if (F(f) == F::TotalSkyCover) to(h.values[f], 1);
        h.values[f] = tidy(h.values[f]);
      }
    }
  }
  /// Without the tail of binary thirds: 20.3, not 20.300000000000001.
  static double tidy(double v) { return std::isfinite(v) ? std::round(v * 10) / 10 : v; }

  void tell() {
    std::array<std::size_t, 6>& n = made_.hours;
    made_.origin.assign(year8760, HourOrigin::Measured);
    for (std::size_t i = 0; i < year8760; ++i) {
      HourOrigin worst = HourOrigin::Measured;
      for (std::size_t f = 0; f < weatherFieldCount; ++f)
        if (has_[f] && !(isRadiation(F(f)) && !outside_[i].up)) worst = std::max(worst, of_[f][i]);
      if (worst == HourOrigin::Derived) worst = HourOrigin::Measured; // of measured ones alone
      made_.origin[i] = worst;
      ++n[std::size_t(worst)];
      std::string& flags = hour(i).flags;
      for (std::size_t f = 0; f < weatherFieldCount; ++f) {
        const bool there = std::isfinite(hour(i).values[f]);
        constexpr std::array<const char*, 6> letters{"A7", "D8", "B8", "C9", "E9", "?0"};
        flags += letters[there ? std::size_t(of_[f][i]) : 5];
      }
    }
    Weather& w = made_.weather;
    const std::size_t known = year8760 - n[5];
    std::string first =
        fmt::format("Made of measured columns{}{}. {} of 8760 hours invented: {} interpolated; {} from the "
                    "days around; {} from another year's file",
                    rules_.source.empty() ? "" : " of ", rules_.source, made_.invented(), n[2], n[3], n[4]);
    if (known < year8760 - 24)
      first += fmt::format(". A part of a year: {} hours are missing in something measured", n[5]);
    if (!rules_.clock.empty()) first += ". " + rules_.clock;
    addComment(w, first);
    for (const std::string& text : notes_) addComment(w, text);
    w.headers[5] =
        "COMMENTS 2,Column 6 has a letter and a figure of certainty for each later column: A7 measured; B8 "
        "interpolated; C9 from the days around; D8 derived from measured ones; E9 from another year; ?0 not given";
    finishWeather(w);
    if (made_.invented() > 0)
      finding(made_.invented() > 876 ? Rank::BendsResult : Rank::WorthKnowing, "weather.invented",
              fmt::format("{} of 8760 hours are invented: {} interpolated, {} from the days around, {} from another "
                          "year's file.",
                          made_.invented(), n[2], n[3], n[4]),
              made_.invented());
    if (n[5] > 0)
      finding(Rank::BendsResult, "station.gap",
              fmt::format("{} of 8760 hours lack something that was measured and are filled by no rule.", n[5]), n[5]);
    if (made_.impossible > 0)
      finding(Rank::BendsResult, "station.impossible",
              fmt::format("{} with radiation that no sky gives: taken as not measured.",
                          counted(made_.impossible, "hour", "hours")),
              made_.impossible);
    if (made_.night > 0)
      finding(
          Rank::BendsResult, "station.night",
          fmt::format("{} with light while the sun is below the horizon: set to 0. Wrong place, clock or calibration?",
                      counted(made_.night, "hour", "hours")),
          made_.night);
    if (made_.negative > 0)
      finding(Rank::WorthKnowing, "station.negative",
              fmt::format("{} with the sun up and radiation a little below zero: set to 0.",
                          counted(made_.negative, "hour", "hours")),
              made_.negative);
    if (made_.held > 0)
      finding(Rank::WorthKnowing, "station.held",
              fmt::format("In {} the beam was held at what the cleanest air lets through.",
                          counted(made_.held, "hour", "hours")),
              made_.held);
    if (made_.slip && made_.slip->counts()) {
      Finding f;
      f.rank = Rank::BendsResult;
      f.code = "station.slip";
      f.text = fmt::format("By {} the stamps are {:.0f} ± {:.0f} min {} than the sun.",
                           made_.slip->byClosure ? "closure of global, beam and diffuse" : "the middle of clear days",
                           std::abs(made_.slip->minutes), std::max(1.0, made_.slip->error),
                           made_.slip->minutes < 0 ? "later" : "earlier");
      f.mend = "station.slip";
      f.mendText = fmt::format("Move the stamps by {:+.0f} min", made_.slip->minutes);
      made_.findings.push_back(std::move(f));
    }
  }
  void note(std::string text) { notes_.push_back(std::move(text)); }
  void finding(Rank rank, const char* code, std::string text, std::size_t count) {
    Finding f;
    f.rank = rank;
    f.code = code;
    f.text = std::move(text);
    f.count = int(count);
    made_.findings.push_back(std::move(f));
  }

  const HourMeans& means_;
  const std::vector<Measured>& columns_;
  const MakingRules& rules_;
  MadeWeather made_;
  std::vector<Outside> outside_;
  std::array<bool, weatherFieldCount> has_{};
  std::array<std::vector<HourOrigin>, weatherFieldCount> of_;
  std::vector<std::string> notes_;
};
} // namespace

Expected<MadeWeather> makeWeather(const HourMeans& means, const std::vector<Measured>& columns,
                                  const MakingRules& rules) {
  require(columns.size() == means.columns(), "makeWeather: a quantity for each column");
  return Making(means, columns, rules).run();
}

std::optional<std::size_t> inventedHours(const Weather& w) {
  const auto at = w.headers[4].find(" of 8760 hours invented");
  if (at == std::string::npos) return {};
  std::size_t from = at;
  while (from > 0 && w.headers[4][from - 1] >= '0' && w.headers[4][from - 1] <= '9') --from;
  const auto v = numberFromText(std::string_view(w.headers[4]).substr(from, at - from));
  return v ? std::optional(std::size_t(*v)) : std::nullopt;
}

bool partOfYear(const Weather& w) {
  return w.headers[4].find("A part of a year") != std::string::npos;
}

} // namespace noonward
