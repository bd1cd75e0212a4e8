#pragma once
// Things put together two by two, and which set each is in then (disjoint sets).

#include <cstdint>
#include <numeric>
#include <vector>

namespace noonward {

class JoinedSets {
public:
  explicit JoinedSets(std::size_t n) : root_(n) { std::iota(root_.begin(), root_.end(), 0u); }
  /// The same for all of one set, until more are joined.
  std::uint32_t of(std::size_t i) {
    std::uint32_t at = std::uint32_t(i);
    while (root_[at] != at) at = root_[at] = root_[root_[at]];
    return at;
  }
  void join(std::size_t a, std::size_t b) { root_[of(a)] = of(b); }

private:
  std::vector<std::uint32_t> root_;
};

} // namespace noonward
