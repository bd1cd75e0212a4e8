#include "core/studies/glare_year.h"
#include "core/base/words.h"
#include "core/model/settings/study_fields.h"
#include "core/studies/glare.h"
#include "core/studies/glare_sight.h"
#include "core/studies/light_aims.h"
#include "core/studies/sight.h"
#include "core/studies/year_space.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <deque>
#include <fmt/format.h>
#include <map>
#include <set>

namespace noonward {

const char* glareCauseName(GlareCause cause) {
  switch (cause) {
  case GlareCause::Sun:
    return "the sun's disc";
  case GlareCause::Sky:
    return "sky";
  case GlareCause::Inside:
    return "bright surfaces in the room";
  case GlareCause::Outside:
    return "surfaces outdoors";
  case GlareCause::Fabric:
    return "shade fabric";
  }
  return "";
}

/// What a year of glare is made from besides scene and eyes.
struct GlareInput {
  YearInput base;           ///< with a grid in each room that has eyes, for its blinds
  std::vector<int> spaceOf; ///< of each room of the project, in `base`; −1 none
  std::vector<GlareEye> eyes;
};

namespace {

constexpr std::size_t batches = KeptCoefficients::batches;
constexpr std::size_t skip = 8; ///< of the hours with light, for the uncertainty
constexpr std::uint16_t noCause = 0xffff;

/// The project with nothing but a grid in each room that has eyes.
Project forBlinds(const Project& p, const std::vector<GlareEye>& eyes) {
  Project out = p;
  SensorGroup group;
  group.id = {1};
  group.name = "Blinds";
  RoomGrid grid;
  grid.height = 0.76;
  grid.spacing = 0.6;
  grid.wallDistance = 0.3;
  std::set<int> rooms;
  for (const GlareEye& e : eyes)
    if (e.room >= 0 && rooms.insert(e.room).second) grid.rooms.push_back(p.rooms[std::size_t(e.room)].id);
  if (rooms.empty())
    group.layout = std::vector<PointSensor>{{eyes.front().at, {0, 0, 1}, ""}};
  else
    group.layout = grid;
  out.groups = {group};
  return out;
}

} // namespace

Outcome glareQuestion(const Project& p, const Study& study, std::optional<Instant>, LightInput& in, Hasher& h) {
  if (!p.site.weather || !p.site.weather->whole())
    return fail("A year of glare needs a weather year; the project has none.", "weather");
  if (!(study.year.endMinute > study.year.beginMinute)) return fail("The schedule ends before it begins.", "schedule");
  in.sky.text = fmt::format("DGP above {:g}, {} to {} of the weather year", study.year.glareLimit,
                            clockText(study.year.beginMinute), clockText(study.year.endMinute));
  in.unit = "%";
  h.add("glare year 1")
      .add(p.site.weather->digest)
      .add(p.site.northAngle)
      .add(p.site.place.latitude)
      .add(p.site.place.longitude)
      .add(p.site.zone)
      .add(p.site.year)
      .add(timeZoneDataVersion());
  return {};
}

Outcome glareYearInput(const Project& p, const Study& study, std::optional<Instant>, LightInput& in) {
  auto out = std::make_shared<GlareInput>();
  out->eyes = eyesOf(in.sensors, p.rooms);
  const Project own = forBlinds(p, out->eyes);
  YearSettings settings = study.year;
  settings.stopFor = StopFor::Nothing;
  auto base = yearInput(own, {{1}}, settings);
  if (!base) return tl::unexpected(base.error());
  out->base = std::move(*base);
  out->spaceOf.assign(p.rooms.size(), -1);
  for (std::size_t k = 0; k < out->base.sensors.groups.size(); ++k)
    if (const int r = out->base.sensors.groups[k].room; r >= 0 && out->base.sensors.groups[k].count > 0)
      out->spaceOf[std::size_t(r)] = int(k);
  in.scene = out->base.scene;
  for (const Finding& f : out->base.findings) // of schedule and blinds; all else is told with the model
    if (f.code.starts_with("year.")) in.findings.push_back(f);
  const auto within = int(
      std::count_if(out->eyes.begin(), out->eyes.end(), [&](const GlareEye& e) { return buried(*in.scene, e.at); }));
  if (within > 0)
    in.findings.push_back({Rank::BendsResult,
                           "glare.buried",
                           fmt::format("{} inside something and sees nothing: move it into a room or outdoors.",
                                       counted(within, "eye lies", "eyes lie")),
                           within,
                           {},
                           "",
                           ""});
  int up = 0;
  for (const Sensor& s : in.sensors.sensors) up += s.normal[2] > 0.99f;
  if (up > 0)
    in.findings.push_back({Rank::BendsResult,
                           "glare.looks-up",
                           fmt::format("{} straight up: lines of sight are wanted, such as those of a group of eyes.",
                                       counted(up, "sensor looks", "sensors look")),
                           up,
                           {},
                           "",
                           ""});
  in.glare = std::move(out);
  return {};
}

namespace {

/// The light of one set of places: by space, places × hours.
struct PlacesLight {
  std::vector<Eigen::MatrixXf> of;
};

/// One line of sight in one hour.
struct Seat {
  double dgp = 0, ev = 0;
  std::uint16_t cause = noCause;
};

/// Hours of the eyes of one room.
class RoomGlare {
public:
  RoomGlare(const LightInput& in, const GlareSphere& sphere, std::span<const GlareEye> eyes, int room, Threads threads)
      : in_(in), g_(*in.glare), sphere_(sphere), eyes_(eyes), room_(room), threads_(threads) {}

