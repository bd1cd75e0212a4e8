#pragma once
// A trial: a study in a small part of its work, to see in seconds whether it is the right one. Never judged, never
// kept.

#include "core/studies/sun_hours.h"

namespace noonward {

/// The same study over every eighth day of a season of more than eight days; light and a year with four times the
/// error, which takes a sixteenth of the paths.
Study trialOf(const Study& study, int year);
/// By how much sums over the trial's days are to be raised to stand for the whole season's; 1 where nothing was left
/// out.
double trialScale(const Study& study, int year);
/// Hours of a trial, raised to stand for the whole.
SunHoursResult raised(SunHoursResult result, double scale);
/// "trial, every eighth day, not judged"
std::string trialText(const Study& study, int year);

} // namespace noonward
