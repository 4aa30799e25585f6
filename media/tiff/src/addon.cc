#include <napi.h>

#include <memory>

#include "../../native/task.h"
#include "tiff.h"

namespace {

using shale::Layout;
using shale::Task;

Layout layoutOf(const Napi::Object& given) {
  const auto number = [&given](const char* name) { return given.Get(name).ToNumber().Uint32Value(); };
  const auto is = [&given](const char* name) { return given.Get(name).ToBoolean().Value(); };
  return {number("width"),
          number("height"),
          number("pieceWidth"),
          number("pieceHeight"),
          number("stored"),
          number("taken"),
          number("bytes"),
          shale::Compression(number("compression")),
          number("predictor"),
          is("tiles"),
          is("planes"),
          is("little")};
}

bool isSound(const Layout& layout) {
  const bool size = layout.width > 0 && layout.height > 0 && layout.pieceWidth > 0 && layout.pieceHeight > 0;
  const bool sample = layout.bytes == 1 || layout.bytes == 2 || layout.bytes == 4;
  return size && sample && layout.taken > 0 && layout.taken <= layout.stored && (layout.tiles || layout.pieceWidth == layout.width);
}

// decode(file, layout, pieces, out): the samples of a file into `out`; `pieces` has place and length of each in turn
Napi::Value decode(const Napi::CallbackInfo& info) {
  const auto file = info[0].As<Napi::Uint8Array>();
  const Layout layout = layoutOf(info[1].As<Napi::Object>());
  const auto given = info[2].As<Napi::Float64Array>();
  auto out = info[3].As<Napi::Uint8Array>();
  const size_t across = (size_t(layout.width) + layout.pieceWidth - 1) / std::max(1u, layout.pieceWidth);
  const size_t down = (size_t(layout.height) + layout.pieceHeight - 1) / std::max(1u, layout.pieceHeight);
  const size_t count = across * down * (layout.planes ? layout.stored : 1);
  const size_t size = size_t(layout.width) * layout.height * layout.taken * layout.bytes;
  if (!isSound(layout) || given.ElementLength() != count * 2 || out.ByteLength() != size)
    throw Napi::RangeError::New(info.Env(), "the layout is not that of the picture");
  std::vector<shale::Piece> pieces(count);
  for (size_t at = 0; at < count; ++at) pieces[at] = {uint64_t(given[at * 2]), uint64_t(given[at * 2 + 1])};
  const uint8_t* bytes = file.Data();
  const size_t length = file.ByteLength();
  uint8_t* to = out.Data();
  auto* task = new Task(
      info.Env(), [=] { shale::decode(bytes, length, layout, pieces, to); }, [](Napi::Env env) { return env.Undefined(); });
  return task->begin({file, out});
}

// encode(samples, layout, effort): the strips one after another, and the length of each
Napi::Value encode(const Napi::CallbackInfo& info) {
  const auto samples = info[0].As<Napi::Uint8Array>();
  const Layout layout = layoutOf(info[1].As<Napi::Object>());
  const int effort = info[2].ToNumber().Int32Value();
  const size_t size = size_t(layout.width) * layout.height * layout.stored * layout.bytes;
  const bool packs = layout.compression != shale::Compression::none && (layout.bytes < 4 || layout.predictor == 1);
  if (!isSound(layout) || !packs || samples.ByteLength() != size || effort < 1 || effort > 9)
    throw Napi::RangeError::New(info.Env(), "the samples are not those of the picture");
  const uint8_t* from = samples.Data();
  struct Made {
    std::vector<uint8_t> bytes;
    std::vector<uint64_t> lengths;
  };
  auto made = std::make_shared<Made>();
  auto* task = new Task(
      info.Env(), [=] { made->bytes = shale::encode(from, layout, effort, made->lengths); },
      [made](Napi::Env env) {
        Napi::Array lengths = Napi::Array::New(env, made->lengths.size());
        for (size_t at = 0; at < made->lengths.size(); ++at) lengths.Set(uint32_t(at), double(made->lengths[at]));
        Napi::Object result = Napi::Object::New(env);
        result.Set("strips", Napi::Buffer<uint8_t>::Copy(env, made->bytes.data(), made->bytes.size()));
        result.Set("lengths", lengths);
        return result;
      });
  return task->begin({samples});
}

Napi::Object init(Napi::Env env, Napi::Object exports) {
  exports.Set("decode", Napi::Function::New(env, decode));
  exports.Set("encode", Napi::Function::New(env, encode));
  return exports;
}

}  // namespace

NODE_API_MODULE(shale_tiff, init)
