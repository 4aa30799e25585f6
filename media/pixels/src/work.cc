#include "work.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "../../native/vectors.h"
#include "codes.h"

namespace shale {

namespace {

constexpr double parts = 65536;

// `quickly` of core/pixels/transfer.ts: within 0..1 straight between what is known, outside the curve itself.
inline double curved(double value, const double* known, Transfer from, Transfer to) {
  if (!known || !(value >= 0 && value <= 1)) return between(from, to, value);
  const double place = value * parts;
  const int part = int(place);
  const double low = known[part];
  return low + (known[part + 1] - low) * (place - part);
}

constexpr double lumaOf(double red, double green, double blue) { return 0.2126 * red + 0.7152 * green + 0.0722 * blue; }

// core/pixels/key.ts
void keyOut(float* row, size_t pixels, const Step& step) {
  const double* colour = step.numbers;
  const double tolerance = step.numbers[3], softness = step.numbers[4], spill = step.numbers[5];
  const int strongest = int(step.numbers[6]);
  for (size_t at = 0; at < pixels; ++at, row += 4) {
    double seen[3];
    for (int channel = 0; channel < 3; ++channel) seen[channel] = curved(row[channel], step.known, step.from, step.to) - colour[channel];
    const double luma = lumaOf(seen[0], seen[1], seen[2]);
    const double cb = (seen[2] - luma) / 1.8556, cr = (seen[0] - luma) / 1.5748;
    const double distance = std::sqrt(cb * cb + cr * cr);
    const double alpha = distance <= tolerance ? 0 : distance >= tolerance + softness ? 1 : (distance - tolerance) / softness;
    row[3] = float(double(row[3]) * alpha);
    if (spill == 0) continue;
    const double own = row[strongest];
    const double mean = (double(row[(strongest + 1) % 3]) + double(row[(strongest + 2) % 3])) / 2;
    if (!(own <= mean)) row[strongest] = float(own - (own - mean) * spill);
  }
}

double levelled(double value, double black, double white, double gamma) {
  const double scaled = (value - black) / (white - black);
  if (gamma == 1) return scaled;
  return scaled < 0 ? -std::pow(-scaled, 1 / gamma) : std::pow(scaled, 1 / gamma);
}

constexpr double knee = 0.8;

// A row of a canvas and what its steps may count into. Stride is a constant for the compiler.
template <int Stride>
class Rows {
 public:
  explicit Rows(const Job& job) : job_(job) {}

  void steps(float* row, size_t pixels, size_t y, size_t from, size_t to, Told& told) const {
    for (size_t at = from; at < to; ++at) step(row, pixels, y, job_.steps[at], told);
  }

  // A row of the source as values, the beginning of a course.
  void load(size_t y, float* row) const {
    const size_t from = y * job_.width * size_t(job_.channels);
    if (job_.bytes == 1) loadCodes(static_cast<const uint8_t*>(job_.source) + from, row);
    else if (job_.bytes == 2) loadCodes(static_cast<const uint16_t*>(job_.source) + from, row);
    else loadFloats(static_cast<const float*>(job_.source) + from, row);
  }

 private:
  const Job& job_;

  template <typename T>
  void loadCodes(const T* from, float* row) const {
    const float* values = job_.values;
    const float* alphaValues = job_.alphaValues;
    const int channels = job_.channels;
    const bool hasAlpha = job_.hasAlpha;
    if (job_.light) {
      const double* light = job_.light;
      const double* m = job_.matrix;
      for (size_t at = 0; at < job_.width; ++at, from += channels, row += 4) {
        const double red = light[from[0]], green = light[from[1]], blue = light[from[2]];
        for (int channel = 0; channel < 3; ++channel)
          row[channel] = float(m[channel * 3] * red + m[channel * 3 + 1] * green + m[channel * 3 + 2] * blue);
        row[3] = hasAlpha ? alphaValues[from[3]] : 1.f;
      }
      return;
    }
    for (size_t at = 0; at < job_.width; ++at, from += channels, row += Stride) {
      for (int channel = 0; channel < Stride - 1; ++channel) row[channel] = values[from[channel]];
      row[Stride - 1] = hasAlpha ? alphaValues[from[Stride - 1]] : 1.f;
    }
  }

