#include "core/model/rooms/shading.h"
#include "core/model/project.h"
#include "core/model/rooms/placing.h"
#include "core/model/settings/fields.h"
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {
constexpr int mostBlades = 500;   // of one kind, at one opening
constexpr double barPitch = 0.12; // m, of a parapet's bars
constexpr double holePitch = 0.1; // m, of a screen's holes where nothing is said
constexpr int mostHoles = 60;     // of a screen, along and up

void addQuad(Mesh& m, Vec3 a, Vec3 b, Vec3 c, Vec3 d) {
  const auto n = std::uint32_t(m.points.size());
  m.points.insert(m.points.end(), {a, b, c, d});
  m.triangles.push_back({n, n + 1, n + 2});
  m.triangles.push_back({n, n + 2, n + 3});
}
void addTriangle(Mesh& m, Vec3 a, Vec3 b, Vec3 c) {
  const auto n = std::uint32_t(m.points.size());
  m.points.insert(m.points.end(), {a, b, c});
  m.triangles.push_back({n, n + 1, n + 2});
}

/// Heights of horizontal blades' inner edges over the sill, from the top down.
std::vector<double> bladesUp(const ShadeRule& s, const OpeningFrame& f) {
  std::vector<double> out;
  const double top = f.height + s.offset, whole = f.height + 2 * s.offset;
  const double step = s.spacing > 0 ? s.spacing : whole / std::max(1, s.count);
  if (!(step > 0)) return out;
  for (double v = top; v > -s.offset + (s.spacing > 0 ? -1e-9 : step / 2) && int(out.size()) < mostBlades; v -= step)
    out.push_back(v);
  return out;
}
/// Places of upright blades' inner edges along the opening, from the left: symmetric about its middle, over all of it.
std::vector<double> bladesAlong(const ShadeRule& s, const OpeningFrame& f) {
  std::vector<double> out;
  const double whole = f.width + 2 * s.offset;
  if (!(whole > 0)) return out;
  int n = s.count + (s.kind == ShadeRule::Kind::EggCrate ? 1 : 0);
  double step = n > 1 ? whole / (n - 1) : 0;
  if (s.spacing > 0) {
    n = int(std::min(double(mostBlades), std::ceil(whole / s.spacing - 1e-9) + 1));
    step = s.spacing;
  }
  for (int k = 0; k < n; ++k) out.push_back(f.width / 2 + (k - (n - 1) / 2.0) * step);
  return out;
}

void horizontalBlades(Mesh& m, const ShadeRule& s, const OpeningFrame& f) {
  const Vec3 reach = f.outward * (s.depth * std::cos(s.angle)) - f.up * (s.depth * std::sin(s.angle));
  for (const double v : bladesUp(s, f)) {
    const Vec3 a = f.at(-s.beyond, v, s.standOff), b = f.at(f.width + s.beyond, v, s.standOff);
    addQuad(m, a, b, b + reach, a + reach);
  }
}
void uprightBlades(Mesh& m, const ShadeRule& s, const OpeningFrame& f, double angle) {
  const Vec3 reach = f.outward * (s.depth * std::cos(angle)) - f.along * (s.depth * std::sin(angle));
  // In an egg-crate they end where its blades do.
  const double more = s.kind == ShadeRule::Kind::EggCrate ? s.offset : s.beyond;
  for (const double u : bladesAlong(s, f)) {
    const Vec3 foot = f.at(u, -more, s.standOff), top = f.at(u, f.height + more, s.standOff);
    addQuad(m, foot, top, top + reach, foot + reach);
  }
}

void overhang(Mesh& m, const ShadeRule& s, const OpeningFrame& f) {
  const Vec3 a = f.at(-s.beyond, f.height + s.offset, 0), b = f.at(f.width + s.beyond, f.height + s.offset, 0);
  const Vec3 reach = f.outward * (s.depth * std::cos(s.angle)) - f.up * (s.depth * std::sin(s.angle));
  addQuad(m, a, b, b + reach, a + reach);
  if (s.drop > 0) addQuad(m, a + reach, b + reach, b + reach - f.up * s.drop, a + reach - f.up * s.drop);
}

/// Places of fins along the opening.
std::vector<double> finsAlong(const ShadeRule& s, const OpeningFrame& f) {
  if (s.sides == ShadeRule::Sides::Left) return {-s.offset};
  if (s.sides == ShadeRule::Sides::Right) return {f.width + s.offset};
  const int n = std::max(1, s.count);
  const double whole = f.width + 2 * s.offset;
  std::vector<double> out;
  for (int k = 0; k < n; ++k) out.push_back((n == 1 ? whole / 2 : whole * k / (n - 1)) - s.offset);
  return out;
}
void fins(Mesh& m, const ShadeRule& s, const OpeningFrame& f) {
  const Vec3 reach = f.outward * (s.depth * std::cos(s.angle)) - f.along * (s.depth * std::sin(s.angle));
  for (const double u : finsAlong(s, f)) {
    const Vec3 foot = f.at(u, 0, 0), top = f.at(u, f.height, 0);
    addQuad(m, foot, top, top + reach, foot + reach);
  }
}

void awning(Mesh& m, const ShadeRule& s, const OpeningFrame& f) {
  const double u0 = -s.beyond, u1 = f.width + s.beyond, v = f.height + s.offset;
  const Vec3 a = f.at(u0, v, 0), b = f.at(u1, v, 0), c = f.at(u1, v - s.drop, s.depth),
             d = f.at(u0, v - s.drop, s.depth);
  addQuad(m, a, b, c, d);
  if (!s.ends || !(s.drop > 0)) return;
  addTriangle(m, a, d, f.at(u0, v - s.drop, 0));
  addTriangle(m, b, f.at(u1, v - s.drop, 0), c);
}

/// A parapet from one foot to another: solid, or upright bars with `openness` between them.
void parapet(Mesh& m, const ShadeRule& s, const OpeningFrame& f, Vec3 from, Vec3 to) {
  const Vec3 up = f.up * s.parapet;
  if (s.openness <= 0) return addQuad(m, from, to, to + up, from + up);
  const double l = length(to - from), bar = 1 - s.openness;
  if (bar < 0.005 || l < 1e-6) return;
  const int n = std::clamp(int(std::lround(l / barPitch)), 1, mostBlades);
  for (int k = 0; k < n; ++k) {
    const Vec3 a = from + (to - from) * ((k + 0.5 - bar / 2) / n), b = from + (to - from) * ((k + 0.5 + bar / 2) / n);
    addQuad(m, a, b, b + up, a + up);
  }
}
void balcony(Mesh& m, const ShadeRule& s, const OpeningFrame& f) {
  const double u0 = -s.beyond, u1 = f.width + s.beyond, v = -s.offset;
  const Vec3 a = f.at(u0, v, 0), b = f.at(u1, v, 0), c = f.at(u1, v, s.depth), d = f.at(u0, v, s.depth);
  addQuad(m, a, d, c, b);
  if (!(s.parapet > 0)) return;
  parapet(m, s, f, a, d);
  parapet(m, s, f, d, c);
  parapet(m, s, f, c, b);
}

void lightShelf(Mesh& m, const ShadeRule& s, const OpeningFrame& f) {
  const double v = f.height - s.offset;
  if (s.depth > 0)
    addQuad(m, f.at(-s.beyond, v, 0), f.at(f.width + s.beyond, v, 0), f.at(f.width + s.beyond, v, s.depth),
            f.at(-s.beyond, v, s.depth));
  if (s.inward > 0)
    addQuad(m, f.at(0, v, -f.reveal - s.inward), f.at(f.width, v, -f.reveal - s.inward), f.at(f.width, v, 0),
            f.at(0, v, 0));
}

double angleOf(double up, double out) {
  return out > 0 ? std::max(0.0, std::atan2(up, out)) : pi / 2;
}
/// A sheet with holes in a regular pattern that take `openness` of it; where there would be more than may be, they are
/// larger and farther apart.
void screen(Mesh& m, const ShadeRule& s, const OpeningFrame& f) {
  const double u0 = -s.beyond, u1 = f.width + s.beyond, v0 = -s.offset, v1 = f.height + s.offset, w = s.standOff;
  if (!(u1 > u0) || !(v1 > v0) || s.openness >= 1) return;
  if (s.openness <= 0) return addQuad(m, f.at(u0, v0, w), f.at(u1, v0, w), f.at(u1, v1, w), f.at(u0, v1, w));
  const double pitch = s.spacing > 0 ? s.spacing : holePitch;
  const int nu = std::clamp(int(std::lround((u1 - u0) / pitch)), 1, mostHoles),
            nv = std::clamp(int(std::lround((v1 - v0) / pitch)), 1, mostHoles);
  const double du = (u1 - u0) / nu, dv = (v1 - v0) / nv, bar = (1 - std::sqrt(s.openness)) / 2;
  const auto strip = [&](double a, double b, double c, double d) {
    addQuad(m, f.at(a, c, w), f.at(b, c, w), f.at(b, d, w), f.at(a, d, w));
  };
  for (int j = 0; j <= nv; ++j) // across the whole width, between the rows of holes
    strip(u0, u1, j == 0 ? v0 : v0 + (j - bar) * dv, j == nv ? v1 : v0 + (j + bar) * dv);
  for (int j = 0; j < nv; ++j)
    for (int i = 0; i <= nu; ++i)
      strip(i == 0 ? u0 : u0 + (i - bar) * du, i == nu ? u1 : u0 + (i + bar) * du, v0 + (j + bar) * dv,
            v0 + (j + 1 - bar) * dv);
}

} // namespace

