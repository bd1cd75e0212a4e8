#include "core/runs/runner.h"
#include <chrono>
#include <fmt/format.h>

namespace noonward {

namespace {
Instant nowUtc() { return {std::chrono::duration<double>(std::chrono::system_clock::now().time_since_epoch()).count()}; }
} // namespace

Expected<std::shared_ptr<const SunHoursResult>> StudyRunner::sunHours(const Project& project,
                                                                      const std::vector<GroupId>& groups,
                                                                      const SunHoursSettings& settings, bool before,
                                                                      double leastStretch, RunControl& control,
                                                                      const std::string& name) {
  if (store_)
    if (auto known = store_->find(hashSunHours(project, groups, settings, before, leastStretch))) return known;
  auto input = sunHoursInput(project, groups, settings, before, leastStretch);
  if (!input) return tl::unexpected(input.error());
  auto result = std::make_shared<SunHoursResult>(runSunHours(*input, control, threads_));
  ++computed_;
  if (result->end == RunEnd::Dropped) return fail("The run was dropped.");
  if (store_) {
    // A store that can't be written costs only time later; the result itself stands.
    (void)store_->keep(*result, {{}, before ? name + " (before)" : name, settingsText(settings), isoText(nowUtc(), 0), 0});
  }
  return std::shared_ptr<const SunHoursResult>(std::move(result));
}

Expected<std::shared_ptr<const LightResult>> StudyRunner::light(const LightInput& input, RunControl& control, const std::string& name) {
  if (store_)
    if (auto known = store_->findLight(input.key)) return known;
  auto result = std::make_shared<LightResult>(runLight(input, control, threads_));
  ++computed_;
  if (result->end == RunEnd::Dropped) return fail("The run was dropped.");
  if (store_) (void)store_->keep(*result, {{}, name, fmt::format("{}, {}", studyName(input.kind), input.sky.text), isoText(nowUtc(), 0), 0});
  return std::shared_ptr<const LightResult>(std::move(result));
}

Verdict StudyRunner::judgement(const Project& project, const Yardstick& yardstick, const Judgement& j, RunControl& control) {
  const auto changed = withChanges(yardstick, j.changed);
  if (!changed) {
    Verdict v;
    v.title = yardstick.title;
    v.text = "not judged because of a changed parameter: " + changed.error().text();
    return v;
  }
  Verdict v = judge(project, *changed, j.groups,
                    [&](const std::vector<GroupId>& groups, const SunHoursSettings& settings, bool before, double least) {
                      return sunHours(project, groups, settings, before, least, control, yardstick.title);
                    });
  for (const auto& [key, value] : j.changed) v.notes.push_back(key + " changed to " + value);
  return v;
}

} // namespace noonward
