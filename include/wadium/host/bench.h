/* SPDX-License-Identifier: MIT */
/*
 * Benches: the world around the chip, what is captured, what is expected
 * (docs/bench-language.md).
 *
 *     wad_bench *b = wad_bench_new("lamp blinks", board, diags);
 *     wad_bench_say(b, "firmware lamp", diags);
 *     wad_bench_say(b, "capture WARN as lamp", diags);
 *     wad_bench_say(b, "run 5 s", diags);
 *     wad_bench_say(b, "expect lamp frequency 1 Hz within 0.1 %", diags);
 *     wad_bench_result *r = wad_bench_run(b, NULL, &why);
 *     wad_report_text(r, stdout);
 *
 * Everything that a bench file can say goes through wad_bench_say as well.
 */
#ifndef WADIUM_HOST_BENCH_H
#define WADIUM_HOST_BENCH_H

#include "analog.h"
#include "board.h"
#include "capture.h"
#include "live.h"
#include "meter.h"
#include "part.h"
#include "rate.h"
#include "serial.h"

typedef struct wad_bench wad_bench;
typedef struct wad_bench_list wad_bench_list;

/** All benches of a file. NULL on errors; `diags` says which. */
wad_bench_list *wad_bench_read(const char *path, wad_diags *diags);
/** The same from memory. */
wad_bench_list *wad_bench_parse(const char *text, size_t size, const char *name, wad_diags *diags);
void wad_bench_list_free(wad_bench_list *list);
unsigned wad_bench_list_count(const wad_bench_list *list);
wad_bench *wad_bench_list_at(const wad_bench_list *list, unsigned i);

/** An empty bench on a board (free with wad_bench_free), or on a bare chip. The board or sheet
 * must outlive it. */
wad_bench *wad_bench_new(const char *title, const wad_board *board);
wad_bench *wad_bench_new_chip(const char *title, const wad_sheet *sheet);
void wad_bench_free(wad_bench *bench);
/** One statement, as in a file. False: `diags` says what is wrong with it. */
bool wad_bench_say(wad_bench *bench, const char *statement, wad_diags *diags);

const char *wad_bench_title(const wad_bench *bench);
const wad_sheet *wad_bench_sheet(const wad_bench *bench);
/** NULL: a bare chip. */
const wad_board *wad_bench_board(const wad_bench *bench);
/** Does the bench, or its board, name a C file as the unit's model? */
bool wad_bench_has_model(const wad_bench *bench, const wad_instance *unit);
/** The i-th pin that it captures, and as what; NULL past the last. */
const wad_pin_def *wad_bench_captured(const wad_bench *bench, unsigned i, const char **name);

/** What is written down of each register access; see docs/bench-language.md. */
typedef struct wad_trace_options {
    FILE *out; /**< text or CSV lines; NULL: none */
    bool csv;
    bool words;                /**< registers as signals of the capture, for wad_vcd_write */
    const char *const *blocks; /**< only these, NULL-terminated; NULL: all */
} wad_trace_options;

/** Somebody real at the other end of a serial line, in step with real time. All functions are
 * called while the run goes on; those that are NULL are not. */
typedef struct wad_bridge {
    const char
        *line; /**< a part of the board with wires TX and RX, or the block that drives them */
    /** What is to be sent, up to `room` bytes; waits for it `wait_us` at the most. */
    size_t (*take)(void *ctx, uint8_t *bytes, size_t room, uint64_t wait_us);
    void (*give)(void *ctx, const wad_serial_heard *byte);
    /** How the chip's port is set: when it is first enabled, and when that changes. */
    void (*set)(void *ctx, const wad_serial_port *port);
    /** True: end the run here. */
    bool (*over)(void *ctx);
    void *ctx;
    double pace; /**< simulated seconds in a real one; 0: as many as there are */
} wad_bridge;

typedef struct wad_bench_options {
    const char *firmware_dir; /**< where NAME.wfw lies; NULL: beside the bench file */
    /** Called with the chip before the run, to register models or watch more. May be NULL. */
    void (*prepare)(wad_sim *sim, void *ctx);
    void *ctx;
    const wad_trace_options *trace; /**< NULL: none */
    /** Call-ins at which the firmware waits for an interrupt (wad_sim_explore), ascending. */
    const uint64_t *stops;
    unsigned n_stops;
    bool spans;      /**< keep each call of a handler, for wad_plot_timeline and _histograms */
    bool log_points; /**< keep call-ins for wad_sim_explore_points */
    const wad_bridge *bridge;     /**< NULL: none */
    const wad_live_options *live; /**< NULL: none; not together with a trace */
    uint64_t until_ps; /**< ends the run here, not when the bench says; 0: as the bench says */
} wad_bench_options;

