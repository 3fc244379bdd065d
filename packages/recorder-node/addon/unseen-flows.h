#ifndef BRISK_HERON_UNSEEN_FLOWS_H
#define BRISK_HERON_UNSEEN_FLOWS_H

#include <cstdint>
#include <string>
#include <unordered_map>
#include <vector>

#include "call-paths.h"
#include "sample-table.h"

namespace heron {

/**
 * Tells what came and went between two reads of the samples. How many samples that were is known, since their ids rise by one; of which
 * path they are is not. It is taken to be the mix of the samples that died young in the stretches that were seen whole, which lie between,
 * chosen at random. The error has both parts: the mix varies from one whole stretch to the next (a ratio estimate over clusters: Cochran,
 * Sampling Techniques, 1977, 6.1 and 9A), and the unseen are samples themselves.
 */
class UnseenFlows {
 public:
  explicit UnseenFlows(CallPaths& paths) : callPaths(paths) {}

  /** Samples of a stretch that was seen whole, and were gone at the next read. `all` counts them with the recorder's own. */
  void addWhole(const std::vector<Sample>& gone, uint64_t all);
  /** Samples that were taken between the two times and are in no list. */
  void addUnseen(uint64_t samples, double sinceMs, double toAtMostMs);
  /** A line for what has gathered, over the time since the last; empty while there is nothing to tell, or too little to tell it by. */
  std::string take(const std::string& heap, double nowMs, bool force);
  /** Nothing of what was gathered holds any more: sampling began anew. */
  void reset(double nowMs);
  /** The mean interval of the samples that come; told when nothing is gathered. */
  void sampleEvery(double bytes) {
    if (bytes != intervalBytes) before = Mix();
    intervalBytes = bytes;
  }

 private:
  /** Sums of one path over the whole stretches: of weights, of their squares by sample and by stretch, against the stretch's count. */
  struct Sums {
    double bytes = 0;
    double count = 0;
    double bytesSquared = 0;
    double stretchSquared = 0;
    double stretchByAll = 0;
  };
  /** What a number of whole stretches tell of the mix. */
  struct Mix {
    double all = 0;
    double allSquared = 0;
    uint32_t stretches = 0;
    std::unordered_map<int32_t, Sums> paths;
    void add(const Mix& other);
  };
  std::string tell(const std::string& heap);

  double intervalBytes = 0;
  CallPaths& callPaths;
  double fromMs = 0;
  double toMs = 0;
  /** Since when the mix gathers. */
  double mixFromMs = 0;
  double unseen = 0;
  Mix mix;
  /** The mix that was told by last, for a time in which too little was seen whole. */
  Mix before;
  std::unordered_map<int32_t, std::pair<double, double>> stretch;
};

}  // namespace heron

#endif
