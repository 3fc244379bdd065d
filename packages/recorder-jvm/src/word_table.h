/* Words by number: each distinct text is kept once, for as long as the table. */
#ifndef HERON_WORD_TABLE_H
#define HERON_WORD_TABLE_H

#include <stddef.h>
#include <stdint.h>

#include "id_map.h"

typedef struct {
    char *bytes;
    size_t length;
} Word;

typedef struct {
    Word *words; /* by id; the bytes stay where they are while the table lives */
    size_t room;
    uint32_t count;
    uint32_t most; /* at this count new words are refused */
    IdMap ids;
} WordTable;

/* An empty table of at most `most` words. */
void word_table_init(WordTable *table, uint32_t most);
void word_table_free(WordTable *table);

/* The text's id, adding it when new; ID_NONE when memory ran out or the table is full. */
uint32_t word_table_id(WordTable *table, const char *bytes, size_t length);

#endif
