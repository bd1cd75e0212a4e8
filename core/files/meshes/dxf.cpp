// DXF drawings in text form, read pair by pair (group code, value): 3DFACE, SOLID, polyface and polygon meshes, closed
// polylines with elevation, thickness and bulges, blocks with inserts (nested, in rows and columns, mirrored),
// $INSUNITS. What casts no shadow is counted and passed over.

#include "core/base/units.h"
#include "core/base/words.h"
#include "core/files/meshes/dxf_pairs.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/save_file.h"
#include "core/geometry/mesh_build.h"
#include "core/geometry/plan_cut.h"
#include <algorithm>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <set>

namespace noonward {

namespace {

using namespace dxf;

struct Block {
  Vec3 base;
  std::vector<Entity> entities;
};

class DxfReader {
public:
  DxfReader(std::string_view text, const std::string& file) : text_(text), file_(file) {}

  Expected<Model> read() {
    if (text_.find('\0') != std::string_view::npos)
      return fail("This is a drawing in binary form; only the text form of DXF can be read. Save it as text.", file_);
    bool any = false;
    Pair p;
    while (next(p)) {
      if (p.code != 0 || p.value != "SECTION") {
        ended_ |= p.code == 0 && p.value == "EOF";
        any |= ended_;
        continue;
      }
      any = true;
      if (!next(p)) break;
      if (p.code != 2) continue;
      if (p.value == "HEADER")
        header();
      else if (p.value == "BLOCKS")
        blocks();
      else if (p.value == "ENTITIES")
        entities_ = entities("ENDSEC");
    }
    if (broken_) return tl::unexpected(*broken_);
    if (!any) return fail("This is no DXF drawing: there is no SECTION in it.", file_);
    model_.file = file_;
    model_.statedZUp = true;
    place(entities_, {}, "", 0);
    finish();
    if (model_.empty())
      return fail(ended_ ? "The drawing has no faces and no closed outlines."
                         : "The drawing ends early, before any face.",
                  file_);
    if (!ended_) model_.notes.push_back("The drawing ends early; what stands before was read.");
    return std::move(model_);
  }

private:
  bool next(Pair& p) {
    if (held_) {
      p = *held_;
      held_.reset();
      return true;
    }
    std::string_view code;
    if (broken_ || !line(code)) return false;
    int c = 0;
    const auto [stop, ec] = std::from_chars(code.data(), code.data() + code.size(), c);
    if (ec != std::errc{} || stop != code.data() + code.size()) {
      broken_ = Error{fmt::format("A group code is expected here, not \"{}\".", std::string(code.substr(0, 40))),
                      fmt::format("{}:{}", file_, lines_)};
      return false;
    }
    p.code = c;
    if (!line(p.value)) return false;
    p.line = lines_;
    return true;
  }
  bool line(std::string_view& out) {
    if (at_ >= text_.size()) return false;
    const std::size_t end = std::min(text_.find('\n', at_), text_.size());
    out = text_.substr(at_, end - at_);
    at_ = end + 1;
    ++lines_;
    while (!out.empty() && static_cast<unsigned char>(out.front()) <= ' ') out.remove_prefix(1);
    while (!out.empty() && static_cast<unsigned char>(out.back()) <= ' ') out.remove_suffix(1);
    return true;
  }

  void header() {
    Pair p;
    std::string_view variable;
    while (next(p) && !(p.code == 0 && p.value == "ENDSEC")) {
      if (p.code == 9) variable = p.value;
      if (variable != "$INSUNITS" || p.code != 70) continue;
      switch (wholeOf({p}, 70)) {
      case 1:
        model_.statedUnit = LengthUnit::Inch;
        break;
      case 2:
        model_.statedUnit = LengthUnit::Foot;
        break;
      case 4:
        model_.statedUnit = LengthUnit::Millimetre;
        break;
      case 5:
        model_.statedUnit = LengthUnit::Centimetre;
        break;
      case 6:
        model_.statedUnit = LengthUnit::Metre;
        break;
      default:
        break; // not said, or a unit of no building
      }
    }
  }

