/* SPDX-License-Identifier: MIT */
/* A serial line as a picture: start bits, where each bit was looked at, bytes, errors. */
#include <glib.h>

#include "gnuplot.h"
#include "lang/rational.h"
#include "wadium/host/decode.h"

#define FRAMES 6 /* of them, when no times are given */

typedef struct picture {
    const wad_serial_decoded *d;
    const wad_plot_options *o;
    wadi_axis x;
    double bit; /* picoseconds */
} picture;

/* Since the picture's left end: seconds with nanoseconds behind them cannot be read. */
static double at(const picture *p, double ps)
{
    return (ps - (double)p->x.from) / p->x.scale;
}

static double frame_bits(const wad_serial_decoded *d)
{
    return 1 + d->format.bits + (d->format.parity != 'N') + d->format.stop_halves / 2.0;
}

static bool seen(const picture *p, uint64_t from, double length)
{
    return (double)from + length > (double)p->x.from && from < p->x.to;
}

/* Steps of the line, between 0 and 1. */
static void emit_line(FILE *gp, const picture *p)
{
    int level = 1;
    fprintf(gp, "$line << EOD\n%.12g ", at(p, (double)p->x.from));
    for (unsigned i = 0; i < p->d->n_edges && p->d->edges[i].ps <= p->x.from; i++)
        level = p->d->edges[i].level != WAD_LOW;
    fprintf(gp, "%d\n", level);
    for (unsigned i = 0; i < p->d->n_edges; i++) {
        const wad_edge_record *e = &p->d->edges[i];
        if (e->ps <= p->x.from || e->ps >= p->x.to)
            continue;
        fprintf(gp, "%.12g %d\n%.12g %d\n", at(p, (double)e->ps), level, at(p, (double)e->ps),
                e->level != WAD_LOW);
        level = e->level != WAD_LOW;
    }
    fprintf(gp, "%.12g %d\nEOD\n", at(p, (double)p->x.to), level);
}

static void emit_samples(FILE *gp, const picture *p, const char *name, bool data)
{
    unsigned n = 0;
    fprintf(gp, "$%s << EOD\n", name);
    for (unsigned i = 0; i < p->d->n_samples; i++) {
        const wad_serial_sample *s = &p->d->samples[i];
        if ((s->of == WAD_SAMPLE_DATA) == data && s->ps >= p->x.from && s->ps < p->x.to) {
            fprintf(gp, "%.12g %d\n", at(p, (double)s->ps), s->level);
            n++;
        }
    }
    fprintf(gp, "%sEOD\n", n ? "" : "nan nan\n");
}

static void box(FILE *gp, const picture *p, double from, double to, double low, double high,
                const char *colour)
{
    fprintf(gp,
            "set object rect from %.12g,%g to %.12g,%g fs solid 1 noborder fc rgb '%s' behind\n",
            at(p, from), low, at(p, to), high, colour);
}

static const char *name_of(const wad_serial_heard *b)
{
    return b->is_break               ? "break"
           : b->framing && b->parity ? "framing, parity"
           : b->framing              ? "framing"
           : b->parity               ? "parity"
                                     : NULL;
}

/* A frame: its start bit, data, parity and stop bit as fields above the line, its byte in words. */
static void emit_frame(FILE *gp, const picture *p, const wad_serial_heard *b)
{
    const wad_serial_format *f = &p->d->format;
    const char *wrong = name_of(b);
    double from = (double)b->ps, data = from + p->bit, parity = data + f->bits * p->bit;
    double stop = parity + (f->parity != 'N') * p->bit, end = stop + f->stop_halves * p->bit / 2;
    box(gp, p, from, data, 1.16, 1.3, "#8FA7B3");
    box(gp, p, data, parity, 1.16, 1.3, wrong ? "#F2C9C9" : "#CFE3D2");
    if (f->parity != 'N')
        box(gp, p, parity, stop, 1.16, 1.3, b->parity ? "#C22F2F" : "#E3D9A8");
    box(gp, p, stop, end, 1.16, 1.3, b->framing ? "#C22F2F" : "#DDDDDD");
    char text[48];
    if (b->data > 0x20 && b->data < 0x7F)
        g_snprintf(text, sizeof text, "%02x  \"%c\"", b->data, (char)b->data);
    else
        g_snprintf(text, sizeof text, "%02x", b->data);
    wadi_gnuplot_text(gp, "set label ", text, " at ");
    fprintf(gp, "%.12g,1.4 center font ',13' noenhanced\n", at(p, (data + parity) / 2));
    if (wrong)
        fprintf(gp, "set label '%s' at %.12g,1.5 center font ',11' tc rgb '#C22F2F'\n", wrong,
                at(p, (data + parity) / 2));
}

