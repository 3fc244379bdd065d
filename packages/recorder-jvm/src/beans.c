#include "beans.h"

#include <stdio.h>
#include <string.h>

/* Clears what a call threw; true when something was thrown. */
static bool beans_threw(JNIEnv *jni) {
    if (!(*jni)->ExceptionCheck(jni)) return false;
    (*jni)->ExceptionClear(jni);
    return true;
}

static jclass beans_class(JNIEnv *jni, const char *name) {
    jclass found = (*jni)->FindClass(jni, name);
    return beans_threw(jni) ? NULL : found;
}

static jmethodID beans_method(JNIEnv *jni, const char *class_name, const char *name, const char *signature) {
    jclass owner = beans_class(jni, class_name);
    if (owner == NULL) return NULL;
    jmethodID method = (*jni)->GetMethodID(jni, owner, name, signature);
    return beans_threw(jni) ? NULL : method;
}

/* The result of a static call without arguments on the factory; NULL when it threw. */
static jobject beans_made(JNIEnv *jni, const char *name, const char *signature) {
    jclass factory = beans_class(jni, "java/lang/management/ManagementFactory");
    if (factory == NULL) return NULL;
    jmethodID method = (*jni)->GetStaticMethodID(jni, factory, name, signature);
    if (beans_threw(jni)) return NULL;
    jobject made = (*jni)->CallStaticObjectMethod(jni, factory, method);
    return beans_threw(jni) ? NULL : made;
}

static void beans_text(JNIEnv *jni, jobject string, char *into) {
    into[0] = '\0';
    if (string == NULL) return;
    const char *bytes = (*jni)->GetStringUTFChars(jni, (jstring)string, NULL);
    if (bytes == NULL) {
        beans_threw(jni);
        return;
    }
    snprintf(into, BEANS_NAME, "%s", bytes);
    (*jni)->ReleaseStringUTFChars(jni, (jstring)string, bytes);
}

static jint beans_list_size(JNIEnv *jni, jobject list) {
    jmethodID size = beans_method(jni, "java/util/List", "size", "()I");
    if (size == NULL || list == NULL) return 0;
    jint count = (*jni)->CallIntMethod(jni, list, size);
    return beans_threw(jni) ? 0 : count;
}

static jobject beans_list_at(JNIEnv *jni, jobject list, jint at) {
    jmethodID get = beans_method(jni, "java/util/List", "get", "(I)Ljava/lang/Object;");
    if (get == NULL) return NULL;
    jobject found = (*jni)->CallObjectMethod(jni, list, get, at);
    return beans_threw(jni) ? NULL : found;
}

static bool beans_is_heap(JNIEnv *jni, jobject pool) {
    jmethodID get_type = beans_method(jni, "java/lang/management/MemoryPoolMXBean", "getType", "()Ljava/lang/management/MemoryType;");
    jclass types = beans_class(jni, "java/lang/management/MemoryType");
    if (get_type == NULL || types == NULL) return false;
    jfieldID field = (*jni)->GetStaticFieldID(jni, types, "HEAP", "Ljava/lang/management/MemoryType;");
    if (beans_threw(jni)) return false;
    jobject type = (*jni)->CallObjectMethod(jni, pool, get_type);
    if (beans_threw(jni)) return false;
    return (*jni)->IsSameObject(jni, type, (*jni)->GetStaticObjectField(jni, types, field));
}

static void beans_find_pools(Beans *beans, JNIEnv *jni) {
    jobject list = beans_made(jni, "getMemoryPoolMXBeans", "()Ljava/util/List;");
    jmethodID get_name = beans_method(jni, "java/lang/management/MemoryPoolMXBean", "getName", "()Ljava/lang/String;");
    if (list == NULL || get_name == NULL) return;
    jint count = beans_list_size(jni, list);
    for (jint at = 0; at < count && beans->pool_count < BEANS_MOST_POOLS; at++) {
        jobject bean = beans_list_at(jni, list, at);
        if (bean == NULL) continue;
        jobject name = (*jni)->CallObjectMethod(jni, bean, get_name);
        if (beans_threw(jni)) continue;
        PoolBean *pool = &beans->pools[beans->pool_count];
        beans_text(jni, name, pool->name);
        pool->heap = beans_is_heap(jni, bean);
        pool->young = strstr(pool->name, "Eden") != NULL || strstr(pool->name, "Survivor") != NULL;
        pool->bean = (*jni)->NewGlobalRef(jni, bean);
        if (pool->bean != NULL) beans->pool_count++;
    }
}

