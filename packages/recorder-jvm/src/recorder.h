/* The recorder's own thread: turns what the callbacks gathered into lines of the stream, and does what is asked of it. */
#ifndef HERON_RECORDER_H
#define HERON_RECORDER_H

#include <jvmti.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/*
 * Begins a recording with the session's options: opens the file and starts the thread that says hello. Answers false with
 * a message in `problem` (OPTIONS_TEXT bytes). Only from the live phase, and only while the session is idle.
 */
bool recorder_start(JNIEnv *jni, bool attached, char *problem);

/*
 * Tells a mark that was set at a time of the wall clock, −1 for now; when the options say so, forces a whole collection right after
 * it, in the calling thread.
 */
void recorder_mark(int64_t epoch_ms, const char *label, size_t length, const char *by);

/* Ends the recording and waits, a few seconds at most, until everything is written. */
void recorder_end(const char *reason);

/* The JVM's last words: what its log gained since the end. Plain computing, callable when nothing of the JVM is left. */
void recorder_drain_log(void);

#endif
