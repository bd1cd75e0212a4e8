#pragma once
// The panes that paths aim at: chosen once for each set and shared by the places that have the same panes in sight.

#include "core/base/parallel.h"
#include "core/light/light_paths.h"
#include "core/model/rooms/sensors.h"
#include <array>
#include <map>
#include <memory>
#include <mutex>

namespace noonward {

class AimShelf {
public:
  AimShelf(const LightScene& scene, std::optional<Vec3> sun, std::uint64_t seed)
      : scene_(scene), sun_(sun), seed_(seed) {}
  /// For a place; `room`: index in the project, −1 where it is not known; `key`: of the place, for the walks that look
  /// for panes.
  std::shared_ptr<const Aim> of(Vec3 position, Vec3 normal, int room, std::uint64_t key);
  /// Sensors of one group that stand in no drawn room share what any of them finds: a pane that one sees a sliver of is
  /// aimed at by all. `of`: these alone, where given.
  void share(const SensorSet& sensors, Threads threads, const std::vector<bool>* of = nullptr);
  std::shared_ptr<const Aim> of(const SensorSet& sensors, std::size_t sensor) {
    if (sensor < shared_.size() && shared_[sensor]) return shared_[sensor];
    const Sensor& s = sensors.sensors[sensor];
    return of(s.position, s.normalVector(), sensors.groups[s.group].room, sensor);
  }

private:
  std::vector<std::uint32_t> pieces(Vec3 position, Vec3 normal, int room, std::uint64_t key) const;
  const LightScene& scene_;
  std::optional<Vec3> sun_;
  std::uint64_t seed_;
  std::vector<std::shared_ptr<const Aim>> shared_; ///< by sensor
  std::shared_ptr<const Aim> sharedByAll_;         ///< for surfaces around them
  std::mutex mutex_;
  std::map<int, std::shared_ptr<const Aim>> rooms_; ///< of rooms whose panes are all aimed at
  std::map<std::vector<std::uint32_t>, std::shared_ptr<const Aim>> known_;
  /// Of places that had to look for panes: by position and key.
  std::map<std::array<double, 4>, std::shared_ptr<const Aim>> places_;
};

} // namespace noonward
