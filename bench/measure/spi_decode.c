/* SPDX-License-Identifier: MIT */
/* Captured edges to exchanges. */
#include "wadium/host/exchange.h"

#include <glib.h>
#include <stdlib.h>

#define LONG_PAUSE 8 /* half bits without an edge: without a select, another exchange */

typedef struct decoding {
    wad_exchanges result;
    GArray *edges[WAD_EXCHANGE_LINES], *exchanges, *frames, *samples;
    double half; /* of a bit, the usual one; picoseconds */
} decoding;

/* ---- lines ---- */

/* A line that nobody drives: a select is not active, the others stay where they were. */
static bool level_of(const decoding *d, unsigned line, wad_level level)
{
    const GArray *edges = d->edges[line];
    if (level != WAD_FLOATING)
        return level == WAD_HIGH;
    if (line == WAD_LINE_SELECT)
        return !d->result.form.select_high;
    return edges->len && g_array_index(edges, wad_edge_record, edges->len - 1).level == WAD_HIGH;
}

static void gather(decoding *d, const wad_capture *c, const int *channels)
{
    wad_cursor at = {0};
    wad_edge_record e;
    while (wad_capture_next(c, &at, &e))
        for (unsigned line = 0; line < WAD_EXCHANGE_LINES; line++) {
            GArray *edges = d->edges[line];
            if (channels[line] < 0 || e.channel != (unsigned)channels[line])
                continue;
            e.level = level_of(d, line, e.level) ? WAD_HIGH : WAD_LOW;
            if (!edges->len ||
                g_array_index(edges, wad_edge_record, edges->len - 1).level != e.level)
                g_array_append_val(edges, e);
        }
}

/* The first edge of a line at `ps` or later. */
static unsigned first_from(const wad_exchanges *r, unsigned line, uint64_t ps)
{
    unsigned low = 0, high = r->n_edges[line];
    while (low < high) {
        unsigned middle = (low + high) / 2;
        if (r->edges[line][middle].ps < ps)
            low = middle + 1;
        else
            high = middle;
    }
    return low;
}

/* What stood on the line right before `ps`. */
static bool level_before(const wad_exchanges *r, unsigned line, uint64_t ps)
{
    unsigned i = first_from(r, line, ps);
    return i && r->edges[line][i - 1].level == WAD_HIGH;
}

static int by_size(const void *a, const void *b)
{
    double x = *(const double *)a, y = *(const double *)b;
    return (x > y) - (x < y);
}

/* The usual time between two edges of the clock: pauses are longer, and fewer. */
static double usual_half(const wad_exchanges *r)
{
    const wad_edge_record *e = r->edges[WAD_LINE_CLOCK];
    unsigned n = r->n_edges[WAD_LINE_CLOCK], count = 0;
    double *times = g_new(double, n + 1), half;
    for (unsigned i = 1; i < n; i++)
        times[count++] = (double)(e[i].ps - e[i - 1].ps);
    qsort(times, count, sizeof *times, by_size);
    half = count ? times[count / 3] : 0;
    g_free(times);
    return half;
}

/* ---- one exchange ---- */

/* The clock's edges of an exchange, and how often data changed right behind each kind. */
typedef struct look {
    const wad_edge_record *e;
    unsigned n;
    unsigned first[2], second[2]; /* MOSI, MISO */
} look;

static void count_changes(const decoding *d, look *l, unsigned line, uint64_t from, uint64_t to)
{
    const wad_exchanges *r = &d->result;
    unsigned which = line - WAD_LINE_MOSI, k = 0;
    for (unsigned i = first_from(r, line, from); i < r->n_edges[line]; i++) {
        uint64_t ps = r->edges[line][i].ps;
        if (ps >= to || !l->n)
            return;
        while (k < l->n && l->e[k].ps <= ps)
            k++;
        if (k == 0 && line == WAD_LINE_MOSI) /* it stands there for the first edge to take */
            l->second[which]++;
        else if (k && (double)(ps - l->e[k - 1].ps) < d->half * 0.75)
            (k & 1 ? l->first : l->second)[which]++;
    }
}

