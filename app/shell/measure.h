#pragma once
// Measurements of the window itself, printed as JSON lines for `noonward-cli bench window`.

#include "app/shell/main_window.h"

namespace noonward {

/// "demo": start, frames, live edit. "rooms": how long the window is held with 500 rooms. Else a million triangles from
/// a file. Prints and quits the application.
void measureWindow(MainWindow& window, const QString& what, double secondsSinceStart);

/// 500 rooms, five options, 200 000 triangles: the longest that the window's thread is held by one deed.
void measureRooms(MainWindow& window);

} // namespace noonward