/** One expectation, judged. */
typedef struct wad_verdict {
    const char *subject;  /**< "lamp frequency" */
    const char *measured; /**< "1.000000 Hz" */
    const char *wanted;   /**< "1 Hz within 0.1 %" */
    bool passed;
    wad_where where; /**< in the bench file; line 0 when said in C */
} wad_verdict;

/** One interrupt line's handler during a run; times in picoseconds. */
typedef struct wad_handler_stats {
    unsigned line;
    const char *owner; /**< its block */
    uint64_t count;
    wad_stats every;   /**< from one entry to the next */
    wad_stats latency; /**< from the request to the first instruction */
    wad_stats time;    /**< in the handler, without those that interrupted it */
    unsigned deepest;  /**< handlers inside of each other when it ran, 1: main was interrupted */
    uint64_t last_ps;  /* private */
} wad_handler_stats;

/** One channel of a DMA controller during a run; times in picoseconds. */
typedef struct wad_dma_stats {
    const wad_instance *block;
    unsigned channel;
    uint64_t elements, bytes;
    uint64_t bursts; /**< stretches of elements right behind each other */
    unsigned armed, ended;
    uint64_t first_ps, last_ps; /**< when the first and the last element arrived */
    uint64_t bus_ps;            /**< that its elements had the bus */
    wad_stats latency;          /**< from a request until its element has arrived */
    uint64_t begun_ps;          /* private */
} wad_dma_stats;

/** A variable's bytes at two times. */
typedef struct wad_memory_shown {
    const char *name;
    uint64_t from_ps, to_ps;
    const uint8_t *before, *after;
    size_t bytes;
} wad_memory_shown;

/** One call of a handler. */
typedef struct wad_handler_span {
    unsigned line;
    unsigned depth; /**< handlers that it interrupted */
    uint64_t raised_ps, entered_ps;
    uint64_t left_ps; /**< UINT64_MAX: it ran when the run ended */
} wad_handler_span;

/** One sleep of the core, interrupts that it was woken for and that changed nothing included. */
typedef struct wad_sleep_span {
    uint64_t from_ps, to_ps;
} wad_sleep_span;

/** All that a run gave; a table is a member with its length. */
typedef struct wad_bench_result {
    const char *title;
    const char *setting;  /**< "Skerry, Corran32" */
    const char *file;     /**< of the bench; NULL: said in C */
    const char *firmware; /**< its path; NULL: none was loaded from a file */
    wad_run_result run;
    bool passed; /**< the run reached its time and every expectation was met */
    const wad_verdict *verdicts;
    unsigned n_verdicts;
    const wad_capture *capture; /**< pins, and handlers as levels named BLOCK_irq */
    const char *const *notes;   /**< what one should know besides: differences of data model, ... */
    unsigned n_notes;
    const wad_handler_stats *handlers; /**< of the lines that were served, by line */
    unsigned n_handlers;
    const wad_handler_span *spans; /**< by time of entry; only when the options asked for them */
    unsigned n_spans, lost_spans;  /**< the first half million is kept */
    const wad_sleep_span *sleeps;  /**< by time, as spans */
    unsigned n_sleeps;
    const wad_dma_stats *dma; /**< channels that were armed, by block and number */
    unsigned n_dma;
    const wad_memory_shown *memories; /**< as the bench asked for them */
    unsigned n_memories;
    unsigned load;         /**< percent, as the bench said */
    wad_sim *sim;          /**< as the run left it: findings, registers */
    const char *recording; /**< what was judged instead of a run; NULL: a run was */
    void (*free)(struct wad_bench_result *result); /* private; NULL: a run's */
} wad_bench_result;

/** Runs a bench. NULL: it could not begin (no firmware, ...); `why` is freed with g_free. */
wad_bench_result *wad_bench_run(wad_bench *bench, const wad_bench_options *options, char **why);
/** The same where the process that ran it died (wad_sim_died): nothing could be measured. */
wad_bench_result *wad_bench_died(wad_bench *bench, const wad_bench_options *options,
                                 const wad_last_words *words, const char *how, char **why);
void wad_bench_result_free(wad_bench_result *result);

/* ---- exploration ---- */

/** What many runs of one bench came to. */
typedef struct wad_exploration {
    unsigned runs;   /**< besides the undisturbed one */
    unsigned points; /**< call-ins that touched what handlers touch as well ... */
    unsigned places; /**< ... and at how many places of the code */
    unsigned broke;  /**< runs that broke an expectation, perhaps the undisturbed one */
    char *schedule;  /**< of the first that did, for `--replay`: "17" or "17,204"; "" undisturbed */
    char *what;      /**< its first expectation that failed, measured against wanted */
    unsigned found;  /**< others that made findings which the undisturbed one does not */
    char *found_schedule;
} wad_exploration;

