/* SPDX-License-Identifier: MIT */
/* The kinds that are built in. */ #include "registry.h"

#include <glib.h>
#include <string.h>

    const wad_model_class *
    wadi_kind_model(const char *kind)
{
    static const wad_model_class *const classes[] = {
        &wadi_model_clocks,   &wadi_model_pins,     &wadi_model_irqc,   &wadi_model_counter,
        &wadi_model_watchdog, &wadi_model_timebase, &wadi_model_tick,   &wadi_model_encoder,
        &wadi_model_uart,     &wadi_model_spi,      &wadi_model_frames, &wadi_model_adc,
        &wadi_model_dac,      &wadi_model_power,    &wadi_model_dma};
    for (unsigned i = 0; kind && i < G_N_ELEMENTS(classes); i++)
        if (!strcmp(classes[i]->kind, kind))
            return classes[i];
    return NULL;
}

void wadi_kinds_attach(wad_sim *sim)
{
    wadi_attach(sim, &wadi_check_spi);
}
