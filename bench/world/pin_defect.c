/* SPDX-License-Identifier: MIT */
/* What is wrong with a board's pins: one that is stuck, a pull resistor that is missing. */
#include "pin_defect.h"

#include <string.h>

#include "bench/language/value.h"
#include "lang/cursor.h"

typedef struct defect {
    const wad_pin_def *pin;
    wad_level stuck; /* floating: its pull is missing */
    uint64_t at_ps, for_ps;
} defect;

/* ---- the language ---- */

/* Is the next word a pin or a part of one wire, and no serial line or bus? */
static bool names_pin(const wad_bench *b, const wadi_cursor *c)
{
    const char *name = c->tok->type == WADI_T_NAME ? c->tok->text : "";
    const wad_part_def *part = b->board ? wad_board_part(b->board, name) : NULL;
    return wad_sheet_pin(b->sheet, name) || (part && part->n_wires == 1);
}

/* `stick LEVEL1 low [at T] [for T]` */
static void say_stuck(wad_bench *b, wadi_cursor *c)
{
    defect d = {.pin = wadi_parse_pin(b, c)};
    if (wadi_take_word(c, "high"))
        d.stuck = WAD_HIGH;
    else if (wadi_take_word(c, "low"))
        d.stuck = WAD_LOW;
    else
        wadi_expected(c, "'low' or 'high'");
    if (wadi_take_word(c, "at"))
        wadi_parse_ps(c, &d.at_ps);
    if (wadi_take_word(c, "for"))
        wadi_parse_ps(c, &d.for_ps);
    if (wadi_need_end(c) && d.pin)
        wadi_bench_keep(b, &wadi_say_pin_defect, &d);
}

/* `pull TEST missing` */
static void say_pull(wad_bench *b, wadi_cursor *c)
{
    defect d = {.pin = wadi_parse_pin(b, c), .stuck = WAD_FLOATING};
    wadi_need_word(c, "missing");
    if (wadi_need_end(c) && d.pin)
        wadi_bench_keep(b, &wadi_say_pin_defect, &d);
}

static void parse(wad_bench *b, wadi_cursor *c, const char *word)
{
    (strcmp(word, "pull") ? say_stuck : say_pull)(b, c);
}

/* ---- in a run ---- */

bool wadi_pull_is_missing(const wad_bench *b, const wad_pin_def *pin)
{
    const defect *d;
    for (unsigned i = 0; (d = wadi_bench_said(b, &wadi_say_pin_defect, i)); i++)
        if (d->pin == pin && d->stuck == WAD_FLOATING)
            return true;
    return false;
}

typedef struct stuck_step {
    const wad_pin_def *pin;
    wad_level level;
} stuck_step;

static void on_stuck(wad_sim *sim, void *ctx)
{
    const stuck_step *s = ctx;
    wad_sim_stick_pin(sim, s->pin, s->level);
}

static void stick_at(const wadi_setting *set, uint64_t ps, const wad_pin_def *pin, wad_level level)
{
    const stuck_step s = {pin, level};
    wadi_plan(set, ps, on_stuck, &s, sizeof s);
}

static bool begin(const wadi_setting *s, const void *said, char **why)
{
    const defect *d = said;
    (void)why;
    if (d->stuck == WAD_FLOATING) {
        wad_sim_break_pull(s->sim, d->pin);
        return true;
    }
    stick_at(s, d->at_ps, d->pin, d->stuck);
    if (d->for_ps)
        stick_at(s, d->at_ps + d->for_ps, d->pin, WAD_FLOATING);
    return true;
}

/* `stick LINK RX low` is a wire's: bench/world/part_say.c. */
const wadi_statement_class wadi_say_pin_defect = {.words = "stick pull",
                                                  .fits = names_pin,
                                                  .parse = parse,
                                                  .said_size = sizeof(defect),
                                                  .phase = WADI_WITH_WORLD,
                                                  .begin = begin};
