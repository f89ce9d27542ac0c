/* SPDX-License-Identifier: MIT */
/* `spi THERMO mode 0 limit 4 MHz`, `spi ECHO as echo bits 16`, `spi GAUGE in "gauge.c"`. */
#include <string.h>

#include "bench/language/probe.h"
#include "bench/language/value.h"
#include "lang/cursor.h"
#include "part_say.h"
#include "sheet/read/number.h"
#include "spi_shell.h"

static void parse_class(wad_bench *b, wadi_cursor *c, wadi_part_said *said,
                        const wad_part_def *part)
{
    wad_where where = c->tok->where;
    const char *kind = part->kind;
    if (wadi_take_word(c, "in")) {
        said->cls = wadi_part_from_file(b, c);
        if (said->cls && !said->cls->spi)
            wadi_fail(c, &where, "its class is no device on an SPI bus: it has no 'spi'");
        return;
    }
    if (wadi_take_word(c, "as"))
        kind = wadi_need_name(c, "a kind of device");
    said->cls = kind ? wadi_part_class_of(kind) : NULL;
    if (kind && (!said->cls || !said->cls->spi))
        wadi_fail(c, &where,
                  "a device is a thermometer, a flash or an echo register: spi NAME as echo");
}

/* `mode 3 bits 16 lsb first select high limit 4 MHz`, in any order; `chip`: as the chip is set */
static void parse_form(wadi_cursor *c, wadi_spi_form *form, unsigned bits)
{
    int64_t n = 0;
    while (!wadi_at_end(c) && !c->failed) {
        wad_where where = c->tok->where;
        if (wadi_take_word(c, "chip"))
            form->as_chip = true;
        else if (wadi_take_word(c, "mode") && wadi_take_number(c, "the mode", 0, 3, &n))
            form->mode = (unsigned)n;
        else if (wadi_take_word(c, "bits") && wadi_take_number(c, "the bits of a frame", 4, 32, &n))
            form->bits = (unsigned)n;
        else if (wadi_take_word(c, "lsb"))
            form->lsb_first = wadi_need_word(c, "first");
        else if (wadi_take_word(c, "select"))
            form->select_high = wadi_need_word(c, "high");
        else if (wadi_take_word(c, "limit"))
            wadi_take_quantity(c, WAD_UNIT_HZ, &form->limit_hz);
        else if (!c->failed)
            wadi_expected(
                c, "'as KIND', 'chip', 'mode', 'bits', 'lsb first', 'select high' or 'limit'");
        if (bits && (form->bits != bits || form->as_chip)) {
            char *text =
                g_strdup_printf("this kind of device has one form, with frames of %u bits", bits);
            wadi_fail(c, &where, text);
            g_free(text);
        }
    }
}

static void parse(wad_bench *b, wadi_cursor *c, const char *word)
{
    wadi_part_said said = {.cls = wadi_part_class_of("echo"), .shell = &wadi_spi_shell};
    wadi_spi_form *form = wadi_arena_alloc(b->arena, sizeof *form);
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a part of the board with wires CS, SCK, MISO and MOSI");
    const wad_part_def *part = name && b->board ? wad_board_part(b->board, name) : NULL;
    (void)word;
    if (!name)
        return;
    said.name = wadi_arena_strndup(b->arena, name, strlen(name));
    if (!wadi_part_on_board(&said, part))
        wadi_fail(c, &where,
                  "the board has no part of that name with wires CS, SCK, MISO and MOSI");
    else if (wadi_bench_part(b, name) >= 0)
        wadi_fail(c, &where, "that device is there already");
    if (!part || c->failed)
        return;
    parse_class(b, c, &said, part);
    if (c->failed || !said.cls)
        return;
    unsigned bits = said.cls->spi->bits;
    *form = (wadi_spi_form){.limit_hz = {0, 1}, .bits = bits ? bits : 8};
    said.form = form;
    parse_form(c, form, bits);
    if (!wadi_part_on_board(&said, part))
        wadi_fail(c, &where, "the board's part lacks a wire that the device's class names");
    if (wadi_need_end(c))
        wadi_part_keep(b, &said);
}

const wadi_statement_class wadi_say_spi = {.words = "spi", .of = "a bus's", .parse = parse};
