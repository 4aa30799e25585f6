// gatherPlainly of core/viewing/view.ts, in the same order of sums.
#include "pixels.h"

#include "../../native/vectors.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <type_traits>
#include <vector>

namespace shale {

namespace {

// Aligned as one double: not every allocator keeps to more.
typedef double Four __attribute__((vector_size(32), aligned(8)));

// Bits of core's `warningBits` that floats have.
constexpr uint8_t above = 4, below = 8, notNumber = 16;

// The most light that a view keeps.
constexpr float brightest = 65504;

inline float finite(float value) {
  if (value != value) return 0;
  return value > brightest ? brightest : value < -brightest ? -brightest : value;
}

inline uint8_t warningOf(float value) {
  if (!std::isfinite(value)) return notNumber;
  return value > 1 ? above : value < 0 ? below : 0;
}

// A smaller pixel's sums: colours (times alpha where they are straight) and alpha; straight colours by themselves; the weight of all.
struct Sums {
  Four weighed, plain;
  double weight;
};

// A row of a picture as light: four floats a pixel, and what each pixel is warned of where any is.
struct Line {
  std::vector<float> light;
  std::vector<uint8_t> warnings;
  std::vector<uint16_t> words;  // the same of halves, one a sample
  bool warns = false;
};

// Samples by their tables, or floats as they are.
template <typename T>
inline float lightOf(T code, const float* lights) {
  if constexpr (std::is_same_v<T, float>) return finite(code);
  else return lights[code];
}

template <typename T>
inline uint8_t warnsOf(T code, const uint8_t* warnings) {
  if constexpr (std::is_same_v<T, float>) return warningOf(code);
  else return warnings[code];
}

template <typename T>
void lightLine(const T* from, const Seen& seen, float* to) {
  const int channels = seen.channels, second = channels > 2 ? 1 : 0;
  const bool hasAlpha = channels % 2 == 0 && seen.alpha != 0;
  for (size_t x = 0; x < seen.columns.count; ++x, from += channels, to += 4) {
    to[0] = lightOf(from[0], seen.lights);
    to[1] = lightOf(from[second], seen.lights);
    to[2] = lightOf(from[2 * second], seen.lights);
    to[3] = hasAlpha ? lightOf(from[channels - 1], seen.alphas) : 1.0f;
  }
}

typedef uint16_t Halves8 __attribute__((vector_size(16), aligned(2)));
typedef uint32_t Words8 __attribute__((vector_size(32), aligned(4)));
typedef float Floats8 __attribute__((vector_size(32), aligned(4)));

// Halves that are light as they are, by their bits: what is infinite is the greatest half, what is no number is nothing.
SHALE_VECTORS void lightOfHalves(const uint16_t* from, size_t samples, float* to) {
  const auto light = [](const Halves8& halves) __attribute__((always_inline)) {
    const Words8 stored = __builtin_convertvector(halves, Words8), size = stored & 0x7fff;
    const Words8 isNumber = Words8(size <= 0x7c00);
    // A half's exponent counts from 15, a float's from 127.
    Floats8 value = Floats8((size & isNumber) << 13) * 0x1p112f;
    value = value > brightest ? Floats8{} + brightest : value;
    return Floats8(Words8(value) | ((stored & isNumber & 0x8000) << 16));
  };
  size_t at = 0;
  for (; at + 8 <= samples; at += 8) {
    const Floats8 eight = light(*reinterpret_cast<const Halves8*>(from + at));
    std::memcpy(to + at, &eight, sizeof eight);
  }
  Halves8 last = {};
  std::memcpy(&last, from + at, (samples - at) * sizeof *from);
  const Floats8 rest = light(last);
  std::memcpy(to + at, &rest, (samples - at) * sizeof *to);
}

// What every half is warned of, in the low byte of a word each. Returns whether any is.
SHALE_VECTORS bool warnHalves(const uint16_t* from, size_t samples, uint16_t* to) {
  uint16_t any = 0;
  for (size_t at = 0; at < samples; ++at) {
    const uint16_t code = from[at], size = code & 0x7fff;
    const uint16_t isNumber = size < 0x7c00, isBelow = code > 0x8000, isAbove = size > 0x3c00 && !isBelow;
    const uint16_t bits = isNumber ? uint16_t(isAbove ? above : isBelow ? below : 0) : uint16_t(notNumber);
    to[at] = bits;
    any |= bits;
  }
  return any != 0;
}

// Enters what the colours of four halves a pixel are warned of.
void enterHalves(const uint16_t* words, const Falls& columns, const size_t* ends, size_t across, uint8_t* to) {
  const auto pixel = [words](size_t x) {
    uint64_t four;
    std::memcpy(&four, words + x * 4, sizeof four);
    return four;
  };
  // Alpha's word is left out, on machines of either byte order.
  const auto bitsOf = [](uint64_t four) {
    uint16_t each[4];
    std::memcpy(each, &four, sizeof each);
    return uint8_t(each[0] | each[1] | each[2]);
  };
  for (size_t at = 0, x = 0; at < across; ++at) {
    uint64_t all = 0;
    for (; x < ends[at]; ++x) all |= pixel(x);
    if (x < columns.count && size_t(columns.into[x]) == at) {
      all |= pixel(x);
      to[at + 1] |= bitsOf(pixel(x));
      ++x;
    }
    to[at] |= bitsOf(all);
  }
}

template <typename T>
bool warnLine(const T* from, const Seen& seen, uint8_t* to) {
  const int channels = seen.channels, colours = channels > 2 ? 3 : 1;
  const bool hasAlpha = channels % 2 == 0 && seen.alpha != 0;
  uint8_t any = 0;
  for (size_t x = 0; x < seen.columns.count; ++x, from += channels) {
    uint8_t bits = warnsOf(from[0], seen.warnings);
    if (colours == 3) bits |= warnsOf(from[1], seen.warnings) | warnsOf(from[2], seen.warnings);
    if (hasAlpha && from[colours] == 0) bits &= seen.clearShows;
    any |= to[x] = bits;
  }
  return any != 0;
}

template <typename T>
void readLine(const T* from, const Seen& seen, Line& line) {
  const size_t samples = seen.columns.count * size_t(seen.channels);
  if constexpr (std::is_same_v<T, uint16_t>) {
    if (seen.areWorkedAsBits()) {
      lightOfHalves(from, samples, line.light.data());
      line.warns = warnHalves(from, samples, line.words.data());
      return;
    }
  }
  lightLine(from, seen, line.light.data());
  line.warns = warnLine(from, seen, line.warnings.data());
}

// Adds a pixel's share to sums.
template <bool weighs>
__attribute__((always_inline)) inline void add(Sums& sums, const float* pixel, double weight) {
  const double opacity = pixel[3];
  const Four light = {double(pixel[0]), double(pixel[1]), double(pixel[2]), opacity};
  sums.weight += weight;
  if (!weighs) {
    sums.weighed += light * weight;
    return;
  }
  const double coloured = weight * opacity;
  sums.weighed += light * Four{coloured, coloured, coloured, weight};
  if (opacity != 1) sums.plain += light * weight;
}

// Adds a row's share to the sums of all smaller pixels of a row. `ends`: where the pixels end that fall into each whole.
template <bool weighs>
__attribute__((always_inline)) inline void addLine(const float* line, const Seen& seen, const size_t* ends, double share, Sums* sums) {
  const Falls& columns = seen.columns;
  for (size_t to = 0, x = 0; to < seen.across; ++to) {
    Sums now = sums[to];
    for (; x < ends[to]; ++x) add<weighs>(now, line + x * 4, share);
    sums[to] = now;
    if (x >= columns.count || size_t(columns.into[x]) != to) continue;
    // A part of this pixel falls into the next.
    const double mine = columns.share[x];
    add<weighs>(sums[to], line + x * 4, share * mine);
    add<weighs>(sums[to + 1], line + x * 4, share * (1 - mine));
    ++x;
  }
}
SHALE_VECTORS void addPlain(const float* line, const Seen& seen, const size_t* ends, double share, Sums* sums) {
  addLine<false>(line, seen, ends, share, sums);
}
SHALE_VECTORS void addWeighed(const float* line, const Seen& seen, const size_t* ends, double share, Sums* sums) {
  addLine<true>(line, seen, ends, share, sums);
}

// Enters a row's warnings into the pixels that they fall into.
void enterWarnings(const Line& line, const Seen& seen, const size_t* ends, uint8_t* to) {
  if (!line.warns) return;
  const Falls& columns = seen.columns;
  if (seen.areWorkedAsBits()) {
    enterHalves(line.words.data(), columns, ends, seen.across, to);
    return;
  }
  for (size_t x = 0; x < columns.count; ++x) {
    if (line.warnings[x] == 0) continue;
    to[columns.into[x]] |= line.warnings[x];
    if (columns.share[x] < 1) to[columns.into[x] + 1] |= line.warnings[x];
  }
}

void settleRow(const std::vector<Sums>& sums, bool isStraight, float* out) {
  for (const Sums& one : sums) {
    const double opacity = one.weighed[3];
    // Where all is clear straight colours have no weight: they are shown as they are.
    const bool clear = isStraight && !(opacity > 0);
    const double over = isStraight && !clear ? opacity : one.weight;
    for (int channel = 0; channel < 3; ++channel) out[channel] = float((clear ? one.plain[channel] : one.weighed[channel]) / over);
    out[3] = float(opacity / one.weight);
    out += 4;
  }
}

}  // namespace

SHALE_VECTORS void display(const float* view, size_t pixels, bool shares, const uint8_t* table, int channels, uint8_t* out) {
  constexpr double parts = 65536;
  const auto shown = [table](double light) {
    const double part = light * parts;
    return part >= parts ? table[size_t(parts)] : part > 0 ? table[size_t(part)] : table[0];
  };
  // As a clamped array of bytes rounds: to the nearest, ties to even.
  const auto code = [](double value) { return uint8_t(value > 0 ? std::nearbyint(value < 255 ? value : 255) : 0); };
  for (size_t at = 0; at < pixels; ++at, view += 4, out += channels) {
    const double opacity = view[3];
    const double share = shares && opacity > 0 && opacity != 1 ? 1 / opacity : 1;
    for (int channel = 0; channel < 3; ++channel) out[channel] = shown(double(view[channel]) * share);
    if (channels < 4) continue;
    out[3] = opacity == 1 ? 255 : code(255 * opacity);
    if (!shares || opacity > 0) continue;
    // Light that is added where alpha is 0: as opaque as it is bright.
    const uint8_t most = std::max({out[0], out[1], out[2]});
    if (most == 0) continue;
    for (int channel = 0; channel < 3; ++channel) out[channel] = code(double(out[channel]) * 255 / most);
    out[3] = most;
  }
}

template <typename T>
void view(const T* source, const Seen& seen, float* out, uint8_t* warnings) {
  const auto add = seen.alpha == 1 && seen.channels % 2 == 0 ? addWeighed : addPlain;
  std::vector<Sums> sums(seen.across), next(seen.across);
  const auto clear = [](std::vector<Sums>& all) { std::memset(static_cast<void*>(all.data()), 0, all.size() * sizeof(Sums)); };
  clear(sums);
  clear(next);
  std::vector<size_t> ends(seen.across, 0);
  for (size_t x = 0; x < seen.columns.count; ++x)
    if (seen.columns.share[x] == 1) ends[size_t(seen.columns.into[x])] = x + 1;
  const size_t row = seen.columns.count * size_t(seen.channels);
  Line line{std::vector<float>(seen.columns.count * 4), std::vector<uint8_t>(seen.columns.count), std::vector<uint16_t>(seen.areWorkedAsBits() ? row : 0)};
  for (size_t at = 0; at < seen.rows.count; ++at) {
    const size_t y = size_t(seen.rows.into[at]);
    const double share = seen.rows.share[at];
    uint8_t* here = warnings + y * seen.across;
    readLine(source + at * row, seen, line);
    add(line.light.data(), seen, ends.data(), share, sums.data());
    enterWarnings(line, seen, ends.data(), here);
    if (share < 1) {
      add(line.light.data(), seen, ends.data(), 1 - share, next.data());
      enterWarnings(line, seen, ends.data(), here + seen.across);
    }
    if (at + 1 < seen.rows.count && size_t(seen.rows.into[at + 1]) == y) continue;
    settleRow(sums, seen.alpha == 1 && seen.channels % 2 == 0, out + y * seen.across * 4);
    sums.swap(next);
    clear(next);
  }
}

template void view(const uint8_t*, const Seen&, float*, uint8_t*);
template void view(const uint16_t*, const Seen&, float*, uint8_t*);
template void view(const float*, const Seen&, float*, uint8_t*);

}  // namespace shale
