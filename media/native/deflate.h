// zlib streams (RFC 1950) by the quickest of two libraries for an effort.
#pragma once

#include <cstddef>
#include <cstdint>

namespace shale {

// What an effort of 1 fast to 9 small does: a level of libdeflate, or 0 for igzip, which takes a third to a tenth of the time of
// libdeflate's lowest for a tenth more bytes.
constexpr int deflateLevels[9] = {0, 0, 0, 1, 2, 4, 6, 8, 12};
inline int deflateLevel(int effort) { return deflateLevels[effort - 1]; }

// Bytes that deflate() needs room for.
size_t deflateBound(size_t length);

// Writes a zlib stream of `length` bytes into `out`. Returns its length. Throws std::bad_alloc, and std::runtime_error of a library that fails.
size_t deflate(int level, const uint8_t* from, size_t length, uint8_t* out);

}  // namespace shale
