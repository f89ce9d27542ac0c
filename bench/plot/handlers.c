/* SPDX-License-Identifier: MIT */
/* Interrupt handlers as pictures: who runs when, how late they are, how long they take. */
#include <glib.h>
#include <string.h>

#include "gnuplot.h"
#include "wadium/host/bench.h"

#define LANES 32

typedef struct picture {
    const wad_bench_result *result;
    const wad_plot_options *options;
    wadi_axis x;
} picture;

static bool has_spans(const wad_bench_result *r, char **why)
{
    *why = r->n_spans ? NULL : g_strdup("no handler ran, so there is nothing to draw");
    return r->n_spans != 0;
}

static picture make_picture(const wad_bench_result *r, const wad_plot_options *o)
{
    uint64_t to = o->to_ps ? o->to_ps : r->run.end_ps;
    return (picture){r, o,
                     wadi_axis_of(o->from_ps, to > o->from_ps ? to : o->from_ps + 1,
                                  o->width ? o->width : 1280)};
}

static int lane_of(const wad_bench_result *r, unsigned line)
{
    for (unsigned i = 0; i < r->n_handlers; i++)
        if (r->handlers[i].line == line)
            return (int)i;
    return -1;
}

static bool is_inside(const wadi_axis *x, const wad_handler_span *s)
{
    return s->raised_ps < x->to && s->left_ps > x->from;
}

/* ---- the timeline ---- */

typedef enum piece { WAITS, RUNS, PREEMPTED, PIECES } piece;

/* Boxes of one sort, those that fall into one pixel merged. */
typedef struct boxes {
    FILE *gp;
    const wadi_axis *x;
    double from[LANES + 1], to[LANES + 1]; /* of each lane, not written yet */
    bool open[LANES + 1];
    double low, high; /* of a lane's unit height */
    double least;     /* width, so that it is seen */
    unsigned lanes;
    unsigned sleeps; /* that have been passed */
} boxes;

static void write_box(boxes *b, unsigned lane)
{
    double middle = (double)(b->lanes - lane);
    if (b->open[lane] && b->to[lane] - b->from[lane] < b->least)
        b->to[lane] = b->from[lane] + b->least;
    if (b->open[lane])
        fprintf(b->gp, "%.12g %.12g %.12g %.12g %g %g\n", (b->from[lane] + b->to[lane]) / 2, middle,
                b->from[lane], b->to[lane], middle + b->low, middle + b->high);
    b->open[lane] = false;
}

static void add_box(boxes *b, unsigned lane, uint64_t from, uint64_t to)
{
    double pixel = (double)(b->x->to - b->x->from) / b->x->columns / b->x->scale;
    if (to <= b->x->from || from >= b->x->to || from >= to)
        return;
    double left = (double)MAX(from, b->x->from) / b->x->scale;
    double right = (double)MIN(to, b->x->to) / b->x->scale;
    if (b->open[lane] && left - b->to[lane] < pixel / 2) {
        b->to[lane] = MAX(b->to[lane], right);
        return;
    }
    write_box(b, lane);
    b->from[lane] = left;
    b->to[lane] = right;
    b->open[lane] = true;
}

/* What is on the core: the handlers inside of each other, the innermost last. */
typedef struct core {
    const wad_handler_span *stack[64];
    unsigned depth;
    uint64_t since; /* the innermost has run so long */
} core;

/* Main runs where no handler does, and it does not sleep. */
static void add_main(const picture *p, boxes *b, uint64_t from, uint64_t until)
{
    const wad_bench_result *r = p->result;
    for (; b->sleeps < r->n_sleeps && r->sleeps[b->sleeps].from_ps < until; b->sleeps++) {
        const wad_sleep_span *s = &r->sleeps[b->sleeps];
        add_box(b, b->lanes, from, MIN(s->from_ps, until));
        from = MAX(from, s->to_ps);
        if (s->to_ps > until) /* goes on behind the handler */
            return;
    }
    add_box(b, b->lanes, from, until);
}

static void pass(const picture *p, core *c, boxes *b, piece wanted, uint64_t until)
{
    for (unsigned i = 0; i + 1 < c->depth && wanted == PREEMPTED; i++)
        add_box(b, (unsigned)lane_of(p->result, c->stack[i]->line), c->since, until);
    if (wanted == RUNS && c->depth)
        add_box(b, (unsigned)lane_of(p->result, c->stack[c->depth - 1]->line), c->since, until);
    if (wanted == RUNS && !c->depth)
        add_main(p, b, c->since, until);
    c->since = until;
}

