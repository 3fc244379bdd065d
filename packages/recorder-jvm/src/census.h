/* What of the sampled objects still lives. */
#ifndef HERON_CENSUS_H
#define HERON_CENSUS_H

#include <stdint.h>

/* Sampled objects in the heap after everything dead was collected; −1 when the JVM does not tell. */
int64_t census_take(void);

#endif
