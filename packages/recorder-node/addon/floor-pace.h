#ifndef BRISK_HERON_FLOOR_PACE_H
#define BRISK_HERON_FLOOR_PACE_H

#include <algorithm>
#include <vector>

namespace heron {

/**
 * Says when the recorder may force a whole collection, so that the floor is known: when the program has made none itself for a while, and
 * never more often than a share of the processor time allows.
 */
class FloorPace {
 public:
  /** `everyMs` 0 never forces any. */
  FloorPace(double everyMs, double share) : everyMs(everyMs), share(share), nextMs(everyMs) {}

  /** True when one is due; `wholeMs` is when the last whole collection ended, whoever made it. */
  bool isDue(double nowMs, double wholeMs) const { return everyMs > 0 && nowMs >= nextMs && nowMs - wholeMs >= everyMs; }

  /** What one cost in processor time: the lower median of the last three counts, so that one that met a busy machine blinds nobody for a minute. */
  void spent(double nowMs, double costMs) {
    costs.push_back(costMs);
    if (costs.size() > 3) costs.erase(costs.begin());
    std::vector<double> sorted = costs;
    std::sort(sorted.begin(), sorted.end());
    nextMs = nowMs + std::max(everyMs, sorted[(sorted.size() - 1) / 2] / share);
  }

 private:
  const double everyMs;
  const double share;
  double nextMs;
  std::vector<double> costs;
};

}  // namespace heron

#endif
