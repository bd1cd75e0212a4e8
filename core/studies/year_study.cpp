#include "core/studies/year_study.h"
#include "core/studies/coefficients.h"
#include "core/studies/hourly_sky.h"
#include "core/studies/light_check.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace noonward {

namespace {

/// Of what the rays depend on; weather, schedule and blinds come after them.
Digest raysDigest(const LightModel& model, const SensorSet& sensors, const YearSettings& s) {
  Hasher h;
  h.add("year rays 1");
  hashLightModel(h, model);
  h.add(s.error).add(s.seed).add(std::uint64_t(sensors.sensors.size()));
  h.add(std::string_view(reinterpret_cast<const char*>(sensors.sensors.data()), sensors.sensors.size() * sizeof(Sensor)));
  return h.digest();
}

Digest wholeDigest(const Digest& rays, const Project& p, const YearSettings& s) {
  Hasher h;
  h.add("year 1").add(rays).add(p.site.northAngle).add(p.site.place.latitude).add(p.site.place.longitude).add(p.site.zone).add(p.site.year).add(timeZoneDataVersion());
  if (p.site.weather) h.add(p.site.weather->digest);
  h.add(s.beginMinute).add(s.endMinute).add(s.weekdaysOnly).add(s.metrics.threshold).add(s.metrics.autonomy).add(s.metrics.beam).add(s.metrics.beamHours);
  for (double u : s.metrics.useful) h.add(u);
  h.add(int(s.blinds)).add(s.closesAt).add(s.closesAbove).add(s.clothStraight).add(s.clothScattered);
  for (const Room& r : p.rooms) h.add(r.counted);
  return h.digest();
}

} // namespace

Expected<YearInput> yearInput(const Project& p, const std::vector<GroupId>& groups, const YearSettings& settings) {
  if (!(settings.error > 0.001 && settings.error < 1)) return fail("The error wanted must lie between 0.1 and 100 %.", "error");
  if (!(settings.endMinute > settings.beginMinute)) return fail("The schedule ends before it begins.", "schedule");
  const auto zone = Zone::named(p.site.zone);
  if (!zone) return tl::unexpected(zone.error());
  auto sky = hourlySky(p);
  if (!sky) return tl::unexpected(sky.error());
  auto model = lightModel(p);
  if (!model) return tl::unexpected(model.error());
  auto sensors = layOutSensors(p, groups);
  if (!sensors) return tl::unexpected(sensors.error());
  if (sensors->sensors.empty()) return fail("There are no sensors: lay a grid in the rooms first.", "groups");
  YearInput in;
  in.findings = model->findings;
  in.findings.insert(in.findings.end(), sensors->findings.begin(), sensors->findings.end());
  in.sensors = std::move(*sensors);
  in.groups = model->groups;
  in.sky = std::move(*sky);
  in.settings = settings;
  in.mask = clockMask(*zone, p.site.weather->utcOffset, p.site.year, settings.beginMinute, settings.endMinute, settings.weekdaysOnly);
  in.daylight = daylightHours(in.sky->diffuse);
  for (const SensorGridFacts& g : in.sensors.groups) {
    const Room* room = g.room >= 0 ? &p.rooms[std::size_t(g.room)] : nullptr;
    in.areas.push_back(room ? area(room->outline) : g.cellArea * double(g.count));
    in.counted.push_back(room ? room->counted : true);
  }
  in.scene = std::make_shared<const LightScene>(*model);
  for (auto& list : {checkGlazing(p, *in.scene, *model), checkLeaks(*in.scene, in.sensors)}) in.findings.insert(in.findings.end(), list.begin(), list.end());
  in.rays = raysDigest(*model, in.sensors, settings);
  in.key = wholeDigest(in.rays, p, settings);
  return in;
}

Digest hashYear(const Project& p, const std::vector<GroupId>& groups, const YearSettings& settings) {
  const auto model = lightModel(p);
  const auto sensors = layOutSensors(p, groups);
  if (!model || !sensors) return Hasher().add("year fault").add((!model ? model.error() : sensors.error()).text()).digest();
  return wholeDigest(raysDigest(*model, *sensors, settings), p, settings);
}

