// The work of core/pixels/workshop.ts, compiled: a picture goes through the steps of its course row by row, so that what is worked stays in
// the cache, and no canvas is ever whole. media/kernels.test.ts holds both to each other.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

#include "curves.h"
#include "pixels.h"

namespace shale {

// A step of core/pixels/steps.ts, by its place in `steps` of media/pixels/addon.ts.
struct Step {
  enum class Kind { curve, divide, multiply, offColour, key, resize, pad, countClear, overColour, overPicture, scale, levels, matrix, rollOff };
  Kind kind;
  // What it is set to: a matrix by rows, a colour, a factor; black, white and gamma; a key's colour, tolerance, softness, spill and
  // strongest channel; the place and opacity of a padding.
  double numbers[9] = {0};
  Transfer from = Transfer::linear, to = Transfer::linear;
  bool isShared = false;
  const double* known = nullptr;  // a curve over 0..1 in 65,536 parts; null where it is to be exact
  const float* below = nullptr;   // the picture below, as large as the canvas
  size_t width = 0, height = 0;   // of a resized or padded canvas
  Taps across{nullptr, nullptr, 0, 0}, down{nullptr, nullptr, 0, 0};  // none where a side stays
};

// How a canvas ends: `End` of core/pixels/workshop.ts.
struct Ending {
  enum class Sample { u8, u16, f16, f32 };
  Sample sample;
  int max = 0;  // of integers
  bool usesAlpha, keepsAlpha, multiplies, divides;
  bool isMatte;  // alpha alone
  Transfer from, to;
  double matte[3];
  double least, most, slack;  // held
  // Codes by a curve's bounds, for integers.
  Codes codes{};
  // 0 none, 1 thresholds, 2 diffusion
  int dither = 0;
  const double* thresholds = nullptr;
  size_t side = 0;
  const double* known = nullptr;  // the curve that is dithered
};

struct Job {
  size_t width, height;
  int channels;    // in the source
  int colours;     // 1 or 3
  bool hasAlpha;   // of the canvas: otherwise it is 1
  const void* source;
  int bytes;  // of a sample: 1, 2, or 4 for floats
  const float* values;       // of every code, as colour
  const float* alphaValues;  // and as alpha
  const double* light = nullptr;  // of every code, where a matrix comes first
  double matrix[9];
  std::vector<Step> steps;
  Ending end;
  void* out;
};

struct Told {
  Counts counts;
  uint32_t rolled = 0, alphaDropped = 0;
  bool isWhole = true;  // what was laid over a picture is opaque throughout
};

Told work(const Job& job);

}  // namespace shale
