#include "core/studies/measured_light.h"
#include "core/base/words.h"
#include "core/model/light_model.h"
#include "core/studies/coefficients.h"
#include "core/studies/hourly_sky.h"
#include "core/sun/sun_path.h"
#include <algorithm>
#include <charconv>
#include <cmath>
#include <set>

namespace noonward {

namespace {
/// The same sky in W/m² in place of lx.
std::shared_ptr<const HourlySky> inWatts(const HourlySky& sky) {
  auto out = std::make_shared<HourlySky>(sky);
  for (std::size_t h = 0; h < sky.hours.size(); ++h) {
    const auto col = Eigen::Index(h);
    if (sky.diffuseEfficacy[h] > 0) out->luminance.col(col) /= sky.diffuseEfficacy[h];
    const float beam = sky.beam[h] > 0 ? sky.beamIrradiance[h] / sky.beam[h] : 0.0f;
    for (Eigen::SparseMatrix<float>::InnerIterator it(out->spreadBeam, col); it; ++it) it.valueRef() *= beam;
    out->beam[h] = sky.beamIrradiance[h];
  }
  return out;
}

/// The means of whole days or months, where half of what counts of them is there.
void meansOf(const std::vector<float>& m, const std::vector<float>& o, const std::vector<std::size_t>& period,
             std::size_t periods, std::vector<double>& modelled, std::vector<double>& observed) {
  std::vector<double> sumM(periods, 0), sumO(periods, 0), n(periods, 0);
  for (std::size_t h = 0; h < m.size(); ++h) {
    if (!std::isfinite(m[h]) || !std::isfinite(o[h])) continue;
    sumM[period[h]] += double(m[h]);
    sumO[period[h]] += double(o[h]);
    n[period[h]] += 1;
  }
  const double most = *std::max_element(n.begin(), n.end());
  for (std::size_t k = 0; k < periods; ++k)
    if (n[k] > 0 && n[k] >= 0.25 * most) { // short days of winter are whole with fewer hours
      modelled.push_back(sumM[k] / n[k]);
      observed.push_back(sumO[k] / n[k]);
    }
}

constexpr std::size_t parts = 12;
/// Standard error of a figure told by twelve parts of the days.
double errorOf(const std::vector<double>& each) {
  if (each.size() < 2) return 0;
  double mean = 0, square = 0;
  for (double v : each) mean += v / double(each.size());
  for (double v : each) square += (v - mean) * (v - mean);
  return std::sqrt(square / double(each.size() - 1) / double(each.size()));
}

/// Readings over computed: g + h t, least squares; t in years.
struct Line {
  double gain = 1, drift = 0;
};
struct Sums {
  double mm = 0, mmt = 0, mmtt = 0, mo = 0, mot = 0;
  void add(double m, double o, double t) {
    mm += m * m;
    mmt += m * m * t;
    mmtt += m * m * t * t;
    mo += m * o;
    mot += m * o * t;
  }
  double gain() const { return mm > 0 ? mo / mm : 1; }
  Line line() const {
    const double det = mm * mmtt - mmt * mmt;
    if (!(det > 1e-12 * mm * mmtt)) return {gain(), 0};
    const double g = (mo * mmtt - mot * mmt) / det, h = (mm * mot - mmt * mo) / det;
    return {g, g != 0 ? h / g : 0};
  }
};

/// Least of a curve sampled every `step` about nothing, by a parabola through its lowest three.
double lowestAt(const std::vector<double>& of, double step) {
  const auto at = std::size_t(std::min_element(of.begin() + 1, of.end() - 1) - of.begin());
  const double a = of[at - 1], b = of[at], c = of[at + 1], bend = a - 2 * b + c;
  return step * (double(at) - double(of.size() / 2) + (bend > 0 ? std::clamp(0.5 * (a - c) / bend, -1.0, 1.0) : 0));
}
} // namespace

Expected<ModelledHours> modelledHours(const Project& p, const std::vector<GroupId>& groups, const YearSettings& asked,
                                      bool radiant, RunControl& control, Threads threads, double reflectances) {
  YearSettings settings = asked;
  settings.keepSeries = true;
  settings.stopFor = StopFor::Nothing;
  if (radiant) settings.setBlinds(BlindRule::Never);
  auto input = yearInput(p, groups, settings);
  if (!input) return tl::unexpected(input.error());
  ModelledHours out;
  out.radiant = radiant;
  if (reflectances != 1) {
    auto model = lightModel(p);
    if (!model) return tl::unexpected(model.error());
    for (Finish& f : model->finishes) f.reflectance = std::clamp(f.reflectance * reflectances, 0.0, 0.99);
    input->scene = std::make_shared<const LightScene>(*model);
  }
  const std::vector<HourSun> suns = hourSuns(*p.site.weather, p.site.year);
  for (std::size_t i = 0; i < suns.size(); ++i) {
    out.altitude.push_back(float(suns[i].position.altitude));
    out.azimuth.push_back(float(suns[i].position.azimuth));
    out.up.push_back(suns[i].up);
    out.known.push_back(input->sky->unknown.empty() || !input->sky->unknown[i]);
    out.years.push_back(p.site.weather->hours[i].year);
  }
  out.utcOffset = p.site.weather->utcOffset;
  if (radiant) input->sky = inWatts(*input->sky);
  YearResult r = runYear(*input, control, threads);
  if (r.end != RunEnd::Finished) return fail("Stopped.");
  out.sensors = std::move(input->sensors);
  out.values = std::move(r.series);
  out.key = input->key;
  out.findings = std::move(input->findings);
  if (radiant && asked.blinds != BlindRule::Never)
    out.findings.push_back(
        {Rank::WorthKnowing, "measured.open", "Irradiance is computed with blinds open.", 1, {}, "", ""});
  return out;
}

std::vector<MeasuredAt> matchSensors(const std::vector<std::pair<std::string, std::size_t>>& columns,
                                     const SensorSet& sensors, std::vector<std::string>& lost) {
  const auto small = [](std::string s) {
    for (char& c : s) c = char(c >= 'A' && c <= 'Z' ? c + 32 : c);
    return s;
  };
  std::vector<std::string> names;
  for (std::size_t i = 0; i < sensors.sensors.size(); ++i) names.push_back(sensors.sensorName(i));
  std::vector<MeasuredAt> out;
  for (const auto& [name, column] : columns) {
    std::optional<std::size_t> at;
    for (std::size_t i = 0; i < names.size() && !at; ++i)
      if (names[i] == name) at = i;
    for (std::size_t i = 0; i < names.size() && !at; ++i)
      if (small(names[i]) == small(name)) at = i;
    if (!at) { // "24 31.5 1.2"
      std::array<double, 3> xyz{};
      std::size_t n = 0;
      const char* c = name.data();
      const char* const end = c + name.size();
      while (c < end && n < 3) {
        const auto [next, ec] = std::from_chars(c, end, xyz[n]);
        if (ec != std::errc{}) {
          if (*c != ' ' && *c != ';' && *c != '(') break;
          ++c;
          continue;
        }
        ++n;
        c = next;
      }
      double nearest = 0.25;
      for (std::size_t i = 0; n == 3 && i < sensors.sensors.size(); ++i)
        if (const double d = length(sensors.sensors[i].position - Vec3{xyz[0], xyz[1], xyz[2]}); d < nearest) {
          nearest = d;
          at = i;
        }
    }
    if (at) {
      out.push_back({column, *at, name});
    } else {
      const std::string meant = meantWord(name, names);
      lost.push_back(meant.empty() ? fmt::format("\"{}\"", name)
                                   : fmt::format("\"{}\" (is \"{}\" meant?)", name, meant));
    }
  }
  return out;
}

namespace {
class Comparing {
public:
  Comparing(const ModelledHours& modelled, const HourMeans& measured, const std::vector<MeasuredAt>& at,
            const Stretch& stretch)
      : m_(modelled), o_(measured), at_(at), stretch_(stretch) {}

