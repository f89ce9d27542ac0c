/* SPDX-License-Identifier: MIT */
#include "wadium/host/capture.h"

#include <glib.h>

#define CHUNK_BITS 16
#define CHUNK      (1u << CHUNK_BITS)

struct wad_capture {
    GPtrArray *names;
    GPtrArray *chunks; /* wad_edge_record[CHUNK] each */
    wad_edge_record *next;
    unsigned left;
};

wad_capture *wad_capture_new(void)
{
    wad_capture *c = g_new0(wad_capture, 1);
    c->names = g_ptr_array_new_with_free_func(g_free);
    c->chunks = g_ptr_array_new_with_free_func(g_free);
    return c;
}

void wad_capture_free(wad_capture *c)
{
    if (!c)
        return;
    g_ptr_array_free(c->names, TRUE);
    g_ptr_array_free(c->chunks, TRUE);
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

void wad_capture_edge(wad_capture *c, unsigned channel, uint64_t ps, wad_level level)
{
    if (__builtin_expect(!c->left, 0)) {
        c->next = g_new(wad_edge_record, CHUNK);
        c->left = CHUNK;
        g_ptr_array_add(c->chunks, c->next);
    }
    *c->next++ = (wad_edge_record){ps, channel, (uint32_t)level};
    c->left--;
}

uint64_t wad_capture_edges(const wad_capture *c)
{
    return (uint64_t)c->chunks->len * CHUNK - c->left;
}

void wad_capture_clear(wad_capture *c)
{
    g_ptr_array_set_size(c->chunks, 0);
    c->left = 0;
}

wad_edge_record wad_capture_at(const wad_capture *c, uint64_t i)
{
    return ((const wad_edge_record *)c->chunks->pdata[i >> CHUNK_BITS])[i & (CHUNK - 1)];
}
