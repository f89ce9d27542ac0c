/* SPDX-License-Identifier: MIT */
/* Memory that is freed all at once: a sheet's nodes and names. */
#ifndef WADI_ARENA_H
#define WADI_ARENA_H

#include <stddef.h>

typedef struct wadi_arena wadi_arena;

wadi_arena *wadi_arena_new(void);
void wadi_arena_free(wadi_arena *arena);
/** Zeroed, aligned for any type. */
void *wadi_arena_alloc(wadi_arena *arena, size_t size);
char *wadi_arena_strndup(wadi_arena *arena, const char *text, size_t size);
char *wadi_arena_printf(wadi_arena *arena, const char *format, ...)
    __attribute__((format(printf, 2, 3)));
/** A copy of `n` items of `size` bytes; NULL for n == 0. */
void *wadi_arena_copy(wadi_arena *arena, const void *items, size_t n, size_t size);

#define WADI_NEW(arena, type) ((type *)wadi_arena_alloc((arena), sizeof(type)))

#endif
