#include "core/files/station/stamps.h"
#include "core/files/station/table_stream.h"
#include <algorithm>
#include <array>
#include <cmath>

namespace noonward {

const char* dateOrderText(DateOrder order) {
  switch (order) {
  case DateOrder::YearFirst:
    return "year, month, day";
  case DateOrder::DayFirst:
    return "day before month";
  case DateOrder::MonthFirst:
    return "month before day";
  }
  return "";
}

namespace {
constexpr double sheetZero = -25569; ///< day number of 30 December 1899

bool digit(char c) {
  return c >= '0' && c <= '9';
}
char small(char c) {
  return c >= 'A' && c <= 'Z' ? char(c + 32) : c;
}

/// Month of a word's first three letters, in the languages of the north; 0 where it is none.
int monthOf(std::string_view word) {
  if (word.size() < 3) return 0;
  const std::array<char, 3> w{small(word[0]), small(word[1]), small(word[2])};
  constexpr std::array<std::pair<const char*, int>, 19> names{{{"jan", 1},
                                                               {"feb", 2},
                                                               {"mar", 3},
                                                               {"apr", 4},
                                                               {"may", 5},
                                                               {"maj", 5},
                                                               {"mai", 5},
                                                               {"mei", 5},
                                                               {"jun", 6},
                                                               {"jul", 7},
                                                               {"aug", 8},
                                                               {"sep", 9},
                                                               {"oct", 10},
                                                               {"okt", 10},
                                                               {"nov", 11},
                                                               {"dec", 12},
                                                               {"dez", 12},
                                                               {"des", 12},
                                                               {"mrz", 3}}};
  for (const auto& [name, month] : names)
    if (std::equal(w.begin(), w.end(), name)) return month;
  return 0;
}

struct Parts {
  std::array<int, 3> date{}; ///< as written
  std::array<int, 3> digits{};
  int named = -1; ///< which of them is a month by its name
  double seconds = 0;
  std::optional<double> offset;
  bool good = false;
};

Parts partsOf(std::string_view s) {
  Parts out;
  std::size_t i = 0;
  const auto number = [&](std::size_t most) {
    int v = 0;
    std::size_t n = 0;
    for (; i < s.size() && n < most && digit(s[i]); ++i, ++n) v = 10 * v + (s[i] - '0');
    return std::pair{v, int(n)};
  };
  const auto length = [&](std::size_t from) {
    std::size_t n = 0;
    while (from + n < s.size() && digit(s[from + n])) ++n;
    return n;
  };
  std::size_t have = 0;
  while (have < 3) {
    while (i < s.size() && !digit(s[i]) && (s[i] < 'A' || (small(s[i]) < 'a' || small(s[i]) > 'z'))) ++i;
    if (i >= s.size()) return out;
    if (!digit(s[i])) {
      std::size_t end = i;
      while (end < s.size() && small(s[end]) >= 'a' && small(s[end]) <= 'z') ++end;
      const int month = monthOf(s.substr(i, end - i));
      i = end;
      if (month == 0) continue; // "Mon," and such
      if (out.named >= 0) return out;
      out.named = int(have);
      out.date[have] = month;
      out.digits[have++] = 2;
      continue;
    }
    const std::size_t n = length(i);
    if (have == 0 && (n == 8 || n == 12 || n == 14)) { // 20250621, with or without a clock
      out.date = {number(4).first, number(2).first, number(2).first};
      out.digits = {4, 2, 2};
      have = 3;
      break;
    }
    if (n > 4) return out;
    const auto [v, digits] = number(4);
    out.date[have] = v;
    out.digits[have++] = digits;
  }
  // The clock.
  while (i < s.size() && !digit(s[i])) {
    if (s[i] == 'Z') return out;
    ++i;
  }
  int hour = 0, minute = 0;
  double second = 0;
  if (i < s.size()) {
    const std::size_t n = length(i);
    hour = number(2).first;
    if (n >= 4) { // 1405, 140530
      minute = number(2).first;
      if (n >= 6) second = number(2).first;
    } else {
      if (n > 2) return out;
      if (i + 1 < s.size() && (s[i] == ':' || s[i] == '.' || s[i] == 'h') && digit(s[i + 1])) {
        ++i;
        minute = number(2).first;
        if (i + 1 < s.size() && (s[i] == ':' || s[i] == '.') && digit(s[i + 1])) {
          ++i;
          second = number(2).first;
        }
      }
    }
    if (i + 1 < s.size() && (s[i] == '.' || s[i] == ',') && digit(s[i + 1])) {
      ++i;
      double unit = 0.1;
      for (; i < s.size() && digit(s[i]); ++i, unit /= 10) second += unit * (s[i] - '0');
    }
    while (i < s.size() && s[i] == ' ') ++i;
    const std::string_view rest = s.substr(i);
    if (rest.size() >= 2 && (small(rest[0]) == 'a' || small(rest[0]) == 'p') &&
        (small(rest[1]) == 'm' || rest[1] == '.')) {
      if (hour < 1 || hour > 12) return out;
      hour = hour % 12 + (small(rest[0]) == 'p' ? 12 : 0);
    } else if (rest == "Z" || rest == "UTC" || rest == "GMT") {
      out.offset = 0;
    } else if (!rest.empty() && (rest[0] == '+' || rest[0] == '-')) {
      const double sign = rest[0] == '-' ? -1 : 1;
      ++i;
      const std::size_t k = length(i);
      const int h = number(2).first;
      if (i < s.size() && s[i] == ':') ++i;
      const int m = k == 4 || k == 2 ? number(2).first : 0;
      if (h > 15 || m > 59) return out;
      out.offset = sign * (3600.0 * h + 60.0 * m);
    } else if (!rest.empty()) {
      return out;
    }
  }
  if (hour > 24 || minute > 59 || second >= 61 || (hour == 24 && (minute > 0 || second > 0))) return out;
  out.seconds = 3600.0 * hour + 60.0 * minute + second;
  out.good = true;
  return out;
}

std::optional<Date> dateOf(const Parts& p, DateOrder order) {
  Date d{};
  const auto year = [](int v, int digits) { return digits <= 2 ? (v < 70 ? 2000 + v : 1900 + v) : v; };
  if (p.digits[0] == 4 || order == DateOrder::YearFirst)
    d = {year(p.date[0], p.digits[0]), p.date[1], p.date[2]};
  else if (p.named == 0)
    d = {year(p.date[2], p.digits[2]), p.date[0], p.date[1]};
  else if (p.named == 1 || order == DateOrder::DayFirst)
    d = {year(p.date[2], p.digits[2]), p.date[1], p.date[0]};
  else
    d = {year(p.date[2], p.digits[2]), p.date[0], p.date[1]};
  return exists(d) && d.year >= 1900 && d.year < 2200 ? std::optional(d) : std::nullopt;
}
} // namespace

std::string StampForm::text() const {
  if (kind == Kind::Seconds) return "seconds since 1970, UTC";
  if (kind == Kind::SheetDays) return "days of a spreadsheet";
  return std::string(dateOrderText(order)) + (offsets ? ", with their offset from UTC" : "");
}

std::optional<StampedTime> stampOf(std::string_view text, const StampForm& form) {
  StampedTime out;
  if (form.kind != StampForm::Kind::Calendar) {
    const auto v = cellNumber(text, text.find(',') != std::string_view::npos);
    if (!v || !std::isfinite(*v)) return {};
    // A spreadsheet's binary days are rounded to the millisecond they stand for.
    const double seconds = form.kind == StampForm::Kind::Seconds ? *v : std::round((*v + sheetZero) * 86400e3) / 1000;
    if (!(seconds > -3e9 && seconds < 8e9)) return {};
    out.time = civil({seconds}, 0);
    if (form.kind == StampForm::Kind::Seconds) out.utcOffset = 0;
    return out;
  }
  const Parts p = partsOf(text);
  if (!p.good) return {};
  const auto date = dateOf(p, form.order);
  if (!date) return {};
  out.time = {*date, p.seconds};
  if (p.seconds >= 86400) out.time = {plusDays(*date, 1), p.seconds - 86400};
  out.utcOffset = p.offset;
  return out;
}

std::optional<StampForm> stampFormOf(std::span<const std::string> rows, std::optional<DateOrder> told) {
  StampForm out;
  std::size_t calendar = 0, seconds = 0, days = 0, noDay = 0, noMonth = 0, yearFirst = 0, named = 0, offsets = 0;
  for (const std::string& r : rows) {
    if (const auto v = cellNumber(r, r.find(',') != std::string::npos); v && std::isfinite(*v)) {
      seconds += *v > 3e8 && *v < 8e9;
      days += *v > 20000 && *v < 80000;
      if (r.size() != 8 && r.size() != 12 && r.size() != 14) continue;
    }
    const Parts p = partsOf(r);
    if (!p.good) continue;
    ++calendar;
    yearFirst += p.digits[0] == 4;
    named += p.named >= 0;
    noMonth += p.digits[0] != 4 && p.named < 0 && p.date[0] > 12; // the first can be no month
    noDay += p.digits[0] != 4 && p.named < 0 && p.date[1] > 12;
    offsets += p.offset.has_value();
  }
  const std::size_t most = std::max({calendar, seconds, days});
  if (most == 0 || 2 * most < rows.size()) return {};
  if (most == calendar && calendar >= seconds && calendar >= days) {
    out.offsets = 2 * offsets > calendar;
    if (told) {
      out.order = *told;
      out.otherOrder = *told == DateOrder::DayFirst ? noDay : *told == DateOrder::MonthFirst ? noMonth : 0;
    } else if (2 * yearFirst > calendar) {
      out.order = DateOrder::YearFirst;
    } else if (noMonth + noDay > 0) {
      out.order = noMonth >= noDay ? DateOrder::DayFirst : DateOrder::MonthFirst;
      out.otherOrder = std::min(noMonth, noDay);
    } else if (2 * named < calendar) {
      // Neither is impossible: the order whose stamps run on has the fewer jumps, back or of days on end.
      const auto jumps = [&](DateOrder order) {
        std::optional<double> last;
        std::size_t n = 0;
        for (const std::string& r : rows)
          if (const auto t = stampOf(r, {StampForm::Kind::Calendar, order})) {
            const double s = utc(t->time).seconds;
            n += last && (s < *last || s > *last + 2 * 86400);
            last = s;
          }
        return n;
      };
      const std::size_t dayFirst = jumps(DateOrder::DayFirst), monthFirst = jumps(DateOrder::MonthFirst);
      out.order = monthFirst < dayFirst ? DateOrder::MonthFirst : DateOrder::DayFirst;
      out.ambiguous = monthFirst == dayFirst;
    }
  } else {
    out.kind = seconds >= days ? StampForm::Kind::Seconds : StampForm::Kind::SheetDays;
  }
  return out;
}

} // namespace noonward
