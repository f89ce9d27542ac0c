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

/** Every field of a layout by name, for drivers of one's own. */
void wadi_emit_fields(wadi_emitter *e, const wad_layout *layout);

/** Functions that open and close what keeps the layout's registers from being written. */
void wadi_emit_locks(wadi_emitter *e, const wad_layout *layout);

/** What stands in the role table of a layout. */
void wadi_emit_roles_of(const wadi_emitter *e, const wad_layout *layout);

/** A field that must have a value, as a need of a block or a clock. */
void wadi_emit_need(wadi_emitter *e, const wad_fieldref *ref, uint64_t value);

#endif
