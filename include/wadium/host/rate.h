/* SPDX-License-Identifier: MIT */
/*
 * Rates: which settings of a block's fields give a wanted rate, exactly.
 *
 *     char *why;
 *     wad_rate_law *law = wad_rate_open(sheet, wad_sheet_block(sheet, "CNT0"), "wrap", &why);
 *     wad_rate_answer best[3];
 *     wad_rational clock = {48000000, 1}, wanted = {2, 1};
 *     unsigned n = wad_rate_solve(law, clock, wanted, NULL, best, 3);
 *     for (unsigned i = 0; i < wad_rate_vars(law); i++)
 *         printf("%s = %llu\n", wad_rate_var_name(law, i), (unsigned long long)best[0].values[i]);
 *     wad_rate_close(law);
 *
 * A law is a `rate NAME law EXPRESSION` of the block's layout, or one that its kind gives by the
 * roles of the block or unit:
 *
 *     counter   wrap     a period, an interrupt, a PWM period
 *               toggle   half of it: an output that changes once a period
 *               updown   a period of counting up and down again
 *     tick      wrap     a period
 *     timebase  count    what its prescaler makes of the clock
 *     uart      baud     bits a second
 *     spi, frames  bitrate, of frames by format: `bitrate[2]`
 *     watchdog  timeout  as a rate; asked for as a time: `timeout=2s`
 *     adc       clock    of its converter
 *
 * The search covers every value that the fields can take, in exact arithmetic; values that the
 * sheet forbids are not offered.
 */
#ifndef WADIUM_HOST_RATE_H
#define WADIUM_HOST_RATE_H

#include "sheet.h"
#include <wadium/rate.h>

#define WAD_RATE_VARS 8

/** "2", "1.5 kHz", or a period as its rate: "500ms". False: it is none, or 0. */
bool wad_parse_rate(const char *text, wad_rational *hz);
/** "1%" or "300ppm" as a share of 1. */
bool wad_parse_share(const char *text, wad_rational *share);

typedef struct wad_rate_law wad_rate_law;

/** A field that is none of the law's own, but chooses between ways in which a role lies, or the
 * clock that the block runs on. */
typedef struct wad_rate_setting {
    wad_fieldref ref; /**< with its block */
    uint64_t value;
    bool used; /**< set when something rests on it */
} wad_rate_setting;

/** `name` may have an element: `bitrate[2]`. NULL: `why` (g_free) says which laws the block has. */
wad_rate_law *wad_rate_open(const wad_sheet *sheet, const wad_instance *block, const char *name,
                            char **why);
/** The same under settings (which must live as long); all other fields are as after reset. */
wad_rate_law *wad_rate_open_with(const wad_sheet *sheet, const wad_instance *block,
                                 const char *name, wad_rate_setting *settings, unsigned n,
                                 char **why);
void wad_rate_close(wad_rate_law *law);
/** The names of a block's laws, separated by ", "; g_free. */
char *wad_rate_names(const wad_sheet *sheet, const wad_instance *block);

/** Its fields, in the order in which the law names them: name, largest value. */
unsigned wad_rate_vars(const wad_rate_law *law);
const char *wad_rate_var_name(const wad_rate_law *law, unsigned i);
uint64_t wad_rate_var_max(const wad_rate_law *law, unsigned i);
/** The register (or the parts of a split value) that the i-th field lies in, with `value` set. */
unsigned wad_rate_var_words(const wad_rate_law *law, unsigned i, uint64_t value, wad_fieldref *refs,
                            uint64_t *bits, unsigned room);
/** The law as the sheet has it: "clock / ((PRESC.DIV + 1) * (RELOAD.VALUE + 1))"; lives as long. */
const char *wad_rate_text(const wad_rate_law *law);
/** "CTRL.WIDE = 0": the law is what it is while this holds; NULL: always. */
const char *wad_rate_while(const wad_rate_law *law);

/** The block's clock under the settings, else reset values; false when it does not run then. */
bool wad_rate_clock(const wad_rate_law *law, wad_rational *hz);

/** The rate that values of all fields give. False: it divides by 0. */
bool wad_rate_of(const wad_rate_law *law, wad_rational clock, const uint64_t *values,
                 wad_rational *hz);

typedef struct wad_rate_answer {
    uint64_t values[WAD_RATE_VARS];
    wad_rational actual;
    double ppm; /**< actual against wanted, positive when fast; exactly 0 when exact */
} wad_rate_answer;

typedef struct wad_rate_options {
    /** Fields held at a value: bit i of `fixed`, and values[i]. */
    unsigned fixed;
    uint64_t values[WAD_RATE_VARS];
    /** Of equally near settings: bit i set prefers a large value of field i, else a small one; the
     * first field in the law decides first. */
    unsigned prefer_large;
} wad_rate_options;

