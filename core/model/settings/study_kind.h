#pragma once
// The kinds of study: one row each. What a kind is called, which settings it goes by and how its values are usually
// read stands here and nowhere else; how it is computed stands in core/studies/light_kinds.cpp for kinds that give a
// value to each sensor under a sky, and in core/runs/answer.cpp for all.

#include <array>
#include <optional>
#include <stdexcept>
#include <string_view>

namespace noonward {

enum class StudyKind {
  SunHours,
  DaylightFactor,
  Illuminance,
  SkyView,
  Vsc,
  SunlightYear,
  SunlightWinter,
  Year,
  NoSkyLine,
  Irradiation
};

/// Whose fields a kind is asked by: members of Study.
enum class SettingsOf { SunHours, Light, Year };

struct StudyKindFacts {
  StudyKind kind;
  const char* key;  ///< as in files and for the command line: "daylight-factor"
  const char* name; ///< as shown: "Daylight factor"
  const char* unit; ///< "%", "lx", "h"
  SettingsOf settings;
  const char* uses;  ///< keys of those settings that it goes by, with blanks between; "*": all
  bool inside;       ///< of light in rooms: what reflects, lets through and leaks counts
  bool judged;       ///< rules can be laid against it
  double threshold;  ///< what is usually asked of it, in its unit
  double step;       ///< of the slider of thresholds, in its unit
  double top;        ///< upper end of the strip; 0: by the values
  StudyKind rulesOf; ///< the kind whose rules are laid beside it
};

inline constexpr std::array<StudyKindFacts, 10> studyKinds{{
    {StudyKind::SunHours, "sun-hours", "Sun hours", "h", SettingsOf::SunHours, "*", false, true, 2, 0.1, 0,
     StudyKind::SunHours},
    {StudyKind::DaylightFactor, "daylight-factor", "Daylight factor", "%", SettingsOf::Light, "error seed max-samples",
     true, true, 2, 0.1, 0, StudyKind::DaylightFactor},
    {StudyKind::Illuminance, "illuminance", "Illuminance", "lx", SettingsOf::Light, "sky error seed max-samples", true,
     false, 300, 1, 0, StudyKind::Illuminance},
    {StudyKind::SkyView, "sky-view", "Sky view factor", "%", SettingsOf::Light, "seed max-samples", false, false, 50,
     0.1, 100, StudyKind::SkyView},
    {StudyKind::Vsc, "vsc", "Vertical sky component", "%", SettingsOf::Light, "seed max-samples", false, true, 27, 0.1,
     40, StudyKind::Vsc},
    {StudyKind::NoSkyLine, "no-sky-line", "No-sky line", "%", SettingsOf::Light, "seed max-samples", false, true, 50,
     0.1, 100, StudyKind::NoSkyLine},
    {StudyKind::SunlightYear, "sunlight-year", "Annual probable sunlight (APSH)", "%", SettingsOf::Light, "sunshine",
     false, true, 25, 0.1, 0, StudyKind::SunlightYear},
    {StudyKind::SunlightWinter, "sunlight-winter", "Winter probable sunlight (WPSH)", "%", SettingsOf::Light,
     "sunshine", false, true, 5, 0.1, 0, StudyKind::SunlightYear},
    {StudyKind::Irradiation, "irradiation", "Irradiation", "kWh/m²", SettingsOf::Light,
     "sky season amount error seed max-samples", true, true, 900, 10, 0, StudyKind::Irradiation},
    {StudyKind::Year, "year", "Daylight year", "%", SettingsOf::Year, "*", true, true, 50, 0.1, 0, StudyKind::Year},
}};

constexpr const StudyKindFacts& factsOf(StudyKind kind) {
  for (const StudyKindFacts& f : studyKinds)
    if (f.kind == kind) return f;
  throw std::logic_error("a kind of study has no row");
}
constexpr const char* studyKey(StudyKind kind) {
  return factsOf(kind).key;
}
constexpr const char* studyName(StudyKind kind) {
  return factsOf(kind).name;
}
constexpr const char* studyUnit(StudyKind kind) {
  return factsOf(kind).unit;
}
constexpr std::optional<StudyKind> studyFromKey(std::string_view key) {
  for (const StudyKindFacts& f : studyKinds)
    if (key == f.key) return f.kind;
  return {};
}

} // namespace noonward
