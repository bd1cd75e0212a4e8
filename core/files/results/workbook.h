#pragma once
// Spreadsheets out (xlsx): plain sheets with a bold head, numbers as numbers.

#include "core/base/error.h"
#include <filesystem>
#include <string>
#include <variant>
#include <vector>

namespace noonward {

struct WorkSheet {
  std::string name; ///< at most 31 letters
  std::vector<std::string> head;
  std::vector<std::vector<std::variant<std::string, double>>>
      rows; ///< a number that is not finite leaves its cell empty
};
/// Written beside and put in place in one step.
Outcome writeWorkbook(const std::filesystem::path& path, const std::vector<WorkSheet>& sheets,
                      const std::string& title);

} // namespace noonward
