#include "core/base/json.h"
#include "core/base/words.h"
#include "core/files/epw.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/project/asked_json.h"
#include "core/files/project/design_json.h"
#include "core/files/project/light_json.h"
#include "core/files/project/project_file.h"
#include "core/files/project/record_json.h"
#include "core/files/project/shape_json.h"
#include "core/files/project/underlay_json.h"
#include "core/model/form/arrange.h"
#include "core/model/form/layers.h"
#include "core/model/settings/study_fields.h"
#include "core/model/tracing/tracing.h"
#include "core/yardsticks/yardstick.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

namespace {

class ProjectReader {
public:
  ProjectReader(std::string file, std::filesystem::path folder) : file_(std::move(file)), folder_(std::move(folder)) {}

  Expected<LoadedProject> read(const Json& json) {
    whole(json);
    if (fault_.error) return fail(fault_.error->message, file_ + ": " + fault_.error->place);
    out_.project.unknownKeys = unknown();
    return std::move(out_);
  }
  std::vector<UnknownKey> unknown() const {
    std::vector<UnknownKey> out;
    for (const auto& [path, nearest] : fault_.unknown) out.push_back({path, nearest});
    return out;
  }

  /// Only what stands there and what it is made of; meshes that `known` holds are not read again.
  Expected<Design> readDesign(const Json& json, const Project& like, const std::vector<const Design*>& known) {
    known_ = known;
    out_.project.site = like.site;
    JsonObject o(json, "", fault_);
    readFinishes(o, out_.project);
    o.array("elements", [&](const Json& v, const std::string& path) { element(JsonObject(v, path, fault_)); });
    readRooms(o, out_.project);
    readAssignments(o, out_.project);
    if (fault_.error) return fail(fault_.error->message, fault_.error->place);
    Design& d = out_.project;
    for (ElementPtr& e : d.elements) // the same is shared
      if (const Element* other = knownElement(e->id); other && *other == *e)
        for (const Design* k : known_)
          for (const ElementPtr& q : k->elements)
            if (q.get() == other) e = q;
    return std::move(d);
  }

private:
  void whole(const Json& json) {
    JsonObject o(json, "", fault_);
    if (o.text("format") != "noonward-project")
      o.fault("format", "This is no Noonward project: \"noonward-project\" is expected here.");
    const double version = o.requiredNumber("version", 1);
    if (version > projectVersion)
      o.fault("version", fmt::format("The project was written by a newer Noonward (format {:.0f}; this one reads {}).",
                                     version, projectVersion));
    Project& p = out_.project;
    p.id = {id<ProjectId>(o, "project").value};
    p.name = o.text("name", std::filesystem::path(file_).stem().string());
    const std::string length = o.text("units", "m");
    if (length == "ft-in")
      p.units.length = LengthUnit::FeetInches;
    else if (const auto u = unitFromSymbol(length))
      p.units.length = *u;
    else
      o.fault("units", "m, mm, cm, ft, in or ft-in is expected here.");
    const std::string light = o.text("light-unit", "lx");
    if (light != "lx" && light != "fc") o.fault("light-unit", "lx or fc is expected here.");
    p.units.light = light == "fc" ? LightUnit::FootCandle : LightUnit::Lux;
    o.formerly("prepared-by", "assessor");
    o.formerly("client", "owner");
    p.preparedBy = o.text("prepared-by");
    p.client = o.text("client");
    if (!o.has("site")) o.fault("site", "This key is missing.");
    site(o.object("site"));
    readFinishes(o, p);
    o.array("imports", [&](const Json& v, const std::string& path) { import(JsonObject(v, path, fault_)); });
    o.array("elements", [&](const Json& v, const std::string& path) { element(JsonObject(v, path, fault_)); });
    readRooms(o, p);
    readAssignments(o, p);
    o.array("groups", [&](const Json& v, const std::string& path) { group(JsonObject(v, path, fault_)); });
    if (o.has("layer-colours")) layerColours(o);
    o.array("seasons", [&](const Json& v, const std::string& path) {
      JsonObject j(v, path, fault_);
      Season s = seasonFromJson(j);
      s.id = SeasonId{derivedId(path)};
      p.seasons.push_back(s);
    });
    if (o.has("sun-wishes")) sunWishes(o.object("sun-wishes"));
    o.array("studies", [&](const Json& v, const std::string& path) { study(JsonObject(v, path, fault_)); });
    readRecordPlan(o, out_.project);
    o.array("judgements", [&](const Json& v, const std::string& path) { judgement(JsonObject(v, path, fault_)); });
    o.array("views", [&](const Json& v, const std::string& path) {
      JsonObject w(v, path, fault_);
      p.views.push_back({ViewId{id<ViewId>(w, path)}, w.text("name"), w.raw("camera").dump(), w.text("moment"),
                         w.text("option"), w.text("study")});
    });
    o.array("accepted", [&](const Json& v, const std::string& path) {
      if (v.is_string()) return void(p.accepted[v.get<std::string>()]);
      JsonObject a(v, path, fault_);
      const std::string code = a.requiredText("finding");
      p.accepted[code] = a.text("because");
    });
    readUnderlays(o, p, folder_, out_.notes);
    readGuides(o, p);
    readSources(o, p, folder_);
    readMeasured(o, p, folder_);
    readSweeps(o, p);
    options(o);
    p.extra = o.extra();
  }

