#include "core/studies/glare_sight.h"
#include "core/sky/sky_bins.h"
#include "core/studies/sight.h"
#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace noonward {

GlareSphere::GlareSphere() {
  for (std::size_t k = 0; k < count; ++k) {
    const double z = 1 - 2 * (double(k) + 0.5) / double(count), r = std::sqrt(1 - z * z),
                 turn = double(k) * 2.399963229728653; // the golden angle
    directions.push_back({r * std::cos(turn), r * std::sin(turn), z});
  }
  // Side by side in memory what lies side by side on the sphere: bands, walked to and fro, so that what neighbours see
  // is still at hand.
  constexpr double bands = 48;
  const auto place = [](Vec3 d) {
    const double band = std::floor((1 - d.z) / 2 * bands), turn = std::atan2(d.y, d.x) / (2 * pi) + 0.5;
    return band + (std::int64_t(band) % 2 == 0 ? turn : 1 - turn);
  };
  std::sort(directions.begin(), directions.end(), [&](Vec3 a, Vec3 b) { return place(a) < place(b); });
}

std::vector<GlareEye> eyesOf(const SensorSet& sensors, const std::vector<Room>& rooms) {
  std::vector<GlareEye> out;
  for (std::size_t i = 0; i < sensors.sensors.size(); ++i) {
    const Sensor& s = sensors.sensors[i];
    if (!out.empty() && out.back().at == s.position && sensors.sensors[i - 1].group == s.group) {
      ++out.back().count;
      continue;
    }
    GlareEye eye{s.position, -1, i, 1};
    for (std::size_t r = 0; r < rooms.size() && eye.room < 0; ++r)
      if (s.position.z > rooms[r].floor && s.position.z < rooms[r].floor + rooms[r].height &&
          contains(rooms[r].outline, {s.position.x, s.position.y}))
        eye.room = int(r);
    out.push_back(eye);
  }
  return out;
}

