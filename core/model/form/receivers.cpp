#include "core/model/form/receivers.h"
#include "core/base/words.h"
#include "core/geometry/polygon.h"
#include "core/model/rooms/sensors.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>
#include <set>
#include <unordered_map>

namespace noonward {

namespace {

/// Groups of points by what they are told apart by, and their points by name; kept while lines are taken in.
class PointGroups {
public:
  explicit PointGroups(Project& p) : p_(p) {
    for (std::size_t k = 0; k < p.groups.size(); ++k) note(k);
  }
  /// The group of points for a line, made where there is none.
  std::size_t groupFor(const std::string& name, const ReceiverLine& line) {
    const auto [at, fresh] = groups_.try_emplace(
        key(name, line.dwelling, line.building, line.subject.value_or(Subject::None)), p_.groups.size());
    if (!fresh) return at->second;
    SensorGroup g;
    g.id = GroupId::fresh();
    g.name = name;
    g.dwelling = line.dwelling;
    g.building = line.building;
    g.subject = line.subject.value_or(Subject::None);
    g.layout = std::vector<PointSensor>();
    p_.groups.push_back(std::move(g));
    return at->second;
  }
  /// In place of the group's point of the same name, or beside the others.
  void put(std::size_t group, const PointSensor& s) {
    auto& points = pointsOf(group);
    if (!s.name.empty()) {
      auto& named = named_[group];
      if (named.empty())
        for (std::size_t i = 0; i < points.size(); ++i) named.emplace(points[i].name, i);
      const auto [at, fresh] = named.try_emplace(s.name, points.size());
      if (!fresh) {
        points[at->second] = s;
        return;
      }
    }
    points.push_back(s);
  }
  /// The first point of that name, taken out of its group; the group's index with it.
  std::optional<std::pair<std::size_t, PointSensor>> take(const std::string& name) {
    for (std::size_t k = 0; k < p_.groups.size(); ++k) {
      if (!std::holds_alternative<std::vector<PointSensor>>(p_.groups[k].layout)) continue;
      auto& points = pointsOf(k);
      const auto at = std::find_if(points.begin(), points.end(), [&](const PointSensor& s) { return s.name == name; });
      if (at == points.end()) continue;
      const PointSensor s = *at;
      points.erase(at);
      named_.erase(k);
      return std::pair{k, s};
    }
    return {};
  }
  std::vector<PointSensor>& pointsOf(std::size_t group) {
    return std::get<std::vector<PointSensor>>(p_.groups[group].layout);
  }

private:
  static std::string key(const std::string& name, const std::string& dwelling, const std::string& building,
                         Subject subject) {
    return fmt::format("{}\n{}\n{}\n{}", name, dwelling, building, int(subject));
  }
  void note(std::size_t k) {
    const SensorGroup& g = p_.groups[k];
    if (std::holds_alternative<std::vector<PointSensor>>(g.layout))
      groups_.try_emplace(key(g.name, g.dwelling, g.building, g.subject), k);
  }
  Project& p_;
  std::unordered_map<std::string, std::size_t> groups_;
  std::map<std::size_t, std::unordered_map<std::string, std::size_t>> named_;
};

std::string groupName(const ReceiverLine& line) {
  if (!line.group.empty()) return line.group;
  if (!line.dwelling.empty())
    return line.dwelling + (line.subject == Subject::LivingRoom  ? ", living room"
                            : line.subject == Subject::OpenSpace ? ", open space"
                                                                 : "");
  return line.building.empty() ? "Receivers" : line.building;
}

/// What a line says of a group or point that is there, put over what it had.
ReceiverLine over(const SensorGroup& g, ReceiverLine line) {
  if (line.dwelling.empty()) line.dwelling = g.dwelling;
  if (line.building.empty()) line.building = g.building;
  if (!line.subject) line.subject = g.subject;
  return line;
}

} // namespace

ReceiversLaid withReceivers(Project p, const ReceiverTable& table) {
  ReceiversLaid out;
  PointGroups groups(p);
  std::set<std::uint64_t> touched;
  std::map<std::uint64_t, std::set<std::uint64_t>> went; ///< of a group: to which its points went
  for (const ReceiverLine& given : table.lines) {
    if (given.point) {
      const std::size_t k = groups.groupFor(groupName(given), given);
      groups.put(k, *given.point);
      touched.insert(p.groups[k].id.value);
      ++out.added;
      continue;
    }
    bool found = false;
    for (SensorGroup& g : p.groups) // a group as a whole
      if (g.name == given.name) {
        const ReceiverLine line = over(g, given);
        g.dwelling = line.dwelling;
        g.building = line.building;
        g.subject = *line.subject;
        touched.insert(g.id.value);
        found = true;
      }
    if (!found)
      if (const auto taken = groups.take(given.name)) { // one point of a group
        found = true;
        const std::uint64_t from = p.groups[taken->first].id.value;
        const ReceiverLine line = over(p.groups[taken->first], given);
        const std::size_t into = groups.groupFor(groupName(line), line);
        groups.put(into, taken->second);
        went[from].insert(p.groups[into].id.value);
        touched.insert(p.groups[into].id.value);
      }
    if (found)
      ++out.named;
    else
      out.lost.push_back(given.name);
  }
  // A group that gave away its last point is none any more; who asked for it asks for those that have its points.
  for (const SensorGroup& g : p.groups) {
    const auto* points = std::get_if<std::vector<PointSensor>>(&g.layout);
    const auto to = went.find(g.id.value);
    if (to == went.end() || !points) continue;
    const auto follow = [&](std::vector<GroupId>& asked) {
      const auto at = std::find(asked.begin(), asked.end(), g.id);
      if (at == asked.end()) return;
      if (points->empty()) asked.erase(at);
      for (const std::uint64_t id : to->second)
        if (std::find(asked.begin(), asked.end(), GroupId{id}) == asked.end()) asked.push_back({id});
    };
    for (Study& s : p.studies) follow(s.groups);
    for (Judgement& j : p.judgements) follow(j.groups);
  }
  std::erase_if(p.groups, [&](const SensorGroup& g) {
    const auto* points = std::get_if<std::vector<PointSensor>>(&g.layout);
    return points && points->empty() && went.contains(g.id.value);
  });
  for (const SensorGroup& g : p.groups)
    if (touched.contains(g.id.value)) out.groups.push_back(g.id);
  out.told = fmt::format("Laid {} in {}", counted(out.added, "receiver", "receivers"),
                         counted(out.groups.size(), "group", "groups"));
  if (out.named > 0) out.told += fmt::format("; {} by name", counted(out.named, "is told", "are told"));
  if (!out.lost.empty())
    out.told += fmt::format("; {} nothing (first: {})", counted(out.lost.size(), "name matches", "names match"),
                            out.lost.front());
  out.told += ".";
  out.project = std::move(p);
  return out;
}

Project regrouped(Project p, const std::vector<ReceiverRef>& chosen, const Grouping& wish) {
  std::map<std::uint64_t, std::set<std::size_t>> byGroup;
  for (const ReceiverRef& r : chosen) byGroup[r.group.value].insert(r.point);
  const std::size_t before = p.groups.size();
  for (std::size_t k = 0; k < before; ++k) {
    const auto at = byGroup.find(p.groups[k].id.value);
    if (at == byGroup.end()) continue;
    const auto give = [&](SensorGroup& g) {
      if (wish.dwelling) g.dwelling = *wish.dwelling;
      if (wish.building) g.building = *wish.building;
      if (wish.subject) g.subject = *wish.subject;
    };
    const auto* points = std::get_if<std::vector<PointSensor>>(&p.groups[k].layout);
    if (!points || at->second.size() >= points->size()) {
      give(p.groups[k]);
      continue;
    }
    SensorGroup apart = p.groups[k];
    apart.id = GroupId::fresh();
    apart.extra.clear();
    give(apart);
    if (apart.dwelling != p.groups[k].dwelling && !apart.dwelling.empty())
      apart.name = apart.dwelling;
    else if (apart.building != p.groups[k].building && !apart.building.empty())
      apart.name += ", " + apart.building;
    std::vector<PointSensor> moved, kept;
    for (std::size_t i = 0; i < points->size(); ++i) (at->second.contains(i) ? moved : kept).push_back((*points)[i]);
    apart.layout = std::move(moved);
    p.groups[k].layout = std::move(kept);
    const GroupId from = p.groups[k].id;
    const auto follow = [&](std::vector<GroupId>& asked) {
      if (std::find(asked.begin(), asked.end(), from) != asked.end()) asked.push_back(apart.id);
    };
    for (Study& s : p.studies) follow(s.groups);
    for (Judgement& j : p.judgements) follow(j.groups);
    p.groups.push_back(std::move(apart));
  }
  return p;
}

namespace {

/// A mass, or a building as it was brought in.
bool stands(const Element& e) {
  return e.mass() || (e.imported() && (e.role == Role::Building || e.role == Role::Neighbour));
}

/// Masses that a point may be inside of, met by their boxes first.
class Solids {
public:
  explicit Solids(const Project& p) {
    for (const ElementPtr& e : p.elements)
      if (const Mass* m = e->mass(); m && standsInTheLight(*e, true)) {
        Box box;
        for (const Vec2 q : m->outline.outer) {
          box.low = {std::min(box.low.x, q.x), std::min(box.low.y, q.y)};
          box.high = {std::max(box.high.x, q.x), std::max(box.high.y, q.y)};
        }
        boxes_.push_back({box, m, e});
      }
  }
  bool hold(Vec3 at, ElementId but) const {
    return std::any_of(boxes_.begin(), boxes_.end(), [&](const auto& x) {
      const auto& [box, m, e] = x;
      return e->id != but && at.x >= box.low.x && at.x <= box.high.x && at.y >= box.low.y && at.y <= box.high.y &&
             at.z > m->base && at.z < m->base + m->height && contains(m->outline, {at.x, at.y});
    });
  }

private:
  struct Box {
    Vec2 low{1e30, 1e30}, high{-1e30, -1e30};
  };
  std::vector<std::tuple<Box, const Mass*, ElementPtr>> boxes_;
};

} // namespace

Expected<DwellingsMade> dwellingsFromFacades(Project p, const std::vector<ElementId>& masses,
                                             const DwellingWish& wish) {
  if (!(wish.bay >= 0.5 && wish.bay <= 50) || wish.bays < 1 || wish.bays > 100)
    return fail("Bays of 0.5 to 50 m are expected, and 1 to 100 of them for a dwelling.");
  DwellingsMade out;
  const Solids solids(p);
  std::set<std::string> buildings;
  for (ElementId id : masses)
    if (const ElementPtr e = p.element(id); e && stands(*e)) buildings.insert(nameOf(*e));
  std::set<std::uint64_t> gone;
  for (const SensorGroup& g : p.groups)
    if (!g.dwelling.empty() && buildings.contains(g.building) && g.dwelling.starts_with(g.building + ", storey "))
      gone.insert(g.id.value);
  std::vector<SensorGroup> made;
  for (ElementId id : masses) {
    const ElementPtr e = p.element(id);
    if (!e || !stands(*e)) continue;
    Project alone;
    alone.site = p.site;
    alone.elements = {e};
    SensorGroup all;
    all.id = {1};
    FaceGrid grid;
    grid.faces.push_back({id, std::nullopt});
    grid.bay = wish.bay;
    grid.height = wish.height;
    all.layout = grid;
    alone.groups.push_back(all);
    const auto laid = layOutSensors(alone);
    if (!laid) return tl::unexpected(laid.error());
    if (laid->groups.empty()) continue;
    // Names tell side, storey and bay: "House 12, south, storey 2, bay 3".
    const std::vector<std::string>& names = laid->groups[0].pointNames;
    std::map<std::string, int> dwellings; // numbers by side and storey
    std::string last;
    std::size_t first = 0;
    for (std::size_t i = 0; i < names.size(); ++i) {
      const std::string row = names[i].substr(0, names[i].rfind(", bay "));
      if (row != last || i - first >= std::size_t(wish.bays)) {
        last = row;
        first = i;
      }
      const Sensor& s = laid->sensors[i];
      const Vec3 n = s.normalVector();
      if (solids.hold(s.position + n * 0.5, id)) {
        ++out.buried;
        continue;
      }
      const std::size_t storeyAt = row.rfind(", storey "), sideAt = row.rfind(", ", storeyAt - 1);
      const std::string side = row.substr(sideAt + 2, storeyAt - sideAt - 2), storey = row.substr(storeyAt + 9);
      const bool fresh = made.empty() || made.back().extra != fmt::format("{}/{}", id.text(), first);
      if (fresh) {
        SensorGroup g;
        g.id = GroupId::fresh();
        g.building = nameOf(*e);
        g.dwelling = fmt::format("{}, storey {}, {} {}", g.building, storey, side, ++dwellings[side + "/" + storey]);
        g.name = g.dwelling;
        g.subject = Subject::LivingRoom;
        g.layout = std::vector<PointSensor>();
        g.extra = fmt::format("{}/{}", id.text(), first); // only while they are made
        made.push_back(std::move(g));
      }
      auto& points = std::get<std::vector<PointSensor>>(made.back().layout);
      points.push_back({s.position, n, fmt::format("{}, window {}", made.back().dwelling, points.size() + 1)});
    }
  }
  if (made.empty()) return fail("None of what is chosen is a mass with a free upright wall.");
  for (SensorGroup& g : made) {
    g.extra.clear();
    out.groups.push_back(g.id);
  }
  std::erase_if(p.groups, [&](const SensorGroup& g) { return gone.contains(g.id.value); });
  const auto renewed = [&](std::vector<GroupId>& asked) {
    const std::size_t n = asked.size();
    std::erase_if(asked, [&](GroupId id) { return gone.contains(id.value); });
    if (asked.size() < n) asked.insert(asked.end(), out.groups.begin(), out.groups.end());
  };
  for (Study& s : p.studies) renewed(s.groups);
  for (Judgement& j : p.judgements) renewed(j.groups);
  p.groups.insert(p.groups.end(), std::make_move_iterator(made.begin()), std::make_move_iterator(made.end()));
  out.project = std::move(p);
  return out;
}

} // namespace noonward
