#include "session.h"

#include <string.h>
#include <time.h>

Session session = { .lock = PTHREAD_MUTEX_INITIALIZER, .gc_lock = PTHREAD_MUTEX_INITIALIZER, .next_id = 1 };

int64_t session_clock_ns(void) {
    jlong now = 0;
    (*session.jvmti)->GetTime(session.jvmti, &now);
    return (int64_t)now;
}

int64_t session_now_ns(void) {
    return session_clock_ns() - atomic_load(&session.zero_ns);
}

void session_pause(long ns) {
    struct timespec pause = { .tv_nsec = ns };
    nanosleep(&pause, NULL);
}

static void session_say(const char *kind, int64_t now_ns) {
    text_put(&session.said, "{\"k\":\"");
    text_put(&session.said, kind);
    text_put(&session.said, "\",\"h\":\"");
    text_put(&session.said, session.heap);
    text_put(&session.said, "\",\"t\":");
    text_put_ms(&session.said, now_ns);
}

void session_mark(int64_t at_ns, const char *label, size_t length, const char *by) {
    pthread_mutex_lock(&session.lock);
    session_say("mark", at_ns);
    text_put(&session.said, ",\"label\":\"");
    text_add(&session.said, label, length);
    text_put(&session.said, "\",\"by\":\"");
    text_put(&session.said, by);
    text_put(&session.said, "\"}\n");
    pthread_mutex_unlock(&session.lock);
}

void session_note(const char *code, const char *message) {
    int64_t now_ns = session_now_ns();
    pthread_mutex_lock(&session.lock);
    session_say("note", now_ns);
    text_put(&session.said, ",\"code\":\"");
    text_put(&session.said, code);
    text_put(&session.said, "\",\"message\":");
    text_put_json(&session.said, message, strlen(message), 4000);
    text_put(&session.said, "}\n");
    pthread_mutex_unlock(&session.lock);
}
