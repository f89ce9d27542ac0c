/* SPDX-License-Identifier: MIT */
/* Locks: what keeps registers from being written, and what opens them. */
#include "lock.h"

#include "block.h"
#include "rare.h"
#include "register.h"
#include "report.h"
#include "schedule.h"
#include "sim.h"
#include "stop.h"

static void build_shows(wadi_block *block, wadi_lock *lock)
{
    const wad_lock *def = lock->def;
    if (!def->shows.reg)
        return;
    lock->shows = wadi_find_slot(block->sim, block->inst, def->shows.reg, def->shows.reg_index);
    lock->shows_mask = (uint32_t)wad_fieldref_mask(&def->shows);
    for (const wad_cond *c = def->open; c; c = c->or_else)
        for (unsigned i = 0; i < c->n; i++)
            wadi_find_slot(block->sim, block->inst, c->terms[i].ref.reg, c->terms[i].ref.reg_index)
                ->flags |= WADI_SLOT_ENDS;
}

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
        build_shows(block, &block->locks[i]);
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

static bool is_open(const wadi_block *block, const wadi_lock *lock)
{
    if (lock->def->open)
        return wadi_cond_holds(block, lock->def->open);
    return lock->open && (!lock->until_ps || block->sim->now <= lock->until_ps);
}

void wadi_locks_show(wadi_block *block)
{
    for (unsigned i = 0; i < block->inst->layout->n_locks; i++) {
        const wadi_lock *l = &block->locks[i];
        if (l->shows)
            wadi_slot_store(l->shows, is_open(block, l) ? l->shows->value & ~l->shows_mask
                                                        : l->shows->value | l->shows_mask);
    }
}

/* More than an access ago: something came between. */
static bool is_broken(const wad_sim *sim, const wadi_lock *lock)
{
    return lock->def->unbroken && lock->at &&
           sim->now - lock->last_ps > sim->cost.access_ps * 3 / 2;
}

static void wrong_key(wad_sim *sim, wadi_lock *lock)
{
    if (lock->def->wrong == WAD_WRONG_STUCK)
        lock->stuck = true;
    else if (lock->def->wrong == WAD_WRONG_RESETS)
        wadi_run_again(sim);
}

/* May it open now that its sequence is whole? */
static bool may_open(const wadi_block *block, const wadi_lock *lock)
{
    return !lock->stuck && (!lock->def->once || !lock->opened ||
                            (lock->def->unless && wadi_cond_holds(block, lock->def->unless)));
}

/* A wrong value begins the sequence anew and closes what was open. */
static void write_key(wad_sim *sim, const wadi_slot *slot, uint32_t value, uint32_t touched)
{
    wadi_block *block = slot->block;
    for (unsigned i = 0; i < block->inst->layout->n_locks; i++) {
        wadi_lock *lock = &block->locks[i];
        const wad_lock *def = lock->def;
        if (def->key != slot->reg || def->key_index != slot->index || !(touched & def->key_mask))
            continue;
        uint32_t key = (value & def->key_mask) >> def->key_lsb;
        bool whole = (touched & def->key_mask) == def->key_mask;
        if (is_broken(sim, lock))
            lock->at = 0;
        bool right = whole && lock->at < def->n_sequence && key == def->sequence[lock->at];
        lock->at = right ? lock->at + 1 : whole && key == def->sequence[0];
        lock->last_ps = sim->now;
        lock->open = lock->at == def->n_sequence && may_open(block, lock);
        if (lock->at == def->n_sequence)
            lock->at = 0;
        if (lock->open) {
            lock->opened = true;
            lock->writes = def->writes;
            lock->until_ps = def->expires ? wadi_delay_due(sim, &def->open_for) : 0;
        }
        if (!right && !lock->at)
            wrong_key(sim, lock);
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
        if (lock->unbroken)
            g_string_append(text, ", with no access between");
        if (lock->expires)
            g_string_append(text, ", and it closes again soon after");
        if (lock->writes)
            g_string_append_printf(text, " first, anew for every %s",
                                   lock->writes > 1 ? "few writes" : "write");
    }
    return g_string_free(text, FALSE);
}

bool wadi_locks_allow(wad_sim *sim, const wadi_slot *slot, uint32_t value, uint32_t touched)
{
    if (slot->flags & WADI_SLOT_KEY) {
        write_key(sim, slot, value, touched);
        wadi_locks_show(slot->block);
    }
    wadi_lock *lock = slot->flags & WADI_SLOT_LOCKED ? lock_of(slot) : NULL;
    if (!lock)
        return true;
    if (is_open(slot->block, lock)) {
        if (lock->writes && --lock->writes == 0)
            lock->open = false;
        wadi_locks_show(slot->block);
        return true;
    }
    if (lock->stuck || (lock->opened && lock->def->once)) {
        char *locked = wadi_slot_name(slot);
        wadi_report(sim, WAD_FINDING_LOCKED, slot,
                    "write of 0x%x to %s is ignored: %s until a reset", value, locked,
                    lock->stuck ? "a wrong key has locked it" : "it opens only once");
        g_free(locked);
        return false;
    }
    char *name = wadi_slot_name(slot), *how = how_to_open(slot->block, lock->def);
    wadi_report(sim, WAD_FINDING_LOCKED, slot, "write of 0x%x to %s is ignored: it is locked, %s",
                value, name, how);
    g_free(name);
    g_free(how);
    return false;
}

void wadi_locks_reset(wadi_block *block)
{
    for (unsigned i = 0; i < block->inst->layout->n_locks; i++) {
        wadi_lock *lock = &block->locks[i];
        lock->at = lock->writes = 0;
        lock->open = lock->stuck = lock->opened = false;
    }
    wadi_locks_show(block);
}
