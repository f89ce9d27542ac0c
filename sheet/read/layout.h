/* SPDX-License-Identifier: MIT */
/* A layout under construction: what its files share. */
#ifndef WADI_BUILD_LAYOUT_H
#define WADI_BUILD_LAYOUT_H

#include "build.h"

/* What of a layout waits until all its registers exist: a field's condition, an alias, a lock. */
typedef struct waiting {
    wadi_cursor at;
    wad_bitfield *field;   /* a condition of this field ... */
    const wad_cond **cond; /* ... this one */
    wad_register *alias;
    wad_register *locked;
    wad_bitfield *cleared; /* by reading a register */
} waiting;

typedef struct layout_build {
    wadi_build *b;
    const wadi_env *env;
    wad_layout *layout;
    GPtrArray *regs;
    GPtrArray *values;
    GPtrArray *locks;
    GArray *waiting;
    GHashTable *names; /* of registers */
    const char *block; /* the one block that uses it, when that has changes of its own */
} layout_build;

/* ---- field.c ---- */
/** A field's line; NULL: it said what is wrong. */
wad_bitfield *wadi_parse_field(layout_build *lb, wadi_cursor *c, wad_register *reg);
/** `31:0`, `5`. */
bool wadi_parse_bits(layout_build *lb, wadi_cursor *c, const wad_register *reg, int64_t *lsb,
                     int64_t *msb);
/** What stands behind a field's description, its list of values included. */
void wadi_parse_field_attrs(layout_build *lb, wadi_cursor *c, wad_bitfield *field);
void wadi_parse_fields(layout_build *lb, const wadi_group *group, wad_register *reg);
/** Gives a register these fields (wad_bitfield *), by ascending bits. */
void wadi_set_fields(layout_build *lb, wad_register *reg, GPtrArray *fields);
void wadi_whole_field(layout_build *lb, wad_register *reg);

/* ---- change.c ---- */
/** Carries out what blocks and errata change in a register. False: it is taken out. */
bool wadi_change_register(layout_build *lb, wad_register *reg);

#endif
