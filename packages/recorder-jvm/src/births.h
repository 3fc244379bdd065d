/* Switching the sampling of births, and starting over; from any thread. */
#ifndef HERON_BIRTHS_H
#define HERON_BIRTHS_H

#include <stdbool.h>

/* Whether births are sampled from now on. What is followed stays followed. Nothing changes when it is so already. */
void births_switch(bool on);

/* The recorder's thread is asked to start over at its next turn, which comes at once. */
void births_ask_to_start_over(void);

/*
 * Lets go of all that is followed, if that was asked for, and samples births from now on. The recorder's thread, which
 * has just told what was gathered. `by`: who asked.
 */
void births_start_over(const char *by);

/* True once for each time that the program asked. */
bool births_take_wish(void);

#endif
