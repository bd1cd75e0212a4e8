#include "core/base/json.h"
#include "core/files/epw.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/project/asked_json.h"
#include "core/files/project/design_json.h"
#include "core/files/project/light_json.h"
#include "core/files/project/project_file.h"
#include "core/files/project/record_json.h"
#include "core/files/project/shape_json.h"
#include "core/files/project/underlay_json.h"
#include "core/model/settings/study_fields.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

namespace {

Json element(const Element& e, const std::string& folder) {
  Json j;
  j["id"] = e.id.text();
  j["name"] = e.name;
  if (!e.layer.empty()) j["layer"] = e.layer;
  j["role"] = roleKey(e.role);
  if (e.proposed) j["proposed"] = true;
  if (e.demolished) j["demolished"] = true;
  if (!e.counted) j["counted"] = false;
  if (e.hidden) j["hidden"] = true;
  if (e.ghost) j["ghost"] = true;
  if (!e.source.empty()) j["source"] = e.source;
  if (!e.finish.empty()) j["finish"] = e.finish;
  if (!e.mends.empty()) j["mends"] = e.mends;
  if (!e.group.empty()) j["group"] = e.group;
  if (e.row)
    j["row"] = Json{{"of", e.row->of.text()},
                    {"right", e.row->right},
                    {"up", e.row->up},
                    {"step-right", vectorJson({e.row->stepRight.x, e.row->stepRight.y, 0})},
                    {"step-up", vectorJson({e.row->stepUp.x, e.row->stepUp.y, 0})}};
  writeShape(j, e.shape, folder);
  addExtra(j, e.extra);
  return j;
}

Json group(const SensorGroup& g) {
  Json j;
  j["id"] = g.id.text();
  j["name"] = g.name;
  if (!g.dwelling.empty()) j["dwelling"] = g.dwelling;
  if (!g.building.empty()) j["building"] = g.building;
  if (g.eyes) j["eyes"] = true;
  if (g.subject == Subject::LivingRoom) j["subject"] = "living room";
  if (g.subject == Subject::OpenSpace) j["subject"] = "open space";
  if (const auto* a = std::get_if<GroundArea>(&g.layout)) {
    writeOutline(j["ground"], a->outline);
    j["ground"]["level"] = a->level;
    j["ground"]["spacing"] = a->spacing;
  } else if (const auto* r = std::get_if<GroundAround>(&g.layout)) {
    j["around"]["elements"] = Json::array();
    for (ElementId id : r->elements) j["around"]["elements"].push_back(id.text());
    j["around"]["margin"] = r->margin;
    j["around"]["level"] = r->level;
    j["around"]["spacing"] = r->spacing;
  } else if (const auto* f = std::get_if<FaceGrid>(&g.layout)) {
    j["faces"]["elements"] = Json::array();
    for (const FaceRef& ref : f->faces) {
      if (ref.face)
        j["faces"]["elements"].push_back(Json{{"element", ref.element.text()}, {"face", *ref.face}});
      else
        j["faces"]["elements"].push_back(ref.element.text());
    }
    j["faces"]["walls"] = f->walls;
    j["faces"]["roofs"] = f->roofs;
    j["faces"]["spacing"] = f->spacing;
    if (f->bay > 0) {
      j["faces"]["bay"] = f->bay;
      j["faces"]["height"] = f->height;
    }
  } else if (const auto* w = std::get_if<RoomGrid>(&g.layout)) {
    j["rooms"] = roomGridJson(*w);
  } else {
    j["points"] = Json::array();
    for (const PointSensor& s : std::get<std::vector<PointSensor>>(g.layout)) {
      Json p{{"at", vectorJson(s.position)}, {"normal", vectorJson(s.normal)}};
      if (!s.name.empty()) p["name"] = s.name;
      j["points"].push_back(std::move(p));
    }
  }
  addExtra(j, g.extra);
  return j;
}

template <class T> Json ids(const std::vector<T>& list) {
  Json out = Json::array();
  for (const T& id : list) out.push_back(id.text());
  return out;
}

Json study(const Study& s) {
  Json j;
  j["id"] = s.id.text();
  j["name"] = s.name;
  j["kind"] = studyKey(s.kind);
  if (!s.groups.empty()) j["groups"] = ids(s.groups);
  writeStudyFields(j, s);
  addExtra(j, s.extra);
  return j;
}

/// Points of an outline on one line each; everything else indented. Walks the values themselves: what stands in texts
/// is never touched.
void layOut(const Json& j, int depth, std::string& out) {
  const auto text = [](const Json& v) { return v.dump(-1, ' ', false, Json::error_handler_t::replace); };
  const bool object = j.is_object();
  if ((!object && !j.is_array()) || j.empty()) {
    out += text(j);
    return;
  }
  const bool flat = !object && std::all_of(j.begin(), j.end(), [](const Json& v) {
    return v.is_number() || v.is_null() || v.is_boolean();
  });
  out += object ? '{' : '[';
  bool first = true;
  for (const auto& [key, value] : j.items()) {
    if (!first) out += flat ? ", " : ",";
    first = false;
    if (!flat) out += '\n' + std::string(std::size_t(depth + 1) * 2, ' ');
    if (object) out += text(Json(key)) + ": ";
    layOut(value, depth + 1, out);
  }
  if (!flat) out += '\n' + std::string(std::size_t(depth) * 2, ' ');
  out += object ? '}' : ']';
}
std::string laidOut(const Json& j) {
  std::string out;
  layOut(j, 0, out);
  return out + "\n";
}

} // namespace

