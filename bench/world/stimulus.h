/* SPDX-License-Identifier: MIT */
/* What is done to pins: buttons pressed, levels and pulses driven. */
#ifndef WADI_STIMULUS_H
#define WADI_STIMULUS_H

#include "bench/language/statement.h"

/** The board's buttons rest at their pulls from the run's begin on. */
void wadi_rest_buttons(const wadi_setting *s);

#endif
