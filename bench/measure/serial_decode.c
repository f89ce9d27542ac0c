/* SPDX-License-Identifier: MIT */
/* Captured edges to bytes, and the baud that they were sent at. */
#include "wadium/host/decode.h"

#include <glib.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "lang/rational.h"
#include "serial_shift.h"

/* ---- the baud ---- */

#define LONGEST 12 /* bits between two edges that still tell something; more is a pause */

static int by_size(const void *a, const void *b)
{
    double x = *(const double *)a, y = *(const double *)b;
    return (x > y) - (x < y);
}

/* Times between edges, sorted; how many. */
static double *intervals(const wad_edge_record *edges, unsigned n, unsigned *count)
{
    double *list = g_new(double, n + 1);
    *count = 0;
    for (unsigned i = 1; i < n; i++)
        if (edges[i].ps > edges[i - 1].ps)
            list[(*count)++] = (double)(edges[i].ps - edges[i - 1].ps);
    qsort(list, *count, sizeof *list, by_size);
    return list;
}

/* A bit's time refined: what all intervals, each a whole number of bits, come to together. */
static double refine(const double *list, unsigned n, double bit)
{
    for (unsigned turn = 0; turn < 4; turn++) {
        double time = 0, bits = 0;
        for (unsigned i = 0; i < n && list[i] < (LONGEST + 0.5) * bit; i++) {
            double k = round(list[i] / bit);
            if (k >= 1 && fabs(list[i] / bit - k) < 0.3) {
                time += list[i];
                bits += k;
            }
        }
        if (bits <= 0)
            return bit;
        bit = time / bits;
    }
    return bit;
}

typedef struct tally {
    unsigned bytes, wrong;
} tally;

static void count_byte(void *ctx, const wadi_serial_byte *byte)
{
    tally *t = ctx;
    t->bytes++;
    t->wrong += byte->framing || byte->parity;
}

static wad_serial_format at_baud(const wad_serial_format *f, double baud)
{
    wad_serial_format with = *f;
    with.baud = (wad_rational){(int64_t)(baud * 1000 + 0.5), 1000};
    return with;
}

static double wrong_share(const wad_edge_record *edges, unsigned n, const wad_serial_format *f,
                          double bit)
{
    tally t = {0, 0};
    wadi_serial_decoder d;
    wad_serial_format with = at_baud(f, 1e12 / bit);
    if (with.baud.num <= 0)
        return 1;
    wadi_serial_begin(&d, &with, count_byte, &t);
    for (unsigned i = 0; i < n; i++)
        wadi_serial_edge(&d, edges[i].ps, edges[i].level != WAD_LOW);
    wadi_serial_until(&d, UINT64_MAX);
    return t.bytes ? (double)t.wrong / t.bytes : 1;
}

/* Share of the intervals, pauses left out, that are no whole number of bits. */
static double odd_share(const double *list, unsigned n, double bit)
{
    unsigned all = 0, odd = 0;
    for (; all < n && list[all] < (LONGEST + 0.5) * bit; all++)
        odd += list[all] < 0.5 * bit || fabs(list[all] / bit - round(list[all] / bit)) > 0.2;
    return all ? (double)odd / all : 1;
}

/* Does hardly any bit stand alone? Half a bit would fit as well as a whole one, and so does this.
 */
static bool no_single(const double *list, unsigned n, double bit)
{
    unsigned single = 0;
    for (unsigned i = 0; i < n; i++)
        single += list[i] > 0.8 * bit && list[i] < 1.2 * bit;
    return single * 50 < n;
}

typedef struct guess {
    double bit,
        cost; /* shares of wrong bytes and of odd intervals; half a point for no single bit */
} guess;

/* The cheaper one; the longer bit when they cost much the same: half of a bit decodes as well. */
static void consider(guess *best, const wad_edge_record *edges, unsigned n,
                     const wad_serial_format *f, const double *list, unsigned count, double bit)
{
    guess g = {refine(list, count, bit), 0};
    g.cost = wrong_share(edges, n, f, g.bit) + odd_share(list, count, g.bit) +
             (no_single(list, count, g.bit) ? 0.5 : 0);
    double easier = g.bit > best->bit * 1.05 ? -0.03 : 0.03;
    if (best->bit <= 0 || g.cost < best->cost - easier)
        *best = g;
}

