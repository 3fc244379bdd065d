/* What the container of the process allows. */
#ifndef HERON_CONTAINER_H
#define HERON_CONTAINER_H

#include <stdint.h>

/* What the processes of this one's container may have in memory together, in bytes; -1 where there is no such limit, or none can be read. */
int64_t container_limit_bytes(void);

/* What of the process is in memory, in bytes; −1 when the system does not tell. */
int64_t container_resident_bytes(void);

#endif
