/* SPDX-License-Identifier: MIT */
/* Two captures of the same thing: aligned, edge against edge. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "wadium/host/recording.h"

#define LISTED 4u

/* One signal's changes between low and high. */
typedef struct edges {
    GArray *list;    /* wad_edge_record */
    wad_level last;  /* that was no floating */
    wad_level final; /* at the end */
} edges;

typedef struct side {
    const wad_capture *capture;
    uint64_t end;
    edges *of; /* by channel */
    unsigned n;
    const char *name;
    uint64_t zero; /* the moment that both have */
} side;

typedef struct comparison {
    side a, b;
    const wad_compare_options *o;
    wad_captures_compared *r;
    uint64_t within;
    FILE *out;
} comparison;

/* ---- edges of both ---- */

static void collect(side *s)
{
    wad_cursor at = {0};
    wad_edge_record e;
    s->n = wad_capture_channels(s->capture);
    s->of = g_new0(edges, s->n + 1);
    for (unsigned i = 0; i < s->n; i++) {
        s->of[i].list = g_array_new(FALSE, FALSE, sizeof e);
        s->of[i].last = s->of[i].final = WAD_FLOATING;
    }
    while (wad_capture_next(s->capture, &at, &e)) {
        edges *of = &s->of[e.channel];
        if (e.level != WAD_FLOATING && of->last != WAD_FLOATING && e.level != of->last)
            g_array_append_val(of->list, e);
        of->last = e.level != WAD_FLOATING ? e.level : of->last;
        of->final = e.level;
    }
}

static void forget(side *s)
{
    for (unsigned i = 0; i < s->n; i++)
        g_array_free(s->of[i].list, TRUE);
    g_free(s->of);
}

/* Names agree whole, or from the last dot on: a recording's modules are its own. */
static int channel_like(const side *s, const char *name)
{
    const char *tail = strrchr(name, '.');
    tail = tail ? tail + 1 : name;
    for (unsigned i = 0; i < s->n; i++) {
        const char *own = wad_capture_name(s->capture, i), *dot = strrchr(own, '.');
        if (!strcmp(own, name) || !strcmp(dot ? dot + 1 : own, tail))
            return (int)i;
    }
    return -1;
}

static const wad_edge_record *edge_at(const edges *e, unsigned i)
{
    return i < e->list->len ? &g_array_index(e->list, wad_edge_record, i) : NULL;
}

/* ---- alignment ---- */

static const wad_edge_record *first_of(const edges *e, bool falling, bool any)
{
    for (unsigned i = 0; i < e->list->len; i++) {
        const wad_edge_record *r = edge_at(e, i);
        if (any || (r->level == WAD_LOW) == falling)
            return r;
    }
    return NULL;
}

static bool align_on(comparison *c, unsigned channel, bool any)
{
    int other = channel_like(&c->b, wad_capture_name(c->a.capture, channel));
    const wad_edge_record *x = first_of(&c->a.of[channel], c->o->falling, any);
    const wad_edge_record *y = other < 0 ? NULL : first_of(&c->b.of[other], c->o->falling, any);
    if (!x || !y || (any && x->level != y->level))
        return false;
    c->a.zero = x->ps;
    c->b.zero = y->ps;
    c->r->behind = y->ps < x->ps;
    c->r->shift_ps = c->r->behind ? x->ps - y->ps : y->ps - x->ps;
    fprintf(c->out, "aligned on %s of %s: at %.9g s in the %s, at %.9g s in the %s\n",
            x->level == WAD_HIGH ? "the first rise" : "the first fall",
            wad_capture_name(c->a.capture, channel), (double)x->ps / 1e12, c->a.name,
            (double)y->ps / 1e12, c->b.name);
    return true;
}

static bool align(comparison *c)
{
    if (c->o->align) {
        int channel = channel_like(&c->a, c->o->align);
        if (channel >= 0 && align_on(c, (unsigned)channel, false))
            return true;
        fprintf(c->out, "%s has no such edge in both: not aligned\n", c->o->align);
        return false;
    }
    /* the signal with the fewest edges says most: a lamp, not a clock line */
    int best = -1;
    for (unsigned i = 0; i < c->a.n; i++) {
        int other = channel_like(&c->b, wad_capture_name(c->a.capture, i));
        if (other >= 0 && c->a.of[i].list->len && c->b.of[other].list->len &&
            (best < 0 || c->a.of[i].list->len < c->a.of[best].list->len))
            best = (int)i;
    }
    return best >= 0 && align_on(c, (unsigned)best, true);
}

