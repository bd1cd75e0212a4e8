#include "core/studies/space_sums.h"
#include "core/studies/float_bound.h"
#include <algorithm>
#include <numeric>

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

double middleOf(std::vector<float>& values) {
  const auto middle = values.begin() + std::ptrdiff_t(values.size() / 2);
  std::nth_element(values.begin(), middle, values.end());
  return values.size() % 2 ? double(*middle)
                           : 0.5 * (double(*std::max_element(values.begin(), middle)) + double(*middle));
}

} // namespace

SpaceSums spaceSums(const Eigen::MatrixXf& light, const std::vector<std::uint32_t>& hours,
                    const std::vector<bool>& mask, const std::vector<bool>& daylight, const MetricSettings& s,
                    std::span<const double> areas, Threads threads) {
  const auto n = std::size_t(light.rows());
  SpaceSums out;
  out.sensors.resize(n);
  std::vector<std::uint32_t> wanted, day; // columns of the mask; of daylight
  for (std::size_t h = 0; h < hours.size(); ++h) {
    if (mask[hours[h]]) wanted.push_back(std::uint32_t(h));
    if (daylight[hours[h]]) day.push_back(std::uint32_t(h));
  }
  const auto all = std::size_t(std::count(mask.begin(), mask.end(), true)), dark = all - wanted.size();
  const float threshold = floatReaching(s.threshold), first = floatReaching(s.useful[0]),
              second = floatReaching(s.useful[1]), third = floatWithin(s.useful[2]);
  // The targets of the levels, each once.
  std::vector<float> targets;
  std::array<std::size_t, provisionLevels.size()> targetOf{};
  for (std::size_t k = 0; k < provisionLevels.size(); ++k) {
    const float t = floatReaching(provisionLevels[k].target);
    const auto at = std::find(targets.begin(), targets.end(), t);
    targetOf[k] = std::size_t(at - targets.begin());
    if (at == targets.end()) targets.push_back(t);
  }
  std::vector<std::vector<std::int32_t>> owned(targets.size(), std::vector<std::int32_t>(n, 0));

  forChunks((n + block - 1) / block, 1, threads, [&](std::size_t a, std::size_t b) {
    for (std::size_t chunk = a; chunk < b; ++chunk) {
      const std::size_t from = chunk * block, count = std::min(block, n - from);
      Block x;
      for (const std::uint32_t h : wanted) {
        const float* e = light.data() + std::size_t(h) * n + from;
        for (std::size_t i = 0; i < count; ++i) {
          x.sum[i] += double(e[i]);
          x.reached[i] += e[i] >= threshold;
          x.belowFirst[i] += !(e[i] >= first);
          x.belowSecond[i] += !(e[i] >= first) || !(e[i] >= second);
          x.above[i] += e[i] >= first && e[i] >= second && e[i] > third;
          x.least[i] = e[i] < x.least[i] ? e[i] : x.least[i];
          x.most[i] = e[i] > x.most[i] ? e[i] : x.most[i];
        }
        if (s.threshold > 0)
          for (std::size_t i = 0; i < count; ++i) {
            const double v = double(e[i]);
            x.continuous[i] += v < s.threshold ? v / s.threshold : 1.0;
          }
      }
      for (std::size_t k = 0; k < targets.size(); ++k)
        for (const std::uint32_t h : day) {
          const float* e = light.data() + std::size_t(h) * n + from;
          std::int32_t* own = owned[k].data() + from;
          for (std::size_t i = 0; i < count; ++i) own[i] += e[i] >= targets[k];
        }
      std::vector<float> values;
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
        values.assign(dark, 0.0f);
        for (const std::uint32_t h : wanted) values.push_back(light.data()[std::size_t(h) * n + from + i]);
        y.median = middleOf(values);
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
    std::vector<double> share(targets.size());
    for (std::size_t k = a; k < b; ++k) {
      reached[k].fill(0);
      for (std::size_t d = k * hourBlock; d < std::min(day.size(), (k + 1) * hourBlock); ++d) {
        const float* e = light.data() + std::size_t(day[d]) * n;
        std::fill(share.begin(), share.end(), 0.0);
        for (std::size_t i = 0; i < n; ++i)
          for (std::size_t t = 0; t < targets.size(); ++t) share[t] += e[i] >= targets[t] ? weight[i] : 0.0;
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
