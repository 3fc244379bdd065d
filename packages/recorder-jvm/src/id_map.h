/* From a pair of numbers to an id: open addressing, grown by doubling. */
#ifndef HERON_ID_MAP_H
#define HERON_ID_MAP_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#define ID_NONE UINT32_MAX

typedef struct {
    uint64_t first;
    uint64_t second;
    uint32_t id; /* ID_NONE marks a free slot */
} IdSlot;

typedef struct {
    IdSlot *slots;
    size_t room; /* a power of two, or 0 */
    size_t count;
} IdMap;

void id_map_free(IdMap *map);

/* The pair's id, ID_NONE when it has none. */
uint32_t id_map_get(const IdMap *map, uint64_t first, uint64_t second);

/* Gives a pair that has none its id; false when memory ran out. */
bool id_map_put(IdMap *map, uint64_t first, uint64_t second, uint32_t id);

#endif
