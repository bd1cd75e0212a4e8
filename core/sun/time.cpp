#include "core/sun/time.h"
#include "core/base/units.h"
#include <array>
#include <charconv>
#include <chrono>
#include <cmath>
#include <date/tz.h>
#include <fmt/format.h>
#include <fstream>

namespace noonward {

namespace {
constexpr std::array<const char*, 12> monthNames{"Jan", "Feb", "Mar", "Apr", "May", "Jun",
                                                 "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"};

std::optional<int> integer(std::string_view s) {
  int v = 0;
  const auto [end, ec] = std::from_chars(s.data(), s.data() + s.size(), v);
  if (ec != std::errc{} || end != s.data() + s.size()) return {};
  return v;
}

std::vector<std::string_view> split(std::string_view s, char at) {
  std::vector<std::string_view> out;
  while (true) {
    const auto p = s.find(at);
    out.push_back(s.substr(0, p));
    if (p == std::string_view::npos) return out;
    s.remove_prefix(p + 1);
  }
}

date::sys_time<std::chrono::milliseconds> systemTime(Instant t) {
  return date::sys_time<std::chrono::milliseconds>(
      std::chrono::milliseconds(static_cast<std::int64_t>(std::floor(t.seconds * 1000))));
}
} // namespace

std::int64_t dayNumber(Date d) {
  return date::sys_days(date::year(d.year) / d.month / d.day).time_since_epoch().count();
}

Date dateOf(std::int64_t n) {
  const date::year_month_day d{date::sys_days(date::days(n))};
  return {int(d.year()), int(unsigned(d.month())), int(unsigned(d.day()))};
}

bool exists(Date d) {
  return d.year >= -9999 && d.year <= 9999 && d.month >= 1 && d.month <= 12 && d.day >= 1 &&
         d.day <= daysInMonth(d.year, d.month);
}

int daysInMonth(int year, int month) {
  return int(unsigned((date::year(year) / date::month(unsigned(month)) / date::last).day()));
}

int dayOfYear(Date d) {
  return int(dayNumber(d) - dayNumber({d.year, 1, 1})) + 1;
}
Date plusDays(Date d, int days) {
  return dateOf(dayNumber(d) + days);
}
const char* monthName(int month) {
  return month >= 1 && month <= 12 ? monthNames[std::size_t(month - 1)] : "?";
}
std::string dayText(Date d) {
  return fmt::format("{} {}", d.day, monthName(d.month));
}
std::string isoText(Date d) {
  return fmt::format("{:04d}-{:02d}-{:02d}", d.year, d.month, d.day);
}

std::optional<Date> dateFromText(std::string_view text) {
  Date d;
  if (const auto parts = split(text, '-'); parts.size() == 3) {
    const auto y = integer(parts[0]), m = integer(parts[1]), day = integer(parts[2]);
    if (!y || !m || !day) return {};
    d = {*y, *m, *day};
  } else if (const auto words = split(text, ' '); words.size() == 3) {
    const auto day = integer(words[0]), y = integer(words[2]);
    if (!day || !y) return {};
    d = {*y, 0, *day};
    for (int m = 1; m <= 12; ++m)
      if (words[1].substr(0, 3) == monthName(m)) d.month = m;
  } else {
    return {};
  }
  if (!exists(d)) return {};
  return d;
}

std::optional<double> minutesFromText(std::string_view text) {
  const auto parts = split(text, ':');
  if (parts.empty() || parts.size() > 3) return {};
  const auto h = integer(parts[0]);
  if (!h || *h < 0 || *h > 24) return {};
  double minutes = *h * 60;
  if (parts.size() > 1) {
    const auto m = integer(parts[1]);
    if (!m || *m < 0 || *m > 59 || parts[1].size() != 2) return {};
    minutes += *m;
  }
  if (parts.size() > 2) {
    const auto s = numberFromText(parts[2]);
    if (!s || *s < 0 || *s >= 60) return {};
    minutes += *s / 60;
  }
  if (minutes > 1440) return {};
  return minutes;
}

std::string clockText(double minutes) {
  const int m = int(std::floor(minutes + 1e-6));
  return fmt::format("{}:{:02d}", m / 60, m % 60);
}

Instant utc(CivilTime t) {
  return {double(dayNumber(t.date)) * 86400 + t.seconds};
}

CivilTime civil(Instant t, double offset) {
  const double local = t.seconds + offset;
  const double days = std::floor(local / 86400);
  return {dateOf(std::int64_t(days)), local - days * 86400};
}

std::optional<StampedTime> stampFromText(std::string_view text) {
  StampedTime out;
  const auto t = text.find('T');
  const auto d = dateFromText(text.substr(0, t));
  if (!d) return {};
  out.time.date = *d;
  if (t == std::string_view::npos) return out;
  std::string_view clock = text.substr(t + 1);
  if (!clock.empty() && clock.back() == 'Z') {
    out.utcOffset = 0;
    clock.remove_suffix(1);
  } else if (const auto sign = clock.find_first_of("+-"); sign != std::string_view::npos) {
    const auto m = minutesFromText(clock.substr(sign + 1));
    if (!m) return {};
    out.utcOffset = (clock[sign] == '-' ? -60 : 60) * *m;
    clock = clock.substr(0, sign);
  }
  const auto m = minutesFromText(clock);
  if (!m || *m >= 1440) return {};
  out.time.seconds = *m * 60;
  return out;
}

std::string offsetText(double offset) {
  const int m = int(std::lround(std::abs(offset) / 60));
  return fmt::format("{}{:02d}:{:02d}", offset < 0 ? '-' : '+', m / 60, m % 60);
}

std::string isoText(Instant t, double offset) {
  const CivilTime c = civil({std::floor(t.seconds + 0.5)}, offset);
  const int s = int(std::lround(c.seconds));
  return fmt::format("{}T{:02d}:{:02d}:{:02d}{}", isoText(c.date), s / 3600, s / 60 % 60, s % 60, offsetText(offset));
}

Zone::Zone() : name_("UTC") {}

Zone Zone::fixed(double offset) {
  Zone z;
  z.fixed_ = offset;
  z.name_ = offset == 0 ? "UTC" : "UTC" + offsetText(offset);
  return z;
}

Expected<Zone> Zone::named(std::string_view name) {
  if (name == "UTC") return Zone();
  if (name.starts_with("UTC")) {
    const auto m = name.size() > 4 ? minutesFromText(name.substr(4)) : std::nullopt;
    if (!m || (name[3] != '+' && name[3] != '-') || *m > 15 * 60)
      return fail(fmt::format("\"{}\" is no time zone. Write a name such as Europe/Copenhagen or UTC+01:00.", name));
    return fixed((name[3] == '-' ? -60 : 60) * *m);
  }
  try {
    Zone z;
    z.zone_ = date::locate_zone(std::string(name));
    z.name_ = name;
    return z;
  } catch (const std::exception&) {
    return fail(fmt::format("The time zone \"{}\" is not in the system's database. Write a name such as "
                            "Europe/Copenhagen or UTC+01:00.",
                            name));
  }
}

double Zone::offset(Instant t) const {
  if (!zone_) return fixed_;
  const auto info = static_cast<const date::time_zone*>(zone_)->get_info(
      std::chrono::time_point_cast<std::chrono::seconds>(systemTime(t)));
  return double(info.offset.count());
}

double Zone::standardOffset(int year) const {
  if (!zone_) return fixed_;
  // The database's "save" is negative for a few zones that call winter time the exception; the smaller offset of
  // January and July is what a weather file means by standard time.
  return std::min(offset(utc({{year, 1, 15}, 0})), offset(utc({{year, 7, 15}, 0})));
}

bool Zone::summerTime(Instant t) const {
  return zone_ && offset(t) > standardOffset(civil(t, 0).date.year);
}

Instant Zone::instant(CivilTime clock) const {
  const Instant asUtc = utc(clock);
  if (!zone_) return asUtc + -fixed_;
  const auto ms = std::chrono::milliseconds(std::int64_t(std::floor(asUtc.seconds * 1000)));
  const date::local_time<std::chrono::milliseconds> local(ms);
  const auto info =
      static_cast<const date::time_zone*>(zone_)->get_info(std::chrono::time_point_cast<std::chrono::seconds>(local));
  if (info.result == date::local_info::nonexistent) return {double(info.first.end.time_since_epoch().count())};
  return asUtc + -double(info.first.offset.count());
}

std::string timeZoneDataVersion() {
  // The compiled zones carry no version; the text beside them does: "# version 2024a". Read once: it is asked for
  // often.
  static const std::string known = [] {
    std::ifstream file("/usr/share/zoneinfo/tzdata.zi");
    std::string mark, word, version;
    return file >> mark >> word >> version && word == "version" ? version : std::string("unknown");
  }();
  return known;
}

} // namespace noonward
