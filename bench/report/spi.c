/* SPDX-License-Identifier: MIT */
/* Exchanges as text. */
#include <glib.h>

#include "wadium/host/exchange.h"

static unsigned digits(const wad_exchanges *r)
{
    return (r->form.bits + 3) / 4;
}

static void print_rate(double hz, FILE *out)
{
    if (hz >= 1e6)
        fprintf(out, "%.6g MHz", hz / 1e6);
    else
        fprintf(out, "%.6g kHz", hz / 1e3);
}

static const char *const ambiguous[] = {"mode 0 or 1", "mode 0 or 1", "mode 2 or 3", "mode 2 or 3"};

static void show_head(const wad_exchanges *r, const wad_exchange *x, FILE *out)
{
    fprintf(out, "%15.9f s  %10.3f us  %4u frame%s", (double)x->from_ps / WAD_PS_PER_S,
            (double)(x->to_ps - x->from_ps) / 1e6, x->n, x->n == 1 ? " " : "s");
    if (x->n) {
        if (x->ambiguous)
            fprintf(out, "  %s: too few changes to tell", ambiguous[x->mode]);
        else
            fprintf(out, "  mode %u", x->mode);
        if (x->hz > 0) {
            fputs("  ", out);
            print_rate(x->hz, out);
            fprintf(out, ", duty %.4g %%", x->duty * 100);
        }
    }
    fputc('\n', out);
    if (x->glitch)
        fprintf(out, "                   ^^ a glitch: selected for less than a bit\n");
    if (x->extra)
        fprintf(out, "                   ^^ a short frame: %u of %u bits\n", x->extra,
                r->form.bits);
    if (x->disagrees)
        fprintf(out,
                "                   ^^ data out and in change at different edges of the clock: "
                "the device has another mode\n");
    if (x->early || x->late)
        fprintf(out,
                "                   ^^ data change within %.3g ns before an edge that takes %u "
                "times, within %.3g ns behind it %u times\n",
                (double)r->form.setup_ps / 1e3, x->early, (double)r->form.hold_ps / 1e3, x->late);
}

static void show_line(const wad_exchanges *r, const wad_exchange *x, unsigned from, unsigned n,
                      bool in, FILE *out)
{
    fprintf(out, "                   %s", in ? "in " : "out");
    for (unsigned i = from; i < from + n; i++) {
        const wad_exchange_frame *f = &r->frames[x->first + i];
        fprintf(out, "%s%0*x", (i - from) % 8 ? " " : "  ", (int)digits(r), in ? f->in : f->out);
    }
    fputc('\n', out);
}

void wad_show_exchanges(const wad_exchanges *r, unsigned rows, FILE *out)
{
    unsigned width = r->form.bits <= 8 ? 16 : r->form.bits <= 16 ? 8 : 4;
    for (unsigned i = 0; i < r->n; i++) {
        const wad_exchange *x = &r->exchanges[i];
        show_head(r, x, out);
        for (unsigned at = 0, row = 0; at < x->n; at += width, row++) {
            unsigned n = MIN(width, x->n - at);
            if (rows && row == rows) {
                fprintf(out, "                   ... %u frames more\n", x->n - at);
                break;
            }
            if (r->has[WAD_LINE_MOSI])
                show_line(r, x, at, n, false, out);
            if (r->has[WAD_LINE_MISO])
                show_line(r, x, at, n, true, out);
        }
    }
    fprintf(out,
            "%u exchange%s, %u frame%s of %u bits, %s first; %u short, %u select glitch%s, %u "
            "setup and %u hold violations, %u with the device in another mode\n",
            r->n, r->n == 1 ? "" : "s", r->n_frames, r->n_frames == 1 ? "" : "s", r->form.bits,
            r->form.lsb_first ? "least significant" : "most significant", r->shorts, r->glitches,
            r->glitches == 1 ? "" : "es", r->early, r->late, r->disagreeing);
}