  void loadFloats(const float* from, float* row) const {
    for (size_t at = 0; at < job_.width; ++at, from += job_.channels, row += Stride) {
      for (int channel = 0; channel < Stride - 1; ++channel) row[channel] = from[channel];
      row[Stride - 1] = job_.hasAlpha ? from[Stride - 1] : 1.f;
    }
  }

  template <typename Work>
  static void eachColour(float* row, size_t pixels, Work work) {
    for (size_t at = 0; at < pixels; ++at, row += Stride)
      for (int channel = 0; channel < Stride - 1; ++channel) row[channel] = float(work(double(row[channel]), channel));
  }

  void step(float* row, size_t pixels, size_t y, const Step& step, Told& told) const {
    using Kind = Step::Kind;
    const double* numbers = step.numbers;
    switch (step.kind) {
      case Kind::curve:
        if (!step.isShared) {
          eachColour(row, pixels, [&](double value, int) { return curved(value, step.known, step.from, step.to); });
          break;
        }
        for (size_t at = 0; at < pixels; ++at, row += Stride) {
          const double alpha = row[Stride - 1];
          const double share = alpha > 0 ? alpha : 1;
          for (int channel = 0; channel < Stride - 1; ++channel)
            row[channel] = float(curved(row[channel] / share, step.known, step.from, step.to) * share);
        }
        break;
      case Kind::divide:
        for (size_t at = 0; at < pixels; ++at, row += Stride) {
          const double alpha = row[Stride - 1];
          if (alpha == 1 || !(alpha > 0)) continue;
          for (int channel = 0; channel < Stride - 1; ++channel) row[channel] = float(row[channel] / alpha);
        }
        break;
      case Kind::multiply:
        for (size_t at = 0; at < pixels; ++at, row += Stride) {
          const double alpha = row[Stride - 1];
          if (alpha == 1) continue;
          for (int channel = 0; channel < Stride - 1; ++channel) row[channel] = float(row[channel] * alpha);
        }
        break;
      case Kind::offColour:
        for (size_t at = 0; at < pixels; ++at, row += Stride) {
          const double through = 1 - double(row[Stride - 1]);
          for (int channel = 0; channel < Stride - 1; ++channel) row[channel] = float(row[channel] - through * numbers[channel]);
        }
        break;
      case Kind::key:
        if (Stride == 4) keyOut(row, pixels, step);
        break;
      case Kind::countClear:
        for (size_t at = 0; at < pixels; ++at, row += Stride) told.alphaDropped += row[Stride - 1] != 1;
        break;
      case Kind::overColour:
        for (size_t at = 0; at < pixels; ++at, row += Stride) {
          const double through = 1 - double(row[Stride - 1]);
          if (through == 0) continue;
          for (int channel = 0; channel < Stride - 1; ++channel) row[channel] = float(row[channel] + numbers[channel] * through);
          row[Stride - 1] = 1;
        }
        break;
      case Kind::overPicture: {
        const float* below = step.below + y * pixels * Stride;
        for (size_t at = 0; at < pixels; ++at, row += Stride, below += Stride) {
          const double through = 1 - double(row[Stride - 1]);
          if (through == 0) continue;
          for (int sample = 0; sample < Stride; ++sample) row[sample] = float(row[sample] + below[sample] * through);
          told.isWhole &= row[Stride - 1] == 1;
        }
        break;
      }
      case Kind::scale:
        eachColour(row, pixels, [&](double value, int) { return value * numbers[0]; });
        break;
      case Kind::levels:
        eachColour(row, pixels, [&](double value, int channel) {
          const double black = numbers[channel], white = numbers[3 + channel], gamma = numbers[6 + channel];
          return black == 0 && white == 1 && gamma == 1 ? value : levelled(value, black, white, gamma);
        });
        break;
      case Kind::matrix:
        for (size_t at = 0; at < pixels; ++at, row += Stride) {
          const double red = row[0], green = row[1], blue = row[2];
          for (int channel = 0; channel < 3; ++channel)
            row[channel] = float(numbers[channel * 3] * red + numbers[channel * 3 + 1] * green + numbers[channel * 3 + 2] * blue);
        }
        break;
      case Kind::rollOff:
        eachColour(row, pixels, [&](double light, int) {
          told.rolled += light > 1;
          return light > knee ? knee + (1 - knee) * (1 - std::exp(-(light - knee) / (1 - knee))) : light;
        });
        break;
      default:
        break;
    }
  }
};

// Values in codes rounded so that their mean is kept: core/pixels/dither.ts.
class Dither {
 public:
  Dither(const Ending& end, size_t width) : end_(end), near_(std::max(1.0 / 2048, end.max / 65535.0 / 64)) {
    if (end.dither == 2) {
      here_.assign((width + 2) * 3, 0);
      below_.assign((width + 2) * 3, 0);
    }
  }