/* A bit is one of the shorter intervals, noise aside; or a half or a third of the shortest where no
 * bit stands alone. */
double wad_serial_estimate(const wad_edge_record *edges, unsigned n, const wad_serial_format *f)
{
    unsigned count;
    double *list = intervals(edges, n, &count), last = 0;
    guess best = {0, 0};
    for (unsigned i = 0; count >= 4 && i <= count / 2; i++)
        if (list[i] > last * 1.1) {
            consider(&best, edges, n, f, list, count, list[i]);
            last = list[i];
        }
    for (unsigned k = 2; k <= 3 && best.bit > 0; k++)
        consider(&best, edges, n, f, list, count, list[count / 50] / k);
    g_free(list);
    return best.bit > 0 ? 1e12 / best.bit : 0;
}

/* ---- bytes ---- */

typedef struct decoding {
    wad_serial_decoded result;
    GArray *edges, *bytes, *samples;
} decoding;

static void on_byte(void *ctx, const wadi_serial_byte *b)
{
    decoding *d = ctx;
    wad_serial_heard heard = {b->ps, b->data, b->framing, b->parity, b->is_break};
    g_array_append_val(d->bytes, heard);
    d->result.breaks += b->is_break;
    d->result.framing += b->framing && !b->is_break;
    d->result.parity += b->parity && !b->is_break;
}

static void on_sample(void *ctx, uint64_t ps, bool level, wadi_sample_of of)
{
    wad_serial_sample sample = {ps, level, (unsigned)of};
    g_array_append_val(((decoding *)ctx)->samples, sample);
}

/* The channel's changes; a pin that nobody drives rests. */
static void gather(decoding *d, const wad_capture *c, unsigned channel, bool inverted)
{
    wad_cursor at = {0};
    wad_edge_record e;
    while (wad_capture_next(c, &at, &e)) {
        if (e.channel != channel)
            continue;
        if (e.level == WAD_FLOATING)
            e.level = WAD_HIGH;
        else if (inverted)
            e.level = e.level == WAD_LOW ? WAD_HIGH : WAD_LOW;
        const wad_edge_record *last =
            d->edges->len ? &g_array_index(d->edges, wad_edge_record, d->edges->len - 1) : NULL;
        if (last ? last->level != e.level : e.level == WAD_LOW)
            g_array_append_val(d->edges, e);
    }
}

wad_serial_decoded *wad_serial_decode(const wad_capture *capture, unsigned channel, uint64_t end_ps,
                                      const wad_serial_format *format, bool inverted, char **why)
{
    decoding *d = g_new0(decoding, 1);
    *why = NULL;
    d->edges = g_array_new(FALSE, FALSE, sizeof(wad_edge_record));
    d->bytes = g_array_new(FALSE, FALSE, sizeof(wad_serial_heard));
    d->samples = g_array_new(FALSE, FALSE, sizeof(wad_serial_sample));
    gather(d, capture, channel, inverted);
    wad_serial_decoded *r = &d->result;
    r->edges = (const wad_edge_record *)(void *)d->edges->data;
    r->n_edges = d->edges->len;
    r->end_ps = end_ps;
    r->format = *format;
    r->estimated = format->baud.num <= 0;
    if (r->estimated) {
        double baud = wad_serial_estimate(r->edges, r->n_edges, format);
        r->format = at_baud(format, baud);
        if (baud <= 0) {
            *why = g_strdup_printf("%u edges are too few to tell the baud by: say --baud N",
                                   r->n_edges);
            wad_serial_decoded_free(r);
            return NULL;
        }
    }
    wadi_serial_decoder decoder;
    wadi_serial_begin(&decoder, &r->format, on_byte, d);
    decoder.on_sample = on_sample;
    for (unsigned i = 0; i < r->n_edges; i++)
        wadi_serial_edge(&decoder, r->edges[i].ps, r->edges[i].level != WAD_LOW);
    wadi_serial_until(&decoder, end_ps);
    r->bytes = (const wad_serial_heard *)(void *)d->bytes->data;
    r->n_bytes = d->bytes->len;
    r->samples = (const wad_serial_sample *)(void *)d->samples->data;
    r->n_samples = d->samples->len;
    return r;
}

