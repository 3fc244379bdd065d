#include "recorder.h"

#include <errno.h>
#include <stdio.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "beans.h"
#include "bait.h"
#include "births.h"
#include "census.h"
#include "collections.h"
#include "command.h"
#include "container.h"
#include "follow.h"
#include "force.h"
#include "inventory.h"
#include "lines.h"
#include "marks.h"
#include "pace.h"
#include "sampler.h"
#include "session.h"
#include "sink.h"

#define FLUSH_NS 200000000
#define SIZES_NS 250000000
/* Collections that come faster share one reading of the beans. */
#define READING_NS 100000000
#define PACE_NS 1000000000
/* A collection that ended this long ago has had its deaths reported by the JVM's service thread. */
#define REPORTED_NS 20000000
#define END_WAIT_S 5
#define LOG_CHUNKS_A_TICK 32

/* What only the recorder's own thread touches. */
static struct {
    Sink sink;
    Beans beans;
    Pace pace;
    Follow control, log;
    Text lines, chunk;
    Events events; /* swapped with the session's at each flush */
    GcRecord gcs[SESSION_MOST_GCS];
    bool attached;
    int64_t deaths_from_ns; /* what was noticed dead by then was told by the last flush */
    int64_t sizes_ns, pace_ns; /* last done */
    int64_t telling_ns; /* CPU time spent on writing samples down */
    int gcs_waiting; /* records in `gcs` that wait for a reading */
    FloorPace floor_pace; /* of forced collections */
    uint64_t lost_told;
    int64_t used; /* bytes of the heap at the last reading; −1 before it */
    bool near_limit; /* the floor came near the limit, and an inventory was asked for */
    const char *reason;
} own = { .sink = { .file = -1 } };

static void recorder_write(void) {
    sink_write(&own.sink, &own.lines);
    text_clear(&own.lines);
    uint64_t dropped = sink_take_dropped(&own.sink);
    if (dropped == 0) return;
    lines_dropped(&own.lines, session.heap, session_now_ns(), dropped);
    sink_write(&own.sink, &own.lines);
    text_clear(&own.lines);
}

static void recorder_set_interval(int64_t bytes) {
    jvmtiEnv *jvmti = session.jvmti;
    int64_t base_bytes = pace_base(bytes);
    if ((*jvmti)->SetHeapSamplingInterval(jvmti, (jint)base_bytes) != JVMTI_ERROR_NONE) return;
    atomic_store(&session.base_bytes, base_bytes);
    atomic_store(&session.interval_bytes, bytes);
    lines_interval(&own.lines, session.heap, session_now_ns(), bytes);
}

/* None once the JVM ends, whose concurrent collector has stopped and would be waited for in vain. */
static void recorder_collect_when_due(int64_t now_ns) {
    if (own.floor_pace.every_ns == 0 || now_ns < own.floor_pace.next_ns || atomic_load(&session.state) != SESSION_RUNNING) return;
    force_collect();
    int64_t end_ns = session_now_ns();
    floor_pace_spent(&own.floor_pace, end_ns, end_ns - now_ns);
}

/* Takes what the threads gathered, births before deaths. */
static void recorder_tell_events(void) {
    pthread_mutex_lock(&session.lock);
    Events taken = session.events;
    session.events = own.events;
    own.events = taken;
    call_paths_tell(&session.paths, &own.lines, session.heap);
    lines_words(&own.lines, session.heap, "types", &session.types, &session.types_told);
    lines_words(&own.lines, session.heap, "threads", &session.threads, &session.threads_told);
    text_add(&own.lines, session.said.bytes, session.said.length);
    text_clear(&session.said);
    uint64_t lost = session.lost;
    pthread_mutex_unlock(&session.lock);
    events_tell_births(&own.events, &own.lines, session.heap);
    events_tell_deaths(&own.events, &own.lines, session.heap, own.deaths_from_ns);
    events_clear(&own.events);
    if (lost > own.lost_told) session_note("samples-lost", "some samples could not be kept: memory ran out, or the program has more types, threads or paths than are told apart");
    own.lost_told = lost;
}

