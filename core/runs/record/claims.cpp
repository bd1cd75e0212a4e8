#include "core/runs/record/record.h"
#include <cmath>

namespace noonward {

namespace {

Json figures(const SpaceYear& s) {
  return Json{
      {"sda_percent", 100 * s.sda}, {"ase_percent", 100 * s.ase}, {"mean_lux", s.meanLux}, {"median_lux", s.medianLux}};
}
/// Numbers that are none leave their key out.
void put(Json& into, const char* key, double value) {
  if (std::isfinite(value)) into[key] = value;
}

Json study(const Study& s) {
  return Json{{"id", s.id.text()}, {"name", s.name}, {"kind", studyKey(s.kind)}};
}

Json yearClaim(const YearChapter& c) {
  const YearResult& r = *c.year.result;
  const YearFacts& f = c.year.facts;
  Json j = study(c.study);
  j["key"] = r.key.hex();
  j["building"] = figures(r.building);
  j["building"]["sda_standard_error"] = 100 * r.buildingSdaError;
  j["rooms"] = Json::array();
  for (std::size_t k = 0; k < r.spaces.size(); ++k) {
    if (f.sensors.groups[k].count == 0) continue;
    Json one{{"name", f.sensors.groups[k].name},
             {"id", spaceId(f, k)},
             {"area_m2", f.areas[k]},
             {"regularly_occupied", bool(f.counted[k])}};
    one.update(figures(r.spaces[k]));
    one["sda_standard_error"] = 100 * r.sdaError[k];
    one["mean_lux_standard_error"] = r.meanError[k];
    j["rooms"].push_back(std::move(one));
  }
  return j;
}

Json glareClaim(const GlareChapter& c) {
  Json j{{"worst_seats", Json::array()}};
  for (const SeatLine& s : c.seats)
    j["worst_seats"].push_back(Json{{"name", s.name},
                                    {"share_above_040_percent", 100 * s.seat.above[1]},
                                    {"dgp_95", s.seat.dgp95},
                                    {"worst_dgp", s.seat.worst},
                                    {"worst_moment", s.moment}});
  if (c.worst) j["fisheye"] = Json{{"ev_lux", c.worst->glare.ev}, {"dgp", c.worst->glare.dgp}};
  return j;
}

Json fieldClaim(const FieldChapter& c) {
  Json j = study(c.study);
  if (!c.now) {
    j["fault"] = c.fault;
    return j;
  }
  j["key"] = c.now->key().hex();
  if (c.before) j["key_before"] = c.before->key().hex();
  j["unit"] = c.now->scale.unit;
  j["threshold"] = usualThreshold(c.study.kind);
  j["groups"] = Json::array();
  for (const GroupFigures& g : c.groups) {
    Json one{{"name", g.name}, {"id", g.id}, {"sensors", g.sensors}};
    put(one, "mean", g.mean);
    put(one, "standard_error", g.error);
    put(one, "min", g.min);
    put(one, "max", g.max);
    put(one, "share_percent", 100 * g.share);
    put(one, "before_mean", g.beforeMean);
    put(one, "before_share_percent", 100 * g.beforeShare);
    j["groups"].push_back(std::move(one));
  }
  if (c.glare) j["glare"] = glareClaim(*c.glare);
  return j;
}

Json verdictClaim(const VerdictChapter& c) {
  const Verdict& v = c.verdict;
  Json j{{"yardstick", c.judgement.yardstick},
         {"id", c.judgement.id.text()},
         {"title", v.title},
         {"outcome", outcomeText(v.outcome)},
         {"text", v.text},
         {"unit", v.unit}};
  put(j, "figure", v.figure);
  put(j, "needed", v.needed);
  put(j, "before", v.before);
  put(j, "points", v.points);
  j["rows"] = Json::array();
  for (const VerdictRow& r : v.rows) {
    Json row{{"name", r.name}, {"outcome", outcomeText(r.outcome)}, {"text", r.text}};
    put(row, "after", r.after);
    put(row, "before", r.before);
    j["rows"].push_back(std::move(row));
  }
  for (std::size_t k = 1; k < c.readings.size(); ++k) {
    const RuleReading& r = c.readings[k];
    j["readings"].push_back(Json{{"name", r.name},
                                 {"changed", r.changed},
                                 {"outcome", outcomeText(r.verdict.outcome)},
                                 {"text", r.verdict.text}});
  }
  return j;
}

Json shadowClaim(const ShadowChapter& c) {
  Json j{{"day", dayText({2026, c.asked.month, c.asked.day})},
         {"from", clockText(c.asked.fromMinute)},
         {"to", clockText(c.asked.toMinute)},
         {"step_minutes", c.asked.stepMinutes}};
  if (!c.fault.empty()) {
    j["fault"] = c.fault;
    return j;
  }
  j["key"] = c.plan.key.hex();
  j["net_new_area_hours"] = c.plan.freshAreaHours();
  for (const ShadowMoment& m : c.plan.moments)
    j["moments"].push_back(
        Json{{"shadow_m2", m.ground.allArea}, {"before_m2", m.ground.beforeArea}, {"net_new_m2", m.ground.freshArea}});
  return j;
}

} // namespace

Json recordClaims(const RecordFacts& f) {
  Json j;
  j["option"] = f.project.options.empty() ? "" : f.project.options[f.project.option].name;
  j["studies"] = Json::array();
  for (const RecordPart& part : f.parts)
    if (const YearChapter* y = f.year(part))
      j["studies"].push_back(yearClaim(*y));
    else if (const FieldChapter* x = f.field(part))
      j["studies"].push_back(fieldClaim(*x));
  j["verdicts"] = Json::array();
  for (const VerdictChapter& c : f.verdicts) j["verdicts"].push_back(verdictClaim(c));
  j["shadows"] = Json::array();
  for (const ShadowChapter& c : f.shadows) j["shadows"].push_back(shadowClaim(c));
  for (const MeasuredChapter& c : f.measured)
    j["measured"].push_back(measuredClaim(c)); // not there where there is none, as what follows
  for (const SweepChapter& c : f.sweeps) j["sweeps"].push_back(sweepClaim(c));
  if (f.beside) j["beside"] = besideClaim(*f.beside);
  return j;
}

} // namespace noonward
