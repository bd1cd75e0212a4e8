#include "core/model/shape.h"
#include "core/base/tolerances.h"
#include "core/model/settings/fields.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {
void eachPoint(Outline& o, const auto& change) {
  for (Vec2& p : o.outer) p = change(p);
  for (Ring& h : o.holes)
    for (Vec2& p : h) p = change(p);
}
std::size_t cornersOf(const Outline& o) {
  std::size_t n = o.outer.size();
  for (const Ring& h : o.holes) n += h.size();
  return n;
}
Vec2 turnedAbout(Vec2 p, Vec2 about, double angle) {
  const Vec2 d = p - about;
  const double c = std::cos(angle), s = std::sin(angle);
  return about + Vec2{d.x * c - d.y * s, d.x * s + d.y * c};
}
bool stands(const Imported& i) {
  return i.move == Vec3{} && i.turn == 0 && i.stretch == 1;
}
/// From where the mesh came to where it stands.
auto placer(const Imported& i) {
  const Box3 box = i.mesh->box();
  return [c = box.center(), low = box.low.z, co = std::cos(i.turn), si = std::sin(i.turn), stretch = i.stretch,
          move = i.move](Vec3 p) {
    const Vec2 d{p.x - c.x, p.y - c.y};
    return Vec3{c.x + d.x * co - d.y * si, c.y + d.x * si + d.y * co, low + (p.z - low) * stretch} + move;
  };
}
/// And back.
Vec3 asItCame(const Imported& import, const MeshColumns& columns, Vec3 p) {
  const Vec3 c = columns.center();
  const Vec3 d = p - import.move;
  const double co = std::cos(import.turn), si = std::sin(import.turn), x = d.x - c.x, y = d.y - c.y;
  return {c.x + x * co + y * si, c.y - x * si + y * co, columns.low().z + (d.z - columns.low().z) / import.stretch};
}
} // namespace

// ---- a mass -----------------------------------------------------------------------------------------------------

Expected<MeshPtr> meshOf(const Mass& m) {
  auto solid = extrudeRoofed(m.outline, m.base, m.height, m.roof);
  if (!solid) return tl::unexpected(solid.error());
  return std::make_shared<const Mesh>(std::move(*solid));
}

Box3 boxOf(const Mass& m) {
  Box3 b;
  for (Vec2 p : m.outline.outer) {
    b.add({p.x, p.y, m.base});
    b.add({p.x, p.y, m.top()});
  }
  return b;
}

bool encloses(const Mass& m, Vec3 p) {
  if (p.z < m.base || p.z >= m.top() || !contains(m.outline, xy(p))) return false;
  return p.z < m.base + m.height || p.z < m.base + m.height + roofHeight(m.roof, m.outline, xy(p));
}

Vec2 middleOf(const Mass& m) {
  return centroid(m.outline);
}

double heightOf(const Mass& m) {
  return m.top() - m.base;
}

std::size_t trianglesOf(const Mass& m) {
  return 4 * cornersOf(m.outline);
}

std::size_t bytesOf(const Mass& m) {
  return cornersOf(m.outline) * sizeof(Vec2);
}

void hashShape(Hasher& hash, const Mass& m) {
  hash.add("mass").add(m.base).add(m.height);
  hash.add(std::uint64_t(m.outline.outer.size()));
  for (Vec2 q : m.outline.outer) hash.add(q);
  for (const Ring& h : m.outline.holes) {
    hash.add(std::uint64_t(h.size()));
    for (Vec2 q : h) hash.add(q);
  }
  // The angle as a file holds it.
  if (!m.roof.flat())
    hash.add("roof").add(roofKey(m.roof.kind)).add(m.roof.rise).add(std::round(degrees(m.roof.along) * 1e10));
}

std::optional<ShapeFault> faultOf(const Mass& m, const std::string& name) {
  if (const OutlineCheck c = checkOutline(m.outline); c.fault != OutlineFault::None)
    return ShapeFault{"element.outline", fmt::format("The outline of \"{}\" {} at ({:.2f}, {:.2f}).", name,
                                                     faultText(c.fault), c.at.x, c.at.y)};
  if (!(m.height > tolerance::weld))
    return ShapeFault{"element.height", fmt::format("\"{}\" has no height.", name), "element.height", "Give it 3 m"};
  if (!m.roof.flat())
    if (const auto solid = extrudeRoofed(m.outline, m.base, m.height, m.roof); !solid)
      return ShapeFault{"element.roof", fmt::format("\"{}\": {}", name, solid.error().message), "element.roof",
                        "Make its roof flat"};
  return {};
}

