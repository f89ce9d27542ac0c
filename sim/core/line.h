/* SPDX-License-Identifier: MIT */
/* Interrupt lines. */
#ifndef WADI_LINE_H
#define WADI_LINE_H

#include <limits.h>

#include "trace.h"
#include "wadium/host/sim.h"

typedef struct wadi_block wadi_block;
typedef struct wadi_slot wadi_slot;

#define WADI_NO_LINE UINT_MAX

typedef struct wadi_line {
    unsigned feeds;     /* flags that are set and enabled on it */
    bool level;         /* there are some */
    bool edge;          /* the controller notes its rise ... */
    bool noted;         /* ... here, until the handler is entered */
    bool forced;        /* asked for by software */
    bool asks;          /* all in all */
    uint64_t wanted_ps; /* it is to be served within this time; 0: nobody said */
    uint64_t raised_ps;
    unsigned again; /* services in a row at whose end it asked anew */
    unsigned falls; /* how often the line was let go: a handler that clears makes it fall */
    wadi_block *owner;
    bool at_entry; /* flags on it go when its handler is entered */
    bool asked;    /* enabled at the block at some time */
    wadi_trace asked_trace;
    bool ever_raised, served, enabled_at_controller;
    bool governed;          /* a unit of kind interrupts says whether it is enabled */
    uint32_t priority, key; /* as the sheet counts, and so that the smallest goes first */
    wadi_slot *pending;     /* where it reads as 1 while it asks; NULL: nowhere */
    uint32_t pending_mask;
} wadi_line;

bool wadi_irq_deliverable(const wad_sim *sim);

/** Software asks for a line, or takes back what is noted of it. */
void wadi_line_force(wad_sim *sim, unsigned line, bool on);
/** Hardware forgets what is noted of a line that is served. */
void wadi_forget_request(wad_sim *sim, unsigned line);
/** A line is enabled or not, and how urgent it is: the smallest key goes first. */
void wadi_line_enable(wad_sim *sim, unsigned line, bool on);
void wadi_line_rank(wad_sim *sim, unsigned line, uint32_t priority, uint32_t key);
/** Chooses anew which of the lines that ask is served next. */
void wadi_lines_choose(wad_sim *sim);
/** A feed has begun to ask, or ceased. */
void wadi_line_feed(wad_sim *sim, unsigned line, bool on);
/** The moment that a line of edges notes. */
void wadi_line_note(wad_sim *sim, unsigned line);
/** A flag of the line was enabled; `stale`: while it is set already. */
void wadi_line_asked(wad_sim *sim, unsigned line, const char *owner, bool stale);
/** Something lets the line through. */
void wadi_line_enabled(wad_sim *sim, unsigned line);

#endif
