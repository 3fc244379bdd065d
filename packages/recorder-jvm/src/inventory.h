/* An inventory: the JVM's own heap dump, with the sampled objects tied into it. */
#ifndef HERON_INVENTORY_H
#define HERON_INVENTORY_H

#include <jni.h>
#include <stdbool.h>
#include <stdint.h>

/*
 * Has the JVM write every object of its heap to a file beside `out`, readable by its owner only:
 * OUT.inventory-HEAP-T-MS.hprof, T the milliseconds from the hello at which it was begun and MS how long that took. The
 * name is there once the file is whole. What goes wrong is noted in the stream. Unless `insist`, it is refused where the
 * disk would not take twice the `used_bytes` of the heap (−1 when not known). Blocks until it is done; the program
 * stands still for most of that.
 */
void inventory_take(JNIEnv *jni, const char *out, int64_t used_bytes, bool insist);

/*
 * Makes what a dump beside `out` takes ahead, half a mebibyte of it in the heap: where that is full then, there is no room
 * for any of it. Once for each recording, from a thread that may run Java.
 */
void inventory_prepare(JNIEnv *jni, const char *out);

#endif
