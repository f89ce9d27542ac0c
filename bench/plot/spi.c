/* SPDX-License-Identifier: MIT */
/* Exchanges as a picture: select, clock and both data lines, where bits were taken, the frames. */
#include <glib.h>

#include "gnuplot.h"
#include "wadium/host/exchange.h"

#define EXCHANGES 4 /* of them, when no times are given ... */
#define FRAMES    8 /* ... and of frames in all */

static const char *const names[] = {"select", "clock", "out", "in"};

typedef struct picture {
    const wad_exchanges *r;
    const wad_plot_options *o;
    wadi_axis x;
} picture;

static double at(const picture *p, uint64_t ps)
{
    return ((double)ps - (double)p->x.from) / p->x.scale;
}

static bool seen(const picture *p, uint64_t from, uint64_t to)
{
    return to > p->x.from && from < p->x.to;
}

/* Lines stand above each other, the select on top; those that are not there leave no gap. */
static double base_of(const picture *p, unsigned line)
{
    double y = 0;
    for (unsigned i = WAD_EXCHANGE_LINES; i-- > line + 1;)
        y += p->r->has[i] ? 1.5 : 0;
    return y;
}

static void emit_line(FILE *gp, const picture *p, unsigned line)
{
    double base = base_of(p, line);
    int level = 0;
    const wad_edge_record *e = p->r->edges[line];
    unsigned n = p->r->n_edges[line], i = 0;
    fprintf(gp, "$line%u << EOD\n", line);
    for (; i < n && e[i].ps <= p->x.from; i++)
        level = e[i].level == WAD_HIGH;
    fprintf(gp, "0 %g\n", base + level);
    for (; i < n && e[i].ps < p->x.to; i++) {
        double x = at(p, e[i].ps);
        fprintf(gp, "%.12g %g\n", x, base + level);
        level = e[i].level == WAD_HIGH;
        fprintf(gp, "%.12g %g\n", x, base + level);
    }
    fprintf(gp, "%.12g %g\nEOD\n", at(p, p->x.to), base + level);
}

static void emit_samples(FILE *gp, const picture *p)
{
    fputs("$taken << EOD\n", gp);
    for (unsigned i = 0; i < p->r->n_samples; i++) {
        const wad_exchange_sample *s = &p->r->samples[i];
        if (!seen(p, s->ps, s->ps + 1))
            continue;
        if (p->r->has[WAD_LINE_MOSI])
            fprintf(gp, "%.12g %g\n", at(p, s->ps), base_of(p, WAD_LINE_MOSI) + s->out);
        if (p->r->has[WAD_LINE_MISO])
            fprintf(gp, "%.12g %g\n", at(p, s->ps), base_of(p, WAD_LINE_MISO) + s->in);
    }
    fputs("nan nan\nEOD\n", gp);
}

static void emit_frame(FILE *gp, const picture *p, const wad_exchange_frame *f)
{
    const unsigned lines[] = {WAD_LINE_MOSI, WAD_LINE_MISO};
    double middle = (at(p, f->from_ps) + at(p, f->to_ps)) / 2;
    for (unsigned i = 0; i < 2; i++) {
        double base = base_of(p, lines[i]);
        if (!p->r->has[lines[i]])
            continue;
        fprintf(gp,
                "set object rect from %.12g,%g to %.12g,%g fs solid 1 noborder fc rgb '%s' behind\n"
                "set label '%0*x' at %.12g,%g center font ',12' noenhanced\n",
                at(p, f->from_ps), base + 1.08, at(p, f->to_ps), base + 1.36,
                i ? "#DCE6F2" : "#CFE3D2", (int)(p->r->form.bits + 3) / 4, i ? f->in : f->out,
                middle, base + 1.22);
    }
}

static void emit_exchange(FILE *gp, const picture *p, const wad_exchange *x)
{
    double top = base_of(p, WAD_LINE_SELECT) + (p->r->has[WAD_LINE_SELECT] ? 1.5 : 0.2);
    uint64_t from = MAX(x->from_ps, p->x.from), to = MIN(x->to_ps, p->x.to);
    bool wrong = x->extra || x->glitch || x->disagrees || x->early || x->late;
    char text[80];
    if (x->glitch)
        g_snprintf(text, sizeof text, "glitch");
    else
        g_snprintf(text, sizeof text, "mode %u%s%s%s", x->mode, x->ambiguous ? "?" : "",
                   x->extra ? ", short" : "", x->disagrees ? ", device in another" : "");
    fprintf(gp, "set label '%s' at %.12g,%g center font ',12'%s\n", text,
            (at(p, from) + at(p, to)) / 2, top, wrong ? " tc rgb '#C22F2F'" : "");
}

