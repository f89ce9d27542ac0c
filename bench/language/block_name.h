/* SPDX-License-Identifier: MIT */
/* Blocks and units by their names: `CNT0`, `TIM.T0`, `TIM.S[3]`. */
#ifndef WADI_BLOCK_NAME_H
#define WADI_BLOCK_NAME_H

#include "lang/cursor.h"
#include "wadium/host/sheet.h"

/** The block or unit whose name stands here, the longest that is one; taken. NULL: none, and
 * nothing is taken. */
const wad_instance *wadi_take_unit(wadi_cursor *c, const wad_sheet *sheet);

/** An interrupt line of one, with the word `interrupt` behind it: `CNT0 interrupt`; of several
 * lines the flag's: `TIM.T0.wrap interrupt`, `CNT0.match[1] interrupt`. Number and a name for its
 * capture; false: no such thing stands here, and nothing is taken. Says what is wrong with one that
 * does. */
bool wadi_take_line(wadi_cursor *c, const wad_sheet *sheet, unsigned *line, const char **name);

#endif