  Expected<Comparison> run(int year, const ModelledHours* darker, double darkerBy) {
    if (at_.empty()) return fail("No measured column belongs to a sensor of the study.");
    if (o_.empty()) return fail("There is no reading with a time and a value.");
    require(m_.values.size() % hoursOfYear == 0 && m_.up.size() == hoursOfYear, "compareMeasured: whole years");
    out_.year = year > 0 ? year : bestYear();
    count();
    if (out_.hours.n == 0)
      return fail(fmt::format("No hour of {} counts: {} without a measurement, {} with the sun down, {} outside the "
                              "stretch, {} without weather.",
                              out_.year, out_.leftOut.notMeasured, out_.leftOut.night, out_.leftOut.outside,
                              out_.leftOut.noWeather));
    suggest();
    if (darker != nullptr) reflectance(*darker, darkerBy);
    std::set<int> years(m_.years.begin(), m_.years.end());
    if (!years.contains(out_.year))
      note(Rank::WorthKnowing, "measured.year",
           fmt::format("The weather is not of {}: hours of the same date are laid side by side, and single days mean "
                       "little.",
                       out_.year));
    return std::move(out_);
  }

private:
  float modelled(std::size_t k, std::size_t h) const { return m_.values[at_[k].sensor * hoursOfYear + h]; }
  std::int64_t hourOf(std::size_t h) const {
    const Date d = plusDays({2025, 1, 1}, int(h / 24));
    return 24 * dayNumber({out_.year, d.month, d.day}) + std::int64_t(h % 24);
  }
  int bestYear() const {
    std::map<int, std::size_t> n;
    for (std::int64_t h = o_.first(); h <= o_.last(); ++h)
      for (const MeasuredAt& a : at_) n[civil(o_.begin(h), o_.utcOffset()).date.year] += o_.covered(h, a.column) > 0;
    int best = 0;
    std::size_t most = 0;
    for (const auto& [year, hours] : n)
      if (hours > most) most = hours, best = year;
    return best;
  }
  bool inStretch(std::size_t h) const {
    const int day = int(h / 24);
    const double middle = double(h % 24) + 0.5, altitude = double(m_.altitude[h]);
    const bool days = stretch_.firstDay <= stretch_.lastDay
                          ? day >= stretch_.firstDay && day <= stretch_.lastDay
                          : day >= stretch_.firstDay || day <= stretch_.lastDay; // over the turn of the year
    return days && middle > stretch_.firstHour && middle < stretch_.lastHour && altitude >= stretch_.leastAltitude &&
           altitude <= stretch_.mostAltitude;
  }

