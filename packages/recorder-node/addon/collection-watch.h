#ifndef BRISK_HERON_COLLECTION_WATCH_H
#define BRISK_HERON_COLLECTION_WATCH_H

#include <v8.h>

#include <string>
#include <vector>

#include "sample-watch.h"

namespace heron {

/** Tells every collection of an isolate with its pause and sizes, from the runtime's callbacks. */
class CollectionWatch {
 public:
  CollectionWatch(v8::Isolate* isolate, std::string heap);

  /** Sizes as they are before the collection; to be called first thing in the prologue. */
  void sizeUp();
  /** The pause begins now. */
  void begin(v8::GCType type, double nowMs);
  /** The pause is over. Answers the line that tells of it. */
  std::string end(v8::GCType type, v8::GCCallbackFlags flags, double nowMs, bool own);

  const CollectionTimes& times() const { return collections; }
  /** True for a collection that finds dead objects. */
  static bool isCollection(v8::GCType type);
  static bool isWhole(v8::GCType type) { return type == v8::kGCTypeMarkSweepCompact; }

 private:
  struct Space {
    std::string name;
    size_t before = 0;
  };
  v8::Isolate* const isolate;
  const std::string heap;
  CollectionTimes collections;
  double startMs = 0;
  double stepStartMs = 0;
  double before = 0;
  std::vector<Space> spaces;
};

}  // namespace heron

#endif
