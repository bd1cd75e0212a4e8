#pragma once
// A page that is painted once and leaves as PNG, SVG or PDF.

#include "core/base/error.h"
#include <QPainter>
#include <QSizeF>
#include <filesystem>
#include <functional>
#include <vector>

namespace noonward {

struct PaperSheet {
  QSizeF size;       ///< in points of the painting: 1/96 inch on paper
  QString title;     ///< of the document
  double pixels = 2; ///< of a PNG, for each point
};
/// Paints its pages and saves the file; the kind goes by its ending, and only a PDF has several. Needs an application
/// (PaintingWithoutWindow). Errors: another ending, a file that can't be written.
Outcome writePaper(const std::filesystem::path& file, const PaperSheet& paper,
                   const std::vector<std::function<void(QPainter&)>>& pages);

} // namespace noonward
