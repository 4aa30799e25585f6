// OpenEXR scan lines by ZIP and ZIPS, deflated and inflated by quicker libraries than OpenEXR's own. The layout is that of "OpenEXR File Layout" (magic number,
// version, header, table of offsets, chunks), with the header as the library writes it.
#include "exr.h"

#include <ImfPartType.h>
#include <ImfStdIO.h>
#include <ImfVersion.h>
#include <fcntl.h>
#include <half.h>
#include <libdeflate.h>
#include <sys/stat.h>
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

namespace {

// The bytes of a file behind its place. Throws where they are not there.
class Bytes {
 public:
  explicit Bytes(const std::string& path) {
    const int file = open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (file < 0) throw std::runtime_error(path + ": " + std::strerror(errno));
    struct stat about;
    size_ = fstat(file, &about) == 0 ? size_t(about.st_size) : 0;
    bytes_.reset(new uint8_t[size_]);
    size_t came = 0;
    while (came < size_) {
      const ssize_t more = read(file, bytes_.get() + came, size_ - came);
      if (more < 0 && errno == EINTR) continue;
      if (more <= 0) break;
      came += size_t(more);
    }
    close(file);
    size_ = came;
  }
  const uint8_t* need(size_t at, size_t length) const {
    if (at > size_ || length > size_ - at) throw std::runtime_error("it is cut short: not all of its picture is there");
    return bytes_.get() + at;
  }
  uint64_t number(size_t at, size_t bytes) const {
    const uint8_t* from = need(at, bytes);
    uint64_t value = 0;
    for (size_t byte = 0; byte < bytes; ++byte) value |= uint64_t(from[byte]) << (8 * byte);
    return value;
  }
  // The place behind a text's closing zero.
  size_t behindText(size_t at) const {
    while (*need(at, 1) != 0) ++at;
    return at + 1;
  }

 private:
  std::unique_ptr<uint8_t[]> bytes_;
  size_t size_;
};

// Where the table of offsets begins: behind the attributes, each a name, a type, a length and so many bytes.
size_t tableAt(const Bytes& file) {
  size_t at = 8;
  while (*file.need(at, 1) != 0) {
    at = file.behindText(file.behindText(at));
    at += 4 + size_t(file.number(at, 4));
  }
  return at + 1;
}

// The way back of arrange().
SHALE_VECTORS void pair(const uint8_t* apart, size_t length, uint8_t* raw) {
  const size_t first = (length + 1) / 2;
  for (size_t at = 0; at < length / 2; ++at) {
    raw[at * 2] = apart[at];
    raw[at * 2 + 1] = apart[first + at];
  }
  if (length % 2 == 1) raw[length - 1] = apart[first - 1];
}

void restore(uint8_t* arranged, size_t length, uint8_t* raw) {
  // Each byte is told by its difference to the one before it, 128 for none: sums over sixteen at once, then what went before is added.
  typedef uint8_t Bytes16 __attribute__((vector_size(16), aligned(1)));
  constexpr Bytes16 nothing = {}, offset = {128, 128, 128, 128, 128, 128, 128, 128, 128, 128, 128, 128, 128, 128, 128, 128};
  uint8_t sum = 128;
  size_t at = 0;
  for (; at + 16 <= length; at += 16) {
    Bytes16 all = *reinterpret_cast<const Bytes16*>(arranged + at) - offset;
    all += __builtin_shufflevector(nothing, all, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30);
    all += __builtin_shufflevector(nothing, all, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29);
    all += __builtin_shufflevector(nothing, all, 0, 0, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27);
    all += __builtin_shufflevector(nothing, all, 0, 0, 0, 0, 0, 0, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23);
    all += sum;
    *reinterpret_cast<Bytes16*>(arranged + at) = all;
    sum = all[15];
  }
  for (; at < length; ++at) arranged[at] = sum = uint8_t(sum + arranged[at] - 128);
  pair(arranged, length, raw);
}

template <typename T>
void putChannel(const uint8_t* from, char* to, size_t channels, size_t width) {
  const T* source = reinterpret_cast<const T*>(from);
  T* target = reinterpret_cast<T*>(to);
  for (size_t at = 0; at < width; ++at) target[at * channels] = source[at];
}

// Three or four channels of halves, laid side by side at once.
SHALE_VECTORS void putThree(const uint16_t* a, const uint16_t* b, const uint16_t* c, uint16_t* to, size_t width) {
  for (size_t at = 0; at < width; ++at) {
    to[at * 3] = a[at];
    to[at * 3 + 1] = b[at];
    to[at * 3 + 2] = c[at];
  }
}

SHALE_VECTORS void putFour(const uint16_t* a, const uint16_t* b, const uint16_t* c, const uint16_t* d, uint16_t* to, size_t width) {
  for (size_t at = 0; at < width; ++at) {
    to[at * 4] = a[at];
    to[at * 4 + 1] = b[at];
    to[at * 4 + 2] = c[at];
    to[at * 4 + 3] = d[at];
  }
}

void widen(const uint8_t* from, char* to, size_t channels, size_t width) {
  const uint16_t* source = reinterpret_cast<const uint16_t*>(from);
  float* target = reinterpret_cast<float*>(to);
  for (size_t at = 0; at < width; ++at) target[at * channels] = imath_half_to_float(source[at]);
}

}  // namespace

