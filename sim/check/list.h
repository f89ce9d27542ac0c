/* SPDX-License-Identifier: MIT */
/* The checkers: observers, in the order in which they tell their findings. */
#ifndef WADI_CHECK_LIST_H
#define WADI_CHECK_LIST_H

#include "sim/core/observer.h"

extern const wadi_observer_class wadi_check_race, wadi_check_owned, wadi_check_handler,
    wadi_check_latency, wadi_check_register, wadi_check_split, wadi_check_habit, wadi_check_explore,
    wadi_check_unused, wadi_check_sleep;

void wadi_checkers_attach(wad_sim *sim);

#endif
