/* SPDX-License-Identifier: MIT */
/* A capture as CSV: time in seconds, then the value of each channel from then on. */
#include <glib.h>
#include <math.h>

#include "files/csv.h"
#include "wadium/host/capture.h"
#include "wadium/host/output.h"

typedef struct row {
    double *analog;
    wad_level *levels;
    size_t *next; /* of each analog channel's samples */
} row;

static void write_head(const wad_capture *c, FILE *out)
{
    const char *unit;
    fputs("time_s", out);
    for (unsigned i = 0; i < wad_capture_channels(c); i++) {
        fputc(',', out);
        wadi_csv_put(out, wad_capture_name(c, i));
    }
    for (unsigned i = 0; i < wad_capture_analogs(c); i++) {
        const char *name = wad_capture_analog_name(c, i, &unit);
        char *heading = g_strdup_printf("%s_%s", name, unit);
        fputc(',', out);
        wadi_csv_put(out, heading);
        g_free(heading);
    }
    fputs("\n", out);
}

static void write_row(const wad_capture *c, const row *r, uint64_t ps, FILE *out)
{
    static const char *const levels[] = {"0", "1", ""};
    fprintf(out, "%llu.%012llu", (unsigned long long)(ps / WAD_PS_PER_S),
            (unsigned long long)(ps % WAD_PS_PER_S));
    for (unsigned i = 0; i < wad_capture_channels(c); i++)
        fprintf(out, ",%s", levels[r->levels[i]]);
    for (unsigned i = 0; i < wad_capture_analogs(c); i++)
        if (isnan(r->analog[i]))
            fputs(",", out);
        else
            fprintf(out, ",%.9g", r->analog[i]);
    fputs("\n", out);
}

/* The earliest sample that has not been written. */
static uint64_t next_sample(const wad_capture *c, const row *r)
{
    uint64_t first = UINT64_MAX;
    for (unsigned i = 0; i < wad_capture_analogs(c); i++) {
        size_t n;
        const wad_sample *s = wad_capture_samples(c, i, &n);
        if (r->next[i] < n)
            first = MIN(first, s[r->next[i]].ps);
    }
    return first;
}

static void take_samples(const wad_capture *c, row *r, uint64_t ps)
{
    for (unsigned i = 0; i < wad_capture_analogs(c); i++) {
        size_t n;
        const wad_sample *s = wad_capture_samples(c, i, &n);
        while (r->next[i] < n && s[r->next[i]].ps <= ps)
            r->analog[i] = s[r->next[i]++].value;
    }
}

static void write_rows(const wad_capture *c, row *r, FILE *out)
{
    wad_cursor at = {0};
    wad_edge_record e;
    bool edge = wad_capture_next(c, &at, &e);
    for (;;) {
        uint64_t sample = next_sample(c, r), ps = edge ? MIN(e.ps, sample) : sample;
        if (ps == UINT64_MAX)
            return;
        while (edge && e.ps == ps) {
            r->levels[e.channel] = e.level;
            edge = wad_capture_next(c, &at, &e);
        }
        take_samples(c, r, ps);
        write_row(c, r, ps, out);
    }
}

bool wad_csv_write(const wad_capture *c, const char *path, uint64_t end_ps, char **why)
{
    wad_output *out = wad_output_open(path, why);
    if (!out)
        return false;
    row r = {g_new0(double, wad_capture_analogs(c) + 1),
             g_new0(wad_level, wad_capture_channels(c) + 1),
             g_new0(size_t, wad_capture_analogs(c) + 1)};
    for (unsigned i = 0; i < wad_capture_analogs(c); i++)
        r.analog[i] = NAN;
    for (unsigned i = 0; i < wad_capture_channels(c); i++)
        r.levels[i] = WAD_FLOATING;
    FILE *file = wad_output_file(out);
    write_head(c, file);
    write_rows(c, &r, file);
    write_row(c, &r, end_ps, file);
    g_free(r.analog);
    g_free(r.levels);
    g_free(r.next);
    return wad_output_close(out, why);
}