BeamShare beamAt(const LightScene& scene, Vec3 position, Vec3 n, Vec3 sun) {
  const double c = dot(n, sun);
  if (c <= 0 || sun.z <= 0) return {};
  const Vec3 o = position + n * LightPaths<int>::offset(position);
  BeamShare out{c, 0};
  double from = 0;
  for (int guard = 0; guard < 64 && out.share > 0; ++guard) {
    const LightScene::Hit g = scene.glass(o, sun, from, 1e30);
    if (!g.any()) break;
    const LightScene::Piece& p = scene.pieces()[g.triangle];
    out.share *= scene.optics(p.optics).straight(std::abs(dot(p.normal, sun)));
    out.group = p.group;
    from = g.distance + LightPaths<int>::offset(o + sun * g.distance);
  }
  if (!(out.share > 0) || scene.blocked(o, sun, 0, 1e30)) return {};
  return out;
}

int creditPoints(double sda) { return sda >= 0.75 - 1e-12 ? 3 : sda >= 0.55 - 1e-12 ? 2 : sda >= 0.40 - 1e-12 ? 1 : 0; }

namespace {

constexpr std::size_t batches = 4;
constexpr std::size_t skip = 8; ///< of the hours with light, for the uncertainty

/// One space: its hours by group, its beam, its blinds.
class Space {
public:
  Space(const YearInput& in, std::size_t space, Threads threads) : in_(in), g_(in.sensors.groups[space]), threads_(threads), hours_(in.sky->hours.size()), n_(g_.count) {
    for (std::uint32_t k = 1; k < in.groups.size(); ++k)
      if (g_.room >= 0 ? in.groups[k].room == g_.room : in.groups[k].room < 0) groups_.push_back(k);
    if (groups_.size() > 250) groups_.resize(250);
  }
  const std::vector<std::uint32_t>& groups() const { return groups_; }

  void traceBeam() {
    beam_.assign(n_ * hours_, 0);
    through_.assign(n_ * hours_, 0);
    std::vector<std::uint8_t> local(in_.groups.size(), std::uint8_t(groups_.size()));
    for (std::size_t k = 0; k < groups_.size(); ++k) local[groups_[k]] = std::uint8_t(k);
    forChunks(n_, 2, threads_, [&](std::size_t a, std::size_t b) {
      for (std::size_t i = a; i < b; ++i) {
        const Sensor& s = in_.sensors.sensors[g_.first + i];
        for (std::size_t h = 0; h < hours_; ++h) {
          if (!(in_.sky->beam[h] > 0)) continue;
          const BeamShare share = beamAt(*in_.scene, s.position, s.normalVector(), in_.sky->sun[h]);
          if (!(share.share > 0)) continue;
          beam_[i * hours_ + h] = float(share.share) * in_.sky->beam[h];
          through_[i * hours_ + h] = local[share.group];
        }
      }
    });
  }

  /// Which groups are closed in which hour: hours × groups.
  void workBlinds() {
    closed_.assign(hours_ * groups_.size(), in_.settings.blinds == BlindRule::Always);
    if (in_.settings.blinds != BlindRule::Standard) return;
    for (std::size_t h = 0; h < hours_; ++h) {
      if (!(in_.sky->beam[h] > 0)) continue;
      std::vector<std::size_t> hit(groups_.size() + 1, 0);
      for (std::size_t i = 0; i < n_; ++i)
        if (double(beam_[i * hours_ + h]) >= in_.settings.closesAt) ++hit[through_[i * hours_ + h]];
      for (std::size_t k = 0; k < groups_.size(); ++k) closed_[h * groups_.size() + k] = double(hit[k]) > in_.settings.closesAbove * double(n_);
    }
  }

