#include "sampler.h"

#include <math.h>
#include <string.h>

#include "collections.h"
#include "names.h"
#include "session.h"

#define MOST_DEPTH 1024
/* In place of a frame's id: the frame only connects two others and is left out of paths. */
#define CONNECTOR (ID_NONE - 1)
/* HotSpot's own interval is 512 KiB: one thread in three thousand draws a distance of more than this. */
#define MOST_PRIMING 4194304
#define PRIMING_STEP 4096

/* What one thread remembers between its samples, good for one recording of this JVM. */
static __thread struct {
    bool inside; /* within a callback, or excluded */
    bool excluded; /* the recorder's own thread */
    bool priming; /* allocates until the JVM hands out a sample */
    unsigned generation;
    uint32_t name; /* word id of the thread's name */
    int64_t drawn_bytes; /* the JVM's interval when the distance to its next sample was drawn */
    uint64_t random; /* state of the generator, never 0 once it is seeded */
} mine;

static jclass virtual_thread; /* superclass of virtual threads; NULL where the JVM has none */

void sampler_exclude_this_thread(void) {
    mine.inside = mine.excluded = true;
}

bool sampler_leaves_this_thread_out(void) {
    return mine.excluded;
}

void sampler_prime_this_thread(JNIEnv *jni) {
    mine.priming = true;
    for (jint bytes = 0; mine.priming && bytes < MOST_PRIMING; bytes += PRIMING_STEP) {
        jbyteArray garbage = (*jni)->NewByteArray(jni, PRIMING_STEP);
        if (garbage == NULL) break;
        (*jni)->DeleteLocalRef(jni, garbage);
    }
    if ((*jni)->ExceptionCheck(jni)) (*jni)->ExceptionClear(jni);
    mine.priming = false;
}

void sampler_find_virtual_threads(JNIEnv *jni) {
    if (virtual_thread != NULL) return;
    jclass found = (*jni)->FindClass(jni, "java/lang/BaseVirtualThread");
    if ((*jni)->ExceptionCheck(jni)) (*jni)->ExceptionClear(jni);
    else virtual_thread = (jclass)(*jni)->NewGlobalRef(jni, found);
}

static void sampler_free(jvmtiEnv *jvmti, void *memory) {
    if (memory != NULL) (*jvmti)->Deallocate(jvmti, memory);
}

/* Source line of a bytecode index; 0 when it is not known. */
static uint32_t sampler_line(jvmtiEnv *jvmti, jmethodID method, jlocation index) {
    jint count = 0;
    jvmtiLineNumberEntry *table = NULL;
    if (index < 0 || (*jvmti)->GetLineNumberTable(jvmti, method, &count, &table) != JVMTI_ERROR_NONE) return 0;
    uint32_t line = 0;
    jlocation best = -1;
    for (jint row = 0; row < count; row++) {
        if (table[row].start_location > index || table[row].start_location < best) continue;
        best = table[row].start_location;
        line = (uint32_t)table[row].line_number;
    }
    sampler_free(jvmti, table);
    return line;
}

/* Words of a method that no longer can be asked. */
static uint32_t sampler_unknown_frame(const char *words) {
    Text function = { 0 };
    Text file = { 0 };
    text_put(&function, words);
    pthread_mutex_lock(&session.lock);
    uint32_t frame = call_paths_add_frame(&session.paths, (uint64_t)(uintptr_t)words, -2, &function, &file, 0);
    pthread_mutex_unlock(&session.lock);
    text_free(&function);
    return frame;
}

static uint32_t sampler_add_frame(const jvmtiFrameInfo *at, const char *signature, const char *source, const char *method, uint32_t line) {
    uint64_t place = (uint64_t)(uintptr_t)at->method;
    if (names_is_connector(signature, method)) {
        pthread_mutex_lock(&session.lock);
        if (call_paths_known_frame(&session.paths, place, at->location) == ID_NONE) id_map_put(&session.paths.frame_by_place, place, (uint64_t)at->location, CONNECTOR);
        pthread_mutex_unlock(&session.lock);
        return CONNECTOR;
    }
    Text function = { 0 };
    Text file = { 0 };
    names_method(&function, signature, method);
    names_file(&file, signature, source);
    pthread_mutex_lock(&session.lock);
    uint32_t frame = call_paths_add_frame(&session.paths, place, at->location, &function, &file, line);
    pthread_mutex_unlock(&session.lock);
    text_free(&function);
    text_free(&file);
    return frame;
}

