#pragma once
// Facade sheets: each side of a building seen square on, in parallel projection and at one scale, at chosen hours of
// chosen days, with the share of its glass in shade beneath; several options above each other. One document, and one
// picture an hour named by side, date and 24-hour time.

#include "core/base/run_control.h"
#include "core/studies/shade.h"
#include "picture/camera.h"
#include "picture/theme.h"
#include <QImage>
#include <QSizeF>
#include <filesystem>

class QPainter;

namespace noonward {

struct SheetRequest {
  std::vector<ElementId> of;       ///< buildings; empty: those with windows, else those proposed, else all
  std::vector<Facing> sides;       ///< empty: every side that has a wall
  std::vector<Date> dates;         ///< empty: longest day, equinox, shortest day
  std::vector<double> minutes;     ///< of the clock; empty: 8:00 to 18:00 by two hours
  std::vector<std::size_t> beside; ///< options compared, by index; empty: the one in hand
  double pixels = 2;               ///< of pictures, for each point of the page (1/96 inch)
};

struct SheetCell {
  Instant moment;
  std::string date, clock;        ///< "21 Jun", "14:00"
  std::string stamp;              ///< "2026-06-21-1400", in names of files
  bool up = false, front = false; ///< the sun above the horizon; before the wall
  std::optional<double> shaded; ///< share of the side's glass in shade; nothing where there is no glass or no sun on it
  QImage image;
  std::string text() const; ///< "14:00 · 63 % of the glass in shade"
};
struct SheetRow {
  std::string label;  ///< "21 Jun", with the option's name where there are several
  std::string option; ///< in names of files; empty where there is one
  std::vector<SheetCell> cells;
};
struct SheetPage {
  Facing side = Facing::South;
  std::string title; ///< "South side"
  double glass = 0;  ///< m²
  std::vector<SheetRow> rows;
};
struct FacadeSheet {
  std::string project, line, fingerprint; ///< line: place, north
  double metresPerPoint = 0;              ///< of every picture
  QSizeF cell;                            ///< of every picture, in points
  std::size_t columns = 1;
  std::vector<SheetPage> pages;
};

/// Everything made, ready to be painted. Errors: no building, no such side, hours that are none, stopped.
Expected<FacadeSheet> makeFacadeSheet(const Project& project, const SheetRequest& request, RunControl& control);

QSizeF sheetPaper(); ///< A3 lying, in points of 1/96 inch
void paintSheetPage(QPainter& painter, const FacadeSheet& sheet, std::size_t page, const Theme& theme);
/// .pdf: every page; .png, .svg: a file a page, with the side in its name where there are several.
Outcome writeFacadeSheet(const FacadeSheet& sheet, const std::filesystem::path& file);
/// A PNG an hour: "south-2026-06-21-1400.png", with the option after the side where there are several. Returns how
/// many.
Expected<std::size_t> writeSheetPictures(const FacadeSheet& sheet, const std::filesystem::path& folder);

} // namespace noonward