  /// False where it was stopped.
  bool prepare(AimShelf& aims, KeptCoefficients& keptBase, RunControl& control) {
    auto sight = glareSight(*in_.scene, sphere_, in_.sensors, eyes_, control, threads_);
    if (!sight) return false;
    sight_ = std::move(*sight);
    for (const GlareEye& eye : eyes_)
      for (std::size_t v = 0; v < eye.count; ++v) {
        const Vec3 forward = in_.sensors.sensors[eye.first + v].normalVector();
        std::vector<float>& row = facing_[{forward.x, forward.y, forward.z}];
        if (row.empty())
          for (const Vec3& d : sphere_.directions)
            row.push_back(float(std::max(0.0, dot(d, forward)) * GlareSphere::solidAngle));
      }
    const int space = room_ >= 0 ? g_.spaceOf[std::size_t(room_)] : -1;
    if (space >= 0) {
      own_.emplace(g_.base, std::size_t(space), threads_);
      if (!own_->takeBeam(keptBase, control)) return false;
      own_->workBlinds(keptBase);
      if (!own_->lightBehind(keptBase, aims, control)) return false;
    }
    return light(aims, control) && sunlight(control);
  }

  /// All lines of sight along `hours` (indices along the sky's hours), `light` holding every `every`-th of them.
  using Put = std::function<void(std::size_t sensor, std::size_t k, const Seat&)>;
  bool run(const std::vector<std::uint32_t>& hours, const PlacesLight& light, std::size_t every, RunControl& control,
           const Put& put) const {
    const std::size_t chunks = (hours.size() + 7) / 8;
    return chunks == forChunks(
                         hours.size(), 8, threads_,
                         [&](std::size_t a, std::size_t b) {
                           Scratch s;
                           s.value.resize(sight_.slots.size());
                           s.luminance.resize(GlareSphere::count);
                           for (std::size_t k = a; k < b; ++k) hour(hours[k], k, light, every, s, put);
                         },
                         [&] { return control.goesOn(); });
  }

