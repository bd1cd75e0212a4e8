#include "core/runs/record/measured_chapter.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

MeasuredChapter measuredChapter(const Project& p, const MeasuredSeries& series,
                                const std::vector<AgreementGuideline>& guidelines, RunControl& control,
                                Threads threads) {
  MeasuredChapter out;
  out.series = series;
  const auto study = studyForMeasuring(p, series.study);
  if (!study) {
    out.fault = study.error().text();
    return out;
  }
  out.study = study->name;
  const auto wish = wishOf(series);
  auto found = wish ? measureAgainst(p, *study, *wish, control, threads) : tl::unexpected(wish.error());
  if (!found) {
    out.fault = found.error().text();
    return out;
  }
  out.found = std::make_shared<const Measuring>(std::move(*found));
  for (const AgreementGuideline& g : guidelines)
    if (g.key == series.guideline) {
      out.guideline = g;
      out.verdict = judgeAgreement(out.found->comparison, g);
    }
  return out;
}

namespace {
Json agreementClaim(const Agreement& a) {
  Json j{{"n", a.n}};
  for (const auto& [key, value] : {std::pair{"mean_computed", a.meanModelled},
                                   {"mean_measured", a.meanObserved},
                                   {"mbe", a.mbe},
                                   {"nmbe_percent", 100 * a.nmbe},
                                   {"rmse", a.rmse},
                                   {"cv_rmse_percent", 100 * a.cvRmse},
                                   {"r2", a.r2}})
    if (std::isfinite(value)) j[key] = value;
  return j;
}
} // namespace

Json measuredClaim(const MeasuredChapter& c) {
  Json j{{"id", c.series.id.text()}, {"name", c.series.name}, {"study", c.study}};
  if (!c.found) {
    j["fault"] = c.fault;
    return j;
  }
  const Comparison& x = c.found->comparison;
  j["key"] = c.found->key.hex();
  j["unit"] = c.found->unit;
  j["year"] = x.year;
  j["hours"] = agreementClaim(x.hours);
  j["days"] = agreementClaim(x.days);
  j["months"] = agreementClaim(x.months);
  j["sensors"] = Json::array();
  for (const ComparedSensor& s : x.sensors) {
    Json one = agreementClaim(s.hours);
    one["sensor"] = s.sensor;
    j["sensors"].push_back(std::move(one));
  }
  if (c.verdict) j["guideline"] = Json{{"name", c.guideline->name}, {"meets", c.verdict->meets}};
  return j;
}

std::string measuredText(const Measuring& m) {
  const Agreement& a = m.comparison.hours;
  const LeftOut& out = m.comparison.leftOut;
  return fmt::format("{} sensor hours of {}: MBE {:+.1f} {} ({:+.1f} %), RMSE {:.1f} {} ({:.1f} %), R² {:.3f}; by day "
                     "CV(RMSE) {:.1f} %, by month {:.1f} %. Left out: {} not measured, {} without weather, {} with the "
                     "sun down, {} outside the stretch.",
                     a.n, m.comparison.year, a.mbe, m.unit, 100 * a.nmbe, a.rmse, m.unit, 100 * a.cvRmse, a.r2,
                     100 * m.comparison.days.cvRmse, 100 * m.comparison.months.cvRmse, out.notMeasured, out.noWeather,
                     out.night, out.outside);
}

} // namespace noonward
