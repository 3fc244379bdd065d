#include "call-paths.h"

#include <algorithm>

#include "line-text.h"

namespace heron {

namespace {
/** Longer names are cut: scripts out of data addresses are megabytes long. */
constexpr size_t kMostChars = 400;
constexpr size_t kFramesALine = 500;
constexpr size_t kPathsALine = 5000;
/** Frames wait for the event loop, which may never run. */
constexpr size_t kMostTold = 20000;
/** Programs that make scripts all the time must not fill the memory with places of dead ones; the frames themselves are kept by name. */
constexpr size_t kMostPlaces = 200000;

std::string textOf(v8::Isolate* isolate, v8::Local<v8::Value> value) {
  if (value.IsEmpty() || !value->IsString()) return "";
  v8::Local<v8::String> text = value.As<v8::String>();
  char buffer[kMostChars * 3 + 4];
  const int length = std::min<int>(text->Length(), static_cast<int>(kMostChars));
#if V8_MAJOR_VERSION >= 13
  const size_t bytes = text->WriteUtf8V2(isolate, buffer, sizeof buffer, v8::String::WriteFlags::kReplaceInvalidUtf8);
#else
  const size_t bytes = static_cast<size_t>(text->WriteUtf8(isolate, buffer, sizeof buffer, nullptr, v8::String::NO_NULL_TERMINATION | v8::String::REPLACE_INVALID_UTF8));
#endif
  std::string out(buffer, bytes);
  if (static_cast<size_t>(length) < static_cast<size_t>(text->Length()) && out.size() > kMostChars) {
    size_t cut = kMostChars;
    while (cut > 0 && (static_cast<unsigned char>(out[cut]) & 0xC0) == 0x80) cut--;
    out.resize(cut);
    out += "…";
  }
  return out;
}

uint64_t mixed(uint64_t a, uint64_t b) {
  uint64_t value = a * 0x9E3779B97F4A7C15ull ^ (b + 0x7F4A7C159E3779B9ull + (a << 6));
  value ^= value >> 29;
  value *= 0xBF58476D1CE4E5B9ull;
  return value ^ (value >> 32);
}

std::string functionName(const std::string& name, const std::string& file, bool isScriptStart) {
  if (!name.empty()) return name;
  return isScriptStart && !file.empty() ? "(module body)" : "";
}
}  // namespace

CallPaths::CallPaths(v8::Isolate* isolate, std::string ownDirectory) : isolate(isolate), ownDirectory(std::move(ownDirectory)) {}

void CallPaths::learn(v8::AllocationProfile::Node* root) {
  std::unordered_map<uint32_t, int32_t> next;
  next.reserve(nodes.size() + 16);
  std::vector<std::pair<v8::AllocationProfile::Node*, int32_t>> open;
  next.emplace(root->node_id, kEntry);
  for (auto* child : root->children) open.emplace_back(child, kEntry);
  while (!open.empty()) {
    const auto [node, parent] = open.back();
    open.pop_back();
    int32_t path;
    const auto known = nodes.find(node->node_id);
    if (known != nodes.end()) {
      path = known->second;
    } else {
      bool own = parent == kOwn;
      const int32_t frame = frameOfNode(node, own);
      path = own ? kOwn : pathOf(parent, static_cast<uint32_t>(frame));
    }
    next.emplace(node->node_id, path);
    for (auto* child : node->children) open.emplace_back(child, path);
  }
  nodes.swap(next);
}

int32_t CallPaths::pathOfNode(uint32_t nodeId) const {
  const auto found = nodes.find(nodeId);
  return found == nodes.end() ? kUnknown : found->second;
}

int32_t CallPaths::frameOfNode(v8::AllocationProfile::Node* node, bool& own) {
  if (own) return kOwn;
  const uint64_t place = (static_cast<uint64_t>(static_cast<uint32_t>(node->script_id)) << 32) | static_cast<uint32_t>(node->start_position);
  const uint64_t key = mixed(place, static_cast<uint64_t>(static_cast<uint32_t>(node->name.IsEmpty() ? 0 : node->name->GetIdentityHash())));
  const auto known = places.find(key);
  if (known != places.end()) {
    own = known->second == kOwn;
    return known->second;
  }
  if (places.size() >= kMostPlaces) places.clear();
  const std::string file = textOf(isolate, node->script_name);
  int32_t frame = kOwn;
  if (!ownDirectory.empty() && file.compare(0, ownDirectory.size(), ownDirectory) == 0) {
    own = true;
  } else {
    const bool isStart = node->script_id > 0 && node->start_position == 0;
    frame = static_cast<int32_t>(frameOf({functionName(textOf(isolate, node->name), file, isStart), file, static_cast<uint32_t>(std::max(0, node->line_number)), static_cast<uint32_t>(std::max(0, node->column_number))}));
  }
  if (node->script_id > 0 && !node->script_name.IsEmpty() && scriptNames.size() < kMostPlaces && scriptNames.find(node->script_id) == scriptNames.end()) scriptNames.emplace(node->script_id, v8::Global<v8::String>(isolate, node->script_name));
  places.emplace(key, frame);
  return frame;
}

int32_t CallPaths::pathOfStack(int most) {
  v8::Local<v8::StackTrace> stack = v8::StackTrace::CurrentStackTrace(isolate, most, v8::StackTrace::kDetailed);
  int32_t path = kEntry;
  for (int at = stack->GetFrameCount() - 1; at >= 0; at--) {
    v8::Local<v8::StackFrame> frame = stack->GetFrame(isolate, static_cast<uint32_t>(at));
    const std::string file = textOf(isolate, frame->GetScriptName());
    // The recorder's own wrapper stands on top; it is not where the program allocates.
    if (!ownDirectory.empty() && file.compare(0, ownDirectory.size(), ownDirectory) == 0) continue;
    const std::string name = textOf(isolate, frame->GetFunctionName());
    path = pathOf(path, frameOf({name.empty() && at == stack->GetFrameCount() - 1 && !file.empty() ? "(module body)" : name, file, static_cast<uint32_t>(std::max(0, frame->GetLineNumber())), static_cast<uint32_t>(std::max(0, frame->GetColumn()))}));
  }
  return path;
}

int32_t CallPaths::pathNamed(const std::string& name) { return pathOf(kEntry, frameOf({name, "", 0, 0})); }

uint32_t CallPaths::frameOf(Frame frame) {
  std::string key = frame.function;
  key.append("\n").append(frame.file).append("\n").append(std::to_string(frame.line)).append(":").append(std::to_string(frame.column));
  const auto [found, isNew] = frameIds.emplace(std::move(key), frames);
  if (isNew) {
    frames++;
    newFrames.push_back(std::move(frame));
  }
  return found->second;
}

int32_t CallPaths::pathOf(int32_t parent, uint32_t frame) {
  const uint64_t key = (static_cast<uint64_t>(static_cast<uint32_t>(parent + 1)) << 32) | frame;
  const auto [found, isNew] = pathIds.emplace(key, static_cast<int32_t>(paths));
  if (isNew) {
    paths++;
    newPaths.emplace_back(parent, frame);
  }
  return found->second;
}

std::vector<CallPaths::ToldFrame> CallPaths::takeFrames() {
  std::vector<ToldFrame> taken;
  taken.swap(toldFrames);
  return taken;
}

std::string CallPaths::takeLines(const std::string& heap) {
  std::string lines;
  for (size_t from = 0; from < newFrames.size(); from += kFramesALine) {
    const size_t to = std::min(newFrames.size(), from + kFramesALine);
    LineText line("frames", heap);
    line.number("first", static_cast<double>(frames - newFrames.size() + from));
    line.open("fn");
    for (size_t at = from; at < to; at++) line.itemText(newFrames[at].function);
    line.close().open("file");
    for (size_t at = from; at < to; at++) line.itemText(newFrames[at].file);
    line.close().open("line");
    for (size_t at = from; at < to; at++) line.item(static_cast<uint64_t>(newFrames[at].line));
    line.close().open("col");
    for (size_t at = from; at < to; at++) line.item(static_cast<uint64_t>(newFrames[at].column));
    lines += line.close().end();
  }
  for (size_t from = 0; from < newPaths.size(); from += kPathsALine) {
    const size_t to = std::min(newPaths.size(), from + kPathsALine);
    LineText line("paths", heap);
    line.number("first", static_cast<double>(paths - newPaths.size() + from)).open("parent");
    for (size_t at = from; at < to; at++) line.item(static_cast<double>(newPaths[at].first));
    line.close().open("frame");
    for (size_t at = from; at < to; at++) line.item(static_cast<uint64_t>(newPaths[at].second));
    lines += line.close().end();
  }
  for (size_t at = 0; at < newFrames.size() && toldFrames.size() < kMostTold; at++) {
    const Frame& frame = newFrames[at];
    if (frame.file.empty() || frame.line == 0) continue;
    toldFrames.push_back({static_cast<uint32_t>(frames - newFrames.size() + at), frame.file, frame.line, frame.column});
  }
  newFrames.clear();
  newPaths.clear();
  return lines;
}

}  // namespace heron
