/* SPDX-License-Identifier: MIT */
/* What is said to a run while somebody looks at it (docs/watch.md). */
#include <string.h>

#include "bench/language/block_name.h"
#include "bench/language/said.h"
#include "bench/language/value.h"
#include "bench/world/button.h"
#include "bench/world/part_say.h"
#include "bench/world/volt_say.h"
#include "bench/world/volt_source.h"
#include "lang/cursor.h"
#include "live.h"

/* ---- time ---- */

/* `go [100 ms]` */
static void say_go(wad_live *l, wadi_cursor *c)
{
    uint64_t ps = 0;
    if (!wadi_at_end(c))
        wadi_parse_ps(c, &ps);
    if (!wadi_need_end(c))
        return;
    wad_sim_cancel(l->sim, &l->stop);
    if (ps)
        wad_sim_schedule(l->sim, &l->stop, wad_sim_now(l->sim) + ps);
    l->goal.is = WADI_GOAL_NONE;
    l->goes = true;
}

static const wad_instance *need_block(wad_live *l, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    const wad_instance *block = wadi_take_unit(c, l->bench->sheet);
    const char *name = block ? block->name : wadi_need_name(c, "a block");
    if (name && !block) {
        wadi_error(c->src, &where, "%s has no block '%s'", l->bench->sheet->name, name);
        c->failed = true;
    }
    return block;
}

/* `step access [UART0[.DATA]]` */
static void say_step_access(wad_live *l, wadi_cursor *c)
{
    l->goal.block = NULL;
    l->goal.reg = NULL;
    if (!wadi_at_end(c))
        l->goal.block = need_block(l, c);
    if (l->goal.block && wadi_take_punct(c, ".")) {
        wad_where where = c->tok->where;
        const char *name = wadi_need_name(c, "a register");
        l->goal.reg = name ? wad_layout_register(l->goal.block->layout, name) : NULL;
        if (name && !l->goal.reg) {
            wadi_error(c->src, &where, "block %s has no register '%s'", l->goal.block->name, name);
            c->failed = true;
        }
    }
    if (wadi_need_end(c))
        l->goal.is = WADI_GOAL_ACCESS;
}

/* `step interrupt [CNT0]` */
static void say_step_irq(wad_live *l, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    const wad_instance *block = wadi_at_end(c) ? NULL : need_block(l, c);
    if (!wadi_need_end(c))
        return;
    if (block && !block->n_irqs) {
        wadi_error(c->src, &where, "block %s has no interrupt line", block->name);
        c->failed = true;
        return;
    }
    l->goal.line = block ? (unsigned)block->irqs[0] : UINT_MAX;
    l->goal.is = WADI_GOAL_IRQ;
}

static void say_step(wad_live *l, wadi_cursor *c)
{
    wadi_live_goal old = l->goal.is;
    l->goal.is = WADI_GOAL_NONE;
    if (wadi_take_word(c, "access"))
        say_step_access(l, c);
    else if (wadi_take_word(c, "interrupt"))
        say_step_irq(l, c);
    else
        wadi_expected(c, "'access' or 'interrupt'");
    l->goes = l->goes || !c->failed;
    if (c->failed)
        l->goal.is = old;
    else
        wad_sim_cancel(l->sim, &l->stop);
}

/* ---- inputs ---- */

static wadi_live_input *need_input(wad_live *l, wadi_cursor *c, bool button)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, button ? "a button" : "an analog input");
    GString *names = g_string_new(NULL);
    wadi_live_input *found = NULL;
    for (guint i = 0; name && i < l->inputs->len; i++) {
        wadi_live_input *in = &g_array_index(l->inputs, wadi_live_input, i);
        if ((in->button != NULL) != button)
            continue;
        g_string_append_printf(names, "%s%s", names->len ? ", " : "", in->name);
        if (!strcmp(in->name, name))
            found = in;
    }
    if (name && !found) {
        wadi_error(c->src, &where, "'%s' is no %s; there is %s", name,
                   button ? "button of the board" : "analog input of the bench",
                   names->len ? names->str : "none");
        c->failed = true;
    }
    g_string_free(names, TRUE);
    return found;
}

/* Its contact bounces as long as the board says. */
static void turn(wad_live *l, wadi_live_input *in, uint64_t ps, bool pressed)
{
    uint64_t times[8] = {0};
    uint64_t length =
        (uint64_t)((double)in->button->bounce_s.num / (double)in->button->bounce_s.den * 1e12 +
                   0.5);
    unsigned n = wadi_bounce_times(l->rand, ps, length, times);
    wad_level to = wadi_button_level(in->button, pressed);
    wad_level from = wadi_button_level(in->button, !pressed);
    wadi_live_forget(l, in->pin, ps); /* what still bounces does so no more */
    wadi_live_move_at(l, (wadi_live_move){ps, in->pin, to, NULL});
    for (unsigned i = 0; i < n; i++)
        wadi_live_move_at(l, (wadi_live_move){times[i], in->pin, i % 2 ? to : from, NULL});
    in->pressed = pressed;
}