  const PlacesLight& whole() const { return whole_; }
  const PlacesLight& batch(std::size_t b) const { return batch_[b]; }
  const std::vector<std::uint32_t>& groups() const { return own_ ? own_->groups() : none_; }
  double closedHours(std::size_t k) const { return own_ ? double(own_->closedHours(k)) : 0; }

private:
  struct Source {
    Vec3 sum; ///< of directions
    float light = 0, brightest = 0;
    int spots = 0;
    std::uint32_t slot = 0;
  };
  struct Scratch {
    std::vector<float> value, luminance;
    std::vector<Source> sources;
  };

  /// Daylight coefficients of the wide places and what they get in every hour; the beam at the places.
  bool light(AimShelf& aims, RunControl& control) {
    YearInput wide = g_.base;
    wide.sensors = sight_.wide;
    // Errors of single places fade in the sum over a hemisphere: fewer paths than at a sensor will do.
    wide.settings.error = std::min(0.9, 2 * wide.settings.error);
    KeptCoefficients kept;
    kept.startFor(wide);
    kept.spaces.assign(wide.sensors.groups.size(), {});
    batch_.assign(batches, {});
    for (std::size_t k = 0; k < wide.sensors.groups.size(); ++k) {
      YearSpace s(wide, k, threads_);
      if (!s.trace(kept, 2, aims, control)) return false;
      blindsOf(s, wide.sensors.groups[k].room);
      whole_.of.push_back(s.illuminance(kept, 2, 1, {}, false));
      for (std::size_t b = 0; b < batches; ++b) batch_[b].of.push_back(s.illuminance(kept, 2, skip, b, false));
      kept.spaces[k] = {};
      kept.openBytes = 0;
    }
    beamIn_ = g_.base;
    beamIn_.sensors = sight_.places;
    beamKept_.startFor(beamIn_);
    beamKept_.spaces.assign(beamIn_.sensors.groups.size(), {});
    for (std::size_t k = 0; k < beamIn_.sensors.groups.size(); ++k) {
      YearSpace& s = beam_.emplace_back(beamIn_, k, threads_);
      if (!s.takeBeam(beamKept_, control, true)) return false;
      blindsOf(s, beamIn_.sensors.groups[k].room);
    }
    return true;
  }
  void blindsOf(YearSpace& s, int room) const {
    if (own_ && room == room_)
      s.takeBlinds(*own_);
    else
      s.leaveOpen();
  }
  float beamAtPlace(const GlareSlot& slot, std::size_t h) const {
    const YearSpace& s = beam_[slot.space];
    const float lux = s.beam(slot.index, h);
    if (!(lux > 0)) return 0;
    const std::size_t group = s.through(slot.index, h);
    return group < s.groups().size() && s.closed(h, group) ? 0 : lux;
  }

  /// The sun's disc from each eye.
  bool sunlight(RunControl& control) {
    const HourlySky& sky = *g_.base.sky;
    const std::size_t n = sky.hours.size();
    sun_.assign(eyes_.size() * n, {});
    return eyes_.size() == forChunks(
                               eyes_.size(), 1, threads_,
                               [&](std::size_t a, std::size_t b) {
                                 for (std::size_t e = a; e < b; ++e)
                                   for (std::size_t h = 0; h < n; ++h)
                                     if (sky.beam[h] > 0 && looksThere(eyes_[e], sky.sun[h]))
                                       sun_[e * n + h] = beamAt(*in_.scene, eyes_[e].at, sky.sun[h], sky.sun[h]);
                               },
                               [&] { return control.goesOn(); });
  }
  bool looksThere(const GlareEye& eye, Vec3 d) const {
    for (std::size_t k = 0; k < eye.count; ++k)
      if (dot(in_.sensors.sensors[eye.first + k].normalVector(), d) > 0) return true;
    return false;
  }

