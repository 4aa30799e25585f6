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

// The luma of a row of colours; each kind of sample by itself, so that it is compiled for wide vectors.
#define SHALE_LUMA(T, step)                                                                                       \
  SHALE_VECTORS void lumaOf##step(const T* from, size_t width, double most, float* to) {                          \
    for (size_t at = 0; at < width; ++at) {                                                                       \
      const T* pixel = from + at * step;                                                                          \
      to[at] = float((shares[0] * double(pixel[0]) + (shares[1] * double(pixel[1]) + shares[2] * double(pixel[2]))) / most); \
    }                                                                                                             \
  }
SHALE_LUMA(uint8_t, 3)
SHALE_LUMA(uint8_t, 4)
SHALE_LUMA(uint16_t, 3)
SHALE_LUMA(uint16_t, 4)
SHALE_LUMA(float, 3)
SHALE_LUMA(float, 4)
#undef SHALE_LUMA

// The luma of a row: of all windows the first column, then of all the second, so that windows are summed side by side.
template <typename T>
void lumaRow(const T* from, size_t width, size_t windows, int channels, const float* values, double most, std::vector<float>& room, float* to) {
  const size_t step = size_t(channels);
  if (values || channels < 3) {
    for (size_t at = 0; at < width; ++at) {
      const T* pixel = from + at * step;
      const double light = channels < 3 ? double(valueOf(pixel[0], values))
                                        : shares[0] * double(valueOf(pixel[0], values)) +
                                              (shares[1] * double(valueOf(pixel[1], values)) + shares[2] * double(valueOf(pixel[2], values)));
      room[at] = float(light / most);
    }
  } else if (channels == 3) {
    lumaOf3(from, width, most, room.data());
  } else {
    lumaOf4(from, width, most, room.data());
  }
  const size_t whole = width / side;
  for (size_t window = 0; window < whole; ++window)
    for (size_t column = 0; column < side; ++column) to[column * windows + window] = room[window * side + column];
  for (size_t column = 0; column < width % side; ++column) to[column * windows + whole] = room[whole * side + column];
}

// Sums of windows, side by side.
struct Sums {
  std::vector<double> x, y, xx, yy, xy;
  explicit Sums(size_t windows) : x(windows), y(windows), xx(windows), yy(windows), xy(windows) {}
  void clear() {
    for (auto* one : {&x, &y, &xx, &yy, &xy}) std::fill(one->begin(), one->end(), 0.0);
  }
};

SHALE_VECTORS void addColumn(const float* x, const float* y, size_t windows, double* sx, double* sy, double* sxx, double* syy, double* sxy) {
  for (size_t at = 0; at < windows; ++at) {
    const double p = x[at], q = y[at];
    sx[at] += p;
    sy[at] += q;
    sxx[at] += p * p;
    syy[at] += q * q;
    sxy[at] += p * q;
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
  const size_t windows = (width + side - 1) / side, last = width - (windows - 1) * side;
  std::vector<float> x(windows * side), y(windows * side), room(width);
  Sums sums(windows);
  double sum = 0;
  for (size_t top = 0; top < height; top += side) {
    const size_t rows = std::min(side, height - top);
    sums.clear();
    for (size_t row = 0; row < rows; ++row) {
      const size_t at = (top + row) * width * size_t(channels);
      lumaRow(a + at, width, windows, channels, values, most, room, x.data());
      lumaRow(b + at, width, windows, channels, values, most, room, y.data());
      // The last window may be narrower.
      for (size_t column = 0; column < side; ++column)
        addColumn(x.data() + column * windows, y.data() + column * windows, column < last ? windows : windows - 1, sums.x.data(), sums.y.data(),
                  sums.xx.data(), sums.yy.data(), sums.xy.data());
    }
    for (size_t at = 0; at < windows; ++at) {
      const double count = double(rows * (at + 1 < windows ? side : last)), mx = sums.x[at] / count, my = sums.y[at] / count;
      const double spread = sums.xx[at] / count - mx * mx + sums.yy[at] / count - my * my, both = sums.xy[at] / count - mx * my;
      sum += ((2 * mx * my + c1) * (2 * both + c2)) / ((mx * mx + my * my + c1) * (spread + c2));
    }
  }
  const double all = double(windows) * double((height + side - 1) / side);
  return {errorOf(a, b, width * height * size_t(channels), values), std::min(1.0, sum / all)};
}

template Likeness likeness(const uint8_t*, const uint8_t*, size_t, size_t, int, const float*, double);
template Likeness likeness(const uint16_t*, const uint16_t*, size_t, size_t, int, const float*, double);
template Likeness likeness(const float*, const float*, size_t, size_t, int, const float*, double);

}  // namespace shale
