#include "picture/saved_view.h"
#include <cmath>

namespace noonward {

namespace {
constexpr std::pair<ViewKind, const char*> kinds[] = {{ViewKind::Solid, "solid"},
                                                      {ViewKind::Plan, "plan"},
                                                      {ViewKind::Facade, "facade"},
                                                      {ViewKind::FromSun, "sun"},
                                                      {ViewKind::Section, "section"}};
}

Json cameraJson(const Camera& c) {
  Json j;
  for (const auto& [kind, key] : kinds)
    if (kind == c.kind) j["view"] = key;
  j["target"] = Json::array({c.target.x, c.target.y, c.target.z});
  j["azimuth"] = degrees(c.azimuth);
  j["altitude"] = degrees(c.altitude);
  j["height"] = c.height;
  if (c.perspective) j["perspective"] = true;
  if (c.fromTarget) j["from-target"] = true;
  return j;
}

Expected<Camera> cameraFromJson(const std::string& text) {
  const auto json = parseJson(text.empty() ? "null" : text, "camera");
  if (!json) return tl::unexpected(json.error());
  JsonFault fault;
  Camera c;
  {
    JsonObject o(*json, "camera", fault);
    const std::string view = o.text("view", "solid");
    bool known = false;
    for (const auto& [kind, key] : kinds)
      if (view == key) c.kind = kind, known = true;
    if (!known) o.fault("view", "solid, plan, facade, sun or section is expected here.");
    const Json& at = o.raw("target");
    if (at.is_array() && at.size() == 3 && at[0].is_number() && at[1].is_number() && at[2].is_number())
      c.target = {at[0].get<double>(), at[1].get<double>(), at[2].get<double>()};
    else
      o.fault("target", "Three numbers [x, y, z] are expected here.");
    c.azimuth = radians(o.number("azimuth", 212, -720, 720));
    c.altitude = radians(o.number("altitude", 38, -90, 90));
    c.height = o.number("height", 100, 1e-3, 1e6);
    c.perspective = o.boolean("perspective", false);
    c.fromTarget = o.boolean("from-target", false);
  }
  if (fault.error) return tl::unexpected(*fault.error);
  return c;
}

std::optional<Instant> momentOf(const SavedView& view, const Zone& zone) {
  const auto s = stampFromText(view.moment);
  if (!s) return {};
  return s->utcOffset ? utc(s->time) + -*s->utcOffset : zone.instant(s->time);
}

Camera between(const Camera& a, const Camera& b, double t) {
  t = std::clamp(t, 0.0, 1.0);
  if (a.kind != b.kind || a.perspective != b.perspective || a.fromTarget != b.fromTarget) return t < 0.5 ? a : b;
  const double s = t * t * (3 - 2 * t);
  Camera c = a;
  c.target = a.target + (b.target - a.target) * s;
  c.azimuth = wrapTwoPi(a.azimuth + wrapPi(b.azimuth - a.azimuth) * s);
  c.altitude = a.altitude + (b.altitude - a.altitude) * s;
  c.height = a.height * std::pow(b.height / a.height, s);
  return c;
}

} // namespace noonward
