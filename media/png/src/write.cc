#include "../../native/deflate.h"
#include "png.h"

#include <libdeflate.h>

#include <algorithm>
#include <cstring>
#include <memory>
#include <utility>

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

// How the filter of a row is chosen: one for all, the one that leaves the least, or what a sample of the rows shrinks most by.
enum class Filters : uint8_t { none = 0, up = 2, least, tried };

// Of efforts 1 to 9.
Filters filtersOf(int effort) { return effort == 1 ? Filters::up : effort == 2 ? Filters::least : Filters::tried; }

// Where a sample shrinks to less than this part, as of drawings, libdeflate takes little longer and leaves a quarter less.
constexpr size_t drawn = 32;
constexpr int levelOfDrawn = 2;

// Puts rows, each behind its filter, one after another.
class Rows {
 public:
  Rows(const uint8_t* samples, const Layout& layout)
      : samples(samples), layout(layout), row(layout.row()), turned(layout.bytes == 2 ? row * 2 : 0), tries(row * 4), zero(row, 0) {}

  // Rows `first` to `last` (not itself) into `to`: (row + 1) bytes each.
  void put(uint32_t first, uint32_t last, Filters filters, uint8_t* to) {
    const uint8_t* before = first == 0 ? zero.data() : line(first - 1);
    for (uint32_t y = first; y < last; ++y, to += row + 1) {
      const uint8_t* now = line(y);
      *to = filters == Filters::least ? least(now, before, to + 1) : uint8_t(filters);
      if (filters == Filters::none) std::memcpy(to + 1, now, row);
      if (filters == Filters::up) up(now, before, row, to + 1);
      before = now;
    }
  }

 private:
  // A row in PNG's order of bytes; the one before it stays as it was.
  const uint8_t* line(uint32_t y) {
    const uint8_t* from = samples + y * row;
    if (layout.bytes == 1) return from;
    uint8_t* to = turned.data() + (y % 2) * row;
    swapPairs(from, to, row);
    return to;
  }

  // The filter that leaves the least (12.7), and the row behind it.
  uint8_t least(const uint8_t* now, const uint8_t* before, uint8_t* to) {
    const size_t pixel = layout.pixel();
    const unsigned sums[5] = {
      shale::none(now, row),
      left(now, row, pixel, tries.data()),
      up(now, before, row, tries.data() + row),
      mean(now, before, row, pixel, tries.data() + 2 * row),
      paeth(now, before, row, pixel, tries.data() + 3 * row),
    };
    const uint8_t filter = uint8_t(std::min_element(sums, sums + 5) - sums);
    std::memcpy(to, filter == 0 ? now : tries.data() + (filter - 1) * row, row);
    return filter;
  }

  const uint8_t* samples;
  const Layout& layout;
  const size_t row;
  std::vector<uint8_t> turned, tries, zero;
};

// Rows that are tried go in strips, of which one in sixteen is taken.
constexpr uint32_t strip = 8, stripEvery = 16 * strip;

// What a sample of the rows shrinks most by, and whether it is a drawing's. `room` has place for all rows, `out` for what they shrink to.
std::pair<Filters, bool> tryFilters(Rows& rows, const Layout& layout, uint8_t* room, uint8_t* out) {
  Filters best = Filters::least;
  size_t fewest = SIZE_MAX, length = 0;
  for (const Filters filters : {Filters::least, Filters::up, Filters::none}) {
    length = 0;
    for (uint32_t y = 0; y < layout.height; y += stripEvery) {
      const uint32_t last = std::min(y + strip, layout.height);
      rows.put(y, last, filters, room + length);
      length += (last - y) * (layout.row() + 1);
    }
    const size_t size = deflate(0, room, length, out);
    if (size < fewest) {
      fewest = size;
      best = filters;
    }
  }
  return {best, fewest * drawn < length};
}

}  // namespace

std::vector<uint8_t> encode(const uint8_t* samples, const Layout& layout, int effort) {
  const size_t all = (layout.row() + 1) * layout.height;
  std::unique_ptr<uint8_t[]> filtered(new uint8_t[all]);
  std::vector<uint8_t> out(deflateBound(all) + 24);
  Rows rows(samples, layout);
  Filters filters = filtersOf(effort);
  int level = deflateLevel(effort);
  if (filters == Filters::tried) {
    const auto [best, isDrawn] = tryFilters(rows, layout, filtered.get(), out.data());
    filters = best;
    if (isDrawn) level = std::max(level, levelOfDrawn);
  }
  rows.put(0, layout.height, filters, filtered.get());
  const size_t size = deflate(level, filtered.get(), all, out.data() + 8);
  seal(out.data(), "IDAT", size);
  seal(out.data() + size + 12, "IEND", 0);
  out.resize(size + 24);
  return out;
}

}  // namespace shale