void wad_serial_decoded_free(wad_serial_decoded *decoded)
{
    decoding *d = (decoding *)decoded;
    if (!d)
        return;
    g_array_free(d->edges, TRUE);
    g_array_free(d->bytes, TRUE);
    g_array_free(d->samples, TRUE);
    g_free(d);
}

/* ---- as text ---- */

static double baud_of(const wad_serial_decoded *d)
{
    return wadi_rat_double(d->format.baud);
}

/* The usual rate that is nearest, and how far it is. */
static double nearest(double baud)
{
    double best = wad_usual_baud(0);
    for (unsigned i = 1; wad_usual_baud(i); i++)
        if (fabs(log(baud / wad_usual_baud(i))) < fabs(log(baud / best)))
            best = wad_usual_baud(i);
    return best;
}

static void show_head(const wad_serial_decoded *d, const char *name, FILE *out)
{
    char format[8];
    double baud = baud_of(d), usual = nearest(baud), off = (baud / usual - 1) * 100;
    wad_serial_name(&d->format, format);
    fprintf(out, "%s: %.6g baud, %s", name, baud, format);
    if (d->estimated && fabs(off) < 5)
        fprintf(out, "; the baud is estimated from the edges, %+.2f %% off %.0f", off, usual);
    else if (d->estimated)
        fprintf(out, "; the baud is estimated from the edges, near none of the usual ones");
    fprintf(out, "\n");
}

void wad_show_serial_row(const wad_serial_heard *b, unsigned n, FILE *out)
{
    fprintf(out, "%13.9f s ", (double)b->ps / WAD_PS_PER_S);
    for (unsigned i = 0; i < 16; i++)
        if (i < n)
            fprintf(out, "%s%02x", i % 8 ? " " : "  ", b[i].data);
        else
            fprintf(out, "%s  ", i % 8 ? " " : "  ");
    fprintf(out, "  |");
    for (unsigned i = 0; i < n; i++)
        fputc(b[i].data >= 0x20 && b[i].data < 0x7F ? (int)b[i].data : '.', out);
    fprintf(out, "|\n");
}

static const char *trouble(const wad_serial_heard *b)
{
    return b->is_break               ? "break"
           : b->framing && b->parity ? "framing and parity error"
           : b->framing              ? "framing error: the stop bit is low"
           : b->parity               ? "parity error"
                                     : NULL;
}

/* A row ends with 16 bytes, with a newline, with an error, before a pause. */
void wad_show_serial(const wad_serial_decoded *d, const char *name, FILE *out)
{
    double frame = 1e12 / baud_of(d) * (2 + d->format.bits + (d->format.parity != 'N'));
    show_head(d, name, out);
    for (unsigned i = 0, n; i < d->n_bytes; i += n) {
        const wad_serial_heard *b = &d->bytes[i];
        for (n = 1; n < 16 && i + n < d->n_bytes; n++)
            if (b[n - 1].data == '\n' || trouble(&b[n - 1]) || trouble(&b[n]) ||
                (double)(b[n].ps - b[n - 1].ps) > 3 * frame)
                break;
        wad_show_serial_row(b, n, out);
        if (trouble(b))
            fprintf(out, "                 ^^ %s\n", trouble(b));
    }
    fprintf(out, "%u byte%s, %u framing error%s, %u parity error%s, %u break%s\n", d->n_bytes,
            d->n_bytes == 1 ? "" : "s", d->framing, d->framing == 1 ? "" : "s", d->parity,
            d->parity == 1 ? "" : "s", d->breaks, d->breaks == 1 ? "" : "s");
}