/* The edge that data change at is not the one that takes. */
static void find_mode(const decoding *d, wad_exchange *x, look *l)
{
    bool rests_high = l->n && l->e[0].level == WAD_LOW;
    unsigned first = l->first[0] + l->first[1], second = l->second[0] + l->second[1];
    bool out = l->first[0] + l->second[0] > 0, phase;
    if (out) /* the controller's own line decides */
        phase = l->first[0] > l->second[0];
    else
        phase = first > second;
    x->ambiguous = !first && !second;
    x->disagrees = out && l->first[1] + l->second[1] > 0 &&
                   (l->first[0] > l->second[0]) != (l->first[1] > l->second[1]);
    x->mode = 2u * rests_high + phase;
    if (d->result.form.mode >= 0) {
        x->mode = (unsigned)d->result.form.mode;
        x->ambiguous = false;
    }
}

static void take_frames(decoding *d, wad_exchange *x, const look *l)
{
    const wad_exchange_form *f = &d->result.form;
    const wad_exchanges *r = &d->result;
    wad_exchange_frame frame = {0};
    unsigned phase = x->mode & 1, taken = 0;
    for (unsigned k = phase; k < l->n; k += 2, taken++) {
        uint64_t ps = l->e[k].ps;
        unsigned i = taken % f->bits, place = f->lsb_first ? i : f->bits - 1 - i;
        wad_exchange_sample s = {ps, level_before(r, WAD_LINE_MOSI, ps),
                                 level_before(r, WAD_LINE_MISO, ps)};
        g_array_append_val(d->samples, s);
        if (i == 0)
            frame = (wad_exchange_frame){.from_ps = l->e[k - phase].ps};
        frame.out |= (uint32_t)s.out << place;
        frame.in |= (uint32_t)s.in << place;
        if (i + 1 == f->bits) {
            frame.to_ps = phase || k + 1 >= l->n ? ps : l->e[k + 1].ps;
            g_array_append_val(d->frames, frame);
            x->n++;
        }
    }
    x->extra = taken % f->bits;
}

/* Data that change too near to an edge that takes; one that changes with it is late. */
static void check_times(const decoding *d, wad_exchange *x, const look *l, unsigned line)
{
    const wad_exchanges *r = &d->result;
    for (unsigned k = x->mode & 1; k < l->n; k += 2) {
        uint64_t ps = l->e[k].ps;
        uint64_t from = ps > r->form.setup_ps ? ps - r->form.setup_ps : 0;
        for (unsigned i = first_from(r, line, from);
             i < r->n_edges[line] && r->edges[line][i].ps <= ps + r->form.hold_ps; i++)
            if (r->edges[line][i].ps < ps)
                x->early++;
            else
                x->late++;
    }
}

/* Pauses between frames are no periods. */
static void measure_clock(const decoding *d, wad_exchange *x, const look *l)
{
    double sum = 0, high = 0;
    unsigned n = 0;
    for (unsigned k = 0; k + 2 < l->n; k += 2) {
        double period = (double)(l->e[k + 2].ps - l->e[k].ps);
        double first = (double)(l->e[k + 1].ps - l->e[k].ps);
        if (period > 3 * d->half)
            continue;
        sum += period;
        high += l->e[k].level == WAD_HIGH ? first : period - first;
        n++;
    }
    if (n) {
        x->hz = n / sum * 1e12;
        x->duty = high / sum;
    }
}

static void add_exchange(decoding *d, uint64_t from, uint64_t to)
{
    wad_exchanges *r = &d->result;
    wad_exchange x = {.from_ps = from, .to_ps = to, .first = d->frames->len};
    unsigned begin = first_from(r, WAD_LINE_CLOCK, from), end = first_from(r, WAD_LINE_CLOCK, to);
    look l = {.e = r->edges[WAD_LINE_CLOCK] + begin, .n = end - begin};
    /* a clock that begins to be driven has no edge */
    count_changes(d, &l, WAD_LINE_MOSI, from, to);
    count_changes(d, &l, WAD_LINE_MISO, from, to);
    find_mode(d, &x, &l);
    take_frames(d, &x, &l);
    check_times(d, &x, &l, WAD_LINE_MOSI);
    check_times(d, &x, &l, WAD_LINE_MISO);
    measure_clock(d, &x, &l);
    x.glitch = !l.n && (double)(to - from) < 2 * d->half;
    r->glitches += x.glitch;
    r->shorts += x.extra > 0;
    r->early += x.early;
    r->late += x.late;
    r->disagreeing += x.disagrees;
    g_array_append_val(d->exchanges, x);
}

/* ---- all of them ---- */

