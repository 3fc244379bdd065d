/* Frames and call paths by number, as the stream tells them: each once, parents before children. */
#ifndef HERON_CALL_PATHS_H
#define HERON_CALL_PATHS_H

#include <stdint.h>

#include "id_map.h"
#include "text.h"
#include "word_table.h"

typedef struct {
    uint32_t function; /* word ids */
    uint32_t file;
    uint32_t line; /* 0 when unknown */
} Frame;

typedef struct {
    uint32_t parent; /* ID_NONE at the entry */
    uint32_t frame;
} Path;

typedef struct {
    WordTable words;
    Frame *frames;
    Path *paths;
    size_t frame_room, path_room;
    uint32_t frame_count, path_count;
    uint32_t frames_told, paths_told;
    IdMap frame_by_place; /* method and bytecode index: a cache, emptied when it grows too big */
    IdMap frame_by_words;
    IdMap path_by_frame;
} CallPaths;

void call_paths_init(CallPaths *paths);
void call_paths_free(CallPaths *paths);

/* The frame at a bytecode index of a method, ID_NONE while it is not known. */
uint32_t call_paths_known_frame(const CallPaths *paths, uint64_t method, int64_t index);

/* Adds a frame by its words and remembers its place; ID_NONE when memory ran out or there are too many. */
uint32_t call_paths_add_frame(CallPaths *paths, uint64_t method, int64_t index, const Text *function, const Text *file, uint32_t line);

/* The path that adds one frame to its parent; the parent itself when it cannot be added. */
uint32_t call_paths_child(CallPaths *paths, uint32_t parent, uint32_t frame);

/* Writes what the stream was not told yet, as lines `frames` and `paths` of a heap. */
void call_paths_tell(CallPaths *paths, Text *into, const char *heap);

#endif
