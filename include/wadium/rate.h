/* SPDX-License-Identifier: MIT */
/*
 * Rates from divided clocks: the setting that comes nearest, found on the target or by the
 * compiler.
 *
 *     wad_divider_setting s;
 *     st = wad_divider_solve(&corran32_uart0_baud, 24000000, WAD_HZ(115200), &s);
 *     wad_put(CORRAN32_UART0_BASE, corran32_serial_ctrl_over, s.prescale_value);
 *     wad_put2(CORRAN32_UART0_BASE, corran32_serial_baud_int, s.count_value >> 5,
 *              corran32_serial_baud_frac, s.count_value & 31);
 *
 * The tables (corran32_uart0_baud) are generated from the sheet's laws. Where clock and rate are
 * constants no code is needed:
 *
 *     enum { DIVISOR = WAD_DIVISOR(24000000, 115200 * 16, 5) };    INT * 32 + FRAC
 *     WAD_ASSERT_DIVISOR(24000000, 115200 * 16, 5, DIVISOR, 500);  within 500 ppm, or no build
 */
#ifndef WADIUM_RATE_H
#define WADIUM_RATE_H

#include <stdbool.h>
#include <stdint.h>

#include "status.h"

/** A rate as a fraction: hz / per. Both 1 to 1 000 000 000. */
typedef struct wad_rate {
    uint32_t hz;
    uint32_t per;
} wad_rate;

#define WAD_HZ(hz_)       ((wad_rate){(hz_), 1})
#define WAD_KHZ(khz)      ((wad_rate){(khz)*UINT32_C(1000), 1})
#define WAD_PERIOD_S(s)   ((wad_rate){1, (s)})
#define WAD_PERIOD_MS(ms) ((wad_rate){1000, (ms)})
#define WAD_PERIOD_US(us) ((wad_rate){1000000, (us)})

/** The same in an initialiser: `.rate = WAD_RATE_HZ(1000)`, `.rate = WAD_EVERY_MS(500)`. */
#define WAD_RATE_HZ(hz_)                                                                           \
    {                                                                                              \
        (hz_), 1                                                                                   \
    }
#define WAD_RATE_KHZ(khz)                                                                          \
    {                                                                                              \
        (khz) * UINT32_C(1000), 1                                                                  \
    }
#define WAD_EVERY_S(s)                                                                             \
    {                                                                                              \
        1, (s)                                                                                     \
    }
#define WAD_EVERY_MS(ms)                                                                           \
    {                                                                                              \
        1000, (ms)                                                                                 \
    }
#define WAD_EVERY_US(us)                                                                           \
    {                                                                                              \
        1000000, (us)                                                                              \
    }

/**
 * How fields divide a clock: rate = clock * up / (down * prescaler * count).
 *
 * The prescaler is one of `set` (n_set of them, by the field's value), or else a power of `power`,
 * or else any number; the latter two within prescale_min to prescale_max. A fraction of n bits is
 * part of the count: up is 2 ** n then.
 */
typedef struct wad_divider {
    uint32_t up, down;     /**< 1 to 65 535 */
    uint32_t min, max;     /**< of the count; min at least 1 */
    uint32_t prescale_min; /**< at least 1 */
    uint32_t prescale_max;
    uint32_t power;        /**< 2 or more: only powers of it; 0: any */
    const uint32_t *set;   /**< NULL: not a set */
    const uint16_t *codes; /**< the field's value for each of the set; NULL: 0, 1, 2 ... */
    uint16_t n_set;
    uint16_t prescale_plus; /**< prescaler = field + this, where it may be any number */
    bool counts_up;         /**< to an overflow: count = count_from - field; else ... */
    bool count_first;       /**< of equally near settings the count's field decides first */
    uint32_t count_from;    /**< 2 ** bits; 0 for 32 bits */
    uint32_t count_plus;    /**< ... count = field + this */
} wad_divider;

typedef struct wad_divider_setting {
    uint32_t prescale, count; /**< what divides */
    uint32_t prescale_value;  /**< what the fields take */
    uint32_t count_value;
    int32_t error_ppm; /**< achieved against wanted, rounded; positive when fast */
} wad_divider_setting;

