/* One recording of this JVM: what its threads, the collector's callbacks and the recorder's own thread share. */
#ifndef HERON_SESSION_H
#define HERON_SESSION_H

#include <jvmti.h>
#include <pthread.h>
#include <semaphore.h>
#include <stdatomic.h>
#include <stdbool.h>
#include <stdint.h>

#include "call_paths.h"
#include "events.h"
#include "options.h"
#include "text.h"
#include "word_table.h"

#define SESSION_MOST_GCS 2048

typedef struct {
    int64_t start_ns, finish_ns; /* from the hello */
    bool own; /* forced by the recorder */
} GcRecord;

typedef enum { SESSION_IDLE, SESSION_RUNNING, SESSION_ENDING } SessionState;

/* Whether the heap was found full in this recording: not; and an inventory of it is still to be taken; or nothing is left to do. */
typedef enum { EXHAUSTED_NOT, EXHAUSTED_WISHED, EXHAUSTED_DONE } ExhaustedState;

typedef struct {
    jvmtiEnv *jvmti;
    Options options;
    char heap[24]; /* name of this heap in the stream: the process id */
    atomic_int state; /* SessionState */
    atomic_uint generation; /* counts recordings of this JVM, so that a late callback knows it is late */
    atomic_llong zero_ns; /* the JVM's clock at the hello */
    atomic_llong interval_bytes; /* mean distance of the samples that are kept */
    atomic_llong base_bytes; /* mean distance of those that the JVM hands out, from which they are drawn */
    atomic_llong next_id; /* tags go on over all recordings of this JVM */
    atomic_llong first_id; /* of this recording */
    atomic_llong callback_ns; /* spent on samples that were kept, so far */
    atomic_bool births; /* samples are taken */
    atomic_int busy; /* threads inside a sample right now */
    atomic_bool forcing; /* the recorder itself has asked for a collection */
    atomic_bool inventory_wish; /* an inventory is to be taken at the next tick */
    atomic_int exhausted; /* an ExhaustedState */
    sem_t wake; /* posted when there is something for the recorder's thread */
    sem_t ended; /* posted when the recorder's thread has written everything */

    /* Held for short stretches of plain computing, never across a call of the JVM. */
    pthread_mutex_t lock;
    CallPaths paths;
    WordTable types, threads;
    uint32_t types_told, threads_told;
    Events events;
    Text said; /* whole lines of marks and notes */
    uint64_t lost; /* samples that could not be kept */

    /* Apart, so that the collector's callbacks never wait for a thread that writes paths. */
    pthread_mutex_t gc_lock;
    GcRecord gcs[SESSION_MOST_GCS];
    int gc_count;
    uint64_t gc_dropped;
    int64_t gc_started_ns, gc_last_finish_ns;
} Session;

extern Session session;

/* The JVM's clock, nanoseconds of an arbitrary origin: the one that its log prints as timenanos. Callable anywhere. */
int64_t session_clock_ns(void);

/* Waits for less than a second. */
void session_pause(long ns);

/* Nanoseconds since the hello. */
int64_t session_now_ns(void);

/* Appends a line `mark` or `note` to what is said at the next flush. The label is the inside of a JSON string. */
void session_mark(int64_t at_ns, const char *label, size_t length, const char *by);
void session_note(const char *code, const char *message);

#endif
