#include "spool-writer.h"

#include <fcntl.h>
#include <pthread.h>
#include <signal.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <thread>

#include "heap-recorder.h"
#include "line-text.h"
#include "signal-watch.h"

namespace heron {

namespace {
/** What is known reaches the file at most this much later. */
constexpr auto kEvery = std::chrono::milliseconds(200);
/** A heap that does not answer for this long, in a call that no one can interrupt, does not keep the process from ending. */
constexpr auto kEndWithin = std::chrono::milliseconds(500);
constexpr auto kTellWithin = std::chrono::seconds(3);
/** Memory that lines may wait in when the disk cannot take them. */
constexpr size_t kMostWaiting = 16u << 20;
}  // namespace

namespace {
std::mutex openLock;
SpoolWriter* writer = nullptr;
std::string opened;
}  // namespace

SpoolWriter* SpoolWriter::open(const std::string& file, std::string& why) {
  const std::lock_guard<std::mutex> guard(openLock);
  if (writer != nullptr && opened == file) return writer;
  const int fd = ::open(file.c_str(), O_WRONLY | O_APPEND | O_CREAT | O_CLOEXEC, 0600);
  if (fd < 0) {
    why = std::string("cannot open ") + file + ": " + std::strerror(errno);
    return nullptr;
  }
  writer = new SpoolWriter(fd);
  opened = file;
  // A program may leave without a word to its listeners.
  static bool watchesExit = false;
  if (!watchesExit) std::atexit([] {
    HeapRecorder::onProcessExit("the process left at once");
    if (writer != nullptr) writer->flush();
  });
  watchesExit = true;
  return writer;
}

// The object stays, as its thread may still look at it; it is small, and a program is seldom attached to.
void SpoolWriter::retire() {
  const std::lock_guard<std::mutex> guard(openLock);
  if (writer == nullptr) return;
  writer->retired = true;
  writer = nullptr;
  opened.clear();
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

void SpoolWriter::tellUnwritten() {
  const std::lock_guard<std::mutex> guard(fileLock);
  const std::lock_guard<std::mutex> waits(waitingLock);
  const auto lines = dropped + static_cast<uint64_t>(std::count(writing.begin(), writing.end(), '\n') + std::count(waiting.begin(), waiting.end(), '\n'));
  if (lines > 0) std::fprintf(stderr, "brisk-heron: the end of the recording is missing: the disk did not take its last %llu lines\n", static_cast<unsigned long long>(lines));
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
    SignalWatch::take();
    const int signal = SignalWatch::sleep(kEvery);
    if (retired) {
      SignalWatch::release();
      flush();
      close(fd);
      return;
    }
    if (signal != 0) endBy(signal);
    {
      const std::lock_guard<std::mutex> guard(heapsLock);
      for (HeapRecorder* heap : heaps) heap->askFromOutside();
    }
    flush();
  }
}

void SpoolWriter::endBy(int signal) {
  {
    const std::lock_guard<std::mutex> guard(heapsLock);
    for (HeapRecorder* heap : heaps) heap->askToEnd(signal);
  }
  std::this_thread::sleep_for(kEndWithin);
  // Whoever has begun to tell its end is let finish, on a machine that stands still too.
  if (!HeapRecorder::mayEnd()) std::this_thread::sleep_for(kTellWithin);
  HeapRecorder::onProcessExit(SignalWatch::nameOf(signal));
  flush();
  SignalWatch::die(signal);
}

}  // namespace heron
