#include "core/files/project/light_json.h"
#include "core/files/project/heat_json.h"
#include "core/files/project/shape_json.h"
#include "core/model/settings/fields.h"
#include "core/model/tracing/tracing.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

Ring ringFromJson(const Json& v, const std::string& path, JsonFault& fault) {
  Ring r;
  if (!v.is_array() && !fault.error) fault.error = Error{"A list of points [[x, y], …] is expected here.", path};
  for (std::size_t i = 0; v.is_array() && i < v.size(); ++i) {
    if (v[i].is_array() && v[i].size() == 2 && v[i][0].is_number() && v[i][1].is_number())
      r.push_back({v[i][0].get<double>(), v[i][1].get<double>()});
    else if (!fault.error)
      fault.error = Error{"A point [x, y] is expected here.", fmt::format("{}[{}]", path, i)};
  }
  if (r.size() > 1 && r.front() == r.back()) r.pop_back();
  return r;
}

Json ringJson(const Ring& ring) {
  Json out = Json::array();
  for (Vec2 p : ring) out.push_back(Json::array({p.x, p.y}));
  return out;
}

namespace {

template <class I> I idOf(JsonObject& o, const std::string& stem) {
  const std::string text = o.text("id");
  if (text.empty()) return {derivedId(stem + "/" + o.path() + "/" + o.text("name"))};
  return {idFromText(text).value_or(derivedId(stem + "/" + text))};
}

RoomId roomRef(const Json& v, const std::string& path, const Project& p, JsonFault& fault) {
  const std::string text = v.is_string() ? v.get<std::string>() : std::string();
  const auto byId = idFromText(text);
  for (const Room& r : p.rooms)
    if ((byId && r.id.value == *byId) || r.name == text || r.id.value == derivedId("room/" + text)) return r.id;
  if (byId) return {*byId};
  if (!fault.error) fault.error = Error{fmt::format("There is no room called \"{}\".", text), path};
  return {};
}

std::vector<RoomId> roomRefs(JsonObject& o, const Project& p) {
  std::vector<RoomId> out;
  o.array("rooms", [&](const Json& v, const std::string& path) { out.push_back(roomRef(v, path, p, o.faults())); });
  return out;
}

std::vector<Facing> facings(JsonObject& o) {
  std::vector<Facing> out;
  const auto take = [&](const Json& v, const std::string& path) {
    const auto f = v.is_string() ? facingFromKey(v.get<std::string>()) : std::nullopt;
    if (f)
      out.push_back(*f);
    else if (!o.faults().error)
      o.faults().error = Error{"north, east, south or west is expected here.", path};
  };
  if (o.raw("facing").is_string())
    take(o.raw("facing"), o.pathOf("facing"));
  else
    o.array("facing", take);
  return out;
}

Json facingsJson(const std::vector<Facing>& list) {
  Json out = Json::array();
  for (Facing f : list) out.push_back(facingKey(f));
  return out;
}

template <class T> Json idList(const std::vector<T>& list) {
  Json out = Json::array();
  for (const T& id : list) out.push_back(id.text());
  return out;
}

} // namespace

void readFinishes(JsonObject& root, Project& p) {
  root.array("finishes", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    Finish f;
    f.name = o.requiredText("name");
    f.reflectance = o.requiredNumber("reflectance", 0, 1);
    f.specular = o.number("specular", 0, 0, 1);
    f.roughness = o.number("roughness", 0, 0, 1);
    f.source = o.text("source");
    p.finishes.push_back(std::move(f));
  });
  root.array("glazings", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    Glazing g;
    g.name = o.requiredText("name");
    g.transmittance = o.requiredNumber("transmittance", 0, 1);
    g.panes = o.integer("panes", 2, 0, 6);
    g.diffuse = o.number("diffuse", 0, 0, 1);
    g.reflectance = o.number("reflectance", 0.15, 0, 1);
    g.frame = o.number("frame", 1, 0, 1);
    g.dirt = o.number("dirt", 1, 0, 1);
    g.solarFactor = o.number("solar-factor", 0, 0, 1);
    g.uValue = o.number("u-value", 0, 0, 10);
    g.source = o.text("source");
    p.glazings.push_back(std::move(g));
  });
}

