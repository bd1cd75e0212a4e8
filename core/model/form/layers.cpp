#include "core/model/form/layers.h"
#include "core/model/form/edit.h"
#include <algorithm>
#include <cctype>
#include <fmt/format.h>

namespace noonward {

std::vector<LayerFacts> layersOf(const Project& p) {
  std::vector<LayerFacts> out;
  std::map<std::string, std::size_t> at;
  for (const ElementPtr& e : p.elements) {
    const auto [known, isNew] = at.try_emplace(e->layer, out.size());
    if (isNew) out.push_back({e->layer, layerColour(p, e->layer), {}});
    LayerFacts& l = out[known->second];
    l.elements.push_back(e->id);
    l.shown += !e->hidden;
    l.counted += e->counted;
  }
  return out;
}

std::string layerColour(const Project& p, const std::string& layer) {
  const auto at = p.layerColours.find(layer);
  return at == p.layerColours.end() ? std::string() : at->second;
}

Expected<Project> withLayerColour(const Project& project, const std::string& layer, const std::string& colour) {
  Project p = project;
  if (colour.empty()) {
    p.layerColours.erase(layer);
    return p;
  }
  const bool sound = colour.size() == 7 && colour[0] == '#' &&
                     std::all_of(colour.begin() + 1, colour.end(), [](unsigned char c) { return std::isxdigit(c); });
  if (!sound) return fail(fmt::format("\"{}\" is no colour: write it as #6A8F5B.", colour));
  p.layerColours[layer] = colour;
  return p;
}

Project withLayerRenamed(Project p, const std::string& from, const std::string& to) {
  std::vector<ElementId> ids;
  for (const ElementPtr& e : p.elements)
    if (e->layer == from) ids.push_back(e->id);
  p = withEdited(std::move(p), ids, [&](Element& e) { e.layer = to; });
  for (Assignment& a : p.assignments)
    if (!from.empty() && a.layer == from) a.layer = to;
  if (const auto at = p.layerColours.find(from); at != p.layerColours.end()) {
    p.layerColours.try_emplace(to, at->second);
    p.layerColours.erase(from);
  }
  return p;
}

Project withLayersByLevel(Project p, const std::vector<ElementId>& ids) {
  std::vector<double> levels;
  for (ElementId id : ids)
    if (const ElementPtr e = p.element(id)) levels.push_back(boxOf(*e).low.z);
  std::sort(levels.begin(), levels.end());
  std::vector<double> distinct;
  for (double z : levels)
    if (distinct.empty() || z > distinct.back() + 0.5) distinct.push_back(z);
  return withEdited(std::move(p), ids, [&](Element& e) {
    const double z = boxOf(e).low.z;
    std::size_t k = 0;
    while (k + 1 < distinct.size() && z > distinct[k] + 0.5) ++k;
    e.layer = fmt::format("Level {}", k + 1);
  });
}

} // namespace noonward
