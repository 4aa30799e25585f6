// The curves of core/pixels/transfer.ts.
#pragma once

namespace shale {

// In the order of `transfers` in media/pixels/addon.ts.
enum class Transfer { linear, srgb, bt709, gamma22, gamma24, filmLog, pq, hlg };
constexpr int transfers = 8;

double toLinear(Transfer transfer, double value);
double fromLinear(Transfer transfer, double light);

// Values of one transfer to another.
inline double between(Transfer from, Transfer to, double value) {
  if (from == to) return value;
  return fromLinear(to, toLinear(from, value));
}

}  // namespace shale
