#include "picture/cells.h"
#include <algorithm>
#include <cmath>

namespace noonward {

Mesh cellMesh(const SensorSet& sensors, std::size_t group) {
  Mesh m;
  const SensorGridFacts& g = sensors.groups[group];
  m.points.reserve(4 * g.count);
  for (std::size_t i = g.first; i < g.first + g.count; ++i) {
    const auto base = std::uint32_t(m.points.size());
    const Vec3 lift = sensors.sensors[i].normalVector() * 0.03;
    for (Vec3 c : sensors.cell(i)) m.points.push_back(c + lift);
    m.triangles.push_back({base, base + 1, base + 2});
    m.triangles.push_back({base, base + 2, base + 3});
    m.face.insert(m.face.end(), 2, std::uint32_t(i - g.first));
  }
  return m;
}

ResultScale scaleFor(const SunHoursResult& r, double threshold) {
  ResultScale s;
  // Up to what the sky would give: the colours keep their meaning while masses move and between options.
  s.high = std::max(1.0, r.possible <= 24 ? std::ceil(r.possible - 0.05) : roundedUp(r.possible));
  s.threshold = threshold;
  if (r.dates.size() > 1) s.title = QString("hours of sun, %1 days").arg(r.dates.size());
  return s;
}

double usualThreshold(StudyKind kind) {
  switch (kind) {
  case StudyKind::SunHours:
    return 2;
  case StudyKind::DaylightFactor:
    return 2;
  case StudyKind::Illuminance:
    return 300;
  case StudyKind::SkyView:
    return 50;
  case StudyKind::Vsc:
    return 27;
  case StudyKind::SunlightYear:
    return 25;
  case StudyKind::SunlightWinter:
    return 5;
  case StudyKind::NoSkyLine:
  case StudyKind::Year:
    return 50;
  }
  return 0;
}

ResultScale scaleFor(const LightResult& r, double threshold) {
  ResultScale s;
  s.palette = Palette::Illuminance;
  s.unit = studyUnit(r.kind);
  s.title = QString(studyName(r.kind)).toLower();
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
  if (r.kind == StudyKind::SkyView || r.kind == StudyKind::NoSkyLine) s.high = 100;
  if (r.kind == StudyKind::Vsc) s.high = 40;
  return s;
}

QString PaintedResult::valueText(std::size_t i) const {
  const double v = double(values()[i]);
  if (std::isnan(v)) return "not computed";
  if (!light) return QString("%1 h %2 min of sun").arg(int(v + 1e-6)).arg(int(v * 60 + 1e-4) % 60);
  const double error = double(light->standardError[i]);
  if (v == 0 && error > 0) return QString("no light found: at most %1 %2").arg(2 * error, 0, 'g', 2).arg(scale.unit);
  const int digits = v >= 100 ? 0 : v >= 10 ? 1 : 2;
  return error > 0 ? QString("%1 ± %2 %3").arg(v, 0, 'f', digits).arg(error, 0, 'g', 2).arg(scale.unit)
                   : QString("%1 %2").arg(v, 0, 'f', digits).arg(scale.unit);
}

ResultScale PaintedResult::scaled(double threshold, const std::optional<std::pair<double, double>>& range) const {
  ResultScale s = scale;
  s.threshold = threshold;
  if (range && range->second > range->first) s.low = range->first, s.high = range->second;
  return s;
}

bool PaintedResult::inRooms() const {
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
    return "useful illuminance";
  case YearMetric::TooMuch:
    return "above useful";
  case YearMetric::MeanLux:
    return "mean illuminance";
  }
  return "";
}

PaintedResult paintedYear(const YearFacts& in, std::shared_ptr<const YearResult> year, YearMetric metric) {
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
      v = y.mean, error = y.mean * double(year->relativeError[i]);
      break;
    }
    const bool known = !std::isnan(year->relativeError[i]);
    values->value.push_back(known ? float(v) : std::nanf(""));
    values->standardError.push_back(float(error));
    values->samples.push_back(0);
  }
  PaintedResult out;
  out.sensors = in.sensors;
  out.areas = in.areas;
  out.counted = in.counted;
  const bool share = metric != YearMetric::BeamHours && metric != YearMetric::MeanLux;
  out.scale = scaleFor(*values, share ? 100 * m.autonomy : metric == YearMetric::BeamHours ? m.beamHours : m.threshold);
  out.scale.unit = share ? "%" : metric == YearMetric::BeamHours ? "h" : "lx";
  out.scale.title = metric == YearMetric::Autonomy    ? QString("autonomy at %1 lx").arg(m.threshold, 0, 'g', 4)
                    : metric == YearMetric::BeamHours ? QString("hours of beam, %1 lx").arg(m.beam, 0, 'g', 4)
                                                      : QString(yearMetricName(metric));
  if (share) out.scale.high = 100;
  if (metric == YearMetric::BeamHours) out.scale.dotBelow = false;
  out.light = std::move(values);
  out.year = std::move(year);
  return out;
}

} // namespace noonward
