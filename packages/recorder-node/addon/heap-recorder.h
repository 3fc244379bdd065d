#ifndef BRISK_HERON_HEAP_RECORDER_H
#define BRISK_HERON_HEAP_RECORDER_H

#include <uv.h>
#include <v8.h>

#include <atomic>
#include <string>

#include "buffer-watch.h"
#include "call-paths.h"
#include "collection-watch.h"
#include "floor-pace.h"
#include "interval-choice.h"
#include "poll-budget.h"
#include "sample-watch.h"
#include "spool-writer.h"

namespace heron {

struct HeapSettings {
  std::string file;
  /** Name of the heap in the stream. */
  std::string heap;
  /** Beginning of the addresses of the recorder's own files. */
  std::string ownDirectory;
  double intervalBytes = 65536;
  double bufferIntervalBytes = 262144;
  int depth = 64;
  /** Share of the thread's processor time that reading samples may take. */
  double share = 0.02;
  /** Least time between two whole collections that are forced, 0 for none, and the share of processor time that they may take. */
  double floorEveryMs = 2000;
  double floorShare = 0.02;
  /** False where the program has the collector at hand itself (--expose-gc). */
  bool mayHideGc = true;
  /** Take a wider interval where the program allocates without pause; not where somebody asked for this one. */
  bool mayWiden = false;
  /** The process's own isolate, which also tells its resident memory. */
  bool isMain = false;
  /** Say so when the heap is about to run out; not where the runtime has a callback of its own that ours would hide. */
  bool watchLimit = false;
};

/**
 * Records one isolate. Everything is taken in the runtime's callbacks, on the isolate's thread, and handed to the writer as lines; so it
 * does not matter whether the event loop runs. Nothing in here calls JavaScript or throws.
 */
class HeapRecorder {
 public:
  HeapRecorder(v8::Isolate* isolate, const HeapSettings& settings, SpoolWriter* writer);
  ~HeapRecorder();

  /** Milliseconds since the recording of this heap began. */
  double nowMs() const;
  /** Wall clock at its beginning; heaps of one process agree to the microsecond. */
  double epochMs() const { return epoch; }

  /** Takes whole lines that are made elsewhere. */
  void add(const std::string& lines) {
    said = said || !lines.empty();
    writer->add(lines, settings.heap);
  }
  /** A worker's arguments: the runtime adds its script once the recorder is loaded, by which it is then named. */
  void nameAfter(v8::Local<v8::Array> arguments) { argv.Reset(isolate, arguments); }
  /** Begins to watch collections and to sample; false while somebody else in the isolate samples. */
  bool start();
  /** Regular work, some times a second while the event loop runs. */
  void tick();
  /** Makes a whole collection. */
  void force();
  /**
   * Writes every object of the heap, as the runtime tells it, to a new file that only its owner may read; what is collected for it is the
   * recorder's own. Answers why it could not, or "". `keepIds`: objects keep their numbers until the next one, at a cost for all that survives.
   */
  std::string writeSnapshot(const std::string& file, bool keepIds);
  /** Whether births are told from now on; what was told stays followed either way. */
  void watchBirths(bool on);
  /** What is followed is let go, and what is born from now on is followed anew. */
  void startOver();
  void followStore(v8::Local<v8::Object> store, bool isBuffer, double bytes);
  /** Reads a last time and ends. Safe to call twice. */
  void finish(const std::string& reason);
  std::vector<CallPaths::ToldFrame> takeFrames() { return paths.takeFrames(); }
  bool hasFinished() const { return finished; }
  bool flush() { return writer->flush(); }

  /** The process ends without having said so: tells what needs nothing of the runtime any more. */
  static void onProcessExit(const char* reason);
  /** Called from the writer's thread: the process ends by this signal once the heap has told what it knows. */
  void askToEnd(int signal);
  /** Lets the event loop, where it runs, call this before the process is ended by a signal; null for nobody. The process's own isolate only. */
  static void onSignal(uv_async_t* call);
  /** True for the first who asks, who is to tell the process's end: the event loop or an interrupt, which may come amid its work. */
  static bool mayEnd();
  /** Called from the writer's thread: asks for a sign of life where the event loop gives none. */
  void askFromOutside();

 private:
  static void onPrologue(v8::Isolate* isolate, v8::GCType type, v8::GCCallbackFlags flags, void* self);
  static void onEpilogue(v8::Isolate* isolate, v8::GCType type, v8::GCCallbackFlags flags, void* self);
  static void onInterrupt(v8::Isolate* isolate, void* unused);
  static void onEndInterrupt(v8::Isolate* isolate, void* signal);
  static size_t onNearLimit(void* self, size_t current, size_t initial);
  /** Reads the samples. `byChance`: the stretch before may stand for others; `all`: outside of collections, and none may be missed. */
  void read(double cpuMs, bool byChance, bool all = false);
  void readBetween();
  void tellSize();
  void tellLook(bool force);
  void ensureSampling();
  void readAll();
  void widen();
  void tellPhase(const char* kind);
  void tellName();

  v8::Isolate* const isolate;
  const HeapSettings settings;
  SpoolWriter* const writer;
  const double originMs;
  const double epoch;
  CallPaths paths;
  SampleWatch samples;
  CollectionWatch collections;
  BufferWatch buffers;
  PollBudget budget;
  IntervalChoice choice;
  v8::Global<v8::Array> argv;
  FloorPace pace;
  bool watching = false;
  bool finished = false;
  /** A thread may be ended before its heap said hello: then it says nothing. */
  bool said = false;
  bool own = false;
  bool afterWhole = false;
  bool reading = false;
  bool toldBlind = false;
  bool births = true;
  double wholeMs = 0;
  double readMs = 0;
  double readCpuMs = 0;
  double lookFromMs = 0;
  uint64_t lookTaken = 0;
  uint64_t lookSeen = 0;
  uint32_t reads = 0;
  std::atomic<double> lastSignMs{0};
  std::atomic<bool> asked{false};
};

}  // namespace heron

#endif
