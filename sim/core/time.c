/* SPDX-License-Identifier: MIT */
/* Clock edges in picoseconds, and the queue of events. */
#include "time.h"

#include "lang/rational.h"
#include "sim.h"

#define PS INT64_C(1000000000000)

/*
 * Edge j of a grid of n / d hertz stands at t0 + ceil(j * d * 10^12 / n). Split into whole spans
 * of n edges, which take d * 10^12 ps, it stays within 64 bits for n < 2^32 and never drifts:
 * count(edge(k)) == k always, because the edge is rounded up and the count down.
 */
void wadi_domain_prepare(wadi_domain *dom)
{
    dom->span = dom->d * PS;
    dom->whole = dom->span / dom->n;
    dom->rest = dom->span % dom->n;
    dom->rate = (double)dom->n / (double)dom->span;
    dom->span_index = 0;
    dom->span_from = dom->t0;
}

/* The r-th edge of a span, from its beginning; r < n. */
static uint64_t edge_in_span(const wadi_domain *dom, uint64_t r)
{
    if (!dom->rest)
        return r * dom->whole;
    if (dom->n >> 32) /* only above 4.29 GHz */
        return r * dom->whole + (uint64_t)(((wadi_u128)r * dom->rest + dom->n - 1) / dom->n);
    return r * dom->whole + (r * dom->rest + dom->n - 1) / dom->n;
}

static uint64_t grid_edge(const wadi_domain *dom, uint64_t j)
{
    if (!dom->rest) /* a whole number of picoseconds apart */
        return dom->t0 + j * dom->whole;
    if (j < dom->n)
        return dom->t0 + edge_in_span(dom, j);
    return dom->t0 + j / dom->n * dom->span + edge_in_span(dom, j % dom->n);
}

/* Guessed in floating point, then made exact by the edges themselves. */
static uint64_t grid_count(wadi_domain *dom, uint64_t ps)
{
    if (ps < dom->t0)
        return 0;
    if (ps - dom->span_from >= dom->span) { /* also when ps lies before the span: it wraps */
        dom->span_index = (ps - dom->t0) / dom->span;
        dom->span_from = dom->t0 + dom->span_index * dom->span;
    }
    uint64_t dt = ps - dom->span_from, r = (uint64_t)((double)dt * dom->rate);
    r = r < dom->n ? r : dom->n - 1;
    while (r > 0 && edge_in_span(dom, r) > dt)
        r--;
    while (r + 1 < dom->n && edge_in_span(dom, r + 1) <= dt)
        r++;
    return dom->span_index * dom->n + r;
}

uint64_t wadi_domain_edge(const wadi_domain *dom, uint64_t k)
{
    return grid_edge(dom, dom->first + k * dom->step);
}

uint64_t wadi_domain_count(wadi_domain *dom, uint64_t ps)
{
    uint64_t j = grid_count(dom, ps);
    if (j <= dom->first)
        return 0;
    return dom->step == 1 ? j - dom->first : (j - dom->first) / dom->step;
}

/* ---- the queue: a binary heap by time, then by the order of scheduling ---- */

static bool before(const wad_event *a, const wad_event *b)
{
    return a->ps != b->ps ? a->ps < b->ps : a->order < b->order;
}

static void place(wadi_queue *q, unsigned slot, wad_event *e)
{
    q->heap[slot] = e;
    e->heap_slot = slot;
}

static void sift_up(wadi_queue *q, unsigned slot, wad_event *e)
{
    for (; slot > 1 && before(e, q->heap[slot / 2]); slot /= 2)
        place(q, slot, q->heap[slot / 2]);
    place(q, slot, e);
}

static void sift_down(wadi_queue *q, unsigned slot, wad_event *e)
{
    for (;;) {
        unsigned child = slot * 2;
        if (child > q->n)
            break;
        if (child < q->n && before(q->heap[child + 1], q->heap[child]))
            child++;
        if (!before(q->heap[child], e))
            break;
        place(q, slot, q->heap[child]);
        slot = child;
    }
    place(q, slot, e);
}

void wadi_queue_remove(wadi_queue *q, wad_event *e)
{
    unsigned slot = e->heap_slot;
    if (!slot)
        return;
    e->heap_slot = 0;
    wad_event *last = q->heap[q->n--];
    if (last == e)
        return;
    if (slot > 1 && before(last, q->heap[slot / 2]))
        sift_up(q, slot, last);
    else
        sift_down(q, slot, last);
}

void wadi_queue_add(wadi_queue *q, wad_event *e, uint64_t ps)
{
    wadi_queue_remove(q, e);
    e->ps = ps;
    e->order = ++q->order;
    if (q->n + 2 > q->room) {
        q->room = q->room ? q->room * 2 : 64;
        q->heap = g_renew(wad_event *, q->heap, q->room);
    }
    q->n++;
    sift_up(q, q->n, e);
}
