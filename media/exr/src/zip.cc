// OpenEXR scan lines by ZIP and ZIPS, deflated by a quicker library than OpenEXR's own. The layout is that of "OpenEXR File Layout" (magic number,
// version, header, table of offsets, chunks), with the header as the library writes it.
#include "exr.h"

#include <ImfStdIO.h>
#include <ImfVersion.h>
#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <memory>
#include <stdexcept>
#include <utility>

#include "../../native/deflate.h"
#include "../../native/vectors.h"

namespace shale {

namespace {

template <typename T>
void putNumber(std::vector<uint8_t>& out, T value) {
  for (size_t byte = 0; byte < sizeof(T); ++byte) out.push_back(uint8_t(uint64_t(value) >> (8 * byte)));
}

bool hasLongNames(const Imf::Header& header) {
  bool found = false;
  for (auto it = header.begin(); it != header.end(); ++it) found = found || std::strlen(it.name()) > 31 || std::strlen(it.attribute().typeName()) > 31;
  for (auto it = header.channels().begin(); it != header.channels().end(); ++it) found = found || std::strlen(it.name()) > 31;
  return found;
}

// One channel of a row, out of pixels into a row of its own.
template <typename T>
void takeChannel(const char* from, size_t channels, uint8_t* to, size_t width) {
  const T* source = reinterpret_cast<const T*>(from);
  T* target = reinterpret_cast<T*>(to);
  for (size_t at = 0; at < width; ++at) target[at] = source[at * channels];
}

// Low bytes of all samples first, then the high ones, and of that differences around 128: what deflate makes less of.
SHALE_VECTORS void arrange(const uint8_t* raw, size_t length, uint8_t* apart, uint8_t* out) {
  const size_t first = (length + 1) / 2;
  for (size_t at = 0; at < length / 2; ++at) {
    apart[at] = raw[at * 2];
    apart[first + at] = raw[at * 2 + 1];
  }
  if (length % 2 == 1) apart[first - 1] = raw[length - 1];
  out[0] = apart[0];
  for (size_t at = 1; at < length; ++at) out[at] = uint8_t(apart[at] - apart[at - 1] + 128);
}

void writeAll(const std::string& path, const std::vector<uint8_t>& bytes) {
  const auto fail = [&path] { throw std::runtime_error(path + ": " + std::strerror(errno)); };
  const int file = open(path.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0666);
  if (file < 0) fail();
  for (size_t at = 0; at < bytes.size();) {
    const ssize_t written = write(file, bytes.data() + at, bytes.size() - at);
    if (written < 0 && errno == EINTR) continue;
    if (written <= 0) {
      const int error = written < 0 ? errno : ENOSPC;
      close(file);
      errno = error;
      fail();
    }
    at += size_t(written);
  }
  if (close(file) != 0) fail();
}

}  // namespace

void writeZip(const WriteRequest& request, const Imf::Header& header) {
  header.sanityCheck();
  Imf::StdOSStream written;
  header.writeTo(written);
  const std::string described = written.str();
  std::vector<uint8_t> out;
  putNumber(out, uint32_t(Imf::MAGIC));
  putNumber(out, uint32_t(Imf::EXR_VERSION | (hasLongNames(header) ? Imf::LONG_NAMES_FLAG : 0)));
  out.insert(out.end(), described.begin(), described.end());

  // Rows hold channel after channel, by name.
  std::vector<size_t> order;
  for (auto it = header.channels().begin(); it != header.channels().end(); ++it)
    order.push_back(size_t(std::find(request.channels.begin(), request.channels.end(), it.name()) - request.channels.begin()));
  const size_t channels = order.size(), bytes = request.isFloat ? 4 : 2, width = size_t(request.width), height = size_t(request.height);
  const size_t rowBytes = width * channels * bytes;
  const size_t rows = header.compression() == Imf::ZIPS_COMPRESSION ? 1 : 16;
  const size_t chunks = (height + rows - 1) / rows;
  const size_t table = out.size();
  out.resize(table + chunks * 8);
  std::unique_ptr<uint8_t[]> raw(new uint8_t[rowBytes * rows]), apart(new uint8_t[rowBytes * rows]), arranged(new uint8_t[rowBytes * rows]);
  const int level = deflateLevel(std::clamp(request.zipLevel, 1, 9));
  for (size_t chunk = 0; chunk < chunks; ++chunk) {
    const size_t top = chunk * rows, last = std::min(top + rows, height), length = (last - top) * rowBytes;
    uint8_t* to = raw.get();
    for (size_t y = top; y < last; ++y)
      for (const size_t channel : order) {
        const char* from = request.data + y * rowBytes + channel * bytes;
        if (request.isFloat) takeChannel<uint32_t>(from, channels, to, width);
        else takeChannel<uint16_t>(from, channels, to, width);
        to += width * bytes;
      }
    arrange(raw.get(), length, apart.get(), arranged.get());
    const uint64_t at = out.size();
    for (size_t byte = 0; byte < 8; ++byte) out[table + chunk * 8 + byte] = uint8_t(at >> (8 * byte));
    putNumber(out, int32_t(header.dataWindow().min.y + int(top)));
    const size_t room = out.size();
    out.resize(room + 4 + deflateBound(length));
    size_t size = deflate(level, arranged.get(), length, out.data() + room + 4);
    // What does not shrink is kept as it was.
    if (size >= length) {
      std::memcpy(out.data() + room + 4, raw.get(), length);
      size = length;
    }
    for (size_t byte = 0; byte < 4; ++byte) out[room + byte] = uint8_t(size >> (8 * byte));
    out.resize(room + 4 + size);
  }
  writeAll(request.path, out);
}

}  // namespace shale
