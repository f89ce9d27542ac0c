/* SPDX-License-Identifier: MIT */
/* `wadium plot --intervals`: how regular the signals of VCD files are. */
#include "cli/shared/cli.h"
#include "wadium/host/recording.h"

typedef struct series {
    char *name;
    GArray *ps;
    uint64_t last;
    bool any;
} series;

typedef struct reading {
    GPtrArray *signals;      /* of all files: series */
    GPtrArray *bits, *reals; /* of this file, by number */
    const char *file;        /* said before the name; NULL: not */
    uint64_t from, to;
} reading;

static void add(const reading *r, GPtrArray *list, const char *name)
{
    series *s = g_new0(series, 1);
    s->name = r->file ? g_strdup_printf("%s %s", r->file, name) : g_strdup(name);
    s->ps = g_array_new(FALSE, FALSE, sizeof(uint64_t));
    g_ptr_array_add(r->signals, s);
    g_ptr_array_add(list, s);
}

static void on_channel(void *ctx, unsigned number, const char *name)
{
    (void)number;
    add(ctx, ((reading *)ctx)->bits, name);
}

static void on_real_channel(void *ctx, unsigned number, const char *name)
{
    (void)number;
    add(ctx, ((reading *)ctx)->reals, name);
}

static void event(const reading *r, series *s, uint64_t ps)
{
    uint64_t since = ps - s->last;
    if (ps < r->from || (r->to && ps > r->to))
        return;
    if (s->any && since)
        g_array_append_val(s->ps, since);
    s->last = ps;
    s->any = true;
}

static void on_edge(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    const reading *r = ctx;
    if (level == WAD_HIGH)
        event(r, r->bits->pdata[channel], ps);
}

static void on_real(void *ctx, unsigned channel, uint64_t ps, double value)
{
    const reading *r = ctx;
    (void)value;
    event(r, r->reals->pdata[channel], ps);
}

static bool read_file(reading *r, const char *path, const wad_wanted_signal *wanted, bool several)
{
    char *base = g_path_get_basename(path), *missing = NULL;
    const wad_vcd_listener listener = {.channel = on_channel,
                                       .edge = on_edge,
                                       .real_channel = on_real_channel,
                                       .real = on_real,
                                       .ctx = r};
    wad_diags *diags = wad_diags_new();
    r->file = several ? base : NULL;
    g_ptr_array_set_size(r->bits, 0);
    g_ptr_array_set_size(r->reals, 0);
    bool ok = wad_recording_read_some(path, wanted, &listener, &missing, diags);
    cli_tell(diags);
    ok = ok || (missing && several); /* another file may have it */
    if (!ok && missing)
        cli_error("%s", missing);
    g_free(missing);
    g_free(base);
    return ok;
}

static void free_signal(gpointer data)
{
    series *s = data;
    g_array_free(s->ps, TRUE);
    g_free(s->name);
    g_free(s);
}

static int tell(const reading *r, const wad_plot_options *options, const char *path)
{
    unsigned n = r->signals->len;
    wad_intervals *all = g_new0(wad_intervals, n + 1);
    char *why = NULL;
    int status = CLI_GOOD;
    for (unsigned i = 0; i < n; i++) {
        const series *s = r->signals->pdata[i];
        all[i] = (wad_intervals){s->name, (const uint64_t *)(void *)s->ps->data, s->ps->len};
    }
    if (!n)
        status = cli_error("none of the files has one of the signals asked for");
    else if (path && n > 8)
        status = cli_error("%u signals are too many for a picture: choose with --signals", n);
    else if (!path)
        wad_report_intervals(all, n, stdout);
    else if (wad_plot_intervals(all, n, options, path, &why))
        printf("%s\n", path);
    else
        status = cli_file_error("%s", why);
    g_free(why);
    g_free(all);
    return status;
}

int cli_plot_intervals(char *const *files, unsigned n, const wad_wanted_signal *wanted,
                       const wad_plot_options *options, const char *path)
{
    reading r = {.signals = g_ptr_array_new_with_free_func(free_signal),
                 .bits = g_ptr_array_new(),
                 .reals = g_ptr_array_new(),
                 .from = options->from_ps,
                 .to = options->to_ps};
    bool ok = true;
    for (unsigned i = 0; i < n && ok; i++)
        ok = read_file(&r, files[i], wanted, n > 1);
    int status = ok ? tell(&r, options, path) : CLI_USAGE;
    g_ptr_array_free(r.signals, TRUE);
    g_ptr_array_free(r.bits, TRUE);
    g_ptr_array_free(r.reals, TRUE);
    return status;
}
