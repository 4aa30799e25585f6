// The loops of core/pixels/plain.ts, compiled. They look up the very tables that core made, so that the numbers are core's;
// media/kernels.test.ts holds both to each other.
#pragma once

#include <cstddef>
#include <cstdint>

namespace shale {

// The codes of a curve: bounds by code, a guess by part of the domain, whose ends are the least and the greatest code.
struct Codes {
  const double* bounds;
  const uint16_t* guesses;
  double parts;
  double scale;  // parts of the domain for a value of 1
  int max;
  double least, most;
};

// The quantiser of core/pixels/quantise.ts.
inline uint32_t codeOf(double value, const Codes& codes) {
  if (!(value > codes.least)) return 0;
  if (value >= codes.most) return uint32_t(codes.max);
  double place = (value - codes.least) * codes.scale;
  if (place > codes.parts - 1) place = codes.parts - 1;
  uint32_t at = codes.guesses[size_t(place)];
  uint32_t over = codes.guesses[size_t(place) + 1];
  while (over > at + 8) {
    const uint32_t middle = (at + over) / 2;
    if (value >= codes.bounds[middle]) at = middle;
    else over = middle;
  }
  while (at > 0 && value < codes.bounds[at]) --at;
  while (value >= codes.bounds[at + 1]) ++at;
  return at;
}

// One picture and all that its samples look up. Tables have an entry for every code of the source.
struct Work {
  size_t pixels;
  int step;      // samples of a pixel in the source
  int colours;   // how many of them are colours
  bool keepsAlpha;
  uint16_t opaque;  // the code of alpha 1
  const uint8_t* outside;  // 0 held, 1 below, 2 above, 3 not a number, 4 infinite
  int safe;                // the greatest code up to which none is outside
  const double* values;
  const double* curved;    // values after the curve
  Codes codes;
  bool isHalf;
  double heldLeast, heldMost;  // what the result holds
};

struct Counts {
  uint32_t low[3] = {0, 0, 0};  // by channel
  uint32_t high[3] = {0, 0, 0};
  uint32_t nan = 0;
  uint32_t infinite = 0;
  uint32_t glow = 0;
};

// 16-bit samples to 8 bits.
void narrow(const uint16_t* from, uint8_t* to, size_t samples);

enum class Way { narrow, lookup, divide, multiply };

// Any other way. From and To are uint8_t or uint16_t.
template <typename From, typename To>
void convert(Way way, const From* from, To* to, const To* colour, const To* alpha, const Work& work, Counts& counts);

// For each result along one side the first sample that it takes, and `count` weights from there on.
struct Taps {
  const int32_t* first;
  const double* weights;
  size_t count;
  size_t to;
};

// The passes of core/pixels/resample.ts. `out` has the size that they lead to.
void across(const float* source, float* out, size_t width, size_t height, size_t stride, const Taps& taps);
// `row` samples a row.
void down(const float* source, float* out, size_t row, const Taps& taps);

// A picture made small, every row by itself, `stride` samples after the one before: so many columns of the mean of what they cover. `values` and `alphas` are of every code, or
// null for floats, which are taken as they are and by their square root; alpha is multiplied in where there is one.
template <typename T>
void small(const T* source, size_t width, size_t height, size_t stride, int channels, const double* values, const double* alphas, size_t columns, float* out);

// Into which smaller pixel each of `count` pixels falls, and how much of it; the rest falls into the next.
struct Falls {
  const int32_t* into;
  const double* share;
  size_t count;
};

// What a view is gathered by; tables of every code, null for floats.
struct Seen {
  int channels;
  bool areLight;  // halves of linear light: as their tables have them, but read by their bits
  const float* lights;
  const float* alphas;
  const uint8_t* warnings;
  int alpha;         // 0 none, 1 straight, 2 premultiplied
  uint8_t clearShows;  // warnings that a clear pixel has
  Falls columns, rows;
  size_t across, down;
  // Four halves a pixel that are light and alpha as they are.
  bool areWorkedAsBits() const { return areLight && channels == 4 && alpha != 0; }
};

// gatherPlainly of core/viewing/view.ts: four floats and the warnings of every pixel, the same to the bit. `warnings` begins as zeros.
template <typename T>
void view(const T* source, const Seen& seen, float* out, uint8_t* warnings);

// showView of core/viewing/show.ts for colours looked at plainly: 8-bit sRGB, three codes a pixel or four with straight alpha. `table`: 65,537
// codes for light 0 to 1. `shares`: colours have their share of alpha.
void display(const float* view, size_t pixels, bool shares, const uint8_t* table, int channels, uint8_t* out);

// Red, green and blue of 10 bits, which share a 32-bit word each from its high end on, the gap of two bits at its low end (SMPTE ST 268-1, annex C,
// method A) or at its high end (B). Words have their high byte first where they are `big`; packing is always so, with the gap low.
void unpackTens(const uint8_t* from, uint16_t* to, size_t pixels, bool big, bool gapLow);
void packTens(const uint16_t* from, uint8_t* to, size_t pixels);

// Blue, green, red and, of four channels, alpha as red, green, blue and alpha, or the other way round.
void swapRedBlue(const uint8_t* from, uint8_t* to, size_t pixels, int channels);

struct Likeness {
  double error;  // the sum of the squares of all differences
  double ssim;
};

// similarityOf of core/pixels/similarity.ts; `values` of halves by their bits, null otherwise; `most` is what 1 is, in codes.
template <typename T>
Likeness likeness(const T* a, const T* b, size_t width, size_t height, int channels, const float* values, double most);

struct Difference {
  double samples = 0;  // that differ
  double most = 0;     // in codes, or in value
};

// compareImages of core/pixels/compare.ts; `values` of halves by their bits, null otherwise.
template <typename T>
Difference compare(const T* a, const T* b, size_t samples, const double* values);

}  // namespace shale
