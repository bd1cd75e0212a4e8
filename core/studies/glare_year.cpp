#include "core/studies/glare_year.h"
#include "core/base/words.h"
#include "core/model/settings/study_fields.h"
#include "core/studies/glare_room.h"
#include "core/studies/light_aims.h"
#include "core/studies/sight.h"
#include <algorithm>
#include <chrono>
#include <cmath>
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

namespace {

constexpr std::size_t batches = KeptCoefficients::batches, skip = RoomGlare::skip;
constexpr std::uint16_t noCause = RoomGlare::noCause;

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
  auto base = yearInput(own, {{1}}, settings, nullptr, in.before);
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
    if (!r.prepare(lit_, aims, kept_, control)) return false;
    const std::size_t first = eyes.front().first, hours = lit_.size();
    std::size_t last = 0;
    for (const GlareEye& e : eyes) last = std::max(last, e.first + e.count);
    std::vector<std::uint16_t> cause((last - first) * hours, noCause);
    std::vector<std::uint8_t> dim((last - first) * hours, 0);
    if (!r.run(lit_, {}, control, [&](std::size_t sensor, std::size_t k, const RoomGlare::Seat& s) {
          year_->dgp[sensor * hours + k] = std::uint16_t(std::lround(std::clamp(s.dgp, 0.0, 6.5) * 10000));
          cause[(sensor - first) * hours + k] = s.cause;
          dim[(sensor - first) * hours + k] = s.ev < 380;
        }))
      return false;
    const double limit = g_.base.settings.glareLimit;
    std::vector<std::array<std::array<double, 4>, batches>> above(last - first); // three limits and the one asked for
    for (std::size_t b = 0; b < batches; ++b) {
      std::vector<float> dgp((last - first) * eighth_.size(), 0);
      if (!r.run(eighth_, b, control, [&](std::size_t sensor, std::size_t k, const RoomGlare::Seat& s) {
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

bool workGlare(const YearInput& year, KeptCoefficients& kept, RunControl& control, Threads threads) {
  if (!year.eyes || kept.glareKey == year.key) return true;
  const LightInput& in = *year.eyes;
  const GlareInput& g = *in.glare;
  const HourlySky& sky = *g.base.sky;
  std::vector<std::vector<std::uint8_t>> shut(g.base.groups.size());
  std::vector<std::uint32_t> lit;
  for (std::uint32_t h = 0; h < sky.hours.size(); ++h)
    if (g.base.mask[sky.hours[h]]) lit.push_back(h);
  const GlareSphere sphere;
  AimShelf aims(*in.scene, {}, g.base.settings.seed);
  KeptCoefficients own;
  own.startFor(g.base);
  for (const auto& [room, eyes] : byRoom(g.eyes)) {
    if (room < 0) continue;
    RoomGlare r(in, sphere, eyes, room, threads);
    if (!r.prepare(lit, aims, own, control)) return false;
    for (std::size_t k = 0; k < r.groups().size(); ++k) {
      auto& row = shut[r.groups()[k]];
      row.resize(sky.hours.size(), 0);
      for (std::size_t h = 0; h < row.size(); ++h) row[h] |= std::uint8_t(r.closed(h, k));
    }
  }
  kept.glareShut = std::move(shut);
  kept.glareKey = year.key;
  return true;
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
