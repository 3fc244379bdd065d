/* Entry points of the JVM TI agent: loaded with the program, or into one that runs. */
#include <jvmti.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "births.h"
#include "collections.h"
#include "marks.h"
#include "recorder.h"
#include "sampler.h"
#include "session.h"

/* Position of can_support_virtual_threads in jvmtiCapabilities, which headers before JDK 21 do not name. */
#define VIRTUAL_THREADS_BIT 44
/* A thread that found the heap full waits for an inventory no longer. */
#define MOST_INVENTORY_MS 600000
#define INVENTORY_STEP_MS 10
/* Return values of Agent_OnAttach that say more than "failed". */
#define ATTACH_BAD_OPTIONS 101
#define ATTACH_REFUSED 102
#define ATTACH_RUNNING 103

static bool loaded; /* the library has its environment */

static void agent_complain(const char *problem) {
    fprintf(stderr, "brisk-heron: this JVM is not recorded: %s\n", problem);
}

static void agent_add_virtual_threads(jvmtiEnv *jvmti, jvmtiCapabilities *wanted) {
    jvmtiCapabilities possible = { 0 };
    if ((*jvmti)->GetPotentialCapabilities(jvmti, &possible) != JVMTI_ERROR_NONE) return;
    const unsigned char *from = (const unsigned char *)&possible;
    unsigned char *into = (unsigned char *)wanted;
    into[VIRTUAL_THREADS_BIT / 8] |= from[VIRTUAL_THREADS_BIT / 8] & (unsigned char)(1u << VIRTUAL_THREADS_BIT % 8);
}

static void JNICALL agent_on_vm_init(jvmtiEnv *jvmti, JNIEnv *jni, jthread thread) {
    (void)jvmti;
    (void)thread;
    char problem[OPTIONS_TEXT];
    if (!recorder_start(jni, false, problem)) agent_complain(problem);
}

static void JNICALL agent_on_vm_death(jvmtiEnv *jvmti, JNIEnv *jni) {
    (void)jvmti;
    (void)jni;
    recorder_end("exit");
}

/* What a thread was about to fill the heap with is to be in the inventory: it waits until that was taken, or could not be. */
static void agent_wait_for_inventory(void) {
    for (int64_t waited_ms = 0; waited_ms < MOST_INVENTORY_MS; waited_ms += INVENTORY_STEP_MS) {
        if (atomic_load(&session.exhausted) != EXHAUSTED_WISHED || atomic_load(&session.state) != SESSION_RUNNING) return;
        session_pause(INVENTORY_STEP_MS * 1000000);
    }
}

/*
 * The heap could not give what a thread asked for: told once, and written at once by the thread itself. A JVM whose heap is full may end without
 * saying so, and the recorder's own thread needs memory to read sizes.
 */
static void JNICALL agent_on_exhausted(jvmtiEnv *jvmti, JNIEnv *jni, jint flags, const void *reserved, const char *description) {
    (void)jvmti;
    (void)jni;
    (void)reserved;
    if (!(flags & JVMTI_RESOURCE_EXHAUSTED_JAVA_HEAP) || atomic_load(&session.state) != SESSION_RUNNING) return;
    int not_yet = EXHAUSTED_NOT;
    if (atomic_compare_exchange_strong(&session.exhausted, &not_yet, session.options.inventory_at_end ? EXHAUSTED_WISHED : EXHAUSTED_DONE)) {
        recorder_tell_now("out-of-memory", description == NULL ? "the heap had no more memory to give" : description);
        sem_post(&session.wake);
    }
    /* The recorder's own thread is the one that takes it: it goes on. */
    if (!sampler_leaves_this_thread_out()) agent_wait_for_inventory();
}

