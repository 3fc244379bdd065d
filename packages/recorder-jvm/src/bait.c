#include "bait.h"

#include "session.h"

/* Below the tag of every sampled object, so that its death is told to nobody and no census counts it. */
#define BAIT_TAG (-1)

void bait_lay(JNIEnv *jni) {
    jbyteArray bait = (*jni)->NewByteArray(jni, 0);
    if (bait == NULL) {
        (*jni)->ExceptionClear(jni);
        return;
    }
    (*session.jvmti)->SetTag(session.jvmti, bait, BAIT_TAG);
    (*jni)->DeleteLocalRef(jni, bait);
}
