/* SPDX-License-Identifier: MIT */
/* An input that a block sees with its clock's edges and through a filter. */
#ifndef WADI_INPUT_H
#define WADI_INPUT_H

#include "sim/core/sim.h"

/* A change counts with the clock's next edge, or when it has stayed as long as the filter says. */
typedef struct wadi_input {
    wad_event event; /* its `fn` is the model's: a change counts now */
    unsigned index;
    bool level;   /* as the block sees it */
    bool pending; /* a change waits for its edge */
    bool known;
} wadi_input;

/** The pin's level; `stays`: clock edges that it must stay, besides the one it is seen with. */
void wadi_input_hear(wad_model *m, wadi_input *in, bool level, uint64_t stays);
/** In the event's function: the input, its new level taken. */
wadi_input *wadi_input_changed(wad_event *e);
/** A change that waits is forgotten. */
void wadi_input_forget(wad_model *m, wadi_input *in);

#endif
