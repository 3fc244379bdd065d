#include "heap-recorder.h"

#include <fcntl.h>
#include <unistd.h>
#include <v8-profiler.h>

#include <cerrno>
#include <cstring>

#include <unistd.h>

#include <cstdio>

#include "clock.h"
#include "line-text.h"
#include "signal-watch.h"

namespace heron {

namespace {
/** Without collections the samples are read this often, so that what is born slowly is seen while it is fresh. */
constexpr double kReadEveryMs = 1000;
/** An event loop that gives no sign for this long is asked through an interrupt. */
constexpr double kSilentMs = 500;
constexpr double kLookEveryMs = 1000;
constexpr char kWidenedMessage[] =
    "The program allocates so fast that a sample every 64 KiB would slow it by a fifth: from here on one is drawn in eight times as many bytes. What was followed before is followed no further. --interval keeps to what it is given.";

/** The recorder of the isolate that runs in this thread: an interrupt that comes late must not meet one that is gone. */
thread_local HeapRecorder* current = nullptr;
/** The process's own, for its end. */
std::atomic<HeapRecorder*> mainRecorder{nullptr};
std::atomic<uv_async_t*> signalCall{nullptr};

/** Wall clock of an instant of the monotonic clock: both are read together once a process. */
double wallOf(double monotonic) {
  static const double offset = wallMs() - monotonicMs();
  return monotonic + offset;
}

double residentBytes() {
  FILE* file = std::fopen("/proc/self/statm", "re");
  if (file == nullptr) return 0;
  unsigned long total = 0, resident = 0;
  const int got = std::fscanf(file, "%lu %lu", &total, &resident);
  std::fclose(file);
  return got == 2 ? static_cast<double>(resident) * static_cast<double>(sysconf(_SC_PAGESIZE)) : 0;
}
}  // namespace

HeapRecorder::HeapRecorder(v8::Isolate* isolate, const HeapSettings& settings, SpoolWriter* writer)
    : isolate(isolate),
      settings(settings),
      writer(writer),
      originMs(monotonicMs()),
      epoch(wallOf(originMs)),
      paths(isolate, settings.ownDirectory),
      samples(isolate, paths, settings.heap, settings.intervalBytes, settings.depth),
      collections(isolate, settings.heap),
      buffers(isolate, paths, settings.heap, settings.bufferIntervalBytes),
      budget(settings.share),
      choice(settings.intervalBytes, settings.mayWiden),
      pace(settings.floorEveryMs, settings.floorShare) {}

HeapRecorder::~HeapRecorder() { finish("the isolate ended"); }

double HeapRecorder::nowMs() const { return monotonicMs() - originMs; }

bool HeapRecorder::start() {
  current = this;
  if (settings.isMain) mainRecorder = this;
  isolate->AddGCPrologueCallback(onPrologue, this);
  isolate->AddGCEpilogueCallback(onEpilogue, this);
  if (settings.watchLimit) isolate->AddNearHeapLimitCallback(onNearLimit, this);
  watching = true;
  lastSignMs = nowMs();
  writer->enter(this);
  ensureSampling();
  tellSize();
  return samples.isRunning();
}

void HeapRecorder::ensureSampling() {
  if (samples.isRunning() || finished) return;
  const double now = nowMs();
  if (samples.start(now, collections.times().count)) {
    choice.begin(threadCpuMs(), now);
    toldBlind = false;
    tellPhase(births ? "objects" : "deaths");
  } else if (!toldBlind) {
    toldBlind = true;
    tellPhase("blind");
    add(LineText("note", settings.heap).number("t", now).text("code", "sampling-taken")
            .text("message", "The program uses the runtime's allocation sampling itself (--heap-prof, say): nothing is seen of allocation until it ends that.").end());
  }
}

void HeapRecorder::tellPhase(const char* kind) { add(LineText("phase", settings.heap).number("t", nowMs()).text("kind", kind).end()); }

// Whatever it costs: it is asked for.
void HeapRecorder::readAll() {
  read(threadCpuMs(), false, true);
  add(samples.takeUnseen(nowMs(), true));
  add(buffers.takeLines(collections.times()));
}

void HeapRecorder::watchBirths(bool on) {
  if (finished || !watching || births == on) return;
  readAll();
  births = on;
  samples.tellBirths(on, nowMs());
  buffers.tellBirths(on);
  if (samples.isRunning()) tellPhase(on ? "objects" : "deaths");
}

void HeapRecorder::startOver() {
  if (finished || !watching) return;
  readAll();
  samples.forget();
  buffers.forget();
  births = true;
  samples.tellBirths(true, nowMs());
  buffers.tellBirths(true);
  if (!samples.isRunning()) return;
  tellPhase("blind");
  tellPhase("objects");
}

// Not while the collector runs: what is sampled is let go, and the allocation areas are set anew.
void HeapRecorder::widen() {
  choice.done();
  if (finished || !samples.isRunning()) return;
  readAll();
  if (!samples.isRunning()) return;
  samples.stop();
  samples.sampleEvery(choice.interval());
  tellPhase("blind");
  toldBlind = true;
  add(LineText("interval", settings.heap).number("t", nowMs()).number("bytes", choice.interval()).end());
  add(LineText("note", settings.heap).number("t", nowMs()).text("code", "interval-widened")
          .text("message", kWidenedMessage).end());
  ensureSampling();
}

void HeapRecorder::read(double cpuMs, bool byChance, bool all) {
  if (reading || !samples.isRunning()) return;
  reading = true;
  add(all ? samples.readAll(nowMs(), collections.times()) : samples.read(nowMs(), collections.times(), byChance));
  if (!samples.isRunning()) toldBlind = true;
  readMs = nowMs();
  add(samples.takeUnseen(readMs, false));
  const double cost = threadCpuMs() - cpuMs;
  budget.spent(cost);
  readCpuMs += cost;
  reads++;
  if (choice.look(threadCpuMs(), nowMs(), samples.samplesDrawn()) && !asked.exchange(true)) isolate->RequestInterrupt(onInterrupt, nullptr);
  tellLook(false);
  reading = false;
}

void HeapRecorder::readBetween() {
  ensureSampling();
  const double quietMs = nowMs() - std::max(readMs, collections.times().lastEndMs);
  if (quietMs < kReadEveryMs) return;
  const double cpu = threadCpuMs();
  if (budget.hasRoom(cpu)) read(cpu, false, true);
}

void HeapRecorder::tick() {
  if (finished) return;
  lastSignMs = nowMs();
  if (choice.wants()) widen();
  tellName();
  tellSize();
  if (pace.isDue(nowMs(), wholeMs)) force();
  readBetween();
  add(buffers.takeLines(collections.times()));
}

// Reads a plain array, which runs nothing of the program's.
void HeapRecorder::tellName() {
  if (argv.IsEmpty() || !isolate->InContext()) return;
  const v8::HandleScope scope(isolate);
  const auto arguments = argv.Get(isolate);
  v8::Local<v8::Value> script;
  if (arguments->Length() < 2 || !arguments->Get(isolate->GetCurrentContext(), 1).ToLocal(&script)) return;
  argv.Reset();
  const v8::String::Utf8Value text(isolate, script);
  std::string name = *text == nullptr ? "" : std::string(*text, static_cast<size_t>(text.length()));
  name = name.substr(name.find_last_of("/\\") + 1);
  if (name.empty() || name[0] == '[' || name.size() > 200) return;
  add(LineText("name", settings.heap).text("name", "worker " + name).end());
}

void HeapRecorder::tellSize() {
  v8::HeapStatistics sizes;
  isolate->GetHeapStatistics(&sizes);
  LineText line("size", settings.heap);
  line.number("t", nowMs()).number("used", static_cast<double>(sizes.used_heap_size())).number("committed", static_cast<double>(sizes.total_heap_size()));
  line.number("external", static_cast<double>(sizes.external_memory()));
  const double resident = settings.isMain ? residentBytes() : 0;
  if (resident > 0) line.number("resident", resident);
  add(line.end());
}

// How much of what was sampled could be looked at, and what looking cost.
void HeapRecorder::tellLook(bool force) {
  const double now = nowMs();
  if (reads == 0 || (!force && now - lookFromMs < kLookEveryMs)) return;
  LineText line("look", settings.heap);
  line.number("from", lookFromMs).number("to", now).number("taken", static_cast<double>(samples.samplesTaken() - lookTaken));
  line.number("seen", static_cast<double>(samples.samplesSeen() - lookSeen)).number("reads", reads).number("ms", readCpuMs);
  add(line.end());
  lookFromMs = now;
  lookTaken = samples.samplesTaken();
  lookSeen = samples.samplesSeen();
  readCpuMs = 0;
  reads = 0;
}

void HeapRecorder::force() {
  if (finished || !watching) return;
  const double cpu = processCpuMs();
  own = true;
  // The call is for tests, and asks for this flag; contexts that the program makes later must not have it.
  v8::V8::SetFlagsFromString("--expose-gc");
  isolate->RequestGarbageCollectionForTesting(v8::Isolate::kFullGarbageCollection);
  if (settings.mayHideGc) v8::V8::SetFlagsFromString("--no-expose-gc");
  own = false;
  const double threadCpu = threadCpuMs();
  if (budget.hasRoom(threadCpu)) read(threadCpu, false);
  lastSignMs = nowMs();
  pace.spent(nowMs(), processCpuMs() - cpu);
}

namespace {

/** Takes what the runtime serializes, in large blocks. */
class SnapshotFile final : public v8::OutputStream {
 public:
  explicit SnapshotFile(int descriptor) : file(descriptor) {}
  int GetChunkSize() override { return 1 << 20; }
  void EndOfStream() override { ended = true; }
  WriteResult WriteAsciiChunk(char* data, int size) override {
    for (int at = 0; at < size;) {
      const ssize_t wrote = write(file, data + at, static_cast<size_t>(size - at));
      if (wrote < 0 && errno == EINTR) continue;
      if (wrote <= 0) {
        why = std::strerror(errno);
        return kAbort;
      }
      at += static_cast<int>(wrote);
    }
    return kContinue;
  }
  bool ended = false;
  std::string why;

