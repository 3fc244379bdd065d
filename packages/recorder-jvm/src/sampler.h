/* Sampled births with their call path, and deaths: the JVM's callbacks on the program's own threads. */
#ifndef HERON_SAMPLER_H
#define HERON_SAMPLER_H

#include <jvmti.h>
#include <stdbool.h>

void JNICALL sampler_on_birth(jvmtiEnv *jvmti, JNIEnv *jni, jthread thread, jobject object, jclass klass, jlong size);
void JNICALL sampler_on_death(jvmtiEnv *jvmti, jlong tag);

/* The calling thread is the recorder's own: what it allocates is not the program's. */
void sampler_exclude_this_thread(void);

/* True on that thread. */
bool sampler_leaves_this_thread_out(void);

/*
 * Allocates garbage until the JVM hands out a sample of the calling thread. HotSpot draws the distance to a thread's first sample when the
 * thread is made; of one older than the recording, with its own wide interval, so that half a mebibyte and more went unseen.
 */
void sampler_prime_this_thread(JNIEnv *jni);

/* Learns what virtual threads are in this JVM, if it has any. */
void sampler_find_virtual_threads(JNIEnv *jni);

#endif
