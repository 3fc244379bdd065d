#include "options.h"

#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

/* 512 KiB: a cost too small to measure on a mixed load (docs/recording-jvm.md). */
#define DEFAULT_INTERVAL_BYTES (512 * 1024)
#define DEFAULT_COST_PPM 30000
#define DEFAULT_DEPTH 128
#define MOST_DEPTH 1024

static int options_hex(char digit) {
    if (digit >= '0' && digit <= '9') return digit - '0';
    if (digit >= 'A' && digit <= 'F') return digit - 'A' + 10;
    if (digit >= 'a' && digit <= 'f') return digit - 'a' + 10;
    return -1;
}

/* Copies [from, to) with its %XX resolved and, when `pid` is asked for, %p as the process id; false when it is too long. */
static bool options_copy(char *into, const char *from, const char *to, bool pid) {
    size_t length = 0;
    while (from < to) {
        if (length >= OPTIONS_TEXT - 24) return false;
        int high = from[0] == '%' && to - from >= 3 ? options_hex(from[1]) : -1;
        int low = high >= 0 ? options_hex(from[2]) : -1;
        if (low >= 0) {
            into[length++] = (char)(high * 16 + low);
            from += 3;
        } else if (pid && from[0] == '%' && to - from >= 2 && from[1] == 'p') {
            length += (size_t)snprintf(into + length, 24, "%ld", (long)getpid());
            from += 2;
        } else {
            into[length++] = *from++;
        }
    }
    into[length] = '\0';
    return true;
}

static bool options_number(int64_t *into, const char *text, int64_t least, int64_t most) {
    char *end;
    errno = 0;
    long long value = strtoll(text, &end, 10);
    if (errno != 0 || end == text || *end != '\0' || value < least || value > most) return false;
    *into = value;
    return true;
}

static bool options_switch(bool *into, const char *text) {
    int64_t number;
    if (!options_number(&number, text, 0, 1)) return false;
    *into = number == 1;
    return true;
}

static bool options_one(Options *options, const char *key, const char *from, const char *to) {
    char value[OPTIONS_TEXT];
    if (!options_copy(value, from, to, strcmp(key, "log") == 0)) return false;
    int64_t number = 0;
    if (strcmp(key, "out") == 0) memcpy(options->out, value, sizeof value);
    else if (strcmp(key, "control") == 0) memcpy(options->control, value, sizeof value);
    else if (strcmp(key, "log") == 0) memcpy(options->log, value, sizeof value);
    else if (strcmp(key, "name") == 0) memcpy(options->name, value, sizeof value);
    else if (strcmp(key, "own") == 0) memcpy(options->own, value, sizeof value);
    else if (strcmp(key, "interval") == 0) return options_number(&options->interval_bytes, value, 1, (int64_t)1 << 30);
    else if (strcmp(key, "cost") == 0) return options_number(&options->cost_ppm, value, 0, 1000000);
    else if (strcmp(key, "collect") == 0) return options_number(&options->collect_ms, value, 0, 86400000);
    else if (strcmp(key, "depth") == 0) {
        if (!options_number(&number, value, 1, MOST_DEPTH)) return false;
        options->depth = (int32_t)number;
    } else if (strcmp(key, "census") == 0) return options_switch(&options->census, value);
    else if (strcmp(key, "births") == 0) return options_switch(&options->births, value);
    else if (strcmp(key, "atmarks") == 0) return options_switch(&options->at_marks, value);
    else if (strcmp(key, "invmark") == 0) memcpy(options->inventory_mark, value, sizeof value);
    else if (strcmp(key, "invpercent") == 0) return options_number(&options->inventory_percent, value, 1, 100);
    else if (strcmp(key, "invend") == 0) return options_switch(&options->inventory_at_end, value);
    else return false;
    return true;
}

bool options_read(Options *options, const char *given, char *problem) {
    memset(options, 0, sizeof *options);
    options->interval_bytes = DEFAULT_INTERVAL_BYTES;
    options->cost_ppm = DEFAULT_COST_PPM;
    options->depth = DEFAULT_DEPTH;
    options->births = true;
    const char *at = given == NULL ? "" : given;
    while (*at != '\0') {
        const char *end = strchr(at, ',');
        if (end == NULL) end = at + strlen(at);
        const char *equals = memchr(at, '=', (size_t)(end - at));
        char key[16] = "";
        if (equals != NULL && equals - at < (long)sizeof key) memcpy(key, at, (size_t)(equals - at));
        if (equals == NULL || !options_one(options, key, equals + 1, end)) {
            snprintf(problem, OPTIONS_TEXT,
                "expected out=FILE and any of control=FILE, log=FILE, name=TEXT, own=PACKAGE;PACKAGE, interval=BYTES, cost=MILLIONTHS, collect=MILLISECONDS, depth=FRAMES, births=0|1, atmarks=0|1, invmark=LABEL, invpercent=PERCENT, invend=0|1, census=0|1; found \"%.*s\"",
                (int)(end - at > 200 ? 200 : end - at), at);
            return false;
        }
        at = *end == ',' ? end + 1 : end;
    }
    if (options->out[0] == '\0') {
        snprintf(problem, OPTIONS_TEXT, "expected out=FILE: the file that the recording is written to");
        return false;
    }
    return true;
}