void readRooms(JsonObject& root, Project& p) {
  root.array("rooms", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    Room r;
    r.id = idOf<RoomId>(o, "room");
    r.name = o.requiredText("name");
    r.use = o.text("use");
    r.outline = outlineFromJson(o);
    // Edges count counter-clockwise from the first corner, however the outline was written.
    if (r.outline.outer.size() > 2 && signedArea(r.outline.outer) < 0)
      std::reverse(r.outline.outer.begin() + 1, r.outline.outer.end());
    for (Ring& h : r.outline.holes)
      if (h.size() > 2 && signedArea(h) > 0) std::reverse(h.begin() + 1, h.end());
    r.floor = o.number("floor", 0, -1e5, 1e5);
    r.height = o.number("height", 2.7, 0, 1e4);
    r.wall = o.number("wall", 0.3, 0, 10);
    o.formerly("regularly-occupied", "counted");
    r.counted = o.boolean("regularly-occupied", true);
    r.reason = o.text("reason");
    r.glare = o.text("glare");
    r.source = o.text("source");
    if (r.source == "light model") r.source = simplifiedModelName; // its name in earlier files
    r.extra = o.extra();
    p.rooms.push_back(std::move(r));
  });
  readHeat(root, p.heat, [&](const Json& v, const std::string& path) { return roomRef(v, path, p, root.faults()); });
  root.array("openings", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    Opening q;
    q.id = idOf<OpeningId>(o, "opening");
    q.name = o.text("name", "Window");
    q.type = o.text("type");
    if (!o.has("room")) o.fault("room", "This key is missing.");
    q.room = roomRef(o.raw("room"), o.pathOf("room"), p, root.faults());
    const Json& edge = o.raw("edge");
    if (edge.is_string() && edge == "ceiling")
      q.edge = -1;
    else if (edge.is_number_integer() && edge.get<int>() >= 0)
      q.edge = edge.get<int>();
    else
      o.fault("edge", "The number of a wall (0 runs from the first corner) or \"ceiling\" is expected here.");
    const bool top = q.edge < 0;
    q.along = o.requiredNumber(top ? "x" : "along", -1e5, 1e5);
    q.sill = o.requiredNumber(top ? "y" : "sill", -1e5, 1e5);
    q.width = o.requiredNumber("width", 0, 1e4);
    q.height = o.requiredNumber(top ? "depth" : "height", 0, 1e4);
    q.repeat = o.integer("repeat", 1, 1, 1000);
    q.gap = o.number("gap", 0.6, 0, 1e4);
    q.glazing = o.text("glazing");
    q.frame = o.number("frame", 0, 0, 95) / 100;
    if (o.has("pane-at")) q.paneAt = o.number("pane-at", 0, 0, 100) / 100;
    if (top) readFields(o, q.raised);
    q.extra = o.extra();
    p.openings.push_back(std::move(q));
  });
  root.array("window-rules", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    WindowRule w;
    w.id = idOf<RuleId>(o, "window-rule");
    w.name = o.text("name", "Window");
    w.type = o.text("type");
    w.rooms = roomRefs(o, p);
    w.facings = facings(o);
    w.ceiling = o.boolean("ceiling", false);
    w.kind = o.has("ratio") ? WindowRule::Kind::Ratio : WindowRule::Kind::Row; // where no kind is said
    readFields(o, w);
    w.glazing = o.text("glazing");
    w.extra = o.extra();
    p.windowRules.push_back(std::move(w));
  });
  root.formerly("shading", "shades");
  root.array("shading", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    ShadeRule s;
    s.id = idOf<RuleId>(o, "shade");
    s.name = o.text("name", "Shade");
    s.facings = facings(o);
    s.type = o.text("type");
    s.rooms = roomRefs(o, p);
    o.array("windows", [&](const Json& w, const std::string& at) {
      const std::string text = w.is_string() ? w.get<std::string>() : std::string();
      if (text.empty() && !o.faults().error) o.faults().error = Error{"The id of a window is expected here.", at};
      s.windows.push_back({idFromText(text).value_or(derivedId("opening/" + text))});
    });
    s.rooflights = o.boolean("rooflights", false);
    if (!o.has("depth")) o.fault("depth", "This key is missing.");
    readFields(o, s);
    s.finish = o.text("finish");
    s.extra = o.extra();
    p.shadeRules.push_back(std::move(s));
  });
}

