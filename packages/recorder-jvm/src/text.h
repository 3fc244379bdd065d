/* Growable text: what becomes lines of the stream. Never locale-dependent: the host may print commas in its numbers. */
#ifndef HERON_TEXT_H
#define HERON_TEXT_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/* Text of `length` bytes, not terminated. `failed` once memory ran out: what is added from then on is dropped. */
typedef struct {
    char *bytes;
    size_t length;
    size_t room;
    bool failed;
} Text;

void text_free(Text *text);

/* Empties the text and keeps its memory. */
void text_clear(Text *text);

void text_add(Text *text, const char *bytes, size_t length);
void text_put(Text *text, const char *words);
void text_put_uint(Text *text, uint64_t value);

/* A time of `ns` nanoseconds as milliseconds with three decimals: `-12.345`. */
void text_put_ms(Text *text, int64_t ns);

/*
 * A JSON string with its quotes, of at most `most` bytes of `bytes`. Reads UTF-8 and the JVM's modified UTF-8 (two-byte
 * NUL, surrogates of three bytes each); what is neither becomes U+FFFD.
 */
void text_put_json(Text *text, const char *bytes, size_t length, size_t most);

#endif
