#pragma once
// Luminance pictures with their true values: OpenEXR, one float channel Y in cd/m², rows from the top.

#include "core/base/error.h"
#include <filesystem>
#include <map>
#include <string>
#include <vector>

namespace noonward {

/// `facts`: text attributes of the header (projection, direction, moment). Places without a value become 0. Errors: a
/// file that can't be written; nothing is left of a broken one.
Outcome writeLuminanceExr(const std::filesystem::path& file, int width, int height, const std::vector<float>& luminance,
                          const std::map<std::string, std::string>& facts);
struct LuminanceExr {
  int width = 0, height = 0;
  std::vector<float> luminance;
  std::map<std::string, std::string> facts;
};
Expected<LuminanceExr> readLuminanceExr(const std::filesystem::path& file);

} // namespace noonward