std::string factsOf(const Mass& m, LengthUnit unit) {
  const Vec3 size = boxOf(m).size();
  const std::size_t yards = m.outline.holes.size();
  const auto square = [&](double v) { return quantityText(v, 0, "m²", {.length = unit}); };
  const std::string roof = m.roof.flat() ? ""
                                         : fmt::format(", {} roof, ridge {}",
                                                       m.roof.kind == Roof::Kind::Hip ? "hipped" : roofKey(m.roof.kind),
                                                       lengthText(m.top(), unit));
  return fmt::format("{} × {}, footprint {}{}, floor area {}{}", lengthText(size.x, unit), lengthText(size.y, unit),
                     square(area(m.outline)),
                     yards == 0 ? "" : fmt::format(", {} courtyard{}", yards, yards > 1 ? "s" : ""),
                     square(area(m.outline) * m.storeys), roof);
}

void moveShape(Mass& m, Vec3 by) {
  eachPoint(m.outline, [&](Vec2 p) { return p + xy(by); });
  m.base += by.z;
}

void turnShape(Mass& m, Vec2 about, double angle) {
  eachPoint(m.outline, [&](Vec2 p) { return turnedAbout(p, about, angle); });
  if (!m.roof.flat()) m.roof.along = wrapPi(m.roof.along + angle);
}

void scaleShape(Mass& m, double factor) {
  eachPoint(m.outline, [&](Vec2 p) { return p * factor; });
  m.base *= factor;
  m.height *= factor;
  m.roof.rise *= factor;
}

Shape withTop(Mass m, double height) {
  m.height = std::max(0.01, height - m.roof.top());
  return m;
}

// ---- a mesh brought in ------------------------------------------------------------------------------------------

Expected<MeshPtr> meshOf(const Imported& i) {
  if (!i.mesh) return fail("The mesh of this element is missing.");
  if (stands(i)) return i.mesh;
  auto moved = std::make_shared<Mesh>(*i.mesh);
  const auto placed = placer(i);
  for (Vec3& p : moved->points) p = placed(p);
  return MeshPtr(std::move(moved));
}

Box3 boxOf(const Imported& i) {
  if (!i.mesh) return {};
  if (stands(i)) return i.mesh->box();
  Box3 b;
  const auto placed = placer(i);
  for (const Vec3& p : i.mesh->points) b.add(placed(p));
  return b;
}

bool encloses(const Imported& i, Vec3 p) {
  if (!i.mesh) return false;
  const MeshColumns& columns = i.columns->of(i.mesh);
  return columns.inside(asItCame(i, columns, p));
}

Vec2 middleOf(const Imported& i) {
  return xy(boxOf(i).center());
}

double heightOf(const Imported& i) {
  return i.mesh ? i.mesh->box().size().z * i.stretch : 0;
}

std::size_t trianglesOf(const Imported& i) {
  return i.mesh ? i.mesh->triangles.size() : 0;
}

std::size_t bytesOf(const Imported&) {
  return 0;
}

void hashShape(Hasher& hash, const Imported& i) {
  // The angle as a file holds it, so that what was computed before saving is found again.
  hash.add("mesh").add(i.content).add(i.move).add(std::round(degrees(i.turn) * 1e10)).add(i.stretch);
}

std::optional<ShapeFault> faultOf(const Imported& i, const std::string& name) {
  if (!i.mesh) return ShapeFault{"element.mesh", fmt::format("The mesh of \"{}\" is missing.", name)};
  return {};
}

std::string factsOf(const Imported& i, LengthUnit unit) {
  const Vec3 size = boxOf(i).size();
  return fmt::format("{} × {} × {}, {} triangles", lengthText(size.x, unit), lengthText(size.y, unit),
                     lengthText(size.z, unit), trianglesOf(i));
}

void moveShape(Imported& i, Vec3 by) {
  i.move = i.move + by;
}

void turnShape(Imported& i, Vec2 about, double angle) {
  const Vec2 middle = i.mesh ? xy(i.mesh->box().center()) + xy(i.move) : Vec2{};
  const Vec2 shift = turnedAbout(middle, about, angle) - middle;
  i.turn = wrapPi(i.turn + angle);
  i.move = i.move + Vec3{shift.x, shift.y, 0};
}

