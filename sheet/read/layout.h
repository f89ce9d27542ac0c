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
    wad_bitfield *cleared; /* by events */
    const wadi_stmt *hook;
    uint8_t width;              /* of `alias`, 0: as the other one */
    struct wad_behaviour *more; /* of `reg`, or of its field `of` */
    const wad_register *reg;
    const wad_bitfield *of;
    enum { READS, ALIAS_OF, MASKS, NUMBER, UNTIL, HELD_WHEN, THERE_WHEN, BUSY } what;
} waiting;

typedef struct layout_build {
    wadi_build *b;
    const wadi_env *env;
    wad_layout *layout;
    GPtrArray *regs;
    GPtrArray *values;
    GPtrArray *locks;
    GArray *waiting;
    GHashTable *names;      /* of registers */
    const wad_group *group; /* whose registers are being read; NULL: none */
    uint32_t group_index;   /* which of its elements */
    const char *block;      /* the one block that uses it, when that has changes of its own */
} layout_build;

/* What a layout says that may name other blocks. */
typedef struct late_word {
    layout_build lb; /* its build, names and layout alone */
    waiting w;
} late_word;

/* ---- field.c ---- */
/** A field's line; NULL: it said what is wrong. */
wad_bitfield *wadi_parse_field(layout_build *lb, wadi_cursor *c, wad_register *reg);
/** `31:0`, `5`. */
bool wadi_parse_bits(layout_build *lb, wadi_cursor *c, const wad_register *reg, int64_t *lsb,
                     int64_t *msb);
/** A description in quotes; a second one is an error. */
void wadi_take_text(wadi_cursor *c, const char **text);
/** What stands behind a field's description, its list of values included. */
void wadi_parse_field_attrs(layout_build *lb, wadi_cursor *c, wad_bitfield *field);
void wadi_parse_fields(layout_build *lb, const wadi_group *group, wad_register *reg);
/** Gives a register these fields (wad_bitfield *), by ascending bits. */
void wadi_set_fields(layout_build *lb, wad_register *reg, GPtrArray *fields);
void wadi_whole_field(layout_build *lb, wad_register *reg);

/* ---- lock.c ---- */
/** `lock NAME ...`; all registers exist. */
void wadi_parse_lock(layout_build *lb, wadi_cursor *c);
void wadi_finish_locked(layout_build *lb, waiting *w);

/* ---- change.c ---- */
/** Carries out what layouts, blocks and errata change in a register; `element` -1: in all of an
 * array, else in all and in this one. False: it is taken out. */
bool wadi_change_register(layout_build *lb, wad_register *reg, int64_t element);
/** Does anything change this element alone? */
bool wadi_changes_element(const layout_build *lb, const wad_register *reg, uint32_t element);

#endif
