#ifndef BRISK_HERON_BUFFER_WATCH_H
#define BRISK_HERON_BUFFER_WATCH_H

#include <v8.h>

#include <cstdint>
#include <string>
#include <unordered_map>
#include <vector>

#include "call-paths.h"
#include "sample-watch.h"

namespace heron {

/**
 * Follows sampled stores of buffers, which lie outside the collected heap: where they were made, how large they are, and when a collection
 * found them dead. Which of them to follow is drawn by the caller.
 */
class BufferWatch {
 public:
  BufferWatch(v8::Isolate* isolate, CallPaths& paths, std::string heap, double intervalBytes);
  ~BufferWatch();

  /** Follows a store from now on. Needs a handle scope; reads the running stack. */
  void add(v8::Local<v8::Object> store, bool isBuffer, double bytes, double nowMs);
  /** Lines for what was born and has died since the last call. `collections` say when deaths could be noticed. */
  std::string takeLines(const CollectionTimes& collections);
  size_t waiting() const { return born.size(); }
  /** Whether stores that are made from now on are followed. */
  void tellBirths(bool on) { births = on; }
  /** What was told is followed no further. Take the lines before. */
  void forget();

 private:
  struct Followed {
    BufferWatch* watch;
    uint64_t id;
    v8::Global<v8::Object> store;
  };
  struct Birth {
    uint64_t id;
    int32_t path;
    double bytes;
    double atMs;
    bool isBuffer;
  };
  static void onDead(const v8::WeakCallbackInfo<Followed>& info);

  v8::Isolate* const isolate;
  CallPaths& paths;
  const std::string heap;
  const double intervalBytes;
  uint64_t ids = 0;
  bool toldTypes = false;
  bool births = true;
  std::unordered_map<uint64_t, Followed*> followed;
  std::vector<Birth> born;
  std::vector<uint64_t> died;
  double aliveMs = 0;
};

}  // namespace heron

#endif
