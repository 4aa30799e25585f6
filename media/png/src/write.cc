#include "png.h"

#include <isa-l/igzip_lib.h>
#include <libdeflate.h>

#include <algorithm>
#include <cstring>
#include <memory>
#include <new>
#include <stdexcept>
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

// What an effort does: by igzip, or at a level of libdeflate.
struct Effort {
  Filters filters;
  int level;  // 0: igzip
};

// Of 1 to 9. igzip takes a third to a tenth of the time of libdeflate's lowest level for a tenth more bytes.
constexpr Effort efforts[9] = {
  {Filters::up, 0},    {Filters::least, 0}, {Filters::tried, 0}, {Filters::tried, 1},  {Filters::tried, 2},
  {Filters::tried, 4}, {Filters::tried, 6}, {Filters::tried, 8}, {Filters::tried, 12},
};

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

// Both write a zlib stream into `out`, which has bound() bytes. Return its length.
size_t bound(size_t length) { return libdeflate_zlib_compress_bound(nullptr, length) + 1024; }

// igzip counts bytes by 32 bits.
constexpr size_t mostOfIgzip = size_t(1) << 31;

size_t byIgzip(const uint8_t* from, size_t length, uint8_t* out) {
  std::unique_ptr<uint8_t[]> room(new uint8_t[ISAL_DEF_LVL2_DEFAULT]);
  isal_zstream stream;
  isal_deflate_stateless_init(&stream);
  stream.level = 2;
  stream.level_buf = room.get();
  stream.level_buf_size = ISAL_DEF_LVL2_DEFAULT;
  stream.gzip_flag = IGZIP_ZLIB;
  stream.end_of_stream = 1;
  stream.next_in = const_cast<uint8_t*>(from);
  stream.avail_in = uint32_t(length);
  stream.next_out = out;
  stream.avail_out = uint32_t(bound(length));
  if (isal_deflate_stateless(&stream) != COMP_OK) throw std::runtime_error("igzip could not compress the rows");
  return stream.total_out;
}

size_t byLibdeflate(int level, const uint8_t* from, size_t length, uint8_t* out) {
  std::unique_ptr<libdeflate_compressor, void (*)(libdeflate_compressor*)> deflater(libdeflate_alloc_compressor(level), libdeflate_free_compressor);
  const size_t size = deflater ? libdeflate_zlib_compress(deflater.get(), from, length, out, bound(length)) : 0;
  if (size == 0) throw std::bad_alloc();
  return size;
}

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
    const size_t size = byIgzip(room, length, out);
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
  std::vector<uint8_t> out(bound(all) + 24);
  Rows rows(samples, layout);
  auto [filters, level] = efforts[effort - 1];
  const bool isHuge = all > mostOfIgzip;
  if (filters == Filters::tried) {
    const auto [best, isDrawn] = isHuge ? std::pair(Filters::least, false) : tryFilters(rows, layout, filtered.get(), out.data());
    filters = best;
    if (isDrawn) level = std::max(level, levelOfDrawn);
  }
  rows.put(0, layout.height, filters, filtered.get());
  const size_t size = level == 0 && !isHuge ? byIgzip(filtered.get(), all, out.data() + 8)
                                            : byLibdeflate(std::max(level, 1), filtered.get(), all, out.data() + 8);
  seal(out.data(), "IDAT", size);
  seal(out.data() + size + 12, "IEND", 0);
  out.resize(size + 24);
  return out;
}

}  // namespace shale