void readAssignments(JsonObject& root, Project& p) {
  root.array("assign", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    Assignment a;
    a.finish = o.requiredText("finish");
    if (o.has("role")) {
      a.role = roleFromKey(o.text("role"));
      if (!a.role) o.fault("role", "This is no role.");
    }
    a.layer = o.text("layer");
    a.type = o.text("type");
    if (o.has("facing")) {
      a.facing = facingFromKey(o.text("facing"));
      if (!a.facing) o.fault("facing", "north, east, south or west is expected here.");
    }
    if (o.has("element")) {
      const std::string text = o.text("element");
      const auto byId = idFromText(text);
      for (const ElementPtr& e : p.elements)
        if ((byId && e->id.value == *byId) || e->name == text || e->id.value == derivedId("element/" + text))
          a.element = e->id;
      for (const Room& r : p.rooms)
        if ((byId && r.id.value == *byId) || r.name == text) a.element = ElementId{r.id.value};
      if (!a.element && byId) a.element = ElementId{*byId};
      if (!a.element) o.fault("element", fmt::format("There is no element or room called \"{}\".", text));
    }
    if (o.has("face")) a.face = std::uint32_t(o.integer("face", 0, 0, 1 << 30));
    p.assignments.push_back(std::move(a));
  });
}

RoomGrid readRoomGrid(JsonObject o, const Project& p) {
  RoomGrid g;
  g.rooms = roomRefs(o, p);
  g.height = o.number("height", 0.85, 0, 100);
  g.spacing = o.number("spacing", 0.5);
  g.wallDistance = o.number("wall-distance", 0.5, 0, 100);
  g.directions = int(o.integer("directions", 0, 0, 36));
  g.firstDirection = radians(o.number("first-direction", 0, -360, 360));
  const std::string layout = o.text("layout", gridLayoutKey(g.layout));
  if (const auto l = gridLayoutFromKey(layout))
    g.layout = *l;
  else
    o.fault("layout", "\"from-walls\" or \"band-left-out\" is expected here.");
  return g;
}

namespace {
void writeFinishes(Json& root, const std::vector<Finish>& finishes, const std::vector<Glazing>& glazings) {
  for (const Finish& f : finishes) {
    Json j{{"name", f.name}, {"reflectance", f.reflectance}};
    if (f.specular > 0) {
      j["specular"] = f.specular;
      j["roughness"] = f.roughness;
    }
    if (!f.source.empty()) j["source"] = f.source;
    root["finishes"].push_back(std::move(j));
  }
  for (const Glazing& g : glazings) {
    Json j{{"name", g.name}, {"transmittance", g.transmittance}, {"panes", g.panes}};
    if (g.diffuse > 0) j["diffuse"] = g.diffuse;
    if (g.diffuse > 0 || g.reflectance != 0.15) j["reflectance"] = g.reflectance;
    if (g.frame != 1) j["frame"] = g.frame;
    if (g.dirt != 1) j["dirt"] = g.dirt;
    if (g.solarFactor > 0) j["solar-factor"] = g.solarFactor;
    if (g.uValue > 0) j["u-value"] = g.uValue;
    if (!g.source.empty()) j["source"] = g.source;
    root["glazings"].push_back(std::move(j));
  }
}
} // namespace

Expected<FinishShelf> readFinishShelf(const std::filesystem::path& file) {
  if (!std::filesystem::exists(file)) return FinishShelf{};
  const auto bytes = loadFile(file, 16u << 20);
  if (!bytes) return tl::unexpected(bytes.error());
  const auto json = parseJson(asUtf8(*bytes), file.filename().string());
  if (!json) return tl::unexpected(json.error());
  JsonFault fault;
  JsonObject root(*json, "", fault);
  Project p;
  readFinishes(root, p);
  if (fault.error) return fail(fault.error->message, file.filename().string() + ": " + fault.error->place);
  return FinishShelf{std::move(p.finishes), std::move(p.glazings)};
}

Outcome writeFinishShelf(const FinishShelf& shelf, const std::filesystem::path& file) {
  std::error_code ignored;
  std::filesystem::create_directories(file.parent_path(), ignored);
  Json root = Json::object();
  writeFinishes(root, shelf.finishes, shelf.glazings);
  return saveFile(file, root.dump(2) + "\n");
}

