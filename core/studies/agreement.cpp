#include "core/studies/agreement.h"
#include <algorithm>
#include <cmath>
#include <limits>

namespace noonward {

Agreement agreement(std::span<const double> m, std::span<const double> o) {
  constexpr double none = std::numeric_limits<double>::quiet_NaN();
  Agreement a;
  const std::size_t pairs = std::min(m.size(), o.size());
  const auto counts = [&](std::size_t i) { return std::isfinite(m[i]) && std::isfinite(o[i]); };
  double sumM = 0, sumO = 0;
  for (std::size_t i = 0; i < pairs; ++i)
    if (counts(i)) {
      ++a.n;
      sumM += m[i];
      sumO += o[i];
    }
  a.leftOut = std::max(m.size(), o.size()) - a.n;
  if (a.n == 0) {
    a.meanModelled = a.meanObserved = a.mbe = a.rmse = a.nmbe = a.cvRmse = a.r2 = a.slope = none;
    return a;
  }
  const double n = double(a.n);
  a.meanModelled = sumM / n;
  a.meanObserved = sumO / n;
  double square = 0, mm = 0, oo = 0, mo = 0, rawMo = 0, rawOo = 0; // about the means, so that large values lose nothing
  for (std::size_t i = 0; i < pairs; ++i)
    if (counts(i)) {
      const double d = m[i] - o[i], x = m[i] - a.meanModelled, y = o[i] - a.meanObserved;
      square += d * d;
      mm += x * x;
      oo += y * y;
      mo += x * y;
      rawMo += m[i] * o[i];
      rawOo += o[i] * o[i];
    }
  a.mbe = a.meanModelled - a.meanObserved;
  a.rmse = std::sqrt(square / n);
  a.nmbe = a.meanObserved != 0 ? a.mbe / a.meanObserved : none;
  a.cvRmse = a.meanObserved != 0 ? a.rmse / a.meanObserved : none;
  a.r2 = mm > 0 && oo > 0 ? mo * mo / (mm * oo) : none;
  a.slope = rawOo > 0 ? rawMo / rawOo : none;
  return a;
}

} // namespace noonward
