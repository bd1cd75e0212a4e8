// One reader under libFuzzer: READER names its function. Built and run by tests/fuzz/run.

#include "core/files/epw.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/project/project_file.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace noonward;
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  const auto mesh = [&](auto parse) {
    const Expected<Model> m = parse(text, "fuzzed");
    if (!m) return;
    for (const ModelPart& p : m->parts)
      for (const Triangle& t : p.mesh.triangles)
        for (std::uint32_t k : t)
          if (k >= p.mesh.points.size() || !finite(p.mesh.points[k])) __builtin_trap();
    // What is read must also be placed, guessed at and examined.
    const auto elements = placedElements(*m, guessPlacement(*m, std::nullopt).placement, Role::Neighbour, true);
    for (const Element& e : elements)
      if (const Imported* i = e.imported()) (void)i->health->of(*i->mesh);
  };
  const auto weather = [&] { (void)parseEpw(std::string(text), "fuzzed"); };
  const auto project = [&] { (void)parseProject(std::string(text), "fuzzed", "/nonexistent"); };
  (void)mesh, (void)weather, (void)project;
  READER;
  return 0;
}
