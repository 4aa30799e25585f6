// The two passes of core/pixels/resample.ts, compiled: sums are doubles in the same order, so that every float is core's.
#include "../../native/vectors.h"
#include "pixels.h"

#include <vector>

// Of vectors of any width it gives the same, since no multiplication is fused with an addition.
namespace shale {

namespace {

SHALE_VECTORS void acrossFour(const float* source, float* out, size_t width, size_t height, const Taps& taps) {
  for (size_t y = 0; y < height; ++y) {
    const float* row = source + y * width * 4;
    const double* weight = taps.weights;
    for (size_t x = 0; x < taps.to; ++x, out += 4) {
      const float* from = row + size_t(taps.first[x]) * 4;
      double sums[4] = {0, 0, 0, 0};
      for (size_t tap = 0; tap < taps.count; ++tap, from += 4, ++weight)
        for (int channel = 0; channel < 4; ++channel) sums[channel] += double(from[channel]) * *weight;
      for (int channel = 0; channel < 4; ++channel) out[channel] = float(sums[channel]);
    }
  }
}

void acrossAny(const float* source, float* out, size_t width, size_t height, size_t stride, const Taps& taps) {
  for (size_t y = 0; y < height; ++y) {
    const float* row = source + y * width * stride;
    for (size_t x = 0; x < taps.to; ++x) {
      const double* weights = taps.weights + x * taps.count;
      for (size_t channel = 0; channel < stride; ++channel) {
        const float* from = row + size_t(taps.first[x]) * stride + channel;
        double sum = 0;
        for (size_t tap = 0; tap < taps.count; ++tap, from += stride) sum += double(*from) * weights[tap];
        *out++ = float(sum);
      }
    }
  }
}

}  // namespace

void across(const float* source, float* out, size_t width, size_t height, size_t stride, const Taps& taps) {
  if (stride == 4) acrossFour(source, out, width, height, taps);
  else acrossAny(source, out, width, height, stride, taps);
}

SHALE_VECTORS void down(const float* source, float* out, size_t row, const Taps& taps) {
  std::vector<double> sums(row);
  double* sum = sums.data();
  for (size_t y = 0; y < taps.to; ++y) {
    for (size_t at = 0; at < row; ++at) sum[at] = 0;
    for (size_t tap = 0; tap < taps.count; ++tap) {
      const double weight = taps.weights[y * taps.count + tap];
      if (weight == 0) continue;
      const float* from = source + (size_t(taps.first[y]) + tap) * row;
      for (size_t at = 0; at < row; ++at) sum[at] += double(from[at]) * weight;
    }
    for (size_t at = 0; at < row; ++at) out[y * row + at] = float(sum[at]);
  }
}

}  // namespace shale
