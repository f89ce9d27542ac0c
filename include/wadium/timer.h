/* SPDX-License-Identifier: MIT */
/*
 * Timers: periodic interrupts and pulse-width modulation.
 *
 *     static wad_timer blink;
 *
 *     void handle_CNT0(void) { wad_timer_handle(&blink); }
 *     static void tick(void *ctx) { wad_pin_toggle(SKERRY_WARN); }
 *
 *     int32_t error_ppm;
 *     st = wad_timer_open(&blink, &corran32_cnt0, WAD_PERIOD_MS(500), &error_ppm);
 *     st = wad_timer_on_wrap(&blink, 1, tick, NULL);
 *     wad_timer_start(&blink);
 *     wad_irq_global_on();
 *
 * The order inside is the silicon's: clock on, reset released and waited for,
 * configuration, shadowed values taken over, flags cleared, interrupt enabled
 * at the block, then at the controller, and the enable bit last, in
 * wad_timer_start. The global mask stays the application's.
 */
#ifndef WADIUM_TIMER_H
#define WADIUM_TIMER_H

#include "pin.h"
#include "rate.h"

/** Percent to the unit of duty used here, hundredths of a percent: 25 -> 2500. */
#define WAD_PERCENT(percent) ((uint32_t)((percent)*100))

typedef void (*wad_timer_fn)(void *context);

/** A timer in use. The caller owns it; it must outlive the use. */
typedef struct wad_timer {
    const wad_block *block; /**< read-only */
    uint32_t prescale;      /**< read-only: the prescaler divides by this */
    uint32_t period;        /**< read-only: prescaled counts in one period */
    wad_timer_fn on_wrap;   /* private from here */
    void *context;
} wad_timer;

/**
 * Brings the block up and sets it to `rate`, stopped: to the nearest of all settings
 * (wad_divider_solve), of equally near ones the smallest prescaler, which leaves the finest steps
 * of duty. Blocks for the block's reset only.
 *
 * @param error_ppm  out, may be NULL: achieved rate against wanted, parts per million, rounded to
 *                   nearest; positive when the timer runs fast
 * WAD_E_RANGE: too slow for prescaler and period at their largest, or less than 2 clocks a period;
 * nothing written (where the block chooses its clock itself: it is up, but not set). WAD_E_TIMEOUT:
 * the block stays in reset.
 */
WAD_MUST_CHECK wad_status wad_timer_open(wad_timer *timer, const wad_block *block, wad_rate rate,
                                         int32_t *error_ppm);

/** Calls `fn` from the timer's handler at the end of each period. Clears the flag, then enables
 * the interrupt at the block and at the controller. WAD_E_ARG: no function; WAD_E_ABSENT: the
 * block has no interrupt line. */
WAD_MUST_CHECK wad_status wad_timer_on_wrap(wad_timer *timer, unsigned priority, wad_timer_fn fn,
                                            void *context);

/**
 * Drives a pin with a duty of `duty_bp` hundredths of a percent (0 to 10 000), rounded to the
 * nearest count. Routes the pin, then enables the channel's output.
 * WAD_E_ABSENT: no such channel; WAD_E_ARG: duty beyond 10 000.
 */
WAD_MUST_CHECK wad_status wad_timer_pwm(wad_timer *timer, unsigned channel, wad_route route,
                                        uint32_t duty_bp);

/** Changes a channel's duty; where the chip shadows compares, from the next period on. Never
 * blocks; a handler may call it. */
WAD_MUST_CHECK wad_status wad_timer_set_duty(wad_timer *timer, unsigned channel, uint32_t duty_bp);

/** Changes the rate, running or stopped; where the chip shadows the reload, from the next period
 * on, so without a short period. Duties set before keep their counts: set them again.
 * Errors as wad_timer_open; then the old rate goes on. */
WAD_MUST_CHECK wad_status wad_timer_set_rate(wad_timer *timer, wad_rate rate, int32_t *error_ppm);

/** With `on` each wad_timer_start gives one period, at whose end the hardware stops the timer by
 * itself; without, it goes on. While it is stopped. Never blocks. WAD_E_ABSENT: the block cannot.
 */
WAD_MUST_CHECK wad_status wad_timer_one_shot(wad_timer *timer, bool on);

/** Lets the timer count (sets the enable bit), and stops it where it stands. Never block. */
void wad_timer_start(wad_timer *timer);
void wad_timer_stop(wad_timer *timer);

/** The count, 0 to period - 1. Never blocks. */
uint32_t wad_timer_count(const wad_timer *timer);

/** The timer's part of its handler: clears the flag, then calls the function. */
void wad_timer_handle(wad_timer *timer);

#endif
