/* A file that another program appends lines to, read as far as its last whole line. */
#ifndef HERON_FOLLOW_H
#define HERON_FOLLOW_H

#include <stdbool.h>
#include <stdint.h>
#include <sys/types.h>

#include "text.h"

typedef struct {
    const char *path; /* borrowed; '' for none */
    int file; /* −1 while it could not be opened */
    off_t offset; /* everything before it was taken */
} Follow;

void follow_init(Follow *follow, const char *path);
void follow_close(Follow *follow);

/*
 * The next whole lines, at most about 64 KiB, into `lines` (cleared first); false when there are none yet. With
 * `at_end`, a last line without its newline is taken too. A line longer than that comes in pieces.
 */
bool follow_take(Follow *follow, Text *lines, bool at_end);

#endif
