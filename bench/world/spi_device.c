/* SPDX-License-Identifier: MIT */
/* For the device's own code. */
#include "spi_device.h"

#include <stdarg.h>

#include "bench/language/said.h"
#include "spi_bus.h"

wad_sim *wadi_spi_sim(const wadi_spi_device *d)
{
    return d->set->sim;
}

void *wadi_spi_state(const wadi_spi_device *d)
{
    return d->state;
}

const wadi_spi_def *wadi_spi_def_of(const wadi_spi_device *d)
{
    return d->def;
}

GRand *wadi_spi_rand(const wadi_spi_device *d)
{
    return d->rand;
}

void wadi_spi_refuse(wadi_spi_device *d, const char *format, ...)
{
    if (d->refusals++ >= WADI_SPI_NOTED)
        return;
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    g_ptr_array_add(d->notes, g_strdup_printf("%s, at %.3f us: %s", d->def->name,
                                              (double)wad_sim_now(d->set->sim) / 1e6, text));
    g_free(text);
}
