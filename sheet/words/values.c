/* SPDX-License-Identifier: MIT */
#include "values.h"

#include <glib.h>

#include "wadium/host/clocktree.h"

wad_regs *wad_regs_new(const wad_sheet *sheet)
{
    wad_regs *regs = g_new0(wad_regs, 1);
    regs->sheet = sheet;
    regs->values = g_hash_table_new_full(g_int64_hash, g_int64_equal, g_free, g_free);
    return regs;
}

void wad_regs_free(wad_regs *regs)
{
    if (!regs)
        return;
    g_hash_table_destroy(regs->values);
    g_free(regs);
}

uint64_t wad_regs_read(void *ctx, const wad_instance *block, const wad_register *reg,
                       uint32_t reg_index)
{
    const wad_regs *regs = ctx;
    uint64_t address = block->base + reg->offset + (uint64_t)reg_index * reg->step;
    const uint64_t *value = g_hash_table_lookup(regs->values, &address);
    return value ? *value : reg->reset;
}

uint64_t wad_regs_get(const wad_regs *regs, const wad_fieldref *ref)
{
    uint64_t word = wad_regs_read((void *)regs, ref->block, ref->reg, ref->reg_index);
    return (word & wad_fieldref_mask(ref)) >> ref->lsb;
}

void wad_regs_put(wad_regs *regs, const wad_fieldref *ref, uint64_t word)
{
    uint64_t address = wad_fieldref_address(ref);
    g_hash_table_insert(regs->values, g_memdup2(&address, sizeof address),
                        g_memdup2(&word, sizeof word));
}

void wad_regs_load(wad_regs *regs, const wad_dump *dump)
{
    for (unsigned i = 0; i < wad_dump_count(dump); i++)
        wad_regs_put(regs, &wad_dump_word(dump, i)->ref, wad_dump_word(dump, i)->value);
}

bool wad_parse_address(const wad_sheet *sheet, const char *text, uint64_t *address)
{
    for (unsigned i = 0; i < sheet->n_spaces; i++) {
        const wad_space *s = sheet->spaces[i];
        size_t n = strlen(s->name);
        if (strncmp(text, s->name, n) || text[n] != ':')
            continue;
        bool ok = wad_parse_number(text + n + 1, address) && *address < s->size;
        *address += s->at;
        return ok;
    }
    return wad_parse_number(text, address);
}
