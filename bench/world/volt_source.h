/* SPDX-License-Identifier: MIT */
/* Volts of the world: what is wired to pins, and what is captured of it. */
#ifndef WADI_BENCH_ANALOG_H
#define WADI_BENCH_ANALOG_H

#include <glib.h>

#include "wadium/host/analog.h"
#include "wadium/host/capture.h"
#include "wadium/host/spectrum.h"

typedef enum wadi_shape {
    WADI_LEVEL,
    WADI_SINE,
    WADI_SQUARE,
    WADI_RAMP,
    WADI_FILE,
    WADI_PIN,
    WADI_OPEN
} wadi_shape;

/* One `analog` statement: from `at_ps` on, until the next one of the pin. */
typedef struct wadi_analog_def {
    const wad_pin_def *pin, *from;
    wadi_shape shape;
    double level, size, hz, seconds; /* ramp: from level by size in seconds */
    bool repeats, supply;            /* supply: at the level of the chip's own */
    double ohms, noise;
    GArray *points; /* wad_sample, of a file; owned by the bench */
    uint64_t at_ps;
} wadi_analog_def;

/* A captured pin, or without one the chip's current. */
typedef struct wadi_analog_probe {
    const char *name;
    const wad_pin_def *pin;
    uint64_t every_ps; /* 0: at its steps only */
} wadi_analog_probe;

typedef struct wadi_trim_def {
    const wad_instance *block;
    wad_converter_trim trim;
} wadi_trim_def;

/* The chip's temperature from a time on. */
typedef struct wadi_degrees {
    double celsius;
    uint64_t at_ps;
} wadi_degrees;

/* All that the bench says of volts. */
typedef struct wadi_analog_said {
    GArray *sources, *probes, *trims, *degrees;
    double supply; /* 0: the sheet's */
} wadi_analog_said;

/** Wires, captures; `steps` hears each step of a converter's output at a probed pin. */
typedef struct wadi_analog_world wadi_analog_world;
typedef void (*wadi_step_fn)(void *ctx, unsigned probe, uint64_t ps, double volts);
wadi_analog_world *wadi_analog_world_new(wad_sim *sim, const wadi_analog_said *said, uint32_t seed,
                                         wad_capture *capture, wadi_step_fn steps, void *ctx);
/** Wires one more source now, at a time of the run, in place of what the pin has. */
void wadi_analog_world_wire(wadi_analog_world *w, const wadi_analog_def *def);
/** What is wired to a pin; NULL: nothing. */
const wadi_analog_def *wadi_analog_world_at(const wadi_analog_world *w, const wad_pin_def *pin);
/** What its source would give at a time, without noise and load; 0 V where nothing is wired. */
double wadi_analog_world_volts(const wadi_analog_world *w, const wad_pin_def *pin, uint64_t ps);
void wadi_analog_world_free(wadi_analog_world *w);

#endif
