// What the files that hand kernels over to JavaScript share.
#pragma once

#include <napi.h>

namespace shale {

// The samples of a typed array of bytes or of 16-bit words.
template <typename T>
T* samplesOf(const Napi::Value& value) {
  const auto array = value.As<Napi::TypedArray>();
  return reinterpret_cast<T*>(static_cast<char*>(array.ArrayBuffer().Data()) + array.ByteOffset());
}

// Pictures made small and brought to light for looking at: view, display and small (addon.ts).
void addLooking(Napi::Env env, Napi::Object exports);

}  // namespace shale
