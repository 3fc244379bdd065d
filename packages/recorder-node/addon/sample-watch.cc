#include "sample-watch.h"

#include <algorithm>
#include <memory>

#include "line-text.h"

namespace heron {

namespace {
constexpr size_t kRowsALine = 4000;
/** An object of so many intervals is sampled but for one time in three thousand. */
constexpr double kProbeIntervals = 8;
constexpr double kMostProbeBytes = 4 << 20;
/** Where less is free than this many times what would be added, nothing is. */
constexpr double kRoom = 16;

/** In place of the path of a sample that is not told. */
constexpr int32_t kNotTold = -2;

/** Ids of samples in the stream are even, those of memory outside the heap odd. */
uint64_t streamId(uint64_t base, uint64_t id) { return 2 * (base + id); }
}  // namespace

SampleWatch::SampleWatch(v8::Isolate* isolate, CallPaths& paths, std::string heap, double intervalBytes, int depth)
    : isolate(isolate), paths(paths), heap(std::move(heap)), intervalBytes(intervalBytes), depth(depth), unseen(paths, this->heap) {}

bool SampleWatch::start(double nowMs, uint64_t collections) {
  running = isolate->GetHeapProfiler()->StartSamplingHeapProfiler(static_cast<uint64_t>(intervalBytes), depth, v8::HeapProfiler::kSamplingNoFlags);
  if (!running) return false;
  base += highest;
  highest = 0;
  listed.reset(0);
  paths.forgetNodes();
  hasWholeStretch = false;
  unseen.reset();
  unseen.sampleEvery(intervalBytes);
  readMs = aliveMs = countedMs = nowMs;
  isCounted = true;
  readAfter = collections;
  return true;
}

void SampleWatch::stop() {
  if (running) isolate->GetHeapProfiler()->StopSamplingHeapProfiler();
  running = false;
}

void SampleWatch::tellBirths(bool on, double nowMs) {
  births = on;
  countedMs = nowMs;
  hasWholeStretch = false;
  unseen.reset();
}

void SampleWatch::forget() {
  next.reset(listed.size());
  listed.forEach([this](const Sample& sample) { next.add(Sample{sample.id, kNotTold, sample.nodeId, sample.size}); });
  std::swap(listed, next);
  hasWholeStretch = false;
}

std::string SampleWatch::read(double nowMs, const CollectionTimes& collections, bool byChance) {
  if (!running) return "";
  const v8::HandleScope scope(isolate);
  const std::unique_ptr<v8::AllocationProfile> profile(isolate->GetHeapProfiler()->GetAllocationProfile());
  if (!profile) return lost(nowMs);
  const auto& samples = profile->GetSamples();
  if (isAnother(samples)) return lost(nowMs);
  for (const auto& sample : samples) {
    if (paths.pathOfNode(sample.node_id) != kUnknown) continue;
    paths.learn(profile->GetRootNode());
    break;
  }
  return compare(samples, nowMs, collections, byChance);
}

std::string SampleWatch::readAll(double nowMs, const CollectionTimes& collections) {
  if (!running || knowsAll(collections)) return read(nowMs, collections, false);
  const double bytes = kProbeIntervals * intervalBytes;
  v8::HeapStatistics sizes;
  isolate->GetHeapStatistics(&sizes);
  const double room = static_cast<double>(sizes.heap_size_limit()) - static_cast<double>(sizes.used_heap_size());
  if (bytes > kMostProbeBytes || room < kRoom * bytes) return read(nowMs, collections, false);
  const v8::HandleScope scope(isolate);
  const std::vector<uint8_t> blank(static_cast<size_t>(bytes), ' ');
  const auto probe = v8::String::NewFromOneByte(isolate, blank.data(), v8::NewStringType::kNormal, static_cast<int>(blank.size()));
  probeBytes = probe.IsEmpty() ? 0 : blank.size();
  std::string lines = read(nowMs, collections, false);
  probeBytes = 0;
  return lines;
}

// Ids are given once and rise: what is listed for the first time was taken after all that were listed before. Else somebody else began to sample.
bool SampleWatch::isAnother(const std::vector<v8::AllocationProfile::Sample>& samples) {
  for (const auto& sample : samples) {
    const Sample* known = listed.find(sample.sample_id);
    if (known != nullptr ? known->size != sample.size : sample.sample_id <= highest) return true;
  }
  return false;
}

std::string SampleWatch::compare(const std::vector<v8::AllocationProfile::Sample>& samples, double nowMs, const CollectionTimes& collections, bool byChance) {
  // One collection at most lies between this read and the one before, and nothing was born before it: the births are all there.
  const bool isWhole = collections.count <= readAfter + 1;
  const uint64_t before = highest;
  born.clear();
  died.clear();
  next.reset(samples.size());
  uint64_t last = 0;
  size_t lastSize = 0;
  for (const auto& sample : samples) {
    if (sample.sample_id > last) {
      last = sample.sample_id;
      lastSize = sample.size;
    }
  }
  const uint64_t probe = probeBytes > 0 && last > before && lastSize >= probeBytes ? last : 0;
  highest = std::max(before, last);
  for (const auto& sample : samples) {
    const Sample* known = listed.find(sample.sample_id);
    const bool isTold = births && sample.sample_id != probe;
    const int32_t path = known != nullptr ? known->path : isTold ? paths.pathOfNode(sample.node_id) : kNotTold;
    const Sample row = known != nullptr ? *known : Sample{sample.sample_id, path, sample.node_id, sample.size};
    if (known == nullptr && isTold) born.push_back(row);
    next.add(row);
  }
  listed.forEach([this](const Sample& sample) {
    if (next.find(sample.id) == nullptr && sample.path >= 0) died.push_back(sample.id);
  });
  const uint64_t fresh = births ? highest - before - (probe > 0 ? 1 : 0) : 0;
  taken += fresh;
  seen += born.size();
  if (hasWholeStretch) {
    gone.clear();
    for (const Sample& sample : wholeStretch) {
      if (next.find(sample.id) == nullptr) gone.push_back(sample);
    }
    unseen.addWhole(gone, readMs, isWholeByChance);
  }
  // What is in no list was born after all were known, and before the last collection began.
  if (fresh > born.size()) unseen.addUnseen(fresh - born.size(), countedMs, collections.count > 0 ? std::max(countedMs, std::min(nowMs, collections.lastStartMs)) : nowMs);
  // All that came since the last collection is listed; how many came before it shows in the number of one that did.
  isCounted = probe > 0 || (isWhole && (isCounted || highest > before));
  if (isCounted) countedMs = nowMs;
  std::sort(born.begin(), born.end(), [](const Sample& a, const Sample& b) { return a.id < b.id; });
  std::string lines = paths.takeLines(heap);
  lines += diedLines(nowMs, collections);
  lines += bornLines(isWhole && collections.count > readAfter ? std::max(readMs, collections.lastEndMs) : readMs, nowMs);
  hasWholeStretch = births && isWhole && collections.count > readAfter;
  isWholeByChance = byChance;
  if (hasWholeStretch) wholeStretch = born;
  std::swap(listed, next);
  readMs = nowMs;
  aliveMs = collections.count > 0 ? collections.lastStartMs : aliveMs;
  readAfter = collections.count;
  return lines;
}

std::string SampleWatch::bornLines(double fromMs, double toMs) {
  std::string lines;
  std::vector<Sample> rows;
  rows.reserve(born.size());
  for (const Sample& sample : born) {
    if (sample.path >= 0) rows.push_back(sample);
  }
  for (size_t from = 0; from < rows.size(); from += kRowsALine) {
    const size_t to = std::min(rows.size(), from + kRowsALine);
    LineText line("born", heap);
    line.number("from", fromMs).number("to", toMs).number("interval", intervalBytes).open("id");
    for (size_t at = from; at < to; at++) line.item(streamId(base, rows[at].id));
    line.close().open("path");
    for (size_t at = from; at < to; at++) line.item(static_cast<uint64_t>(rows[at].path));
    line.close().open("size");
    for (size_t at = from; at < to; at++) line.item(rows[at].size);
    lines += line.close().end();
  }
  return lines;
}

// What is gone was found dead by the last collection, or by one since the read before; when that one began it was alive, or not yet born.
std::string SampleWatch::diedLines(double nowMs, const CollectionTimes& collections) {
  std::string lines;
  const double toMs = collections.count > 0 ? std::min(nowMs, collections.lastEndMs) : nowMs;
  for (size_t from = 0; from < died.size(); from += kRowsALine) {
    const size_t to = std::min(died.size(), from + kRowsALine);
    LineText line("died", heap);
    line.number("from", std::min(aliveMs, toMs)).number("to", toMs).open("id");
    for (size_t at = from; at < to; at++) line.item(streamId(base, died[at]));
    lines += line.close().end();
  }
  return lines;
}

std::string SampleWatch::lost(double nowMs) {
  running = false;
  hasWholeStretch = false;
  // What was born since the last read was in the list that is gone.
  return LineText("phase", heap).number("t", readMs).text("kind", "blind").end() +
         LineText("note", heap).number("t", nowMs).text("code", "sampling-ended")
             .text("message", "The program uses the runtime's allocation sampling itself and ended that of the recorder. Nothing of what lived then is followed any further; what is allocated until sampling begins again is not seen.").end();
}

}  // namespace heron
