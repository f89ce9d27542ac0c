/* SPDX-License-Identifier: MIT */
/* What the statements of all parts have in common. */
#ifndef WADI_PART_SAY_H
#define WADI_PART_SAY_H

#include "bench/language/bench.h"
#include "lang/cursor.h"
#include "part.h"

/** The class of a kind of parts, of Wadium's own; NULL: there is none. */
const wad_part_class *wadi_part_class_of(const char *kind);
/** The i-th of them; NULL behind the last. */
const wad_part_class *wadi_part_class_at(unsigned i);

/** The pins of a board's part, by the wires of a class. False: one that must be there is not. */
bool wadi_part_on_board(wadi_part_said *said, const wad_part_def *part);
/** One more part; its number is given here. */
wadi_part_said *wadi_part_keep(wad_bench *bench, const wadi_part_said *said);

/** The part that is named next, of this shell. NULL: a message was given. */
wadi_part_said *wadi_need_part(wad_bench *bench, wadi_cursor *c, const wadi_shell *shell,
                               unsigned *number);

/** `"FILE.c"`: compiled and loaded. NULL: a message was given. */
const wad_part_class *wadi_part_from_file(wad_bench *bench, wadi_cursor *c);

/** `WORD NAME VALUE`, at once, while a run goes on. False: it is no statement of a part's. */
bool wadi_part_act_now(wad_bench *bench, wadi_cursor *c, const wadi_parts *parts);

#endif
