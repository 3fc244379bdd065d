#include "container.h"

#include <stdio.h>
#include <unistd.h>

/* Of control groups of the second and the first version, as a container sees its own. */
static const char *const FILES[] = { "/sys/fs/cgroup/memory.max", "/sys/fs/cgroup/memory/memory.limit_in_bytes" };

/* Without a limit the first version tells a number near the greatest of 64 bits, and the second the word max. */
#define MOST_BYTES ((long long)1 << 50)

int64_t container_limit_bytes(void) {
    for (size_t at = 0; at < sizeof FILES / sizeof FILES[0]; at++) {
        FILE *file = fopen(FILES[at], "re");
        if (file == NULL) continue;
        long long bytes = -1;
        int found = fscanf(file, "%lld", &bytes);
        (void)fclose(file);
        if (found == 1 && bytes > 0 && bytes < MOST_BYTES) return bytes;
    }
    return -1;
}

int64_t container_resident_bytes(void) {
    long pages = -1;
    FILE *file = fopen("/proc/self/statm", "re");
    if (file == NULL) return -1;
    if (fscanf(file, "%*s %ld", &pages) != 1) pages = -1;
    fclose(file);
    return pages < 0 ? -1 : (int64_t)pages * sysconf(_SC_PAGESIZE);
}
