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

/** A function at a compare value. The caller owns it; it must outlive the use. */
typedef struct wad_timer_match {
    unsigned channel; /* private, all of it */
    wad_timer_fn fn;
    void *context;
    struct wad_timer_match *next;
} wad_timer_match;

/** A timer in use. The caller owns it; it must outlive the use. */
typedef struct wad_timer {
    const wad_block *block; /**< read-only */
    uint32_t prescale;      /**< read-only: the prescaler divides by this */
    uint32_t period;        /**< read-only: prescaled counts in one period */
    bool centre;            /**< read-only: counts up and down again */
    wad_timer_fn on_wrap;   /* private from here */
    void *context;
    wad_timer_match *matches;
} wad_timer;

/** What a match does to the channel's pin. */
typedef enum wad_timer_edge { WAD_OUTPUT_SET, WAD_OUTPUT_CLEAR, WAD_OUTPUT_TOGGLE } wad_timer_edge;

/** What a trigger does to a timer that listens to it. */
typedef enum wad_timer_action {
    WAD_FOLLOW_NOTHING,
    WAD_FOLLOW_START, /**< it starts the timer */
    WAD_FOLLOW_GATE,  /**< the timer counts while it is high */
    WAD_FOLLOW_RESET, /**< it begins a period anew */
    WAD_FOLLOW_COUNT  /**< it is counted instead of the clock */
} wad_timer_action;

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

/** The same with a count that goes up and down again: pulses of wad_timer_pwm lie around the
 * period's end, and those of several channels around one moment, whatever their duties. A duty is
 * an odd number of counts then, or none, or all. WAD_E_ABSENT: the block only counts one way. */
WAD_MUST_CHECK wad_status wad_timer_open_centre(wad_timer *timer, const wad_block *block,
                                                wad_rate rate, int32_t *error_ppm);

/** The same with a prescaler and counts of the caller's choice: for a timer that counts triggers
 * (wad_timer_follow), or whose divider was solved by the compiler. WAD_E_RANGE: the block has no
 * such prescaler, or the counts are fewer than 2 or too many; nothing written. */
WAD_MUST_CHECK wad_status wad_timer_open_counts(wad_timer *timer, const wad_block *block,
                                                uint32_t prescale, uint32_t counts);

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

/** Sets, clears or toggles a pin when the count reaches `count`, 0 to period - 1 (counting both
 * ways: to period / 2, met twice): a toggle in each period is a square wave of half the rate.
 * WAD_E_ABSENT: no such channel, or it cannot; WAD_E_RANGE: the count is never reached. */
WAD_MUST_CHECK wad_status wad_timer_output(wad_timer *timer, unsigned channel, wad_route route,
                                           wad_timer_edge edge, uint32_t count);

/** Moves a channel's compare value; where the chip shadows compares, from the next period on.
 * Errors as wad_timer_output. Never blocks; a handler may call it. */
WAD_MUST_CHECK wad_status wad_timer_set_compare(wad_timer *timer, unsigned channel, uint32_t count);

struct wad_dma;
/** A channel's compare value from memory, the next one at each of the mover's requests (claim `dma`
 * for the timer's wrap): a pattern of pulses without the core. Where the chip shadows compares each
 * value is that of the next period. `ring`: again and again. WAD_E_ABSENT: no compare values, or a
 * lock keeps them; else as wad_dma_start. Never blocks. */
WAD_MUST_CHECK wad_status wad_timer_play(const wad_timer *timer, unsigned channel,
                                         struct wad_dma *dma, const uint16_t *counts, size_t n,
                                         bool ring);

/** Calls `fn` from the timer's handler when the count reaches `count`; as wad_timer_on_wrap. One
 * wad_timer_match a channel. Errors as both. */
WAD_MUST_CHECK wad_status wad_timer_on_match(wad_timer *timer, wad_timer_match *match,
                                             unsigned channel, uint32_t count, unsigned priority,
                                             wad_timer_fn fn, void *context);

/**
 * Drives two pins, one the other's complement, for two switches of which never both may be on: what
 * goes low goes at once, what goes high waits `dead_ns` nanoseconds, rounded up to whole clock
 * edges. Both pulses are shorter by that. The low one is high from this call on.
 * WAD_E_ABSENT: the channel has no complement; WAD_E_RANGE: the dead time is too long, nothing
 * written; else as wad_timer_pwm.
 */
WAD_MUST_CHECK wad_status wad_timer_pair(wad_timer *timer, unsigned channel, wad_route high,
                                         wad_route low, uint32_t dead_ns, uint32_t duty_bp);

/** Listens to a trigger, by the number that the chip's table gives it (`wadium show CHIP triggers`;
 * CHIP_TRIGGER_... in the generated header). Before wad_timer_start, which WAD_FOLLOW_START does
 * instead. Never blocks. WAD_E_ABSENT: the block takes no triggers, or not in this way;
 * WAD_E_RANGE: no such trigger. */
WAD_MUST_CHECK wad_status wad_timer_follow(wad_timer *timer, unsigned trigger,
                                           wad_timer_action action);

/** For timers that run from a start value to their overflow: the hardware no longer loads the start
 * value there, wad_timer_reload must. While stopped. WAD_E_ABSENT: it is no such timer. */
WAD_MUST_CHECK wad_status wad_timer_manual_reload(wad_timer *timer);

/**
 * Sets the count back by a period from where it stands, so that the time since the overflow is not
 * lost; `cost` counts pass between reading and writing it (measured: let it run and compare, see
 * docs/timers.md). Writing the start value itself instead loses the latency of each handler.
 * Never blocks; for the handler, first thing.
 */
void wad_timer_reload(wad_timer *timer, uint32_t cost);

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

/** The timer's part of its handler: clears each flag that has a function, then calls it. */
void wad_timer_handle(wad_timer *timer);

#endif
