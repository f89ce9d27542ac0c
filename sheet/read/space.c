/* SPDX-License-Identifier: MIT */
/* Address spaces with names of their own, and bits with addresses of their own. */
#include <string.h>

#include "build.h"

/* Where a space is here, unless the sheet says it: a chip of several spaces has short addresses. */
#define FIRST_SPACE UINT64_C(0x01000000)
#define SPACE_SIZE  UINT64_C(0x01000000)
#define BIT_SPACE   UINT64_C(0x00F00000)
#define BITS        0x10000

void wadi_parse_space(wadi_build *b, wadi_cursor *c)
{
    wad_space *space = WADI_NEW(b->arena, wad_space);
    int64_t at = (int64_t)(FIRST_SPACE + b->spaces->len * SPACE_SIZE);
    space->where = c->tok->where;
    space->name = wadi_need_name(c, "the space's name");
    if (wadi_take_word(c, "at") &&
        !wadi_parse_int(b, c, NULL, "where debuggers see the space", 0, UINT32_MAX, &at))
        return;
    space->at = (uint64_t)at;
    space->size = SPACE_SIZE;
    if (!c->failed && c->tok->type == WADI_T_STRING)
        space->text = (c->tok++)->text;
    if (!wadi_need_end(c))
        return;
    for (guint i = 0; i < b->spaces->len; i++) {
        wad_space *other = b->spaces->pdata[i];
        if (!strcmp(other->name, space->name))
            wadi_error(b->src, &space->where, "space '%s' stands twice", space->name);
        if (other->at < space->at) /* as far as the next one begins */
            other->size = MIN(other->size, space->at - other->at);
        else if (space->at < other->at)
            space->size = MIN(space->size, other->at - space->at);
        else
            wadi_error(b->src, &space->where, "spaces '%s' and '%s' begin at one address",
                       other->name, space->name);
    }
    g_ptr_array_add(b->spaces, space);
}

bool wadi_take_space(wadi_build *b, wadi_cursor *c, const wad_space **space)
{
    *space = NULL;
    if (!wadi_take_word(c, "in"))
        return true;
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "the space's name");
    for (guint i = 0; name && i < b->spaces->len; i++)
        if (!strcmp(((wad_space *)b->spaces->pdata[i])->name, name))
            *space = b->spaces->pdata[i];
    if (name && !*space) {
        wadi_error(c->src, &where, "there is no space '%s': say `space %s` before", name, name);
        c->failed = true;
    }
    return !c->failed;
}

static void check_inside(wadi_build *b, const wad_where *where, const char *what, const char *name,
                         const wad_space *space, uint64_t from, uint64_t size)
{
    for (guint i = 0; i < b->spaces->len; i++) {
        const wad_space *s = b->spaces->pdata[i];
        if (space && space == s && from + size > s->at + s->size)
            wadi_error(b->src, where, "%s '%s' ends beyond the 0x%llx bytes of space '%s'", what,
                       name, (unsigned long long)s->size, s->name);
        else if (s != space && (!space || space->at < s->at) && from < s->at + s->size &&
                 from + size > s->at)
            wadi_error(b->src, where,
                       "%s '%s' lies where space '%s' is kept here, at 0x%llx: give the space "
                       "another place, `space %s at ADDRESS`",
                       what, name, s->name, (unsigned long long)s->at, s->name);
    }
}

void wadi_check_spaces(wadi_build *b)
{
    const wad_sheet *s = b->sheet;
    for (unsigned i = 0; i < s->n_memories; i++)
        check_inside(b, &s->memories[i].where, "memory", s->memories[i].name, s->memories[i].space,
                     s->memories[i].base, s->memories[i].size);
    for (unsigned i = 0; i < s->n_blocks; i++) {
        const wad_instance *block = s->blocks[i];
        if (!block->home && block->layout)
            check_inside(b, &block->where, "block", block->name, block->space, block->base,
                         block->layout->size);
    }
}

/* ---- bits ---- */

static void add_bits(wadi_build *b, const wad_instance *block, const wad_register *reg, uint32_t i)
{
    wad_fieldref ref = {.block = block, .reg = reg, .reg_index = i};
    uint32_t bit;
    wad_fieldref_bit_address(&ref, &bit);
    wad_window w = {.where = reg->where,
                    .bits = true,
                    .at = BIT_SPACE + bit,
                    .of = wad_fieldref_address(&ref),
                    .size = wad_register_bytes(reg),
                    .step = 1,
                    .by_register = true};
    if (bit + reg->width > BITS) {
        wadi_error(b->src, &reg->where,
                   "the bits of '%s' end beyond address 0x%x: say where they "
                   "are, `bits at 0x88`",
                   reg->name, BITS - 1);
        return;
    }
    for (guint k = 0; k < b->windows->len; k++) {
        const wad_window *other = &g_array_index(b->windows, wad_window, k);
        if (other->by_register && other->at < w.at + reg->width &&
            w.at < other->at + other->size * 8) {
            wadi_error(b->src, &reg->where,
                       "bits of '%s' in block '%s' have addresses that others have already, from "
                       "0x%x on",
                       reg->name, block->name, bit);
            return;
        }
    }
    g_array_append_val(b->windows, w);
    b->sheet->bit_space = BIT_SPACE;
}

void wadi_build_bits(wadi_build *b)
{
    for (guint i = 0; i < b->blocks->len; i++) {
        const wad_instance *block = b->blocks->pdata[i];
        for (unsigned k = 0; !block->home && block->layout && k < block->layout->n_regs; k++) {
            const wad_register *r = block->layout->regs[k];
            for (uint32_t n = 0; r->bits && n < (r->count ? r->count : 1); n++)
                add_bits(b, block, r, n);
        }
    }
}
