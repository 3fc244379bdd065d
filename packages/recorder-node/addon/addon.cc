#include <node.h>
#include <uv.h>
#include <v8.h>

#include <memory>
#include <mutex>
#include <set>
#include <string>

#include "heap-recorder.h"
#include "signal-watch.h"

namespace {

using heron::HeapRecorder;
using heron::HeapSettings;
using heron::SpoolWriter;
using v8::FunctionCallbackInfo;
using v8::FunctionTemplate;
using v8::Isolate;
using v8::Local;
using v8::Number;
using v8::Object;
using v8::String;
using v8::Value;

/** What one environment (main thread or worker) holds. */
struct Instance {
  Isolate* isolate;
  std::unique_ptr<HeapRecorder> recorder;
  bool isMain = false;
};

Local<String> text(Isolate* isolate, const char* value) { return String::NewFromUtf8(isolate, value).ToLocalChecked(); }

HeapRecorder* recorderOf(const FunctionCallbackInfo<Value>& info) {
  return static_cast<Instance*>(info.Data().As<v8::External>()->Value())->recorder.get();
}

std::string stringOf(const FunctionCallbackInfo<Value>& info, int at) {
  if (info.Length() <= at) return "";
  const String::Utf8Value value(info.GetIsolate(), info[at]);
  return *value == nullptr ? "" : std::string(*value, static_cast<size_t>(value.length()));
}

double numberOf(const FunctionCallbackInfo<Value>& info, int at, double fallback) {
  return info.Length() > at && info[at]->IsNumber() ? info[at].As<Number>()->Value() : fallback;
}

bool flagOf(const FunctionCallbackInfo<Value>& info, int at) { return info.Length() > at && info[at]->IsTrue(); }

Local<Value> member(Isolate* isolate, Local<Object> object, const char* name) {
  return object->Get(isolate->GetCurrentContext(), text(isolate, name)).FromMaybe(Local<Value>(v8::Undefined(isolate)));
}

void readNumber(Isolate* isolate, Local<Object> object, const char* name, double& into) {
  const auto value = member(isolate, object, name);
  if (value->IsNumber()) into = value.As<Number>()->Value();
}

bool readFlag(Isolate* isolate, Local<Object> object, const char* name) { return member(isolate, object, name)->IsTrue(); }

void throwError(Isolate* isolate, const std::string& message) {
  isolate->ThrowException(v8::Exception::Error(String::NewFromUtf8(isolate, message.c_str()).ToLocalChecked()));
}

/** What the isolates of the process share. */
std::mutex processLock;
std::string& processSettings() {
  static auto* kept = new std::string();
  return *kept;
}
std::set<std::string>& openedHeaps() {
  static auto* kept = new std::set<std::string>();
  return *kept;
}

/** `open(file, heap, ownDirectory, { intervalBytes, … }, argv)`, members as in HeapSettings: throws when the file cannot be opened. */
void Open(const FunctionCallbackInfo<Value>& info) {
  auto* instance = static_cast<Instance*>(info.Data().As<v8::External>()->Value());
  if (instance->recorder && !instance->recorder->hasFinished()) return throwError(info.GetIsolate(), "this isolate is recorded already");
  HeapSettings settings;
  settings.file = stringOf(info, 0);
  settings.heap = stringOf(info, 1);
  settings.ownDirectory = stringOf(info, 2);
  if (info.Length() > 3 && info[3]->IsObject()) {
    const auto given = info[3].As<Object>();
    readNumber(info.GetIsolate(), given, "intervalBytes", settings.intervalBytes);
    readNumber(info.GetIsolate(), given, "bufferIntervalBytes", settings.bufferIntervalBytes);
    readNumber(info.GetIsolate(), given, "share", settings.share);
    readNumber(info.GetIsolate(), given, "floorEveryMs", settings.floorEveryMs);
    readNumber(info.GetIsolate(), given, "floorShare", settings.floorShare);
    settings.watchLimit = readFlag(info.GetIsolate(), given, "watchLimit");
    settings.isMain = readFlag(info.GetIsolate(), given, "isMain");
    settings.mayWiden = readFlag(info.GetIsolate(), given, "mayWiden");
    settings.mayHideGc = readFlag(info.GetIsolate(), given, "mayHideGc");
  }
  std::string why;
  SpoolWriter* writer = SpoolWriter::open(settings.file, why);
  if (writer == nullptr) return throwError(info.GetIsolate(), why);
  {
    const std::lock_guard<std::mutex> guard(processLock);
    openedHeaps().insert(settings.heap);
  }
  instance->recorder = std::make_unique<HeapRecorder>(info.GetIsolate(), settings, writer);
  if (info.Length() > 4 && info[4]->IsArray()) instance->recorder->nameAfter(info[4].As<v8::Array>());
}

void Now(const FunctionCallbackInfo<Value>& info) {
  if (auto* recorder = recorderOf(info)) info.GetReturnValue().Set(recorder->nowMs());
}

void EpochMs(const FunctionCallbackInfo<Value>& info) {
  if (auto* recorder = recorderOf(info)) info.GetReturnValue().Set(recorder->epochMs());
}

/** `add(lines)`: whole lines with their newlines. */
void Add(const FunctionCallbackInfo<Value>& info) {
  if (auto* recorder = recorderOf(info)) recorder->add(stringOf(info, 0));
}

void Start(const FunctionCallbackInfo<Value>& info) {
  if (auto* recorder = recorderOf(info)) info.GetReturnValue().Set(recorder->start());
}

void Tick(const FunctionCallbackInfo<Value>& info) {
  if (auto* recorder = recorderOf(info)) recorder->tick();
}

void Flush(const FunctionCallbackInfo<Value>& info) {
  if (auto* recorder = recorderOf(info)) info.GetReturnValue().Set(recorder->flush());
}

/** A whole collection, now. */
void Force(const FunctionCallbackInfo<Value>& info) {
  if (auto* recorder = recorderOf(info)) recorder->force();
}

/** `writeSnapshot(file, keepIds)`: why it could not be written, or ''. */
void WriteSnapshot(const FunctionCallbackInfo<Value>& info) {
  auto* recorder = recorderOf(info);
  if (recorder == nullptr || info.Length() < 1) return;
  Isolate* isolate = info.GetIsolate();
  const String::Utf8Value file(isolate, info[0]);
  const std::string why = recorder->writeSnapshot(*file == nullptr ? "" : *file, flagOf(info, 1));
  info.GetReturnValue().Set(String::NewFromUtf8(isolate, why.c_str()).FromMaybe(String::Empty(isolate)));
}

/** `watchBirths(on)` */
void WatchBirths(const FunctionCallbackInfo<Value>& info) {
  if (auto* recorder = recorderOf(info)) recorder->watchBirths(flagOf(info, 0));
}

void StartOver(const FunctionCallbackInfo<Value>& info) {
  if (auto* recorder = recorderOf(info)) recorder->startOver();
}

/** `followStore(store, isBuffer, bytes)` */
void FollowStore(const FunctionCallbackInfo<Value>& info) {
  auto* recorder = recorderOf(info);
  if (recorder != nullptr && info.Length() > 2 && info[0]->IsObject()) recorder->followStore(info[0].As<Object>(), flagOf(info, 1), numberOf(info, 2, 0));
}

/** `takeFrames()`: `[id, file, line, column, …]` of the frames told since the last call. */
void TakeFrames(const FunctionCallbackInfo<Value>& info) {
  auto* recorder = recorderOf(info);
  if (recorder == nullptr) return;
  Isolate* isolate = info.GetIsolate();
  const auto context = isolate->GetCurrentContext();
  const auto frames = recorder->takeFrames();
  const auto all = v8::Array::New(isolate, static_cast<int>(frames.size() * 4));
  uint32_t at = 0;
  for (const auto& frame : frames) {
    all->Set(context, at++, Number::New(isolate, frame.id)).Check();
    all->Set(context, at++, String::NewFromUtf8(isolate, frame.file.c_str()).FromMaybe(String::Empty(isolate))).Check();
    all->Set(context, at++, Number::New(isolate, frame.line)).Check();
    all->Set(context, at++, Number::New(isolate, frame.column)).Check();
  }
  info.GetReturnValue().Set(all);
}

void Finish(const FunctionCallbackInfo<Value>& info) {
  if (auto* recorder = recorderOf(info)) recorder->finish(stringOf(info, 0));
}

/** `retire()`: after `finish`, where the process goes on unrecorded. */
void Retire(const FunctionCallbackInfo<Value>&) { SpoolWriter::retire(); }

/** `leaveSettings(text)`: for workers that are given an environment of their own. */
void LeaveSettings(const FunctionCallbackInfo<Value>& info) {
  const std::string given = stringOf(info, 0);
  const std::lock_guard<std::mutex> guard(processLock);
  processSettings() = given;
}

void IsOpened(const FunctionCallbackInfo<Value>& info) {
  const std::string heap = stringOf(info, 0);
  const std::lock_guard<std::mutex> guard(processLock);
  info.GetReturnValue().Set(openedHeaps().count(heap) > 0);
}

void LeftSettings(const FunctionCallbackInfo<Value>& info) {
  const std::lock_guard<std::mutex> guard(processLock);
  info.GetReturnValue().Set(String::NewFromUtf8(info.GetIsolate(), processSettings().c_str()).FromMaybe(String::Empty(info.GetIsolate())));
}

/** What is called before the process is ended by a signal. The handle lives as long as the process, and does not keep it alive. */
v8::Global<v8::Function>& signalListener() {
  static auto* kept = new v8::Global<v8::Function>();
  return *kept;
}

void onSignalCall(uv_async_t* call) {
  if (!HeapRecorder::mayEnd()) return;
  const int signal = static_cast<int>(reinterpret_cast<intptr_t>(call->data));
  Isolate* isolate = Isolate::GetCurrent();
  const v8::HandleScope scope(isolate);
  const auto listener = signalListener().Get(isolate);
  const auto context = listener->GetCreationContextChecked();
  const v8::Context::Scope entered(context);
  Local<Value> name = text(isolate, heron::SignalWatch::nameOf(signal));
  const v8::TryCatch failing(isolate);
  const auto answer = listener->Call(context, v8::Undefined(isolate), 1, &name);
  (void)answer;
  heron::SignalWatch::die(signal);
}

/** `onSignal(listener)`: of the process's own isolate. */
void OnSignal(const FunctionCallbackInfo<Value>& info) {
  if (info.Length() < 1 || !info[0]->IsFunction()) return;
  static uv_async_t call;
  static bool made = false;
  signalListener().Reset(info.GetIsolate(), info[0].As<v8::Function>());
  if (!made && uv_async_init(node::GetCurrentEventLoop(info.GetIsolate()), &call, onSignalCall) != 0) return;
  made = true;
  uv_unref(reinterpret_cast<uv_handle_t*>(&call));
  HeapRecorder::onSignal(&call);
  static_cast<Instance*>(info.Data().As<v8::External>()->Value())->isMain = true;
}

void onEnvironmentEnd(void* data) {
  auto* instance = static_cast<Instance*>(data);
  if (instance->isMain) HeapRecorder::onSignal(nullptr);
  if (instance->recorder) {
    const v8::HandleScope scope(instance->isolate);
    instance->recorder->finish("its thread ended");
  }
  delete instance;
}

}  // namespace

NODE_MODULE_INIT() {
  Isolate* isolate = v8::Isolate::GetCurrent();
  auto* instance = new Instance{isolate, nullptr, false};
  node::AddEnvironmentCleanupHook(isolate, onEnvironmentEnd, instance);
  const auto data = v8::External::New(isolate, instance);
  const std::pair<const char*, v8::FunctionCallback> functions[] = {
      {"open", Open}, {"now", Now}, {"epochMs", EpochMs}, {"add", Add}, {"start", Start}, {"tick", Tick}, {"flush", Flush},
      {"force", Force}, {"writeSnapshot", WriteSnapshot}, {"watchBirths", WatchBirths}, {"startOver", StartOver}, {"followStore", FollowStore}, {"takeFrames", TakeFrames}, {"finish", Finish}, {"retire", Retire}, {"onSignal", OnSignal}, {"leaveSettings", LeaveSettings}, {"leftSettings", LeftSettings}, {"isOpened", IsOpened}};
  for (const auto& [name, callback] : functions) {
    const auto made = FunctionTemplate::New(isolate, callback, data)->GetFunction(context).ToLocalChecked();
    exports->Set(context, text(isolate, name), made).Check();
  }
}
