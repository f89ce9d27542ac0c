/* SPDX-License-Identifier: MIT */
/* What stands behind a field's or a register's access kind: what it does beyond storing. */
#ifndef WADI_READ_BEHAVIOUR_H
#define WADI_READ_BEHAVIOUR_H

#include "layout.h"

/** Takes one of the words that fields and registers share (`reads`, `held`, `after`); false: none
 * stands here. `field` NULL: of the register. */
bool wadi_take_common(layout_build *lb, wadi_cursor *c, wad_register *reg, wad_bitfield *field);
/** Takes one of those that fields alone have (an alias, `masks`, `key`, `number`). */
bool wadi_take_field_word(layout_build *lb, wadi_cursor *c, wad_bitfield *field);
/** Reads what waited until all registers exist. */
void wadi_finish_behaviour(layout_build *lb, waiting *w);

/** `read STAT then read RX or write CLR`, over it and read. `owner`: the field that it is about,
 * for elements. False: it has said what is wrong. */
void wadi_skip_events(layout_build *lb, wadi_cursor *c);
bool wadi_parse_events(layout_build *lb, wadi_cursor *c, const wad_register *reg,
                       const wad_bitfield *owner, const wad_clearing **list, unsigned *n);

#endif