  /// What is left of light seen through a window group in an hour.
  float left(std::uint32_t group, std::size_t h) const {
    if (group == 0) return 1;
    const float kept = float(g_.base.settings.glassKept);
    if (!own_) return kept;
    const auto at = std::find(own_->groups().begin(), own_->groups().end(), group);
    if (at == own_->groups().end()) return kept;
    return own_->closed(h, std::size_t(at - own_->groups().begin())) ? kept * float(g_.base.settings.fabricDirect)
                                                                     : kept;
  }
  float fabric(std::uint32_t group, std::size_t h) const {
    if (!own_) return 0;
    const auto at = std::find(own_->groups().begin(), own_->groups().end(), group);
    return at == own_->groups().end()
               ? 0
               : own_->fabric(std::size_t(at - own_->groups().begin()), h) * float(g_.base.settings.glassKept);
  }

  void hour(std::uint32_t h, std::size_t k, const PlacesLight& light, std::size_t every, Scratch& s,
            const Put& put) const {
    const HourlySky& sky = *g_.base.sky;
    std::vector<float> lefts(g_.base.groups.size(), 1), fabrics(g_.base.groups.size(), 0);
    for (std::uint32_t g = 0; g < lefts.size(); ++g) {
      lefts[g] = left(g, h);
      fabrics[g] = fabric(g, h);
    }
    for (std::size_t i = 0; i < sight_.slots.size(); ++i) {
      const GlareSlot& slot = sight_.slots[i];
      switch (slot.kind) {
      case GlareSlot::Kind::Sky:
        s.value[i] = lefts[slot.group] * sky.luminance(Eigen::Index(slot.index), Eigen::Index(h));
        break;
      case GlareSlot::Kind::Place:
        s.value[i] = lefts[slot.group] * (light.of[slot.space](Eigen::Index(slot.wide), Eigen::Index(h / every)) +
                                          (sky.beam[h] > 0 ? beamAtPlace(slot, h) : 0));
        break;
      case GlareSlot::Kind::Pane:
        s.value[i] = fabrics[slot.group];
        break;
      }
    }
    for (std::size_t e = 0; e < eyes_.size(); ++e) {
      const auto& from = sight_.from[e];
      const auto& seen = sight_.seen[e];
      for (std::size_t d = 0; d < GlareSphere::count; ++d) {
        float l = 0;
        for (std::uint32_t j = from[d]; j < from[d + 1]; ++j) l += seen[j].weight * s.value[seen[j].slot];
        s.luminance[d] = l;
      }
      gather(e, s);
      const BeamShare& sun = sun_[e * sky.hours.size() + h];
      const double beam = sun.share > 0 ? sun.share * double(sky.beam[h] * lefts[sun.group]) : 0;
      for (std::size_t v = 0; v < eyes_[e].count; ++v) {
        const std::size_t sensor = eyes_[e].first + v;
        const Vec3 forward = in_.sensors.sensors[sensor].normalVector();
        put(sensor, k, seat(s, forward, beam, sky.sun[h], sun.group));
      }
    }
  }

  /// Bright spots together where they lie within 0.2 rad of a source's middle, over the whole sphere.
  void gather(std::size_t e, Scratch& s) const {
    s.sources.clear();
    const float threshold = float(g_.base.settings.glareSource);
    const double near = std::cos(0.2);
    for (std::size_t d = 0; d < GlareSphere::count; ++d) {
      if (!(s.luminance[d] > threshold)) continue;
      const Vec3 to = sphere_.directions[d];
      Source* best = nullptr;
      double closest = near;
      for (Source& g : s.sources)
        if (const double c = dot(g.sum, to) / length(g.sum); c >= closest) {
          closest = c;
          best = &g;
        }
      if (!best) best = &s.sources.emplace_back();
      best->sum = best->sum + to;
      best->light += s.luminance[d];
      ++best->spots;
      if (s.luminance[d] > best->brightest) {
        best->brightest = s.luminance[d];
        float most = -1;
        for (std::uint32_t j = sight_.from[e][d]; j < sight_.from[e][d + 1]; ++j) {
          const GlareSeen& seen = sight_.seen[e][j];
          if (const float l = seen.weight * s.value[seen.slot]; l > most) {
            most = l;
            best->slot = seen.slot;
          }
        }
      }
    }
  }

