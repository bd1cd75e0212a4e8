#include "core/yardsticks/window_points.h"
#include "core/base/words.h"
#include "core/model/mending/panes.h"
#include "core/model/rooms/placing.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace noonward {

namespace {

constexpr double before = 0.02;      ///< m, in front of the outer face
constexpr double smallestPane = 0.1; ///< m²

Vec3 middleOf(const std::array<Vec3, 4>& c) {
  return (c[0] + c[1] + c[2] + c[3]) * 0.25;
}

/// One pane of each set that stands close behind each other; upright ones alone.
std::vector<Pane> uprightPanes(const Project& p) {
  std::vector<Pane> all = panesOfGlass(p);
  std::erase_if(all, [](const Pane& x) { return std::abs(x.normal.z) > 0.5 || x.area < smallestPane; });
  std::size_t doubled = 0;
  return singlePanes(std::move(all), doubled);
}

} // namespace

WindowPoints windowPoints(const Project& p, const std::vector<ElementId>& selected) {
  WindowPoints out;
  const OpeningLayout layout = placedOpenings(p);
  const std::vector<Pane> panes = uprightPanes(p);
  const auto isSelected = [&](std::uint64_t id) {
    return std::find(selected.begin(), selected.end(), ElementId{id}) != selected.end();
  };
  const auto demolished = [&](std::uint64_t id) {
    const ElementPtr e = p.element({id});
    return e && e->demolished;
  };
  bool any = false; // the selected may have no windows at all: then all are meant
  for (const PlacedOpening& o : layout.openings) any |= o.opening.edge >= 0 && isSelected(o.mass);
  for (const Pane& x : panes) any |= isSelected(x.element.value);
  for (const PlacedOpening& o : layout.openings) {
    if (o.opening.edge < 0 || (any && !isSelected(o.mass)) || demolished(o.mass)) continue;
    const Room& room = p.rooms[o.room];
    const bool full = o.opening.sill <= fullHeightSill && o.opening.sill + o.opening.height >= fullHeightHead;
    const auto middle = [&](double into) { return middleOf(o.corners(room.floor, room.floor + room.height, into)); };
    WindowSpots spots{middle(o.depth + before), {}};
    if (o.paneDepth() > 2 * before) spots.inside = middle(o.depth - o.paneDepth() + before);
    Vec3 at = spots.middle;
    if (full) at.z = room.floor + fullHeightPoint;
    out.points.push_back({at, {o.outward.x, o.outward.y, 0}, fmt::format("{}, {}", room.name, o.opening.name)});
    out.spots.push_back(spots);
    out.fullHeight += full;
    ++out.windows;
  }
  std::map<std::uint64_t, std::size_t> count;
  for (const Pane& x : panes) {
    if ((any && !isSelected(x.element.value)) || demolished(x.element.value)) continue;
    const int side = outwardOf(p, x);
    if (side == 0) {
      ++out.bothAlike;
      continue;
    }
    const Vec3 n = normalized(Vec3{x.normal.x, x.normal.y, 0}) * double(side);
    double foot = x.middle.z, head = foot;
    for (const Vec3& c : x.corners) {
      foot = std::min(foot, c.z);
      head = std::max(head, c.z);
    }
    const bool full = head - foot >= fullHeightHead;
    Vec3 at = middleOf(x.corners) + n * before;
    out.spots.push_back({at, {}});
    if (full) at.z = foot + fullHeightPoint;
    const ElementPtr e = p.element(x.element);
    out.points.push_back(
        {at, n, fmt::format("{}, pane {}", e->name.empty() ? e->layer : e->name, ++count[x.element.value])});
    out.fullHeight += full;
    ++out.panes;
  }
  return out;
}

std::string WindowPoints::text() const {
  std::string out = "the middle of ";
  if (windows > 0) out += counted(windows, "window", "windows");
  if (panes > 0)
    out += fmt::format("{}{}", windows > 0 ? " and " : "", counted(panes, "pane of glass", "panes of glass"));
  if (fullHeight > 0)
    out += fmt::format(", {} of them glazed to the floor and asked {:g} m up", fullHeight, fullHeightPoint);
  if (bothAlike > 0)
    out +=
        fmt::format("; {} left out, since which side is outdoors can't be told", counted(bothAlike, "pane", "panes"));
  return out;
}

} // namespace noonward
