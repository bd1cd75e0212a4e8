#include "cli/demo_quarter.h"
#include "core/base/json.h"
#include "core/files/library.h"
#include "core/files/meshes/mesh_files.h"
#include "core/model/form/edit.h"
#include "core/model/form/receivers.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace noonward::cli {

namespace {

/// The same numbers everywhere: the distributions of the standard library are each maker's own.
class Dice {
public:
  explicit Dice(unsigned seed) : state_(seed * 2654435761u + 1) {}
  double between(double a, double b) {
    state_ ^= state_ << 13;
    state_ ^= state_ >> 17;
    state_ ^= state_ << 5;
    return a + (b - a) * (double(state_) / 4294967296.0);
  }

private:
  std::uint32_t state_;
};

double smooth(double t) {
  t = std::clamp(t, 0.0, 1.0);
  return t * t * (3 - 2 * t);
}

/// m above the quay: level around the square, hills to the north, down to the harbour in the south.
double ground(Vec2 p) {
  const double r = std::hypot(p.x, p.y), rise = smooth((r - 130) / 220);
  const double hills = 0.014 * std::max(0.0, p.y) + 2.6 * std::sin(p.x / 170) * std::cos(p.y / 230) + 1.2;
  const double harbour = -3.5 * smooth((-330 - p.y) / 60);
  return rise * std::max(0.0, hills) + harbour;
}
bool inWater(Vec2 p) {
  return p.y < -318 + 22 * std::sin(p.x / 140);
}

/// Where the city model's zero lies: ETRS89, zone 32 north, at the quay; the drawing's up is turned from grid north.
constexpr double easting = 720500, northing = 6167900, elevation = 3, turn = 12 * radiansPerDegree;
Vec2 onMap(Vec2 p) {
  return {p.x * std::cos(turn) + p.y * std::sin(turn), -p.x * std::sin(turn) + p.y * std::cos(turn)};
}

struct House {
  std::string name;
  Outline outline; ///< drawing
  double base = 0, height = 0;
  int storeys = 1;
};

const char* const streets[] = {"Weir",   "Tar",    "Hemp",   "Sail",   "Lantern", "Anchor", "Mill",   "Oak",  "Ferry",
                               "Kelp",   "Copper", "Salt",   "Pilot",  "Herring", "Rope",   "Barrel", "Buoy", "Heron",
                               "Willow", "Chapel", "Tanner", "Cooper", "Linden",  "Gull",   "Harrow", "Loom"};

/// Houses along the rim of every block between the streets.
std::vector<House> houses(const Project& quay, const QuarterWish& wish) {
  Dice dice(wish.seed);
  std::vector<House> out;
  std::vector<std::array<double, 4>> taken; // of the quay's masses, with room around them
  for (const ElementPtr& e : quay.elements)
    if (const Mass* m = e->mass()) {
      House h{e->name, m->outline, 0, m->height, m->storeys};
      std::array<double, 4> box{1e9, 1e9, -1e9, -1e9};
      for (const Vec2 q : m->outline.outer)
        box = {std::min(box[0], q.x - 7), std::min(box[1], q.y - 7), std::max(box[2], q.x + 7),
               std::max(box[3], q.y + 7)};
      taken.push_back(box);
      out.push_back(std::move(h));
    }
  taken.push_back({-36, -28, 36, 28}); // the market square
  std::map<std::string, int> numbers;
  const auto place = [&](const std::string& street, double x0, double y0, double x1, double y1) {
    if (x1 - x0 < 6 || y1 - y0 < 6) return;
    for (const Vec2 q : {Vec2{x0, y0}, Vec2{x1, y0}, Vec2{x1, y1}, Vec2{x0, y1}})
      if (inWater(q)) return;
    for (const auto& b : taken)
      if (x0 < b[2] && x1 > b[0] && y0 < b[3] && y1 > b[1]) return;
    const double away = std::hypot(x0 + x1, y0 + y1) / 2;
    House h;
    h.name = fmt::format("{} street {}", street, ++numbers[street]);
    h.outline = rectangle(x0, y0, x1, y1);
    h.storeys = std::clamp(int(std::lround(dice.between(2.2, 5.4) - away / 420)), 1, 6);
    double low = 1e9, high = -1e9;
    for (const Vec2 q : h.outline.outer) {
      low = std::min(low, ground(q));
      high = std::max(high, ground(q));
    }
    h.base = std::floor(low * 10) / 10;
    h.height = std::round((h.storeys * 3.1 + dice.between(0.4, 1.6) + (high - h.base)) * 10) / 10;
    out.push_back(std::move(h));
  };
  const auto steps = [&](double gapLow, double gapHigh, double widthLow, double widthHigh) {
    std::vector<std::pair<double, double>> all;
    for (double at = -wish.reach; at < wish.reach - 30;) {
      const double width = dice.between(widthLow, widthHigh);
      all.emplace_back(at, std::min(wish.reach, at + width));
      at += width + dice.between(gapLow, gapHigh);
    }
    return all;
  };
  const auto columns = steps(11, 16, 56, 84), rows = steps(10, 14, 50, 72);
  for (std::size_t i = 0; i < columns.size(); ++i)
    for (std::size_t j = 0; j < rows.size(); ++j) {
      if (dice.between(0, 1) < 0.04) continue; // a garden
      const auto [x0, x1] = columns[i];
      const auto [y0, y1] = rows[j];
      const double deep = dice.between(10.5, 12.5);
      const std::string street = streets[i % std::size(streets)], lane = streets[(j + 11) % std::size(streets)];
      const auto along = [&](double from, double to, const auto& lot) { // lots of a side, the rest to the last
        for (double at = from; at < to - 1;) {
          double end = at + dice.between(15, 26);
          if (to - end < 11) end = to;
          if (dice.between(0, 1) > 0.06) lot(at, end); // some are gaps
          at = end;
        }
      };
      along(x0, x1, [&](double a, double b) { place(lane, a, y0, b, y0 + deep); });
      along(x0, x1, [&](double a, double b) { place(lane, a, y1 - deep, b, y1); });
      along(y0 + deep, y1 - deep, [&](double a, double b) { place(street, x0, a, x0 + deep, b); });
      along(y0 + deep, y1 - deep, [&](double a, double b) { place(street, x1 - deep, a, x1, b); });
    }
  return out;
}

/// Points of a CityJSON file, counted in centimetres.
class Vertices {
public:
  std::size_t add(Vec2 drawing, double z) {
    const Vec2 p = onMap(drawing);
    const std::array<long long, 3> key{std::llround(p.x * 100), std::llround(p.y * 100), std::llround(z * 100)};
    const auto [at, fresh] = known_.try_emplace(key, list_.size());
    if (fresh) list_.push_back(key);
    return at->second;
  }
  std::string text() const {
    std::string out = "[";
    for (std::size_t i = 0; i < list_.size(); ++i)
      out += fmt::format("{}[{},{},{}]", i == 0 ? "" : i % 8 == 0 ? ",\n" : ",", list_[i][0], list_[i][1], list_[i][2]);
    return out + "]";
  }

private:
  std::map<std::array<long long, 3>, std::size_t> known_;
  std::vector<std::array<long long, 3>> list_;
};

} // namespace

