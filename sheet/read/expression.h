/* SPDX-License-Identifier: MIT */
/* Laws and constants, read. */
#ifndef WADI_EXPRESSION_H
#define WADI_EXPRESSION_H

#include "lang/cursor.h"
#include "sheet/chip/expression.h"

struct wadi_build;
struct wadi_env;

/** What an expression's names mean while it is parsed. */
typedef struct wadi_names {
    struct wadi_build *build;
    const struct wadi_env *env;
    const wad_layout *layout;  /* of a law in a layout, else NULL */
    const wad_instance *scope; /* of a law in a block, else NULL */
    bool constant;             /* numbers and parameters only */
    bool bits;                 /* & | ^ ~ and ones() of bits may stand */
    bool hook;                 /* `written` is what was written */
    unsigned elements;         /* of the register whose `reads` it is: the own one is meant */
    bool plain;                /* a name after a number is not its unit */
} wadi_names;

wad_expr *wadi_parse_expr(wadi_cursor *c, const wadi_names *names);

#endif
