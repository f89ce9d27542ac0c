/* SPDX-License-Identifier: MIT */
/* The expectations of a bench while something feeds them: a run, or a recording. */
#ifndef WADI_GAUGES_H
#define WADI_GAUGES_H

#include "bench/expect/expectation.h"

typedef struct wadi_gauges wadi_gauges;

/** `scene` is looked at until the gauges are freed. */
wadi_gauges *wadi_gauges_new(const wad_bench *bench, const wadi_scene *scene);
void wadi_gauges_free(wadi_gauges *gauges);
unsigned wadi_gauges_count(const wadi_gauges *gauges);
const wadi_expectation *wadi_gauges_at(const wadi_gauges *gauges, unsigned i);
/** Something that the subject did. */
void wadi_gauges_hear(wadi_gauges *gauges, wadi_about about, unsigned number, const wadi_heard *h);
/** Once, when `scene->run` says how it ended. */
wadi_judged wadi_gauges_judge(wadi_gauges *gauges, unsigned i);

#endif
