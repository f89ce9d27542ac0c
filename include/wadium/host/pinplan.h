/* SPDX-License-Identifier: MIT */
/*
 * Pins for signals: where each can go, what collides, what has to move.
 *
 *     const char *const wants[] = {"UART0.TX@PA9", "CNT1", "PA3=pressure", NULL};
 *     char *why;
 *     wad_pin_plan *plan = wad_pin_plan_make(sheet, NULL, wants, &why);
 *     if (plan)
 *         wad_show_pin_plan(plan, stdout);
 *     wad_pin_plan_free(plan);
 *
 * A want is
 *     BLOCK            all signals of a block, anywhere
 *     BLOCK.SIGNAL     one signal, anywhere
 *     BLOCK.SIGNAL=PIN fixed there
 *     BLOCK.SIGNAL@PIN there now; may move
 *     PIN=NAME         the pin is taken for something else
 */
#ifndef WADIUM_HOST_PINPLAN_H
#define WADIUM_HOST_PINPLAN_H

#include "board.h"
#include "sheet.h"

typedef struct wad_pin_choice {
    const wad_signal *signal;
    const wad_pin_def *now; /**< where it is, or must be; NULL: nowhere yet */
    bool fixed;
    const wad_pin_option *given; /**< by the plan; NULL where there is none */
} wad_pin_choice;

typedef struct wad_pin_plan wad_pin_plan;

/**
 * The assignment with the fewest moves; of those the one that takes the options which the sheet
 * names first. Pins that parts of `board` (may be NULL) are wired to are taken, but for signals
 * that are fixed there. NULL: a want is no want; `why` (g_free) says which and what would be.
 */
wad_pin_plan *wad_pin_plan_make(const wad_sheet *sheet, const wad_board *board,
                                const char *const *wants, char **why);
void wad_pin_plan_free(wad_pin_plan *plan);

/** Is there an assignment at all? Without one the choices have no `given`. */
bool wad_pin_plan_works(const wad_pin_plan *plan);
unsigned wad_pin_plan_count(const wad_pin_plan *plan);
const wad_pin_choice *wad_pin_plan_choice(const wad_pin_plan *plan, unsigned i);
/** Signals that are somewhere now and go elsewhere. */
unsigned wad_pin_plan_moves(const wad_pin_plan *plan);
/** What collides as it is, a line each, NULL-terminated; lives as long as the plan. */
const char *const *wad_pin_plan_conflicts(const wad_pin_plan *plan);

/** Conflicts, the assignment, and the routing registers; or why there is none. */
void wad_show_pin_plan(const wad_pin_plan *plan, FILE *out);

#endif
