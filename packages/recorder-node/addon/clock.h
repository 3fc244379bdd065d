#ifndef BRISK_HERON_CLOCK_H
#define BRISK_HERON_CLOCK_H

#include <ctime>

namespace heron {

inline double readClockMs(clockid_t clock) {
  timespec t{};
  clock_gettime(clock, &t);
  return static_cast<double>(t.tv_sec) * 1e3 + static_cast<double>(t.tv_nsec) / 1e6;
}

/** Milliseconds of a clock that never steps; the same in every thread of the process. */
inline double monotonicMs() { return readClockMs(CLOCK_MONOTONIC); }

/** Milliseconds of the wall clock since 1970. */
inline double wallMs() { return readClockMs(CLOCK_REALTIME); }

/** Processor time of the calling thread in milliseconds. A machine that stands still adds nothing to it. */
inline double threadCpuMs() { return readClockMs(CLOCK_THREAD_CPUTIME_ID); }

/** Processor time of the whole process in milliseconds, the collector's helper threads included. */
inline double processCpuMs() { return readClockMs(CLOCK_PROCESS_CPUTIME_ID); }

}  // namespace heron

#endif
