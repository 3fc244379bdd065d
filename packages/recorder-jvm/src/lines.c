#include "lines.h"

#include "container.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "names.h"

#define MOST_TYPES 200000
#define MOST_THREADS 20000
#define WORDS_A_LINE 500
#define NAME_BYTES 1000

void lines_init_words(WordTable *types, WordTable *threads) {
    word_table_init(types, MOST_TYPES);
    word_table_init(threads, MOST_THREADS);
}

static void lines_open(Text *into, const char *kind, const char *heap) {
    text_put(into, "{\"k\":\"");
    text_put(into, kind);
    text_put(into, "\",\"h\":\"");
    text_put(into, heap);
    text_put(into, "\"");
}

static void lines_open_at(Text *into, const char *kind, const char *heap, int64_t now_ns) {
    lines_open(into, kind, heap);
    text_put(into, ",\"t\":");
    text_put_ms(into, now_ns);
}

static void lines_text(Text *into, const char *key, const char *value) {
    text_put(into, ",\"");
    text_put(into, key);
    text_put(into, "\":");
    text_put_json(into, value, strlen(value), NAME_BYTES);
}

/* A number that is left out when the runtime does not tell it. */
static void lines_bytes(Text *into, const char *key, int64_t bytes) {
    if (bytes < 0) return;
    text_put(into, ",\"");
    text_put(into, key);
    text_put(into, "\":");
    text_put_uint(into, (uint64_t)bytes);
}

static char *lines_property(const char *name) {
    char *value = NULL;
    return (*session.jvmti)->GetSystemProperty(session.jvmti, name, &value) == JVMTI_ERROR_NONE ? value : NULL;
}

static void lines_put_own(Text *into, const char *command) {
    Text prefix = { 0 };
    text_put(into, ",\"own\":[");
    const char *given = session.options.own;
    if (given[0] == '\0') {
        names_own_prefix(&prefix, command);
        if (prefix.length > 0) text_put_json(into, prefix.bytes, prefix.length, NAME_BYTES);
    }
    for (const char *at = given; *at != '\0';) {
        size_t length = strcspn(at, ";");
        text_clear(&prefix);
        for (size_t one = 0; one < length; one++) text_add(&prefix, at[one] == '.' ? "/" : at + one, 1);
        if (at > given) text_put(into, ",");
        text_put_json(into, prefix.bytes, prefix.length, NAME_BYTES);
        at += length + (at[length] == ';' ? 1 : 0);
    }
    text_put(into, "]");
    text_free(&prefix);
}

void lines_hello(Text *into, const Beans *beans, int64_t limit_bytes, bool attached) {
    char *command = lines_property("sun.java.command");
    char *version = lines_property("java.vm.version");
    const char *started = command == NULL ? "" : command;
    Text words = { 0 };
    struct timespec now;
    clock_gettime(CLOCK_REALTIME, &now);
    int64_t epoch_ns = (int64_t)now.tv_sec * 1000000000 + now.tv_nsec - session_now_ns();
    lines_open(into, "hello", session.heap);
    text_put(into, ",\"schema\":\"brisk-heron/stream@1\",\"epochMs\":");
    text_put_ms(into, epoch_ns);
    text_put(into, ",\"clockMs\":");
    text_put_ms(into, atomic_load(&session.zero_ns));
    if (session.options.name[0] != '\0') {
        lines_text(into, "program", session.options.name);
        text_put(into, ",\"named\":true");
    } else {
        names_program(&words, started);
        text_put(into, ",\"program\":");
        text_put_json(into, words.bytes, words.length, NAME_BYTES);
        text_clear(&words);
    }
    text_put(&words, "OpenJDK ");
    text_put(&words, version == NULL ? "(version unknown)" : version);
    text_put(into, ",\"runtime\":");
    text_put_json(into, words.bytes, words.length, NAME_BYTES);
    lines_text(into, "collector", beans_collector(beans));
    lines_bytes(into, "pid", strtoll(session.heap, NULL, 10));
    lines_bytes(into, "interval", session.options.interval_bytes);
    if (limit_bytes > 0) lines_bytes(into, "limit", limit_bytes);
    int64_t container_bytes = container_limit_bytes();
    if (container_bytes > 0) lines_bytes(into, "container", container_bytes);
    if (attached) text_put(into, ",\"attached\":true");
    if (session.options.log[0] != '\0') text_put(into, ",\"log\":\"jvm-unified\"");
    lines_put_own(into, started);
    text_put(into, "}\n");
    text_free(&words);
    if (command != NULL) (*session.jvmti)->Deallocate(session.jvmti, (unsigned char *)command);
    if (version != NULL) (*session.jvmti)->Deallocate(session.jvmti, (unsigned char *)version);
}

