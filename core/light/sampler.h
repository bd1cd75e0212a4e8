#pragma once
// Random numbers keyed by sensor, replicate and sample, never by thread: the same question gives the same bits. The
// first decisions of a path come from a Sobol sequence with hashed Owen scrambling (Burley, JCGT 9(4), 2020; direction
// numbers of Joe and Kuo, 2008), one scramble a replicate, so that replicates are independent and their spread is an
// honest standard error; later ones are plain hashed numbers.

#include <array>
#include <cstdint>

namespace noonward {

inline std::uint64_t mixed(std::uint64_t x) { // splitmix64
  x += 0x9e3779b97f4a7c15ull;
  x = (x ^ (x >> 30)) * 0xbf58476d1ce4e5b9ull;
  x = (x ^ (x >> 27)) * 0x94d049bb133111ebull;
  return x ^ (x >> 31);
}

/// A stream of hashed numbers in [0, 1).
class HashStream {
public:
  explicit HashStream(std::uint64_t key) : key_(key) {}
  double next() { return double(mixed(key_ ^ (0xd1342543de82ef95ull * ++count_)) >> 11) * 0x1p-53; }

private:
  std::uint64_t key_, count_ = 0;
};

namespace sobol {

inline constexpr int dimensions = 8;

constexpr std::array<std::array<std::uint32_t, 32>, dimensions> directions() {
  // degree s, coefficients a, first numbers m; dimension 0 is the van der Corput sequence.
  constexpr int s[dimensions] = {0, 1, 2, 3, 3, 4, 4, 5};
  constexpr std::uint32_t a[dimensions] = {0, 0, 1, 1, 2, 1, 4, 2};
  constexpr std::uint32_t m[dimensions][5] = {{},        {1},          {1, 3},        {1, 3, 1},
                                              {1, 1, 1}, {1, 1, 3, 3}, {1, 3, 5, 13}, {1, 1, 5, 5, 17}};
  std::array<std::array<std::uint32_t, 32>, dimensions> v{};
  for (int d = 0; d < dimensions; ++d) {
    auto& out = v[std::size_t(d)];
    for (int i = 0; i < 32; ++i) {
      const auto at = std::size_t(i);
      if (d == 0)
        out[at] = 1u << (31 - i);
      else if (i < s[d])
        out[at] = m[d][i] << (31 - i);
      else {
        out[at] = out[std::size_t(i - s[d])] ^ (out[std::size_t(i - s[d])] >> s[d]);
        for (int k = 1; k < s[d]; ++k) out[at] ^= ((a[d] >> (s[d] - 1 - k)) & 1) * out[std::size_t(i - k)];
      }
    }
  }
  return v;
}
inline constexpr auto table = directions();

constexpr std::uint32_t reversed(std::uint32_t x) {
  x = ((x >> 1) & 0x55555555u) | ((x & 0x55555555u) << 1);
  x = ((x >> 2) & 0x33333333u) | ((x & 0x33333333u) << 2);
  x = ((x >> 4) & 0x0f0f0f0fu) | ((x & 0x0f0f0f0fu) << 4);
  x = ((x >> 8) & 0x00ff00ffu) | ((x & 0x00ff00ffu) << 8);
  return (x >> 16) | (x << 16);
}

/// Nested uniform scramble of a number's bits from the most significant on.
constexpr std::uint32_t scrambled(std::uint32_t x, std::uint32_t seed) {
  x = reversed(x);
  x += seed;
  x ^= x * 0x6c50b47cu;
  x ^= x * 0xb82f1e52u;
  x ^= x * 0xc7afe638u;
  x ^= x * 0x8d22f6e6u;
  return reversed(x);
}

/// What each byte of an index adds: four look-ups instead of thirty-two steps.
constexpr auto byteTable() {
  std::array<std::array<std::array<std::uint32_t, 256>, 4>, dimensions> out{};
  for (std::size_t d = 0; d < dimensions; ++d)
    for (std::size_t byte = 0; byte < 4; ++byte)
      for (std::size_t value = 1; value < 256; ++value) {
        const std::size_t low = value & (value - 1); // without its lowest bit
        std::size_t bit = 0;
        while (!((value >> bit) & 1)) ++bit;
        out[d][byte][value] = out[d][byte][low] ^ table[d][8 * byte + bit];
      }
  return out;
}
inline constexpr auto bytes = byteTable();

constexpr std::uint32_t raw(std::uint32_t index, int dimension) {
  const auto& t = bytes[std::size_t(dimension)];
  return t[0][index & 255] ^ t[1][(index >> 8) & 255] ^ t[2][(index >> 16) & 255] ^ t[3][index >> 24];
}

} // namespace sobol

/// Point `index` of one replicate's scrambled sequence.
class ScrambledPoint {
public:
  ScrambledPoint(std::uint64_t replicateKey, std::uint32_t index)
      // The index is scrambled too: runs of 2^k points stay whole, their order and place in the sequence change.
      : key_(replicateKey), index_(sobol::scrambled(index, std::uint32_t(mixed(replicateKey)))) {}
  double operator[](int dimension) const {
    const auto seed = std::uint32_t(mixed(key_ + std::uint64_t(dimension) * 0x9e3779b97f4a7c15ull) >> 32);
    return double(sobol::scrambled(sobol::raw(index_, dimension), seed)) * 0x1p-32;
  }

private:
  std::uint64_t key_;
  std::uint32_t index_;
};

} // namespace noonward
