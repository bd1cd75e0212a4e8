#pragma once
// What is wrong with a mesh by itself, and the mends. Points nearer than a tolerance count as one throughout, so that
// meshes which repeat their points for each face are understood. Linear in the number of triangles.

#include "core/geometry/mesh.h"
#include <atomic>
#include <mutex>
#include <optional>

namespace noonward {

/// Counts of triangles and edges.
struct MeshHealth {
  std::size_t noArea = 0;       ///< corners coincide or lie on a line
  std::size_t slivers = 0;      ///< height under 0.1 mm, with an area
  std::size_t duplicates = 0;   ///< stand where another of the mesh stands already, either way round
  std::size_t flipped = 0;      ///< would turn if every shell faced outward
  std::size_t openEdges = 0;    ///< of one triangle only
  std::size_t tangledEdges = 0; ///< of three triangles or more
  std::size_t gaps = 0;         ///< open edges that meet within gapTolerance; not looked for in very large meshes
  std::size_t holes = 0;        ///< flat rings of open edges, see holesOf()
  double largestHole = 0;       ///< m²
  std::size_t bodies = 0;       ///< pieces that hang together by their corners and are 2 m high and wide at least
  std::optional<Vec3> gapAt, holeAt;
  std::optional<Vec3> openAt, tangledAt, flippedAt, duplicateAt; ///< the first place of each
  bool closed() const { return openEdges == 0; }
};
MeshHealth examine(const Mesh& mesh);

/// For each point the first one that lies within the tolerance (m).
std::vector<std::uint32_t> firstOfEach(const std::vector<Vec3>& points, double tolerance);

/// Each returns the mended mesh and says how many triangles it took or turned. Faces and their names stay.
Mesh withoutDuplicates(const Mesh& mesh, std::size_t& removed);
Mesh withoutSlivers(const Mesh& mesh, std::size_t& removed); ///< and those without area
/// Neighbours face one way; closed shells outward, open ones as most of their area faces.
Mesh turnedOutward(const Mesh& mesh, std::size_t& turned);
/// Points nearer than `tolerance` (m) become one, and points that lie on the open edges of other triangles split them,
/// so that gaps and T-junctions within the tolerance close.
Mesh welded(const Mesh& mesh, double tolerance, std::size_t& joined);

inline constexpr double gapTolerance = 0.005; ///< m
inline constexpr double largestPatch = 4;     ///< m², a larger hole is taken for meant

/// For each triangle the piece it belongs to, 0…: pieces hang together by their corners.
std::vector<std::uint32_t> piecesOf(const Mesh& mesh);
/// The largest first: which pieces stand for a building each, 2 m high and wide at least; all smaller pieces go with
/// the body whose box they lie in or nearest to. For each triangle the number of its body; empty where there are fewer
/// than two.
std::vector<std::uint32_t> bodiesOf(const Mesh& mesh);

/// A ring of open edges, flat within gapTolerance, in a mesh that is closed all but for a few edges in a hundred.
struct Hole {
  std::vector<std::uint32_t> ring; ///< points of the mesh, in order
  double area = 0;                 ///< m²
};
std::vector<Hole> holesOf(const Mesh& mesh, double largest = largestPatch);
/// Each hole closed by a face of its own that looks the way its neighbours do; `added`: holes closed.
Mesh patched(const Mesh& mesh, std::size_t& added, double largest = largestPatch);

/// Examined at the first call and shared by every copy of an element.
class LazyHealth {
public:
  const MeshHealth& of(const Mesh& mesh) const {
    std::call_once(once_, [&] {
      health_ = examine(mesh);
      known_ = true;
    });
    return health_;
  }
  /// Null where nobody has asked yet.
  const MeshHealth* ifKnown() const { return known_ ? &health_ : nullptr; }

private:
  mutable std::once_flag once_;
  mutable MeshHealth health_;
  mutable std::atomic<bool> known_ = false;
};

} // namespace noonward
