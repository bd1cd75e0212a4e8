#pragma once
// The panes that paths aim at: chosen once for each set and shared by the places that have the same panes in sight.

#include "core/light/light_paths.h"
#include "core/model/sensors.h"
#include <map>
#include <memory>
#include <mutex>

namespace noonward {

class AimShelf {
public:
  AimShelf(const LightScene& scene, std::optional<Vec3> sun, std::uint64_t seed) : scene_(scene), sun_(sun), seed_(seed) {}
  /// For a place; `room`: index in the project, −1 where it is not known; `key`: of the place, for the walks that look for panes.
  std::shared_ptr<const Aim> of(Vec3 position, Vec3 normal, int room, std::uint64_t key);
  std::shared_ptr<const Aim> of(const SensorSet& sensors, std::size_t sensor) {
    const Sensor& s = sensors.sensors[sensor];
    return of(s.position, s.normalVector(), sensors.groups[s.group].room, sensor);
  }

private:
  std::vector<std::uint32_t> pieces(Vec3 position, Vec3 normal, int room, std::uint64_t key) const;
  const LightScene& scene_;
  std::optional<Vec3> sun_;
  std::uint64_t seed_;
  std::mutex mutex_;
  std::map<int, std::shared_ptr<const Aim>> rooms_; ///< of rooms whose panes are all aimed at
  std::map<std::vector<std::uint32_t>, std::shared_ptr<const Aim>> known_;
};

} // namespace noonward