/**
 * The `n` nearest settings, nearest first, of equally near ones the preferred; how many there are.
 * 0: no setting gives a rate at all, or there are too many settings to search.
 */
unsigned wad_rate_solve(const wad_rate_law *law, wad_rational clock, wad_rational wanted,
                        const wad_rate_options *options, wad_rate_answer *answers, unsigned n);

/** The slowest and the fastest rate that any setting gives, of those that `options` (may be NULL)
 * leave. */
bool wad_rate_range(const wad_rate_law *law, wad_rational clock, const wad_rate_options *options,
                    wad_rate_answer *slowest, wad_rate_answer *fastest);

/** Why `wanted` cannot be reached, written to `out`: the ends of what the fields reach, with the
 * fields' values there. False: it lies between them, nothing is written. */
bool wad_rate_beyond(const wad_rate_law *law, wad_rational clock, const wad_rate_options *options,
                     wad_rational wanted, FILE *out);

/* ---- over many rates, or many clocks ---- */

typedef struct wad_rate_range_of {
    wad_rational from, to; /**< both above 0 */
    unsigned points;       /**< in equal ratios */
    bool over_clock;       /**< the clock moves and the rate is `wanted`; else the other way */
    wad_rational clock, wanted;
} wad_rate_range_of;

typedef struct wad_rate_point {
    double hz;
    double ppm; /**< of the nearest setting */
    wad_rate_answer answer;
} wad_rate_point;

/** Fills in `points`; how many: fewer where no setting gives a rate. */
unsigned wad_rate_sweep(const wad_rate_law *law, const wad_rate_range_of *range,
                        const wad_rate_options *options, wad_rate_point *points);

/* ---- both ends of an asynchronous line ---- */

typedef struct wad_frame {
    unsigned data_bits; /**< 5 to 9 */
    bool parity;
    unsigned half_stops; /**< 2, 3 or 4 */
    unsigned samples;    /**< a bit, of the receiver */
} wad_frame;

/** The i-th of the usual bauds, ascending; 0: there are no more. */
unsigned wad_usual_baud(unsigned i);

/** "8N1", "7E1.5"; `samples` stays. */
bool wad_frame_parse(const char *text, wad_frame *frame);

typedef struct wad_budget_ends {
    double own_ppm;       /**< of the divider, with its sign */
    double own_clock_ppm; /**< tolerance of the clock */
    double peer_ppm;      /**< of the other end, in all */
} wad_budget_ends;

/** Where in the first stop bit, 0 to 1, the receiver looks at worst. */
typedef struct wad_budget_way {
    double earliest, latest;
    double left; /**< to the bit's nearer end; below 0: beyond it */
} wad_budget_way;

typedef struct wad_budget {
    wad_budget_way receiving, sending;
    double worst_ppm;           /**< between the ends */
    double least_ppm, most_ppm; /**< receiver's bit against sender's: what would just do */
    double bits, sampled_at; /**< of a frame; from the start edge to the middle of the stop bit */
    bool good;
} wad_budget;

void wad_budget_make(const wad_frame *frame, const wad_budget_ends *ends, wad_budget *budget);
void wad_show_budget(const wad_frame *frame, const wad_budget_ends *ends, const wad_budget *budget,
                     FILE *out);

/* ---- as the command shows it ---- */

/** Column heads, then a line a setting (without its end, for remarks); `name` is the first column,
 * `first` wide. */
void wad_show_rate_head(const wad_rate_law *law, unsigned first, const char *name, FILE *out);
void wad_show_rate_answer(const wad_rate_law *law, unsigned first, const char *name,
                          const wad_rate_answer *answer, FILE *out);
/** The registers that hold a setting. */
void wad_show_rate_words(const wad_rate_law *law, const wad_rate_answer *answer, FILE *out);
/** Constants for a firmware, with an assertion on the error (`tolerance_ppm` 0: what it is). */
void wad_show_rate_c(const wad_rate_law *law, wad_rational clock, wad_rational wanted,
                     const wad_rate_answer *answer, double tolerance_ppm, FILE *out);

/* ---- for the target ---- */

#define WAD_RATE_SET 32

/** A law as <wadium/rate.h> takes it, and which of the law's fields are what (-1: none). */
typedef struct wad_rate_target {
    wad_divider divider; /**< `set` and `codes` point into this struct: do not copy it */
    uint32_t set[WAD_RATE_SET];
    uint16_t codes[WAD_RATE_SET];
    int prescale_var, count_var;
    int fraction_var; /**< the count's low bits lie in this field, the rest in count_var */
    unsigned fraction_bits;
} wad_rate_target;

/** False: the law has another form than clock * up / (down * prescaler * count). */
bool wad_rate_for_target(const wad_rate_law *law, wad_rate_target *target);

#endif
