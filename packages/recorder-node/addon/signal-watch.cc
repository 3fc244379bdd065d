#include "signal-watch.h"

#include <semaphore.h>
#include <signal.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <ctime>

namespace heron {

namespace {
constexpr int kSignals[] = {SIGTERM, SIGINT, SIGHUP};

sem_t arrived;
std::atomic<bool> ready{false};
std::atomic<int> came{0};
static_assert(std::atomic<int>::is_always_lock_free, "a signal handler may wait for nothing");

/** What stood there before, which ends the process. */
struct sigaction before[NSIG];

/** Nobody's: the default, or the runtime's own, which puts the terminal right and then ends the process; no listener's is taken once. */
bool endsProcess(const struct sigaction& action) {
  if ((action.sa_flags & SA_SIGINFO) != 0) return false;
  return action.sa_handler == SIG_DFL || (action.sa_handler != SIG_IGN && (action.sa_flags & static_cast<int>(SA_RESETHAND)) != 0);
}

void onSignal(int signal) {
  const int errorBefore = errno;
  int none = 0;
  came.compare_exchange_strong(none, signal);
  sem_post(&arrived);
  errno = errorBefore;
}
}  // namespace

void SignalWatch::take() {
  if (getpid() == 1) return;
  if (!ready.exchange(true)) sem_init(&arrived, 0, 0);
  for (const int signal : kSignals) {
    struct sigaction current{};
    if (sigaction(signal, nullptr, &current) != 0 || !endsProcess(current)) continue;
    before[signal] = current;
    struct sigaction ours{};
    ours.sa_handler = onSignal;
    ours.sa_flags = SA_RESTART;
    sigemptyset(&ours.sa_mask);
    sigaction(signal, &ours, nullptr);
  }
}

void SignalWatch::release() {
  for (const int signal : kSignals) {
    struct sigaction current{};
    if (sigaction(signal, nullptr, &current) == 0 && current.sa_handler == onSignal) sigaction(signal, &before[signal], nullptr);
  }
}

int SignalWatch::sleep(std::chrono::milliseconds most) {
  if (!ready) {
    usleep(static_cast<useconds_t>(most.count() * 1000));
    return 0;
  }
  timespec until{};
  clock_gettime(CLOCK_REALTIME, &until);
  until.tv_nsec += static_cast<long>(most.count()) * 1000000;
  until.tv_sec += until.tv_nsec / 1000000000;
  until.tv_nsec %= 1000000000;
  sem_timedwait(&arrived, &until);
  return came.load();
}

void SignalWatch::die(int signal) {
  sigaction(signal, &before[signal], nullptr);
  sigset_t one;
  sigemptyset(&one);
  sigaddset(&one, signal);
  pthread_sigmask(SIG_UNBLOCK, &one, nullptr);
  kill(getpid(), signal);
}

const char* SignalWatch::nameOf(int signal) { return signal == SIGTERM ? "SIGTERM" : signal == SIGINT ? "SIGINT" : "SIGHUP"; }

}  // namespace heron
