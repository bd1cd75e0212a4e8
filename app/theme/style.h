#pragma once
// Turns a Theme into the look of widgets.

#include "core/base/units.h"
#include "picture/theme.h"
#include <QString>
#include <initializer_list>
#include <utility>

class QApplication;
class QWidget;

namespace noonward {

/// The theme in force; views read it when they paint.
const Theme& theme();
/// `resources`: the folder with icons; kept for later calls where empty.
void applyTheme(QApplication& app, const Theme& theme, const QString& resources = {});

/// "27.9 fc" for 300 lx, where light is shown in foot-candles.
QString shownQuantity(double si, int digits, const char* unit, const DisplayUnits& units);
/// One sentence of help for each field, under the pointer and for readers of the screen.
void explain(std::initializer_list<std::pair<QWidget*, const char*>> sentences);
/// "1 room", "3 rooms".
QString countText(std::size_t n, const char* one, const char* more = nullptr);

} // namespace noonward
