#include "core/runs/sweep/sweep_points.h"
#include <boost/random/sobol.hpp>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace noonward {

VaryPoint SweepPoints::values(const Variation& variation, std::size_t point) const {
  VaryPoint out;
  for (std::size_t k = 0; k < points[point].size(); ++k) out.push_back(variation.values()[k][points[point][k]]);
  return out;
}

Expected<SweepPoints> sweepPoints(const Variation& variation) {
  const auto& values = variation.values();
  SweepPoints out;
  out.combinations = 1;
  for (const auto& list : values) out.combinations *= double(list.size());
  const auto sample = std::size_t(variation.sweep().sample);
  const bool all = sample == 0 || double(sample) >= out.combinations;
  if (all && out.combinations > double(mostSweepPoints))
    return fail(fmt::format("{:.0f} combinations are too many: at most {} are run one by one. A sample of a stated "
                            "number (\"sample\": 256) is spread well over them.",
                            out.combinations, mostSweepPoints),
                variation.sweep().name);
  if (sample > mostSweepPoints)
    return fail(fmt::format("A sample of {} is too large: at most {} are run.", sample, mostSweepPoints),
                variation.sweep().name);
  const std::size_t wanted = all ? std::size_t(out.combinations) : sample;
  std::set<std::vector<std::size_t>> seen;
  const auto take = [&](const std::vector<std::size_t>& at) {
    if (!seen.insert(at).second) return;
    VaryPoint point;
    for (std::size_t k = 0; k < at.size(); ++k) point.push_back(values[k][at[k]]);
    if (variation.allowed(point))
      out.points.push_back(at);
    else
      ++out.leftOut;
  };
  boost::random::sobol sequence(values.size());
  const double range = double(sequence.max()) + 1;
  // Whole grids are met by the sequence late: what it leaves is taken in order. Samples stop when nothing new comes.
  const std::size_t most = 64 + 24 * wanted;
  std::vector<std::size_t> at(values.size());
  for (std::size_t k = 0; k < most && (all ? seen.size() < wanted : out.points.size() < wanted); ++k) {
    for (std::size_t j = 0; j < values.size(); ++j)
      at[j] = std::min(values[j].size() - 1, std::size_t(double(sequence()) / range * double(values[j].size())));
    take(at);
  }
  if (all) {
    std::fill(at.begin(), at.end(), 0);
    for (bool more = true; more;) {
      take(at);
      more = false;
      for (std::size_t j = at.size(); j-- > 0 && !more;) {
        more = ++at[j] < values[j].size();
        if (!more) at[j] = 0;
      }
    }
  }
  if (out.points.empty())
    return fail(fmt::format("No combination keeps the conditions: {} were looked at.", out.leftOut),
                variation.sweep().name);
  return out;
}

} // namespace noonward
