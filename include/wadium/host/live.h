/* SPDX-License-Identifier: MIT */
/*
 * A look at a bench while it runs: what the firmware holds, how registers and pins stand, what
 * interrupts it; time is let go in steps, and inputs are moved by hand.
 *
 *     static void look(void *ctx, wad_live *live, wad_live_reason reason)
 *     {
 *         wad_live_print(live, false, stdout);
 *         wad_live_say(live, "step interrupt", ctx);      time goes on until then
 *     }
 *     ...
 *     const wad_live_options live = {.look = look, .ctx = diags};
 *     wad_bench_run(bench, &(wad_bench_options){.live = &live}, &why);
 *
 * `look` is called while time stands still, and may take as long as it likes. All functions are
 * for use inside of it; what they return lives until it returns.
 */
#ifndef WADIUM_HOST_LIVE_H
#define WADIUM_HOST_LIVE_H

#include "finding.h"
#include "sheet.h"

typedef struct wad_live wad_live;

typedef enum wad_live_reason {
    WAD_LIVE_BEGIN, /**< at reset; variables hold what they begin with */
    WAD_LIVE_TICK,  /**< a period is over */
    WAD_LIVE_STEP,  /**< what was waited for has come */
    WAD_LIVE_END    /**< the run is over: nothing goes on from here */
} wad_live_reason;

typedef struct wad_live_options {
    void (*look)(void *ctx, wad_live *live, wad_live_reason reason);
    void *ctx;
    uint64_t every_ps;  /**< of the chip's time between looks; 0: none but what is asked for */
    uint64_t offset_ps; /**< added to all of these times: a firmware with a period is looked at
                             elsewhere than where it works */
    uint64_t window_ps; /**< of the pins' past that is kept; 0: 2 s */
    double pace;        /**< the chip's seconds in a real one; 0: as fast as it goes */
    const char *const *variables; /**< by path (wad_variable_find); NULL: all of the firmware's */
    const char *const *blocks;    /**< whose registers; NULL: those that the firmware touches */
    unsigned width;               /**< characters for a variable's value; 0: 60 */
} wad_live_options;

typedef enum wad_live_panel {
    WAD_LIVE_PINS,
    WAD_LIVE_VARIABLES,
    WAD_LIVE_REGISTERS,
    WAD_LIVE_INTERRUPTS,
    WAD_LIVE_INPUTS,
    WAD_LIVE_FINDINGS,
    WAD_LIVE_PANELS
} wad_live_panel;

/** A piece of a row's text that is not as it was at the last look. */
typedef struct wad_live_mark {
    unsigned from, length; /**< in bytes */
} wad_live_mark;

#define WAD_LIVE_MARKS 8

typedef struct wad_live_row {
    const char *group; /**< block of a register, file of a variable; "" for others */
    const char *name;
    const char *text;
    bool changed; /**< since the last look; at the first one nothing has */
    bool quiet;   /**< a register as after reset */
    wad_live_mark marks[WAD_LIVE_MARKS];
    unsigned n_marks;
} wad_live_row;

const wad_live_row *wad_live_rows(wad_live *live, wad_live_panel panel, unsigned *n);

/** A pin's past, up to now, in so many characters (UTF-8): levels, or volts in eight heights;
 * g_free. By its row. */
char *wad_live_trace(wad_live *live, unsigned row, unsigned columns);
/** A buffer's numbers in eight heights, lowest to highest; NULL where the variable is none; g_free.
 * By its row. */
char *wad_live_bars(wad_live *live, unsigned row, unsigned columns);

typedef struct wad_live_state {
    const char *setting; /**< "Skerry, Corran32" */
    const char *title;   /**< the bench's */
    uint64_t ps, end_ps, window_ps;
    bool asleep;
    double awake;     /**< share of the time so far */
    double amperes;   /**< as it stands; below 0: the sheet states no currents */
    const char *what; /**< what was waited for: "writes PINC.OUT 0x08 (OUT[3] 0 > 1)", or "" */
    wad_place place;  /**< where the firmware is, at a step to an access; else line 0 */
} wad_live_state;
wad_live_state wad_live_now(wad_live *live);

/**
 * One command, as docs/watch.md lists them: `go 100 ms`, `step access UART0`, `press TEST`,
 * `analog PRESSURE 1.2 V`, ... False: `diags` says what is wrong with it.
 */
bool wad_live_say(wad_live *live, const char *command, wad_diags *diags);
/** The run ends here. */
void wad_live_stop(wad_live *live);
/** A command lets time go on once `look` returns. */
bool wad_live_goes(const wad_live *live);
/** Microseconds until real time has caught up with the chip's; 0 without a pace. What is left of
 * them when `look` returns is slept. */
uint64_t wad_live_ahead_us(const wad_live *live);
/** Inputs were moved or the run cut short: the bench's expectations are not judged. */
bool wad_live_by_hand(const wad_live *live);

/** All panels as lines of text, `*` behind what has changed; only such rows unless `all`. */
void wad_live_print(wad_live *live, bool all, FILE *out);
/** One panel. */
void wad_live_print_panel(wad_live *live, wad_live_panel panel, bool all, FILE *out);

#endif