  /// Light that a group's closed cloth takes in, lx, hour by hour.
  std::vector<float> behindPanes(std::size_t k, const Eigen::VectorXf& pane) const {
    std::vector<float> out(hours_, 0);
    std::vector<const LightScene::Piece*> pieces;
    for (const LightScene::Piece& p : in_.scene->pieces())
      if (p.group == groups_[k]) pieces.push_back(&p);
    double area = 0;
    for (const auto* p : pieces) area += p->area;
    const Eigen::RowVectorXf sky = pane.transpose() * in_.sky->luminance;
    for (std::size_t h = 0; h < hours_; ++h) {
      if (!closed_[h * groups_.size() + k]) continue;
      double beam = 0;
      if (in_.sky->beam[h] > 0)
        for (const auto* p : pieces) {
          const Vec3 s = in_.sky->sun[h];
          const double c = dot(p->normal, s);
          if (c <= 0) continue;
          const BeamShare free = beamAt(*in_.scene, p->center() + p->normal * 1e-3, p->normal, s);
          beam += free.share * in_.scene->optics(p->optics).straight(c) * p->area / area;
        }
      out[h] = sky[Eigen::Index(h)] + float(beam) * in_.sky->beam[h];
    }
    return out;
  }

  /// Illuminance of all sensors in the hours [every, …), sensors × those hours.
  Eigen::MatrixXf illuminance(const std::vector<const SpaceCoefficients*>& of, std::size_t every, const std::vector<std::vector<float>>& behind) const {
    std::vector<Eigen::Index> picked;
    for (std::size_t h = 0; h < hours_; h += every) picked.push_back(Eigen::Index(h));
    const auto count = Eigen::Index(picked.size());
    Eigen::MatrixXf sky;
    if (every > 1) {
      sky.resize(in_.sky->luminance.rows(), count);
      for (Eigen::Index k = 0; k < count; ++k) sky.col(k) = in_.sky->luminance.col(picked[std::size_t(k)]);
    }
    const Eigen::MatrixXf& l = every > 1 ? sky : in_.sky->luminance;
    Eigen::MatrixXf out = Eigen::MatrixXf::Zero(Eigen::Index(n_), count);
    const float share = 1 / float(of.size());
    for (std::size_t part = 0; part <= groups_.size(); ++part) {
      Eigen::MatrixXf all = Eigen::MatrixXf::Zero(Eigen::Index(n_), Eigen::Index(SkyBins::count)), reflected = all;
      for (const SpaceCoefficients* c : of) {
        all += share * c->all[part];
        reflected += share * c->reflected[part];
      }
      // Blocks of hours: fixed, so that sums keep their order whoever computes them.
      const std::size_t block = 128, blocks = (std::size_t(count) + block - 1) / block;
      forChunks(blocks, 1, threads_, [&](std::size_t a, std::size_t b) {
        for (std::size_t k = a; k < b; ++k) {
          const auto first = Eigen::Index(k * block), size = std::min<Eigen::Index>(Eigen::Index(block), count - first);
          Eigen::MatrixXf e = all * l.middleCols(first, size);
          for (Eigen::Index c = 0; c < size; ++c) {
            const auto h = std::size_t(picked[std::size_t(first + c)]);
            const float beam = in_.sky->beam[h];
            if (beam > 0) e.col(c) += reflected.col(in_.sky->sunBin[h]) * (beam / float(SkyBins::solidAngle(in_.sky->sunBin[h])));
            const bool shut = part < groups_.size() && closed_[h * groups_.size() + part];
            if (!shut) {
              for (Eigen::Index i = 0; beam > 0 && i < Eigen::Index(n_); ++i)
                if (through_[std::size_t(i) * hours_ + h] == part) e(i, c) += beam_[std::size_t(i) * hours_ + h];
            } else {
              e.col(c) *= float(in_.settings.clothStraight);
              const float luminance = float(in_.settings.clothScattered / pi) * behind[part][h];
              for (const SpaceCoefficients* q : of) e.col(c) += q->pane.col(Eigen::Index(part)) * (share * luminance);
            }
            out.col(first + c) += e.col(c);
          }
        }
      });
    }
    return out;
  }

