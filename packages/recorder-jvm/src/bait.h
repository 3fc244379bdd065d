/* One tagged object that is garbage at once, laid out at every turn of the recorder's thread. */
#ifndef HERON_BAIT_H
#define HERON_BAIT_H

#include <jni.h>

/*
 * JDK 17 reports deaths by a thread that a collection wakes, and calls the report off when the next collection finds no
 * tagged object dead before that thread has run: on a busy machine deaths were told seconds late or, where nothing else
 * died, never. With this every collection finds one.
 */
void bait_lay(JNIEnv *jni);

#endif
