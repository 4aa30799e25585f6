#include "addon.h"
#include "pixels.h"
#include "work.h"

#include <stdexcept>
#include <string>

namespace {

using shale::samplesOf;

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
  work.codes.parts = number("parts");
  work.codes.max = int(number("max"));
  work.isHalf = job.Get("isHalf").ToBoolean();
  work.codes.least = pair("domain", 0);
  work.codes.most = pair("domain", 1);
  work.codes.scale = work.codes.parts / (work.codes.most - work.codes.least);
  work.heldLeast = pair("held", 0);
  work.heldMost = pair("held", 1);
  work.outside = samplesOf<const uint8_t>(array("outside"));
  work.values = samplesOf<const double>(array("values"));
  work.curved = samplesOf<const double>(array("curved"));
  work.codes.bounds = samplesOf<const double>(array("bounds"));
  work.codes.guesses = samplesOf<const uint16_t>(array("guesses"));

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
    fits = fits && work.colours < work.step && array("bounds").ElementLength() == size_t(work.codes.max) + 2 &&
           array("guesses").ElementLength() == size_t(work.codes.parts) + 1;
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

// likeness(a, b, width, height, channels, values, most): [error, ssim]; values is empty but for halves
Napi::Value likeness(const Napi::CallbackInfo& info) {
  const auto a = info[0].As<Napi::TypedArray>(), b = info[1].As<Napi::TypedArray>(), values = info[5].As<Napi::TypedArray>();
  const auto size = [&info](int at) { return size_t(info[at].ToNumber().Int64Value()); };
  const size_t width = size(2), height = size(3), channels = size(4), known = values.ElementLength();
  bool fits = a.ElementLength() == b.ElementLength() && a.TypedArrayType() == b.TypedArrayType() && a.ElementLength() == width * height * channels;
  fits = fits && channels >= 1 && channels <= 4 && values.TypedArrayType() == napi_float32_array && (known == 0 || (known == 65536 && a.ElementSize() == 2));
  if (!fits) throw Napi::RangeError::New(info.Env(), "the pictures are not of one kind");
  const float* table = known == 0 ? nullptr : samplesOf<const float>(values);
  const double most = info[6].ToNumber();
  const auto of = [&](auto first, auto second) { return shale::likeness(first, second, width, height, int(channels), table, most); };
  const shale::Likeness told = a.ElementSize() == 1   ? of(samplesOf<const uint8_t>(a), samplesOf<const uint8_t>(b))
                               : a.ElementSize() == 2 ? of(samplesOf<const uint16_t>(a), samplesOf<const uint16_t>(b))
                                                      : of(samplesOf<const float>(a), samplesOf<const float>(b));
  Napi::Array both = Napi::Array::New(info.Env(), 2);
  both.Set(0u, Napi::Number::New(info.Env(), told.error));
  both.Set(1u, Napi::Number::New(info.Env(), told.ssim));
  return both;
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

// Fields of a job for `work`; what does not fit together is refused, so that nothing is read or written outside the arrays.
class Fields {
 public:
  explicit Fields(const Napi::Object& object) : object_(object) {}

  double number(const char* name) const { return object_.Get(name).ToNumber().DoubleValue(); }
  size_t size(const char* name) const {
    const double value = number(name);
    if (!(value >= 0 && value <= 1 << 30)) refuse(name);
    return size_t(value);
  }
  int among(const char* name, int count) const {
    const double value = number(name);
    if (!(value >= 0 && value < count)) refuse(name);
    return int(value);
  }
  bool flag(const char* name) const { return object_.Get(name).ToBoolean(); }
  bool has(const char* name) const { return object_.Has(name) && !object_.Get(name).IsUndefined(); }
  Fields of(const char* name) const { return Fields(object_.Get(name).As<Napi::Object>()); }

  // A typed array of so many elements, or of any number of them where that is 0.
  template <typename T>
  T* array(const char* name, napi_typedarray_type type, size_t length) const {
    const auto value = object_.Get(name);
    if (!value.IsTypedArray()) refuse(name);
    const auto array = value.As<Napi::TypedArray>();
    if (array.TypedArrayType() != type || (length != 0 && array.ElementLength() != length)) refuse(name);
    return samplesOf<T>(array);
  }
  const double* doubles(const char* name, size_t length) const { return array<const double>(name, napi_float64_array, length); }
  size_t lengthOf(const char* name) const { return object_.Get(name).As<Napi::TypedArray>().ElementLength(); }
  void copy(const char* name, double* to, size_t length) const {
    const double* from = doubles(name, length);
    std::copy(from, from + length, to);
  }

  [[noreturn]] static void refuse(const char* name) { throw std::invalid_argument(std::string("the job's ") + name + " does not fit"); }

 private:
  Napi::Object object_;
};

shale::Transfer transferOf(const Fields& fields, const char* name) { return shale::Transfer(fields.among(name, shale::transfers)); }

// The taps of a side; none where it stays.
shale::Taps tapsOf(const Fields& step, const char* first, const char* weights, size_t from, size_t to) {
  if (!step.has(first)) {
    if (from != to) Fields::refuse(first);
    return {nullptr, nullptr, 0, to};
  }
  shale::Taps taps{step.array<const int32_t>(first, napi_int32_array, to), step.doubles(weights, 0), 0, to};
  const size_t length = step.lengthOf(weights);
  taps.count = length / to;
  if (taps.count == 0 || taps.count > from || length != taps.count * to) Fields::refuse(weights);
  for (size_t at = 0; at < to; ++at)
    if (taps.first[at] < 0 || size_t(taps.first[at]) + taps.count > from || (at > 0 && taps.first[at] < taps.first[at - 1])) Fields::refuse(first);
  return taps;
}

constexpr size_t knownLength = 65538;

shale::Step stepOf(const Fields& fields, size_t& width, size_t& height, int colours) {
  using Kind = shale::Step::Kind;
  shale::Step step;
  step.kind = Kind(fields.among("kind", int(Kind::rollOff) + 1));
  if (fields.has("numbers")) {
    const size_t length = fields.lengthOf("numbers");
    if (length > 9) Fields::refuse("numbers");
    fields.copy("numbers", step.numbers, length);
  }
  if (fields.has("known")) step.known = fields.doubles("known", knownLength);
  if (fields.has("from")) step.from = transferOf(fields, "from");
  if (fields.has("to")) step.to = transferOf(fields, "to");
  step.isShared = fields.flag("isShared");
  step.width = width;
  step.height = height;
  if (step.kind == Kind::overPicture) step.below = fields.array<const float>("below", napi_float32_array, width * height * size_t(colours + 1));
  if (step.kind == Kind::key && (colours != 3 || !(step.numbers[6] >= 0 && step.numbers[6] < 3))) Fields::refuse("key");
  if (step.kind == Kind::matrix && colours != 3) Fields::refuse("matrix");
  if (step.kind != Kind::resize && step.kind != Kind::pad) return step;
  step.width = fields.size("width");
  step.height = fields.size("height");
  if (step.width == 0 || step.height == 0) Fields::refuse("width");
  if (step.kind == Kind::resize) {
    step.across = tapsOf(fields, "acrossFirst", "acrossWeights", width, step.width);
    step.down = tapsOf(fields, "downFirst", "downWeights", height, step.height);
  } else if (!(step.numbers[0] >= 0 && step.numbers[1] >= 0 && step.numbers[0] + double(width) <= double(step.width) &&
               step.numbers[1] + double(height) <= double(step.height)))
    Fields::refuse("padding");
  width = step.width;
  height = step.height;
  return step;
}

shale::Ending endOf(const Fields& fields) {
  shale::Ending end;
  end.sample = shale::Ending::Sample(fields.among("sample", 4));
  const bool isInteger = end.sample == shale::Ending::Sample::u8 || end.sample == shale::Ending::Sample::u16;
  end.max = isInteger ? fields.among("max", 65536) : 0;
  if (end.sample == shale::Ending::Sample::u8 && end.max > 255) Fields::refuse("max");
  end.usesAlpha = fields.flag("usesAlpha");
  end.keepsAlpha = fields.flag("keepsAlpha");
  end.multiplies = fields.flag("multiplies");
  end.divides = fields.flag("divides");
  end.isMatte = fields.flag("isMatte");
  end.from = transferOf(fields, "from");
  end.to = transferOf(fields, "to");
  fields.copy("matte", end.matte, 3);
  end.least = fields.number("least");
  end.most = fields.number("most");
  end.slack = fields.number("slack");
  if (isInteger) {
    const size_t parts = fields.lengthOf("guesses");
    if (parts < 2) Fields::refuse("guesses");
    end.codes = {fields.doubles("bounds", size_t(end.max) + 2), fields.array<const uint16_t>("guesses", napi_uint16_array, 0), double(parts - 1), 0, end.max,
                 fields.number("domainLeast"), fields.number("domainMost")};
    end.codes.scale = end.codes.parts / (end.codes.most - end.codes.least);
  }
  end.dither = fields.among("dither", 3);
  if (end.dither != 0) end.known = fields.doubles("known", knownLength);
  if (end.dither == 1) {
    end.side = fields.size("side");
    if (end.side == 0 || (end.side & (end.side - 1)) != 0) Fields::refuse("side");
    end.thresholds = fields.doubles("thresholds", end.side * end.side);
  }
  return end;
}

// work(job): [nan, infinite, glow, rolled, alphaDropped, isWhole, low by channel, high by channel]; addon.ts has the fields
Napi::Value work(const Napi::CallbackInfo& info) {
  try {
    const Fields fields(info[0].As<Napi::Object>());
    shale::Job job;
    job.width = fields.size("width");
    job.height = fields.size("height");
    job.channels = fields.among("channels", 5);
    job.colours = job.channels <= 2 ? 1 : 3;
    job.hasAlpha = fields.flag("hasAlpha");
    if (job.width == 0 || job.height == 0 || job.channels == 0 || (job.hasAlpha && job.channels != job.colours + 1)) Fields::refuse("channels");
    const size_t samples = job.width * job.height * size_t(job.channels);
    job.bytes = fields.among("bytes", 5);
    if (job.bytes == 4) job.source = fields.array<const float>("source", napi_float32_array, samples);
    else {
      if (job.bytes == 1) job.source = fields.array<const uint8_t>("source", napi_uint8_array, samples);
      else job.source = fields.array<const uint16_t>("source", napi_uint16_array, samples);
      const size_t codes = fields.lengthOf("values");
      job.values = fields.array<const float>("values", napi_float32_array, 0);
      job.alphaValues = fields.array<const float>("alphaValues", napi_float32_array, codes);
      if (codes < 256) Fields::refuse("values");
      if (fields.has("light")) {
        job.light = fields.doubles("light", codes);
        fields.copy("matrix", job.matrix, 9);
        if (job.colours != 3) Fields::refuse("light");
      }
      if (job.bytes == 2 && codes < 65536) {
        const auto* from = static_cast<const uint16_t*>(job.source);
        for (size_t at = 0; at < samples; ++at)
          if (from[at] >= codes) Fields::refuse("source");
      }
    }
    size_t width = job.width, height = job.height;
    const auto steps = info[0].As<Napi::Object>().Get("steps").As<Napi::Array>();
    for (uint32_t at = 0; at < steps.Length(); ++at) job.steps.push_back(stepOf(Fields(steps.Get(at).As<Napi::Object>()), width, height, job.colours));
    job.end = endOf(fields.of("end"));
    const size_t outChannels = job.end.isMatte ? 1 : size_t(job.colours + (job.end.keepsAlpha ? 1 : 0));
    using Sample = shale::Ending::Sample;
    const auto type = job.end.sample == Sample::u8 ? napi_uint8_array : job.end.sample == Sample::f32 ? napi_float32_array : napi_uint16_array;
    job.out = fields.array<void>("data", type, width * height * outChannels);

    const shale::Told told = shale::work(job);
    const auto& counts = told.counts;
    const uint32_t list[] = {counts.nan,     counts.infinite, counts.glow,   told.rolled,     told.alphaDropped, told.isWhole,
                             counts.low[0],  counts.low[1],   counts.low[2], counts.high[0],  counts.high[1],    counts.high[2]};
    Napi::Array result = Napi::Array::New(info.Env(), 12);
    for (uint32_t at = 0; at < 12; ++at) result.Set(at, Napi::Number::New(info.Env(), list[at]));
    return result;
  } catch (const std::invalid_argument& error) {
    throw Napi::RangeError::New(info.Env(), error.what());
  }
}

// unpackTens(bytes, big, gapLow, out), packTens(samples, out): three samples of 10 bits a word
Napi::Value unpackTens(const Napi::CallbackInfo& info) {
  const auto from = info[0].As<Napi::Uint8Array>();
  auto out = info[3].As<Napi::Uint16Array>();
  const size_t pixels = out.ElementLength() / 3;
  if (from.ByteLength() < pixels * 4) throw Napi::RangeError::New(info.Env(), "it ends within its picture");
  shale::unpackTens(from.Data(), out.Data(), pixels, info[1].ToBoolean(), info[2].ToBoolean());
  return info.Env().Undefined();
}

Napi::Value packTens(const Napi::CallbackInfo& info) {
  const auto from = info[0].As<Napi::Uint16Array>();
  auto out = info[1].As<Napi::Uint8Array>();
  const size_t pixels = from.ElementLength() / 3;
  if (out.ByteLength() != pixels * 4) throw Napi::RangeError::New(info.Env(), "the words are not those of the samples");
  shale::packTens(from.Data(), out.Data(), pixels);
  return info.Env().Undefined();
}

// swapRedBlue(from, channels, out)
Napi::Value swapRedBlue(const Napi::CallbackInfo& info) {
  const auto from = info[0].As<Napi::Uint8Array>();
  const int channels = info[1].ToNumber().Int32Value();
  auto out = info[2].As<Napi::Uint8Array>();
  if ((channels != 3 && channels != 4) || out.ByteLength() != from.ByteLength()) throw Napi::RangeError::New(info.Env(), "it has no red and blue");
  shale::swapRedBlue(from.Data(), out.Data(), from.ByteLength() / size_t(channels), channels);
  return info.Env().Undefined();
}

Napi::Object init(Napi::Env env, Napi::Object exports) {
  exports.Set("convert", Napi::Function::New(env, convert));
  exports.Set("likeness", Napi::Function::New(env, likeness));
  exports.Set("compare", Napi::Function::New(env, compare));
  exports.Set("work", Napi::Function::New(env, work));
  exports.Set("unpackTens", Napi::Function::New(env, unpackTens));
  exports.Set("packTens", Napi::Function::New(env, packTens));
  exports.Set("swapRedBlue", Napi::Function::New(env, swapRedBlue));
  exports.Set("resample", Napi::Function::New(env, resample));
  shale::addLooking(env, exports);
  return exports;
}

}  // namespace

NODE_API_MODULE(shale_pixels, init)
