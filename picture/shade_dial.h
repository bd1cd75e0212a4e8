#pragma once
// The sky as a window's glass has it: which share of the glass a sun in each direction would reach, what takes the
// rest, the sun's tracks, the hours in which sun is wanted or not, and the angles from which a part keeps it all out.
// For the window and for files (PNG, SVG, PDF).

#include "core/studies/shade.h"
#include "picture/dial_map.h"
#include "picture/theme.h"
#include <QImage>
#include <QPointF>
#include <QRectF>
#include <filesystem>
#include <optional>

class QPainter;

namespace noonward {

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
