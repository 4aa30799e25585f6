#include "exr.h"

#include <ImfFrameBuffer.h>
#include <ImfInputPart.h>
#include <ImfMultiPartInputFile.h>
#include <ImfPartType.h>
#include <ImfRgbaFile.h>
#include <ImfStandardAttributes.h>
#include <ImfThreading.h>
#include <ImfVersion.h>

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

namespace {

// What of a picture over its data window is within its display window, 0 where it has none.
Pixels withinDisplay(Pixels pixels, const Imath::Box2i& data, const Imath::Box2i& display) {
  if (data == display) return pixels;
  const size_t pixel = size_t(pixels.channels) * (pixels.isFloat ? 4 : 2);
  const size_t row = pixel * size_t(pixels.width);
  const auto [width, height] = sizeOf(display);
  Pixels result{int(width), int(height), pixels.channels, pixels.isFloat, {}};
  result.data.assign(size_t(width * height) * pixel, 0);
  const int left = std::max(data.min.x, display.min.x);
  const int right = std::min(data.max.x, display.max.x);
  for (int y = std::max(data.min.y, display.min.y); left <= right && y <= std::min(data.max.y, display.max.y); ++y) {
    const char* from = pixels.data.data() + size_t(y - data.min.y) * row + size_t(left - data.min.x) * pixel;
    char* to = result.data.data() + (size_t(y - display.min.y) * size_t(width) + size_t(left - display.min.x)) * pixel;
    std::memcpy(to, from, size_t(right - left + 1) * pixel);
  }
  return result;
}

int divided(int value, int by) { return value >= 0 ? value / by : -((by - 1 - value) / by); }

// The samples of a subsampled channel, and where they begin.
struct Thin {
  size_t at;
  int xSampling;
  int ySampling;
  int left;
  int top;
  size_t width;
  std::vector<char> samples;
};

}  // namespace

Pixels readPixels(const std::string& path, int index, const std::vector<std::string>& channels, bool isFloat, bool whole) {
  Imf::MultiPartInputFile file(path.c_str(), Imf::globalThreadCount());
  if (index < 0 || index >= file.parts()) throw std::runtime_error("it has no part " + std::to_string(index));
  if (!file.partComplete(index)) throw std::runtime_error("it is cut short: not all of its picture is there");
  const Imf::Header& header = file.header(index);
  const Imath::Box2i data = header.dataWindow();
  const Imath::Box2i display = header.displayWindow();
  const auto [dataWidth, dataHeight] = sizeOf(data);
  sizeOf(display);

  const size_t bytes = isFloat ? 4 : 2;
  const size_t pixel = bytes * channels.size();
  Pixels result{int(dataWidth), int(dataHeight), int(channels.size()), isFloat, {}};
  result.data.resize(size_t(dataWidth * dataHeight) * pixel);

  const Imf::PixelType type = isFloat ? Imf::FLOAT : Imf::HALF;
  const size_t row = pixel * size_t(dataWidth);
  // The library takes the address of pixel (0, 0), which may lie outside the buffer.
  char* origin = result.data.data() - ptrdiff_t(data.min.x) * ptrdiff_t(pixel) - ptrdiff_t(data.min.y) * ptrdiff_t(row);
  Imf::FrameBuffer buffer;
  std::vector<Thin> thin;
  thin.reserve(channels.size());
  for (size_t at = 0; at < channels.size(); ++at) {
    if (channels[at].empty()) {
      for (size_t p = 0; p < size_t(dataWidth * dataHeight); ++p) {
        char* sample = result.data.data() + p * pixel + at * bytes;
        if (isFloat) { const float one = 1.0f; std::memcpy(sample, &one, 4); }
        else { const uint16_t one = 0x3c00; std::memcpy(sample, &one, 2); }
      }
      continue;
    }
    const Imf::Channel* channel = header.channels().findChannel(channels[at].c_str());
    if (!channel) throw std::runtime_error("it has no channel " + channels[at]);
    const int across = channel->xSampling;
    const int down = channel->ySampling;
    if (across == 1 && down == 1) {
      buffer.insert(channels[at], Imf::Slice(type, origin + at * bytes, pixel, row));
      continue;
    }
    const int left = divided(data.min.x, across);
    const int top = divided(data.min.y, down);
    const size_t width = size_t(divided(data.max.x, across) - left + 1);
    const size_t height = size_t(divided(data.max.y, down) - top + 1);
    thin.push_back({at, across, down, left, top, width, std::vector<char>(width * height * bytes)});
    char* first = thin.back().samples.data() - ptrdiff_t(left) * ptrdiff_t(bytes) - ptrdiff_t(top) * ptrdiff_t(width * bytes);
    buffer.insert(channels[at], Imf::Slice(type, first, bytes, width * bytes, across, down));
  }
  if (!Imf::isMultiPart(file.version()) && readsZip(header, channels, isFloat)) {
    readZip(path, header, channels, isFloat, result.data.data());
  } else {
    Imf::InputPart part(file, index);
    part.setFrameBuffer(buffer);
    part.readPixels(data.min.y, data.max.y);
  }
  for (const Thin& one : thin) {
    for (int y = data.min.y; y <= data.max.y; ++y) {
      const char* line = one.samples.data() + size_t(divided(y, one.ySampling) - one.top) * one.width * bytes;
      char* to = result.data.data() + size_t(y - data.min.y) * row + one.at * bytes;
      for (int x = data.min.x; x <= data.max.x; ++x, to += pixel)
        std::memcpy(to, line + size_t(divided(x, one.xSampling) - one.left) * bytes, bytes);
    }
  }
  return whole ? std::move(result) : withinDisplay(std::move(result), data, display);
}

Pixels readLuminance(const std::string& path, bool alpha, bool whole) {
  Imf::RgbaInputFile file(path.c_str(), Imf::globalThreadCount());
  if (!file.isComplete()) throw std::runtime_error("it is cut short: not all of its picture is there");
  const Imath::Box2i data = file.dataWindow();
  const Imath::Box2i display = file.displayWindow();
  const auto [width, height] = sizeOf(data);
  sizeOf(display);
  std::vector<Imf::Rgba> found(size_t(width * height));
  file.setFrameBuffer(found.data() - ptrdiff_t(data.min.x) - ptrdiff_t(data.min.y) * ptrdiff_t(width), 1, size_t(width));
  file.readPixels(data.min.y, data.max.y);
  const int channels = alpha ? 4 : 3;
  Pixels result{int(width), int(height), channels, false, {}};
  result.data.resize(found.size() * size_t(channels) * 2);
  auto* to = reinterpret_cast<uint16_t*>(result.data.data());
  for (const Imf::Rgba& one : found) {
    *to++ = one.r.bits();
    *to++ = one.g.bits();
    *to++ = one.b.bits();
    if (alpha) *to++ = one.a.bits();
  }
  return whole ? std::move(result) : withinDisplay(std::move(result), data, display);
}

}  // namespace shale
