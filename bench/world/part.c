/* SPDX-License-Identifier: MIT */
#include "part.h"

#include <stdarg.h>
#include <string.h>

struct wadi_parts {
    wad_sim *sim;
    wadi_world *world;
    GPtrArray *parts;
};

/* ---- wires ---- */

unsigned wadi_part_wires(const wad_part_class *cls, wadi_wire_def wires[WAD_PART_WIRES])
{
    char **words = g_strsplit(cls->wires ? cls->wires : "", " ", -1);
    unsigned n = 0;
    for (unsigned i = 0; words[i] && n < WAD_PART_WIRES; i++) {
        const char *word = words[i];
        wadi_wire_def *w = &wires[n];
        *w = (wadi_wire_def){0};
        for (; *word == '>' || *word == '?'; word++) {
            w->drives = w->drives || *word == '>';
            w->optional = w->optional || *word == '?';
        }
        g_strlcpy(w->name, word, sizeof w->name);
        n += *word != 0;
    }
    g_strfreev(words);
    return n;
}

void wadi_part_edge(wad_part *p, unsigned wire, uint64_t ps, wad_level level)
{
    if (p->said->cls->edge)
        p->said->cls->edge(p, wire, ps, level);
}

/* What comes out of a wire from the chip. */
static void on_heard(void *ctx, uint64_t ps, wad_level level)
{
    const wadi_run_wire *w = ctx;
    const wadi_shell *shell = w->part->said->shell;
    if (shell)
        shell->edge(w->part, w->number, ps, level);
    wadi_part_edge(w->part, w->number, ps, level);
}

/* And out of one to the chip. */
static void on_driven(void *ctx, uint64_t ps, wad_level level)
{
    (void)ps;
    wadi_drive(((wadi_run_wire *)ctx)->driver, level);
}

static void on_pin(void *ctx, uint64_t ps, wad_level level)
{
    wadi_wire_set(&((wadi_run_wire *)ctx)->wire, ps, level);
}

static void attach_wires(wadi_parts *all, wad_part *p)
{
    wadi_wire_def defs[WAD_PART_WIRES];
    p->n_wires = wadi_part_wires(p->said->cls, defs);
    for (unsigned i = 0; i < p->n_wires; i++) {
        const wad_pin_def *pin = p->said->pins[i];
        wadi_run_wire *w = &p->wires[i];
        w->part = p;
        w->number = i;
        w->drives = defs[i].drives;
        w->wire = (wadi_wire){.level = WAD_FLOATING,
                              .seen = WAD_FLOATING,
                              .fn = defs[i].drives ? on_driven : on_heard,
                              .ctx = w};
        if (!pin)
            continue;
        if (defs[i].drives)
            w->driver = wadi_world_driver(all->world, pin);
        else
            wad_sim_watch_pin(all->sim, pin, on_pin, w);
    }
}

/* ---- life ---- */

static void on_wake(wad_event *e)
{
    wad_part *p = (wad_part *)((char *)e - offsetof(wad_part, wake));
    if (p->said->cls->wake)
        p->said->cls->wake(p, e->ps);
}

/* What a class asked for before the run began happens now; also when the power comes back. */
static void on_begin(wad_sim *sim, void *ctx)
{
    wad_part *p = ctx;
    if (p->first_wake && !p->begun)
        wad_sim_schedule(sim, &p->wake, p->first_wake);
    p->begun = true;
    for (unsigned i = 0; i < p->n_wires; i++)
        if (p->wires[i].driver && p->wires[i].wire.seen != WAD_FLOATING)
            wadi_drive(p->wires[i].driver, p->wires[i].wire.seen);
}

static wad_part *new_part(wadi_parts *all, const wadi_setting *s, const wadi_part_said *said)
{
    wad_part *p = g_new0(wad_part, 1);
    p->said = said;
    p->sim = all->sim;
    p->state = g_malloc0(said->cls->state_size + 1);
    p->shell = said->shell ? g_malloc0(said->shell->state_size) : NULL;
    p->wake.fn = on_wake;
    p->rand = g_rand_new_with_seed(s->bench->seed + said->number);
    p->notes = g_ptr_array_new_with_free_func(g_free);
    p->counts = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    g_ptr_array_add(all->parts, p);
    attach_wires(all, p);
    if (said->shell)
        said->shell->begin(p);
    if (said->cls->begin)
        wad_sim_at(all->sim, 0, on_begin, p);
    return p;
}

static void free_part(gpointer data)
{
    wad_part *p = data;
    if (p->said->cls->end)
        p->said->cls->end(p);
    if (p->said->shell && p->said->shell->free)
        p->said->shell->free(p);
    g_hash_table_destroy(p->counts);
    g_ptr_array_free(p->notes, TRUE);
    g_rand_free(p->rand);
    g_free(p->shell);
    g_free(p->state);
    g_free(p);
}

