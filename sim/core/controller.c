/* SPDX-License-Identifier: MIT */
#include "controller.h"

#include "cpu.h"
#include "line.h"
#include "model.h"
#include "observer.h"

/* Below the threshold that holds nothing back, so that priority 0 is served as well. */
#define MOST_KEY (UINT32_MAX - 1)

static uint32_t value_of(const wadi_gate *g)
{
    uint32_t value = 0, all = 1;
    if (g->place.form == WAD_PLACE_ALWAYS)
        return (uint32_t)g->place.always;
    for (unsigned k = 0; k < g->place.n_parts; k++) { /* high part first */
        const wad_role_part *part = &g->place.parts[k];
        uint32_t mask = (uint32_t)wad_fieldref_mask(&part->ref);
        uint32_t word = g->slots[k]->value ^ (part->low ? mask : 0);
        uint32_t bits = (word & mask) >> part->ref.lsb;
        value = part->ref.width < 32 ? value << part->ref.width | bits : bits;
        all = all && bits == mask >> part->ref.lsb;
    }
    return g->place.form == WAD_PLACE_ALL ? all : value;
}

static void set_mask(wad_sim *sim, bool closed)
{
    if (__builtin_expect(sim->ears & WADI_EAR_MASK, 0))
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_MASK, .on = closed});
    sim->cpu.masked = closed;
    if (!closed && !sim->cpu.was_unmasked) {
        sim->cpu.was_unmasked = true;
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_ENABLE, .line = WADI_NO_LINE});
    }
    wadi_cpu_recheck(sim);
}

static void follow(wad_sim *sim, const wadi_gate *g)
{
    uint32_t value = value_of(g);
    if (g->what == WADI_GATE_GLOBAL)
        set_mask(sim, !value);
    else if (g->what == WADI_GATE_ENABLED)
        wadi_line_enable(sim, g->line->line, value != 0);
    else
        wadi_line_rank(sim, g->line->line, value, g->line->first_high ? MOST_KEY - value : value);
}

void wadi_controller_settle(wad_sim *sim, const wadi_slot *slot)
{
    for (guint i = 0; i < sim->cpu.gates->len; i++) {
        const wadi_gate *g = sim->cpu.gates->pdata[i];
        for (unsigned k = 0; k < g->place.n_parts; k++)
            if (g->slots[k] == slot) {
                follow(sim, g);
                break;
            }
    }
    wadi_lines_choose(sim);
}

void wadi_controller_reset(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_vectors; i++)
        if (!sim->cpu.lines[i].governed) { /* nothing masks it */
            wadi_line_rank(sim, i, 0, 0);
            wadi_line_enable(sim, i, true);
        }
    for (guint i = 0; i < sim->cpu.gates->len; i++)
        follow(sim, sim->cpu.gates->pdata[i]);
    wadi_lines_choose(sim);
}

void wadi_cpu_mask(wad_sim *sim, bool closed)
{
    wadi_slot *slot = sim->cpu.global;
    if (!slot) {
        set_mask(sim, closed);
        return;
    }
    uint32_t mask = (uint32_t)wad_fieldref_mask(&sim->sheet->cpu.global);
    wadi_slot_store(slot, closed ? slot->value & ~mask : slot->value | mask);
    wadi_controller_settle(sim, slot);
}

void wadi_cpu_write(wad_sim *sim, const GArray *sets)
{
    for (guint i = 0; i < sets->len; i++) {
        const wadi_set *set = &g_array_index(sets, wadi_set, i);
        wadi_slot *slot = set->slot;
        wad_write w = {0, slot->reg, slot->index, slot->value, 0, 0};
        wadi_slot_store(slot, (slot->value & ~set->mask) | set->bits);
        w.after = slot->value;
        wadi_tell_models(slot, &w);
        if (slot->gates)
            wadi_controller_settle(sim, slot);
    }
}
