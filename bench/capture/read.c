/* SPDX-License-Identifier: MIT */
/* Recordings of instruments: told apart by how they begin. */
#include <glib.h>
#include <string.h>

#include "csv_read.h"
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

wad_capture *wad_recording_load(const char *path, uint64_t *end_ps, wad_diags *diags)
{
    loading l = {wad_capture_new(), 0};
    const wad_vcd_listener to = {on_channel, on_edge, on_real_channel, on_real, on_end, &l};
    if (!wad_recording_read(path, &to, diags)) {
        wad_capture_free(l.capture);
        return NULL;
    }
    *end_ps = l.end;
    return l.capture;
}
