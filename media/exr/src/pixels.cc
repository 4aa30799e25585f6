#include "pixels.h"

namespace shale {

// round(v * 255 / 65535), exact by integers; core/pixels/packed.ts says why.
void narrow(const uint16_t* from, uint8_t* to, size_t samples) {
  for (size_t at = 0; at < samples; ++at) to[at] = uint8_t((uint32_t(from[at]) * 255u + 32895u) >> 16);
}

namespace {

constexpr uint16_t one = 0x3c00;

struct Divider {
  const DivideTables& tables;
  DivideCounts& counts;

  void countOutside(uint16_t code, int channel) {
    const uint8_t kind = tables.outside[code];
    counts.low[channel] += kind == 1;
    counts.high[channel] += kind == 2;
    counts.nan += kind == 3;
  }

  uint8_t divided(double value, int channel) {
    if (value >= 0 && value < 1) {
      uint32_t step = tables.guesses[size_t(value * tables.parts)];
      while (value >= tables.bounds[step + 1]) ++step;
      return uint8_t(step);
    }
    if (value > 1) ++counts.high[channel];
    else if (value < 0) ++counts.low[channel];
    else if (value != 1) ++counts.nan;
    return value >= 1 ? 255 : 0;
  }
};

}  // namespace

void divide(const uint16_t* from, uint8_t* to, size_t pixels, const DivideTables& tables, DivideCounts& counts) {
  Divider divider{tables, counts};
  for (size_t pixel = 0; pixel < pixels; ++pixel, from += 4, to += 4) {
    const uint16_t stored = from[3];
    const double share = tables.values[stored];
    to[3] = tables.alpha[stored];
    if (stored == one || !(share > 0)) {
      bool glows = false;
      for (int channel = 0; channel < 3; ++channel) {
        const uint16_t code = from[channel];
        to[channel] = tables.colour[code];
        if (code > one) divider.countOutside(code, channel);
        glows |= code != 0 && stored != one && tables.values[code] > 0;
      }
      counts.glow += glows;
      continue;
    }
    for (int channel = 0; channel < 3; ++channel) to[channel] = divider.divided(tables.values[from[channel]] / share, channel);
  }
}

}  // namespace shale
