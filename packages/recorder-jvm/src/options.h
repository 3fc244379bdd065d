/* What the agent is started with: `out=/tmp/run.ndjson,interval=524288,…`. */
#ifndef HERON_OPTIONS_H
#define HERON_OPTIONS_H

#include <stdbool.h>
#include <stdint.h>

#define OPTIONS_TEXT 4096

typedef struct {
    char out[OPTIONS_TEXT];      /* file that lines are appended to; must be given */
    char control[OPTIONS_TEXT];  /* file that commands are read from; '' for none */
    char log[OPTIONS_TEXT];      /* the collector's own log of this run, %p for the process id; '' for none */
    char name[OPTIONS_TEXT];     /* the program's name in lists; '' to take it from what was started */
    char own[OPTIONS_TEXT];      /* packages of the engineer's own code, separated by ';'; '' to guess */
    int64_t interval_bytes;      /* mean bytes between two samples: least, when it adapts */
    int64_t cost_ppm;            /* most of the program's CPU time to spend, in millionths; 0 never adapts */
    int64_t collect_ms;          /* force a whole collection this often, so that the floor is known; 0 never */
    int32_t depth;               /* most frames of a path */
    bool births;                 /* tell births from the start; else once a command or the program says so */
    bool at_marks;               /* force a whole collection at every mark */
    char inventory_mark[OPTIONS_TEXT]; /* take an inventory at every mark of this label; '' never */
    int64_t inventory_percent;   /* take one when the floor reaches so much of the limit; 0 never */
    bool inventory_at_end;       /* take one when the heap can give no more */
    bool census;                 /* at the end, collect and count the sampled objects that still live */
} Options;

/*
 * Reads the options; a comma, per cent sign or other byte inside a value may come as %2C. Answers false with a message
 * in `problem` (of OPTIONS_TEXT bytes) that says what was expected.
 */
bool options_read(Options *options, const char *given, char *problem);

#endif
