#include "force.h"

#include <pthread.h>

#include "session.h"

/* One at a time: a collection is the recorder's own while `forcing` is set, and threads of the program may ask as well. */
static pthread_mutex_t force_alone = PTHREAD_MUTEX_INITIALIZER;

void force_begin(void) {
    pthread_mutex_lock(&force_alone);
    atomic_store(&session.forcing, true);
}

void force_end(void) {
    atomic_store(&session.forcing, false);
    pthread_mutex_unlock(&force_alone);
}

void force_collect(void) {
    jvmtiEnv *jvmti = session.jvmti;
    force_begin();
    if ((*jvmti)->ForceGarbageCollection(jvmti) != JVMTI_ERROR_NONE) session_note("not-collected", "the JVM would not collect");
    force_end();
}