static void beans_find_collectors(Beans *beans, JNIEnv *jni) {
    jobject list = beans_made(jni, "getGarbageCollectorMXBeans", "()Ljava/util/List;");
    jmethodID get_name = beans_method(jni, "java/lang/management/MemoryManagerMXBean", "getName", "()Ljava/lang/String;");
    if (list == NULL || get_name == NULL) return;
    jint count = beans_list_size(jni, list);
    for (jint at = 0; at < count && beans->collector_count < BEANS_MOST_COLLECTORS; at++) {
        jobject bean = beans_list_at(jni, list, at);
        if (bean == NULL) continue;
        jobject name = (*jni)->CallObjectMethod(jni, bean, get_name);
        if (beans_threw(jni)) continue;
        CollectorBean *collector = &beans->collectors[beans->collector_count];
        beans_text(jni, name, collector->name);
        collector->bean = (*jni)->NewGlobalRef(jni, bean);
        if (collector->bean != NULL) beans->collector_count++;
    }
}

/* The pool of buffers outside the heap that objects hold. */
static void beans_find_direct(Beans *beans, JNIEnv *jni) {
    jclass factory = beans_class(jni, "java/lang/management/ManagementFactory");
    jclass kind = beans_class(jni, "java/lang/management/BufferPoolMXBean");
    if (factory == NULL || kind == NULL) return;
    jmethodID get = (*jni)->GetStaticMethodID(jni, factory, "getPlatformMXBeans", "(Ljava/lang/Class;)Ljava/util/List;");
    if (beans_threw(jni)) return;
    jobject list = (*jni)->CallStaticObjectMethod(jni, factory, get, kind);
    jmethodID get_name = beans_threw(jni) ? NULL : beans_method(jni, "java/lang/management/BufferPoolMXBean", "getName", "()Ljava/lang/String;");
    beans->get_memory_used = beans_method(jni, "java/lang/management/BufferPoolMXBean", "getMemoryUsed", "()J");
    if (get_name == NULL || beans->get_memory_used == NULL) return;
    jint count = beans_list_size(jni, list);
    for (jint at = 0; at < count; at++) {
        char name[BEANS_NAME];
        jobject bean = beans_list_at(jni, list, at);
        if (bean == NULL) continue;
        jobject text = (*jni)->CallObjectMethod(jni, bean, get_name);
        if (beans_threw(jni)) continue;
        beans_text(jni, text, name);
        if (strcmp(name, "direct") == 0) beans->direct = (*jni)->NewGlobalRef(jni, bean);
    }
}

bool beans_open(Beans *beans, JNIEnv *jni) {
    memset(beans, 0, sizeof *beans);
    if ((*jni)->PushLocalFrame(jni, 256) != 0) {
        beans_threw(jni);
        return false;
    }
    jobject memory = beans_made(jni, "getMemoryMXBean", "()Ljava/lang/management/MemoryMXBean;");
    beans->get_heap = beans_method(jni, "java/lang/management/MemoryMXBean", "getHeapMemoryUsage", "()Ljava/lang/management/MemoryUsage;");
    beans->get_usage = beans_method(jni, "java/lang/management/MemoryPoolMXBean", "getUsage", "()Ljava/lang/management/MemoryUsage;");
    beans->get_collection_usage = beans_method(jni, "java/lang/management/MemoryPoolMXBean", "getCollectionUsage", "()Ljava/lang/management/MemoryUsage;");
    beans->get_used = beans_method(jni, "java/lang/management/MemoryUsage", "getUsed", "()J");
    beans->get_committed = beans_method(jni, "java/lang/management/MemoryUsage", "getCommitted", "()J");
    beans->get_max = beans_method(jni, "java/lang/management/MemoryUsage", "getMax", "()J");
    beans->get_count = beans_method(jni, "java/lang/management/GarbageCollectorMXBean", "getCollectionCount", "()J");
    beans->open = memory != NULL && beans->get_heap != NULL && beans->get_usage != NULL && beans->get_collection_usage != NULL
        && beans->get_used != NULL && beans->get_committed != NULL && beans->get_max != NULL && beans->get_count != NULL;
    if (beans->open) {
        beans->memory = (*jni)->NewGlobalRef(jni, memory);
        beans_find_pools(beans, jni);
        beans_find_collectors(beans, jni);
        beans_find_direct(beans, jni);
    }
    (*jni)->PopLocalFrame(jni, NULL);
    return beans->open;
}

