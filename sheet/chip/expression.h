/* SPDX-License-Identifier: MIT */
/* Laws and constants of the sheet language, as trees. */
#ifndef WADI_CHIP_EXPRESSION_H
#define WADI_CHIP_EXPRESSION_H

#include "wadium/host/sheet.h"

typedef enum wadi_op {
    WADI_OP_NUM,
    WADI_OP_CLOCK, /* the frequency of a clock; `clock` NULL means the block's own */
    WADI_OP_FIELD,
    WADI_OP_NEG,
    WADI_OP_ADD,
    WADI_OP_SUB,
    WADI_OP_MUL,
    WADI_OP_DIV,
    WADI_OP_POW,
    WADI_OP_FLOOR,
    WADI_OP_MIN,
    WADI_OP_MAX,
    WADI_OP_PICK,
    WADI_OP_AND, /* of bits; these stand in `reads` and hooks alone */
    WADI_OP_OR,
    WADI_OP_XOR,
    WADI_OP_NOT,
    WADI_OP_ONES,   /* how many bits are 1 */
    WADI_OP_WRITTEN /* what was written, in a hook */
} wadi_op;

typedef struct wadi_pick {
    uint64_t code, last;
    wad_expr *value;
} wadi_pick;

struct wad_expr {
    wadi_op op;
    wad_where where;
    wad_rational num;
    wad_unit unit;
    const wad_clock *clock;
    wad_fieldref field; /* OP_FIELD, OP_PICK; block NULL: of the block that owns the layout */
    wad_expr *a, *b;
    const wad_value *value;      /* a split value: `a` and `b` put its parts together */
    const wad_role_place *place; /* of OP_FIELD, OP_PICK: bits that are no plain field */
    const wadi_pick *picks;
    unsigned n_picks;
};

/** The first choice in it; NULL: none. */
const wad_expr *wadi_first_pick(const wad_expr *e);
/** The expression as a sheet writes it; g_free. */
char *wadi_expr_text(const wad_expr *e);
/** "HI.V : LO.V", "not CTL.OFF"; g_free. */
char *wadi_place_text(const wad_role_place *place);

#endif
