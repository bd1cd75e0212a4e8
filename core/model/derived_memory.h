#pragma once
// The building, its placed openings and the sensors of the last few states of a project, made once and shared by
// studies, stage, probe, pictures and checks. A state is everything that they depend on; it is compared, not trusted:
// elements by identity, rooms and the rest by value, which costs microseconds where making them costs a tenth of a
// second. Any number of threads may ask.

#include "core/model/light_model.h"
#include "core/model/rooms/sensors.h"
#include "core/sky/radiant_sky.h"
#include <mutex>

namespace noonward {

class DerivedMemory {
public:
  struct State {
    Design design;
    double groundLevel = 0, groundReflectance = 0, northAngle = 0;
    bool withProposed = true;
    std::vector<SensorGroup> groups; ///< of sensors alone
    std::vector<GroupId> only;
    std::size_t limit = 0;
    bool operator==(const State&) const = default;
  };
  std::shared_ptr<const LightModel> model(const State& state);
  void keep(State state, std::shared_ptr<const LightModel> model);
  std::shared_ptr<const SensorSet> sensors(const State& state);
  void keep(State state, std::shared_ptr<const SensorSet> sensors);
  std::shared_ptr<const OpeningLayout> openings(const State& state);
  void keep(State state, std::shared_ptr<const OpeningLayout> openings);
  /// The sky of many hours, by what it depends on.
  std::shared_ptr<const RadiantSky> sky(const Digest& key);
  void keep(const Digest& key, std::shared_ptr<const RadiantSky> sky);

private:
  static constexpr std::size_t most = 4; ///< the state in hand, the one before it, each with and without the proposal
  template <class T> struct Known {
    State state;
    std::shared_ptr<const T> value;
  };
  template <class T> std::shared_ptr<const T> find(std::vector<Known<T>>& list, const State& state);
  template <class T> void put(std::vector<Known<T>>& list, State state, std::shared_ptr<const T> value);
  std::mutex mutex_;
  std::vector<Known<LightModel>> models_; ///< the newest first
  std::vector<Known<SensorSet>> sensors_;
  std::vector<Known<OpeningLayout>> openings_;
  std::vector<std::pair<Digest, std::shared_ptr<const RadiantSky>>> skies_; ///< the newest first
};

/// What the building of a project depends on.
DerivedMemory::State derivedState(const Project& project, bool withProposed);

} // namespace noonward
