/* SPDX-License-Identifier: MIT */
/* Locks: what keeps registers from being written, and what opens them. */
#include "lock.h"

#include "block.h"
#include "register.h"
#include "report.h"
#include "sim.h"

void wadi_locks_build(wadi_block *block)
{
    const wad_layout *layout = block->inst->layout;
    block->locks = g_new0(wadi_lock, layout->n_locks + 1);
    for (unsigned i = 0; i < layout->n_locks; i++) {
        block->locks[i].def = layout->locks[i];
        for (unsigned k = 0; k < block->n_slots; k++) {
            wadi_slot *slot = &block->slots[k];
            if (slot->reg->lock == layout->locks[i])
                slot->flags |= WADI_SLOT_LOCKED;
            if (slot->reg == layout->locks[i]->key)
                slot->flags |= WADI_SLOT_KEY;
        }
    }
}

static wadi_lock *lock_of(const wadi_slot *slot)
{
    wadi_block *block = slot->block;
    for (unsigned i = 0; i < block->inst->layout->n_locks; i++)
        if (block->locks[i].def == slot->reg->lock)
            return &block->locks[i];
    return NULL;
}

/* A wrong value begins the sequence anew and closes what was open. */
static void write_key(const wadi_slot *slot, uint32_t value)
{
    wadi_block *block = slot->block;
    for (unsigned i = 0; i < block->inst->layout->n_locks; i++) {
        wadi_lock *lock = &block->locks[i];
        if (lock->def->key != slot->reg)
            continue;
        bool right = lock->at < lock->def->n_sequence && value == lock->def->sequence[lock->at];
        lock->at = right ? lock->at + 1 : value == lock->def->sequence[0];
        lock->open = lock->at == lock->def->n_sequence;
        if (lock->open) {
            lock->at = 0;
            lock->writes = lock->def->writes;
        }
    }
}

static char *how_to_open(const wadi_block *block, const wad_lock *lock)
{
    GString *text = g_string_new(NULL);
    if (lock->open) {
        const wad_cond_term *t = &lock->open->terms[0];
        wad_fieldref ref = t->ref;
        ref.block = block->inst;
        char *name = wad_fieldref_name(&ref);
        g_string_append_printf(text, "%s must %s 0x%llX", name, t->equal ? "be" : "not be",
                               (unsigned long long)t->value);
        g_free(name);
    } else {
        g_string_append_printf(text, "%s.%s must be written", block->inst->name, lock->key->name);
        for (unsigned i = 0; i < lock->n_sequence; i++)
            g_string_append_printf(text, "%s 0x%X", i ? " then" : "", lock->sequence[i]);
        if (lock->writes)
            g_string_append_printf(text, " first, anew for every %s",
                                   lock->writes > 1 ? "few writes" : "write");
    }
    return g_string_free(text, FALSE);
}

bool wadi_locks_allow(wad_sim *sim, const wadi_slot *slot, uint32_t value)
{
    if (slot->flags & WADI_SLOT_KEY)
        write_key(slot, value);
    wadi_lock *lock = slot->flags & WADI_SLOT_LOCKED ? lock_of(slot) : NULL;
    if (!lock)
        return true;
    bool open = lock->def->open ? wadi_cond_holds(slot->block, lock->def->open) : lock->open;
    if (open) {
        if (lock->writes && --lock->writes == 0)
            lock->open = false;
        return true;
    }
    char *name = wadi_slot_name(slot), *how = how_to_open(slot->block, lock->def);
    wadi_report(sim, WAD_FINDING_LOCKED, slot, "write of 0x%x to %s is ignored: it is locked, %s",
                value, name, how);
    g_free(name);
    g_free(how);
    return false;
}