  const Element* knownElement(ElementId id) const {
    for (const Design* d : known_)
      for (const ElementPtr& e : d->elements)
        if (e->id == id) return e.get();
    return nullptr;
  }

  /// Each by what it changes against the first, which is the project as written so far.
  void options(JsonObject& o) {
    Project& p = out_.project;
    const std::string inHand = o.text("option");
    Json base;
    std::size_t at = 0;
    o.array("options", [&](const Json& v, const std::string& path) {
      JsonObject q(v, path, fault_);
      Option option;
      option.id = id<OptionId>(q, "option");
      option.name = q.requiredText("name");
      if (option.name == inHand || option.id.text() == inHand) at = p.options.size();
      if (p.options.empty() || !fault_.error) {
        std::vector<JsonChange> changes;
        q.array("changes", [&](const Json& c, const std::string& where) {
          JsonObject r(c, where, fault_);
          JsonChange change;
          const Json& place = r.raw("at");
          if (!place.is_array() || place.empty()) return r.fault("at", "A list of keys and ids is expected here.");
          for (const Json& k : place) change.at.push_back(k.is_string() ? k.get<std::string>() : k.dump());
          if (change.at[0] == "shades") change.at[0] = "shading"; // keys of earlier files
          if (change.at[0] == "rooms" && change.at.size() == 3 && change.at[2] == "counted")
            change.at[2] = "regularly-occupied";
          change.from = r.raw("from");
          change.to = r.raw("to");
          changes.push_back(std::move(change));
        });
        if (p.options.empty() && !changes.empty())
          q.fault("changes", "The first option is the project as written: it changes nothing.");
        if (!p.options.empty() && q.sound()) {
          if (base.is_null()) base = designJson(p);
          auto design = designFromJson(withChanges(base, changes, &option.orphans), p, {&p});
          if (!design) return q.fault("changes", design.error().text());
          option.design = std::make_shared<const Design>(std::move(*design));
        }
      }
      p.options.push_back(std::move(option));
    });
    if (p.options.size() == 1) p.options.clear();
    if (at > 0 && !fault_.error) p = withOption(std::move(p), at);
  }

  template <class I> I id(JsonObject& o, const std::string& stem) {
    const std::string text = o.text("id");
    if (text.empty()) return {derivedId(stem + "/" + o.path() + "/" + o.text("name"))};
    return {idFromText(text).value_or(derivedId(stem + "/" + text))};
  }

