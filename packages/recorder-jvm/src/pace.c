#include "pace.h"

#define MOST_INTERVAL ((int64_t)64 << 20)
#define CALM_LOOKS 5
/*
 * Below the least, handing out costs more than fairness gains; above the most, an object of some 100 KiB comes up short by
 * over 3 % (docs/recording-jvm.md has the figures). Handing out takes about 0.3 us a sample: 0.5 % of a core for each GB/s.
 */
#define LEAST_BASE 16384
#define MOST_BASE 65536
#define BASE_RATIO 16
/* Less CPU time than this between two looks says nothing of a share. */
#define LEAST_PROGRAM_NS 50000000
/* Forced collections take at most one part of so many of the time. */
#define FLOOR_SHARE 50

int64_t pace_base(int64_t interval_bytes) {
    int64_t base = interval_bytes / BASE_RATIO > LEAST_BASE ? interval_bytes / BASE_RATIO : LEAST_BASE;
    if (base > MOST_BASE) base = MOST_BASE;
    return base < interval_bytes ? base : interval_bytes;
}

void pace_init(Pace *pace, int64_t least_bytes, int64_t cost_ppm) {
    *pace = (Pace){ .least_bytes = least_bytes, .cost_ppm = cost_ppm, .interval_bytes = least_bytes };
}

int64_t pace_look(Pace *pace, int64_t own_ns, int64_t program_ns) {
    int64_t own = own_ns - pace->own_ns;
    int64_t program = program_ns - pace->program_ns;
    pace->own_ns = own_ns;
    pace->program_ns = program_ns;
    if (pace->cost_ppm == 0 || program < LEAST_PROGRAM_NS) return pace->interval_bytes;
    int64_t ppm = (int64_t)((double)own / (double)program * 1e6);
    if (ppm > pace->cost_ppm) {
        pace->calm = 0;
        while (ppm > pace->cost_ppm && pace->interval_bytes < MOST_INTERVAL) {
            pace->interval_bytes *= 2;
            ppm /= 2;
        }
        return pace->interval_bytes;
    }
    /* Half the interval costs twice as much; a quarter is left between the two so that it does not swing. */
    pace->calm = ppm * 8 < pace->cost_ppm * 3 ? pace->calm + 1 : 0;
    if (pace->calm >= CALM_LOOKS && pace->interval_bytes > pace->least_bytes) {
        pace->calm = 0;
        pace->interval_bytes /= 2;
        if (pace->interval_bytes < pace->least_bytes) pace->interval_bytes = pace->least_bytes;
    }
    return pace->interval_bytes;
}

void floor_pace_init(FloorPace *pace, int64_t every_ns) {
    *pace = (FloorPace){ .every_ns = every_ns, .next_ns = every_ns };
}

static int64_t floor_lower_median(const FloorPace *pace) {
    const int64_t *took = pace->took_ns;
    if (pace->count < FLOOR_COSTS) return pace->count == 2 && took[1] < took[0] ? took[1] : took[0];
    int64_t low = took[0] < took[1] ? took[0] : took[1];
    int64_t high = took[0] < took[1] ? took[1] : took[0];
    return took[2] < low ? low : took[2] < high ? took[2] : high;
}

void floor_pace_spent(FloorPace *pace, int64_t now_ns, int64_t took_ns) {
    if (pace->count == FLOOR_COSTS) {
        for (int at = 1; at < FLOOR_COSTS; at++) pace->took_ns[at - 1] = pace->took_ns[at];
        pace->count--;
    }
    pace->took_ns[pace->count++] = took_ns;
    int64_t least_ns = floor_lower_median(pace) * FLOOR_SHARE;
    pace->next_ns = now_ns + (least_ns > pace->every_ns ? least_ns : pace->every_ns);
}