  void blocks() {
    Pair p;
    while (next(p)) {
      if (p.code == 0 && p.value == "ENDSEC") return;
      if (p.code != 0 || p.value != "BLOCK") continue;
      std::vector<Pair> head;
      while (next(p) && p.code != 0) head.push_back(p);
      held_ = p;
      std::string name;
      for (const Pair& h : head)
        if (h.code == 2) name = h.value;
      Block b;
      b.base = pointOf(head, 10);
      b.entities = entities("ENDBLK");
      blocks_[name] = std::move(b);
    }
  }

  /// Up to `last`, which is taken.
  std::vector<Entity> entities(std::string_view last) {
    std::vector<Entity> out;
    Pair p;
    bool polyline = false;
    while (next(p)) {
      if (p.code != 0) {
        if (out.empty()) continue;
        (polyline && !out.back().vertices.empty() ? out.back().vertices.back() : out.back().pairs).push_back(p);
        continue;
      }
      if (p.value == last) return out;
      if (p.value == "ENDSEC" || p.value == "EOF") {
        held_ = p;
        return out;
      }
      if (polyline && p.value == "VERTEX") {
        out.back().vertices.emplace_back();
        continue;
      }
      if (p.value == "SEQEND") {
        polyline = false;
        out.push_back({"SEQEND", p.line, {}, {}}); // takes its own pairs
        continue;
      }
      polyline = p.value == "POLYLINE";
      out.push_back({p.value, p.line, {}, {}});
    }
    return out;
  }

  std::string layerOf(const Entity& e, const std::string& inherited) const {
    const std::string own = asUtf8(e.text(8, "0"));
    return own == "0" && !inherited.empty() ? inherited : own; // layer 0 in a block takes the insert's
  }

  Mesh& mesh(const std::string& layer) { return meshes_[layer]; }
  std::uint32_t nextFace() { return faces_++; }

  void face(const std::string& layer, std::vector<Vec3> ring, const Frame& frame) {
    std::vector<Vec3> corners;
    for (Vec3 p : ring) {
      const Vec3 q = frame(p);
      if (!finite(q)) return void(++faulty_);
      if (corners.empty() || !(corners.back() == q)) corners.push_back(q);
    }
    while (corners.size() > 1 && corners.back() == corners.front()) corners.pop_back();
    if (frame.handed() < 0) std::reverse(corners.begin(), corners.end());
    if (!addPolygon(mesh(layer), {corners}, nextFace())) ++faulty_;
  }

  void polyMesh(const Entity& e, const std::string& layer, const Frame& frame) {
    const int m = wholeOf(e.pairs, 71), n = wholeOf(e.pairs, 72), flags = wholeOf(e.pairs, 70);
    std::vector<Vec3> grid;
    for (const auto& v : e.vertices) grid.push_back(pointOf(v, 10));
    if (m < 2 || n < 2 || std::int64_t(m) * n > std::int64_t(grid.size())) return void(++faulty_);
    const auto at = [&](int i, int j) { return grid[std::size_t(i % m) * std::size_t(n) + std::size_t(j % n)]; };
    for (int i = 0; i < (flags & 1 ? m : m - 1); ++i)
      for (int j = 0; j < (flags & 32 ? n : n - 1); ++j)
        face(layer, {at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)}, frame);
  }

  void polyFace(const Entity& e, const std::string& layer, const Frame& frame) {
    std::vector<Vec3> points;
    for (const auto& v : e.vertices) {
      const int flags = wholeOf(v, 70);
      if (flags & 64) {
        points.push_back(pointOf(v, 10));
        continue;
      }
      if (!(flags & 128)) continue;
      std::vector<Vec3> ring;
      for (int code = 71; code <= 74; ++code)
        if (const int k = std::abs(wholeOf(v, code)); k > 0) {
          if (std::size_t(k) > points.size()) {
            ring.clear();
            break;
          }
          ring.push_back(points[std::size_t(k) - 1]);
        }
      if (ring.size() < 3)
        ++faulty_;
      else
        face(layer, std::move(ring), frame);
    }
  }

