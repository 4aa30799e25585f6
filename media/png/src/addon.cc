#include <napi.h>

#include <memory>
#include <stdexcept>

#include "../../native/task.h"
#include "png.h"

namespace {

using shale::Task;

// decode(file, out): the samples of a file into `out`, which has a byte more for each row
Napi::Value decode(const Napi::CallbackInfo& info) {
  const auto file = info[0].As<Napi::Uint8Array>();
  auto out = info[1].As<Napi::Uint8Array>();
  const uint8_t* bytes = file.Data();
  uint8_t* to = out.Data();
  const size_t length = file.ByteLength(), room = out.ByteLength();
  auto* task = new Task(
      info.Env(),
      [=] { shale::decode(bytes, length, to, room); },
      [](Napi::Env env) { return env.Undefined(); });
  return task->begin({file, out});
}

// encode(samples, width, height, channels, bytesOfSample, effort): the chunks from IDAT on
Napi::Value encode(const Napi::CallbackInfo& info) {
  const auto samples = info[0].As<Napi::Uint8Array>();
  const auto number = [&info](int at) { return info[at].ToNumber().Uint32Value(); };
  const shale::Layout layout{number(1), number(2), number(3), number(4)};
  const int effort = int(number(5));
  const bool fits = layout.channels >= 1 && layout.channels <= 4 && (layout.bytes == 1 || layout.bytes == 2) && layout.width > 0 &&
                    layout.height > 0 && samples.ByteLength() == layout.size() && effort >= 1 && effort <= 9;
  if (!fits) throw Napi::RangeError::New(info.Env(), "the samples are not those of the picture");
  const uint8_t* from = samples.Data();
  auto chunks = std::make_shared<std::vector<uint8_t>>();
  auto* task = new Task(
      info.Env(), [=] { *chunks = shale::encode(from, layout, effort); },
      [chunks](Napi::Env env) { return Napi::Buffer<uint8_t>::Copy(env, chunks->data(), chunks->size()); });
  return task->begin({samples});
}

Napi::Object init(Napi::Env env, Napi::Object exports) {
  exports.Set("decode", Napi::Function::New(env, decode));
  exports.Set("encode", Napi::Function::New(env, encode));
  return exports;
}

}  // namespace

NODE_API_MODULE(shale_png, init)