  /// cos · sr of every direction for a line of sight.
  const std::vector<float>& facing(Vec3 forward) const { return facing_.at({forward.x, forward.y, forward.z}); }

  Seat seat(const Scratch& s, Vec3 forward, double beam, Vec3 sun, std::uint32_t sunGroup) const {
    const EyeFrame frame = EyeFrame::along(forward);
    using Row = Eigen::Map<const Eigen::VectorXf>;
    double ev = double(Row(s.luminance.data(), Eigen::Index(GlareSphere::count))
                           .dot(Row(facing(forward).data(), Eigen::Index(GlareSphere::count))));
    ev += beam * std::max(0.0, dot(sun, forward));
    double sum = 0, heaviest = 0;
    Seat out;
    const auto weigh = [&](double weight, GlareCause cause, std::uint32_t group) {
      sum += weight;
      if (!(weight > heaviest)) return;
      heaviest = weight;
      out.cause = std::uint16_t(std::size_t(cause) * g_.base.groups.size() + group);
    };
    for (const Source& g : s.sources) {
      const double p = positionIndex(g.sum * (1 / length(g.sum)), frame);
      if (!std::isfinite(p)) continue;
      const double l = double(g.light) / g.spots;
      weigh(l * l * g.spots * GlareSphere::solidAngle / (p * p), sight_.slots[g.slot].cause,
            sight_.slots[g.slot].group);
    }
    if (beam > 0) {
      const double p = positionIndex(sun, frame), omega = 2 * pi * (1 - std::cos(sunHalfAngle)), l = beam / omega;
      if (std::isfinite(p)) weigh(l * l * omega / (p * p), GlareCause::Sun, sunGroup);
    }
    out.ev = ev;
    out.dgp = ev > 0 ? 5.87e-5 * ev + 9.18e-2 * std::log10(1 + sum / std::pow(ev, 1.87)) + 0.16 : 0;
    return out;
  }

  const LightInput& in_;
  const GlareInput& g_;
  const GlareSphere& sphere_;
  std::span<const GlareEye> eyes_;
  int room_;
  Threads threads_;
  GlareSight sight_;
  std::optional<YearSpace> own_;
  PlacesLight whole_;
  YearInput beamIn_;
  KeptCoefficients beamKept_;
  std::deque<YearSpace> beam_;
  std::vector<PlacesLight> batch_;
  std::vector<BeamShare> sun_; ///< eye-major
  std::map<std::array<double, 3>, std::vector<float>> facing_;
  const std::vector<std::uint32_t> none_;
};

/// The eyes room by room, at most so many at a time: what is seen of them is held together.
std::vector<std::pair<int, std::vector<GlareEye>>> byRoom(const std::vector<GlareEye>& eyes) {
  constexpr std::size_t most = 256;
  std::map<int, std::vector<GlareEye>> rooms;
  for (const GlareEye& e : eyes) rooms[e.room].push_back(e);
  std::vector<std::pair<int, std::vector<GlareEye>>> out;
  for (const auto& [room, all] : rooms)
    for (std::size_t k = 0; k < all.size(); k += most)
      out.emplace_back(room, std::vector<GlareEye>(all.begin() + std::ptrdiff_t(k),
                                                   all.begin() + std::ptrdiff_t(std::min(all.size(), k + most))));
  return out;
}

/// A run on its way.
class GlareRun {
public:
  GlareRun(const LightInput& in, Threads threads)
      : in_(in), g_(*in.glare), threads_(threads), year_(std::make_shared<GlareYear>()) {
    out.kind = in.kind;
    out.unit = in.unit;
    out.key = in.key;
    const std::size_t n = in.sensors.sensors.size();
    out.value.assign(n, std::nanf(""));
    out.standardError.assign(n, 0);
    out.samples.assign(n, 0);
    const HourlySky& sky = *g_.base.sky;
    for (bool m : g_.base.mask) year_->scheduleHours += m;
    for (std::uint32_t h = 0; h < sky.hours.size(); ++h) {
      if (!g_.base.mask[sky.hours[h]]) continue;
      lit_.push_back(h);
      year_->hours.push_back(sky.hours[h]);
      if (h % skip == 0) eighth_.push_back(h);
    }
    year_->dgp.assign(n * lit_.size(), 0);
    year_->seats.resize(n);
    for (const WindowGroup& w : g_.base.groups) year_->groups.push_back(w.name);
    year_->causes.assign(n * year_->causeRow(), 0);
    year_->closedHours.assign(g_.base.groups.size(), 0);
    kept_.startFor(g_.base);
  }

