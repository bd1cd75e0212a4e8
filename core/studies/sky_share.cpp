#include "core/studies/sky_share.h"
#include "core/light/sampler.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {

/// Directions gathered into packets of eight and sent.
class Packets {
public:
  Packets(const LightScene& scene, Vec3 at, Vec3 normal) : scene_(scene), at_(at), normal_(normal) {}
  /// Calls told(tag, share open) for each, once its packet is full or flush() is called.
  template <class Told> void send(Vec3 d, std::uint32_t tag, Told&& told) {
    // A part of the patch lies behind the surface: what stands in front of the other part is asked, at its mirror
    // image.
    if (const double c = dot(d, normal_); c <= 0) {
      d = d - normal_ * (2 * c);
      if (d.z <= 1e-3) d = normalized(Vec3{d.x, d.y, 1e-3});
    }
    rays_.x[n_] = float(d.x);
    rays_.y[n_] = float(d.y);
    rays_.z[n_] = float(d.z);
    rays_.active[n_] = -1;
    tags_[std::size_t(n_++)] = tag;
    if (n_ == 8) flush(told);
  }
  template <class Told> void flush(Told&& told) {
    if (n_ == 0) return;
    for (int i = n_; i < 8; ++i) {
      rays_.x[i] = rays_.x[0];
      rays_.y[i] = rays_.y[0];
      rays_.z[i] = rays_.z[0];
      rays_.active[i] = 0;
    }
    const std::array<double, 8> open = scene_.open8(at_, rays_);
    sent_ += std::uint32_t(n_);
    for (int i = 0; i < n_; ++i) told(tags_[std::size_t(i)], open[std::size_t(i)]);
    n_ = 0;
  }
  std::uint32_t sent() const { return sent_; }

private:
  const LightScene& scene_;
  Vec3 at_, normal_;
  Rays8 rays_{};
  std::array<std::uint32_t, 8> tags_{};
  int n_ = 0;
  std::uint32_t sent_ = 0;
};

} // namespace

SkyShare::SkyShare(const std::function<double(Vec3)>& luminance, std::uint64_t seed) : neighbours_(SkyBins::count) {
  for (std::size_t b = 0; b < SkyBins::count; ++b)
    for (int i = 0; i < cuts; ++i)
      for (int j = 0; j < cuts; ++j) {
        const Vec3 d = SkyBins::at(b, (i + 0.5) / cuts, (j + 0.5) / cuts);
        px_.push_back(float(d.x));
        py_.push_back(float(d.y));
        pz_.push_back(float(d.z));
        pl_.push_back(float(luminance(d) * SkyBins::solidAngle(b) / cells));
      }
  // Beside each other: an edge of one, looked at a little outside, lies in the other.
  for (std::size_t b = 0; b < SkyBins::count; ++b) {
    std::vector<std::uint16_t>& list = neighbours_[b];
    for (const auto& [u, v] :
         {std::pair{-0.05, 0.25}, {-0.05, 0.75}, {1.05, 0.25}, {1.05, 0.75}, {0.5, -0.05}, {0.5, 1.05}}) {
      const Vec3 d = SkyBins::at(b, u, v);
      if (!(d.z > 0)) continue;
      const auto other = std::uint16_t(SkyBins::of(d));
      if (other != b) list.push_back(other);
    }
    if (b + 1 == SkyBins::count) // the cap has the whole row below it
      for (std::size_t o = 0; o + 1 < SkyBins::count; ++o)
        if (SkyBins::middle(o).z > std::sin(radians(78))) list.push_back(std::uint16_t(o));
    std::sort(list.begin(), list.end());
    list.erase(std::unique(list.begin(), list.end()), list.end());
  }
  const auto bank = [&](std::vector<std::vector<Vec3>>& into, std::size_t count, int each, std::uint64_t key) {
    for (std::size_t set = 0; set < count; ++set) {
      HashStream random(mixed(seed ^ (key + set)));
      std::vector<Vec3> list;
      for (std::size_t b = 0; b < SkyBins::count; ++b)
        for (int i = 0; i < each; ++i)
          for (int j = 0; j < each; ++j) {
            const double u = random.next(), v = random.next();
            list.push_back(SkyBins::at(b, (i + u) / each, (j + v) / each));
          }
      into.push_back(std::move(list));
    }
  };
  bank(first_, firsts, 1, 0x11f1e57ull);
  bank(second_, seconds, cuts, 0x5ec0dull);
}

void SkyShare::weigh(Vec3 n, std::array<float, SkyBins::count>& weights) const {
  const float nx = float(n.x), ny = float(n.y), nz = float(n.z);
  for (std::size_t b = 0; b < SkyBins::count; ++b) {
    float sum = 0;
    for (std::size_t k = b * cells; k < (b + 1) * cells; ++k)
      sum += pl_[k] * std::max(0.0f, nx * px_[k] + ny * py_[k] + nz * pz_[k]);
    weights[b] = sum;
  }
}

