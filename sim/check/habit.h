/* SPDX-License-Identifier: MIT */
/* What handlers and loops should not do. */
#ifndef WADI_HABIT_H
#define WADI_HABIT_H

#include "sim/core/carrier.h"
#include "sim/core/observer.h"

/** A function that prints was called, by its name. */
void wadi_handler_prints(const char *function, uintptr_t pc, void *frame);
/** Where the running firmware's standard output and input go; NULL: none runs. */
wadi_stdio *wadi_firmware_stdio(void);
/** A variable that handlers write was read outside of them; `habit` is the observer of habits. */
void wadi_ticks_read(wadi_observer *habit, uintptr_t address, size_t bytes);

#endif
