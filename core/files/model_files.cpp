// Choosing the reader, guessing units and axes, placing, and the foreign readers in a child process.

#include "core/base/tolerances.h"
#include "core/files/mesh_files.h"
#include <algorithm>
#include <assimp/Importer.hpp>
#include <assimp/postprocess.h>
#include <assimp/scene.h>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

namespace noonward {

Box3 Model::box() const {
  Box3 b;
  for (const ModelPart& p : parts) b.addBox(p.mesh.box());
  for (const ModelOutline& o : outlines)
    for (Vec2 p : o.outline.outer)
      for (double z : {o.base, o.base + o.height}) b.add({p.x, p.y, z});
  return b;
}

std::size_t Model::triangleCount() const {
  std::size_t n = 0;
  for (const ModelPart& p : parts) n += p.mesh.triangles.size();
  return n;
}

Expected<Model> readModel(const std::filesystem::path& path) {
  std::string kind = path.extension().string();
  std::transform(kind.begin(), kind.end(), kind.begin(), [](unsigned char c) { return std::tolower(c); });
  const std::string name = path.filename().string();
  using Parse = Expected<Model> (*)(std::string_view, const std::string&);
  const std::map<std::string, Parse> own{{".obj", parseObj}, {".stl", parseStl}, {".ply", parsePly}, {".dxf", parseDxf}, {".geojson", parseGeoJson}, {".asc", parseHeightGrid}, {".grd", parseHeightGrid}, {".xml", parseGbXml}, {".gbxml", parseGbXml}};
  const bool json = kind == ".json" || kind == ".cityjson";
  if (json || own.contains(kind)) {
    const auto bytes = loadFile(path);
    if (!bytes) return tl::unexpected(bytes.error());
    if (kind == ".obj") {
      auto model = parseObj(*bytes, name);
      if (!model) return model;
      // The first of its material files, where it lies beside it.
      if (const auto at = bytes->find("mtllib "); at != std::string::npos && (at == 0 || (*bytes)[at - 1] == '\n')) {
        std::string library = bytes->substr(at + 7, std::min(bytes->find_first_of("\r\n", at), bytes->size()) - at - 7);
        const auto beside = path.parent_path() / std::filesystem::path(library).filename();
        if (const auto text = loadFile(beside)) readMtl(*text, *model);
        else model->notes.push_back("Its material file \"" + library.substr(0, 100) + "\" is not there: how transparent things are is not known.");
      }
      return model;
    }
    if (!json) return own.at(kind)(*bytes, name);
    // "model.json" may be either; what it says of itself decides.
    const auto says = [&](std::string_view word) { return bytes->find(word) != std::string::npos; };
    return kind == ".json" && !says("\"CityJSON\"") && says("\"FeatureCollection\"") ? parseGeoJson(*bytes, name) : parseCityJson(*bytes, name);
  }
  if (kind == ".gltf" || kind == ".glb" || kind == ".dae" || kind == ".3ds") return readForeign(path);
  return fail(fmt::format("Models of the kind \"{}\" can't be read. OBJ, STL, PLY, glTF, DAE, 3DS, DXF, gbXML, CityJSON, GeoJSON and height grids (ASC) can.", kind), name);
}

namespace {

/// Walks Assimp's tree and writes parts as: name length, name, point count, points, triangle count, triangles.
void writeAll(int pipe, const void* data, std::size_t n) {
  const char* at = static_cast<const char*>(data);
  while (n > 0) {
    const ssize_t k = ::write(pipe, at, n);
    if (k <= 0) _exit(3);
    at += k;
    n -= std::size_t(k);
  }
}

void writeNode(int pipe, const aiScene* scene, const aiNode* node, const aiMatrix4x4t<double>& parent) {
  const aiMatrix4x4& m = node->mTransformation;
  const aiMatrix4x4t<double> own(m.a1, m.a2, m.a3, m.a4, m.b1, m.b2, m.b3, m.b4, m.c1, m.c2, m.c3, m.c4, m.d1, m.d2, m.d3,
                                 m.d4);
  const aiMatrix4x4t<double> all = parent * own;
  for (unsigned i = 0; i < node->mNumMeshes; ++i) {
    const aiMesh* mesh = scene->mMeshes[node->mMeshes[i]];
    const std::uint64_t length = node->mName.length;
    writeAll(pipe, &length, 8);
    writeAll(pipe, node->mName.data, length);
    const std::uint64_t points = mesh->mNumVertices;
    writeAll(pipe, &points, 8);
    for (unsigned k = 0; k < mesh->mNumVertices; ++k) {
      const aiVector3t<double> v(mesh->mVertices[k].x, mesh->mVertices[k].y, mesh->mVertices[k].z);
      const aiVector3t<double> p = all * v;
      const double out[3] = {p.x, p.y, p.z};
      writeAll(pipe, out, sizeof out);
    }
    std::vector<Triangle> triangles;
    for (unsigned f = 0; f < mesh->mNumFaces; ++f)
      if (mesh->mFaces[f].mNumIndices == 3)
        triangles.push_back({mesh->mFaces[f].mIndices[0], mesh->mFaces[f].mIndices[1], mesh->mFaces[f].mIndices[2]});
    const std::uint64_t count = triangles.size();
    writeAll(pipe, &count, 8);
    writeAll(pipe, triangles.data(), count * sizeof(Triangle));
  }
  for (unsigned i = 0; i < node->mNumChildren; ++i) writeNode(pipe, scene, node->mChildren[i], all);
}

[[noreturn]] void child(int pipe, const std::string& path) {
  const rlimit memory{std::size_t{6} << 30, std::size_t{6} << 30};
  ::setrlimit(RLIMIT_AS, &memory);
  const rlimit time{120, 120};
  ::setrlimit(RLIMIT_CPU, &time);
  Assimp::Importer importer;
  const aiScene* scene =
      importer.ReadFile(path, aiProcess_Triangulate | aiProcess_JoinIdenticalVertices | aiProcess_FindDegenerates);
  if (!scene || !scene->mRootNode) {
    const std::string why = importer.GetErrorString();
    writeAll(pipe, why.data(), std::min<std::size_t>(why.size(), 400));
    _exit(2);
  }
  writeNode(pipe, scene, scene->mRootNode, aiMatrix4x4t<double>());
  _exit(0);
}

} // namespace

Expected<Model> readForeign(const std::filesystem::path& path) {
  const std::string name = path.filename().string();
  if (!std::filesystem::is_regular_file(path)) return fail("There is no such file.", path.string());
  int ends[2];
  if (::pipe(ends) != 0) return fail("No pipe to the reading process could be opened.", name);
  const pid_t pid = ::fork();
  if (pid < 0) return fail("The reading process could not be started.", name);
  if (pid == 0) {
    ::close(ends[0]);
    child(ends[1], path.string());
  }
  ::close(ends[1]);
  std::string bytes;
  char buffer[1 << 16];
  for (ssize_t n; (n = ::read(ends[0], buffer, sizeof buffer)) > 0 || (n < 0 && errno == EINTR);)
    if (n > 0) bytes.append(buffer, std::size_t(n));
  ::close(ends[0]);
  int status = 0;
  while (::waitpid(pid, &status, 0) < 0 && errno == EINTR) {}
  if (WIFSIGNALED(status))
    return fail("The reader of this format broke down on the file (nothing here was harmed). The file may be damaged.", name);
  if (WEXITSTATUS(status) == 2) return fail("The file can't be read: " + bytes, name);
  if (WEXITSTATUS(status) != 0) return fail("The reading process ended early.", name);

  Model model;
  model.file = name;
  std::size_t at = 0;
  const auto take = [&](void* into, std::size_t n) {
    if (n > bytes.size() - at) return false;
    std::memcpy(into, bytes.data() + at, n);
    at += n;
    return true;
  };
  std::map<std::string, int> seen;
  while (at < bytes.size()) {
    std::uint64_t n = 0;
    ModelPart part;
    if (!take(&n, 8)) break;
    part.name.resize(n);
    if (!take(part.name.data(), n) || !take(&n, 8)) break;
    part.mesh.points.resize(n);
    if (!take(part.mesh.points.data(), n * sizeof(Vec3)) || !take(&n, 8)) break;
    part.mesh.triangles.resize(n);
    if (!take(part.mesh.triangles.data(), n * sizeof(Triangle))) break;
    for (Vec3 p : part.mesh.points)
      if (!finite(p)) return fail(fmt::format("\"{}\" has a coordinate that is not a number.", part.name), name);
    if (part.mesh.triangles.empty()) continue;
    if (part.name.empty()) part.name = "unnamed";
    if (const int k = ++seen[part.name]; k > 1) part.name += fmt::format(" ({})", k);
    findFaces(part.mesh);
    model.parts.push_back(std::move(part));
  }
  if (model.parts.empty()) return fail("The model has no faces.", name);
  const std::string kind = path.extension().string();
  if (kind == ".gltf" || kind == ".glb") model.statedUnit = LengthUnit::Metre; // the format fixes metres
  model.statedYUp = kind == ".gltf" || kind == ".glb" || kind == ".dae";
  return model;
}

PlacementGuess guessPlacement(const Model& model, const std::optional<Vec3>& projectOrigin) {
  PlacementGuess g;
  const Box3 box = model.box();
  const Vec3 s = box.size();
  const double largest = std::max({s.x, s.y, s.z});
  // A site is flat: its height is its smallest side, and heights begin near one level for most parts.
  g.placement.yUp = model.statedYUp || (!model.statedZUp && s.y < 0.6 * s.x && s.y < 0.6 * s.z && s.z > 0);
  if (model.statedUnit) {
    g.placement.unit = *model.statedUnit;
    g.reason = fmt::format("the file says {}", unitName(*model.statedUnit));
    const double metres = largest * metresPer(*model.statedUnit);
    if (metres > 2 * tolerance::largestExtent || metres < 0.5) {
      g.suspicious = true;
      g.reason += fmt::format(", which makes it {:.4g} m long: is that right?", metres);
    }
  } else if (largest > 4000) {
    g.placement.unit = largest / 1000 >= 2 ? LengthUnit::Millimetre : LengthUnit::Metre;
    g.reason = fmt::format("the largest side counts {:.0f}: millimetres, since {:.1f} km would be no site", largest, largest / 1000);
    if (largest / 1000 > 4000) {
      g.suspicious = true;
      g.reason = fmt::format("the largest side counts {:.0f}: no unit gives a size that suits a site", largest);
    }
  } else if (largest < 0.5) {
    g.suspicious = true;
    g.reason = fmt::format("the largest side counts {:.3f}: very small in any unit", largest);
  } else {
    g.reason = fmt::format("the largest side counts {:.1f}: metres", largest);
  }
  const double f = metresPer(g.placement.unit);
  g.size = g.placement.yUp ? Vec3{s.x * f, s.z * f, s.y * f} : s * f;
  const Vec3 c = box.center() * f;
  const Vec3 middle = g.placement.yUp ? Vec3{c.x, -c.z, c.y} : c;
  if (projectOrigin) {
    g.placement.origin = *projectOrigin;
  } else if (std::max({std::abs(middle.x), std::abs(middle.y)}) > 2000) {
    g.placement.origin = {std::round(middle.x / 100) * 100, std::round(middle.y / 100) * 100, 0};
    g.reason += fmt::format("; it lies {:.1f} km from the origin, which is taken off", std::hypot(middle.x, middle.y) / 1000);
  }
  return g;
}

} // namespace noonward
