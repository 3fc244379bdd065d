/* Keeps the recorder's cost within a stated share: of the program's CPU time by the sampling interval, of time by the pace of forced collections. */
#ifndef HERON_PACE_H
#define HERON_PACE_H

#include <stdint.h>

typedef struct {
    int64_t least_bytes; /* the interval asked for: it never goes below */
    int64_t cost_ppm; /* most of the CPU time, in millionths; 0 never adapts */
    int64_t interval_bytes; /* in force */
    int64_t own_ns, program_ns; /* CPU times at the last look */
    int32_t calm; /* looks in a row at which half the interval would still have been within the cost */
} Pace;

/* Mean distance of the samples that the JVM hands out, so that those kept, `interval_bytes` apart, are drawn fairly. */
int64_t pace_base(int64_t interval_bytes);

void pace_init(Pace *pace, int64_t least_bytes, int64_t cost_ppm);

/*
 * One look, about a second after the last, at the recorder's own and the whole process's CPU time so far. Answers the
 * interval from now on: doubled as often as the cost asks for at once, halved after five calm looks.
 */
int64_t pace_look(Pace *pace, int64_t own_ns, int64_t program_ns);

#define FLOOR_COSTS 3

typedef struct {
    int64_t every_ns; /* 0 never forces any */
    int64_t next_ns; /* when to force the next collection */
    int64_t took_ns[FLOOR_COSTS]; /* the last ones, the oldest first */
    int count;
} FloorPace;

void floor_pace_init(FloorPace *pace, int64_t every_ns);

/*
 * A forced collection took so long and has ended at `now_ns`. The next is due after `every_ns`, and never sooner than a
 * fiftieth of the time allows. The lower median of the last three counts, so that one that met a machine that stood still
 * leaves the floor unknown for no minutes.
 */
void floor_pace_spent(FloorPace *pace, int64_t now_ns, int64_t took_ns);

#endif