  void site(JsonObject o) {
    Site& s = out_.project.site;
    s.name = o.text("name");
    s.place.latitude = radians(o.requiredNumber("latitude", -90, 90));
    s.place.longitude = radians(o.requiredNumber("longitude", -180, 180));
    s.place.elevation = o.number("elevation", 0, -500, 9000);
    s.zone = o.text("zone", "UTC");
    s.year = o.integer("year", 2026, 1600, 2600);
    s.northAngle = radians(o.number("north", 0, -360, 360));
    s.groundLevel = o.number("ground-level", 0, -1e5, 1e5);
    s.groundReflectance = o.number("ground-reflectance", 0.2, 0, 1);
    s.origin = vectorFromJson(o, "origin", {});
    s.referenceSystem = o.text("reference-system");
    s.weatherFile = o.text("weather");
    if (!s.weatherFile.empty() && o.sound()) {
      auto w = readEpw(folder_ / s.weatherFile);
      if (!w) {
        o.fault("weather", fmt::format("{} ({})", w.error().message, w.error().place));
      } else {
        for (const std::string& n : w->notes) out_.notes.push_back(s.weatherFile + ": " + n);
        s.weather = std::make_shared<const Weather>(std::move(*w));
      }
    }
    s.extra = o.extra();
  }

  Role role(JsonObject& o, const char* key, Role fallback) {
    const std::string text = o.text(key, roleKey(fallback));
    if (const auto r = roleFromKey(text)) return *r;
    o.fault(key, fmt::format("\"{}\" is no role.", text));
    return fallback;
  }

  void import(JsonObject o) {
    const std::string name = o.requiredText("file");
    const Role fallback = role(o, "role", Role::Neighbour);
    const std::string unit = o.text("unit"), up = o.text("up");
    const Json& roles = o.raw("roles");
    const Json& proposed = o.raw("proposed");
    const std::string finish = o.text("finish"), glazing = o.text("glazing");
    const Json& finishes = o.raw("finishes");
    if (!o.sound()) return;
    const auto model = readModel(folder_ / name);
    if (!model) return o.fault("file", model.error().text());
    Placement placement = guessPlacement(*model, std::nullopt).placement;
    placement.origin = out_.project.site.origin;
    if (!unit.empty()) {
      if (const auto u = unitFromSymbol(unit))
        placement.unit = *u;
      else
        o.fault("unit", "m, mm, cm, ft or in is expected here.");
    }
    if (up == "y" || up == "z")
      placement.yUp = up == "y";
    else if (!up.empty())
      o.fault("up", "\"y\" or \"z\" is expected here.");
    for (Element& e : placedElements(*model, placement, fallback)) {
      if (roles.is_object() && roles.contains(e.layer) && roles[e.layer].is_string()) {
        const auto r = roleFromKey(roles[e.layer].get<std::string>());
        if (!r) return o.fault(("roles." + e.layer).c_str(), "This is no role.");
        e.role = *r;
      }
      e.finish = e.role == Role::Glazing ? glazing : finish;
      if (finishes.is_object() && finishes.contains(e.layer) && finishes[e.layer].is_string())
        e.finish = finishes[e.layer].get<std::string>();
      if (proposed.is_boolean()) e.proposed = proposed.get<bool>();
      if (proposed.is_array())
        e.proposed = std::any_of(proposed.begin(), proposed.end(), [&](const Json& v) { return v == e.layer; });
      out_.project.elements.push_back(std::make_shared<const Element>(std::move(e)));
    }
    for (const std::string& n : model->notes) out_.notes.push_back(name + ": " + n);
    std::vector<std::string> layers;
    for (const ElementPtr& e : out_.project.elements)
      if (e->source == model->file && std::find(layers.begin(), layers.end(), e->layer) == layers.end())
        layers.push_back(e->layer);
    const auto look = [&](const char* key, const Json& map) {
      if (!map.is_object()) return;
      for (const auto& item : map.items())
        if (std::find(layers.begin(), layers.end(), item.key()) == layers.end())
          fault_.unknown.emplace_back(o.pathOf(key) + "." + item.key(), meantWord(item.key(), layers));
    };
    look("roles", roles);
    look("finishes", finishes);
    if (proposed.is_array())
      for (const Json& v : proposed)
        if (v.is_string() && std::find(layers.begin(), layers.end(), v.get<std::string>()) == layers.end())
          fault_.unknown.emplace_back(o.pathOf("proposed") + "." + v.get<std::string>(),
                                      meantWord(v.get<std::string>(), layers));
  }

