#include "collection-watch.h"

#include "line-text.h"

namespace heron {

CollectionWatch::CollectionWatch(v8::Isolate* isolate, std::string heap) : isolate(isolate), heap(std::move(heap)) {
  spaces.resize(isolate->NumberOfHeapSpaces());
}

bool CollectionWatch::isCollection(v8::GCType type) {
  return type != v8::kGCTypeIncrementalMarking && type != v8::kGCTypeProcessWeakCallbacks;
}

void CollectionWatch::sizeUp() {
  v8::HeapStatistics heapSizes;
  isolate->GetHeapStatistics(&heapSizes);
  before = static_cast<double>(heapSizes.used_heap_size());
  for (size_t at = 0; at < spaces.size(); at++) {
    v8::HeapSpaceStatistics space;
    if (!isolate->GetHeapSpaceStatistics(&space, at)) continue;
    if (spaces[at].name.empty()) spaces[at].name = space.space_name();
    spaces[at].before = space.space_used_size();
  }
}

void CollectionWatch::begin(v8::GCType type, double nowMs) { (isCollection(type) ? startMs : stepStartMs) = nowMs; }

std::string CollectionWatch::end(v8::GCType type, v8::GCCallbackFlags flags, double nowMs, bool own) {
  if (!isCollection(type)) {
    LineText line("pause", heap);
    line.number("t", stepStartMs).number("ms", nowMs - stepStartMs).text("scope", "whole");
    line.text("label", type == v8::kGCTypeProcessWeakCallbacks ? "weak callbacks" : "start of marking");
    if (own) line.flag("own");
    return line.end();
  }
  collections.count++;
  collections.lastStartMs = startMs;
  collections.lastEndMs = nowMs;
  v8::HeapStatistics heapSizes;
  isolate->GetHeapStatistics(&heapSizes);
  LineText line("gc", heap);
  line.number("t", startMs).number("ms", nowMs - startMs).text("scope", isWhole(type) ? "whole" : "young");
  line.text("label", isWhole(type) ? "Mark-Compact" : type == v8::kGCTypeScavenge ? "Scavenge" : "Minor Mark-Compact");
  if (own) line.flag("own");
  else if (flags & v8::kGCCallbackFlagForced) line.flag("explicit");
  line.number("before", before).number("after", static_cast<double>(heapSizes.used_heap_size())).number("capacity", static_cast<double>(heapSizes.total_heap_size()));
  line.open("spaces");
  for (size_t at = 0; at < spaces.size(); at++) {
    v8::HeapSpaceStatistics space;
    if (!isolate->GetHeapSpaceStatistics(&space, at)) continue;
    if (spaces[at].before + space.space_used_size() == 0) continue;
    std::string json = "[";
    appendJsonText(json, spaces[at].name);
    json.push_back(',');
    appendNumber(json, static_cast<double>(spaces[at].before));
    json.push_back(',');
    appendNumber(json, static_cast<double>(space.space_used_size()));
    line.itemJson(json + "]");
  }
  return line.close().end();
}

}  // namespace heron
