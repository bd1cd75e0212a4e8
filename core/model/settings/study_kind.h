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
  Irradiation,
  Glare,
  ViewOut,
  Energy
};

/// Whose fields a kind is asked by: members of Study.
enum class SettingsOf { SunHours, Light, Year };
/// What an answer is: exact stretches of sun, a value with its error at each sensor, or the hours of a daylight year.
enum class AnswerOf { SunHours, Light, Year };

struct StudyKindFacts {
  StudyKind kind;
  const char* key;  ///< as in files and for the command line: "daylight-factor"
  const char* name; ///< as shown: "Daylight factor"
  const char* unit; ///< "%", "lx", "h"
  SettingsOf settings;
  AnswerOf answer;
  const char* uses;  ///< keys of those settings that it goes by, with blanks between; "*": all
  bool inside;       ///< of light in rooms: what reflects, lets through and leaks counts
  bool judged;       ///< rules can be laid against it
  double threshold;  ///< what is usually asked of it, in its unit
  double step;       ///< of the slider of thresholds, in its unit
  double top;        ///< upper end of the strip; 0: by the values
  StudyKind rulesOf; ///< the kind whose rules are laid beside it
};

inline constexpr std::array<StudyKindFacts, 13> studyKinds{{
    {StudyKind::SunHours, "sun-hours", "Sun hours", "h", SettingsOf::SunHours, AnswerOf::SunHours, "*", false, true, 2,
     0.1, 0, StudyKind::SunHours},
    {StudyKind::DaylightFactor, "daylight-factor", "Daylight factor", "%", SettingsOf::Light, AnswerOf::Light,
     "error seed max-samples", true, true, 2, 0.1, 0, StudyKind::DaylightFactor},
    {StudyKind::Illuminance, "illuminance", "Illuminance", "lx", SettingsOf::Light, AnswerOf::Light,
     "sky error seed max-samples", true, false, 300, 1, 0, StudyKind::Illuminance},
    {StudyKind::SkyView, "sky-view", "Sky view factor", "%", SettingsOf::Light, AnswerOf::Light, "seed max-samples",
     false, false, 50, 0.1, 100, StudyKind::SkyView},
    {StudyKind::Vsc, "vsc", "Vertical sky component", "%", SettingsOf::Light, AnswerOf::Light, "seed max-samples",
     false, true, 27, 0.1, 40, StudyKind::Vsc},
    {StudyKind::NoSkyLine, "no-sky-line", "No-sky line", "%", SettingsOf::Light, AnswerOf::Light, "seed max-samples",
     false, true, 50, 0.1, 100, StudyKind::NoSkyLine},
    {StudyKind::SunlightYear, "sunlight-year", "Annual probable sunlight (APSH)", "%", SettingsOf::Light,
     AnswerOf::Light, "sunshine", false, true, 25, 0.1, 0, StudyKind::SunlightYear},
    {StudyKind::SunlightWinter, "sunlight-winter", "Winter probable sunlight (WPSH)", "%", SettingsOf::Light,
     AnswerOf::Light, "sunshine", false, true, 5, 0.1, 0, StudyKind::SunlightYear},
    {StudyKind::Irradiation, "irradiation", "Irradiation", "kWh/m²", SettingsOf::Light, AnswerOf::Light,
     "sky season amount error seed max-samples", true, true, 900, 10, 0, StudyKind::Irradiation},
    {StudyKind::Glare, "glare", "Glare of the year", "%", SettingsOf::Year, AnswerOf::Light,
     "glare-limit blinds schedule error weekdays clock-changes closes-at closes-above closes-at-irradiance "
     "closes-at-glare shut blinds-of fabric-direct fabric-diffuse fabric-reflectance glass-kept illuminance "
     "glare-source seed",
     true, true, 5, 0.1, 0, StudyKind::Glare},
    {StudyKind::ViewOut, "view", "View out", "", SettingsOf::Light, AnswerOf::Light, "view-figure", true, true, 1, 1, 0,
     StudyKind::ViewOut},
    {StudyKind::Energy, "energy", "Energy of the year", "kWh/m²", SettingsOf::Year, AnswerOf::Light,
     "blinds error closes-at closes-above closes-at-irradiance closes-at-glare shut blinds-of fabric-direct "
     "fabric-diffuse fabric-reflectance glass-kept illuminance seed",
     true, false, 50, 1, 0, StudyKind::Energy},
    {StudyKind::Year, "year", "Daylight year", "%", SettingsOf::Year, AnswerOf::Year,
     "threshold blinds schedule stop-when-certain provision-reading confidence error weekdays clock-changes "
     "share-of-hours ase-threshold ase-hours closes-at closes-above closes-at-irradiance closes-at-glare shut "
     "blinds-of "
     "fabric-direct fabric-diffuse fabric-reflectance useful glass-kept illuminance steps seed",
     true, true, 50, 0.1, 0, StudyKind::Year},
}};

constexpr const StudyKindFacts& factsOf(StudyKind kind) {
  for (const StudyKindFacts& f : studyKinds)
    if (f.kind == kind) return f;
  throw std::logic_error("a kind of study has no row");
}
/// A year takes seconds: it is shown where it was run, and not run unasked.
constexpr bool runsWhenAsked(StudyKind kind) {
  return factsOf(kind).settings == SettingsOf::Year;
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
