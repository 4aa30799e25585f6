#include "deflate.h"

#include <isa-l/igzip_lib.h>
#include <libdeflate.h>

#include <algorithm>
#include <memory>
#include <new>
#include <stdexcept>

namespace shale {

size_t deflateBound(size_t length) { return libdeflate_zlib_compress_bound(nullptr, length) + 1024; }

namespace {

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
  stream.avail_out = uint32_t(deflateBound(length));
  if (isal_deflate_stateless(&stream) != COMP_OK) throw std::runtime_error("igzip could not compress the rows");
  return stream.total_out;
}

}  // namespace

size_t deflate(int level, const uint8_t* from, size_t length, uint8_t* out) {
  if (level == 0 && length <= mostOfIgzip) return byIgzip(from, length, out);
  std::unique_ptr<libdeflate_compressor, void (*)(libdeflate_compressor*)> deflater(libdeflate_alloc_compressor(std::max(level, 1)), libdeflate_free_compressor);
  const size_t size = deflater ? libdeflate_zlib_compress(deflater.get(), from, length, out, deflateBound(length)) : 0;
  if (size == 0) throw std::bad_alloc();
  return size;
}

}  // namespace shale