  struct Corner {
    Vec2 at;
    double bulge = 0; ///< tangent of a quarter of the arc to the next corner
  };
  /// A polyline in the plane of its entity: closed ones become outlines, thick ones walls.
  void line(const Entity& e, std::vector<Corner> corners, bool closed, double elevation, const std::string& layer,
            const Frame& frame) {
    const double thickness = realOf(e.pairs, 39);
    Ring ring;
    for (std::size_t i = 0; i < corners.size(); ++i) {
      const Vec2 a = corners[i].at;
      if (ring.empty() || !(ring.back() == a)) ring.push_back(a);
      if (corners[i].bulge == 0 || (!closed && i + 1 == corners.size())) continue;
      const Vec2 b = corners[(i + 1) % corners.size()].at;
      // Arc of 4 atan(bulge); its middle lies off the chord's by (1 - bulge²) / (4 bulge) of it.
      const double bulge = std::clamp(corners[i].bulge, -1e3, 1e3), turn = 4 * std::atan(bulge),
                   off = (1 - bulge * bulge) / (4 * bulge);
      const Vec2 chord = b - a, middle = (a + b) * 0.5 + Vec2{-chord.y, chord.x} * off;
      const int steps = std::clamp(int(std::ceil(std::abs(turn) / radians(7.5))), 1, 64);
      for (int k = 1; k < steps; ++k) {
        const double t = turn * k / steps, c = std::cos(t), s = std::sin(t);
        const Vec2 r = a - middle;
        ring.push_back(middle + Vec2{r.x * c - r.y * s, r.x * s + r.y * c});
      }
    }
    if (ring.size() > 1 && length(ring.front() - ring.back()) < 1e-9) {
      ring.pop_back();
      closed = true;
    }
    for (Vec2 p : ring)
      if (!std::isfinite(p.x) || !std::isfinite(p.y)) return void(++faulty_);
    const Vec3 up = frame.turned({0, 0, 1});
    const bool level = std::abs(up.x) + std::abs(up.y) < 1e-9 * std::abs(up.z);
    if (closed && ring.size() >= 3 && level) {
      ModelOutline o;
      for (Vec2 p : ring) o.outline.outer.push_back({frame({p.x, p.y, elevation}).x, frame({p.x, p.y, elevation}).y});
      o.outline = tidied(o.outline);
      const double z = frame({ring[0].x, ring[0].y, elevation}).z, rise = thickness * up.z;
      o.base = std::min(z, z + rise);
      o.height = std::abs(rise);
      o.layer = layer;
      o.name = layer;
      if (checkOutline(o.outline).fault == OutlineFault::None) return model_.outlines.push_back(std::move(o));
      if (thickness == 0) return void(++crossed_);
    }
    if (thickness == 0 && !closed && level)
      for (std::size_t i = 0; i + 1 < ring.size(); ++i) loose(ring[i], ring[i + 1], elevation, frame);
    if (thickness == 0) {
      if (closed)
        ++crossed_;
      else
        ++(level ? loosePolylines_ : passed_["open POLYLINE"]);
      return;
    }
    for (std::size_t i = 0; i + (closed ? 0 : 1) < ring.size(); ++i) {
      const Vec2 a = ring[i], b = ring[(i + 1) % ring.size()];
      face(layer,
           {{a.x, a.y, elevation},
            {b.x, b.y, elevation},
            {b.x, b.y, elevation + thickness},
            {a.x, a.y, elevation + thickness}},
           frame);
    }
  }

  /// A line of a plan, which may close a room together with others.
  void loose(Vec2 a, Vec2 b, double elevation, const Frame& frame) {
    const Vec3 from = frame({a.x, a.y, elevation}), to = frame({b.x, b.y, elevation});
    if (finite(from) && finite(to)) loose_.push_back({xy(from), xy(to)});
  }

  void closeNothing() {
    if (looseLines_ > 0) passed_["LINE"] += looseLines_;
    if (loosePolylines_ > 0) passed_["open POLYLINE"] += loosePolylines_;
  }