bool readsZip(const Imf::Header& header, const std::vector<std::string>& channels, bool isFloat) {
  if (header.compression() != Imf::ZIP_COMPRESSION && header.compression() != Imf::ZIPS_COMPRESSION) return false;
  if (header.hasTileDescription() || (header.hasType() && header.type() != Imf::SCANLINEIMAGE)) return false;
  for (auto it = header.channels().begin(); it != header.channels().end(); ++it)
    if (it.channel().xSampling != 1 || it.channel().ySampling != 1) return false;
  for (const std::string& name : channels) {
    const Imf::Channel* channel = name.empty() ? nullptr : header.channels().findChannel(name.c_str());
    if (!name.empty() && !channel) return false;
    if (channel && (channel->type == Imf::UINT || (channel->type == Imf::FLOAT && !isFloat))) return false;
  }
  return true;
}

void readZip(const std::string& path, const Imf::Header& header, const std::vector<std::string>& channels, bool isFloat, char* out) {
  const Imath::Box2i data = header.dataWindow();
  const size_t width = size_t(data.max.x - data.min.x + 1), height = size_t(data.max.y - data.min.y + 1);
  // Where each channel that is wanted lies in a row of the file.
  struct Wanted {
    size_t at;
    bool isFloat;
    size_t place;
  };
  std::vector<Wanted> wanted;
  size_t rowBytes = 0;
  for (auto it = header.channels().begin(); it != header.channels().end(); ++it) {
    for (size_t place = 0; place < channels.size(); ++place)
      if (channels[place] == it.name()) wanted.push_back({rowBytes, it.channel().type == Imf::FLOAT, place});
    rowBytes += width * (it.channel().type == Imf::HALF ? 2 : 4);
  }
  // Whether all are halves that come and stay as such, and where each lies by its place.
  size_t inOrder[4] = {};
  bool areHalves = !isFloat && wanted.size() == channels.size() && (channels.size() == 3 || channels.size() == 4);
  for (const Wanted& one : wanted) {
    areHalves = areHalves && !one.isFloat;
    if (areHalves) inOrder[one.place] = one.at;
  }
  const Bytes file(path);
  const size_t rows = header.compression() == Imf::ZIPS_COMPRESSION ? 1 : 16, chunks = (height + rows - 1) / rows, table = tableAt(file);
  const size_t bytes = isFloat ? 4 : 2, pixel = bytes * channels.size();
  std::unique_ptr<uint8_t[]> arranged(new uint8_t[rowBytes * rows]), raw(new uint8_t[rowBytes * rows]);
  std::unique_ptr<libdeflate_decompressor, void (*)(libdeflate_decompressor*)> inflater(libdeflate_alloc_decompressor(), libdeflate_free_decompressor);
  if (!inflater) throw std::bad_alloc();
  for (size_t chunk = 0; chunk < chunks; ++chunk) {
    const size_t top = chunk * rows, last = std::min(top + rows, height), length = (last - top) * rowBytes;
    const size_t at = size_t(file.number(table + chunk * 8, 8));
    const int32_t y = int32_t(file.number(at, 4));
    const size_t size = size_t(file.number(at + 4, 4));
    if (y != data.min.y + int(top) || size > length) throw std::runtime_error("a block of its picture is damaged");
    const uint8_t* packed = file.need(at + 8, size);
    // What did not shrink lies there as it was.
    const uint8_t* samples = packed;
    if (size < length) {
      if (libdeflate_zlib_decompress(inflater.get(), packed, size, arranged.get(), length, nullptr) != LIBDEFLATE_SUCCESS)
        throw std::runtime_error("a block of its picture is damaged");
      restore(arranged.get(), length, raw.get());
      samples = raw.get();
    } else {
      // Samples are taken from even places.
      std::memcpy(raw.get(), packed, length);
      samples = raw.get();
    }
    for (size_t row = top; row < last; ++row) {
      if (areHalves) {
        const auto channel = [&](size_t place) {
          return reinterpret_cast<const uint16_t*>(samples + (row - top) * rowBytes + inOrder[place]);
        };
        auto* to = reinterpret_cast<uint16_t*>(out + row * width * pixel);
        if (channels.size() == 3) putThree(channel(0), channel(1), channel(2), to, width);
        else putFour(channel(0), channel(1), channel(2), channel(3), to, width);
        continue;
      }
      for (const Wanted& one : wanted) {
        const uint8_t* from = samples + (row - top) * rowBytes + one.at;
        char* to = out + row * width * pixel + one.place * bytes;
        if (one.isFloat) putChannel<uint32_t>(from, to, channels.size(), width);
        else if (isFloat) widen(from, to, channels.size(), width);
        else putChannel<uint16_t>(from, to, channels.size(), width);
      }
    }
  }
}

}  // namespace shale
