#pragma once
// Panes of glass as imported meshes have them: flat pieces, often two where one is meant (both faces of a sheet, or
// both sheets of a double window). Metres.

#include "core/model/project.h"
#include <functional>

namespace noonward {

struct Pane {
  ElementId element;
  std::string layer, finish;
  std::vector<std::uint32_t> triangles; ///< of the element's mesh; those that are there twice with both
  Vec3 normal;                          ///< unit, either way round
  Vec3 middle;
  std::array<Vec3, 4> corners; ///< of its upright bounding rectangle in its plane; of flat ones along x and y
  double area = 0;             ///< m²
};

/// The flat pieces of a mesh, those narrower than 6 cm (edges of sheets) left out. A triangle that is there twice
/// counts once.
std::vector<Pane> panesOf(const Element& element, const Mesh& mesh);

/// Farther apart, two sheets are two windows.
inline constexpr double mostBetweenPanes = 0.12; ///< m
/// One of each set of panes that stand close behind each other and cover each other by half or more: the one in the
/// middle. The others are counted in `doubled`; `dropped`, if given, takes them. Where `keep` says the outer or the
/// inner one, `outward` is asked of one of each set: 1 where its normal points outdoors, -1 where it points indoors, 0
/// where it can't be told (the middle one is kept then).
enum class PaneKept { Middle, Outer, Inner };
std::vector<Pane> singlePanes(std::vector<Pane> panes, std::size_t& doubled, std::vector<Pane>* dropped = nullptr,
                              PaneKept keep = PaneKept::Middle, const std::function<int(const Pane&)>& outward = {});

/// Every pane of glass of imported elements that counts, where it stands.
std::vector<Pane> panesOfGlass(const Project& project);
/// 1 where the pane's normal points outdoors, -1 where it points indoors: indoors something lies overhead. 0 where both
/// sides are alike.
int outwardOf(const Project& project, const Pane& pane);

} // namespace noonward
