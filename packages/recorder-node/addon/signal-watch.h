#ifndef BRISK_HERON_SIGNAL_WATCH_H
#define BRISK_HERON_SIGNAL_WATCH_H

#include <chrono>

namespace heron {

/**
 * Notices signals that are about to end the process, so that what is known is written first. Only those are taken that nobody handles: a listener
 * of the program's puts the runtime's handler in place of ours, and the signal is the program's affair. The program sees no listener of ours.
 */
class SignalWatch {
 public:
  /** Takes the signals that would end the process; again and again, as the program may let go of one. Not in a process of number 1, which they do not end. */
  static void take();
  /** Puts back what stood there before. */
  static void release();
  /** Sleeps so long, or until a signal came; answers that signal, 0 for none. For the writer's thread. */
  static int sleep(std::chrono::milliseconds most);
  /** Ends the process by the signal, as it would have ended without us. */
  static void die(int signal);
  static const char* nameOf(int signal);
};

}  // namespace heron

#endif
