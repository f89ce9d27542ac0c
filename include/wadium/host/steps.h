/* SPDX-License-Identifier: MIT */
/*
 * The ordered steps of a bring-up: which registers a firmware wrote, what for, and what it waited
 * for; recorded from a run in the simulator or from its trace.
 *
 *     char *why;
 *     wad_steps_options o = {.firmware_dir = "build/firmware", .call = "start_clocks"};
 *     wad_steps *steps = wad_steps_run(bench, &o, &why);
 *     wad_show_steps(steps, stdout);
 *     wad_steps_free(steps);
 */
#ifndef WADIUM_HOST_STEPS_H
#define WADIUM_HOST_STEPS_H

#include "bench.h"

typedef enum wad_step_kind {
    WAD_STEP_WRITE,
    WAD_STEP_WAIT,   /**< a register polled until it changed, or looked at to be sure */
    WAD_STEP_FINDING /**< what the simulator found wrong on the way */
} wad_step_kind;

typedef struct wad_step {
    wad_step_kind kind;
    uint64_t ps, end_ps; /**< of a wait: from the first look to the last */
    unsigned count;      /**< looks of a wait; equal writes in a row */
    const wad_instance *block;
    const wad_register *reg; /**< as written: an alias stays one */
    uint32_t reg_index;
    uint32_t value;         /**< written, or read last */
    uint32_t before, after; /**< the register itself; of a wait the first and the last look */
    wad_place place;
    const char *reason;  /**< from the sheet: one or more clauses */
    const char *warning; /**< what is out of order or missing here; NULL: nothing */
} wad_step;

typedef struct wad_steps wad_steps;

typedef struct wad_steps_options {
    const char *firmware_dir;  /**< NULL: beside the bench */
    uint64_t until_ps;         /**< 0: to the bench's end */
    const char *call;          /**< only inside of this function; NULL: all */
    const char *const *blocks; /**< only registers of these, NULL-terminated; NULL: all */
    bool handlers;             /**< what interrupt handlers do, too */
} wad_steps_options;

/** Runs the bench. NULL: `why` (g_free). */
wad_steps *wad_steps_run(wad_bench *bench, const wad_steps_options *options, char **why);
/** From a trace that `wadium run --trace FILE.csv` wrote. NULL: `diags`. */
wad_steps *wad_steps_read(const wad_sheet *sheet, const char *path,
                          const wad_steps_options *options, wad_diags *diags);
void wad_steps_free(wad_steps *steps);

unsigned wad_steps_count(const wad_steps *steps);
const wad_step *wad_steps_at(const wad_steps *steps, unsigned i);
/** Steps with a warning, and findings. */
unsigned wad_steps_warnings(const wad_steps *steps);

void wad_show_steps(const wad_steps *steps, FILE *out);
void wad_show_steps_markdown(const wad_steps *steps, FILE *out);
/** A function of the target that does the same, on the generated header alone. */
void wad_show_steps_c(const wad_steps *steps, const char *function, FILE *out);

#endif
