#include "core/studies/space_sums.h"
#include "core/studies/float_bound.h"
#include <algorithm>
#include <bit>
#include <cmath>
#include <numeric>

#if defined(__GNUC__) && !defined(__clang__)
#pragma GCC push_options
#pragma GCC optimize("O3") // many sensors at a time
#endif

namespace noonward {

namespace {

/// The largest float that is not above a bound: double(v) > bound exactly where v > this.
float floatWithin(double bound) {
  const auto f = float(bound);
  return double(f) > bound ? std::nextafter(f, -std::numeric_limits<float>::infinity()) : f;
}

constexpr std::size_t block = 32; // sensors

/// Sums of a block of sensors, side by side.
struct Block {
  std::array<double, block> sum{}, continuous{};
  std::array<std::int32_t, block> reached{}, belowFirst{}, belowSecond{}, above{};
  std::array<float, block> least, most;
  Block() {
    least.fill(std::numeric_limits<float>::infinity());
    most.fill(-std::numeric_limits<float>::infinity());
  }
};

/// Of floats from 0 up the k-th from below, by their leading bits first: the rest of the work is within one bin.
class Order {
public:
  explicit Order(std::span<const float> values) : values_(values) {
    for (const float v : values) ++count_[binOf(v)];
  }
  float at(std::size_t k) {
    std::size_t bin = 0;
    while (k >= count_[bin]) k -= count_[bin++];
    if (bin != held_) {
      within_.clear();
      for (const float v : values_)
        if (binOf(v) == bin) within_.push_back(v);
      held_ = bin;
    }
    const auto place = within_.begin() + std::ptrdiff_t(k);
    std::nth_element(within_.begin(), place, within_.end());
    return *place;
  }

private:
  static std::size_t binOf(float v) { return std::bit_cast<std::uint32_t>(v + 0.0f) >> 20; } // −0 is 0
  std::span<const float> values_;
  std::array<std::uint32_t, 4096> count_{};
  std::vector<float> within_;
  std::size_t held_ = ~std::size_t{0};
};

double middleOf(std::span<const float> values) {
  Order order(values);
  const std::size_t middle = values.size() / 2;
  const auto upper = double(order.at(middle));
  return values.size() % 2 ? upper : 0.5 * (double(order.at(middle - 1)) + upper);
}

} // namespace

SpaceSums spaceSums(std::span<const float> light, const SummedHours& asked, const MetricSettings& s,
                    std::span<const double> areas, Threads threads) {
  const std::vector<std::uint32_t>& hours = asked.lit;
  const std::size_t n = areas.size();
  require(light.size() == n * hours.size(), "spaceSums: one value for each sensor and hour");
  SpaceSums out;
  out.sensors.resize(n);
  std::vector<std::uint32_t> wanted, day; // columns of the mask; of daylight
  for (std::size_t h = 0; h < hours.size(); ++h) {
    if (asked.mask[hours[h]]) wanted.push_back(std::uint32_t(h));
    if (asked.daylight[hours[h]]) day.push_back(std::uint32_t(h));
  }
  const auto all = std::size_t(std::count(asked.mask.begin(), asked.mask.end(), true)), dark = all - wanted.size();
  const float threshold = floatReaching(s.threshold), first = floatReaching(s.useful[0]),
              later = std::max(first, floatReaching(s.useful[1])), third = floatWithin(s.useful[2]);
  // The targets of the levels, each once.
  std::array<float, 4> targets;
  targets.fill(std::numeric_limits<float>::infinity());
  std::array<std::size_t, provisionLevels.size()> targetOf{};
  std::size_t known = 0;
  for (std::size_t k = 0; k < provisionLevels.size(); ++k) {
    const float t = floatReaching(provisionLevels[k].target);
    const auto at = std::find(targets.begin(), targets.begin() + std::ptrdiff_t(known), t);
    targetOf[k] = std::size_t(at - targets.begin());
    if (targetOf[k] < known) continue;
    require(known < targets.size(), "spaceSums: more targets than it has room for");
    targets[known++] = t;
  }
  std::vector<std::vector<std::int32_t>> owned(targets.size(), std::vector<std::int32_t>(n, 0));

  forChunks((n + block - 1) / block, 1, threads, [&](std::size_t a, std::size_t b) {
    std::vector<float> tile(block * all); // the schedule's hours of each sensor
    for (std::size_t chunk = a; chunk < b; ++chunk) {
      const std::size_t from = chunk * block, count = std::min(block, n - from);
      Block x;
      std::array<float, block> padded{}; // so that all blocks have one length, and lie side by side in registers
      const auto column = [&](std::size_t h) {
        const float* e = light.data() + h * n + from;
        if (count == block) return e;
        std::copy(e, e + count, padded.begin());
        return static_cast<const float*>(padded.data());
      };
      std::fill(tile.begin(), tile.end(), 0.0f);
      for (std::size_t w = 0; w < wanted.size(); ++w) {
        const float* e = column(wanted[w]);
        for (std::size_t i = 0; i < block; ++i) x.sum[i] += double(e[i]);
        for (std::size_t i = 0; i < block; ++i) x.reached[i] += e[i] >= threshold;
        for (std::size_t i = 0; i < block; ++i) x.belowFirst[i] += !(e[i] >= first);
        for (std::size_t i = 0; i < block; ++i) x.belowSecond[i] += !(e[i] >= later);
        for (std::size_t i = 0; i < block; ++i) x.above[i] += (e[i] >= later) & (e[i] > third);
        for (std::size_t i = 0; i < block; ++i) x.least[i] = e[i] < x.least[i] ? e[i] : x.least[i];
        for (std::size_t i = 0; i < block; ++i) x.most[i] = e[i] > x.most[i] ? e[i] : x.most[i];
        if (s.threshold > 0)
          for (std::size_t i = 0; i < block; ++i) {
            const double v = double(e[i]);
            x.continuous[i] += v < s.threshold ? v / s.threshold : 1.0;
          }
        for (std::size_t i = 0; i < block; ++i) tile[i * all + dark + w] = e[i];
      }
      std::array<std::array<std::int32_t, block>, 4> own{};
      for (const std::uint32_t h : day) {
        const float* e = column(h);
        for (std::size_t k = 0; k < own.size(); ++k)
          for (std::size_t i = 0; i < block; ++i) own[k][i] += e[i] >= targets[k];
      }
      for (std::size_t k = 0; k < own.size(); ++k)
        std::copy(own[k].begin(), own[k].begin() + std::ptrdiff_t(count), owned[k].begin() + std::ptrdiff_t(from));
      for (std::size_t i = 0; i < count && all > 0; ++i) {
        SensorYear& y = out.sensors[from + i];
        const double hoursAll = double(all);
        y.hours = all;
        y.mean = x.sum[i] / hoursAll;
        const auto zero = [&](bool counts) { return counts ? std::int32_t(dark) : 0; };
        y.autonomy = double(x.reached[i] + zero(0 >= s.threshold)) / hoursAll;
        y.continuous = s.threshold > 0 ? x.continuous[i] / hoursAll : 1;
        const std::int32_t lowest = x.belowFirst[i] + zero(0 < s.useful[0]),
                           low = x.belowSecond[i] + zero(0 < s.useful[0] || 0 < s.useful[1]),
                           high = x.above[i] + zero(!(0 < s.useful[0]) && !(0 < s.useful[1]) && 0 > s.useful[2]);
        y.useful = {double(lowest) / hoursAll, double(low - lowest) / hoursAll,
                    double(std::int32_t(all) - low - high) / hoursAll, double(high) / hoursAll};
        y.median = middleOf({tile.data() + i * all, all});
        y.least = dark > 0 ? std::min(0.0, double(x.least[i])) : double(x.least[i]);
        y.most = dark > 0 ? std::max(0.0, double(x.most[i])) : double(x.most[i]);
      }
    }
  });

  // In how many hours so much of the plane has the target; sensors are added in their order.
  const std::vector<double> weight = weightsOf(areas, n);
  const std::size_t hourBlock = 256, blocks = (day.size() + hourBlock - 1) / hourBlock;
  std::vector<std::array<int, provisionLevels.size()>> reached(blocks);
  forChunks(blocks, 1, threads, [&](std::size_t a, std::size_t b) {
    for (std::size_t k = a; k < b; ++k) {
      reached[k].fill(0);
      for (std::size_t d = k * hourBlock; d < std::min(day.size(), (k + 1) * hourBlock); ++d) {
        const float* e = light.data() + std::size_t(day[d]) * n;
        // Summed as registers like it; where the order of the sum might tell, as they come.
        std::array<double, 4> share{};
        for (std::size_t t = 0; t < share.size(); ++t) {
          std::array<double, 8> part{};
          std::size_t i = 0;
          for (; i + part.size() <= n; i += part.size())
            for (std::size_t lane = 0; lane < part.size(); ++lane)
              part[lane] += e[i + lane] >= targets[t] ? weight[i + lane] : 0.0;
          for (; i < n; ++i) share[t] += e[i] >= targets[t] ? weight[i] : 0.0;
          for (const double x : part) share[t] += x;
          if (std::none_of(provisionLevels.begin(), provisionLevels.end(),
                           [&](const Provision& l) { return std::abs(share[t] - (l.share - 1e-9)) < 1e-10; }))
            continue;
          share[t] = 0;
          for (i = 0; i < n; ++i) share[t] += e[i] >= targets[t] ? weight[i] : 0.0;
        }
        for (std::size_t l = 0; l < provisionLevels.size(); ++l)
          reached[k][l] += share[targetOf[l]] >= provisionLevels[l].share - 1e-9;
      }
    }
  });
  for (std::size_t l = 0; l < provisionLevels.size(); ++l) {
    for (const auto& r : reached) out.provision[l] += r[l];
    std::vector<std::pair<double, double>> own;
    for (std::size_t i = 0; i < n; ++i) own.emplace_back(owned[targetOf[l]][i], weight[i]);
    out.provisionOwn[l] = reachedByShare(std::move(own), provisionLevels[l].share);
  }
  return out;
}

} // namespace noonward

#if defined(__GNUC__) && !defined(__clang__)
#pragma GCC pop_options
#endif
