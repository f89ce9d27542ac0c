/* SPDX-License-Identifier: MIT */
#include "value.h"

#include <string.h>

#include "bench.h"
#include "lang/cursor.h"
#include "lang/rational.h"
#include "sheet/read/number.h"

bool wadi_parse_ps(wadi_cursor *c, uint64_t *ps)
{
    wad_rational value;
    wad_unit unit;
    wad_where where = c->tok->where;
    if (!wadi_take_amount(c, &value, &unit))
        return false;
    wad_rational scaled;
    if (unit != WAD_UNIT_S || !wadi_rat_mul(value, wadi_int((int64_t)WAD_PS_PER_S), &scaled) ||
        scaled.num < 0) {
        wadi_error(c->src, &where, "expected a time such as 200 ms, at most 106 days");
        c->failed = true;
        return false;
    }
    *ps = (uint64_t)wadi_rat_floor(scaled);
    return true;
}

/* A part with one wire stands for its pin; of several wires one is named: THERMO.CS. */
static const wad_pin_def *pin_of_part(wadi_cursor *c, const wad_part_def *p)
{
    const char *wire = "";
    wad_where where = c->tok->where;
    if (p->n_wires != 1 || wadi_at_punct(c, ".")) {
        if (!wadi_take_punct(c, ".")) {
            wadi_error(c->src, &where, "part '%s' has several wires: name one, as %s.%s", p->name,
                       p->name, p->n_wires ? p->wires[0].name : "WIRE");
            c->failed = true;
            return NULL;
        }
        wire = wadi_need_name(c, "the wire's name");
    }
    for (unsigned i = 0; wire && i < p->n_wires; i++)
        if (!strcmp(p->wires[i].name, wire))
            return p->wires[i].pin;
    return NULL;
}

const wad_pin_def *wadi_parse_pin_of(const wad_bench *b, wadi_cursor *c, const wad_part_def **part)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a pin, or a part of the board");
    if (part)
        *part = NULL;
    if (!name)
        return NULL;
    const wad_part_def *p = b->board ? wad_board_part(b->board, name) : NULL;
    const wad_pin_def *pin = p ? pin_of_part(c, p) : wad_sheet_pin(b->sheet, name);
    if (p && part)
        *part = p;
    if (pin || c->failed)
        return pin;
    wadi_error(c->src, &where,
               p ? "that wire of part '%s' goes to no pin of the chip"
                 : "neither the board has a part nor the chip a pin '%s'",
               name);
    c->failed = true;
    return NULL;
}

const wad_pin_def *wadi_parse_pin(const wad_bench *b, wadi_cursor *c)
{
    return wadi_parse_pin_of(b, c, NULL);
}

bool wadi_parse_level(wadi_cursor *c, wad_level *level)
{
    static const char *const words[] = {"low", "high", "floating"};
    for (unsigned i = 0; i < 3; i++)
        if (wadi_take_word(c, words[i])) {
            *level = (wad_level)i;
            return true;
        }
    wadi_expected(c, "'high', 'low' or 'floating'");
    return false;
}

void wadi_fail(wadi_cursor *c, const wad_where *where, const char *message)
{
    if (!c->failed)
        wadi_error(c->src, where, "%s", message);
    c->failed = true;
}

void wadi_parse_span(wadi_cursor *c, uint64_t *at_ps, uint64_t *for_ps, bool must_end)
{
    if (wadi_take_word(c, "at"))
        wadi_parse_ps(c, at_ps);
    wad_where where = c->tok->where;
    if (wadi_take_word(c, "for") && wadi_parse_ps(c, for_ps) && !*for_ps)
        wadi_fail(c, &where, "it must last some time");
    if (must_end && !*for_ps)
        wadi_fail(c, &where, "say how long: for 2 us");
}

char *wadi_bench_path(const wad_bench *b, const char *name)
{
    char *folder = b->file ? g_path_get_dirname(b->file) : g_strdup(".");
    char *path = g_path_is_absolute(name) ? g_strdup(name) : g_build_filename(folder, name, NULL);
    g_free(folder);
    return path;
}
