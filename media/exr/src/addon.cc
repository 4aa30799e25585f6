#include "../../native/task.h"
#include "exr.h"

#include <ImfThreading.h>
#include <napi.h>

#include <memory>

namespace {

using shale::Attribute;
using shale::Task;

Napi::Value box(Napi::Env env, const int (&values)[4]) {
  Napi::Array list = Napi::Array::New(env, 4);
  for (uint32_t at = 0; at < 4; ++at) list.Set(at, Napi::Number::New(env, values[at]));
  return list;
}

Napi::Object attributeObject(Napi::Env env, const Attribute& attribute) {
  Napi::Object one = Napi::Object::New(env);
  one.Set("name", attribute.name);
  one.Set("type", attribute.type);
  if (const auto* text = std::get_if<std::string>(&attribute.value)) one.Set("value", *text);
  else {
    const auto& numbers = std::get<std::vector<double>>(attribute.value);
    Napi::Array list = Napi::Array::New(env, numbers.size());
    for (uint32_t at = 0; at < numbers.size(); ++at) list.Set(at, Napi::Number::New(env, numbers[at]));
    one.Set("value", list);
  }
  return one;
}

Attribute attributeFrom(const Napi::Object& one) {
  Attribute attribute{one.Get("name").ToString(), one.Get("type").ToString(), std::string()};
  const Napi::Value value = one.Get("value");
  if (value.IsString()) attribute.value = value.As<Napi::String>().Utf8Value();
  else {
    std::vector<double> numbers;
    Napi::Array list = value.As<Napi::Array>();
    for (uint32_t at = 0; at < list.Length(); ++at) numbers.push_back(list.Get(at).ToNumber());
    attribute.value = numbers;
  }
  return attribute;
}

std::vector<std::string> strings(const Napi::Value& value) {
  std::vector<std::string> list;
  Napi::Array array = value.As<Napi::Array>();
  for (uint32_t at = 0; at < array.Length(); ++at) list.push_back(array.Get(at).ToString());
  return list;
}

// readHeader(path): Promise<Part[]>
Napi::Value readHeader(const Napi::CallbackInfo& info) {
  const std::string path = info[0].ToString();
  auto parts = std::make_shared<std::vector<shale::Part>>();
  auto* task = new Task(
      info.Env(), [path, parts] { *parts = shale::readParts(path); },
      [parts](Napi::Env env) -> Napi::Value {
        Napi::Array list = Napi::Array::New(env, parts->size());
        for (uint32_t at = 0; at < parts->size(); ++at) {
          const shale::Part& part = (*parts)[at];
          Napi::Object one = Napi::Object::New(env);
          one.Set("name", part.name);
          one.Set("tiled", part.tiled);
          one.Set("deep", part.deep);
          one.Set("complete", part.complete);
          one.Set("compression", part.compression);
          one.Set("dataWindow", box(env, part.dataWindow));
          one.Set("displayWindow", box(env, part.displayWindow));
          Napi::Array channels = Napi::Array::New(env, part.channels.size());
          for (uint32_t c = 0; c < part.channels.size(); ++c) {
            Napi::Object channel = Napi::Object::New(env);
            channel.Set("name", part.channels[c].name);
            channel.Set("type", part.channels[c].type);
            channel.Set("thin", part.channels[c].xSampling != 1 || part.channels[c].ySampling != 1);
            channels.Set(c, channel);
          }
          one.Set("channels", channels);
          Napi::Array attributes = Napi::Array::New(env, part.attributes.size());
          for (uint32_t a = 0; a < part.attributes.size(); ++a) attributes.Set(a, attributeObject(env, part.attributes[a]));
          one.Set("attributes", attributes);
          list.Set(at, one);
        }
        return list;
      });
  return task->begin();
}

// A task that gives pixels: {width, height, channels, data: ArrayBuffer}
Napi::Value pixelsFrom(Napi::Env env, std::function<shale::Pixels()> work) {
  auto pixels = std::make_shared<shale::Pixels>();
  auto* task = new Task(
      env, [work = std::move(work), pixels] { *pixels = work(); },
      [pixels](Napi::Env env) -> Napi::Value {
        Napi::Object one = Napi::Object::New(env);
        one.Set("width", pixels->width);
        one.Set("height", pixels->height);
        one.Set("channels", pixels->channels);
        // The array buffer takes over the memory; no copy is made.
        auto* owner = new std::shared_ptr<shale::Pixels>(pixels);
        one.Set("data", Napi::ArrayBuffer::New(env, pixels->data.data(), pixels->data.size(),
                                               [](Napi::Env, void*, std::shared_ptr<shale::Pixels>* held) { delete held; }, owner));
        return one;
      });
  return task->begin();
}

// readPixels(path, part, channels, isFloat, whole): Promise<{width, height, channels, data: ArrayBuffer}>
Napi::Value readPixels(const Napi::CallbackInfo& info) {
  const std::string path = info[0].ToString();
  const int part = info[1].ToNumber();
  const auto channels = strings(info[2]);
  const bool isFloat = info[3].ToBoolean();
  const bool whole = info[4].ToBoolean();
  return pixelsFrom(info.Env(), [path, part, channels, isFloat, whole] { return shale::readPixels(path, part, channels, isFloat, whole); });
}

// readLuminance(path, alpha, whole): the same
Napi::Value readLuminance(const Napi::CallbackInfo& info) {
  const std::string path = info[0].ToString();
  const bool alpha = info[1].ToBoolean();
  const bool whole = info[2].ToBoolean();
  return pixelsFrom(info.Env(), [path, alpha, whole] { return shale::readLuminance(path, alpha, whole); });
}

// What both ways of writing are told.
template <typename Request>
void readRequest(const Napi::Object& from, Request& request) {
  request.path = from.Get("path").ToString();
  request.compression = from.Get("compression").ToString();
  request.dwaLevel = from.Get("dwaLevel").ToNumber();
  request.zipLevel = from.Get("zipLevel").ToNumber();
  Napi::Array attributes = from.Get("attributes").As<Napi::Array>();
  for (uint32_t at = 0; at < attributes.Length(); ++at) request.attributes.push_back(attributeFrom(attributes.Get(at).As<Napi::Object>()));
}

bool readWindow(const Napi::Value& value, int (&window)[4]) {
  if (!value.IsArray()) return false;
  Napi::Array list = value.As<Napi::Array>();
  for (uint32_t at = 0; at < 4; ++at) window[at] = list.Get(at).ToNumber();
  return true;
}

// copyChannels({path, channels: {path, part, from, as}[], compression, dwaLevel, zipLevel, attributes}): Promise<void>
Napi::Value copyChannels(const Napi::CallbackInfo& info) {
  const Napi::Object from = info[0].As<Napi::Object>();
  auto request = std::make_shared<shale::CopyRequest>();
  readRequest(from, *request);
  Napi::Array channels = from.Get("channels").As<Napi::Array>();
  for (uint32_t at = 0; at < channels.Length(); ++at) {
    const Napi::Object one = channels.Get(at).As<Napi::Object>();
    request->channels.push_back({one.Get("path").ToString(), one.Get("part").ToNumber(), one.Get("from").ToString(), one.Get("as").ToString()});
  }
  auto* task = new Task(
      info.Env(), [request] { shale::copyChannels(*request); }, [](Napi::Env env) -> Napi::Value { return env.Undefined(); });
  return task->begin();
}

// writePixels({path, width, height, channels, isFloat, compression, dwaLevel, attributes}, data): Promise<void>
Napi::Value writePixels(const Napi::CallbackInfo& info) {
  const Napi::Object from = info[0].As<Napi::Object>();
  const Napi::TypedArray data = info[1].As<Napi::TypedArray>();
  auto request = std::make_shared<shale::WriteRequest>();
  readRequest(from, *request);
  request->hasWindows = readWindow(from.Get("dataWindow"), request->dataWindow) && readWindow(from.Get("displayWindow"), request->displayWindow);
  request->width = from.Get("width").ToNumber();
  request->height = from.Get("height").ToNumber();
  request->channels = strings(from.Get("channels"));
  request->isFloat = from.Get("isFloat").ToBoolean();
  request->data = static_cast<const char*>(data.ArrayBuffer().Data()) + data.ByteOffset();
  const size_t needs = size_t(request->width) * request->height * request->channels.size() * (request->isFloat ? 4 : 2);
  if (request->hasWindows && (int64_t(request->dataWindow[2]) - request->dataWindow[0] + 1 != request->width ||
                              int64_t(request->dataWindow[3]) - request->dataWindow[1] + 1 != request->height))
    throw Napi::RangeError::New(info.Env(), "the data window is not as large as the picture");
  if (request->width < 1 || request->height < 1 || request->channels.empty() || data.ByteLength() != needs)
    throw Napi::RangeError::New(info.Env(), "the samples do not fill the picture");
  auto* task = new Task(
      info.Env(), [request] { shale::writePixels(*request); }, [](Napi::Env env) -> Napi::Value { return env.Undefined(); });
  return task->begin({data});
}

Napi::Value setThreads(const Napi::CallbackInfo& info) {
  Imf::setGlobalThreadCount(info[0].ToNumber());
  return info.Env().Undefined();
}

Napi::Object init(Napi::Env env, Napi::Object exports) {
  exports.Set("readHeader", Napi::Function::New(env, readHeader));
  exports.Set("readPixels", Napi::Function::New(env, readPixels));
  exports.Set("readLuminance", Napi::Function::New(env, readLuminance));
  exports.Set("copyChannels", Napi::Function::New(env, copyChannels));
  exports.Set("writePixels", Napi::Function::New(env, writePixels));
  exports.Set("setThreads", Napi::Function::New(env, setThreads));
  return exports;
}

}  // namespace

NODE_API_MODULE(shale_exr, init)
