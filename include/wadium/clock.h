/* SPDX-License-Identifier: MIT */
/*
 * Clock sources and rates.
 *
 *     wad_status st = wad_clock_start(&corran32_clock_xtal, 100000);
 *     wad_put2(CORRAN32_CLK_BASE, corran32_clocks_pll_mul, 6, corran32_clocks_pll_src, 1);
 *     st = wad_clock_start(&corran32_clock_pll, 100000);
 *     wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_core, CORRAN32_CLOCKS_SEL_CORE_PLL);
 *     uint32_t hz = corran32_clock_per.hz();      48 000 000
 *
 * Rates are computed from the registers as they stand, by the sheet's laws, in
 * whole hertz, each division rounded down.
 */
#ifndef WADIUM_CLOCK_H
#define WADIUM_CLOCK_H

#include "roles.h"
#include "status.h"

/** A clock of the chip, as generated from the sheet. */
typedef struct wad_clock_source {
    uint32_t (*hz)(void); /**< its rate now, in hertz */
    wad_need on;          /**< mask 0: always on */
    wad_need ready;       /**< mask 0: ready at once */
    wad_need watch;       /**< mask 0: nothing notices its failure */
} wad_clock_source;

/* What generated laws use: a to the n-th. Never block. */
static inline uint32_t wad_power(uint32_t a, uint32_t n)
{
    uint32_t product = 1;
    while (n--)
        product *= a;
    return product;
}

static inline uint64_t wad_power64(uint64_t a, uint32_t n)
{
    uint64_t product = 1;
    while (n--)
        product *= a;
    return product;
}

/** Switches a source on and polls its ready flag at most `polls` times. Blocks for that long.
 * WAD_E_TIMEOUT: the flag did not come; the source stays on. */
WAD_MUST_CHECK wad_status wad_clock_start(const wad_clock_source *clock, uint32_t polls);

/** Lets hardware watch an oscillator: when it fails the chip does what its sheet says (goes on with
 * another clock), and the clock block's interrupt comes, in whose handler wad_clock_lost is true.
 * Every rate derived from it is another one then: set timers and ports anew. Never blocks.
 * WAD_E_ABSENT: nothing watches this clock, or there is no interrupt for it. */
WAD_MUST_CHECK wad_status wad_clock_watch(const wad_clock_source *clock, unsigned priority);

/** True when a watched oscillator has failed since the last call; clears the flag. */
bool wad_clock_lost(void);

/**
 * a * b / c rounded to the nearest whole number, halves up, without 64-bit division; c > 0.
 * 0xFFFFFFFF stands for everything that large or larger. Never blocks.
 */
uint32_t wad_muldiv(uint32_t a, uint32_t b, uint32_t c);

#endif
