/* SPDX-License-Identifier: MIT */
/* The kinds that are built in. */
#ifndef WADI_REGISTRY_H
#define WADI_REGISTRY_H

#include "sim/core/observer.h"
#include "wadium/host/model.h"

/* ---- built-in models ---- */
extern const wadi_observer_class wadi_check_spi;
extern const wad_model_class wadi_model_clocks, wadi_model_pins, wadi_model_irqc,
    wadi_model_counter, wadi_model_watchdog, wadi_model_timebase, wadi_model_tick,
    wadi_model_encoder, wadi_model_uart, wadi_model_spi, wadi_model_frames, wadi_model_adc,
    wadi_model_dac, wadi_model_power, wadi_model_dma;

/** The model of a kind; NULL: there is none (or `kind` is). */
const wad_model_class *wadi_kind_model(const char *kind);
/** What kinds check by themselves, as observers. */
void wadi_kinds_attach(wad_sim *sim);

#endif
