/* SPDX-License-Identifier: MIT */
/* Some of a VCD file's signals, by name. */
#include <string.h>

#include "cli.h"
#include "wadium/host/recording.h"

#define MOST 8

typedef struct reading {
    const char *const *wanted; /* NULL-terminated */
    GPtrArray *names;
    int file_channel[MOST]; /* -1: not found */
    int *channels;
    cli_signals *signals;
} reading;

static void on_channel(void *ctx, unsigned number, const char *name)
{
    reading *r = ctx;
    g_ptr_array_add(r->names, g_strdup(name));
    for (unsigned i = 0; r->wanted[i]; i++)
        if (r->channels[i] < 0 && !strcmp(name, r->wanted[i])) {
            r->file_channel[i] = (int)number;
            r->channels[i] = (int)wad_capture_channel(r->signals->capture, name);
        }
}

static void on_edge(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    const reading *r = ctx;
    for (unsigned i = 0; r->wanted[i]; i++)
        if (r->file_channel[i] == (int)channel)
            wad_capture_edge(r->signals->capture, (unsigned)r->channels[i], ps, level);
}

static void on_end(void *ctx, uint64_t ps)
{
    ((reading *)ctx)->signals->end_ps = ps;
}

int cli_read_signals(const char *path, const char *const *wanted, const bool *must, int *channels,
                     cli_signals *signals)
{
    *signals = (cli_signals){wad_capture_new(), 0};
    reading r = {.wanted = wanted,
                 .names = g_ptr_array_new_with_free_func(g_free),
                 .channels = channels,
                 .signals = signals};
    for (unsigned i = 0; i < MOST && wanted[i]; i++)
        channels[i] = r.file_channel[i] = -1;
    wad_diags *diags = wad_diags_new();
    wad_vcd_listener listener = {.channel = on_channel, .edge = on_edge, .end = on_end, .ctx = &r};
    int status = wad_recording_read(path, &listener, diags) ? CLI_GOOD : CLI_USAGE;
    cli_tell(diags);
    g_ptr_array_add(r.names, NULL);
    for (unsigned i = 0; wanted[i] && status == CLI_GOOD; i++) {
        if (channels[i] >= 0 || !must[i])
            continue;
        char *names = g_strjoinv(", ", (char **)r.names->pdata);
        status = cli_error("%s has no signal '%s'; it has %s", path, wanted[i],
                           *names ? names : "none of one bit");
        g_free(names);
    }
    g_ptr_array_free(r.names, TRUE);
    return status;
}