std::string quarterCityJson(const Project& quay, const QuarterWish& wish) {
  Vertices vertices;
  std::string objects;
  for (const House& h : houses(quay, wish)) {
    const Outline o = tidied(h.outline);
    const auto ring = [&](const Ring& r, double z, bool reversed) {
      std::string out = "[";
      for (std::size_t i = 0; i < r.size(); ++i)
        out += fmt::format("{}{}", i ? "," : "", vertices.add(r[reversed ? r.size() - 1 - i : i], z));
      return out + "]";
    };
    const auto face = [&](double z, bool reversed) {
      std::string out = "[" + ring(o.outer, z, reversed);
      for (const Ring& hole : o.holes) out += "," + ring(hole, z, reversed);
      return out + "]";
    };
    std::string shell = face(h.base, true) + "," + face(h.base + h.height, false);
    const auto walls = [&](const Ring& r) {
      for (std::size_t i = 0; i < r.size(); ++i) {
        const Vec2 a = r[i], b = r[(i + 1) % r.size()];
        shell += fmt::format(",[[{},{},{},{}]]", vertices.add(a, h.base), vertices.add(b, h.base),
                             vertices.add(b, h.base + h.height), vertices.add(a, h.base + h.height));
      }
    };
    walls(o.outer);
    for (const Ring& hole : o.holes) walls(hole);
    objects += fmt::format("{}\n\"{}\": {{\"type\": \"Building\", \"attributes\": {{\"storeysAboveGround\": {}}}, "
                           "\"geometry\": [{{\"type\": \"Solid\", \"lod\": \"1.2\", \"boundaries\": [[{}]]}}]}}",
                           objects.empty() ? "" : ",", h.name, h.storeys, shell);
  }
  const double step = 26, reach = wish.reach + 78;
  std::string relief;
  const int n = int(std::lround(2 * reach / step));
  const auto at = [&](int i, int j) {
    const Vec2 p{-reach + i * step, -reach + j * step};
    return vertices.add(p, std::round(ground(p) * 100) / 100);
  };
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j)
      relief += fmt::format("{}[[{},{},{}]],[[{},{},{}]]", relief.empty() ? "" : ",", at(i, j), at(i + 1, j),
                            at(i + 1, j + 1), at(i, j), at(i + 1, j + 1), at(i, j + 1));
  objects += fmt::format(",\n\"Terrain\": {{\"type\": \"TINRelief\", \"geometry\": [{{\"type\": \"CompositeSurface\", "
                         "\"lod\": \"1\", \"boundaries\": [{}]}}]}}",
                         relief);
  return fmt::format("{{\"type\": \"CityJSON\", \"version\": \"2.0\",\n\"transform\": {{\"scale\": [0.01, 0.01, 0.01], "
                     "\"translate\": [{}, {}, {}]}},\n\"metadata\": {{\"title\": \"Brevholm, around Ropewalk Quay "
                     "(invented)\", \"referenceSystem\": \"https://www.opengis.net/def/crs/EPSG/0/25832\"}},\n"
                     "\"CityObjects\": {{{}}},\n\"vertices\": {}}}\n",
                     easting, northing, elevation, objects, vertices.text());
}

