#include "core/base/weighted.h"
#include "core/light/light_paths.h"
#include "core/studies/glare_year.h"
#include "core/studies/light_kinds.h"
#include "core/studies/light_study.h"
#include "core/studies/view_out.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

Explanation explain(const LightInput& in, const LightResult* result, std::size_t sensor, std::string_view unit) {
  const std::string own = result ? result->unitText() : in.unit.empty() ? studyUnit(in.kind) : in.unit;
  if (unit.empty()) unit = own;
  Explanation out;
  const Sensor& s = in.sensors.sensors[sensor];
  if (in.kind == StudyKind::ViewOut) {
    const ViewOut view = viewOutOf(*in.scene, in.things, s.position);
    out.sentences.push_back(viewText(view, in.things));
    for (const std::string& line : view.wanting()) out.sentences.push_back(line);
    return out;
  }
  if (result && result->glare && !std::isnan(result->value[sensor])) {
    const GlareSeat& seat = result->glare->seats[sensor];
    out.sentences.push_back(fmt::format("DGP lies above 0.35 in {:.1f} %, above 0.40 in {:.1f} %, above 0.45 in {:.1f} "
                                        "% of the {} hours of the schedule; highest {:.2f}.",
                                        100 * seat.above[0], 100 * seat.above[1], 100 * seat.above[2],
                                        result->glare->scheduleHours, seat.worst));
    if (const std::string causes = glareCauseText(*result->glare, sensor); !causes.empty())
      out.sentences.push_back(causes + ".");
    if (seat.dim > 0)
      out.sentences.push_back(fmt::format("In {:.0f} % of the lit hours the eye has less than 380 lx: DGP is doubtful "
                                          "there, and low.",
                                          100 * seat.dim));
  }
  const Vec3 n = s.normalVector(), o = s.position + n * 1e-3;
  const int rays = 1024;
  std::vector<double> distances;
  int sky = 0, glass = 0, ground = 0, near = 0;
  std::vector<std::pair<std::string, int>> through;
  for (int k = 0; k < rays; ++k) {
    const ScrambledPoint q(mixed(sensor + 5), std::uint32_t(k));
    const Vec3 d = cosineDirection(n, q[0], q[1]);
    const LightScene::Hit wall = in.scene->opaque(o, d, 0, 1e30), pane = in.scene->glass(o, d, 0, wall.distance);
    if (pane.any()) {
      ++glass;
      const std::string& name = in.groups[in.scene->pieces()[pane.triangle].group];
      const auto at = std::find_if(through.begin(), through.end(), [&](const auto& t) { return t.first == name; });
      at == through.end() ? (void)through.emplace_back(name, 1) : (void)++at->second;
    }
    const bool toGround =
        d.z < 0 && o.z > in.scene->groundLevel() && !(wall.distance < (in.scene->groundLevel() - o.z) / d.z);
    if (!wall.any() && d.z > 0) ++sky;
    if (toGround) ++ground;
    if (wall.any()) {
      distances.push_back(wall.distance);
      near += wall.distance < 0.01;
    }
  }
  std::sort(distances.begin(), distances.end());
  out.nearest = distances.empty() ? 0 : distances[distances.size() / 2];
  out.skyShare = double(sky) / rays;
  out.glassShare = double(glass) / rays;
  out.buried = near > rays / 2;
  if (result && sensor < result->value.size()) {
    if (std::isnan(result->value[sensor])) {
      out.sentences.push_back("It was not computed: the run was stopped before.");
      return out;
    }
    if (result->glare)
      ; // told already
    else if (result->value[sensor] == 0 && result->standardError[sensor] > 0)
      out.sentences.push_back(fmt::format("No light was found in {} ways looked: {:.2g} {} at most.",
                                          result->samples[sensor], 2 * result->standardError[sensor], unit));
    else
      out.sentences.push_back(fmt::format("{:.4g} ± {:.2g} {} from {} samples.", result->value[sensor],
                                          result->standardError[sensor], unit, result->samples[sensor]));
  }
  if (result && sensor < result->direct.size() && result->value[sensor] > 0) {
    const double whole = double(result->value[sensor]);
    const auto part = [&](float v) { return fmt::format("{:.4g} {} ({:.0f} %)", v, unit, 100 * double(v) / whole); };
    out.sentences.push_back(fmt::format("Of it {} come from the sun straight, {} from the sky, {} by reflection.",
                                        part(result->direct[sensor]), part(result->sky[sensor]),
                                        part(result->reflected[sensor])));
    const double free = in.radiant ? in.radiant->beamOn(n) / in.days : 0;
    if (free > 0)
      out.sentences.push_back(fmt::format("With nothing in the way the sun would bring {:.4g} {}: {:.0f} % of it is "
                                          "hidden.",
                                          free, unit,
                                          std::max(0.0, 100 * (1 - double(result->direct[sensor]) / free))));
    else
      out.sentences.push_back("The sun never stands in front of it in these hours.");
  }
  if (out.buried)
    out.sentences.push_back("It lies buried: most of what it sees is less than 1 cm away. Is it inside a floor, a wall "
                            "or a table, or does it face one?");
  if (n.z < -0.7) out.sentences.push_back("It looks down.");
  if (!lightKind(in.kind).reflections) {
    out.sentences.push_back(fmt::format("It sees sky in {:.1f} % of its hemisphere by cosine, ground in {:.1f} %.",
                                        100 * out.skyShare, 100.0 * ground / rays));
    return out;
  }
  if (glass == 0 && sky == 0)
    out.sentences.push_back("No glazing and no sky is in sight: all its light has been reflected first.");
  else
    out.sentences.push_back(
        fmt::format("It sees sky straight in {:.1f} % of its hemisphere (by cosine), glazing in {:.1f} %.",
                    100 * out.skyShare, 100 * out.glassShare));
  std::sort(through.begin(), through.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
  for (std::size_t k = 0; k < through.size() && k < 3; ++k)
    out.sentences.push_back(fmt::format("Through {}: {:.1f} %.", through[k].first, 100.0 * through[k].second / rays));
  if (lightKind(in.kind).ofMoment) {
    if (!in.sky.sun)
      out.sentences.push_back("There is no beam at this moment.");
    else if (in.sky.sun->z <= 0)
      out.sentences.push_back("The sun is below the horizon.");
    else if (dot(n, *in.sky.sun) <= 0)
      out.sentences.push_back("It faces away from the sun.");
    else
      out.sentences.push_back(in.scene->blocked(o, *in.sky.sun, 0, 1e30)
                                  ? "The sun is hidden from it."
                                  : "It stands in the sun, through glass or free.");
  }
  return out;
}

LightStatistics lightStatistics(const LightResult& r, std::size_t first, std::size_t count, double low, double high,
                                std::span<const double> areas) {
  LightStatistics s;
  std::vector<std::pair<double, double>> v; // value, weight
  const std::vector<double> given = weightsOf(areas, count);
  double whole = 0;
  for (std::size_t i = first; i < first + count && i < r.value.size(); ++i)
    if (!std::isnan(r.value[i])) whole += given[i - first];
  const auto weight = [&](std::size_t i) { return given[i - first] / whole; };
  double variance = 0, together = 0;
  for (std::size_t i = first; i < first + count && i < r.value.size(); ++i) {
    if (std::isnan(r.value[i])) continue;
    const double value = double(r.value[i]), w = weight(i);
    v.emplace_back(value, w);
    variance += std::pow(w * double(r.standardError[i]), 2);
    together += w * double(r.standardError[i]);
    s.mean += w * value;
    s.shareBelow += value < low ? w : 0;
    s.shareAbove += value > high ? w : 0;
  }
  s.count = v.size();
  if (v.empty()) return s;
  s.meanError = r.energy ? together : std::sqrt(variance); // sensors of a room that share its figure, or independent
  if (constexpr std::size_t of = 16; r.replicates.size() == of * r.value.size()) { // or share what is remembered
    std::array<double, of> means{};
    bool all = true;
    for (std::size_t i = first; i < first + count && i < r.value.size(); ++i)
      for (std::size_t k = 0; k < of && !std::isnan(r.value[i]); ++k) {
        all = all && !std::isnan(r.replicates[of * i + k]);
        means[k] += double(r.replicates[of * i + k]) * weight(i);
      }
    double square = 0;
    for (double m : means) square += std::pow(m - s.mean, 2);
    if (all) s.meanError = 2.131 / 1.960 * std::sqrt(square / (of - 1) / of);
  }
  const auto [least, most] = std::minmax_element(v.begin(), v.end());
  s.least = least->first;
  s.most = most->first;
  s.uniformity = s.mean > 0 ? s.least / s.mean : 0;
  s.median = weightedMedian(std::move(v));
  s.shareBelow = std::min(1.0, s.shareBelow); // weights add up to one but for the last bit
  s.shareAtLeast = 1 - s.shareBelow;
  return s;
}

} // namespace noonward
