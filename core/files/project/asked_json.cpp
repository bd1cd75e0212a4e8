#include "core/files/project/asked_json.h"
#include <fmt/format.h>

namespace noonward {

namespace {

/// Days without a year, such as "1 May", from 0 on.
int dayFromJson(JsonObject& o, const char* key, int fallback) {
  if (!o.has(key)) return fallback;
  const std::string text = o.text(key);
  const auto date = dateFromText(text + " 2025");
  if (!date) {
    o.fault(key, fmt::format("\"{}\" is no day such as \"1 May\".", text));
    return fallback;
  }
  return dayOfYear(*date) - 1;
}
Json dayJson(int day) {
  return dayText(plusDays({2025, 1, 1}, day));
}

/// Two numbers in order; the fallback where the key is absent.
std::array<double, 2> spanFromJson(JsonObject& o, const char* key, std::array<double, 2> fallback, double least,
                                   double most) {
  const Json& v = o.raw(key);
  if (v.is_null()) return fallback;
  if (!v.is_array() || v.size() != 2 || !v[0].is_number() || !v[1].is_number() || v[0] > v[1] || v[0] < least ||
      v[1] > most) {
    o.fault(key, fmt::format("Two numbers [from, to] within {:g} to {:g} are expected here.", least, most));
    return fallback;
  }
  return {v[0].get<double>(), v[1].get<double>()};
}

VaryValue valueFromJson(const Json& v, JsonObject& o, const char* key) {
  if (auto value = varyValue(v)) return std::move(*value);
  o.fault(key, "Numbers, texts, true or false are expected here.");
  return 0.0;
}

constexpr std::pair<SweepGoal::Kind, const char*> goalKeys[] = {{SweepGoal::Kind::AtLeast, "at-least"},
                                                                {SweepGoal::Kind::AtMost, "at-most"},
                                                                {SweepGoal::Kind::Most, "most"},
                                                                {SweepGoal::Kind::Least, "least"}};
constexpr std::pair<SweepOutcome::Of, const char*> outcomeKeys[] = {{SweepOutcome::Of::Study, "study"},
                                                                    {SweepOutcome::Of::Rule, "rule"}};

Variable variableFromJson(JsonObject& o) {
  Variable v;
  v.name = o.requiredText("name");
  if (const Json& at = o.raw("at"); at.is_string())
    v.at = {at.get<std::string>()};
  else
    o.array("at", [&](const Json& one, const std::string&) {
      if (one.is_string())
        v.at.push_back(one.get<std::string>());
      else
        o.fault("at", "Texts such as \"shading/Overhang/depth\" are expected here.");
    });
  if (v.at.empty()) o.fault("at", "A place of the project is missing, such as \"shading/Overhang/depth\".");
  if (o.has("from") || o.has("to") || o.has("step"))
    v.range = VaryRange{o.requiredNumber("from"), o.requiredNumber("to"), o.requiredNumber("step")};
  o.array("values", [&](const Json& one, const std::string&) { v.values.push_back(valueFromJson(one, o, "values")); });
  v.weight = o.number("weight", 1, 0, 1e6);
  return v;
}

SweepOutcome outcomeFromJson(JsonObject& o) {
  SweepOutcome out;
  out.name = o.requiredText("name");
  if (o.has("model")) {
    out.figure = o.requiredText("model");
    return out;
  }
  bool known = false;
  for (const auto& [of, key] : outcomeKeys)
    if (o.has(key)) {
      known = true;
      out.of = of;
      out.source = o.requiredText(key);
    }
  if (!known) o.fault("An outcome is of a \"study\", of a \"rule\" or of the \"model\".");
  out.figure = o.text("figure", out.of == SweepOutcome::Of::Rule ? "figure" : "mean");
  out.group = o.text("group");
  return out;
}

SweepGoal goalFromJson(JsonObject& o) {
  SweepGoal g;
  g.outcome = o.requiredText("outcome");
  int said = 0;
  for (const auto& [kind, key] : goalKeys) {
    if (!o.has(key)) continue;
    ++said;
    g.kind = kind;
    if (kind == SweepGoal::Kind::AtLeast || kind == SweepGoal::Kind::AtMost)
      g.value = o.requiredNumber(key);
    else if (!o.boolean(key, true))
      o.fault(key, "true is expected here.");
  }
  if (said != 1) o.fault("A goal says one of \"at-least\", \"at-most\", \"most\": true, \"least\": true.");
  return g;
}

} // namespace

std::optional<VaryValue> varyValue(const Json& j) {
  if (j.is_boolean()) return VaryValue(j.get<bool>());
  if (j.is_number()) return VaryValue(j.get<double>());
  if (j.is_string()) return VaryValue(j.get<std::string>());
  return {};
}
Json varyJson(const VaryValue& value) {
  return std::visit([](const auto& x) { return Json(x); }, value);
}

void readMeasured(JsonObject& root, Project& project, const std::filesystem::path& folder) {
  root.array("measured", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    MeasuredSeries s;
    s.name = o.requiredText("name");
    const auto id = idFromText(o.text("id"));
    s.id = {id ? *id : derivedId("measured/" + s.name)};
    o.array("files", [&](const Json& file, const std::string& where) {
      std::filesystem::path p = file.is_string() ? file.get<std::string>() : std::string();
      if (p.empty()) return o.fault("files", "Names of files are expected here: " + where + ".");
      if (p.is_relative() && !folder.empty()) p = std::filesystem::absolute(folder / p).lexically_normal();
      s.files.push_back(p.string());
    });
    if (const Json& map = o.raw("map"); map.is_object()) s.map = map.dump();
    s.study = o.text("study");
    s.firstDay = dayFromJson(o, "from", 0);
    s.lastDay = dayFromJson(o, "to", 364);
    const auto hours = spanFromJson(o, "hours", {0, 24}, 0, 24);
    s.firstHour = hours[0];
    s.lastHour = hours[1];
    s.night = o.boolean("night", false);
    if (o.has("altitude")) {
      const auto sun = spanFromJson(o, "altitude", {-90, 90}, -90, 90);
      s.leastAltitude = radians(sun[0]);
      s.mostAltitude = radians(sun[1]);
    }
    s.year = o.integer("year", 0, 0, 2199);
    s.guideline = o.text("guideline");
    project.measured.push_back(std::move(s));
  });
}

