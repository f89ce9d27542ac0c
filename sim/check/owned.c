/* SPDX-License-Identifier: MIT */
/* Memory that a DMA transfer works on, and the CPU that touches it meanwhile. */
#include "owned.h"

#include "list.h"
#include "sim/core/block.h"
#include "sim/core/model.h"
#include "sim/core/report.h"
#include "sim/core/sim.h"
#include "sim/host/source.h"

typedef struct owned {
    wad_model *owner;
    uint64_t start, size;
    bool written; /* by the transfer; else only read */
    uint64_t since;
} owned;

void wad_model_own(wad_model *m, uint64_t address, uint64_t size, bool writes)
{
    wad_sim *sim = m->sim;
    owned o = {m, address + sim->host.fw.window, size, writes, sim->now};
    if (!sim->owned)
        sim->owned = g_array_new(FALSE, FALSE, sizeof(owned));
    g_array_append_val(sim->owned, o);
    wadi_hear(wadi_observer_of(sim, &wadi_check_owned), WADI_EAR_OWNED, true);
}

void wad_model_disown(wad_model *m, uint64_t address)
{
    wad_sim *sim = m->sim;
    for (guint i = 0; sim->owned && i < sim->owned->len; i++) {
        const owned *o = &g_array_index(sim->owned, owned, i);
        if (o->owner == m && o->start == address + sim->host.fw.window) {
            g_array_remove_index_fast(sim->owned, i);
            break;
        }
    }
    if (sim->owned && !sim->owned->len)
        wadi_hear(wadi_observer_of(sim, &wadi_check_owned), WADI_EAR_OWNED, false);
}

void wadi_owned_access(wad_sim *sim, uintptr_t address, size_t bytes, bool write)
{
    for (guint i = 0; sim->owned && i < sim->owned->len; i++) {
        const owned *o = &g_array_index(sim->owned, owned, i);
        if (address >= o->start + o->size || o->start >= address + bytes || !(write || o->written))
            continue;
        wadi_slot stand_in = {.address = o->start};
        wadi_trace trace = wadi_trace_here(sim);
        if (wadi_report_again(sim, WAD_FINDING_DMA_OWNED, &stand_in, &trace))
            continue;
        char *name = wadi_source_variable(sim, address);
        wadi_report_at(sim, WAD_FINDING_DMA_OWNED, &stand_in, &trace,
                       "'%s' is %s while %s %s it (since %.3f us)", name,
                       write ? "written" : "read", o->owner->block->inst->name,
                       o->written ? "fills" : "sends", (double)o->since / 1e6);
        g_free(name);
    }
}

static void hear(wadi_observer *o, const wadi_told *t)
{
    (void)t;
    if (o->sim->owned)
        g_array_set_size(o->sim->owned, 0);
    wadi_hear(o, WADI_EAR_OWNED, false);
}

static void detach(wadi_observer *o)
{
    if (o->sim->owned)
        g_array_free(o->sim->owned, TRUE);
}

const wadi_observer_class wadi_check_owned = {
    .name = "owned",
    .standing = WADI_EAR_RESET,
    .detach = detach,
    .hear = hear,
};
