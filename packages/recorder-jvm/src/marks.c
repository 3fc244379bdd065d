#include "marks.h"

#include <string.h>
#include <time.h>

#include "force.h"
#include "session.h"

/* A mark that is older than this when it arrives was not on its way all the time: the clocks differ. */
#define MOST_LATE_MS 60000

/* How long ago a time of the wall clock was; 0 when that is no sensible answer. */
static int64_t marks_ago_ns(int64_t epoch_ms) {
    struct timespec now;
    if (epoch_ms < 0 || clock_gettime(CLOCK_REALTIME, &now) != 0) return 0;
    int64_t ago_ms = (int64_t)now.tv_sec * 1000 + now.tv_nsec / 1000000 - epoch_ms;
    return ago_ms > 0 && ago_ms <= MOST_LATE_MS ? ago_ms * 1000000 : 0;
}

void marks_tell(int64_t epoch_ms, const char *label, size_t length, const char *by) {
    int64_t at_ns = session_now_ns() - marks_ago_ns(epoch_ms);
    session_mark(at_ns > 0 ? at_ns : 0, label, length, by);
    const char *wanted = session.options.inventory_mark;
    if (wanted[0] != '\0' && strlen(wanted) == length && memcmp(wanted, label, length) == 0) {
        atomic_store(&session.inventory_wish, true);
        sem_post(&session.wake);
    }
    if (session.options.at_marks && atomic_load(&session.state) == SESSION_RUNNING) force_collect();
}
