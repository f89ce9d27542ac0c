/* SPDX-License-Identifier: MIT */
/* How recordings that were made elsewhere are taken. */
#include <string.h>

#include "lang/cursor.h"
#include "statement.h"
#include "value.h"

/* A captured pin by the name that the bench gave it; -1: it said what is wrong. */
static int parse_probe(const wad_bench *b, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a captured pin");
    for (guint i = 0; name && i < b->probes->len; i++)
        if (!strcmp(g_array_index(b->probes, wadi_probe, i).name, name))
            return (int)i;
    if (name) {
        wadi_error(c->src, &where, "'%s' is not captured: write 'capture' before 'recorded'", name);
        c->failed = true;
    }
    return -1;
}

/* `recorded from rising lamp [at 1 s]` */
static void say_zero(wad_bench *b, wadi_cursor *c)
{
    wadi_recording *r = &b->recording;
    if (wadi_take_word(c, "falling"))
        r->zero_falls = true;
    else
        wadi_need_word(c, "rising");
    int probe = parse_probe(b, c);
    if (wadi_take_word(c, "at"))
        wadi_parse_ps(c, &r->zero_at_ps);
    if (!wadi_need_end(c) || probe < 0)
        return;
    r->has_zero = true;
    r->zero_probe = (unsigned)probe;
}

/* `recorded lamp as "D0"` */
static void say_name(wad_bench *b, wadi_cursor *c)
{
    wadi_recorded r = {0};
    int probe = parse_probe(b, c);
    if (!wadi_need_word(c, "as"))
        return;
    const char *name = wadi_need_string(c, "its name in recordings, in quotes");
    if (!name || probe < 0 || !wadi_need_end(c))
        return;
    r.name = wadi_arena_strndup(b->arena, name, strlen(name));
    r.probe = (unsigned)probe;
    g_array_append_val(b->recorded, r);
}

static void say_recorded(wad_bench *b, wadi_cursor *c, const char *word)
{
    (void)word;
    if (wadi_take_word(c, "from"))
        say_zero(b, c);
    else if (wadi_take_word(c, "glitches")) {
        wadi_need_word(c, "below");
        (void)(wadi_parse_ps(c, &b->recording.glitch_ps) && wadi_need_end(c));
    } else
        say_name(b, c);
}

const wadi_statement_class wadi_say_recorded = {.words = "recorded", .parse = say_recorded};