/* Gets the environment, its capabilities and callbacks; false with a message when this JVM cannot be recorded. */
static bool agent_load(JavaVM *vm, char *problem) {
    if (loaded) return true;
    if ((*vm)->GetEnv(vm, (void **)&session.jvmti, JVMTI_VERSION_11) != JNI_OK) {
        snprintf(problem, OPTIONS_TEXT, "expected a JVM of JDK 11 or newer with JVM TI");
        return false;
    }
    jvmtiEnv *jvmti = session.jvmti;
    jvmtiCapabilities wanted = {
        .can_tag_objects = 1, .can_generate_object_free_events = 1, .can_generate_garbage_collection_events = 1,
        .can_generate_sampled_object_alloc_events = 1, .can_get_line_numbers = 1, .can_get_source_file_name = 1,
    };
    agent_add_virtual_threads(jvmti, &wanted);
    jvmtiEventCallbacks callbacks = {
        .VMInit = agent_on_vm_init, .VMDeath = agent_on_vm_death, .SampledObjectAlloc = sampler_on_birth, .ObjectFree = sampler_on_death,
        .GarbageCollectionStart = collections_on_start, .GarbageCollectionFinish = collections_on_finish, .ResourceExhausted = agent_on_exhausted,
    };
    jvmtiError error = (*jvmti)->AddCapabilities(jvmti, &wanted);
    if (error == JVMTI_ERROR_NONE) error = (*jvmti)->SetEventCallbacks(jvmti, &callbacks, sizeof callbacks);
    if (error == JVMTI_ERROR_NONE) error = (*jvmti)->SetEventNotificationMode(jvmti, JVMTI_ENABLE, JVMTI_EVENT_VM_DEATH, NULL);
    /* A recording does without this one where a JVM has it not. */
    jvmtiCapabilities exhausted = { .can_generate_resource_exhaustion_heap_events = 1 };
    if (error == JVMTI_ERROR_NONE && (*jvmti)->AddCapabilities(jvmti, &exhausted) == JVMTI_ERROR_NONE) {
        (void)(*jvmti)->SetEventNotificationMode(jvmti, JVMTI_ENABLE, JVMTI_EVENT_RESOURCE_EXHAUSTED, NULL);
    }
    if (error != JVMTI_ERROR_NONE || sem_init(&session.wake, 0, 0) != 0 || sem_init(&session.ended, 0, 0) != 0) {
        snprintf(problem, OPTIONS_TEXT, "it does not give what a recording needs (JVM TI error %d); another agent may sample allocations already", (int)error);
        (*jvmti)->DisposeEnvironment(jvmti);
        session.jvmti = NULL;
        return false;
    }
    loaded = true;
    return true;
}

JNIEXPORT jint JNICALL Agent_OnLoad(JavaVM *vm, char *options, void *reserved) {
    (void)reserved;
    char problem[OPTIONS_TEXT];
    bool ready = options_read(&session.options, options, problem) && agent_load(vm, problem);
    if (ready) ready = (*session.jvmti)->SetEventNotificationMode(session.jvmti, JVMTI_ENABLE, JVMTI_EVENT_VM_INIT, NULL) == JVMTI_ERROR_NONE;
    /* A recorder that cannot work leaves the program alone. */
    if (!ready) agent_complain(problem);
    return JNI_OK;
}

JNIEXPORT jint JNICALL Agent_OnAttach(JavaVM *vm, char *options, void *reserved) {
    (void)reserved;
    char problem[OPTIONS_TEXT];
    JNIEnv *jni = NULL;
    if ((*vm)->GetEnv(vm, (void **)&jni, JNI_VERSION_1_8) != JNI_OK) return ATTACH_REFUSED;
    if (loaded && atomic_load(&session.state) != SESSION_IDLE) return ATTACH_RUNNING;
    if (!options_read(&session.options, options, problem)) {
        agent_complain(problem);
        return ATTACH_BAD_OPTIONS;
    }
    if (agent_load(vm, problem) && recorder_start(jni, true, problem)) return JNI_OK;
    agent_complain(problem);
    return ATTACH_REFUSED;
}

JNIEXPORT void JNICALL Agent_OnUnload(JavaVM *vm) {
    (void)vm;
    recorder_drain_log();
}

/* briskheron.Marks.tell(String): found by its name while the agent is loaded. */
JNIEXPORT void JNICALL Java_briskheron_Marks_tell(JNIEnv *jni, jclass owner, jstring label);
JNIEXPORT void JNICALL Java_briskheron_Marks_tell(JNIEnv *jni, jclass owner, jstring label) {
    (void)owner;
    if (label == NULL || !loaded || atomic_load(&session.state) != SESSION_RUNNING) return;
    const char *bytes = (*jni)->GetStringUTFChars(jni, label, NULL);
    if (bytes == NULL) return;
    Text quoted = { 0 };
    text_put_json(&quoted, bytes, strlen(bytes), 200);
    (*jni)->ReleaseStringUTFChars(jni, label, bytes);
    if (!quoted.failed) marks_tell(-1, quoted.bytes + 1, quoted.length - 2, "program");
    text_free(&quoted);
}

/* briskheron.Births.switchTo(boolean) and forget() likewise. */
JNIEXPORT void JNICALL Java_briskheron_Births_switchTo(JNIEnv *jni, jclass owner, jboolean on);
JNIEXPORT void JNICALL Java_briskheron_Births_switchTo(JNIEnv *jni, jclass owner, jboolean on) {
    (void)jni;
    (void)owner;
    if (loaded) births_switch(on == JNI_TRUE);
}

JNIEXPORT void JNICALL Java_briskheron_Births_forget(JNIEnv *jni, jclass owner);
JNIEXPORT void JNICALL Java_briskheron_Births_forget(JNIEnv *jni, jclass owner) {
    (void)jni;
    (void)owner;
    if (loaded && atomic_load(&session.state) == SESSION_RUNNING) births_ask_to_start_over();
}
