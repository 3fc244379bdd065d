/* What the runtime's own management beans tell: sizes of the heap and its pools, and which collector ran. */
#ifndef HERON_BEANS_H
#define HERON_BEANS_H

#include <jni.h>
#include <stdbool.h>
#include <stdint.h>

#include "text.h"

#define BEANS_MOST_POOLS 16
#define BEANS_MOST_COLLECTORS 8
#define BEANS_NAME 64

typedef struct {
    jobject bean;
    char name[BEANS_NAME];
    bool heap;
    bool young; /* emptied by every collection, so what it held right after the last one is told exactly */
} PoolBean;

typedef struct {
    jobject bean;
    char name[BEANS_NAME];
    jlong count; /* collections at the last reading */
} CollectorBean;

/* Global references and method ids, made once. */
typedef struct {
    bool open;
    jobject memory, direct;
    PoolBean pools[BEANS_MOST_POOLS];
    int pool_count;
    CollectorBean collectors[BEANS_MOST_COLLECTORS];
    int collector_count;
    jmethodID get_heap, get_usage, get_collection_usage, get_used, get_committed, get_max, get_count, get_memory_used;
} Beans;

/* One reading, in bytes; −1 where the runtime does not tell. */
typedef struct {
    int64_t used, committed, limit, direct;
    int64_t pool_used[BEANS_MOST_POOLS], pool_committed[BEANS_MOST_POOLS];
    const CollectorBean *ran; /* collector whose count rose since the last reading, the most far-reaching one; else NULL */
} Reading;

/* Finds the beans; false, with nothing pending, where the runtime has none (a runtime without java.management). */
bool beans_open(Beans *beans, JNIEnv *jni);
void beans_close(Beans *beans, JNIEnv *jni);

/* Reads everything; false when the runtime would not tell. */
bool beans_read(Beans *beans, JNIEnv *jni, Reading *reading);

/* `G1`, `Parallel`, `Serial`, `ZGC`, `Shenandoah` or `Epsilon`; '' when unknown. */
const char *beans_collector(const Beans *beans);

/* True when the collector frees objects while the program runs. */
bool beans_concurrent(const Beans *beans);

/* `young` or `whole`, by the collector's name. */
const char *beans_scope(const CollectorBean *collector);

/* True for a bean that counts pauses of a cycle, not collections. */
bool beans_counts_pauses(const CollectorBean *collector);

#endif
