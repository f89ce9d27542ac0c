/* SPDX-License-Identifier: MIT */
#include <string.h>

#include "wadium/host/capture.h"

#include <glib.h>
#include <stdlib.h>
#include <sys/mman.h>

/*
 * An edge takes 8 bytes: 48 bits of picoseconds since its chunk began, 14 of
 * channel, 2 of level. A chunk ends when it is full or lasts 281 s.
 */
#define CHUNK_EDGES (1u << 18)
#define SMALL_EDGES (1u << 10)
#define HUGE_PAGE   (1u << 21)
#define MAX_SPAN    (UINT64_C(1) << 48)

typedef struct chunk {
    uint64_t base;
    uint64_t *edges;
    unsigned n;
} chunk;

struct wad_capture {
    GPtrArray *names;
    GArray *chunks; /* chunk; `n` of the last one is filled in by `close_chunk` */
    uint64_t *next, *end;
    uint64_t base;
    uint64_t closed; /* edges in all chunks but the last */
    GArray *words;   /* word_def */
    GArray *values;  /* wad_word_record */
    GArray *analogs; /* analog_def */
};

typedef struct analog_def {
    char *name;
    const char *unit;
    GArray *samples; /* wad_sample */
} analog_def;

typedef struct word_def {
    char *name;
    unsigned bits;
    uint64_t initial;
} word_def;

wad_capture *wad_capture_new(void)
{
    wad_capture *c = g_new0(wad_capture, 1);
    c->names = g_ptr_array_new_with_free_func(g_free);
    c->chunks = g_array_new(FALSE, TRUE, sizeof(chunk));
    c->words = g_array_new(FALSE, FALSE, sizeof(word_def));
    c->values = g_array_new(FALSE, FALSE, sizeof(wad_word_record));
    c->analogs = g_array_new(FALSE, FALSE, sizeof(analog_def));
    return c;
}

void wad_capture_clear(wad_capture *c)
{
    for (guint i = 0; i < c->chunks->len; i++)
        free(g_array_index(c->chunks, chunk, i).edges);
    g_array_set_size(c->chunks, 0);
    c->next = c->end = NULL;
    c->closed = 0;
    g_array_set_size(c->values, 0);
    for (guint i = 0; i < c->analogs->len; i++)
        g_array_set_size(g_array_index(c->analogs, analog_def, i).samples, 0);
}

void wad_capture_free(wad_capture *c)
{
    if (!c)
        return;
    wad_capture_clear(c);
    g_ptr_array_free(c->names, TRUE);
    g_array_free(c->chunks, TRUE);
    for (guint i = 0; i < c->words->len; i++)
        g_free(g_array_index(c->words, word_def, i).name);
    g_array_free(c->words, TRUE);
    g_array_free(c->values, TRUE);
    for (guint i = 0; i < c->analogs->len; i++) {
        g_free(g_array_index(c->analogs, analog_def, i).name);
        g_array_free(g_array_index(c->analogs, analog_def, i).samples, TRUE);
    }
    g_array_free(c->analogs, TRUE);
    g_free(c);
}

unsigned wad_capture_channel(wad_capture *c, const char *name)
{
    g_ptr_array_add(c->names, g_strdup(name));
    return c->names->len - 1;
}

unsigned wad_capture_channels(const wad_capture *c)
{
    return c->names->len;
}

const char *wad_capture_name(const wad_capture *c, unsigned channel)
{
    return c->names->pdata[channel];
}

int wad_capture_find(const wad_capture *capture, const char *name)
{
    for (unsigned i = 0; i < wad_capture_channels(capture); i++)
        if (!strcmp(wad_capture_name(capture, i), name))
            return (int)i;
    return -1;
}

static unsigned used_in(const wad_capture *c, guint i)
{
    const chunk *k = &g_array_index(c->chunks, chunk, i);
    return i + 1 == c->chunks->len ? (unsigned)(c->next - k->edges) : k->n;
}

