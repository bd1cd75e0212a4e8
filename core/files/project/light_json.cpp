#include "core/files/project/light_json.h"
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

double tidyPercent(double share) {
  return std::round(share * 1e8) / 1e6;
}
double tidy(double radians) {
  return std::round(degrees(radians) * 1e9) / 1e9;
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
    if (!o.has("outline")) o.fault("outline", "This key is missing.");
    r.outline.outer = ringFromJson(o.raw("outline"), o.pathOf("outline"), root.faults());
    o.array("holes", [&](const Json& h, const std::string& at) {
      r.outline.holes.push_back(ringFromJson(h, at, root.faults()));
    });
    // Edges count counter-clockwise from the first corner, however the outline was written.
    if (r.outline.outer.size() > 2 && signedArea(r.outline.outer) < 0)
      std::reverse(r.outline.outer.begin() + 1, r.outline.outer.end());
    for (Ring& h : r.outline.holes)
      if (h.size() > 2 && signedArea(h) > 0) std::reverse(h.begin() + 1, h.end());
    r.floor = o.number("floor", 0, -1e5, 1e5);
    r.height = o.number("height", 2.7, 0, 1e4);
    r.wall = o.number("wall", 0.3, 0, 10);
    r.counted = o.boolean("counted", true);
    r.reason = o.text("reason");
    r.glare = o.text("glare");
    r.source = o.text("source");
    r.extra = o.extra();
    p.rooms.push_back(std::move(r));
  });
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
    w.kind = o.has("ratio") ? WindowRule::Kind::Ratio : WindowRule::Kind::Row;
    w.ratio = o.number("ratio", 0.4, 0, 0.95);
    w.count = o.integer("count", 1, 1, 500);
    w.width = o.number("width", 1.2, 0, 1e3);
    w.sill = o.number("sill", 0.9, 0, 1e3);
    w.head = o.number("head", 2.4, 0, 1e3);
    w.glazing = o.text("glazing");
    w.extra = o.extra();
    p.windowRules.push_back(std::move(w));
  });
  root.array("shades", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    ShadeRule s;
    s.id = idOf<RuleId>(o, "shade");
    s.name = o.text("name", "Shade");
    const std::string kind = o.text("kind", "overhang");
    if (kind == "fins")
      s.kind = ShadeRule::Kind::Fins;
    else if (kind != "overhang")
      o.fault("kind", "\"overhang\" or \"fins\" is expected here.");
    s.facings = facings(o);
    s.type = o.text("type");
    s.depth = o.requiredNumber("depth", 0, 100);
    s.offset = o.number("offset", 0, -100, 100);
    s.beyond = o.number("beyond", 0, -100, 100);
    s.count = o.integer("count", 2, 1, 500);
    s.angle = radians(o.number("angle", 0, -89, 89));
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
  const std::string layout = o.text("layout", gridLayoutKey(g.layout));
  if (const auto l = gridLayoutFromKey(layout))
    g.layout = *l;
  else
    o.fault("layout", "\"from-walls\" or \"band-left-out\" is expected here.");
  return g;
}

