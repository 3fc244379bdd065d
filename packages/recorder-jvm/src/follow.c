#include "follow.h"

#include <errno.h>
#include <fcntl.h>
#include <unistd.h>

#define CHUNK 65536

void follow_init(Follow *follow, const char *path) {
    *follow = (Follow){ .path = path, .file = -1 };
}

void follow_close(Follow *follow) {
    if (follow->file >= 0) close(follow->file);
    follow->file = -1;
}

bool follow_take(Follow *follow, Text *lines, bool at_end) {
    text_clear(lines);
    if (follow->path == NULL || follow->path[0] == '\0') return false;
    if (follow->file < 0) follow->file = open(follow->path, O_RDONLY | O_CLOEXEC);
    if (follow->file < 0) return false;
    char chunk[CHUNK];
    ssize_t got;
    do got = pread(follow->file, chunk, sizeof chunk, follow->offset); while (got < 0 && errno == EINTR);
    if (got <= 0) return false;
    size_t length = (size_t)got;
    while (length > 0 && chunk[length - 1] != '\n') length--;
    if (length == 0) {
        if (!at_end && got < CHUNK) return false;
        length = (size_t)got;
    }
    text_add(lines, chunk, length);
    if (lines->failed) return false;
    follow->offset += (off_t)length;
    return true;
}
