/* SPDX-License-Identifier: MIT */
#include "button.h"

static int by_time(const void *a, const void *b)
{
    uint64_t x = *(const uint64_t *)a, y = *(const uint64_t *)b;
    return (x > y) - (x < y);
}

unsigned wadi_bounce_times(GRand *rand, uint64_t ps, uint64_t length, uint64_t times[8])
{
    unsigned n = length ? 2 * (unsigned)g_rand_int_range(rand, 1, 5) : 0;
    for (unsigned i = 0; i < n; i++)
        times[i] = ps + 1 + (uint64_t)(g_rand_double(rand) * (double)(length - 1));
    qsort(times, n, sizeof *times, by_time);
    return n;
}

wad_level wadi_button_level(const wad_part_def *button, bool pressed)
{
    if (pressed)
        return button->active_low ? WAD_LOW : WAD_HIGH;
    return button->pull > 0 ? WAD_HIGH : button->pull < 0 ? WAD_LOW : WAD_FLOATING;
}
