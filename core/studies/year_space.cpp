#include "core/studies/year_space.h"
#include "core/studies/hourly_sky.h"
#include <algorithm>
#include <cmath>

namespace noonward {

YearSpace::YearSpace(const YearInput& in, std::size_t space, Threads threads)
    : in_(in), space_(space), g_(in.sensors.groups[space]), threads_(threads), hours_(in.sky->hours.size()),
      n_(g_.count) {
  for (std::uint32_t k = 1; k < in.groups.size(); ++k)
    if (g_.room >= 0 ? in.groups[k].room == g_.room : in.groups[k].room < 0) groups_.push_back(k);
  require(groups_.size() <= 250, "yearFacts() refuses more groups");
  if (g_.room >= 0) kept_ = float(in.settings.glassKept); // sensors outdoors look through no glass
}

namespace {
/// A quarter of the work first: soon a picture of every room, and often enough for a verdict.
std::array<int, 2> inRounds(double whole, int least) {
  const int all = std::clamp(int(whole), 4 * least, 1 << 16), first = all / 4;
  return {first, all - first};
}
double effort(const YearSettings& s) {
  return std::pow(0.03 / s.error, 2);
}
} // namespace

std::array<int, 2> YearSpace::paths() const {
  return inRounds(256 * effort(in_.settings), 8);
}

bool YearSpace::trace(KeptCoefficients& kept, int rounds, AimShelf& aims, RunControl& control) {
  constexpr std::size_t batches = KeptCoefficients::batches;
  SpaceKept& s = kept.spaces[space_];
  const std::array<int, 2> sensorPaths = paths(), patchPaths = inRounds(8 * effort(in_.settings), 1);
  while (s.batches.size() < batches * std::size_t(rounds)) {
    if (!s.seen) { // kept for a later run, which has a scene of its own: this one stays as long as its surfaces are
                   // asked for
      struct Held {
        std::shared_ptr<const LightScene> scene;
        std::shared_ptr<const SurfacesSeen> seen;
      };
      auto held = std::make_shared<Held>(
          Held{in_.scene, surfacesSeen(*in_.scene, in_.sensors, space_, in_.settings.seed, threads_)});
      s.seen = {held, held->seen.get()};
    }
    const std::size_t b = s.batches.size(), round = b / batches;
    auto c = spaceCoefficients(
        {in_.scene.get(), &in_.sensors, space_, groups_, in_.settings.seed, sensorPaths[round], patchPaths[round]},
        std::uint32_t(b), *s.seen, aims, control, threads_);
    if (!c) return false;
    s.batches.push_back(std::move(*c));
  }
  if (s.batches.size() == 2 * batches) s.seen.reset();
  return true;
}

std::vector<YearSpace::Weighted> YearSpace::weighted(const KeptCoefficients& kept, int rounds,
                                                     std::optional<std::size_t> batch) const {
  constexpr std::size_t batches = KeptCoefficients::batches;
  const std::array<int, 2> each = paths();
  const float all = float(rounds > 1 ? each[0] + each[1] : each[0]) * float(batch ? 1 : batches);
  std::vector<Weighted> out;
  for (std::size_t b = 0; b < batches * std::size_t(rounds); ++b)
    if (!batch || b % batches == *batch)
      out.push_back({&kept.spaces[space_].batches[b], float(each[b / batches]) / all});
  return out;
}

bool YearSpace::takeBeam(KeptCoefficients& kept, RunControl& control) {
  return takeBeam(kept, control, nullptr);
}
bool YearSpace::takeBeam(KeptCoefficients& kept, RunControl& control, const SunOfHour& suns) {
  return takeBeam(kept, control, &suns);
}

bool YearSpace::takeBeam(KeptCoefficients& kept, RunControl& control, const SunOfHour* suns) {
  SpaceKept& s = kept.spaces[space_];
  if (s.beam.size() != n_ * hours_) {
    std::vector<float> share(n_ * hours_, 0);
    std::vector<std::uint8_t> through(n_ * hours_, 0), local(in_.groups.size(), std::uint8_t(groups_.size()));
    for (std::size_t k = 0; k < groups_.size(); ++k) local[groups_[k]] = std::uint8_t(k);
    const auto ask = [&](std::size_t i, std::size_t h, Vec3 sun) {
      const Sensor& sensor = in_.sensors.sensors[g_.first + i];
      const BeamShare got = beamAt(*in_.scene, sensor.position, sensor.normalVector(), sun);
      if (!(got.share > 0)) return;
      share[i * hours_ + h] = float(got.share);
      through[i * hours_ + h] = local[got.group];
    };
    const auto askTogether = [&](std::size_t i) {
      const std::vector<bool> none = shaded(in_.sensors.sensors[g_.first + i], *suns);
      for (std::size_t h = 0; h < hours_; ++h)
        if ((*suns)[h] == h && !none[h]) ask(i, h, in_.sky->sun[h]);
      for (std::size_t h = 0; h < hours_; ++h)
        if (const std::uint32_t of = (*suns)[h]; of != notAsked && of != h) {
          share[i * hours_ + h] = share[i * hours_ + of];
          through[i * hours_ + h] = through[i * hours_ + of];
        }
    };
    const std::size_t done = forChunks(
        n_, 2, threads_,
        [&](std::size_t a, std::size_t b) {
          for (std::size_t i = a; i < b; ++i) {
            if (suns) {
              askTogether(i);
              continue;
            }
            for (std::size_t h = 0; h < hours_; ++h)
              if (in_.sky->beam[h] > 0) ask(i, h, in_.sky->sun[h]);
          }
        },
        [&] { return control.goesOn(); });
    if (done != (n_ + 1) / 2) return false;
    s.beam = std::move(share);
    s.through = std::move(through);
    s.litFrom.clear();
  }
  if (s.litFrom.empty()) {
    s.lit.clear();
    s.litFrom.assign(hours_ + 1, 0);
    for (std::size_t i = 0; i < n_; ++i)
      for (std::size_t h = 0; h < hours_; ++h) s.litFrom[h + 1] += s.beam[i * hours_ + h] > 0;
    for (std::size_t h = 0; h < hours_; ++h) s.litFrom[h + 1] += s.litFrom[h];
    s.lit.resize(s.litFrom[hours_]);
    std::vector<std::uint32_t> next(s.litFrom.begin(), s.litFrom.end() - 1);
    for (std::size_t i = 0; i < n_; ++i)
      for (std::size_t h = 0; h < hours_; ++h)
        if (s.beam[i * hours_ + h] > 0) s.lit[next[h]++] = std::uint32_t(i);
  }
  lit_ = &s;
  share_ = &s.beam;
  through_ = &s.through;
  return true;
}

YearSpace::SunOfHour YearSpace::sunsTogether(const HourlySky& sky, const std::vector<std::uint32_t>& wanted) {
  SunOfHour out(sky.hours.size(), notAsked);
  std::array<std::vector<std::uint32_t>, 24> byHour;
  for (std::uint32_t h : wanted)
    if (sky.beam[h] > 0) byHour[sky.hours[h] % 24].push_back(h);
  const double least = std::cos(0.25 * radiansPerDegree);
  for (const auto& days : byHour)
    for (std::size_t from = 0; from < days.size();) {
      std::size_t middle = from, to = from + 1;
      for (; to < days.size(); ++to) { // along one way: the ends are what lies furthest from a middle
        const std::size_t next = (from + to) / 2;
        if (dot(sky.sun[days[from]], sky.sun[days[next]]) < least ||
            dot(sky.sun[days[to]], sky.sun[days[next]]) < least)
          break;
        middle = next;
      }
      for (std::size_t k = from; k < to; ++k)
        out[days[k]] = dot(sky.sun[days[k]], sky.sun[days[middle]]) >= least ? days[middle] : days[k];
      from = to;
    }
  return out;
}

std::vector<bool> YearSpace::shaded(const Sensor& sensor, const SunOfHour& suns) const {
  std::vector<bool> out(hours_, true);
  const Vec3 n = sensor.normalVector(), o = sensor.position + n * LightPaths<int>::offset(sensor.position);
  Rays8 rays{};
  std::array<std::size_t, 8> hour{};
  int lanes = 0;
  const auto send = [&] {
    for (int k = 0; k < 8; ++k) rays.active[k] = k < lanes ? -1 : 0;
    const std::array<double, 8> open = in_.scene->open8(o, rays);
    for (int k = 0; k < lanes; ++k) out[hour[std::size_t(k)]] = !(open[std::size_t(k)] > 0);
    lanes = 0;
  };
  for (std::size_t h = 0; h < hours_; ++h) {
    const Vec3 sun = in_.sky->sun[h];
    if (suns[h] != h || dot(n, sun) <= 0 || sun.z <= 0) continue;
    hour[std::size_t(lanes)] = h;
    rays.x[lanes] = float(sun.x);
    rays.y[lanes] = float(sun.y);
    rays.z[lanes] = float(sun.z);
    if (++lanes == 8) send();
  }
  if (lanes > 0) send();
  return out;
}

void YearSpace::takeBlinds(const YearSpace& other) {
  require(other.groups_ == groups_ && other.hours_ == hours_, "takeBlinds: the same windows and hours");
  closed_ = other.closed_;
  behind_ = other.behind_;
}

void YearSpace::leaveOpen() {
  closed_.assign(hours_ * groups_.size(), 0);
  behind_.assign(groups_.size(), {});
}

void YearSpace::workBlinds(KeptCoefficients& kept) {
  const YearSettings& set = in_.settings;
  const std::size_t groups = groups_.size();
  closed_.assign(hours_ * groups, false);
  std::vector<BlindRule> rules;
  for (std::uint32_t g : groups_) rules.push_back(set.blindsOf(in_.groups[g].key));
  const auto of = [&](BlindRule rule) { return std::find(rules.begin(), rules.end(), rule) != rules.end(); };
  for (std::size_t k = 0; k < groups; ++k) {
    if (rules[k] == BlindRule::Always || rules[k] == BlindRule::Schedule)
      for (std::size_t h = 0; h < hours_; ++h)
        closed_[h * groups + k] = rules[k] == BlindRule::Always || in_.shut[in_.sky->hours[h]];
    if (rules[k] == BlindRule::Glare && groups_[k] < kept.glareShut.size()) {
      const auto& shut = kept.glareShut[groups_[k]];
      for (std::size_t h = 0; h < shut.size(); ++h) closed_[h * groups + k] = shut[h];
    }
    if (rules[k] != BlindRule::Irradiance) continue;
    PaneLight& pane = kept.panesOutside[groups_[k]];
    if (pane.all.size() == 0) pane = paneCoefficients(*in_.scene, groups_[k], set.seed, 1 << 13, threads_, true);
    const Eigen::RowVectorXf sky = pane.all.transpose() * in_.sky->luminance,
                             thrown = pane.reflected.transpose() * in_.sky->spreadBeam;
    forChunks(hours_, 64, threads_, [&](std::size_t first, std::size_t last) {
      for (std::size_t h = first; h < last; ++h) {
        double w = in_.sky->diffuseEfficacy[h] > 0 ? double(sky[Eigen::Index(h)] / in_.sky->diffuseEfficacy[h]) : 0;
        if (in_.sky->beamIrradiance[h] > 0)
          w += (beamOnPanes(k, h, false) + double(thrown[Eigen::Index(h)] / in_.sky->beam[h])) *
               double(in_.sky->beamIrradiance[h]);
        closed_[h * groups + k] = w >= set.closesAtIrradiance;
      }
    });
  }
  if (!of(BlindRule::Standard)) return;
  std::vector<std::size_t> hit(groups + 1);
  for (std::size_t h = 0; h < hours_; ++h) {
    if (!(in_.sky->beam[h] > 0)) continue;
    std::fill(hit.begin(), hit.end(), 0);
    if (set.closesAt > 0)
      for (std::uint32_t k = lit_->litFrom[h]; k < lit_->litFrom[h + 1]; ++k) {
        const std::size_t i = lit_->lit[k];
        if (double(beam(i, h)) >= set.closesAt) ++hit[through(i, h)];
      }
    else
      for (std::size_t i = 0; i < n_; ++i) ++hit[through(i, h)];
    for (std::size_t k = 0; k < groups; ++k)
      if (rules[k] == BlindRule::Standard) closed_[h * groups + k] = double(hit[k]) > set.closesAbove * double(n_);
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
    beam += beamAt(*in_.scene, p.center() + p.normal * 1e-3, p.normal, s).share *
            (throughGlass ? in_.scene->optics(p.optics).straight(c) + in_.scene->optics(p.optics).scattered(c) : 1) *
            p.area;
  }
  return area > 0 ? beam / area : 0;
}

bool YearSpace::lightBehind(KeptCoefficients& kept, AimShelf& aims, RunControl& control) {
  behind_.assign(groups_.size(), {});
  for (std::size_t k = 0; k < groups_.size(); ++k) {
    bool ever = false;
    for (std::size_t h = 0; h < hours_ && !ever; ++h) ever = closed(h, k);
    if (!ever) continue;
    PaneLight& pane = kept.panes[groups_[k]];
    if (pane.all.size() == 0) pane = paneCoefficients(*in_.scene, groups_[k], in_.settings.seed, 1 << 14, threads_);
    behind_[k] = behindPanes(k, pane);
    for (float& l : behind_[k]) l *= float(in_.settings.fabricDiffuse / pi);
  }
  return !in_.settings.fabricReflectance || g_.room < 0 || reflectOnFabric(kept, aims, control);
}

bool YearSpace::reflectOnFabric(KeptCoefficients& kept, AimShelf& aims, RunControl& control) {
  const std::size_t groups = groups_.size();
  if (std::all_of(behind_.begin(), behind_.end(), [](const auto& b) { return b.empty(); })) return true;
  // The panes' inner faces as sensors: so many a group, spread over its area, and what their open glass reflects
  // already.
  constexpr std::size_t places = 24;
  std::vector<float> more(groups, 0);
  SensorSet panes;
  panes.groups.push_back({});
  panes.groups[0].room = g_.room;
  for (std::size_t k = 0; k < groups; ++k) {
    std::vector<const LightScene::Piece*> pieces;
    std::vector<double> upTo;
    double area = 0, back = 0;
    for (const LightScene::Piece& p : in_.scene->pieces())
      if (p.group == groups_[k]) {
        pieces.push_back(&p);
        upTo.push_back(area += p.area);
        back += p.area * in_.scene->optics(p.optics).hemisphericalBack();
      }
    more[k] = area > 0 ? float(*in_.settings.fabricReflectance - back / area) : 0;
    for (std::size_t i = 0; i < places; ++i) {
      const double at = (double(i) + 0.5) / places * area;
      const auto found = std::size_t(std::lower_bound(upTo.begin(), upTo.end(), at) - upTo.begin());
      if (pieces.empty()) break;
      const LightScene::Piece& p = *pieces[std::min(found, pieces.size() - 1)];
      // Low-discrepancy points in the triangle: the square's R2 sequence folded over its diagonal.
      double u = std::fmod(0.5 + 0.7548776662466927 * double(i + 1), 1.0),
             v = std::fmod(0.5 + 0.5698402909980532 * double(i + 1), 1.0);
      if (u + v > 1) {
        u = 1 - u;
        v = 1 - v;
      }
      const Vec3 place = p.a + (p.b - p.a) * u + (p.c - p.a) * v, n = p.normal * -1;
      panes.sensors.push_back({place + n * 1e-3, {float(n.x), float(n.y), float(n.z)}, 0});
    }
    if (panes.sensors.size() < (k + 1) * places)
      panes.sensors.resize((k + 1) * places, panes.sensors.empty() ? Sensor{} : panes.sensors.back());
  }
  panes.groups[0].count = panes.sensors.size();
  std::optional<SpaceCoefficients>& inside = kept.spaces[space_].insides;
  if (!inside) {
    const int samples = std::clamp(4 * paths()[0], 1024, 1 << 14);
    inside = spaceCoefficients({in_.scene.get(), &panes, 0, groups_, in_.settings.seed + 101, samples, 1}, 0,
                               SurfacesSeen{}, aims, control, threads_);
    if (!inside) return false;
    const auto mean = [&](Eigen::MatrixXf& m) {
      Eigen::MatrixXf rows(Eigen::Index(groups), m.cols());
      for (std::size_t k = 0; k < groups; ++k)
        rows.row(Eigen::Index(k)) = m.middleRows(Eigen::Index(k * places), Eigen::Index(places)).colwise().mean();
      m = std::move(rows);
    };
    for (auto* list : {&inside->all, &inside->reflected})
      for (Eigen::MatrixXf& m : *list) mean(m);
    mean(inside->pane);
  }
  const Parts open = openLight({{&*inside, 1.0f}}, 1);
  const float straight = float(in_.settings.fabricDirect);
  forChunks(hours_, 64, threads_, [&](std::size_t first, std::size_t last) {
    Eigen::VectorXf luminance(Eigen::Index(groups), 1), base(luminance), scattered(luminance);
    for (std::size_t h = first; h < last; ++h) {
      base.setZero(), scattered.setZero();
      for (std::size_t part = 0; part <= groups; ++part) {
        const bool shut = part < groups && closed(h, part);
        if (open[part].size() > 0) base += (shut ? straight : 1.0f) * open[part].col(Eigen::Index(h));
        if (shut) scattered[Eigen::Index(part)] = behind_[part][h];
      }
      // Fabric lights the room, the room the fabric: summed until nothing is added any more.
      luminance = scattered;
      for (int bounce = 0; bounce < 64; ++bounce) {
        const Eigen::VectorXf falls = base + inside->pane * luminance;
        float change = 0;
        for (std::size_t k = 0; k < groups; ++k) {
          if (!closed(h, k)) continue;
          const auto at = Eigen::Index(k);
          const float next = scattered[at] + more[k] / float(pi) * falls[at];
          change = std::max(change, std::abs(next - luminance[at]));
          luminance[at] = next;
        }
        if (change <= 1e-5f * luminance.cwiseAbs().maxCoeff()) break;
      }
      for (std::size_t k = 0; k < groups; ++k)
        if (closed(h, k)) behind_[k][h] = luminance[Eigen::Index(k)];
    }
  });
  return true;
}

/// Light that a group's closed shade fabric takes in, lx, hour by hour.
std::vector<float> YearSpace::behindPanes(std::size_t k, const PaneLight& pane) const {
  std::vector<float> out(hours_, 0);
  // Of the sky; of the sun thrown there by ground and walls; of the beam itself.
  const Eigen::RowVectorXf sky = pane.all.transpose() * in_.sky->luminance,
                           thrown = pane.reflected.transpose() * in_.sky->spreadBeam;
  forChunks(hours_, 64, threads_, [&](std::size_t first, std::size_t last) {
    for (std::size_t h = first; h < last; ++h) {
      if (!closed(h, k)) continue;
      const double beam = in_.sky->beam[h] > 0 ? beamOnPanes(k, h, true) : 0;
      out[h] = sky[Eigen::Index(h)] + thrown[Eigen::Index(h)] + float(beam) * in_.sky->beam[h];
    }
  });
  return out;
}

std::vector<float> YearSpace::energyBehind(std::size_t k, const PaneLight& pane) const {
  std::vector<float> out(hours_, 0);
  const Eigen::RowVectorXf sky = pane.all.transpose() * in_.sky->luminance,
                           thrown = pane.reflected.transpose() * in_.sky->spreadBeam;
  forChunks(hours_, 64, threads_, [&](std::size_t first, std::size_t last) {
    for (std::size_t h = first; h < last; ++h) {
      const HourlySky& s = *in_.sky;
      if (s.diffuseEfficacy[h] > 0) out[h] = sky[Eigen::Index(h)] / s.diffuseEfficacy[h];
      if (s.beam[h] > 0)
        out[h] += s.beamIrradiance[h] * (float(beamOnPanes(k, h, true)) + thrown[Eigen::Index(h)] / s.beam[h]);
    }
  });
  return out;
}

double YearSpace::energyError(const PaneLight& pane) const {
  if (pane.quarters[0].size() == 0) return 0;
  Eigen::VectorXf year = Eigen::VectorXf::Zero(in_.sky->luminance.rows());
  for (std::size_t h = 0; h < hours_; ++h)
    if (in_.sky->diffuseEfficacy[h] > 0) year += in_.sky->luminance.col(Eigen::Index(h)) / in_.sky->diffuseEfficacy[h];
  std::vector<double> each;
  for (const Eigen::VectorXf& q : pane.quarters) each.push_back(double(q.dot(year)));
  return batchError(each);
}

namespace {
std::vector<Eigen::Index> everyHour(std::size_t hours, std::size_t every) {
  std::vector<Eigen::Index> out;
  for (std::size_t h = 0; h < hours; h += every) out.push_back(Eigen::Index(h));
  return out;
}
} // namespace

YearSpace::Parts YearSpace::openLight(const std::vector<Weighted>& of, std::size_t every) const {
  const std::vector<Eigen::Index> picked = everyHour(hours_, every);
  const auto count = Eigen::Index(picked.size()), rows = of.front().coefficients->pane.rows();
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
  Parts out(groups_.size() + 1);
  for (std::size_t part = 0; part <= groups_.size(); ++part) {
    Eigen::MatrixXf all = Eigen::MatrixXf::Zero(rows, Eigen::Index(SkyBins::count)), reflected = all;
    for (const Weighted& w : of) {
      all += w.weight * w.coefficients->all[part];
      reflected += w.weight * w.coefficients->reflected[part];
    }
    if (all.isZero(0) && reflected.isZero(0)) continue;
    out[part] = reflected * spread;
    // Blocks of hours: fixed, so that sums keep their order whoever computes them.
    const std::size_t block = 128, blocks = (std::size_t(count) + block - 1) / block;
    forChunks(blocks, 1, threads_, [&](std::size_t a, std::size_t b) {
      for (std::size_t k = a; k < b; ++k) {
        const auto first = Eigen::Index(k * block), size = std::min<Eigen::Index>(Eigen::Index(block), count - first);
        out[part].middleCols(first, size) += all * l.middleCols(first, size);
      }
    });
  }
  return out;
}

std::shared_ptr<const YearSpace::Parts> YearSpace::open(KeptCoefficients& kept, int rounds, std::size_t every,
                                                        std::optional<std::size_t> batch,
                                                        const std::vector<Weighted>& of) const {
  SpaceKept& s = kept.spaces[space_];
  const auto bytes = [](const Parts& parts) {
    std::size_t sum = 0;
    for (const Eigen::MatrixXf& m : parts) sum += std::size_t(m.size()) * sizeof(float);
    return sum;
  };
  std::erase_if(s.open, [&](const SpaceKept::Open& o) { // of another weather, or of fewer paths than there are by now
    const bool old = o.sky != in_.sky || o.rounds < rounds;
    if (old) kept.openBytes -= bytes(*o.parts);
    return old;
  });
  for (const SpaceKept::Open& o : s.open)
    if (o.rounds == rounds && o.batch == batch && o.every == every) return o.parts;
  auto made = std::make_shared<const Parts>(openLight(of, every));
  if (const std::size_t size = bytes(*made); kept.openBytes + size <= KeptCoefficients::mostOpenBytes) {
    kept.openBytes += size;
    s.open.push_back({rounds, batch, every, in_.sky, made});
  }
  return made;
}

Eigen::MatrixXf YearSpace::illuminance(KeptCoefficients& kept, int rounds, std::size_t every,
                                       std::optional<std::size_t> batch, bool withBeam) const {
  const std::vector<Weighted> of = weighted(kept, rounds, batch);
  const std::shared_ptr<const Parts> light = open(kept, rounds, every, batch, of);
  const std::vector<Eigen::Index> picked = everyHour(hours_, every);
  Eigen::MatrixXf panes = Eigen::MatrixXf::Zero(Eigen::Index(n_), Eigen::Index(groups_.size()));
  for (const Weighted& w : of) panes += kept_ * w.weight * w.coefficients->pane;
  Eigen::MatrixXf out = Eigen::MatrixXf::Zero(Eigen::Index(n_), Eigen::Index(picked.size()));
  forChunks(picked.size(), 64, threads_, [&](std::size_t a, std::size_t b) {
    for (std::size_t c = a; c < b; ++c) {
      const auto h = std::size_t(picked[c]);
      const float sun = in_.sky->beam[h];
      auto e = out.col(Eigen::Index(c));
      bool anyShut = false;
      for (std::size_t part = 0; part <= groups_.size(); ++part) {
        const bool shut = part < groups_.size() && closed(h, part);
        anyShut |= shut;
        if ((*light)[part].size() > 0)
          e += (shut ? float(in_.settings.fabricDirect) * kept_ : kept_) * (*light)[part].col(Eigen::Index(c));
        if (shut) e += panes.col(Eigen::Index(part)) * behind_[part][h];
      }
      if (!(sun > 0) || !withBeam) continue;
      for (std::uint32_t k = lit_->litFrom[h]; k < lit_->litFrom[h + 1]; ++k) {
        const std::size_t i = lit_->lit[k];
        if (!anyShut || through(i, h) == groups_.size() || !closed(h, through(i, h))) e[Eigen::Index(i)] += beam(i, h);
      }
    }
  });
  return out;
}

std::vector<std::size_t> YearSpace::beamHours() const {
  const double least = in_.settings.metrics.beam;
  std::vector<std::size_t> out(n_, 0);
  for (std::size_t h = 0; h < hours_; ++h) {
    if (!in_.mask[in_.sky->hours[h]]) continue;
    if (least > 0)
      for (std::uint32_t k = lit_->litFrom[h]; k < lit_->litFrom[h + 1]; ++k)
        out[lit_->lit[k]] += double(beam(lit_->lit[k], h)) >= least;
    else
      for (std::size_t& n : out) ++n;
  }
  return out;
}

std::size_t YearSpace::closedHours(std::size_t k) const {
  std::size_t n = 0;
  for (std::size_t h = 0; h < hours_; ++h) n += in_.mask[in_.sky->hours[h]] && closed(h, k);
  return n;
}

} // namespace noonward
