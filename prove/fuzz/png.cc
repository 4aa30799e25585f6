// Any bytes as a PNG: it is a picture or an error, never more. Built with FUZZING_BUILD_MODE_UNSAFE_FOR_PRODUCTION, checksums are not asked for
// and data is taken as if it were inflated already, so that rows and filters are reached.
#include <stdexcept>
#include <vector>

#include "../../media/png/src/png.h"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  if (size < 33) return 0;
  const auto side = [data](size_t at) { return size_t(data[at]) << 24 | size_t(data[at + 1]) << 16 | size_t(data[at + 2]) << 8 | data[at + 3]; };
  const size_t width = side(16), height = side(20);
  if (width == 0 || height == 0 || width > 4096 || height > 4096 || width * height > 65536) return 0;
  for (size_t pixel = 1; pixel <= 8; ++pixel) {
    std::vector<uint8_t> out(width * height * pixel + height);
    try {
      shale::decode(data, size, out.data(), out.size());
    } catch (const std::runtime_error&) {
    }
  }
  return 0;
}
