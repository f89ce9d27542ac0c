/* SPDX-License-Identifier: MIT */
/* Timing diagrams: through gnuplot as PNG or SVG, and in characters. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "columns.h"
#include "wadium/host/bench.h"

typedef wadi_axis axis;

static wad_meter measure(const wad_capture *c, unsigned channel, uint64_t end_ps)
{
    wad_meter m;
    wad_meter_init(&m, 0, UINT64_MAX);
    wad_cursor at = {0};
    wad_edge_record e;
    while (wad_capture_next(c, &at, &e))
        if (e.channel == channel)
            wad_meter_edge(&m, e.ps, e.level);
    wad_meter_end(&m, end_ps);
    return m;
}

/* "1000 Hz  30 %" beside a trace. */
static char *caption(const wad_capture *c, unsigned channel, uint64_t end_ps)
{
    wad_meter m = measure(c, channel, end_ps);
    if (m.rises < 2)
        return g_strdup(m.edges ? "" : m.level == WAD_HIGH ? "high" : "");
    if (wad_meter_duty(&m) < 0.001) /* a pulse: its share says nothing */
        return g_strdup_printf("%.6g Hz", wad_meter_hz(&m));
    return g_strdup_printf("%.6g Hz  %.4g %%", wad_meter_hz(&m), 100 * wad_meter_duty(&m));
}

/* ---- gnuplot ---- */

#define ROW 1.6 /* height of a channel's row, the trace itself 1 */

static double column_time(const axis *x, double i)
{
    return ((double)x->from + i * (double)(x->to - x->from) / x->columns) / x->scale;
}

/* Where both levels fall into one pixel column, a vertical line fills it. */
static void emit_trace(FILE *gp, const wadi_column *cols, const axis *x, double base)
{
    int level = -1;
    for (unsigned i = 0; i < x->columns; i++) {
        bool both = wadi_column_both(&cols[i]);
        double t = column_time(x, i);
        double y = cols[i].last == WAD_FLOATING ? 0.5 : cols[i].last;
        double held = level < 0 ? y : level == WAD_FLOATING ? 0.5 : level;
        if (both) {
            fprintf(gp, "%.12g %g\n%.12g %g\n", t, base + held, t, base + 1);
            fprintf(gp, "%.12g %g\n%.12g %g\n", t, base, t, base + y);
            level = cols[i].last;
        } else if (cols[i].last != level || i + 1 == x->columns) {
            fprintf(gp, "%.12g %g\n%.12g %g\n", t, base + held, t, base + y);
            level = cols[i].last;
        }
    }
    fprintf(gp, "%.12g %g\n", column_time(x, x->columns),
            base + (level == WAD_FLOATING ? 0.5 : level));
}

static const char *const colours[] = {"#0B5C7A", "#B4551E", "#2F7D3B", "#7A3E8C",
                                      "#8A6D00", "#A12C48", "#44546A"};

static void emit_panel(FILE *gp, const wad_capture *c, uint64_t end_ps, const axis *x,
                       const char *title, bool captions)
{
    unsigned n = wad_capture_channels(c);
    for (unsigned i = 0; i < n; i++) {
        wadi_column *cols = wadi_columns_of(c, i, x);
        fprintf(gp, "$d%u << EOD\n", i);
        emit_trace(gp, cols, x, (n - 1 - i) * ROW);
        fprintf(gp, "EOD\n");
        g_free(cols);
    }
    wadi_gnuplot_text(gp, "set title ", title, " font ',12' offset 0,-0.5\n");
    fprintf(gp, "set xlabel '%s'\n", x->unit);
    fprintf(gp, "set xrange [%.12g:%.12g]\nset yrange [-0.4:%g]\nset ytics (", column_time(x, 0),
            column_time(x, x->columns), n * ROW - 0.2);
    for (unsigned i = 0; i < n; i++) {
        fputs(i ? ", " : "", gp);
        wadi_gnuplot_mark(gp, wad_capture_name(c, i), (n - 1 - i) * ROW + 0.5);
    }
    fprintf(gp, ") scale 0\nunset label\n");
    for (unsigned i = 0; captions && i < n; i++) {
        char *text = caption(c, i, end_ps);
        fprintf(gp, "set label '%s' at graph 1.01, first %g left font ',10'\n", text,
                (n - 1 - i) * ROW + 0.5);
        g_free(text);
    }
    fprintf(gp, "plot ");
    for (unsigned i = 0; i < n; i++)
        fprintf(gp, "%s$d%u using 1:2 with lines lw 1.4 lc rgb '%s' notitle", i ? ", " : "", i,
                colours[i % G_N_ELEMENTS(colours)]);
    fprintf(gp, "\n");
}