static void recorder_start_over(const char *by) {
    if (atomic_load(&session.state) != SESSION_RUNNING) return;
    recorder_tell_events();
    births_start_over(by);
}

/* Long work between two ticks: what happened meanwhile is told by the next one. */
static void recorder_take_inventory(JNIEnv *jni, int64_t used, bool insist) {
    if (atomic_load(&session.state) != SESSION_RUNNING) return;
    recorder_tell_events();
    recorder_write();
    inventory_take(jni, session.options.out, used, insist);
}

/* One that somebody asks for now. */
static void recorder_ask_inventory(JNIEnv *jni, bool insist) {
    Reading reading;
    bool told = beans_read(&own.beans, jni, &reading);
    recorder_take_inventory(jni, told ? reading.used : -1, insist);
}

/* One that the recorder's own settings ask for. Nothing is allocated before it: the heap may be full, and threads wait for it. */
static void recorder_take_wished(JNIEnv *jni) {
    bool exhausted = atomic_load(&session.exhausted) == EXHAUSTED_WISHED;
    if (!atomic_exchange(&session.inventory_wish, false) && !exhausted) return;
    recorder_take_inventory(jni, own.used, false);
    if (exhausted) atomic_store(&session.exhausted, EXHAUSTED_DONE);
}

static void recorder_obey(JNIEnv *jni, Command command) {
    switch (command.kind) {
        case COMMAND_MARK: marks_tell(command.epoch_ms, command.label, command.label_length, "page"); return;
        case COMMAND_INVENTORY: recorder_ask_inventory(jni, command.insist); return;
        case COMMAND_COLLECT: if (atomic_load(&session.state) == SESSION_RUNNING) force_collect(); return;
        case COMMAND_BIRTHS_ON: births_switch(true); return;
        case COMMAND_BIRTHS_OFF: births_switch(false); return;
        case COMMAND_START_OVER: recorder_start_over("page"); return;
        case COMMAND_INTERVAL:
            pace_init(&own.pace, command.bytes, session.options.cost_ppm);
            recorder_set_interval(command.bytes);
            return;
        case COMMAND_STOP:
            own.reason = "stopped";
            atomic_store(&session.state, SESSION_ENDING);
            return;
        case COMMAND_NONE: return;
    }
}

static void recorder_take_commands(JNIEnv *jni) {
    while (follow_take(&own.control, &own.chunk, false)) {
        for (size_t at = 0; at < own.chunk.length;) {
            const char *line = own.chunk.bytes + at;
            const char *end = memchr(line, '\n', own.chunk.length - at);
            size_t length = end == NULL ? own.chunk.length - at : (size_t)(end - line);
            recorder_obey(jni, command_read(line, length));
            at += length + 1;
        }
    }
}

static void recorder_take_log(bool at_end) {
    for (int chunk = 0; chunk < LOG_CHUNKS_A_TICK && follow_take(&own.log, &own.chunk, at_end); chunk++) {
        lines_log(&own.lines, session.heap, (uint64_t)own.log.offset, &own.chunk);
        recorder_write();
    }
}

static int64_t recorder_cpu_ns(clockid_t clock) {
    struct timespec now;
    return clock_gettime(clock, &now) == 0 ? (int64_t)now.tv_sec * 1000000000 + now.tv_nsec : 0;
}

static void recorder_look_at_cost(void) {
    /* Only what fewer samples would save: the rest of the recorder's work does not depend on the interval. */
    int64_t own_ns = atomic_load(&session.callback_ns) + own.telling_ns;
    int64_t interval = pace_look(&own.pace, own_ns, recorder_cpu_ns(CLOCK_PROCESS_CPUTIME_ID));
    if (interval != atomic_load(&session.interval_bytes)) recorder_set_interval(interval);
}

static void recorder_tell_gcs(int count, const Reading *reading) {
    for (int at = 0; at < count; at++) {
        /* One reading follows several collections when they come faster than readings: sizes belong to the last. */
        bool last = at == count - 1;
        lines_gc(&own.lines, session.heap, &own.gcs[at], &own.beans, last ? reading : NULL);
    }
}

