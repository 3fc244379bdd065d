#include "unseen-flows.h"

#include <algorithm>
#include <cmath>

#include "call-paths.h"
#include "line-text.h"

namespace heron {

namespace {
/** So many whole stretches tell a mix, and how it varies. */
constexpr uint32_t kEnoughStretches = 24;
/** A mix is believed for so long: a program does something else after a while. */
constexpr double kLongestMs = 2000;
constexpr uint32_t kLeastStretches = 4;
/** When nothing more was unseen for so long, what was is told. */
constexpr double kOverMs = 900;
}  // namespace

void UnseenFlows::addWhole(const std::vector<Sample>& gone, uint64_t samples) {
  stretch.clear();
  for (const Sample& sample : gone) {
    if (sample.path < 0) continue;
    const double size = static_cast<double>(sample.size);
    const double count = 1 / -std::expm1(-size / intervalBytes);
    auto& sums = mix.paths[sample.path];
    sums.bytes += size * count;
    sums.count += count;
    sums.bytesSquared += size * count * size * count;
    stretch[sample.path].first += size * count;
  }
  const double n = static_cast<double>(samples);
  for (const auto& [path, here] : stretch) {
    auto& sums = mix.paths[path];
    sums.stretchSquared += here.first * here.first;
    sums.stretchByAll += here.first * n;
  }
  mix.all += n;
  mix.allSquared += n * n;
  mix.stretches++;
}

void UnseenFlows::Mix::add(const Mix& other) {
  all += other.all;
  allSquared += other.allSquared;
  stretches += other.stretches;
  for (const auto& [path, sums] : other.paths) {
    auto& mine = paths[path];
    mine.bytes += sums.bytes;
    mine.count += sums.count;
    mine.bytesSquared += sums.bytesSquared;
    mine.stretchSquared += sums.stretchSquared;
    mine.stretchByAll += sums.stretchByAll;
  }
}

// What is told begins where the first of it can have come and ends where the last can: a time in which nothing was unseen gets nothing of it.
void UnseenFlows::addUnseen(uint64_t samples, double sinceMs, double toAtMostMs) {
  if (unseen == 0) fromMs = sinceMs;
  toMs = toAtMostMs;
  unseen += static_cast<double>(samples);
}

std::string UnseenFlows::take(const std::string& heap, double nowMs, bool force) {
  if (unseen == 0) {
    if (nowMs - mixFromMs > kLongestMs) reset(nowMs);
    return "";
  }
  const bool enough = mix.all > 0 && (mix.stretches >= kEnoughStretches || (nowMs - fromMs > kLongestMs && mix.stretches >= kLeastStretches));
  const bool isOver = nowMs - toMs > kOverMs;
  if (!enough && !force && !isOver && nowMs - fromMs < 5 * kLongestMs) return "";
  std::string line = tell(heap);
  reset(nowMs);
  return line;
}

std::string UnseenFlows::tell(const std::string& heap) {
  if (mix.stretches < kLeastStretches || mix.all == 0) mix.add(before);
  const auto& [all, allSquared, stretches, paths] = mix;
  if (all == 0) {
    // Nothing tells whose they were: each sample stands for one interval, of no path that is known.
    const int32_t nobody = callPaths.pathNamed("(not seen)");
    const double sum = std::round(unseen * intervalBytes);
    LineText line("flow", heap);
    line.number("from", fromMs).number("to", toMs).flag("inferred");
    line.open("path").item(static_cast<double>(nobody)).close().open("bytes").item(sum).close();
    line.open("se").item(std::round(std::sqrt(unseen) * intervalBytes)).close();
    return callPaths.takeLines(heap) + line.end();
  }
  std::string path, bytes, se, count;
  bool first = true;
  for (const auto& [id, sums] : paths) {
    const double ratio = sums.bytes / all;
    const double spread = std::max(0.0, sums.stretchSquared - 2 * ratio * sums.stretchByAll + ratio * ratio * allSquared);
    const double few = stretches > 1 ? static_cast<double>(stretches) / (stretches - 1) : 2;
    const double mixVariance = unseen * unseen * few * spread / (all * all);
    const double ownVariance = unseen * sums.bytesSquared / all;
    if (!first) for (std::string* column : {&path, &bytes, &se, &count}) column->push_back(',');
    first = false;
    appendNumber(path, id);
    appendNumber(bytes, std::round(unseen * ratio));
    appendNumber(se, std::round(std::sqrt(mixVariance + ownVariance)));
    appendNumber(count, unseen * sums.count / all);
  }
  if (first) return "";
  LineText line("flow", heap);
  line.number("from", fromMs).number("to", toMs).flag("inferred");
  line.open("path").itemJson(path).close().open("bytes").itemJson(bytes).close().open("se").itemJson(se).close().open("count").itemJson(count).close();
  return line.end();
}

void UnseenFlows::reset(double nowMs) {
  fromMs = mixFromMs = nowMs;
  unseen = 0;
  if (mix.stretches >= kLeastStretches && mix.all > 0) before = std::move(mix);
  mix = Mix();
}

}  // namespace heron
