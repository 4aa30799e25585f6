#include "exr.h"

#include <ImfFrameBuffer.h>
#include <ImfOutputFile.h>
#include <ImfStandardAttributes.h>
#include <ImfThreading.h>

namespace shale {

void writePixels(const WriteRequest& request) {
  Imf::Header header(request.width, request.height);
  header.compression() = compressionByName(request.compression);
  if (header.compression() == Imf::DWAA_COMPRESSION || header.compression() == Imf::DWAB_COMPRESSION)
    header.dwaCompressionLevel() = request.dwaLevel;
  if (header.compression() == Imf::ZIP_COMPRESSION || header.compression() == Imf::ZIPS_COMPRESSION)
    header.zipCompressionLevel() = request.zipLevel;
  for (const Attribute& attribute : request.attributes) putAttribute(header, attribute);

  const Imf::PixelType type = request.isFloat ? Imf::FLOAT : Imf::HALF;
  const size_t bytes = request.isFloat ? 4 : 2;
  const size_t pixel = bytes * request.channels.size();
  Imf::FrameBuffer buffer;
  for (size_t at = 0; at < request.channels.size(); ++at) {
    header.channels().insert(request.channels[at], Imf::Channel(type));
    char* first = const_cast<char*>(request.data) + at * bytes;
    buffer.insert(request.channels[at], Imf::Slice(type, first, pixel, pixel * size_t(request.width)));
  }
  Imf::OutputFile file(request.path.c_str(), header, Imf::globalThreadCount());
  file.setFrameBuffer(buffer);
  file.writePixels(request.height);
}

}  // namespace shale
