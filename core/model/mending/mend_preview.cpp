#include "core/model/mending/mend_preview.h"
#include "core/base/words.h"
#include <fmt/format.h>
#include <unordered_map>

namespace noonward {

namespace {

struct Key {
  std::array<std::int64_t, 9> at;
  bool operator==(const Key&) const = default;
};
struct KeyHash {
  std::size_t operator()(const Key& k) const {
    std::uint64_t h = 0x9e3779b97f4a7c15ull;
    for (std::int64_t v : k.at) h = (h ^ std::uint64_t(v)) * 0x100000001b3ull, h ^= h >> 29;
    return std::size_t(h);
  }
};
/// Without regard to the way round; `odd` tells that.
Key keyOf(const MendPreview::Corners& c, bool& odd) {
  std::array<std::array<std::int64_t, 3>, 3> p;
  for (std::size_t i = 0; i < 3; ++i)
    p[i] = {std::llround(c[i].x * 1e4), std::llround(c[i].y * 1e4), std::llround(c[i].z * 1e4)};
  odd = false;
  for (const auto& [a, b] : {std::pair{0, 1}, {1, 2}, {0, 1}})
    if (p[std::size_t(b)] < p[std::size_t(a)]) std::swap(p[std::size_t(a)], p[std::size_t(b)]), odd = !odd;
  return {{p[0][0], p[0][1], p[0][2], p[1][0], p[1][1], p[1][2], p[2][0], p[2][1], p[2][2]}};
}

std::vector<MendPreview::Corners> cornersOf(const ElementPtr& e) {
  std::vector<MendPreview::Corners> out;
  if (!e) return out;
  const auto mesh = elementMesh(*e);
  if (!mesh) return out;
  for (const Triangle& t : (*mesh)->triangles)
    out.push_back({(*mesh)->points[t[0]], (*mesh)->points[t[1]], (*mesh)->points[t[2]]});
  return out;
}

void put(std::vector<MendPreview::Corners>& list, std::size_t& n, const MendPreview::Corners& c) {
  if (n++ < mostShown) list.push_back(c);
}

void compare(const ElementPtr& was, const ElementPtr& is, MendPreview& out) {
  const bool before = was && was->counted, after = is && is->counted;
  if (was && is && before && !after) ++out.partsOut;
  if (was && is && !before && after) ++out.partsBack;
  if (was && is && was->role != is->role) ++out.roles;
  if (!before && !after) return;
  if (was && is && before == after && was->shape == is->shape) return;
  struct Count {
    int even = 0, odd = 0;
  };
  std::unordered_map<Key, Count, KeyHash> had;
  bool odd = false;
  const auto old = before ? cornersOf(was) : std::vector<MendPreview::Corners>{},
             now = after ? cornersOf(is) : std::vector<MendPreview::Corners>{};
  for (const auto& c : now) {
    Count& n = had[keyOf(c, odd)];
    ++(odd ? n.odd : n.even);
  }
  for (const auto& c : old) { // what is met again is no change
    Count& n = had[keyOf(c, odd)];
    if (int& same = odd ? n.odd : n.even; same > 0)
      --same;
    else if (int& other = odd ? n.even : n.odd; other > 0)
      --other, put(out.turned, out.facesTurned, c);
    else
      put(out.going, out.facesGoing, c);
  }
  for (const auto& c : now)
    if (const auto at = had.find(keyOf(c, odd)); at != had.end())
      if (int& left = odd ? at->second.odd : at->second.even; left > 0) --left, put(out.coming, out.facesComing, c);
}

} // namespace

MendPreview previewOf(const Project& before, const Project& after) {
  MendPreview out;
  std::unordered_map<std::uint64_t, ElementPtr> now;
  for (const ElementPtr& e : after.elements) now[e->id.value] = e;
  for (const ElementPtr& e : before.elements) {
    const auto at = now.find(e->id.value);
    const ElementPtr is = at == now.end() ? nullptr : at->second;
    if (at != now.end()) now.erase(at);
    if (is != e) compare(e, is, out);
  }
  for (const ElementPtr& e : after.elements)
    if (now.contains(e->id.value)) compare(nullptr, e, out);
  for (const Room& r : after.rooms)
    if (const Room* old = before.room(r.id); !old || old->outline != r.outline)
      out.rooms.push_back(r.outline.outer), out.floors.push_back(r.floor);
  out.windows = after.openings.size() > before.openings.size() ? after.openings.size() - before.openings.size() : 0;
  out.other = before.site.weather != after.site.weather || before.site.zone != after.site.zone ||
              !(before.site.place == after.site.place) || before.groups.size() != after.groups.size() ||
              before.rooms != after.rooms;
  return out;
}

std::string MendPreview::text() const {
  std::string out;
  const auto say = [&](std::size_t n, const std::string& what) {
    if (n > 0) out += (out.empty() ? "" : ", ") + what;
  };
  say(partsOut, counted(partsOut, "part is left out", "parts are left out"));
  say(partsBack, counted(partsBack, "part counts again", "parts count again"));
  say(facesGoing, counted(facesGoing, "face goes", "faces go"));
  say(facesComing, counted(facesComing, "face comes", "faces come"));
  say(facesTurned, counted(facesTurned, "face turns", "faces turn"));
  say(roles, counted(roles, "part gets another role", "parts get another role"));
  say(rooms.size(), counted(rooms.size(), "room outline is new", "room outlines are new"));
  say(windows, counted(windows, "window comes", "windows come"));
  if (out.empty())
    return other ? "Nothing in the model moves: the mend is of the site, the weather, or how rooms count."
                 : "Nothing would change.";
  return out + ".";
}

Box3 MendPreview::box() const {
  Box3 b;
  for (const auto* list : {&going, &coming, &turned})
    for (const Corners& c : *list)
      for (const Vec3& p : c) b.add(p);
  for (std::size_t i = 0; i < rooms.size(); ++i)
    for (Vec2 p : rooms[i]) b.add({p.x, p.y, floors[i]});
  return b;
}

} // namespace noonward