  /// What the loose lines of a plan close off: rooms to trace over. Walls between two lines are too narrow to be one.
  void regions() {
    constexpr std::size_t mostLines = 20'000, mostRegions = 2'000;
    constexpr double gap = 0.02, leastArea = 1, leastWidth = 0.5; // m, m², m
    if (loose_.size() < 3 || loose_.size() > mostLines) return closeNothing();
    Box3 box;
    for (const CutLine& l : loose_) box.add({l.a.x, l.a.y, 0}), box.add({l.b.x, l.b.y, 0});
    const double largest = std::max(box.size().x, box.size().y);
    const double metre = model_.statedUnit ? metresPer(*model_.statedUnit) : largest > 4000 ? 0.001 : 1;
    const Vec2 low = xy(box.low);
    std::vector<CutLine> lines;
    for (const CutLine& l : loose_) lines.push_back({(l.a - low) * metre, (l.b - low) * metre});
    const auto closed =
        largest * metre < 1e5 ? regionsBetween(lines, gap) : Expected<std::vector<Outline>>(std::vector<Outline>{});
    std::size_t n = 0;
    if (closed)
      for (Outline o : *closed) {
        double round = 0;
        for (std::size_t i = 0; i < o.outer.size(); ++i)
          round += length(o.outer[(i + 1) % o.outer.size()] - o.outer[i]);
        if (area(o) < leastArea || 2 * area(o) / round < leastWidth || ++n > mostRegions) continue;
        ModelOutline out;
        out.layer = "closed by lines";
        const auto back = [&](Ring& ring) {
          for (Vec2& q : ring) q = q * (1 / metre) + low;
        };
        back(o.outer);
        for (Ring& h : o.holes) back(h);
        out.outline = std::move(o);
        model_.outlines.push_back(std::move(out));
      }
    if (n == 0)
      closeNothing();
    else
      model_.notes.push_back(counted(std::min(n, mostRegions), "region is", "regions are") +
                             fmt::format(" closed by {} loose lines, and offered to trace over.", loose_.size()));
  }

  /// Texts on layers named after rooms: small outlines called so, which name the rooms that are traced around them.
  void words(const Entity& e, const std::string& layer, const Frame& frame) {
    std::string name = layer;
    std::transform(name.begin(), name.end(), name.begin(), [](unsigned char c) { return std::tolower(c); });
    const auto says = [&](const char* word) { return name.find(word) != std::string::npos; };
    if (!says("room") && !says("space") && !says("raum") && !says("räum") && !says("rum") && !says("local") &&
        !says("pièce") && !says("stanza") && !says("vano") && !says("ruimte") && !says("pomieszcz"))
      return void(++passed_[std::string(e.kind)]);
    // Of formatted text the first line without its codes: "{\\fArial;Hall}\\P12 m²" is Hall.
    std::string text = asUtf8(e.text(1)), plain;
    text = text.substr(0, text.find("\\P"));
    for (std::size_t i = 0; i < text.size(); ++i) {
      if (text[i] == '{' || text[i] == '}') continue;
      if (text[i] == '\\') {
        const std::size_t end = text.find(';', i);
        if (end == std::string::npos) break;
        i = end;
        continue;
      }
      if (static_cast<unsigned char>(text[i]) >= 32) plain += text[i];
    }
    if (std::count_if(plain.begin(), plain.end(), [](unsigned char c) { return std::isalpha(c) || c >= 128; }) < 3 ||
        plain.size() > 80)
      return;
    const Vec3 at = frame(pointOf(e.pairs, 10)), side = frame.turned({0.4 * std::abs(realOf(e.pairs, 40, 1)), 0, 0});
    const double s = std::max(1e-3, length(side));
    if (!finite(at) || !std::isfinite(s)) return;
    ModelOutline o;
    o.name = plain;
    if (const int n = ++named_[plain]; n > 1) o.name += fmt::format(" ({})", n);
    o.layer = spacesLayer;
    o.outline = rectangle(at.x, at.y, at.x + s, at.y + s);
    o.base = at.z;
    o.role = Role::Floor;
    texts_.push_back(std::move(o));
  }

