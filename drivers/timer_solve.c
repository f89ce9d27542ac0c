/* SPDX-License-Identifier: MIT */
/* Prescaler and period for a rate, in whole numbers. */
#include <wadium/clock.h>
#include <wadium/timer.h>

/* n / d rounded to nearest, bit by bit; d > 0. */
static uint64_t divide(uint64_t n, uint64_t d)
{
    uint64_t quotient = 0, remainder = 0;
    for (unsigned i = 0; i < 64; i++) {
        bool carry = remainder >> 63;
        remainder = remainder << 1 | n >> 63;
        n <<= 1;
        quotient <<= 1;
        if (carry || remainder >= d) {
            remainder -= d;
            quotient |= 1;
        }
    }
    return quotient + (remainder >= d - remainder);
}

/* Achieved rate against wanted: (wanted ticks - achieved ticks) / achieved ticks. */
static int32_t rate_error(uint32_t clock_hz, wad_rate rate, uint32_t ticks)
{
    uint64_t wanted = (uint64_t)clock_hz * rate.per, got = (uint64_t)ticks * rate.hz;
    bool fast = wanted > got;
    uint64_t off = fast ? wanted - got : got - wanted;
    while (off >> 44) { /* keep off * 1 000 000 within 64 bits */
        off >>= 1;
        got >>= 1;
    }
    uint64_t ppm = divide(off * 1000000u, got ? got : 1);
    int32_t error = ppm > INT32_MAX ? INT32_MAX : (int32_t)ppm;
    return fast ? error : -error;
}

static uint32_t distance(uint32_t a, uint32_t b)
{
    return a > b ? a - b : b - a;
}

#define LEAST_TRIES 64u

/* Where the prescaler divides by powers of a number: the smallest that reaches. */
static uint32_t smallest_power(uint32_t ticks, uint32_t power, uint32_t max_period)
{
    uint32_t p = 1;
    while ((ticks + p / 2) / p > max_period) {
        if (p > UINT32_MAX / power) /* no such power fits */
            return UINT32_MAX;
        p *= power;
    }
    return p;
}

/* Upwards from the smallest prescaler that reaches, until exact or twice as coarse. */
static uint32_t best_prescale(uint32_t ticks, uint32_t max_prescale, uint32_t max_period)
{
    uint32_t first = (ticks - 1) / max_period + 1, best = first, best_off = UINT32_MAX;
    uint32_t tries = first > LEAST_TRIES ? first : LEAST_TRIES;
    uint32_t last = first > max_prescale - tries ? max_prescale : first + tries;
    if (max_prescale < tries)
        last = max_prescale;
    for (uint32_t p = first; p <= last && best_off; p++) {
        uint32_t period = (ticks + p / 2) / p;
        uint32_t off = period > max_period ? UINT32_MAX : distance(period * p, ticks);
        if (off < best_off) {
            best_off = off;
            best = p;
        }
    }
    return best;
}

wad_status wad_timer_solve(uint32_t clock_hz, wad_rate rate, uint32_t max_prescale, uint32_t power,
                           uint32_t max_period, uint32_t *prescale, uint32_t *period,
                           int32_t *error_ppm)
{
    if (!clock_hz || !rate.hz || !rate.per || !max_prescale || !max_period)
        return WAD_E_ARG;
    uint32_t ticks = wad_muldiv(clock_hz, rate.per, rate.hz);
    if (ticks < 2 || ticks > UINT32_MAX - UINT16_MAX || (ticks - 1) / max_period >= max_prescale)
        return WAD_E_RANGE;
    uint32_t p = power > 1 ? smallest_power(ticks, power, max_period)
                           : best_prescale(ticks, max_prescale, max_period);
    if (p > max_prescale)
        return WAD_E_RANGE;
    uint32_t counts = (ticks + p / 2) / p;
    *prescale = p;
    *period = counts > max_period ? max_period : counts;
    if (error_ppm)
        *error_ppm = rate_error(clock_hz, rate, *prescale * *period);
    return WAD_OK;
}
