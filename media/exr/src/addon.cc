#include "../../native/task.h"
#include "exr.h"
#include "pixels.h"

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
  const Napi::Promise promise = task->promise();
  task->Queue();
  return promise;
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
  const Napi::Promise promise = task->promise();
  task->Queue();
  return promise;
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
  const Napi::Promise promise = task->promise();
  task->Queue();
  return promise;
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
  task->hold(data);
  const Napi::Promise promise = task->promise();
  task->Queue();
  return promise;
}

// The samples of a typed array of bytes or of 16-bit words.
template <typename T>
T* samplesOf(const Napi::Value& value) {
  const auto array = value.As<Napi::TypedArray>();
  return reinterpret_cast<T*>(static_cast<char*>(array.ArrayBuffer().Data()) + array.ByteOffset());
}

template <typename From, typename To>
void runConvert(const Napi::Object& job, const shale::Work& work, shale::Way way, shale::Counts& counts) {
  shale::convert(way, samplesOf<const From>(job.Get("source")), samplesOf<To>(job.Get("data")), samplesOf<const To>(job.Get("colour")),
                 samplesOf<const To>(job.Get("alpha")), work, counts);
}

// convert(job): [nan, infinite, glow, low by channel, high by channel]; addon.ts has the fields
Napi::Value convert(const Napi::CallbackInfo& info) {
  const Napi::Object job = info[0].As<Napi::Object>();
  const auto array = [&job](const char* name) { return job.Get(name).As<Napi::TypedArray>(); };
  const auto number = [&job](const char* name) { return job.Get(name).ToNumber().DoubleValue(); };
  const auto pair = [&job](const char* name, uint32_t at) { return job.Get(name).As<Napi::Array>().Get(at).ToNumber().DoubleValue(); };
  const auto way = static_cast<shale::Way>(int(number("way")));
  const auto source = array("source");
  const auto data = array("data");
  const bool wide = source.ElementSize() == 2;
  const bool wideOut = data.ElementSize() == 2;

  shale::Work work{};
  work.step = int(number("step"));
  work.colours = int(number("colours"));
  work.keepsAlpha = job.Get("keepsAlpha").ToBoolean();
  work.opaque = uint16_t(number("opaque"));
  work.safe = int(number("safe"));
  work.parts = number("parts");
  work.max = int(number("max"));
  work.isHalf = job.Get("isHalf").ToBoolean();
  work.least = pair("domain", 0);
  work.most = pair("domain", 1);
  work.scale = work.parts / (work.most - work.least);
  work.heldLeast = pair("held", 0);
  work.heldMost = pair("held", 1);
  work.outside = samplesOf<const uint8_t>(array("outside"));
  work.values = samplesOf<const double>(array("values"));
  work.curved = samplesOf<const double>(array("curved"));
  work.bounds = samplesOf<const double>(array("bounds"));
  work.guesses = samplesOf<const uint16_t>(array("guesses"));

  // Nothing is read or written outside the arrays, whatever is handed in: codes are 8 or 16 bits, and every table has them all,
  // or the pictures hold smaller ones, which is checked here once.
  const size_t codes = array("outside").ElementLength();
  const size_t outChannels = size_t(work.colours + (work.keepsAlpha ? 1 : 0));
  bool fits = work.step >= 1 && work.step <= 4 && work.colours >= 1 && work.colours <= work.step && codes >= 256;
  fits = fits && (!work.keepsAlpha || work.colours < work.step) && source.ElementLength() % size_t(work.step) == 0;
  work.pixels = fits ? source.ElementLength() / size_t(work.step) : 0;
  fits = fits && data.ElementLength() == work.pixels * outChannels;
  for (const char* name : {"colour", "alpha"})
    fits = fits && array(name).ElementLength() == codes && array(name).ElementSize() == data.ElementSize();
  fits = fits && array("values").ElementLength() == codes;
  // Multiplied and divided are pixels of one or three colours and their alpha.
  if (way == shale::Way::multiply || way == shale::Way::divide) fits = fits && (work.colours == 1 || work.colours == 3) && work.step == work.colours + 1;
  if (way == shale::Way::multiply) fits = fits && array("curved").ElementLength() == codes && work.colours < work.step;
  if (way == shale::Way::divide)
    fits = fits && work.colours < work.step && array("bounds").ElementLength() == size_t(work.max) + 2 &&
           array("guesses").ElementLength() == size_t(work.parts) + 1;
  if (way == shale::Way::narrow) fits = fits && wide && !wideOut && source.ElementLength() == data.ElementLength();
  if (fits && wide && codes < 65536) {
    const auto* from = samplesOf<const uint16_t>(source);
    for (size_t at = 0; at < source.ElementLength() && fits; ++at) fits = from[at] < codes;
  }
  if (!fits) throw Napi::RangeError::New(info.Env(), "the tables do not fit the samples");

  shale::Counts counts;
  if (way == shale::Way::narrow) shale::narrow(samplesOf<const uint16_t>(source), samplesOf<uint8_t>(data), source.ElementLength());
  else if (wide && wideOut) runConvert<uint16_t, uint16_t>(job, work, way, counts);
  else if (wide) runConvert<uint16_t, uint8_t>(job, work, way, counts);
  else if (wideOut) runConvert<uint8_t, uint16_t>(job, work, way, counts);
  else runConvert<uint8_t, uint8_t>(job, work, way, counts);

  const uint32_t list[] = {counts.nan,    counts.infinite, counts.glow,    counts.low[0], counts.low[1],
                           counts.low[2], counts.high[0],  counts.high[1], counts.high[2]};
  Napi::Array told = Napi::Array::New(info.Env(), 9);
  for (uint32_t at = 0; at < 9; ++at) told.Set(at, Napi::Number::New(info.Env(), list[at]));
  return told;
}

