#include "core/files/cities/map_sheet.h"
#include "core/base/tolerances.h"
#include "core/files/cities/reference_system.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/save_file.h"
#include "core/geometry/region.h"
#include "core/model/form/edit.h"
#include "core/sun/earth.h"
#include <cstring>
#include <fmt/format.h>

namespace noonward {

namespace {

namespace fs = std::filesystem;
constexpr std::size_t mostText = 1 << 20; ///< bytes of a world file or a .prj

// ---- tags of a GeoTIFF --------------------------------------------------------------------------------------------

/// The first directory of a TIFF, in either order of bytes; nothing is read beyond its end.
class TiffTags {
public:
  explicit TiffTags(std::string_view bytes) : bytes_(bytes) {
    little_ = bytes.starts_with("II*");
    if (bytes.size() < 8 || (!little_ && !bytes.starts_with(std::string_view("MM\0*", 4)))) return;
    const std::size_t at = std::size_t(whole(4, 4)), n = std::size_t(whole(at, 2));
    for (std::size_t k = 0; k < n && at + 2 + 12 * (k + 1) <= bytes.size(); ++k) entries_.push_back(at + 2 + 12 * k);
  }
  /// All numbers of a tag of doubles (type 12) or shorts (type 3); empty where it is not there or cut off.
  std::vector<double> numbers(unsigned tag) const {
    for (std::size_t e : entries_) {
      if (whole(e, 2) != tag) continue;
      const auto type = whole(e + 2, 2), count = whole(e + 4, 4);
      const std::size_t each = type == 12 ? 8 : type == 3 ? 2 : 0;
      if (each == 0 || count > 100'000) return {};
      const std::size_t from = count * each <= 4 ? e + 8 : std::size_t(whole(e + 8, 4));
      if (from + count * each > bytes_.size()) return {};
      std::vector<double> out;
      for (std::size_t i = 0; i < count; ++i) {
        const std::uint64_t bits = whole(from + i * each, each);
        double v = double(bits);
        if (type == 12) std::memcpy(&v, &bits, 8);
        out.push_back(v);
      }
      return out;
    }
    return {};
  }

private:
  std::uint64_t whole(std::size_t at, std::size_t length) const {
    std::uint64_t v = 0;
    if (at > bytes_.size() || length > bytes_.size() - at) return 0;
    for (std::size_t i = 0; i < length; ++i)
      v = v << 8 | static_cast<unsigned char>(bytes_[little_ ? at + length - 1 - i : at + i]);
    return v;
  }
  std::string_view bytes_;
  bool little_ = false;
  std::vector<std::size_t> entries_;
};

constexpr unsigned pixelScale = 33550, tiePoint = 33922, transformation = 34264, geoKeys = 34735;

Expected<std::optional<MapSheet>> byItsTags(std::string_view bytes) {
  const TiffTags tags(bytes);
  const std::vector<double> scale = tags.numbers(pixelScale), tie = tags.numbers(tiePoint),
                            turn = tags.numbers(transformation), keys = tags.numbers(geoKeys);
  MapSheet out;
  if (turn.size() == 16)
    out.grid = {turn[0], turn[1], turn[3], turn[4], turn[5], turn[7]};
  else if (scale.size() >= 2 && tie.size() >= 6)
    out.grid = {scale[0], 0, tie[3] - tie[0] * scale[0], 0, -scale[1], tie[4] + tie[1] * scale[1]};
  else
    return std::optional<MapSheet>{};
  bool spots = false; // the numbers mean the middle of pixels
  for (std::size_t k = 4; k + 3 < keys.size(); k += 4) {
    if (keys[k] == 1025) spots = keys[k + 3] == 2;
    if ((keys[k] == 3072 || keys[k] == 2048) && keys[k + 1] == 0 && keys[k + 3] > 0 && keys[k + 3] < 32767 &&
        (out.system.empty() || keys[k] == 3072))
      out.system = fmt::format("EPSG:{:.0f}", keys[k + 3]);
  }
  if (spots) {
    const Vec2 moved = out.at({-0.5, -0.5});
    out.grid[2] = moved.x;
    out.grid[5] = moved.y;
  }
  out.by = "its own tags";
  return std::optional<MapSheet>{std::move(out)};
}

// ---- files beside the picture -------------------------------------------------------------------------------------

/// The first of these endings that lies beside, in small or capital letters.
std::optional<fs::path> beside(const fs::path& file, const std::vector<std::string>& endings) {
  for (std::string end : endings)
    for (bool capital : {false, true}) {
      if (capital)
        for (char& c : end) c = static_cast<char>(c >= 'a' && c <= 'z' ? c - 32 : c);
      std::error_code fault;
      if (fs::path at = fs::path(file).replace_extension(end); fs::is_regular_file(at, fault)) return at;
      if (fs::path at = file.string() + end; fs::is_regular_file(at, fault)) return at;
    }
  return {};
}

/// harbour.png: .pgw, .pngw, .wld; harbour.jpeg: .jgw, .jpegw, .wld.
std::vector<std::string> worldEndings(const fs::path& file) {
  std::string e = file.extension().string();
  for (char& c : e) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  std::vector<std::string> out;
  if (e.size() > 2) out.push_back({'.', e[1], e.back(), 'w'});
  if (!e.empty()) out.push_back(e + "w");
  out.push_back(".wld");
  return out;
}

} // namespace

Expected<std::array<double, 6>> worldFileFrom(std::string_view text) {
  std::array<double, 6> v{};
  std::size_t n = 0, line = 0;
  while (!text.empty() && n < 6) {
    const auto end = text.find_first_of("\r\n");
    std::string_view row = text.substr(0, end);
    text = end == std::string_view::npos ? std::string_view{} : text.substr(end + 1);
    if (end != std::string_view::npos && text.starts_with('\n')) text.remove_prefix(1);
    ++line;
    while (!row.empty() && (row.front() == ' ' || row.front() == '\t')) row.remove_prefix(1);
    while (!row.empty() && (row.back() == ' ' || row.back() == '\t')) row.remove_suffix(1);
    if (row.empty()) continue;
    std::string number(row);
    if (number.find('.') == std::string::npos) std::replace(number.begin(), number.end(), ',', '.');
    const auto value = numberFromText(number);
    if (!value || !std::isfinite(*value))
      return fail(fmt::format("Line {}: a number is expected; it is \"{}\".", line, row.substr(0, 40)));
    v[n++] = *value;
  }
  if (n < 6) return fail(fmt::format("A world file has six lines with a number each; this one has {}.", n));
  // a, d, b, e, c, f of the middles of pixels; here from the upper left corner.
  const double a = v[0], d = v[1], b = v[2], e = v[3], c = v[4], f = v[5];
  if (!(std::abs(a * e - b * d) > 0)) return fail("The size of a pixel in the world file is nothing.");
  if (a * e - b * d > 0)
    return fail("By the world file the picture would lie mirrored: the fourth number is the step down, and below 0 "
                "for a picture with north at its top.");
  return std::array<double, 6>{a, b, c - (a + b) / 2, d, e, f - (d + e) / 2};
}

Expected<std::optional<MapSheet>> mapSheetOf(const fs::path& file, const Picture& picture) {
  std::string system;
  if (const auto prj = beside(file, {".prj"}))
    if (auto text = loadFile(*prj, mostText)) system = std::move(*text);
  if (const auto world = beside(file, worldEndings(file))) {
    auto text = loadFile(*world, mostText);
    if (!text) return tl::unexpected(text.error());
    auto grid = worldFileFrom(*text);
    const std::string name = world->filename().string();
    if (!grid) return fail(grid.error().message, name);
    if (system.empty() && picture.suffix == ".tif") // the tags may still say in what system
      if (auto tags = byItsTags(picture.bytes); tags && *tags) system = (*tags)->system;
    return std::optional<MapSheet>{MapSheet{*grid, std::move(system), name}};
  }
  if (picture.suffix != ".tif") return std::optional<MapSheet>{};
  auto out = byItsTags(picture.bytes);
  if (out && *out && (*out)->system.empty()) (*out)->system = std::move(system);
  return out;
}

// ---- laid ---------------------------------------------------------------------------------------------------------

namespace {

std::string systemName(const std::string& system) {
  const auto quote = system.find('"');
  if (system.find('[') == std::string::npos || quote == std::string::npos) return system;
  return system.substr(quote + 1, system.find('"', quote + 1) - quote - 1);
}

std::string sizeText(double metres) {
  return metres >= 1000 ? fmt::format("{:.1f} km", metres / 1000) : fmt::format("{:.0f} m", metres);
}

/// Corners in local metres.
struct Corners {
  std::vector<Vec2> local;
  std::string how;
};

Expected<Corners> byPlaneOf(const Site& site, const MapSheet& sheet, const std::vector<Vec2>& corners) {
  Corners out{corners, {}};
  if (!sheet.system.empty() && epsgNumber(sheet.system) != epsgNumber(site.referenceSystem)) {
    auto moved = reprojected(sheet.system, site.referenceSystem, corners);
    if (!moved) return tl::unexpected(moved.error());
    double shifted = 0; // the same system by another name moves nothing
    for (std::size_t i = 0; i < corners.size(); ++i) shifted = std::max(shifted, length(moved->points[i] - corners[i]));
    out.local = std::move(moved->points);
    if (shifted > 0.001)
      out.how = fmt::format(" It was brought from {} into {}{}.", systemName(sheet.system),
                            fmt::format("EPSG:{}", epsgNumber(site.referenceSystem)),
                            moved->accuracy > 0 ? fmt::format(", good to about {:g} m", moved->accuracy) : "");
  } else if (sheet.system.empty()) {
    out.how = fmt::format(" It names no reference system: that of the project, EPSG:{}, was taken.",
                          epsgNumber(site.referenceSystem));
  }
  const double metre = metresInUnitOf(site.referenceSystem);
  for (Vec2& p : out.local) p = {p.x * metre - site.origin.x, p.y * metre - site.origin.y};
  return out;
}

/// A project without a system: by longitude and latitude, from its place, which is the drawing's zero.
Expected<Corners> byPlace(const Site& site, const MapSheet& sheet, const std::vector<Vec2>& corners) {
  auto moved = reprojected(sheet.system, "EPSG:4326", corners);
  if (!moved) return tl::unexpected(moved.error());
  Corners out{std::move(moved->points), " It was laid by the project's place, which stands for the drawing's zero."};
  const Vec2 each = earth::metresPerRadian(site.place.latitude);
  const double c = std::cos(site.northAngle), s = std::sin(site.northAngle);
  for (Vec2& p : out.local) {
    const Vec2 d{(radians(p.x) - site.place.longitude) * each.x, (radians(p.y) - site.place.latitude) * each.y};
    p = {d.x * c - d.y * s, d.x * s + d.y * c};
  }
  return out;
}

/// An empty project stands where its first sheet lies.
Expected<Site> siteOf(Site site, const MapSheet& sheet, Vec2 middle) {
  if (inDegrees(sheet.system)) { // longitude and latitude: the plane that touches there
    site.place = {radians(middle.y), radians(middle.x), site.place.elevation};
    site.northAngle = 0;
  } else {
    const double metre = sheet.system.empty() ? 1 : metresInUnitOf(sheet.system);
    site.origin = {std::round(middle.x * metre / 100) * 100, std::round(middle.y * metre / 100) * 100, 0};
    if (sheet.system.empty()) return site;
    if (epsgNumber(sheet.system) == 0 || sheet.system.find('[') != std::string::npos) {
      auto there = reprojected(sheet.system, "EPSG:4326", {middle});
      if (!there) return tl::unexpected(there.error());
      site.origin = {};
      site.place = {radians(there->points[0].y), radians(there->points[0].x), site.place.elevation};
      site.northAngle = 0;
    } else {
      const auto at = locate(sheet.system, site.origin.x / metre, site.origin.y / metre);
      if (!at) return tl::unexpected(at.error());
      site.place = {at->place.latitude, at->place.longitude, site.place.elevation};
      site.northAngle = at->northAngle;
      site.referenceSystem = fmt::format("EPSG:{}", epsgNumber(sheet.system));
    }
  }
  site.zone = zoneOfPlace(site.place).zone;
  return site;
}

Ring ringOf(const Underlay& sheet) {
  Ring ring;
  for (const UnderlayPin& pin : sheet.pins) ring.push_back({pin.place.x, pin.place.y});
  return ring;
}

} // namespace

Expected<LaidSheet> laidSheet(const Project& project, Underlay underlay, Vec2 pixels, const MapSheet& asked) {
  MapSheet sheet = asked;
  if (!sheet.system.empty() && sheet.system.find_first_not_of("0123456789") == std::string::npos)
    sheet.system = "EPSG:" + sheet.system;
  if (!(pixels.x > 0) || !(pixels.y > 0)) return fail("The picture has no size.");
  const std::array<Vec2, 4> spots{{{0, pixels.y}, pixels, {pixels.x, 0}, {0, 0}}};
  std::vector<Vec2> corners;
  for (Vec2 s : spots) corners.push_back(sheet.at(s));
  LaidSheet out{std::move(underlay), project.site, {}};
  const bool blank = project.elements.empty() && project.rooms.empty() && project.underlays.empty() &&
                     project.site.referenceSystem.empty() && project.site.origin == Vec3{};
  if (blank) {
    auto site = siteOf(project.site, sheet, (corners[0] + corners[2]) * 0.5);
    if (!site) return tl::unexpected(site.error());
    out.site = std::move(*site);
  }
  Expected<Corners> laid = fail("");
  if (!out.site.referenceSystem.empty())
    laid = byPlaneOf(out.site, sheet, corners);
  else if (!sheet.system.empty())
    laid = byPlace(out.site, sheet, corners);
  else { // nobody names a system: bare coordinates
    laid = Corners{corners, " Neither it nor the project names a reference system: its coordinates were taken as the "
                            "project's own."};
    for (Vec2& p : laid->local) p = {p.x - out.site.origin.x, p.y - out.site.origin.y};
  }
  if (!laid) return tl::unexpected(laid.error());
  Box3 box;
  for (Vec2 p : laid->local) box.add({p.x, p.y, 0});
  if (const double far = std::hypot(box.center().x, box.center().y) - length(box.size()) / 2;
      far > 2 * tolerance::largestExtent)
    return fail(fmt::format("By its coordinates it lies {} from the model: is {} its reference system?", sizeText(far),
                            sheet.system.empty() ? "the project's" : systemName(sheet.system)));
  if (length(box.size()) > 20 * tolerance::largestExtent)
    return fail(fmt::format("By its coordinates it would be {} wide: cut it to the neighbourhood first.",
                            sizeText(box.size().x)));
  Underlay& u = out.underlay;
  u.pins.clear();
  u.scaled = true;
  for (std::size_t i = 0; i < 4; ++i)
    u.pins.push_back({spots[i], {laid->local[i].x, laid->local[i].y, out.site.groundLevel}});
  if (const auto map = planeMapOf(u.pins); !map) return tl::unexpected(map.error());
  const double w = length(laid->local[1] - laid->local[0]), h = length(laid->local[3] - laid->local[0]);
  out.told = fmt::format("Lies by {}: {} × {}, one pixel is {:.2f} m.{} {}", sheet.by, sizeText(w), sizeText(h),
                         w / pixels.x, laid->how, coveredTold(project, u));
  if (blank && !sheet.system.empty()) out.told += " The project stands where it lies.";
  return out;
}

std::string coveredTold(const Project& project, const Underlay& sheet) {
  const Ring ring = ringOf(sheet);
  std::size_t on = 0, all = 0;
  double nearest = 1e300;
  for (const ElementPtr& e : project.elements) {
    if (e->role == Role::Ground) continue;
    const Box3 box = boxOf(*e);
    if (box.empty()) continue;
    ++all;
    const Vec2 middle{box.center().x, box.center().y};
    const bool under = contains(ring, middle);
    on += under;
    if (!under) nearest = std::min(nearest, distanceToEdge(Outline{ring, {}}, middle));
  }
  std::string out;
  if (all == 0)
    out = "Nothing stands here yet.";
  else if (on == 0)
    out = fmt::format("It covers nothing of the model, which begins {} beside it.", sizeText(nearest));
  else
    out = fmt::format("It covers {} of {} parts.", on == all ? "all" : fmt::format("{}", on), all);
  for (const Underlay& other : project.underlays) {
    if (other.id == sheet.id || kindOf(other) != UnderlayKind::Sheet) continue;
    const double share =
        area(regionCommon(covered({ring}), covered({ringOf(other)}))) / std::max(1e-9, std::abs(signedArea(ring)));
    if (share > 0.0005) out += fmt::format(" It lies over \"{}\" with {:.0f} % of its area.", other.name, 100 * share);
  }
  return out;
}

} // namespace noonward