/* Once, when what is left after a collection, young spaces as they were then, comes near the limit. */
static void recorder_look_at_limit(const Reading *reading) {
    int64_t percent = session.options.inventory_percent;
    if (percent == 0 || own.near_limit || reading->ran == NULL || reading->limit <= 0) return;
    int64_t left = 0;
    for (int at = 0; at < own.beans.pool_count; at++) if (own.beans.pools[at].heap && reading->pool_used[at] > 0) left += reading->pool_used[at];
    if (left < reading->limit / 100 * percent) return;
    own.near_limit = true;
    atomic_store(&session.inventory_wish, true);
}

static void recorder_tick(JNIEnv *jni, bool last) {
    uint64_t dropped;
    int64_t last_finish_ns;
    own.gcs_waiting = collections_take(own.gcs, own.gcs_waiting, &last_finish_ns, &dropped);
    int64_t now_ns = session_now_ns();
    int64_t before_ns = recorder_cpu_ns(CLOCK_THREAD_CPUTIME_ID);
    recorder_tell_events();
    own.telling_ns += recorder_cpu_ns(CLOCK_THREAD_CPUTIME_ID) - before_ns;
    recorder_take_wished(jni);
    /* A concurrent collector notices late what was dead long before: nothing is promised then. */
    if (now_ns - last_finish_ns >= REPORTED_NS && !beans_concurrent(&own.beans)) own.deaths_from_ns = last_finish_ns;
    int64_t since_ns = now_ns - own.sizes_ns;
    if (last || since_ns >= SIZES_NS || (own.gcs_waiting > 0 && since_ns >= READING_NS)) {
        Reading reading;
        bool told = beans_read(&own.beans, jni, &reading);
        recorder_tell_gcs(own.gcs_waiting, told ? &reading : NULL);
        own.gcs_waiting = 0;
        if (told) lines_size(&own.lines, session.heap, now_ns, &reading, container_resident_bytes());
        if (told) own.used = reading.used;
        if (told) recorder_look_at_limit(&reading);
        own.sizes_ns = now_ns;
    }
    if (dropped > 0) session_note("collections-lost", "collections came faster than they could be told; the collector's log has them");
    recorder_take_wished(jni);
    recorder_take_commands(jni);
    if (births_take_wish()) recorder_start_over("program");
    if (!last) bait_lay(jni);
    recorder_collect_when_due(now_ns);
    if (now_ns - own.pace_ns >= PACE_NS) {
        recorder_look_at_cost();
        own.pace_ns = now_ns;
    }
    recorder_write();
    recorder_take_log(false);
}

/* No thread may be inside a sample when the tables are emptied or the end is told. */
static bool recorder_wait_until_idle(void) {
    jvmtiEnv *jvmti = session.jvmti;
    (void)(*jvmti)->SetEventNotificationMode(jvmti, JVMTI_DISABLE, JVMTI_EVENT_SAMPLED_OBJECT_ALLOC, NULL);
    for (int tries = 0; atomic_load(&session.busy) > 0 && tries < 2000; tries++) session_pause(1000000);
    return atomic_load(&session.busy) == 0;
}

static void recorder_finish(JNIEnv *jni) {
    bool idle = recorder_wait_until_idle();
    /* A JVM that ends has stopped its concurrent collector: to ask it for a collection would wait for ever. */
    bool collects = strcmp(own.reason, "exit") != 0 || !beans_concurrent(&own.beans);
    int64_t live = session.options.census && collects ? census_take() : -1;
    recorder_tick(jni, true);
    recorder_tell_events();
    lines_bye(&own.lines, session.heap, session_now_ns(), own.reason, live);
    recorder_write();
    sink_tell_unwritten(&own.sink);
    beans_close(&own.beans, jni);
    follow_close(&own.control);
    /* Not idle again while a thread hangs in a sample: its late writing must not meet emptied tables. */
    if (idle) atomic_store(&session.state, SESSION_IDLE);
    sem_post(&session.ended);
}

