/* The recorder's own thread: turns what the callbacks gathered into lines of the stream, and does what is asked of it. */
#ifndef HERON_RECORDER_H
#define HERON_RECORDER_H

#include <jvmti.h>
#include <stdbool.h>

/*
 * Begins a recording with the session's options: opens the file and starts the thread that says hello. Answers false with
 * a message in `problem` (OPTIONS_TEXT bytes). Only from the live phase, and only while the session is idle.
 */
bool recorder_start(JNIEnv *jni, bool attached, char *problem);

/* Ends the recording and waits, a few seconds at most, until everything is written. */
void recorder_end(const char *reason);

/* Writes a note at once, from whatever thread. */
void recorder_tell_now(const char *code, const char *message);

/* The JVM's last words: what its log gained since the end. Plain computing, callable when nothing of the JVM is left. */
void recorder_drain_log(void);

#endif