  bool eyes(int room, std::span<const GlareEye> eyes, AimShelf& aims, RunControl& control) {
    RoomGlare r(in_, sphere_, eyes, room, threads_);
    if (!r.prepare(aims, kept_, control)) return false;
    const std::size_t first = eyes.front().first, hours = lit_.size();
    std::size_t last = 0;
    for (const GlareEye& e : eyes) last = std::max(last, e.first + e.count);
    std::vector<std::uint16_t> cause((last - first) * hours, noCause);
    std::vector<std::uint8_t> dim((last - first) * hours, 0);
    if (!r.run(lit_, r.whole(), 1, control, [&](std::size_t sensor, std::size_t k, const Seat& s) {
          year_->dgp[sensor * hours + k] = std::uint16_t(std::lround(std::clamp(s.dgp, 0.0, 6.5) * 10000));
          cause[(sensor - first) * hours + k] = s.cause;
          dim[(sensor - first) * hours + k] = s.ev < 380;
        }))
      return false;
    const double limit = g_.base.settings.glareLimit;
    std::vector<std::array<std::array<double, 4>, batches>> above(last - first); // three limits and the one asked for
    for (std::size_t b = 0; b < batches; ++b) {
      std::vector<float> dgp((last - first) * eighth_.size(), 0);
      if (!r.run(eighth_, r.batch(b), skip, control, [&](std::size_t sensor, std::size_t k, const Seat& s) {
            dgp[(sensor - first) * eighth_.size() + k] = float(s.dgp);
          }))
        return false;
      for (std::size_t i = 0; i < last - first; ++i)
        for (std::size_t l = 0; l < 4; ++l) {
          const double bound = l < 3 ? GlareYear::limits[l] : limit;
          const auto row = dgp.begin() + std::ptrdiff_t(i * eighth_.size());
          above[i][b][l] = double(std::count_if(row, row + std::ptrdiff_t(eighth_.size()),
                                                [&](float d) { return double(d) > bound; })) *
                           double(skip) / double(std::max<std::size_t>(1, year_->scheduleHours));
        }
    }
    for (std::size_t k = 0; k < r.groups().size(); ++k) year_->closedHours[r.groups()[k]] = r.closedHours(k);
    for (const GlareEye& e : eyes)
      for (std::size_t v = 0; v < e.count; ++v) {
        const std::size_t sensor = e.first + v;
        std::array<double, 4> error{};
        for (std::size_t l = 0; l < 4; ++l) {
          std::vector<double> each;
          for (std::size_t b = 0; b < batches; ++b) each.push_back(above[sensor - first][b][l]);
          error[l] = batchError(each);
        }
        sumUp(sensor, {cause.data() + (sensor - first) * hours, hours}, {dim.data() + (sensor - first) * hours, hours},
              error);
      }
    return true;
  }
  void finish() { out.glare = year_; }
  LightResult out;

private:
  void sumUp(std::size_t sensor, std::span<const std::uint16_t> cause, std::span<const std::uint8_t> dim,
             const std::array<double, 4>& error) {
    GlareSeat& seat = year_->seats[sensor];
    const std::size_t hours = lit_.size();
    const double all = double(std::max<std::size_t>(1, year_->scheduleHours));
    std::vector<std::uint16_t> sorted;
    double asked = 0, low = 0;
    for (std::size_t k = 0; k < hours; ++k) {
      const double d = year_->dgpAt(sensor, k);
      sorted.push_back(year_->dgp[sensor * hours + k]);
      for (std::size_t l = 0; l < 3; ++l) seat.above[l] += (d > GlareYear::limits[l]) / all;
      asked += d > g_.base.settings.glareLimit;
      low += dim[k];
      if (d > seat.worst) {
        seat.worst = d;
        seat.worstHour = year_->hours[k];
      }
      if (d > GlareYear::limits[1] && cause[k] != noCause) ++year_->causes[sensor * year_->causeRow() + cause[k]];
    }
    std::sort(sorted.begin(), sorted.end(), std::greater<>());
    const auto fifth = std::size_t(0.05 * all);
    seat.dgp95 = fifth < sorted.size() ? sorted[fifth] / 10000.0 : 0;
    seat.dim = hours > 0 ? low / double(hours) : 0;
    // A share of so many hours is never finer than one of them.
    const auto honest = [&](double e) { return std::hypot(e, 0.5 / all); };
    for (std::size_t l = 0; l < 3; ++l) seat.aboveError[l] = honest(error[l]);
    out.value[sensor] = float(100 * asked / all);
    out.standardError[sensor] = float(100 * honest(error[3]));
    out.samples[sensor] = std::uint32_t(GlareSphere::count / 2);
  }

