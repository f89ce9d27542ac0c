/* SPDX-License-Identifier: MIT */
/* A rate law's insides. */
#ifndef WADI_RATE_H
#define WADI_RATE_H

#include <glib.h>

#include "polynomial.h"
#include "sheet/chip/expression.h"
#include "wadium/host/rate.h"
#include "wadium/host/words.h"

#define WADI_RATE_PARTS 8

/* A field, or a number split over several, that the law rests on. */
typedef struct wadi_rate_variable {
    char *name;
    const wad_expr *node;                 /* the first in the law that stands for it */
    wad_role_part parts[WADI_RATE_PARTS]; /* high part first */
    unsigned n_parts;
    uint64_t min, max;
    const wad_bitfield *enums; /* only its named values are offered */
    const wad_expr *pick;      /* only what it lists is offered; NULL: it is in no choice */
    bool chosen;               /* each value must be tried */
} wadi_rate_variable;

struct wad_rate_law {
    const wad_sheet *sheet;
    const wad_instance *block;
    const wad_expr *expr;
    char *text;
    unsigned element; /* of roles that are arrays: `bitrate[2]` */
    wad_rate_setting *settings;
    unsigned n_settings;
    GPtrArray *nodes;         /* of a law that a kind gives */
    GString *ways;            /* "CTRL.WIDE = 0": what it rests on besides; NULL: nothing */
    const wad_expr *not_zero; /* bits that stop it all at 0; NULL: none */
    char *why;                /* there is no such law */
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
/** May the field have this value? */
bool wadi_rate_offers(const wadi_rate_variable *v, uint64_t value);
/** The one plain field that it is, block as in the law; NULL: it lies in several, or inverted. */
const wad_fieldref *wadi_rate_field(const wadi_rate_variable *v);
/** A field's value besides the law: by a setting, else as after reset. */
uint64_t wadi_rate_field_now(const wad_rate_law *law, const wad_fieldref *ref);
/** The law is what it is while this holds. */
void wadi_rate_is_so_while(wad_rate_law *law, const wad_cond *cond);

/* ---- encode_rate.c ---- */
/** Is a setting of a control word a rate: LAW=RATE, or FIELD=RATE with a unit? */
bool wadi_is_rate_setting(const wad_sheet *sheet, const wad_word *word, const char *setting);
/** Sets the fields in the word that come nearest. False: `why` (g_free). */
bool wadi_set_rate(wad_encode_rates *rates, wad_word *word, const char *setting, char **why);

#endif
