/* SPDX-License-Identifier: MIT */
#include "list.h"

#include <glib.h>

void wadi_checkers_attach(wad_sim *sim)
{
    static const wadi_observer_class *const all[] = {
        &wadi_check_race,     &wadi_check_owned, &wadi_check_handler, &wadi_check_latency,
        &wadi_check_register, &wadi_check_split, &wadi_check_habit,   &wadi_check_explore,
        &wadi_check_unused,   &wadi_check_sleep,
    };
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++)
        wadi_attach(sim, all[i]);
}
