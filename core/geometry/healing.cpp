#include "core/geometry/healing.h"
#include "core/base/joined_sets.h"
#include "core/base/tolerances.h"
#include "core/geometry/mesh_build.h"
#include <algorithm>
#include <bit>
#include <cmath>
#include <map>
#include <numeric>

namespace noonward {

namespace {

constexpr std::uint32_t none = ~0u;
constexpr std::size_t mostWelded = 200'000; ///< triangles in which gaps are looked for
constexpr double thin = 1e-4;               ///< m, the height under which a triangle is a sliver

std::uint64_t mixed(std::uint64_t x) {
  x ^= x >> 33, x *= 0xff51afd7ed558ccdull, x ^= x >> 33, x *= 0xc4ceb9fe1a85ec53ull;
  return x ^ (x >> 33);
}

/// Open addressing over indices; what is equal is said by whoever asks.
class Table {
public:
  explicit Table(std::size_t n) : slots_(std::bit_ceil(std::max<std::size_t>(16, 2 * n)), none) {}
  /// The index kept under an equal key, or `fresh` after keeping it.
  template <class Equal> std::uint32_t find(std::uint64_t hash, std::uint32_t fresh, Equal&& equal) {
    const std::size_t mask = slots_.size() - 1;
    for (std::size_t at = hash & mask;; at = (at + 1) & mask) {
      if (slots_[at] == none) return slots_[at] = fresh;
      if (equal(slots_[at])) return slots_[at];
    }
  }

private:
  std::vector<std::uint32_t> slots_;
};

struct Shapes {
  const Mesh& mesh;
  std::vector<std::uint32_t> first; ///< of each point
  explicit Shapes(const Mesh& m) : mesh(m), first(firstOfEach(m.points, tolerance::weld)) {}
  Triangle corners(std::size_t t) const {
    return {first[mesh.triangles[t][0]], first[mesh.triangles[t][1]], first[mesh.triangles[t][2]]};
  }
  Vec3 middle(std::size_t t) const {
    const Triangle& k = mesh.triangles[t];
    return (mesh.points[k[0]] + mesh.points[k[1]] + mesh.points[k[2]]) * (1.0 / 3);
  }
  enum class Kind { Sound, Sliver, NoArea };
  Kind kind(std::size_t t) const {
    const Triangle k = corners(t);
    if (k[0] == k[1] || k[1] == k[2] || k[0] == k[2]) return Kind::NoArea;
    const Vec3 a = mesh.points[k[0]], b = mesh.points[k[1]], c = mesh.points[k[2]];
    const double longest = std::max({length(b - a), length(c - b), length(a - c)}), twice = length(cross(b - a, c - a));
    if (!(twice > 1e-12 * longest * longest)) return Kind::NoArea;
    return twice / longest < thin ? Kind::Sliver : Kind::Sound;
  }
  /// The triangles that stand where an earlier one stands.
  std::vector<bool> repeated() const {
    std::vector<bool> out(mesh.triangles.size(), false);
    Table seen(mesh.triangles.size());
    const auto sorted = [&](std::size_t t) {
      Triangle k = corners(t);
      std::sort(k.begin(), k.end());
      return k;
    };
    for (std::uint32_t t = 0; t < mesh.triangles.size(); ++t) {
      const Triangle k = sorted(t);
      if (k[0] == k[1] || k[1] == k[2]) continue;
      out[t] = seen.find(mixed(k[0] * 0x9e3779b97f4a7c15ull ^ mixed(std::uint64_t(k[1]) << 32 | k[2])), t,
                         [&](std::uint32_t o) { return sorted(o) == k; }) != t;
    }
    return out;
  }
};

/// Edges between triangles: half-edge h is edge h mod 3 of triangle h / 3.
struct Edges {
  std::vector<std::uint32_t> partner; ///< half-edge on the other side where exactly two meet, else `none`
  std::vector<std::uint32_t> count;   ///< of triangles at the edge, by half-edge; 0 where the triangle takes no part
  Edges(const Shapes& s, const std::vector<bool>& leftOut) {
    const std::size_t n = 3 * s.mesh.triangles.size();
    partner.assign(n, none);
    count.assign(n, 0);
    std::vector<std::uint32_t> lead(n, none), number(n, 0), second(n, none);
    Table table(n);
    const auto ends = [&](std::uint32_t h) {
      const Triangle k = s.corners(h / 3);
      return std::pair{k[h % 3], k[(h % 3 + 1) % 3]};
    };
    for (std::uint32_t h = 0; h < n; ++h) {
      if (leftOut[h / 3]) continue;
      const auto [a, b] = std::minmax({ends(h).first, ends(h).second});
      if (a == b) continue;
      lead[h] = table.find(mixed(std::uint64_t(a) << 32 | b), h, [&, a = a, b = b](std::uint32_t o) {
        const auto e = ends(o);
        return std::min(e.first, e.second) == a && std::max(e.first, e.second) == b;
      });
      if (++number[lead[h]] == 2) second[lead[h]] = h;
    }
    for (std::uint32_t h = 0; h < n; ++h) {
      if (lead[h] == none) continue;
      count[h] = number[lead[h]];
      if (count[h] == 2) partner[h] = h == lead[h] ? second[h] : lead[h];
    }
  }
};

/// Which triangles have to turn.
std::vector<bool> toTurn(const Shapes& s, const Edges& e, const std::vector<bool>& leftOut) {
  const std::size_t n = s.mesh.triangles.size();
  std::vector<bool> out(n, false), seen(n, false);
  std::vector<std::uint32_t> shell;
  std::vector<char> turned(n, 0);
  for (std::uint32_t from = 0; from < n; ++from) {
    if (seen[from] || leftOut[from]) continue;
    shell.assign(1, from);
    seen[from] = true;
    bool open = false;
    for (std::size_t at = 0; at < shell.size(); ++at) {
      const std::uint32_t t = shell[at];
      for (std::uint32_t k = 0; k < 3; ++k) {
        const std::uint32_t h = 3 * t + k, o = e.partner[h];
        open |= e.count[h] != 2;
        if (o == none || seen[o / 3]) continue;
        const bool sameWay =
            s.corners(t)[k] == s.corners(o / 3)[o % 3]; // both run the edge from the same end: one is turned
        seen[o / 3] = true;
        turned[o / 3] = char(turned[t] != 0) ^ char(sameWay);
        shell.push_back(o / 3);
      }
    }
    double value = 0; // volume of a closed shell; of an open one the area that stays less the area that turns
    const Vec3 zero = s.mesh.points[s.mesh.triangles[from][0]];
    for (std::uint32_t t : shell) {
      const Triangle& k = s.mesh.triangles[t];
      const Vec3 a = s.mesh.points[k[0]] - zero, b = s.mesh.points[k[1]] - zero, c = s.mesh.points[k[2]] - zero;
      value += (turned[t] ? -1 : 1) * (open ? length(cross(b - a, c - a)) : dot(a, cross(b, c)));
    }
    for (std::uint32_t t : shell) out[t] = (turned[t] != 0) != (value < 0);
  }
  return out;
}

Mesh kept(const Mesh& m, const std::vector<bool>& drop, std::size_t& removed) {
  Mesh out;
  out.faceGroup = m.faceGroup;
  std::vector<std::uint32_t> place(m.points.size(), none);
  removed = 0;
  for (std::size_t t = 0; t < m.triangles.size(); ++t) {
    if (drop[t]) {
      ++removed;
      continue;
    }
    Triangle k = m.triangles[t];
    for (std::uint32_t& v : k) {
      if (place[v] == none) {
        place[v] = std::uint32_t(out.points.size());
        out.points.push_back(m.points[v]);
      }
      v = place[v];
    }
    out.triangles.push_back(k);
    out.face.push_back(m.faceOf(t));
  }
  return out;
}

/// What takes no part in edges: triangles that are there already or have no area.
std::vector<bool> unusable(const Shapes& s) {
  std::vector<bool> out = s.repeated();
  for (std::size_t t = 0; t < out.size(); ++t)
    if (s.kind(t) == Shapes::Kind::NoArea) out[t] = true;
  return out;
}

std::size_t openEdgesOf(const Mesh& m) {
  const Shapes s(m);
  const Edges e(s, unusable(s));
  return std::size_t(std::count(e.count.begin(), e.count.end(), 1u));
}

std::vector<bool> unsound(const Shapes& s) {
  std::vector<bool> out(s.mesh.triangles.size());
  for (std::size_t t = 0; t < out.size(); ++t) out[t] = s.kind(t) != Shapes::Kind::Sound;
  return out;
}

} // namespace

std::vector<std::uint32_t> firstOfEach(const std::vector<Vec3>& points, double tolerance) {
  std::vector<std::uint32_t> out(points.size());
  struct Cell {
    std::int64_t x, y, z;
    bool operator==(const Cell&) const = default;
  };
  const auto whole = [&](double v) { return std::int64_t(std::clamp(std::floor(v / (2 * tolerance)), -9e18, 9e18)); };
  const auto cellOf = [&](Vec3 p) { return Cell{whole(p.x), whole(p.y), whole(p.z)}; };
  const auto hash = [](const Cell& c) {
    return mixed(std::uint64_t(c.x) * 0x9e3779b97f4a7c15ull ^ mixed(std::uint64_t(c.y) + 0x7f4a7c15ull) ^
                 (std::uint64_t(c.z) << 20));
  };
  // Chains of the representatives of a cell; a point asks its own cell and those its tolerance reaches into.
  const std::size_t size = std::bit_ceil(std::max<std::size_t>(16, 2 * points.size()));
  std::vector<std::uint32_t> head(size, none), next(points.size(), none);
  for (std::uint32_t i = 0; i < points.size(); ++i) {
    const Vec3 p = points[i];
    const Cell low = cellOf(p - Vec3{tolerance, tolerance, tolerance}),
               high = cellOf(p + Vec3{tolerance, tolerance, tolerance});
    out[i] = i;
    for (std::int64_t x = low.x; x <= high.x && out[i] == i; ++x)
      for (std::int64_t y = low.y; y <= high.y && out[i] == i; ++y)
        for (std::int64_t z = low.z; z <= high.z && out[i] == i; ++z)
          for (std::uint32_t k = head[hash({x, y, z}) & (size - 1)]; k != none; k = next[k])
            if (length(points[k] - p) <= tolerance) {
              out[i] = k;
              break;
            }
    if (out[i] != i) continue;
    std::uint32_t& first = head[hash(cellOf(p)) & (size - 1)];
    next[i] = first;
    first = i;
  }
  return out;
}

namespace {

std::vector<Hole> holesIn(const Shapes& s, const Edges& e, double largest) {
  const Mesh& m = s.mesh;
  if (std::find(e.count.begin(), e.count.end(), 1u) == e.count.end()) return {};
  // Shells, joined across edges of two triangles.
  const std::size_t n = m.triangles.size();
  JoinedSets shells(n);
  for (std::uint32_t h = 0; h < e.count.size(); ++h)
    if (e.partner[h] != none) shells.join(h / 3, e.partner[h] / 3);
  std::vector<double> shellArea(n, 0); // by its root
  for (std::uint32_t t = 0; t < n; ++t) shellArea[shells.of(t)] += length(m.areaVector(t)) / 2;
  std::map<std::uint32_t, std::map<std::uint32_t, std::uint32_t>> from; // shell -> first point -> open half-edge
  std::map<std::uint32_t, bool> closable;
  const auto begin = [&](std::uint32_t h) { return s.corners(h / 3)[h % 3]; };
  const auto end = [&](std::uint32_t h) { return s.corners(h / 3)[(h % 3 + 1) % 3]; };
  for (std::uint32_t h = 0; h < e.count.size(); ++h)
    if (e.count[h] == 1) {
      const std::uint32_t shell = shells.of(h / 3);
      closable.emplace(shell, true);
      if (!from[shell].emplace(begin(h), h).second) closable[shell] = false; // rings that touch
    }
  std::vector<Hole> out;
  for (auto& [shell, edges] : from) {
    if (!closable[shell]) continue;
    std::vector<Hole> holes;
    bool all = true;
    while (all && !edges.empty()) {
      Hole hole;
      const std::uint32_t start = edges.begin()->first;
      for (std::uint32_t at = start;;) {
        const auto step = edges.find(at);
        if (step == edges.end()) {
          all = false;
          break;
        }
        hole.ring.push_back(at);
        at = end(step->second);
        edges.erase(step);
        if (at == start) break;
      }
      if (!all || hole.ring.size() < 3) {
        all = false;
        break;
      }
      std::vector<Vec3> ring;
      for (std::uint32_t v : hole.ring) ring.push_back(m.points[v]);
      const Vec3 normal = ringNormal(ring);
      hole.area = length(normal) / 2;
      const Vec3 unit = normalized(normal);
      for (const Vec3& p : ring) all = all && std::abs(dot(p - ring[0], unit)) <= gapTolerance;
      all = all && hole.area > 1e-6 && hole.area <= largest && hole.area <= 0.2 * shellArea[shell];
      std::reverse(hole.ring.begin(), hole.ring.end()); // as the face that closes it runs
      holes.push_back(std::move(hole));
    }
    if (all) out.insert(out.end(), holes.begin(), holes.end());
  }
  return out;
}

} // namespace

std::vector<Hole> holesOf(const Mesh& m, double largest) {
  const Shapes s(m);
  return holesIn(s, Edges(s, unusable(s)), largest);
}

Mesh patched(const Mesh& m, std::size_t& added, double largest) {
  Mesh out = m;
  added = 0;
  if (out.face.empty())
    for (std::uint32_t t = 0; t < out.triangles.size(); ++t) out.face.push_back(t);
  std::uint32_t face = 0;
  for (std::uint32_t f : out.face) face = std::max(face, f + 1);
  for (const Hole& h : holesOf(m, largest)) {
    const std::size_t before = out.triangles.size();
    addPolygon(m.points, h.ring, face, out);
    if (out.triangles.size() == before) continue;
    if (!out.faceGroup.empty()) {
      out.faceGroup.resize(face);
      out.faceGroup.push_back("patch");
    }
    ++face, ++added;
  }
  return out;
}

std::vector<std::uint32_t> piecesOf(const Mesh& m) {
  const std::vector<std::uint32_t> first = firstOfEach(m.points, tolerance::weld);
  std::vector<std::uint32_t> root(m.points.size());
  std::iota(root.begin(), root.end(), 0u);
  const auto find = [&](std::uint32_t i) {
    while (root[i] != i) i = root[i] = root[root[i]];
    return i;
  };
  for (const Triangle& t : m.triangles)
    for (int k : {1, 2}) {
      const std::uint32_t a = find(first[t[0]]), b = find(first[t[k]]);
      root[std::max(a, b)] = std::min(a, b);
    }
  std::vector<std::uint32_t> number(m.points.size(), none), out;
  std::uint32_t n = 0;
  out.reserve(m.triangles.size());
  for (const Triangle& t : m.triangles) {
    std::uint32_t& of = number[find(first[t[0]])];
    if (of == none) of = n++;
    out.push_back(of);
  }
  return out;
}

namespace {
std::vector<Box3> boxesOf(const Mesh& m, const std::vector<std::uint32_t>& piece) {
  std::vector<Box3> out(piece.empty() ? 0 : *std::max_element(piece.begin(), piece.end()) + 1);
  for (std::size_t t = 0; t < piece.size(); ++t)
    for (std::uint32_t v : m.triangles[t]) out[piece[t]].add(m.points[v]);
  return out;
}
bool isBody(const Box3& b) {
  constexpr double least = 2; // m
  const Vec3 s = b.size();
  return s.x >= least && s.y >= least && s.z >= least;
}
} // namespace

std::vector<std::uint32_t> bodiesOf(const Mesh& m) {
  const std::vector<std::uint32_t> piece = piecesOf(m);
  const std::vector<Box3> boxes = boxesOf(m, piece);
  std::vector<std::uint32_t> bodies;
  for (std::uint32_t k = 0; k < boxes.size(); ++k)
    if (isBody(boxes[k])) bodies.push_back(k);
  if (bodies.size() < 2) return {};
  const auto ground = [&](std::uint32_t k) { return boxes[k].size().x * boxes[k].size().y; };
  std::stable_sort(bodies.begin(), bodies.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return ground(a) > ground(b); });
  const auto apart = [](const Box3& b, Vec3 q) { // m, seen from above
    const double x = std::max({b.low.x - q.x, 0.0, q.x - b.high.x}), y = std::max({b.low.y - q.y, 0.0, q.y - b.high.y});
    return std::hypot(x, y);
  };
  std::vector<std::uint32_t> bodyOf(boxes.size(), none);
  for (std::uint32_t i = 0; i < bodies.size(); ++i) bodyOf[bodies[i]] = i;
  for (std::uint32_t k = 0; k < boxes.size(); ++k) {
    if (bodyOf[k] != none) continue;
    std::uint32_t best = 0;
    double least = 1e300;
    for (std::uint32_t i = std::uint32_t(bodies.size()); i-- > 0;) // of several that hold it the smallest
      if (const double d = apart(boxes[bodies[i]], boxes[k].center()); d < least) {
        least = d;
        best = i;
      }
    bodyOf[k] = best;
  }
  std::vector<std::uint32_t> out;
  out.reserve(piece.size());
  for (std::uint32_t k : piece) out.push_back(bodyOf[k]);
  return out;
}

