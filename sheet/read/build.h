/* SPDX-License-Identifier: MIT */
/* Second reading of a sheet: from statements to the model in <wadium/host/sheet.h>. */
#ifndef WADI_BUILD_H
#define WADI_BUILD_H

#include "expression.h"
#include "lang/cursor.h"
#include "sheet/chip/expression.h"

/** Names that stand for numbers: a layout's parameters, a block array's index `i`. */
typedef struct wadi_env {
    const char *name;
    wad_rational value;
    const struct wadi_env *next;
} wadi_env;

/* What of a block or unit waits until all blocks exist. */
typedef struct wadi_block_body {
    const wadi_group *const *groups;
    unsigned n;
    const wadi_env *env; /* `i` of a row of blocks or units */
    bool roles;          /* of a unit in the chip: roles stand among the statements */
} wadi_block_body;

/* What a layout acts as: read when all blocks exist. */
typedef struct wadi_acts {
    wad_layout *layout;
    const wadi_env *env; /* its parameters */
    const wadi_stmt *const *stmts;
    unsigned n;
} wadi_acts;

/* `wrap`, `T0.wrap`: an event by a role, looked up when the units are known. */
typedef struct wadi_role_event {
    const wad_layout *layout; /* where it stands; NULL: in the chip */
    wad_bus_event event;
} wadi_role_event;

typedef struct wadi_build {
    const wadi_source *src;
    unsigned errors_before; /* somebody else's, of the same messages */
    wadi_arena *arena;
    wad_sheet *sheet;
    GHashTable *layouts;    /* name -> const wadi_stmt * */
    GPtrArray *clocks;      /* wad_clock * */
    GPtrArray *blocks;      /* wad_instance * */
    GArray *block_bodies;   /* wadi_block_body, one a block */
    GArray *acts;           /* wadi_acts */
    GArray *windows;        /* wad_window */
    GPtrArray *spaces;      /* wad_space * */
    GArray *role_events;    /* wadi_role_event */
    GArray *late;           /* what of layouts may name other blocks */
    wadi_cursor global;     /* at the path of `cpu ... global`; src NULL: none */
    wadi_cursor saves;      /* the same of `cpu ... saves` */
    GPtrArray *clock_stmts; /* const wadi_stmt *, one a clock */
    GArray *pins;           /* wad_pin_def */
    GPtrArray *changes;     /* wadi_change * */
    GArray *errata;         /* wad_erratum */
    GHashTable *claims;     /* "level path property": what was changed already */
} wadi_build;

struct wadi_path;
typedef struct wadi_path wadi_path;

/* `change PATH ...`, `without PATH`, in a layout, in a block or in an erratum. */
typedef struct wadi_change {
    wad_where where;
    const char *owner;     /* a block's or a layout's name */
    const wadi_path *path; /* of register or field */
    unsigned first;        /* the part of the path that names the register */
    const char *clock;
    const char *reg, *field; /* as found */
    bool without;
    enum { WADI_CHANGE_LAYOUT, WADI_CHANGE_BLOCK, WADI_CHANGE_ERRATUM } level;
    bool met;                 /* what it names exists */
    wad_erratum_place *place; /* of an erratum */
    wadi_cursor at;           /* behind the path */
} wadi_change;

/** The same, a whole number within limits; `what` names it in messages. */
bool wadi_parse_int(wadi_build *b, wadi_cursor *c, const wadi_env *env, const char *what,
                    int64_t min, int64_t max, int64_t *value);
/** A quantity of the given unit: `2 ms`. */
bool wadi_parse_quantity(wadi_build *b, wadi_cursor *c, const wadi_env *env, wad_unit unit,
                         wad_rational *value);
wad_access wadi_parse_access(wadi_cursor *c);
bool wadi_at_access(const wadi_cursor *c);

bool wadi_parse_cond(wadi_build *b, wadi_cursor *c, const wadi_env *env, const wad_instance *scope,
                     wad_cond *cond);

/** Over a number, or a value's name, that is read later. */
void wadi_skip_const(wadi_cursor *c, const wadi_env *env);
/** Over a condition that is read later. */
void wadi_skip_cond(wadi_cursor *c, const wadi_env *env);

/** Elaborates a layout for one set of parameters. */
wad_layout *wadi_build_layout(wadi_build *b, const wadi_stmt *stmt, const char *name,
                              const wadi_env *env, const char *variant, const char *block);

/** What layouts say that may name other blocks: when all blocks exist. */
void wadi_finish_layouts(wadi_build *b);
GArray *wadi_late_words(void);