// compare(a, b, values): [samples, most]; values is empty but for halves
Napi::Value compare(const Napi::CallbackInfo& info) {
  const auto a = info[0].As<Napi::TypedArray>();
  const auto b = info[1].As<Napi::TypedArray>();
  const auto values = info[2].As<Napi::TypedArray>();
  const size_t known = values.ElementLength();
  if (a.ElementLength() != b.ElementLength() || a.TypedArrayType() != b.TypedArrayType() || (known != 0 && (known != 65536 || a.ElementSize() != 2)))
    throw Napi::RangeError::New(info.Env(), "the pictures are not of one kind");
  const double* table = known == 0 ? nullptr : samplesOf<const double>(values);
  const size_t samples = a.ElementLength();
  shale::Difference difference;
  if (a.ElementSize() == 1) difference = shale::compare(samplesOf<const uint8_t>(a), samplesOf<const uint8_t>(b), samples, table);
  else if (a.ElementSize() == 2) difference = shale::compare(samplesOf<const uint16_t>(a), samplesOf<const uint16_t>(b), samples, table);
  else difference = shale::compare(samplesOf<const float>(a), samplesOf<const float>(b), samples, table);
  Napi::Array told = Napi::Array::New(info.Env(), 2);
  told.Set(0u, Napi::Number::New(info.Env(), difference.samples));
  told.Set(1u, Napi::Number::New(info.Env(), difference.most));
  return told;
}

// resample(source, out, width, height, stride, first, weights, isAcross): a pass of core/pixels/resample.ts into `out`
Napi::Value resample(const Napi::CallbackInfo& info) {
  const auto source = info[0].As<Napi::TypedArray>();
  const auto out = info[1].As<Napi::TypedArray>();
  const auto size = [&info](int at) { return size_t(info[at].ToNumber().Int64Value()); };
  const size_t width = size(2), height = size(3), stride = size(4);
  const auto first = info[5].As<Napi::TypedArray>();
  const auto weights = info[6].As<Napi::TypedArray>();
  const bool isAcross = info[7].ToBoolean();
  shale::Taps taps{samplesOf<const int32_t>(first), samplesOf<const double>(weights), 0, first.ElementLength()};
  if (taps.to > 0) taps.count = weights.ElementLength() / taps.to;
  const size_t side = isAcross ? width : height;
  bool fits = taps.to > 0 && taps.count > 0 && taps.count <= side && weights.ElementLength() == taps.to * taps.count;
  fits = fits && source.TypedArrayType() == napi_float32_array && out.TypedArrayType() == napi_float32_array;
  fits = fits && first.TypedArrayType() == napi_int32_array && weights.TypedArrayType() == napi_float64_array;
  fits = fits && stride > 0 && source.ElementLength() == width * height * stride;
  fits = fits && out.ElementLength() == (isAcross ? taps.to * height : width * taps.to) * stride;
  for (size_t at = 0; at < taps.to && fits; ++at)
    fits = taps.first[at] >= 0 && size_t(taps.first[at]) + taps.count <= side;
  if (!fits) throw Napi::RangeError::New(info.Env(), "the taps do not fit the picture");
  if (isAcross) shale::across(samplesOf<const float>(source), samplesOf<float>(out), width, height, stride, taps);
  else shale::down(samplesOf<const float>(source), samplesOf<float>(out), width * stride, taps);
  return info.Env().Undefined();
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
  exports.Set("convert", Napi::Function::New(env, convert));
  exports.Set("compare", Napi::Function::New(env, compare));
  exports.Set("resample", Napi::Function::New(env, resample));
  exports.Set("setThreads", Napi::Function::New(env, setThreads));
  return exports;
}

}  // namespace

NODE_API_MODULE(shale_exr, init)
