// OpenEXR for Shale: headers, pixels, writing. Everything here runs off the event loop and throws std::exception.
#pragma once

#include <ImfChannelList.h>
#include <ImfCompression.h>
#include <ImfHeader.h>

#include <sys/mman.h>

#include <cstdint>
#include <cstdlib>
#include <memory>
#include <new>
#include <string>
#include <utility>
#include <variant>
#include <vector>

namespace shale {

// An attribute as text or numbers; `type` is the standard's type name.
struct Attribute {
  std::string name;
  std::string type;
  std::variant<std::string, std::vector<double>> value;
};

struct Channel {
  std::string name;
  std::string type;  // half, float or uint
  int xSampling;
  int ySampling;
};

struct Part {
  std::string name;
  bool tiled;
  bool deep;
  std::string compression;
  int dataWindow[4];     // xMin yMin xMax yMax
  int displayWindow[4];
  std::vector<Channel> channels;
  std::vector<Attribute> attributes;
  bool complete;
};

// Memory that is written before it is read: it is not cleared first, and large pages are asked for.
template <typename T>
struct Unset : std::allocator<T> {
  template <typename U>
  struct rebind {
    using other = Unset<U>;
  };
  T* allocate(size_t count) {
    constexpr size_t large = size_t(1) << 21;
    const size_t bytes = count * sizeof(T);
    void* room = nullptr;
    if (posix_memalign(&room, bytes < large ? 64 : large, bytes)) throw std::bad_alloc();
    if (bytes >= large) madvise(room, bytes, MADV_HUGEPAGE);
    return static_cast<T*>(room);
  }
  void deallocate(T* room, size_t) { std::free(room); }
  template <typename U>
  void construct(U*) {}
  template <typename U, typename First, typename... More>
  void construct(U* at, First&& first, More&&... more) {
    ::new (static_cast<void*>(at)) U(std::forward<First>(first), std::forward<More>(more)...);
  }
};
using Room = std::vector<char, Unset<char>>;

struct Pixels {
  int width;
  int height;
  int channels;
  bool isFloat;
  Room data;
};

struct WriteRequest {
  std::string path;
  int width;
  int height;
  std::vector<std::string> channels;
  bool isFloat;
  std::string compression;
  float dwaLevel;
  int zipLevel;
  std::vector<Attribute> attributes;
  const char* data;
  // xMin yMin xMax yMax; the data window is as large as the picture. Without them both are the picture from 0, 0 on.
  bool hasWindows;
  int dataWindow[4];
  int displayWindow[4];
};

// A channel of a file that goes into another as it is, and its name there.
struct CopiedChannel {
  std::string path;
  int part;
  std::string from;
  std::string as;
};

struct CopyRequest {
  std::string path;
  std::vector<CopiedChannel> channels;
  std::string compression;
  float dwaLevel;
  int zipLevel;
  std::vector<Attribute> attributes;
};

std::vector<Part> readParts(const std::string& path);

// The named channels of a part, interleaved: all of its data window, or cropped or padded with 0 to its display window. A channel
// name that is empty gives 1.0 throughout; a subsampled channel repeats its samples. Throws where the file is not whole.
Pixels readPixels(const std::string& path, int part, const std::vector<std::string>& channels, bool isFloat, bool whole);

// Luminance and chroma (Y, RY, BY) of the first part as red, green, blue and, if asked for, alpha, in halves.
Pixels readLuminance(const std::string& path, bool alpha, bool whole);

void writePixels(const WriteRequest& request);

// The same by ZIP or ZIPS, which its header names.
void writeZip(const WriteRequest& request, const Imf::Header& header);

// Whether readZip() reads channels of a file of one part: scan lines by ZIP or ZIPS, nothing subsampled, halves and floats, or a name that is empty.
bool readsZip(const Imf::Header& header, const std::vector<std::string>& channels, bool isFloat);

// The named channels over the data window, interleaved, into `out`; what an empty name stands for is left as it is. Throws where the file is not whole.
void readZip(const std::string& path, const Imf::Header& header, const std::vector<std::string>& channels, bool isFloat, char* out);

// Channels of one or several files as a new file, each in its own kind of sample, over the window that holds all of theirs.
// Throws where their display windows differ.
void copyChannels(const CopyRequest& request);

std::vector<Attribute> attributesOf(const Imf::Header& header);
void putAttribute(Imf::Header& header, const Attribute& attribute);

const char* compressionName(Imf::Compression compression);
Imf::Compression compressionByName(const std::string& name);

}  // namespace shale
