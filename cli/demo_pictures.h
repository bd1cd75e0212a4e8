#pragma once
// Pictures that come with the demo, made here: a photograph of the flats to straighten, a crooked scan of the library's
// plan.

#include "core/files/save_file.h"
#include "core/model/project.h"

namespace noonward::cli {

/// "ropewalk-flats.jpg" and "library-plan.png". Errors: a file that can't be written.
Outcome writeDemoPictures(const Project& ropewalkQuay, const std::filesystem::path& folder);

} // namespace noonward::cli
