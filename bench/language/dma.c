/* SPDX-License-Identifier: MIT */
#include "dma.h"

#include <string.h>

#include "bench.h"
#include "block_name.h"
#include "lang/cursor.h"
#include "probe.h"
#include "said.h"
#include "sheet/read/path.h"

const wad_instance *wadi_take_dma(const wad_bench *b, wadi_cursor *c)
{
    wadi_cursor start = *c;
    const wad_instance *block = wadi_take_unit(c, b->sheet);
    if (block && wad_acts_as(block->layout, "dma"))
        return block;
    *c = start;
    return NULL;
}

bool wadi_parse_channel(wadi_cursor *c, const wad_instance *block, unsigned *channel)
{
    unsigned n = wad_role_count(wad_layout_role(block->layout, "enable"));
    wad_where where = c->tok->where;
    if (c->tok->type == WADI_T_NUMBER && c->tok->number.den == 1 && c->tok->number.num >= 0 &&
        c->tok->number.num < (int64_t)n) {
        *channel = (unsigned)c->tok->number.num;
        c->tok++;
        return true;
    }
    wadi_error(c->src, &where, "%s has channels 0 to %u", block->name, n - 1);
    c->failed = true;
    return false;
}

static bool parse_request(wadi_cursor *c, const wad_instance *block, unsigned *code)
{
    wad_where where = c->tok->where;
    wadi_path path;
    if (!wadi_parse_path(c, NULL, &path))
        return false;
    const wad_role *role = wad_layout_role(block->layout, "request");
    const char *name = wadi_path_text(c->src->arena, &path);
    const wad_trigger *t = role ? wad_selected_by_name(block, role->field, name) : NULL;
    if (t) {
        *code = t->code;
        return true;
    }
    wadi_error(c->src, &where, "'%s' does not ask %s: 'wadium show CHIP dma' lists who does", name,
               block->name);
    c->failed = true;
    return false;
}

bool wadi_say_capture_dma(wad_bench *b, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    wadi_probe probe = {.dma.block = wadi_take_dma(b, c)};
    if (!probe.dma.block)
        return false;
    probe.dma.is_request = wadi_take_word(c, "request");
    if (probe.dma.is_request) {
        if (parse_request(c, probe.dma.block, &probe.dma.number))
            probe.name = wadi_arena_printf(b->arena, "request_%u", probe.dma.number);
    } else if (wadi_take_word(c, "channel")) {
        if (wadi_parse_channel(c, probe.dma.block, &probe.dma.number))
            probe.name = wadi_arena_printf(b->arena, "channel_%u", probe.dma.number);
    } else {
        wadi_expected(c, "'channel NUMBER' or 'request BLOCK.ROLE'");
    }
    if (!c->failed && wadi_take_word(c, "as")) {
        const char *name = wadi_need_name(c, "a name for the captured signal");
        probe.name = name ? wadi_arena_strndup(b->arena, name, strlen(name)) : probe.name;
    }
    if (c->failed || !wadi_need_end(c))
        return true;
    if (wadi_bench_probe(b, probe.name) >= 0) {
        wadi_error(c->src, &where, "'%s' is captured already", probe.name);
        c->failed = true;
        return true;
    }
    g_array_append_val(b->probes, probe);
    return true;
}