namespace {

/// One thing met by one ray, before things are shared.
struct Met {
  std::uint32_t direction = 0;
  GlareSlot::Kind kind = GlareSlot::Kind::Sky;
  float weight = 0;
  std::uint32_t group = 0, bin = 0;
  int room = -1;
  std::uint64_t key = 0, wideKey = 0; ///< of a place
  Vec3 at, normal;
};

struct MetSink {
  std::vector<Met>& met;
  Vec3 eye;
  std::uint32_t direction = 0;
  void sky(Vec3 d, double share, std::uint32_t group) {
    Met m;
    m.direction = direction;
    m.weight = float(share);
    m.group = group;
    m.bin = std::uint32_t(SkyBins::of(d));
    met.push_back(m);
  }
  void surface(const SightTerm& t, bool) {
    Met m;
    m.direction = direction;
    m.kind = GlareSlot::Kind::Place;
    m.weight = float(t.factor);
    m.group = t.group;
    m.room = t.room;
    m.at = t.at;
    m.normal = t.normal;
    // As wide as the angle between directions, in powers of two, so that eyes side by side share places.
    constexpr double finest = 0.2, angle = 0.045; // m; rad
    const int level = std::clamp(int(std::ceil(std::log2(angle * length(t.at - eye) / finest))), 0, 12);
    const auto keyed = [&](double size) {
      std::uint64_t key = mixed(t.key * 31 + std::uint64_t(level) * 7 + std::uint64_t(std::int64_t(t.room) + 2));
      for (double v : {t.at.x, t.at.y, t.at.z})
        key = mixed(key + std::uint64_t(std::int64_t(std::floor(v / size)) + (1 << 20)));
      return key;
    };
    m.key = keyed(finest * double(1 << level));
    m.wideKey = keyed(3 * finest * double(1 << level));
    met.push_back(m);
  }
  void pane(std::uint32_t group, double share) {
    Met m;
    m.direction = direction;
    m.kind = GlareSlot::Kind::Pane;
    m.weight = float(share);
    m.group = group;
    met.push_back(m);
  }
};

class Sharing {
public:
  void add(const std::vector<Met>& met) {
    auto& from = out.from.emplace_back(GlareSphere::count + 1, 0);
    auto& seen = out.seen.emplace_back();
    std::size_t next = 0;
    for (std::uint32_t d = 0; d < GlareSphere::count; ++d) {
      from[d] = std::uint32_t(seen.size());
      for (; next < met.size() && met[next].direction == d; ++next) seen.push_back({slot(met[next]), met[next].weight});
    }
    from[GlareSphere::count] = std::uint32_t(seen.size());
  }
  /// Places in the order of their rooms, and slots that know where.
  GlareSight finish() {
    const auto lies = laid(places_, out.places), wide = laid(wide_, out.wide);
    for (GlareSlot& s : out.slots) {
      if (s.kind != GlareSlot::Kind::Place) continue;
      s.wide = wide[wideOf_.at(places_[s.index].wideKey)].second;
      std::tie(s.space, s.index) = lies[s.index];
    }
    return std::move(out);
  }

private:
  /// Sensors in the order of their rooms; by place the group and the index in it.
  static std::vector<std::pair<std::uint32_t, std::uint32_t>> laid(const std::vector<Met>& list, SensorSet& set) {
    std::vector<std::uint32_t> order(list.size());
    for (std::uint32_t k = 0; k < order.size(); ++k) order[k] = k;
    std::stable_sort(order.begin(), order.end(), [&](auto a, auto b) { return list[a].room < list[b].room; });
    std::vector<std::pair<std::uint32_t, std::uint32_t>> lies(list.size());
    for (std::uint32_t k : order) {
      const Met& m = list[k];
      if (set.groups.empty() || set.groups.back().room != m.room) {
        set.groups.emplace_back();
        set.groups.back().first = set.sensors.size();
        set.groups.back().room = m.room;
      }
      const auto group = std::uint32_t(set.groups.size() - 1);
      lies[k] = {group, std::uint32_t(set.groups.back().count++)};
      set.sensors.push_back({m.at, {float(m.normal.x), float(m.normal.y), float(m.normal.z)}, group});
    }
    return lies;
  }
  std::uint32_t slot(const Met& m) {
    std::uint32_t index = m.bin;
    if (m.kind == GlareSlot::Kind::Place) {
      const auto [at, fresh] = placeOf_.try_emplace(m.key, std::uint32_t(places_.size()));
      if (fresh) {
        places_.push_back(m);
        if (wideOf_.try_emplace(m.wideKey, std::uint32_t(wide_.size())).second) wide_.push_back(m);
      }
      index = at->second;
    } else if (m.kind == GlareSlot::Kind::Pane) {
      index = 0;
    }
    const std::uint64_t key = mixed((std::uint64_t(index) << 20 | m.group) * 4 + std::uint64_t(m.kind));
    const auto [at, fresh] = slotOf_.try_emplace(key, std::uint32_t(out.slots.size()));
    if (fresh) {
      const GlareCause cause = m.kind == GlareSlot::Kind::Sky    ? GlareCause::Sky
                               : m.kind == GlareSlot::Kind::Pane ? GlareCause::Fabric
                               : m.room >= 0                     ? GlareCause::Inside
                                                                 : GlareCause::Outside;
      out.slots.push_back({m.kind, cause, index, 0, 0, m.group});
    }
    return at->second;
  }
  GlareSight out;
  std::vector<Met> places_, wide_;
  std::unordered_map<std::uint64_t, std::uint32_t> placeOf_, wideOf_, slotOf_;
};

} // namespace

std::optional<GlareSight> glareSight(const LightScene& scene, const GlareSphere& sphere, const SensorSet& sensors,
                                     std::span<const GlareEye> eyes, RunControl& control, Threads threads) {
  Sharing sharing;
  constexpr std::size_t block = 32; // eyes whose rays are held at a time
  for (std::size_t begin = 0; begin < eyes.size(); begin += block) {
    const std::size_t n = std::min(block, eyes.size() - begin), chunks = n * 4;
    std::vector<std::vector<Met>> met(chunks);
    const std::size_t done = forChunks(
        chunks, 1, threads,
        [&](std::size_t a, std::size_t b) {
          for (std::size_t c = a; c < b; ++c) {
            const GlareEye& eye = eyes[begin + c / 4];
            const Sight<MetSink> sight(scene);
            MetSink sink{met[c], eye.at};
            const std::size_t quarter = GlareSphere::count / 4;
            for (std::size_t d = c % 4 * quarter; d < (c % 4 + 1) * quarter; ++d) {
              bool looked = false;
              for (std::size_t k = 0; k < eye.count && !looked; ++k)
                looked = dot(sensors.sensors[eye.first + k].normalVector(), sphere.directions[d]) > 0;
              if (!looked) continue;
              sink.direction = std::uint32_t(d);
              sight.look(eye.at, sphere.directions[d], sink);
            }
          }
        },
        [&] { return control.goesOn(); });
    if (done != chunks) return {};
    for (std::size_t e = 0; e < n; ++e) {
      std::vector<Met> all;
      for (std::size_t q = 0; q < 4; ++q) all.insert(all.end(), met[e * 4 + q].begin(), met[e * 4 + q].end());
      sharing.add(all);
    }
  }
  return sharing.finish();
}

} // namespace noonward