void readYearSettings(JsonObject& o, YearSettings& y) {
  const Json& hours = o.raw("schedule");
  if (hours.is_array() && hours.size() == 2 && hours[0].is_string() && hours[1].is_string()) {
    const auto begin = minutesFromText(hours[0].get<std::string>()), end = minutesFromText(hours[1].get<std::string>());
    if (begin && end && *end > *begin)
      y.beginMinute = *begin, y.endMinute = *end;
    else
      o.fault("schedule", "Two clock times such as [\"8:00\", \"18:00\"] are expected here.");
  } else if (!hours.is_null()) {
    o.fault("schedule", "Two clock times such as [\"8:00\", \"18:00\"] are expected here.");
  }
  y.weekdaysOnly = o.boolean("weekdays", false);
  y.metrics.threshold = o.number("threshold", 300, 0, 1e6);
  y.metrics.autonomy = o.number("share-of-hours", 50, 0, 100) / 100;
  y.metrics.beam = o.number("beam", 1000, 0, 1e6);
  y.metrics.beamHours = o.number("beam-hours", 250, 0, 8760);
  const std::string rule = o.text("blinds", "standard");
  if (const auto r = blindFromKey(rule))
    y.blinds = *r;
  else
    o.fault("blinds", "\"standard\", \"never\", \"always\", \"irradiance\" or \"schedule\" is expected here.");
  y.closesAt = o.number("closes-at", 1000, 0, 1e6);
  y.closesAbove = o.number("closes-above", 2, 0, 100) / 100;
  y.closesAtIrradiance = o.number("closes-at-irradiance", 200, 0, 2000);
  const Json& shut = o.raw("shut");
  if (shut.is_array() && shut.size() == 2 && shut[0].is_string() && shut[1].is_string() &&
      minutesFromText(shut[0].get<std::string>()) && minutesFromText(shut[1].get<std::string>()))
    y.shutFrom = *minutesFromText(shut[0].get<std::string>()), y.shutTo = *minutesFromText(shut[1].get<std::string>());
  else if (!shut.is_null())
    o.fault("shut", "Two clock times such as [\"12:00\", \"16:00\"] are expected here.");
  y.clothStraight = o.number("cloth-straight", 0, 0, 100) / 100;
  y.clothScattered = o.number("cloth-scattered", 5, 0, 100) / 100;
  if (!o.raw("cloth-reflected").is_null()) y.clothReflected = o.number("cloth-reflected", 50, 0, 100) / 100;
  const Json& own = o.raw("blinds-of");
  if (own.is_object()) {
    for (const auto& [group, rule] : own.items()) {
      const auto r = rule.is_string() ? blindFromKey(rule.get<std::string>()) : std::nullopt;
      if (r)
        y.groupBlinds.push_back({group, *r});
      else
        o.fault("blinds-of", "\"standard\", \"never\", \"always\", \"irradiance\" or \"schedule\" is expected for \"" +
                                 group + "\".");
    }
    std::sort(y.groupBlinds.begin(), y.groupBlinds.end(),
              [](const GroupBlinds& a, const GroupBlinds& b) { return a.group < b.group; });
  } else if (!own.is_null()) {
    o.fault("blinds-of", "Rules by group of windows, such as {\"r2, south\": \"never\"}, are expected here.");
  }
  y.error = o.number("error", 3, 0.2, 50) / 100;
  y.clockChanges = o.boolean("clock-changes", true);
  y.glassKept = o.number("glass-kept", 100, 1, 100) / 100;
  const std::string stop = o.text("stop-when-certain", stopKey(y.stopFor));
  if (const auto s = stopFromKey(stop))
    y.stopFor = *s;
  else
    o.fault("stop-when-certain", "\"credit\", \"provision\" or \"nothing\" is expected here.");
  const std::string reading = o.text("provision-reading", provisionReadingKey(y.provisionReading));
  if (const auto r = provisionReadingFromKey(reading))
    y.provisionReading = *r;
  else
    o.fault("provision-reading", "\"same-hours\" or \"own-hours\" is expected here.");
  y.confidence = o.number("confidence", 99, 50, 99.9999) / 100;
  const Json& steps = o.raw("steps");
  if (steps.is_array() && steps.size() <= 3 &&
      std::all_of(steps.begin(), steps.end(), [](const Json& v) { return v.is_number(); })) {
    y.steps.fill(noStep);
    for (std::size_t k = 0; k < steps.size(); ++k) y.steps[k] = steps[k].get<double>() / 100;
    if (!std::is_sorted(y.steps.begin(), y.steps.end())) o.fault("steps", "The steps of sDA must rise.");
  } else if (!steps.is_null()) {
    o.fault("steps", "One to three shares in %, such as [40, 55, 75], are expected here.");
  }
  const std::string illuminance = o.text("illuminance", "irradiance");
  if (illuminance != "irradiance" && illuminance != "weather")
    o.fault("illuminance", "\"irradiance\" or \"weather\" is expected here.");
  y.ownIlluminance = illuminance == "weather";
  y.seed = std::uint64_t(o.integer("seed", 1, 0, 1 << 30));
}

