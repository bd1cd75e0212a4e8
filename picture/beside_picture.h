#pragma once
// Designs beside each other, painted: plans at one scale and one legend, below each what it has more or less than the
// first, and bars of the figures.

#include "core/runs/beside.h"
#include "picture/cells.h"
#include <QPainter>
#include <optional>

namespace noonward {

struct BesideView {
  YearMetric metric = YearMetric::Autonomy;
  std::optional<double> storey; ///< m; the lowest where absent
  DisplayUnits units;
  std::string place, project; ///< for what leaves the program
};
/// What is mapped of each design, in the units preferred; null where there is none, or where it lies on no plane.
std::vector<std::shared_ptr<const SensorField>> besideMaps(const Beside& beside, const BesideView& view);
/// The plan of each; beside that of the first what the others have more or less than it; or both, in two rows.
enum class BesidePlans { Each, Moves, Both };
void paintBesidePlans(QPainter& painter, QRectF area, const Beside& beside, const BesideView& view, BesidePlans plans,
                      const Theme& theme);
/// The figures of all of it (not of single spaces), a bar for each design, with errors. Returns the height it needs at
/// this width; paints nothing where `painter` is null.
double paintBesideBars(QPainter* painter, QRectF area, const Beside& beside, const BesideView& view,
                       const Theme& theme);
/// "61.2 %", "+4.1", "≈" within the error; in the units preferred. Empty where there is no figure.
QString besideFigureText(const BesideFigure& figure, std::size_t design, const BesideView& view);
QString besideMovedText(const BesideFigure& figure, std::size_t design, const BesideView& view);
/// One page with plans, bars and table: .png, .svg or .pdf by the file's ending.
Outcome saveBesidePage(const Beside& beside, const BesideView& view, const std::filesystem::path& file);

} // namespace noonward
