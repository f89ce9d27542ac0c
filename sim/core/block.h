/* SPDX-License-Identifier: MIT */
/* Blocks: their registers, what they need to work, their models. */
#ifndef WADI_BLOCK_H
#define WADI_BLOCK_H

#include <glib.h>

#include "lock.h"
#include "register.h"
#include "trace.h"

enum { WADI_BLOCKED_GATE = 1, WADI_BLOCKED_RESET = 2, WADI_BLOCKED_CLOCK = 4 };

typedef struct wadi_need {
    wadi_slot *slot;
    uint32_t mask;
    uint8_t lsb;
    unsigned way;             /* which of the alternatives it belongs to */
    wad_finding_kind finding; /* GATED or IN_RESET */
    const wad_cond_term *term;
} wadi_need;

/* A gate that was opened, or a reset that was released: when it shows. */
typedef struct wadi_opening {
    wad_event event;
    wadi_block *block;
    const wad_ready *def;
    wadi_slot *slot; /* NULL: nothing tells */
    uint32_t mask;
    bool asked, ready;
} wadi_opening;

struct wadi_block {
    wad_sim *sim;
    const wad_instance *inst;
    wadi_block *home; /* of a unit: the block that it lies in; NULL: it is a block */
    wadi_slot *slots;
    unsigned n_slots;
    wad_model *model; /* NULL: registers only */
    wadi_need *needs;
    unsigned n_needs;
    wadi_need *resets; /* `reset while` */
    unsigned n_resets;
    struct wadi_opening *opening[2]; /* of `needs` and `reset`: it answers later; NULL: at once */
    wadi_lock *locks;                /* as the layout lists them */
    wadi_slot *route;
    unsigned blocked; /* WADI_BLOCKED_ bits */
    struct wadi_clock *clock;
    GPtrArray *clearings;   /* wadi_clearing, owned; NULL: none */
    GPtrArray *laters;      /* wad_event: what hooks have put off; NULL: nothing */
    GPtrArray *temporaries; /* wadi_temporary, owned: bytes that values share; NULL: none */
    bool in_change;         /* between wadi_blocks_before and _after */
    bool active;            /* draws what the sheet states for that */
    bool configured;        /* written at all */
    bool was_enabled;
    wadi_trace config_trace; /* the last write before it was enabled */
};

bool wadi_need_met(const wadi_need *need);
/** Its bit follows; its time has passed. */
void wadi_opening_show(const wadi_opening *o);
void wadi_opening_ready(wad_event *e);
/** After a reset: what opens by the reset values is open. */
void wadi_openings_reset(wadi_block *block);
/** Which registers can be read the quick way changes with their block. */
void wadi_block_quicken(struct wadi_block *block);

bool wadi_blocks_build(wad_sim *sim, char **why);
void wadi_blocks_free(wad_sim *sim);
void wadi_blocks_reset(wad_sim *sim);
/** After a reset of the chip: what runs by its reset values begins. */
void wadi_blocks_begin(wad_sim *sim);
void wadi_block_to_reset_values(wadi_block *block);

/** Around a change of clocks, gates or resets: models stop counting, then start anew. */
void wadi_blocks_before(wad_sim *sim);
void wadi_blocks_after(wad_sim *sim);

wadi_slot *wadi_find_slot(wad_sim *sim, const wad_instance *block, const wad_register *reg,
                          unsigned index);

bool wadi_cond_holds(const wadi_block *block, const wad_cond *cond);
/** The registers of a block, and what their reads clear. */
void wadi_build_slots(wadi_block *block);

#endif
