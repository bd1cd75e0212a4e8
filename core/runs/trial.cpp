#include "core/runs/trial.h"
#include <algorithm>

namespace noonward {

namespace {
constexpr std::size_t everyEighth = 8;
constexpr double coarser = 4;

bool thinned(const Study& s, int year) {
  return s.kind == StudyKind::SunHours && datesOf(s.sunHours, year).size() > everyEighth;
}
} // namespace

Study trialOf(const Study& study, int year) {
  Study out = study;
  if (thinned(study, year)) {
    out.sunHours.dates.clear();
    const std::vector<Date> all = datesOf(study.sunHours, year);
    for (std::size_t k = everyEighth / 2; k < all.size(); k += everyEighth) out.sunHours.dates.push_back(all[k]);
  }
  out.light.error = std::min(0.5, study.light.error * coarser);
  out.light.maxSamples = std::max<std::size_t>(64, study.light.maxSamples / std::size_t(coarser * coarser));
  out.year.error = std::min(0.5, study.year.error * coarser);
  return out;
}

double trialScale(const Study& study, int year) {
  if (!thinned(study, year)) return 1;
  return double(datesOf(study.sunHours, year).size()) / double(trialOf(study, year).sunHours.dates.size());
}

SunHoursResult raised(SunHoursResult result, double scale) {
  for (float& h : result.hours) h = float(h * scale);
  result.possible *= scale;
  return result;
}

std::string trialText(const Study& study, int year) {
  if (thinned(study, year)) return "trial, every eighth day, not judged";
  return study.kind == StudyKind::SunHours ? "trial, not judged" : "trial, four times the error, not judged";
}

} // namespace noonward
