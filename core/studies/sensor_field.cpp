#include "core/studies/sensor_field.h"
#include "core/studies/energy/energy_year.h"
#include "core/studies/glare_year.h"
#include "core/studies/view_out.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

double roundedUp(double v) {
  if (!(v > 0)) return 1;
  for (const double step : {1.0, 2.0, 4.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 24.0})
    if (v <= step) return step;
  const double p = std::pow(10, std::floor(std::log10(v)));
  return std::ceil(v / p) * p;
}

FieldScale scaleFor(const SunHoursResult& r, double threshold) {
  FieldScale s;
  // Up to what the sky would give: the colours keep their meaning while masses move and between options.
  s.high = std::max(1.0, r.possible <= 24 ? std::ceil(r.possible - 0.05) : roundedUp(r.possible));
  s.threshold = threshold;
  if (r.dates.size() > 1) s.title = fmt::format("hours of sun, {} days", r.dates.size());
  return s;
}

FieldScale scaleFor(const LightResult& r, double threshold) {
  FieldScale s;
  s.palette = Palette::Illuminance;
  s.unit = r.unitText();
  s.title = studyName(r.kind);
  s.title[0] = char(std::tolower(static_cast<unsigned char>(s.title[0])));
  s.threshold = threshold;
  // Up to what all but a few sensors have; the few above are hatched. Never below the threshold's double, so that dark
  // rooms look dark.
  std::vector<float> v;
  for (float x : r.value)
    if (!std::isnan(x)) v.push_back(x);
  std::sort(v.begin(), v.end());
  const double high = v.empty() ? 1 : double(v[std::min(v.size() - 1, std::size_t(0.97 * double(v.size())))]);
  const double p = std::pow(10, std::floor(std::log10(std::max(high, 1e-3))));
  s.high = std::max(2 * threshold, std::ceil(high / p * 2) / 2 * p);
  if (r.kind == StudyKind::Irradiation) { // a sum: its own range, its threshold a mark alone
    s.palette = Palette::SunHours;
    s.high = std::max(p, std::ceil(high / p * 5 - 1e-9) / 5 * p);
    s.dotBelow = false;
  }
  if (r.kind == StudyKind::Glare || r.kind == StudyKind::Energy) s.dotBelow = false; // little of it is what is wanted
  if (r.kind == StudyKind::ViewOut) s.high = r.unit.empty() ? 3 : r.unit == "m" ? 100 : r.unit == "%" ? 50 : 90;
  if (factsOf(r.kind).top > 0) s.high = factsOf(r.kind).top;
  return s;
}

std::string SensorField::valueText(std::size_t i) const {
  const double v = double(values()[i]);
  if (std::isnan(v)) return "not computed";
  if (!light) return fmt::format("{} h {} min of sun", int(v + 1e-6), int(v * 60 + 1e-4) % 60);
  const double error = double(light->standardError[i]);
  const int digits = v >= 100 ? 0 : v >= 10 ? 1 : 2;
  if (isChange)
    return scale.low < 0 ? fmt::format("{:+.{}f} ± {:.2g} {}", v, std::abs(v) >= 100 ? 0 : 1, error, scale.unit)
                         : fmt::format("{:.0f} ± {:.2g} % of before", v, error);
  if (light->glare) {
    const GlareSeat& seat = light->glare->seats[i];
    return fmt::format("{:.1f} ± {:.2g} % of the schedule too glaring; DGP {:.2f} in the twentieth part, {:.2f} at "
                       "worst",
                       v, error, seat.dgp95, seat.worst);
  }
  if (light->energy) {
    if (const EnergyRoom* room = light->energy->room(sensors.sensors[i].group)) return energyText(*room);
  }
  if (light->kind == StudyKind::ViewOut && light->columns.size() > 5) {
    const auto of = [&](std::size_t column) { return double(light->columns[column].values[i]); };
    std::string layers;
    for (const auto& [column, name] : {std::pair{3, "sky"}, {4, "landscape"}, {5, "ground"}})
      if (of(std::size_t(column)) > 0) layers += (layers.empty() ? "" : ", ") + std::string(name);
    return of(1) > 0
               ? fmt::format("view level {:.0f}: {:.0f}° wide, {}, {}", of(0), of(1),
                             of(2) >= farthestView ? std::string("open") : fmt::format("{:.0f} m far", of(2)), layers)
               : std::string("no view out");
  }
  if (!light->direct.empty() && v > 0)
    return fmt::format("{:.{}f} ± {:.2g} {}: {:.{}f} sun, {:.{}f} sky, {:.{}f} reflected", v, digits, error, scale.unit,
                       light->direct[i], digits, light->sky[i], digits, light->reflected[i], digits);
  if (v == 0 && error > 0) return fmt::format("no light found: at most {:.2g} {}", 2 * error, scale.unit);
  return error > 0 ? fmt::format("{:.{}f} ± {:.2g} {}", v, digits, error, scale.unit)
                   : fmt::format("{:.{}f} {}", v, digits, scale.unit);
}

FieldScale SensorField::scaled(std::optional<double> threshold,
                               const std::optional<std::pair<double, double>>& range) const {
  FieldScale s = scale;
  if (isChange) return s;
  if (threshold) s.threshold = *threshold * s.perSi;
  if (range && range->second > range->first) {
    s.low = range->first * s.perSi;
    s.high = range->second * s.perSi;
  }
  return s;
}

bool SensorField::inRooms() const {
  return std::any_of(sensors.groups.begin(), sensors.groups.end(),
                     [](const SensorGridFacts& g) { return g.room >= 0; });
}

