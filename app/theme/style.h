#pragma once
// Turns a Theme into the look of widgets.

#include "picture/theme.h"
#include <QIcon>
#include <QString>

class QApplication;

namespace noonward {

/// The theme in force; views read it when they paint.
const Theme& theme();
void applyTheme(QApplication& app, const Theme& theme);
/// Line icons that ship, drawn in the colour asked for.
QIcon lineIcon(const QString& resources, const QString& name, const QColor& color);

} // namespace noonward