/* ---- one signal ---- */

static double seconds(double ps)
{
    return ps / 1e12;
}

static char *amount(double ps)
{
    return wad_amount_text(seconds(round(ps)), "s"); /* a capture has no finer times */
}

/* Time since the alignment, of an edge. */
static double since(const side *s, const wad_edge_record *e)
{
    return (double)e->ps - (double)s->zero;
}

/* An edge of both: when, and how much later in the second. */
typedef struct pair {
    double at, off;
    wad_level level;
} pair;

/* What the edges of one signal come to. */
typedef struct matched {
    GArray *pairs;           /* pair */
    GArray *missing, *extra; /* pair: only in the first, only in the second */
    double offset;           /* of most of them, the drift left out */
    unsigned late;           /* that are elsewhere than the others */
} matched;

static matched new_matched(void)
{
    return (matched){.pairs = g_array_new(FALSE, FALSE, sizeof(pair)),
                     .missing = g_array_new(FALSE, FALSE, sizeof(pair)),
                     .extra = g_array_new(FALSE, FALSE, sizeof(pair))};
}

static void free_matched(matched *m)
{
    g_array_free(m->pairs, TRUE);
    g_array_free(m->missing, TRUE);
    g_array_free(m->extra, TRUE);
}

static unsigned wrong(const matched *m)
{
    return m->missing->len + m->extra->len;
}

/* Half of the way to the neighbour: a change further off is another one. */
static double reach(const comparison *c, const edges *e, unsigned i)
{
    const wad_edge_record *p = edge_at(e, i), *next = edge_at(e, i + 1);
    const wad_edge_record *before = i ? edge_at(e, i - 1) : NULL;
    double gap = 2e12;
    if (next)
        gap = MIN(gap, (double)(next->ps - p->ps));
    if (before)
        gap = MIN(gap, (double)(p->ps - before->ps));
    return MAX(gap / 2, (double)c->within);
}

static void note_edge(GArray *list, double at, wad_level level)
{
    const pair p = {at, 0, level};
    g_array_append_val(list, p);
}

/* By order, as long as levels agree and the offset changes little from one to the next. Captures
 * end at different times: what only one of them can have does not count. */
static void match(const comparison *c, const edges *x, const edges *y, unsigned i, unsigned k,
                  matched *m)
{
    const wad_edge_record *p, *q;
    double off = 0, begin = -MIN((double)c->a.zero, (double)c->b.zero);
    double end = MIN((double)c->a.end - (double)c->a.zero, (double)c->b.end - (double)c->b.zero);
    bool known = false;
    while ((p = edge_at(x, i)), (q = edge_at(y, k)), p || q) {
        double tp = p ? since(&c->a, p) : INFINITY, tq = q ? since(&c->b, q) : INFINITY;
        double room = p && q ? MIN(reach(c, x, i), reach(c, y, k)) : 0;
        if (p && q && p->level == q->level && (!known || fabs(tq - tp - off) <= room)) {
            const pair one = {tp, tq - tp, p->level};
            g_array_append_val(m->pairs, one);
            off = tq - tp;
            known = true;
            i++;
            k++;
        } else if (p && (!q || tp <= tq - off)) {
            if (tp >= begin && tp + fabs(off) < end)
                note_edge(m->missing, tp, p->level);
            i++;
        } else if (q) {
            if (tq >= begin && tq + fabs(off) < end)
                note_edge(m->extra, tq, q->level);
            k++;
        }
    }
}

/* From the first edge of both, unless the one that lies nearest leaves fewer over: one capture may
 * have begun later than the other. */