void beans_close(Beans *beans, JNIEnv *jni) {
    for (int at = 0; at < beans->pool_count; at++) (*jni)->DeleteGlobalRef(jni, beans->pools[at].bean);
    for (int at = 0; at < beans->collector_count; at++) (*jni)->DeleteGlobalRef(jni, beans->collectors[at].bean);
    if (beans->memory != NULL) (*jni)->DeleteGlobalRef(jni, beans->memory);
    if (beans->direct != NULL) (*jni)->DeleteGlobalRef(jni, beans->direct);
    memset(beans, 0, sizeof *beans);
}

static int64_t beans_long(JNIEnv *jni, jobject bean, jmethodID method) {
    if (bean == NULL || method == NULL) return -1;
    jlong value = (*jni)->CallLongMethod(jni, bean, method);
    return beans_threw(jni) ? -1 : (int64_t)value;
}

static jobject beans_usage(JNIEnv *jni, jobject bean, jmethodID method) {
    jobject usage = (*jni)->CallObjectMethod(jni, bean, method);
    return beans_threw(jni) ? NULL : usage;
}

static void beans_read_pool(Beans *beans, JNIEnv *jni, int at, Reading *reading) {
    PoolBean *pool = &beans->pools[at];
    jobject usage = beans_usage(jni, pool->bean, beans->get_usage);
    reading->pool_used[at] = beans_long(jni, usage, beans->get_used);
    reading->pool_committed[at] = beans_long(jni, usage, beans->get_committed);
    if (!pool->young) return;
    jobject after = beans_usage(jni, pool->bean, beans->get_collection_usage);
    int64_t used = beans_long(jni, after, beans->get_used);
    if (used >= 0) reading->pool_used[at] = used;
}

/* How much a collector's name promises: whole heap over young, collections over pauses. */
static int beans_reach(const CollectorBean *collector) {
    if (beans_counts_pauses(collector)) return 0;
    return strcmp(beans_scope(collector), "whole") == 0 ? 2 : 1;
}

bool beans_read(Beans *beans, JNIEnv *jni, Reading *reading) {
    *reading = (Reading){ .used = -1, .committed = -1, .limit = -1, .direct = -1 };
    if (!beans->open || (*jni)->PushLocalFrame(jni, 128) != 0) {
        beans_threw(jni);
        return false;
    }
    jobject heap = beans_usage(jni, beans->memory, beans->get_heap);
    reading->used = beans_long(jni, heap, beans->get_used);
    reading->committed = beans_long(jni, heap, beans->get_committed);
    reading->limit = beans_long(jni, heap, beans->get_max);
    reading->direct = beans_long(jni, beans->direct, beans->get_memory_used);
    for (int at = 0; at < beans->pool_count; at++) beans_read_pool(beans, jni, at, reading);
    for (int at = 0; at < beans->collector_count; at++) {
        CollectorBean *collector = &beans->collectors[at];
        jlong count = beans_long(jni, collector->bean, beans->get_count);
        if (count > collector->count && (reading->ran == NULL || beans_reach(collector) > beans_reach(reading->ran))) reading->ran = collector;
        if (count >= 0) collector->count = count;
    }
    (*jni)->PopLocalFrame(jni, NULL);
    return reading->used >= 0;
}

const char *beans_collector(const Beans *beans) {
    static const char *const known[][2] = {
        { "G1", "G1" }, { "PS ", "Parallel" }, { "Copy", "Serial" }, { "MarkSweepCompact", "Serial" }, { "ZGC", "ZGC" },
        { "Shenandoah", "Shenandoah" }, { "Epsilon", "Epsilon" },
    };
    for (int at = 0; at < beans->collector_count + beans->pool_count; at++) {
        const char *name = at < beans->collector_count ? beans->collectors[at].name : beans->pools[at - beans->collector_count].name;
        for (size_t kind = 0; kind < sizeof known / sizeof known[0]; kind++) if (strncmp(name, known[kind][0], strlen(known[kind][0])) == 0) return known[kind][1];
    }
    return "";
}

bool beans_concurrent(const Beans *beans) {
    const char *collector = beans_collector(beans);
    return strcmp(collector, "ZGC") == 0 || strcmp(collector, "Shenandoah") == 0 || collector[0] == '\0';
}

const char *beans_scope(const CollectorBean *collector) {
    static const char *const young[] = { "G1 Young", "PS Scavenge", "Copy", "ParNew", "ZGC Minor", "Shenandoah Young" };
    for (size_t at = 0; at < sizeof young / sizeof young[0]; at++) if (strncmp(collector->name, young[at], strlen(young[at])) == 0) return "young";
    return "whole";
}

bool beans_counts_pauses(const CollectorBean *collector) {
    return strstr(collector->name, "Pauses") != NULL || strcmp(collector->name, "G1 Concurrent GC") == 0;
}