  void next() {
    std::swap(here_, below_);
    std::fill(below_.begin(), below_.end(), 0.f);
  }

  // Room for a row of codes.
  std::vector<int32_t> codes;

  uint32_t code(double value, int channel, size_t x, size_t y) {
    const double whole = std::floor(value + 0.5);
    const double snapped = std::fabs(value - whole) < near_ ? whole : value;
    if (end_.dither == 1) return uint32_t(std::floor(snapped + end_.thresholds[(y & (end_.side - 1)) * end_.side + (x & (end_.side - 1))]));
    const size_t at = (x + 1) * 3 + size_t(channel);
    const double wanted = snapped + here_[at];
    const double code = std::min(double(end_.max), std::max(0.0, std::floor(wanted + 0.5)));
    const double error = wanted - code;
    here_[at + 3] = float(here_[at + 3] + error * 7 / 16);
    below_[at - 3] = float(below_[at - 3] + error * 3 / 16);
    below_[at] = float(below_[at] + error * 5 / 16);
    below_[at + 3] = float(below_[at + 3] + error / 16);
    return uint32_t(code);
  }

 private:
  const Ending& end_;
  double near_;
  std::vector<float> here_, below_;
};

void note(Counts& counts, double value, const Ending& end, int channel) {
  if (std::isnan(value)) ++counts.nan;
  else if (std::isinf(value) && end.most > 1000) ++counts.infinite;
  else if (value >= end.least && value <= end.most) return;
  else if (value > end.most) ++counts.high[channel];
  else ++counts.low[channel];
}

// Whether all colours of a row are held, and stored as they are: nothing is to be counted then.
SHALE_VECTORS bool isHeld(const float* row, size_t samples, float least, float most) {
  int outside = 0;
  for (size_t at = 0; at < samples; ++at) outside |= !(row[at] >= least && row[at] <= most);
  return outside == 0;
}

// round(value * max) of values from 0 to 1 or hardly beyond.
SHALE_VECTORS void wholeCodes(const float* row, size_t samples, double max, int32_t* codes) {
  for (size_t at = 0; at < samples; ++at) {
    double value = row[at];
    value = value > 0 ? value : 0;
    value = value < 1 ? value : 1;
    codes[at] = int32_t(value * max + 0.5);
  }
}

// A row whose values are what is stored, and all of them held: no curve, no dither, nothing multiplied or divided.
template <int Stride, typename Stored>
void finishPlainly(const float* row, size_t pixels, Stored* out, const Ending& end, std::vector<int32_t>& codes) {
  codes.resize(pixels * Stride);
  wholeCodes(row, pixels * Stride, end.max, codes.data());
  const int32_t* from = codes.data();
  if (end.keepsAlpha) {
    for (size_t at = 0; at < pixels * Stride; ++at) out[at] = Stored(from[at]);
    return;
  }
  for (size_t x = 0; x < pixels; ++x, from += Stride)
    for (int channel = 0; channel < Stride - 1; ++channel) *out++ = Stored(from[channel]);
}

// `finish` of core/pixels/ending.ts, a row of it.
template <int Stride, Ending::Sample Kind>
void finish(const float* row, size_t pixels, size_t y, void* data, const Ending& end, Dither& dither, Told& told) {
  using Sample = Ending::Sample;
  using Stored = std::conditional_t<Kind == Sample::u8, uint8_t, std::conditional_t<Kind == Sample::f32, float, uint16_t>>;
  constexpr int colours = Stride - 1;
  constexpr bool isInteger = Kind == Sample::u8 || Kind == Sample::u16;
  const auto plain = [&end](double value) -> Stored {
    if constexpr (isInteger) return Stored(plainCode(value, end.max));
    else if constexpr (Kind == Sample::f16) return halfOf(value);
    else return float(value);
  };
  const int channels = end.isMatte ? 1 : colours + (end.keepsAlpha ? 1 : 0);
  Stored* out = static_cast<Stored*>(data) + y * pixels * size_t(channels);
  if (end.isMatte) {
    for (size_t x = 0; x < pixels; ++x) out[x] = plain(row[x * Stride + colours]);
    return;
  }
  const double least = end.least - end.slack, most = end.most + end.slack;
  if constexpr (isInteger) {
    const bool isPlain = end.from == end.to && !end.multiplies && !end.divides && end.dither == 0 && (end.keepsAlpha || !end.usesAlpha);
    // Alpha is looked at too, which may keep a row from this way and nothing else.
    if (isPlain && isHeld(row, pixels * Stride, float(end.least), float(end.most))) {
      finishPlainly<Stride, Stored>(row, pixels, out, end, dither.codes);
      return;
    }
  }
  const double* known = end.dither ? end.known : nullptr;
  if (end.dither == 2 && y > 0) dither.next();
  for (size_t x = 0; x < pixels; ++x, row += Stride) {
    const double alpha = row[colours];
    const double share = end.divides && alpha > 0 ? alpha : 1;
    const double factor = end.divides && !(alpha > 0) ? 1 : alpha;
    bool glows = false;
    for (int channel = 0; channel < colours; ++channel) {
      const double stored = end.divides ? row[channel] / share : row[channel];
      glows |= stored > 0;
      const double value = end.multiplies ? curved(stored, known, end.from, end.to) * factor + (1 - alpha) * end.matte[channel] : stored;
      if (!(value >= least && value <= most)) note(told.counts, value, end, channel);
      if (isInteger && end.dither) {
        const double encoded = end.multiplies ? value : curved(stored, known, end.from, end.to);
        *out++ = Stored(dither.code((encoded > 0 ? std::min(1.0, encoded) : 0) * end.max, channel, x, y));
      } else if (end.multiplies) *out++ = plain(value);
      else if constexpr (isInteger) *out++ = Stored(codeOf(value, end.codes));
      else *out++ = plain(curved(value, nullptr, end.from, end.to));
    }
    told.counts.glow += glows && end.divides && !end.multiplies && !(alpha > 0);
    if (end.keepsAlpha) *out++ = plain(alpha);
    else told.alphaDropped += end.usesAlpha && alpha != 1;
  }
}

// A step that changes the size, with those before it: rows of what comes out of it, each asked for once and in order.
template <int Stride>
class Sized {
 public:
  Sized(const Job& job, const Rows<Stride>& rows, size_t first, size_t at, Sized* before, size_t width, size_t height, Told& told)
      : job_(job), rows_(rows), first_(first), at_(at), before_(before), width_(width), height_(height), told_(told) {
    if (at >= job.steps.size()) return;
    const Step& step = job.steps[at];
    if (step.kind != Step::Kind::resize) return;
    ring_.resize(std::max<size_t>(1, step.down.count) * step.width * Stride);
    source_.resize(width * Stride);
    sums_.resize(step.width * Stride);
  }

