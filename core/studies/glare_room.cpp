#include "core/studies/glare_room.h"
#include "core/studies/glare.h"
#include <algorithm>
#include <cmath>

namespace noonward {

RoomGlare::RoomGlare(const LightInput& in, const GlareSphere& sphere, std::span<const GlareEye> eyes, int room,
                     Threads threads)
    : in_(in), g_(*in.glare), sphere_(sphere), eyes_(eyes), room_(room), threads_(threads) {
  std::map<std::vector<std::array<double, 3>>, std::shared_ptr<const Eigen::MatrixXf>> known;
  for (const GlareEye& eye : eyes_) {
    std::vector<std::array<double, 3>> ways;
    for (std::size_t v = 0; v < eye.count; ++v) {
      const Vec3 f = in_.sensors.sensors[eye.first + v].normalVector();
      ways.push_back({f.x, f.y, f.z});
    }
    auto& matrix = known[ways];
    if (!matrix) {
      Eigen::MatrixXf m(Eigen::Index(GlareSphere::count), Eigen::Index(ways.size()));
      for (std::size_t v = 0; v < ways.size(); ++v)
        for (std::size_t d = 0; d < GlareSphere::count; ++d)
          m(Eigen::Index(d), Eigen::Index(v)) =
              float(std::max(0.0, dot(sphere_.directions[d], {ways[v][0], ways[v][1], ways[v][2]})) *
                    GlareSphere::solidAngle);
      matrix = std::make_shared<const Eigen::MatrixXf>(std::move(m));
    }
    facing_.push_back(matrix);
  }
}

bool RoomGlare::prepare(const std::vector<std::uint32_t>& lit, AimShelf& aims, KeptCoefficients& keptBase,
                        RunControl& control) {
  lit_ = lit;
  auto sight = glareSight(*in_.scene, sphere_, in_.sensors, eyes_, control, threads_);
  if (!sight) return false;
  sight_ = std::move(*sight);
  ownOf_.assign(base().groups.size(), -1);
  if (const int space = room_ >= 0 ? g_.spaceOf[std::size_t(room_)] : -1; space >= 0) {
    own_.emplace(base(), std::size_t(space), threads_);
    for (std::size_t k = 0; k < own_->groups().size(); ++k) {
      ownOf_[own_->groups()[k]] = int(k);
      if (base().settings.blindsOf(base().groups[own_->groups()[k]].key) == BlindRule::Glare) byGlare_.push_back(k);
    }
    if (!own_->takeBeam(keptBase, control)) return false;
    own_->workBlinds(keptBase);
    if (!own_->lightBehind(keptBase, aims, control)) return false;
  }
  return light(aims, control) && sunlight(control) && closeForGlare(aims, keptBase, control);
}

/// Daylight coefficients of the wide places and what they get in every hour; the beam at the places.
bool RoomGlare::light(AimShelf& aims, RunControl& control) {
  wideIn_ = base();
  wideIn_.sensors = sight_.wide;
  // Errors of single places fade in the sum over a hemisphere: fewer paths than at a sensor will do.
  wideIn_.settings.error = std::min(0.9, 3 * wideIn_.settings.error);
  wideKept_.startFor(wideIn_);
  const std::size_t spaces = wideIn_.sensors.groups.size();
  wideKept_.spaces.assign(spaces, {});
  whole_.resize(spaces);
  for (PlacesLight& b : batch_) b.resize(spaces);
  for (std::size_t k = 0; k < spaces; ++k) {
    if (!wide_.emplace_back(wideIn_, k, threads_).trace(wideKept_, 2, aims, control)) return false;
    sumPlaces(k);
  }
  beamIn_ = base();
  beamIn_.sensors = sight_.places;
  const YearSpace::SunOfHour suns = YearSpace::sunsTogether(*base().sky, lit_);
  beamKept_.startFor(beamIn_);
  beamKept_.spaces.assign(beamIn_.sensors.groups.size(), {});
  for (std::size_t k = 0; k < beamIn_.sensors.groups.size(); ++k) {
    if (!beam_.emplace_back(beamIn_, k, threads_).takeBeam(beamKept_, control, suns)) return false;
    takeBlinds(beam_[k], beamIn_.sensors.groups[k].room);
  }
  return true;
}

void RoomGlare::takeBlinds(YearSpace& space, int room) const {
  own_&& room == room_ ? space.takeBlinds(*own_) : space.leaveOpen();
}

void RoomGlare::sumPlaces(std::size_t k) {
  takeBlinds(wide_[k], wideIn_.sensors.groups[k].room);
  whole_[k] = wide_[k].illuminance(wideKept_, 2, 1, {}, false);
  for (std::size_t b = 0; b < batch_.size(); ++b) batch_[b][k] = wide_[k].illuminance(wideKept_, 2, skip, b, false);
  if (!byGlare_.empty()) return;
  wideKept_.spaces[k] = {}; // nobody asks again
  wideKept_.openBytes = 0;
}

/// The sun's disc from each eye.
bool RoomGlare::sunlight(RunControl& control) {
  const HourlySky& sky = *base().sky;
  const std::size_t n = sky.hours.size();
  sun_.assign(eyes_.size() * n, {});
  const auto looksThere = [&](const GlareEye& eye, Vec3 d) {
    for (std::size_t k = 0; k < eye.count; ++k)
      if (dot(in_.sensors.sensors[eye.first + k].normalVector(), d) > 0) return true;
    return false;
  };
  return eyes_.size() == forChunks(
                             eyes_.size(), 1, threads_,
                             [&](std::size_t a, std::size_t b) {
                               for (std::size_t e = a; e < b; ++e)
                                 for (std::uint32_t h : lit_)
                                   if (sky.beam[h] > 0 && looksThere(eyes_[e], sky.sun[h]))
                                     sun_[e * n + h] = beamAt(*in_.scene, eyes_[e].at, sky.sun[h], sky.sun[h]);
                             },
                             [&] { return control.goesOn(); });
}

/// Hour by hour the group that glares most at any eye is closed, then the next, until no eye is above the limit or
/// nothing is left to close.
bool RoomGlare::closeForGlare(AimShelf& aims, KeptCoefficients& keptBase, RunControl& control) {
  if (byGlare_.empty()) return true;
  const double limit = base().settings.closesAtGlare;
  std::vector<std::uint32_t> open = lit_;
  for (std::size_t round = 0; round < byGlare_.size() && !open.empty(); ++round) {
    std::vector<Seat> worst(open.size());
    if (!run(open, {}, control, [&](std::size_t, std::size_t k, const Seat& s) {
          if (s.dgp > worst[k].dgp) worst[k] = s;
        }))
      return false;
    std::vector<std::uint32_t> closed;
    for (std::size_t k = 0; k < open.size(); ++k) {
      if (!(worst[k].dgp > limit)) continue;
      const int guilty = worst[k].cause == noCause ? -1 : ownOf_[worst[k].cause % base().groups.size()];
      const auto canClose = [&](std::size_t group) {
        return !own_->closed(open[k], group) && std::find(byGlare_.begin(), byGlare_.end(), group) != byGlare_.end();
      };
      std::optional<std::size_t> next;
      if (guilty >= 0 && canClose(std::size_t(guilty))) next = std::size_t(guilty);
      for (std::size_t group : byGlare_)
        if (!next && canClose(group)) next = group;
      if (!next) continue;
      own_->close(open[k], *next);
      closed.push_back(open[k]);
    }
    open = std::move(closed);
    if (open.empty()) break;
    if (!own_->lightBehind(keptBase, aims, control)) return false;
    for (std::size_t k = 0; k < wide_.size(); ++k) sumPlaces(k);
    for (std::size_t k = 0; k < beam_.size(); ++k) takeBlinds(beam_[k], beamIn_.sensors.groups[k].room);
  }
  return true;
}

void RoomGlare::values(const std::array<std::uint32_t, lanes>& h, const PlacesLight& light, std::size_t every,
                       Scratch& s) const {
  const HourlySky& sky = *base().sky;
  const std::size_t groups = base().groups.size();
  s.left.assign(groups, {});
  s.left.front().of.setOnes();
  s.fabric.assign(groups, {});
  const float kept = float(base().settings.glassKept), straight = float(base().settings.fabricDirect);
  for (std::size_t g = 1; g < groups; ++g)
    for (std::size_t l = 0; l < lanes; ++l) {
      const int own = ownOf_[g];
      const bool shut = own >= 0 && own_->closed(h[l], std::size_t(own));
      s.left[g].of[Eigen::Index(l)] = shut ? kept * straight : kept;
      s.fabric[g].of[Eigen::Index(l)] = own >= 0 ? own_->fabric(std::size_t(own), h[l]) * kept : 0;
    }
  s.value.resize(sight_.slots.size());
  const bool together = h.back() == h.front() + lanes - 1 && every == 1; // one stretch of memory
  for (std::size_t i = 0; i < sight_.slots.size(); ++i) {
    const GlareSlot& slot = sight_.slots[i];
    auto& value = s.value[i].of;
    switch (slot.kind) {
    case GlareSlot::Kind::Sky:
      for (std::size_t l = 0; l < lanes; ++l)
        value[Eigen::Index(l)] = sky.luminance(Eigen::Index(slot.index), Eigen::Index(h[l]));
      break;
    case GlareSlot::Kind::Place: {
      const Rows& lux = light[slot.space];
      const YearSpace& places = beam_[slot.space];
      if (together)
        value = lux.row(Eigen::Index(slot.wide)).segment<int(lanes)>(Eigen::Index(h[0])).transpose().array();
      else
        for (std::size_t l = 0; l < lanes; ++l)
          value[Eigen::Index(l)] = lux(Eigen::Index(slot.wide), Eigen::Index(h[l] / every));
      if (const float* shares = places.shares(slot.index);
          together && !(Eigen::Map<const Eigen::Array<float, int(lanes), 1>>(shares + h[0]) > 0).any())
        break;
      for (std::size_t l = 0; l < lanes; ++l)
        if (const float beam = places.beam(slot.index, h[l]); beam > 0) {
          const std::size_t group = places.through(slot.index, h[l]);
          if (!(group < places.groups().size() && places.closed(h[l], group))) value[Eigen::Index(l)] += beam;
        }
      break;
    }
    case GlareSlot::Kind::Pane:
      value = s.fabric[slot.group].of;
      continue;
    }
    value *= s.left[slot.group].of;
  }
}

bool RoomGlare::run(const std::vector<std::uint32_t>& hours, std::optional<std::size_t> batch, RunControl& control,
                    const Put& put) const {
  const HourlySky& sky = *base().sky;
  const PlacesLight& light = batch ? batch_[*batch] : whole_;
  const std::size_t every = batch ? skip : 1, chunks = (hours.size() + lanes - 1) / lanes;
  const float threshold = float(base().settings.glareSource);
  const auto block = [&](std::size_t a, std::size_t b, Scratch& s) {
    std::array<std::uint32_t, lanes> h{};
    for (std::size_t l = 0; l < lanes; ++l) h[l] = hours[std::min(a + l, b - 1)];
    values(h, light, every, s);
    s.luminance.resize(GlareSphere::count);
    for (std::size_t e = 0; e < eyes_.size(); ++e) {
      const auto& from = sight_.from[e];
      const auto& seen = sight_.seen[e];
      for (auto& list : s.bright) list.clear();
      for (std::size_t d = 0; d < GlareSphere::count; ++d) {
        Eigen::Array<float, int(lanes), 1> sum = Eigen::Array<float, int(lanes), 1>::Zero();
        __builtin_prefetch(&s.value[seen[std::min(std::size_t(from[d]) + 12, seen.size() - 1)].slot]);
        for (std::uint32_t j = from[d]; j < from[d + 1]; ++j) sum += seen[j].weight * s.value[seen[j].slot].of;
        s.luminance[d].of = sum;
        if (!(sum.maxCoeff() > threshold)) continue;
        for (std::size_t l = 0; l < lanes; ++l)
          if (sum[Eigen::Index(l)] > threshold) s.bright[l].push_back(std::uint32_t(d));
      }
      const Eigen::Map<const Eigen::MatrixXf> all(s.luminance.front().of.data(), Eigen::Index(lanes),
                                                  Eigen::Index(GlareSphere::count));
      const Eigen::MatrixXf ev = all * *facing_[e]; // hours × lines of sight
      for (std::size_t l = 0; a + l < b; ++l) {
        gather(e, l, s);
        const BeamShare& sun = sun_[e * sky.hours.size() + h[l]];
        const double beam =
            sun.share > 0 ? sun.share * double(sky.beam[h[l]] * s.left[sun.group].of[Eigen::Index(l)]) : 0;
        for (std::size_t v = 0; v < eyes_[e].count; ++v) {
          const std::size_t sensor = eyes_[e].first + v;
          put(sensor, a + l,
              seat(s, in_.sensors.sensors[sensor].normalVector(), double(ev(Eigen::Index(l), Eigen::Index(v))), beam,
                   sky.sun[h[l]], sun.group));
        }
      }
    }
  };
  return chunks == forChunks(
                       hours.size(), lanes, threads_,
                       [&](std::size_t a, std::size_t b) {
                         Scratch s;
                         block(a, b, s);
                       },
                       [&] { return control.goesOn(); });
}

/// Bright spots together where they lie within 0.2 rad of a source's middle, over the whole sphere.
void RoomGlare::gather(std::size_t e, std::size_t lane, Scratch& s) const {
  s.sources.clear();
  const double near = std::cos(0.2);
  for (std::uint32_t d : s.bright[lane]) {
    const float here = s.luminance[d].of[Eigen::Index(lane)];
    const Vec3 to = sphere_.directions[d];
    Source* best = nullptr;
    double closest = near;
    for (Source& g : s.sources)
      if (const double c = dot(g.way, to); c >= closest) {
        closest = c;
        best = &g;
      }
    if (!best) best = &s.sources.emplace_back();
    best->sum = best->sum + to;
    best->way = best->sum * (1 / length(best->sum));
    best->light += here;
    ++best->spots;
    if (here > best->brightest) {
      best->brightest = here;
      float most = -1;
      for (std::uint32_t j = sight_.from[e][d]; j < sight_.from[e][d + 1]; ++j) {
        const GlareSeen& seen = sight_.seen[e][j];
        if (const float l = seen.weight * s.value[seen.slot].of[Eigen::Index(lane)]; l > most) {
          most = l;
          best->slot = seen.slot;
        }
      }
    }
  }
}

RoomGlare::Seat RoomGlare::seat(const Scratch& s, Vec3 forward, double ev, double beam, Vec3 sun,
                                std::uint32_t sunGroup) const {
  const EyeFrame frame = EyeFrame::along(forward);
  ev += beam * std::max(0.0, dot(sun, forward));
  double sum = 0, heaviest = 0;
  Seat out;
  const auto weigh = [&](double weight, GlareCause cause, std::uint32_t group) {
    sum += weight;
    if (!(weight > heaviest)) return;
    heaviest = weight;
    out.cause = std::uint16_t(std::size_t(cause) * base().groups.size() + group);
  };
  for (const Source& g : s.sources) {
    const double p = positionIndex(g.way, frame);
    if (!std::isfinite(p)) continue;
    const double l = double(g.light) / g.spots;
    weigh(l * l * g.spots * GlareSphere::solidAngle / (p * p), sight_.slots[g.slot].cause, sight_.slots[g.slot].group);
  }
  if (beam > 0) {
    const double p = positionIndex(sun, frame), omega = 2 * pi * (1 - std::cos(sunHalfAngle)), l = beam / omega;
    if (std::isfinite(p)) weigh(l * l * omega / (p * p), GlareCause::Sun, sunGroup);
  }
  out.ev = ev;
  out.dgp = ev > 0 ? 5.87e-5 * ev + 9.18e-2 * std::log10(1 + sum / std::pow(ev, 1.87)) + 0.16 : 0;
  return out;
}

} // namespace noonward
