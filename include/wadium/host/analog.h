/* SPDX-License-Identifier: MIT */
/*
 * Volts at the pins of the simulated chip, and the current that it draws.
 *
 *     static double tide(void *ctx, uint64_t ps) { return 1.2; }
 *
 *     wad_sim_analog(sim, wad_sheet_pin(sheet, "PA4"),
 *                    &(wad_analog_source){.volts = tide, .ohms = 10000});
 *     wad_sim_watch_analog(sim, horn, on_step, NULL);      each step of a converter's output
 *     wad_sim_run(sim, WAD_PS_PER_S);
 *     printf("%g A on average\n", wad_sim_charge(sim)->average);
 *
 * A converter samples through the source's resistance: what its capacitor has not
 * reached in the sampling time is missing from the result, as on silicon.
 */
#ifndef WADIUM_HOST_ANALOG_H
#define WADIUM_HOST_ANALOG_H

#include "sim.h"

/** What is wired to a pin. */
typedef struct wad_analog_source {
    /** Volts at a time, without load; NULL: another pin, `from`. */
    double (*volts)(void *ctx, uint64_t ps);
    void *ctx;
    const wad_pin_def *from; /**< the pin whose voltage stands here */
    double ohms;             /**< the source's resistance, on top of what stands at `from` */
} wad_analog_source;

/** Wires a source to a pin, or with NULL takes it away; before a run, or while it goes on. The
 * source is copied, its `ctx` must outlive the runs. */
void wad_sim_analog(wad_sim *sim, const wad_pin_def *pin, const wad_analog_source *source);

/** Volts at a pin now, and the resistance behind them (`ohms` may be NULL). NAN: nothing drives it.
 */
double wad_sim_volts(wad_sim *sim, const wad_pin_def *pin, double *ohms);

/** `fn` hears each step of the chip's own analog output at the pin, and where it stands at the
 * start of a run; between steps it settles as the sheet says (wad_sim_volts). */
typedef void (*wad_volts_fn)(void *ctx, uint64_t ps, double volts);
void wad_sim_watch_analog(wad_sim *sim, const wad_pin_def *pin, wad_volts_fn fn, void *ctx);

/** The supply in volts; the sheet's without. For later runs, and at once while one goes on. */
void wad_sim_set_supply(wad_sim *sim, double volts);
double wad_sim_supply(const wad_sim *sim);

/** How a converter block differs from the sheet; for later runs. */
typedef struct wad_converter_trim {
    bool no_noise;
    double internal; /**< volts of its internal reference; 0: as the sheet says */
    double external; /**< volts at its reference pin; 0: what is wired there */
} wad_converter_trim;
/** False: the block is no converter. */
bool wad_sim_trim_converter(wad_sim *sim, const wad_instance *block,
                            const wad_converter_trim *trim);

/** Degrees Celsius of the chip (25), for its internal sensor; before a run, or while it goes on. */
void wad_sim_set_temperature(wad_sim *sim, double celsius);

/** What noise begins with (1); the same seed gives the same noise. */
void wad_sim_set_seed(wad_sim *sim, uint32_t seed);

/* ---- current ---- */

/** What one of the chip's consumers took. */
typedef struct wad_consumer {
    const char *name; /**< "cpu", a clock, a block, or "sleep stop" */
    double coulombs;
    double amperes; /**< as the run left it */
} wad_consumer;

/** From one wake-up to the next sleep, by the interrupt line that ended the sleep. */
typedef struct wad_activity {
    unsigned line;
    uint64_t count;
    uint64_t awake_ps; /**< all of them together */
    double coulombs;   /**< drawn meanwhile, by everything that runs */
} wad_activity;

typedef struct wad_charge {
    bool known;      /**< the sheet states currents */
    double coulombs; /**< of the whole run */
    double average;  /**< amperes */
    double volts;    /**< of the supply: energy is volts times coulombs */
    const wad_consumer *consumers;
    unsigned n_consumers;
    const wad_activity *activities; /**< by line */
    unsigned n_activities;
} wad_charge;

/** Of the last run, or up to now while one goes on; lives until the next call. */
const wad_charge *wad_sim_charge(wad_sim *sim);

/** `fn` hears the current in amperes whenever it changes, and at the start of a run. NULL ends it.
 */
typedef void (*wad_current_fn)(void *ctx, uint64_t ps, double amperes);
void wad_sim_watch_current(wad_sim *sim, wad_current_fn fn, void *ctx);

#endif
