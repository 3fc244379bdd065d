/* The file that lines go to: whole lines, appended, so that several programs may share it. Never throws, never waits. */
#ifndef HERON_SINK_H
#define HERON_SINK_H

#include <stdbool.h>
#include <stdint.h>

#include "text.h"

typedef struct {
    int file; /* −1 when closed */
    Text waiting; /* whole lines that the file would not take yet */
    uint64_t dropped_bytes; /* since it was last told */
} Sink;

/* Opens the file for appending, making it when it is missing; false with errno set when that cannot be. */
bool sink_open(Sink *sink, const char *file);
void sink_close(Sink *sink);

/* Appends whole lines. What the file does not take waits, up to a bound; beyond it lines are dropped and counted. */
void sink_write(Sink *sink, const Text *lines);

/* Bytes that were dropped and may be told now, as nothing waits any more; 0 for none. They then count as told. */
uint64_t sink_take_dropped(Sink *sink);

/* The end: what the file did not take is told on the standard error. */
void sink_tell_unwritten(const Sink *sink);

#endif
