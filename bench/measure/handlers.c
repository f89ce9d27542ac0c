/* SPDX-License-Identifier: MIT */
/* What interrupt handlers cost: how long until they run, how long they take, how often. */
#include "handlers.h"

#include <string.h>

#define MOST_SPANS 500000

typedef struct frame {
    unsigned line;
    uint64_t inside; /* time of handlers that interrupted this one */
    guint span;      /* its number, if kept */
} frame;

struct wadi_handlers {
    GArray *table; /* wad_handler_stats, one a line that was served */
    GArray *stack; /* frame */
    GArray *spans; /* wad_handler_span, NULL: not wanted */
    unsigned lost_spans;
    GArray *sleeps; /* wad_sleep_span */
    const wad_sheet *sheet;
};

wadi_handlers *wadi_handlers_new(const wad_sheet *sheet, bool spans)
{
    wadi_handlers *h = g_new0(wadi_handlers, 1);
    h->table = g_array_new(FALSE, TRUE, sizeof(wad_handler_stats));
    h->stack = g_array_new(FALSE, FALSE, sizeof(frame));
    h->spans = spans ? g_array_new(FALSE, FALSE, sizeof(wad_handler_span)) : NULL;
    h->sleeps = g_array_new(FALSE, FALSE, sizeof(wad_sleep_span));
    h->sheet = sheet;
    return h;
}

void wadi_handlers_free(wadi_handlers *h)
{
    if (!h)
        return;
    g_array_free(h->table, TRUE);
    g_array_free(h->stack, TRUE);
    g_array_free(h->sleeps, TRUE);
    if (h->spans)
        g_array_free(h->spans, TRUE);
    g_free(h);
}

static wad_handler_stats *stats_of(wadi_handlers *h, unsigned line)
{
    for (guint i = 0; i < h->table->len; i++)
        if (g_array_index(h->table, wad_handler_stats, i).line == line)
            return &g_array_index(h->table, wad_handler_stats, i);
    const wad_instance *owner = wad_sheet_irq_owner(h->sheet, line);
    wad_handler_stats fresh = {.line = line, .owner = owner ? owner->name : "core"};
    g_array_append_val(h->table, fresh);
    return &g_array_index(h->table, wad_handler_stats, h->table->len - 1);
}

static void enter(wadi_handlers *h, const wad_irq_record *r)
{
    wad_handler_stats *s = stats_of(h, r->line);
    frame f = {r->line, 0, h->spans ? h->spans->len : 0};
    if (h->spans && h->spans->len < MOST_SPANS) {
        wad_handler_span span = {r->line, h->stack->len, r->raised_ps, r->entered_ps, UINT64_MAX};
        g_array_append_val(h->spans, span);
    } else if (h->spans) {
        h->lost_spans++;
    }
    if (s->count++)
        wad_stats_add(&s->every, r->entered_ps - s->last_ps);
    wad_stats_add(&s->latency, r->entered_ps - r->raised_ps);
    s->last_ps = r->entered_ps;
    g_array_append_val(h->stack, f);
    s->deepest = MAX(s->deepest, h->stack->len);
}

static void leave(wadi_handlers *h, const wad_irq_record *r)
{
    if (!h->stack->len)
        return;
    frame f = g_array_index(h->stack, frame, h->stack->len - 1);
    if (h->spans && f.span < h->spans->len)
        g_array_index(h->spans, wad_handler_span, f.span).left_ps = r->left_ps;
    uint64_t whole = r->left_ps - r->entered_ps;
    g_array_set_size(h->stack, h->stack->len - 1);
    wad_stats_add(&stats_of(h, r->line)->time, whole - MIN(f.inside, whole));
    if (h->stack->len)
        g_array_index(h->stack, frame, h->stack->len - 1).inside += whole;
}

void wadi_handlers_note(wadi_handlers *h, const wad_irq_record *record)
{
    if (record->left_ps)
        leave(h, record);
    else
        enter(h, record);
}

static gint by_line(gconstpointer a, gconstpointer b)
{
    const wad_handler_stats *x = a, *y = b;
    return x->line < y->line ? -1 : x->line > y->line;
}

const wad_handler_stats *wadi_handlers_table(wadi_handlers *h, unsigned *n)
{
    g_array_sort(h->table, by_line);
    *n = h->table->len;
    return (const wad_handler_stats *)(const void *)h->table->data;
}

int wadi_handlers_running(const wadi_handlers *h)
{
    return h->stack->len ? (int)g_array_index(h->stack, frame, h->stack->len - 1).line : -1;
}

const wad_handler_span *wadi_handlers_spans(const wadi_handlers *h, unsigned *n, unsigned *lost)
{
    *n = h->spans ? h->spans->len : 0;
    *lost = h->lost_spans;
    return h->spans ? (const wad_handler_span *)(const void *)h->spans->data : NULL;
}

void wadi_handlers_sleep(void *handlers, uint64_t from_ps, uint64_t to_ps)
{
    wadi_handlers *h = handlers;
    wad_sleep_span *last =
        h->sleeps->len ? &g_array_index(h->sleeps, wad_sleep_span, h->sleeps->len - 1) : NULL;
    if (last && last->to_ps == from_ps) {
        last->to_ps = to_ps;
    } else if (h->sleeps->len < MOST_SPANS) {
        wad_sleep_span span = {from_ps, to_ps};
        g_array_append_val(h->sleeps, span);
    }
}

const wad_sleep_span *wadi_handlers_sleeps(const wadi_handlers *h, unsigned *n)
{
    *n = h->sleeps->len;
    return (const wad_sleep_span *)(const void *)h->sleeps->data;
}