template <> const Fields<ShadeRule>& fieldsOf<ShadeRule>() {
  static const auto described = [] {
    FieldsOf<ShadeRule> d;
    ShadeRule::describe(d);
    return std::move(d.list);
  }();
  return described;
}

const char* shadeKindName(ShadeRule::Kind kind) {
  switch (kind) {
  case ShadeRule::Kind::Overhang:
    return "overhang";
  case ShadeRule::Kind::Fins:
    return "fins";
  case ShadeRule::Kind::Louvres:
    return "louvres";
  case ShadeRule::Kind::UprightLouvres:
    return "upright louvres";
  case ShadeRule::Kind::EggCrate:
    return "egg-crate";
  case ShadeRule::Kind::Awning:
    return "awning";
  case ShadeRule::Kind::Balcony:
    return "balcony";
  case ShadeRule::Kind::LightShelf:
    return "light shelf";
  case ShadeRule::Kind::Screen:
    return "screen";
  }
  return "";
}

OpeningFrame frameOf(const PlacedOpening& o, const Room& room) {
  const auto c = o.corners(room.floor, room.floor + room.height, o.depth);
  OpeningFrame f;
  f.origin = c[0];
  f.width = length(c[1] - c[0]);
  f.height = o.slope ? length(c[3] - c[0]) : o.opening.height;
  f.reveal = o.depth;
  f.pane = o.paneDepth();
  if (o.upright()) {
    f.along = {o.along.x, o.along.y, 0};
    f.up = {0, 0, 1};
    f.outward = {o.outward.x, o.outward.y, 0};
  } else if (o.slope) { // seen from outside
    f.along = normalized(c[1] - c[0]);
    f.up = normalized(c[3] - c[0]);
    f.outward = normalized(cross(f.along, f.up));
  } else { // seen from above
    f.along = {1, 0, 0};
    f.up = {0, 1, 0};
    f.outward = {0, 0, 1};
  }
  return f;
}

