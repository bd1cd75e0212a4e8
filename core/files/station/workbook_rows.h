#pragma once
// The first sheet of a workbook (XLSX, ISO/IEC 29500) as rows of text. Numbers have the digits of the file; dates are
// days since 30 December 1899, as the file counts them.

#include "core/base/error.h"
#include <filesystem>
#include <vector>

namespace noonward {

/// Errors: no workbook, no sheet in it, a sheet of more than 256 MB, days counted from 1904 on (save it as CSV).
Expected<std::vector<std::vector<std::string>>> workbookRows(const std::filesystem::path& path);

} // namespace noonward