  std::size_t beamHours(std::size_t i) const {
    std::size_t n = 0;
    for (std::size_t h = 0; h < hours_; ++h) n += in_.mask[in_.sky->hours[h]] && double(beam_[i * hours_ + h]) >= in_.settings.metrics.beam;
    return n;
  }
  std::size_t closedHours(std::size_t k) const {
    std::size_t n = 0;
    for (std::size_t h = 0; h < hours_; ++h) n += in_.mask[in_.sky->hours[h]] && closed_[h * groups_.size() + k];
    return n;
  }
  bool everCloses(std::size_t k) const {
    for (std::size_t h = 0; h < hours_; ++h)
      if (closed_[h * groups_.size() + k]) return true;
    return false;
  }

private:
  const YearInput& in_;
  const SensorGridFacts& g_;
  Threads threads_;
  std::size_t hours_, n_;
  std::vector<std::uint32_t> groups_;
  std::vector<float> beam_;
  std::vector<std::uint8_t> through_; ///< part that the beam comes through
  std::vector<std::uint8_t> closed_;
};

double spread(const std::vector<double>& v) { // standard error of the mean of independent batches; Student's t for three degrees of freedom
  const double mean = std::accumulate(v.begin(), v.end(), 0.0) / double(v.size());
  double square = 0;
  for (double x : v) square += (x - mean) * (x - mean);
  return 3.182 / 1.960 * std::sqrt(square / double(v.size() - 1) / double(v.size()));
}

} // namespace

