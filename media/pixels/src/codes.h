// Stored samples of values, as core has them.
#pragma once

#include <cmath>
#include <cstdint>
#include <cstring>

namespace shale {

// numberToHalf of core/pixels/half.ts: the nearest half, ties to even.
inline uint16_t halfOf(double value) {
  if (std::isnan(value)) return 0x7e00;
  const uint16_t sign = std::signbit(value) ? 0x8000 : 0;
  const double size = std::fabs(value);
  if (size >= 65520) return sign | 0x7c00;
  // Denormal halves are multiples of 2^-24; nearbyint rounds ties to even.
  if (size < 0x1p-14) return uint16_t(sign | uint32_t(std::nearbyint(size * 0x1p24)));
  uint64_t bits;
  std::memcpy(&bits, &size, sizeof bits);
  constexpr uint64_t half = uint64_t(1) << 41;
  const uint64_t rest = bits & (2 * half - 1);
  const uint32_t exponent = uint32_t(bits >> 52) - 1023 + 15;
  uint32_t code = (exponent << 10) | uint32_t((bits >> 42) & 0x3ff);
  // A carry goes on into the next power by itself.
  code += rest > half || (rest == half && (code & 1));
  return uint16_t(sign | code);
}

// A whole alpha, or a share of light, as a code: round(value * max).
inline uint32_t plainCode(double value, int max) {
  if (!(value > 0)) return 0;
  return value >= 1 ? uint32_t(max) : uint32_t(std::floor(value * max + 0.5));
}

}  // namespace shale
