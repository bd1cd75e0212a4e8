#pragma once
// A quarter of Brevholm around Ropewalk Quay, made by a seed: streets and perimeter blocks on gentle terrain above a
// harbour, as a city model (CityJSON, one solid a house and a relief), and the planner's project made from it by
// bringing it in: what is proposed, dwellings around it, trees, a protected square, the rules and the record.

#include "core/model/project.h"

namespace noonward::cli {

/// The quay itself as shipped, without its weather.
Project ropewalkQuay();

struct QuarterWish {
  unsigned seed = 1873;
  double reach = 560; ///< m from the square's middle to each side
};
/// `quay`: whose masses stand in its middle.
std::string quarterCityJson(const Project& quay, const QuarterWish& wish = {});

/// The project of the city model's text, with the quay's weather. Errors: those of reading it.
Expected<Project> quarterProject(const Project& quay, std::string_view cityJson, const std::string& file);

} // namespace noonward::cli
