#include "inventory.h"

#include <errno.h>
#include <jvmti.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/statvfs.h>
#include <unistd.h>

#include "force.h"
#include "options.h"
#include "session.h"

/* A dump is about as large as the heap; the rest is for the disk to breathe. */
#define FILE_RATIO 2
/* Objects are looked up by their tags in a time that grows with the square of their number: of more, every so-many-th is taken. */
#define MOST_TIED 30000
/* "BriskHrn": how the array of ids begins. */
#define SIGN INT64_C(0x427269736b48726e)
#define SIGN_WORDS 2

typedef struct {
    jlong *tags;
    size_t room, count;
    bool failed;
} TagList;

static bool inventory_threw(JNIEnv *jni) {
    if (!(*jni)->ExceptionCheck(jni)) return false;
    (*jni)->ExceptionClear(jni);
    return true;
}

static jint JNICALL inventory_gather(jlong class_tag, jlong size, jlong *tag, jint length, void *into) {
    TagList *list = into;
    (void)class_tag;
    (void)size;
    (void)length;
    if (*tag < atomic_load(&session.first_id)) return 0;
    if (list->count == list->room) {
        size_t room = list->room == 0 ? 4096 : list->room * 2;
        jlong *grown = realloc(list->tags, room * sizeof *grown);
        if (grown == NULL) {
            list->failed = true;
            return JVMTI_VISIT_ABORT;
        }
        list->tags = grown;
        list->room = room;
    }
    list->tags[list->count++] = *tag;
    return 0;
}

/* Every so-many-th of the list, so that few enough are left; answers how many each stands for. */
static jlong inventory_thin(TagList *list) {
    size_t every = list->count / MOST_TIED + 1;
    size_t kept = 0;
    for (size_t at = 0; at < list->count; at += every) list->tags[kept++] = list->tags[at];
    list->count = kept;
    return (jlong)every;
}

/* What a dump takes, made while the heap has room: a full heap cannot even give the name of a file. */
static struct {
    jobject bean;
    jmethodID dump; /* (String, boolean): the runtime's own native way where it has one, for that allocates nothing */
    jobject name; /* of the file; NULL unless made ahead */
    jobject knot, list, ids; /* an Object[] of the other two: an Object[] and a long[] for MOST_TIED objects; NULL unless made ahead */
} prepared;

typedef struct {
    jobjectArray knot, list;
    jlongArray ids;
} Knot;

/* Local references to new arrays for so many objects; its `knot` is NULL, with nothing pending, where the heap has no room. */
static Knot inventory_new_knot(JNIEnv *jni, jint count) {
    Knot made = { 0 };
    jclass any = (*jni)->FindClass(jni, "java/lang/Object");
    made.list = any == NULL ? NULL : (*jni)->NewObjectArray(jni, count, any, NULL);
    made.ids = made.list == NULL ? NULL : (*jni)->NewLongArray(jni, count + SIGN_WORDS);
    jobjectArray knot = made.ids == NULL ? NULL : (*jni)->NewObjectArray(jni, 2, any, NULL);
    if (inventory_threw(jni) || knot == NULL) return made;
    (*jni)->SetObjectArrayElement(jni, knot, 0, made.list);
    (*jni)->SetObjectArrayElement(jni, knot, 1, made.ids);
    made.knot = knot;
    return made;
}

/* An Object[] of the objects and of the ids, with one global reference on it; NULL when that cannot be. */
static jobject inventory_knot(JNIEnv *jni, jobject *objects, const jlong *tags, jint count, jlong each) {
    bool ready = prepared.knot != NULL && count <= MOST_TIED;
    Knot to = ready ? (Knot){ prepared.knot, prepared.list, prepared.ids } : inventory_new_knot(jni, count);
    if (to.knot == NULL) return NULL;
    for (jint at = 0; at < count; at++) (*jni)->SetObjectArrayElement(jni, to.list, at, objects[at]);
    const jlong head[SIGN_WORDS] = { SIGN, each };
    (*jni)->SetLongArrayRegion(jni, to.ids, 0, SIGN_WORDS, head);
    (*jni)->SetLongArrayRegion(jni, to.ids, SIGN_WORDS, count, tags);
    return inventory_threw(jni) ? NULL : (*jni)->NewGlobalRef(jni, to.knot);
}

/* The recorder keeps nothing of the program alive: arrays that were made ahead are emptied. */
static void inventory_untie(JNIEnv *jni, jobject knot) {
    if (knot != NULL) (*jni)->DeleteGlobalRef(jni, knot);
    for (jint at = 0; prepared.list != NULL && at < MOST_TIED; at++) (*jni)->SetObjectArrayElement(jni, prepared.list, at, NULL);
}