static void leave_until(const picture *p, core *c, boxes *b, piece wanted, uint64_t ps)
{
    while (c->depth && c->stack[c->depth - 1]->left_ps <= ps) {
        pass(p, c, b, wanted, c->stack[c->depth - 1]->left_ps);
        c->depth--;
    }
}

static void emit_pieces(FILE *gp, const picture *p, piece wanted)
{
    static const double low[] = {-0.06, -0.3, -0.3}, high[] = {0.06, 0.3, 0.3};
    const wad_bench_result *r = p->result;
    core c = {.depth = 0};
    boxes b = {.gp = gp,
               .x = &p->x,
               .low = low[wanted],
               .high = high[wanted],
               .least = wanted == RUNS
                            ? 2.0 * (double)(p->x.to - p->x.from) / p->x.columns / p->x.scale
                            : 0,
               .lanes = MIN(r->n_handlers, (unsigned)LANES)};
    fprintf(gp, "$p%u << EOD\n", (unsigned)wanted);
    for (unsigned i = 0; i < r->n_spans; i++) {
        const wad_handler_span *s = &r->spans[i];
        leave_until(p, &c, &b, wanted, s->entered_ps);
        pass(p, &c, &b, wanted, s->entered_ps);
        if (wanted == WAITS)
            add_box(&b, (unsigned)lane_of(r, s->line), s->raised_ps, s->entered_ps);
        if (c.depth < G_N_ELEMENTS(c.stack))
            c.stack[c.depth++] = s;
    }
    leave_until(p, &c, &b, wanted, r->run.end_ps);
    pass(p, &c, &b, wanted, r->run.end_ps);
    for (unsigned i = 0; i <= b.lanes; i++)
        write_box(&b, i);
    fprintf(gp, "%.12g -9 %.12g %.12g -9 -9\nEOD\n", (double)p->x.from / p->x.scale,
            (double)p->x.from / p->x.scale, (double)p->x.from / p->x.scale); /* never empty */
}

static const char *title_of(const picture *p)
{
    return p->options->title ? p->options->title : p->result->title;
}

static void emit_head(FILE *gp, const picture *p, const char *terminal)
{
    fprintf(gp, "set terminal %s\nset encoding utf8\n", terminal);
    wadi_gnuplot_text(gp, "set title ", title_of(p), " font ',12'\n");
    fputs("set border 3 lc rgb '#444444'\nset tics nomirror out\n", gp);
}

static void draw_timeline(FILE *gp, const char *terminal, const void *data)
{
    const picture *p = data;
    const wad_bench_result *r = p->result;
    unsigned lanes = MIN(r->n_handlers, (unsigned)LANES);
    for (piece k = WAITS; k < PIECES; k++)
        emit_pieces(gp, p, k);
    emit_head(gp, p, terminal);
    fprintf(
        gp,
        "set border 1\nset xtics nomirror out\nset grid xtics back lt 1 lc rgb '#DDDDDD'\nset "
        "lmargin 16\nset rmargin 4\n"
        "set xlabel '%s'\nset xrange [%.12g:%.12g]\nset yrange [-0.7:%g]\n"
        "set key above right horizontal\nset style fill solid 1.0 noborder\nset ytics scale 0 (",
        p->x.unit, (double)p->x.from / p->x.scale, (double)p->x.to / p->x.scale, lanes + 0.7);
    for (unsigned i = 0; i < lanes; i++) {
        char *lane = g_strdup_printf("%s, line %u", r->handlers[i].owner, r->handlers[i].line);
        wadi_gnuplot_mark(gp, lane, lanes - i);
        fputs(", ", gp);
        g_free(lane);
    }
    fprintf(gp, "'main' 0)\n");
    fprintf(gp,
            "plot $p%u with boxxyerror lc rgb '#0B5C7A' title 'runs', "
            "$p%u with boxxyerror lc rgb '#BFD4DC' title 'interrupted', "
            "$p%u with boxxyerror lc rgb '#B4551E' title 'asked, not served yet'\n",
            (unsigned)RUNS, (unsigned)PREEMPTED, (unsigned)WAITS);
}

bool wad_plot_timeline(const wad_bench_result *result, const wad_plot_options *options,
                       const char *path, char **why)
{
    picture p = make_picture(result, options);
    return has_spans(result, why) &&
           wadi_gnuplot_file(path, p.x.columns, options->height ? options->height : 800,
                             draw_timeline, &p, why);
}