Json designJson(const Design& d, const std::string& folder) {
  Json j;
  j["elements"] = Json::array();
  for (const ElementPtr& e : d.elements) j["elements"].push_back(element(*e, folder));
  writeRooms(j, d);
  return j;
}

std::string projectText(const Project& p, const std::string& folder) {
  Json j;
  j["format"] = "noonward-project";
  j["version"] = projectVersion;
  j["id"] = p.id.text();
  j["name"] = p.name;
  j["units"] = p.units.length == LengthUnit::FeetInches ? "ft-in" : unitSymbol(p.units.length);
  if (p.units.light == LightUnit::FootCandle) j["light-unit"] = "fc";
  if (!p.preparedBy.empty()) j["prepared-by"] = p.preparedBy;
  if (!p.client.empty()) j["client"] = p.client;
  Json& s = j["site"];
  if (!p.site.name.empty()) s["name"] = p.site.name;
  s["latitude"] = tidyDegrees(p.site.place.latitude);
  s["longitude"] = tidyDegrees(p.site.place.longitude);
  s["elevation"] = p.site.place.elevation;
  s["zone"] = p.site.zone;
  s["year"] = p.site.year;
  s["north"] = tidyDegrees(p.site.northAngle);
  if (p.site.groundLevel != 0) s["ground-level"] = p.site.groundLevel;
  if (p.site.groundReflectance != 0.2) s["ground-reflectance"] = p.site.groundReflectance;
  if (!(p.site.origin == Vec3{})) s["origin"] = vectorJson(p.site.origin);
  if (!p.site.referenceSystem.empty()) s["reference-system"] = p.site.referenceSystem;
  if (!p.site.weatherFile.empty()) s["weather"] = p.site.weatherFile;
  addExtra(s, p.site.extra);
  // The first option is written out; the others by what they change.
  const Json base = designJson(designOf(p, 0), folder);
  for (const auto& [key, value] : base.items()) j[key] = value;
  for (std::size_t k = 0; k < p.options.size(); ++k) {
    Json o{{"id", p.options[k].id.text()}, {"name", p.options[k].name}};
    if (k > 0) {
      o["changes"] = Json::array();
      for (const JsonChange& c : differences(base, designJson(designOf(p, k), folder)))
        o["changes"].push_back(Json{{"at", c.at}, {"from", c.from}, {"to", c.to}});
    }
    j["options"].push_back(std::move(o));
  }
  if (p.option > 0) { // by its id where its name is not its alone
    const Option& now = p.options[p.option];
    const auto alike =
        std::count_if(p.options.begin(), p.options.end(), [&](const Option& o) { return o.name == now.name; });
    j["option"] = alike > 1 ? now.id.text() : now.name;
  }
  j["groups"] = Json::array();
  for (const SensorGroup& g : p.groups) j["groups"].push_back(group(g));
  for (const auto& [layer, colour] : p.layerColours) j["layer-colours"][layer] = colour;
  for (const Season& x : p.seasons) j["seasons"].push_back(seasonJson(x));
  if (const SunWishes& w = p.sunWishes; !w.empty()) {
    for (const Season& x : w.keepOut) j["sun-wishes"]["keep-out"].push_back(seasonJson(x));
    for (const Season& x : w.letIn) j["sun-wishes"]["let-in"].push_back(seasonJson(x));
    if (w.keepOutFrom) j["sun-wishes"]["keep-out-from"] = *w.keepOutFrom;
    if (w.keepOutBeamFrom) j["sun-wishes"]["keep-out-beam-from"] = *w.keepOutBeamFrom;
    if (w.letInUpTo) j["sun-wishes"]["let-in-up-to"] = *w.letInUpTo;
    for (std::size_t k = 0; k < w.keepOutHours.size();) { // runs of hours, from 1 on
      const std::size_t from = k;
      while (++k < w.keepOutHours.size() && w.keepOutHours[k] == w.keepOutHours[k - 1] + 1) {
      }
      j["sun-wishes"]["keep-out-hours"].push_back(Json::array({w.keepOutHours[from] + 1, w.keepOutHours[k - 1] + 1}));
    }
    if (!w.keepOutHoursOf.empty()) j["sun-wishes"]["keep-out-hours-of"] = w.keepOutHoursOf;
  }
  for (const Study& x : p.studies) j["studies"].push_back(study(x));
  for (const Judgement& x : p.judgements) {
    Json k;
    k["id"] = x.id.text();
    k["yardstick"] = x.yardstick;
    k["groups"] = ids(x.groups);
    for (const auto& [key, value] : x.changed) k["parameters"][key] = value;
    addExtra(k, x.extra);
    j["judgements"].push_back(std::move(k));
  }
  for (const SavedView& v : p.views) {
    Json k{{"id", v.id.text()}, {"name", v.name}, {"camera", Json::parse(v.camera, nullptr, false)}};
    for (const auto& [key, text] : {std::pair{"moment", &v.moment}, {"option", &v.option}, {"study", &v.study}})
      if (!text->empty()) k[key] = *text;
    j["views"].push_back(std::move(k));
  }
  writeRecordPlan(j, p);
  writeUnderlays(j, p);
  writeGuides(j, p);
  writeSources(j, p);
  writeMeasured(j, p);
  writeSweeps(j, p);
  for (const auto& [code, words] : p.accepted)
    j["accepted"].push_back(words.empty() ? Json(code) : Json{{"finding", code}, {"because", words}});
  addExtra(j, p.extra);
  return laidOut(j);
}

