#include "core/base/hash.h"
#include <bit>
#include <cstring>
#include <fmt/format.h>
#define XXH_INLINE_ALL
#include <xxhash.h>

namespace noonward {

static_assert(std::endian::native == std::endian::little, "the canonical form is little-endian");

std::string Digest::hex() const {
  return fmt::format("{:016x}{:016x}", high, low);
}

std::string Digest::fingerprint() const {
  const std::string h = hex();
  return h.substr(0, 3) + "-" + h.substr(3, 3) + "-" + h.substr(6, 3) + "-" + h.substr(9, 3);
}

struct Hasher::State {
  XXH3_state_t xxh;
};

Hasher::Hasher() : state_(std::make_unique<State>()) {
  XXH3_128bits_reset(&state_->xxh);
}
Hasher::~Hasher() = default;

Hasher& Hasher::bytes(const void* data, std::size_t size) {
  XXH3_128bits_update(&state_->xxh, data, size);
  return *this;
}

Hasher& Hasher::add(std::uint64_t v) {
  return bytes(&v, sizeof v);
}

Hasher& Hasher::add(double v) {
  if (v == 0) v = 0; // -0 and 0 are one value
  return add(std::bit_cast<std::uint64_t>(v));
}

Hasher& Hasher::add(std::string_view v) {
  add(static_cast<std::uint64_t>(v.size()));
  return bytes(v.data(), v.size());
}

Digest Hasher::digest() const {
  const XXH128_hash_t h = XXH3_128bits_digest(&state_->xxh);
  return {h.high64, h.low64};
}

Digest digestOf(std::string_view bytes) {
  const XXH128_hash_t h = XXH3_128bits(bytes.data(), bytes.size());
  return {h.high64, h.low64};
}

} // namespace noonward