/* ---- analog panels: an oscilloscope's view under the logic, on the same time axis ---- */

#define ANALOG_POINTS 4000 /* beyond, only the highest and lowest of each column are drawn */

/* What of a channel falls into one column of the picture. */
typedef struct stretch {
    uint64_t place; /* the column */
    double first, low, high, last;
} stretch;

static void emit_stretch(FILE *gp, const stretch *s, double t, double before)
{
    fprintf(gp, "%.12g %.9g\n%.12g %.9g\n", t, before, t, s->first);
    if (s->low < s->high)
        fprintf(gp, "%.12g %.9g\n%.12g %.9g\n%.12g %.9g\n", t, s->low, t, s->high, t, s->last);
}

/* Values hold until the next one. */
static void emit_samples(FILE *gp, const wad_sample *s, size_t n, const axis *x)
{
    uint64_t width = (x->to - x->from) / ANALOG_POINTS + 1;
    size_t i = 0;
    while (i + 1 < n && s[i + 1].ps <= x->from)
        i++;
    if (!n || s[i].ps > x->to)
        return;
    double before = s[i].value;
    while (i < n && s[i].ps <= x->to) {
        uint64_t at = MAX(s[i].ps, x->from);
        stretch one = {(at - x->from) / width, s[i].value, s[i].value, s[i].value, s[i].value};
        for (i++; i < n && s[i].ps <= x->to && (s[i].ps - x->from) / width == one.place; i++) {
            one.low = fmin(one.low, s[i].value);
            one.high = fmax(one.high, s[i].value);
            one.last = s[i].value;
        }
        emit_stretch(gp, &one, (double)at / x->scale, before);
        before = one.last;
    }
    fprintf(gp, "%.12g %.9g\n", (double)x->to / x->scale, before);
}

/* So that the axis reads 0 to 3.3 V, or 0 to 800 uA. */
static double prefix_of(double most, const char **prefix)
{
    static const char *const names[] = {"", "m", "u", "n"};
    unsigned i = 0;
    double scale = 1;
    for (; i < 3 && most > 0 && most * scale < 0.999; i++)
        scale *= 1000;
    *prefix = names[i];
    return scale;
}

/* "28.3 uA" */
static void emit_note(FILE *gp, const char *what, double value, const char *unit, double height)
{
    const char *prefix;
    double scale = prefix_of(fabs(value), &prefix);
    char *text = g_strdup_printf("%s%.4g %s%s", what, value * scale, prefix, unit);
    wadi_gnuplot_text(gp, "set label ", text, " at graph 1.01, ");
    fprintf(gp, "graph %g left font ',10'\n", height);
    g_free(text);
}

typedef struct held {
    double min, max, mean;
} held;

/* What stood from the left end to the right one, each value for as long as it did: short peaks of a
 * current are few and count for much. */
static held held_between(const wad_sample *s, size_t n, const axis *x)
{
    held h = {INFINITY, -INFINITY, 0};
    for (size_t i = 0; i < n && s[i].ps < x->to; i++) {
        uint64_t end = i + 1 < n ? MIN(s[i + 1].ps, x->to) : x->to, at = MAX(s[i].ps, x->from);
        if (end <= at)
            continue;
        h.min = fmin(h.min, s[i].value);
        h.max = fmax(h.max, s[i].value);
        h.mean += s[i].value * (double)(end - at) / (double)(x->to - x->from);
    }
    return h.min <= h.max ? h : (held){0};
}