void scaleShape(Imported& i, double factor) {
  if (!i.mesh) return;
  auto scaled = std::make_shared<Mesh>(*i.mesh);
  for (Vec3& q : scaled->points) q = q * factor;
  i.move = i.move * factor;
  i = withMesh(i, std::move(scaled));
}

Shape withTop(Imported i, double height) {
  const double own = i.mesh ? i.mesh->box().size().z : 0;
  if (own > tolerance::weld) i.stretch = height / own;
  return i;
}

void columnOf(const Imported& import, Vec3 p, std::vector<double>& heights) {
  heights.clear();
  if (!import.mesh) return;
  const MeshColumns& columns = import.columns->of(import.mesh);
  columns.heightsAt(xy(asItCame(import, columns, p)), heights);
  for (double& z : heights) z = columns.low().z + (z - columns.low().z) * import.stretch + import.move.z;
}

Imported withMesh(const Imported& i, MeshPtr mesh) {
  const Digest content = digestOf(*mesh);
  return {std::move(mesh), content, i.move, i.turn, i.stretch};
}

// ---- a plate ----------------------------------------------------------------------------------------------------

Expected<MeshPtr> meshOf(const Plate& plate) {
  auto flat = flatPlate(plate.corners);
  if (!flat) return tl::unexpected(flat.error());
  return std::make_shared<const Mesh>(std::move(*flat));
}

Box3 boxOf(const Plate& plate) {
  Box3 b;
  for (Vec3 c : plate.corners) b.add(c);
  return b;
}

bool encloses(const Plate&, Vec3) {
  return false;
}

Vec2 middleOf(const Plate& plate) {
  return xy(boxOf(plate).center());
}

double heightOf(const Plate& plate) {
  return boxOf(plate).size().z;
}

std::size_t trianglesOf(const Plate& plate) {
  return plate.corners.size();
}

std::size_t bytesOf(const Plate& plate) {
  return plate.corners.size() * sizeof(Vec3);
}

void hashShape(Hasher& hash, const Plate& plate) {
  hash.add("plate").add(std::uint64_t(plate.corners.size()));
  for (Vec3 c : plate.corners) hash.add(c);
}

std::optional<ShapeFault> faultOf(const Plate& plate, const std::string& name) {
  if (const auto flat = flatPlate(plate.corners); !flat)
    return ShapeFault{"element.plate", fmt::format("\"{}\": {}", name, flat.error().message)};
  return {};
}

std::string factsOf(const Plate& plate, LengthUnit unit) {
  const Vec3 size = boxOf(plate).size();
  return fmt::format("plate, {} × {} × {}", lengthText(size.x, unit), lengthText(size.y, unit),
                     lengthText(size.z, unit));
}

void moveShape(Plate& plate, Vec3 by) {
  for (Vec3& c : plate.corners) c = c + by;
}

void turnShape(Plate& plate, Vec2 about, double angle) {
  for (Vec3& c : plate.corners) {
    const Vec2 p = turnedAbout(xy(c), about, angle);
    c = {p.x, p.y, c.z};
  }
}

void scaleShape(Plate& plate, double factor) {
  for (Vec3& c : plate.corners) c = c * factor;
}

Shape withTop(Plate plate, double height) {
  const Box3 box = boxOf(plate);
  if (box.size().z > tolerance::weld) {
    for (Vec3& c : plate.corners) c.z = box.low.z + (c.z - box.low.z) * height / box.size().z;
    return plate;
  }
  if (!(height > tolerance::weld)) return plate;
  Mass m; // an outline that lies flat is raised to a block
  for (Vec3 c : plate.corners) m.outline.outer.push_back({c.x, c.y});
  m.outline = tidied(std::move(m.outline));
  m.base = box.low.z;
  m.height = height;
  m.storeys = std::max(1, int(std::lround(height / 3.2)));
  return m;
}

// ---- a tree -------------------------------------------------------------------------------------------------------

