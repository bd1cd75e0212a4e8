#include "core/files/project/heat_json.h"
#include "core/base/units.h"
#include "core/files/save_file.h"
#include "core/model/heat_library.h"
#include <array>
#include <cmath>

namespace noonward {

namespace {
/// "wall 1" for the first side of the outline.
std::string surfaceKey(int edge) {
  return edge == ceilingEdge ? "ceiling" : edge == floorEdge ? "floor" : "wall " + std::to_string(edge + 1);
}
std::optional<int> surfaceEdge(const std::string& key) {
  if (key == "ceiling") return ceilingEdge;
  if (key == "floor") return floorEdge;
  if (!key.starts_with("wall ")) return {};
  const auto n = numberFromText(key.substr(5));
  return n && *n >= 1 && *n <= 100000 && *n == std::floor(*n) ? std::optional(int(*n) - 1) : std::nullopt;
}
constexpr std::array<std::pair<Beyond, const char*>, 4> beyondKeys{{{Beyond::Outdoors, "outdoors"},
                                                                    {Beyond::Ground, "ground"},
                                                                    {Beyond::Unheated, "unheated"},
                                                                    {Beyond::Alike, "as-warm"}}};
const char* beyondKey(Beyond b) {
  for (const auto& [beyond, key] : beyondKeys)
    if (beyond == b) return key;
  return "";
}
std::optional<Beyond> beyondFromKey(const std::string& k) {
  for (const auto& [beyond, key] : beyondKeys)
    if (k == key) return beyond;
  return {};
}
} // namespace

void readHeat(JsonObject& root, HeatDesign& h, const std::function<RoomId(const Json&, const std::string&)>& room) {
  if (!root.has("heat")) return;
  JsonObject o = root.object("heat");
  readFields(o, h);
  h.wall = o.text("wall");
  h.roof = o.text("roof");
  h.ground = o.text("ground");
  h.exposedFloor = o.text("exposed-floor");
  h.partition = o.text("partition");
  h.use = o.text("use");
  o.array("constructions", [&](const Json& v, const std::string& path) {
    JsonObject c(v, path, o.faults());
    Construction made;
    made.name = c.requiredText("name");
    c.array("layers", [&](const Json& w, const std::string& at) {
      JsonObject l(w, at, c.faults());
      ConstructionLayer layer;
      layer.name = l.text("name");
      layer.thickness = l.requiredNumber("thickness", 1e-4, 5);
      layer.conductivity = l.requiredNumber("conductivity", 1e-3, 500);
      layer.density = l.number("density", layer.density, 1, 20000);
      layer.heatCapacity = l.number("heat-capacity", layer.heatCapacity, 1, 20000);
      made.layers.push_back(std::move(layer));
    });
    made.uValue =
        made.layers.empty() ? c.requiredNumber("u-value", 0.01, 20) : c.number("u-value", made.uValue, 0.01, 20);
    made.source = c.text("source");
    h.constructions.push_back(std::move(made));
  });
  o.array("uses", [&](const Json& v, const std::string& path) {
    JsonObject u(v, path, o.faults());
    RoomUse made;
    made.name = u.requiredText("name");
    readFields(u, made);
    made.copyOf = u.text("copy-of");
    made.source = u.text("source");
    if (const std::string fault = faultOf(made); !fault.empty()) u.fault("heat-to", fault);
    h.uses.push_back(std::move(made));
  });
  o.array("surfaces", [&](const Json& v, const std::string& path) {
    JsonObject s(v, path, o.faults());
    HeatSurface made;
    made.room = room(s.raw("room"), path + ".room");
    const std::string where = s.requiredText("surface");
    if (const auto edge = surfaceEdge(where))
      made.edge = *edge;
    else
      s.fault("surface", "\"wall 1\", \"ceiling\" or \"floor\" is expected here");
    made.construction = s.text("construction");
    const std::string beyond = s.text("beyond");
    if (const auto known = beyondFromKey(beyond); known || beyond.empty())
      made.beyond = known.value_or(Beyond::AsDrawn);
    else
      s.fault("beyond", "\"outdoors\", \"ground\", \"unheated\" or \"as-warm\" is expected here");
    setHeatSurface(h, made);
  });
  o.array("weights", [&](const Json& v, const std::string& path) {
    JsonObject w(v, path, o.faults());
    h.weights.push_back(readWeight(w));
  });
}

EnergyWeight readWeight(JsonObject& w) {
  EnergyWeight made;
  made.name = w.requiredText("name");
  made.unit = w.requiredText("unit");
  made.heating = w.requiredNumber("heating", 0, 1e6);
  made.cooling = w.requiredNumber("cooling", 0, 1e6);
  made.lighting = w.requiredNumber("lighting", 0, 1e6);
  made.source = w.text("source");
  return made;
}

Expected<std::vector<EnergyWeight>> readWeights(const std::filesystem::path& file) {
  const auto text = loadFile(file);
  if (!text) return tl::unexpected(text.error());
  const auto json = parseJson(*text, file.filename().string());
  if (!json) return tl::unexpected(json.error());
  JsonFault fault;
  JsonObject root(*json, "", fault);
  if (root.text("format") != "noonward-energy-weights")
    return fail("This is no file of energy weights: its \"format\" is not \"noonward-energy-weights\".",
                file.filename().string());
  std::vector<EnergyWeight> out;
  root.array("weights", [&](const Json& v, const std::string& path) {
    JsonObject w(v, path, fault);
    out.push_back(readWeight(w));
  });
  if (fault.error) return tl::unexpected(*fault.error);
  if (out.empty()) return fail("The file holds no weights.", file.filename().string());
  return out;
}

void writeHeat(Json& root, const HeatDesign& h) {
  const HeatDesign usual;
  if (h == usual) return;
  Json j = Json::object();
  writeFields(j, h);
  for (const auto& [key, name] : {std::pair{"wall", h.wall},
                                  {"roof", h.roof},
                                  {"ground", h.ground},
                                  {"exposed-floor", h.exposedFloor},
                                  {"partition", h.partition}})
    if (!name.empty()) j[key] = name;
  if (!h.use.empty()) j["use"] = h.use;
  for (const Construction& c : h.constructions) {
    Json one{{"name", c.name}, {"u-value", c.uValue}};
    for (const ConstructionLayer& l : c.layers)
      one["layers"].push_back({{"name", l.name},
                               {"thickness", l.thickness},
                               {"conductivity", l.conductivity},
                               {"density", l.density},
                               {"heat-capacity", l.heatCapacity}});
    if (!c.source.empty()) one["source"] = c.source;
    j["constructions"].push_back(std::move(one));
  }
  for (const RoomUse& u : h.uses) {
    Json one{{"name", u.name}};
    writeFields(one, u);
    if (!u.copyOf.empty()) one["copy-of"] = u.copyOf;
    if (!u.source.empty()) one["source"] = u.source;
    j["uses"].push_back(std::move(one));
  }
  for (const HeatSurface& s : h.surfaces) {
    Json one{{"room", s.room.text()}, {"surface", surfaceKey(s.edge)}};
    if (s.beyond != Beyond::AsDrawn) one["beyond"] = beyondKey(s.beyond);
    if (!s.construction.empty()) one["construction"] = s.construction;
    j["surfaces"].push_back(std::move(one));
  }
  for (const EnergyWeight& w : h.weights) {
    Json one{
        {"name", w.name}, {"unit", w.unit}, {"heating", w.heating}, {"cooling", w.cooling}, {"lighting", w.lighting}};
    if (!w.source.empty()) one["source"] = w.source;
    j["weights"].push_back(std::move(one));
  }
  root["heat"] = std::move(j);
}

} // namespace noonward
