#include "core/runs/wish_hours.h"
#include "core/studies/light_study.h"
#include "core/studies/sun_wish_hours.h"
#include <fmt/format.h>

namespace noonward {

bool tellsHoursOfSun(const Study& s) {
  return s.kind == StudyKind::Glare || s.kind == StudyKind::Year;
}

Expected<Project> withHoursOfStudy(Project p, const Study& s, StudyRunner& runner, RunControl& control,
                                   Threads threads) {
  if (!tellsHoursOfSun(s))
    return fail(fmt::format("\"{}\" tells no hours of sun: a year of glare and a daylight year do.", s.name));
  constexpr double limit = 0.4; // of DGP
  std::vector<std::uint16_t> hours;
  std::string of;
  if (s.kind == StudyKind::Glare) {
    const auto input = lightInput(p, s);
    if (!input) return tl::unexpected(input.error());
    const auto result = runner.light(*input, control, s.name);
    if (!result) return tl::unexpected(result.error());
    if (!(*result)->glare || (*result)->end != RunEnd::Finished) return fail("The year of glare was stopped.");
    hours = hoursOfGlare(*(*result)->glare, limit);
    of = fmt::format("glare above {:.2f} ({})", limit, s.name);
  } else {
    const auto beam = hoursOfBeam(p, s.groups, s.year, control, threads);
    if (!beam) return tl::unexpected(beam.error());
    hours = *beam;
    of = fmt::format("{:g} lx of beam on more than {:g} % of a room ({})", s.year.closesAt, 100 * s.year.closesAbove,
                     s.name);
  }
  if (hours.empty()) return fail(fmt::format("\"{}\" has no hour with too much sun: nothing to keep out.", s.name));
  p.sunWishes.keepOutHours = std::move(hours);
  p.sunWishes.keepOutHoursOf = of;
  return p;
}

} // namespace noonward
