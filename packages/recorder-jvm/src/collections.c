#include "collections.h"

#include <string.h>

/* The JVM's service thread reports deaths within a few milliseconds of the collection; this much later at most. */
#define REPORT_NS 100000000

void JNICALL collections_on_start(jvmtiEnv *jvmti) {
    (void)jvmti;
    int64_t now_ns = session_now_ns();
    pthread_mutex_lock(&session.gc_lock);
    session.gc_started_ns = now_ns;
    pthread_mutex_unlock(&session.gc_lock);
}

void JNICALL collections_on_finish(jvmtiEnv *jvmti) {
    (void)jvmti;
    int64_t now_ns = session_now_ns();
    pthread_mutex_lock(&session.gc_lock);
    if (session.gc_count < SESSION_MOST_GCS) {
        session.gcs[session.gc_count++] = (GcRecord){ session.gc_started_ns, now_ns, atomic_load(&session.forcing) };
    } else session.gc_dropped++;
    session.gc_last_finish_ns = now_ns;
    pthread_mutex_unlock(&session.gc_lock);
    sem_post(&session.wake);
}

int collections_take(GcRecord *records, int held, int64_t *last_finish_ns, uint64_t *dropped) {
    pthread_mutex_lock(&session.gc_lock);
    int room = SESSION_MOST_GCS - held;
    int count = session.gc_count < room ? session.gc_count : room;
    memcpy(records + held, session.gcs, (size_t)count * sizeof *records);
    session.gc_dropped += (uint64_t)(session.gc_count - count);
    session.gc_count = 0;
    *last_finish_ns = session.gc_last_finish_ns;
    *dropped = session.gc_dropped;
    session.gc_dropped = 0;
    pthread_mutex_unlock(&session.gc_lock);
    return held + count;
}

int64_t collections_noticed_ns(void) {
    int64_t now_ns = session_now_ns();
    pthread_mutex_lock(&session.gc_lock);
    int64_t last_ns = session.gc_last_finish_ns;
    pthread_mutex_unlock(&session.gc_lock);
    return last_ns > 0 && now_ns - last_ns < REPORT_NS ? last_ns : now_ns;
}
