#include "call_paths.h"

#include <stdlib.h>

/* A program that makes classes without end must not take the recorder's memory with it. */
#define MOST_WORDS 400000
#define MOST_FRAMES 400000
#define MOST_PATHS 3000000
#define MOST_PLACES 1000000
#define NAME_BYTES 1000
/* Keeps a line of the stream well under its 4 MiB. */
#define FRAMES_A_LINE 1500
#define PATHS_A_LINE 50000

void call_paths_init(CallPaths *paths) {
    *paths = (CallPaths){ 0 };
    word_table_init(&paths->words, MOST_WORDS);
}

void call_paths_free(CallPaths *paths) {
    word_table_free(&paths->words);
    free(paths->frames);
    free(paths->paths);
    id_map_free(&paths->frame_by_place);
    id_map_free(&paths->frame_by_words);
    id_map_free(&paths->path_by_frame);
    call_paths_init(paths);
}

uint32_t call_paths_known_frame(const CallPaths *paths, uint64_t method, int64_t index) {
    return id_map_get(&paths->frame_by_place, method, (uint64_t)index);
}

static bool call_paths_reserve(void **rows, size_t *room, uint32_t count, size_t size) {
    if (count < *room) return true;
    size_t wanted = *room == 0 ? 1024 : *room * 2;
    void *grown = realloc(*rows, wanted * size);
    if (grown == NULL) return false;
    *rows = grown;
    *room = wanted;
    return true;
}

static uint32_t call_paths_intern_frame(CallPaths *paths, const Text *function, const Text *file, uint32_t line) {
    uint32_t function_id = word_table_id(&paths->words, function->bytes, function->length);
    uint32_t file_id = word_table_id(&paths->words, file->bytes, file->length);
    if (function_id == ID_NONE || file_id == ID_NONE) return ID_NONE;
    uint64_t words = (uint64_t)function_id << 32 | file_id;
    uint32_t known = id_map_get(&paths->frame_by_words, words, line);
    if (known != ID_NONE) return known;
    if (paths->frame_count >= MOST_FRAMES) return ID_NONE;
    if (!call_paths_reserve((void **)&paths->frames, &paths->frame_room, paths->frame_count, sizeof *paths->frames)) return ID_NONE;
    if (!id_map_put(&paths->frame_by_words, words, line, paths->frame_count)) return ID_NONE;
    paths->frames[paths->frame_count] = (Frame){ function_id, file_id, line };
    return paths->frame_count++;
}

uint32_t call_paths_add_frame(CallPaths *paths, uint64_t method, int64_t index, const Text *function, const Text *file, uint32_t line) {
    if (function->failed || file->failed) return ID_NONE;
    uint32_t frame = call_paths_intern_frame(paths, function, file, line);
    if (frame == ID_NONE) return ID_NONE;
    if (paths->frame_by_place.count >= MOST_PLACES) id_map_free(&paths->frame_by_place);
    /* Another thread may have resolved the same place meanwhile. */
    if (id_map_get(&paths->frame_by_place, method, (uint64_t)index) == ID_NONE) id_map_put(&paths->frame_by_place, method, (uint64_t)index, frame);
    return frame;
}

uint32_t call_paths_child(CallPaths *paths, uint32_t parent, uint32_t frame) {
    uint32_t known = id_map_get(&paths->path_by_frame, parent, frame);
    if (known != ID_NONE) return known;
    if (paths->path_count >= MOST_PATHS) return parent;
    if (!call_paths_reserve((void **)&paths->paths, &paths->path_room, paths->path_count, sizeof *paths->paths)) return parent;
    if (!id_map_put(&paths->path_by_frame, parent, frame, paths->path_count)) return parent;
    paths->paths[paths->path_count] = (Path){ parent, frame };
    return paths->path_count++;
}

static void call_paths_open(Text *into, const char *kind, const char *heap, uint32_t first) {
    text_put(into, "{\"k\":\"");
    text_put(into, kind);
    text_put(into, "\",\"h\":\"");
    text_put(into, heap);
    text_put(into, "\",\"first\":");
    text_put_uint(into, first);
}

static void call_paths_tell_words(const CallPaths *paths, Text *into, const char *key, uint32_t from, uint32_t to, bool file) {
    text_put(into, key);
    for (uint32_t row = from; row < to; row++) {
        Word word = paths->words.words[file ? paths->frames[row].file : paths->frames[row].function];
        if (row > from) text_add(into, ",", 1);
        text_put_json(into, word.bytes, word.length, NAME_BYTES);
    }
}

static void call_paths_tell_frames(const CallPaths *paths, Text *into, const char *heap, uint32_t from, uint32_t to) {
    call_paths_open(into, "frames", heap, from);
    call_paths_tell_words(paths, into, ",\"fn\":[", from, to, false);
    call_paths_tell_words(paths, into, "],\"file\":[", from, to, true);
    text_put(into, "],\"line\":[");
    for (uint32_t row = from; row < to; row++) {
        if (row > from) text_add(into, ",", 1);
        text_put_uint(into, paths->frames[row].line);
    }
    text_put(into, "],\"col\":[");
    for (uint32_t row = from; row < to; row++) text_put(into, row > from ? ",0" : "0");
    text_put(into, "]}\n");
}

static void call_paths_tell_paths(const CallPaths *paths, Text *into, const char *heap, uint32_t from, uint32_t to) {
    call_paths_open(into, "paths", heap, from);
    text_put(into, ",\"parent\":[");
    for (uint32_t row = from; row < to; row++) {
        if (row > from) text_add(into, ",", 1);
        if (paths->paths[row].parent == ID_NONE) text_put(into, "-1");
        else text_put_uint(into, paths->paths[row].parent);
    }
    text_put(into, "],\"frame\":[");
    for (uint32_t row = from; row < to; row++) {
        if (row > from) text_add(into, ",", 1);
        text_put_uint(into, paths->paths[row].frame);
    }
    text_put(into, "]}\n");
}

static uint32_t call_paths_chunk(uint32_t from, uint32_t count, uint32_t most) {
    return count - from < most ? count : from + most;
}

void call_paths_tell(CallPaths *paths, Text *into, const char *heap) {
    while (paths->frames_told < paths->frame_count) {
        uint32_t to = call_paths_chunk(paths->frames_told, paths->frame_count, FRAMES_A_LINE);
        call_paths_tell_frames(paths, into, heap, paths->frames_told, to);
        paths->frames_told = to;
    }
    while (paths->paths_told < paths->path_count) {
        uint32_t to = call_paths_chunk(paths->paths_told, paths->path_count, PATHS_A_LINE);
        call_paths_tell_paths(paths, into, heap, paths->paths_told, to);
        paths->paths_told = to;
    }
}
