#include "png.h"

#include <libdeflate.h>

#include <cstring>
#include <memory>
#include <new>

namespace shale {

namespace {

// Differences count by how far they are from 0 either way (12.7).
inline unsigned away(uint8_t value) { return value < 128 ? value : 256u - value; }

SHALE_VECTORS unsigned none(const uint8_t* row, size_t length) {
  unsigned sum = 0;
  for (size_t at = 0; at < length; ++at) sum += away(row[at]);
  return sum;
}

SHALE_VECTORS unsigned left(const uint8_t* row, size_t length, size_t pixel, uint8_t* to) {
  unsigned sum = 0;
  for (size_t at = 0; at < pixel; ++at) sum += away(to[at] = row[at]);
  for (size_t at = pixel; at < length; ++at) sum += away(to[at] = uint8_t(row[at] - row[at - pixel]));
  return sum;
}

SHALE_VECTORS unsigned up(const uint8_t* row, const uint8_t* above, size_t length, uint8_t* to) {
  unsigned sum = 0;
  for (size_t at = 0; at < length; ++at) sum += away(to[at] = uint8_t(row[at] - above[at]));
  return sum;
}

SHALE_VECTORS unsigned mean(const uint8_t* row, const uint8_t* above, size_t length, size_t pixel, uint8_t* to) {
  unsigned sum = 0;
  for (size_t at = 0; at < pixel; ++at) sum += away(to[at] = uint8_t(row[at] - (above[at] >> 1)));
  for (size_t at = pixel; at < length; ++at)
    sum += away(to[at] = uint8_t(row[at] - uint8_t((uint16_t(row[at - pixel]) + above[at]) >> 1)));
  return sum;
}

SHALE_VECTORS unsigned paeth(const uint8_t* row, const uint8_t* above, size_t length, size_t pixel, uint8_t* to) {
  unsigned sum = 0;
  for (size_t at = 0; at < pixel; ++at) sum += away(to[at] = uint8_t(row[at] - above[at]));
  for (size_t at = pixel; at < length; ++at) {
    const int16_t a = row[at - pixel], b = above[at], c = above[at - pixel];
    const int16_t x = int16_t(b - c), y = int16_t(a - c), z = int16_t(x + y);
    const int16_t pa = x < 0 ? int16_t(-x) : x, pb = y < 0 ? int16_t(-y) : y, pc = z < 0 ? int16_t(-z) : z;
    const int16_t second = pb <= pc ? b : c;
    const int16_t nearest = (pa <= pb) & (pa <= pc) ? a : second;
    sum += away(to[at] = uint8_t(row[at] - nearest));
  }
  return sum;
}

void putLong(uint8_t* to, uint32_t value) {
  for (int at = 0; at < 4; ++at) to[at] = uint8_t(value >> (24 - 8 * at));
}

// A chunk whose data is in its place: length, type and CRC around it.
void seal(uint8_t* chunk, const char* type, size_t length) {
  putLong(chunk, uint32_t(length));
  std::memcpy(chunk + 4, type, 4);
  putLong(chunk + 8 + length, libdeflate_crc32(0, chunk + 4, length + 4));
}

}  // namespace

std::vector<uint8_t> encode(const uint8_t* samples, const Layout& layout, int level) {
  const size_t row = layout.row(), pixel = layout.pixel(), all = (row + 1) * layout.height;
  std::unique_ptr<uint8_t[]> filtered(new uint8_t[all]);
  std::vector<uint8_t> rows(row * 2, 0), tries(row * 4);
  uint8_t* above = rows.data();
  uint8_t* turned = rows.data() + row;
  const uint8_t* before = above;
  for (uint32_t y = 0; y < layout.height; ++y) {
    const uint8_t* line = samples + y * row;
    if (layout.bytes == 2) {
      swapPairs(line, turned, row);
      line = turned;
    }
    uint8_t* to = filtered.get() + y * (row + 1);
    unsigned least = none(line, row);
    uint8_t filter = 0;
    const unsigned sums[4] = {
      left(line, row, pixel, tries.data()),
      up(line, before, row, tries.data() + row),
      mean(line, before, row, pixel, tries.data() + 2 * row),
      paeth(line, before, row, pixel, tries.data() + 3 * row),
    };
    for (uint8_t at = 0; at < 4; ++at)
      if (sums[at] < least) {
        least = sums[at];
        filter = at + 1;
      }
    *to = filter;
    std::memcpy(to + 1, filter == 0 ? line : tries.data() + (filter - 1) * row, row);
    before = line;
    if (layout.bytes == 2) std::swap(above, turned);
  }
  std::unique_ptr<libdeflate_compressor, void (*)(libdeflate_compressor*)> deflater(libdeflate_alloc_compressor(level), libdeflate_free_compressor);
  if (!deflater) throw std::bad_alloc();
  const size_t bound = libdeflate_zlib_compress_bound(deflater.get(), all);
  std::vector<uint8_t> out(bound + 24);
  const size_t size = libdeflate_zlib_compress(deflater.get(), filtered.get(), all, out.data() + 8, bound);
  if (size == 0) throw std::bad_alloc();
  seal(out.data(), "IDAT", size);
  seal(out.data() + size + 12, "IEND", 0);
  out.resize(size + 24);
  return out;
}

}  // namespace shale
