#include "core/model/finish.h"
#include <algorithm>

namespace noonward {

namespace {
constexpr const char* generic = "generic value of the trade, to be replaced by a measured one";
constexpr const char* en = "default of daylight standards for rooms: ceiling 0.7, walls 0.5, floor 0.2";
template <class T> const T* find(const std::vector<T>& list, const std::string& name) {
  const auto at = std::find_if(list.begin(), list.end(), [&](const T& x) { return x.name == name; });
  return at == list.end() ? nullptr : &*at;
}
} // namespace

std::vector<Finish> libraryFinishes() {
  return {
      {"Ceiling, standard", 0.7, 0, 0, en, true},
      {"Wall, standard", 0.5, 0, 0, en, true},
      {"Floor, standard", 0.2, 0, 0, en, true},
      {"Ground, standard", 0.2, 0, 0, "albedo of mixed ground in daylight standards", true},
      {"Facade, standard", 0.3, 0, 0, "outer surfaces in daylight standards", true},
      {"White paint", 0.85, 0, 0, generic, true},
      {"Off-white plaster", 0.75, 0, 0, generic, true},
      {"Light grey paint", 0.55, 0, 0, generic, true},
      {"Mid grey paint", 0.3, 0, 0, generic, true},
      {"Black paint", 0.05, 0, 0, generic, true},
      {"Light wood", 0.45, 0.05, 0.3, generic, true},
      {"Dark wood", 0.15, 0.1, 0.3, generic, true},
      {"Carpet, mid", 0.15, 0, 0, generic, true},
      {"Linoleum, light", 0.4, 0.05, 0.3, generic, true},
      {"Concrete, light", 0.4, 0, 0, generic, true},
      {"Concrete, dark", 0.25, 0, 0, generic, true},
      {"Red brick", 0.2, 0, 0, generic, true},
      {"Yellow brick", 0.35, 0, 0, generic, true},
      {"Slate", 0.1, 0, 0, generic, true},
      {"Zinc, weathered", 0.3, 0.2, 0.3, generic, true},
      {"Aluminium, anodised", 0.6, 0.4, 0.25, generic, true},
      {"Grass", 0.15, 0, 0, generic, true},
      {"Asphalt", 0.1, 0, 0, generic, true},
      {"Light paving", 0.35, 0, 0, generic, true},
      {"Snow, fresh", 0.8, 0, 0, generic, true},
      {"Foliage", 0.12, 0, 0, generic, true},
  };
}

std::vector<Glazing> libraryGlazings() {
  return {
      {"Clear single", 0.89, 1, 0, 0, 1, 1, 0.85, 5.7, generic, true},
      {"Clear double", 0.80, 2, 0, 0, 1, 1, 0.76, 2.8, generic, true},
      {"Low-emissivity double", 0.78, 2, 0, 0, 1, 1, 0.62, 1.1, generic, true},
      {"Low-emissivity triple", 0.72, 3, 0, 0, 1, 1, 0.52, 0.6, generic, true},
      {"Solar control, neutral", 0.60, 2, 0, 0, 1, 1, 0.34, 1.0, generic, true},
      {"Solar control, dark", 0.40, 2, 0, 0, 1, 1, 0.22, 1.0, generic, true},
      {"Opal double", 0.55, 2, 1, 0.25, 1, 1, 0.5, 1.1, generic, true},
      {"White fabric", 0.20, 1, 0.9, 0.55, 1, 1, 0.3, 0, generic, true},
      {"Open", 1.0, 0, 0, 0, 1, 1, 1, 0, "an opening without glass", true},
  };
}

double mostTransmittance(int panes) {
  if (panes <= 0) return 1;
  constexpr double r = ((glassIndex - 1) / (glassIndex + 1)) * ((glassIndex - 1) / (glassIndex + 1));
  return (1 - r) / (1 + (2 * panes - 1) * r);
}

const Finish* findFinish(const std::vector<Finish>& list, const std::string& name) {
  return find(list, name);
}
const Glazing* findGlazing(const std::vector<Glazing>& list, const std::string& name) {
  return find(list, name);
}

} // namespace noonward
