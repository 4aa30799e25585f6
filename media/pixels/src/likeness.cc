// similarityOf of core/pixels/similarity.ts, in the same order of sums.
#include "pixels.h"

#include "../../native/vectors.h"

#include <algorithm>
#include <cstdint>
#include <type_traits>
#include <vector>

namespace shale {

namespace {

constexpr size_t side = 8;
constexpr double shares[3] = {0.2126, 0.7152, 0.0722};

// What a sample is worth: of halves by their bits.
template <typename T>
float valueOf(T sample, const float* values) {
  if constexpr (std::is_same_v<T, uint16_t>) return values ? values[sample] : float(sample);
  return float(sample);
}

template <typename T>
void lumaRow(const T* from, size_t width, int channels, const float* values, double most, float* to) {
  for (size_t at = 0; at < width; ++at, from += channels) {
    const double light = channels < 3 ? double(valueOf(from[0], values))
                                      : shares[0] * double(valueOf(from[0], values)) +
                                            (shares[1] * double(valueOf(from[1], values)) + shares[2] * double(valueOf(from[2], values)));
    to[at] = float(light / most);
  }
}

SHALE_VECTORS uint64_t squares(const uint8_t* a, const uint8_t* b, size_t count) {
  uint64_t sum = 0;
  // So many squares of 255 fit into 32 bits.
  constexpr size_t part = 65536;
  for (size_t from = 0; from < count; from += part) {
    uint32_t some = 0;
    for (size_t at = from; at < std::min(count, from + part); ++at) {
      const int32_t apart = int32_t(a[at]) - int32_t(b[at]);
      some += uint32_t(apart * apart);
    }
    sum += some;
  }
  return sum;
}

SHALE_VECTORS uint64_t squares(const uint16_t* a, const uint16_t* b, size_t count) {
  uint64_t sum = 0;
  for (size_t at = 0; at < count; ++at) {
    const int64_t apart = int64_t(a[at]) - int64_t(b[at]);
    sum += uint64_t(apart * apart);
  }
  return sum;
}

template <typename T>
double errorOf(const T* a, const T* b, size_t count, const float* values) {
  if constexpr (!std::is_same_v<T, float>)
    if (!values) return double(squares(a, b, count));
  double sum = 0;
  for (size_t at = 0; at < count; ++at) {
    const double apart = double(valueOf(a[at], values)) - double(valueOf(b[at], values));
    sum += apart * apart;
  }
  return sum;
}

}  // namespace

template <typename T>
Likeness likeness(const T* a, const T* b, size_t width, size_t height, int channels, const float* values, double most) {
  constexpr double c1 = 0.01 * 0.01, c2 = 0.03 * 0.03;
  std::vector<float> x(width * side), y(width * side);
  double sum = 0;
  for (size_t top = 0; top < height; top += side) {
    const size_t rows = std::min(side, height - top);
    for (size_t row = 0; row < rows; ++row) {
      const size_t at = (top + row) * width * size_t(channels);
      lumaRow(a + at, width, channels, values, most, x.data() + row * width);
      lumaRow(b + at, width, channels, values, most, y.data() + row * width);
    }
    for (size_t left = 0; left < width; left += side) {
      const size_t across = std::min(side, width - left);
      double sx = 0, sy = 0, sxx = 0, syy = 0, sxy = 0;
      for (size_t row = 0; row < rows; ++row)
        for (size_t at = row * width + left; at < row * width + left + across; ++at) {
          const double p = x[at], q = y[at];
          sx += p;
          sy += q;
          sxx += p * p;
          syy += q * q;
          sxy += p * q;
        }
      const double count = double(rows * across), mx = sx / count, my = sy / count;
      const double spread = sxx / count - mx * mx + syy / count - my * my, both = sxy / count - mx * my;
      sum += ((2 * mx * my + c1) * (2 * both + c2)) / ((mx * mx + my * my + c1) * (spread + c2));
    }
  }
  const double windows = double((width + side - 1) / side) * double((height + side - 1) / side);
  return {errorOf(a, b, width * height * size_t(channels), values), std::min(1.0, sum / windows)};
}

template Likeness likeness(const uint8_t*, const uint8_t*, size_t, size_t, int, const float*, double);
template Likeness likeness(const uint16_t*, const uint16_t*, size_t, size_t, int, const float*, double);
template Likeness likeness(const float*, const float*, size_t, size_t, int, const float*, double);

}  // namespace shale