Outcome writeProject(Project& p, const std::filesystem::path& path, const DiscCalls& disc) {
  std::filesystem::path named = path;
  if (named.extension() == ".autosave") named.replace_extension();
  const std::string folder = named.stem().string() + ".files";
  const std::filesystem::path files = path.parent_path() / folder;
  const auto keep = [&](const std::string& name, const std::function<std::string()>& bytes) -> Outcome {
    std::error_code ignored;
    std::filesystem::create_directories(files, ignored);
    const std::filesystem::path target = path.parent_path() / name;
    if (std::filesystem::exists(target)) return {}; // named by content: what is there is it
    return saveFile(target, bytes(), disc);
  };
  for (std::size_t k = 0; k < std::max<std::size_t>(1, p.options.size()); ++k)
    for (const ElementPtr& e : designOf(p, k).elements)
      if (const Imported* i = e->imported(); i && i->mesh)
        if (Outcome o = keep(meshFile(*i, folder), [&] { return plyBytes(*i->mesh); }); !o) return o;
  for (Underlay& u : p.underlays) {
    if (!u.picture) continue;
    std::error_code e;
    const bool there = !u.file.empty() && std::filesystem::path(u.file).is_relative() &&
                       std::filesystem::file_size(path.parent_path() / u.file, e) == u.picture->bytes.size() && !e;
    if (there) continue;
    const std::string name = folder + "/" + u.picture->content.hex() + u.picture->suffix;
    if (Outcome o = keep(name, [&] { return u.picture->bytes; }); !o) return o;
    u.file = name;
  }
  if (p.site.weather) {
    const bool there = !p.site.weatherFile.empty() && std::filesystem::exists(path.parent_path() / p.site.weatherFile);
    if (!there) {
      const std::string name = folder + "/" + p.site.weather->digest.hex() + ".epw";
      if (Outcome o = keep(name, [&] { return epwText(*p.site.weather); }); !o) return o;
      p.site.weatherFile = name;
    }
  }
  // Sources and measured files are named from the project's folder, where they lie beside or below it: all can then be
  // carried elsewhere together.
  Project written = p;
  const auto home = std::filesystem::absolute(path).parent_path().lexically_normal();
  const auto fromHome = [&](std::string& file) {
    if (const auto near = std::filesystem::path(file).lexically_relative(home); !near.empty() && *near.begin() != "..")
      file = near.string();
  };
  for (SourceFile& s : written.sources) fromHome(s.path);
  for (MeasuredSeries& s : written.measured)
    for (std::string& file : s.files) fromHome(file);
  return saveFile(path, projectText(written, folder), disc);
}

} // namespace noonward
