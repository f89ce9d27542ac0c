/* SPDX-License-Identifier: MIT */
#include "wired_pin.h"

struct wadi_driver {
    wadi_world *world;
    const wad_pin_def *pin;
    wad_level level;
    GPtrArray *others; /* of the same pin, this one included */
};

struct wadi_world {
    wad_sim *sim;
    GPtrArray *drivers;
};

wadi_world *wadi_world_new(wad_sim *sim)
{
    wadi_world *w = g_new(wadi_world, 1);
    *w = (wadi_world){sim, g_ptr_array_new_with_free_func(g_free)};
    return w;
}

void wadi_world_free(wadi_world *w)
{
    if (!w)
        return;
    for (guint i = 0; i < w->drivers->len; i++) {
        wadi_driver *d = w->drivers->pdata[i];
        if (d->others->pdata[0] == d)
            g_ptr_array_free(d->others, TRUE);
    }
    g_ptr_array_free(w->drivers, TRUE);
    g_free(w);
}

wadi_driver *wadi_world_driver(wadi_world *w, const wad_pin_def *pin)
{
    wadi_driver *d = g_new(wadi_driver, 1);
    *d = (wadi_driver){w, pin, WAD_FLOATING, NULL};
    for (guint i = 0; i < w->drivers->len && !d->others; i++)
        if (((wadi_driver *)w->drivers->pdata[i])->pin == pin)
            d->others = ((wadi_driver *)w->drivers->pdata[i])->others;
    if (!d->others)
        d->others = g_ptr_array_new();
    g_ptr_array_add(d->others, d);
    g_ptr_array_add(w->drivers, d);
    return d;
}

void wadi_drive(wadi_driver *d, wad_level level)
{
    wad_level sum = WAD_FLOATING;
    d->level = level;
    for (guint i = 0; i < d->others->len; i++) {
        wad_level one = ((wadi_driver *)d->others->pdata[i])->level;
        if (one != WAD_FLOATING && sum != WAD_LOW)
            sum = one;
    }
    wad_sim_drive(d->world->sim, d->pin, sum);
}
