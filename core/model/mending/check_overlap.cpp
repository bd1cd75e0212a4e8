#include "core/model/mending/check_overlap.h"
#include "core/geometry/polygon.h"
#include "core/model/form/edit.h"
#include "core/model/light_model.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>

namespace noonward {

namespace {

struct Building {
  const Element* element;
  const Mass* mass;
  Outline outline;
  Box3 box;
  double area;
};

std::vector<Building> buildings(const Project& p) {
  std::vector<Building> out;
  for (const ElementPtr& e : p.elements) {
    const Mass* m = e->mass();
    if (!m || !standsInTheLight(*e, true) || (e->role != Role::Building && e->role != Role::Neighbour) ||
        checkOutline(m->outline).fault != OutlineFault::None)
      continue;
    Outline outline = tidied(m->outline);
    const double size = area(outline);
    out.push_back({e.get(), m, std::move(outline), boxOf(*e), size});
  }
  std::sort(out.begin(), out.end(), [](const Building& a, const Building& b) {
    return std::pair(a.box.low.x, a.element->id.value) < std::pair(b.box.low.x, b.element->id.value);
  });
  return out;
}

/// Do they share ground and height enough?
bool overlap(const Building& a, const Building& b) {
  if (std::min(a.mass->top(), b.mass->top()) - std::max(a.mass->base, b.mass->base) < overlapHeight) return false;
  const double least = std::max(overlapArea, overlapShare * std::min(a.area, b.area));
  const double wide = std::min(a.box.high.x, b.box.high.x) - std::max(a.box.low.x, b.box.low.x),
               deep = std::min(a.box.high.y, b.box.high.y) - std::max(a.box.low.y, b.box.low.y);
  if (wide <= 0 || deep <= 0 || wide * deep < least) return false;
  double shared = 0;
  for (const Outline& o : common(a.outline, b.outline)) shared += area(o);
  return shared >= least;
}

std::string named(const std::vector<const Element*>& list) {
  std::string out;
  for (std::size_t k = 0; k < std::min<std::size_t>(3, list.size()); ++k)
    out += fmt::format("{}\"{}\"", k == 0 ? "" : ", ", list[k]->name.empty() ? list[k]->id.text() : list[k]->name);
  return list.size() > 3 ? out + fmt::format(" and {} more", list.size() - 3) : out;
}

void put(std::vector<const Element*>& list, const Element* e) {
  if (std::find(list.begin(), list.end(), e) == list.end()) list.push_back(e);
}

Finding findingOf(const char* code, std::string text, const std::vector<const Element*>& list) {
  Finding f{Rank::BendsResult, code, std::move(text), int(list.size()), {}, "", ""};
  for (const Element* e : list) f.elements.push_back(e->id.value);
  return f;
}

} // namespace

void checkOverlaps(const Project& p, Findings& out) {
  const std::vector<Building> all = buildings(p);
  std::map<std::string, std::size_t> order; // of files, as they were brought in
  for (const ElementPtr& e : p.elements) order.emplace(e->source, order.size());
  std::vector<const Element*> under;                                                  // the proposal
  std::map<std::pair<std::string, std::string>, std::vector<const Element*>> doubled; // later file, earlier file
  for (std::size_t i = 0; i < all.size(); ++i)
    for (std::size_t j = i + 1; j < all.size() && all[j].box.low.x < all[i].box.high.x; ++j) {
      const Element *a = all[i].element, *b = all[j].element;
      const bool replaces = a->proposed != b->proposed, twoFiles = a->source != b->source;
      if ((!replaces && !twoFiles) || !overlap(all[i], all[j])) continue;
      if (replaces) {
        put(under, a->proposed ? b : a);
        continue;
      }
      if (order[a->source] > order[b->source]) std::swap(a, b);
      put(doubled[{b->source, a->source}], b);
    }
  if (!under.empty()) {
    Finding f = findingOf("proposal.overlap",
                          fmt::format("The proposal stands in {}, which {} there: both count in every study.",
                                      named(under), under.size() == 1 ? "is" : "are"),
                          under);
    f.mend = "element.demolish";
    f.mendText = "Demolished for it";
    out.push_back(std::move(f));
  }
  for (const auto& [files, list] : doubled) {
    const auto file = [](const std::string& name) { return name.empty() ? "what was drawn" : "\"" + name + "\""; };
    Finding f = findingOf("element.twice",
                          fmt::format("{} {} of {} {} where {} has a building already: {}.", list.size(),
                                      list.size() == 1 ? "building" : "buildings", file(files.first),
                                      list.size() == 1 ? "stands" : "stand", file(files.second), named(list)),
                          list);
    f.mend = "element.leave-out";
    f.mendText = "Leave the later ones out";
    out.push_back(std::move(f));
  }
}

} // namespace noonward
