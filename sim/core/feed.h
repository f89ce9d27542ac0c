/* SPDX-License-Identifier: MIT */
/*
 * What asks by an interrupt line: a feed is one flag with what enables it, on one line. Models set
 * flags and registers change; the lines follow when the access or the event is over, not before.
 */
#ifndef WADI_FEED_H
#define WADI_FEED_H

#include "model.h"
#include "sim.h"

typedef struct wadi_feed {
    const wad_model *model;
    unsigned role, element;
    int enable; /* its role; -1: it has none */
    unsigned enable_element;
    wadi_slot *flag, *by; /* NULL: no bit of its own; nothing holds it back */
    uint32_t flag_mask, by_mask, flag_flip, by_flip;
    unsigned line;
    bool odd;     /* not told by these words: the roles are asked */
    bool never;   /* its enable always reads 0 */
    bool follows; /* it says how things are: that it is set already is no event of old */
    bool pulses;  /* the line notes the moment at which it is set, set before or not */
    bool open;    /* enabled, when it was looked at last */
    bool on;
} wadi_feed;

/** Once all models exist, and again when one was replaced. */
void wadi_feeds_build(wad_sim *sim);
void wadi_feeds_free(wad_sim *sim);
/** After a reset of the chip: lines stand as the registers say. */
void wadi_feeds_reset(wad_sim *sim);

/** Lines follow what has changed. */
void wadi_feeds_settle(wad_sim *sim);
static inline void wadi_settle(wad_sim *sim)
{
    if (__builtin_expect((sim->touched.n | sim->touched.happened) != 0, 0))
        wadi_feeds_settle(sim);
}

/** A write has stored what it stores: enables that it sets ask from now on. */
void wadi_feeds_enabled(const wadi_slot *slot);
/** The handler of the line is entered: flags go that this clears. */
void wadi_feeds_entered(wad_sim *sim, unsigned line);
/** A flag of the model was set, on lines that note the moment alone. */
void wadi_feeds_pulse(const wad_model *m, unsigned role, unsigned i);

/** Does a flag of another role ask now? */
bool wadi_feeds_ask_beside(const wad_model *m, unsigned role);

#endif
