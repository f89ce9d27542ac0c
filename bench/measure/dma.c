/* SPDX-License-Identifier: MIT */
/* What the channels of DMA controllers did in a run. */
#include "dma.h"

#include "bench/language/said.h"

typedef struct listener {
    wadi_dma_signal signal;
    wadi_dma_signal_fn fn;
    void *ctx;
} listener;

/* A request that stands: from when. */
typedef struct asking {
    const wad_instance *block;
    uint32_t code;
    uint64_t ps;
    bool stands;
} asking;

struct wadi_dma_meter {
    GArray *table;             /* wad_dma_stats */
    GArray *listeners;         /* listener */
    GArray *askings;           /* asking */
    const wad_dma_stats *last; /* whose element was moved last, at `last_ps` */
    uint64_t last_ps;
};

static wad_dma_stats *stats_of(wadi_dma_meter *m, const wad_dma_record *r)
{
    for (guint i = 0; i < m->table->len; i++) {
        wad_dma_stats *s = &g_array_index(m->table, wad_dma_stats, i);
        if (s->block == r->block && s->channel == r->channel)
            return s;
    }
    wad_dma_stats fresh = {.block = r->block, .channel = r->channel};
    g_array_append_val(m->table, fresh);
    m->last = NULL; /* the table may have moved */
    return &g_array_index(m->table, wad_dma_stats, m->table->len - 1);
}

static asking *asking_of(wadi_dma_meter *m, const wad_dma_record *r)
{
    for (guint i = 0; i < m->askings->len; i++) {
        asking *a = &g_array_index(m->askings, asking, i);
        if (a->block == r->block && a->code == r->request)
            return a;
    }
    asking fresh = {.block = r->block, .code = r->request};
    g_array_append_val(m->askings, fresh);
    return &g_array_index(m->askings, asking, m->askings->len - 1);
}

static void moved(wadi_dma_meter *m, wad_dma_stats *s, const wad_dma_record *r)
{
    if (!s->elements)
        s->first_ps = r->ps;
    s->elements++;
    s->bytes += r->bytes;
    s->bus_ps += r->ps - s->begun_ps;
    if (m->last != s || m->last_ps != s->begun_ps) /* not right behind its own last one */
        s->bursts++;
    s->last_ps = m->last_ps = r->ps;
    m->last = s;
    if (!r->waits)
        return;
    asking *a = asking_of(m, r);
    if (a->ps)
        wad_stats_add(&s->latency, r->ps - a->ps);
    a->ps = a->stands ? r->ps : 0; /* it asks for the next one at once */
}

static void tell(wadi_dma_meter *m, const wad_dma_record *r, bool request, unsigned number,
                 wad_level level)
{
    for (guint i = 0; i < m->listeners->len; i++) {
        const listener *l = &g_array_index(m->listeners, listener, i);
        if (l->signal.block == r->block && l->signal.is_request == request &&
            l->signal.number == number)
            l->fn(l->ctx, r->ps, level);
    }
}

static void on_channel(wadi_dma_meter *m, const wad_dma_record *r)
{
    wad_dma_stats *s = stats_of(m, r);
    if (r->what == WAD_DMA_ARMED) {
        s->armed++;
        return;
    }
    if (r->what == WAD_DMA_BEGINS)
        s->begun_ps = r->ps;
    else if (r->what == WAD_DMA_MOVED)
        moved(m, s, r);
    else
        s->ended++;
    tell(m, r, false, r->channel, r->what == WAD_DMA_BEGINS ? WAD_HIGH : WAD_LOW);
}

static void on_request(wadi_dma_meter *m, const wad_dma_record *r)
{
    asking *a = asking_of(m, r);
    a->stands = r->what == WAD_DMA_ASKED;
    if (a->stands && !a->ps)
        a->ps = r->ps;
    tell(m, r, true, r->request, a->stands ? WAD_HIGH : WAD_LOW);
}

static void on_dma(void *ctx, const wad_dma_record *r)
{
    if (r->what >= WAD_DMA_ASKED)
        on_request(ctx, r);
    else
        on_channel(ctx, r);
}

wadi_dma_meter *wadi_dma_meter_new(wad_sim *sim)
{
    wadi_dma_meter *m = g_new0(wadi_dma_meter, 1);
    m->table = g_array_new(FALSE, TRUE, sizeof(wad_dma_stats));
    m->listeners = g_array_new(FALSE, FALSE, sizeof(listener));
    m->askings = g_array_new(FALSE, FALSE, sizeof(asking));
    wad_sim_watch_dma(sim, on_dma, m);
    return m;
}

void wadi_dma_meter_free(wadi_dma_meter *m)
{
    if (!m)
        return;
    g_array_free(m->table, TRUE);
    g_array_free(m->listeners, TRUE);
    g_array_free(m->askings, TRUE);
    g_free(m);
}

void wadi_dma_meter_listen(wadi_dma_meter *m, const wadi_dma_signal *signal, wadi_dma_signal_fn fn,
                           void *ctx)
{
    listener l = {*signal, fn, ctx};
    g_array_append_val(m->listeners, l);
    fn(ctx, 0, WAD_LOW);
}

static int by_channel(const void *a, const void *b)
{
    const wad_dma_stats *x = a, *y = b;
    if (x->block != y->block)
        return x->block->index < y->block->index ? -1 : 1;
    return x->channel < y->channel ? -1 : 1;
}

const wad_dma_stats *wadi_dma_meter_table(const wadi_dma_meter *m, unsigned *n)
{
    g_array_sort(m->table, by_channel);
    *n = m->table->len;
    return (const wad_dma_stats *)(void *)m->table->data;
}

const wad_dma_stats *wadi_dma_meter_channel(const wadi_dma_meter *m, const wad_instance *block,
                                            unsigned channel)
{
    for (guint i = 0; i < m->table->len; i++) {
        const wad_dma_stats *s = &g_array_index(m->table, wad_dma_stats, i);
        if (s->block == block && s->channel == channel)
            return s;
    }
    return NULL;
}
