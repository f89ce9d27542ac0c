/* SPDX-License-Identifier: MIT */
#include "suggest.h"

#include <string.h>

#include "cursor.h"

static unsigned edit_distance(const char *a, const char *b)
{
    size_t n = strlen(b);
    if (n > 63 || strlen(a) > 63)
        return 99;
    unsigned row[64];
    for (size_t j = 0; j <= n; j++)
        row[j] = (unsigned)j;
    for (size_t i = 1; a[i - 1]; i++) {
        unsigned diagonal = row[0];
        row[0] = (unsigned)i;
        for (size_t j = 1; j <= n; j++) {
            unsigned cost = diagonal + (g_ascii_tolower(a[i - 1]) != g_ascii_tolower(b[j - 1]));
            diagonal = row[j];
            row[j] = MIN(MIN(row[j], row[j - 1]) + 1, cost);
        }
    }
    return row[n];
}

const char *wad_nearest(const char *name, const char *const *names, unsigned n)
{
    const char *best = NULL;
    unsigned best_distance = (unsigned)strlen(name) / 2 + 1;
    for (unsigned i = 0; i < n; i++) {
        unsigned d = edit_distance(name, names[i]);
        if (d < best_distance) {
            best = names[i];
            best_distance = d;
        }
    }
    return best;
}

const char *wadi_suggest(wadi_arena *arena, const char *name, const char *const *names, unsigned n)
{
    const char *best = wad_nearest(name, names, n);
    return best ? wadi_arena_printf(arena, " (did you mean '%s'?)", best) : "";
}