std::array<Vec3, 4> paneOf(const PlacedOpening& o, const Room& room) {
  return o.corners(room.floor, room.floor + room.height, o.depth - o.paneDepth());
}

bool standsAt(const ShadeRule& s, const PlacedOpening& o, RoomId room) {
  const auto in = [](const auto& list, auto what) { return std::find(list.begin(), list.end(), what) != list.end(); };
  const bool top = o.opening.edge < 0;
  if (top != s.rooflights || (top && !s.isBladed())) return false;
  if (!s.windows.empty()) return in(s.windows, o.opening.id);
  if (!s.type.empty() && s.type != o.opening.type) return false;
  if (!s.rooms.empty() && !in(s.rooms, room)) return false;
  return top || s.facings.empty() || (o.facing && in(s.facings, *o.facing));
}

Mesh shadeMesh(const ShadeRule& s, const OpeningFrame& f) {
  Mesh m;
  if (s.drawnIn && (s.kind == ShadeRule::Kind::Awning || s.kind == ShadeRule::Kind::Screen)) return m;
  switch (s.kind) {
  case ShadeRule::Kind::Overhang:
    overhang(m, s, f);
    break;
  case ShadeRule::Kind::Fins:
    fins(m, s, f);
    break;
  case ShadeRule::Kind::Louvres:
    horizontalBlades(m, s, f);
    break;
  case ShadeRule::Kind::UprightLouvres:
    uprightBlades(m, s, f, s.angle);
    break;
  case ShadeRule::Kind::EggCrate:
    horizontalBlades(m, s, f);
    uprightBlades(m, s, f, 0);
    break;
  case ShadeRule::Kind::Awning:
    awning(m, s, f);
    break;
  case ShadeRule::Kind::Balcony:
    balcony(m, s, f);
    break;
  case ShadeRule::Kind::LightShelf:
    lightShelf(m, s, f);
    break;
  case ShadeRule::Kind::Screen:
    screen(m, s, f);
    break;
  }
  return m;
}

