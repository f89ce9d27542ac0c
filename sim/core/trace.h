/* SPDX-License-Identifier: MIT */
/* Where the firmware was. */
#ifndef WADI_TRACE_H
#define WADI_TRACE_H

#include <stdbool.h>
#include <stdint.h>

#define WADI_TRACE 14 /* frames: drivers that call drivers stand between an access and its user */

/* Where the firmware was: return addresses, innermost first. */
typedef struct wadi_trace {
    uintptr_t pc[WADI_TRACE];
    unsigned n;
    bool whole; /* pc[0] stands for its function as a whole: its declaration is the place */
} wadi_trace;

#endif