/* ---- change.c ---- */
/** `erratum "..." { ... }` of a text; its changes wait for what they name. */
void wadi_collect_erratum(wadi_build *b, const wadi_source *src, const wadi_stmt *stmt);
/** `change` and `without` in the body of block or layout `owner`. */
void wadi_collect_changes(wadi_build *b, const char *owner, bool is_layout, const wadi_group *body);
/** Does a block (or an array's stem) have changes of its own? */
bool wadi_has_changes(const wadi_build *b, const char *owner);
/** Is this layout changed for one of the two owners: itself, or a block? */
bool wadi_change_is_for(const wadi_change *change, const char *layout, const char *block);
/** Says so where two changes of one level touch one property. */
void wadi_claim_properties(wadi_build *b, const wadi_change *change);
/** Errors for changes of what does not exist. */
void wadi_check_changes(wadi_build *b);

/* ---- space.c ---- */
/** `space direct at 0x80_0000 "..."`. */
void wadi_parse_space(wadi_build *b, wadi_cursor *c);
/** `in NAME`, or nothing; the space that an address is in. False: there is no such space. */
bool wadi_take_space(wadi_build *b, wadi_cursor *c, const wad_space **space);
/** Does what lies in a space stay in it? When all blocks and memories are read. */
void wadi_check_spaces(wadi_build *b);
/** Windows for registers that say `bits`; before windows are finished. */
void wadi_build_bits(wadi_build *b);

/* ---- power.c ---- */
/** `supply 3.3 V within 2 V .. 3.6 V`. */
void wadi_parse_supply(wadi_build *b, wadi_cursor *c);
/** `draws`, `per_mhz` or `active` and a current; false: none stands here, or it is none. */
bool wadi_take_draws(wadi_build *b, wadi_cursor *c, wad_draws *draws);
/** All `sleep` statements of the chip; when blocks and clocks are whole. */
void wadi_build_sleeps(wadi_build *b, const wadi_group *body);

/* ---- law_check.c ---- */
/** An error where a law divides by what can be 0. */
void wadi_check_law(const wadi_build *b, const wad_expr *law);
/* ---- roles.c ---- */
/** What layouts act as: their roles, and a wad_instance for each unit that has a name. */
void wadi_build_units(wadi_build *b);
/** `unit TICK as timebase { ... }` of the chip; when all blocks exist. */
void wadi_build_chip_unit(wadi_build *b, const wadi_stmt *stmt);
/* ---- line.c ---- */
/** `line 9 NAME "text" { ... }`, into a list of wad_line_def. */
void wadi_build_line(wadi_build *b, const wadi_stmt *stmt, GArray *lines);
/** `on entry { ... }`, `on exit { ... }` of the chip. */
void wadi_build_on(wadi_build *b, const wadi_stmt *stmt);
/** Is an `on` statement one that the core does at each entry or exit, without a hook? */
bool wadi_is_core_step(const wadi_stmt *stmt);
/** Those that are no plain assignments at an entry or exit; when all blocks exist. */
void wadi_build_hooks(wadi_build *b, const wadi_group *body);
/** `window ...` of the chip, or of a block. */
void wadi_build_window(wadi_build *b, const wadi_stmt *stmt, const wad_instance *block);
void wadi_finish_windows(wadi_build *b);
void wadi_check_nesting(wadi_build *b, const wad_where *chip);
/** Errors for lines that two masks govern. */
void wadi_check_lines(wadi_build *b);
/** Is it one that a unit of the kind may have, `clock`, `irq`, ..., and no role? */
bool wadi_is_unit_statement(const wadi_stmt *stmt, const wad_kind *kind);
/** Adds the block (or the blocks of an array) of a `block` statement to `b->blocks`. */
void wadi_build_block(wadi_build *b, const wadi_stmt *stmt);
/** Attributes of a clock behind its frequency or law, to the end of the statement. */
void wadi_parse_clock_attrs(wadi_build *b, wadi_cursor *c, wad_clock *clock);
/** Reads what names other blocks, clocks and pins; called when all of those exist. */
void wadi_finish_blocks(wadi_build *b);
/* ---- links.c ---- */
/** `triggers`, `requests` and `owned` of a block; called when all blocks are whole. */
void wadi_link_block(wadi_build *b, wad_instance *block, const wadi_block_body *body);
void wadi_build_clock(wadi_build *b, const wadi_stmt *stmt);
void wadi_finish_clocks(wadi_build *b);

#endif