  // A row as it is before the step: worked up to it.
  void row(size_t y, float* to) {
    if (before_) before_->made(y, to);
    else rows_.load(y, to);
    rows_.steps(to, width_, y, first_, at_, told_);
  }

  // A row that the step makes.
  void made(size_t y, float* to) {
    const Step& step = job_.steps[at_];
    if (step.kind == Step::Kind::pad) pad(step, y, to);
    else resize(step, y, to);
  }

 private:
  const Job& job_;
  const Rows<Stride>& rows_;
  size_t first_, at_;
  Sized* before_;
  size_t width_, height_;
  Told& told_;
  std::vector<float> ring_, source_;
  std::vector<double> sums_;
  size_t came_ = 0;  // rows that lie in the ring or did

  void pad(const Step& step, size_t y, float* to) {
    const size_t left = size_t(step.numbers[0]), top = size_t(step.numbers[1]);
    for (size_t at = 0; at < step.width * Stride; ++at) to[at] = step.numbers[2] != 0 && at % Stride == Stride - 1 ? 1.f : 0.f;
    if (y >= top && y < top + height_) row(y - top, to + left * Stride);
  }

  void widen(const Step& step, size_t y, float* to) {
    if (!step.across.first) return row(y, to);
    row(y, source_.data());
    across(source_.data(), to, width_, 1, Stride, step.across);
  }

