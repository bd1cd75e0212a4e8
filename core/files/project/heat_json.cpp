#include "core/files/project/heat_json.h"
#include "core/model/heat_library.h"

namespace noonward {

void readHeat(JsonObject& root, HeatDesign& h) {
  if (!root.has("heat")) return;
  JsonObject o = root.object("heat");
  readFields(o, h);
  h.wall = o.text("wall");
  h.roof = o.text("roof");
  h.ground = o.text("ground");
  h.exposedFloor = o.text("exposed-floor");
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
}

void writeHeat(Json& root, const HeatDesign& h) {
  const HeatDesign usual;
  if (h == usual) return;
  Json j = Json::object();
  writeFields(j, h);
  for (const auto& [key, name] :
       {std::pair{"wall", h.wall}, {"roof", h.roof}, {"ground", h.ground}, {"exposed-floor", h.exposedFloor}})
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
  root["heat"] = std::move(j);
}

} // namespace noonward