/* Ties the sampled objects that live together; NULL where there are none, or memory is short: the dump is worth having all the same. */
static jobject inventory_tie(JNIEnv *jni) {
    jvmtiEnv *jvmti = session.jvmti;
    jvmtiHeapCallbacks callbacks = { .heap_iteration_callback = inventory_gather };
    TagList list = { 0 };
    jobject knot = NULL;
    jint count = 0;
    jobject *objects = NULL;
    jlong *tags = NULL;
    if ((*jvmti)->IterateThroughHeap(jvmti, JVMTI_HEAP_FILTER_UNTAGGED, NULL, &callbacks, &list) == JVMTI_ERROR_NONE && !list.failed && list.count > 0) {
        jlong each = inventory_thin(&list);
        if ((*jvmti)->GetObjectsWithTags(jvmti, (jint)list.count, list.tags, &count, &objects, &tags) == JVMTI_ERROR_NONE) {
            knot = inventory_knot(jni, objects, tags, count, each);
            for (jint at = 0; at < count; at++) (*jni)->DeleteLocalRef(jni, objects[at]);
            (*jvmti)->Deallocate(jvmti, (unsigned char *)objects);
            (*jvmti)->Deallocate(jvmti, (unsigned char *)tags);
        }
    }
    free(list.tags);
    return knot;
}

static void inventory_file_name(char *into, size_t room, const char *out) {
    snprintf(into, room, "%s.taking-%s.hprof", out, session.heap);
}

/* The bean that writes dumps. */
static void inventory_find_bean(JNIEnv *jni) {
    jclass kind = (*jni)->FindClass(jni, "com/sun/management/HotSpotDiagnosticMXBean");
    jclass factory = inventory_threw(jni) ? NULL : (*jni)->FindClass(jni, "java/lang/management/ManagementFactory");
    if (inventory_threw(jni) || factory == NULL) return;
    jmethodID get = (*jni)->GetStaticMethodID(jni, factory, "getPlatformMXBean", "(Ljava/lang/Class;)Ljava/lang/management/PlatformManagedObject;");
    jobject bean = inventory_threw(jni) ? NULL : (*jni)->CallStaticObjectMethod(jni, factory, get, kind);
    if (inventory_threw(jni) || bean == NULL) return;
    jmethodID dump = (*jni)->GetMethodID(jni, (*jni)->GetObjectClass(jni, bean), "dumpHeap0", "(Ljava/lang/String;Z)V");
    if (inventory_threw(jni) || dump == NULL) dump = (*jni)->GetMethodID(jni, kind, "dumpHeap", "(Ljava/lang/String;Z)V");
    if (inventory_threw(jni) || dump == NULL) return;
    prepared.dump = dump;
    prepared.bean = (*jni)->NewGlobalRef(jni, bean);
    /* A native method is linked at its first call, by Java code that allocates: this call is refused at once, for it names no file. */
    (*jni)->CallVoidMethod(jni, bean, dump, NULL, JNI_FALSE);
    (void)inventory_threw(jni);
}

void inventory_prepare(JNIEnv *jni, const char *out) {
    if ((*jni)->PushLocalFrame(jni, 16) != 0) {
        (void)inventory_threw(jni);
        return;
    }
    if (prepared.bean == NULL) inventory_find_bean(jni);
    char file[OPTIONS_TEXT + 64];
    inventory_file_name(file, sizeof file, out);
    if (prepared.name != NULL) (*jni)->DeleteGlobalRef(jni, prepared.name);
    jstring name = (*jni)->NewStringUTF(jni, file);
    prepared.name = inventory_threw(jni) || name == NULL ? NULL : (*jni)->NewGlobalRef(jni, name);
    Knot knot = prepared.knot == NULL ? inventory_new_knot(jni, MOST_TIED) : (Knot){ 0 };
    if (knot.knot != NULL) {
        prepared.list = (*jni)->NewGlobalRef(jni, knot.list);
        prepared.ids = (*jni)->NewGlobalRef(jni, knot.ids);
        prepared.knot = (*jni)->NewGlobalRef(jni, knot.knot);
    }
    (*jni)->PopLocalFrame(jni, NULL);
}

