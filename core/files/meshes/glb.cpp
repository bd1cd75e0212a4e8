#include "core/files/meshes/glb.h"

namespace noonward {

namespace {
void putWord(std::string& out, std::uint32_t v) {
  out.append(reinterpret_cast<const char*>(&v), 4);
}
} // namespace

std::string glbFile(const Json& root, const std::string& given) {
  std::string text = root.dump(-1, ' ', false, Json::error_handler_t::replace), data = given;
  text.resize((text.size() + 3) / 4 * 4, ' ');
  data.resize((data.size() + 3) / 4 * 4, '\0');
  std::string out = "glTF";
  putWord(out, 2);
  putWord(out, std::uint32_t(12 + 8 + text.size() + 8 + data.size()));
  putWord(out, std::uint32_t(text.size()));
  out += "JSON" + text;
  putWord(out, std::uint32_t(data.size()));
  return out + std::string("BIN\0", 4) + data;
}

} // namespace noonward