/* ---- histograms ---- */

#define BINS 60

typedef struct histogram {
    double low, width; /* of a bin, in microseconds */
    unsigned counts[BINS], most;
    wad_stats stats;
} histogram;

static uint64_t value_of(const wad_handler_span *s, bool run_time)
{
    return run_time ? s->left_ps - s->entered_ps : s->entered_ps - s->raised_ps;
}

static bool counts_in(const picture *p, const wad_handler_span *s, unsigned line)
{
    return s->line == line && s->left_ps != UINT64_MAX && is_inside(&p->x, s);
}

static histogram count(const picture *p, unsigned line, bool run_time)
{
    const wad_bench_result *r = p->result;
    histogram h = {0};
    for (unsigned i = 0; i < r->n_spans; i++)
        if (counts_in(p, &r->spans[i], line))
            wad_stats_add(&h.stats, value_of(&r->spans[i], run_time));
    double low = (double)h.stats.min / 1e6, span = (double)h.stats.max / 1e6 - low;
    double least = MAX(low * 0.02, 0.05); /* all alike: a bar, not a wall */
    h.low = span < least ? MAX(0, low - least / 2) : low;
    h.width = MAX(span, least) / (BINS - 1);
    for (unsigned i = 0; i < r->n_spans; i++) {
        if (!counts_in(p, &r->spans[i], line))
            continue;
        double at = ((double)value_of(&r->spans[i], run_time) / 1e6 - h.low) / h.width;
        unsigned bin = MIN((unsigned)at, BINS - 1u);
        h.counts[bin]++;
        h.most = MAX(h.most, h.counts[bin]);
    }
    return h;
}

static void draw_one(FILE *gp, const char *owner, const char *what, const char *colour,
                     const histogram *h)
{
    fprintf(gp, "$h << EOD\n");
    for (unsigned i = 0; i < BINS; i++)
        fprintf(gp, "%.9g %u\n", h->low + (i + 0.5) * h->width, h->counts[i]);
    char *title = g_strdup_printf("%s: %s, %.6g to %.6g us, mean %.6g us", owner, what,
                                  (double)h->stats.min / 1e6, (double)h->stats.max / 1e6,
                                  wad_stats_mean(&h->stats) / 1e6);
    wadi_gnuplot_text(gp, "EOD\nset title ", title, " font ',11'\n");
    g_free(title);
    fprintf(gp,
            "set xrange [%.9g:%.9g]\nset yrange [0:%g]\nset ytics %s\nset boxwidth %.9g\n"
            "plot $h with boxes fs solid 1.0 noborder lc rgb '%s' notitle\n",
            h->low - h->width / 2, h->low + (BINS + 0.5) * h->width, h->most * 1.1,
            h->most < 5 ? "1" : "autofreq", h->width * 0.92, colour);
}

static void draw_histograms(FILE *gp, const char *terminal, const void *data)
{
    const picture *p = data;
    const wad_bench_result *r = p->result;
    unsigned rows = 0;
    for (unsigned i = 0; i < r->n_handlers && rows < 6; i++)
        rows += r->handlers[i].count != 0;
    emit_head(gp, p, terminal);
    fprintf(gp, "set multiplot layout %u,2 ", rows);
    wadi_gnuplot_text(gp, "title ", title_of(p), " font ',12'\n");
    fputs("set xlabel 'us'\nset ylabel 'calls'\nset grid ytics lc rgb '#DDDDDD'\n", gp);
    for (unsigned i = 0, n = 0; i < r->n_handlers && n < rows; i++, n++) {
        histogram late = count(p, r->handlers[i].line, false);
        histogram runs = count(p, r->handlers[i].line, true);
        draw_one(gp, r->handlers[i].owner, "from request to entry", "#B4551E", &late);
        draw_one(gp, r->handlers[i].owner, "from entry to end", "#0B5C7A", &runs);
    }
    fprintf(gp, "unset multiplot\n");
}

bool wad_plot_histograms(const wad_bench_result *result, const wad_plot_options *options,
                         const char *path, char **why)
{
    picture p = make_picture(result, options);
    return has_spans(result, why) &&
           wadi_gnuplot_file(path, p.x.columns, options->height ? options->height : 800,
                             draw_histograms, &p, why);
}