Expected<MeshPtr> meshOf(const Tree& tree) {
  if (const auto fault = faultOf(tree, "The tree")) return fail(fault->text);
  Mesh m;
  constexpr int sides = 6;
  const double r = std::clamp(0.03 * tree.height, 0.05, 0.5);
  const double top = tree.stem + 0.3 * tree.size().height; // it goes on into the crown
  for (int k = 0; k < sides; ++k)
    for (const double z : {0.0, top}) {
      const double angle = 2 * pi * k / sides;
      m.points.push_back({r * std::cos(angle), r * std::sin(angle), z});
    }
  for (std::uint32_t k = 0; k < sides; ++k) {
    const std::uint32_t a = 2 * k, b = 2 * ((k + 1) % sides);
    m.triangles.push_back({a, b, b + 1});
    m.triangles.push_back({a, b + 1, a + 1});
  }
  m.face.assign(m.triangles.size(), 0);
  const Mesh crown = tree.leaves == Tree::Leaves::Solid
                         ? solidCrown(tree.size())
                         : leavesOf(tree.size(), tree.leaves == Tree::Leaves::Bare ? tree.bare : tree.inLeaf);
  const auto first = std::uint32_t(m.points.size());
  for (Vec3 p : crown.points) m.points.push_back(p + Vec3{0, 0, tree.stem});
  for (const Triangle& t : crown.triangles) m.triangles.push_back({t[0] + first, t[1] + first, t[2] + first});
  m.face.insert(m.face.end(), crown.face.begin(), crown.face.end());
  for (Vec3& p : m.points) p = p + tree.foot;
  return std::make_shared<const Mesh>(std::move(m));
}

template <> const Fields<Tree>& fieldsOf<Tree>() {
  static const auto described = [] {
    FieldsOf<Tree> d;
    Tree::describe(d);
    return d.list;
  }();
  return described;
}

std::string treeFieldsAsMarkdown() {
  return fieldsByKindAsMarkdown<Tree>("");
}

Box3 boxOf(const Tree& tree) {
  Box3 b;
  const Vec3 reach{tree.width / 2, tree.width / 2, 0};
  b.add(tree.foot - reach);
  b.add(tree.foot + reach + Vec3{0, 0, tree.height});
  return b;
}

bool encloses(const Tree&, Vec3) {
  return false;
}

Vec2 middleOf(const Tree& tree) {
  return xy(tree.foot);
}

double heightOf(const Tree& tree) {
  return tree.height;
}

std::size_t trianglesOf(const Tree& tree) {
  return tree.leaves == Tree::Leaves::Solid ? 220 : 1212;
}

std::size_t bytesOf(const Tree&) {
  return 0;
}

void hashShape(Hasher& hash, const Tree& tree) {
  // As a file holds them, so that what was computed before saving is found again.
  hash.add("tree").add(tree.foot).add(tidyNumber(tree.height)).add(tidyNumber(tree.width)).add(tidyNumber(tree.stem));
  hash.add(int(tree.crown)).add(int(tree.leaves));
  if (tree.leaves != Tree::Leaves::Solid)
    hash.add(tidyNumber(100 * (tree.leaves == Tree::Leaves::Bare ? tree.bare : tree.inLeaf)));
}

std::optional<ShapeFault> faultOf(const Tree& tree, const std::string& name) {
  if (!(tree.width > tolerance::weld) || !(tree.height > tree.stem + 0.05) || !(tree.stem >= 0) || !finite(tree.foot) ||
      !std::isfinite(tree.height) || !std::isfinite(tree.width))
    return ShapeFault{"element.tree", fmt::format("\"{}\" has no crown above its stem.", name)};
  return {};
}

std::string factsOf(const Tree& tree, LengthUnit unit) {
  const char* state = tree.leaves == Tree::Leaves::InLeaf ? "in leaf"
                      : tree.leaves == Tree::Leaves::Bare ? "bare"
                                                          : "as a solid body";
  return fmt::format("tree, {} high, crown {} × {}, {}", lengthText(tree.height, unit), lengthText(tree.width, unit),
                     lengthText(tree.size().height, unit), state) +
         (tree.leaves == Tree::Leaves::Solid
              ? std::string()
              : fmt::format(", {:.0f} % passes", 100 * (tree.leaves == Tree::Leaves::Bare ? tree.bare : tree.inLeaf)));
}

void moveShape(Tree& tree, Vec3 by) {
  tree.foot = tree.foot + by;
}

void turnShape(Tree& tree, Vec2 about, double angle) {
  const Vec2 p = turnedAbout(xy(tree.foot), about, angle);
  tree.foot = {p.x, p.y, tree.foot.z};
}

void scaleShape(Tree& tree, double factor) {
  tree.foot = tree.foot * factor;
  tree.height *= factor;
  tree.width *= factor;
  tree.stem *= factor;
}

Shape withTop(Tree tree, double height) {
  if (!(height > tolerance::weld)) return tree;
  tree.stem = std::min(tree.stem, 0.8 * height);
  tree.height = height;
  return tree;
}

} // namespace noonward
