#ifndef BRISK_HERON_POLL_BUDGET_H
#define BRISK_HERON_POLL_BUDGET_H

#include <cstdint>

namespace heron {

/**
 * Decides at which collections the samples are read, so that reading takes a share of the thread's processor time and no more. While all
 * can be read, all are. Else reads go in runs of two neighbouring collections: what is born between those two is seen whole. How many
 * collections lie between two runs is drawn at random, with a mean that follows the costs slowly: what the program does at the moment must
 * have no say in whether it is looked at.
 */
class PollBudget {
 public:
  explicit PollBudget(double share) : share(share) {}

  /** True when the samples are to be read at this collection; `must` for one that is not to be missed. */
  bool ask(double cpuMs, bool must);
  /** True when the stretch before this read was chosen by chance, so that it may stand for those that were not. */
  bool isByChance() const { return byChance; }
  /** What the read cost, in milliseconds of processor time. */
  void spent(double ms);
  /**
   * True when there is room for a read between collections. Never inside a run: a read there would cut its stretch in two, and long stretches
   * more often than short ones.
   */
  bool hasRoom(double cpuMs);

 private:
  void earn(double cpuMs);
  double random();
  uint32_t drawSkips();

  const double share;
  double saved = 30;
  double lastMs = -1;
  /** Running means of what a read costs, and of the processor time from one collection to the next. */
  double usualMs = 0.2;
  double gapMs = 20;
  double lastAskMs = -1;
  uint32_t skips = 0;
  bool before = false;
  bool owesSecond = false;
  bool byChance = false;
  uint32_t seed = 0x2545f491u;
};

}  // namespace heron

#endif
