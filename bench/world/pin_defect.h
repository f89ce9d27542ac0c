/* SPDX-License-Identifier: MIT */
/* Pins that are stuck, pulls that are missing. */
#ifndef WADI_PIN_DEFECT_H
#define WADI_PIN_DEFECT_H

#include "bench/language/statement.h"

/** The bench says that a board's or the chip's pull at this pin is missing. */
bool wadi_pull_is_missing(const wad_bench *bench, const wad_pin_def *pin);

#endif
