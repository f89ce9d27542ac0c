/* SPDX-License-Identifier: MIT */
#include "serial.h"

#include <glib.h>
#include <string.h>

__extension__ typedef unsigned __int128 u128;

bool wadi_serial_parse(const char *text, wadi_serial_format *f)
{
    static const char *const stops[] = {"1", "1.5", "2"};
    if (text[0] < '5' || text[0] > '9' || !text[1] || !strchr("NEOMS", text[1]))
        return false;
    for (unsigned i = 0; i < 3; i++)
        if (!strcmp(text + 2, stops[i])) {
            f->bits = (unsigned)(text[0] - '0');
            f->parity = text[1];
            f->stop_halves = 2 + i;
            return true;
        }
    return false;
}

uint64_t wadi_serial_ps(const wadi_serial_format *f, uint64_t halves)
{
    u128 n = (u128)halves * (uint64_t)f->baud.den * WAD_PS_PER_S;
    return (uint64_t)(n / ((u128)(uint64_t)f->baud.num * 2));
}

static unsigned length(const wadi_serial_format *f)
{
    return 1 + f->bits + (f->parity != 'N');
}

static bool parity_bit(const wadi_serial_format *f, unsigned data)
{
    bool odd = __builtin_parity(data & ((1u << f->bits) - 1));
    return f->parity == 'E' ? odd : f->parity == 'O' ? !odd : f->parity == 'M';
}

unsigned wadi_serial_frame(const wadi_serial_format *f, unsigned data, uint32_t *levels)
{
    *levels = (data & ((1u << f->bits) - 1)) << 1;
    if (f->parity != 'N')
        *levels |= (uint32_t)parity_bit(f, data) << (1 + f->bits);
    return length(f);
}

/* ---- levels to bytes ---- */

void wadi_serial_begin(wadi_serial_decoder *d, const wadi_serial_format *format, wadi_serial_fn fn,
                       void *ctx)
{
    *d = (wadi_serial_decoder){.format = *format, .fn = fn, .ctx = ctx, .level = true};
}

uint64_t wadi_serial_over(const wadi_serial_decoder *d)
{
    return d->receiving ? d->start + wadi_serial_ps(&d->format, 2 * length(&d->format) + 1) : 0;
}

/* In the middle of the bit. */
static bool sample(const wadi_serial_decoder *d, unsigned bit)
{
    uint64_t ps = d->start + wadi_serial_ps(&d->format, 2 * bit + 1);
    bool level = false; /* the start bit's */
    for (unsigned i = 0; i < d->n && d->change[i].ps <= ps; i++)
        level = d->change[i].level;
    return level;
}

static void finish(wadi_serial_decoder *d)
{
    const wadi_serial_format *f = &d->format;
    wadi_serial_byte byte = {.ps = d->start};
    d->receiving = false;
    if (sample(d, 0)) /* shorter than half a bit: noise */
        return;
    for (unsigned i = 0; i < f->bits; i++)
        byte.data |= (uint16_t)(sample(d, 1 + i) << i);
    byte.parity = f->parity != 'N' && sample(d, 1 + f->bits) != parity_bit(f, byte.data);
    byte.framing = !sample(d, length(f));
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
