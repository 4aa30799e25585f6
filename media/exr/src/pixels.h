// The two commonest conversions, as core/pixels/packed.ts has them, compiled. They look up the very tables that core
// made, so that the numbers are core's; media/kernels.test.ts holds both to each other.
#pragma once

#include <cstddef>
#include <cstdint>

namespace shale {

// 16-bit samples to 8 bits.
void narrow(const uint16_t* from, uint8_t* to, size_t samples);

// Tables by half-float code, and the steps of the curve.
struct DivideTables {
  const uint8_t* colour;
  const uint8_t* alpha;
  const uint8_t* outside;  // 0 within 0..1, 1 below, 2 above, 3 not a number
  const float* values;
  const double* bounds;
  const uint16_t* guesses;
  double parts;
};

struct DivideCounts {
  uint32_t low[3] = {0, 0, 0};  // by channel
  uint32_t high[3] = {0, 0, 0};
  uint32_t nan = 0;
  uint32_t glow = 0;
};

// Premultiplied half-float RGBA to straight 8-bit RGBA.
void divide(const uint16_t* from, uint8_t* to, size_t pixels, const DivideTables& tables, DivideCounts& counts);

}  // namespace shale