  void place(const std::vector<Entity>& list, const Frame& frame, const std::string& inherited, int depth) {
    for (const Entity& e : list) {
      if (placed_ > mostPlaced) return;
      ++placed_;
      const std::string layer = layerOf(e, inherited);
      if (e.kind == "3DFACE") {
        face(layer,
             {pointOf(e.pairs, 10), pointOf(e.pairs, 11), pointOf(e.pairs, 12),
              has(e, 13) ? pointOf(e.pairs, 13) : pointOf(e.pairs, 12)},
             frame);
      } else if (e.kind == "SOLID" || e.kind == "TRACE") { // its third and fourth corner are crossed over
        face(layer,
             {pointOf(e.pairs, 10), pointOf(e.pairs, 11), has(e, 13) ? pointOf(e.pairs, 13) : pointOf(e.pairs, 12),
              pointOf(e.pairs, 12)},
             frame.of(axesOf(e.pairs)));
      } else if (e.kind == "POLYLINE") {
        const int flags = wholeOf(e.pairs, 70);
        if (flags & 64)
          polyFace(e, layer, frame);
        else if (flags & 16)
          polyMesh(e, layer, frame);
        else if (flags & 8)
          ++passed_["line in space"];
        else {
          std::vector<Corner> corners;
          for (const auto& v : e.vertices) corners.push_back({{realOf(v, 10), realOf(v, 20)}, realOf(v, 42)});
          line(e, std::move(corners), flags & 1, realOf(e.pairs, 30), layer, frame.of(axesOf(e.pairs)));
        }
      } else if (e.kind == "LWPOLYLINE") {
        std::vector<Corner> corners;
        for (const Pair& p : e.pairs) {
          if (p.code == 10)
            corners.push_back({{real(p.value).value_or(NAN), 0}, 0});
          else if (p.code == 20 && !corners.empty())
            corners.back().at.y = real(p.value).value_or(NAN);
          else if (p.code == 42 && !corners.empty())
            corners.back().bulge = real(p.value).value_or(0);
        }
        line(e, std::move(corners), wholeOf(e.pairs, 70) & 1, realOf(e.pairs, 38), layer, frame.of(axesOf(e.pairs)));
      } else if (e.kind == "TEXT" || e.kind == "MTEXT") {
        words(e, layer, frame);
      } else if (e.kind == "LINE") {
        const Vec3 a = pointOf(e.pairs, 10), b = pointOf(e.pairs, 11);
        if (const double thickness = realOf(e.pairs, 39); thickness != 0)
          face(layer, {a, b, b + Vec3{0, 0, thickness}, a + Vec3{0, 0, thickness}}, frame);
        else if (std::abs(a.z - b.z) > 1e-6 * (std::abs(a.x - b.x) + std::abs(a.y - b.y)))
          ++passed_["LINE in space"];
        else {
          loose(xy(a), xy(b), a.z, frame);
          ++looseLines_;
        }
      } else if (e.kind == "INSERT") {
        insert(e, layer, frame, depth);
      } else if (e.kind != "SEQEND" && e.kind != "ATTRIB" && e.kind != "VERTEX") {
        ++passed_[std::string(e.kind.substr(0, 30))];
      }
    }
  }

  static bool has(const Entity& e, int code) {
    return std::any_of(e.pairs.begin(), e.pairs.end(), [&](const Pair& p) { return p.code == code; });
  }

