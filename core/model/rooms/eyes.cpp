#include "core/model/rooms/eyes.h"
#include "core/geometry/polygon.h"
#include "core/model/form/edit.h"
#include "core/model/rooms/placing.h"
#include "core/sun/solar_position.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace noonward {

namespace {

std::vector<PointSensor>* pointsOf(SensorGroup& g) {
  return g.eyes ? std::get_if<std::vector<PointSensor>>(&g.layout) : nullptr;
}
const std::vector<PointSensor>* pointsOf(const SensorGroup& g) {
  return g.eyes ? std::get_if<std::vector<PointSensor>>(&g.layout) : nullptr;
}

/// The room whose floor lies there, of the storey looked into where several lie above each other; else the lowest.
const Room* roomOver(const Project& p, Vec2 at, std::optional<double> storey) {
  const Room* best = nullptr;
  const auto far = [&](const Room& r) { return storey ? std::abs(r.floor - *storey) : r.floor; };
  for (const Room& r : p.rooms)
    if (contains(r.outline, at) && (!best || far(r) < far(*best))) best = &r;
  return best;
}

std::string freeName(const Project& p) {
  std::set<std::string> taken;
  for (const SensorGroup& g : p.groups)
    if (const auto* points = pointsOf(g))
      for (const PointSensor& e : *points) taken.insert(e.name);
  for (std::size_t k = 1;; ++k)
    if (std::string name = fmt::format("Eye {}", k); !taken.contains(name)) return name;
}

} // namespace

std::vector<EyeRef> eyesSet(const Project& p) {
  std::vector<EyeRef> out;
  for (const SensorGroup& g : p.groups)
    if (const auto* points = pointsOf(g))
      for (std::size_t k = 0; k < points->size(); ++k) out.push_back({g.id, k});
  return out;
}

const PointSensor* eyeAt(const Project& p, const EyeRef& eye) {
  for (const SensorGroup& g : p.groups)
    if (g.id == eye.group)
      if (const auto* points = pointsOf(g); points && eye.index < points->size()) return &(*points)[eye.index];
  return nullptr;
}

LineOfSight lineOfSight(const Project& p, const PointSensor& eye) {
  const Vec3 n = normalized(eye.normal);
  return {wrapTwoPi(std::atan2(n.x, n.y) + p.site.northAngle), std::asin(std::clamp(n.z, -1.0, 1.0))};
}

double eyeLevel(const Project& p, Vec2 at, std::optional<double> storey) {
  if (const Room* r = roomOver(p, at, storey)) return r->floor + std::min(seatedEye, 0.8 * r->height);
  return p.site.groundLevel + standingEye;
}

double towardTheWindow(const Project& p, Vec3 at) {
  const Room* room = nullptr;
  for (const Room& r : p.rooms)
    if (at.z > r.floor && at.z < r.floor + r.height && contains(r.outline, {at.x, at.y})) room = &r;
  double widest = 0, azimuth = pi;
  if (room)
    for (const PlacedOpening& o : placedOpenings(p).openings)
      if (o.opening.room == room->id && o.area() > widest && length(o.outward) > 0.5) {
        widest = o.area();
        azimuth = wrapTwoPi(std::atan2(o.outward.x, o.outward.y) + p.site.northAngle);
      }
  return azimuth;
}

Project withEye(Project p, Vec3 at, LineOfSight sight, std::optional<GroupId> group, EyeRef* made) {
  auto into = std::find_if(p.groups.begin(), p.groups.end(),
                           [&](const SensorGroup& g) { return pointsOf(g) && (!group || g.id == *group); });
  PointSensor eye;
  eye.position = at;
  eye.normal = skyDirection(sight.altitude, sight.azimuth, p.site.northAngle);
  eye.name = freeName(p);
  if (into == p.groups.end()) {
    SensorGroup g;
    g.id = GroupId::fresh();
    g.name = "Eyes";
    g.eyes = true;
    g.layout = std::vector<PointSensor>{};
    p.groups.push_back(std::move(g));
    into = p.groups.end() - 1;
  }
  auto& points = *pointsOf(*into);
  points.push_back(std::move(eye));
  if (made) *made = {into->id, points.size() - 1};
  return p;
}

Project withEyeChanged(Project p, const EyeRef& eye, const std::function<void(PointSensor&)>& change) {
  for (SensorGroup& g : p.groups)
    if (g.id == eye.group)
      if (auto* points = pointsOf(g); points && eye.index < points->size()) change((*points)[eye.index]);
  return p;
}

Project withoutEye(Project p, const EyeRef& eye) {
  for (SensorGroup& g : p.groups)
    if (g.id == eye.group)
      if (auto* points = pointsOf(g); points && eye.index < points->size()) {
        points->erase(points->begin() + std::ptrdiff_t(eye.index));
        if (!points->empty()) return p;
      }
  const bool emptied = std::any_of(p.groups.begin(), p.groups.end(), [&](const SensorGroup& g) {
    return g.id == eye.group && pointsOf(g) && pointsOf(g)->empty();
  });
  return emptied ? withoutGroup(std::move(p), eye.group) : p;
}

Project withEyeTurned(Project p, const EyeRef& eye, LineOfSight sight) {
  const double north = p.site.northAngle;
  return withEyeChanged(std::move(p), eye, [&](PointSensor& e) {
    e.normal = skyDirection(sight.altitude, wrapTwoPi(sight.azimuth), north);
  });
}

Expected<Project> withRowOfEyes(Project p, const EyeRef& eye, int count, double distance) {
  const PointSensor* first = eyeAt(p, eye);
  if (!first) return fail("The eye that the row begins with is gone.", "eye");
  if (count < 2 || count > 200) return fail("A row has 2 to 200 eyes.", "count");
  if (!(std::abs(distance) >= 0.1) || std::abs(distance) > 100)
    return fail("Eyes of a row stand 0.1 to 100 m apart.", "distance");
  const PointSensor from = *first;
  const LineOfSight sight = lineOfSight(p, from);
  const Vec3 right = skyDirection(0, sight.azimuth + pi / 2, p.site.northAngle);
  for (int k = 1; k < count; ++k) p = withEye(std::move(p), from.position + right * (distance * k), sight, eye.group);
  return p;
}

} // namespace noonward
