/* SPDX-License-Identifier: MIT */
/* The bench language's words for serial lines: uart, send, reply. */
#include <string.h>

#include "internal.h"
#include "sheet/rational.h"

int wadi_bench_peer(const wad_bench *b, const char *name)
{
    for (guint i = 0; i < b->peers->len; i++)
        if (!strcmp(g_array_index(b->peers, wadi_peer_def, i).name, name))
            return (int)i;
    return -1;
}

static const wad_pin_def *wire(const wad_part_def *part, const char *name)
{
    for (unsigned i = 0; i < part->n_wires; i++)
        if (!strcmp(part->wires[i].name, name))
            return part->wires[i].pin;
    return NULL;
}

static void fail(wadi_cursor *c, const wad_where *where, const char *message)
{
    if (!c->failed)
        wadi_error(c->src, where, "%s", message);
    c->failed = true;
}

/* The share by which its clock is off goes into the baud. */
static void parse_off(wadi_cursor *c, wadi_peer_def *def)
{
    wadi_build none = {.src = c->src, .arena = c->src->arena};
    bool slow = wadi_take_punct(c, "-");
    wad_where where = c->tok->where;
    wad_rational share, factor;
    if (!wadi_parse_quantity(&none, c, NULL, WAD_UNIT_PART, &share))
        return;
    share.num = slow ? -share.num : share.num;
    if (!wadi_rat_add(wadi_int(1), share, &factor) || factor.num <= 0 ||
        !wadi_rat_mul(def->format.baud, factor, &def->format.baud))
        fail(c, &where, "the peer's clock cannot be that far off");
}

/* `uart LINK at 115200 format "7E1" off 0.5 %` */
void wadi_say_uart(wad_bench *b, wadi_cursor *c)
{
    wadi_build none = {.src = c->src, .arena = c->src->arena};
    wadi_peer_def def = {.format = {.bits = 8, .parity = 'N', .stop_halves = 2}};
    wad_where where = c->tok->where;
    int64_t baud;
    def.name = wadi_need_name(c, "a serial line of the board, with wires TX and RX");
    const wad_part_def *part = def.name && b->board ? wad_board_part(b->board, def.name) : NULL;
    if (part) {
        def.hears = wire(part, "TX");
        def.drives = wire(part, "RX");
    }
    if (def.name && !def.hears && !def.drives)
        fail(c, &where, "the board has no part of that name with wires TX and RX");
    if (!wadi_need_word(c, "at") ||
        !wadi_parse_int(&none, c, NULL, "the baud", 1, 100000000, &baud))
        return;
    def.format.baud = wadi_int(baud);
    where = c->tok->where;
    if (wadi_take_word(c, "format")) {
        const char *format = wadi_need_string(c, "a format such as \"8N1\"");
        if (format && !wadi_serial_parse(format, &def.format))
            fail(c, &where, "a format is data bits, parity and stop bits: \"8N1\", \"7E1.5\"");
    }
    if (wadi_take_word(c, "off"))
        parse_off(c, &def);
    if (!wadi_need_end(c) || !def.name)
        return;
    def.name = wadi_arena_strndup(b->arena, def.name, strlen(def.name));
    g_array_append_val(b->peers, def);
}

void wadi_say_text(wad_bench *b, wadi_cursor *c, bool reply)
{
    wadi_peer_say say = {0};
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a serial line");
    int peer = name ? wadi_bench_peer(b, name) : -1;
    if (name && peer < 0)
        fail(c, &where, "no such serial line yet: uart NAME at 115200");
    const char *text = wadi_need_string(c, "the text in quotes");
    if (reply && wadi_need_word(c, "to")) {
        const char *to = wadi_need_string(c, "what it answers to, in quotes");
        say.to = to ? wadi_arena_strndup(b->arena, to, strlen(to)) : NULL;
    } else if (!reply && wadi_need_word(c, "at")) {
        wadi_parse_ps(c, &say.at_ps);
    }
    if (!wadi_need_end(c) || !text)
        return;
    say.peer = (unsigned)peer;
    say.n = strlen(text);
    say.text = wadi_arena_strndup(b->arena, text, say.n);
    g_array_append_val(b->says, say);
}