 private:
  const int file;
};

}  // namespace

std::string HeapRecorder::writeSnapshot(const std::string& file, bool keepIds) {
  if (finished || !watching) return "the recording is over";
  const int descriptor = open(file.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0600);
  if (descriptor < 0) return std::strerror(errno);
  SnapshotFile out(descriptor);
  {
    const v8::HandleScope scope(isolate);
    own = true;
    const v8::HeapSnapshot* snapshot = isolate->GetHeapProfiler()->TakeHeapSnapshot();
    own = false;
    if (snapshot != nullptr) {
      snapshot->Serialize(&out);
      const_cast<v8::HeapSnapshot*>(snapshot)->Delete();
    }
    if (!keepIds) isolate->GetHeapProfiler()->ClearObjectIds();
  }
  const bool isClosed = close(descriptor) == 0;
  lastSignMs = nowMs();
  if (out.ended && isClosed) return "";
  return out.why.empty() ? "the runtime did not write all of it" : out.why;
}

void HeapRecorder::followStore(v8::Local<v8::Object> store, bool isBuffer, double bytes) {
  if (finished) return;
  const v8::HandleScope scope(isolate);
  buffers.add(store, isBuffer, bytes, nowMs());
  if (buffers.waiting() >= 1000) add(buffers.takeLines(collections.times()));
}

void HeapRecorder::finish(const std::string& reason) {
  if (finished) return;
  if (watching) {
    // What dies from here on dies because the program ends, which says nothing about it.
    reading = false;
    if (samples.isRunning()) read(threadCpuMs(), false, true);
    finished = true;
    tellName();
    argv.Reset();
    add(samples.takeUnseen(nowMs(), true));
    tellLook(true);
    tellSize();
    add(buffers.takeLines(collections.times()));
    writer->leave(this);
    isolate->RemoveGCPrologueCallback(onPrologue, this);
    isolate->RemoveGCEpilogueCallback(onEpilogue, this);
    if (settings.watchLimit) isolate->RemoveNearHeapLimitCallback(onNearLimit, 0);
    samples.stop();
    current = nullptr;
  }
  if (mainRecorder == this) mainRecorder = nullptr;
  finished = true;
  if (said) add(LineText("bye", settings.heap).number("t", nowMs()).text("reason", reason).end());
  if (!writer->flush() && settings.isMain) writer->tellUnwritten();
}

void HeapRecorder::onPrologue(v8::Isolate*, v8::GCType type, v8::GCCallbackFlags, void* data) {
  auto* self = static_cast<HeapRecorder*>(data);
  if (self->finished) return;
  if (CollectionWatch::isCollection(type)) {
    self->collections.sizeUp();
    const double cpu = threadCpuMs();
    // What a whole collection found dead is to be known of that one alone.
    const bool must = CollectionWatch::isWhole(type) || self->afterWhole;
    if (self->budget.ask(cpu, must)) self->read(cpu, self->budget.isByChance());
    self->afterWhole = CollectionWatch::isWhole(type);
  }
  self->collections.begin(type, self->nowMs());
}

void HeapRecorder::onEpilogue(v8::Isolate*, v8::GCType type, v8::GCCallbackFlags flags, void* data) {
  auto* self = static_cast<HeapRecorder*>(data);
  if (self->finished) return;
  const double now = self->nowMs();
  self->add(self->collections.end(type, flags, now, self->own));
  if (!CollectionWatch::isCollection(type)) return;
  if (CollectionWatch::isWhole(type)) self->wholeMs = now;
  self->add(self->buffers.takeLines(self->collections.times()));
  if (now - self->lastSignMs > kSilentMs) {
    self->lastSignMs = now;
    self->tellSize();
  }
}

void HeapRecorder::onProcessExit(const char* reason) {
  HeapRecorder* self = mainRecorder.exchange(nullptr);
  if (self == nullptr || self->finished) return;
  self->finished = true;
  self->add(LineText("bye", self->settings.heap).number("t", self->nowMs()).text("reason", reason).end());
}

void HeapRecorder::onSignal(uv_async_t* call) { signalCall = call; }

// By the event loop where that turns, by an interrupt where the program computes: whichever comes first.
void HeapRecorder::askToEnd(int signal) {
  if (!settings.isMain) return;
  isolate->RequestInterrupt(onEndInterrupt, reinterpret_cast<void*>(static_cast<intptr_t>(signal)));
  if (uv_async_t* call = signalCall) {
    call->data = reinterpret_cast<void*>(static_cast<intptr_t>(signal));
    uv_async_send(call);
  }
}

void HeapRecorder::onEndInterrupt(v8::Isolate*, void* signal) {
  if (current == nullptr || !mayEnd()) return;
  const int number = static_cast<int>(reinterpret_cast<intptr_t>(signal));
  current->finish(SignalWatch::nameOf(number));
  SignalWatch::die(number);
}

bool HeapRecorder::mayEnd() {
  static std::atomic<bool> ending{false};
  return !ending.exchange(true);
}

void HeapRecorder::askFromOutside() {
  if (asked || nowMs() - lastSignMs < kSilentMs) return;
  asked = true;
  isolate->RequestInterrupt(onInterrupt, nullptr);
}

void HeapRecorder::onInterrupt(v8::Isolate*, void*) {
  HeapRecorder* self = current;
  if (self == nullptr) return;
  self->asked = false;
  self->tick();
}

// The runtime ends the process next, unless it finds room yet. What is known is written while there is time.
size_t HeapRecorder::onNearLimit(void* data, size_t current, size_t) {
  auto* self = static_cast<HeapRecorder*>(data);
  self->add(LineText("note", self->settings.heap).number("t", self->nowMs()).text("code", "heap-limit")
                .text("message", "The heap reached its limit: the runtime may end the program for want of memory.").end());
  self->writer->flush();
  return current;
}

}  // namespace heron