void writeMeasured(Json& root, const Project& project) {
  const MeasuredSeries usual;
  for (const MeasuredSeries& s : project.measured) {
    Json j{{"id", s.id.text()}, {"name", s.name}, {"files", s.files}};
    if (Json map = Json::parse(s.map, nullptr, false); map.is_object()) j["map"] = std::move(map);
    if (!s.study.empty()) j["study"] = s.study;
    if (s.firstDay != 0) j["from"] = dayJson(s.firstDay);
    if (s.lastDay != 364) j["to"] = dayJson(s.lastDay);
    if (s.firstHour != 0 || s.lastHour != 24) j["hours"] = Json::array({s.firstHour, s.lastHour});
    if (s.night) j["night"] = true;
    if (s.leastAltitude != usual.leastAltitude || s.mostAltitude != usual.mostAltitude)
      j["altitude"] = Json::array({degrees(s.leastAltitude), degrees(s.mostAltitude)});
    if (s.year != 0) j["year"] = s.year;
    if (!s.guideline.empty()) j["guideline"] = s.guideline;
    root["measured"].push_back(std::move(j));
  }
}

Sweep sweepFromJson(JsonObject& o) {
  Sweep s;
  s.name = o.requiredText("name");
  const auto id = idFromText(o.text("id"));
  s.id = {id ? *id : derivedId("sweep/" + s.name)};
  const auto each = [&](const char* key, auto& list, auto&& read) {
    o.array(key, [&](const Json& v, const std::string& path) {
      JsonObject one(v, path, o.faults());
      list.push_back(read(one));
    });
  };
  each("vary", s.variables, variableFromJson);
  o.array("where", [&](const Json& v, const std::string&) {
    if (v.is_string())
      s.conditions.push_back(v.get<std::string>());
    else
      o.fault("where", "Texts such as \"sill + height <= head\" are expected here.");
  });
  each("outcomes", s.outcomes, outcomeFromJson);
  each("goals", s.goals, goalFromJson);
  s.sample = o.integer("sample", 0, 0, 1'000'000);
  return s;
}

Json sweepJson(const Sweep& s) {
  Json j{{"id", s.id.text()}, {"name", s.name}};
  j["vary"] = Json::array();
  for (const Variable& v : s.variables) {
    Json one{{"name", v.name}};
    one["at"] = v.at.size() == 1 ? Json(v.at.front()) : Json(v.at);
    if (v.range) {
      one["from"] = v.range->from;
      one["to"] = v.range->to;
      one["step"] = v.range->step;
    }
    for (const VaryValue& value : v.values) one["values"].push_back(varyJson(value));
    if (v.weight != 1) one["weight"] = v.weight;
    j["vary"].push_back(std::move(one));
  }
  if (!s.conditions.empty()) j["where"] = s.conditions;
  j["outcomes"] = Json::array();
  for (const SweepOutcome& x : s.outcomes) {
    Json one{{"name", x.name}};
    for (const auto& [of, key] : outcomeKeys)
      if (x.of == of) one[key] = x.source;
    one[x.of == SweepOutcome::Of::Model ? "model" : "figure"] = x.figure;
    if (!x.group.empty()) one["group"] = x.group;
    j["outcomes"].push_back(std::move(one));
  }
  for (const SweepGoal& g : s.goals) {
    Json one{{"outcome", g.outcome}};
    const bool bound = g.kind == SweepGoal::Kind::AtLeast || g.kind == SweepGoal::Kind::AtMost;
    for (const auto& [kind, key] : goalKeys)
      if (g.kind == kind) one[key] = bound ? Json(g.value) : Json(true);
    j["goals"].push_back(std::move(one));
  }
  if (s.sample > 0) j["sample"] = s.sample;
  return j;
}

void readSweeps(JsonObject& root, Project& project) {
  root.array("sweeps", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    project.sweeps.push_back(sweepFromJson(o));
  });
  root.array("beside", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    DesignRef design{o.text("name"), o.text("option"), o.text("sweep"), {}};
    if (!design.sweep.empty()) {
      const Json& values = o.raw("values");
      if (!values.is_object()) o.fault("values", "Values by variable are expected, such as { \"depth\": 0.6 }.");
      for (auto at = values.begin(); values.is_object() && at != values.end(); ++at)
        if (auto read = varyValue(at.value()))
          design.values.emplace_back(at.key(), std::move(*read));
        else
          o.fault("values", fmt::format("{}: a number, a text or true or false is expected.", at.key()));
    }
    project.beside.push_back(std::move(design));
  });
}

void writeSweeps(Json& root, const Project& project) {
  for (const Sweep& s : project.sweeps) root["sweeps"].push_back(sweepJson(s));
  for (const DesignRef& d : project.beside) {
    Json one = Json::object();
    for (const auto& [key, text] : {std::pair{"name", &d.name}, {"option", &d.option}, {"sweep", &d.sweep}})
      if (!text->empty()) one[key] = *text;
    if (!d.sweep.empty()) one["values"] = Json::object();
    for (const auto& [name, value] : d.values) one["values"][name] = varyJson(value);
    root["beside"].push_back(std::move(one));
  }
}

} // namespace noonward
