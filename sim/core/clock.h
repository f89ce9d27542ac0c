/* SPDX-License-Identifier: MIT */
/* The clock tree. */
#ifndef WADI_CLOCK_H
#define WADI_CLOCK_H

#include "time.h"
#include "wadium/host/model.h"

typedef struct wadi_signal wadi_signal;

typedef struct wadi_clock {
    const wad_clock *def;
    wad_sim *sim;
    wadi_domain domain;
    wad_rational hz; /* 0 when it does not run */
    bool on;
    bool ready;
    wad_event ready_event;
    bool complained;
    bool failed;  /* by the bench */
    bool halted;  /* by the core's sleep */
    bool changes; /* its frequency is about to change */
    wad_rational next_hz;
    const wad_clock *next_root;
    wad_rational true_hz; /* of an oscillator: with the bench's error */
    wadi_signal *output;  /* where it comes out, or NULL */
    wad_event toggle;     /* the output's next change ... */
    wadi_domain halves;   /* ... on this grid, twice as fine */
    uint64_t half;
} wadi_clock;

/* A grid of edges: an oscillator's, times a PLL's numerator. Lives while its source runs. */
typedef struct wadi_grid {
    const wad_clock *root;
    uint64_t n, d;
    uint64_t t0;
} wadi_grid;

/** An oscillator stops for good, or comes back. */
void wadi_clock_fail(wad_sim *sim, const wad_clock *clock, bool fails);

/** A model that counts is about to: tells when its clock gets another rate. `counts`: edges in a
 * period, 0 for none. */
void wadi_rate_changes(wad_model *m, uint64_t counts);
/** A driver was told that the block at `base` runs at `hz`: a finding where it does not. */
void wadi_clock_promised(wad_sim *sim, uintptr_t base, uint32_t hz);
void wadi_clocks_build(wad_sim *sim);
void wadi_clocks_reset(wad_sim *sim);

/** Stops what a sleep level stops, or lets it run again, from an edge of its own. */
void wadi_clocks_halt(wad_sim *sim, const wad_sleep_def *level, bool halt);
bool wadi_clock_cond_holds(const wad_sim *sim, const wad_cond *cond);

/** Recomputes all clocks after a register, or a ready flag, changed. */
void wadi_clocks_update(wad_sim *sim);

#endif
