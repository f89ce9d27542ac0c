/* SPDX-License-Identifier: MIT */
/*
 * Captures that instruments have recorded elsewhere: VCD and CSV files, a bench's expectations on
 * them, and two of them compared.
 *
 *     wad_bench_result *r = wad_bench_judge(bench, "board.vcd", &why);
 *     wad_report_text(r, stdout);
 *
 *     wad_captures_compared c;
 *     wad_capture_compare(sim, sim_end, board, board_end, &options, &c, stdout);
 */
#ifndef WADIUM_HOST_RECORDING_H
#define WADIUM_HOST_RECORDING_H

#include "bench.h"

/**
 * Reads a recording, VCD or CSV by its contents. A CSV file has the time in its first column (its
 * heading may say the unit: "time (ms)"; else seconds), and a signal in each further one, named by
 * its heading: levels 0 and 1, or numbers. Memory stays the same however long the file. False:
 * `diags` names file and line.
 */
bool wad_recording_read(const char *path, const wad_vcd_listener *listener, wad_diags *diags);

/** A signal of a recording, by its name; a list of them ends with a NULL. */
typedef struct wad_wanted_signal {
    const char *name;
    bool may_lack; /**< it is no error when the recording has none of that name */
} wad_wanted_signal;

/**
 * The same for some signals; NULL: all. Those of one bit, and numbers, are counted from 0 each, as
 * they are handed on. False: `diags`, or `missing` (g_free) names what is not there and what is.
 */
bool wad_recording_read_some(const char *path, const wad_wanted_signal *wanted,
                             const wad_vcd_listener *listener, char **missing, wad_diags *diags);
/** The same into memory; wad_capture_free. */
wad_capture *wad_recording_load_some(const char *path, const wad_wanted_signal *wanted,
                                     uint64_t *end_ps, char **missing, wad_diags *diags);

/** All of a recording; wad_capture_free. NULL: `diags`. */
wad_capture *wad_recording_load(const char *path, uint64_t *end_ps, wad_diags *diags);

/**
 * Judges the bench's expectations of pins by a recording: its signals are the bench's captures by
 * their names, or as its `recorded` statements map them (docs/bench-language.md). What a recording
 * cannot show (interrupts, findings, ...) is noted, not judged. NULL: `why` (g_free).
 */
wad_bench_result *wad_bench_judge(wad_bench *bench, const char *path, char **why);

/** The same expectations judged twice: what was measured in each. */
void wad_report_side_by_side(const wad_bench_result *a, const wad_bench_result *b, FILE *out);

typedef struct wad_compare_options {
    const char *align;  /**< signal whose first edges are the same moment; NULL: the first edge of
                           any that both have */
    bool falling;       /**< its first falling edge, not rising */
    uint64_t within_ps; /**< edges may be apart by so much; 0: 1 us */
    const char *a, *b;  /**< how they are called: "sim", "board"; NULL: "first", "second" */
    unsigned most;      /**< differences that are listed, of each signal; 0: 4 */
} wad_compare_options;

typedef struct wad_captures_compared {
    unsigned signals;   /**< that both have */
    unsigned different; /**< of them: another number of edges, other levels, edges too far apart */
    unsigned shifted;   /**< of them: the same edges, all of them later or earlier by one time */
    unsigned apart;     /**< signals that only one of them has */
    double ppm;         /**< by which the second one's time runs fast, over all edges */
    uint64_t shift_ps;  /**< of the alignment: the second one's time minus the first one's ... */
    bool behind;        /**< ... or the other way round */
} wad_captures_compared;

/** Aligns them, and lists what differs: edges that are missing, differences in time with their
 * statistics, a clock that is off. False: they have no signal, or no edge, in common. */
bool wad_capture_compare(const wad_capture *a, uint64_t a_end, const wad_capture *b, uint64_t b_end,
                         const wad_compare_options *options, wad_captures_compared *result,
                         FILE *out);
/** Both on one axis, aligned, a signal of one below that of the other. */
wad_capture *wad_capture_overlay(const wad_capture *a, const wad_capture *b,
                                 const wad_captures_compared *compared,
                                 const wad_compare_options *options);

typedef struct wad_traces_compared {
    unsigned accesses;  /**< that both have, reads of one register in a row counted once */
    unsigned different; /**< other registers, other values, accesses of one only */
    unsigned expected;  /**< reads that differ in what the chip changes by itself */
} wad_traces_compared;
/** Two register traces (CSV), access by access; how often a register is polled does not matter.
 * False: `why` (g_free). */
bool wad_trace_compare(const wad_sheet *sheet, const char *a, const char *b,
                       wad_traces_compared *result, FILE *out, char **why);

#endif
