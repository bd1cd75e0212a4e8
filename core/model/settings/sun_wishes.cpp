#include "core/model/settings/sun_wishes.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

SunWish SunWishes::at(Date date, double minute, const Hour& hour) const {
  const auto in = [&](const std::vector<Season>& list) {
    return std::any_of(list.begin(), list.end(), [&](const Season& s) {
      return minute >= s.beginMinute && minute < s.endMinute && holds(s, date);
    });
  };
  if (in(keepOut) || (keepOutFrom && hour.temperature >= *keepOutFrom) ||
      (keepOutBeamFrom && hour.directNormal >= *keepOutBeamFrom) ||
      (hour.record >= 0 && std::binary_search(keepOutHours.begin(), keepOutHours.end(), std::uint16_t(hour.record))))
    return SunWish::KeepOut;
  if (in(letIn) || (letInUpTo && hour.temperature <= *letInUpTo)) return SunWish::LetIn;
  return SunWish::None;
}

SunWishes proposedWishes(double latitude) {
  const auto season = [](const char* name, int fromMonth, int fromDay, int toMonth, int toDay) {
    Season s;
    s.name = name;
    s.fromMonth = fromMonth;
    s.fromDay = fromDay;
    s.toMonth = toMonth;
    s.toDay = toDay;
    return s;
  };
  SunWishes w;
  const bool north = latitude >= 0;
  w.keepOut = {north ? season("warm months", 5, 15, 9, 15) : season("warm months", 11, 15, 3, 15)};
  w.letIn = {north ? season("cold months", 11, 1, 2, 28) : season("cold months", 5, 1, 8, 31)};
  return w;
}

std::string wishesText(const SunWishes& w) {
  std::string out;
  const auto say = [&](const char* verb, const std::vector<Season>& list, const std::optional<double>& degree,
                       const char* side, const std::optional<double>& beam = {}) {
    std::string what;
    for (const Season& s : list) what += (what.empty() ? "" : ", ") + seasonText(s);
    if (degree) what += fmt::format("{}{} {:g} °C", what.empty() ? "" : ", ", side, *degree);
    if (beam) what += fmt::format("{}from {:g} W/m² of beam", what.empty() ? "" : ", ", *beam);
    if (!what.empty()) out += fmt::format("{}{} {}", out.empty() ? "" : "; ", verb, what);
  };
  say("sun kept out", w.keepOut, w.keepOutFrom, "from", w.keepOutBeamFrom);
  if (!w.keepOutHours.empty())
    out += fmt::format("{}{} h of {}", out.empty() ? "sun kept out in " : ", in ", w.keepOutHours.size(),
                       w.keepOutHoursOf.empty() ? "a study" : w.keepOutHoursOf);
  say("let in", w.letIn, w.letInUpTo, "up to");
  return out;
}

} // namespace noonward
