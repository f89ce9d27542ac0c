/* SPDX-License-Identifier: MIT */
/* Grids of edges, and the queue of what is to happen. */
#ifndef WADI_TIME_H
#define WADI_TIME_H

#include "wadium/host/model.h"

/* Edges of a clock: grid index j = first + k * step on a grid of n / d edges a second from t0. */
typedef struct wadi_domain {
    uint64_t t0;
    uint64_t n, d;
    uint64_t step;
    uint64_t first;
    bool runs;
    /* derived by wadi_domain_prepare: d seconds hold n edges, which are whole + rest / n ps apart
     */
    uint64_t span, whole, rest;
    double rate;                    /* edges a picosecond */
    uint64_t span_index, span_from; /* the span looked at last */
} wadi_domain;

void wadi_domain_prepare(wadi_domain *dom);
uint64_t wadi_domain_edge(const wadi_domain *dom, uint64_t k);

/** Edges at or before `ps`; edge 0 counts as none. */
uint64_t wadi_domain_count(wadi_domain *dom, uint64_t ps);

typedef struct wadi_queue {
    wad_event **heap; /* heap[1] comes next */
    unsigned n, room;
    uint64_t order;
} wadi_queue;

void wadi_queue_add(wadi_queue *q, wad_event *e, uint64_t ps);
void wadi_queue_remove(wadi_queue *q, wad_event *e);

static inline wad_event *wadi_queue_first(const wadi_queue *q)
{
    return q->n ? q->heap[1] : NULL;
}

#endif