void writeYearSettings(Json& j, const YearSettings& y) {
  j["schedule"] = Json::array({clockText(y.beginMinute), clockText(y.endMinute)});
  if (y.weekdaysOnly) j["weekdays"] = true;
  j["threshold"] = y.metrics.threshold;
  j["share-of-hours"] = tidyPercent(y.metrics.autonomy);
  j["beam"] = y.metrics.beam;
  j["beam-hours"] = y.metrics.beamHours;
  j["blinds"] = blindKey(y.blinds);
  j["closes-at"] = y.closesAt;
  j["closes-above"] = tidyPercent(y.closesAbove);
  if (y.anyBlinds(BlindRule::Irradiance)) j["closes-at-irradiance"] = y.closesAtIrradiance;
  for (const GroupBlinds& g : y.groupBlinds) j["blinds-of"][g.group] = blindKey(g.rule);
  if (y.anyBlinds(BlindRule::Schedule)) j["shut"] = Json::array({clockText(y.shutFrom), clockText(y.shutTo)});
  j["cloth-straight"] = tidyPercent(y.clothStraight);
  j["cloth-scattered"] = tidyPercent(y.clothScattered);
  if (y.clothReflected) j["cloth-reflected"] = tidyPercent(*y.clothReflected);
  j["error"] = tidyPercent(y.error);
  if (!y.clockChanges) j["clock-changes"] = false;
  if (y.glassKept != 1) j["glass-kept"] = tidyPercent(y.glassKept);
  j["stop-when-certain"] = stopKey(y.stopFor);
  if (y.provisionReading != ProvisionReading::SameHours)
    j["provision-reading"] = provisionReadingKey(y.provisionReading);
  j["confidence"] = tidyPercent(y.confidence);
  if (y.steps != YearSettings{}.steps) {
    j["steps"] = Json::array();
    for (double s : y.steps)
      if (s < noStep) j["steps"].push_back(tidyPercent(s));
  }
  if (y.ownIlluminance) j["illuminance"] = "weather";
  j["seed"] = y.seed;
}

void readLightSettings(JsonObject& study, LightSettings& s) {
  const Json& sky = study.raw("sky");
  const auto named = [&](const std::string& key, const std::string& at) {
    const auto known = skyFromKey(key);
    if (known)
      s.sky = *known;
    else if (!study.faults().error)
      study.faults().error = Error{
          fmt::format("\"{}\" is no sky: cie-overcast, uniform, cie-1 … cie-15, clear, intermediate, perez or weather.",
                      key),
          at};
  };
  if (sky.is_string()) {
    named(sky.get<std::string>(), study.pathOf("sky"));
  } else if (!sky.is_null()) {
    JsonObject o = study.object("sky");
    named(o.text("kind", "cie-overcast"), o.pathOf("kind"));
    if (o.has("type")) s.sky.type = o.integer("type", 12, 1, 15);
    if (o.has("diffuse")) s.sky.diffuse = o.number("diffuse", 0, 0, 1e6);
    if (o.has("direct")) s.sky.direct = o.number("direct", 0, 0, 1e6);
    s.sky.directIrradiance = o.number("direct-irradiance", 0, 0, 2000);
    s.sky.diffuseIrradiance = o.number("diffuse-irradiance", 0, 0, 2000);
    s.sky.dewPoint = o.number("dew-point", 10, -90, 70);
    if (o.has("moment")) {
      const auto t = stampFromText(o.text("moment"));
      if (!t)
        o.fault("moment", "A moment such as \"2026-06-21T14:00\" is expected here, by the site's clock.");
      else
        s.sky.moment = t->time;
    }
    if (o.has("sun-altitude")) s.sky.sunAltitude = radians(o.number("sun-altitude", 0, -90, 90));
    if (o.has("sun-azimuth")) s.sky.sunAzimuth = radians(o.number("sun-azimuth", 0, -360, 360));
  }
  s.error = study.number("error", 2, 0.05, 50) / 100;
  s.seed = std::uint64_t(study.integer("seed", 1, 0, 1 << 30));
  s.mostSamples = std::size_t(study.integer("most-samples", 1 << 18, 16, 1 << 28));
  const Json& months = study.raw("sunshine");
  if (months.is_array() && months.size() == 12) {
    s.sunshine.emplace();
    for (std::size_t m = 0; m < 12; ++m) {
      const double share = months[m].is_number() ? months[m].get<double>() : -1;
      if (!(share >= 0 && share <= 100))
        return study.fault("sunshine", fmt::format("0 to 100 % are expected for month {}.", m + 1));
      (*s.sunshine)[m] = share / 100;
    }
    if (std::all_of(s.sunshine->begin(), s.sunshine->end(), [](double x) { return x == 0; }))
      study.fault("sunshine", "A month with sunshine is needed.");
  } else if (!months.is_null() && months != "weather") {
    study.fault("sunshine", "\"weather\" or twelve shares in %, January first, are expected here.");
  }
}

