#include "sink.h"

#include <errno.h>
#include <fcntl.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#define MOST_WAITING (16u * 1024 * 1024)

bool sink_open(Sink *sink, const char *file) {
    *sink = (Sink){ .file = open(file, O_WRONLY | O_APPEND | O_CREAT | O_CLOEXEC, 0600) };
    return sink->file >= 0;
}

void sink_close(Sink *sink) {
    if (sink->file >= 0) close(sink->file);
    text_free(&sink->waiting);
    sink->file = -1;
}

/* Writes what it can; answers how many bytes the file took. */
static size_t sink_push(const Sink *sink, const char *bytes, size_t length) {
    size_t at = 0;
    while (at < length) {
        ssize_t taken = write(sink->file, bytes + at, length - at);
        if (taken > 0) at += (size_t)taken;
        else if (taken < 0 && errno == EINTR) continue;
        else break;
    }
    return at;
}

static void sink_keep(Sink *sink, const char *bytes, size_t length) {
    if (sink->waiting.length + length > MOST_WAITING) sink->dropped_bytes += length;
    else text_add(&sink->waiting, bytes, length);
}

void sink_write(Sink *sink, const Text *lines) {
    if (sink->file < 0) return;
    if (sink->waiting.length > 0) {
        size_t taken = sink_push(sink, sink->waiting.bytes, sink->waiting.length);
        memmove(sink->waiting.bytes, sink->waiting.bytes + taken, sink->waiting.length - taken);
        sink->waiting.length -= taken;
        if (sink->waiting.length > 0) {
            sink_keep(sink, lines->bytes, lines->length);
            return;
        }
    }
    if (lines->length == 0) return;
    size_t taken = sink_push(sink, lines->bytes, lines->length);
    /* The rest of a line that was begun is kept whatever its length: dropped, it would spoil the next. */
    if (taken > 0 && taken < lines->length) text_add(&sink->waiting, lines->bytes + taken, lines->length - taken);
    else if (taken == 0) sink_keep(sink, lines->bytes, lines->length);
}

uint64_t sink_take_dropped(Sink *sink) {
    if (sink->waiting.length > 0) return 0;
    uint64_t bytes = sink->dropped_bytes;
    sink->dropped_bytes = 0;
    return bytes;
}

void sink_tell_unwritten(const Sink *sink) {
    uint64_t bytes = sink->waiting.length + sink->dropped_bytes;
    if (bytes > 0) fprintf(stderr, "brisk-heron: the end of the recording is missing: the disk did not take its last %llu bytes\n", (unsigned long long)bytes);
}