/* `press TEST [for 50 ms]`, `release TEST`, `toggle TEST` */
static void say_press(wad_live *l, wadi_cursor *c, const char *word)
{
    uint64_t ps = 0, now = wad_sim_now(l->sim);
    wadi_live_input *in = need_input(l, c, true);
    bool press = !strcmp(word, "press") || (in && !strcmp(word, "toggle") && !in->pressed);
    if (!strcmp(word, "press") && wadi_take_word(c, "for"))
        wadi_parse_ps(c, &ps);
    if (!wadi_need_end(c) || !in || in->pressed == press)
        return;
    turn(l, in, now, press);
    if (ps)
        turn(l, in, now + ps, false);
}

/* `drive PC8 high` */
static void say_drive(wad_live *l, wadi_cursor *c)
{
    wadi_live_move m = {.ps = wad_sim_now(l->sim), .pin = wadi_parse_pin(l->bench, c)};
    if (m.pin && wadi_parse_level(c, &m.level) && wadi_need_end(c))
        wadi_live_move_at(l, m);
}

static void rewire(wad_live *l, wadi_analog_def def)
{
    def.at_ps = wad_sim_now(l->sim);
    wadi_analog_def *own = g_memdup2(&def, sizeof def);
    g_ptr_array_add(l->defs, own);
    wadi_live_move_at(l, (wadi_live_move){def.at_ps, def.pin, WAD_FLOATING, own});
}

/* What the pin's source will be once time goes on; NULL: none. `ready`: it is so already. */
static const wadi_analog_def *source_of(const wad_live *l, const wad_pin_def *pin, bool *ready)
{
    *ready = false;
    for (guint i = l->moves->len; i > 0; i--) {
        const wadi_live_move *m = &g_array_index(l->moves, wadi_live_move, i - 1);
        if (m->def && m->pin == pin)
            return m->def;
    }
    *ready = true;
    return wadi_analog_world_at(l->analog, pin);
}

/* As in a bench, `analog PRESSURE level 1.2 V`; the resistance and the noise stay unless said. */
static void say_analog(wad_live *l, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    wadi_cursor peek = *c;
    bool ready;
    const wad_pin_def *pin = wadi_parse_pin(l->bench, &peek);
    if (!pin) {
        c->failed = true;
        return;
    }
    const wadi_analog_def *old = source_of(l, pin, &ready);
    wadi_analog_def d = {.ohms = old ? old->ohms : 0, .noise = old ? old->noise : 0};
    wadi_parse_source(l->bench, c, &d);
    if (!wadi_need_end(c))
        return;
    if (d.at_ps) {
        wadi_error(c->src, &where, "it is moved now: without 'at'");
        c->failed = true;
        return;
    }
    rewire(l, d);
}

/* `raise PRESSURE 50 mV`, `lower PRESSURE 50 mV`: a level from where it stands. */
static void say_raise(wad_live *l, wadi_cursor *c, double sign)
{
    double by = 0;
    bool ready;
    const wadi_live_input *in = need_input(l, c, false);
    if (!in || !wadi_parse_volts_amount(c, &by) || !wadi_need_end(c))
        return;
    const wadi_analog_def *old = source_of(l, in->pin, &ready);
    wadi_analog_def d = {.pin = in->pin, .shape = WADI_LEVEL};
    if (old) {
        d.ohms = old->ohms;
        d.noise = old->noise;
    }
    d.level = old && !ready && old->shape == WADI_LEVEL && !old->supply
                  ? old->level
                  : wadi_analog_world_volts(l->analog, in->pin, wad_sim_now(l->sim));
    d.level += sign * by;
    rewire(l, d);
}

/* ---- which ---- */

static bool carry_out(wad_live *l, const wadi_source *src, const wadi_stmt *stmt)
{
    wadi_cursor c = wadi_cursor_at(src, stmt);
    if (wadi_take_word(&c, "go")) {
        say_go(l, &c);
    } else if (wadi_take_word(&c, "step")) {
        say_step(l, &c);
    } else if (wadi_take_word(&c, "press")) {
        say_press(l, &c, "press");
    } else if (wadi_take_word(&c, "release")) {
        say_press(l, &c, "release");
    } else if (wadi_take_word(&c, "toggle")) {
        say_press(l, &c, "toggle");
    } else if (wadi_take_word(&c, "drive")) {
        say_drive(l, &c);
    } else if (wadi_take_word(&c, "analog")) {
        say_analog(l, &c);
    } else if (wadi_take_word(&c, "raise")) {
        say_raise(l, &c, 1);
    } else if (wadi_take_word(&c, "lower")) {
        say_raise(l, &c, -1);
    } else if (wadi_take_word(&c, "end")) {
        if (wadi_need_end(&c))
            wad_live_stop(l);
    } else if (wadi_part_act_now(l->bench, &c, l->parts)) {
        l->by_hand = l->by_hand || !c.failed;
    } else {
        wadi_expected(&c, "'go', 'step', 'press', 'release', 'toggle', 'drive', 'analog', 'raise', "
                          "'lower', 'end' or a part's own");
    }
    return !c.failed;
}

bool wad_live_say(wad_live *l, const char *command, wad_diags *diags)
{
    wadi_arena *arena = l->bench->arena; /* names in it are kept */
    char *text = wadi_arena_strndup(arena, command, strlen(command));
    wadi_source src = {
        .name = "(said)", .text = text, .size = strlen(text), .arena = arena, .diags = diags};
    if (!wadi_tree_read(&src))
        return false;
    bool ok = true;
    for (unsigned i = 0; i < src.top->n; i++)
        ok = carry_out(l, &src, &src.top->stmts[i]) && ok;
    return ok;
}
