/* SPDX-License-Identifier: MIT */
/* What interrupt handlers cost: how long until they run, how long they take, how often. */
#include "handlers.h"

#include <string.h>

typedef struct frame {
    unsigned line;
    uint64_t inside; /* time of handlers that interrupted this one */
} frame;

struct wadi_handlers {
    GArray *table; /* wad_handler_stats, one a line that was served */
    GArray *stack; /* frame */
    const wad_sheet *sheet;
};

wadi_handlers *wadi_handlers_new(const wad_sheet *sheet)
{
    wadi_handlers *h = g_new0(wadi_handlers, 1);
    h->table = g_array_new(FALSE, TRUE, sizeof(wad_handler_stats));
    h->stack = g_array_new(FALSE, FALSE, sizeof(frame));
    h->sheet = sheet;
    return h;
}

void wadi_handlers_free(wadi_handlers *h)
{
    if (!h)
        return;
    g_array_free(h->table, TRUE);
    g_array_free(h->stack, TRUE);
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
    frame f = {r->line, 0};
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
