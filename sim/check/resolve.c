/* SPDX-License-Identifier: MIT */
#include "resolve.h"

#include "silence.h"
#include "sim/core/report.h"
#include "sim/core/sim.h"
#include "sim/host/source.h"

static bool same_place(const wad_finding *a, const wad_finding *b)
{
    return a->n_places && b->n_places && a->places[0].file &&
           a->places[0].file == b->places[0].file && a->places[0].line == b->places[0].line;
}

/* The read and the write of one `|=` are one mistake: a line tells a register's finding once. */
static bool merge_into_earlier(wad_sim *sim, guint n)
{
    const wadi_finding_item *it = sim->told.findings->pdata[n];
    for (guint i = 0; i < n; i++) {
        wadi_finding_item *other = sim->told.findings->pdata[i];
        if (other->shown.kind != it->shown.kind || other->address != it->address ||
            !same_place(&other->shown, &it->shown))
            continue;
        other->shown.count += it->shown.count;
        other->shown.last_ps = MAX(other->shown.last_ps, it->shown.last_ps);
        return true;
    }
    return false;
}

void wadi_findings_resolve(wad_sim *sim)
{
    for (guint i = 0; i < sim->told.findings->len; i++) {
        wadi_finding_item *it = sim->told.findings->pdata[i];
        it->shown.n_places =
            wadi_source_places(sim, &it->trace, it->shown.places, WAD_FINDING_PLACES);
        bool silenced = wadi_silenced(sim, &it->shown);
        sim->told.n_silenced += silenced;
        if (silenced || merge_into_earlier(sim, i)) {
            g_hash_table_remove(sim->told.keys, it);
            g_ptr_array_remove_index(sim->told.findings, i--);
        }
    }
}

/* ---- what only the end shows ---- */

unsigned wad_sim_finding_count(const wad_sim *sim)
{
    return sim->told.findings->len;
}

const wad_finding *wad_sim_finding(const wad_sim *sim, unsigned i)
{
    return i < sim->told.findings->len ? &((wadi_finding_item *)sim->told.findings->pdata[i])->shown
                                       : NULL;
}