static matched match_best(const comparison *c, const edges *x, const edges *y)
{
    matched best = new_matched();
    match(c, x, y, 0, 0, &best);
    for (unsigned skip = 1; skip < 8 && wrong(&best); skip++)
        for (unsigned second = 0; second < 2; second++) {
            matched m = new_matched();
            match(c, x, y, second ? 0 : skip, second ? skip : 0, &m);
            /* what was skipped counts as well, where it could have been seen */
            if (wrong(&m) + skip < wrong(&best) && m.pairs->len) {
                free_matched(&best);
                best = m;
            } else
                free_matched(&m);
        }
    return best;
}

/* ---- one clock that is off shows in every signal alike ---- */

typedef struct regression {
    double xx, xy, yy, n;
} regression;

static void add_signal(regression *r, const matched *m)
{
    double n = m->pairs->len, st = 0, sd = 0, stt = 0, std = 0, sdd = 0;
    for (guint i = 0; i < m->pairs->len; i++) {
        const pair *p = &g_array_index(m->pairs, pair, i);
        st += p->at;
        sd += p->off;
        stt += p->at * p->at;
        std += p->at * p->off;
        sdd += p->off * p->off;
    }
    if (n < 2)
        return;
    r->xx += stt - st * st / n;
    r->xy += std - st * sd / n;
    r->yy += sdd - sd * sd / n;
    r->n += n - 1;
}

/* How far the slope may be off by chance alone: its standard error. */
static double chance(const regression *r, double slope)
{
    double rest = MAX(r->yy - slope * r->xy, 0);
    return r->n > 2 ? sqrt(rest / (r->n - 1) / r->xx) : 0;
}

static int by_number(const void *a, const void *b)
{
    double x = *(const double *)a, y = *(const double *)b;
    return (x > y) - (x < y);
}

/* The median offset once the drift is left out, and how many edges are not there. */
static void settle(const comparison *c, matched *m)
{
    guint n = m->pairs->len;
    double *rest = g_new(double, n + 1), slope = -c->r->ppm / 1e6;
    for (guint i = 0; i < n; i++) {
        const pair *p = &g_array_index(m->pairs, pair, i);
        rest[i] = p->off - slope * p->at;
    }
    qsort(rest, n, sizeof *rest, by_number);
    m->offset = n ? rest[n / 2] : 0;
    m->late = 0;
    for (guint i = 0; i < n; i++)
        m->late += fabs(rest[i] - m->offset) > (double)c->within;
    g_free(rest);
}

static void find_drift(comparison *c, const matched *all)
{
    regression r = {0};
    for (unsigned i = 0; i < c->a.n; i++)
        if (all[i].pairs)
            add_signal(&r, &all[i]);
    double slope = r.xx > 0 ? r.xy / r.xx : 0, span = (double)MIN(c->a.end, c->b.end);
    /* less than the tolerance over all of it is nobody's business, nor what jitter makes up */
    bool counts = fabs(slope) * span > (double)c->within && fabs(slope) > 5 * chance(&r, slope);
    c->r->ppm = counts ? -slope * 1e6 : 0;
    if (c->r->ppm != 0)
        fprintf(c->out, "the %s's time runs %.1f ppm %s: a clock is off\n", c->b.name,
                fabs(c->r->ppm), c->r->ppm > 0 ? "fast" : "slow");
}

/* ---- what is told ---- */

static const char *level_name(wad_level level)
{
    return level == WAD_HIGH ? "high" : level == WAD_LOW ? "low" : "floating";
}

static void tell_edge(const comparison *c, const pair *p, const char *what, unsigned *listed)
{
    unsigned most = c->o->most ? c->o->most : LISTED;
    if ((*listed)++ >= most)
        return;
    char *when = amount(p->at);
    fprintf(c->out, "         %s at %s: %s\n", p->level == WAD_HIGH ? "rise" : "fall", when, what);
    g_free(when);
}

