#include "core/files/results/tables.h"
#include "core/base/json.h"
#include "core/files/meshes/geo_rings.h"
#include "core/model/rooms/placing.h"
#include <cmath>
#include <fmt/format.h>

namespace noonward {

std::string csvField(std::string_view text) {
  if (text.find_first_of(",\"\n\r") == text.npos) return std::string(text);
  std::string out = "\"";
  for (char c : text) {
    if (c == '"') out += '"';
    out += c;
  }
  return out + "\"";
}

namespace {
/// "name,x,y,z,nx,ny,nz,"
std::string sensorColumns(const SensorSet& set, std::size_t i) {
  const Sensor& s = set.sensors[i];
  return fmt::format("{},{:.4f},{:.4f},{:.4f},{:.6f},{:.6f},{:.6f},", csvField(set.sensorName(i)), s.position.x,
                     s.position.y, s.position.z, s.normal[0] + 0.0f, s.normal[1] + 0.0f, s.normal[2] + 0.0f);
}
} // namespace

namespace {
/// What it was without the proposal, and what the proposal changed.
std::string differenceColumns(float before, float now) {
  if (std::isnan(before)) return ",,";
  if (std::isnan(now)) return fmt::format(",{:.6g},", before);
  return fmt::format(",{:.6g},{:.6g}", before, double(now) - double(before));
}
} // namespace

std::string lightCsv(const SensorSet& sensors, const LightResult& r, const LightResult* before) {
  const bool parts = !r.direct.empty();
  std::string out = "sensor,x,y,z,nx,ny,nz,value,standard_error";
  if (parts) out += ",direct,sky,reflected";
  for (const ResultColumn& c : r.columns) out += "," + c.key;
  if (before) out += ",before,difference";
  out += '\n';
  for (std::size_t i = 0; i < sensors.sensors.size(); ++i) {
    out += sensorColumns(sensors, i);
    const bool known = !std::isnan(r.value[i]);
    out += known ? fmt::format("{:.6g},{:.3g}", r.value[i], r.standardError[i]) : std::string(",");
    if (parts)
      out += known ? fmt::format(",{:.6g},{:.6g},{:.6g}", r.direct[i], r.sky[i], r.reflected[i]) : std::string(",,,");
    for (const ResultColumn& c : r.columns) out += known ? fmt::format(",{:.6g}", c.values[i]) : std::string(",");
    if (before) out += differenceColumns(before->value[i], r.value[i]);
    out += '\n';
  }
  return out;
}

std::string energyMonthsCsv(const SensorSet& sensors, const std::vector<EnergyMonth>& months) {
  std::string out = "sensor,month,value,standard_error,direct,sky,reflected\n";
  for (std::size_t i = 0; i < sensors.sensors.size(); ++i)
    for (const EnergyMonth& m : months) {
      const LightResult& r = m.result;
      out += fmt::format("{},{},", csvField(sensors.sensorName(i)), m.month);
      out += std::isnan(r.value[i]) ? std::string(",,,,\n")
                                    : fmt::format("{:.6g},{:.3g},{:.6g},{:.6g},{:.6g}\n", r.value[i],
                                                  r.standardError[i], r.direct[i], r.sky[i], r.reflected[i]);
    }
  return out;
}

std::string receiversCsv(const Project& p, const SensorSet& sensors) {
  std::string out = "receiver,group,dwelling,subject,x,y,z,nx,ny,nz,azimuth_deg,area_m2,building\n";
  for (std::size_t i = 0; i < sensors.sensors.size(); ++i) {
    const Sensor& s = sensors.sensors[i];
    const SensorGridFacts& g = sensors.groups[s.group];
    const SensorGroup* group = p.group(g.id);
    const bool upright = std::abs(s.normal[2]) < 0.999f;
    const std::string dwelling = group ? group->dwelling : "";
    const char* subject = !group || group->subject == Subject::None ? ""
                          : group->subject == Subject::LivingRoom   ? "living-room"
                                                                    : "open-space";
    out += fmt::format(
        "{},{},{},{},{:.4f},{:.4f},{:.4f},{:.6f},{:.6f},{:.6f},{},{},{}\n", csvField(sensors.sensorName(i)),
        csvField(g.name), csvField(dwelling), subject, s.position.x, s.position.y, s.position.z, s.normal[0],
        s.normal[1], s.normal[2],
        upright
            ? fmt::format("{:.2f}",
                          degrees(wrapTwoPi(std::atan2(double(s.normal[0]), double(s.normal[1])) + p.site.northAngle)))
            : std::string(),
        g.spacing > 0 ? fmt::format("{:.4f}", sensors.areaOf(i)) : std::string(),
        csvField(group ? group->building : ""));
  }
  return out;
}

std::string roomsCsv(const std::vector<RoomFacts>& rooms) {
  std::string out = "room,use,area_m2,volume_m3,exposed_m2,window_north_m2,window_east_m2,window_south_m2,window_west_"
                    "m2,rooflight_m2,regularly_occupied,reason\n";
  for (const RoomFacts& r : rooms)
    out += fmt::format("{},{},{:.3f},{:.3f},{:.3f},{:.3f},{:.3f},{:.3f},{:.3f},{:.3f},{},{}\n", csvField(r.name),
                       csvField(r.use), r.area, r.volume, r.exposedArea, r.windowArea[0], r.windowArea[1],
                       r.windowArea[2], r.windowArea[3], r.rooflightArea, r.counted ? "yes" : "no", csvField(r.reason));
  return out;
}

std::string sunHoursCsv(const SensorSet& sensors, const Zone& zone, const SunHoursResult& r,
                        const SunHoursResult* before) {
  std::string out = "sensor,x,y,z,nx,ny,nz,hours,longest_hours,first,last";
  out += before ? ",before,difference\n" : "\n";
  const auto stamp = [&](float s) {
    if (std::isnan(s)) return std::string();
    const Instant t = r.midnight + double(s);
    return isoText(t, zone.offset(t));
  };
  for (std::size_t i = 0; i < sensors.sensors.size(); ++i) {
    out += sensorColumns(sensors, i);
    if (std::isnan(r.hours[i]))
      out += ",,,";
    else
      out += fmt::format("{:.6f},{:.6f},{},{}", r.hours[i], r.longest[i], stamp(r.first[i]), stamp(r.last[i]));
    if (before) out += differenceColumns(before->hours[i], r.hours[i]);
    out += '\n';
  }
  return out;
}

std::string fieldCsv(const SensorField& now, const Zone& zone, const SensorField* before) {
  return now.light ? lightCsv(now.sensors, *now.light, before ? before->light.get() : nullptr)
                   : sunHoursCsv(now.sensors, zone, *now.result, before ? before->result.get() : nullptr);
}

std::string fieldGeoJson(const Project& p, const SensorField& now, const SensorField* before) {
  const GeoRings place(p);
  Json features = Json::array();
  for (std::size_t i = 0; i < now.values().size(); ++i) {
    const Sensor& s = now.sensors.sensors[i];
    Json of{{"receiver", now.sensors.sensorName(i)},
            {"group", now.sensors.groups[s.group].name},
            {"unit", now.scale.unit},
            {"height_m", s.position.z + p.site.origin.z}};
    if (std::abs(s.normal[2]) < 0.999f)
      of["azimuth_deg"] = degrees(wrapTwoPi(std::atan2(double(s.normal[0]), double(s.normal[1])) + p.site.northAngle));
    const auto put = [&](const char* key, double value) { of[key] = std::isfinite(value) ? Json(value) : Json(); };
    put("value", double(now.values()[i]));
    if (now.light) put("standard_error", double(now.light->standardError[i]));
    if (before && i < before->values().size()) {
      put("before", double(before->values()[i]));
      put("difference", double(now.values()[i]) - double(before->values()[i]));
    }
    features.push_back(
        Json{{"type", "Feature"},
             {"properties", std::move(of)},
             {"geometry", {{"type", "Point"}, {"coordinates", place.point({s.position.x, s.position.y})}}}});
  }
  return Json{{"type", "FeatureCollection"}, {"features", std::move(features)}}.dump(1, ' ', false,
                                                                                     Json::error_handler_t::replace);
}

std::string stretchesCsv(const SunHoursInput& in, std::size_t sensor) {
  std::string out = "sensor,date,begin,end,minutes\n";
  for (const auto& [date, sun] : sunStretches(in, sensor)) {
    const Instant midnight = in.zone.instant({date, 0});
    for (const Interval& i : sun) {
      const Instant a = midnight + i.begin, b = midnight + i.end;
      out += fmt::format("{},{},{},{},{:.3f}\n", csvField(in.sensors.sensorName(sensor)), isoText(date),
                         isoText(a, in.zone.offset(a)), isoText(b, in.zone.offset(b)), i.length() / 60);
    }
  }
  return out;
}

std::string skylineCsv(const Project& p, const ProbeResult& probe) {
  std::string out = "azimuth_deg,altitude_deg,element\n";
  for (const SkylineStep& s : probe.skyline) {
    const std::string name = s.element ? surfaceName(p, s.element) : std::string();
    out +=
        fmt::format("{:.1f},{:.3f},{}\n", degrees(s.azimuth), degrees(s.altitude), name.empty() ? "" : csvField(name));
  }
  return out;
}

std::string verdictCsv(const Verdict& v) {
  std::string out = "subject,outcome,after,before,unit,text\n";
  const auto number = [](double x) { return std::isnan(x) ? std::string() : fmt::format("{:.4f}", x); };
  for (const VerdictRow& r : v.rows)
    out += fmt::format("{},{},{},{},{},{}\n", csvField(r.name), outcomeText(r.outcome), number(r.after),
                       number(r.before), v.unit, csvField(r.text));
  out += fmt::format("TOTAL,{},{},{},{},{}\n", outcomeText(v.outcome), number(v.figure), number(v.before), v.unit,
                     csvField(v.text));
  return out;
}

namespace {
std::string number(double v, int digits = 6) {
  return fmt::format("{:.{}g}", v, digits);
}

} // namespace

std::string yearCsv(const YearFacts& in, const YearResult& r) {
  std::string out =
      "sensor,x,y,z,nx,ny,nz,autonomy_percent,continuous_autonomy_percent,useful_below_percent,useful_supplementary_"
      "percent,useful_percent,useful_above_percent,mean_lux,median_lux,mean_lux_standard_error,beam_hours\n";
  for (std::size_t i = 0; i < in.sensors.sensors.size(); ++i) {
    const Sensor& s = in.sensors.sensors[i];
    const SensorYear& y = r.sensors[i];
    const Vec3 n = s.normalVector();
    out +=
        fmt::format("{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{}\n", csvField(in.sensors.sensorName(i)),
                    number(s.position.x, 9), number(s.position.y, 9), number(s.position.z, 9), number(n.x), number(n.y),
                    number(n.z), number(100 * y.autonomy), number(100 * y.continuous), number(100 * y.useful[0]),
                    number(100 * y.useful[1]), number(100 * y.useful[2]), number(100 * y.useful[3]), number(y.mean),
                    number(y.median), number(y.mean * double(r.relativeError[i]), 3), r.beamHours[i]);
  }
  return out;
}

std::string yearSpacesCsv(const YearFacts& in, const YearResult& r) {
  std::string out =
      "space,area_m2,regularly_occupied,sensors,sda_percent,sda_standard_error,ase_percent,mean_lux,mean_lux_"
      "standard_error,median_lux,useful_below_percent,useful_supplementary_percent,useful_percent,useful_"
      "above_percent,provision_300_half_h,provision_500_half_h,provision_750_half_h,provision_100_nearly_"
      "all_h,provision_300_nearly_all_h,provision_500_nearly_all_h,provision_750_nearly_all_h\n";
  for (std::size_t k = 0; k < r.spaces.size(); ++k) {
    const SpaceYear& s = r.spaces[k];
    out += fmt::format("{},{},{},{},{},{},{},{},{},{},{},{},{},{}", csvField(in.sensors.groups[k].name),
                       number(in.areas[k]), in.counted[k] ? "yes" : "no", in.sensors.groups[k].count,
                       number(100 * s.sda), number(100 * r.sdaError[k], 3), number(100 * s.ase), number(s.meanLux),
                       number(r.meanError[k], 3), number(s.medianLux), number(100 * s.useful[0]),
                       number(100 * s.useful[1]), number(100 * s.useful[2]), number(100 * s.useful[3]));
    for (double h : r.provision[k]) out += "," + number(h);
    out += "\n";
  }
  return out;
}

std::string shadeCsv(const ShadeReport& r) {
  std::string text = "window,facing,glass_m2,unwanted_without_h,unwanted_with_h,kept_out_percent,wanted_without_h,"
                     "wanted_with_h,wanted_lost_percent,sky_percent,view_percent,unwanted_without_kwh_m2,"
                     "unwanted_with_kwh_m2\n";
  for (const WindowShade& w : r.windows)
    text += fmt::format("{},{},{:.3f},{:.2f},{:.2f},{:.2f},{:.2f},{:.2f},{:.2f},{:.2f},{:.2f},{},{}\n",
                        csvField(w.name), w.facing ? facingKey(*w.facing) : "up", w.area, w.keepOut.bare,
                        w.keepOut.shaded, 100 * w.keepOut.taken(), w.letIn.bare, w.letIn.shaded, 100 * w.letIn.taken(),
                        100 * w.sky, 100 * w.view, r.hasWeather ? fmt::format("{:.2f}", w.keepOut.bareBeam) : "",
                        r.hasWeather ? fmt::format("{:.2f}", w.keepOut.shadedBeam) : "");
  return text;
}

} // namespace noonward
