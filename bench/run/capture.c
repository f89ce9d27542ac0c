/* SPDX-License-Identifier: MIT */
/* `capture`: pins, handlers, volts, the chip's current, channels of DMA. */
#include <string.h>

#include "bench/language/block_name.h"
#include "bench/language/dma.h"
#include "bench/language/probe.h"
#include "bench/language/statement.h"
#include "bench/language/value.h"
#include "bench/world/volt_say.h"

/* `capture CNT0 interrupt [as NAME]` */
static bool say_capture_irq(wad_bench *b, wadi_cursor *c)
{
    unsigned line;
    const char *name;
    if (!wadi_take_line(c, b->sheet, &line, &name))
        return false;
    if (wadi_take_word(c, "as"))
        name = wadi_need_name(c, "a name for the captured interrupt");
    if (wadi_need_end(c))
        wadi_bench_capture_irq(b, line, name);
    return true;
}

static void say_capture(wad_bench *b, wadi_cursor *c, const char *word)
{
    (void)word;
    if (say_capture_irq(b, c) || wadi_say_capture_dma(b, c) ||
        (wadi_take_word(c, "current") && wadi_capture_volts(b, c, NULL, "current")))
        return;
    wad_where where = c->tok->where;
    const char *written = c->tok->type == WADI_T_NAME ? c->tok->text : "";
    wadi_probe probe = {0};
    probe.pin = wadi_parse_pin_of(b, c, NULL);
    char *lower = g_ascii_strdown(written, -1);
    probe.name = wadi_arena_strndup(b->arena, lower, strlen(lower));
    g_free(lower);
    if (c->failed || wadi_capture_volts(b, c, probe.pin, probe.name))
        return;
    if (wadi_take_word(c, "as")) {
        const char *name = wadi_need_name(c, "a name for the captured pin");
        if (name)
            probe.name = wadi_arena_strndup(b->arena, name, strlen(name));
    }
    if (!wadi_need_end(c))
        return;
    if (wadi_bench_probe(b, probe.name) >= 0) {
        wadi_error(c->src, &where, "'%s' is captured already", probe.name);
        c->failed = true;
        return;
    }
    g_array_append_val(b->probes, probe);
}

const wadi_statement_class wadi_say_capture = {.words = "capture", .parse = say_capture};
