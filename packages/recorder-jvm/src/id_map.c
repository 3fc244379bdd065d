#include "id_map.h"

#include <stdlib.h>

#define FIRST_ROOM 1024

void id_map_free(IdMap *map) {
    free(map->slots);
    *map = (IdMap){ 0 };
}

/* Mixes both numbers: the finaliser of the splitmix64 generator (Steele, Lea, Flood 2014). */
static size_t id_map_hash(uint64_t first, uint64_t second) {
    uint64_t mixed = first * 0x9E3779B97F4A7C15u + second;
    mixed = (mixed ^ mixed >> 30) * 0xBF58476D1CE4E5B9u;
    mixed = (mixed ^ mixed >> 27) * 0x94D049BB133111EBu;
    return (size_t)(mixed ^ mixed >> 31);
}

/* The slot that holds the pair, or the free one where it belongs. */
static size_t id_map_slot(const IdMap *map, uint64_t first, uint64_t second) {
    size_t at = id_map_hash(first, second) & (map->room - 1);
    while (map->slots[at].id != ID_NONE && (map->slots[at].first != first || map->slots[at].second != second)) at = (at + 1) & (map->room - 1);
    return at;
}

uint32_t id_map_get(const IdMap *map, uint64_t first, uint64_t second) {
    return map->room == 0 ? ID_NONE : map->slots[id_map_slot(map, first, second)].id;
}

static bool id_map_grow(IdMap *map) {
    IdMap grown = { .room = map->room == 0 ? FIRST_ROOM : map->room * 2, .count = map->count };
    grown.slots = malloc(grown.room * sizeof *grown.slots);
    if (grown.slots == NULL) return false;
    for (size_t at = 0; at < grown.room; at++) grown.slots[at].id = ID_NONE;
    for (size_t at = 0; at < map->room; at++) {
        IdSlot slot = map->slots[at];
        if (slot.id != ID_NONE) grown.slots[id_map_slot(&grown, slot.first, slot.second)] = slot;
    }
    free(map->slots);
    *map = grown;
    return true;
}

bool id_map_put(IdMap *map, uint64_t first, uint64_t second, uint32_t id) {
    if ((map->count + 1) * 4 > map->room * 3 && !id_map_grow(map)) return false;
    map->slots[id_map_slot(map, first, second)] = (IdSlot){ first, second, id };
    map->count++;
    return true;
}