  void layerColours(JsonObject& o) {
    const char* key = "layer-colours";
    const Json& colours = o.raw(key);
    if (!colours.is_object())
      return o.fault(key, "Colours by layer are expected here, such as {\"Trees\": \"#6A8F5B\"}.");
    for (const auto& item : colours.items()) {
      const std::string text = item.value().is_string() ? item.value().template get<std::string>() : "?";
      auto with = withLayerColour(out_.project, item.key(), text);
      if (!with) return o.fault(key, with.error().message);
      out_.project.layerColours = std::move(with->layerColours);
    }
  }

  void element(JsonObject o) {
    Element e;
    e.id = id<ElementId>(o, "element");
    e.name = o.text("name");
    e.layer = o.text("layer");
    e.role = role(o, "role", Role::Building);
    e.proposed = o.boolean("proposed", false);
    e.demolished = o.boolean("demolished", false);
    if (e.proposed && e.demolished)
      o.fault("demolished", "What is proposed can't be demolished for the proposal: one of both is expected.");
    e.counted = o.boolean("counted", true);
    e.hidden = o.boolean("hidden", false);
    e.ghost = o.boolean("ghost", false);
    e.source = o.text("source");
    for (std::string* name : {&e.source, &e.layer})
      if (*name == "light model") *name = simplifiedModelName; // in earlier files; another layer is the user's
    e.finish = o.text("finish", o.text("glazing"));
    o.array("mends", [&](const Json& v, const std::string&) {
      if (v.is_string()) e.mends.push_back(v.get<std::string>());
    });
    e.group = o.text("group");
    if (o.has("row")) {
      JsonObject r = o.object("row");
      RowPlace row;
      const std::string of = r.requiredText("of");
      row.of = {idFromText(of).value_or(derivedId("element/" + of))};
      row.right = r.integer("right", 0, 0, mostInARow);
      row.up = r.integer("up", 0, 0, mostInARow);
      row.stepRight = xy(vectorFromJson(r, "step-right", {}));
      row.stepUp = xy(vectorFromJson(r, "step-up", {}));
      e.row = row;
    }
    if (out_.project.element(e.id)) o.fault("id", "Two elements have the same id.");
    if (auto shape = shapeFromJson(o, [&](const std::string& file) { return mesh(file); })) e.shape = std::move(*shape);
    e.extra = o.extra();
    out_.project.elements.push_back(std::make_shared<const Element>(std::move(e)));
  }

  /// Read once, whichever option it is in.
  Expected<Imported> mesh(const std::string& file) {
    const std::filesystem::path stem = std::filesystem::path(file).stem();
    for (const Design* d : known_)
      for (const ElementPtr& k : d->elements)
        if (const Imported* j = k->imported(); j && j->content.hex() == stem)
          return Imported{j->mesh, j->content, {}, 0, 1, j->columns, j->health};
    auto model = readModel(folder_ / file);
    if (!model) return tl::unexpected(model.error());
    Imported i;
    i.mesh = std::make_shared<const Mesh>(std::move(model->parts.front().mesh));
    i.content = digestOf(*i.mesh);
    return i;
  }

  ElementId reference(const Json& v, const std::string& path) {
    const std::string text = v.is_string() ? v.get<std::string>() : std::string();
    const auto byId = idFromText(text);
    for (const ElementPtr& e : out_.project.elements)
      if ((byId && e->id.value == *byId) || e->name == text || e->id.value == derivedId("element/" + text))
        return e->id;
    if (byId) return {*byId}; // gone: a finding will say so
    if (!fault_.error) fault_.error = Error{fmt::format("There is no element called \"{}\".", text), path};
    return {};
  }