static void recorder_hello(JNIEnv *jni) {
    Reading reading;
    bool told = beans_open(&own.beans, jni) && beans_read(&own.beans, jni, &reading);
    lines_hello(&own.lines, &own.beans, told ? reading.limit : -1, own.attached);
    if (!told) session_note("sizes-not-told", "this runtime has no java.management: sizes of the heap and kinds of collection come from the collector's log alone");
    if (own.attached) session_note("attached", "the recorder was attached to a running program: what was allocated before is part of the heap and of no site; of each thread that ran already, what it allocates next may be missing until its buffer is full, half a mebibyte and more");
    lines_phase(&own.lines, session.heap, 0, "objects");
    recorder_write();
}

static void recorder_wait(void) {
    struct timespec until;
    clock_gettime(CLOCK_REALTIME, &until);
    until.tv_nsec += FLUSH_NS;
    if (until.tv_nsec >= 1000000000) {
        until.tv_nsec -= 1000000000;
        until.tv_sec++;
    }
    while (sem_timedwait(&session.wake, &until) != 0 && errno == EINTR) continue;
    while (sem_trywait(&session.wake) == 0) continue;
}

static void JNICALL recorder_run(jvmtiEnv *jvmti, JNIEnv *jni, void *unused) {
    (void)jvmti;
    (void)unused;
    sampler_exclude_this_thread();
    recorder_hello(jni);
    if (session.options.inventory_at_end) inventory_prepare(jni, session.options.out);
    while (atomic_load(&session.state) == SESSION_RUNNING) {
        recorder_wait();
        recorder_tick(jni, false);
    }
    recorder_finish(jni);
}

static bool recorder_start_thread(JNIEnv *jni) {
    jvmtiEnv *jvmti = session.jvmti;
    jclass threads = (*jni)->FindClass(jni, "java/lang/Thread");
    jmethodID make = threads == NULL ? NULL : (*jni)->GetMethodID(jni, threads, "<init>", "(Ljava/lang/String;)V");
    jstring name = make == NULL ? NULL : (*jni)->NewStringUTF(jni, "brisk-heron recorder");
    jobject thread = name == NULL ? NULL : (*jni)->NewObject(jni, threads, make, name);
    if ((*jni)->ExceptionCheck(jni)) {
        (*jni)->ExceptionClear(jni);
        return false;
    }
    return thread != NULL && (*jvmti)->RunAgentThread(jvmti, thread, recorder_run, NULL, JVMTI_THREAD_NORM_PRIORITY) == JVMTI_ERROR_NONE;
}

static void recorder_reset(bool attached) {
    snprintf(session.heap, sizeof session.heap, "%ld", (long)getpid());
    pthread_mutex_lock(&session.lock);
    call_paths_free(&session.paths);
    word_table_free(&session.types);
    word_table_free(&session.threads);
    lines_init_words(&session.types, &session.threads);
    session.types_told = session.threads_told = 0;
    events_clear(&session.events);
    text_clear(&session.said);
    session.lost = 0;
    pthread_mutex_unlock(&session.lock);
    atomic_store(&session.callback_ns, 0);
    atomic_store(&session.first_id, atomic_load(&session.next_id));
    atomic_store(&session.interval_bytes, session.options.interval_bytes);
    atomic_store(&session.base_bytes, pace_base(session.options.interval_bytes));
    atomic_fetch_add(&session.generation, 1);
    pthread_mutex_lock(&session.gc_lock);
    session.gc_count = 0;
    session.gc_dropped = 0;
    session.gc_last_finish_ns = 0;
    pthread_mutex_unlock(&session.gc_lock);
    atomic_store(&session.zero_ns, session_clock_ns());
    own.attached = attached;
    own.lost_told = 0;
    own.near_limit = false;
    own.used = -1;
    own.gcs_waiting = 0;
    own.telling_ns = 0;
    own.deaths_from_ns = own.sizes_ns = own.pace_ns = 0;
    floor_pace_init(&own.floor_pace, session.options.collect_ms * 1000000);
    own.reason = "exit";
    follow_init(&own.control, session.options.control);
    follow_init(&own.log, session.options.log);
    pace_init(&own.pace, session.options.interval_bytes, session.options.cost_ppm);
    (void)pace_look(&own.pace, 0, recorder_cpu_ns(CLOCK_PROCESS_CPUTIME_ID));
}

