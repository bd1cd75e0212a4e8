#pragma once
// The sky as a window's glass has it: which share of the glass a sun in each direction would reach, what takes the
// rest, the sun's tracks, the hours in which sun is wanted or not, and the angles from which a part keeps it all out.
// For the window and for files (PNG, SVG, PDF).

#include "core/studies/shade.h"
#include "picture/theme.h"
#include <QImage>
#include <QPointF>
#include <QRectF>
#include <filesystem>
#include <optional>

class QPainter;

namespace noonward {

/// Plans of the dome, zenith in the middle, or a flat chart of azimuth and altitude.
enum class DialProjection { Equidistant, Stereographic, Orthographic, Flat };
inline constexpr std::array<DialProjection, 4> allProjections{
    DialProjection::Equidistant, DialProjection::Stereographic, DialProjection::Orthographic, DialProjection::Flat};
const char* projectionKey(DialProjection projection); ///< "equidistant"
std::optional<DialProjection> projectionFromKey(std::string_view key);

/// Directions of the sky (rad, true azimuth) to points of a picture and back.
struct DialMap {
  DialProjection projection = DialProjection::Equidistant;
  QRectF frame;       ///< of the dome's circle, or of the chart
  double middle = pi; ///< rad, azimuth in the middle of a flat chart
  QPointF at(double azimuth, double altitude) const;
  std::optional<std::pair<double, double>> from(QPointF point) const; ///< azimuth, altitude; nothing outside
};

struct DialPicture {
  std::shared_ptr<const ShadeMask> mask; ///< may be null
  std::vector<SunMoment> moments;        ///< with wishes
  std::shared_ptr<const SunKnots> knots; ///< of the year, kept between pictures; made anew where null
  Place place;
  Zone zone;
  int year = 2026;
  double northAngle = 0;
  std::optional<double> outward; ///< rad, true azimuth of the wall's normal; none: it looks up
  CutOff cutOff;
  Instant moment;
};

/// Everything within `map.frame`, figures and letters round it (18 px). `drawn`: the mask's image, kept by the caller
/// between calls; made anew where null or of another size.
void paintShadeDial(QPainter& painter, const DialMap& map, const DialPicture& picture, const Theme& theme,
                    QImage* drawn = nullptr);
/// What colours and dots stand for, in one or two lines.
void paintDialKey(QPainter& painter, const QRectF& frame, const Theme& theme);

/// The share of a window's glass in sun through a day, over the hours in which the sun stands before it.
void paintGlassDay(QPainter& painter, const QRectF& frame, const GlassDay& day, double step, const Theme& theme,
                   std::optional<double> now);
/// "some of the glass in sun 6:12–9:40 and 15:03–18:20; all of it in shade 5 h 23 min"
QString glassDayText(const GlassDay& day);

/// A page with title, dial, key and figures, as a file. The kind by its ending: .png, .svg, .pdf.
Outcome exportShadeDial(const Project& project, OpeningId window, DialProjection projection, Instant moment,
                        const std::filesystem::path& file);

} // namespace noonward
