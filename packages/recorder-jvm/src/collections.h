/* When the collector stopped the program, as its callbacks tell: times only, kinds come from its log or its beans. */
#ifndef HERON_COLLECTIONS_H
#define HERON_COLLECTIONS_H

#include <jvmti.h>

#include "session.h"

void JNICALL collections_on_start(jvmtiEnv *jvmti);
void JNICALL collections_on_finish(jvmtiEnv *jvmti);

/* Appends the records since the last call to the `held` ones in `records` (SESSION_MOST_GCS in all); answers how many there are now. */
int collections_take(GcRecord *records, int held, int64_t *last_finish_ns, uint64_t *dropped);

/*
 * When an object that is reported dead now was noticed: at the end of the last collection when that was just now, for the
 * JVM reports a few milliseconds later; else now, since a concurrent phase has found it at some time until now.
 */
int64_t collections_noticed_ns(void);

#endif