MeshHealth examine(const Mesh& m) {
  MeshHealth out;
  const Shapes s(m);
  std::vector<bool> leftOut = s.repeated();
  for (std::size_t t = 0; t < m.triangles.size(); ++t) {
    const Shapes::Kind kind = s.kind(t);
    out.noArea += kind == Shapes::Kind::NoArea;
    out.slivers += kind == Shapes::Kind::Sliver;
    if (leftOut[t] && kind != Shapes::Kind::NoArea) {
      if (out.duplicates++ == 0) out.duplicateAt = s.middle(t);
    }
    if (kind == Shapes::Kind::NoArea) leftOut[t] = true;
  }
  const Edges e(s, leftOut);
  for (std::uint32_t h = 0; h < e.count.size(); ++h) {
    const auto middle = [&] {
      return (m.points[m.triangles[h / 3][h % 3]] + m.points[m.triangles[h / 3][(h % 3 + 1) % 3]]) * 0.5;
    };
    if (e.count[h] == 1 && out.openEdges++ == 0) out.openAt = middle();
    if (e.count[h] > 2) {
      if (!out.tangledAt) out.tangledAt = middle();
      ++out.tangledEdges; // counted at each triangle, made edges below
    }
  }
  if (out.tangledEdges > 0) {
    double edges = 0;
    for (std::uint32_t c : e.count)
      if (c > 2) edges += 1.0 / c;
    out.tangledEdges = std::size_t(std::lround(edges));
  }
  std::size_t touching = 0;
  if (out.openEdges > 0 && m.triangles.size() <= mostWelded) {
    // Edges that lie on each other exactly, one of them in two pieces: no light comes between them. They are taken as
    // joined.
    const Mesh together = welded(m, tolerance::weld, touching);
    if (touching > 0) {
      const MeshHealth rest = examine(together);
      out.openEdges = rest.openEdges;
      out.openAt = rest.openAt;
      out.gaps = rest.gaps;
      out.gapAt = rest.gapAt;
      out.holes = rest.holes;
      out.holeAt = rest.holeAt;
      out.largestHole = rest.largestHole;
    }
  }
  if (touching == 0 && out.openEdges > 0 && m.triangles.size() <= mostWelded) {
    std::size_t joined = 0;
    const Mesh closer = welded(m, gapTolerance, joined);
    if (joined > 0)
      if (const std::size_t left = openEdgesOf(closer); left < out.openEdges) {
        out.gaps = out.openEdges - left;
        out.gapAt = out.openAt;
      }
  }
  if (touching == 0 && out.openEdges > 0 && out.gaps == 0)
    for (const Hole& h : holesIn(s, e, largestPatch)) {
      if (out.holes++ == 0) out.holeAt = m.points[h.ring.front()];
      out.largestHole = std::max(out.largestHole, h.area);
    }
  for (const Box3& b : boxesOf(m, piecesOf(m))) out.bodies += isBody(b);
  const std::vector<bool> turn = toTurn(s, e, leftOut);
  for (std::size_t t = 0; t < turn.size(); ++t)
    if (turn[t] && out.flipped++ == 0) out.flippedAt = s.middle(t);
  return out;
}

