#include "core/files/project/record_json.h"
#include "core/model/record_parts.h"
#include <fmt/format.h>

namespace noonward {

namespace {
constexpr std::pair<RecordPartKind, const char*> ofKeys[] = {{RecordPartKind::Study, "study"},
                                                             {RecordPartKind::Verdict, "verdict"},
                                                             {RecordPartKind::View, "view"},
                                                             {RecordPartKind::Measured, "measured"},
                                                             {RecordPartKind::Sweep, "sweep"}};

Json shadowJson(const ShadowDay& s) {
  return Json{{"day", dayText({2026, s.month, s.day})},
              {"from", clockText(s.fromMinute)},
              {"to", clockText(s.toMinute)},
              {"step", s.stepMinutes}};
}

ShadowDay shadowDay(JsonObject o) {
  ShadowDay s;
  const std::string day = o.text("day", dayText({2026, s.month, s.day}));
  if (const auto date = dateFromText(day + " 2026")) {
    s.month = date->month;
    s.day = date->day;
  } else {
    o.fault("day", fmt::format("\"{}\" is no day such as \"21 Mar\".", day));
  }
  const auto clock = [&](const char* key, double& minute) {
    const std::string text = o.text(key, clockText(minute));
    const auto read = minutesFromText(text);
    if (!read) return o.fault(key, fmt::format("\"{}\" is no clock time such as 9:30.", text));
    minute = *read;
  };
  clock("from", s.fromMinute);
  clock("to", s.toMinute);
  s.stepMinutes = o.number("step", s.stepMinutes, 1, 240);
  if (s.toMinute <= s.fromMinute) o.fault("to", "The end of the clock window lies before its beginning.");
  return s;
}
} // namespace

void writeRecordPlan(Json& into, const Project& p) {
  const RecordPlan& plan = p.record;
  if (plan == RecordPlan{}) return;
  Json j = Json::object();
  j["paper"] = paperKey(plan.paper);
  for (const RecordPart& x : plan.parts) {
    Json one = Json::object();
    for (const auto& [kind, key] : ofKeys)
      if (x.kind == kind) one[key] = x.of;
    if (x.kind == RecordPartKind::Shadows) one["shadows"] = shadowJson(x.shadows);
    if (x.kind == RecordPartKind::Beside) one["beside"] = true;
    if (!x.title.empty()) one["title"] = x.title;
    if (!x.text.empty() || x.kind == RecordPartKind::Text) one["text"] = x.text;
    j["parts"].push_back(std::move(one));
  }
  for (const Remark& r : plan.remarks) j["remarks"].push_back({{"by", r.by}, {"text", r.text}, {"answer", r.answer}});
  into["record"] = std::move(j);
}

void readRecordPlan(JsonObject& from, Project& p) {
  if (!from.has("record")) return;
  JsonObject o = from.object("record");
  const std::string paper = o.text("paper", "a4");
  if (const auto read = paperFromKey(paper))
    p.record.paper = *read;
  else
    o.fault("paper", fmt::format("\"{}\" is none of a4, a3, letter.", paper));
  o.array("parts", [&](const Json& v, const std::string& path) {
    JsonObject one(v, path, o.faults());
    RecordPart part;
    for (const auto& [kind, key] : ofKeys)
      if (one.has(key)) {
        part.kind = kind;
        part.of = one.requiredText(key);
      }
    if (one.has("shadows")) {
      part.kind = RecordPartKind::Shadows;
      part.shadows = shadowDay(one.object("shadows"));
    }
    if (one.has("beside") && one.boolean("beside", false)) part.kind = RecordPartKind::Beside;
    part.title = one.text("title");
    part.text = one.text("text");
    p.record.parts.push_back(std::move(part));
  });
  o.array("remarks", [&](const Json& v, const std::string& path) {
    JsonObject one(v, path, o.faults());
    p.record.remarks.push_back({one.text("by"), one.requiredText("text"), one.text("answer")});
  });
}

} // namespace noonward
