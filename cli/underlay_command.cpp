// Pictures to trace over, without a window: laid by two pins or four, listed, straightened, taken away.

#include "cli/commands.h"
#include "core/base/json.h"
#include "core/files/cities/map_sheet.h"
#include "core/files/project/underlay_json.h"
#include "core/files/save_file.h"
#include "picture/underlay_image.h"
#include <fmt/format.h>

namespace noonward::cli {

namespace {

struct UnderlayCall {
  std::string project, picture, name, out, remove, straighten, system, world;
  std::vector<std::string> pins;
  double distance = 0, perMetre = 100, strength = 0.65;
  bool json = false;
};

/// "120,840=0,0,3.2": a pixel and its place in metres.
std::optional<UnderlayPin> pinFrom(const std::string& text) {
  std::array<double, 5> v{};
  std::size_t at = 0;
  for (std::size_t i = 0; i < 5; ++i) {
    const std::size_t end = i == 1 ? text.find('=', at) : i == 4 ? text.size() : text.find(',', at);
    if (end == std::string::npos || end < at) return {};
    const auto number = numberFromText(text.substr(at, end - at));
    if (!number) return {};
    v[i] = *number;
    at = end + 1;
  }
  return UnderlayPin{{v[0], v[1]}, {v[2], v[3], v[4]}};
}

const char* kindWord(const Underlay& u) {
  const UnderlayKind kind = kindOf(u);
  return kind == UnderlayKind::Plan ? "plan" : kind == UnderlayKind::Sheet ? "map sheet" : "facade";
}

int list(const Project& p, bool json) {
  Json all = Json::array();
  for (const Underlay& u : p.underlays) {
    const QSize size = u.picture ? sizeOf(*u.picture) : QSize();
    const double metres = u.pins.size() >= 2 ? length(u.pins[1].place - u.pins[0].place) /
                                                   std::max(1.0, length(u.pins[1].pixel - u.pins[0].pixel))
                                             : 0;
    all.push_back(Json{{"name", u.name},
                       {"kind", kindWord(u)},
                       {"file", u.file},
                       {"there", bool(u.picture)},
                       {"pixels", Json::array({size.width(), size.height()})},
                       {"scaled", u.scaled},
                       {"shown", u.shown},
                       {"metres_per_pixel", metres}});
    if (!json)
      fmt::print("{}: {}, {}, {:.1f} mm a pixel at its first mark{}\n", u.name, kindWord(u),
                 u.picture ? fmt::format("{} × {} px", size.width(), size.height()) : "its file is gone", 1000 * metres,
                 u.scaled ? "" : ", not to scale");
  }
  if (json)
    fmt::print("{}\n", all.dump(2));
  else if (p.underlays.empty())
    fmt::print("No picture is laid.\n");
  return 0;
}

Expected<LaidSheet> byCoordinates(const Project& p, Underlay u, const UnderlayCall& c) {
  if (!c.pins.empty()) return fail("underlay: --world and --pin say both where it lies; give one of them");
  auto sheet = mapSheetOf(c.picture, *u.picture);
  if (!c.world.empty()) {
    const auto text = loadFile(c.world, 1 << 20);
    if (!text) return tl::unexpected(text.error());
    const auto grid = worldFileFrom(*text);
    if (!grid) return fail(grid.error().message, c.world);
    const std::string system = sheet && *sheet ? (*sheet)->system : std::string();
    sheet = std::optional<MapSheet>{MapSheet{*grid, system, std::filesystem::path(c.world).filename().string()}};
  }
  if (!sheet) return tl::unexpected(sheet.error());
  if (!*sheet)
    return fail("underlay: where does it lie? Two --pin for a plan, four round a facade, or a world file beside the "
                "picture (" +
                std::filesystem::path(c.picture).stem().string() + ".wld)");
  if (!c.system.empty()) (*sheet)->system = c.system;
  const auto old =
      std::find_if(p.underlays.begin(), p.underlays.end(), [&](const Underlay& other) { return other.name == u.name; });
  if (old != p.underlays.end()) u.id = old->id;
  const QSize size = sizeOf(*u.picture);
  return laidSheet(p, std::move(u), {double(size.width()), double(size.height())}, **sheet);
}

int run(const UnderlayCall& c) {
  auto loaded = openProject(c.project);
  if (!loaded) return complain(loaded.error().text(), 1);
  Project p = std::move(loaded->project);
  const auto named = [&](const std::string& name) {
    return std::find_if(p.underlays.begin(), p.underlays.end(),
                        [&](const Underlay& u) { return u.name == name || u.id.text() == name; });
  };
  bool changed = false;
  if (!c.picture.empty()) {
    Underlay u;
    u.name = c.name.empty() ? std::filesystem::path(c.picture).stem().string() : c.name;
    for (const std::string& text : c.pins) {
      const auto pin = pinFrom(text);
      if (!pin)
        return complain(
            "underlay: --pin PIXEL-X,PIXEL-Y=X,Y,Z is expected, such as 120,840=0,0,3.2; got \"" + text + "\"", 2);
      u.pins.push_back(*pin);
    }
    auto picture = readPicture(c.picture);
    if (!picture) return complain(picture.error().text(), 1);
    if (sizeOf(**picture).isEmpty()) return complain(c.picture + ": the picture can't be read: it may be cut off", 1);
    u.picture = std::move(*picture);
    u.strength = c.strength;
    if (c.pins.empty() || !c.world.empty()) { // by its coordinates
      auto laid = byCoordinates(p, std::move(u), c);
      if (!laid) return complain(laid.error().text(), laid.error().place.empty() ? 2 : 1);
      p.site = laid->site;
      u = std::move(laid->underlay);
      fmt::print(stderr, "{}\n", laid->told);
    } else if (!c.system.empty()) {
      return complain("underlay: --system says how a world file counts; pins are in the project's own metres", 2);
    }
    if (c.distance > 0) {
      auto scaled = withTrueDistance(std::move(u), c.distance);
      if (!scaled) return complain("underlay: " + scaled.error().message, 2);
      u = std::move(*scaled);
    }
    if (const auto map = planeMapOf(u.pins); !map) return complain("underlay: " + map.error().message, 2);
    if (const auto old = named(u.name); old != p.underlays.end()) {
      u.id = old->id;
      *old = std::move(u);
    } else {
      u.id = UnderlayId::fresh();
      p.underlays.push_back(std::move(u));
    }
    changed = true;
  }
  if (!c.remove.empty()) {
    const auto at = named(c.remove);
    if (at == p.underlays.end()) return complain("underlay: no picture is called \"" + c.remove + "\"", 2);
    p.underlays.erase(at);
    changed = true;
  }
  if (!c.straighten.empty()) {
    const auto at = c.name.empty() ? p.underlays.end() - (p.underlays.empty() ? 0 : 1) : named(c.name);
    if (at == p.underlays.end()) return complain("underlay: there is no such picture to straighten", 2);
    const auto image = straightened(*at, c.perMetre);
    if (!image) return complain(image.error().text(), 1);
    if (!image->save(QString::fromStdString(c.straighten)))
      return complain("could not write " + c.straighten + " (.png and .jpg are written)", 1);
  }
  if (changed)
    if (const Outcome o = saveProject(p, c.out.empty() ? c.project : c.out); !o) return complain(o.error().text(), 1);
  return list(p, c.json);
}

} // namespace

void addUnderlay(CLI::App& app, Session& session) {
  auto c = std::make_shared<UnderlayCall>();
  auto* u = app.add_subcommand("underlay", "Pictures to trace over: lay one, straighten it, list them");
  u->add_option("project", c->project, "project file")->required();
  u->add_option("picture", c->picture, "PNG, JPEG, TIFF, WebP, BMP or GIF; alone the command lists what is there");
  u->add_option("--pin", c->pins,
                "a spot of the picture and its place, PIXEL-X,PIXEL-Y=X,Y,Z; two for a plan, four round a facade");
  u->add_option("--world", c->world,
                "world file that says where the picture lies; the one beside it is found by itself");
  u->add_option("--system", c->system,
                "reference system of the world file, such as EPSG:25832; else its .prj, or the project's");
  u->add_option("--distance", c->distance, "m: true distance of the two pins of a plan; the first stays")
      ->check(CLI::PositiveNumber);
  u->add_option("--name", c->name, "what it is called");
  u->add_option("--strength", c->strength, "0 to 1: how strongly it is drawn")->check(CLI::Range(0.0, 1.0));
  u->add_option("--straighten", c->straighten, "write the picture as seen square on, .png or .jpg");
  u->add_option("--pixels-per-metre", c->perMetre, "of the straightened picture")->check(CLI::PositiveNumber);
  u->add_option("--remove", c->remove, "take this one away");
  u->add_option("--out", c->out, "write the project here instead");
  u->add_flag("--json", c->json, "as JSON");
  u->callback([c, &session] { session.exit = run(*c); });
}

} // namespace noonward::cli