static void emit_analog(FILE *gp, const wad_capture *c, unsigned i, const axis *x)
{
    size_t n;
    const char *unit, *prefix, *name = wad_capture_analog_name(c, i, &unit);
    const wad_sample *s = wad_capture_samples(c, i, &n);
    wad_tone t;
    bool tone = wad_tone_measure(s, n, x->from, x->to, &t) && *unit == 'V' && t.distortion < 0.5;
    held h = held_between(s, n, x);
    double scale = prefix_of(fmax(fabs(h.max), fabs(h.min)), &prefix);
    double room = (h.max > h.min ? h.max - h.min : 1) * scale * 0.08;
    fprintf(gp, "$a%u << EOD\n", i);
    emit_samples(gp, s, n, x);
    fputs("EOD\nunset label\nset ytics nomirror auto scale 0.5\n", gp);
    char *label = g_strdup_printf("%s, %s%s", name, prefix, unit);
    wadi_gnuplot_text(gp, "set ylabel ", label, "\n");
    g_free(label);
    fprintf(gp, "set yrange [%g:%g]\n", h.min * scale - room, h.max * scale + room);
    emit_note(gp, "mean ", tone ? t.mean : h.mean, unit, 0.8);
    if (tone) {
        emit_note(gp, "", t.hz, "Hz", 0.6);
        emit_note(gp, "amplitude ", t.amplitude, unit, 0.4);
        if (t.hz * (double)(x->to - x->from) / 1e12 > 20) /* else the window's edges count too */
            fprintf(gp, "set label 'distortion %.2g %%' at graph 1.01, graph 0.2 left font ',10'\n",
                    100 * t.distortion);
    }
    fprintf(gp, "plot $a%u using 1:($2*%g) with lines lw 1.4 lc rgb '%s' notitle\n", i, scale,
            colours[(i + 1) % G_N_ELEMENTS(colours)]);
}

/* The logic above, each analog channel in a panel of its own below, one axis. */
static void emit_scope(FILE *gp, const wad_capture *c, uint64_t end_ps, const axis *x,
                       const char *title)
{
    unsigned logic = wad_capture_channels(c), n = wad_capture_analogs(c);
    double rows = (logic ? 0.8 + logic * 0.5 : 0) + n * 2.0, at = 1;
    axis bare = *x; /* the unit stands at the bottom only */
    bare.unit = "";
    fprintf(gp, "set multiplot\nset format y '%%g'\nset tmargin %d\nset bmargin 1.4\n",
            logic ? 2 : 1);
    if (logic) {
        double size = (0.8 + logic * 0.5) / rows * 0.95;
        at -= size;
        fprintf(gp, "set size 1, %g\nset origin 0, %g\n", size, at);
        emit_panel(gp, c, end_ps, &bare, title, true);
        fprintf(gp, "unset title\n");
    } else {
        wadi_gnuplot_text(gp, "set title ", title, " font ',12' offset 0,-0.5\n");
    }
    fprintf(gp, "set xrange [%.12g:%.12g]\nset border 3 lc rgb '#444444'\n", column_time(x, 0),
            column_time(x, x->columns));
    for (unsigned i = 0; i < n; i++) {
        double size = 2.0 / rows * 0.95;
        at -= size;
        fprintf(gp, "set size 1, %g\nset origin 0, %g\nset xlabel '%s'\n", size, at,
                i + 1 == n ? x->unit : "");
        fprintf(gp, "set tmargin %g\nset bmargin %g\n", logic || i ? 0.8 : 2.0,
                i + 1 == n ? 2.6 : 1.4);
        emit_analog(gp, c, i, x);
        fprintf(gp, "unset title\n");
    }
    fprintf(gp, "unset multiplot\n");
}

typedef struct picture {
    const wad_capture *capture;
    uint64_t end_ps;
    const wad_plot_options *options;
    unsigned width;
} picture;

static void emit_script(FILE *gp, const char *terminal, const void *data)
{
    const picture *p = data;
    const wad_plot_options *o = p->options;
    uint64_t to = o->to_ps ? o->to_ps : p->end_ps;
    axis x = wadi_axis_of(o->from_ps, to > o->from_ps ? to : o->from_ps + 1, p->width);
    const char *title = o->title;
    fprintf(gp,
            "set terminal %s\n"
            "set encoding utf8\nset lmargin 14\nset rmargin 24\n"
            "set border 1 lc rgb '#444444'\nset xtics nomirror out\nset grid xtics lc rgb "
            "'#DDDDDD'\nset key off\n",
            terminal);
    if (wad_capture_analogs(p->capture)) {
        emit_scope(gp, p->capture, p->end_ps, &x, title);
    } else if (o->detail_to > o->detail_from) {
        axis d = wadi_axis_of(o->detail_from, o->detail_to, x.columns);
        fprintf(gp, "set multiplot layout 2,1\n");
        emit_panel(gp, p->capture, p->end_ps, &x, title, true);
        emit_panel(gp, p->capture, p->end_ps, &d, "detail", false);
        fprintf(gp, "unset multiplot\n");
    } else {
        emit_panel(gp, p->capture, p->end_ps, &x, title, true);
    }
}

