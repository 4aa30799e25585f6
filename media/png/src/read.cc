#include "png.h"

#include <libdeflate.h>

#include <algorithm>
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
void unfilter(uint8_t* out, size_t row, uint32_t height, bool pairs) {
  const std::vector<uint8_t> nothing(row, 0);
  const uint8_t* above = nothing.data();
  for (uint32_t y = 0; y < height; ++y) {
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
    if (pairs && y > 0) swapPairs(to - row, to - row, row);
    above = to;
  }
  uint8_t* last = out + row * (height - 1);
  if (pairs) swapPairs(last, last, row);
}

// By the bytes of a pixel, 1 for those that share a byte.
void unfilter(uint8_t* out, size_t row, uint32_t height, size_t pixel, bool pairs) {
  switch (pixel) {
    case 1: return unfilter<1>(out, row, height, pairs);
    case 2: return unfilter<2>(out, row, height, pairs);
    case 3: return unfilter<3>(out, row, height, pairs);
    case 4: return unfilter<4>(out, row, height, pairs);
    case 6: return unfilter<6>(out, row, height, pairs);
    default: return unfilter<8>(out, row, height, pairs);
  }
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
#ifndef FUZZING_BUILD_MODE_UNSAFE_FOR_PRODUCTION
  if (libdeflate_crc32(0, chunk.type, size + 4) != longAt(chunk.data + size))
    throw std::runtime_error("the checksum of its chunk " + std::string(reinterpret_cast<const char*>(chunk.type), 4) + " is not that of its bytes");
#endif
  at += 12 + size;
  return chunk;
}

// What IHDR says, with what of the chunks before the picture decides how its samples are meant.
struct Head {
  uint32_t width, height;
  uint32_t depth;   // bits of a stored sample
  uint8_t colour;   // 0 grey, 2 colour, 3 by palette, 4 grey and alpha, 6 colour and alpha (11.2.1)
  bool interlaced;
  const uint8_t* palette = nullptr;
  size_t colours = 0;  // in it
  const uint8_t* clear = nullptr;  // tRNS (11.3.1.1)
  size_t clearLength = 0;

  uint32_t stored() const { return colour == 2 ? 3 : colour == 4 ? 2 : colour == 6 ? 4 : 1; }
  bool hasClear() const { return clear != nullptr && (colour == 0 || colour == 2 || colour == 3); }
  Layout layout() const {
    const uint32_t channels = (colour == 3 ? 3 : stored()) + (hasClear() ? 1 : 0);
    return {width, height, channels, depth == 16 ? 2u : 1u};
  }
  size_t rowOf(size_t pixels) const { return (pixels * stored() * depth + 7) / 8; }
  // Samples lie in the file as they are wanted, row behind row.
  bool isPlain() const { return !interlaced && depth >= 8 && colour != 3 && !hasClear(); }
};

Head headOf(const Chunk& chunk) {
  if (!chunk.is("IHDR") || chunk.length != 13) throw std::runtime_error("its header is damaged");
  Head head{longAt(chunk.data), longAt(chunk.data + 4), chunk.data[8], chunk.data[9], chunk.data[12] == 1};
  const uint32_t depth = head.depth;
  const bool few = depth == 1 || depth == 2 || depth == 4, many = depth == 8 || depth == 16;
  const bool isOfType = head.colour == 0 ? few || many : head.colour == 3 ? few || depth == 8 : many && (head.colour == 2 || head.colour == 4 || head.colour == 6);
  if (!isOfType || chunk.data[10] != 0 || chunk.data[11] != 0 || chunk.data[12] > 1) throw std::runtime_error("its header is of a kind that there is not");
  if (head.width == 0 || head.height == 0 || head.width > 65536 || head.height > 65536 || size_t(head.width) * head.height > size_t(1) << 29)
    throw std::runtime_error("its header claims a size that is not taken");
  return head;
}