  void count() {
    std::vector<std::size_t> dayOf(hoursOfYear), monthOf(hoursOfYear);
    for (std::size_t h = 0; h < hoursOfYear; ++h) {
      dayOf[h] = h / 24;
      monthOf[h] = std::size_t(plusDays({2025, 1, 1}, int(h / 24)).month - 1);
      const bool counts = inStretch(h) && (stretch_.night || m_.up[h]) && m_.known[h];
      if (counts) hours_.push_back(h);
    }
    std::vector<double> allM, allO, dayM, dayO, monthM, monthO;
    std::array<std::pair<std::vector<double>, std::vector<double>>, 9> bins;
    for (std::size_t k = 0; k < at_.size(); ++k) {
      ComparedSensor c;
      c.column = at_[k].name;
      c.sensor = m_.sensors.sensorName(at_[k].sensor);
      c.measured.assign(hoursOfYear, std::nanf(""));
      c.modelled = c.measured;
      for (std::size_t h = 0; h < hoursOfYear; ++h) {
        if (!inStretch(h)) {
          ++out_.leftOut.outside;
          continue;
        }
        if (!stretch_.night && !m_.up[h]) {
          ++out_.leftOut.night;
          continue;
        }
        if (!m_.known[h]) {
          ++out_.leftOut.noWeather;
          continue;
        }
        const double o = o_.mean(hourOf(h), at_[k].column);
        if (!std::isfinite(o)) {
          ++out_.leftOut.notMeasured;
          continue;
        }
        c.measured[h] = float(o);
        c.modelled[h] = modelled(k, h);
        if (m_.altitude[h] >= 0) {
          auto& bin = bins[std::min<std::size_t>(8, std::size_t(double(m_.altitude[h]) / radians(10)))];
          bin.first.push_back(double(modelled(k, h)));
          bin.second.push_back(o);
        }
      }
      const std::vector<double> m(c.modelled.begin(), c.modelled.end()), o(c.measured.begin(), c.measured.end());
      c.hours = agreement(m, o);
      allM.insert(allM.end(), m.begin(), m.end());
      allO.insert(allO.end(), o.begin(), o.end());
      meansOf(c.modelled, c.measured, dayOf, 365, dayM, dayO);
      meansOf(c.modelled, c.measured, monthOf, 12, monthM, monthO);
      out_.sensors.push_back(std::move(c));
    }
    out_.hours = agreement(allM, allO);
    out_.days = agreement(dayM, dayO);
    out_.months = agreement(monthM, monthO);
    for (std::size_t b = 0; b < bins.size(); ++b)
      if (!bins[b].first.empty())
        out_.bySun.push_back({radians(10.0 * double(b)), agreement(bins[b].first, bins[b].second)});
  }