/**
 * Runs the bench once as it is and then `runs` times with interrupts brought to other call-ins,
 * each in a process of its own, the same for the same seed. False: it could not begin; `why`
 * (g_free).
 */
bool wad_bench_explore(wad_bench *bench, const wad_bench_options *options, unsigned runs,
                       uint32_t seed, wad_exploration *result, char **why);
void wad_exploration_clear(wad_exploration *result);
/** "17,204" to numbers; false when it is no schedule. `stops` is freed with g_free. */
bool wad_schedule_parse(const char *text, uint64_t **stops, unsigned *n);

/* ---- reports ---- */

/** How much of the time the core was awake, and DMA controllers had the bus, in each of several
 * benches: .png or .svg. False: `why` (g_free). */
bool wad_plot_awake(wad_bench_result *const *results, unsigned n, const char *path, char **why);
/** What the channels of DMA controllers did: elements, rate, bursts, latency, share of the bus. */
void wad_report_dma(const wad_bench_result *result, FILE *out);
/** Memory before and after, what has changed marked: with colour, or by `>`. */
void wad_report_memories(const wad_bench_result *result, bool colour, FILE *out);

void wad_report_text(const wad_bench_result *result, FILE *out);
/** How often handlers ran, how late, how long; nothing when none did. */
void wad_report_handlers(const wad_bench_result *result, FILE *out);
/** What the chip drew, by consumer and by activity; a sentence where its sheet states no currents.
 */
void wad_report_charge(const wad_bench_result *result, FILE *out);
/** TAP version 13, all results in one stream. */
void wad_report_tap(wad_bench_result *const *results, unsigned n, FILE *out);
void wad_report_json(wad_bench_result *const *results, unsigned n, FILE *out);

/** "12.3 uA"; g_free. */
char *wad_amount_text(double value, const char *unit);

/* ---- pictures ---- */

typedef struct wad_plot_options {
    const char *title;
    uint64_t from_ps, to_ps;         /**< the time axis; to 0: the whole capture */
    uint64_t detail_from, detail_to; /**< a second panel below, unless to is 0; logic only */
    unsigned width, height;          /**< pixels, or text columns and 0 */
} wad_plot_options;

/** A timing diagram through gnuplot; PNG or SVG by the path's ending. False: `why` (g_free). */
bool wad_plot_file(const wad_capture *capture, uint64_t end_ps, const wad_plot_options *options,
                   const char *path, char **why);
/** The same in characters. */
void wad_plot_text(const wad_capture *capture, uint64_t end_ps, const wad_plot_options *options,
                   FILE *out);

/** When handlers waited, ran and were interrupted: a row a handler, and main; by the options' time
 * axis. The result must hold spans. False: `why` (g_free). */
bool wad_plot_timeline(const wad_bench_result *result, const wad_plot_options *options,
                       const char *path, char **why);
/** How late each handler was and how long it ran, as histograms, within the options' time axis. */
bool wad_plot_histograms(const wad_bench_result *result, const wad_plot_options *options,
                         const char *path, char **why);

/** Times from one event to the next. */
typedef struct wad_intervals {
    const char *name;
    const uint64_t *ps;
    size_t n;
} wad_intervals;
/** How regular they are: a histogram each, on one axis; the options' title and size. False: `why`
 * (g_free). */
bool wad_plot_intervals(const wad_intervals *series, unsigned n, const wad_plot_options *options,
                        const char *path, char **why);
/** The same as a table. */
void wad_report_intervals(const wad_intervals *series, unsigned n, FILE *out);

/** Errors over rates or clocks, as wad_rate_sweep gives them. */
typedef struct wad_rate_plot {
    const char *title;
    const wad_rate_point *points, *marks; /**< a curve, and points of note on it */
    unsigned n, n_marks;
    bool over_clock;
    double tolerance_ppm; /**< lines at it, unless 0 */
    unsigned width, height;
} wad_rate_plot;
bool wad_plot_rates(const wad_rate_plot *plot, const char *path, char **why);
/** The same in characters. */
bool wad_plot_rates_text(const wad_rate_plot *plot, FILE *out, char **why);

/** The table of `wadium measure`: one line a channel. */
typedef struct wad_measured {
    const char *name;
    wad_meter meter;
} wad_measured;
void wad_report_measured(const wad_measured *channels, unsigned n, uint64_t end_ps, FILE *out);
void wad_report_measured_json(const wad_measured *channels, unsigned n, uint64_t end_ps, FILE *out);

#endif