Expected<Project> quarterProject(const Project& quay, std::string_view cityJson, const std::string& file) {
  const auto model = parseCityJson(cityJson, file);
  if (!model) return tl::unexpected(model.error());
  Project p;
  p.id = {derivedId("demo/brevholm-quarter")};
  p.name = "Brevholm, around Ropewalk Quay";
  p.client = quay.client;
  p.preparedBy = "Harbour planning office (invented)";
  Placement placement = guessPlacement(*model, std::nullopt).placement;
  placement.origin = {easting, northing, elevation}; // the drawing's zero is the square's middle
  p = broughtIn(std::move(p), *model, placement, Role::Neighbour, true).project;
  p.site.name = quay.site.name;
  p.site.place.elevation = elevation;
  p.site.zone = quay.site.zone;
  p.site.year = quay.site.year;
  for (SourceFile& s : p.sources) s.path = file;
  std::vector<ElementId> homes;
  for (ElementPtr& e : p.elements) {
    Element x = *e;
    if (x.name == "Proposed block") {
      x.role = Role::Building;
      x.proposed = true;
    }
    if (x.imported()) x.layer = "terrain";
    if (const Mass* m = x.mass(); m && !x.proposed) {
      const Vec2 c = centroid(m->outline);
      if (std::hypot(c.x, c.y) < 88) homes.push_back(x.id);
    }
    e = std::make_shared<const Element>(std::move(x));
  }
  const auto turned = [](const Outline& o) {
    Outline out = o;
    for (Vec2& q : out.outer) q = onMap(q);
    return out;
  };
  for (int k = 0; k < 12; ++k) { // limes along two sides of the square
    const Vec2 at = onMap({-27.5 + 5 * k, k % 2 ? 19.0 : -19.0});
    Element tree;
    tree.id = {derivedId(fmt::format("demo/quarter/tree/{}", k))};
    tree.name = fmt::format("Lime {}", k + 1);
    tree.layer = "trees";
    tree.role = Role::Planting;
    Tree t;
    t.foot = {at.x, at.y, 0};
    t.height = 9.5;
    t.width = 5.5;
    t.leaves = Tree::Leaves::Bare;
    tree.shape = t;
    p.elements.push_back(std::make_shared<const Element>(std::move(tree)));
  }
  GroundArea square;
  square.outline = turned(rectangle(-30, -22, 30, 22));
  square.level = 0.05; // above the paving
  square.spacing = 1.5;
  SensorGroup g;
  g.id = {derivedId("demo/quarter/square")};
  g.name = "Market square";
  g.layout = square;
  p.groups.push_back(g);
  auto dwellings = dwellingsFromFacades(std::move(p), homes, {.bay = 4, .bays = 3, .height = 1.6});
  if (!dwellings) return tl::unexpected(dwellings.error());
  p = std::move(dwellings->project);
  for (SensorGroup& x : p.groups)
    if (!x.dwelling.empty()) x.id = {derivedId("demo/quarter/" + x.dwelling)};
  std::vector<GroupId> all;
  for (const SensorGroup& x : p.groups)
    if (!x.dwelling.empty()) all.push_back(x.id);

  const auto study = [&](const char* name, StudyKind kind, std::vector<GroupId> groups, Date date) {
    Study s;
    s.id = {derivedId(std::string("demo/quarter/study/") + name)};
    s.name = name;
    s.kind = kind;
    s.groups = std::move(groups);
    s.sunHours.dates = {date};
    return s;
  };
  Study spring = study("Square in spring", StudyKind::SunHours, {g.id}, {2026, 3, 21});
  spring.sunHours.sunriseToSunset = true;
  Study winter = study("Homes in midwinter", StudyKind::SunHours, all, {2026, 12, 21});
  winter.sunHours.season.beginMinute = 9 * 60;
  winter.sunHours.season.endMinute = 15 * 60;
  p.studies = {spring, winter, study("Sky at homes", StudyKind::Vsc, all, {2026, 3, 21})};
  const auto rule = [&](const char* key, std::vector<GroupId> groups, std::map<std::string, std::string> changed = {}) {
    Judgement j;
    j.id = {derivedId(std::string("demo/quarter/rule/") + key)};
    j.yardstick = key;
    j.groups = std::move(groups);
    j.changed = std::move(changed);
    p.judgements.push_back(j);
    RecordPart part;
    part.kind = RecordPartKind::Verdict;
    part.of = j.id.text();
    return part;
  };
  RecordPart preface;
  preface.title = "What is handed in";
  preface.text = "Sun and sky that the proposed block leaves to the homes around it and to the market square.";
  RecordPart shadows;
  shadows.kind = RecordPartKind::Shadows;
  p.record.parts = {preface, rule("new-shadow", {g.id}), rule("midwinter", all, {{"subject", "living room"}}),
                    rule("window-sky", all), shadows};
  for (const Study& s : p.studies) {
    RecordPart part;
    part.kind = RecordPartKind::Study;
    part.of = s.id.text();
    p.record.parts.push_back(part);
  }
  p.record.remarks = {{"City of Brevholm", "Which trees are counted?", "The limes on the square, bare in winter."}};
  return p;
}

} // namespace noonward::cli
