#include "census.h"

#include <jvmti.h>

#include "force.h"
#include "session.h"

/* How long the JVM gets to report the last deaths. */
#define SETTLE_NS 100000000

static jint JNICALL census_count(jlong class_tag, jlong size, jlong *tag, jint length, void *counted) {
    (void)class_tag;
    (void)size;
    (void)length;
    if (*tag >= atomic_load(&session.first_id)) (*(uint64_t *)counted)++;
    return 0;
}

int64_t census_take(void) {
    jvmtiEnv *jvmti = session.jvmti;
    jvmtiHeapCallbacks callbacks = { .heap_iteration_callback = census_count };
    uint64_t counted = 0;
    force_collect();
    session_pause(SETTLE_NS);
    if ((*jvmti)->IterateThroughHeap(jvmti, JVMTI_HEAP_FILTER_UNTAGGED, NULL, &callbacks, &counted) != JVMTI_ERROR_NONE) return -1;
    session_pause(SETTLE_NS);
    return (int64_t)counted;
}
