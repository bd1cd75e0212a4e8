#include "core/studies/light_aims.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {
constexpr std::size_t mostAims = 128;
struct Nothing {
  void sky(std::uint32_t, Vec3, double, bool) {}
  void pane(std::uint32_t, double) {}
  void sun(std::uint32_t, double) {}
  bool known(std::uint32_t, std::uint32_t, double) { return false; }
};
} // namespace

/// The pieces of glazing worth aiming at: those of the room where that is known, else what short walks and a look at
/// the likeliest find. Any choice is unbiased; a poor one only costs samples.
std::vector<std::uint32_t> AimShelf::pieces(Vec3 position, Vec3 n, int room, std::uint64_t key) const {
  const auto& pieces = scene_.pieces();
  if (pieces.empty()) return {};
  const Vec3 x = position + n * 1e-3;
  std::vector<std::uint32_t> aim;
  if (room >= 0)
    for (std::uint32_t k = 0; k < pieces.size(); ++k)
      if (pieces[k].room == room) aim.push_back(k);
  if (!aim.empty() && aim.size() <= mostAims) return aim;
  aim.clear();
  const LightPaths<Nothing> paths(scene_, {}, true);
  HashStream random(mixed(seed_ * 77 + key));
  std::vector<std::uint32_t> seen;
  const double open = paths.pilot(position, n, random, 96, [&](std::uint32_t k) { seen.push_back(k); });
  if (open > 0.3) return {}; // outdoors: the sky itself is found easily
  std::vector<std::pair<double, std::uint32_t>> likely;
  for (std::uint32_t k = 0; k < pieces.size(); ++k)
    if (const double w = paths.weightOf(x, n, pieces[k]); w > 0) likely.emplace_back(-w, k);
  const std::size_t top = std::min<std::size_t>(likely.size(), 96);
  std::partial_sort(likely.begin(), likely.begin() + std::ptrdiff_t(top), likely.end());
  for (std::size_t i = 0; i < top; ++i) {
    const LightScene::Piece& p = pieces[likely[i].second];
    for (int spot = 0; spot < 16;
         ++spot) { // spread evenly over it (R2 sequence): a sliver of it may be all that is seen
      double u = std::fmod(0.5 + 0.7548776662466927 * (spot + 1), 1.0),
             v = std::fmod(0.5 + 0.5698402909980532 * (spot + 1), 1.0);
      if (u + v > 1) {
        u = 1 - u;
        v = 1 - v;
      }
      const Vec3 d = p.a + (p.b - p.a) * u + (p.c - p.a) * v - x;
      if (dot(d, n) > 0 && !scene_.blocked(x, normalized(d), 0, length(d) * (1 - 1e-6))) {
        seen.push_back(likely[i].second);
        break;
      }
    }
  }
  std::sort(seen.begin(), seen.end());
  seen.erase(std::unique(seen.begin(), seen.end()), seen.end());
  // Neighbours of what was seen belong to it: pieces of the same pane.
  std::vector<std::uint32_t> parts;
  for (std::uint32_t k : seen) parts.push_back(pieces[k].part);
  std::sort(parts.begin(), parts.end());
  parts.erase(std::unique(parts.begin(), parts.end()), parts.end());
  if (parts.size() <= 24)
    for (std::uint32_t k = 0; k < pieces.size() && aim.size() <= mostAims; ++k)
      if (std::binary_search(parts.begin(), parts.end(), pieces[k].part)) aim.push_back(k);
  if (aim.empty() || aim.size() > mostAims) aim = seen;
  if (aim.size() > mostAims) aim.resize(mostAims);
  return aim;
}

void AimShelf::share(const SensorSet& sensors, Threads threads, const std::vector<bool>* of) {
  const std::size_t n = sensors.sensors.size();
  if (scene_.pieces().empty()) return;
  std::vector<std::vector<std::uint32_t>> own(n);
  forChunks(n, 8, threads, [&](std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i)
      if (const Sensor& s = sensors.sensors[i]; sensors.groups[s.group].room < 0 && (!of || (*of)[i]))
        own[i] = pieces(s.position, s.normalVector(), -1, i);
  });
  shared_.resize(n);
  std::vector<std::uint32_t> everything;
  const auto unite = [](std::vector<std::uint32_t>& list) {
    std::sort(list.begin(), list.end());
    list.erase(std::unique(list.begin(), list.end()), list.end());
  };
  for (const SensorGridFacts& g : sensors.groups) {
    if (g.room >= 0) continue;
    std::vector<std::uint32_t> together;
    for (std::size_t i = g.first; i < g.first + g.count; ++i)
      together.insert(together.end(), own[i].begin(), own[i].end());
    unite(together);
    everything.insert(everything.end(), together.begin(), together.end());
    if (together.empty() || together.size() > mostAims) continue;
    const auto aim = std::make_shared<const Aim>(makeAim(scene_, together, sun_));
    for (std::size_t i = g.first; i < g.first + g.count; ++i)
      if (!own[i].empty()) shared_[i] = aim; // those under the open sky aim at none
  }
  unite(everything);
  if (!everything.empty() && everything.size() <= mostAims)
    sharedByAll_ = std::make_shared<const Aim>(makeAim(scene_, everything, sun_));
}

std::shared_ptr<const Aim> AimShelf::of(Vec3 position, Vec3 normal, int room, std::uint64_t key) {
  if (room < 0 && sharedByAll_) return sharedByAll_;
  const std::array<double, 4> place{position.x, position.y, position.z, double(key)};
  {
    const std::lock_guard lock(mutex_);
    if (const auto at = rooms_.find(room); room >= 0 && at != rooms_.end() && at->second) return at->second;
    if (const auto at = places_.find(place); at != places_.end()) return at->second;
  }
  std::vector<std::uint32_t> wanted = pieces(position, normal, room, key);
  std::sort(wanted.begin(), wanted.end());
  const bool whole =
      room >= 0 && !wanted.empty() &&
      std::all_of(wanted.begin(), wanted.end(), [&](std::uint32_t k) { return scene_.pieces()[k].room == room; }) &&
      std::count_if(scene_.pieces().begin(), scene_.pieces().end(),
                    [&](const LightScene::Piece& p) { return p.room == room; }) == std::ptrdiff_t(wanted.size());
  std::shared_ptr<const Aim> aim;
  {
    const std::lock_guard lock(mutex_);
    if (const auto at = known_.find(wanted); at != known_.end()) aim = at->second;
  }
  if (!aim) aim = std::make_shared<const Aim>(makeAim(scene_, wanted, sun_));
  const std::lock_guard lock(mutex_);
  if (whole) rooms_[room] = aim;
  const auto kept = known_.emplace(std::move(wanted), std::move(aim)).first->second;
  if (!whole) places_[place] = kept;
  return kept;
}

} // namespace noonward