  /// What the readings would be with stamps moved by so many minutes.
  double moved(std::size_t k, std::size_t h, double minutes) const {
    return o_.meanMoved(hourOf(h), -60 * minutes, at_[k].column);
  }
  double yearsSince(std::size_t h) const { return double(hourOf(h) - firstMeasured_) / 8766; }

  void suggest() {
    firstMeasured_ = o_.first();
    // The slip: mean squares at each of 49 places, by parts of the days.
    constexpr int reach = 24;
    constexpr double step = 5;
    std::array<std::vector<double>, parts + 1> square, n;
    for (auto& v : square) v.assign(2 * reach + 1, 0);
    n = square;
    for (int s = -reach; s <= reach; ++s)
      for (std::size_t k = 0; k < at_.size(); ++k)
        for (const std::size_t h : hours_) {
          const double o = moved(k, h, step * s);
          if (!std::isfinite(o)) continue;
          const double d = double(modelled(k, h)) - o;
          for (const std::size_t part : {h / 24 % parts, parts}) {
            square[part][std::size_t(s + reach)] += d * d;
            n[part][std::size_t(s + reach)] += 1;
          }
        }
    std::vector<double> each;
    double slip = 0;
    for (std::size_t part = 0; part <= parts; ++part) {
      std::vector<double> mean(2 * reach + 1, 0);
      bool known = true;
      for (std::size_t s = 0; s < mean.size(); ++s) {
        known &= n[part][s] > 10;
        mean[s] = n[part][s] > 0 ? square[part][s] / n[part][s] : 0;
      }
      if (!known) continue;
      if (part < parts)
        each.push_back(lowestAt(mean, step));
      else
        slip = lowestAt(mean, step);
    }
    Suggestion bySlip;
    bySlip.kind = Suggestion::Kind::Slip;
    bySlip.slip = slip;
    bySlip.slipError = std::max(1.0, errorOf(each)); // bins are five minutes wide
    bySlip.counts = std::abs(slip) >= 5 && std::abs(slip) > 3 * bySlip.slipError;
    bySlip.reached = reached(std::round(slip / step) * step, {});
    bySlip.text = fmt::format("Stamps moved by {:+.0f} ± {:.0f} min", slip, bySlip.slipError);
    put(bySlip);
    for (const bool drift : {false, true}) {
      Suggestion s = instrument(0, drift);
      s.counts = s.counts && !bySlip.counts; // a gain told by a wrong clock is none
      put(std::move(s));
    }
    if (bySlip.counts) put(instrument(slip, true));
  }

  /// Readings as gain and drift of the instrument, with the stamps moved.
  Suggestion instrument(double slip, bool drift) const {
    const double to = std::round(slip / 5) * 5;
    Sums all;
    std::array<Sums, parts> part;
    for (std::size_t k = 0; k < at_.size(); ++k)
      for (const std::size_t h : hours_) {
        const double o = moved(k, h, to), m = double(modelled(k, h));
        if (!std::isfinite(o)) continue;
        all.add(m, o, yearsSince(h));
        part[h / 24 % parts].add(m, o, yearsSince(h));
      }
    Suggestion s;
    s.kind = slip != 0 ? Suggestion::Kind::SlipAndDrift : drift ? Suggestion::Kind::Drift : Suggestion::Kind::Gain;
    s.slip = slip;
    const Line line = drift ? all.line() : Line{all.gain(), 0};
    s.gain = line.gain;
    s.drift = line.drift;
    std::vector<double> gains, drifts;
    for (const Sums& p : part) {
      if (!(p.mm > 0)) continue;
      const Line l = drift ? p.line() : Line{p.gain(), 0};
      gains.push_back(l.gain);
      drifts.push_back(l.drift);
    }
    s.gainError = errorOf(gains);
    s.driftError = errorOf(drifts);
    s.reached = reached(to, line);
    s.counts =
        std::abs(s.gain - 1) > 3 * s.gainError + 0.005 || (drift && std::abs(s.drift) > 3 * s.driftError + 0.002);
    const std::string gain = fmt::format("readings are {:.3f} ± {:.3f} of the computed", s.gain, s.gainError);
    const std::string rate = fmt::format("{:+.1f} ± {:.1f} % a year", 100 * s.drift, 100 * s.driftError);
    s.text = !drift      ? "A factor of calibration: " + gain
             : slip == 0 ? fmt::format("A drift: {} at the first, {}", gain, rate)
                         : fmt::format("Both: stamps moved by {:+.0f} min, {} at the first, {}", slip, gain, rate);
    return s;
  }

