/* SPDX-License-Identifier: MIT */
/* A pin plan's insides. */
#ifndef WADI_PIN_PLAN_H
#define WADI_PIN_PLAN_H

#include <glib.h>

#include "wadium/host/pinplan.h"

/* A pin that is no signal's: said so, or wired to a part of the board. */
typedef struct wadi_taken {
    const wad_pin_def *pin;
    char *name;
    const wad_part_def *part; /* NULL: said so */
} wadi_taken;

struct wad_pin_plan {
    const wad_sheet *sheet;
    GArray *choices; /* wad_pin_choice */
    GArray *taken;   /* wadi_taken */
    GArray *core;    /* guint: choices that cannot all be met */
    GPtrArray *conflicts;
    unsigned moves;
    bool works;
};

#endif
