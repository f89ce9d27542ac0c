/* SPDX-License-Identifier: MIT */
#include "arena.h"

#include <glib.h>
#include <stdarg.h>
#include <string.h>

#define CHUNK 262144 /* large enough to come from the system, as zeroes */

struct wadi_arena {
    GPtrArray *chunks;
    char *next;
    size_t left;
};

wadi_arena *wadi_arena_new(void)
{
    wadi_arena *arena = g_new0(wadi_arena, 1);
    arena->chunks = g_ptr_array_new_with_free_func(g_free);
    return arena;
}

void wadi_arena_free(wadi_arena *arena)
{
    if (!arena)
        return;
    g_ptr_array_free(arena->chunks, TRUE);
    g_free(arena);
}

void *wadi_arena_alloc(wadi_arena *arena, size_t size)
{
    size = (size + 15) & ~(size_t)15;
    if (size > arena->left) {
        size_t chunk = size > CHUNK ? size : CHUNK;
        arena->next = g_malloc0(chunk);
        arena->left = chunk;
        g_ptr_array_add(arena->chunks, arena->next);
    }
    void *item = arena->next;
    arena->next += size;
    arena->left -= size;
    return item;
}

char *wadi_arena_strndup(wadi_arena *arena, const char *text, size_t size)
{
    char *copy = wadi_arena_alloc(arena, size + 1);
    memcpy(copy, text, size);
    return copy;
}

char *wadi_arena_printf(wadi_arena *arena, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    char *copy = wadi_arena_strndup(arena, text, strlen(text));
    g_free(text);
    return copy;
}

void *wadi_arena_copy(wadi_arena *arena, const void *items, size_t n, size_t size)
{
    if (n == 0)
        return NULL;
    void *copy = wadi_arena_alloc(arena, n * size);
    memcpy(copy, items, n * size);
    return copy;
}
