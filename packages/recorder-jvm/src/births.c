#include "births.h"

#include <string.h>

#include "lines.h"
#include "session.h"

/* One switch at a time, so that what is told comes in the order it happened. */
static pthread_mutex_t births_alone = PTHREAD_MUTEX_INITIALIZER;
static atomic_bool births_wish;

static void births_say(const char *kind) {
    int64_t now_ns = session_now_ns();
    pthread_mutex_lock(&session.lock);
    lines_phase(&session.said, session.heap, now_ns, kind);
    pthread_mutex_unlock(&session.lock);
}

void births_switch(bool on) {
    jvmtiEnv *jvmti = session.jvmti;
    pthread_mutex_lock(&births_alone);
    if (atomic_load(&session.state) == SESSION_RUNNING && atomic_load(&session.births) != on) {
        if ((*jvmti)->SetEventNotificationMode(jvmti, on ? JVMTI_ENABLE : JVMTI_DISABLE, JVMTI_EVENT_SAMPLED_OBJECT_ALLOC, NULL) == JVMTI_ERROR_NONE) {
            atomic_store(&session.births, on);
            births_say(on ? "objects" : "deaths");
        } else session_note("births-not-switched", "the JVM would not switch the sampling of births");
    }
    pthread_mutex_unlock(&births_alone);
}

void births_ask_to_start_over(void) {
    atomic_store(&births_wish, true);
    sem_post(&session.wake);
}

bool births_take_wish(void) {
    return atomic_exchange(&births_wish, false);
}

/* Tags stay on the objects: deaths of those before `first_id` are not told. */
void births_start_over(const char *by) {
    const char *label = "start over";
    births_switch(true);
    int64_t now_ns = session_now_ns();
    pthread_mutex_lock(&session.lock);
    atomic_store(&session.first_id, atomic_load(&session.next_id));
    events_clear(&session.events);
    lines_phase(&session.said, session.heap, now_ns, "blind");
    lines_phase(&session.said, session.heap, now_ns, "objects");
    pthread_mutex_unlock(&session.lock);
    session_mark(now_ns, label, strlen(label), by);
}
