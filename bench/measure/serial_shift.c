/* SPDX-License-Identifier: MIT */
#include "serial_shift.h"

#include <glib.h>

__extension__ typedef unsigned __int128 u128;

uint64_t wadi_serial_ps(const wad_serial_format *f, uint64_t halves)
{
    u128 n = (u128)halves * (uint64_t)f->baud.den * WAD_PS_PER_S;
    return (uint64_t)(n / ((u128)(uint64_t)f->baud.num * 2));
}

static unsigned length(const wad_serial_format *f)
{
    return 1 + f->bits + (f->parity != 'N');
}

static bool parity_bit(const wad_serial_format *f, unsigned data)
{
    bool odd = __builtin_parity(data & ((1u << f->bits) - 1));
    return f->parity == 'E' ? odd : f->parity == 'O' ? !odd : f->parity == 'M';
}

unsigned wadi_serial_frame(const wad_serial_format *f, unsigned data, uint32_t *levels)
{
    *levels = (data & ((1u << f->bits) - 1)) << 1;
    if (f->parity != 'N')
        *levels |= (uint32_t)parity_bit(f, data) << (1 + f->bits);
    return length(f);
}

/* ---- levels to bytes ---- */

void wadi_serial_begin(wadi_serial_decoder *d, const wad_serial_format *format, wadi_serial_fn fn,
                       void *ctx)
{
    *d = (wadi_serial_decoder){.format = *format, .fn = fn, .ctx = ctx, .level = true};
}

uint64_t wadi_serial_over(const wadi_serial_decoder *d)
{
    return d->receiving ? d->start + wadi_serial_ps(&d->format, 2 * length(&d->format) + 1) : 0;
}

/* In the middle of the bit. */
static bool sample(const wadi_serial_decoder *d, unsigned bit, wadi_sample_of of)
{
    uint64_t ps = d->start + wadi_serial_ps(&d->format, 2 * bit + 1);
    bool level = false; /* the start bit's */
    for (unsigned i = 0; i < d->n && d->change[i].ps <= ps; i++)
        level = d->change[i].level;
    if (d->on_sample)
        d->on_sample(d->ctx, ps, level, of);
    return level;
}

static void finish(wadi_serial_decoder *d)
{
    const wad_serial_format *f = &d->format;
    wadi_serial_byte byte = {.ps = d->start};
    d->receiving = false;
    if (sample(d, 0, WADI_SAMPLE_START)) /* shorter than half a bit: noise */
        return;
    for (unsigned i = 0; i < f->bits; i++)
        byte.data |= (uint16_t)(sample(d, 1 + i, WADI_SAMPLE_DATA) << i);
    byte.parity =
        f->parity != 'N' && sample(d, 1 + f->bits, WADI_SAMPLE_PARITY) != parity_bit(f, byte.data);
    byte.framing = !sample(d, length(f), WADI_SAMPLE_STOP);
    byte.is_break = byte.framing && !byte.data && d->n == 0;
    d->fn(d->ctx, &byte);
}

void wadi_serial_until(wadi_serial_decoder *d, uint64_t ps)
{
    if (d->receiving && ps >= wadi_serial_over(d))
        finish(d);
}

void wadi_serial_edge(wadi_serial_decoder *d, uint64_t ps, bool level)
{
    wadi_serial_until(d, ps);
    if (level == d->level)
        return;
    d->level = level;
    if (!d->receiving && !level) {
        d->receiving = true;
        d->start = ps;
        d->n = 0;
    } else if (d->receiving && d->n < G_N_ELEMENTS(d->change)) {
        d->change[d->n].ps = ps;
        d->change[d->n++].level = level;
    }
}
