#include "exr.h"

#include <ImfFrameBuffer.h>
#include <ImfInputPart.h>
#include <ImfMultiPartInputFile.h>
#include <ImfPartType.h>
#include <ImfStandardAttributes.h>
#include <ImfThreading.h>

#include <algorithm>
#include <cstring>
#include <stdexcept>

namespace shale {

namespace {

constexpr int64_t mostPixels = int64_t(1) << 29;

const char* typeName(Imf::PixelType type) {
  return type == Imf::HALF ? "half" : type == Imf::FLOAT ? "float" : "uint";
}

void copyBox(const Imath::Box2i& box, int (&out)[4]) {
  out[0] = box.min.x;
  out[1] = box.min.y;
  out[2] = box.max.x;
  out[3] = box.max.y;
}

// Width and height of a window, refused where no picture can be that large.
std::pair<int64_t, int64_t> sizeOf(const Imath::Box2i& box) {
  const int64_t width = int64_t(box.max.x) - box.min.x + 1;
  const int64_t height = int64_t(box.max.y) - box.min.y + 1;
  if (width < 1 || height < 1 || width > 65536 || height > 65536 || width * height > mostPixels)
    throw std::runtime_error("its size is " + std::to_string(width) + " x " + std::to_string(height) + " pixels, more than Shale takes");
  return {width, height};
}

}  // namespace

std::vector<Part> readParts(const std::string& path) {
  Imf::MultiPartInputFile file(path.c_str(), 0);
  std::vector<Part> parts;
  for (int index = 0; index < file.parts(); ++index) {
    const Imf::Header& header = file.header(index);
    Part part;
    part.name = header.hasName() ? header.name() : "";
    part.tiled = header.hasTileDescription();
    const std::string type = header.hasType() ? header.type() : "";
    part.deep = type == Imf::DEEPSCANLINE || type == Imf::DEEPTILE;
    part.compression = compressionName(header.compression());
    copyBox(header.dataWindow(), part.dataWindow);
    copyBox(header.displayWindow(), part.displayWindow);
    for (auto it = header.channels().begin(); it != header.channels().end(); ++it)
      part.channels.push_back({it.name(), typeName(it.channel().type), it.channel().xSampling, it.channel().ySampling});
    part.attributes = attributesOf(header);
    part.complete = file.partComplete(index);
    parts.push_back(std::move(part));
  }
  return parts;
}

Pixels readPixels(const std::string& path, int index, const std::vector<std::string>& channels, bool isFloat) {
  Imf::MultiPartInputFile file(path.c_str(), Imf::globalThreadCount());
  if (index < 0 || index >= file.parts()) throw std::runtime_error("it has no part " + std::to_string(index));
  if (!file.partComplete(index)) throw std::runtime_error("it is cut short: not all of its picture is there");
  const Imf::Header& header = file.header(index);
  const Imath::Box2i data = header.dataWindow();
  const Imath::Box2i display = header.displayWindow();
  const auto [dataWidth, dataHeight] = sizeOf(data);
  const auto [width, height] = sizeOf(display);

  const size_t bytes = isFloat ? 4 : 2;
  const size_t pixel = bytes * channels.size();
  Pixels result{int(width), int(height), int(channels.size()), isFloat, {}};
  const bool same = data == display;
  std::vector<char> whole(size_t(dataWidth * dataHeight) * pixel);

  const Imf::PixelType type = isFloat ? Imf::FLOAT : Imf::HALF;
  const size_t row = pixel * size_t(dataWidth);
  // The library takes the address of pixel (0, 0), which may lie outside the buffer.
  char* origin = whole.data() - ptrdiff_t(data.min.x) * ptrdiff_t(pixel) - ptrdiff_t(data.min.y) * ptrdiff_t(row);
  Imf::FrameBuffer buffer;
  for (size_t at = 0; at < channels.size(); ++at) {
    if (channels[at].empty()) {
      for (size_t p = 0; p < size_t(dataWidth * dataHeight); ++p) {
        char* sample = whole.data() + p * pixel + at * bytes;
        if (isFloat) { const float one = 1.0f; std::memcpy(sample, &one, 4); }
        else { const uint16_t one = 0x3c00; std::memcpy(sample, &one, 2); }
      }
      continue;
    }
    const Imf::Channel* channel = header.channels().findChannel(channels[at].c_str());
    if (!channel) throw std::runtime_error("it has no channel " + channels[at]);
    if (channel->xSampling != 1 || channel->ySampling != 1)
      throw std::runtime_error("its channel " + channels[at] + " is subsampled, which Shale does not read");
    buffer.insert(channels[at], Imf::Slice(type, origin + at * bytes, pixel, row));
  }
  Imf::InputPart part(file, index);
  part.setFrameBuffer(buffer);
  part.readPixels(data.min.y, data.max.y);
  if (same) {
    result.data = std::move(whole);
    return result;
  }
  result.data.assign(size_t(width * height) * pixel, 0);
  const int left = std::max(data.min.x, display.min.x);
  const int right = std::min(data.max.x, display.max.x);
  for (int y = std::max(data.min.y, display.min.y); left <= right && y <= std::min(data.max.y, display.max.y); ++y) {
    const char* from = whole.data() + size_t(y - data.min.y) * row + size_t(left - data.min.x) * pixel;
    char* to = result.data.data() + (size_t(y - display.min.y) * size_t(width) + size_t(left - display.min.x)) * pixel;
    std::memcpy(to, from, size_t(right - left + 1) * pixel);
  }
  return result;
}

}  // namespace shale
