// Any bytes as strips and tiles of a TIFF, as LZW data, and as what goes into it: a picture or an error, and LZW gives back what went in.
#include <cstring>
#include <stdexcept>
#include <vector>

#include "../../media/tiff/src/tiff.h"

using shale::Compression;

namespace {

void asPicture(const uint8_t* data, size_t size) {
  constexpr Compression compressions[3] = {Compression::none, Compression::lzw, Compression::deflate};
  constexpr uint32_t bytes[3] = {1, 2, 4};
  shale::Layout layout{};
  layout.width = data[0] % 64 + 1;
  layout.height = data[1] % 64 + 1;
  layout.tiles = data[2] & 1;
  layout.planes = data[2] & 2;
  layout.little = data[2] & 4;
  layout.pieceWidth = layout.tiles ? data[3] % 64 + 1 : layout.width;
  layout.pieceHeight = data[4] % 64 + 1;
  layout.stored = data[5] % 5 + 1;
  layout.taken = data[6] % layout.stored + 1;
  layout.bytes = bytes[data[7] % 3];
  layout.compression = compressions[data[8] % 3];
  layout.predictor = data[9] % (layout.bytes == 1 ? 2 : 3) + 1;
  const size_t across = (layout.width + layout.pieceWidth - 1) / layout.pieceWidth;
  const size_t down = (layout.height + layout.pieceHeight - 1) / layout.pieceHeight;
  const size_t count = across * down * (layout.planes ? layout.stored : 1);
  data += 10;
  size -= 10;
  std::vector<shale::Piece> pieces;
  for (size_t at = 0; at < count; ++at) pieces.push_back({at * size / count, size / count});
  std::vector<uint8_t> out(size_t(layout.width) * layout.height * layout.taken * layout.bytes);
  try {
    shale::decode(data, size, layout, pieces, out.data());
  } catch (const std::runtime_error&) {
  }
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  if (size < 11) return 0;
  asPicture(data, size);
  std::vector<uint8_t> packed, room(65536);
  try {
    shale::unpackLzw(data, size, room.data(), room.size());
  } catch (const std::runtime_error&) {
  }
  if (size > room.size()) return 0;
  shale::packLzw(data, size, packed);
  if (shale::unpackLzw(packed.data(), packed.size(), room.data(), room.size()) != size || std::memcmp(room.data(), data, size) != 0) __builtin_trap();
  return 0;
}
