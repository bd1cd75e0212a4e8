// STL (text and binary) and PLY (text, binary of both byte orders), in double precision where the file has it.

#include "core/base/words.h"
#include "core/files/meshes/mesh_files.h"
#include <algorithm>
#include <bit>
#include <charconv>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <numeric>

namespace noonward {

namespace {

/// Equal points become one. Input: three points a triangle.
Mesh welded(const std::vector<Vec3>& soup, std::size_t& dropped) {
  std::vector<std::uint32_t> order(soup.size()), number(soup.size());
  std::iota(order.begin(), order.end(), 0u);
  const auto key = [&](std::uint32_t i) { return std::tuple(soup[i].x, soup[i].y, soup[i].z); };
  std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) { return key(a) < key(b); });
  Mesh m;
  for (std::size_t i = 0; i < order.size(); ++i) {
    if (i == 0 || key(order[i]) != key(order[i - 1])) m.points.push_back(soup[order[i]]);
    number[order[i]] = std::uint32_t(m.points.size() - 1);
  }
  for (std::size_t i = 0; i + 2 < soup.size(); i += 3) {
    const Triangle t{number[i], number[i + 1], number[i + 2]};
    if (length(cross(soup[i + 1] - soup[i], soup[i + 2] - soup[i])) <= 0)
      ++dropped;
    else
      m.triangles.push_back(t);
  }
  return m;
}

Expected<Model> finished(Mesh mesh, std::string name, const std::string& file, std::size_t dropped,
                         bool keepFaces = false) {
  if (mesh.triangles.empty()) return fail("The model has no faces.", file);
  if (!keepFaces) findFaces(mesh);
  Model model;
  model.file = file;
  if (dropped > 0)
    model.notes.push_back(counted(dropped, "face without area was", "faces without area were") + " dropped.");
  model.parts.push_back({std::move(name), std::move(mesh)});
  return model;
}

std::string stem(const std::string& file) {
  return std::filesystem::path(file).stem().string();
}

} // namespace

Expected<Model> parseStl(std::string_view b, const std::string& file) {
  std::vector<Vec3> soup;
  std::size_t dropped = 0;
  std::uint32_t count = 0;
  if (b.size() >= 84) std::memcpy(&count, b.data() + 80, 4);
  const bool binary = b.size() >= 84 && b.size() >= 84 + std::size_t{count} * 50 &&
                      !(b.starts_with("solid") && b.find("facet") != b.npos && b.find("facet") < 1000);
  if (binary) {
    soup.reserve(std::size_t{count} * 3);
    for (std::uint32_t i = 0; i < count; ++i)
      for (std::size_t k = 0; k < 3; ++k) {
        float v[3];
        std::memcpy(v, b.data() + 84 + std::size_t{i} * 50 + 12 + 12 * k, 12);
        const Vec3 p{v[0], v[1], v[2]};
        if (!finite(p)) return fail(fmt::format("Triangle {} has a coordinate that is not a number.", i + 1), file);
        soup.push_back(p);
      }
  } else {
    if (!b.starts_with("solid")) return fail("This is not an STL model, or it ends too early.", file);
    std::size_t line = 0;
    for (std::size_t at = 0; at < b.size();) {
      const auto stop = std::min(b.find('\n', at), b.size());
      ++line;
      std::string_view row = b.substr(at, stop - at);
      at = stop + 1;
      row.remove_prefix(std::min(row.find_first_not_of(" \t"), row.size()));
      if (!row.starts_with("vertex")) continue;
      row.remove_prefix(6);
      double v[3];
      for (double& x : v) {
        row.remove_prefix(std::min(row.find_first_not_of(" \t+"), row.size()));
        const auto [after, ec] = std::from_chars(row.data(), row.data() + row.size(), x);
        if (ec != std::errc{} || !std::isfinite(x))
          return fail("A vertex needs three numbers.", fmt::format("{}:{}", file, line));
        row.remove_prefix(std::size_t(after - row.data()));
      }
      soup.push_back({v[0], v[1], v[2]});
    }
    if (soup.size() % 3) return fail("The last triangle is not whole.", file);
  }
  Mesh mesh = welded(soup, dropped); // before the call: arguments are evaluated in any order
  return finished(std::move(mesh), stem(file), file, dropped);
}