static void tell_edges(const comparison *c, const matched *m)
{
    unsigned listed = 0;
    char *first = g_strdup_printf("only in the %s", c->a.name);
    char *second = g_strdup_printf("only in the %s", c->b.name);
    for (guint i = 0; i < m->missing->len; i++)
        tell_edge(c, &g_array_index(m->missing, pair, i), first, &listed);
    for (guint i = 0; i < m->extra->len; i++)
        tell_edge(c, &g_array_index(m->extra, pair, i), second, &listed);
    for (guint i = 0; i < m->pairs->len; i++) {
        const pair *p = &g_array_index(m->pairs, pair, i);
        double off = p->off + c->r->ppm / 1e6 * p->at - m->offset;
        if (fabs(off) <= (double)c->within)
            continue;
        char *by = amount(fabs(off));
        char *what =
            g_strdup_printf("%s %s in the %s", by, off > 0 ? "later" : "earlier", c->b.name);
        tell_edge(c, p, what, &listed);
        g_free(what);
        g_free(by);
    }
    g_free(first);
    g_free(second);
}

static void tell_statistics(const comparison *c, const matched *m)
{
    double sum = 0, squares = 0, min = INFINITY, max = -INFINITY, n = m->pairs->len;
    for (guint i = 0; i < m->pairs->len; i++) {
        const pair *p = &g_array_index(m->pairs, pair, i);
        double off = p->off + c->r->ppm / 1e6 * p->at - m->offset;
        sum += off;
        squares += off * off;
        min = MIN(min, off);
        max = MAX(max, off);
    }
    char *low = amount(min), *high = amount(max);
    char *sd = amount(sqrt(MAX(squares / n - sum / n * (sum / n), 0)));
    fprintf(c->out, "%u edges in both, %s to %s, sd %s", m->pairs->len, low, high, sd);
    if (fabs(m->offset) > (double)c->within) {
        char *by = amount(fabs(m->offset));
        fprintf(c->out, ", all %s %s", by, m->offset > 0 ? "later" : "earlier");
        g_free(by);
    }
    g_free(low);
    g_free(high);
    g_free(sd);
}

static void tell_signal(comparison *c, const char *name, const edges *x, const edges *y,
                        const matched *m)
{
    bool none = !m->pairs->len && !wrong(m), levels = none && x->final != y->final;
    bool differs = m->late || wrong(m) || levels;
    bool shifted = !differs && fabs(m->offset) > (double)c->within;
    c->r->different += differs;
    c->r->shifted += shifted;
    fprintf(c->out, "  %-5s %-12s ", differs ? "DIFF" : shifted ? "shift" : "same", name);
    if (levels)
        fprintf(c->out, "%s in the %s, %s in the %s", level_name(x->final), c->a.name,
                level_name(y->final), c->b.name);
    else if (none)
        fprintf(c->out, "no edges, %s in both", level_name(x->final));
    else if (m->pairs->len)
        tell_statistics(c, m);
    if (m->missing->len && !y->list->len)
        fprintf(c->out, "%u edges in the %s, always %s in the %s", m->missing->len, c->a.name,
                level_name(y->final), c->b.name);
    else if (m->extra->len && !x->list->len)
        fprintf(c->out, "always %s in the %s, %u edges in the %s", level_name(x->final), c->a.name,
                m->extra->len, c->b.name);
    else if (wrong(m))
        fprintf(c->out, "%s%u only in the %s, %u only in the %s", m->pairs->len ? "; " : "",
                m->missing->len, c->a.name, m->extra->len, c->b.name);
    fputc('\n', c->out);
    if (differs)
        tell_edges(c, m);
}

static void tell_apart(comparison *c, const side *s, const side *other)
{
    unsigned n = 0;
    for (unsigned i = 0; i < s->n; i++) {
        const char *name = wad_capture_name(s->capture, i);
        if (channel_like(other, name) >= 0)
            continue;
        if (!n++)
            fprintf(c->out, "only in the %s: %s", s->name, name);
        else
            fprintf(c->out, ", %s", name);
    }
    if (n)
        fputc('\n', c->out);
    c->r->apart += n;
}

static void tell_end(const comparison *c)
{
    char *within = amount((double)c->within);
    unsigned same = c->r->signals - c->r->different - c->r->shifted;
    fprintf(c->out, "%u of %u signals the same", same, c->r->signals);
    if (c->r->shifted)
        fprintf(c->out, ", %u shifted as a whole", c->r->shifted);
    if (c->r->different)
        fprintf(c->out, ", %u different", c->r->different);
    fprintf(c->out, "; edges within %s%s\n", within,
            c->r->ppm != 0 ? " once the clock is allowed for" : "");
    g_free(within);
}

