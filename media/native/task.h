// Work of an addon off the event loop, and what comes of it.
#pragma once

#include <napi.h>

#include <functional>
#include <utility>

namespace shale {

class Task : public Napi::AsyncWorker {
 public:
  Task(Napi::Env env, std::function<void()> work, std::function<Napi::Value(Napi::Env)> finish)
      : Napi::AsyncWorker(env), deferred_(Napi::Promise::Deferred::New(env)), work_(std::move(work)), finish_(std::move(finish)) {}

  // Keeps a value alive until the work is done.
  void hold(Napi::Object value) { held_ = Napi::Persistent(value); }
  Napi::Promise promise() { return deferred_.Promise(); }

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
