/* SPDX-License-Identifier: MIT */
/* A rate law's insides. */
#ifndef WADI_RATE_H
#define WADI_RATE_H

#include <glib.h>

#include "polynomial.h"
#include "sheet/chip/expression.h"
#include "wadium/host/rate.h"
#include "wadium/host/words.h"

/* A field, or a value split over several, that the law rests on. */
typedef struct wadi_rate_variable {
    char *name;
    const wad_value *value;
    wad_fieldref field; /* when it is no split value */
    uint64_t min, max;
    const wad_bitfield *enums; /* only its named values are offered */
    bool chosen;               /* each value must be tried */
} wadi_rate_variable;

struct wad_rate_law {
    const wad_sheet *sheet;
    const wad_instance *block;
    const wad_expr *expr;
    char *text;
    GPtrArray *nodes; /* of a law that a kind gives */
    wadi_rate_variable vars[WAD_RATE_VARS];
    unsigned n_vars;
};

typedef struct wadi_rate_ctx {
    const wad_rate_law *law;
    wad_rational clock;
    const uint64_t *values;
} wadi_rate_ctx;

/** Which variable a node of the law is, -1 for none. */
int wadi_rate_var(const wad_rate_law *law, const wad_expr *e);
bool wadi_rate_clock_hz(void *ctx, const wad_clock *clock, wad_rational *hz);
/** What a value means in the law (`is`). */
wad_rational wadi_rate_meaning(const wadi_rate_variable *v, uint64_t value);

/* ---- encode_rate.c ---- */
/** Is a setting of a control word a rate: LAW=RATE, or FIELD=RATE with a unit? */
bool wadi_is_rate_setting(const wad_sheet *sheet, const wad_word *word, const char *setting);
/** Sets the fields in the word that come nearest. False: `why` (g_free). */
bool wadi_set_rate(wad_encode_rates *rates, wad_word *word, const char *setting, char **why);

#endif
