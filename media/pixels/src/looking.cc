// Pictures for looking at, handed over to JavaScript; addon.ts has the fields.
#include "addon.h"
#include "pixels.h"

#include <cstdint>

namespace shale {

namespace {

// view(source, channels, tables, alpha, clearShows, into, share, intoRows, shareRows, out, warnings, across); addon.ts has the fields
Napi::Value runView(const Napi::CallbackInfo& info) {
  const auto array = [&info](int at) { return info[at].As<Napi::TypedArray>(); };
  const auto source = array(0), out = array(9), warnings = array(10);
  const Napi::Object tables = info[2].As<Napi::Object>();
  const auto table = [&tables](const char* name) { return tables.Get(name).As<Napi::TypedArray>(); };
  const auto lights = table("lights"), alphas = table("alphas"), warns = table("warnings");
  shale::Seen seen{};
  seen.channels = info[1].ToNumber();
  seen.alpha = info[3].ToNumber();
  seen.areLight = tables.Get("areLight").ToBoolean() && source.TypedArrayType() == napi_uint16_array;
  seen.clearShows = uint8_t(info[4].ToNumber().Uint32Value());
  const auto falls = [&array](int at) {
    return shale::Falls{samplesOf<const int32_t>(array(at)), samplesOf<const double>(array(at + 1)), array(at).ElementLength()};
  };
  seen.columns = falls(5);
  seen.rows = falls(7);
  seen.across = size_t(info[11].ToNumber().Int64Value());
  seen.down = seen.across ? warnings.ElementLength() / seen.across : 0;
  const size_t codes = lights.ElementLength();
  const bool isFloat = source.TypedArrayType() == napi_float32_array;
  bool fits = seen.channels >= 1 && seen.channels <= 4 && seen.across >= 1 && warnings.ElementLength() == seen.across * seen.down;
  fits = fits && source.ElementLength() == seen.columns.count * seen.rows.count * size_t(seen.channels) && out.ElementLength() == seen.across * seen.down * 4;
  fits = fits && array(6).ElementLength() == seen.columns.count && array(8).ElementLength() == seen.rows.count;
  fits = fits && array(5).TypedArrayType() == napi_int32_array && array(7).TypedArrayType() == napi_int32_array && out.TypedArrayType() == napi_float32_array;
  fits = fits && array(6).TypedArrayType() == napi_float64_array && array(8).TypedArrayType() == napi_float64_array;
  fits = fits && lights.TypedArrayType() == napi_float32_array && alphas.TypedArrayType() == napi_float32_array && alphas.ElementLength() == codes;
  fits = fits && warns.ElementLength() == codes && (isFloat ? codes == 0 : codes >= (source.ElementSize() == 1 ? 256 : 1));
  // Every pixel falls into one that there is, and only what has a next falls into it.
  const auto within = [](const shale::Falls& one, size_t to) {
    for (size_t at = 0; at < one.count; ++at)
      if (one.into[at] < 0 || size_t(one.into[at]) + (one.share[at] < 1 ? 1 : 0) >= to) return false;
    return true;
  };
  fits = fits && within(seen.columns, seen.across) && within(seen.rows, seen.down);
  if (fits && source.ElementSize() == 2 && codes < 65536) {
    const auto* from = samplesOf<const uint16_t>(source);
    for (size_t at = 0; at < source.ElementLength() && fits; ++at) fits = from[at] < codes;
  }
  if (!fits) throw Napi::RangeError::New(info.Env(), "the tables and places do not fit the samples");
  if (!isFloat) {
    seen.lights = samplesOf<const float>(lights);
    seen.alphas = samplesOf<const float>(alphas);
    seen.warnings = samplesOf<const uint8_t>(warns);
  }
  const auto into = [&](auto from) { shale::view(from, seen, samplesOf<float>(out), samplesOf<uint8_t>(warnings)); };
  if (isFloat) into(samplesOf<const float>(source));
  else if (source.ElementSize() == 2) into(samplesOf<const uint16_t>(source));
  else into(samplesOf<const uint8_t>(source));
  return info.Env().Undefined();
}

// display(view, shares, table, channels, out)
Napi::Value runDisplay(const Napi::CallbackInfo& info) {
  const auto view = info[0].As<Napi::TypedArray>(), table = info[2].As<Napi::TypedArray>(), out = info[4].As<Napi::TypedArray>();
  const int channels = info[3].ToNumber();
  const size_t pixels = view.ElementLength() / 4;
  bool fits = view.TypedArrayType() == napi_float32_array && view.ElementLength() % 4 == 0 && (channels == 3 || channels == 4);
  fits = fits && table.ElementSize() == 1 && table.ElementLength() == 65537 && out.ElementSize() == 1 && out.ElementLength() == pixels * size_t(channels);
  if (!fits) throw Napi::RangeError::New(info.Env(), "the table does not fit the view");
  shale::display(samplesOf<const float>(view), pixels, info[1].ToBoolean(), samplesOf<const uint8_t>(table), channels, samplesOf<uint8_t>(out));
  return info.Env().Undefined();
}

// small(source, width, height, channels, values, alphas, columns, out): tables are empty for floats
Napi::Value runSmall(const Napi::CallbackInfo& info) {
  const auto source = info[0].As<Napi::TypedArray>();
  const auto size = [&info](int at) { return size_t(info[at].ToNumber().Int64Value()); };
  const size_t width = size(1), height = size(2), channels = size(3), columns = size(6), stride = size(8);
  const auto values = info[4].As<Napi::TypedArray>(), alphas = info[5].As<Napi::TypedArray>();
  const auto out = info[7].As<Napi::TypedArray>();
  const bool isFloat = source.TypedArrayType() == napi_float32_array;
  const size_t codes = values.ElementLength();
  bool fits = channels >= 1 && channels <= 4 && width > 0 && height > 0 && columns > 0 && stride >= width * channels &&
              source.ElementLength() >= (height - 1) * stride + width * channels;
  fits = fits && values.TypedArrayType() == napi_float64_array && alphas.TypedArrayType() == napi_float64_array && alphas.ElementLength() == codes;
  fits = fits && out.TypedArrayType() == napi_float32_array && out.ElementLength() == columns * height;
  fits = fits && (isFloat ? codes == 0 : source.ElementSize() == 1 ? codes == 256 : codes == 65536);
  if (!fits) throw Napi::RangeError::New(info.Env(), "the tables do not fit the picture");
  const double* known = isFloat ? nullptr : samplesOf<const double>(values);
  const double* shares = isFloat ? nullptr : samplesOf<const double>(alphas);
  float* to = samplesOf<float>(out);
  if (isFloat) shale::small(samplesOf<const float>(source), width, height, stride, int(channels), known, shares, columns, to);
  else if (source.ElementSize() == 1) shale::small(samplesOf<const uint8_t>(source), width, height, stride, int(channels), known, shares, columns, to);
  else shale::small(samplesOf<const uint16_t>(source), width, height, stride, int(channels), known, shares, columns, to);
  return info.Env().Undefined();
}

}  // namespace

void addLooking(Napi::Env env, Napi::Object exports) {
  exports.Set("view", Napi::Function::New(env, runView));
  exports.Set("display", Napi::Function::New(env, runDisplay));
  exports.Set("small", Napi::Function::New(env, runSmall));
}

}  // namespace shale
