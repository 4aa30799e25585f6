#include "curves.h"

#include <algorithm>
#include <cmath>

namespace shale {

namespace {

// Formulas and where they are from: core/pixels/transfer.ts. Of values that are 0 or more.
constexpr double alpha709 = 1.09929682680944, beta709 = 0.018053968510807;
constexpr double perCode = 0.002 / 0.6, filmWhite = 685, filmCodes = 1023;
const double filmBlack = std::pow(10, (95 - filmWhite) * perCode);
constexpr double pqPeak = 10000.0 / 203;
constexpr double m1 = 2610.0 / 16384, m2 = 2523.0 / 4096 * 128, c1 = 3424.0 / 4096, c2 = 2413.0 / 4096 * 32, c3 = 2392.0 / 4096 * 32;
constexpr double hlgA = 0.17883277, hlgB = 0.28466892, hlgC = 0.55991073;

double hlgScene(double value) { return value <= 0.5 ? value * value / 3 : (std::exp((value - hlgC) / hlgA) + hlgB) / 12; }
const double hlgWhite = hlgScene(0.75);

double lightOf(Transfer transfer, double value) {
  switch (transfer) {
    case Transfer::srgb: return value <= 0.04045 ? value / 12.92 : std::pow((value + 0.055) / 1.055, 2.4);
    case Transfer::bt709: return value < 4.5 * beta709 ? value / 4.5 : std::pow((value + alpha709 - 1) / alpha709, 1 / 0.45);
    case Transfer::gamma22: return std::pow(value, 2.2);
    case Transfer::gamma24: return std::pow(value, 2.4);
    case Transfer::pq: {
      const double root = std::pow(value, 1 / m2);
      return pqPeak * std::pow(std::max(root - c1, 0.0) / (c2 - c3 * root), 1 / m1);
    }
    case Transfer::hlg: return hlgScene(value) / hlgWhite;
    default: return value;
  }
}

double valueOf(Transfer transfer, double light) {
  switch (transfer) {
    case Transfer::srgb: return light <= 0.0031308 ? light * 12.92 : 1.055 * std::pow(light, 1 / 2.4) - 0.055;
    case Transfer::bt709: return light < beta709 ? light * 4.5 : alpha709 * std::pow(light, 0.45) - (alpha709 - 1);
    case Transfer::gamma22: return std::pow(light, 1 / 2.2);
    case Transfer::gamma24: return std::pow(light, 1 / 2.4);
    case Transfer::pq: {
      const double root = std::pow(light / pqPeak, m1);
      return std::pow((c1 + c2 * root) / (1 + c3 * root), m2);
    }
    case Transfer::hlg: {
      const double scene = light * hlgWhite;
      return scene <= 1.0 / 12 ? std::sqrt(3 * scene) : hlgA * std::log(12 * scene - hlgB) + hlgC;
    }
    default: return light;
  }
}

}  // namespace

double toLinear(Transfer transfer, double value) {
  if (transfer == Transfer::linear) return value;
  if (transfer == Transfer::filmLog)
    return (std::pow(10, (value * filmCodes - filmWhite) * perCode) - filmBlack) / (1 - filmBlack);
  return value < 0 ? -lightOf(transfer, -value) : lightOf(transfer, value);
}

double fromLinear(Transfer transfer, double light) {
  if (transfer == Transfer::linear) return light;
  if (transfer == Transfer::filmLog) {
    const double exposed = std::max(light * (1 - filmBlack) + filmBlack, 1e-10);
    return (std::log10(exposed) / perCode + filmWhite) / filmCodes;
  }
  return light < 0 ? -valueOf(transfer, -light) : valueOf(transfer, light);
}

}  // namespace shale