void lines_phase(Text *into, const char *heap, int64_t now_ns, const char *kind) {
    lines_open_at(into, "phase", heap, now_ns);
    lines_text(into, "kind", kind);
    text_put(into, "}\n");
}

void lines_interval(Text *into, const char *heap, int64_t now_ns, int64_t bytes) {
    lines_open_at(into, "interval", heap, now_ns);
    lines_bytes(into, "bytes", bytes);
    text_put(into, "}\n");
}

static void lines_put_pools(Text *into, const Beans *beans, const Reading *reading) {
    bool first = true;
    text_put(into, ",\"pools\":[");
    for (int at = 0; at < beans->pool_count; at++) {
        /* Of what lies outside the heap only the classes: compiled code is no matter of the collector. */
        if (reading->pool_used[at] < 0 || (!beans->pools[at].heap && strcmp(beans->pools[at].name, "Metaspace") != 0)) continue;
        text_put(into, first ? "[" : ",[");
        first = false;
        text_put_json(into, beans->pools[at].name, strlen(beans->pools[at].name), NAME_BYTES);
        text_put(into, ",");
        text_put_uint(into, (uint64_t)reading->pool_used[at]);
        text_put(into, "]");
    }
    text_put(into, "]");
}

/* Used memory right after the collection: the pools that it emptied as they were then, the others as they are now. */
static int64_t lines_used_after(const Beans *beans, const Reading *reading) {
    int64_t used = 0;
    bool told = false;
    for (int at = 0; at < beans->pool_count; at++) {
        if (!beans->pools[at].heap || reading->pool_used[at] < 0) continue;
        used += reading->pool_used[at];
        told = true;
    }
    return told ? used : -1;
}

void lines_gc(Text *into, const char *heap, const GcRecord *gc, const Beans *beans, const Reading *reading) {
    const CollectorBean *ran = reading == NULL ? NULL : reading->ran;
    bool pause = ran != NULL && beans_counts_pauses(ran);
    lines_open_at(into, pause ? "pause" : "gc", heap, gc->start_ns);
    text_put(into, ",\"ms\":");
    text_put_ms(into, gc->finish_ns - gc->start_ns);
    lines_text(into, "scope", ran == NULL ? "young" : beans_scope(ran));
    lines_text(into, "label", ran == NULL ? "collection (kind not told)" : ran->name);
    if (gc->own) text_put(into, ",\"own\":true");
    if (!pause && reading != NULL) {
        lines_bytes(into, "after", lines_used_after(beans, reading));
        lines_bytes(into, "capacity", reading->committed);
        lines_put_pools(into, beans, reading);
    }
    text_put(into, "}\n");
}

void lines_size(Text *into, const char *heap, int64_t now_ns, const Reading *reading, int64_t resident_bytes) {
    lines_open_at(into, "size", heap, now_ns);
    lines_bytes(into, "used", reading->used);
    lines_bytes(into, "committed", reading->committed);
    lines_bytes(into, "external", reading->direct);
    lines_bytes(into, "resident", resident_bytes);
    text_put(into, "}\n");
}

void lines_log(Text *into, const char *heap, uint64_t upto, const Text *text) {
    lines_open(into, "log", heap);
    text_put(into, ",\"upto\":");
    text_put_uint(into, upto);
    text_put(into, ",\"text\":");
    text_put_json(into, text->bytes, text->length, text->length);
    text_put(into, "}\n");
}

void lines_note(Text *into, const char *heap, int64_t now_ns, const char *code, const char *message) {
    lines_open_at(into, "note", heap, now_ns);
    lines_text(into, "code", code);
    lines_text(into, "message", message);
    text_put(into, "}\n");
}

void lines_dropped(Text *into, const char *heap, int64_t now_ns, uint64_t bytes) {
    char message[160];
    snprintf(message, sizeof message, "%llu bytes of lines were dropped because the file could not be written to", (unsigned long long)bytes);
    lines_note(into, heap, now_ns, "lines-dropped", message);
}

void lines_bye(Text *into, const char *heap, int64_t now_ns, const char *reason, int64_t live) {
    lines_open_at(into, "bye", heap, now_ns);
    lines_text(into, "reason", reason);
    lines_bytes(into, "live", live);
    text_put(into, "}\n");
}

void lines_words(Text *into, const char *heap, const char *kind, const WordTable *table, uint32_t *told) {
    while (*told < table->count) {
        uint32_t to = table->count - *told < WORDS_A_LINE ? table->count : *told + WORDS_A_LINE;
        lines_open(into, kind, heap);
        text_put(into, ",\"first\":");
        text_put_uint(into, *told);
        text_put(into, ",\"name\":[");
        for (uint32_t id = *told; id < to; id++) {
            if (id > *told) text_put(into, ",");
            text_put_json(into, table->words[id].bytes, table->words[id].length, NAME_BYTES);
        }
        text_put(into, "]}\n");
        *told = to;
    }
}
