#include "core/model/derived_memory.h"
#include <algorithm>

namespace noonward {

std::shared_ptr<DerivedMemory> freshDerivedMemory() {
  return std::make_shared<DerivedMemory>();
}

DerivedMemory::State derivedState(const Project& p, bool withProposed) {
  DerivedMemory::State out;
  out.design = p;
  out.groundLevel = p.site.groundLevel;
  out.groundReflectance = p.site.groundReflectance;
  out.northAngle = p.site.northAngle;
  out.withProposed = withProposed;
  return out;
}

template <class T> std::shared_ptr<const T> DerivedMemory::find(std::vector<Known<T>>& list, const State& state) {
  const std::lock_guard lock(mutex_);
  const auto at = std::find_if(list.begin(), list.end(), [&](const Known<T>& k) { return k.state == state; });
  if (at == list.end()) return nullptr;
  std::rotate(list.begin(), at, at + 1);
  return list.front().value;
}

template <class T> void DerivedMemory::put(std::vector<Known<T>>& list, State state, std::shared_ptr<const T> value) {
  const std::lock_guard lock(mutex_);
  list.insert(list.begin(), Known<T>{std::move(state), std::move(value)});
  if (list.size() > most) list.pop_back();
}

std::shared_ptr<const LightModel> DerivedMemory::model(const State& state) {
  return find(models_, state);
}
void DerivedMemory::keep(State state, std::shared_ptr<const LightModel> model) {
  put(models_, std::move(state), std::move(model));
}
std::shared_ptr<const SensorSet> DerivedMemory::sensors(const State& state) {
  return find(sensors_, state);
}
void DerivedMemory::keep(State state, std::shared_ptr<const SensorSet> sensors) {
  put(sensors_, std::move(state), std::move(sensors));
}
std::shared_ptr<const OpeningLayout> DerivedMemory::openings(const State& state) {
  return find(openings_, state);
}
void DerivedMemory::keep(State state, std::shared_ptr<const OpeningLayout> openings) {
  put(openings_, std::move(state), std::move(openings));
}

std::shared_ptr<const RadiantSky> DerivedMemory::sky(const Digest& key) {
  const std::lock_guard lock(mutex_);
  for (const auto& [known, sky] : skies_)
    if (known == key) return sky;
  return nullptr;
}
void DerivedMemory::keep(const Digest& key, std::shared_ptr<const RadiantSky> sky) {
  const std::lock_guard lock(mutex_);
  skies_.insert(skies_.begin(), {key, std::move(sky)});
  if (skies_.size() > most) skies_.pop_back();
}

} // namespace noonward
