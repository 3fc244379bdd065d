#include "events.h"

#include <stdlib.h>
#include <string.h>


#define FIRST_ROOM 1024
#define OBJECTS_A_LINE 4000

void events_free(Events *events) {
    free(events->births);
    free(events->deaths);
    memset(events, 0, sizeof *events);
}

void events_clear(Events *events) {
    events->birth_count = 0;
    events->death_count = 0;
}

static bool events_reserve(void **rows, size_t *room, size_t count, size_t size) {
    if (count < *room) return true;
    size_t wanted = *room == 0 ? FIRST_ROOM : *room * 2;
    void *grown = realloc(*rows, wanted * size);
    if (grown == NULL) return false;
    *rows = grown;
    *room = wanted;
    return true;
}

bool events_add_birth(Events *events, Birth birth) {
    if (!events_reserve((void **)&events->births, &events->birth_room, events->birth_count, sizeof birth)) return false;
    events->births[events->birth_count++] = birth;
    return true;
}

bool events_add_death(Events *events, Death death) {
    if (!events_reserve((void **)&events->deaths, &events->death_room, events->death_count, sizeof death)) return false;
    events->deaths[events->death_count++] = death;
    return true;
}

static void events_open(Text *into, const char *kind, const char *heap, int64_t from_ns, int64_t to_ns) {
    text_put(into, "{\"k\":\"");
    text_put(into, kind);
    text_put(into, "\",\"h\":\"");
    text_put(into, heap);
    text_put(into, "\",\"from\":");
    text_put_ms(into, from_ns);
    text_put(into, ",\"to\":");
    text_put_ms(into, to_ns);
}

typedef enum { COLUMN_ID, COLUMN_PATH, COLUMN_SIZE, COLUMN_AT, COLUMN_TYPE, COLUMN_THREAD, COLUMNS } Column;

static void events_put_cell(Text *into, const Birth *birth, Column column) {
    switch (column) {
        case COLUMN_ID: text_put_uint(into, (uint64_t)birth->id); return;
        case COLUMN_PATH: text_put_uint(into, birth->path); return;
        case COLUMN_SIZE: text_put_uint(into, (uint64_t)birth->size_bytes); return;
        case COLUMN_AT: text_put_ms(into, birth->at_ns); return;
        case COLUMN_TYPE: text_put_uint(into, birth->type); return;
        case COLUMN_THREAD: text_put_uint(into, birth->thread); return;
        case COLUMNS: return;
    }
}

static void events_tell_stretch(const Birth *births, size_t count, Text *into, const char *heap) {
    static const char *const keys[COLUMNS] = { "id", "path", "size", "at", "type", "thread" };
    int64_t from_ns = births[0].at_ns;
    int64_t to_ns = from_ns;
    for (size_t row = 1; row < count; row++) {
        if (births[row].at_ns < from_ns) from_ns = births[row].at_ns;
        if (births[row].at_ns > to_ns) to_ns = births[row].at_ns;
    }
    events_open(into, "born", heap, from_ns, to_ns);
    text_put(into, ",\"interval\":");
    text_put_uint(into, (uint64_t)births[0].interval_bytes);
    for (Column column = 0; column < COLUMNS; column++) {
        text_put(into, ",\"");
        text_put(into, keys[column]);
        text_put(into, "\":[");
        for (size_t row = 0; row < count; row++) {
            if (row > 0) text_add(into, ",", 1);
            events_put_cell(into, &births[row], column);
        }
        text_add(into, "]", 1);
    }
    text_put(into, "}\n");
}

void events_tell_births(const Events *events, Text *into, const char *heap) {
    for (size_t from = 0; from < events->birth_count;) {
        size_t to = from + 1;
        while (to < events->birth_count && to - from < OBJECTS_A_LINE && events->births[to].interval_bytes == events->births[from].interval_bytes) to++;
        events_tell_stretch(events->births + from, to - from, into, heap);
        from = to;
    }
}

void events_tell_deaths(const Events *events, Text *into, const char *heap, int64_t from_ns) {
    for (size_t from = 0; from < events->death_count;) {
        int64_t to_ns = events->deaths[from].to_ns;
        size_t to = from + 1;
        while (to < events->death_count && to - from < OBJECTS_A_LINE && events->deaths[to].to_ns == to_ns) to++;
        events_open(into, "died", heap, from_ns < to_ns ? from_ns : to_ns, to_ns);
        text_put(into, ",\"id\":[");
        for (size_t row = from; row < to; row++) {
            if (row > from) text_add(into, ",", 1);
            text_put_uint(into, (uint64_t)events->deaths[row].id);
        }
        text_put(into, "]}\n");
        from = to;
    }
}
