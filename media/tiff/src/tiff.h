// Strips and tiles of TIFF (TIFF 6.0, sections 13 to 15; deflate and predictor 3 by its technical notes 2 and 3): what lies in them, not what
// the directory says.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

namespace shale {

// As tag 259 has it.
enum class Compression : uint32_t { none = 1, lzw = 5, deflate = 8 };

// How the samples of a picture lie in its file.
struct Layout {
  uint32_t width;
  uint32_t height;
  // Of a strip, as wide as the picture, or of a tile.
  uint32_t pieceWidth;
  uint32_t pieceHeight;
  uint32_t stored;  // channels in the file
  uint32_t taken;   // the first of them, which are wanted
  uint32_t bytes;   // of a sample: 1, 2 or 4
  Compression compression;
  uint32_t predictor;  // 1 none, 2 differences, 3 of floats
  bool tiles;
  bool planes;  // each channel in pieces of its own
  bool little;
};

struct Piece {
  uint64_t at;
  uint64_t length;
};

// The samples that are wanted into `out`, interleaved, in the machine's order of bytes. Checksums of deflated data are verified, LZW is read strictly,
// and a piece that stands for another length than its strip or tile has is refused. Throws std::runtime_error, and `out` is then no picture.
void decode(const uint8_t* file, size_t length, const Layout& layout, const std::vector<Piece>& pieces, uint8_t* out);

// Bytes of LZW data, at the most `room`, read strictly: it begins with a clear and uses no code that is not made yet.
size_t unpackLzw(const uint8_t* from, size_t length, uint8_t* out, size_t room);

// Adds LZW data of some bytes to `out`.
void packLzw(const uint8_t* from, size_t length, std::vector<uint8_t>& out);

// A picture in strips of some rows, compressed by LZW or deflate, behind differences to the pixel before where it `predicts`, low byte first.
// Returns the strips one after another; adds the length of each to `lengths`.
std::vector<uint8_t> encode(const uint8_t* samples, const Layout& layout, int effort, std::vector<uint64_t>& lengths);

}  // namespace shale
