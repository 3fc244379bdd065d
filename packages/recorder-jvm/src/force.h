/* Whole collections that the recorder itself asks for. */
#ifndef HERON_FORCE_H
#define HERON_FORCE_H

/* Collects now, in the calling thread, and returns when it is done. A JVM that would not is told in a note. */
void force_collect(void);

/* What the JVM collects in between is the recorder's own doing. */
void force_begin(void);
void force_end(void);

#endif
