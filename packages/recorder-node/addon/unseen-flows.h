#ifndef BRISK_HERON_UNSEEN_FLOWS_H
#define BRISK_HERON_UNSEEN_FLOWS_H

#include <cstdint>
#include <deque>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

#include "call-paths.h"
#include "sample-table.h"

namespace heron {

/**
 * Tells what came and went between two reads of the samples. How many samples that were is known, since their ids rise by one; of which
 * path they are is not: the mix of what died young in the stretches that were seen whole has to tell. While that varies by chance alone, the
 * stretches of some time stand for all of it (a ratio estimate over clusters: Cochran, Sampling Techniques, 1977, 6.1 and 9A). Where it
 * changes, a gap goes to the stretch before it and the one after, each by half; how the two differ tells how far off that may be (successive
 * differences: Wolter, Introduction to Variance Estimation, 2007, 8.2). Work that came and ended in between is in neither; how often that
 * happens in so long a time is taken from the stretches before. The unseen are samples themselves, which is the other part of the error.
 */
class UnseenFlows {
 public:
  UnseenFlows(CallPaths& paths, std::string heap) : callPaths(paths), heap(std::move(heap)) {}

  /**
   * Samples of a stretch that was seen whole, and were gone at the next read. Told in the order of time, with those of addUnseen. `byChance`:
   * nothing of what the program did decided that it was looked at, so that it may stand for more than its own time.
   */
  void addWhole(const std::vector<Sample>& gone, double atMs, bool byChance);
  /** Samples that were taken between the two times and are in no list. */
  void addUnseen(uint64_t samples, double sinceMs, double toAtMostMs);
  /** Lines for what has gathered; empty while there is nothing to tell, or too little to tell it by. */
  std::string take(double nowMs, bool force);
  /** Nothing of what was gathered holds any more: sampling began anew. */
  void reset();
  /** The mean interval of the samples that come; told when nothing is gathered. */
  void sampleEvery(double bytes) { intervalBytes = bytes; }

 private:
  /** Sums of one path over a stretch that was seen whole: of the bytes that its samples stand for, of their squares, of the objects. */
  struct Sums {
    double bytes = 0;
    double bytesSquared = 0;
    double count = 0;
    double samples = 0;
  };
  /** Samples between two stretches, or those of them that came before or after a rest of the program. */
  struct Gap {
    double samples = 0;
    double fromMs = 0;
    double toMs = 0;
  };
  struct Stretch {
    double atMs = 0;
    double all = 0;
    bool isByChance = false;
    /** What was unseen between the stretch before and this one. */
    std::vector<Gap> gaps;
    std::unordered_map<int32_t, Sums> paths;
    Sums of(int32_t path) const;
    /** A path's bytes a sample. */
    double ratio(int32_t path) const { return of(path).bytes / all; }
    /** Variance of that, if the samples fell to the paths by chance alone. */
    double chance(int32_t path) const;
  };
  /** Sums over gaps of what one path is given, and of the variances of it. */
  struct Share {
    double bytes = 0;
    double count = 0;
    double ownVariance = 0;
    double mixVariance = 0;
    double chanceVariance = 0;
  };
  using Shares = std::unordered_map<int32_t, Share>;

  bool isOtherWork(const Stretch& after) const;
  /** The stretches from one on that may stand for all of the time. */
  std::vector<const Stretch*> chosenByChance(size_t first) const;
  static bool isOneMix(const std::vector<const Stretch*>& stretches);
  /** What some samples are given by stretches that tell of `all` that are unseen, which they err on together. */
  static Shares shareByAll(const std::vector<const Stretch*>& stretches, double unseen, double all);
  /** Adds what a gap is given by the stretch before it, the one after it, or the one of both that there is; `all` are unseen between the two. */
  void shareByNeighbours(const Gap& gap, double all, size_t before, size_t after, Shares& shares) const;
  std::vector<const Stretch*> earlier(size_t than, double lagMs) const;
  /** Tells the gaps between stretches that are not told yet. */
  void tell();
  static double samplesOf(const std::vector<Gap>& gaps);
  void tellLine(const Shares& shares, double fromMs, double toMs);
  /** Tells the gap that no stretch has ended. */
  void tellOpen();

  CallPaths& callPaths;
  const std::string heap;
  double intervalBytes = 0;
  /** The last stretches that were seen whole; the gaps of so many of the first are told. */
  std::deque<Stretch> whole;
  size_t told = 0;
  /** What is unseen since the last stretch. */
  std::vector<Gap> open;
  /** So many stretches have gaps that are not told yet, over this time. */
  uint32_t untold = 0;
  double fromMs = 0;
  double toMs = 0;
  /** Lines that wait to be taken. */
  std::string lines;
};

}  // namespace heron

#endif
