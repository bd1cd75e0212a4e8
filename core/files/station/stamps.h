#pragma once
// Times as stations write them: 2025-06-21T14:05:00+02:00, 21.06.2025 14:05, 6/21/2025 2:05 PM, 20250621 1405,
// 21 Jun 2025 14:05, seconds since 1970, days of a spreadsheet. The order of day and month is found from many rows:
// by numbers that can be no month, and else by which order runs on without jumps.

#include "core/sun/time.h"
#include <span>

namespace noonward {

enum class DateOrder { YearFirst, DayFirst, MonthFirst };
const char* dateOrderText(DateOrder order); ///< "day before month"

struct StampForm {
  enum class Kind { Calendar, Seconds, SheetDays } kind = Kind::Calendar;
  DateOrder order = DateOrder::DayFirst;
  bool ambiguous = false;     ///< day and month could change places, and nothing tells
  std::size_t otherOrder = 0; ///< rows of the sample that only the other order fits
  bool offsets = false;       ///< stamps carry their own offset from UTC
  std::string text() const;   ///< "21.06.2025: day before month"
};

/// The clock reading, and its offset from UTC in s where it has one. Nothing where it is no time by this form.
/// "24:00" is the midnight that ends the day. Counts of seconds are UTC.
std::optional<StampedTime> stampOf(std::string_view text, const StampForm& form);
/// Of a column, by its first rows; nothing where most of them are no times.
std::optional<StampForm> stampFormOf(std::span<const std::string> rows, std::optional<DateOrder> told = {});

} // namespace noonward
