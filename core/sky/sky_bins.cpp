#include "core/sky/sky_bins.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {
constexpr std::array<int, 14> cells{60, 60, 60, 60, 48, 48, 48, 48, 36, 36, 24, 24, 12, 12}; // rows of 6°
constexpr std::size_t first(std::size_t row) {
  std::size_t n = 0;
  for (std::size_t r = 0; r < row; ++r) n += std::size_t(cells[r]);
  return n;
}
static_assert(first(cells.size()) + 1 == SkyBins::count);

struct Cell {
  double low, high, azimuth, width; ///< rad
};
Cell cellOf(std::size_t bin) {
  std::size_t row = 0;
  while (row < cells.size() && bin >= std::size_t(cells[row])) bin -= std::size_t(cells[row++]);
  if (row == cells.size()) return {radians(84), pi / 2, 0, 2 * pi};
  const double width = 2 * pi / cells[row];
  return {radians(6.0 * double(row)), radians(6.0 * double(row + 1)), width * double(bin), width};
}
Vec3 toward(double sine, double azimuth) {
  const double c = std::sqrt(std::max(0.0, 1 - sine * sine));
  return {std::sin(azimuth) * c, std::cos(azimuth) * c, sine};
}
} // namespace

std::size_t SkyBins::of(Vec3 d) {
  const double altitude = degrees(std::asin(std::clamp(d.z, 0.0, 1.0)));
  const auto row = std::size_t(altitude / 6);
  if (row >= cells.size()) return count - 1;
  const double azimuth = wrapTwoPi(std::atan2(d.x, d.y));
  return first(row) + std::min(std::size_t(cells[row]) - 1, std::size_t(azimuth / (2 * pi) * cells[row]));
}

double SkyBins::solidAngle(std::size_t bin) {
  const Cell c = cellOf(bin);
  return c.width * (std::sin(c.high) - std::sin(c.low));
}

Vec3 SkyBins::middle(std::size_t bin) {
  if (bin + 1 == count) return {0, 0, 1};
  const Cell c = cellOf(bin);
  return toward(0.5 * (std::sin(c.low) + std::sin(c.high)), c.azimuth + c.width / 2);
}

Vec3 SkyBins::at(std::size_t bin, double u, double v) {
  const Cell c = cellOf(bin);
  const double a = std::sin(c.low), b = std::sin(c.high);
  return toward(a + (b - a) * u, c.azimuth + c.width * v);
}

bool SkyBins::nextIsBeside(std::size_t bin) {
  return bin + 1 < count && cellOf(bin).low == cellOf(bin + 1).low;
}

double SkyBins::mean(std::size_t bin, const std::function<double(Vec3)>& f, int cuts) {
  const Cell c = cellOf(bin);
  const double a = std::sin(c.low), b = std::sin(c.high);
  double sum = 0;
  for (int i = 0; i < cuts; ++i)
    for (int j = 0; j < cuts; ++j)
      sum += f(toward(a + (b - a) * (i + 0.5) / cuts, c.azimuth + c.width * (j + 0.5) / cuts));
  return sum / (cuts * cuts);
}

} // namespace noonward
