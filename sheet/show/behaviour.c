/* SPDX-License-Identifier: MIT */
#include "behaviour.h"

#include <glib.h>

#include "address.h"
#include "lang/rational.h"
#include "sheet/chip/expression.h"

static void show_ref(const wad_fieldref *ref, FILE *out)
{
    char *name = wad_fieldref_name(ref);
    fputs(name, out);
    g_free(name);
}

static void show_access(const wad_bus_event *e, FILE *out)
{
    wad_fieldref ref = {.block = e->block,
                        .reg = e->reg,
                        .field = e->field,
                        .reg_index = e->by_element ? UINT32_MAX : e->reg_index};
    if (e->sort == WAD_EVENT_ACCESS)
        fputs(e->write ? "write " : "read ", out);
    show_ref(&ref, out);
    if (e->sort != WAD_EVENT_ACCESS || !e->mask)
        return;
    unsigned lsb = 0;
    while (!(e->mask >> lsb & 1))
        lsb++;
    fprintf(out, " = %llu", (unsigned long long)(e->value >> lsb));
}

static void show_event(const wad_bus_event *e, FILE *out)
{
    switch (e->sort) {
    case WAD_EVENT_ENTRY:
        fputs("entry", out);
        break;
    case WAD_EVENT_EXIT:
        fputs("exit", out);
        break;
    case WAD_EVENT_ROLE:
        fprintf(out, "%s%s%s", e->unit ? e->unit : "", e->unit ? "." : "", e->role);
        if (e->element)
            fprintf(out, "[%u]", e->element);
        break;
    default:
        show_access(e, out);
    }
}

void wadi_show_events(const wad_clearing *list, unsigned n, FILE *out)
{
    for (unsigned i = 0; i < n; i++) {
        fputs(i ? " or " : "", out);
        if (list[i].then) {
            show_event(&list[i].first, out);
            fputs(" then ", out);
        }
        show_event(&list[i].last, out);
    }
}

static void show_delay(const wad_delay *d, FILE *out)
{
    char text[32];
    if (d->cycles) {
        fprintf(out, "%lld cycles of %s", (long long)wadi_rat_floor(d->amount),
                d->clock ? d->clock->name : "core");
        return;
    }
    wad_format_seconds(text, sizeof text, d->amount);
    fputs(text, out);
}

static void show_held(const wad_held *held, FILE *out)
{
    fputs("; held", out);
    if (held->n_until) {
        fputs(" until ", out);
        wadi_show_events(held->until, held->n_until, out);
    }
    if (held->when) {
        char *cond = wad_cond_text(held->when);
        fprintf(out, " while %s", cond);
        g_free(cond);
    }
    if (held->shows_active)
        fputs(", reads as what is active", out);
}

static void show_number(const wad_number *number, FILE *out)
{
    fputs("; the first of", out);
    for (unsigned i = 0; i < number->n; i++) {
        fprintf(out, "%s %llu ", i ? "," : "", (unsigned long long)number->items[i].code);
        show_ref(&number->items[i].flag, out);
    }
    fprintf(out, " that is set and enabled, else %llu%s", (unsigned long long)number->otherwise,
            number->clears ? "; an access takes that flag" : "");
}

void wadi_show_behaviour(const wad_behaviour *more, FILE *out)
{
    if (!more)
        return;
    if (more->reads) {
        char *text = more->reads->op == WADI_OP_NUM
                         ? g_strdup_printf("0x%llX", (unsigned long long)more->reads->num.num)
                         : wadi_expr_text(more->reads);
        fprintf(out, "; reads %s", text);
        g_free(text);
    }
    if (more->alias) {
        fprintf(out, "; %s ", wad_alias_word(more->alias));
        show_ref(&more->alias_of, out);
    }
    if (more->masks.reg)
        fprintf(out, "; only bits that are 1 here are stored in %s", more->masks.field->name);
    if (more->has_key)
        fprintf(out, "; key 0x%llX, else %s", (unsigned long long)more->key,
                more->key_resets ? "the chip is reset" : "the write is ignored");
    if (more->number)
        show_number(more->number, out);
    if (more->held)
        show_held(more->held, out);
    if (more->delay) {
        fputs("; a write arrives ", out);
        show_delay(more->delay, out);
        fputs(" later", out);
        if (more->delay->busy.reg) {
            fputs(", ", out);
            show_ref(&more->delay->busy, out);
            fputs(" until then", out);
        }
    }
    if (more->when) {
        char *cond = wad_cond_text(more->when);
        fprintf(out, "; there while %s", cond);
        g_free(cond);
    }
}

/* ---- hooks ---- */

static void show_acts(const wad_act *acts, unsigned n, FILE *out)
{
    for (unsigned i = 0; i < n; i++) {
        fputs(i ? ", " : "", out);
        if (acts[i].n_acts) {
            fputs("after ", out);
            show_delay(&acts[i].delay, out);
            fputs(" { ", out);
            show_acts(acts[i].acts, acts[i].n_acts, out);
            fputs(" }", out);
        } else if (acts[i].value) {
            char *text = wadi_expr_text(acts[i].value);
            show_ref(&acts[i].ref, out);
            fprintf(out, " = %s", text);
            g_free(text);
        } else {
            fputs("reset", out);
        }
    }
}

void wadi_show_hooks(const wad_hook *hooks, unsigned n, FILE *out)
{
    for (unsigned i = 0; i < n; i++) {
        fputs("on    ", out);
        wadi_show_events(hooks[i].on, hooks[i].n_on, out);
        if (hooks[i].when) {
            char *cond = wad_cond_text(hooks[i].when);
            fprintf(out, " while %s", cond);
            g_free(cond);
        }
        fputs(": ", out);
        show_acts(hooks[i].acts, hooks[i].n_acts, out);
        fputc('\n', out);
    }
}

/* ---- blocks ---- */

static void show_ready(const wad_ready *ready, FILE *out)
{
    if (ready->delayed) {
        fputs(", answers after ", out);
        show_delay(&ready->delay, out);
    }
    if (ready->ref.reg) {
        fputs(", ", out);
        show_ref(&ready->ref, out);
        fputs(" says so", out);
    }
}

void wadi_show_openings(const wad_sheet *sheet, const wad_instance *block, FILE *out)
{
    if (block->needs.n) {
        char *needs = wad_cond_text(&block->needs);
        fprintf(out, "needs %s", needs);
        show_ready(&block->needs_ready, out);
        fputc('\n', out);
        g_free(needs);
    }
    if (block->reset.n) {
        char *reset = wad_cond_text(&block->reset);
        fprintf(out, "reset while %s", reset);
        show_ready(&block->reset_ready, out);
        fputc('\n', out);
        g_free(reset);
    }
    for (unsigned i = 0; i < sheet->n_windows; i++)
        for (unsigned k = 0; k < sheet->windows[i].n_blocks; k++)
            if (sheet->windows[i].blocks[k] == block) {
                const wad_window *w = &sheet->windows[i];
                fputs("window at ", out);
                wadi_show_address(sheet, block->base + w->at, out);
                fprintf(out, ": %s\n",
                        w->verb == WAD_ALIAS_IS ? "all registers once more"
                                                : wad_alias_word(w->verb));
            }
}
