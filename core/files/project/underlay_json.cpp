#include "core/files/project/underlay_json.h"
#include <fmt/format.h>

namespace noonward {

namespace {

/// By its first bytes: names of picture files are often wrong.
std::string suffixOf(std::string_view b) {
  if (b.starts_with("\x89PNG")) return ".png";
  if (b.starts_with("\xff\xd8\xff")) return ".jpg";
  if (b.starts_with("BM")) return ".bmp";
  if (b.starts_with("GIF8")) return ".gif";
  if (b.starts_with("II*") || b.starts_with(std::string_view("MM\0*", 4))) return ".tif";
  if (b.starts_with("RIFF") && b.size() > 12 && b.substr(8, 4) == "WEBP") return ".webp";
  return {};
}

bool numbers(const Json& v, std::size_t n) {
  return v.is_array() && v.size() == n && std::all_of(v.begin(), v.end(), [](const Json& x) { return x.is_number(); });
}

} // namespace

Expected<std::shared_ptr<const Picture>> readPicture(const std::filesystem::path& file) {
  auto bytes = loadFile(file, std::size_t{256} << 20);
  if (!bytes) return tl::unexpected(bytes.error());
  const std::string suffix = suffixOf(*bytes);
  if (suffix.empty())
    return fail("This is no picture: PNG, JPEG, TIFF, WebP, BMP and GIF are read.", file.filename().string());
  const Digest content = digestOf(*bytes);
  return std::make_shared<const Picture>(Picture{std::move(*bytes), suffix, content});
}

void readUnderlays(JsonObject& root, Project& project, const std::filesystem::path& folder,
                   std::vector<std::string>& notes) {
  root.array("underlays", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    Underlay u;
    const std::string text = o.text("id");
    u.name = o.text("name");
    u.file = o.requiredText("file");
    u.id = {idFromText(text).value_or(derivedId("underlay/" + (text.empty() ? path + "/" + u.file : text)))};
    if (u.name.empty()) u.name = std::filesystem::path(u.file).stem().string();
    u.scaled = o.boolean("scaled", true);
    u.shown = o.boolean("shown", true);
    u.strength = o.number("strength", 0.65, 0, 1);
    o.array("pins", [&](const Json& p, const std::string& where) {
      JsonObject q(p, where, root.faults());
      const Json &pixel = q.raw("pixel"), &at = q.raw("at");
      if (!numbers(pixel, 2))
        return q.fault("pixel", "Two numbers [x, y] are expected here: pixels from the upper left corner.");
      if (!numbers(at, 3)) return q.fault("at", "Three numbers [x, y, z] are expected here.");
      u.pins.push_back({{pixel[0].get<double>(), pixel[1].get<double>()},
                        {at[0].get<double>(), at[1].get<double>(), at[2].get<double>()}});
    });
    if (o.sound())
      if (const auto map = planeMapOf(u.pins); !map) o.fault("pins", map.error().message);
    u.extra = o.extra();
    if (!o.sound()) return;
    if (auto picture = readPicture(folder / u.file))
      u.picture = std::move(*picture);
    else
      notes.push_back(fmt::format("The picture \"{}\" can't be shown: {}", u.name, picture.error().text()));
    project.underlays.push_back(std::move(u));
  });
}

void readGuides(JsonObject& root, Project& project) {
  root.array("guides", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    const Json &a = o.raw("from"), &b = o.raw("to");
    if (!numbers(a, 2)) return o.fault("from", "Two numbers [x, y] are expected here.");
    if (!numbers(b, 2)) return o.fault("to", "Two numbers [x, y] are expected here.");
    const Guide g{{a[0].get<double>(), a[1].get<double>()}, {b[0].get<double>(), b[1].get<double>()}};
    if (length(g.b - g.a) < 1e-6) return o.fault("to", "A point apart from \"from\" is expected here.");
    project.guides.push_back(g);
  });
}

void writeGuides(Json& root, const Project& project) {
  for (const Guide& g : project.guides)
    root["guides"].push_back(Json{{"from", Json::array({g.a.x, g.a.y})}, {"to", Json::array({g.b.x, g.b.y})}});
}

void readSources(JsonObject& root, Project& project, const std::filesystem::path& folder) {
  root.array("sources", [&](const Json& v, const std::string& path) {
    JsonObject o(v, path, root.faults());
    SourceFile s;
    s.name = o.requiredText("name");
    s.path = o.requiredText("path");
    if (const std::filesystem::path p = s.path; p.is_relative() && !folder.empty())
      s.path = std::filesystem::absolute(folder / p).lexically_normal().string();
    if (const auto u = unitFromSymbol(o.text("units", "m")))
      s.unit = *u;
    else
      o.fault("units", "m, mm, cm, ft or in is expected here.");
    s.yUp = o.text("up", "z") == "y";
    s.scale = o.number("scale", 1, 1e-9, 1e9);
    if (o.has("north")) s.northAngle = o.number("north", 0, -360, 360) * std::numbers::pi / 180;
    if (const Json& at = o.raw("origin"); numbers(at, 3))
      s.origin = {at[0].get<double>(), at[1].get<double>(), at[2].get<double>()};
    s.level = o.text("level");
    const std::string hex = o.text("content");
    if (hex.size() == 32)
      if (const auto high = idFromText(hex.substr(0, 16)), low = idFromText(hex.substr(16)); high && low)
        s.content = {*high, *low};
    project.sources.push_back(std::move(s));
  });
}

void writeUnderlays(Json& root, const Project& project) {
  for (const Underlay& u : project.underlays) {
    Json j{{"id", u.id.text()}, {"name", u.name}, {"file", u.file}};
    if (!u.scaled) j["scaled"] = false;
    if (!u.shown) j["shown"] = false;
    j["strength"] = u.strength;
    for (const UnderlayPin& p : u.pins)
      j["pins"].push_back(
          Json{{"pixel", Json::array({p.pixel.x, p.pixel.y})}, {"at", Json::array({p.place.x, p.place.y, p.place.z})}});
    addExtra(j, u.extra);
    root["underlays"].push_back(std::move(j));
  }
}

void writeSources(Json& root, const Project& project) {
  for (const SourceFile& s : project.sources) {
    Json j{{"name", s.name}, {"path", s.path}, {"units", unitSymbol(s.unit)}, {"up", s.yUp ? "y" : "z"}};
    if (s.scale != 1) j["scale"] = s.scale;
    if (s.northAngle) j["north"] = *s.northAngle * 180 / std::numbers::pi;
    if (!(s.origin == Vec3{})) j["origin"] = Json::array({s.origin.x, s.origin.y, s.origin.z});
    if (!s.level.empty()) j["level"] = s.level;
    j["content"] = s.content.hex();
    root["sources"].push_back(std::move(j));
  }
}

} // namespace noonward