bool wad_plot_file(const wad_capture *c, uint64_t end_ps, const wad_plot_options *o,
                   const char *path, char **why)
{
    picture p = {c, end_ps, o, o->width ? o->width : 1280};
    *why = NULL;
    if (wad_capture_analogs(c) && o->detail_to > o->detail_from) {
        *why = g_strdup("a second panel is for logic alone; --from and --to choose what is drawn");
        return false;
    }
    if (wad_capture_channels(c) || wad_capture_analogs(c))
        return wadi_gnuplot_file(path, p.width, o->height ? o->height : 800, emit_script, &p, why);
    *why = g_strdup("nothing was captured, so there is nothing to draw");
    return false;
}

/* ---- characters ---- */

static void text_axis(const axis *x, unsigned label, FILE *out)
{
    char left[32], right[32];
    snprintf(left, sizeof left, "%.6g %s", (double)x->from / x->scale, x->unit);
    snprintf(right, sizeof right, "%.6g %s", (double)x->to / x->scale, x->unit);
    int gap = (int)x->columns - (int)strlen(left) - (int)strlen(right);
    fprintf(out, "%*s  %s%*s%s\n", (int)label, "", left, gap > 1 ? gap : 1, "", right);
}

/* The highest value of each column: what peaks for a moment is not lost. */
static void text_analog(const wad_capture *c, unsigned i, const axis *x, FILE *out)
{
    size_t n;
    const char *unit, *prefix;
    wad_capture_analog_name(c, i, &unit);
    const wad_sample *s = wad_capture_samples(c, i, &n);
    double *values = g_new(double, x->columns);
    GString *text = g_string_new(NULL);
    for (unsigned k = 0; k < x->columns; k++) {
        uint64_t width = (x->to - x->from) / x->columns + 1;
        axis one = {.from = x->from + k * width, .to = x->from + (k + 1) * width};
        values[k] = n && s[0].ps < one.to ? held_between(s, n, &one).max : NAN;
    }
    wadi_append_heights(text, values, x->columns, 0);
    held h = held_between(s, n, x);
    double scale = prefix_of(fmax(fabs(h.max), fabs(h.min)), &prefix);
    fprintf(out, "%s  %.4g to %.4g %s%s\n\n", text->str, h.min * scale, h.max * scale, prefix,
            unit);
    g_string_free(text, TRUE);
    g_free(values);
}

void wad_plot_text(const wad_capture *c, uint64_t end_ps, const wad_plot_options *o, FILE *out)
{
    unsigned n = wad_capture_channels(c), label = 6, width = o->width ? o->width : 100;
    for (unsigned i = 0; i < n; i++)
        label = MAX(label, (unsigned)strlen(wad_capture_name(c, i)));
    for (unsigned i = 0; i < wad_capture_analogs(c); i++)
        label = MAX(label, (unsigned)strlen(wad_capture_analog_name(c, i, NULL)));
    uint64_t to = o->to_ps ? o->to_ps : end_ps;
    unsigned columns = width > label + 34 ? width - label - 24 : 10;
    axis x = wadi_axis_of(o->from_ps, to > o->from_ps ? to : o->from_ps + 1, columns);
    if (o->title)
        fprintf(out, "%s\n", o->title);
    for (unsigned i = 0; i < n; i++) {
        wadi_column *cols = wadi_columns_of(c, i, &x);
        char *text = caption(c, i, end_ps);
        fprintf(out, "%*s  ", (int)label, wad_capture_name(c, i));
        for (unsigned k = 0; k < columns; k++)
            fputs(wadi_column_glyph(cols, k), out);
        fprintf(out, *text ? "  %s\n\n" : "\n\n", text); /* a blank row keeps the traces apart */
        g_free(text);
        g_free(cols);
    }
    for (unsigned i = 0; i < wad_capture_analogs(c); i++) {
        fprintf(out, "%*s  ", (int)label, wad_capture_analog_name(c, i, NULL));
        text_analog(c, i, &x, out);
    }
    text_axis(&x, label, out);
}
