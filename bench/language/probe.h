/* SPDX-License-Identifier: MIT */
/* What a bench has under which name. */
#ifndef WADI_PROBE_H
#define WADI_PROBE_H

#include "bench.h"

/** The handler of a line is captured, as `name` unless it is already. */
void wadi_bench_capture_irq(wad_bench *bench, unsigned line, const char *name);

/** The part beside the chip of a name, -1 for none. */
int wadi_bench_part(const wad_bench *bench, const char *name);

/** The pin of a part's wire, NULL for none. */
const wad_pin_def *wadi_part_wire(const wad_part_def *part, const char *name);

/** The analog probe of a name, -1 for none. */
int wadi_bench_volts(const wad_bench *bench, const char *name);

/** The probe of a name, -1 for none. */
int wadi_bench_probe(const wad_bench *bench, const char *name);

#endif