static void split_by_select(decoding *d)
{
    const wad_exchanges *r = &d->result;
    const wad_edge_record *e = r->edges[WAD_LINE_SELECT];
    unsigned n = r->n_edges[WAD_LINE_SELECT];
    wad_level on = r->form.select_high ? WAD_HIGH : WAD_LOW;
    for (unsigned i = 0; i < n; i++)
        if (e[i].level == on)
            add_exchange(d, e[i].ps, i + 1 < n ? e[i + 1].ps : r->end_ps + 1);
}

static void split_by_pauses(decoding *d)
{
    const wad_edge_record *e = d->result.edges[WAD_LINE_CLOCK];
    unsigned n = d->result.n_edges[WAD_LINE_CLOCK], from = 1; /* the first is its resting level */
    for (unsigned i = 1; i < n; i++)
        if (i + 1 == n || (double)(e[i + 1].ps - e[i].ps) > LONG_PAUSE * d->half) {
            add_exchange(d, e[from].ps, e[i].ps + 1);
            from = i + 1;
        }
}

/* Where one could not tell, the others can: all of them have one mode. */
static void lend_mode(decoding *d)
{
    int known = -1;
    for (guint i = 0; i < d->exchanges->len; i++) {
        const wad_exchange *x = &g_array_index(d->exchanges, wad_exchange, i);
        if (!x->ambiguous && x->n)
            known = known < 0 || known == (int)x->mode ? (int)x->mode : 4;
    }
    if (known < 0 || known > 3 || d->result.form.mode >= 0)
        return;
    bool any = false;
    for (guint i = 0; i < d->exchanges->len && !any; i++)
        any = g_array_index(d->exchanges, wad_exchange, i).ambiguous &&
              g_array_index(d->exchanges, wad_exchange, i).mode != (unsigned)known;
    if (any) { /* again, with what is known now */
        wad_exchanges *r = &d->result;
        g_array_set_size(d->exchanges, 0);
        g_array_set_size(d->frames, 0);
        g_array_set_size(d->samples, 0);
        r->glitches = r->shorts = r->early = r->late = r->disagreeing = 0;
        r->form.mode = known;
        if (r->has[WAD_LINE_SELECT])
            split_by_select(d);
        else
            split_by_pauses(d);
        r->form.mode = -1;
    }
}

wad_exchanges *wad_exchange_decode(const wad_capture *capture, const int *channels, uint64_t end_ps,
                                   const wad_exchange_form *form, char **why)
{
    decoding *d = g_new0(decoding, 1);
    wad_exchanges *r = &d->result;
    *why = NULL;
    r->form = *form;
    r->end_ps = end_ps;
    d->exchanges = g_array_new(FALSE, FALSE, sizeof(wad_exchange));
    d->frames = g_array_new(FALSE, FALSE, sizeof(wad_exchange_frame));
    d->samples = g_array_new(FALSE, FALSE, sizeof(wad_exchange_sample));
    for (unsigned i = 0; i < WAD_EXCHANGE_LINES; i++)
        d->edges[i] = g_array_new(FALSE, FALSE, sizeof(wad_edge_record));
    gather(d, capture, channels);
    for (unsigned i = 0; i < WAD_EXCHANGE_LINES; i++) {
        r->has[i] = channels[i] >= 0;
        r->edges[i] = (const wad_edge_record *)(void *)d->edges[i]->data;
        r->n_edges[i] = d->edges[i]->len;
    }
    d->half = usual_half(r);
    if (r->n_edges[WAD_LINE_CLOCK] < 3) {
        *why = g_strdup("the clock has no edges");
        wad_exchanges_free(r);
        return NULL;
    }
    if (r->has[WAD_LINE_SELECT])
        split_by_select(d);
    else
        split_by_pauses(d);
    lend_mode(d);
    r->exchanges = (const wad_exchange *)(void *)d->exchanges->data;
    r->n = d->exchanges->len;
    r->frames = (const wad_exchange_frame *)(void *)d->frames->data;
    r->n_frames = d->frames->len;
    r->samples = (const wad_exchange_sample *)(void *)d->samples->data;
    r->n_samples = d->samples->len;
    return r;
}

void wad_exchanges_free(wad_exchanges *exchanges)
{
    decoding *d = (decoding *)exchanges;
    if (!d)
        return;
    for (unsigned i = 0; i < WAD_EXCHANGE_LINES; i++)
        g_array_free(d->edges[i], TRUE);
    g_array_free(d->exchanges, TRUE);
    g_array_free(d->frames, TRUE);
    g_array_free(d->samples, TRUE);
    g_free(d);
}
