#include "core/studies/year_space.h"
#include "core/studies/hourly_sky.h"
#include <algorithm>
#include <cmath>

namespace noonward {

YearSpace::YearSpace(const YearInput& in, std::size_t space, Threads threads)
    : in_(in), space_(space), g_(in.sensors.groups[space]), threads_(threads), hours_(in.sky->hours.size()), n_(g_.count) {
  for (std::uint32_t k = 1; k < in.groups.size(); ++k)
    if (g_.room >= 0 ? in.groups[k].room == g_.room : in.groups[k].room < 0) groups_.push_back(k);
  if (groups_.size() > 250) groups_.resize(250);
  if (g_.room >= 0) kept_ = float(in.settings.glassKept); // sensors outdoors look through no glass
}

namespace {
/// A quarter of the work first: soon a picture of every room, and often enough for a verdict.
std::array<int, 2> inRounds(double whole, int least) {
  const int all = std::clamp(int(whole), 4 * least, 1 << 16), first = all / 4;
  return {first, all - first};
}
double effort(const YearSettings& s) { return std::pow(0.03 / s.error, 2); }
} // namespace

std::array<int, 2> YearSpace::paths() const { return inRounds(256 * effort(in_.settings), 8); }

bool YearSpace::trace(KeptCoefficients& kept, int rounds, AimShelf& aims, RunControl& control) {
  constexpr std::size_t batches = KeptCoefficients::batches;
  SpaceKept& s = kept.spaces[space_];
  const std::array<int, 2> sensorPaths = paths(), patchPaths = inRounds(8 * effort(in_.settings), 1);
  while (s.batches.size() < batches * std::size_t(rounds)) {
    if (!s.seen) s.seen = surfacesSeen(*in_.scene, in_.sensors, space_, in_.settings.seed, threads_);
    const std::size_t b = s.batches.size(), round = b / batches;
    auto c = spaceCoefficients({in_.scene.get(), &in_.sensors, space_, groups_, in_.settings.seed, sensorPaths[round], patchPaths[round]}, std::uint32_t(b), *s.seen, aims, control, threads_);
    if (!c) return false;
    s.batches.push_back(std::move(*c));
  }
  if (s.batches.size() == 2 * batches) s.seen.reset();
  return true;
}

std::vector<YearSpace::Weighted> YearSpace::weighted(const KeptCoefficients& kept, int rounds, std::optional<std::size_t> batch) const {
  constexpr std::size_t batches = KeptCoefficients::batches;
  const std::array<int, 2> each = paths();
  const float all = float(rounds > 1 ? each[0] + each[1] : each[0]) * float(batch ? 1 : batches);
  std::vector<Weighted> out;
  for (std::size_t b = 0; b < batches * std::size_t(rounds); ++b)
    if (!batch || b % batches == *batch) out.push_back({&kept.spaces[space_].batches[b], float(each[b / batches]) / all});
  return out;
}

bool YearSpace::takeBeam(KeptCoefficients& kept, RunControl& control) {
  SpaceKept& s = kept.spaces[space_];
  if (s.beam.size() != n_ * hours_) {
    std::vector<float> share(n_ * hours_, 0);
    std::vector<std::uint8_t> through(n_ * hours_, 0), local(in_.groups.size(), std::uint8_t(groups_.size()));
    for (std::size_t k = 0; k < groups_.size(); ++k) local[groups_[k]] = std::uint8_t(k);
    const std::size_t done = forChunks(n_, 2, threads_, [&](std::size_t a, std::size_t b) {
      for (std::size_t i = a; i < b; ++i) {
        const Sensor& sensor = in_.sensors.sensors[g_.first + i];
        for (std::size_t h = 0; h < hours_; ++h) {
          if (!(in_.sky->beam[h] > 0)) continue;
          const BeamShare got = beamAt(*in_.scene, sensor.position, sensor.normalVector(), in_.sky->sun[h]);
          if (!(got.share > 0)) continue;
          share[i * hours_ + h] = float(got.share);
          through[i * hours_ + h] = local[got.group];
        }
      }
    }, [&] { return control.goesOn(); });
    if (done != (n_ + 1) / 2) return false;
    s.beam = std::move(share);
    s.through = std::move(through);
  }
  share_ = &s.beam;
  through_ = &s.through;
  return true;
}

void YearSpace::workBlinds(KeptCoefficients& kept) {
  const YearSettings& set = in_.settings;
  closed_.assign(hours_ * groups_.size(), set.blinds == BlindRule::Always);
  if (set.blinds == BlindRule::Schedule)
    for (std::size_t h = 0; h < hours_; ++h)
      if (in_.shut[in_.sky->hours[h]]) std::fill_n(closed_.begin() + std::ptrdiff_t(h * groups_.size()), groups_.size(), true);
  if (set.blinds == BlindRule::Irradiance)
    for (std::size_t k = 0; k < groups_.size(); ++k) {
      Eigen::VectorXf& pane = kept.panesOutside[groups_[k]];
      if (pane.size() == 0) pane = paneCoefficients(*in_.scene, groups_[k], set.seed, 1 << 13, threads_, true);
      const Eigen::RowVectorXf sky = pane.transpose() * in_.sky->luminance;
      forChunks(hours_, 64, threads_, [&](std::size_t first, std::size_t last) {
        for (std::size_t h = first; h < last; ++h) {
          double w = in_.sky->diffuseEfficacy[h] > 0 ? double(sky[Eigen::Index(h)] / in_.sky->diffuseEfficacy[h]) : 0;
          if (in_.sky->beamIrradiance[h] > 0) w += beamOnPanes(k, h, false) * double(in_.sky->beamIrradiance[h]);
          closed_[h * groups_.size() + k] = w >= set.closesAtIrradiance;
        }
      });
    }
  if (set.blinds != BlindRule::Standard) return;
  std::vector<std::size_t> hit(groups_.size() + 1);
  for (std::size_t h = 0; h < hours_; ++h) {
    if (!(in_.sky->beam[h] > 0)) continue;
    std::fill(hit.begin(), hit.end(), 0);
    for (std::size_t i = 0; i < n_; ++i)
      if (double(beam(i, h)) >= set.closesAt) ++hit[through(i, h)];
    for (std::size_t k = 0; k < groups_.size(); ++k) closed_[h * groups_.size() + k] = double(hit[k]) > set.closesAbove * double(n_);
  }
}

double YearSpace::beamOnPanes(std::size_t k, std::size_t h, bool throughGlass) const {
  const Vec3 s = in_.sky->sun[h];
  double beam = 0, area = 0;
  for (const LightScene::Piece& p : in_.scene->pieces()) {
    if (p.group != groups_[k]) continue;
    area += p.area;
    const double c = dot(p.normal, s);
    if (c <= 0) continue;
    beam += beamAt(*in_.scene, p.center() + p.normal * 1e-3, p.normal, s).share * (throughGlass ? in_.scene->optics(p.optics).straight(c) : 1) * p.area;
  }
  return area > 0 ? beam / area : 0;
}

void YearSpace::lightBehind(KeptCoefficients& kept) {
  behind_.assign(groups_.size(), {});
  for (std::size_t k = 0; k < groups_.size(); ++k) {
    bool ever = false;
    for (std::size_t h = 0; h < hours_ && !ever; ++h) ever = closed(h, k);
    if (!ever) continue;
    Eigen::VectorXf& pane = kept.panes[groups_[k]];
    if (pane.size() == 0) pane = paneCoefficients(*in_.scene, groups_[k], in_.settings.seed, 1 << 14, threads_);
    behind_[k] = behindPanes(k, pane);
  }
}

/// Light that a group's closed cloth takes in, lx, hour by hour.
std::vector<float> YearSpace::behindPanes(std::size_t k, const Eigen::VectorXf& pane) const {
  std::vector<float> out(hours_, 0);
  const Eigen::RowVectorXf sky = pane.transpose() * in_.sky->luminance;
  forChunks(hours_, 64, threads_, [&](std::size_t first, std::size_t last) {
    for (std::size_t h = first; h < last; ++h) {
      if (!closed(h, k)) continue;
      const double beam = in_.sky->beam[h] > 0 ? beamOnPanes(k, h, true) : 0;
      out[h] = sky[Eigen::Index(h)] + float(beam) * in_.sky->beam[h];
    }
  });
  return out;
}

Eigen::MatrixXf YearSpace::illuminance(const std::vector<Weighted>& of, std::size_t every) const {
  std::vector<Eigen::Index> picked;
  for (std::size_t h = 0; h < hours_; h += every) picked.push_back(Eigen::Index(h));
  const auto count = Eigen::Index(picked.size());
  Eigen::MatrixXf sky;
  if (every > 1) {
    sky.resize(in_.sky->luminance.rows(), count);
    for (Eigen::Index k = 0; k < count; ++k) sky.col(k) = in_.sky->luminance.col(picked[std::size_t(k)]);
  }
  const Eigen::MatrixXf& l = every > 1 ? sky : in_.sky->luminance;
  Eigen::SparseMatrix<float> spread = in_.sky->spreadBeam;
  if (every > 1) {
    spread.resize(in_.sky->spreadBeam.rows(), count);
    for (Eigen::Index k = 0; k < count; ++k) spread.col(k) = in_.sky->spreadBeam.col(picked[std::size_t(k)]);
  }
  Eigen::MatrixXf out = Eigen::MatrixXf::Zero(Eigen::Index(n_), count);
  for (std::size_t part = 0; part <= groups_.size(); ++part) {
    Eigen::MatrixXf all = Eigen::MatrixXf::Zero(Eigen::Index(n_), Eigen::Index(SkyBins::count)), reflected = all;
    for (const Weighted& w : of) {
      all += kept_ * w.weight * w.coefficients->all[part];
      reflected += kept_ * w.weight * w.coefficients->reflected[part];
    }
    if (part == groups_.size() && all.isZero(0) && reflected.isZero(0)) { // nothing comes past the windows; so does no beam
      bool past = false;
      for (std::size_t i = 0; i < n_ && !past; ++i)
        for (std::size_t h = 0; h < hours_ && !past; ++h) past = through(i, h) == part && beam(i, h) > 0;
      if (!past) continue;
    }
    const Eigen::MatrixXf sunlit = reflected * spread;
    // Blocks of hours: fixed, so that sums keep their order whoever computes them.
    const std::size_t block = 128, blocks = (std::size_t(count) + block - 1) / block;
    forChunks(blocks, 1, threads_, [&](std::size_t a, std::size_t b) {
      for (std::size_t k = a; k < b; ++k) {
        const auto first = Eigen::Index(k * block), size = std::min<Eigen::Index>(Eigen::Index(block), count - first);
        Eigen::MatrixXf e = all * l.middleCols(first, size);
        for (Eigen::Index c = 0; c < size; ++c) {
          const auto h = std::size_t(picked[std::size_t(first + c)]);
          const float sun = in_.sky->beam[h];
          if (sun > 0) e.col(c) += sunlit.col(first + c);
          const bool shut = part < groups_.size() && closed(h, part);
          if (!shut) {
            for (std::size_t i = 0; sun > 0 && i < n_; ++i)
              if (through(i, h) == part) e(Eigen::Index(i), c) += beam(i, h);
          } else {
            e.col(c) *= float(in_.settings.clothStraight);
            const float luminance = float(in_.settings.clothScattered / pi) * behind_[part][h];
            for (const Weighted& w : of) e.col(c) += w.coefficients->pane.col(Eigen::Index(part)) * (kept_ * w.weight * luminance);
          }
          out.col(first + c) += e.col(c);
        }
      }
    });
  }
  return out;
}

std::size_t YearSpace::beamHours(std::size_t i) const {
  std::size_t n = 0;
  for (std::size_t h = 0; h < hours_; ++h) n += in_.mask[in_.sky->hours[h]] && double(beam(i, h)) >= in_.settings.metrics.beam;
  return n;
}

std::size_t YearSpace::closedHours(std::size_t k) const {
  std::size_t n = 0;
  for (std::size_t h = 0; h < hours_; ++h) n += in_.mask[in_.sky->hours[h]] && closed(h, k);
  return n;
}

} // namespace noonward
