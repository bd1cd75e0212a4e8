#include "core/files/project/design_json.h"

namespace noonward {

namespace {
/// Calls `each` with every list of a design.
template <class F> void forLists(F&& each) {
  each(&Design::elements);
  each(&Design::rooms);
  each(&Design::openings);
  each(&Design::windowRules);
  each(&Design::shadeRules);
  each(&Design::finishes);
  each(&Design::glazings);
  each(&Design::assignments);
  each(&Design::heat);
}
/// A design with only those lists in which two states differ: what they share costs nothing to compare.
Design whereDiffer(Design d, const Design& one, const Design& other) {
  forLists([&](auto list) {
    if (one.*list == other.*list) (d.*list).clear();
  });
  return d;
}
} // namespace

Project withOthersRebased(Project p, const Project& before) {
  if (p.options.size() < 2 || p.option != 0 || before.option != 0 || before.options.size() != p.options.size())
    return p;
  if (static_cast<const Design&>(p) == before) return p;
  const Json was = designJson(whereDiffer(before, before, p)), is = designJson(whereDiffer(p, before, p));
  if (was == is) return p;
  for (std::size_t k = 1; k < p.options.size(); ++k) {
    Option& o = p.options[k];
    if (!o.design) continue;
    std::vector<std::string> lost;
    const Json own = designJson(whereDiffer(*o.design, before, p));
    auto part = designFromJson(withChanges(is, differences(was, own), &lost), p, {&before, &p, o.design.get()});
    if (!part) {
      o.orphans.push_back(part.error().text());
      continue;
    }
    Design next = *o.design;
    forLists([&](auto list) {
      if (before.*list != p.*list) next.*list = std::move((*part).*list);
    });
    o.design = std::make_shared<const Design>(std::move(next));
    o.orphans.insert(o.orphans.end(), lost.begin(), lost.end());
  }
  return p;
}

std::vector<std::string> optionDifferences(const Project& p, std::size_t from, std::size_t to) {
  return designDifferences(designOf(p, from), designOf(p, to));
}

std::vector<std::string> designDifferences(const Design& from, const Design& to) {
  const Json a = designJson(from), b = designJson(to);
  std::vector<std::string> out;
  for (const JsonChange& c : differences(a, b)) out.push_back(changeText(c, a, b));
  return out;
}

} // namespace noonward
