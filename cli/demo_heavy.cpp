#include "cli/demo_heavy.h"
#include "core/geometry/mesh_build.h"
#include "core/model/form/edit.h"
#include "core/model/light_model.h"
#include <fmt/format.h>
#include <map>

namespace noonward::cli {

namespace {

/// Numbers that only look like chance.
std::uint32_t chance(std::uint32_t i) {
  i = (i ^ 61) ^ (i >> 16);
  i *= 9;
  i ^= i >> 4;
  i *= 0x27d4eb2d;
  return i ^ (i >> 15);
}

void addBox(Mesh& m, Vec3 low, Vec3 high) {
  const auto n = std::uint32_t(m.points.size());
  for (int k = 0; k < 8; ++k)
    m.points.push_back({k & 1 ? high.x : low.x, k & 2 ? high.y : low.y, k & 4 ? high.z : low.z});
  const std::uint32_t sides[6][4] = {{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4},
                                     {2, 6, 7, 3}, {0, 4, 6, 2}, {1, 3, 7, 5}};
  for (const auto& s : sides) {
    m.triangles.push_back({n + s[0], n + s[1], n + s[2]});
    m.triangles.push_back({n + s[0], n + s[2], n + s[3]});
  }
}

/// A cushion: a ball pressed flat.
void addCushion(Mesh& m, Vec3 middle, Vec3 half) {
  constexpr std::uint32_t round = 18, up = 10;
  const auto n = std::uint32_t(m.points.size());
  for (std::uint32_t j = 0; j <= up; ++j)
    for (std::uint32_t i = 0; i < round; ++i) {
      const double a = 2 * pi * i / round, b = pi * j / up;
      m.points.push_back(
          middle + Vec3{half.x * std::sin(b) * std::cos(a), half.y * std::sin(b) * std::sin(a), -half.z * std::cos(b)});
    }
  for (std::uint32_t j = 0; j < up; ++j)
    for (std::uint32_t i = 0; i < round; ++i) {
      const std::uint32_t a = n + j * round + i, b = n + j * round + (i + 1) % round;
      if (j > 0) m.triangles.push_back({a, b, b + round});
      if (j + 1 < up) m.triangles.push_back({a, b + round, a + round});
    }
}

/// Tables with chairs in rows, and shelves along the north wall.
void furnish(Mesh& m, const Room& room) {
  const Box3 b = [&] {
    Box3 box;
    for (Vec2 p : room.outline.outer) box.add({p.x, p.y, 0});
    return box;
  }();
  for (double x = b.low.x + 1.5; x < b.high.x - 1.2; x += 3)
    for (double y = b.low.y + 1.4; y < b.high.y - 1.4; y += 3) {
      addBox(m, {x - 0.7, y - 0.4, 0.70}, {x + 0.7, y + 0.4, 0.74});
      for (double sx : {-0.65, 0.6})
        for (double sy : {-0.35, 0.3}) addBox(m, {x + sx, y + sy, 0}, {x + sx + 0.05, y + sy + 0.05, 0.70});
      for (double side : {-0.75, 0.75}) {
        addCushion(m, {x, y + side, 0.45}, {0.23, 0.23, 0.06});
        addCushion(m, {x, y + side * 1.3, 0.75}, {0.22, 0.04, 0.22});
        addBox(m, {x - 0.03, y + side - 0.03, 0}, {x + 0.03, y + side + 0.03, 0.42});
      }
    }
  for (double x = b.low.x + 0.2; x + 0.9 < b.high.x; x += 1.0)
    addBox(m, {x, b.high.y - 0.35, 0}, {x + 0.9, b.high.y - 0.01, 1.9});
}

void append(Mesh& into, const Mesh& m) {
  const auto n = std::uint32_t(into.points.size());
  into.points.insert(into.points.end(), m.points.begin(), m.points.end());
  for (const Triangle& t : m.triangles) into.triangles.push_back({t[0] + n, t[1] + n, t[2] + n});
}

/// The upper floor: walls as thick as below, no window.
Outcome addUpperFloor(std::map<std::string, Mesh>& layers, const Mass& mass) {
  const auto inner = offset(mass.outline, -0.4);
  if (inner.size() != 1) return fail("The upper floor of the heavy demo can't be drawn.");
  auto room = extrude(inner.front(), 3.7, 3.4);
  if (!room) return tl::unexpected(room.error());
  std::map<std::uint32_t, Mesh> by;
  for (std::size_t t = 0; t < room->triangles.size(); ++t) {
    const std::uint32_t face = room->face[t];
    Mesh& into = layers[face == baseFace ? "12 Floors" : face == roofFace ? "13 Ceilings" : "10 Outer walls"];
    const auto n = std::uint32_t(into.points.size());
    for (std::uint32_t k : room->triangles[t]) into.points.push_back(room->points[k]);
    into.triangles.push_back({n, n + 1, n + 2});
  }
  return {};
}

} // namespace

Expected<HeavyModel> heavyLibrary(const Project& demo, const std::string& mtlName) {
  Project p = demo;
  std::erase_if(p.elements, [](const ElementPtr& e) { return e->name != "Branch library"; });
  if (p.elements.empty()) return fail("The demo has no library.");
  const auto model = lightModel(p);
  if (!model) return tl::unexpected(model.error());
  std::map<std::string, Mesh> layers;
  for (const LightPart& part : model->parts) {
    Mesh mesh = *part.mesh;
    if (part.role == Role::Partition && part.room >= 0 && p.rooms[std::size_t(part.room)].name == "Work room")
      for (const Triangle& t : mesh.triangles) // its south wall ends short of the corner
        if (std::all_of(t.begin(), t.end(), [&](std::uint32_t k) { return std::abs(mesh.points[k].y - 35.05) < 1e-6; }))
          for (std::uint32_t k : t)
            if (std::abs(mesh.points[k].x + 21.6) < 1e-6) mesh.points[k].x += 0.025;
    if (part.role == Role::Ceiling && part.room >= 0 && p.rooms[std::size_t(part.room)].name == "Office")
      mesh.triangles.pop_back();
    switch (part.role) {
    case Role::Glazing: {
      append(layers["20 Glazing"], mesh);
      const Vec3 n = normalized(mesh.areaVector(0));
      for (Vec3& q : mesh.points) q = q + n * 0.016; // the second sheet
      append(layers["20 Glazing"], mesh);
      break;
    }
    case Role::Floor:
      append(layers["12 Floors"], mesh);
      break;
    case Role::Ceiling:
      append(layers["13 Ceilings"], mesh);
      break;
    case Role::Partition:
      append(layers["11 Inner walls"], mesh);
      break;
    case Role::Shading:
      append(layers["21 Sun shading"], mesh);
      break;
    default:
      append(layers["10 Outer walls"], mesh);
    }
  }
  if (Outcome o = addUpperFloor(layers, *p.elements.front()->mass()); !o) return tl::unexpected(o.error());
  for (const Room& room : p.rooms)
    if (room.counted) furnish(layers["30 Furniture"], room);
  addBox(layers["99 Survey mark"], {-870, 310, 0}, {-869.8, 310.2, 1.5});

  HeavyModel out;
  out.mtl = "# made-up materials of the Ropewalk library\nnewmtl Library double\nKd 0.70 0.82 0.84\nd 0.24\nnewmtl "
            "Plaster\nKd 0.86 0.84 0.80\nnewmtl Beech\nKd 0.72 0.60 0.45\n";
  out.obj = "# Brevholm branch library, ground and upper floor, made up\nmtllib " + mtlName + "\n";
  const double turn = radians(heavyLibraryNorth) - demo.site.northAngle, c = std::cos(turn), s = std::sin(turn);
  std::size_t first = 1;
  std::uint32_t number = 0;
  for (const auto& [name, mesh] : layers) {
    out.obj += fmt::format("g {}\nusemtl {}\n", name,
                           name == "20 Glazing"     ? "Library double"
                           : name == "30 Furniture" ? "Beech"
                                                    : "Plaster");
    for (const Vec3& q : mesh.points)
      out.obj +=
          fmt::format("v {:.1f} {:.1f} {:.1f}\n", 1000 * (q.x * c - q.y * s), 1000 * (q.x * s + q.y * c), 1000 * q.z);
    const bool furniture = name == "30 Furniture";
    for (const Triangle& t : mesh.triangles) {
      const std::uint32_t roll = chance(number++);
      const bool turned = !furniture && roll % 3 == 0;
      const auto line = [&](std::uint32_t a, std::uint32_t b, std::uint32_t d) {
        out.obj += fmt::format("f {} {} {}\n", first + a, first + b, first + d);
      };
      line(t[0], turned ? t[2] : t[1], turned ? t[1] : t[2]);
      if (!furniture && roll % 13 == 0) line(t[0], t[1], t[2]); // again
      if (!furniture && roll % 17 == 0) line(t[0], t[1], t[1]); // without area
    }
    first += mesh.points.size();
  }
  return out;
}

} // namespace noonward::cli
