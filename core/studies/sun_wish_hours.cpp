#include "core/studies/sun_wish_hours.h"
#include "core/studies/year_space.h"

namespace noonward {

std::vector<std::uint16_t> hoursOfGlare(const GlareYear& year, double limit) {
  std::vector<std::uint16_t> out;
  for (std::size_t h = 0; h < year.hours.size(); ++h)
    for (std::size_t s = 0; s < year.seats.size(); ++s)
      if (year.dgpAt(s, h) > limit) {
        out.push_back(std::uint16_t(year.hours[h]));
        break;
      }
  return out;
}

Expected<std::vector<std::uint16_t>> hoursOfBeam(const Project& p, const std::vector<GroupId>& groups,
                                                 const YearSettings& settings, RunControl& control, Threads threads) {
  KeptCoefficients kept;
  const auto input = yearInput(p, groups, settings, &kept);
  if (!input) return tl::unexpected(input.error());
  kept.startFor(*input);
  std::vector<bool> hit(input->sky->hours.size(), false);
  for (std::size_t k = 0; k < input->sensors.groups.size(); ++k) {
    YearSpace space(*input, k, threads);
    if (!space.takeBeam(kept, control)) return fail("The hours of sun were stopped.");
    for (std::size_t h = 0; h < hit.size(); ++h) {
      if (hit[h] || !input->mask[input->sky->hours[h]]) continue;
      std::size_t bright = 0;
      for (std::size_t i = 0; i < space.sensors(); ++i) bright += double(space.beam(i, h)) >= settings.closesAt;
      hit[h] = double(bright) > settings.closesAbove * double(space.sensors());
    }
  }
  std::vector<std::uint16_t> out;
  for (std::size_t h = 0; h < hit.size(); ++h)
    if (hit[h]) out.push_back(std::uint16_t(input->sky->hours[h]));
  return out;
}

} // namespace noonward
