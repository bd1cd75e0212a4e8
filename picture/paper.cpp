#include "picture/paper.h"
#include "core/files/save_file.h"
#include <QBuffer>
#include <QImage>
#include <QPageSize>
#include <QPdfWriter>
#include <QSvgGenerator>
#include <cmath>

namespace noonward {

Outcome writePaper(const std::filesystem::path& file, const PaperSheet& paper,
                   const std::vector<std::function<void(QPainter&)>>& pages) {
  const std::string kind = file.extension().string();
  if (pages.empty() || (pages.size() > 1 && kind != ".pdf"))
    return fail("Only a PDF has several pages.", file.string());
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  if (kind == ".png") {
    QImage image((paper.size * paper.pixels).toSize(), QImage::Format_RGB32);
    if (image.isNull()) return fail("The picture is too large to be made.", file.string());
    image.setDotsPerMeterX(int(std::lround(96 * paper.pixels / 0.0254)));
    image.setDotsPerMeterY(image.dotsPerMeterX());
    image.setText("Title", paper.title);
    image.fill(Qt::white);
    QPainter p(&image);
    p.scale(paper.pixels, paper.pixels);
    pages.front()(p);
    p.end();
    if (!image.save(&buffer, "PNG")) return fail("The picture could not be encoded.", file.string());
  } else if (kind == ".svg") {
    QSvgGenerator svg;
    svg.setOutputDevice(&buffer);
    svg.setSize(paper.size.toSize());
    svg.setViewBox(QRectF(QPointF(0, 0), paper.size));
    svg.setTitle(paper.title);
    QPainter p(&svg);
    pages.front()(p);
  } else if (kind == ".pdf") {
    QPdfWriter pdf(&buffer);
    pdf.setPageSize(QPageSize(paper.size * 0.75, QPageSize::Point));
    pdf.setPageMargins(QMarginsF(0, 0, 0, 0));
    pdf.setResolution(300);
    pdf.setTitle(paper.title);
    pdf.setCreator("Noonward " NOONWARD_VERSION);
    QPainter p(&pdf);
    p.scale(300 / 96.0, 300 / 96.0);
    for (std::size_t k = 0; k < pages.size(); ++k) {
      if (k > 0) pdf.newPage();
      pages[k](p);
    }
  } else {
    return fail("A page is written as .png, .svg or .pdf.", file.string());
  }
  buffer.close();
  return saveFile(file, std::string_view(bytes.constData(), std::size_t(bytes.size())));
}

} // namespace noonward
