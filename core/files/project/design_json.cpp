#include "core/files/project/design_json.h"

namespace noonward {

Project withOthersRebased(Project p, const Project& before) {
  if (p.options.size() < 2 || p.option != 0 || before.option != 0 || before.options.size() != p.options.size())
    return p;
  const Json was = designJson(before), is = designJson(p);
  if (was == is) return p;
  for (std::size_t k = 1; k < p.options.size(); ++k) {
    Option& o = p.options[k];
    if (!o.design) continue;
    std::vector<std::string> lost;
    auto design = designFromJson(withChanges(is, differences(was, designJson(*o.design)), &lost), p,
                                 {&before, &p, o.design.get()});
    if (!design) {
      o.orphans.push_back(design.error().text());
      continue;
    }
    o.design = std::make_shared<const Design>(std::move(*design));
    o.orphans.insert(o.orphans.end(), lost.begin(), lost.end());
  }
  return p;
}

std::vector<std::string> optionDifferences(const Project& p, std::size_t from, std::size_t to) {
  const Json a = designJson(designOf(p, from)), b = designJson(designOf(p, to));
  std::vector<std::string> out;
  for (const JsonChange& c : differences(a, b)) out.push_back(changeText(c, a, b));
  return out;
}

} // namespace noonward
