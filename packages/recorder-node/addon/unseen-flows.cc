#include "unseen-flows.h"

#include <algorithm>
#include <cmath>
#include <unordered_set>

#include "line-text.h"

namespace heron {

namespace {
/** So many gaps are told at once, or what came in so long a time. */
constexpr uint32_t kManyGaps = 24;
constexpr double kLongMs = 2000;
/** When nothing more was unseen for so long, what was is told. */
constexpr double kOverMs = 900;
/** Longer than this nobody waits for a stretch that is seen whole. */
constexpr double kLongestMs = 5 * kLongMs;
/** Two stretches of so many samples each, of which less than half are common to both, are different work. */
constexpr double kTellingSamples = 8;
constexpr double kLeastCommon = 0.5;
/** So many stretches are remembered beside those that are not told yet. */
constexpr size_t kRemembered = 12;
/** With fewer stretches nobody knows whether a mix changes. */
constexpr size_t kEnoughStretches = 7;
/** Neighbours that differ by less than this share of what any two do are alike because they are neighbours (von Neumann, 1941). */
constexpr double kLeastApart = 0.6;
constexpr size_t kNone = SIZE_MAX;
/** In place of a number of objects that is not known. */
constexpr double kNoCount = -1;
}  // namespace

UnseenFlows::Sums UnseenFlows::Stretch::of(int32_t path) const {
  const auto found = paths.find(path);
  return found == paths.end() ? Sums() : found->second;
}

double UnseenFlows::Stretch::chance(int32_t path) const {
  const Sums sums = of(path);
  return std::max(0.0, sums.bytesSquared / all - (sums.bytes / all) * (sums.bytes / all)) / all;
}

void UnseenFlows::addWhole(const std::vector<Sample>& gone, double atMs, bool byChance) {
  // Of a stretch in which nothing died young nothing is known of what does.
  if (gone.empty()) return;
  Stretch here;
  here.atMs = atMs;
  here.isByChance = byChance;
  here.all = static_cast<double>(gone.size());
  for (const Sample& sample : gone) {
    if (sample.path < 0) continue;
    const double size = static_cast<double>(sample.size);
    const double count = 1 / -std::expm1(-size / intervalBytes);
    auto& sums = here.paths[sample.path];
    sums.bytes += size * count;
    sums.bytesSquared += size * count * size * count;
    sums.count += count;
    sums.samples++;
  }
  const bool isUnseen = !open.empty();
  const bool isChange = isUnseen && isOtherWork(here);
  if (isChange) tell();
  if (isUnseen) {
    if (untold == 0) fromMs = open.front().fromMs;
    toMs = open.back().toMs;
    untold++;
  }
  here.gaps = std::exchange(open, std::vector<Gap>());
  whole.push_back(std::move(here));
  if (isChange || untold == 0) tell();
}

bool UnseenFlows::isOtherWork(const Stretch& after) const {
  if (whole.empty() || whole.back().all < kTellingSamples || after.all < kTellingSamples) return false;
  const Stretch& last = whole.back();
  double common = 0;
  for (const auto& [path, sums] : after.paths) common += std::min(sums.samples / after.all, last.of(path).samples / last.all);
  return common < kLeastCommon;
}

// What is told begins where the first of it can have come and ends where the last can: a time in which nothing was unseen gets nothing of it.
void UnseenFlows::addUnseen(uint64_t samples, double sinceMs, double toAtMostMs) {
  if (open.empty() || sinceMs - open.back().toMs > kOverMs) open.push_back(Gap{0, sinceMs, toAtMostMs});
  open.back().toMs = toAtMostMs;
  open.back().samples += static_cast<double>(samples);
}

double UnseenFlows::samplesOf(const std::vector<Gap>& gaps) {
  double all = 0;
  for (const Gap& gap : gaps) all += gap.samples;
  return all;
}

std::string UnseenFlows::take(double nowMs, bool force) {
  if (untold > 0 && (force || untold >= kManyGaps || nowMs - fromMs > kLongMs || nowMs - toMs > kOverMs)) tell();
  if (!open.empty() && (force || nowMs - open.front().fromMs > kLongestMs)) tellOpen();
  return std::exchange(lines, std::string());
}

std::vector<const UnseenFlows::Stretch*> UnseenFlows::chosenByChance(size_t first) const {
  std::vector<const Stretch*> found;
  for (size_t at = first; at < whole.size(); at++) {
    if (whole[at].isByChance) found.push_back(&whole[at]);
  }
  return found;
}

// By the squares of the differences between neighbours, against those from the mean, of all paths together.
bool UnseenFlows::isOneMix(const std::vector<const Stretch*>& stretches) {
  const size_t count = stretches.size();
  if (count < kEnoughStretches) return false;
  std::unordered_map<int32_t, double> sums;
  for (const Stretch* stretch : stretches) {
    for (const auto& [path, of] : stretch->paths) sums[path] += of.bytes / stretch->all;
  }
  double neighbours = 0, spread = 0;
  for (const auto& [path, sum] : sums) {
    for (size_t at = 0; at < count; at++) {
      const double ratio = stretches[at]->ratio(path);
      spread += std::pow(ratio - sum / static_cast<double>(count), 2);
      if (at > 0) neighbours += std::pow(ratio - stretches[at - 1]->ratio(path), 2);
    }
  }
  return neighbours >= kLeastApart * 2 * spread;
}

UnseenFlows::Shares UnseenFlows::shareByAll(const std::vector<const Stretch*>& stretches, double unseen, double unseenInAll) {
  struct Total {
    Sums sums;
    double squares = 0;
    double byAll = 0;
  };
  std::unordered_map<int32_t, Total> totals;
  double all = 0, allSquared = 0;
  for (const Stretch* stretch : stretches) {
    all += stretch->all;
    allSquared += stretch->all * stretch->all;
    for (const auto& [path, sums] : stretch->paths) {
      Total& total = totals[path];
      total.sums.bytes += sums.bytes;
      total.sums.bytesSquared += sums.bytesSquared;
      total.sums.count += sums.count;
      total.squares += sums.bytes * sums.bytes;
      total.byAll += sums.bytes * stretch->all;
    }
  }
  const auto count = static_cast<double>(stretches.size());
  const double scale = unseen / all;
  Shares shares;
  for (const auto& [path, total] : totals) {
    const double ratio = total.sums.bytes / all;
    const double spread = std::max(0.0, total.squares - 2 * ratio * total.byAll + ratio * ratio * allSquared);
    Share& share = shares[path];
    share.bytes = total.sums.bytes * scale;
    share.count = total.sums.count * scale;
    share.ownVariance = total.sums.bytesSquared * scale;
    share.mixVariance = spread * scale * (unseenInAll / all) * count / (count - 1);
  }
  return shares;
}

/** Those that lie before one by so long a time, about. */
std::vector<const UnseenFlows::Stretch*> UnseenFlows::earlier(size_t than, double lagMs) const {
  std::vector<const Stretch*> found;
  for (size_t at = 0; at < than; at++) {
    const double lag = whole[than].atMs - whole[at].atMs;
    if (lag <= lagMs && lag >= lagMs / 4) found.push_back(&whole[at]);
  }
  return found;
}

// Each stretch counts by its samples. It stands for what came before it and for what came after it, so its error is in both gaps: the variance
// is twice that of a mean of two.
void UnseenFlows::shareByNeighbours(const Gap& gap, double unseenInAll, size_t before, size_t after, Shares& shares) const {
  const size_t nearest = before != kNone ? before : after;
  const Stretch& one = whole[nearest];
  const Stretch& other = after != kNone ? whole[after] : one;
  const std::vector<const Stretch*> past = earlier(nearest, std::max(gap.toMs, other.atMs) - one.atMs);
  const double sides = &one != &other ? 2 : 1;
  const double n = gap.samples;
  const double all = one.all + other.all;
  std::unordered_set<int32_t> added;
  const auto add = [&](int32_t path) {
    if (!added.insert(path).second) return;
    const Sums left = one.of(path), right = other.of(path);
    double changes = 0;
    for (const Stretch* each : past) changes += std::pow(each->ratio(path) - one.ratio(path), 2);
    const double usual = changes / std::max<double>(1, static_cast<double>(past.size()));
    Share& share = shares[path];
    share.bytes += n * (left.bytes + right.bytes) / all;
    share.count += n * (left.count + right.count) / all;
    share.ownVariance += n * (left.bytesSquared + right.bytesSquared) / all;
    share.mixVariance += n * unseenInAll * std::max(std::pow(one.ratio(path) - other.ratio(path), 2), usual) / sides;
    share.chanceVariance += n * unseenInAll * (one.chance(path) + other.chance(path)) / 2;
  };
  for (const auto& each : one.paths) add(each.first);
  for (const auto& each : other.paths) add(each.first);
  for (const Stretch* stretch : past) {
    for (const auto& each : stretch->paths) add(each.first);
  }
}

void UnseenFlows::tell() {
  if (untold > 0) {
    const std::vector<const Stretch*> byChance = chosenByChance(told > 0 ? told - 1 : 0);
    const bool oneMix = isOneMix(byChance);
    double all = 0, unseen = 0;
    for (size_t at = told; at < whole.size(); at++) all += samplesOf(whole[at].gaps);
    Shares shares;
    double lineFromMs = fromMs, lineToMs = fromMs;
    const auto endLine = [&] {
      tellLine(oneMix ? shareByAll(byChance, unseen, all) : shares, lineFromMs, lineToMs);
      shares.clear();
      unseen = 0;
    };
    for (size_t at = told; at < whole.size(); at++) {
      for (const Gap& gap : whole[at].gaps) {
        if (gap.fromMs - lineToMs > kOverMs) {
          endLine();
          lineFromMs = gap.fromMs;
        }
        lineToMs = gap.toMs;
        unseen += gap.samples;
        if (!oneMix) shareByNeighbours(gap, samplesOf(whole[at].gaps), at > 0 ? at - 1 : kNone, at, shares);
      }
    }
    endLine();
  }
  while (whole.size() > kRemembered) whole.pop_front();
  told = whole.size();
  untold = 0;
}

// Where no stretch was ever seen nothing tells whose they were: each sample stands for one interval, of no path that is known.
void UnseenFlows::tellOpen() {
  tell();
  for (const Gap& gap : open) {
    Shares shares;
    if (!whole.empty()) {
      shareByNeighbours(gap, samplesOf(open), whole.size() - 1, kNone, shares);
    } else {
      Share& nobody = shares[callPaths.pathNamed("(not seen)")];
      nobody.bytes = gap.samples * intervalBytes;
      nobody.count = kNoCount;
      nobody.ownVariance = gap.samples * intervalBytes * intervalBytes;
      lines += callPaths.takeLines(heap);
    }
    tellLine(shares, gap.fromMs, gap.toMs);
  }
  open.clear();
}

void UnseenFlows::tellLine(const Shares& shares, double fromMs, double toMs) {
  if (shares.empty()) return;
  std::string path, bytes, se, count;
  for (const auto& [id, share] : shares) {
    if (!path.empty()) for (std::string* column : {&path, &bytes, &se, &count}) column->push_back(',');
    appendNumber(path, id);
    appendNumber(bytes, std::round(share.bytes));
    appendNumber(se, std::round(std::sqrt(std::max(share.mixVariance, share.chanceVariance) + share.ownVariance)));
    if (share.count != kNoCount) appendNumber(count, share.count);
  }
  LineText line("flow", heap);
  line.number("from", fromMs).number("to", toMs).flag("inferred");
  line.open("path").itemJson(path).close().open("bytes").itemJson(bytes).close().open("se").itemJson(se).close();
  if (!count.empty()) line.open("count").itemJson(count).close();
  lines += line.end();
}

void UnseenFlows::reset() {
  whole.clear();
  told = 0;
  untold = 0;
  open.clear();
}

}  // namespace heron
