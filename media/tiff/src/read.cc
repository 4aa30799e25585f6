#include "tiff.h"

#include <libdeflate.h>

#include <algorithm>
#include <cstring>
#include <memory>
#include <stdexcept>
#include <string>

#include "../../native/vectors.h"

namespace shale {

namespace {

[[noreturn]] void damaged(const std::string& how) { throw std::runtime_error("its compressed data is damaged (" + how + ")"); }

// Bytes that a writer may have deflated behind the last row.
constexpr size_t slack = 4096;

template <class T>
T turned(T value) {
  if constexpr (sizeof(T) == 2) return T(__builtin_bswap16(value));
  if constexpr (sizeof(T) == 4) return T(__builtin_bswap32(value));
  return value;
}

template <class T>
SHALE_VECTORS void turnAll(T* row, size_t count) {
  for (size_t at = 0; at < count; ++at) row[at] = turned(row[at]);
}

// Sums in place of differences to the pixel before (section 14).
template <class T>
void addUp(T* row, size_t count, size_t step) {
  for (size_t at = step; at < count; ++at) row[at] = T(row[at] + row[at - step]);
}

template <class T>
void finishRow(uint8_t* bytes, size_t count, size_t step, const Layout& layout) {
  T* row = reinterpret_cast<T*>(bytes);
  if (!layout.little && sizeof(T) > 1) turnAll(row, count);
  if (layout.predictor == 2) addUp(row, count, step);
}

// Floats of which the bytes lie apart, the highest of all first, as differences (technical note 3).
void gather(uint8_t* row, uint8_t* room, size_t count, size_t step, size_t bytes) {
  addUp(row, count * bytes, step);
  std::memcpy(room, row, count * bytes);
  for (size_t at = 0; at < count; ++at)
    for (size_t byte = 0; byte < bytes; ++byte) row[at * bytes + byte] = room[(bytes - 1 - byte) * count + at];
}

// Some channels of each pixel into places that are further apart, or nearer.
template <class T>
void spread(const uint8_t* from, size_t fromStep, uint8_t* to, size_t toStep, size_t channels, size_t pixels) {
  const T* source = reinterpret_cast<const T*>(from);
  T* target = reinterpret_cast<T*>(to);
  for (size_t at = 0; at < pixels; ++at)
    for (size_t channel = 0; channel < channels; ++channel) target[at * toStep + channel] = source[at * fromStep + channel];
}

}  // namespace

size_t unpackLzw(const uint8_t* from, size_t length, uint8_t* out, size_t room) {
  constexpr unsigned clear = 256, end = 257;
  // Each code of the table is what was written at a place.
  std::unique_ptr<size_t[]> places(new size_t[4096]);
  std::unique_ptr<uint32_t[]> lengths(new uint32_t[4096]);
  unsigned next = 258, width = 9;
  size_t total = 0, previousAt = 0, previous = 0;
  uint64_t held = 0;
  unsigned bits = 0;
  bool hasBegun = false;
  for (size_t at = 0;;) {
    while (bits <= 56 && at < length) {
      held = held << 8 | from[at++];
      bits += 8;
    }
    // Without an end it is taken as long as it is.
    if (bits < width) return total;
    bits -= width;
    const unsigned code = unsigned(held >> bits) & ((1u << width) - 1);
    if (!hasBegun && code != clear) damaged("its LZW data does not begin with a clear");
    hasBegun = true;
    if (code == end) return total;
    if (code == clear) {
      next = 258;
      width = 9;
      previous = 0;
      continue;
    }
    // The code that is being made stands for the string before and its own first byte.
    if (code > next || (code == next && previous == 0)) damaged("its LZW data uses a code that is not made yet");
    const size_t many = code < 256 ? 1 : code == next ? previous + 1 : lengths[code];
    if (many > room - total) damaged("more bytes than it has room for");
    uint8_t* to = out + total;
    if (code < 256) {
      *to = uint8_t(code);
    } else {
      const uint8_t* source = out + (code == next ? previousAt : places[code]);
      // What is written may be read again at once.
      if (source + many <= to) std::memcpy(to, source, many);
      else for (size_t byte = 0; byte < many; ++byte) to[byte] = source[byte];
    }
    if (previous > 0 && next < 4096) {
      places[next] = previousAt;
      lengths[next] = uint32_t(previous + 1);
      ++next;
      // One bit longer a code early (section 13).
      if (next == (1u << width) - 1 && width < 12) ++width;
    }
    previousAt = total;
    previous = many;
    total += many;
  }
}

void decode(const uint8_t* file, size_t length, const Layout& layout, const std::vector<Piece>& pieces, uint8_t* out) {
  const size_t step = layout.planes ? 1 : layout.stored;
  const size_t rowSamples = size_t(layout.pieceWidth) * step, rowBytes = rowSamples * layout.bytes;
  const size_t most = rowBytes * layout.pieceHeight;
  const size_t across = (layout.width + layout.pieceWidth - 1) / layout.pieceWidth;
  const size_t down = (layout.height + layout.pieceHeight - 1) / layout.pieceHeight;
  std::unique_ptr<uint8_t[]> room(new uint8_t[most + slack]), apart(new uint8_t[rowBytes]);
  std::unique_ptr<libdeflate_decompressor, void (*)(libdeflate_decompressor*)> inflater(libdeflate_alloc_decompressor(), libdeflate_free_decompressor);
  if (!inflater) throw std::bad_alloc();
  const size_t planes = layout.planes ? layout.taken : 1;
  for (size_t plane = 0; plane < planes; ++plane)
    for (size_t pieceAt = 0; pieceAt < across * down; ++pieceAt) {
      const Piece& piece = pieces[plane * across * down + pieceAt];
      const uint32_t left = uint32_t(pieceAt % across) * layout.pieceWidth, top = uint32_t(pieceAt / across) * layout.pieceHeight;
      const uint32_t rows = std::min(layout.pieceHeight, layout.height - top), pixels = std::min(layout.pieceWidth, layout.width - left);
      const size_t needs = layout.tiles ? most : rowBytes * rows;
      if (piece.at > length || piece.length > length - piece.at) throw std::runtime_error("its data lies beyond its end");
      const uint8_t* from = file + piece.at;
      size_t found = 0;
      if (layout.compression == Compression::none) {
        found = piece.length;
        if (found >= needs) std::memcpy(room.get(), from, needs);
      } else if (layout.compression == Compression::lzw) {
        found = unpackLzw(from, piece.length, room.get(), most);
        if (found != needs && found != most) damaged(std::to_string(found) + " bytes where it has " + std::to_string(needs));
      } else if (libdeflate_zlib_decompress(inflater.get(), from, piece.length, room.get(), most + slack, &found) != LIBDEFLATE_SUCCESS) {
        damaged("it cannot be inflated");
      }
      if (found < needs) damaged(std::to_string(found) + " bytes where it has " + std::to_string(needs));
      for (uint32_t y = 0; y < rows; ++y) {
        uint8_t* row = room.get() + y * rowBytes;
        if (layout.predictor == 3) gather(row, apart.get(), rowSamples, step, layout.bytes);
        else if (layout.bytes == 1) finishRow<uint8_t>(row, rowSamples, step, layout);
        else if (layout.bytes == 2) finishRow<uint16_t>(row, rowSamples, step, layout);
        else finishRow<uint32_t>(row, rowSamples, step, layout);
        uint8_t* to = out + ((size_t(top + y) * layout.width + left) * layout.taken + plane) * layout.bytes;
        const size_t channels = layout.planes ? 1 : layout.taken;
        if (step == layout.taken) std::memcpy(to, row, pixels * step * layout.bytes);
        else if (layout.bytes == 1) spread<uint8_t>(row, step, to, layout.taken, channels, pixels);
        else if (layout.bytes == 2) spread<uint16_t>(row, step, to, layout.taken, channels, pixels);
        else spread<uint32_t>(row, step, to, layout.taken, channels, pixels);
      }
    }
}

}  // namespace shale
