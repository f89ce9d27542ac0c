/* SPDX-License-Identifier: MIT */
/* A wire between a device and the chip, and what happens to it on its way. */
#ifndef WADI_WIRE_H
#define WADI_WIRE_H

#include "wadium/host/sim.h"

/* What happens to a wire. */
typedef enum wadi_trouble_kind {
    WADI_TROUBLE_CUT,
    WADI_TROUBLE_STUCK,
    WADI_TROUBLE_GLITCH /* the other level */
} wadi_trouble_kind;

/* A wire's far end: `level` goes in, `fn` hears what comes out. */
typedef struct wadi_wire {
    wad_level level;
    bool cut, glitch, stuck, stuck_level;
    wad_level seen;
    void (*fn)(void *ctx, uint64_t ps, wad_level level);
    void *ctx;
} wadi_wire;

static inline void wadi_wire_update(wadi_wire *w, uint64_t ps)
{
    wad_level out = w->level;
    if (w->cut)
        out = WAD_FLOATING;
    else if (w->stuck)
        out = w->stuck_level ? WAD_HIGH : WAD_LOW;
    else if (w->glitch && out != WAD_FLOATING)
        out = out == WAD_LOW ? WAD_HIGH : WAD_LOW;
    if (out == w->seen)
        return;
    w->seen = out;
    w->fn(w->ctx, ps, out);
}

static inline void wadi_wire_set(wadi_wire *w, uint64_t ps, wad_level level)
{
    w->level = level;
    wadi_wire_update(w, ps);
}

/* A trouble begins, or ends; `level` is what it is stuck at. */
static inline void wadi_wire_trouble(wadi_wire *w, wadi_trouble_kind kind, bool level, bool on,
                                     uint64_t ps)
{
    if (kind == WADI_TROUBLE_CUT)
        w->cut = on;
    else if (kind == WADI_TROUBLE_GLITCH)
        w->glitch = on;
    else
        w->stuck = on;
    w->stuck_level = level;
    wadi_wire_update(w, ps);
}

#endif
