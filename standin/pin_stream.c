/* SPDX-License-Identifier: MIT */
#include "pin_stream.h"

#include <errno.h>
#include <glib/gstdio.h>
#include <string.h>

typedef struct tap {
    wadi_stream *stream;
    const wad_pin_def *pin;
    char *name;
    char id[4];
} tap;

struct wadi_stream {
    FILE *file;
    char *path;
    GPtrArray *taps;
    uint64_t now; /* the last time that stands in the file */
};

static void free_tap(void *p)
{
    tap *t = p;
    g_free(t->name);
    g_free(t);
}

static bool known(const wadi_stream *s, const wad_pin_def *pin)
{
    for (guint i = 0; i < s->taps->len; i++)
        if (((tap *)s->taps->pdata[i])->pin == pin)
            return true;
    return false;
}

static void add(wadi_stream *s, const wad_pin_def *pin, const char *name)
{
    if (known(s, pin))
        return;
    tap *t = g_new0(tap, 1);
    t->stream = s;
    t->pin = pin;
    t->name = g_strdup(name);
    for (unsigned n = s->taps->len, k = 0; k == 0 || n; n /= 94, k++)
        t->id[k] = (char)('!' + n % 94);
    g_ptr_array_add(s->taps, t);
}

/* "warn" of a part with one wire, "thermo_cs" of others. */
static void add_wire(wadi_stream *s, const wad_part_def *part, const wad_wire *wire)
{
    char *name =
        *wire->name ? g_strdup_printf("%s_%s", part->name, wire->name) : g_strdup(part->name);
    char *lower = g_ascii_strdown(name, -1);
    if (wire->pin)
        add(s, wire->pin, lower);
    g_free(lower);
    g_free(name);
}

static void add_part(wadi_stream *s, const wad_part_def *part)
{
    for (unsigned i = 0; strcmp(part->kind, "connector") && i < part->n_wires; i++)
        add_wire(s, part, &part->wires[i]);
}

static void add_all(wadi_stream *s, const wad_bench *bench)
{
    const wad_board *board = wad_bench_board(bench);
    const wad_pin_def *pin;
    const char *name;
    for (unsigned i = 0; (pin = wad_bench_captured(bench, i, &name)); i++)
        add(s, pin, name);
    for (unsigned i = 0; board && i < board->n_parts; i++)
        add_part(s, &board->parts[i]);
}

static void to_time(wadi_stream *s, uint64_t ps)
{
    if (ps != s->now)
        fprintf(s->file, "#%llu\n", (unsigned long long)ps);
    s->now = ps;
}

static void on_level(void *ctx, uint64_t ps, wad_level level)
{
    tap *t = ctx;
    to_time(t->stream, ps);
    fprintf(t->stream->file, "%c%s\n", "01z"[level], t -> id);
}

static void write_header(const wadi_stream *s, const wad_bench *bench)
{
    const wad_board *board = wad_bench_board(bench);
    fprintf(s->file, "$timescale 1 ps $end\n$scope module %s $end\n",
            board ? board->name : wad_bench_sheet(bench)->name);
    for (guint i = 0; i < s->taps->len; i++) {
        const tap *t = s->taps->pdata[i];
        fprintf(s->file, "$var wire 1 %s %s $end\n", t->id, t->name);
    }
    fputs("$upscope $end\n$enddefinitions $end\n", s->file);
}

wadi_stream *wadi_stream_new(const char *path, const wad_bench *bench, wad_sim *sim, char **why)
{
    wadi_stream *s = g_new0(wadi_stream, 1);
    s->taps = g_ptr_array_new_with_free_func(free_tap);
    s->now = UINT64_MAX;
    s->path = g_strdup(path);
    s->file = g_fopen(path, "w");
    if (!s->file) {
        *why = g_strdup_printf("cannot write '%s': %s", path, g_strerror(errno));
        wadi_stream_free(s, 0, why);
        return NULL;
    }
    add_all(s, bench);
    write_header(s, bench);
    for (guint i = 0; i < s->taps->len; i++)
        wad_sim_watch_pin(sim, ((tap *)s->taps->pdata[i])->pin, on_level, s->taps->pdata[i]);
    return s;
}

static char *cannot(const wadi_stream *s)
{
    return g_strdup_printf("cannot write '%s': %s", s->path,
                           errno ? g_strerror(errno) : "not all of it could be written");
}

bool wadi_stream_flush(wadi_stream *s, char **why)
{
    errno = 0;
    if (fflush(s->file) == 0 && !ferror(s->file))
        return true;
    *why = cannot(s);
    return false;
}

bool wadi_stream_free(wadi_stream *s, uint64_t end_ps, char **why)
{
    bool good = true;
    if (!s)
        return true;
    if (s->file) {
        to_time(s, end_ps);
        errno = 0;
        good = !ferror(s->file);
        good = fclose(s->file) == 0 && good;
        if (!good)
            *why = cannot(s);
    }
    g_ptr_array_free(s->taps, TRUE);
    g_free(s->path);
    g_free(s);
    return good;
}
