// What Node has no call for: a rename that never writes over a file, for many names at once and off the event loop; opening below a
// folder and nowhere else. And what it has only one by one: whose inode a name leads to.
#include <fcntl.h>
#include <linux/fs.h>
#include <linux/openat2.h>
#include <napi.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <unistd.h>
#include <xxhash.h>

#include <cerrno>
#include <cinttypes>
#include <cstdio>
#include <cstring>
#include <memory>
#include <string>
#include <vector>

#include "../../../media/native/task.h"

namespace {

std::vector<std::string> TextsOf(const Napi::Value& value) {
  const Napi::Array array = value.As<Napi::Array>();
  std::vector<std::string> texts(array.Length());
  for (uint32_t at = 0; at < array.Length(); ++at) texts[at] = array.Get(at).As<Napi::String>().Utf8Value();
  return texts;
}

// Gives a file another name unless one has it. File systems without the kernel's own call get a second name and lose the first;
// those without hard links are asked first, which leaves a moment in between.
int RenameNew(const char* from, const char* to) {
  if (syscall(SYS_renameat2, AT_FDCWD, from, AT_FDCWD, to, RENAME_NOREPLACE) == 0) return 0;
  if (errno != EINVAL && errno != ENOSYS) return errno;
  if (link(from, to) == 0) return unlink(from) == 0 ? 0 : errno;
  if (errno != EPERM && errno != EOPNOTSUPP && errno != EMLINK) return errno;
  struct stat there;
  if (lstat(to, &there) == 0) return EEXIST;
  return rename(from, to) == 0 ? 0 : errno;
}

class RenameWork : public Napi::AsyncWorker {
 public:
  RenameWork(Napi::Env env, std::vector<std::string> from, std::vector<std::string> to)
      : AsyncWorker(env), deferred_(env), from_(std::move(from)), to_(std::move(to)) {}
  Napi::Promise Promise() { return deferred_.Promise(); }

  void Execute() override {
    for (; done_ < from_.size(); ++done_) {
      error_ = RenameNew(from_[done_].c_str(), to_[done_].c_str());
      if (error_ != 0) return;
    }
  }
  void OnOK() override {
    Napi::Object result = Napi::Object::New(Env());
    result.Set("done", Napi::Number::New(Env(), static_cast<double>(done_)));
    result.Set("errno", Napi::Number::New(Env(), error_));
    result.Set("message", Napi::String::New(Env(), error_ == 0 ? "" : strerror(error_)));
    deferred_.Resolve(result);
  }

 private:
  Napi::Promise::Deferred deferred_;
  std::vector<std::string> from_;
  std::vector<std::string> to_;
  size_t done_ = 0;
  int error_ = 0;
};

class IdentifyWork : public Napi::AsyncWorker {
 public:
  IdentifyWork(Napi::Env env, std::vector<std::string> paths)
      : AsyncWorker(env), deferred_(env), paths_(std::move(paths)), told_(paths_.size()) {}
  Napi::Promise Promise() { return deferred_.Promise(); }

  void Execute() override {
    for (size_t at = 0; at < paths_.size(); ++at) {
      struct stat told;
      if (lstat(paths_[at].c_str(), &told) != 0) continue;
      char text[120];
      snprintf(text, sizeof text, "%" PRIu64 ":%" PRIu64 ":%" PRId64 ":%" PRId64 "%s", static_cast<uint64_t>(told.st_dev),
               static_cast<uint64_t>(told.st_ino), static_cast<int64_t>(told.st_size),
               static_cast<int64_t>(told.st_mtim.tv_sec) * 1000000000 + told.st_mtim.tv_nsec,
               S_ISREG(told.st_mode) ? "" : ":other");
      told_[at] = text;
    }
  }
  void OnOK() override {
    Napi::Array result = Napi::Array::New(Env(), told_.size());
    for (size_t at = 0; at < told_.size(); ++at) result.Set(static_cast<uint32_t>(at), Napi::String::New(Env(), told_[at]));
    deferred_.Resolve(result);
  }

 private:
  Napi::Promise::Deferred deferred_;
  std::vector<std::string> paths_;
  std::vector<std::string> told_;
};

Napi::Value RenameAll(const Napi::CallbackInfo& info) {
  auto* work = new RenameWork(info.Env(), TextsOf(info[0]), TextsOf(info[1]));
  work->Queue();
  return work->Promise();
}

Napi::Value Identify(const Napi::CallbackInfo& info) {
  auto* work = new IdentifyWork(info.Env(), TextsOf(info[0]));
  work->Queue();
  return work->Promise();
}

// Opens what lies below a folder without a step that leads out of it, however links are swapped meanwhile (openat2(2),
// RESOLVE_BENEATH). Gives the descriptor, or the system's error as a negative number.
Napi::Value OpenBeneath(const Napi::CallbackInfo& info) {
  const std::string root = info[0].As<Napi::String>().Utf8Value();
  const std::string below = info[1].As<Napi::String>().Utf8Value();
  const int top = open(root.c_str(), O_PATH | O_DIRECTORY | O_CLOEXEC);
  if (top < 0) return Napi::Number::New(info.Env(), -errno);
  struct open_how how = {};
  how.flags = static_cast<uint64_t>(info[2].As<Napi::Number>().Int64Value()) | O_CLOEXEC;
  how.resolve = RESOLVE_BENEATH | RESOLVE_NO_MAGICLINKS;
  const long opened = syscall(SYS_openat2, top, below.c_str(), &how, sizeof how);
  const int failed = errno;
  close(top);
  return Napi::Number::New(info.Env(), static_cast<double>(opened < 0 ? -failed : opened));
}

// XXH3 of 128 bits over all that is behind a descriptor, as `xxh128sum` prints it; where the descriptor is in the file stays as it was.
Napi::Value Xxh128(const Napi::CallbackInfo& info) {
  const int fd = info[0].ToNumber().Int32Value();
  auto text = std::make_shared<std::string>();
  auto* task = new shale::Task(
      info.Env(),
      [=] {
        constexpr size_t piece = 256 << 10;
        std::unique_ptr<XXH3_state_t, XXH_errorcode (*)(XXH3_state_t*)> state(XXH3_createState(), XXH3_freeState);
        std::unique_ptr<uint8_t[]> bytes(new uint8_t[piece]);
        if (!state) throw std::bad_alloc();
        XXH3_128bits_reset(state.get());
        for (off_t at = 0;;) {
          const ssize_t came = pread(fd, bytes.get(), piece, at);
          if (came < 0 && errno == EINTR) continue;
          if (came < 0) throw std::runtime_error(strerror(errno));
          if (came == 0) break;
          XXH3_128bits_update(state.get(), bytes.get(), size_t(came));
          at += came;
        }
        const XXH128_hash_t sum = XXH3_128bits_digest(state.get());
        char hex[33];
        std::snprintf(hex, sizeof hex, "%016" PRIx64 "%016" PRIx64, uint64_t(sum.high64), uint64_t(sum.low64));
        *text = hex;
      },
      [text](Napi::Env env) { return Napi::String::New(env, *text); });
  return task->begin();
}

Napi::Object Init(Napi::Env env, Napi::Object exports) {
  exports.Set("renameAll", Napi::Function::New(env, RenameAll));
  exports.Set("identify", Napi::Function::New(env, Identify));
  exports.Set("openBeneath", Napi::Function::New(env, OpenBeneath));
  exports.Set("xxh128", Napi::Function::New(env, Xxh128));
  return exports;
}

}  // namespace

NODE_API_MODULE(shale_disk, Init)
