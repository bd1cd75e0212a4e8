#include "core/runs/receiver_rows.h"
#include "core/files/results/tables.h"
#include <cmath>
#include <fmt/format.h>
#include <unordered_map>

namespace noonward {

const char* subjectName(Subject s) {
  switch (s) {
  case Subject::None:
    return "";
  case Subject::LivingRoom:
    return "living room";
  case Subject::OpenSpace:
    return "open space";
  }
  return "";
}

std::vector<ReceiverRow> receiverRows(const Project& p, const SensorSet& set, const SensorField* painted,
                                      const std::vector<std::pair<Judgement, Verdict>>& verdicts) {
  struct Told {
    Outcome3 outcome = Outcome3::NotJudged;
    std::string text;
  };
  // The worst of what any rule says of a name.
  const auto rank = [](Outcome3 o) { return o == Outcome3::FallsShort ? 2 : o == Outcome3::NotJudged ? 1 : 0; };
  std::unordered_map<std::string, Told> said;
  for (const auto& [j, v] : verdicts)
    for (const VerdictRow& r : v.rows) {
      const auto [at, fresh] = said.try_emplace(r.name);
      const Told told{r.outcome,
                      fmt::format("{}: {}{}{}", v.title, outcomeText(r.outcome), r.text.empty() ? "" : ", ", r.text)};
      if (fresh || rank(r.outcome) > rank(at->second.outcome)) at->second = told;
    }
  const bool same = painted && painted->values().size() == set.sensors.size();
  std::vector<ReceiverRow> out;
  out.reserve(set.sensors.size());
  std::unordered_map<std::uint64_t, const SensorGroup*> groups;
  for (const SensorGroup& g : p.groups) groups[g.id.value] = &g;
  for (const SensorGridFacts& g : set.groups) {
    const auto at = groups.find(g.id.value);
    const SensorGroup* group = at == groups.end() ? nullptr : at->second;
    for (std::size_t i = g.first; i < g.first + g.count; ++i) {
      ReceiverRow r;
      r.ref = {g.id, i - g.first};
      r.sensor = i;
      r.receiver = set.sensorName(i);
      r.group = g.name;
      if (group) {
        r.dwelling = group->dwelling;
        r.building = group->building;
        r.subject = group->subject;
      }
      r.spot = {set.sensors[i].position, set.sensors[i].normalVector()};
      if (same) {
        r.value = double(painted->values()[i]);
        r.error = painted->light ? double(painted->light->standardError[i]) : 0;
      }
      for (const std::string* name : {&r.receiver, &r.dwelling})
        if (const auto told = name->empty() ? said.end() : said.find(*name);
            told != said.end() && (!r.outcome || rank(told->second.outcome) > rank(*r.outcome))) {
          r.outcome = told->second.outcome;
          r.verdict = told->second.text;
        }
      out.push_back(std::move(r));
    }
  }
  return out;
}

std::string receiverRowsCsv(const Project& p, const std::vector<ReceiverRow>& rows, const std::string& unit) {
  std::string out =
      "number,receiver,group,dwelling,building,subject,x,y,z,azimuth_deg,value,standard_error,unit,outcome,verdict\n";
  const auto number = [](double v) { return std::isnan(v) ? std::string() : fmt::format("{:.6g}", v); };
  for (const ReceiverRow& r : rows) {
    const Vec3 at = r.spot.position, n = r.spot.normal;
    const std::string azimuth =
        std::abs(n.z) < 0.999 ? fmt::format("{:.2f}", degrees(wrapTwoPi(std::atan2(n.x, n.y) + p.site.northAngle)))
                              : std::string();
    out += fmt::format("{},{},{},{},{},{},{:.4f},{:.4f},{:.4f},{},{},{},{},{},{}\n", r.sensor + 1, csvField(r.receiver),
                       csvField(r.group), csvField(r.dwelling), csvField(r.building), subjectName(r.subject), at.x,
                       at.y, at.z, azimuth, number(r.value), number(r.error), std::isnan(r.value) ? "" : unit,
                       r.outcome ? outcomeText(*r.outcome) : "", csvField(r.verdict));
  }
  return out;
}

} // namespace noonward
