#pragma once
// Measurements of the window itself, printed as JSON lines for `noonward-cli bench window`.

#include "app/shell/main_window.h"

namespace noonward {

/// "demo": start, frames, live edit. "city": a million triangles from a file. Prints and quits the application.
void measureWindow(MainWindow& window, const QString& what, double secondsSinceStart);

} // namespace noonward
