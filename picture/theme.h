#pragma once
// Our colours, typefaces and result palettes, for the window and for pictures. Palettes are built in OKLCH: lightness
// strictly rising, readable in grey print and for colour-blind readers.

#include "core/studies/palette.h"
#include <QColor>
#include <QFont>
#include <QString>

namespace noonward {

struct Theme {
  bool dark = false;
  QColor paper, raised, ink, muted, rule, noon, meets, short_, night, stage, ground, shadow;
  QColor faceLit, faceShade, proposedLit, proposedShade, leftOut, edge;
  QColor noonText; ///< the accent as letters: dark enough to be read
  static const Theme& light();
  static const Theme& darkTheme();
};

/// Registers the fonts that ship; true if all were found.
bool loadFonts(const QString& resources);
QFont titleFont(double pixels);                       ///< Vollkorn
QFont textFont(double pixels, bool strong = false);   ///< Inter
QFont figureFont(double pixels, bool strong = false); ///< B612, shipped as "Noonward Figures"

/// t of b in a.
QColor mixed(const QColor& a, const QColor& b, double t);

/// t from 0 to 1; outside is clamped (the caller hatches).
QColor paletteColor(Palette palette, double t);

} // namespace noonward
