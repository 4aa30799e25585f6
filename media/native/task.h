// Work of an addon off the event loop, and what comes of it.
#pragma once

#include <napi.h>

#include <functional>
#include <initializer_list>
#include <utility>

namespace shale {

class Task : public Napi::AsyncWorker {
 public:
  Task(Napi::Env env, std::function<void()> work, std::function<Napi::Value(Napi::Env)> finish)
      : Napi::AsyncWorker(env), deferred_(Napi::Promise::Deferred::New(env)), work_(std::move(work)), finish_(std::move(finish)) {}

  // Begins, and keeps values alive until the work is done. Afterwards the task is not ours any more.
  Napi::Promise begin(std::initializer_list<Napi::Value> values = {}) {
    Napi::Array all = Napi::Array::New(Env(), values.size());
    uint32_t at = 0;
    for (const Napi::Value& value : values) all.Set(at++, value);
    held_ = Napi::Persistent(all.As<Napi::Object>());
    const Napi::Promise promise = deferred_.Promise();
    Queue();
    return promise;
  }

  void Execute() override {
    try {
      work_();
    } catch (const std::exception& error) {
      SetError(error.what());
    } catch (...) {
      SetError("the library failed without a reason");
    }
  }
  void OnOK() override { deferred_.Resolve(finish_(Env())); }
  void OnError(const Napi::Error& error) override { deferred_.Reject(error.Value()); }

 private:
  Napi::Promise::Deferred deferred_;
  std::function<void()> work_;
  std::function<Napi::Value(Napi::Env)> finish_;
  Napi::ObjectReference held_;
};

}  // namespace shale
