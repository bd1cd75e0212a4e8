#pragma once
// Layers: a name that elements share. They order what stands there; roles, not layers, decide what it is.

#include "core/model/project.h"

namespace noonward {

struct LayerFacts {
  std::string name; ///< empty: of elements on no layer
  std::string colour;
  std::vector<ElementId> elements;
  std::size_t shown = 0, counted = 0; ///< of them
};
/// In the order of their first elements.
std::vector<LayerFacts> layersOf(const Project& project);

/// "#6A8F5B", or empty where none was given.
std::string layerColour(const Project& project, const std::string& layer);
/// An empty colour takes it away. Error: no colour.
Expected<Project> withLayerColour(const Project& project, const std::string& layer, const std::string& colour);
Project withLayerRenamed(Project project, const std::string& from, const std::string& to);

/// Elements onto layers by the level they stand on, "Level 1" the lowest; levels within half a metre are one.
Project withLayersByLevel(Project project, const std::vector<ElementId>& ids);

} // namespace noonward
