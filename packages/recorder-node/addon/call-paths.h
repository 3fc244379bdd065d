#ifndef BRISK_HERON_CALL_PATHS_H
#define BRISK_HERON_CALL_PATHS_H

#include <v8-profiler.h>
#include <v8.h>

#include <cstdint>
#include <string>
#include <unordered_map>
#include <vector>

namespace heron {

/** Ids of paths count from 0; these stand for what has none. */
constexpr int32_t kEntry = -1;
/** Allocated by the recorder itself, or under it. */
constexpr int32_t kOwn = -2;
constexpr int32_t kUnknown = -3;

/**
 * Gives call paths stable ids. The runtime drops a node of its tree once no sample is left under it and numbers it anew later, so a path is
 * known by its frames, and a frame by script, place and name. Names are read for unknown frames alone. New frames and paths wait here
 * until they are told, before the lines that use them.
 */
class CallPaths {
 public:
  CallPaths(v8::Isolate* isolate, std::string ownDirectory);

  /** Learns the nodes of a tree as the runtime gives it. Needs a handle scope. Cost: its nodes. */
  void learn(v8::AllocationProfile::Node* root);
  /** Sampling began anew, and with it the runtime's numbers of nodes. */
  void forgetNodes() { nodes.clear(); }
  /** Path of a node of the tree learned last; kUnknown for one that is in none. */
  int32_t pathOfNode(uint32_t nodeId) const;
  /** Path of the running stack, from its entry; lines are those that run, not where functions begin. Needs a handle scope. */
  int32_t pathOfStack(int most);
  /** Path of one frame of no file. */
  int32_t pathNamed(const std::string& name);

  /** Lines for what is new since the last call; empty when nothing is. */
  std::string takeLines(const std::string& heap);

  /** A frame as it runs, for whoever knows where its source is. */
  struct ToldFrame {
    uint32_t id;
    std::string file;
    uint32_t line;
    uint32_t column;
  };
  /** Frames of files that were told since the last call. */
  std::vector<ToldFrame> takeFrames();

 private:
  struct Frame {
    std::string function;
    std::string file;
    uint32_t line;
    uint32_t column;
  };

  int32_t frameOfNode(v8::AllocationProfile::Node* node, bool& own);
  uint32_t frameOf(Frame frame);
  int32_t pathOf(int32_t parent, uint32_t frame);

  v8::Isolate* const isolate;
  const std::string ownDirectory;
  std::unordered_map<uint32_t, int32_t> nodes;
  /** Frame of a place by script, position and name; kOwn for the recorder's. */
  std::unordered_map<uint64_t, int32_t> places;
  std::unordered_map<std::string, uint32_t> frameIds;
  std::unordered_map<uint64_t, int32_t> pathIds;
  /** Names of scripts stay alive, else every read would make them anew on the program's heap. */
  std::unordered_map<int, v8::Global<v8::String>> scriptNames;
  uint32_t frames = 0;
  uint32_t paths = 0;
  std::vector<Frame> newFrames;
  std::vector<ToldFrame> toldFrames;
  std::vector<std::pair<int32_t, uint32_t>> newPaths;
};

}  // namespace heron

#endif
