// PNG (third edition), read of every colour type, depth and interlacing, written of 8 and 16 bits: over libdeflate and igzip.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

#include "../../native/vectors.h"

namespace shale {

// A picture's samples, interleaved, those of 16 bits in the machine's order of bytes. Fewer than 8 bits become 8 over the full range,
// a palette its colours, and one colour that is clear an alpha.
struct Layout {
  uint32_t width;
  uint32_t height;
  uint32_t channels;  // 1 to 4
  uint32_t bytes;     // of a sample: 1 or 2

  size_t pixel() const { return size_t(channels) * bytes; }
  size_t row() const { return size_t(width) * pixel(); }
  size_t size() const { return row() * height; }
};

// Decodes a file into the first layout.size() bytes of `out`, `room` bytes, which are to be one more for each row. Every chunk's CRC, the Adler-32 and the count of bytes
// are verified. Throws std::runtime_error, and `out` is then no picture.
void decode(const uint8_t* file, size_t length, uint8_t* out, size_t room);

// Encodes samples as IDAT and IEND chunks. effort: 1 fast to 9 small.
std::vector<uint8_t> encode(const uint8_t* samples, const Layout& layout, int effort);

// Pairs of bytes change places: the order of PNG and that of the machine.
void swapPairs(const uint8_t* from, uint8_t* to, size_t length);

}  // namespace shale
