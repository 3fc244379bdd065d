/* What may be asked of the recorder while it runs: one JSON object a line, as the server passes them on. */
#ifndef HERON_COMMAND_H
#define HERON_COMMAND_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

typedef enum { COMMAND_NONE, COMMAND_MARK, COMMAND_COLLECT, COMMAND_BIRTHS_ON, COMMAND_BIRTHS_OFF, COMMAND_START_OVER, COMMAND_INTERVAL, COMMAND_INVENTORY, COMMAND_STOP } CommandKind;

typedef struct {
    CommandKind kind;
    const char *label; /* of a mark: the inside of its JSON string, still escaped; borrowed from the line */
    size_t label_length;
    int64_t epoch_ms; /* of a mark: when it was set, by the wall clock; −1 when not told */
    int64_t bytes; /* of an interval */
    bool insist; /* of an inventory */
} Command;

/* Reads one line; COMMAND_NONE when it is anything else. */
Command command_read(const char *line, size_t length);

#endif
