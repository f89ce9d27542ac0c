/* SPDX-License-Identifier: MIT */
/*
 * The clock tree under given register values, and backwards: register values for wanted clocks.
 *
 *     char *why;
 *     wad_regs *regs = wad_regs_new(sheet);
 *     wad_regs_set(regs, "CLK.SEL.CORE=xtal", &why);
 *     wad_show_clocks(sheet, regs, stdout);
 *     wad_regs_free(regs);
 */
#ifndef WADIUM_HOST_CLOCKTREE_H
#define WADIUM_HOST_CLOCKTREE_H

#include "words.h"

/** Values of all registers: as after reset, but for those that were set. */
wad_regs *wad_regs_new(const wad_sheet *sheet);
void wad_regs_free(wad_regs *regs);
/** BLOCK.REGISTER.FIELD=VALUE or BLOCK.REGISTER=NUMBER; values as wad_encode takes them. False:
 * `why` (g_free). */
bool wad_regs_set(wad_regs *regs, const char *setting, char **why);
void wad_regs_load(wad_regs *regs, const wad_dump *dump);
/** Sets the whole register that `ref` lies in. */
void wad_regs_put(wad_regs *regs, const wad_fieldref *ref, uint64_t word);
uint64_t wad_regs_get(const wad_regs *regs, const wad_fieldref *ref);
/** A wad_read_fn: `ctx` is the wad_regs. */
uint64_t wad_regs_read(void *ctx, const wad_instance *block, const wad_register *reg,
                       uint32_t reg_index);

/** Each clock below the one it comes from: frequency with its tolerance, the fields that set it,
 * what keeps it off, limits that it breaks, and the blocks it feeds with what keeps them from it.
 * Returns how many clocks that run break their limits. */
unsigned wad_show_clocks(const wad_sheet *sheet, const wad_regs *regs, FILE *out);

/** A clock that is wanted at a frequency. */
typedef struct wad_clock_wish {
    const wad_clock *clock;
    wad_rational hz;
} wad_clock_wish;

typedef struct wad_clock_setting {
    wad_fieldref field;
    uint64_t value;
} wad_clock_setting;

typedef struct wad_clock_plan {
    /** What differs from reset, switches of sources included, in the order to write it. */
    wad_clock_setting *settings;
    unsigned n_settings;
    double worst_ppm; /**< the largest error of the wishes; 0 when all are exact */
} wad_clock_plan;

/**
 * The settings of all fields of the laws that come nearest to the wishes at once, within the limits
 * of every clock on the way; of equally near ones those with the fewest changes from reset, then
 * the smallest values. Fields in `held` keep their value. False: `why` (g_free), such as too many
 * fields or no clock that reaches.
 */
bool wad_clock_solve(const wad_sheet *sheet, const wad_clock_wish *wishes, unsigned n,
                     const wad_clock_setting *held, unsigned n_held, wad_clock_plan *plan,
                     char **why);
void wad_clock_plan_clear(wad_clock_plan *plan);

#endif
