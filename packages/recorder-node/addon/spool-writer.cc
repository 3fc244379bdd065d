#include "spool-writer.h"

#include <fcntl.h>
#include <pthread.h>
#include <signal.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <cstdlib>
#include <cstring>
#include <thread>

#include "heap-recorder.h"
#include "line-text.h"

namespace heron {

namespace {
/** What is known reaches the file at most this much later. */
constexpr auto kEvery = std::chrono::milliseconds(200);
/** Memory that lines may wait in when the disk cannot take them. */
constexpr size_t kMostWaiting = 16u << 20;
}  // namespace

SpoolWriter* SpoolWriter::open(const std::string& file, std::string& why) {
  static std::mutex lock;
  static SpoolWriter* writer = nullptr;
  static std::string opened;
  const std::lock_guard<std::mutex> guard(lock);
  if (writer != nullptr && opened == file) return writer;
  const int fd = ::open(file.c_str(), O_WRONLY | O_APPEND | O_CREAT | O_CLOEXEC, 0600);
  if (fd < 0) {
    why = std::string("cannot open ") + file + ": " + std::strerror(errno);
    return nullptr;
  }
  writer = new SpoolWriter(fd);
  // A program may leave without a word to its listeners.
  if (opened.empty()) std::atexit([] {
    HeapRecorder::onProcessExit();
    writer->flush();
  });
  opened = file;
  return writer;
}

// The thread takes no signals: those are the program's.
SpoolWriter::SpoolWriter(int fd) : fd(fd) {
  sigset_t all, before;
  sigfillset(&all);
  pthread_sigmask(SIG_SETMASK, &all, &before);
  std::thread([this] { run(); }).detach();
  pthread_sigmask(SIG_SETMASK, &before, nullptr);
}

void SpoolWriter::add(std::string lines, const std::string& heap) {
  const std::lock_guard<std::mutex> guard(waitingLock);
  if (waiting.size() > kMostWaiting) {
    dropped += static_cast<uint64_t>(std::count(lines.begin(), lines.end(), '\n'));
    droppedHeap = heap;
    return;
  }
  if (dropped > 0) {
    const std::string message = std::to_string(dropped) + " lines were dropped because the file could not be written to";
    waiting += LineText("note", droppedHeap).number("t", 0).text("code", "lines-dropped").text("message", message).end();
    dropped = 0;
  }
  waiting += lines;
}

bool SpoolWriter::flush() {
  const std::lock_guard<std::mutex> guard(fileLock);
  return writeWaiting();
}

// A short write goes on where it stopped, so that no byte is written twice.
bool SpoolWriter::writeWaiting() {
  if (writing.empty()) {
    const std::lock_guard<std::mutex> guard(waitingLock);
    writing.swap(waiting);
  }
  size_t done = 0;
  while (done < writing.size()) {
    const ssize_t wrote = ::write(fd, writing.data() + done, writing.size() - done);
    if (wrote < 0 && errno == EINTR) continue;
    if (wrote <= 0) break;
    done += static_cast<size_t>(wrote);
  }
  writing.erase(0, done);
  if (!writing.empty()) return false;
  const std::lock_guard<std::mutex> guard(waitingLock);
  return waiting.empty();
}

void SpoolWriter::enter(HeapRecorder* heap) {
  const std::lock_guard<std::mutex> guard(heapsLock);
  heaps.push_back(heap);
}

void SpoolWriter::leave(HeapRecorder* heap) {
  const std::lock_guard<std::mutex> guard(heapsLock);
  heaps.erase(std::remove(heaps.begin(), heaps.end(), heap), heaps.end());
}

void SpoolWriter::run() {
  for (;;) {
    {
      std::unique_lock<std::mutex> guard(sleepLock);
      sleeper.wait_for(guard, kEvery);
    }
    {
      const std::lock_guard<std::mutex> guard(heapsLock);
      for (HeapRecorder* heap : heaps) heap->askFromOutside();
    }
    flush();
  }
}

}  // namespace heron