namespace {

struct PlyProperty {
  std::string name, type, countType; // countType set: a list
};
struct PlyElement {
  std::string name;
  std::size_t count = 0;
  std::vector<PlyProperty> properties;
};

std::size_t plySize(const std::string& t) {
  if (t == "char" || t == "uchar" || t == "int8" || t == "uint8") return 1;
  if (t == "short" || t == "ushort" || t == "int16" || t == "uint16") return 2;
  if (t == "int" || t == "uint" || t == "int32" || t == "uint32" || t == "float" || t == "float32") return 4;
  if (t == "double" || t == "float64") return 8;
  return 0;
}

class PlyReader {
public:
  PlyReader(std::string_view body, bool text, bool swap) : body_(body), text_(text), swap_(swap) {}
  bool value(const std::string& type, double& out) {
    if (text_) {
      at_ = std::min(body_.find_first_not_of(" \t\r\n", at_), body_.size());
      const auto [after, ec] = std::from_chars(body_.data() + at_, body_.data() + body_.size(), out);
      if (ec != std::errc{}) return false;
      at_ = std::size_t(after - body_.data());
      return true;
    }
    const std::size_t n = plySize(type);
    if (at_ + n > body_.size()) return false;
    unsigned char raw[8] = {};
    std::memcpy(raw, body_.data() + at_, n);
    if (swap_) std::reverse(raw, raw + n);
    at_ += n;
    const auto as = [&](auto v) {
      std::memcpy(&v, raw, sizeof v);
      return double(v);
    };
    if (type == "double" || type == "float64")
      out = as(double{});
    else if (type == "float" || type == "float32")
      out = as(float{});
    else if (n == 4)
      out = type[0] == 'u' ? as(std::uint32_t{}) : as(std::int32_t{});
    else if (n == 2)
      out = type[0] == 'u' ? as(std::uint16_t{}) : as(std::int16_t{});
    else
      out = type[0] == 'u' ? as(std::uint8_t{}) : as(std::int8_t{});
    return true;
  }

private:
  std::string_view body_;
  std::size_t at_ = 0;
  bool text_, swap_;
};

} // namespace