CutOff cutOffOf(const ShadeRule& s, const OpeningFrame& f) {
  CutOff out;
  if (s.drawnIn && s.kind == ShadeRule::Kind::Awning) return out;
  const double in = f.pane;
  const double reach = s.depth * std::cos(s.angle), sink = s.depth * std::sin(s.angle);
  const auto between = [&](const std::vector<double>& places, double turn) {
    if (places.size() < 2) return;
    const double gap = places[1] - places[0], across = s.depth * std::sin(turn), deep = s.depth * std::cos(turn);
    if (!(s.depth > 0)) return;
    out.left = angleOf(gap + across, deep);
    out.right = angleOf(gap - across, deep);
  };
  switch (s.kind) {
  case ShadeRule::Kind::Overhang:
    if (s.depth > 0) out.profile = angleOf(f.height + s.offset - sink - s.drop, reach + in);
    break;
  case ShadeRule::Kind::Awning:
    if (s.depth > 0) out.profile = angleOf(f.height + s.offset - s.drop, s.depth + in);
    break;
  case ShadeRule::Kind::Louvres:
  case ShadeRule::Kind::EggCrate: {
    const std::vector<double> blades = bladesUp(s, f);
    if (blades.empty() || !(s.depth > 0)) break;
    const double under = angleOf(blades.back() - sink, s.standOff + reach + in);
    out.profile = blades.size() < 2 ? under : std::max(under, angleOf(blades[0] - blades[1] - sink, reach));
    if (s.standOff > 0) out.profileEnds = angleOf(s.offset, s.standOff);
    if (s.kind == ShadeRule::Kind::EggCrate) between(bladesAlong(s, f), 0);
    break;
  }
  case ShadeRule::Kind::UprightLouvres:
    between(bladesAlong(s, f), s.angle);
    break;
  case ShadeRule::Kind::Fins: {
    if (!(s.depth > 0)) break;
    const std::vector<double> places = finsAlong(s, f);
    const double far = f.width + s.offset;
    if (s.sides == ShadeRule::Sides::Left)
      out.left = angleOf(far + sink, reach + in);
    else if (s.sides == ShadeRule::Sides::Right)
      out.right = angleOf(far - sink, reach + in);
    else if (places.size() == 2) {
      out.left = angleOf(far + sink, reach + in);
      out.right = angleOf(far - sink, reach + in);
    } else
      between(places, s.angle);
    break;
  }
  case ShadeRule::Kind::Balcony:
  case ShadeRule::Kind::Screen:
  case ShadeRule::Kind::LightShelf:
    break;
  }
  return out;
}

void hashShade(Hasher& hash, const ShadeRule& s) {
  hash.add("shades").add(s.type).add(int(s.kind)).add(s.depth).add(s.offset).add(s.beyond).add(s.count).add(s.angle);
  // What came later enters only where it is used: questions asked before are found on.
  const ShadeRule fresh;
  if (s.kind <= ShadeRule::Kind::Fins && s.drop == 0 && s.sides == fresh.sides && s.windows.empty() &&
      s.rooms.empty() && !s.rooflights)
    return;
  hash.add("parts").add(s.rooflights).add(s.spacing).add(s.standOff).add(s.drop).add(int(s.sides)).add(s.ends);
  hash.add(s.parapet).add(s.openness).add(s.inward);
  if (s.drawnIn) hash.add("in");
}

std::string shadeFieldsAsMarkdown() {
  return fieldsByKindAsMarkdown<ShadeRule>("depth");
}

Findings checkShading(const Project& p) {
  Findings out;
  if (p.shadeRules.empty()) return out;
  const OpeningLayout laid = placedOpenings(p);
  for (const ShadeRule& s : p.shadeRules) {
    const std::string name = s.name.empty() ? shadeKindName(s.kind) : s.name;
    std::size_t at = 0, crowded = 0;
    for (const PlacedOpening& o : laid.openings) {
      const Room& room = p.rooms[o.room];
      if (!standsAt(s, o, room.id)) continue;
      ++at;
      if (s.isBladed() && s.spacing > 0) {
        const OpeningFrame f = frameOf(o, room);
        crowded += (s.kind != ShadeRule::Kind::UprightLouvres && bladesUp(s, f).size() >= mostBlades) ||
                   (s.kind != ShadeRule::Kind::Louvres && bladesAlong(s, f).size() >= mostBlades);
      }
    }
    if (at == 0)
      out.push_back(
          {Rank::WorthKnowing,
           "shade.nowhere",
           fmt::format("\"{}\" stands at no opening: none is on its side, of its type and in its rooms.", name),
           1,
           {s.id.value},
           "",
           ""});
    if (crowded > 0)
      out.push_back({Rank::BendsResult,
                     "shade.crowded",
                     fmt::format("The blades of \"{}\" are so close that the most there may be, {}, do not reach over "
                                 "{} opening{}.",
                                 name, mostBlades, crowded, crowded == 1 ? "" : "s"),
                     1,
                     {s.id.value},
                     "",
                     ""});
    // A tilted blade as deep as the gap is wide shuts it.
    if ((s.kind == ShadeRule::Kind::Louvres) && s.spacing > 0 && s.depth * std::sin(std::abs(s.angle)) >= s.spacing)
      out.push_back(
          {Rank::WorthKnowing,
           "shade.shut",
           fmt::format("The blades of \"{}\" lie over each other: nothing is seen between them straight out.", name),
           1,
           {s.id.value},
           "",
           ""});
  }
  return out;
}

} // namespace noonward
