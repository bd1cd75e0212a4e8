// OBJ: v, f, o, g, usemtl; a group of several materials becomes a part for each. Everything else is passed over.
// Polygons of any size; negative indices; errors with the line.

#include "core/base/tolerances.h"
#include "core/base/words.h"
#include "core/files/meshes/mesh_files.h"
#include "core/geometry/mesh_build.h"
#include <charconv>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <unordered_map>

namespace noonward {

namespace {

struct Cursor {
  const char* at;
  const char* end;
  void blanks() {
    while (at < end && (*at == ' ' || *at == '\t')) ++at;
  }
  bool number(double& v) {
    blanks();
    if (at < end && *at == '+') ++at;
    const auto [stop, ec] = std::from_chars(at, end, v);
    if (ec != std::errc{} || stop == at) return false;
    if (stop < end && *stop == ',') { // decimal comma
      const char* digits = stop + 1;
      const char* after = digits;
      while (after < end && *after >= '0' && *after <= '9') ++after;
      if (after > digits) {
        const std::string pointed = std::string(at, stop) + "." + std::string(digits, after);
        std::from_chars(pointed.data(), pointed.data() + pointed.size(), v);
        at = after;
        return true;
      }
    }
    at = stop;
    return true;
  }
  std::string rest() {
    blanks();
    const char* stop = end;
    while (stop > at && (stop[-1] == ' ' || stop[-1] == '\t' || stop[-1] == '\r')) --stop;
    return {at, stop};
  }
};

} // namespace

Expected<Model> parseObj(std::string_view text, const std::string& file) {
  Model model;
  model.file = file;
  std::vector<Vec3> points;
  struct Group {
    std::string name, layer, material;
    Mesh mesh;
  };
  std::vector<Group> groups;
  std::unordered_map<std::string, std::size_t> byName; // by group and material
  std::unordered_map<std::string, int> materialsOf;    // by group
  std::size_t current = SIZE_MAX;
  std::string group = "unnamed", material;
  const auto enter = [&] { // before the first face after a new group or material
    const auto [it, fresh] = byName.emplace(group + '\n' + material, groups.size());
    current = it->second;
    if (!fresh) return;
    const bool several = ++materialsOf[group] > 1;
    std::string name = several ? group + ": " + (material.empty() ? "no material" : material) : group;
    if (several)
      while (byName.contains(name + "\n")) name += "'"; // a group of the file is called so itself
    groups.push_back({name, group, material, {}});
  };
  std::size_t line = 0, faces = 0;
  std::vector<std::uint32_t> corners;
  const char* at = text.data();
  const char* end = at + text.size();
  while (at < end) {
    const char* stop = static_cast<const char*>(std::memchr(at, '\n', std::size_t(end - at)));
    if (!stop) stop = end;
    ++line;
    Cursor c{at, stop};
    at = stop + 1;
    c.blanks();
    if (c.end - c.at < 2) continue;
    const auto place = [&] { return fmt::format("{}:{}", file, line); };
    if (c.at[0] == 'v' && (c.at[1] == ' ' || c.at[1] == '\t')) {
      ++c.at;
      Vec3 p;
      if (!c.number(p.x) || !c.number(p.y) || !c.number(p.z)) return fail("A vertex needs three numbers.", place());
      if (!finite(p)) return fail("A vertex has a coordinate that is not a number.", place());
      points.push_back(p);
    } else if (c.at[0] == 'f' && (c.at[1] == ' ' || c.at[1] == '\t')) {
      ++c.at;
      corners.clear();
      while (c.blanks(), c.at < c.end && *c.at != '\r') {
        long i = 0;
        const auto [after, ec] = std::from_chars(c.at, c.end, i);
        if (ec != std::errc{}) return fail("A face has a corner that is no number.", place());
        c.at = after;
        while (c.at < c.end && *c.at != ' ' && *c.at != '\t') ++c.at; // texture and normal
        const long k = i > 0 ? i - 1 : long(points.size()) + i;
        if (i == 0 || k < 0 || k >= long(points.size()))
          return fail(fmt::format("A face names vertex {}; there are {} so far.", i, points.size()), place());
        corners.push_back(std::uint32_t(k));
      }
      if (corners.size() < 3) return fail("A face needs three corners or more.", place());
      if (current == SIZE_MAX) enter();
      addPolygon(points, corners, std::uint32_t(faces++), groups[current].mesh);
    } else if ((c.at[0] == 'o' || c.at[0] == 'g') && (c.at[1] == ' ' || c.at[1] == '\t')) {
      ++c.at;
      group = c.rest();
      if (group.empty()) group = "unnamed";
      current = SIZE_MAX;
    } else if (std::string_view(c.at, std::size_t(c.end - c.at)).starts_with("usemtl")) {
      c.at += 6;
      material = c.rest();
      current = SIZE_MAX;
    }
  }
  std::size_t dropped = 0;
  for (const Group& g : groups) {
    if (g.mesh.triangles.empty()) continue;
    ModelPart part{g.name, withOwnPoints(points, g.mesh, dropped), g.name == g.layer ? "" : g.layer};
    part.material = g.material;
    if (part.mesh.triangles.empty()) continue;
    findFaces(part.mesh);
    model.parts.push_back(std::move(part));
  }
  if (model.parts.empty())
    return fail(points.empty() ? "This is not an OBJ model: it has no vertices." : "The model has no faces.", file);
  if (dropped > 0)
    model.notes.push_back(counted(dropped, "face without area was", "faces without area were") + " dropped.");
  return model;
}

void readMtl(std::string_view text, Model& model) {
  std::unordered_map<std::string, double> transparency;
  std::string now;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t stop = std::min(text.find('\n', at), text.size());
    Cursor c{text.data() + at, text.data() + stop};
    at = stop + 1;
    c.blanks();
    const std::string_view line(c.at, std::size_t(c.end - c.at));
    double v = 0;
    if (line.starts_with("newmtl")) {
      c.at += 6;
      now = c.rest();
    } else if (line.starts_with("d ") || line.starts_with("Tr ")) {
      c.at += line[0] == 'd' ? 2 : 3;
      if (c.number(v) && v >= 0 && v <= 1) transparency[now] = line[0] == 'd' ? 1 - v : v;
    }
  }
  for (ModelPart& p : model.parts)
    if (const auto it = transparency.find(p.material); it != transparency.end()) p.transparency = it->second;
}

} // namespace noonward
