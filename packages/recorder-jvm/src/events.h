/* Births and deaths between two flushes, as rows in the order they happened. */
#ifndef HERON_EVENTS_H
#define HERON_EVENTS_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "text.h"

/* One sampled object. Times are nanoseconds from the heap's hello, sizes bytes. */
typedef struct {
    int64_t id;
    int64_t at_ns;
    int64_t size_bytes;
    int64_t interval_bytes; /* mean sampling interval under which it was drawn */
    uint32_t path, type, thread; /* the stream's ids, ID_NONE when unknown */
} Birth;

/* A followed object, and the time by which it was surely dead. */
typedef struct {
    int64_t id;
    int64_t to_ns;
} Death;

typedef struct {
    Birth *births;
    Death *deaths;
    size_t birth_room, birth_count;
    size_t death_room, death_count;
} Events;

void events_free(Events *events);
void events_clear(Events *events);

/* False when memory ran out. */
bool events_add_birth(Events *events, Birth birth);
bool events_add_death(Events *events, Death death);

/* Writes lines `born`: one for each stretch of equal interval, of at most a few thousand objects. */
void events_tell_births(const Events *events, Text *into, const char *heap);

/* Writes lines `died`, one for each stretch of equal time: not noticed dead at `from_ns`. */
void events_tell_deaths(const Events *events, Text *into, const char *heap, int64_t from_ns);

#endif
