#include "pixels.h"

#include "../../native/vectors.h"

#include <cmath>
#include <cstring>
#include <type_traits>
#include <vector>

#include "codes.h"

namespace shale {

// round(v * 255 / 65535) of a 16-bit sample: exact by integers, since (v * 255 + 32895) div 65536 is (v + 128) div 257.
void narrow(const uint16_t* from, uint8_t* to, size_t samples) {
  for (size_t at = 0; at < samples; ++at) to[at] = uint8_t((uint32_t(from[at]) * 255u + 32895u) >> 16);
}

namespace {

void note(Counts& counts, int kind, int channel) {
  counts.high[channel] += kind == 2;
  counts.low[channel] += kind == 1;
  counts.nan += kind == 3;
  counts.infinite += kind == 4;
}

// outsideKind of core/pixels/outside.ts, for a value that is not held.
int kindOf(double value, const Work& work) {
  if (std::isnan(value)) return 3;
  if (std::isinf(value) && work.heldMost > 1000) return 4;
  return value > work.heldMost ? 2 : 1;
}

template <typename From, typename To>
void lookUp(const From* from, To* to, const To* colour, const To* alpha, const Work& work, Counts& counts) {
  const bool mayBeOutside = work.safe < (sizeof(From) == 1 ? 255 : 65535);
  for (size_t pixel = 0; pixel < work.pixels; ++pixel, from += work.step) {
    for (int channel = 0; channel < work.colours; ++channel) {
      const From code = from[channel];
      *to++ = colour[code];
      if (mayBeOutside && int(code) > work.safe) note(counts, work.outside[code], channel);
    }
    if (work.keepsAlpha) *to++ = alpha[from[work.colours]];
  }
}

template <typename From, int Step>
bool isEmpty(const From* pixel) {
  int seen = 0;
  for (int at = 0; at < Step; ++at) seen |= pixel[at];
  return seen == 0;
}

// Premultiplied to straight integers, or straight to premultiplied. Opaque and empty pixels take the tables.
// `Colours` is known to the compiler, so that its loops are unrolled.
template <typename From, typename To, bool divides, int Colours>
void byPixel(const From* from, To* to, const To* colour, const To* alpha, const Work& work, Counts& counts) {
  constexpr int step = Colours + 1;
  const From opaque = From(work.opaque);
  const bool keepsAlpha = work.keepsAlpha;
  const int safe = work.safe;
  for (size_t pixel = 0; pixel < work.pixels; ++pixel, from += step) {
    const From stored = from[Colours];
    if (stored == opaque || isEmpty<From, step>(from)) {
      for (int channel = 0; channel < Colours; ++channel) {
        const From code = from[channel];
        *to++ = colour[code];
        if (int(code) > safe) note(counts, work.outside[code], channel);
      }
      if (keepsAlpha) *to++ = alpha[stored];
      continue;
    }
    const double share = work.values[stored];
    bool glows = false;
    for (int channel = 0; channel < Colours; ++channel) {
      double value;
      if (divides) {
        value = work.values[from[channel]];
        if (share > 0) value /= share;
        else glows |= value > 0;
      } else value = work.curved[from[channel]] * share;
      if (!(value >= work.heldLeast && value <= work.heldMost)) note(counts, kindOf(value, work), channel);
      *to++ = To(divides ? codeOf(value, work.codes) : work.isHalf ? halfOf(value) : plainCode(value, work.codes.max));
    }
    counts.glow += glows;
    if (keepsAlpha) *to++ = alpha[stored];
  }
}

}  // namespace

template <typename From, typename To>
void convert(Way way, const From* from, To* to, const To* colour, const To* alpha, const Work& work, Counts& counts) {
  if (way == Way::lookup) lookUp(from, to, colour, alpha, work, counts);
  else if (way == Way::divide && work.colours == 3) byPixel<From, To, true, 3>(from, to, colour, alpha, work, counts);
  else if (way == Way::divide) byPixel<From, To, true, 1>(from, to, colour, alpha, work, counts);
  else if (work.colours == 3) byPixel<From, To, false, 3>(from, to, colour, alpha, work, counts);
  else byPixel<From, To, false, 1>(from, to, colour, alpha, work, counts);
}

template void convert(Way, const uint8_t*, uint8_t*, const uint8_t*, const uint8_t*, const Work&, Counts&);
template void convert(Way, const uint8_t*, uint16_t*, const uint16_t*, const uint16_t*, const Work&, Counts&);
template void convert(Way, const uint16_t*, uint8_t*, const uint8_t*, const uint8_t*, const Work&, Counts&);
template void convert(Way, const uint16_t*, uint16_t*, const uint16_t*, const uint16_t*, const Work&, Counts&);

// Codes that differ, and by how much at the most.
#define SHALE_APART(T)                                                                                    \
  SHALE_VECTORS void apart(const T* a, const T* b, size_t samples, uint32_t& many, T& most) {             \
    uint32_t differing = 0;                                                                               \
    T furthest = 0;                                                                                       \
    for (size_t at = 0; at < samples; ++at) {                                                             \
      const T by = a[at] > b[at] ? T(a[at] - b[at]) : T(b[at] - a[at]);                                   \
      differing += by != 0;                                                                               \
      furthest = by > furthest ? by : furthest;                                                           \
    }                                                                                                     \
    many = differing;                                                                                     \
    most = furthest;                                                                                      \
  }
SHALE_APART(uint8_t)
SHALE_APART(uint16_t)
#undef SHALE_APART

template <typename T>
Difference compare(const T* a, const T* b, size_t samples, const double* values) {
  Difference difference;
  if constexpr (!std::is_same_v<T, float>)
    if (!values) {
      // A picture has 2^31 samples at the most.
      uint32_t many = 0;
      T most = 0;
      apart(a, b, samples, many, most);
      return {double(many), double(most)};
    }
  for (size_t at = 0; at < samples; ++at) {
    if (a[at] == b[at]) continue;
    double left = double(a[at]);
    double right = double(b[at]);
    if (values) {
      left = values[size_t(a[at])];
      right = values[size_t(b[at])];
    }
    // Two that are not numbers are alike where the samples are floats themselves; of halves the bits differ.
    if (!values && std::isnan(left) && std::isnan(right)) continue;
    ++difference.samples;
    const double apart = std::fabs(left - right);
    if (apart > difference.most) difference.most = apart;
  }
  return difference;
}

template Difference compare(const uint8_t*, const uint8_t*, size_t, const double*);
template Difference compare(const uint16_t*, const uint16_t*, size_t, const double*);
template Difference compare(const float*, const float*, size_t, const double*);

// A row of grey of 8 bits, which is its own code: the light of footage. `sums` has room for one more than a row.
SHALE_VECTORS void smallGrey(const uint8_t* row, const std::vector<size_t>& ends, uint32_t* sums, float* out) {
  uint32_t sum = sums[0] = 0;
  for (size_t x = 0; x < ends.back(); ++x) sums[x + 1] = sum += row[x];
  size_t from = 0;
  for (size_t column = 0; column < ends.size(); ++column) {
    const size_t end = ends[column];
    out[column] = end > from ? float(double(sums[end] - sums[from]) / double(end - from)) : 0;
    from = end;
  }
}

template <typename T>
void small(const T* first, size_t width, size_t height, size_t stride, int channels, const double* values, const double* alphas, size_t columns, float* out) {
  const int colours = channels > 2 ? 3 : 1;
  const bool hasAlpha = channels % 2 == 0;
  std::vector<size_t> ends(columns);
  // The first pixel of each column is ceil(column * width / columns).
  for (size_t column = 0; column < columns; ++column) ends[column] = ((column + 1) * width + columns - 1) / columns;
  std::vector<uint32_t> sums(width + 1);
  for (size_t y = 0; y < height; ++y, first += stride) {
    if constexpr (std::is_same_v<T, uint8_t>) {
      if (channels == 1) {
        smallGrey(first, ends, sums.data(), out);
        out += columns;
        continue;
      }
    }
    const T* source = first;
    size_t x = 0;
    for (size_t column = 0; column < columns; ++column, ++out) {
      const size_t from = x;
      double mean = 0;
      for (; x < ends[column]; ++x, source += channels) {
        double sum = 0;
        for (int channel = 0; channel < colours; ++channel) {
          if (values) sum += values[size_t(source[channel])];
          else {
            const double value = double(source[channel]);
            sum += 255 * std::sqrt(value > 0 ? (value < 1 ? value : 1.0) : 0.0);
          }
        }
        if (hasAlpha) sum *= alphas ? alphas[size_t(source[colours])] : double(source[colours]);
        mean += sum / colours;
      }
      *out = x > from ? float(mean / double(x - from)) : 0;
    }
  }
}

template void small(const uint8_t*, size_t, size_t, size_t, int, const double*, const double*, size_t, float*);
template void small(const uint16_t*, size_t, size_t, size_t, int, const double*, const double*, size_t, float*);
template void small(const float*, size_t, size_t, size_t, int, const double*, const double*, size_t, float*);

SHALE_VECTORS void unpackTens(const uint8_t* from, uint16_t* to, size_t pixels, bool big, bool gapLow) {
  const int gap = gapLow ? 2 : 0;
  for (size_t at = 0; at < pixels; ++at) {
    uint32_t word;
    std::memcpy(&word, from + at * 4, 4);
    if (big) word = __builtin_bswap32(word);
    word >>= gap;
    to[at * 3] = uint16_t(word >> 20 & 1023);
    to[at * 3 + 1] = uint16_t(word >> 10 & 1023);
    to[at * 3 + 2] = uint16_t(word & 1023);
  }
}

SHALE_VECTORS void packTens(const uint16_t* from, uint8_t* to, size_t pixels) {
  for (size_t at = 0; at < pixels; ++at) {
    const uint32_t word = __builtin_bswap32(uint32_t(from[at * 3]) << 22 | uint32_t(from[at * 3 + 1]) << 12 | uint32_t(from[at * 3 + 2]) << 2);
    std::memcpy(to + at * 4, &word, 4);
  }
}

SHALE_VECTORS void swapRedBlue(const uint8_t* from, uint8_t* to, size_t pixels, int channels) {
  if (channels == 4) {
    for (size_t at = 0; at < pixels; ++at) {
      uint32_t word;
      std::memcpy(&word, from + at * 4, 4);
      word = (word & 0xff00ff00u) | (word & 0xffu) << 16 | (word >> 16 & 0xffu);
      std::memcpy(to + at * 4, &word, 4);
    }
    return;
  }
  for (size_t at = 0; at < pixels * 3; at += 3) {
    const uint8_t first = from[at], second = from[at + 1], third = from[at + 2];
    to[at] = third;
    to[at + 1] = second;
    to[at + 2] = first;
  }
}

}  // namespace shale
