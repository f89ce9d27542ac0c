/* SPDX-License-Identifier: MIT */
/* `wadium pins`: the plan as a person reads it. */
#include <string.h>

#include "sheet/solve/pins.h"
#include "wadium/host/words.h"

static char *how(const wad_instance *b, const wad_pin_option *o)
{
    return b->route.reg ? g_strdup_printf("group %u", o->fn)
           : o->fn      ? g_strdup_printf("fn %u", o->fn)
                        : g_strdup("by itself");
}

static void show_choice(const wad_pin_choice *c, FILE *out)
{
    const wad_instance *b = c->signal->block;
    char *name = g_strdup_printf("%s.%s", b->name, c->signal->name), *by = how(b, c->given);
    bool moved = c->now && c->now != c->given->pin;
    fprintf(out, c->now ? "%-14s %-6s %-6s %-10s%s%s\n" : "%-14s %-6s %-6s %s%s%s\n", name,
            wad_signal_dir_word(c->signal->dir), c->given->pin->name, by,
            moved      ? "moved from "
            : !c->now  ? ""
            : c->fixed ? "fixed"
                       : "stays",
            moved ? c->now->name : "");
    g_free(by);
    g_free(name);
}

/* ---- registers ---- */

static void put(GArray *words, wad_fieldref ref, uint64_t value)
{
    guint i = 0;
    uint64_t mask = wad_fieldref_mask(&ref), bits = value << ref.lsb;
    while (i < words->len && (g_array_index(words, wad_word, i).ref.block != ref.block ||
                              g_array_index(words, wad_word, i).ref.reg != ref.reg ||
                              g_array_index(words, wad_word, i).ref.reg_index != ref.reg_index))
        i++;
    ref.field = NULL;
    ref.index = 0;
    wad_word fresh = {.ref = ref, .value = ref.reg->reset};
    if (i == words->len)
        g_array_append_val(words, fresh);
    wad_word *w = &g_array_index(words, wad_word, i);
    w->value = (w->value & ~mask) | bits;
}

static void show_locks(const GArray *words, FILE *out)
{
    for (guint i = 0; i < words->len; i++) {
        const wad_word *w = &g_array_index(words, wad_word, i);
        bool told = !w->ref.reg->lock;
        for (guint k = 0; k < i; k++)
            told |= g_array_index(words, wad_word, k).ref.reg->lock == w->ref.reg->lock &&
                    g_array_index(words, wad_word, k).ref.block == w->ref.block;
        if (told)
            continue;
        char *name = wad_fieldref_name(&w->ref), *lock = wad_lock_text(w->ref.reg->lock);
        fprintf(out, "%s is locked: %s\n", name, lock);
        g_free(lock);
        g_free(name);
    }
}

static gint by_address(gconstpointer a, gconstpointer b)
{
    uint64_t x = wad_fieldref_address(&((const wad_word *)a)->ref);
    uint64_t y = wad_fieldref_address(&((const wad_word *)b)->ref);
    return x < y ? -1 : x > y;
}

static void show_registers(const wad_pin_plan *plan, FILE *out)
{
    GArray *words = g_array_new(FALSE, FALSE, sizeof(wad_word));
    for (guint i = 0; i < plan->choices->len; i++) {
        const wad_pin_choice *c = &g_array_index(plan->choices, wad_pin_choice, i);
        const wad_instance *port = c->given->pin->port;
        const wad_role *role = wad_layout_role(port->layout, "function");
        if (c->signal->block->route.reg)
            put(words, c->signal->block->route, c->given->fn);
        else if (role && c->given->fn)
            put(words, wad_role_ref(port, role, c->given->pin->number), c->given->fn);
    }
    g_array_sort(words, by_address);
    if (words->len)
        fputc('\n', out);
    for (guint i = 0; i < words->len; i++)
        wad_show_word_line(&g_array_index(words, wad_word, i), out);
    show_locks(words, out);
    g_array_free(words, TRUE);
}

/* ---- no plan ---- */

static void show_core(const wad_pin_plan *plan, FILE *out)
{
    fprintf(out, "no assignment meets these at once:\n");
    for (guint i = 0; i < plan->core->len; i++) {
        const wad_pin_choice *c =
            &g_array_index(plan->choices, wad_pin_choice, g_array_index(plan->core, guint, i));
        char *name = g_strdup_printf("%s.%s", c->signal->block->name, c->signal->name);
        fprintf(out, "  %-14s", name);
        g_free(name);
        if (c->fixed)
            fprintf(out, " fixed on %s", c->now->name);
        for (unsigned k = 0; !c->fixed && k < c->signal->n_options; k++) {
            const wad_pin_option *o = &c->signal->options[k];
            fprintf(out, "%s%s", k ? ", " : " reaches ", o->pin->name);
            for (guint n = 0; n < plan->taken->len; n++)
                if (g_array_index(plan->taken, wadi_taken, n).pin == o->pin)
                    fprintf(out, " (taken for %s)", g_array_index(plan->taken, wadi_taken, n).name);
        }
        fputc('\n', out);
    }
}

void wad_show_pin_plan(const wad_pin_plan *plan, FILE *out)
{
    for (guint i = 0; i + 1 < plan->conflicts->len; i++)
        fprintf(out, "conflict: %s\n", (const char *)plan->conflicts->pdata[i]);
    if (plan->conflicts->len > 1)
        fputc('\n', out);
    if (!plan->works) {
        show_core(plan, out);
        return;
    }
    if (!plan->choices->len)
        return;
    fprintf(out, "%-14s %-6s %-6s %s\n", "signal", "way", "pin", "by");
    for (guint i = 0; i < plan->choices->len; i++)
        show_choice(&g_array_index(plan->choices, wad_pin_choice, i), out);
    if (plan->moves)
        fprintf(out, "%u move%s, the fewest there are\n", plan->moves, plan->moves > 1 ? "s" : "");
    show_registers(plan, out);
}
