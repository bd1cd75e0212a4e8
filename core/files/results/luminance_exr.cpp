#include "core/files/results/luminance_exr.h"
#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfInputFile.h>
#include <ImfOutputFile.h>
#include <ImfStringAttribute.h>
#include <cmath>

namespace noonward {

Outcome writeLuminanceExr(const std::filesystem::path& file, int width, int height, const std::vector<float>& luminance,
                          const std::map<std::string, std::string>& facts) {
  require(luminance.size() == std::size_t(width) * std::size_t(height), "writeLuminanceExr: a value for every pixel");
  std::vector<float> values = luminance;
  for (float& v : values)
    if (!std::isfinite(v)) v = 0;
  const std::filesystem::path part = file.string() + ".part";
  try {
    Imf::Header header(width, height);
    header.channels().insert("Y", Imf::Channel(Imf::FLOAT));
    for (const auto& [key, text] : facts) header.insert(key, Imf::StringAttribute(text));
    {
      Imf::OutputFile out(part.string().c_str(), header);
      Imf::FrameBuffer frame;
      frame.insert("Y", Imf::Slice(Imf::FLOAT, reinterpret_cast<char*>(values.data()), sizeof(float),
                                   sizeof(float) * std::size_t(width)));
      out.setFrameBuffer(frame);
      out.writePixels(height);
    }
    std::filesystem::rename(part, file);
  } catch (const std::exception& e) {
    std::error_code gone;
    std::filesystem::remove(part, gone);
    return fail("The picture could not be written: " + std::string(e.what()) + ".", file.string());
  }
  return {};
}

Expected<LuminanceExr> readLuminanceExr(const std::filesystem::path& file) {
  try {
    Imf::InputFile in(file.string().c_str());
    const auto box = in.header().dataWindow();
    LuminanceExr out;
    out.width = box.max.x - box.min.x + 1;
    out.height = box.max.y - box.min.y + 1;
    if (!in.header().channels().findChannel("Y") || out.width > 1 << 15 || out.height > 1 << 15)
      return fail("No luminance (channel Y) of a size that can be read is in it.", file.string());
    out.luminance.resize(std::size_t(out.width) * std::size_t(out.height));
    Imf::FrameBuffer frame;
    const std::ptrdiff_t begin = box.min.x + std::ptrdiff_t(box.min.y) * out.width;
    frame.insert("Y", Imf::Slice(Imf::FLOAT, reinterpret_cast<char*>(out.luminance.data() - begin), sizeof(float),
                                 sizeof(float) * std::size_t(out.width)));
    in.setFrameBuffer(frame);
    in.readPixels(box.min.y, box.max.y);
    for (auto a = in.header().begin(); a != in.header().end(); ++a)
      if (const auto* text = dynamic_cast<const Imf::StringAttribute*>(&a.attribute()))
        out.facts[a.name()] = text->value();
    return out;
  } catch (const std::exception& e) {
    return fail("The picture can't be read: " + std::string(e.what()) + ".", file.string());
  }
}

} // namespace noonward
