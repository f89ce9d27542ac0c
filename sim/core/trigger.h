/* SPDX-License-Identifier: MIT */
/* Blocks that start others, or ask a DMA block. */
#ifndef WADI_TRIGGER_H
#define WADI_TRIGGER_H

#include "trace.h"
#include "wadium/host/model.h"

/* Who listens to a role of a model: `target`, while its selector holds `code`. */
typedef struct wadi_listener {
    unsigned role, index;
    wad_model *target;
    unsigned selector; /* its role of that name */
    uint32_t code;
} wadi_listener;

/* What `from` may ask the DMA controller `target` for, by a flag. */
typedef struct wadi_request {
    wad_model *from, *target;
    const wad_trigger *def;
    unsigned role, index;
    bool level;
    unsigned wanted;  /* channels that wait for it */
    wadi_trace trace; /* where its level came to be, with no channel waiting */
    uint64_t since;   /* then; 0: a channel waited */
} wadi_request;

void wadi_requests_build(wad_sim *sim);
void wadi_requests_free(wad_model *m);
void wadi_request_event(wad_model *m, unsigned role, unsigned i);

/** Does a channel wait for an event of this block? */
bool wadi_requests_wanted(const wad_model *m);
const wadi_request *wadi_request_of(const wad_model *m, uint32_t code);

/** Who listens to the block has changed. */
void wadi_trigger_recheck(wad_model *m);
void wadi_triggers_build(wad_sim *sim);

/** Tells those that listen to a role: `level` of a signal, or an event (rises and falls). */
void wadi_trigger_tell(wad_model *m, unsigned role, unsigned i, wad_trigger_edge edge);

#endif
