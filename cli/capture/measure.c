/* SPDX-License-Identifier: MIT */
#include "cli/shared/cli.h"
#include "wadium/host/recording.h"

typedef struct meters {
    GArray *list; /* wad_measured */
    uint64_t from, to, end;
} meters;

static void on_channel(void *ctx, unsigned number, const char *name)
{
    meters *m = ctx;
    (void)number;
    wad_measured one = {.name = g_strdup(name)};
    wad_meter_init(&one.meter, m->from, m->to);
    g_array_append_val(m->list, one);
}

static void on_edge(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    meters *m = ctx;
    wad_meter_edge(&g_array_index(m->list, wad_measured, channel).meter, ps, level);
}

static void on_end(void *ctx, uint64_t ps)
{
    ((meters *)ctx)->end = ps;
}

static int measure(const char *path, meters *m, bool json)
{
    wad_diags *diags = wad_diags_new();
    wad_vcd_listener listener = {.channel = on_channel, .edge = on_edge, .end = on_end, .ctx = m};
    bool ok = wad_recording_read(path, &listener, diags);
    cli_tell(diags);
    for (guint i = 0; i < m->list->len; i++)
        wad_meter_end(&g_array_index(m->list, wad_measured, i).meter, m->end);
    if (ok && m->from && m->from >= m->end)
        return cli_error("--from lies behind the end of %s, %.9g s", path,
                         (double)m->end / WAD_PS_PER_S);
    if (ok && m->to != UINT64_MAX && m->to > m->end)
        return cli_error("--to lies behind the end of %s, %.9g s", path,
                         (double)m->end / WAD_PS_PER_S);
    const wad_measured *all = (const wad_measured *)(void *)m->list->data;
    if (ok && json)
        wad_report_measured_json(all, m->list->len, m->end, stdout);
    else if (ok)
        wad_report_measured(all, m->list->len, m->end, stdout);
    return ok ? CLI_GOOD : CLI_USAGE;
}

int cli_measure(int argc, char **argv)
{
    gboolean json = FALSE;
    char *from = NULL, *to = NULL;
    const GOptionEntry entries[] = {
        {"from", 0, 0, G_OPTION_ARG_STRING, &from, "count edges from this time on", "TIME"},
        {"to", 0, 0, G_OPTION_ARG_STRING, &to, "and up to this time", "TIME"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "for a machine", NULL},
        {0}};
    int status = CLI_USAGE;
    if (!cli_options(&argc, &argv, "measure", "FILE.vcd",
                     "Measures every one-bit signal of a VCD file, Wadium's or another tool's: "
                     "edges, frequency,\nduty, pulse width, period and its jitter. Memory stays "
                     "the same however long the file.",
                     entries, &status))
        return status;
    meters m = {g_array_new(FALSE, FALSE, sizeof(wad_measured)), 0, UINT64_MAX, 0};
    if (argc != 2)
        status = cli_error("measure takes one VCD file; see 'wadium measure --help'");
    else if ((!from || cli_time(from, &m.from)) && (!to || cli_time(to, &m.to)))
        status = m.to > m.from ? measure(argv[1], &m, json) : cli_error("--to lies before --from");
    else
        status = CLI_USAGE;
    for (guint i = 0; i < m.list->len; i++)
        g_free((char *)g_array_index(m.list, wad_measured, i).name);
    g_array_free(m.list, TRUE);
    g_free(from);
    g_free(to);
    return status;
}