  void insert(const Entity& e, const std::string& layer, const Frame& frame, int depth) {
    const std::string name(e.text(2));
    const auto block = blocks_.find(name);
    if (block == blocks_.end()) return void(missing_.insert(asUtf8(name)));
    if (depth >= 32 || std::find(open_.begin(), open_.end(), name) != open_.end())
      return void(circles_.insert(asUtf8(name)));
    const Frame axes = axesOf(e.pairs);
    const double turn = radians(realOf(e.pairs, 50)), c = std::cos(turn), s = std::sin(turn);
    const double sx = realOf(e.pairs, 41, 1), sy = realOf(e.pairs, 42, 1), sz = realOf(e.pairs, 43, 1);
    const int columns = std::clamp(wholeOf(e.pairs, 70, 1), 1, 1000),
              rows = std::clamp(wholeOf(e.pairs, 71, 1), 1, 1000);
    const double dx = realOf(e.pairs, 44), dy = realOf(e.pairs, 45);
    open_.push_back(name);
    for (int i = 0; i < columns; ++i)
      for (int j = 0; j < rows; ++j) {
        const Vec3 at = pointOf(e.pairs, 10);
        Frame own{{c * sx, s * sx, 0}, {-s * sy, c * sy, 0}, {0, 0, sz}, {}};
        own.move = at + Vec3{c * dx * i - s * dy * j, s * dx * i + c * dy * j, 0} - own.turned(block->second.base);
        place(block->second.entities, frame.of(axes).of(own), layer, depth + 1);
        if (placed_ > mostPlaced) break;
      }
    open_.pop_back();
  }

  void finish() {
    std::size_t dropped = 0;
    for (auto& [layer, m] : meshes_) {
      Mesh own = withOwnPoints(m.points, m, dropped);
      if (own.triangles.empty()) continue;
      findFaces(own);
      model_.parts.push_back({layer, std::move(own), layer, {}, 0});
    }
    regions();
    std::map<std::string, int> count;
    for (ModelOutline& o : model_.outlines) o.name = fmt::format("{} outline {}", o.layer, ++count[o.layer]);
    const auto note = [&](std::size_t n, const char* one, const char* more, const char* rest) {
      if (n > 0) model_.notes.push_back(counted(n, one, more) + rest);
    };
    note(std::size_t(std::count_if(model_.outlines.begin(), model_.outlines.end(),
                                   [](const ModelOutline& o) { return o.height <= 0; })),
         "closed outline has", "closed outlines have",
         " no thickness: to trace or to raise, left out of studies until then.");
    for (ModelOutline& o : texts_)
      if (checkOutline(o.outline).fault == OutlineFault::None) model_.outlines.push_back(std::move(o));
    note(faulty_ + dropped, "face has", "faces have", " no area or corners that are missing, left out.");
    note(crossed_, "closed outline was", "closed outlines were", " left out: no area, or edges that cross.");
    if (!passed_.empty()) {
      std::string list;
      for (const auto& [kind, n] : passed_) list += (list.empty() ? "" : ", ") + fmt::format("{} {}", n, kind);
      model_.notes.push_back("Passed over, since they cast no shadow: " + list + ".");
    }
    const auto names = [&](const std::set<std::string>& of, const char* what) {
      if (of.empty()) return;
      std::string list;
      for (const std::string& n : of) list += (list.empty() ? "\"" : ", \"") + n + "\"";
      model_.notes.push_back(fmt::format("{}: {}.", what, list));
    };
    names(missing_, "Inserts name blocks that there are not");
    names(circles_, "Blocks that contain themselves were not followed any further");
    if (placed_ > mostPlaced)
      model_.notes.push_back(
          fmt::format("Blocks repeat their contents more than {} times; the rest was left out.", mostPlaced));
  }

  static constexpr std::size_t mostPlaced = 5000000;
  std::string_view text_;
  const std::string& file_;
  std::size_t at_ = 0, lines_ = 0;
  std::optional<Pair> held_;
  std::optional<Error> broken_;
  bool ended_ = false;
  std::map<std::string, Block> blocks_;
  std::vector<Entity> entities_;
  std::vector<std::string> open_;                   ///< blocks being placed
  std::map<std::string, Mesh> meshes_;              ///< by layer
  std::vector<CutLine> loose_;                      ///< file units
  std::size_t looseLines_ = 0, loosePolylines_ = 0; ///< that they come from
  std::map<std::string, std::size_t> passed_;
  std::vector<ModelOutline> texts_;
  std::map<std::string, int> named_;
  std::set<std::string> missing_, circles_;
  std::size_t faulty_ = 0, crossed_ = 0, placed_ = 0;
  std::uint32_t faces_ = 0;
  Model model_;
};

} // namespace

Expected<Model> parseDxf(std::string_view text, const std::string& file) {
  return DxfReader(text, file).read();
}

} // namespace noonward