  Agreement reached(double minutes, const Line& line) const {
    std::vector<double> m, o;
    for (std::size_t k = 0; k < at_.size(); ++k)
      for (const std::size_t h : hours_) {
        m.push_back(double(modelled(k, h)));
        o.push_back(moved(k, h, minutes) / (line.gain * (1 + line.drift * yearsSince(h))));
      }
    return agreement(m, o);
  }

  void reflectance(const ModelledHours& darker, double by) {
    if (darker.values.size() != m_.values.size()) return;
    double top = 0, under = 0;
    std::array<std::array<double, 2>, parts> part{};
    for (std::size_t k = 0; k < at_.size(); ++k)
      for (const std::size_t h : hours_) {
        const double o = o_.mean(hourOf(h), at_[k].column);
        if (!std::isfinite(o)) continue;
        const double m = double(modelled(k, h)), d = double(darker.values[at_[k].sensor * hoursOfYear + h]) - m;
        top += (o - m) * d;
        under += d * d;
        part[h / 24 % parts][0] += (o - m) * d;
        part[h / 24 % parts][1] += d * d;
      }
    if (!(under > 0)) return;
    Suggestion s;
    s.kind = Suggestion::Kind::Reflectance;
    const auto factor = [&](double x) { return 1 + x * (by - 1); };
    const double x = top / under;
    s.reflectance = factor(x);
    std::vector<double> each;
    for (const auto& [t, u] : part)
      if (u > 0) each.push_back(factor(t / u));
    s.reflectanceError = errorOf(each);
    std::vector<double> m, o;
    for (std::size_t k = 0; k < at_.size(); ++k)
      for (const std::size_t h : hours_) {
        const double a = double(modelled(k, h));
        m.push_back(a + x * (double(darker.values[at_[k].sensor * hoursOfYear + h]) - a));
        o.push_back(o_.mean(hourOf(h), at_[k].column));
      }
    s.reached = agreement(m, o);
    s.counts = std::abs(s.reflectance - 1) > 3 * s.reflectanceError + 0.01 && s.reflectance > 0 && s.reflectance < 2;
    s.text = fmt::format("All reflectances times {:.2f} ± {:.2f} (a straight line from a run at {:g})", s.reflectance,
                         s.reflectanceError, by);
    put(s);
  }

  void put(Suggestion s) {
    s.text += fmt::format(": CV(RMSE) {:.1f} % becomes {:.1f} %, NMBE {:+.1f} % becomes {:+.1f} %",
                          100 * out_.hours.cvRmse, 100 * s.reached.cvRmse, 100 * out_.hours.nmbe, 100 * s.reached.nmbe);
    out_.suggestions.push_back(std::move(s));
  }
  void note(Rank rank, const char* code, std::string text) {
    out_.findings.push_back({rank, code, std::move(text), 1, {}, "", ""});
  }

  const ModelledHours& m_;
  const HourMeans& o_;
  const std::vector<MeasuredAt>& at_;
  const Stretch& stretch_;
  Comparison out_;
  std::int64_t firstMeasured_ = 0;
  std::vector<std::size_t> hours_; ///< that count, but for the measurement
};
} // namespace

Expected<Comparison> compareMeasured(const ModelledHours& modelled, const HourMeans& measured,
                                     const std::vector<MeasuredAt>& at, const Stretch& stretch, int year,
                                     const ModelledHours* darker, double darkerBy) {
  return Comparing(modelled, measured, at, stretch).run(year, darker, darkerBy);
}

} // namespace noonward
