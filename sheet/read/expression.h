/* SPDX-License-Identifier: MIT */
/* Expressions of the sheet language: laws and constants. */
#ifndef WADI_EXPR_H
#define WADI_EXPR_H

#include "lang/cursor.h"

struct wadi_build;
struct wadi_env;

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
    WADI_OP_PICK
} wadi_op;

typedef struct wadi_pick {
    uint64_t code;
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
    const wad_value *value; /* a split value: `a` and `b` put its parts together */
    const wadi_pick *picks;
    unsigned n_picks;
};

/** What an expression's names mean while it is parsed. */
typedef struct wadi_names {
    struct wadi_build *build;
    const struct wadi_env *env;
    const wad_layout *layout;  /* of a law in a layout, else NULL */
    const wad_instance *scope; /* of a law in a block, else NULL */
    bool constant;             /* numbers and parameters only */
    bool plain;                /* a name after a number is not its unit */
} wadi_names;

wad_expr *wadi_parse_expr(wadi_cursor *c, const wadi_names *names);

/** How an evaluation learns fields and clocks. */
typedef struct wadi_eval {
    bool (*field)(void *ctx, const wad_fieldref *ref, uint64_t *code); /* what is written there */
    bool (*clock)(void *ctx, const wad_clock *clock, wad_rational *hz);
    void *ctx;
} wadi_eval;

bool wadi_expr_eval(const wad_expr *e, const wadi_eval *env, wad_rational *out);

/** The unit behind a number: Hz, ms, KiB, ...; false when `name` is no unit. */
bool wadi_unit(const char *name, wad_unit *unit, wad_rational *scale);

#endif