/*
 * Deaths and collections stay switched on for good: in JDK 17 switching deaths on anew waits for a report that is under way
 * in a manner that may stop the whole JVM at its next safepoint.
 */
static jvmtiError recorder_switch_on(void) {
    jvmtiEnv *jvmti = session.jvmti;
    static bool once;
    static const jvmtiEvent events[] = { JVMTI_EVENT_OBJECT_FREE, JVMTI_EVENT_GARBAGE_COLLECTION_START, JVMTI_EVENT_GARBAGE_COLLECTION_FINISH };
    jvmtiError error = (*jvmti)->SetHeapSamplingInterval(jvmti, (jint)pace_base(session.options.interval_bytes));
    for (size_t at = 0; !once && at < sizeof events / sizeof events[0] && error == JVMTI_ERROR_NONE; at++) error = (*jvmti)->SetEventNotificationMode(jvmti, JVMTI_ENABLE, events[at], NULL);
    once = error == JVMTI_ERROR_NONE;
    return once ? (*jvmti)->SetEventNotificationMode(jvmti, JVMTI_ENABLE, JVMTI_EVENT_SAMPLED_OBJECT_ALLOC, NULL) : error;
}

bool recorder_start(JNIEnv *jni, bool attached, char *problem) {
    sink_close(&own.sink);
    while (sem_trywait(&session.ended) == 0) continue;
    if (!sink_open(&own.sink, session.options.out)) {
        snprintf(problem, OPTIONS_TEXT, "cannot write to %.3000s: %s", session.options.out, strerror(errno));
        return false;
    }
    recorder_reset(attached);
    sampler_find_virtual_threads(jni);
    atomic_store(&session.births, true);
    atomic_store(&session.exhausted, EXHAUSTED_NOT);
    atomic_store(&session.state, SESSION_RUNNING);
    jvmtiError error = recorder_switch_on();
    /* Of a JVM that runs already, the threads that there are cannot be primed: docs/recording-jvm.md says what that costs. */
    if (!attached && error == JVMTI_ERROR_NONE) sampler_prime_this_thread(jni);
    if (error != JVMTI_ERROR_NONE || !recorder_start_thread(jni)) {
        snprintf(problem, OPTIONS_TEXT, "the JVM would not switch recording on (JVM TI error %d)", (int)error);
        atomic_store(&session.state, SESSION_IDLE);
        sink_close(&own.sink);
        return false;
    }
    if (!session.options.births) births_switch(false);
    return true;
}

void recorder_end(const char *reason) {
    int running = SESSION_RUNNING;
    if (atomic_compare_exchange_strong(&session.state, &running, SESSION_ENDING)) own.reason = reason;
    else if (running == SESSION_IDLE) return;
    sem_post(&session.wake);
    struct timespec until;
    clock_gettime(CLOCK_REALTIME, &until);
    until.tv_sec += END_WAIT_S;
    while (sem_timedwait(&session.ended, &until) != 0 && errno == EINTR) continue;
}

void recorder_tell_now(const char *code, const char *message) {
    if (own.sink.file < 0) return;
    Text line = { 0 };
    lines_note(&line, session.heap, session_now_ns(), code, message);
    /* One write of a whole line at the end of the file: what the recorder writes meanwhile comes before or after it. */
    if (write(own.sink.file, line.bytes, line.length) < 0) own.sink.dropped_bytes += line.length;
    text_free(&line);
}

void recorder_drain_log(void) {
    if (own.sink.file < 0 || own.log.path == NULL) return;
    for (int chunk = 0; chunk < 1024 && follow_take(&own.log, &own.chunk, true); chunk++) {
        lines_log(&own.lines, session.heap, (uint64_t)own.log.offset, &own.chunk);
        recorder_write();
    }
    follow_close(&own.log);
}
