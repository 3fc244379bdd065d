#ifndef BRISK_HERON_SPOOL_WRITER_H
#define BRISK_HERON_SPOOL_WRITER_H

#include <atomic>
#include <cstdint>
#include <mutex>
#include <string>
#include <vector>

namespace heron {

class HeapRecorder;

/**
 * Writes the lines of all heaps of the process to one file, in append mode, from a thread of its own: so what is known reaches the file
 * whether the event loop runs or not. Lives as long as the process. Lines that the disk cannot take wait, up to a bound; what had to be
 * dropped is counted and told.
 */
class SpoolWriter {
 public:
  /** The writer of the process, opened at first use; null, with `why` set, when the file cannot be opened. */
  static SpoolWriter* open(const std::string& file, std::string& why);

  /** Takes whole lines. Any thread. */
  void add(std::string lines, const std::string& heap);
  /** Writes what waits before it returns; false when the disk did not take all. Any thread. */
  bool flush();
  /** Ends the writer of the process, once no heap uses it: its thread goes, the file is closed, and the signals are as they were. */
  static void retire();
  /** The process ends: what the disk has not taken is told on the standard error. */
  void tellUnwritten();

  /** From now on the heap is asked for a sign of life while its thread is busy. */
  void enter(HeapRecorder* heap);
  /** After this the heap is not touched again. */
  void leave(HeapRecorder* heap);

 private:
  explicit SpoolWriter(int fd);
  void run();
  /** The process is about to be ended by a signal: its heaps are asked to tell what they know, and it ends whether they do or not. */
  void endBy(int signal);
  bool writeWaiting();

  const int fd;
  std::atomic<bool> retired{false};
  std::mutex waitingLock;
  std::string waiting;
  uint64_t dropped = 0;
  std::string droppedHeap;
  /** Held while the file is written to, so that lines keep their order. */
  std::mutex fileLock;
  std::string writing;
  std::mutex heapsLock;
  std::vector<HeapRecorder*> heaps;
};

}  // namespace heron

#endif
