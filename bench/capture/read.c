/* SPDX-License-Identifier: MIT */
/* Recordings of instruments: told apart by how they begin. */
#include <glib.h>
#include <string.h>

#include "csv_read.h"
#include "lang/suggest.h"
#include "wadium/host/recording.h"

bool wad_recording_read(const char *path, const wad_vcd_listener *listener, wad_diags *diags)
{
    char head[256] = "";
    FILE *f = fopen(path, "r");
    size_t n = f ? fread(head, 1, sizeof head - 1, f) : 0;
    if (f)
        fclose(f);
    head[n] = 0;
    const char *first = head + strspn(head, " \t\r\n");
    if (*first == '$' || g_str_has_suffix(path, ".vcd") || !f)
        return wad_vcd_read(path, listener, diags);
    return wadi_csv_read(path, listener, diags);
}

/* ---- some of its signals ---- */

typedef struct choosing {
    const wad_wanted_signal *wanted; /* NULL: all */
    const wad_vcd_listener *to;
    GArray *bits, *reals; /* number in the file -> number handed on, -1: passed over */
    unsigned n_bits, n_reals;
    GPtrArray *names; /* of the whole file */
} choosing;

static bool is_wanted(choosing *c, const char *name)
{
    g_ptr_array_add(c->names, g_strdup(name));
    for (const wad_wanted_signal *w = c->wanted; w && w->name; w++)
        if (!strcmp(w->name, name))
            return true;
    return !c->wanted;
}

static void choose(GArray *map, bool wanted, unsigned *n)
{
    int number = wanted ? (int)(*n)++ : -1;
    g_array_append_val(map, number);
}

static void on_some_channel(void *ctx, unsigned number, const char *name)
{
    choosing *c = ctx;
    bool wanted = is_wanted(c, name);
    (void)number;
    choose(c->bits, wanted, &c->n_bits);
    if (wanted)
        c->to->channel(c->to->ctx, c->n_bits - 1, name);
}

static void on_some_real_channel(void *ctx, unsigned number, const char *name)
{
    choosing *c = ctx;
    bool wanted = c->to->real_channel && c->to->real && is_wanted(c, name);
    (void)number;
    choose(c->reals, wanted, &c->n_reals);
    if (wanted)
        c->to->real_channel(c->to->ctx, c->n_reals - 1, name);
}

static void on_some_edge(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    const choosing *c = ctx;
    int to = g_array_index(c->bits, int, channel);
    if (to >= 0)
        c->to->edge(c->to->ctx, (unsigned)to, ps, level);
}

static void on_some_real(void *ctx, unsigned channel, uint64_t ps, double value)
{
    const choosing *c = ctx;
    int to = g_array_index(c->reals, int, channel);
    if (to >= 0)
        c->to->real(c->to->ctx, (unsigned)to, ps, value);
}

static void on_some_end(void *ctx, uint64_t ps)
{
    const choosing *c = ctx;
    if (c->to->end)
        c->to->end(c->to->ctx, ps);
}

/* The first that must be there and is not; NULL: all are. */
static char *missing_of(const choosing *c, const char *path)
{
    for (const wad_wanted_signal *w = c->wanted; w && w->name; w++) {
        if (w->may_lack || g_ptr_array_find_with_equal_func(c->names, w->name, g_str_equal, NULL))
            continue;
        wadi_arena *arena = wadi_arena_new();
        const char *const *all = (const char *const *)c->names->pdata;
        const char *meant = wadi_suggest(arena, w->name, all, c->names->len);
        g_ptr_array_add(c->names, NULL);
        char *names = g_strjoinv(", ", (char **)c->names->pdata);
        char *text = g_strdup_printf("%s has no signal '%s'%s; it has %s", path, w->name, meant,
                                     *names ? names : "none");
        g_free(names);
        wadi_arena_free(arena);
        return text;
    }
    return NULL;
}

bool wad_recording_read_some(const char *path, const wad_wanted_signal *wanted,
                             const wad_vcd_listener *to, char **missing, wad_diags *diags)
{
    choosing c = {.wanted = wanted,
                  .to = to,
                  .bits = g_array_new(FALSE, FALSE, sizeof(int)),
                  .reals = g_array_new(FALSE, FALSE, sizeof(int)),
                  .names = g_ptr_array_new_with_free_func(g_free)};
    const wad_vcd_listener own = {on_some_channel, on_some_edge, on_some_real_channel,
                                  on_some_real,    on_some_end,  &c};
    bool good = wad_recording_read(path, &own, diags);
    *missing = good ? missing_of(&c, path) : NULL;
    g_array_free(c.bits, TRUE);
    g_array_free(c.reals, TRUE);
    g_ptr_array_free(c.names, TRUE);
    return good && !*missing;
}

/* ---- into memory ---- */

typedef struct loading {
    wad_capture *capture;
    uint64_t end;
} loading;

static void on_channel(void *ctx, unsigned number, const char *name)
{
    (void)number;
    wad_capture_channel(((loading *)ctx)->capture, name);
}

static void on_edge(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    wad_capture_edge(((loading *)ctx)->capture, channel, ps, level);
}

static void on_real_channel(void *ctx, unsigned number, const char *name)
{
    (void)number;
    wad_capture_analog(((loading *)ctx)->capture, name,
                       g_str_has_suffix(name, "current") ? "A" : "V");
}

static void on_real(void *ctx, unsigned channel, uint64_t ps, double value)
{
    wad_capture_sample(((loading *)ctx)->capture, channel, ps, value);
}

static void on_end(void *ctx, uint64_t ps)
{
    ((loading *)ctx)->end = ps;
}

wad_capture *wad_recording_load_some(const char *path, const wad_wanted_signal *wanted,
                                     uint64_t *end_ps, char **missing, wad_diags *diags)
{
    loading l = {wad_capture_new(), 0};
    const wad_vcd_listener to = {on_channel, on_edge, on_real_channel, on_real, on_end, &l};
    if (!wad_recording_read_some(path, wanted, &to, missing, diags)) {
        wad_capture_free(l.capture);
        return NULL;
    }
    *end_ps = l.end;
    return l.capture;
}

wad_capture *wad_recording_load(const char *path, uint64_t *end_ps, wad_diags *diags)
{
    char *missing;
    return wad_recording_load_some(path, NULL, end_ps, &missing, diags);
}