Expected<Model> parsePly(std::string_view b, const std::string& file) {
  if (!b.starts_with("ply")) return fail("This is not a PLY model.", file + ":1");
  const auto close = b.find("end_header");
  if (close == b.npos) return fail("The header of this PLY model has no end.", file);
  const auto bodyAt = b.find('\n', close);
  bool text = false, big = false;
  std::vector<PlyElement> elements;
  std::size_t line = 0;
  for (std::size_t at = 0; at < close;) {
    const auto stop = b.find('\n', at);
    std::string row(b.substr(at, stop - at));
    at = stop == b.npos ? close : stop + 1;
    ++line;
    if (!row.empty() && row.back() == '\r') row.pop_back();
    std::vector<std::string> w;
    for (std::size_t i = 0; i < row.size();) {
      const auto e = std::min(row.find(' ', i), row.size());
      if (e > i) w.push_back(row.substr(i, e - i));
      i = e + 1;
    }
    if (w.size() >= 2 && w[0] == "format") {
      text = w[1] == "ascii";
      big = w[1] == "binary_big_endian";
    } else if (w.size() >= 3 && w[0] == "element") {
      PlyElement e;
      e.name = w[1];
      if (std::from_chars(w[2].data(), w[2].data() + w[2].size(), e.count).ec != std::errc{} || e.count > 500'000'000)
        return fail("An element of the header has no proper count.", fmt::format("{}:{}", file, line));
      elements.push_back(std::move(e));
    } else if (w.size() >= 3 && w[0] == "property" && !elements.empty()) {
      PlyProperty p = w[1] == "list" && w.size() >= 5 ? PlyProperty{w[4], w[3], w[2]} : PlyProperty{w[2], w[1], ""};
      if (plySize(p.type) == 0 || (!p.countType.empty() && plySize(p.countType) == 0))
        return fail(fmt::format("The header names the unknown type \"{}\".", p.type), fmt::format("{}:{}", file, line));
      elements.back().properties.push_back(std::move(p));
    }
  }
  PlyReader read(bodyAt == b.npos ? std::string_view() : b.substr(bodyAt + 1), text, big);
  Mesh mesh;
  std::size_t dropped = 0;
  bool faces = false;
  const auto whole = [](double v) {
    return v >= 0 && v < 4294967295.0 ? std::uint32_t(v) : 4294967295u;
  }; // no vertex has this number
  const auto tooShort = [&] { return fail("The PLY model ends too early.", file); };
  for (const PlyElement& e : elements) {
    if (e.properties.empty()) continue;
    if (bodyAt == b.npos || e.count > b.size() - bodyAt) return tooShort(); // each takes a byte or more
    for (std::size_t i = 0; i < e.count; ++i) {
      Vec3 p;
      std::vector<std::uint32_t> corners;
      std::uint32_t face = 0;
      for (const PlyProperty& q : e.properties) {
        double v = 0;
        if (!q.countType.empty()) {
          if (!read.value(q.countType, v)) return tooShort();
          if (!(v >= 0 && v <= 100000)) return fail("A face has an impossible number of corners.", file);
          const auto n = std::size_t(v);
          for (std::size_t k = 0; k < n; ++k) {
            if (!read.value(q.type, v)) return tooShort();
            corners.push_back(whole(v));
          }
          continue;
        }
        if (!read.value(q.type, v)) return tooShort();
        if (q.name == "x") p.x = v;
        if (q.name == "y") p.y = v;
        if (q.name == "z") p.z = v;
        if (q.name == "face" && e.name == "face") {
          face = whole(v);
          faces = true;
        }
      }
      if (e.name == "vertex") {
        if (!finite(p)) return fail(fmt::format("Vertex {} has a coordinate that is not a number.", i + 1), file);
        mesh.points.push_back(p);
      } else if (e.name == "face") {
        for (std::uint32_t c : corners)
          if (c >= mesh.points.size())
            return fail(fmt::format("Face {} names vertex {}; there are {}.", i + 1, c, mesh.points.size()), file);
        for (std::size_t k = 2; k < corners.size(); ++k) {
          const Triangle t{corners[0], corners[k - 1], corners[k]};
          if (length(cross(mesh.points[t[1]] - mesh.points[t[0]], mesh.points[t[2]] - mesh.points[t[0]])) <= 0) {
            ++dropped;
            continue;
          }
          mesh.triangles.push_back(t);
          mesh.face.push_back(faces ? face : std::uint32_t(i));
        }
      }
    }
  }
  return finished(std::move(mesh), stem(file), file, dropped, faces);
}

std::string plyBytes(const Mesh& m) {
  std::string out =
      fmt::format("ply\nformat binary_little_endian 1.0\ncomment Noonward, metres, z up\nelement vertex {}\n"
                  "property double x\nproperty double y\nproperty double z\nelement face {}\n"
                  "property list uchar uint vertex_indices\nproperty uint face\nend_header\n",
                  m.points.size(), m.triangles.size());
  const std::size_t start = out.size();
  out.resize(start + m.points.size() * 24 + m.triangles.size() * 17);
  char* at = out.data() + start;
  for (const Vec3& p : m.points) {
    std::memcpy(at, &p, 24);
    at += 24;
  }
  for (std::size_t t = 0; t < m.triangles.size(); ++t) {
    *at++ = 3;
    std::memcpy(at, m.triangles[t].data(), 12);
    const std::uint32_t face = m.faceOf(t);
    std::memcpy(at + 12, &face, 4);
    at += 16;
  }
  return out;
}

} // namespace noonward
