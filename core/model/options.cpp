#include "core/model/options.h"
#include <fmt/format.h>
#include <utility>

namespace noonward {

const Design& designOf(const Project& p, std::size_t option) {
  return option < p.options.size() && p.options[option].design ? *p.options[option].design
                                                               : static_cast<const Design&>(p);
}

Project withOption(Project p, std::size_t option) {
  if (option >= p.options.size() || option == p.option) return p;
  p.options[p.option].design = std::make_shared<const Design>(static_cast<const Design&>(p));
  p.option = option;
  static_cast<Design&>(p) = *std::exchange(p.options[option].design, nullptr);
  return p;
}

Project withNewOption(Project p, const std::string& name) {
  if (p.options.empty()) p.options.push_back({OptionId::fresh(), "As drawn", nullptr, {}});
  p.options[p.option].design = std::make_shared<const Design>(static_cast<const Design&>(p));
  p.options.push_back({OptionId::fresh(), name, nullptr, {}});
  p.option = p.options.size() - 1;
  return p;
}

Project withoutOption(Project p, std::size_t option) {
  if (option >= p.options.size()) return p;
  if (option == p.option) p = withOption(std::move(p), option == 0 ? 1 : 0);
  if (option == p.option) return p; // the only one
  p.options.erase(p.options.begin() + std::ptrdiff_t(option));
  if (p.option > option) --p.option;
  if (p.options.size() == 1) {
    p.options.clear();
    p.option = 0;
  }
  return p;
}

std::optional<std::size_t> optionNamed(const Project& p, const std::string& text) {
  for (std::size_t k = 0; k < p.options.size(); ++k)
    if (p.options[k].name == text || p.options[k].id.text() == text || fmt::format("{}", char('A' + char(k))) == text)
      return k;
  return {};
}

} // namespace noonward
