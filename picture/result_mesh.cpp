#include "picture/result_mesh.h"
#include "core/files/meshes/glb.h"
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

struct Coloured {
  std::vector<Vec3> points;
  std::vector<std::array<std::uint8_t, 4>> colours; ///< of points
  std::vector<Triangle> triangles;
  std::vector<float> values; ///< of triangles
};

Coloured coloured(const SensorField& painted) {
  Coloured out;
  for (std::size_t g = 0; g < painted.sensors.groups.size(); ++g) {
    const Mesh m = cellMesh(painted, g);
    const std::size_t first = painted.sensors.groups[g].first;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
      const float v = painted.values()[first + m.face[t]];
      const QColor c = std::isnan(v) ? QColor(200, 200, 200) : colorOf(painted.scale, double(v));
      const auto n = std::uint32_t(out.points.size());
      for (std::uint32_t k : m.triangles[t]) {
        out.points.push_back(m.points[k]);
        out.colours.push_back({std::uint8_t(c.red()), std::uint8_t(c.green()), std::uint8_t(c.blue()), 255});
      }
      out.triangles.push_back({n, n + 1, n + 2});
      out.values.push_back(v);
    }
  }
  return out;
}

template <class T> void put(std::string& out, T v) {
  out.append(reinterpret_cast<const char*>(&v), sizeof v);
}

} // namespace

std::string resultPly(const SensorField& painted, Vec3 origin, const std::string& about) {
  const Coloured c = coloured(painted);
  std::string line = about;
  for (char& ch : line)
    if (static_cast<unsigned char>(ch) < 32) ch = ' ';
  std::string out = fmt::format(
      "ply\nformat binary_little_endian 1.0\ncomment {}\ncomment value in {}\nelement vertex {}\nproperty double "
      "x\nproperty double y\nproperty double z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\n"
      "element face {}\nproperty list uchar int vertex_indices\nproperty float value\nend_header\n",
      line, painted.scale.unit, c.points.size(), c.triangles.size());
  for (std::size_t i = 0; i < c.points.size(); ++i) {
    const Vec3 p = c.points[i] + origin;
    put(out, p.x), put(out, p.y), put(out, p.z);
    for (int k = 0; k < 3; ++k) put(out, c.colours[i][std::size_t(k)]);
  }
  for (std::size_t t = 0; t < c.triangles.size(); ++t) {
    put(out, std::uint8_t(3));
    for (std::uint32_t k : c.triangles[t]) put(out, std::int32_t(k));
    put(out, c.values[t]);
  }
  return out;
}

std::string resultGlb(const SensorField& painted, const std::string& about) {
  const Coloured c = coloured(painted);
  std::string data;
  Box3 box;
  for (const Vec3& p : c.points) {
    const float q[3] = {float(p.x), float(p.z), float(-p.y)};
    for (float v : q) put(data, v);
    box.add({double(q[0]), double(q[1]), double(q[2])});
  }
  const std::size_t colours = data.size();
  for (const auto& k : c.colours) data.append(reinterpret_cast<const char*>(k.data()), 4);
  const std::size_t indices = data.size();
  for (const Triangle& t : c.triangles)
    for (std::uint32_t k : t) put(data, k);
  const auto view = [](std::size_t from, std::size_t length, int target) {
    return Json{{"buffer", 0}, {"byteOffset", from}, {"byteLength", length}, {"target", target}};
  };
  return glbFile(
      Json{{"asset", {{"version", "2.0"}, {"generator", "Noonward"}}},
           {"scene", 0},
           {"scenes", Json::array({Json{{"nodes", Json::array({0})}}})},
           {"nodes", Json::array({Json{{"name", about}, {"mesh", 0}}})},
           {"meshes",
            Json::array({Json{{"name", about},
                              {"primitives", Json::array({Json{{"attributes", {{"POSITION", 0}, {"COLOR_0", 1}}},
                                                               {"indices", 2},
                                                               {"material", 0}}})}}})},
           {"materials",
            Json::array(
                {Json{{"name", "result"}, {"doubleSided", true}, {"pbrMetallicRoughness", {{"metallicFactor", 0}}}}})},
           {"accessors", Json::array({Json{{"bufferView", 0},
                                           {"componentType", 5126},
                                           {"count", c.points.size()},
                                           {"type", "VEC3"},
                                           {"min", Json::array({box.low.x, box.low.y, box.low.z})},
                                           {"max", Json::array({box.high.x, box.high.y, box.high.z})}},
                                      Json{{"bufferView", 1},
                                           {"componentType", 5121},
                                           {"normalized", true},
                                           {"count", c.points.size()},
                                           {"type", "VEC4"}},
                                      Json{{"bufferView", 2},
                                           {"componentType", 5125},
                                           {"count", 3 * c.triangles.size()},
                                           {"type", "SCALAR"}}})},
           {"bufferViews", Json::array({view(0, colours, 34962), view(colours, indices - colours, 34962),
                                        view(indices, data.size() - indices, 34963)})},
           {"buffers", Json::array({Json{{"byteLength", data.size()}}})}},
      data);
}

} // namespace noonward