static void emit_tics(FILE *gp, const picture *p)
{
    unsigned n = 0;
    fputs("set ytics (", gp);
    for (unsigned i = 0; i < WAD_EXCHANGE_LINES; i++)
        if (p->r->has[i])
            fprintf(gp, "%s'%s' %g", n++ ? ", " : "", names[i], base_of(p, i) + 0.5);
    fputs(") scale 0\n", gp);
}

static void emit_script(FILE *gp, const char *terminal, const void *data)
{
    const picture *p = data;
    const wad_exchanges *r = p->r;
    char *title = g_strdup_printf(
        "%s: frames of %u bits, %s first", p->o->title ? p->o->title : "", r->form.bits,
        r->form.lsb_first ? "least significant bit" : "most significant bit");
    static const char *const colours[] = {"#7A4F9A", "#444444", "#2F7D3B", "#0B5C7A"};
    double top = base_of(p, WAD_LINE_SELECT) + (r->has[WAD_LINE_SELECT] ? 1.8 : 0.6);
    fprintf(gp,
            "set terminal %s\nset encoding utf8\nset lmargin 9\nset rmargin "
            "4\nset bmargin 4\n"
            "set border 1 lc rgb '#444444'\nset xtics nomirror out\nset grid xtics lc rgb "
            "'#EEEEEE'\nset xlabel '%s after %.9f s'\nset xrange [0:%.12g]\nset yrange [-0.2:%g]\n"
            "set key at screen 0.97,0.02 right bottom horizontal samplen 1.5 font ',11'\n",
            terminal, p->x.unit, (double)p->x.from / WAD_PS_PER_S, at(p, p->x.to), top);
    wadi_gnuplot_text(gp, "set title ", title, " font ',13' noenhanced\n");
    emit_tics(gp, p);
    for (unsigned i = 0; i < r->n; i++) {
        const wad_exchange *x = &r->exchanges[i];
        if (!seen(p, x->from_ps, x->to_ps))
            continue;
        emit_exchange(gp, p, x);
        for (unsigned k = 0; k < x->n; k++)
            if (seen(p, r->frames[x->first + k].from_ps, r->frames[x->first + k].to_ps))
                emit_frame(gp, p, &r->frames[x->first + k]);
    }
    for (unsigned i = 0; i < WAD_EXCHANGE_LINES; i++)
        if (r->has[i])
            emit_line(gp, p, i);
    emit_samples(gp, p);
    fputs("plot ", gp);
    for (unsigned i = 0; i < WAD_EXCHANGE_LINES; i++)
        if (r->has[i])
            fprintf(gp, "$line%u using 1:2 with lines lw 1.6 lc rgb '%s' notitle, ", i, colours[i]);
    fputs("$taken using 1:2 with points pt 7 ps 0.8 lc rgb '#B4551E' title 'bit taken', "
          "NaN with boxes fs solid 1 lc rgb '#CFE3D2' title 'frame out', "
          "NaN with boxes fs solid 1 lc rgb '#DCE6F2' title 'frame in'\n",
          gp);
    g_free(title);
}

bool wad_plot_exchanges(const wad_exchanges *r, const wad_plot_options *o, const char *path,
                        char **why)
{
    picture p = {.r = r, .o = o};
    uint64_t from = o->from_ps, to = o->to_ps;
    *why = NULL;
    if (!r->n_frames) {
        *why = g_strdup("no frame was decoded, so there is nothing to draw");
        return false;
    }
    if (!to) {
        unsigned first = 0, frames = 0;
        while (first + 1 < r->n && r->exchanges[first].to_ps < from)
            first++;
        unsigned last = first;
        for (unsigned i = first; i < r->n && i < first + EXCHANGES && frames < FRAMES; i++) {
            frames += r->exchanges[i].n;
            last = i;
        }
        uint64_t length = r->exchanges[last].to_ps - r->exchanges[first].from_ps;
        from = r->exchanges[first].from_ps - MIN(length / 20, r->exchanges[first].from_ps);
        to = r->exchanges[last].to_ps + length / 20;
    }
    p.x = wadi_axis_of(from, to > from ? to : from + 1, o->width ? o->width : 1280);
    return wadi_gnuplot_file(path, p.x.columns, o->height ? o->height : 560, emit_script, &p, why);
}