/**
 * The setting whose rate comes nearest, of all there are; of equally near ones that with the
 * smallest prescaler field, then the smallest count field: what `wadium rate` finds first.
 *
 * WAD_E_RANGE: the rate lies beyond the fastest or the slowest; `setting` is that one. WAD_E_ARG: a
 * 0 among the numbers, or clock * up * per does not fit 63 bits. Whole numbers only; divides 64
 * bits by shifting, once a call, else 32 by 32. Steps through prescalers until none can be nearer:
 * 1 for small counts, the root of clock / rate at the most where the prescaler is no wider than the
 * count. Never blocks; a handler may call it where that time is to spare.
 */
WAD_MUST_CHECK wad_status wad_divider_solve(const wad_divider *divider, uint32_t clock_hz,
                                            wad_rate rate, wad_divider_setting *setting);

/** x / y rounded down, by shifting, so that no 64-bit division helper is linked; `rest` is what
 * remains. y > 0. Never blocks; takes some hundred cycles. */
uint64_t wad_divide(uint64_t x, uint64_t y, uint64_t *rest);

/** The divisor that WAD_DIVISOR gives, at run time: of `scaled_clock`, hertz times 2 to the power
 * of the fraction's bits. `off_ppm` as WAD_DIVISOR_PPM, 2 000 000 where it is beyond. rate > 0.
 * Never blocks; divides 64 bits twice, by shifting. */
uint32_t wad_divisor(uint64_t scaled_clock, uint32_t rate, int32_t *off_ppm);

/* ---- by the compiler ---- */

/* clock * 2 ** bits / rate rounded down, and what remains */
#define WADI_DIV_LOW(clock, rate, bits)  (((uint64_t)(clock) << (bits)) / (uint64_t)(rate))
#define WADI_DIV_REST(clock, rate, bits) (((uint64_t)(clock) << (bits)) % (uint64_t)(rate))

/**
 * The divisor with `bits` bits of fraction (0: none) whose rate comes nearest: a constant
 * expression. `rate` includes what the hardware divides by besides (16 samples a bit: baud * 16).
 * Nearest in rate, not in divisor: of d and d + 1 the one with the smaller |clock / d - rate|.
 */
#define WAD_DIVISOR(clock, rate, bits)                                                             \
    (WADI_DIV_LOW(clock, rate, bits) == 0 ? 1                                                      \
     : WADI_DIV_REST(clock, rate, bits) * (WADI_DIV_LOW(clock, rate, bits) + 1) <=                 \
             ((uint64_t)(rate)-WADI_DIV_REST(clock, rate, bits)) * WADI_DIV_LOW(clock, rate, bits) \
         ? WADI_DIV_LOW(clock, rate, bits)                                                         \
         : WADI_DIV_LOW(clock, rate, bits) + 1)

/** The error of a divisor in parts per million, rounded towards 0: a constant expression. */
#define WAD_DIVISOR_PPM(clock, rate, bits, divisor)                                                \
    ((((int64_t)(clock) << (bits)) - (int64_t)(rate) * (int64_t)(divisor)) * 1000000 /             \
     ((int64_t)(rate) * (int64_t)(divisor)))

/** Ends the build when a divisor's error is larger than so many ppm, or does not fit the field. */
#define WAD_ASSERT_DIVISOR(clock, rate, bits, divisor, ppm)                                        \
    _Static_assert(WAD_DIVISOR_PPM(clock, rate, bits, divisor) <= (ppm) &&                         \
                       WAD_DIVISOR_PPM(clock, rate, bits, divisor) >= -(ppm),                      \
                   "no setting of this divider is near enough to the rate: take another clock")

/** The smallest prescaler, 1 to 2 ** 16, with which the count stays within `max`: for counters with
 * any prescaler. The count is WAD_DIVISOR(clock, rate * WAD_PRESCALER(...), 0). */
#define WAD_PRESCALER(clock, rate, max)                                                            \
    (((uint64_t)(clock) / (uint64_t)(rate) - ((uint64_t)(clock) >= (uint64_t)(rate))) /            \
         (uint64_t)(max) +                                                                         \
     1)

#endif
