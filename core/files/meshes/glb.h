#pragma once
// The container of binary glTF 2.0: a JSON chunk and one buffer.

#include "core/base/json.h"

namespace noonward {

std::string glbFile(const Json& root, const std::string& data);

} // namespace noonward