wadi_parts *wadi_parts_new(const wadi_setting *s, char **why)
{
    wadi_parts *all = g_new0(wadi_parts, 1);
    *all = (wadi_parts){s->sim, wadi_world_new(s->sim), g_ptr_array_new_with_free_func(free_part)};
    for (guint i = 0; i < s->bench->parts->len; i++) {
        const wadi_part_said *said = s->bench->parts->pdata[i];
        wad_part *p = new_part(all, s, said);
        if (!said->cls->begin || said->cls->begin(p, why))
            continue;
        if (!*why)
            *why = g_strdup_printf("%s does not begin", said->name);
        wadi_parts_free(all);
        return NULL;
    }
    return all;
}

void wadi_parts_free(wadi_parts *all)
{
    if (!all)
        return;
    g_ptr_array_free(all->parts, TRUE);
    wadi_world_free(all->world);
    g_free(all);
}

wad_part *wadi_part_at(const wadi_parts *all, unsigned i)
{
    return all->parts->pdata[i];
}

static bool end_part(wad_part *p, uint64_t ps, GPtrArray *notes)
{
    const wadi_part_said *said = p->said;
    char *why = NULL;
    bool kept = !said->shell || !said->shell->end || said->shell->end(p, ps, &why);
    for (guint k = 0; k < p->notes->len; k++)
        g_ptr_array_add(notes, g_strdup(p->notes->pdata[k]));
    if (p->refusals > WADI_PART_NOTED)
        g_ptr_array_add(notes, g_strdup_printf("%s: %u more of the kind", said->name,
                                               p->refusals - WADI_PART_NOTED));
    if (kept && said->keep && said->cls->keep)
        kept = said->cls->keep(p, said->keep, &why);
    if (!kept)
        g_ptr_array_add(notes,
                        why ? why : g_strdup_printf("what %s holds cannot be kept", said->name));
    return kept;
}

bool wadi_parts_end(wadi_parts *all, uint64_t ps, GPtrArray *notes)
{
    bool kept = true;
    for (guint i = 0; i < all->parts->len; i++)
        kept = end_part(all->parts->pdata[i], ps, notes) && kept;
    return kept;
}

void wadi_parts_power_fails(wadi_parts *all)
{
    for (guint i = 0; i < all->parts->len; i++) {
        wad_part *p = all->parts->pdata[i];
        if (p->said->shell && p->said->shell->power_fails)
            p->said->shell->power_fails(p);
        if (p->said->cls->power_fails)
            p->said->cls->power_fails(p);
    }
}

/* ---- for the functions of a class ---- */

void *wad_part_state(const wad_part *p)
{
    return p->state;
}

const char *wad_part_name(const wad_part *p)
{
    return p->said->name;
}

const char *wad_part_image(const wad_part *p)
{
    return p->said->image;
}

uint64_t wad_part_now(const wad_part *p)
{
    return wad_sim_now(p->sim);
}

wad_level wad_part_level(const wad_part *p, unsigned wire)
{
    return wire < p->n_wires ? p->wires[wire].wire.seen : WAD_FLOATING;
}

void wad_part_drive(wad_part *p, unsigned wire, wad_level level)
{
    if (wire >= p->n_wires || !p->wires[wire].drives)
        wad_part_refuse(p, "its class drives wire %u, which is none of its '>' wires", wire);
    else if (p->wires[wire].driver)
        wadi_wire_set(&p->wires[wire].wire, wad_sim_now(p->sim), level);
}

void wad_part_wake(wad_part *p, uint64_t ps)
{
    if (!p->said->cls->wake) {
        wad_part_refuse(p, "its class asks to be woken, and has no 'wake'");
        return;
    }
    if (!p->begun && p->said->cls->begin && wad_sim_now(p->sim) == 0) {
        p->first_wake = MAX(ps, 1);
        return;
    }
    wad_sim_cancel(p->sim, &p->wake);
    wad_sim_schedule(p->sim, &p->wake, MAX(ps, wad_sim_now(p->sim)));
}

uint32_t wad_part_random(wad_part *p)
{
    return g_rand_int(p->rand);
}

void wad_part_count(wad_part *p, const char *what)
{
    char **names = g_strsplit(p->said->cls->counts ? p->said->cls->counts : "", " ", -1);
    bool named = g_strv_contains((const char *const *)names, what);
    g_strfreev(names);
    if (!named) {
        wad_part_refuse(p, "its class counts '%s', which its 'counts' does not name", what);
        return;
    }
    gpointer n = g_hash_table_lookup(p->counts, what);
    g_hash_table_insert(p->counts, g_strdup(what), GUINT_TO_POINTER(GPOINTER_TO_UINT(n) + 1));
}

unsigned wadi_part_counted(const wad_part *p, const char *what)
{
    return GPOINTER_TO_UINT(g_hash_table_lookup(p->counts, what));
}

void wad_part_refuse(wad_part *p, const char *format, ...)
{
    if (p->refusals++ >= WADI_PART_NOTED)
        return;
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    g_ptr_array_add(p->notes, g_strdup_printf("%s, at %.3f us: %s", p->said->name,
                                              (double)wad_sim_now(p->sim) / 1e6, text));
    g_free(text);
}
