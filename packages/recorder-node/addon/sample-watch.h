#ifndef BRISK_HERON_SAMPLE_WATCH_H
#define BRISK_HERON_SAMPLE_WATCH_H

#include <v8-profiler.h>
#include <v8.h>

#include <cstdint>
#include <string>
#include <vector>

#include "call-paths.h"
#include "sample-table.h"
#include "unseen-flows.h"

namespace heron {

/** When the collections around a read were, by the recording's clock. */
struct CollectionTimes {
  /** How many there have been. */
  uint64_t count = 0;
  double lastStartMs = 0;
  double lastEndMs = 0;
};

/**
 * Reads the runtime's list of sampled objects and tells what was born and what has died since the list before. Read in the prologue of a
 * collection the list still holds all that was born since the collection before. Nothing is forced.
 */
class SampleWatch {
 public:
  SampleWatch(v8::Isolate* isolate, CallPaths& paths, std::string heap, double intervalBytes, int depth);

  /** Begins to sample; false while somebody else in this isolate does. */
  bool start(double nowMs, uint64_t collections);
  bool isRunning() const { return running; }
  /** Reads the list. Answers lines for what is new, or that sampling was ended by somebody else. `byChance`: the stretch before may stand for others. */
  std::string read(double nowMs, const CollectionTimes& collections, bool byChance);
  /**
   * The same, outside of collections, with everything counted that was sampled. After collections that were passed over nobody knows how many
   * samples came after the last that is listed, so the recorder adds one of its own, whose number tells. It is kept out of what is told.
   */
  std::string readAll(double nowMs, const CollectionTimes& collections);
  /** False when samples may have been taken, and be gone, of which nothing is known yet. */
  bool knowsAll(const CollectionTimes& collections) const { return isCounted && collections.count <= readAfter + 1; }
  /** Lines for what has gathered of samples that are in no list. */
  std::string takeUnseen(double nowMs, bool force) { return running ? unseen.take(nowMs, force) : ""; }
  void stop();
  /** Samples are drawn with this mean interval from the next start on. */
  void sampleEvery(double bytes) { intervalBytes = bytes; }
  /** Whether what is born from now on is told. What was told stays followed either way; read before, so that both sides are whole. */
  void tellBirths(bool on, double nowMs);
  /** What is listed is followed no further: neither told nor told dead. Read before. */
  void forget();

  uint64_t samplesTaken() const { return taken; }
  uint64_t samplesSeen() const { return seen; }
  /** Samples that the runtime drew since the last start, as far as is known. */
  uint64_t samplesDrawn() const { return highest; }

 private:
  std::string compare(const std::vector<v8::AllocationProfile::Sample>& samples, double nowMs, const CollectionTimes& collections, bool byChance);
  bool isAnother(const std::vector<v8::AllocationProfile::Sample>& samples);
  std::string bornLines(double fromMs, double toMs);
  std::string diedLines(double nowMs, const CollectionTimes& collections);
  std::string lost(double nowMs);

  v8::Isolate* const isolate;
  CallPaths& paths;
  const std::string heap;
  double intervalBytes;
  const int depth;
  bool running = false;
  bool births = true;
  SampleTable listed;
  SampleTable next;
  UnseenFlows unseen;
  std::vector<Sample> born;
  std::vector<uint64_t> died;
  /** Births of the stretch before, where it was seen whole; which of them are gone shows at the next read. */
  std::vector<Sample> wholeStretch;
  bool hasWholeStretch = false;
  bool isWholeByChance = false;
  std::vector<Sample> gone;
  uint64_t highest = 0;
  /** Added to the ids of the runtime, which begin anew when sampling does. */
  uint64_t base = 0;
  uint64_t taken = 0;
  uint64_t seen = 0;
  double readMs = 0;
  /** Whether the last read knew of every sample that was taken before it; and the last read that did. */
  bool isCounted = true;
  double countedMs = 0;
  /** Least size of the sample that the recorder adds to learn how many there are; 0 but for that read. */
  size_t probeBytes = 0;
  /** Start of the last collection before the last read: what was listed then was alive when it began. */
  double aliveMs = 0;
  uint64_t readAfter = 0;
};

}  // namespace heron

#endif