  void resize(const Step& step, size_t y, float* to) {
    if (!step.down.first) return widen(step, y, to);
    const size_t length = step.width * Stride, count = step.down.count;
    const size_t first = size_t(step.down.first[y]);
    // What no row takes any more is worked all the same: its pixels are counted.
    for (; came_ < first + count; ++came_) widen(step, came_, ring_.data() + came_ % count * length);
    const double* weights = step.down.weights + y * count;
    sum(ring_.data(), first, count, length, weights, sums_.data(), to);
  }

  static void sum(const float* ring, size_t first, size_t count, size_t length, const double* weights, double* sums, float* to);
};

SHALE_VECTORS void addRow(const float* from, double weight, double* sums, size_t length) {
  for (size_t at = 0; at < length; ++at) sums[at] += double(from[at]) * weight;
}

SHALE_VECTORS void asFloats(const double* sums, float* to, size_t length) {
  for (size_t at = 0; at < length; ++at) to[at] = float(sums[at]);
}

template <int Stride>
void Sized<Stride>::sum(const float* ring, size_t first, size_t count, size_t length, const double* weights, double* sums, float* to) {
  std::fill(sums, sums + length, 0.0);
  for (size_t tap = 0; tap < count; ++tap)
    if (weights[tap] != 0) addRow(ring + (first + tap) % count * length, weights[tap], sums, length);
  asFloats(sums, to, length);
}

template <int Stride>
Told workBy(const Job& job) {
  Told told;
  const Rows<Stride> rows(job);
  std::vector<Sized<Stride>> sized;
  sized.reserve(job.steps.size() + 1);
  size_t width = job.width, height = job.height, first = 0;
  for (size_t at = 0; at <= job.steps.size(); ++at) {
    const bool ends = at == job.steps.size();
    if (!ends && job.steps[at].kind != Step::Kind::resize && job.steps[at].kind != Step::Kind::pad) continue;
    sized.emplace_back(job, rows, first, at, sized.empty() ? nullptr : &sized.back(), width, height, told);
    first = at + 1;
    if (ends) break;
    width = job.steps[at].width;
    height = job.steps[at].height;
  }
  std::vector<float> row(width * Stride);
  Dither dither(job.end, width);
  using Sample = Ending::Sample;
  for (size_t y = 0; y < height; ++y) {
    sized.back().row(y, row.data());
    switch (job.end.sample) {
      case Sample::u8: finish<Stride, Sample::u8>(row.data(), width, y, job.out, job.end, dither, told); break;
      case Sample::u16: finish<Stride, Sample::u16>(row.data(), width, y, job.out, job.end, dither, told); break;
      case Sample::f16: finish<Stride, Sample::f16>(row.data(), width, y, job.out, job.end, dither, told); break;
      case Sample::f32: finish<Stride, Sample::f32>(row.data(), width, y, job.out, job.end, dither, told); break;
    }
  }
  return told;
}

}  // namespace

Told work(const Job& job) { return job.colours == 1 ? workBy<2>(job) : workBy<4>(job); }

}  // namespace shale
