/* SPDX-License-Identifier: MIT */
/* Volts of the world: what is wired to pins, and what is captured of it. */
#ifndef WADI_BENCH_ANALOG_H
#define WADI_BENCH_ANALOG_H

#include <glib.h>

#include "bench/language/said.h"
#include "wadium/host/analog.h"
#include "wadium/host/capture.h"
#include "wadium/host/spectrum.h"

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
