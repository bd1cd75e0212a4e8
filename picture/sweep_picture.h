#pragma once
// A sweep at one look, in three ways: what each variable does to each figure; a line across all variables and figures
// for each run, of which stretches can be picked; two figures against each other with the edge of the best. Geometry is
// apart from painting, so that the window finds runs and axes under the pointer. Sizes in points of the painting.

#include "core/runs/sweep/sweep_reading.h"
#include "picture/theme.h"
#include <QPainter>

namespace noonward {

struct SweepView {
  enum class Way { Effects, Across, Pair } way = Way::Effects;
  std::size_t one = 0, other = 1; ///< outcomes of Pair
  /// Of Across: for each axis, variables first, the stretch picked, 0…1 from its low end up.
  std::vector<std::optional<std::pair<double, double>>> picked;
  std::optional<std::size_t> chosen; ///< index of the table's rows
};

struct SweepAxis {
  std::string name, unit;
  bool outcome = false;
  std::vector<std::string> levels; ///< of a variable's values where they are no numbers
  double low = 0, high = 1;        ///< otherwise
  double x = 0, top = 0, bottom = 0;
  /// Where a row lies on it, 0…1 from the low end; NaN where it has no figure.
  double at(const SweepTable& table, const SweepRow& row, std::size_t index) const;
};

/// Where things lie of a way within an area.
class SweepMap {
public:
  SweepMap(const SweepTable& table, const SweepView& view, QRectF area);
  const std::vector<SweepAxis>& axes() const { return axes_; } ///< of Across
  std::optional<std::size_t> axisAt(QPointF p) const;
  /// The row drawn nearest, within 8 points; not of Effects.
  std::optional<std::size_t> rowAt(QPointF p) const;
  QPointF place(std::size_t row, std::size_t axis) const; ///< of Across
  QPointF pair(std::size_t row) const;                    ///< of Pair
  bool kept(std::size_t row) const;                       ///< within all stretches picked
  QRectF plot() const { return plot_; }
  double low(bool other) const { return other ? low_[1] : low_[0]; }
  double high(bool other) const { return other ? high_[1] : high_[0]; }

private:
  const SweepTable& table_;
  const SweepView& view_;
  QRectF plot_;
  std::vector<SweepAxis> axes_;
  std::array<double, 2> low_{}, high_{};
};

void paintSweep(QPainter& painter, QRectF area, const SweepTable& table, const SweepView& view, const Theme& theme);
/// What is drawn, in a sentence or two.
QString sweepText(const SweepTable& table, const SweepView& view);

/// The three ways below each other, with title and what came of it, as PNG, SVG or PDF by the file's ending.
Outcome saveSweepPage(const SweepTable& table, const std::filesystem::path& file);

} // namespace noonward