SkyShare::Seen SkyShare::at(const LightScene& scene, Vec3 at, Vec3 normal, std::uint64_t key,
                            const std::function<double(double)>& wanted, std::size_t most) const {
  std::array<float, SkyBins::count> weights, look;
  std::array<std::uint8_t, SkyBins::count> edge;
  weigh(normal, weights);
  Seen out;
  for (float w : weights) out.open += double(w);
  if (!(out.open > 0)) return out;
  const std::uint64_t own = mixed(key);
  Packets packets(scene, at, normal);
  // ---- where are the edges?
  look.fill(-1); // not in front
  const std::vector<Vec3>& one = first_[own % firsts];
  const auto seenFirst = [&](std::uint32_t b, double open) { look[b] = float(open); };
  for (std::size_t b = 0; b < SkyBins::count; ++b)
    if (weights[b] > 0) packets.send(one[b], std::uint32_t(b), seenFirst);
  packets.flush(seenFirst);
  edge.fill(0);
  for (std::size_t b = 0; b < SkyBins::count; ++b) {
    if (!(weights[b] > 0)) continue;
    if (look[b] > 0 && look[b] < 1) edge[b] = 1; // glass there
    for (std::uint16_t o : neighbours_[b])
      if (weights[o] > 0 && look[o] != look[b]) edge[b] = 1;
  }
  int parts = cells;                                           // looked at in a patch at the edge
  const auto smallest = [&] { return leastError * out.open; }; // what is too small for any ray of these to meet
  {
    double sum = 0, square = 0;
    std::size_t last = ~std::size_t{0};
    for (std::size_t b = 0; b < SkyBins::count; ++b) {
      const double w = double(weights[b]);
      if (!(w > 0)) continue;
      sum += w * double(look[b]);
      if (last != ~std::size_t{0}) {
        square += std::pow((w + double(weights[last])) / 2 * (double(look[b]) - double(look[last])), 2);
        last = ~std::size_t{0};
      } else {
        last = b;
      }
    }
    out.value = sum;
    out.error = std::hypot(std::sqrt(square), smallest());
    out.rays = packets.sent();
    if (sum > 0 && (out.error <= wanted(sum) || out.rays >= most)) return out;
    if (sum > 0 && out.error <= 3 * wanted(sum)) parts = 4; // nearly there: a cell of each quarter is enough
  }
  // ---- how much of each is open?
  std::array<float, SkyBins::count * cells> sum, squares; // by cell, over the looks; of a calm patch the first alone
  sum.fill(0);
  squares.fill(0);
  const auto told = [&](std::uint32_t k, double open) {
    sum[k] += float(open);
    squares[k] += float(open * open);
  };
  for (int looks = 1; looks <= mostLooks; ++looks) {
    const std::vector<Vec3>& many = second_[(own / firsts + std::uint64_t(looks)) % seconds];
    const std::uint64_t pick = mixed(own + std::uint64_t(looks));
    for (std::size_t b = 0; b < SkyBins::count; ++b) {
      if (!(weights[b] > 0)) continue;
      if (edge[b] && parts == cells)
        for (std::size_t k = b * cells; k < (b + 1) * cells; ++k) packets.send(many[k], std::uint32_t(k), told);
      else if (edge[b])
        for (std::size_t q = 0; q < 4; ++q) { // any cell of each quarter
          const std::uint64_t any = mixed(pick ^ (4 * b + q + 0x9000));
          const std::size_t row = 2 * (q / 2) + (any & 1), column = 2 * (q % 2) + (any >> 1 & 1);
          packets.send(many[b * cells + row * cuts + column], std::uint32_t(b * cells + q), told);
        }
      else // any of its cells
        packets.send(many[b * cells + (mixed(pick ^ b) & (cells - 1))], std::uint32_t(b * cells), told);
    }
    packets.flush(told);
    if (looks < 2) continue; // the spread within a cell takes two
    double value = 0, square = 0;
    const double n = looks;
    for (std::size_t b = 0; b < SkyBins::count; ++b) {
      const double w = double(weights[b]);
      if (!(w > 0)) continue;
      const auto n1 = std::size_t(edge[b] ? parts : 1);
      double open = 0, spread = 0;
      for (std::size_t k = b * cells; k < b * cells + n1; ++k) {
        const double s = double(sum[k]);
        open += s;
        spread += std::max(0.0, double(squares[k]) - s * s / n);
      }
      value += w * open / (n * double(n1));
      square += w * w * spread / ((n - 1) * n * double(n1 * n1));
    }
    out.value = value;
    out.error = std::hypot(caution * std::sqrt(square), smallest());
    if (out.error <= wanted(value) || packets.sent() >= most) break;
  }
  out.rays = packets.sent();
  if (!(out.value > 0)) out.error = 1.5 / double(std::max(1u, out.rays)) * out.open; // 3 in n at 95 %
  return out;
}

} // namespace noonward