namespace {
void writeFinishes(Json& root, const std::vector<Finish>& finishes, const std::vector<Glazing>& glazings) {
  for (const Finish& f : finishes) {
    Json j{{"name", f.name}, {"reflectance", f.reflectance}};
    if (f.specular > 0) j["specular"] = f.specular, j["roughness"] = f.roughness;
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
  for (const Room& r : p.rooms) {
    Json j{{"id", r.id.text()}, {"name", r.name}};
    if (!r.use.empty()) j["use"] = r.use;
    j["outline"] = ringJson(r.outline.outer);
    for (const Ring& h : r.outline.holes) j["holes"].push_back(ringJson(h));
    j["floor"] = r.floor;
    j["height"] = r.height;
    j["wall"] = r.wall;
    if (!r.counted) j["counted"] = false;
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
      j["x"] = o.along, j["y"] = o.sill, j["width"] = o.width, j["depth"] = o.height;
    } else {
      j["edge"] = o.edge;
      j["along"] = o.along, j["sill"] = o.sill, j["width"] = o.width, j["height"] = o.height;
    }
    if (o.repeat > 1) j["repeat"] = o.repeat, j["gap"] = o.gap;
    if (!o.glazing.empty()) j["glazing"] = o.glazing;
    addExtra(j, o.extra);
    root["openings"].push_back(std::move(j));
  }
  for (const WindowRule& w : p.windowRules) {
    Json j{{"id", w.id.text()}, {"name", w.name}};
    if (!w.type.empty()) j["type"] = w.type;
    if (!w.rooms.empty()) j["rooms"] = idList(w.rooms);
    if (!w.facings.empty()) j["facing"] = facingsJson(w.facings);
    if (w.ceiling) j["ceiling"] = true;
    if (w.kind == WindowRule::Kind::Ratio) j["ratio"] = w.ratio;
    j["width"] = w.width;
    j["count"] = w.count;
    j["sill"] = w.sill;
    j["head"] = w.head;
    if (!w.glazing.empty()) j["glazing"] = w.glazing;
    addExtra(j, w.extra);
    root["window-rules"].push_back(std::move(j));
  }
  for (const ShadeRule& s : p.shadeRules) {
    Json j{{"id", s.id.text()}, {"name", s.name}, {"kind", s.kind == ShadeRule::Kind::Fins ? "fins" : "overhang"}};
    if (!s.facings.empty()) j["facing"] = facingsJson(s.facings);
    if (!s.type.empty()) j["type"] = s.type;
    j["depth"] = s.depth;
    j["offset"] = s.offset;
    j["beyond"] = s.beyond;
    j["count"] = s.count;
    j["angle"] = tidy(s.angle);
    if (!s.finish.empty()) j["finish"] = s.finish;
    addExtra(j, s.extra);
    root["shades"].push_back(std::move(j));
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
  return j;
}

void writeLightSettings(Json& study, const LightSettings& s) {
  Json j;
  j["kind"] = skyKey(s.sky);
  if (s.sky.diffuse) j["diffuse"] = *s.sky.diffuse;
  if (s.sky.direct) j["direct"] = *s.sky.direct;
  if (s.sky.kind == SkyKind::Perez) {
    j["direct-irradiance"] = s.sky.directIrradiance;
    j["diffuse-irradiance"] = s.sky.diffuseIrradiance;
    j["dew-point"] = s.sky.dewPoint;
  }
  if (s.sky.moment) {
    const int t = int(std::lround(s.sky.moment->seconds));
    j["moment"] = fmt::format("{}T{:02d}:{:02d}:{:02d}", isoText(s.sky.moment->date), t / 3600, t / 60 % 60, t % 60);
  }
  if (s.sky.sunAltitude) j["sun-altitude"] = tidy(*s.sky.sunAltitude);
  if (s.sky.sunAzimuth) j["sun-azimuth"] = tidy(*s.sky.sunAzimuth);
  study["sky"] = std::move(j);
  study["error"] = std::round(s.error * 1e6) / 1e4;
  study["seed"] = s.seed;
  study["most-samples"] = s.mostSamples;
  if (s.sunshine)
    for (double share : *s.sunshine) study["sunshine"].push_back(std::round(share * 1e8) / 1e6);
}

} // namespace noonward