static bool compare(comparison *c)
{
    for (unsigned i = 0; i < c->a.n; i++)
        c->r->signals += channel_like(&c->b, wad_capture_name(c->a.capture, i)) >= 0;
    if (!c->r->signals) {
        fprintf(c->out, "no signal has the same name in both\n");
        return false;
    }
    if (!align(c))
        return false;
    matched *all = g_new0(matched, c->a.n + 1);
    for (unsigned i = 0; i < c->a.n; i++) {
        int other = channel_like(&c->b, wad_capture_name(c->a.capture, i));
        if (other >= 0)
            all[i] = match_best(c, &c->a.of[i], &c->b.of[other]);
    }
    find_drift(c, all);
    for (unsigned i = 0; i < c->a.n; i++) {
        const char *name = wad_capture_name(c->a.capture, i);
        if (!all[i].pairs)
            continue;
        settle(c, &all[i]);
        tell_signal(c, name, &c->a.of[i], &c->b.of[channel_like(&c->b, name)], &all[i]);
        free_matched(&all[i]);
    }
    g_free(all);
    tell_apart(c, &c->a, &c->b);
    tell_apart(c, &c->b, &c->a);
    tell_end(c);
    return true;
}

bool wad_capture_compare(const wad_capture *a, uint64_t a_end, const wad_capture *b, uint64_t b_end,
                         const wad_compare_options *o, wad_captures_compared *result, FILE *out)
{
    comparison c = {.a = {.capture = a, .end = a_end, .name = o->a ? o->a : "first"},
                    .b = {.capture = b, .end = b_end, .name = o->b ? o->b : "second"},
                    .o = o,
                    .r = result,
                    .within = o->within_ps ? o->within_ps : 1000000,
                    .out = out};
    *result = (wad_captures_compared){0};
    collect(&c.a);
    collect(&c.b);
    bool good = compare(&c);
    forget(&c.a);
    forget(&c.b);
    return good;
}

/* ---- on one axis ---- */

typedef struct merged {
    const wad_capture *from;
    wad_cursor at;
    wad_edge_record next;
    bool more;
    uint64_t add;
    unsigned *channel;
} merged;

static void load_next(merged *m)
{
    m->more = wad_capture_next(m->from, &m->at, &m->next);
}

wad_capture *wad_capture_overlay(const wad_capture *a, const wad_capture *b,
                                 const wad_captures_compared *r, const wad_compare_options *o)
{
    wad_capture *both = wad_capture_new();
    merged m[] = {{.from = a, .add = r->behind ? 0 : r->shift_ps},
                  {.from = b, .add = r->behind ? r->shift_ps : 0}};
    const char *names[] = {o->a ? o->a : "first", o->b ? o->b : "second"};
    side other = {.capture = b, .n = wad_capture_channels(b)};
    m[0].channel = g_new0(unsigned, wad_capture_channels(a) + 1);
    m[1].channel = g_new0(unsigned, other.n + 1);
    for (unsigned i = 0; i < other.n; i++)
        m[1].channel[i] = UINT_MAX;
    for (unsigned i = 0; i < wad_capture_channels(a); i++) {
        int k = channel_like(&other, wad_capture_name(a, i));
        for (unsigned s = 0; s < 2; s++) {
            char *name = g_strdup_printf("%s, %s", wad_capture_name(a, i), names[s]);
            if (s == 0)
                m[0].channel[i] = k < 0 ? UINT_MAX : wad_capture_channel(both, name);
            else if (k >= 0)
                m[1].channel[k] = wad_capture_channel(both, name);
            g_free(name);
        }
    }
    load_next(&m[0]);
    load_next(&m[1]);
    while (m[0].more || m[1].more) {
        bool second =
            !m[0].more || (m[1].more && m[1].next.ps + m[1].add < m[0].next.ps + m[0].add);
        merged *from = &m[second];
        unsigned to = from->channel[from->next.channel];
        if (to != UINT_MAX)
            wad_capture_edge(both, to, from->next.ps + from->add, from->next.level);
        load_next(from);
    }
    g_free(m[0].channel);
    g_free(m[1].channel);
    return both;
}
