/* SPDX-License-Identifier: MIT */
/* What the files behind `wadium emit roles` share. */
#ifndef WADI_EMIT_ROLES_H
#define WADI_EMIT_ROLES_H

#include <stdio.h>

#include "wadium/host/sheet.h"

typedef struct wadi_emitter {
    const wad_sheet *sheet;
    FILE *out;
    char *upper, *lower;
} wadi_emitter;

/** Each derived clock as a function of its registers. */
void wadi_emit_clock_rates(wadi_emitter *e);

/** A field that must have a value, as a need of a block or a clock. */
void wadi_emit_need(wadi_emitter *e, const wad_fieldref *ref, uint64_t value);

#endif