static void emit_script(FILE *gp, const char *terminal, const void *data)
{
    const picture *p = data;
    char format[8];
    wad_serial_name(&p->d->format, format);
    char *title =
        g_strdup_printf("%s: %.6g baud%s, %s, a bit is %.4g us", p->o->title ? p->o->title : "",
                        wadi_rat_double(p->d->format.baud), p->d->estimated ? " (estimated)" : "",
                        format, p->bit / 1e6);
    fprintf(gp,
            "set terminal %s\nset encoding utf8\nset lmargin 8\nset rmargin 4\n"
            "set border 1 lc rgb '#444444'\nset xtics nomirror out\nset grid xtics lc rgb "
            "'#EEEEEE'\n",
            terminal);
    wadi_gnuplot_text(gp, "set title ", title, " font ',13' noenhanced\n");
    fprintf(gp,
            "set xlabel '%s after %.9g s'\nset xrange [%.12g:%.12g]\nset yrange [-0.15:1.6]\n"
            "set ytics ('low' 0, 'high' 1) scale 0\n"
            "set key below horizontal samplen 1.5 font ',11'\n",
            p->x.unit, (double)p->x.from / WAD_PS_PER_S, at(p, (double)p->x.from),
            at(p, (double)p->x.to));
    for (unsigned i = 0; i < p->d->n_bytes; i++)
        if (seen(p, p->d->bytes[i].ps, frame_bits(p->d) * p->bit))
            emit_frame(gp, p, &p->d->bytes[i]);
    emit_line(gp, p);
    emit_samples(gp, p, "data", true);
    emit_samples(gp, p, "rest", false);
    fprintf(gp, "plot $line using 1:2 with lines lw 1.6 lc rgb '#0B5C7A' title 'the line', "
                "$data using 1:2 with points pt 7 ps 0.9 lc rgb '#2F7D3B' title 'data bit looked "
                "at', $rest using 1:2 with points pt 6 ps 1.0 lw 1.5 lc rgb '#B4551E' title "
                "'start, parity, stop looked at', NaN with boxes fs solid 1 lc rgb '#8FA7B3' title "
                "'start bit', NaN with boxes fs solid 1 lc rgb '#CFE3D2' title 'data bits', NaN "
                "with boxes fs solid 1 lc rgb '#E3D9A8' title 'parity bit', NaN with boxes fs "
                "solid 1 lc rgb '#DDDDDD' title 'stop bits', NaN with boxes fs solid 1 lc rgb "
                "'#C22F2F' title 'wrong'\n");
    g_free(title);
}

bool wad_plot_serial(const wad_serial_decoded *d, const wad_plot_options *o, const char *path,
                     char **why)
{
    picture p = {.d = d, .o = o};
    *why = NULL;
    if (!d->n_bytes) {
        *why = g_strdup("no byte was decoded, so there is nothing to draw");
        return false;
    }
    p.bit = 1e12 / wadi_rat_double(d->format.baud);
    uint64_t from = o->from_ps, to = o->to_ps;
    if (!to) {
        unsigned first = 0;
        while (first + 1 < d->n_bytes && d->bytes[first].ps < from)
            first++;
        unsigned last = MIN(first + FRAMES, d->n_bytes) - 1;
        uint64_t margin = (uint64_t)(2 * p.bit);
        from = d->bytes[first].ps > margin ? d->bytes[first].ps - margin : 0;
        to = d->bytes[last].ps + (uint64_t)(frame_bits(d) * p.bit) + margin;
    }
    p.x = wadi_axis_of(from, to > from ? to : from + 1, o->width ? o->width : 1280);
    return wadi_gnuplot_file(path, p.x.columns, o->height ? o->height : 500, emit_script, &p, why);
}