YearResult runYear(const YearInput& in, RunControl& control, Threads threads, KeptCoefficients* kept, const std::function<void(const YearResult&)>& partial) {
  const auto start = std::chrono::steady_clock::now();
  const auto elapsed = [&] { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count(); };
  const std::size_t n = in.sensors.sensors.size(), spaces = in.sensors.groups.size();
  YearResult out;
  out.key = in.key;
  out.end = RunEnd::Enough; // until every space is done: what is told on the way is not the whole
  out.sensors.resize(n);
  out.beamHours.assign(n, 0);
  out.relativeError.assign(n, std::nanf(""));
  out.spaces.resize(spaces);
  out.sdaError.assign(spaces, 0);
  out.meanError.assign(spaces, 0);
  out.provision.resize(spaces);
  out.closedHours.assign(in.groups.size(), 0);
  if (in.settings.keepSeries) out.series.assign(n * hoursOfYear, 0);
  KeptCoefficients own;
  KeptCoefficients& store = kept ? *kept : own;
  if (!(store.key == in.rays) || store.batches.size() != spaces) store = {in.rays, std::vector<std::vector<SpaceCoefficients>>(spaces), std::vector<Eigen::VectorXf>(in.groups.size())};
  AimShelf aims(*in.scene, {}, in.settings.seed);
  const double effort = std::pow(0.03 / in.settings.error, 2);
  std::size_t whole = 0, sensorsDone = 0;
  for (std::size_t space = 0; space < spaces && control.goesOn(); ++space) {
    const SensorGridFacts& g = in.sensors.groups[space];
    if (g.count == 0) {
      ++whole;
      continue;
    }
    Space s(in, space, threads);
    // ---- rays, unless they are known
    const bool known = store.batches[space].size() == batches;
    const double before = elapsed();
    for (std::size_t b = store.batches[space].size(); b < batches; ++b) {
      auto c = spaceCoefficients({in.scene.get(), &in.sensors, space, s.groups(), in.settings.seed, std::clamp(int(256 * effort), 32, 1 << 16), std::clamp(int(8 * effort), 2, 1024)}, std::uint32_t(b), aims, control, threads);
      if (!c) break;
      store.batches[space].push_back(std::move(*c));
    }
    if (store.batches[space].size() < batches) break;
    if (!known) out.tracing += elapsed() - before;
    s.traceBeam();
    s.workBlinds();
    std::vector<std::vector<float>> behind(s.groups().size());
    for (std::size_t k = 0; k < s.groups().size(); ++k) {
      out.closedHours[s.groups()[k]] = s.closedHours(k);
      if (!s.everCloses(k)) continue;
      Eigen::VectorXf& pane = store.panes[s.groups()[k]];
      if (pane.size() == 0) pane = paneCoefficients(*in.scene, s.groups()[k], in.settings.seed, 1 << 14, threads);
      behind[k] = s.behindPanes(k, pane);
    }
    // ---- the hours
    std::vector<const SpaceCoefficients*> every;
    for (const SpaceCoefficients& c : store.batches[space]) every.push_back(&c);
    const Eigen::MatrixXf e = s.illuminance(every, 1, behind);
    std::vector<float> series(g.count * hoursOfYear, 0);
    for (std::size_t i = 0; i < g.count; ++i)
      for (std::size_t h = 0; h < in.sky->hours.size(); ++h) series[i * hoursOfYear + in.sky->hours[h]] = e(Eigen::Index(i), Eigen::Index(h));
    for (std::size_t i = 0; i < g.count; ++i) {
      out.sensors[g.first + i] = sensorYear({series.data() + i * hoursOfYear, hoursOfYear}, in.mask, in.settings.metrics);
      out.beamHours[g.first + i] = s.beamHours(i);
    }
    out.spaces[space] = spaceYear({out.sensors.data() + g.first, g.count}, {out.beamHours.data() + g.first, g.count}, in.settings.metrics);
    constexpr std::array<Provision, 6> levels{{{300, 0.5}, {500, 0.5}, {750, 0.5}, {100, 0.95}, {300, 0.95}, {500, 0.95}}};
    for (std::size_t k = 0; k < levels.size(); ++k) out.provision[space][k] = provisionHours(series, g.count, in.daylight, levels[k]);
    if (in.settings.keepSeries) std::copy(series.begin(), series.end(), out.series.begin() + std::ptrdiff_t(g.first * hoursOfYear));
    // ---- how far apart the batches are, over every eighth hour
    std::vector<bool> mask;
    for (std::size_t h = 0; h < in.sky->hours.size(); h += skip) mask.push_back(in.mask[in.sky->hours[h]]);
    const double inMask = double(std::count(in.mask.begin(), in.mask.end(), true));
    std::vector<double> sda, mean;
    std::vector<std::vector<double>> each(g.count);
    for (const SpaceCoefficients* c : every) {
      const Eigen::MatrixXf b = s.illuminance({c}, skip, behind);
      double reached = 0, lux = 0;
      for (std::size_t i = 0; i < g.count; ++i) {
        double sum = 0, hours = 0;
        for (std::size_t h = 0; h < mask.size(); ++h)
          if (mask[h]) sum += double(b(Eigen::Index(i), Eigen::Index(h))), hours += double(b(Eigen::Index(i), Eigen::Index(h))) >= in.settings.metrics.threshold;
        each[i].push_back(sum);
        lux += sum * skip / inMask / double(g.count);
        // Hours without light count in the schedule too.
        reached += (hours * skip >= in.settings.metrics.autonomy * inMask) / double(g.count);
      }
      sda.push_back(reached);
      mean.push_back(lux);
    }
    for (std::size_t i = 0; i < g.count; ++i) {
      const double m = std::accumulate(each[i].begin(), each[i].end(), 0.0) / batches;
      out.relativeError[g.first + i] = float(m > 0 ? spread(each[i]) / m : 0);
    }
    out.sdaError[space] = spread(sda);
    out.meanError[space] = spread(mean);
    ++whole;
    sensorsDone += g.count;
    if (!kept) store.batches[space].clear();
    out.seconds = elapsed();
    if (control.progress) control.progress(std::min(0.999, double(sensorsDone) / double(n)));
    if (partial) partial(out);
  }
  std::vector<SpaceYear> counting;
  std::vector<double> areas;
  double variance = 0, all = 0;
  for (std::size_t k = 0; k < spaces; ++k)
    if (in.counted[k] && in.sensors.groups[k].count > 0 && !std::isnan(out.relativeError[in.sensors.groups[k].first])) { // of spaces that are done
      counting.push_back(out.spaces[k]);
      areas.push_back(in.areas[k]);
      all += in.areas[k];
      variance += std::pow(in.areas[k] * out.sdaError[k], 2);
    }
  out.building = buildingYear(counting, areas);
  out.buildingSdaError = all > 0 ? std::sqrt(variance) / all : 0;
  out.end = control.end(whole == spaces);
  out.seconds = elapsed();
  if (control.progress) control.progress(1);
  return out;
}

} // namespace noonward