/* Asks the JVM for a frame's names, which it may not know any more once the class is unloaded. */
static uint32_t sampler_resolve(jvmtiEnv *jvmti, JNIEnv *jni, const jvmtiFrameInfo *at) {
    jclass owner = NULL;
    char *signature = NULL;
    char *source = NULL;
    char *method = NULL;
    uint32_t frame = ID_NONE;
    if ((*jvmti)->GetMethodDeclaringClass(jvmti, at->method, &owner) == JVMTI_ERROR_NONE
        && (*jvmti)->GetClassSignature(jvmti, owner, &signature, NULL) == JVMTI_ERROR_NONE
        && (*jvmti)->GetMethodName(jvmti, at->method, &method, NULL, NULL) == JVMTI_ERROR_NONE) {
        if ((*jvmti)->GetSourceFileName(jvmti, owner, &source) != JVMTI_ERROR_NONE) source = NULL;
        frame = sampler_add_frame(at, signature, source, method, sampler_line(jvmti, at->method, at->location));
    } else frame = sampler_unknown_frame("(a method that was unloaded)");
    if (owner != NULL) (*jni)->DeleteLocalRef(jni, owner);
    sampler_free(jvmti, signature);
    sampler_free(jvmti, source);
    sampler_free(jvmti, method);
    return frame;
}

/* The path of frames that the JVM gave, the allocating one first. `cut` when it is deeper than what was asked for. */
static uint32_t sampler_path(jvmtiEnv *jvmti, JNIEnv *jni, const jvmtiFrameInfo *frames, jint count, bool cut) {
    uint32_t ids[MOST_DEPTH];
    pthread_mutex_lock(&session.lock);
    for (jint at = 0; at < count; at++) ids[at] = call_paths_known_frame(&session.paths, (uint64_t)(uintptr_t)frames[at].method, frames[at].location);
    pthread_mutex_unlock(&session.lock);
    for (jint at = 0; at < count; at++) if (ids[at] == ID_NONE) ids[at] = sampler_resolve(jvmti, jni, &frames[at]);
    uint32_t root = cut ? sampler_unknown_frame("(further frames left out)") : ID_NONE;
    uint32_t path = ID_NONE;
    pthread_mutex_lock(&session.lock);
    if (root != ID_NONE) path = call_paths_child(&session.paths, path, root);
    for (jint at = count - 1; at >= 0; at--) {
        if (ids[at] != ID_NONE && ids[at] != CONNECTOR) path = call_paths_child(&session.paths, path, ids[at]);
    }
    pthread_mutex_unlock(&session.lock);
    if (path != ID_NONE) return path;
    uint32_t none = sampler_unknown_frame("(in the runtime, no Java frame)");
    pthread_mutex_lock(&session.lock);
    if (none != ID_NONE) path = call_paths_child(&session.paths, ID_NONE, none);
    pthread_mutex_unlock(&session.lock);
    return path;
}

static uint32_t sampler_type(jvmtiEnv *jvmti, jclass klass) {
    char *signature = NULL;
    if ((*jvmti)->GetClassSignature(jvmti, klass, &signature, NULL) != JVMTI_ERROR_NONE) return ID_NONE;
    Text name = { 0 };
    names_type(&name, signature);
    sampler_free(jvmti, signature);
    uint32_t id = ID_NONE;
    if (!name.failed) {
        pthread_mutex_lock(&session.lock);
        id = word_table_id(&session.types, name.bytes, name.length);
        pthread_mutex_unlock(&session.lock);
    }
    text_free(&name);
    return id;
}

static uint32_t sampler_thread_word(const char *name) {
    pthread_mutex_lock(&session.lock);
    uint32_t id = word_table_id(&session.threads, name, strlen(name));
    pthread_mutex_unlock(&session.lock);
    return id;
}

static uint32_t sampler_thread(jvmtiEnv *jvmti, JNIEnv *jni, jthread thread) {
    if (virtual_thread != NULL && (*jni)->IsInstanceOf(jni, thread, virtual_thread)) return sampler_thread_word("(virtual threads)");
    if (mine.name != ID_NONE) return mine.name;
    jvmtiThreadInfo info = { 0 };
    if ((*jvmti)->GetThreadInfo(jvmti, thread, &info) != JVMTI_ERROR_NONE) return sampler_thread_word("(unnamed)");
    mine.name = sampler_thread_word(info.name != NULL && info.name[0] != '\0' ? info.name : "(unnamed)");
    sampler_free(jvmti, info.name);
    if (info.thread_group != NULL) (*jni)->DeleteLocalRef(jni, info.thread_group);
    if (info.context_class_loader != NULL) (*jni)->DeleteLocalRef(jni, info.context_class_loader);
    return mine.name;
}