/* What the exception says that is pending, in `why`, of OPTIONS_TEXT bytes; it pends no more. Its type at least: a full heap has no room for words. */
static void inventory_words_of(JNIEnv *jni, jthrowable thrown, char *why) {
    (*jni)->ExceptionClear(jni);
    jclass type = (*jni)->GetObjectClass(jni, thrown);
    jmethodID words = (*jni)->GetMethodID(jni, type, "toString", "()Ljava/lang/String;");
    jstring text = inventory_threw(jni) || words == NULL ? NULL : (jstring)(*jni)->CallObjectMethod(jni, thrown, words);
    const char *said = inventory_threw(jni) || text == NULL ? NULL : (*jni)->GetStringUTFChars(jni, text, NULL);
    char *signature = NULL;
    if (said == NULL) (void)(*session.jvmti)->GetClassSignature(session.jvmti, type, &signature, NULL);
    snprintf(why, OPTIONS_TEXT, "the JVM would not write it: %.500s", said != NULL ? said : signature != NULL ? signature : "it does not say why");
    if (said != NULL) (*jni)->ReleaseStringUTFChars(jni, text, said);
    if (signature != NULL) (void)(*session.jvmti)->Deallocate(session.jvmti, (unsigned char *)signature);
}

/* Has the JVM's own bean write the dump, which makes it readable by its owner only; false with words in `why`, of OPTIONS_TEXT bytes. */
static bool inventory_dump(JNIEnv *jni, const char *file, char *why) {
    if (prepared.bean == NULL) inventory_find_bean(jni);
    snprintf(why, OPTIONS_TEXT, "the bean that writes heap dumps cannot be had: this runtime has no jdk.management, or the heap no room for it");
    if (prepared.bean == NULL) return false;
    jobject name = prepared.name != NULL ? prepared.name : (*jni)->NewStringUTF(jni, file);
    snprintf(why, OPTIONS_TEXT, "the heap has no room for the request itself");
    if (inventory_threw(jni) || name == NULL) return false;
    (*jni)->CallVoidMethod(jni, prepared.bean, prepared.dump, name, JNI_FALSE);
    jthrowable thrown = (*jni)->ExceptionOccurred(jni);
    if (thrown == NULL) return true;
    inventory_words_of(jni, thrown, why);
    return false;
}

static int64_t inventory_free_bytes(const char *out) {
    char folder[OPTIONS_TEXT];
    snprintf(folder, sizeof folder, "%s", out);
    char *slash = strrchr(folder, '/');
    if (slash == NULL) snprintf(folder, sizeof folder, ".");
    else if (slash == folder) slash[1] = '\0';
    else *slash = '\0';
    struct statvfs disk;
    return statvfs(folder, &disk) == 0 ? (int64_t)disk.f_bavail * (int64_t)disk.f_frsize : -1;
}

static void inventory_refuse(const char *why) {
    session_note("inventory-not-taken", why);
}

static void inventory_write(JNIEnv *jni, const char *out) {
    char taking[OPTIONS_TEXT + 64], taken[OPTIONS_TEXT + 128], why[OPTIONS_TEXT];
    int64_t begun_ns = session_now_ns();
    inventory_file_name(taking, sizeof taking, out);
    (void)unlink(taking);
    force_begin();
    jobject knot = inventory_tie(jni);
    int64_t from_ns = session_now_ns();
    bool done = inventory_dump(jni, taking, why);
    int64_t ms = (session_now_ns() - from_ns) / 1000000;
    force_end();
    inventory_untie(jni, knot);
    snprintf(taken, sizeof taken, "%s.inventory-%s-%lld-%lld.hprof", out, session.heap, (long long)(begun_ns / 1000000), (long long)ms);
    if (done && rename(taking, taken) != 0) {
        done = false;
        snprintf(why, sizeof why, "its file could not be renamed: %s", strerror(errno));
    }
    if (done) {
        session_mark(begun_ns, "inventory", strlen("inventory"), "recorder");
        return;
    }
    (void)unlink(taking);
    inventory_refuse(why);
}

void inventory_take(JNIEnv *jni, const char *out, int64_t used_bytes, bool insist) {
    char why[512];
    int64_t free_bytes = inventory_free_bytes(out);
    if (!insist && used_bytes > 0 && free_bytes >= 0 && free_bytes < FILE_RATIO * used_bytes) {
        snprintf(why, sizeof why, "no inventory was taken: it needs about %lld MiB on the disk that the recording goes to, which has %lld",
            (long long)(FILE_RATIO * used_bytes >> 20), (long long)(free_bytes >> 20));
        inventory_refuse(why);
        return;
    }
    force_collect();
    if ((*jni)->PushLocalFrame(jni, MOST_TIED + 64) != 0) {
        (void)inventory_threw(jni);
        inventory_refuse("no inventory was taken: there is no memory for it");
        return;
    }
    inventory_write(jni, out);
    (*jni)->PopLocalFrame(jni, NULL);
}
