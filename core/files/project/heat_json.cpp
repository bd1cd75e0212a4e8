#include "core/files/project/heat_json.h"
#include "core/model/heat_library.h"
#include "core/sun/time.h"

namespace noonward {

namespace {
/// Numbers of a use by their keys: one list for reading and writing.
struct UseNumber {
  const char* key;
  double RoomUse::*member;
  double least, most;
};
constexpr UseNumber useNumbers[] = {
    {"people", &RoomUse::people, 0, 500},           {"equipment", &RoomUse::equipment, 0, 2000},
    {"lighting", &RoomUse::lighting, 0, 500},       {"target", &RoomUse::target, 0, 1e5},
    {"heat-to", &RoomUse::heatTo, -50, 60},         {"cool-to", &RoomUse::coolTo, -50, 200},
    {"heat-back", &RoomUse::heatBack, -50, 60},     {"cool-back", &RoomUse::coolBack, -50, 200},
    {"ventilation", &RoomUse::ventilation, 0, 100}, {"infiltration", &RoomUse::infiltration, 0, 50}};

double minuteOf(JsonObject& o, const char* key, double fallback) {
  if (!o.has(key)) return fallback;
  const Json& v = o.raw(key);
  const auto minute = v.is_string() ? minutesFromText(v.get<std::string>()) : std::nullopt;
  if (!minute) o.fault(key, "A time such as \"8:00\" is expected here.");
  return minute.value_or(fallback);
}
} // namespace

void readHeat(JsonObject& root, HeatDesign& h) {
  if (!root.has("heat")) return;
  JsonObject o = root.object("heat");
  const std::string mass = o.text("mass", thermalMassKey(h.mass));
  if (const auto m = thermalMassFromKey(mass))
    h.mass = *m;
  else
    o.fault("mass", "very-light, light, medium, heavy or very-heavy is expected here.");
  h.wall = o.text("wall");
  h.roof = o.text("roof");
  h.ground = o.text("ground");
  h.exposedFloor = o.text("exposed-floor");
  h.closedBlinds = o.number("closed-blinds", h.closedBlinds, 0, 1);
  h.use = o.text("use");
  o.array("constructions", [&](const Json& v, const std::string& path) {
    JsonObject c(v, path, o.faults());
    Construction made;
    made.name = c.requiredText("name");
    made.uValue = c.requiredNumber("u-value", 0.01, 20);
    made.source = c.text("source");
    h.constructions.push_back(std::move(made));
  });
  o.array("uses", [&](const Json& v, const std::string& path) {
    JsonObject u(v, path, o.faults());
    RoomUse made;
    made.name = u.requiredText("name");
    for (const UseNumber& n : useNumbers) made.*n.member = u.number(n.key, made.*n.member, n.least, n.most);
    const std::string control = u.text("control", lightingControlKey(made.control));
    if (const auto c = lightingControlFromKey(control))
      made.control = *c;
    else
      u.fault("control", "dimmed, switched or always is expected here.");
    made.beginMinute = minuteOf(u, "from", made.beginMinute);
    made.endMinute = minuteOf(u, "to", made.endMinute);
    made.weekdaysOnly = u.boolean("weekdays", made.weekdaysOnly);
    made.source = u.text("source");
    if (const std::string fault = faultOf(made); !fault.empty()) u.fault("heat-to", fault);
    h.uses.push_back(std::move(made));
  });
}

void writeHeat(Json& root, const HeatDesign& h) {
  const HeatDesign usual;
  if (h == usual) return;
  Json j = Json::object();
  if (h.mass != usual.mass) j["mass"] = thermalMassKey(h.mass);
  for (const auto& [key, name] :
       {std::pair{"wall", h.wall}, {"roof", h.roof}, {"ground", h.ground}, {"exposed-floor", h.exposedFloor}})
    if (!name.empty()) j[key] = name;
  if (h.closedBlinds != usual.closedBlinds) j["closed-blinds"] = h.closedBlinds;
  if (!h.use.empty()) j["use"] = h.use;
  for (const Construction& c : h.constructions) {
    Json one{{"name", c.name}, {"u-value", c.uValue}};
    if (!c.source.empty()) one["source"] = c.source;
    j["constructions"].push_back(std::move(one));
  }
  for (const RoomUse& u : h.uses) {
    Json one{{"name", u.name}};
    for (const UseNumber& n : useNumbers) one[n.key] = u.*n.member;
    one["control"] = lightingControlKey(u.control);
    one["from"] = clockText(u.beginMinute);
    one["to"] = clockText(u.endMinute);
    if (!u.weekdaysOnly) one["weekdays"] = false;
    if (!u.source.empty()) one["source"] = u.source;
    j["uses"].push_back(std::move(one));
  }
  root["heat"] = std::move(j);
}

} // namespace noonward