static void sampler_take(jvmtiEnv *jvmti, JNIEnv *jni, jthread thread, jobject object, jclass klass, jlong size) {
    Birth birth = { .at_ns = session_now_ns(), .size_bytes = size, .interval_bytes = atomic_load(&session.interval_bytes) };
    jvmtiFrameInfo frames[MOST_DEPTH];
    jint count = 0;
    jint deeper = 0;
    jint depth = session.options.depth;
    if ((*jvmti)->GetStackTrace(jvmti, NULL, 0, depth, frames, &count) != JVMTI_ERROR_NONE) count = 0;
    bool cut = count == depth && (*jvmti)->GetFrameCount(jvmti, NULL, &deeper) == JVMTI_ERROR_NONE && deeper > depth;
    birth.path = sampler_path(jvmti, jni, frames, count, cut);
    birth.type = sampler_type(jvmti, klass);
    birth.thread = sampler_thread(jvmti, jni, thread);
    birth.id = atomic_fetch_add(&session.next_id, 1);
    bool followed = birth.path != ID_NONE && birth.type != ID_NONE && birth.thread != ID_NONE
        && (*jvmti)->SetTag(jvmti, object, birth.id) == JVMTI_ERROR_NONE;
    pthread_mutex_lock(&session.lock);
    /* One that was taken while the recorder started over belongs to neither side. */
    bool wanted = birth.id >= atomic_load(&session.first_id);
    if (wanted && (!followed || !events_add_birth(&session.events, birth))) session.lost++;
    pthread_mutex_unlock(&session.lock);
}

/* A uniform number in [0, 1): xorshift64* (Vigna 2016), one generator a thread. */
static double sampler_random(void) {
    if (mine.random == 0) mine.random = (uint64_t)session_clock_ns() ^ (uint64_t)(uintptr_t)&mine ^ 0x9E3779B97F4A7C15u;
    mine.random ^= mine.random >> 12;
    mine.random ^= mine.random << 25;
    mine.random ^= mine.random >> 27;
    return (double)(mine.random * 0x2545F4914F6CDD1Du >> 11) * 0x1p-53;
}

/*
 * Whether a sample that the JVM hands out is kept. The JVM draws with mean distance B, so it sees an object of size s with
 * probability 1 − e^(−s/B); kept with the quotient of the two, it counts as drawn with the recording's own interval I:
 * 1 − e^(−s/I). Drawn by the JVM with I alone, large objects would come up short and what follows them too often, since
 * HotSpot compares an object outside a thread's buffer without what that buffer took since its last sample.
 */
static bool sampler_keeps(jlong size) {
    unsigned generation = atomic_load(&session.generation);
    int64_t base_bytes = atomic_load(&session.base_bytes);
    if (mine.generation != generation) {
        mine.generation = generation;
        mine.name = ID_NONE;
        mine.drawn_bytes = base_bytes;
    }
    double interval_bytes = (double)atomic_load(&session.interval_bytes);
    double drawn_bytes = (double)mine.drawn_bytes;
    /* The distance to this thread's next sample is drawn when the callback returns. */
    mine.drawn_bytes = base_bytes;
    if (drawn_bytes >= interval_bytes) return true;
    return sampler_random() * expm1(-(double)size / drawn_bytes) > expm1(-(double)size / interval_bytes);
}

void JNICALL sampler_on_birth(jvmtiEnv *jvmti, JNIEnv *jni, jthread thread, jobject object, jclass klass, jlong size) {
    if (mine.priming) {
        mine.priming = false;
        return;
    }
    if (mine.inside || atomic_load(&session.state) != SESSION_RUNNING || !atomic_load(&session.births)) return;
    if (!sampler_keeps(size)) return;
    mine.inside = true;
    atomic_fetch_add(&session.busy, 1);
    int64_t before_ns = session_clock_ns();
    /* Asked again: the tables are only emptied while nobody is counted as busy. */
    if (atomic_load(&session.state) == SESSION_RUNNING) sampler_take(jvmti, jni, thread, object, klass, size);
    atomic_fetch_add(&session.callback_ns, session_clock_ns() - before_ns);
    atomic_fetch_sub(&session.busy, 1);
    mine.inside = false;
}

void JNICALL sampler_on_death(jvmtiEnv *jvmti, jlong tag) {
    (void)jvmti;
    if (tag < atomic_load(&session.first_id)) return;
    Death death = { tag, collections_noticed_ns() };
    pthread_mutex_lock(&session.lock);
    if (atomic_load(&session.state) != SESSION_IDLE && !events_add_death(&session.events, death)) session.lost++;
    pthread_mutex_unlock(&session.lock);
}
