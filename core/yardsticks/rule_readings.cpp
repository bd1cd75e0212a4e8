#include "core/yardsticks/rule_readings.h"
#include "core/sun/sun_day.h"
#include "core/yardsticks/window_points.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

/// The rule with another value of a parameter, which it need not have had.
Yardstick with(Yardstick y, const std::string& key, std::variant<double, std::string> value) {
  for (Parameter& p : y.parameters)
    if (p.key == key) {
      p.value = std::move(value);
      return y;
    }
  Parameter p;
  p.key = key;
  p.value = std::move(value);
  y.parameters.push_back(std::move(p));
  return y;
}

Project without(Project p, const std::function<bool(const Element&)>& which) {
  for (ElementPtr& e : p.elements)
    if (e->counted && which(*e)) {
      Element changed = *e;
      changed.counted = false;
      e = std::make_shared<const Element>(std::move(changed));
    }
  p.derived = freshDerivedMemory();
  return p;
}
bool any(const Project& p, const std::function<bool(const Element&)>& which) {
  return std::any_of(p.elements.begin(), p.elements.end(),
                     [&](const ElementPtr& e) { return e->counted && e->role != Role::Ignore && which(*e); });
}

/// min by which the sun's noon is later than 12:00 by the clock, on the rule's first day; nothing where it names none.
std::optional<double> noonAfterTwelve(const Project& p, const Yardstick& y) {
  const std::string days = y.word(p.site.place.latitude >= 0 ? "date-north" : "date-south");
  const auto date = dateFromText(fmt::format("{} {}", days.substr(0, days.find(',')), p.site.year));
  if (!date) return {};
  const Zone zone = p.zone();
  const Instant midnight = zone.instant({*date, 0});
  const SunDay day = sunDay(SunKnots(midnight + -2 * 86400, midnight + 3 * 86400), p.site.place, zone, *date);
  return zone.clock(day.noon).seconds / 60 - 720;
}

/// The points at windows moved to another spot of theirs; nothing where none of them is at a window that has one.
std::optional<Project> withSpots(Project p, const std::function<std::optional<Vec3>(const WindowSpots&)>& spot) {
  const WindowPoints at = windowPoints(p, {});
  bool any = false;
  for (SensorGroup& g : p.groups)
    if (auto* points = std::get_if<std::vector<PointSensor>>(&g.layout))
      for (PointSensor& s : *points)
        for (std::size_t k = 0; k < at.points.size(); ++k) {
          if (length(s.position - at.points[k].position) > 0.001) continue;
          if (const auto other = spot(at.spots[k]); other && length(*other - s.position) > 0.001) {
            s.position = *other;
            any = true;
          }
          break;
        }
  if (!any) return {};
  p.derived = freshDerivedMemory();
  return p;
}

} // namespace

std::vector<RuleReading> ruleReadings(const Project& p, const Yardstick& y, const JudgeBy& judge) {
  std::vector<RuleReading> out;
  const auto read = [&](std::string name, std::string changed, const Project& project, const Yardstick& rule) {
    out.push_back({std::move(name), std::move(changed), judge(project, rule)});
  };
  read("As laid", "", p, y);
  if (ofYear(y.measure)) return out;
  const auto number = [](double v) { return fmt::format("{:g}", v); };

  if (y.has("min-altitude")) { // an office's own choice where the rule is silent
    const bool byTable = !y.word("min-altitude").empty();
    const double is = y.number("min-altitude"), other = byTable || is > 0 ? 0 : 5;
    read("Lowest sun", number(other) + "° instead of " + (byTable ? "the table's" : number(is) + "°"), p,
         with(y, "min-altitude", other));
  }
  const bool hours = y.measure == Measure::SunHoursArea || y.measure == Measure::SunHoursDwellings;
  if (hours) {
    if (y.number("step") > 0)
      read("Exact times", "times of sun and shade solved for instead of steps of " + number(y.number("step")) + " min",
           p, with(y, "step", 0.0));
    else
      read("By steps", "one look every 10 min, in its middle", p, with(y, "step", 10.0));
    if (y.word("altitude") != "apparent")
      read("Apparent altitude", "the lowest sun with the air's refraction", p,
           with(y, "altitude", std::string("apparent")));
  }
  if (hours || y.measure == Measure::NewShadow) {
    const auto from = minutesFromText(y.word("window-from")), to = minutesFromText(y.word("window-to"));
    const auto late = from && to ? noonAfterTwelve(p, y) : std::nullopt;
    if (late && std::abs(*late) >= 1) {
      const auto shifted = [&](double minute) {
        return clockText(std::clamp(std::round(minute + *late), 0.0, 1440.0));
      };
      read("By the sun's time",
           fmt::format("{} to {} by the clock, so that the sun stands highest at its 12:00", shifted(*from),
                       shifted(*to)),
           p, with(with(y, "window-from", shifted(*from)), "window-to", shifted(*to)));
    }
  }
  if (y.measure == Measure::NewShadow && y.number("moment-step") > 5)
    read("Finer steps", "outlines every 5 min instead of " + number(y.number("moment-step")), p,
         with(y, "moment-step", 5.0));
  const bool atWindows =
      y.measure == Measure::WindowSky || y.measure == Measure::WindowSun || y.measure == Measure::SunHoursDwellings;
  if (atWindows) {
    if (const auto moved = withSpots(p, [](const WindowSpots& s) { return std::optional(s.middle); }))
      read("Middle of the window", "also where it is glazed to the floor, instead of 1.6 m up", *moved, y);
    if (const auto moved = withSpots(p, [](const WindowSpots& s) { return s.inside; }))
      read("In the reveal", "the point before the pane, so that the wall's own thickness shades it", *moved, y);
  }
  const auto planted = [](const Element& e) { return e.role == Role::Planting || e.tree() != nullptr; };
  const auto terrain = [](const Element& e) { return e.role == Role::Ground; };
  if (any(p, planted)) read("Trees left out", "as if bare, and more", without(p, planted), y);
  if (any(p, terrain)) read("Terrain left out", "the level ground alone", without(p, terrain), y);
  if (hasProposal(p) && y.number("kept-share") > 0)
    read("The bound alone", "what was there before is no excuse", p, with(y, "kept-share", 0.0));
  return out;
}

bool robust(const std::vector<RuleReading>& readings) {
  return std::all_of(readings.begin(), readings.end(),
                     [&](const RuleReading& r) { return r.verdict.outcome == readings.front().verdict.outcome; });
}

} // namespace noonward