  void group(JsonObject o) {
    SensorGroup g;
    g.id = id<GroupId>(o, "group");
    g.name = o.requiredText("name");
    g.dwelling = o.text("dwelling");
    g.building = o.text("building");
    g.eyes = o.boolean("eyes", false);
    const std::string subject = o.text("subject");
    if (subject == "living room")
      g.subject = Subject::LivingRoom;
    else if (subject == "open space")
      g.subject = Subject::OpenSpace;
    else if (!subject.empty())
      o.fault("subject", "\"living room\" or \"open space\" is expected here.");
    if (o.has("ground")) {
      JsonObject a = o.object("ground");
      GroundArea area;
      area.outline = outlineFromJson(a);
      area.level = a.number("level", 0);
      area.spacing = a.number("spacing", 1);
      g.layout = std::move(area);
    } else if (o.has("around")) {
      JsonObject a = o.object("around");
      GroundAround area;
      a.array("elements", [&](const Json& v, const std::string& path) { area.elements.push_back(reference(v, path)); });
      area.margin = a.number("margin", 20, 0, 5000);
      area.level = a.number("level", 0);
      area.spacing = a.number("spacing", 1);
      g.layout = std::move(area);
    } else if (o.has("faces")) {
      JsonObject a = o.object("faces");
      FaceGrid grid;
      a.array("elements", [&](const Json& v, const std::string& path) {
        if (v.is_object()) {
          JsonObject r(v, path, fault_);
          FaceRef ref{reference(r.raw("element"), r.pathOf("element")), {}};
          if (r.has("face")) ref.face = std::uint32_t(r.integer("face", 0, 0, 1 << 30));
          grid.faces.push_back(ref);
        } else {
          grid.faces.push_back({reference(v, path), {}});
        }
      });
      grid.walls = a.boolean("walls", true);
      grid.roofs = a.boolean("roofs", false);
      grid.spacing = a.number("spacing", 1);
      grid.bay = a.number("bay", 0, 0, 1000);
      grid.height = a.number("height", 1.6, 0, 100);
      g.layout = std::move(grid);
    } else if (o.has("points")) {
      std::vector<PointSensor> list;
      o.array("points", [&](const Json& v, const std::string& path) {
        JsonObject q(v, path, fault_);
        if (!q.has("at")) q.fault("at", "This key is missing.");
        list.push_back({vectorFromJson(q, "at", {}), vectorFromJson(q, "normal", {0, 0, 1}), q.text("name")});
      });
      g.layout = std::move(list);
    } else if (o.has("rooms")) {
      g.layout = readRoomGrid(o.object("rooms"), out_.project);
    } else {
      o.fault("A group needs \"ground\", \"around\", \"faces\", \"rooms\" or \"points\".");
    }
    g.extra = o.extra();
    out_.project.groups.push_back(std::move(g));
  }

  std::vector<GroupId> groups(JsonObject& o) {
    std::vector<GroupId> out;
    o.array("groups", [&](const Json& v, const std::string& path) {
      const std::string text = v.is_string() ? v.get<std::string>() : std::string();
      for (const SensorGroup& g : out_.project.groups)
        if (g.name == text || g.id.text() == text || g.id.value == derivedId("group/" + text))
          return out.push_back(g.id);
      if (!fault_.error) fault_.error = Error{fmt::format("There is no group called \"{}\".", text), path};
    });
    return out;
  }

  void sunWishes(JsonObject o) {
    SunWishes& w = out_.project.sunWishes;
    const auto seasons = [&](const char* key, std::vector<Season>& list) {
      o.array(key, [&](const Json& v, const std::string& path) {
        JsonObject j(v, path, fault_);
        list.push_back(seasonFromJson(j));
        list.back().id = SeasonId{derivedId(path)};
      });
    };
    seasons("keep-out", w.keepOut);
    seasons("let-in", w.letIn);
    if (o.has("keep-out-from")) w.keepOutFrom = o.number("keep-out-from", 0, -60, 60);
    if (o.has("keep-out-beam-from")) w.keepOutBeamFrom = o.number("keep-out-beam-from", 0, 0, 1500);
    if (o.has("let-in-up-to")) w.letInUpTo = o.number("let-in-up-to", 0, -60, 60);
    o.array("keep-out-hours", [&](const Json& v, const std::string& path) {
      const bool two = v.is_array() && v.size() == 2 && v[0].is_number_integer() && v[1].is_number_integer();
      const int first = two ? v[0].get<int>() : 0, last = two ? v[1].get<int>() : 0;
      if (first < 1 || last > 8760 || last < first) {
        if (!fault_.error)
          fault_.error = Error{"The first and the last of a run of hours, 1 to 8760, are expected here.", path};
        return;
      }
      for (int h = first; h <= last; ++h) w.keepOutHours.push_back(std::uint16_t(h - 1));
    });
    std::sort(w.keepOutHours.begin(), w.keepOutHours.end());
    w.keepOutHours.erase(std::unique(w.keepOutHours.begin(), w.keepOutHours.end()), w.keepOutHours.end());
    w.keepOutHoursOf = o.text("keep-out-hours-of");
  }

