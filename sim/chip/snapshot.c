/* SPDX-License-Identifier: MIT */
/* All registers as they stand, as lines that wad_dump_read takes. */
#include "wadium/host/snapshot.h"
#include "sim/core/block.h"
#include "sim/core/sim.h"

typedef void (*hear)(void *ctx, const wad_fieldref *ref, uint32_t value);

static void each_of(wad_sim *sim, const wad_instance *b, const wad_register *r, hear fn, void *ctx)
{
    for (uint32_t i = 0; i < (r->count ? r->count : 1); i++) {
        wad_fieldref ref = {.block = b, .reg = wad_register_element(r, i), .reg_index = i};
        uint32_t value;
        if (ref.reg->access != WAD_ACCESS_WO &&
            wad_sim_peek(sim, wad_fieldref_address(&ref), &value))
            fn(ctx, &ref, value);
    }
}

static void each_register(wad_sim *sim, hear fn, void *ctx)
{
    const wad_sheet *s = sim->sheet;
    for (unsigned i = 0; i < s->n_blocks; i++)
        for (unsigned k = 0; k < s->blocks[i]->layout->n_regs; k++) {
            const wad_register *r = s->blocks[i]->layout->regs[k];
            if (!r->alias)
                each_of(sim, s->blocks[i], r, fn, ctx);
        }
}

static void print(void *ctx, const wad_fieldref *ref, uint32_t value)
{
    char *name = wad_fieldref_name(ref);
    fprintf(ctx, "%-16s 0x%0*X\n", name, ref->reg->width / 4, value);
    g_free(name);
}

void wad_sim_dump(wad_sim *sim, FILE *out)
{
    fprintf(out, "# %s at %.9g s\n", sim->sheet->name, (double)sim->now / 1e12);
    each_register(sim, print, out);
}

typedef struct putter {
    wad_sim *sim;
    wad_snapshot *snapshot;
} putter;

static void put(void *ctx, const wad_fieldref *ref, uint32_t value)
{
    const putter *p = ctx;
    if (p->sim->blocks[ref->block->index].blocked)
        wad_snapshot_leave_out(p->snapshot, ref, "its block is off");
    else
        wad_snapshot_put(p->snapshot, ref, value);
}

/* Of blocks that are on: the others answer nobody. */
void wad_sim_snapshot(wad_sim *sim, struct wad_snapshot *snapshot)
{
    putter p = {sim, snapshot};
    each_register(sim, put, &p);
}
