/* SPDX-License-Identifier: MIT */
/* Serial lines: what stands at their other end, and their rate. */
#ifndef WADI_SERIAL_END_H
#define WADI_SERIAL_END_H

#include "wadium/host/model.h"
#include "wadium/host/serial.h"

/* What stands at the other end of a pin. */
typedef struct wadi_serial_end {
    const wad_pin_def *pin;
    const char *name;
    wad_serial_format format;
} wadi_serial_end;

/** The rate of the block's clock times a fraction, 0 while it does not run. */
wad_rational wadi_serial_baud(wad_model *m, int64_t num, int64_t den);
const wadi_serial_end *wadi_serial_end_of(const wad_sim *sim, const wad_pin_def *pin);

static inline double wadi_number(wad_rational r)
{
    return (double)r.num / (double)r.den;
}

#endif