  void study(JsonObject o) {
    Study s;
    s.id = id<StudyId>(o, "study");
    if (const auto kind = studyFromKey(o.text("kind", "sun-hours"))) {
      s.kind = *kind;
    } else {
      std::string known;
      for (const StudyKindFacts& k : studyKinds) known += (known.empty() ? "" : ", ") + std::string(k.key);
      o.fault("kind", fmt::format("\"{}\" is no kind of study: {}.", o.text("kind"), known));
    }
    s.name = o.text("name", studyName(s.kind));
    readStudyFields(o, s);
    if (const Outcome dates = settleDates(s, out_.project.site.year); !dates) o.fault("dates", dates.error().message);
    s.groups = groups(o);
    s.extra = o.extra();
    out_.project.studies.push_back(std::move(s));
  }

  void judgement(JsonObject o) {
    Judgement j;
    j.id = id<JudgementId>(o, "judgement");
    j.yardstick = o.requiredText("yardstick");
    j.groups = groups(o);
    const Json& changed = o.raw("parameters");
    if (changed.is_object())
      for (const auto& [key, v] : changed.items())
        j.changed[parameterKey(key)] = v.is_string()   ? v.get<std::string>()
                                       : v.is_number() ? fmt::format("{}", v.get<double>())
                                                       : v.dump();
    else if (!changed.is_null())
      o.fault("parameters", "An object { … } is expected here.");
    j.extra = o.extra();
    out_.project.judgements.push_back(std::move(j));
  }

  std::string file_;
  std::filesystem::path folder_;
  JsonFault fault_;
  LoadedProject out_;
  std::vector<const Design*> known_;
};

} // namespace

Expected<Design> designFromJson(const Json& json, const Project& project, const std::vector<const Design*>& known,
                                std::vector<UnknownKey>* unknown) {
  ProjectReader reader("option", {});
  auto design = reader.readDesign(json, project, known);
  if (design && unknown) *unknown = reader.unknown();
  return design;
}

Expected<LoadedProject> parseProject(std::string_view text, const std::string& file,
                                     const std::filesystem::path& folder) {
  const auto json = parseJson(text, file);
  if (!json) return tl::unexpected(json.error());
  if (!json->is_object()) return fail("This is no Noonward project.", file);
  return ProjectReader(file, folder).read(*json);
}

Expected<LoadedProject> readProject(const std::filesystem::path& path) {
  const auto bytes = loadFile(path, 1u << 30);
  if (!bytes) return tl::unexpected(bytes.error());
  auto loaded = parseProject(asUtf8(*bytes), path.filename().string(), path.parent_path());
  if (loaded) loaded->content = digestOf(*bytes);
  return loaded;
}

std::optional<Digest> contentOf(const std::filesystem::path& path) {
  const auto bytes = loadFile(path, 1u << 30);
  return bytes ? std::optional(digestOf(*bytes)) : std::nullopt;
}

Outcome stillTheSame(const std::filesystem::path& path, const Digest& asKnown) {
  const auto now = contentOf(path);
  if (!now || *now == asKnown) return {};
  return fail("Another program has saved this project since it was read. Nothing was written: save yours under another "
              "name, or open theirs.",
              path.string());
}

std::filesystem::path autosavePath(const std::filesystem::path& project) {
  return project.string() + ".autosave";
}

} // namespace noonward
