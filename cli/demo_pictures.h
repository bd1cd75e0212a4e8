#pragma once
// Pictures that come with the demo, made here: a photograph of the flats to straighten, a crooked scan of the library's
// plan, and the quarter from above with its world file.

#include "core/files/save_file.h"
#include "core/model/project.h"

namespace noonward::cli {

/// "ropewalk-flats.jpg", "library-plan.png" and "brevholm-aerial.jpg" with .jgw and .prj. Errors: a file that can't be
/// written.
Outcome writeDemoPictures(const Project& ropewalkQuay, const Project& quarter, const std::filesystem::path& folder);

} // namespace noonward::cli