// A picture of fewer pixels within the picture: where its first is, and how far the next are from it (8.2). All of it where it is not interlaced.
struct Pass {
  uint32_t left, top, across, down;
  uint32_t widthIn(uint32_t width) const { return width > left ? (width - left + across - 1) / across : 0; }
  uint32_t heightIn(uint32_t height) const { return height > top ? (height - top + down - 1) / down : 0; }
};
constexpr Pass whole[1] = {{0, 0, 1, 1}};
constexpr Pass adam7[7] = {{0, 0, 8, 8}, {4, 0, 8, 8}, {0, 4, 4, 8}, {2, 0, 4, 4}, {0, 2, 2, 4}, {1, 0, 2, 2}, {0, 1, 1, 2}};

uint32_t shortAt(const uint8_t* from) { return uint32_t(from[0]) << 8 | from[1]; }

// A row of a pass as samples of 8 bits, or 16 in the machine's order, each pixel at its place in a row of the picture.
void spread(const Head& head, const uint8_t* row, uint32_t pixels, const Pass& pass, uint8_t* out, uint32_t y) {
  const uint32_t stored = head.stored(), most = (1u << head.depth) - 1;
  const size_t pixel = head.layout().pixel();
  const bool wide = head.depth == 16, hasClear = head.hasClear();
  for (uint32_t x = 0; x < pixels; ++x) {
    uint8_t* to = out + size_t(pass.left + x * pass.across) * pixel;
    uint32_t samples[4] = {0, 0, 0, 0};
    for (uint32_t at = 0; at < stored; ++at) {
      const size_t place = size_t(x) * stored + at;
      if (wide) {
        uint16_t sample;
        std::memcpy(&sample, row + place * 2, 2);
        samples[at] = sample;
      } else if (head.depth == 8) samples[at] = row[place];
      else samples[at] = row[place * head.depth / 8] >> (8 - head.depth - place * head.depth % 8) & most;
    }
    if (head.colour == 3) {
      if (samples[0] >= head.colours) throw std::runtime_error("row " + std::to_string(y) + " has a colour that its palette has not");
      std::memcpy(to, head.palette + samples[0] * 3, 3);
      if (hasClear) to[3] = samples[0] < head.clearLength ? head.clear[samples[0]] : 255;
      continue;
    }
    bool isClear = hasClear;
    for (uint32_t at = 0; at < stored; ++at) {
      // Of the clear colour's 16 bits those count that a sample has.
      if (hasClear) isClear = isClear && samples[at] == (shortAt(head.clear + at * 2) & most);
      if (head.depth < 8) samples[at] = samples[at] * 255 / most;
    }
    if (hasClear) samples[stored] = isClear ? 0 : wide ? 65535 : 255;
    for (uint32_t at = 0; at < stored + (hasClear ? 1 : 0); ++at) {
      const uint16_t sample = uint16_t(samples[at]);
      if (wide) std::memcpy(to + at * 2, &sample, 2);
      else to[at] = uint8_t(sample);
    }
  }
}

// What is filled and filtered in passes or otherwise than it is wanted, by way of room of its own.
void spreadAll(const Head& head, uint8_t* filtered, uint8_t* out) {
  const size_t pixel = std::max<size_t>(1, size_t(head.stored()) * head.depth / 8), line = head.layout().row();
  const Pass* passes = head.interlaced ? adam7 : whole;
  for (int at = 0; at < (head.interlaced ? 7 : 1); ++at) {
    const Pass& pass = passes[at];
    const uint32_t width = pass.widthIn(head.width), height = pass.heightIn(head.height);
    if (width == 0 || height == 0) continue;
    const size_t row = head.rowOf(width);
    unfilter(filtered, row, height, pixel, head.depth == 16);
    for (uint32_t y = 0; y < height; ++y) {
      const uint32_t to = pass.top + y * pass.down;
      spread(head, filtered + y * row, width, pass, out + to * line, to);
    }
    filtered += (row + 1) * height;
  }
}

