/* SPDX-License-Identifier: MIT */
/* All registers as they stand, as lines that wad_dump_read takes. */
#include "internal.h"

static void dump_register(wad_sim *sim, const wad_instance *b, const wad_register *r, FILE *out)
{
    for (uint32_t i = 0; i < (r->count ? r->count : 1); i++) {
        wad_fieldref ref = {.block = b, .reg = r, .reg_index = i};
        uint32_t value;
        if (!wad_sim_peek(sim, wad_fieldref_address(&ref), &value))
            continue;
        char *name = wad_fieldref_name(&ref);
        fprintf(out, "%-16s 0x%0*X\n", name, r->width / 4, value);
        g_free(name);
    }
}

void wad_sim_dump(wad_sim *sim, FILE *out)
{
    const wad_sheet *s = sim->sheet;
    fprintf(out, "# %s at %.9g s\n", s->name, (double)sim->now / 1e12);
    for (unsigned i = 0; i < s->n_blocks; i++)
        for (unsigned k = 0; k < s->blocks[i]->layout->n_regs; k++) {
            const wad_register *r = s->blocks[i]->layout->regs[k];
            if (!r->alias && r->access != WAD_ACCESS_WO)
                dump_register(sim, s->blocks[i], r, out);
        }
}
