/* The lines of the stream that are not columns of events; each ends in a newline. docs/formats.md describes them. */
#ifndef HERON_LINES_H
#define HERON_LINES_H

#include <stdint.h>

#include "beans.h"
#include "session.h"
#include "text.h"
#include "word_table.h"

/* Bounds of the tables of type and thread names. */
void lines_init_words(WordTable *types, WordTable *threads);

void lines_hello(Text *into, const Beans *beans, int64_t limit_bytes, bool attached);
void lines_phase(Text *into, const char *heap, int64_t now_ns, const char *kind);
void lines_interval(Text *into, const char *heap, int64_t now_ns, int64_t bytes);
void lines_gc(Text *into, const char *heap, const GcRecord *gc, const Beans *beans, const Reading *reading);
void lines_size(Text *into, const char *heap, int64_t now_ns, const Reading *reading, int64_t resident_bytes);
void lines_log(Text *into, const char *heap, uint64_t upto, const Text *text);
void lines_note(Text *into, const char *heap, int64_t now_ns, const char *code, const char *message);

/* What the disk would not take for so long that it was dropped. */
void lines_dropped(Text *into, const char *heap, int64_t now_ns, uint64_t bytes);

void lines_bye(Text *into, const char *heap, int64_t now_ns, const char *reason, int64_t live);

/* New words of a table since `told`, which is moved on. */
void lines_words(Text *into, const char *heap, const char *kind, const WordTable *table, uint32_t *told);

#endif
