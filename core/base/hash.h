#pragma once
// 128-bit content hashes (XXH3) in a canonical binary form: little-endian integers, IEEE doubles with -0 folded into 0,
// strings with their length first. Used to address results by their inputs and meshes and weather by their content.

#include "core/base/vec.h"
#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace noonward {

struct Digest {
  std::uint64_t high = 0, low = 0;
  auto operator<=>(const Digest&) const = default;
  std::string hex() const;         ///< 32 lower-case digits
  std::string fingerprint() const; ///< first 12 digits in threes, for people: "3f2-90a-c41-77e"
};

/// Takes values one after another; holds a fixed amount of memory however much is added.
class Hasher {
public:
  Hasher();
  ~Hasher();
  Hasher(const Hasher&) = delete;
  Hasher& operator=(const Hasher&) = delete;
  Hasher& add(std::uint64_t v);
  Hasher& add(std::int64_t v) { return add(static_cast<std::uint64_t>(v)); }
  Hasher& add(int v) { return add(static_cast<std::int64_t>(v)); }
  Hasher& add(bool v) { return add(std::uint64_t{v}); }
  Hasher& add(double v);
  Hasher& add(Vec2 v) { return add(v.x).add(v.y); }
  Hasher& add(Vec3 v) { return add(v.x).add(v.y).add(v.z); }
  Hasher& add(std::string_view v);
  Hasher& add(const char* v) { return add(std::string_view(v)); }
  Hasher& add(const Digest& d) { return add(d.high).add(d.low); }
  Digest digest() const;

private:
  Hasher& bytes(const void* data, std::size_t size);
  struct State;
  std::unique_ptr<State> state_;
};

Digest digestOf(std::string_view bytes);

} // namespace noonward
