// noonward-foreign FILE: the meshes of a glTF, Collada or 3DS file as records on standard output
// (core/files/meshes/part_stream.h), in the file's own units and axes as its format's reader hands them over. Exit
// codes: 0 whole, 2 the file can't be read (a record says why), anything else: broken.

#include "core/files/meshes/part_stream.h"
#include <assimp/Importer.hpp>
#include <assimp/postprocess.h>
#include <assimp/scene.h>
#include <sys/resource.h>

namespace {

std::string textOf(const aiString& s) {
  return {s.data, s.length};
}

/// Names that the library makes up say nothing.
bool madeUp(const std::string& name) {
  return name.empty() || name.front() == '<' || name.front() == '$' || name.starts_with("ROOT") ||
         name.find("Dummy") != std::string::npos || name.find("DUMMY") != std::string::npos;
}

void sendNode(noonward::PartStream& out, const aiScene* scene, const aiNode* node, const aiMatrix4x4t<double>& parent,
              const std::string& above) {
  const aiMatrix4x4& m = node->mTransformation;
  const aiMatrix4x4t<double> own(m.a1, m.a2, m.a3, m.a4, m.b1, m.b2, m.b3, m.b4, m.c1, m.c2, m.c3, m.c4, m.d1, m.d2,
                                 m.d3, m.d4);
  const aiMatrix4x4t<double> all = parent * own;
  const std::string its = textOf(node->mName), name = madeUp(its) ? above : its;
  for (unsigned i = 0; i < node->mNumMeshes; ++i) {
    const aiMesh* mesh = scene->mMeshes[node->mMeshes[i]];
    std::vector<double> points;
    for (unsigned k = 0; k < mesh->mNumVertices; ++k) {
      const aiVector3t<double> p =
          all * aiVector3t<double>(mesh->mVertices[k].x, mesh->mVertices[k].y, mesh->mVertices[k].z);
      points.insert(points.end(), {p.x, p.y, p.z});
    }
    std::vector<std::uint32_t> triangles;
    for (unsigned f = 0; f < mesh->mNumFaces; ++f)
      if (mesh->mFaces[f].mNumIndices == 3)
        triangles.insert(triangles.end(), mesh->mFaces[f].mIndices, mesh->mFaces[f].mIndices + 3);
    aiString material;
    float opacity = 1;
    if (mesh->mMaterialIndex < scene->mNumMaterials) {
      scene->mMaterials[mesh->mMaterialIndex]->Get(AI_MATKEY_NAME, material);
      scene->mMaterials[mesh->mMaterialIndex]->Get(AI_MATKEY_OPACITY, opacity);
    }
    const std::string meshName = textOf(mesh->mName);
    out.part(!name.empty()      ? name
             : madeUp(meshName) ? ""
                                : meshName,
             "", "", textOf(material), opacity >= 0 && opacity <= 1 ? 1 - double(opacity) : 0, points, triangles);
  }
  for (unsigned i = 0; i < node->mNumChildren; ++i) sendNode(out, scene, node->mChildren[i], all, name);
}

} // namespace

int main(int argc, char** argv) {
  noonward::PartStream out(1);
  if (argc != 2) {
    out.cannot("noonward-foreign FILE");
    return 2;
  }
  const rlimit memory{std::size_t{6} << 30, std::size_t{6} << 30};
  ::setrlimit(RLIMIT_AS, &memory);
  const rlimit time{120, 120}; // s of the processor
  ::setrlimit(RLIMIT_CPU, &time);
  Assimp::Importer importer;
  importer.SetPropertyBool(AI_CONFIG_IMPORT_COLLADA_USE_COLLADA_NAMES, true); // what people called it, not its number
  const aiScene* scene =
      importer.ReadFile(argv[1], aiProcess_Triangulate | aiProcess_JoinIdenticalVertices | aiProcess_FindDegenerates);
  if (!scene || !scene->mRootNode) {
    out.cannot(importer.GetErrorString());
    return 2;
  }
  sendNode(out, scene, scene->mRootNode, aiMatrix4x4t<double>(), "");
  out.end();
  _exit(out.good() ? 0 : 3); // its destructors take longer than its work
}