Mesh withoutDuplicates(const Mesh& m, std::size_t& removed) {
  return kept(m, Shapes(m).repeated(), removed);
}

Mesh withoutSlivers(const Mesh& m, std::size_t& removed) {
  return kept(m, unsound(Shapes(m)), removed);
}

Mesh turnedOutward(const Mesh& m, std::size_t& turned) {
  const Shapes s(m);
  const std::vector<bool> leftOut = unusable(s);
  const std::vector<bool> turn = toTurn(s, Edges(s, leftOut), leftOut);
  Mesh out = m;
  turned = 0;
  for (std::size_t t = 0; t < turn.size(); ++t)
    if (turn[t]) std::swap(out.triangles[t][1], out.triangles[t][2]), ++turned;
  return out;
}

Mesh welded(const Mesh& m, double tolerance, std::size_t& joined) {
  joined = 0;
  Mesh out = m;
  const std::vector<std::uint32_t> first = firstOfEach(m.points, tolerance);
  // Meshes that repeat their points for each face are no gaps: only what was apart counts.
  std::vector<std::uint32_t> exact = firstOfEach(m.points, tolerance::weld);
  for (std::uint32_t i = 0; i < first.size(); ++i)
    if (exact[i] == i && first[i] != i && length(m.points[first[i]] - m.points[i]) > tolerance::weld) ++joined;
  for (Triangle& t : out.triangles)
    for (std::uint32_t& v : t) v = first[v];
  // T-junctions: ends of open edges that lie within the tolerance of another open edge. Splits until none is left.
  for (int round = 0; round < 8; ++round) {
    const Shapes s(out);
    std::vector<bool> leftOut(out.triangles.size());
    for (std::size_t t = 0; t < leftOut.size(); ++t) leftOut[t] = s.kind(t) == Shapes::Kind::NoArea;
    const Edges e(s, leftOut);
    std::vector<std::uint32_t> open; // half-edges
    std::vector<std::uint32_t> ends; // points at them
    for (std::uint32_t h = 0; h < e.count.size(); ++h)
      if (e.count[h] == 1)
        open.push_back(h), ends.push_back(out.triangles[h / 3][h % 3]),
            ends.push_back(out.triangles[h / 3][(h % 3 + 1) % 3]);
    std::sort(ends.begin(), ends.end(), [&](std::uint32_t a, std::uint32_t b) {
      return std::pair{out.points[a].x, a} < std::pair{out.points[b].x, b};
    });
    ends.erase(std::unique(ends.begin(), ends.end()), ends.end());
    std::vector<bool> cut(out.triangles.size(), false);
    std::size_t splits = 0;
    for (std::uint32_t h : open) {
      if (cut[h / 3]) continue;
      const Triangle t = out.triangles[h / 3];
      const std::uint32_t a = t[h % 3], b = t[(h % 3 + 1) % 3], c = t[(h % 3 + 2) % 3];
      const Vec3 p = out.points[a], d = out.points[b] - p;
      const double all = length(d);
      if (!(all > 2 * tolerance)) continue;
      const double low = std::min(p.x, out.points[b].x) - tolerance, high = std::max(p.x, out.points[b].x) + tolerance;
      auto at = std::lower_bound(ends.begin(), ends.end(), low,
                                 [&](std::uint32_t v, double x) { return out.points[v].x < x; });
      for (; at != ends.end() && out.points[*at].x <= high; ++at) {
        if (*at == a || *at == b || *at == c) continue;
        const double along = dot(out.points[*at] - p, d) / all;
        if (along < 2 * tolerance || along > all - 2 * tolerance ||
            length(out.points[*at] - p - d * (along / all)) > tolerance)
          continue;
        out.triangles[h / 3] = {a, *at, c};
        out.triangles.push_back({*at, b, c});
        if (!out.face.empty()) out.face.push_back(out.face[h / 3]);
        cut[h / 3] = true;
        ++splits;
        break;
      }
    }
    joined += splits;
    if (splits == 0) break;
  }
  std::vector<bool> drop(out.triangles.size());
  for (std::size_t t = 0; t < drop.size(); ++t) {
    const Triangle& k = out.triangles[t];
    drop[t] = k[0] == k[1] || k[1] == k[2] || k[0] == k[2];
  }
  std::size_t removed = 0;
  if (out.face.empty())
    for (std::uint32_t t = 0; t < out.triangles.size(); ++t) out.face.push_back(t);
  return kept(out, drop, removed);
}

} // namespace noonward
