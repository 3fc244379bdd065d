/* Labelled instants, from the program and from whoever asks the recorder. */
#ifndef HERON_MARKS_H
#define HERON_MARKS_H

#include <stddef.h>
#include <stdint.h>

/*
 * Tells a mark that was set at a time of the wall clock, −1 for now; when the options say so, forces a whole collection right after
 * it, in the calling thread. The label is the inside of a JSON string.
 */
void marks_tell(int64_t epoch_ms, const char *label, size_t length, const char *by);

#endif
