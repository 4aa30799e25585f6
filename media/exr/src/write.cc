#include "exr.h"

#include <ImfFrameBuffer.h>
#include <ImfInputPart.h>
#include <ImfMultiPartInputFile.h>
#include <ImfOutputFile.h>
#include <ImfStandardAttributes.h>
#include <ImfThreading.h>

#include <map>
#include <memory>
#include <stdexcept>

namespace shale {

namespace {

Imath::Box2i boxOf(const int (&window)[4]) { return {{window[0], window[1]}, {window[2], window[3]}}; }

template <typename Request>
void describe(Imf::Header& header, const Request& request) {
  header.compression() = compressionByName(request.compression);
  if (header.compression() == Imf::DWAA_COMPRESSION || header.compression() == Imf::DWAB_COMPRESSION)
    header.dwaCompressionLevel() = request.dwaLevel;
  if (header.compression() == Imf::ZIP_COMPRESSION || header.compression() == Imf::ZIPS_COMPRESSION)
    header.zipCompressionLevel() = request.zipLevel;
  for (const Attribute& attribute : request.attributes) putAttribute(header, attribute);
}

}  // namespace

void writePixels(const WriteRequest& request) {
  Imf::Header header(request.width, request.height);
  if (request.hasWindows) {
    header.displayWindow() = boxOf(request.displayWindow);
    header.dataWindow() = boxOf(request.dataWindow);
  }
  describe(header, request);
  const Imath::Box2i data = header.dataWindow();

  const Imf::PixelType type = request.isFloat ? Imf::FLOAT : Imf::HALF;
  const size_t bytes = request.isFloat ? 4 : 2;
  const size_t pixel = bytes * request.channels.size();
  for (const std::string& channel : request.channels) header.channels().insert(channel, Imf::Channel(type));
  if (header.compression() == Imf::ZIP_COMPRESSION || header.compression() == Imf::ZIPS_COMPRESSION) return writeZip(request, header);
  Imf::FrameBuffer buffer;
  for (size_t at = 0; at < request.channels.size(); ++at) {
    const size_t row = pixel * size_t(request.width);
    char* first = const_cast<char*>(request.data) + at * bytes - ptrdiff_t(data.min.x) * ptrdiff_t(pixel) - ptrdiff_t(data.min.y) * ptrdiff_t(row);
    buffer.insert(request.channels[at], Imf::Slice(type, first, pixel, row));
  }
  Imf::OutputFile file(request.path.c_str(), header, Imf::globalThreadCount());
  file.setFrameBuffer(buffer);
  file.writePixels(request.height);
}

void copyChannels(const CopyRequest& request) {
  if (request.channels.empty()) throw std::runtime_error("no channel is asked for");
  // Files are opened once, whatever number of their channels is taken.
  std::map<std::string, std::unique_ptr<Imf::MultiPartInputFile>> files;
  Imath::Box2i data;
  Imath::Box2i display;
  for (const CopiedChannel& one : request.channels) {
    auto& file = files[one.path];
    if (!file) file = std::make_unique<Imf::MultiPartInputFile>(one.path.c_str(), Imf::globalThreadCount());
    if (one.part < 0 || one.part >= file->parts()) throw std::runtime_error("it has no part " + std::to_string(one.part));
    if (!file->partComplete(one.part)) throw std::runtime_error("it is cut short: not all of its picture is there");
    const Imf::Header& header = file->header(one.part);
    if (&one == &request.channels.front()) display = header.displayWindow();
    else if (header.displayWindow() != display) throw std::runtime_error("its display window is another than that of the first");
    const Imf::Channel* channel = header.channels().findChannel(one.from.c_str());
    if (!channel) throw std::runtime_error("it has no channel " + one.from);
    if (channel->xSampling != 1 || channel->ySampling != 1) throw std::runtime_error("its channel " + one.from + " is subsampled");
    data.extendBy(header.dataWindow());
  }
  const int64_t width = int64_t(data.max.x) - data.min.x + 1;
  const int64_t height = int64_t(data.max.y) - data.min.y + 1;
  if (width > 65536 || height > 65536 || width * height > (int64_t(1) << 29)) throw std::runtime_error("its windows are too far apart");

  Imf::Header header(display, data);
  describe(header, request);
  Imf::FrameBuffer out;
  std::vector<std::vector<char>> planes;
  planes.reserve(request.channels.size());
  // The channels of one part are read together: a part is decoded once.
  std::map<std::pair<std::string, int>, Imf::FrameBuffer> in;
  for (const CopiedChannel& one : request.channels) {
    const Imf::PixelType type = files[one.path]->header(one.part).channels().findChannel(one.from.c_str())->type;
    const size_t bytes = type == Imf::HALF ? 2 : 4;
    planes.emplace_back(size_t(width * height) * bytes, 0);
    const size_t row = bytes * size_t(width);
    char* first = planes.back().data() - ptrdiff_t(data.min.x) * ptrdiff_t(bytes) - ptrdiff_t(data.min.y) * ptrdiff_t(row);
    header.channels().insert(one.as, Imf::Channel(type));
    out.insert(one.as, Imf::Slice(type, first, bytes, row));
    Imf::FrameBuffer& buffer = in[{one.path, one.part}];
    if (!buffer.findSlice(one.from)) buffer.insert(one.from, Imf::Slice(type, first, bytes, row));
  }
  for (auto& [place, buffer] : in) {
    Imf::InputPart part(*files[place.first], place.second);
    part.setFrameBuffer(buffer);
    part.readPixels(part.header().dataWindow().min.y, part.header().dataWindow().max.y);
  }
  // A channel that is taken under several names was read once.
  for (size_t at = 0; at < request.channels.size(); ++at) {
    const CopiedChannel& one = request.channels[at];
    for (size_t before = 0; before < at; ++before) {
      const CopiedChannel& other = request.channels[before];
      if (other.path == one.path && other.part == one.part && other.from == one.from) {
        planes[at] = planes[before];
        const Imf::PixelType type = header.channels().findChannel(one.as.c_str())->type;
        const size_t bytes = type == Imf::HALF ? 2 : 4;
        const size_t row = bytes * size_t(width);
        char* first = planes[at].data() - ptrdiff_t(data.min.x) * ptrdiff_t(bytes) - ptrdiff_t(data.min.y) * ptrdiff_t(row);
        out.insert(one.as, Imf::Slice(type, first, bytes, row));
        break;
      }
    }
  }
  Imf::OutputFile file(request.path.c_str(), header, Imf::globalThreadCount());
  file.setFrameBuffer(out);
  file.writePixels(int(height));
}

}  // namespace shale
