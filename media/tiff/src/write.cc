#include <algorithm>
#include <cstring>
#include <memory>

#include "../../native/deflate.h"
#include "../../native/vectors.h"
#include "tiff.h"

namespace shale {

namespace {

template <class T>
SHALE_VECTORS void differences(const T* from, T* to, size_t row, size_t step) {
  std::memcpy(to, from, step * sizeof(T));
  for (size_t at = step; at < row; ++at) to[at] = T(from[at] - from[at - step]);
}

// Codes of strings, each a string before and one byte more, found by both.
class Strings {
 public:
  Strings() : keys(new uint32_t[places]()), codes(new uint16_t[places]) {}

  // Forgets all of them.
  void clear() { ++age; }

  // The place of a string: where its code is, or is to go.
  size_t find(unsigned before, uint8_t byte) const {
    const uint32_t key = keyOf(before, byte);
    size_t at = (key * 0x9e3779b1u) >> 18;
    while (keys[at] >> 20 == age % ages + 1 && keys[at] != key) at = (at + 1) % places;
    return at;
  }
  bool has(size_t at) const { return keys[at] >> 20 == age % ages + 1; }
  unsigned code(size_t at) const { return codes[at]; }
  void put(size_t at, unsigned before, uint8_t byte, unsigned code) {
    keys[at] = keyOf(before, byte);
    codes[at] = uint16_t(code);
  }
  // Whether the ages begin anew: what is from long ago would be taken for new.
  bool isOld() const { return age % ages == ages - 1; }
  void empty() {
    std::fill(keys.get(), keys.get() + places, 0);
    ++age;
  }

 private:
  static constexpr size_t places = 1 << 14;
  static constexpr uint32_t ages = 4094;
  uint32_t keyOf(unsigned before, uint8_t byte) const { return (age % ages + 1) << 20 | uint32_t(before) << 8 | byte; }

  std::unique_ptr<uint32_t[]> keys;
  std::unique_ptr<uint16_t[]> codes;
  uint32_t age = 0;
};

}  // namespace

void packLzw(const uint8_t* from, size_t length, std::vector<uint8_t>& out) {
  constexpr unsigned clear = 256, end = 257;
  // The last code before the table is begun anew (section 13).
  constexpr unsigned last = 4094;
  Strings strings;
  uint64_t held = 0;
  unsigned bits = 0, width = 9, next = 258;
  const auto put = [&](unsigned code) {
    held = held << width | code;
    bits += width;
    while (bits >= 8) {
      bits -= 8;
      out.push_back(uint8_t(held >> bits));
    }
  };
  put(clear);
  if (length > 0) {
    unsigned before = from[0];
    for (size_t at = 1; at < length; ++at) {
      const uint8_t byte = from[at];
      const size_t place = strings.find(before, byte);
      if (strings.has(place)) {
        before = strings.code(place);
        continue;
      }
      put(before);
      strings.put(place, before, byte, next);
      ++next;
      if (next > (1u << width) - 1) ++width;
      if (next > last) {
        put(clear);
        if (strings.isOld()) strings.empty();
        else strings.clear();
        next = 258;
        width = 9;
      }
      before = byte;
    }
    put(before);
    ++next;
    if (next > (1u << width) - 1) ++width;
  }
  put(end);
  if (bits > 0) out.push_back(uint8_t(held << (8 - bits)));
}

std::vector<uint8_t> encode(const uint8_t* samples, const Layout& layout, int effort, std::vector<uint64_t>& lengths) {
  const size_t row = size_t(layout.width) * layout.stored, rowBytes = row * layout.bytes;
  std::unique_ptr<uint8_t[]> room(layout.predictor == 2 ? new uint8_t[rowBytes * layout.pieceHeight] : nullptr);
  std::vector<uint8_t> out;
  for (uint32_t top = 0; top < layout.height; top += layout.pieceHeight) {
    const uint32_t rows = std::min(layout.pieceHeight, layout.height - top);
    const uint8_t* strip = samples + top * rowBytes;
    if (room) {
      for (uint32_t y = 0; y < rows; ++y) {
        const uint8_t* line = strip + y * rowBytes;
        uint8_t* to = room.get() + y * rowBytes;
        if (layout.bytes == 1) differences(line, to, row, layout.stored);
        else differences(reinterpret_cast<const uint16_t*>(line), reinterpret_cast<uint16_t*>(to), row, layout.stored);
      }
      strip = room.get();
    }
    const size_t before = out.size(), length = rowBytes * rows;
    if (layout.compression == Compression::lzw) {
      packLzw(strip, length, out);
    } else {
      out.resize(before + deflateBound(length));
      out.resize(before + deflate(deflateLevel(effort), strip, length, out.data() + before));
    }
    lengths.push_back(out.size() - before);
  }
  return out;
}

}  // namespace shale