size_t filteredLength(const Head& head) {
  size_t length = 0;
  const Pass* passes = head.interlaced ? adam7 : whole;
  for (int at = 0; at < (head.interlaced ? 7 : 1); ++at) {
    const uint32_t width = passes[at].widthIn(head.width), height = passes[at].heightIn(head.height);
    if (width > 0) length += (head.rowOf(width) + 1) * height;
  }
  return length;
}

#ifdef FUZZING_BUILD_MODE_UNSAFE_FOR_PRODUCTION
// For a fuzzer, which would hardly ever make data that inflates: taken as it is.
void inflate(const uint8_t* pressed, size_t size, uint8_t* out, size_t wanted) {
  std::memset(out, 0, wanted);
  std::memcpy(out, pressed, std::min(size, wanted));
}
#else
void inflate(const uint8_t* pressed, size_t size, uint8_t* out, size_t wanted) {
  std::unique_ptr<libdeflate_decompressor, void (*)(libdeflate_decompressor*)> inflater(libdeflate_alloc_decompressor(), libdeflate_free_decompressor);
  if (!inflater) throw std::bad_alloc();
  size_t came = 0;
  const auto result = libdeflate_zlib_decompress(inflater.get(), pressed, size, out, wanted, &came);
  if (result != LIBDEFLATE_SUCCESS || came != wanted) throw std::runtime_error("its data is damaged");
}
#endif

}  // namespace

void decode(const uint8_t* file, size_t length, uint8_t* out, size_t room) {
  static const uint8_t begins[signature] = {0x89, 'P', 'N', 'G', 0x0d, 0x0a, 0x1a, 0x0a};
  if (length < signature + 25 || std::memcmp(file, begins, signature) != 0) throw std::runtime_error("it does not begin as PNG does");
  size_t at = signature;
  Head head = headOf(chunkAt(file, length, at));
  // What is pressed lies in one piece, or is put together.
  std::vector<uint8_t> joined;
  const uint8_t* pressed = nullptr;
  size_t size = 0;
  for (bool ended = false, behind = false; !ended;) {
    const Chunk chunk = chunkAt(file, length, at);
    if (chunk.is("IDAT")) {
      if (behind) throw std::runtime_error("its data does not lie in one piece");
      if (pressed != nullptr && joined.empty()) joined.assign(pressed, pressed + size);
      if (pressed == nullptr) pressed = chunk.data;
      else joined.insert(joined.end(), chunk.data, chunk.data + chunk.length);
      size += chunk.length;
      continue;
    }
    behind = behind || size > 0;
    ended = chunk.is("IEND");
    if (size > 0) continue;
    if (chunk.is("PLTE")) {
      head.palette = chunk.data;
      head.colours = chunk.length / 3;
    } else if (chunk.is("tRNS")) {
      head.clear = chunk.data;
      head.clearLength = chunk.length;
    }
  }
  if (pressed == nullptr) throw std::runtime_error("it holds no picture");
  if (!joined.empty()) pressed = joined.data();
  if (head.colour == 3 && head.colours == 0) throw std::runtime_error("it has no palette");
  if (head.hasClear() && head.colour != 3 && head.clearLength < size_t(head.stored()) * 2) throw std::runtime_error("its clear colour is damaged");
  const Layout layout = head.layout();
  if (layout.size() + layout.height != room) throw std::runtime_error("its header is not what it was");
  if (head.isPlain()) {
    inflate(pressed, size, out, room);
    unfilter(out, layout.row(), layout.height, layout.pixel(), layout.bytes == 2);
    return;
  }
  const size_t wanted = filteredLength(head);
  std::unique_ptr<uint8_t[]> filtered(new uint8_t[wanted]);
  inflate(pressed, size, filtered.get(), wanted);
  spreadAll(head, filtered.get(), out);
}

SHALE_VECTORS void swapPairs(const uint8_t* from, uint8_t* to, size_t length) {
  for (size_t at = 0; at + 1 < length; at += 2) {
    const uint8_t first = from[at];
    to[at] = from[at + 1];
    to[at + 1] = first;
  }
}

}  // namespace shale