const char* yearMetricName(YearMetric m) {
  switch (m) {
  case YearMetric::Autonomy:
    return "daylight autonomy";
  case YearMetric::Continuous:
    return "continuous autonomy";
  case YearMetric::BeamHours:
    return "hours of beam";
  case YearMetric::Useful:
    return "UDI";
  case YearMetric::TooMuch:
    return "above useful";
  case YearMetric::MeanLux:
    return "mean illuminance";
  }
  return "";
}

SensorField yearField(const YearFacts& in, std::shared_ptr<const YearResult> year, YearMetric metric,
                      const DisplayUnits& units) {
  auto values = std::make_shared<LightResult>();
  values->kind = StudyKind::Year;
  values->key = year->key;
  values->end = year->end;
  values->seconds = year->seconds;
  const MetricSettings& m = in.settings.metrics;
  for (std::size_t i = 0; i < year->sensors.size(); ++i) {
    const SensorYear& y = year->sensors[i];
    double v = 0, error = 0;
    switch (metric) {
    case YearMetric::Autonomy:
      v = 100 * y.autonomy;
      break;
    case YearMetric::Continuous:
      v = 100 * y.continuous;
      break;
    case YearMetric::BeamHours:
      v = double(year->beamHours[i]);
      break;
    case YearMetric::Useful:
      v = 100 * (y.useful[1] + y.useful[2]);
      break;
    case YearMetric::TooMuch:
      v = 100 * y.useful[3];
      break;
    case YearMetric::MeanLux:
      v = y.mean;
      error = y.mean * double(year->relativeError[i]);
      break;
    }
    const bool known = !std::isnan(year->relativeError[i]);
    values->value.push_back(known ? float(v) : std::nanf(""));
    values->standardError.push_back(float(error));
    values->samples.push_back(0);
  }
  SensorField out;
  out.sensors = in.sensors;
  out.areas = in.areas;
  out.counted = in.counted;
  const bool share = metric != YearMetric::BeamHours && metric != YearMetric::MeanLux;
  out.scale = scaleFor(*values, share ? 100 * m.autonomy : metric == YearMetric::BeamHours ? m.beamHours : m.threshold);
  out.scale.unit = share ? "%" : metric == YearMetric::BeamHours ? "h" : "lx";
  const ShownUnit light = shownUnit("lx", units);
  const auto lux = [&](double v) { return fmt::format("{:.4g} {}", light.shown(v), light.symbol); };
  out.scale.title = metric == YearMetric::Autonomy    ? "autonomy at " + lux(m.threshold)
                    : metric == YearMetric::BeamHours ? "hours of beam, " + lux(m.beam)
                                                      : std::string(yearMetricName(metric));
  if (share) out.scale.high = 100;
  if (metric == YearMetric::BeamHours) out.scale.dotBelow = false;
  out.light = std::move(values);
  out.year = std::move(year);
  return inUnits(std::move(out), units);
}

FieldScale rescaled(const SensorField& f, double threshold) {
  if (!f.light) return scaleFor(*f.result, threshold);
  FieldScale s = scaleFor(*f.light, threshold * f.scale.perSi);
  s.unit = f.scale.unit;
  s.perSi = f.scale.perSi;
  return s;
}

namespace {
/// How the values of a field are shown: of a change, of hours and of shares as they are.
ShownUnit shownUnitOf(const SensorField& f, const DisplayUnits& units) {
  if (!f.light || f.isChange) return {f.scale.unit, f.scale.perSi};
  std::string si = f.light->unitText();
  if (f.year) si = f.scale.unit == "lx" || f.scale.unit == "fc" ? "lx" : f.scale.unit;
  constexpr std::string_view daily = " a day";
  const bool isDaily = si.ends_with(daily);
  ShownUnit out = shownUnit(isDaily ? si.substr(0, si.size() - daily.size()) : si, units);
  if (isDaily) out.symbol += daily;
  return out;
}
} // namespace

bool SensorField::isIn(const DisplayUnits& units) const {
  return scale.perSi == shownUnitOf(*this, units).factor;
}

SensorField inUnits(SensorField f, const DisplayUnits& units) {
  if (f.isIn(units)) return f;
  const ShownUnit shown = shownUnitOf(f, units);
  const double by = shown.factor / f.scale.perSi;
  auto values = std::make_shared<LightResult>(*f.light);
  for (auto* column :
       {&values->value, &values->standardError, &values->replicates, &values->direct, &values->sky, &values->reflected})
    for (float& v : *column) v = float(double(v) * by);
  const std::string title = f.scale.title;
  f.scale = scaleFor(*values, f.scale.threshold * by); // ends at a round number of the new unit
  f.scale.title = title;
  f.scale.unit = shown.symbol;
  f.scale.perSi = shown.factor;
  f.light = std::move(values);
  return f;
}

SensorField sunField(SensorSet sensors, std::shared_ptr<const SunHoursResult> result) {
  SensorField out;
  out.sensors = std::move(sensors);
  out.scale = scaleFor(*result, usualThreshold(StudyKind::SunHours));
  out.result = std::move(result);
  return out;
}

SensorField lightField(SensorSet sensors, std::shared_ptr<const LightResult> result, const DisplayUnits& units) {
  SensorField out;
  out.sensors = std::move(sensors);
  double threshold = usualThreshold(result->kind);
  if (result->kind == StudyKind::Irradiation) { // usual for a year, and nothing for a moment, a day or a month
    const auto known = [](float v) { return std::isnan(v) ? 0.0f : v; };
    float most = 0;
    for (float v : result->value) most = std::max(most, known(v));
    if (result->unitText() != studyUnit(result->kind) || double(most) < threshold / 2) threshold = 0;
  }
  out.scale = scaleFor(*result, threshold);
  out.light = std::move(result);
  return inUnits(std::move(out), units);
}

} // namespace noonward
