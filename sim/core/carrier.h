/* SPDX-License-Identifier: MIT */
/* What carries the firmware. */
#ifndef WADI_CARRIER_H
#define WADI_CARRIER_H

#include <glib.h>

#include "trace.h"
#include "wadium/host/sim.h"

typedef struct wadi_segment {
    char *start;
    size_t size;
    void *saved;
} wadi_segment;

typedef struct wadi_firmware {
    void *handle;
    char *path;
    char *temp; /* a private copy that was loaded instead, to be removed */
    int (*main_fn)(void);
    const wad_handler *handlers;
    unsigned n_handlers;
    uintptr_t bias;
    uintptr_t text_start, text_end;
    uintptr_t start, end;           /* all of it */
    uintptr_t data_start, data_end; /* what may be written */
    uintptr_t window;               /* a bus address plus this is the host's */
    bool plain;                     /* calls in through the compiler's instrumentation */
    GArray *segments;               /* wadi_segment: writable parts, put back at reset */
} wadi_firmware;

typedef struct wadi_story {
    wad_run_end end;
    char *text;
    wadi_trace trace;
} wadi_story;

/* Where the firmware prints to and reads from. */
typedef struct wadi_stdio {
    size_t (*out)(void *context, const char *text, size_t n);
    size_t (*in)(void *context, char *text, size_t n);
    void *context;
} wadi_stdio;

/** How the machine reaches the firmware that it does not carry itself. */
typedef struct wadi_carrier {
    wad_handler (*handler)(const wad_sim *sim, unsigned line); /* NULL: the line has none */
    /* what runs in the place of a handler that there is not; does not return */
    void (*unhandled)(wad_sim *sim, unsigned line);
    void (*flush)(wad_sim *sim); /* a write that is pending is carried out */
} wadi_carrier;

#endif
