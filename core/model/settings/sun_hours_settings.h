#pragma once
// What is asked of a study of sun hours, and the seasons it may count in.

#include "core/base/id.h"
#include "core/sun/time.h"
#include <string>
#include <vector>

namespace noonward {

/// Months × hours. Days run from `from` to `to` inclusive and may cross New Year; the clock window is [begin, end).
struct Season {
  SeasonId id;
  std::string name;
  int fromMonth = 1, fromDay = 1, toMonth = 12, toDay = 31;
  double beginMinute = 0, endMinute = 1440;
  bool operator==(const Season& o) const {
    return name == o.name && fromMonth == o.fromMonth && fromDay == o.fromDay && toMonth == o.toMonth &&
           toDay == o.toDay && beginMinute == o.beginMinute && endMinute == o.endMinute;
  }
};
/// The dates of a season in one calendar year, in order; across New Year its two ends of that year.
std::vector<Date> datesOf(const Season& season, int year);
bool holds(const Season& season, Date date);
std::string seasonText(const Season& season); ///< "21 Dec · 9:00–15:00"

enum class Counting { Exact, Stepped };
enum class StepSample { Middle, Ends };
enum class AltitudeKind { True, Apparent };

struct SunHoursSettings {
  std::vector<Date> dates;      ///< single dates; empty: the season's
  Season season;                ///< its clock window always counts
  bool sunriseToSunset = false; ///< the whole day instead of the window
  Counting counting = Counting::Exact;
  int stepMinutes = 10; ///< for stepped counting: 1, 5, 10, 15, 30, 60
  StepSample sample = StepSample::Middle;
  double minAltitude = 0; ///< rad
  AltitudeKind altitudeKind = AltitudeKind::True;
  bool operator==(const SunHoursSettings&) const = default;

  /// How files, commands, sheets, the question's hash and the docs see it (core/model/settings/fields.h). What sun
  /// there is follows from dates and window as they come out, and is hashed by the study.
  template <class D> static void describe(D& d) {
    using S = SunHoursSettings;
    const auto stepped = [](const S& s) { return s.counting == Counting::Stepped; };
    describeDates(d, "dates", &S::dates, "single days, `2026-03-21` or `21 Mar`; they go before a season");
    describeSeason(d, "season", &S::season);
    describeWindow(d, "window", &S::sunriseToSunset, &S::season);
    d.choice("counting", "Counted",
             {{Counting::Exact, {"exact", "exactly, to the second"}}, {Counting::Stepped, {"steps", "by steps"}}},
             &S::counting, "By crossing times, or as some rules ask by steps of minutes")
        .folded();
    d.count("step", "Step", "min", 1, 60, &S::stepMinutes, "Between the moments looked at").folded().matters(stepped);
    d.choice("sample", "Sampled",
             {{StepSample::Middle, {"middle", "mid-step"}}, {StepSample::Ends, {"ends", "both ends"}}}, &S::sample,
             "The moment that stands for a step, or both of its ends")
        .folded()
        .matters(stepped);
    d.angle("min-altitude", "Lowest sun", 0, 89, &S::minAltitude, "The sun counts from this altitude on")
        .formerly("least-altitude")
        .folded()
        .unlessDefault();
    d.choice(
         "altitude", "Altitude",
         {{AltitudeKind::True, {"true", "true"}}, {AltitudeKind::Apparent, {"apparent", "apparent, with refraction"}}},
         &S::altitudeKind, "Of the lowest sun: with or without the air's refraction")
        .folded()
        .matters([](const S& s) { return s.minAltitude > 0; })
        .unlessDefault();
  }
};

} // namespace noonward
