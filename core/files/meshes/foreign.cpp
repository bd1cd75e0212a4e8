// Large foreign readers, each in a process of its own: what they find comes over a pipe (part_stream.h), a crash is a
// message.

#include "core/base/words.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/meshes/part_stream.h"
#include "core/geometry/mesh_build.h"
#include "core/geometry/plan_cut.h"
#include <cmath>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <spawn.h>
#include <sys/wait.h>

namespace noonward {

namespace {

/// Takes records from what has come so far; where one is not whole yet it waits for more.
class PartReader {
public:
  PartReader(std::string file, RunControl* control) : control_(control) { model.file = std::move(file); }
  /// Reads what is whole in `bytes`; error where it is no record.
  Outcome feed(std::string_view bytes) {
    bytes_.append(bytes);
    while (!ended && at_ < bytes_.size()) {
      const std::size_t start = at_;
      whole_ = true;
      if (Outcome o = record(); !o) return o;
      if (whole_) continue;
      at_ = start;
      break;
    }
    if (at_ > (1u << 24)) {
      bytes_.erase(0, at_);
      at_ = 0;
    }
    return {};
  }
  Model model;
  bool ended = false;
  std::string why; ///< it can't be read
  std::size_t faulty = 0;

private:
  void take(void* into, std::size_t n) {
    if (!whole_ || n > bytes_.size() - at_) {
      whole_ = false;
      return;
    }
    std::memcpy(into, bytes_.data() + at_, n);
    at_ += n;
  }
  double number() {
    double v = 0;
    take(&v, sizeof v);
    return v;
  }
  template <class T> std::vector<T> list() {
    std::uint64_t n = 0;
    take(&n, 8);
    std::vector<T> out;
    if (!whole_ || n > (bytes_.size() - at_) / sizeof(T))
      whole_ = false;
    else
      out.resize(n), take(out.data(), n * sizeof(T));
    return out;
  }
  std::string text() {
    const std::vector<char> t = list<char>();
    return {t.begin(), t.end()};
  }
  /// Nothing where a coordinate is no number or a corner is missing.
  std::optional<Mesh> mesh() {
    const std::vector<double> p = list<double>();
    const std::vector<std::uint32_t> t = list<std::uint32_t>();
    if (!whole_) return {};
    Mesh out;
    for (std::size_t k = 0; k + 2 < p.size(); k += 3) {
      out.points.push_back({p[k], p[k + 1], p[k + 2]});
      if (!finite(out.points.back())) return {};
    }
    for (std::size_t k = 0; k + 2 < t.size(); k += 3) {
      if (std::max({t[k], t[k + 1], t[k + 2]}) >= out.points.size()) return {};
      out.triangles.push_back({t[k], t[k + 1], t[k + 2]});
    }
    return out;
  }
  Outcome record() {
    const char kind = bytes_[at_++];
    switch (kind) {
    case 'P': {
      ModelPart part;
      part.name = text();
      part.layer = text();
      part.role = roleFromKey(text());
      part.material = text();
      part.transparency = std::clamp(number(), 0.0, 1.0);
      auto m = mesh();
      if (!whole_) return {};
      if (!m) {
        ++faulty;
        return {};
      }
      part.mesh = std::move(*m);
      if (part.mesh.triangles.empty()) return {};
      if (part.name.empty()) part.name = "unnamed";
      if (const int k = ++seen_[part.name]; k > 1) part.name += fmt::format(" ({})", k);
      findFaces(part.mesh);
      model.parts.push_back(std::move(part));
      return {};
    }
    case 'S': {
      const std::string name = text();
      const auto m = mesh();
      if (whole_ && m) space(name, *m);
      return {};
    }
    case 'N': {
      std::string note = text();
      if (whole_) model.notes.push_back(std::move(note));
      return {};
    }
    case 'G': {
      Glazing g;
      g.name = text();
      g.transmittance = number();
      g.source = "stated by " + model.file;
      if (whole_ && g.transmittance > 0 && g.transmittance <= 1) model.glazings.push_back(std::move(g));
      return {};
    }
    case 'L': {
      const double latitude = number(), longitude = number(), elevation = number();
      if (whole_ && std::abs(latitude) <= pi / 2 && std::abs(longitude) <= pi && std::isfinite(elevation))
        model.geo.place = Place{latitude, longitude, elevation};
      return {};
    }
    case 'A': {
      const double azimuth = number();
      if (whole_ && std::isfinite(azimuth)) model.geo.northAngle = wrapPi(azimuth);
      return {};
    }
    case 'R': {
      std::string name = text();
      if (whole_) model.geo.system = std::move(name);
      return {};
    }
    case '%': {
      const double share = number();
      if (whole_ && control_ && control_->progress) control_->progress(std::clamp(share, 0.0, 1.0));
      return {};
    }
    case 'U':
      model.statedUnit = LengthUnit::Metre;
      return {};
    case 'X':
      why = text();
      return {};
    case 'E':
      ended = true;
      return {};
    }
    return fail("The reading process answered in a way that is not understood.", model.file);
  }
  /// Its footprint, with its name: rooms that are traced there are called so.
  void space(const std::string& name, const Mesh& m) {
    const Box3 box = m.box();
    std::vector<Outline> faces;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
      const Vec3 n = m.areaVector(t);
      const Vec3 a = m.points[m.triangles[t][0]], b = m.points[m.triangles[t][1]], c = m.points[m.triangles[t][2]];
      if (std::abs(n.z) < 0.9 * length(n) || std::max({a.z, b.z, c.z}) > box.low.z + 0.05 || std::abs(n.z) < 1e-6)
        continue;
      Outline o = tidied({{xy(a), xy(b), xy(c)}, {}});
      if (checkOutline(o).fault == OutlineFault::None) faces.push_back(std::move(o));
    }
    const auto whole = unionOf(faces);
    if (!whole) return;
    for (const Outline& o : *whole) {
      ModelOutline out;
      out.name = name;
      if (const int k = ++seen_["space " + name]; k > 1) out.name += fmt::format(" ({})", k);
      out.layer = spacesLayer;
      out.outline = o;
      out.base = box.low.z;
      out.role = Role::Floor;
      model.outlines.push_back(std::move(out));
    }
  }
  RunControl* control_;
  std::string bytes_;
  std::size_t at_ = 0;
  bool whole_ = true;
  std::map<std::string, int> seen_;
};

/// A program that stands beside this one, or where it is built.
std::optional<std::string> programBeside(const std::string& program, const std::string& folder) {
  std::error_code e;
  const std::filesystem::path here = std::filesystem::read_symlink("/proc/self/exe", e).parent_path();
  for (const std::string& at : {program, "../" + folder + "/" + program, "../libexec/noonward/" + program})
    if (std::filesystem::exists(here / at, e)) return (here / at).string();
  return {};
}

/// Runs a program on the file, its standard output a pipe, and reads what comes. A program, not a fork: this one has
/// threads.
Expected<Model> readApart(const std::filesystem::path& path, RunControl* control, const std::string& program) {
  const std::string name = path.filename().string(), file = std::filesystem::absolute(path).string();
  if (!std::filesystem::is_regular_file(path)) return fail("There is no such file.", path.string());
  int ends[2];
  if (::pipe2(ends, O_CLOEXEC) != 0) return fail("No pipe to the reading process could be opened.", name);
  posix_spawn_file_actions_t actions;
  ::posix_spawn_file_actions_init(&actions);
  ::posix_spawn_file_actions_adddup2(&actions, ends[1], 1);
  const char* words[] = {program.c_str(), file.c_str(), nullptr};
  pid_t pid = 0;
  const int started = ::posix_spawn(&pid, program.c_str(), &actions, nullptr, const_cast<char**>(words), environ);
  ::posix_spawn_file_actions_destroy(&actions);
  ::close(ends[1]);
  if (started != 0) {
    ::close(ends[0]);
    return fail("The reading process could not be started.", name);
  }
  PartReader reader(name, control);
  Outcome fault;
  bool stopped = false;
  std::vector<char> buffer(1 << 18);
  for (;;) {
    if (control && !control->goesOn()) stopped = true;
    if (stopped || !fault) ::kill(pid, SIGKILL);
    pollfd waits{ends[0], POLLIN, 0};
    if (::poll(&waits, 1, 100) == 0) continue;
    const ssize_t n = ::read(ends[0], buffer.data(), buffer.size());
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) break;
    if (fault) fault = reader.feed({buffer.data(), std::size_t(n)});
  }
  ::close(ends[0]);
  int status = 0;
  while (::waitpid(pid, &status, 0) < 0 && errno == EINTR) {
  }
  if (stopped) return fail("Stopped.", name);
  if (!fault) return tl::unexpected(fault.error());
  if (WIFSIGNALED(status))
    return fail("The reader of this format broke down on the file (nothing here was harmed). The file may be damaged.",
                name);
  if (WEXITSTATUS(status) == 2) return fail("The file can't be read: " + reader.why, name);
  if (WEXITSTATUS(status) != 0 || !reader.ended) return fail("The reading process ended early.", name);
  Model model = std::move(reader.model);
  if (reader.faulty > 0)
    model.notes.push_back(counted(reader.faulty, "part has", "parts have") +
                          " coordinates that are no numbers, left out.");
  if (model.empty()) return fail("The model has no faces.", name);
  return model;
}

} // namespace

Expected<Model> readForeign(const std::filesystem::path& path, const std::string& kind, RunControl* control) {
  const auto program = programBeside("noonward-foreign", "foreign");
  if (!program)
    return fail("The reader of glTF, Collada and 3DS, noonward-foreign, is not beside this program.",
                path.filename().string());
  auto model = readApart(path, control, *program);
  if (!model) return model;
  const bool gltf = kind == ".gltf" || kind == ".glb";
  if (gltf || kind == ".dae")
    model->statedUnit = LengthUnit::Metre; // the format fixes metres, or its reader takes the file's unit into account
  model->statedYUp = true;                 // by the format, or turned so by its reader
  return model;
}

Expected<Model> readIfc(const std::filesystem::path& path, RunControl* control) {
  const auto program = programBeside("noonward-ifc", "ifc");
  if (!program)
    return fail("The reader of building models, noonward-ifc, is not beside this program.", path.filename().string());
  auto model = readApart(path, control, *program);
  if (!model) return model;
  model->statedZUp = true;
  return model;
}

} // namespace noonward