  const LightInput& in_;
  const GlareInput& g_;
  Threads threads_;
  const GlareSphere sphere_;
  std::shared_ptr<GlareYear> year_;
  std::vector<std::uint32_t> lit_, eighth_; ///< along HourlySky::hours: of the schedule; every eighth of them
  KeptCoefficients kept_;
};

} // namespace

LightResult runGlareYear(const LightInput& in, RunControl& control, Threads threads) {
  const auto start = std::chrono::steady_clock::now();
  require(in.glare != nullptr, "runGlareYear: an input of lightInput()");
  GlareRun run(in, threads);
  AimShelf aims(*in.scene, {}, in.glare->base.settings.seed);
  const double n = double(in.glare->eyes.size());
  double done = 0;
  bool all = true;
  for (const auto& [room, eyes] : byRoom(in.glare->eyes)) {
    all = control.goesOn() && run.eyes(room, eyes, aims, control);
    if (!all) break;
    done += double(eyes.size());
    if (control.progress) control.progress(std::min(0.999, done / n));
  }
  run.finish();
  run.out.end = control.end(all);
  run.out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  if (control.progress) control.progress(1);
  return std::move(run.out);
}

std::string glareCauseText(const GlareYear& y, std::size_t sensor) {
  std::vector<std::pair<int, std::string>> list;
  int all = 0;
  for (std::size_t c = 0; c < glareCauses; ++c)
    for (std::size_t g = 0; g < y.groups.size(); ++g) {
      const int hours = y.causes[sensor * y.causeRow() + c * y.groups.size() + g];
      if (hours == 0) continue;
      all += hours;
      const char* name = glareCauseName(GlareCause(c));
      list.emplace_back(-hours, g == 0 ? std::string(name) : fmt::format("{} through {}", name, y.groups[g]));
    }
  std::stable_sort(list.begin(), list.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  std::string out;
  for (std::size_t k = 0; k < list.size() && k < 4; ++k)
    out += fmt::format("{}{} in {} h",
                       k == 0                           ? ""
                       : k == 3 || k + 1 == list.size() ? " and "
                                                        : ", ",
                       list[k].second, -list[k].first);
  return out.empty() ? out : fmt::format("{} above 0.40: {}", counted(all, "hour", "hours"), out);
}

std::vector<float> glareSeries(const GlareYear& y, std::size_t sensor) {
  std::vector<float> out(hoursOfYear, std::nanf(""));
  for (std::size_t k = 0; k < y.hours.size(); ++k) out[y.hours[k]] = float(y.dgpAt(sensor, k));
  return out;
}

} // namespace noonward
