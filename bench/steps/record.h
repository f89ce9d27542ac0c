/* SPDX-License-Identifier: MIT */
/* Steps while they are recorded. */
#ifndef WADI_STEPS_H
#define WADI_STEPS_H

#include <glib.h>

#include "wadium/host/clocktree.h"
#include "wadium/host/steps.h"

/* What a block has been through, for the order of its steps. */
typedef struct wadi_stage {
    bool up; /* out of reset */
    bool enabled;
    GHashTable *configured; /* registers written before it was enabled */
} wadi_stage;

struct wad_steps {
    const wad_sheet *sheet;
    char *title;
    GArray *list; /* wad_step */
    GStringChunk *texts;
    wad_regs *regs; /* as the steps so far left them */
    wadi_stage *stages;
    unsigned warnings;
    bool judged; /* the simulator has found what is missing */
    /* reads of one register at one place, not yet known to be a wait */
    wad_step look;
    bool looking;
};

/** Explains a step and checks its order; called before `regs` takes it over. */
void wadi_step_explain(wad_steps *steps, wad_step *step);
/** What the whole lacks, at its end. */
void wadi_steps_finish(wad_steps *steps);

#endif
