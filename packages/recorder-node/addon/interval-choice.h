#ifndef BRISK_HERON_INTERVAL_CHOICE_H
#define BRISK_HERON_INTERVAL_CHOICE_H

#include <cstdint>

namespace heron {

/**
 * Chooses a wider sampling interval for a program that allocates without pause, where drawing the samples alone would cost a fifth of its
 * time. The choice is made once, in the program's first second of processor time and its first three on the clock: whoever changes the
 * interval begins anew, and what was followed until then is let go, which costs little while nothing has been built yet. A program that rests
 * between its rounds is none of these, however fast it is in one.
 */
class IntervalChoice {
 public:
  /** `bytes` is the interval until then; `mayWiden` false keeps it whatever happens. */
  IntervalChoice(double bytes, bool mayWiden) : bytes(bytes), isOpen(mayWiden) {}

  /** Sampling began, with this much processor time on the thread's clock; and by the wall's. */
  void begin(double cpuMs, double wallMs) {
    if (firstMs < 0) {
      firstMs = cpuMs;
      firstWallMs = wallMs;
    }
    lookMs = cpuMs;
    lookWallMs = wallMs;
    lookDrawn = 0;
    dense = 0;
  }

  /** Told how many samples were drawn since sampling began. True when it is to begin anew with `interval()`, again until it has. */
  bool look(double cpuMs, double wallMs, uint64_t drawn) {
    if (!isOpen) return isWanted;
    if (cpuMs - lookMs < kLookMs) return false;
    const bool isBusy = cpuMs - lookMs > kBusy * (wallMs - lookWallMs);
    const bool isDense = isBusy && static_cast<double>(drawn - lookDrawn) > kMostAMs * (cpuMs - lookMs);
    dense = isDense ? dense + 1 : 0;
    lookMs = cpuMs;
    lookWallMs = wallMs;
    lookDrawn = drawn;
    if (dense == kLooks) {
      isWanted = true;
      bytes *= kWider;
    }
    isOpen = !isWanted && cpuMs - firstMs < kOpenMs && wallMs - firstWallMs < kOpenWallMs;
    return isWanted;
  }

  /** It has begun anew, or need not any more. */
  void done() { isWanted = isOpen = false; }
  bool wants() const { return isWanted; }
  double interval() const { return bytes; }

 private:
  /** Drawing one costs 3 to 8 microseconds: beyond this many a millisecond of processor time they cost more than a twentieth. */
  static constexpr double kMostAMs = 16;
  static constexpr double kWider = 8;
  /** A short burst is none: the rate has to hold over two looks that lie this far apart at least. */
  static constexpr double kLookMs = 60;
  static constexpr uint32_t kLooks = 2;
  static constexpr double kOpenMs = 1000;
  static constexpr double kOpenWallMs = 3000;
  /** Least share of the time that such a program computes, also on a machine that others use. */
  static constexpr double kBusy = 0.4;

  double bytes;
  bool isOpen;
  bool isWanted = false;
  double firstMs = -1;
  double firstWallMs = 0;
  double lookMs = 0;
  double lookWallMs = 0;
  uint64_t lookDrawn = 0;
  uint32_t dense = 0;
};

}  // namespace heron

#endif
