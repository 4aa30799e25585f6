#include "png.h"

#include <libdeflate.h>

#include <cstring>
#include <memory>
#include <stdexcept>
#include <string>

#if defined(__SSE2__)
#include <emmintrin.h>
#endif

namespace shale {

namespace {

uint32_t longAt(const uint8_t* from) {
  return uint32_t(from[0]) << 24 | uint32_t(from[1]) << 16 | uint32_t(from[2]) << 8 | uint32_t(from[3]);
}

constexpr size_t signature = 8;

void addUp(uint8_t* row, const uint8_t* above, size_t length) {
  for (size_t at = 0; at < length; ++at) row[at] = uint8_t(row[at] + above[at]);
}

#if defined(__SSE2__)
// Pixels of up to 8 bytes, each worked at once and kept in a register for the next. `before` is how many bytes may be read from here on:
// what is read beyond a pixel stays in lanes of its own.
template <int P>
__m128i pixelAt(const uint8_t* from, size_t before) {
  // Words whole or not at all: parts of one that are put together in memory are waited for.
  if (P > 4 && before >= 8) return _mm_loadl_epi64(reinterpret_cast<const __m128i*>(from));
  if (P <= 4 && before >= 4) {
    int32_t word;
    std::memcpy(&word, from, 4);
    return _mm_cvtsi32_si128(word);
  }
  uint64_t bytes = 0;
  for (int at = 0; at < P; ++at) bytes |= uint64_t(from[at]) << (8 * at);
  return _mm_cvtsi64_si128(int64_t(bytes));
}

template <int P>
void put(__m128i pixel, uint8_t* to) {
  const uint64_t bytes = uint64_t(_mm_cvtsi128_si64(pixel));
  const uint32_t low = uint32_t(bytes);
  const uint16_t pair = uint16_t(bytes), behind = uint16_t(bytes >> 32);
  if constexpr (P == 8) std::memcpy(to, &bytes, 8);
  if constexpr (P == 6 || P == 4) std::memcpy(to, &low, 4);
  if constexpr (P == 6) std::memcpy(to + 4, &behind, 2);
  if constexpr (P == 3 || P == 2) std::memcpy(to, &pair, 2);
  if constexpr (P == 3) to[2] = uint8_t(bytes >> 16);
  if constexpr (P == 1) to[0] = uint8_t(bytes);
}

template <int P>
void addLeft(uint8_t* row, size_t length) {
  __m128i left = _mm_setzero_si128();
  for (size_t at = 0; at + P <= length; at += P) {
    left = _mm_add_epi8(left, pixelAt<P>(row + at, length - at));
    put<P>(left, row + at);
  }
}

template <int P>
void addMean(uint8_t* row, const uint8_t* above, size_t length) {
  const __m128i one = _mm_set1_epi8(1);
  __m128i left = _mm_setzero_si128();
  for (size_t at = 0; at + P <= length; at += P) {
    const __m128i up = pixelAt<P>(above + at, length - at);
    // The mean that the machine knows rounds up: the filter's is rounded down (9.2).
    const __m128i mean = _mm_sub_epi8(_mm_avg_epu8(left, up), _mm_and_si128(_mm_xor_si128(left, up), one));
    left = _mm_add_epi8(mean, pixelAt<P>(row + at, length - at));
    put<P>(left, row + at);
  }
}

__m128i absolute(__m128i value) { return _mm_max_epi16(value, _mm_sub_epi16(_mm_setzero_si128(), value)); }

__m128i choose(__m128i mask, __m128i yes, __m128i no) { return _mm_or_si128(_mm_and_si128(mask, yes), _mm_andnot_si128(mask, no)); }

template <int P>
void addPaeth(uint8_t* row, const uint8_t* above, size_t length) {
  const __m128i nothing = _mm_setzero_si128();
  const __m128i low = _mm_set1_epi16(0xff);
  __m128i left = nothing, corner = nothing;
  for (size_t at = 0; at + P <= length; at += P) {
    const __m128i up = _mm_unpacklo_epi8(pixelAt<P>(above + at, length - at), nothing);
    const __m128i came = _mm_unpacklo_epi8(pixelAt<P>(row + at, length - at), nothing);
    // 9.4: the nearest of left, above and upper left to left + above - upper left; ties in that order.
    __m128i a = _mm_sub_epi16(up, corner), b = _mm_sub_epi16(left, corner);
    __m128i c = absolute(_mm_add_epi16(a, b));
    a = absolute(a);
    b = absolute(b);
    const __m128i least = _mm_min_epi16(c, _mm_min_epi16(a, b));
    const __m128i nearest = choose(_mm_cmpeq_epi16(least, a), left, choose(_mm_cmpeq_epi16(least, b), up, corner));
    left = _mm_and_si128(_mm_add_epi16(came, nearest), low);
    corner = up;
    put<P>(_mm_packus_epi16(left, left), row + at);
  }
}
#else
template <int P>
void addLeft(uint8_t* row, size_t length) {
  for (size_t at = P; at < length; ++at) row[at] = uint8_t(row[at] + row[at - P]);
}

template <int P>
void addMean(uint8_t* row, const uint8_t* above, size_t length) {
  for (size_t at = 0; at < size_t(P); ++at) row[at] = uint8_t(row[at] + (above[at] >> 1));
  for (size_t at = P; at < length; ++at) row[at] = uint8_t(row[at] + ((unsigned(row[at - P]) + above[at]) >> 1));
}

template <int P>
void addPaeth(uint8_t* row, const uint8_t* above, size_t length) {
  for (size_t at = 0; at < length; ++at) {
    const int a = at < size_t(P) ? 0 : row[at - P], b = above[at], c = at < size_t(P) ? 0 : above[at - P];
    const int pa = b > c ? b - c : c - b, pb = a > c ? a - c : c - a, sum = a + b - 2 * c, pc = sum < 0 ? -sum : sum;
    row[at] = uint8_t(row[at] + (pa <= pb && pa <= pc ? a : pb <= pc ? b : c));
  }
}
#endif

// Takes the filters of all rows back (9.2), in place: each row begins with the byte of its filter, which is left out on the way.
template <int P>
void unfilter(uint8_t* out, const Layout& layout) {
  const size_t row = layout.row();
  const std::vector<uint8_t> nothing(row, 0);
  const uint8_t* above = nothing.data();
  for (uint32_t y = 0; y < layout.height; ++y) {
    const uint8_t* filtered = out + size_t(y) * (row + 1);
    uint8_t* to = out + size_t(y) * row;
    const uint8_t filter = *filtered;
    std::memmove(to, filtered + 1, row);
    switch (filter) {
      case 0: break;
      case 1: addLeft<P>(to, row); break;
      case 2: addUp(to, above, row); break;
      case 3: addMean<P>(to, above, row); break;
      case 4: addPaeth<P>(to, above, row); break;
      default: throw std::runtime_error("row " + std::to_string(y) + " has filter " + std::to_string(filter) + ", which there is not");
    }
    // The row above is needed no more as it was stored.
    if (layout.bytes == 2 && y > 0) swapPairs(to - row, to - row, row);
    above = to;
  }
  if (layout.bytes == 2) swapPairs(out + layout.size() - row, out + layout.size() - row, row);
}

struct Chunk {
  const uint8_t* type;
  const uint8_t* data;
  size_t length;
  bool is(const char* name) const { return std::memcmp(type, name, 4) == 0; }
};

// The chunk at a place, its CRC verified; `at` goes behind it.
Chunk chunkAt(const uint8_t* file, size_t length, size_t& at) {
  if (at + 12 > length) throw std::runtime_error("it ends within its chunks");
  const size_t size = longAt(file + at);
  if (size > length - at - 12) throw std::runtime_error("it ends within a chunk");
  const Chunk chunk{file + at + 4, file + at + 8, size};
  if (libdeflate_crc32(0, chunk.type, size + 4) != longAt(chunk.data + size))
    throw std::runtime_error("the checksum of its chunk " + std::string(reinterpret_cast<const char*>(chunk.type), 4) + " is not that of its bytes");
  at += 12 + size;
  return chunk;
}

}  // namespace

SHALE_VECTORS void swapPairs(const uint8_t* from, uint8_t* to, size_t length) {
  for (size_t at = 0; at + 1 < length; at += 2) {
    const uint8_t first = from[at];
    to[at] = from[at + 1];
    to[at + 1] = first;
  }
}

Layout layoutOf(const uint8_t* file, size_t length) {
  static const uint8_t begins[signature] = {0x89, 'P', 'N', 'G', 0x0d, 0x0a, 0x1a, 0x0a};
  if (length < signature + 25 || std::memcmp(file, begins, signature) != 0) throw std::runtime_error("it does not begin as PNG does");
  size_t at = signature;
  const Chunk head = chunkAt(file, length, at);
  if (!head.is("IHDR") || head.length != 13) throw std::runtime_error("its header is damaged");
  const uint8_t depth = head.data[8], colour = head.data[9];
  const Layout layout{longAt(head.data), longAt(head.data + 4), colour == 0 ? 1u : colour == 2 ? 3u : colour == 4 ? 2u : 4u, depth / 8u};
  const bool isRead = (depth == 8 || depth == 16) && (colour == 0 || colour == 2 || colour == 4 || colour == 6);
  if (!isRead || head.data[10] != 0 || head.data[11] != 0 || head.data[12] != 0) throw std::runtime_error("it is of a kind that is not read here");
  if (layout.width == 0 || layout.height == 0 || layout.width > 65536 || layout.height > 65536 || size_t(layout.width) * layout.height > size_t(1) << 29)
    throw std::runtime_error("its header claims a size that is not taken");
  return layout;
}

void decode(const uint8_t* file, size_t length, const Layout& layout, uint8_t* out) {
  // What is pressed lies in one piece, or is put together.
  std::vector<uint8_t> joined;
  const uint8_t* pressed = nullptr;
  size_t size = 0;
  bool ended = false, behind = false;
  for (size_t at = signature; !ended;) {
    const Chunk chunk = chunkAt(file, length, at);
    if (chunk.is("IDAT")) {
      if (behind) throw std::runtime_error("its data does not lie in one piece");
      if (pressed != nullptr && joined.empty()) joined.assign(pressed, pressed + size);
      if (pressed == nullptr) pressed = chunk.data;
      else joined.insert(joined.end(), chunk.data, chunk.data + chunk.length);
      size += chunk.length;
    } else {
      behind = behind || size > 0;
      ended = chunk.is("IEND");
    }
  }
  if (pressed == nullptr) throw std::runtime_error("it holds no picture");
  if (!joined.empty()) pressed = joined.data();
  const size_t wanted = (layout.row() + 1) * layout.height;
  std::unique_ptr<libdeflate_decompressor, void (*)(libdeflate_decompressor*)> inflater(libdeflate_alloc_decompressor(), libdeflate_free_decompressor);
  if (!inflater) throw std::bad_alloc();
  size_t came = 0;
  const auto result = libdeflate_zlib_decompress(inflater.get(), pressed, size, out, wanted, &came);
  if (result != LIBDEFLATE_SUCCESS || came != wanted) throw std::runtime_error("its data is damaged");
  switch (layout.pixel()) {
    case 1: unfilter<1>(out, layout); break;
    case 2: unfilter<2>(out, layout); break;
    case 3: unfilter<3>(out, layout); break;
    case 4: unfilter<4>(out, layout); break;
    case 6: unfilter<6>(out, layout); break;
    default: unfilter<8>(out, layout);
  }
}

}  // namespace shale
