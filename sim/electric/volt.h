/* SPDX-License-Identifier: MIT */
/* Volts at pins, noise, and what converters are told of the world. */
#ifndef WADI_ANALOG_H
#define WADI_ANALOG_H

#include "sim/core/sim.h"
#include "wadium/host/analog.h"

#define WADI_DRIVER_OHMS 30.0    /* of a digital output */
#define WADI_PULL_OHMS   40000.0 /* of a pull resistor */

/** What stands at a pin; false: it floats. */
bool wadi_analog_at(wad_sim *sim, const wadi_net *net, double *volts, double *ohms);
/** The chip's output has made a step: whoever watches the signal's pins is told. */
void wadi_analog_step(wad_model *m, unsigned role, double volts);
/** The pin of the i-th analog signal of a role; NULL: it is routed to none. */
const wadi_net *wadi_analog_net(const wad_model *m, unsigned role, unsigned i);
/** Is the pin's digital input on, where it can be switched off? */
bool wadi_digital_on(const wadi_net *net);

double wadi_celsius(const wad_sim *sim);
/** Where a block's noise begins. */
uint64_t wadi_seed(const wad_sim *sim, const wadi_block *block);
wad_converter_trim wadi_trim_of(const wad_model *m);

/** Normal deviate of mean 0 and deviation 1; the same run, the same noise. */
double wadi_gauss(uint64_t *state);

/** A quantity role's value in base units; `otherwise` where the sheet does not state it. */
double wadi_quantity(const wad_model *m, unsigned role, double otherwise);

void wadi_analog_free(wad_sim *sim);

/** Tells those who watch where the analog outputs stand when the run begins. */
void wadi_analog_announce(wad_sim *sim);

#endif
