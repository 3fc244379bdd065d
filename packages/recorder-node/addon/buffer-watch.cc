#include "buffer-watch.h"

#include <algorithm>

#include "line-text.h"

namespace heron {

namespace {
constexpr int kDepth = 48;
constexpr size_t kRowsALine = 4000;

/** Ids of samples in the stream are even, those of memory outside the heap odd. */
uint64_t streamId(uint64_t id) { return 2 * id + 1; }
}  // namespace

BufferWatch::BufferWatch(v8::Isolate* isolate, CallPaths& paths, std::string heap, double intervalBytes)
    : isolate(isolate), paths(paths), heap(std::move(heap)), intervalBytes(intervalBytes) {}

BufferWatch::~BufferWatch() { forget(); }

void BufferWatch::forget() {
  for (auto& [id, each] : followed) {
    each->store.Reset();
    delete each;
  }
  followed.clear();
}

void BufferWatch::add(v8::Local<v8::Object> store, bool isBuffer, double bytes, double nowMs) {
  if (!births) return;
  const int32_t path = paths.pathOfStack(kDepth);
  if (path < 0) return;
  auto* one = new Followed{this, ++ids, v8::Global<v8::Object>(isolate, store)};
  one->store.SetWeak(one, onDead, v8::WeakCallbackType::kParameter);
  followed.emplace(one->id, one);
  born.push_back({one->id, path, bytes, nowMs, isBuffer});
}

// Runs while the collection that found it dead is not over: its end is told with the lines.
void BufferWatch::onDead(const v8::WeakCallbackInfo<Followed>& info) {
  Followed* one = info.GetParameter();
  one->store.Reset();
  one->watch->died.push_back(one->id);
  one->watch->followed.erase(one->id);
  delete one;
}

std::string BufferWatch::takeLines(const CollectionTimes& collections) {
  std::string lines;
  if (!born.empty()) lines = paths.takeLines(heap);
  if (!born.empty() && !toldTypes) {
    toldTypes = true;
    LineText line("types", heap);
    line.number("first", 0).open("name").itemText("Buffer").itemText("ArrayBuffer").close();
    line.open("outside").item(static_cast<uint64_t>(1)).item(static_cast<uint64_t>(1)).close();
    lines += line.end();
  }
  for (size_t from = 0; from < born.size(); from += kRowsALine) {
    const size_t to = std::min(born.size(), from + kRowsALine);
    LineText line("born", heap);
    line.number("from", born[from].atMs).number("to", born[to - 1].atMs).number("interval", intervalBytes).open("id");
    for (size_t at = from; at < to; at++) line.item(streamId(born[at].id));
    line.close().open("path");
    for (size_t at = from; at < to; at++) line.item(static_cast<uint64_t>(born[at].path));
    line.close().open("size");
    for (size_t at = from; at < to; at++) line.item(born[at].bytes);
    line.close().open("at");
    for (size_t at = from; at < to; at++) line.item(born[at].atMs);
    line.close().open("type");
    for (size_t at = from; at < to; at++) line.item(static_cast<uint64_t>(born[at].isBuffer ? 0 : 1));
    lines += line.close().end();
  }
  born.clear();
  for (size_t from = 0; from < died.size(); from += kRowsALine) {
    const size_t to = std::min(died.size(), from + kRowsALine);
    LineText line("died", heap);
    line.number("from", std::min(aliveMs, collections.lastEndMs)).number("to", collections.lastEndMs).open("id");
    for (size_t at = from; at < to; at++) line.item(streamId(died[at]));
    lines += line.close().end();
  }
  died.clear();
  aliveMs = collections.lastStartMs;
  return lines;
}

}  // namespace heron