void writeRooms(Json& root, const Design& p) {
  writeFinishes(root, p.finishes, p.glazings);
  writeHeat(root, p.heat);
  for (const Room& r : p.rooms) {
    Json j{{"id", r.id.text()}, {"name", r.name}};
    if (!r.use.empty()) j["use"] = r.use;
    writeOutline(j, r.outline);
    j["floor"] = r.floor;
    j["height"] = r.height;
    j["wall"] = r.wall;
    if (!r.counted) j["regularly-occupied"] = false;
    if (!r.reason.empty()) j["reason"] = r.reason;
    if (!r.source.empty()) j["source"] = r.source;
    if (!r.glare.empty()) j["glare"] = r.glare;
    addExtra(j, r.extra);
    root["rooms"].push_back(std::move(j));
  }
  for (const Opening& o : p.openings) {
    Json j{{"id", o.id.text()}, {"name", o.name}, {"room", o.room.text()}};
    if (!o.type.empty()) j["type"] = o.type;
    if (o.edge < 0) {
      j["edge"] = "ceiling";
      j["x"] = o.along;
      j["y"] = o.sill;
      j["width"] = o.width;
      j["depth"] = o.height;
    } else {
      j["edge"] = o.edge;
      j["along"] = o.along;
      j["sill"] = o.sill;
      j["width"] = o.width;
      j["height"] = o.height;
    }
    if (o.repeat > 1) {
      j["repeat"] = o.repeat;
      j["gap"] = o.gap;
    }
    if (!o.glazing.empty()) j["glazing"] = o.glazing;
    if (o.frame != 0) j["frame"] = tidyNumber(100 * o.frame);
    if (o.paneAt != Opening{}.paneAt) j["pane-at"] = tidyNumber(100 * o.paneAt);
    if (o.edge < 0) writeFields(j, o.raised);
    addExtra(j, o.extra);
    root["openings"].push_back(std::move(j));
  }
  for (const WindowRule& w : p.windowRules) {
    Json j{{"id", w.id.text()}, {"name", w.name}};
    if (!w.type.empty()) j["type"] = w.type;
    if (!w.rooms.empty()) j["rooms"] = idList(w.rooms);
    if (!w.facings.empty()) j["facing"] = facingsJson(w.facings);
    if (w.ceiling) j["ceiling"] = true;
    writeFields(j, w);
    if (!w.glazing.empty()) j["glazing"] = w.glazing;
    addExtra(j, w.extra);
    root["window-rules"].push_back(std::move(j));
  }
  for (const ShadeRule& s : p.shadeRules) {
    Json j{{"id", s.id.text()}, {"name", s.name}};
    if (!s.facings.empty()) j["facing"] = facingsJson(s.facings);
    if (!s.type.empty()) j["type"] = s.type;
    if (!s.rooms.empty()) j["rooms"] = idList(s.rooms);
    if (!s.windows.empty()) j["windows"] = idList(s.windows);
    if (s.rooflights) j["rooflights"] = true;
    writeFields(j, s);
    if (!s.finish.empty()) j["finish"] = s.finish;
    addExtra(j, s.extra);
    root["shading"].push_back(std::move(j));
  }
  for (const Assignment& a : p.assignments) {
    Json j{{"finish", a.finish}};
    if (a.role) j["role"] = roleKey(*a.role);
    if (!a.layer.empty()) j["layer"] = a.layer;
    if (!a.type.empty()) j["type"] = a.type;
    if (a.facing) j["facing"] = facingKey(*a.facing);
    if (a.element) j["element"] = a.element->text();
    if (a.face) j["face"] = *a.face;
    root["assign"].push_back(std::move(j));
  }
}

Json roomGridJson(const RoomGrid& g) {
  Json j;
  if (!g.rooms.empty()) j["rooms"] = idList(g.rooms);
  j["height"] = g.height;
  j["spacing"] = g.spacing;
  j["wall-distance"] = g.wallDistance;
  j["layout"] = gridLayoutKey(g.layout);
  if (g.directions > 0) {
    j["directions"] = g.directions;
    if (g.firstDirection != 0) j["first-direction"] = degrees(g.firstDirection);
  }
  return j;
}

} // namespace noonward
