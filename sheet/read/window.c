/* SPDX-License-Identifier: MIT */
/* `window at 0x800 toggles of T0 UA`: registers once more at other addresses, or bit by bit. */
#include <string.h>

#include "build.h"
#include "lang/rational.h"

#define LARGEST (INT64_C(1) << 28)

static bool take_verb(wadi_cursor *c, wad_window *w)
{
    for (unsigned i = WAD_ALIAS_SETS; i <= WAD_ALIAS_IS; i++)
        if (wadi_take_word(c, wad_alias_word((wad_alias)i))) {
            w->verb = (wad_alias)i;
            return true;
        }
    w->bits = wadi_take_word(c, "bits");
    if (!w->bits)
        wadi_expected(c, "'is', 'sets', 'clears', 'toggles' or 'bits': what the window does");
    return w->bits;
}

static const wad_instance *find_block(wadi_build *b, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a block's name");
    for (unsigned i = 0; name && i < b->blocks->len; i++) {
        const wad_instance *block = b->blocks->pdata[i];
        if (!block->home && !strcmp(block->name, name))
            return block;
    }
    if (name)
        wadi_error(c->src, &where, "there is no block '%s'", name);
    c->failed = true;
    return NULL;
}

static void parse_region(wadi_build *b, wadi_cursor *c, wad_window *w)
{
    int64_t of;
    wad_rational size = {0, 1};
    if (!wadi_parse_int(b, c, NULL, "the first address that it shows", 0, UINT32_MAX, &of) ||
        !wadi_need_word(c, "size") || !wadi_parse_quantity(b, c, NULL, WAD_UNIT_BYTE, &size))
        return;
    w->of = (uint64_t)of;
    w->size = (uint64_t)wadi_rat_floor(size);
    if (!w->size || w->size > LARGEST) {
        wadi_error(c->src, &w->where, "a window shows from 1 byte to 256 MiB");
        c->failed = true;
    }
}

/* `block`: whose registers they are; NULL: it says so itself. */
void wadi_build_window(wadi_build *b, const wadi_stmt *stmt, const wad_instance *block)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    wad_window w = {.where = c.tok->where, .step = b->sheet->bus_bits / 8u};
    GPtrArray *blocks = g_ptr_array_new();
    int64_t at, step = w.step;
    c.tok++;
    if (!wadi_need_word(&c, "at") ||
        !wadi_parse_int(b, &c, NULL, "the window's address", 1, UINT32_MAX, &at) ||
        !take_verb(&c, &w))
        goto out;
    w.at = (uint64_t)at;
    if (w.bits && wadi_take_word(&c, "step"))
        wadi_parse_int(b, &c, NULL, "bytes between bits", 1, 64, &step);
    w.step = (uint32_t)step;
    if (block) {
        g_ptr_array_add(blocks, (gpointer)block);
    } else if (wadi_need_word(&c, "of")) {
        if (c.tok->type == WADI_T_NUMBER)
            parse_region(b, &c, &w);
        while (!w.size && !c.failed && !wadi_at_end(&c))
            g_ptr_array_add(blocks, (gpointer)find_block(b, &c));
        if (!c.failed && !w.size && !blocks->len)
            wadi_expected(&c, "a block's name, or an address and 'size'");
    }
    if (!wadi_need_end(&c))
        goto out;
    if (w.bits != (w.size != 0)) {
        wadi_error(b->src, &w.where,
                   "a window of bits shows an address range: window at 0x7200_0000 bits of "
                   "0x7000_0000 size 1 MiB; one of registers shows blocks");
        goto out;
    }
    w.n_blocks = blocks->len;
    w.blocks = wadi_arena_copy(b->arena, blocks->pdata, blocks->len, sizeof(gpointer));
    g_array_append_val(b->windows, w);
out:
    g_ptr_array_free(blocks, TRUE);
}

/* Where a window shows what others have already. */
static void check_apart(wadi_build *b, const wad_window *w, uint64_t from, uint64_t to)
{
    for (unsigned i = 0; i < b->blocks->len; i++) {
        const wad_instance *block = b->blocks->pdata[i];
        if (block->home || !block->layout)
            continue;
        for (unsigned k = 0; k < block->layout->n_regs; k++) {
            const wad_register *r = block->layout->regs[k];
            uint64_t at = block->base + r->offset;
            uint64_t end = at + (r->count ? (r->count - 1) * r->step : 0) + wad_register_bytes(r);
            if (at < to && from < end) {
                wadi_error(b->src, &w->where, "the window lies over register %s of block '%s'",
                           r->name, block->name);
                return;
            }
        }
    }
}

void wadi_finish_windows(wadi_build *b)
{
    for (unsigned i = 0; i < b->windows->len; i++) {
        const wad_window *w = &g_array_index(b->windows, wad_window, i);
        if (w->size && w->at + w->size * 8 * w->step > UINT64_C(1) << 32)
            wadi_error(b->src, &w->where, "the window ends beyond the 32-bit address space");
        else if (w->size)
            check_apart(b, w, w->at, w->at + w->size * 8 * w->step);
        for (unsigned k = 0; k < w->n_blocks; k++) {
            const wad_instance *block = w->blocks[k];
            if (block->layout)
                check_apart(b, w, block->base + w->at, block->base + w->at + block->layout->size);
        }
    }
    b->sheet->n_windows = b->windows->len;
    b->sheet->windows =
        wadi_arena_copy(b->arena, b->windows->data, b->windows->len, sizeof(wad_window));
}
