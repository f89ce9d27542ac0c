/* SPDX-License-Identifier: MIT */
/* The clock tree as a person reads it, under given register values. */
#include <glib.h>
#include <string.h>

#include "lang/rational.h"
#include "sheet/laws/evaluate.h"
#include "sheet/words/values.h"
#include "wadium/host/clocktree.h"

#define COLUMNS 79

/* ---- what a clock comes from, and which fields say so ---- */

typedef struct source {
    const wad_regs *regs;
    const wad_clock *from; /* the first clock that the law asks for */
    wad_fieldref fields[16];
    unsigned n_fields;
} source;

static bool source_field(void *ctx, const wad_fieldref *ref, uint64_t *code)
{
    source *s = ctx;
    *code = wad_regs_get(s->regs, ref);
    if (s->n_fields < G_N_ELEMENTS(s->fields))
        s->fields[s->n_fields++] = *ref;
    return true;
}

static bool source_clock(void *ctx, const wad_clock *clock, wad_rational *hz)
{
    source *s = ctx;
    if (!s->from)
        s->from = clock;
    *hz = wadi_int(1);
    return true;
}

static source source_of(const wad_clock *clock, const wad_regs *regs)
{
    source s = {.regs = regs};
    wad_rational ignored;
    wadi_eval env = {.field = source_field, .clock = source_clock, .ctx = &s};
    if (clock->law)
        wadi_expr_eval(clock->law, &env, &ignored);
    return s;
}

/* ---- conditions ---- */

static uint64_t field_of(void *ctx, const wad_fieldref *ref)
{
    return wad_regs_get(ctx, ref);
}

static const wad_cond_term *broken_term(const wad_cond *cond, const wad_regs *regs)
{
    return wad_cond_broken(cond, field_of, (void *)regs);
}

static void print_term(const wad_cond_term *t, const wad_regs *regs, FILE *out)
{
    char *name = wad_fieldref_name(&t->ref);
    fprintf(out, "%s = %llu", name, (unsigned long long)wad_regs_get(regs, &t->ref));
    g_free(name);
}

static const wad_clock *oscillator(const wad_clock *clock, const wad_regs *regs)
{
    while (clock && clock->law)
        clock = source_of(clock, regs).from;
    return clock;
}

/* What stops a clock: its own switch, or that of one it comes from. */
static const wad_cond_term *stopped_by(const wad_clock *clock, const wad_regs *regs)
{
    const wad_cond_term *t = NULL;
    for (; clock && !t; clock = source_of(clock, regs).from)
        t = broken_term(&clock->on, regs);
    return t;
}

/* ---- the tree ---- */

typedef struct tree {
    const wad_sheet *sheet;
    const wad_regs *regs;
    FILE *out;
    unsigned broken; /* limits */
} tree;

/* Items after a word, wrapped under each other so that a line fits a terminal. */
static void show_list(const tree *t, int indent, const char *word, GPtrArray *items)
{
    int column = 0;
    for (guint i = 0; i < items->len; i++) {
        const char *item = items->pdata[i];
        int wide = (int)strlen(item) + 2;
        if (!column || column + wide > COLUMNS) {
            column = indent + (int)strlen(word) + 1;
            fprintf(t->out, "%s%*s%s ", i ? "\n" : "", indent, "", i ? "" : word);
            if (i)
                fprintf(t->out, "%*s", (int)strlen(word), "");
        } else {
            fputc(' ', t->out);
        }
        fprintf(t->out, "%s%s", item, i + 1 < items->len ? "," : "");
        column += wide;
    }
    if (items->len)
        fputc('\n', t->out);
    g_ptr_array_free(items, TRUE);
}

static void show_fields(const tree *t, const source *s, int depth)
{
    GPtrArray *items = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < s->n_fields; i++) {
        char *name = wad_fieldref_name(&s->fields[i]);
        uint64_t value = wad_regs_get(t->regs, &s->fields[i]);
        const wad_enumerator *e = wad_bitfield_enum(s->fields[i].field, value);
        g_ptr_array_add(items, g_strdup_printf("%s = %llu%s%s", name, (unsigned long long)value,
                                               e ? " " : "", e ? e->name : ""));
        g_free(name);
    }
    show_list(t, depth * 2 + 2, "by", items);
}

static void show_blocks(const tree *t, const wad_clock *clock, int depth, bool gated)
{
    GPtrArray *items = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < t->sheet->n_blocks; i++) {
        const wad_instance *b = t->sheet->blocks[i];
        if (b->clock == clock && (broken_term(&b->needs, t->regs) != NULL) == gated)
            g_ptr_array_add(items, g_strdup(b->name));
    }
    show_list(t, depth * 2 + 2, gated ? "gated:" : "feeds", items);
}

static void show_output(const tree *t, const wad_clock *clock, int depth)
{
    const wad_signal *signal = clock->output;
    GPtrArray *items = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; signal && i < signal->n_options; i++)
        g_ptr_array_add(items, g_strdup_printf("%s %s %u", signal->options[i].pin->name,
                                               signal->block->route.reg ? "group" : "fn",
                                               signal->options[i].fn));
    show_list(t, depth * 2 + 2, "comes out at", items);
}

static void show_limits(tree *t, const wad_clock *clock, wad_rational hz, int depth)
{
    char is[32], low[32], high[32];
    wad_rational min, max;
    if (!wad_clock_limits(clock, wad_regs_read, (void *)t->regs, &min, &max) ||
        (wadi_rat_cmp(hz, min) >= 0 && wadi_rat_cmp(hz, max) <= 0))
        return;
    wad_format_hz(is, sizeof is, hz);
    wad_format_hz(low, sizeof low, min);
    wad_format_hz(high, sizeof high, max);
    fprintf(t->out, "%*swrong: %s is outside %s to %s\n", depth * 2 + 2, "", is, low, high);
    t->broken++;
}

static void show_clock(tree *t, const wad_clock *clock, int depth)
{
    source s = source_of(clock, t->regs);
    wad_rational hz;
    char text[32] = "-";
    bool known = wad_clock_rate(t->sheet, clock, wad_regs_read, (void *)t->regs, &hz, NULL);
    const wad_cond_term *off = stopped_by(clock, t->regs);
    const wad_clock *root = oscillator(clock, t->regs);
    if (known)
        wad_format_hz(text, sizeof text, hz);
    fprintf(t->out, "%*s%-*s %-12s", depth * 2, "", 12 - depth * 2, clock->name, text);
    if (root && root->tolerance.num)
        fprintf(t->out, " +-%.6g ppm", wadi_rat_double(root->tolerance) * 1e6);
    if (off) {
        fputs("  off: ", t->out);
        print_term(off, t->regs, t->out);
    }
    fputc('\n', t->out);
    show_fields(t, &s, depth);
    if (known && !off)
        show_limits(t, clock, hz, depth);
    show_output(t, clock, depth);
    show_blocks(t, clock, depth, false);
    show_blocks(t, clock, depth, true);
    for (unsigned i = 0; i < t->sheet->n_clocks && depth < 8; i++)
        if (t->sheet->clocks[i]->law && source_of(t->sheet->clocks[i], t->regs).from == clock)
            show_clock(t, t->sheet->clocks[i], depth + 1);
}

unsigned wad_show_clocks(const wad_sheet *sheet, const wad_regs *regs, FILE *out)
{
    tree t = {sheet, regs, out, 0};
    for (unsigned i = 0; i < sheet->n_clocks; i++)
        if (!sheet->clocks[i]->law || !source_of(sheet->clocks[i], regs).from)
            show_clock(&t, sheet->clocks[i], 0);
    return t.broken;
}
