#include "word_table.h"

#include <stdlib.h>
#include <string.h>

#define FIRST_ROOM 256

void word_table_init(WordTable *table, uint32_t most) {
    *table = (WordTable){ .most = most };
}

void word_table_free(WordTable *table) {
    for (uint32_t id = 0; id < table->count; id++) free(table->words[id].bytes);
    free(table->words);
    id_map_free(&table->ids);
    *table = (WordTable){ .most = table->most };
}

/* FNV-1a, 64 bits (Fowler, Noll, Vo). */
static uint64_t word_hash(const char *bytes, size_t length) {
    uint64_t hash = 0xCBF29CE484222325u;
    for (size_t at = 0; at < length; at++) hash = (hash ^ (unsigned char)bytes[at]) * 0x100000001B3u;
    return hash;
}

static bool word_table_reserve(WordTable *table) {
    if (table->count < table->room) return true;
    size_t room = table->room == 0 ? FIRST_ROOM : table->room * 2;
    Word *words = realloc(table->words, room * sizeof *words);
    if (words == NULL) return false;
    table->words = words;
    table->room = room;
    return true;
}

uint32_t word_table_id(WordTable *table, const char *bytes, size_t length) {
    uint64_t hash = word_hash(bytes, length);
    /* Texts of the same hash take the second number 0, 1, … in turn. */
    uint64_t turn = 0;
    uint32_t id;
    while ((id = id_map_get(&table->ids, hash, turn)) != ID_NONE) {
        Word known = table->words[id];
        if (known.length == length && (length == 0 || memcmp(known.bytes, bytes, length) == 0)) return id;
        turn++;
    }
    if (table->count >= table->most || !word_table_reserve(table)) return ID_NONE;
    char *kept = malloc(length + 1);
    if (kept == NULL) return ID_NONE;
    if (length > 0) memcpy(kept, bytes, length);
    kept[length] = '\0';
    if (!id_map_put(&table->ids, hash, turn, table->count)) {
        free(kept);
        return ID_NONE;
    }
    table->words[table->count] = (Word){ kept, length };
    return table->count++;
}
