/* SPDX-License-Identifier: MIT */
/* Registers that are locked until a key is written. */
#ifndef WADI_LOCK_H
#define WADI_LOCK_H

#include "register.h"

/* A lock of one block. */
typedef struct wadi_lock {
    const wad_lock *def;
    unsigned at;              /* values of the key seen in order */
    unsigned writes;          /* left until it closes */
    bool open, stuck, opened; /* opened: since the last reset */
    uint64_t last_ps;         /* of the key's last value */
    uint64_t until_ps;        /* it closes then; 0: it does not expire */
    wadi_slot *shows;         /* NULL: nothing */
    uint32_t shows_mask;
} wadi_lock;

void wadi_locks_build(wadi_block *block);
void wadi_locks_reset(wadi_block *block);

/** Before a write to a locked register or a key register: false when the write is ignored. */
bool wadi_locks_allow(wad_sim *sim, const wadi_slot *slot, uint32_t value, uint32_t touched);
/** What shows whether locks are closed follows. */
void wadi_locks_show(wadi_block *block);

#endif
