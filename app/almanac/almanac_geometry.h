#pragma once
// Days across, hours up: how the Almanac maps pixels to moments and back. A plain value, tested by rows of data.

#include "app/state/looking.h"
#include "core/sun/sun_day.h"

namespace noonward {

struct AlmanacGeometry {
  double left = 0, top = 0, width = 730, height = 120; ///< px of the plot
  int year = 2026;
  Zone zone;
  Place place;
  ClockKind clock = ClockKind::Clock;

  int days() const { return daysInMonth(year, 2) == 29 ? 366 : 365; }
  double dayWidth() const { return width / days(); }
  double x(Date date) const;        ///< left edge of the day's column
  double y(double minutes) const;   ///< 0:00 at the foot, 24:00 at the top
  Date dateAt(double x) const;      ///< clamped to the year
  double minutesAt(double y) const; ///< clamped to 0…1440
  /// A reading of the chosen clock as an instant, and back. Solar time: the sun crosses the meridian at 12:00.
  Instant instant(Date date, double minutes) const;
  struct Reading {
    Date date;
    double minutes;
  };
  Reading reading(Instant t) const;
};

/// A rectangle dragged out: from one corner to another, in any order; past the right rim it goes on in January, so a
/// winter can be marked in one stroke. Hours are rounded to the quarter, and an empty stroke is nothing.
std::optional<Season> seasonOf(const AlmanacGeometry& g, double x0, double y0, double x1, double y1);
/// The rectangles of a season: one, or two across New Year.
struct SeasonBox {
  double x, y, width, height;
};
std::vector<SeasonBox> boxesOf(const AlmanacGeometry& g, const Season& season);

/// Moves a moment by whole days, keeping the clock reading, or by minutes of real time; stays within the year.
Instant moved(const AlmanacGeometry& g, Instant t, int days, double minutes);

} // namespace noonward
