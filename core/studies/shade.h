#pragma once
// What shading does at each window: the share of unwanted sun it keeps out of the glass, of wanted sun it takes, of the
// sky and of the view; the glass in sun through a day; and the least part that keeps out so much.
//
// Rays from points spread evenly over each pane (cell middles of an n × n grid) to the sun's middle at every step of
// the year in which sun is wanted or not; the real geometry answers: finite ends, reveals, neighbours, other shading.
// "Bare": with everything but what has the role of shading. Shares are of the glass area in sun, summed over time;
// weighted by the weather's direct normal irradiance and the angle on the pane they are energy.

#include "core/base/parallel.h"
#include "core/base/run_control.h"
#include "core/light/scene.h"
#include "core/model/rooms/placing.h"
#include "core/model/settings/sun_wishes.h"
#include "core/sun/intervals.h"

namespace noonward {

struct ShadeSettings {
  int stepMinutes = 15; ///< between moments, each in the middle of its step
  int points = 6;       ///< n × n on each pane
};

/// A moment of the year with the sun up and a wish.
struct SunMoment {
  Vec3 direction; ///< unit, in the model's axes
  SunWish wish = SunWish::None;
  float hours = 0; ///< that it stands for
  float beam = 0;  ///< W/m² direct normal; 0 without weather
};
/// Of a whole weather year, or null.
SunWishes::Hour hourOf(const Weather* weather, Instant moment);
/// Of the project's year. Errors: no such zone.
Expected<std::vector<SunMoment>> sunMoments(const Project& project, const ShadeSettings& settings = {});

/// Sun on the glass of a window in the hours of one wish, h of the whole glass.
struct GlassSun {
  double open = 0;                     ///< as if nothing stood before it: the sun up and in front
  double bare = 0;                     ///< with all but shading
  double shaded = 0;                   ///< with all
  double bareBeam = 0, shadedBeam = 0; ///< kWh/m² of direct sun on the glass; 0 without weather
  /// Of the sun that would come, the share that shading takes; 0 where none comes.
  double taken() const { return bare > 0 ? 1 - shaded / bare : 0; }
  double takenByNeighbours() const { return open > 0 ? 1 - bare / open : 0; }
};
struct WindowShade {
  std::size_t room = 0; ///< index in the project
  OpeningId opening;
  std::string name; ///< "Reading room: Window 2"
  std::optional<Facing> facing;
  double area = 0; ///< m²
  GlassSun keepOut, letIn;
  double sky = 1;  ///< light of an overcast sky on the glass with shading, against without
  double view = 1; ///< of the field straight out (60° to both sides, 30° up and down), the share shading leaves free
};
struct ShadeReport {
  std::vector<WindowShade> windows;
  bool hasWeather = false;
  /// All windows that a test takes as one, weighted by their glass.
  WindowShade sum(const std::function<bool(const WindowShade&)>& takes) const;
};
/// Windows in walls and rooflights of rooms; `only`: these alone, all where empty.
Expected<ShadeReport> shadeReport(const Project& project, const ShadeSettings& settings = {},
                                  const std::vector<OpeningId>& only = {}, RunControl* control = nullptr,
                                  Threads threads = {});

// ---- through a day --------------------------------------------------------------------------------------------------

struct GlassDay {
  std::size_t room = 0;
  OpeningId opening;
  std::string name;
  std::vector<float> share; ///< of the glass in sun, 0…1, at each step of the day
  Intervals inFront;        ///< s from the civil midnight: the sun up and before the wall
  Intervals sun;            ///< some of the glass in sun, to a second
  Intervals shaded;         ///< the rest of `inFront`: all of it in shade
};
struct GlassDays {
  Date date;
  double step = 300; ///< s; step k stands at k · step from midnight
  std::vector<GlassDay> windows;
};
Expected<GlassDays> glassInSun(const Project& project, Date date, double stepSeconds = 300, int points = 8,
                               const std::vector<OpeningId>& only = {}, Threads threads = {});

struct GlassShares {
  std::size_t room = 0;
  OpeningId opening;
  double area = 0;          ///< m²
  std::vector<float> share; ///< of the glass in sun, at each moment
};
/// At any moments, window by window.
Expected<std::vector<GlassShares>> glassShares(const Project& project, const std::vector<Instant>& moments,
                                               const std::vector<OpeningId>& only = {}, int points = 8,
                                               Threads threads = {});

// ---- the dial -------------------------------------------------------------------------------------------------------

/// For every direction of the sky, the share of a window's glass that a sun there would reach.
struct ShadeMask {
  static constexpr int azimuths = 360, altitudes = 90; ///< cells of 1°, sampled in their middle; true azimuth
  std::vector<float> bare, shaded;                     ///< altitude-major; −1 behind the wall
  double at(const std::vector<float>& values, double azimuth, double altitude) const; ///< rad, interpolated
};
Expected<ShadeMask> shadeMask(const Project& project, OpeningId opening, int points = 6, Threads threads = {});
/// The report's figures of a wish out of a mask instead of rays of its own.
GlassSun sunByMask(const ShadeMask& mask, const std::vector<SunMoment>& moments, SunWish wish, Vec3 outward,
                   double northAngle);

// ---- sizing ---------------------------------------------------------------------------------------------------------

struct ShadeSizing {
  RuleId rule;
  enum class What { Depth, Spacing } what = What::Depth; ///< the least depth, or the widest spacing
  double goal = 0.9;                                     ///< of the unwanted sun on its windows' glass, kept out
  double most = 3;                                       ///< m, largest depth or spacing tried
  std::vector<OpeningId> windows;                        ///< judged; empty: all it stands at
};
struct SizedShade {
  Project project;  ///< with the size put in
  double value = 0; ///< m
  bool reached = false;
  WindowShade before, after; ///< of its windows together: as the rule was, and as sized
  std::size_t windows = 0;
  int tried = 0; ///< geometries
};
/// By bisection to a millimetre, each try by rays on the real geometry. Errors: no such rule, no window, no unwanted
/// hours, no unwanted sun on the glass.
Expected<SizedShade> sizeShade(const Project& project, const ShadeSizing& sizing, const ShadeSettings& settings = {},
                               RunControl* control = nullptr, Threads threads = {});

} // namespace noonward