/* The first chunk is small: most captures are. Later ones sit on huge pages, which fault less. */
static void open_chunk(wad_capture *c, uint64_t ps)
{
    guint n = c->chunks->len;
    if (n) {
        g_array_index(c->chunks, chunk, n - 1).n = used_in(c, n - 1);
        c->closed += used_in(c, n - 1);
    }
    unsigned edges = n ? CHUNK_EDGES : SMALL_EDGES;
    size_t size = edges * sizeof(uint64_t);
    chunk k = {ps, NULL, 0};
    k.edges = n ? aligned_alloc(HUGE_PAGE, size) : malloc(size);
    if (!k.edges)
        g_error("out of memory: %u edges are captured", (unsigned)c->closed);
    if (n)
        madvise(k.edges, size, MADV_HUGEPAGE);
    c->base = ps;
    c->next = k.edges;
    c->end = k.edges + edges;
    g_array_append_val(c->chunks, k);
}

void wad_capture_edge(wad_capture *c, unsigned channel, uint64_t ps, wad_level level)
{
    if (__builtin_expect(c->next == c->end || ps - c->base >= MAX_SPAN, 0))
        open_chunk(c, ps);
    *c->next++ = (ps - c->base) << 16 | (uint64_t)(channel << 2 | (unsigned)level);
}

uint64_t wad_capture_edges(const wad_capture *c)
{
    return c->chunks->len ? c->closed + used_in(c, c->chunks->len - 1) : 0;
}

static bool next_chunk(const wad_capture *c, wad_cursor *at)
{
    while (at->next == at->end) {
        if (at->chunk >= c->chunks->len)
            return false;
        const chunk *k = &g_array_index(c->chunks, chunk, at->chunk);
        at->next = k->edges;
        at->end = k->edges + used_in(c, at->chunk);
        at->base = k->base;
        at->chunk++;
    }
    return true;
}

bool wad_capture_next(const wad_capture *c, wad_cursor *at, wad_edge_record *edge)
{
    if (__builtin_expect(at->next == at->end, 0) && !next_chunk(c, at))
        return false;
    uint64_t e = *at->next++;
    edge->ps = at->base + (e >> 16);
    edge->channel = (uint32_t)(e >> 2 & 0x3FFF);
    edge->level = (wad_level)(e & 3);
    return true;
}

/* ---- words: few changes, kept apart ---- */

unsigned wad_capture_word(wad_capture *c, const char *name, unsigned bits, uint64_t initial)
{
    word_def w = {g_strdup(name), bits, initial};
    g_array_append_val(c->words, w);
    return c->words->len - 1;
}

void wad_capture_value(wad_capture *c, unsigned word, uint64_t ps, uint64_t value)
{
    wad_word_record r = {ps, value, word};
    g_array_append_val(c->values, r);
}

unsigned wad_capture_words(const wad_capture *c)
{
    return c->words->len;
}

uint64_t wad_capture_word_initial(const wad_capture *c, unsigned i)
{
    return g_array_index(c->words, word_def, i).initial;
}

const char *wad_capture_word_name(const wad_capture *c, unsigned i, unsigned *bits)
{
    const word_def *w = &g_array_index(c->words, word_def, i);
    *bits = w->bits;
    return w->name;
}

const wad_word_record *wad_capture_value_at(const wad_capture *c, uint64_t i)
{
    return i < c->values->len ? &g_array_index(c->values, wad_word_record, i) : NULL;
}

/* ---- analog channels ---- */

unsigned wad_capture_analog(wad_capture *c, const char *name, const char *unit)
{
    analog_def def = {g_strdup(name), unit, g_array_new(FALSE, FALSE, sizeof(wad_sample))};
    g_array_append_val(c->analogs, def);
    return c->analogs->len - 1;
}

unsigned wad_capture_analogs(const wad_capture *c)
{
    return c->analogs->len;
}

const char *wad_capture_analog_name(const wad_capture *c, unsigned channel, const char **unit)
{
    const analog_def *def = &g_array_index(c->analogs, analog_def, channel);
    if (unit)
        *unit = def->unit;
    return def->name;
}

/* Of several values at one time the last one holds. */
void wad_capture_sample(wad_capture *c, unsigned channel, uint64_t ps, double value)
{
    GArray *list = g_array_index(c->analogs, analog_def, channel).samples;
    wad_sample *last = list->len ? &g_array_index(list, wad_sample, list->len - 1) : NULL;
    wad_sample s = {ps, value};
    if (last && last->ps == ps)
        last->value = value;
    else
        g_array_append_val(list, s);
}

const wad_sample *wad_capture_samples(const wad_capture *c, unsigned channel, size_t *n)
{
    const GArray *list = g_array_index(c->analogs, analog_def, channel).samples;
    *n = list->len;
    return (const wad_sample *)(const void *)list->data;
}
