#include "poll-budget.h"

#include <algorithm>
#include <cmath>

namespace heron {

namespace {
/** Savings and debts are cut here, in milliseconds: after a calm hour no second is spent on reading alone. */
constexpr double kMostSaved = 30;
/** Beyond this debt nothing is read by choice. */
constexpr double kMostDebt = 60;
/** One read that met a cold cache must not count as the usual one. */
constexpr double kMostUnusual = 4;
constexpr double kCostWeight = 0.1;
constexpr double kGapWeight = 0.02;
constexpr double kMostSkips = 100000;
}  // namespace

double PollBudget::random() {
  seed ^= seed << 13;
  seed ^= seed >> 17;
  seed ^= seed << 5;
  return (static_cast<double>(seed) + 0.5) / 4294967296.0;
}

void PollBudget::earn(double cpuMs) {
  if (lastMs >= 0) saved = std::min(std::max(kMostSaved, 4 * usualMs), saved + (cpuMs - lastMs) * share);
  lastMs = cpuMs;
}

// A run of two costs two reads: with s collections between two runs that is two reads for every 2 + s collections.
uint32_t PollBudget::drawSkips() {
  const double mean = 2 * (usualMs / (share * std::max(gapMs, 1e-3)) - 1);
  if (mean <= 0) return 0;
  // Geometric, so that the next run is as likely after any number of skips.
  return static_cast<uint32_t>(std::min(kMostSkips, std::floor(std::log(random()) / std::log(mean / (1 + mean)))));
}

bool PollBudget::ask(double cpuMs, bool must) {
  earn(cpuMs);
  if (lastAskMs >= 0) gapMs += kGapWeight * (std::min(cpuMs - lastAskMs, 100 * gapMs + 1) - gapMs);
  lastAskMs = cpuMs;
  bool go = true;
  if (owesSecond) {
    owesSecond = false;
  } else if (must) {
    byChance = before && byChance;
    owesSecond = !before;
  } else if (skips > 0 || (saved < -kMostDebt)) {
    if (skips > 0) skips--;
    go = false;
  } else {
    byChance = true;
    owesSecond = !before;
  }
  before = go;
  return go;
}

void PollBudget::spent(double ms) {
  saved -= ms;
  usualMs += kCostWeight * (std::min(ms, kMostUnusual * usualMs + 0.05) - usualMs);
  if (!owesSecond && skips == 0) skips = drawSkips();
}

bool PollBudget::hasRoom(double cpuMs) {
  earn(cpuMs);
  return !owesSecond && saved > 2 * usualMs;
}

}  // namespace heron
