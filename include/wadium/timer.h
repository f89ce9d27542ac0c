/* SPDX-License-Identifier: MIT */
/*
 * Timers: periodic interrupts and pulse-width modulation.
 *
 *     static void tick(void *context) { wad_pin_toggle(SKERRY_WARN); }
 *     static const wad_timer blink = {&corran32_cnt0, .clock_hz = 8000000,
 *                                     .rate = WAD_EVERY_MS(500), .on_wrap = tick, .priority = 1};
 *
 *     void handle_CNT0(void) { wad_timer_handle(&blink); }
 *
 *     st = wad_timer_open(&blink);
 *     wad_timer_start(&blink);
 *     wad_irq_global_on();
 *
 * A timer is a constant, as a serial port is (<wadium/uart.h>): where the compiler sees it, each
 * call is the register accesses themselves, and what it does not name costs nothing.
 *
 * The order inside is the silicon's: clock on, reset released and waited for, configuration,
 * shadowed values taken over, flags cleared, interrupt enabled at the block, then at the
 * controller, and the enable bit last, in wad_timer_start. The global mask stays the application's.
 */
#ifndef WADIUM_TIMER_H
#define WADIUM_TIMER_H

#include "unit.h"

#ifndef WADI_COUNTER_FORMS
#error                                                                                             \
    "include the chip's own header, such as corran32_roles.h: it includes this one for a chip that has counters"
#else

/** Percent to the unit of duty used here, hundredths of a percent: 25 -> 2500. */
#define WAD_PERCENT(percent) ((uint32_t)((percent)*100))

typedef void (*wad_timer_fn)(void *context);

/** A block of the chip that is a timer; generated. */
typedef struct wad_timer_unit {
    wad_block block;
    uint8_t form;
    uint8_t channels; /**< that compare */
} wad_timer_unit;

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

/** A pin, and how much of each period it is high. */
typedef struct wad_timer_pwm_pin {
    wad_route route;  /**< 0: none */
    uint32_t duty_bp; /**< hundredths of a percent, 0 to 10 000, rounded to the nearest count */
} wad_timer_pwm_pin;

/** A function at a compare value. */
typedef struct wad_timer_match {
    wad_timer_fn fn; /**< NULL: none */
    void *context;
    uint32_t count; /**< 0 to period - 1; for a channel without a pin, else its duty's */
} wad_timer_match;

/** A timer. What is left out is 0: it counts up, its outputs are off. */
typedef struct wad_timer {
    const wad_timer_unit *unit; /**< `&corran32_cnt0` */
    uint32_t clock_hz;   /**< of the block's clock, as it is when the timer is opened; 0: worked out
                            from the registers, at run time */
    wad_rate rate;       /**< of its periods: WAD_RATE_HZ(1000), WAD_EVERY_MS(500) */
    uint32_t within_ppm; /**< how far off the nearest rate may be; 0: 1 000 */
    uint32_t counts;     /**< instead of a rate: prescaled counts a period, and ... */
    uint32_t prescale;   /**< ... what the prescaler divides by; 0: 1 */
    bool centre;   /**< counts up and down again: pulses lie around the period's end, and those of
                      several channels around one moment, whatever their duties. A duty is an odd
                      number of counts then, or none, or all */
    bool one_shot; /**< each wad_timer_start gives one period */
    bool manual_reload; /**< of timers that run from a start value: wad_timer_reload loads it */
    uint8_t priority;   /**< of its interrupt, with functions */
    uint8_t
        trigger; /**< that it listens to, by CORRAN32_TRIGGER_... (`wadium show CHIP triggers`) */
    wad_timer_action action; /**< what that trigger does; WAD_FOLLOW_START instead of
                                wad_timer_start */
    wad_timer_pwm_pin pwm[WADI_TIMER_CHANNELS];
    wad_timer_fn on_wrap;                          /**< at the end of each period */
    void *context;                                 /**< of on_wrap */
    wad_timer_match on_match[WADI_TIMER_CHANNELS]; /**< by channel */
} wad_timer;

#include "code/timer.h" /* inline bodies, which nobody needs to read */

/**
 * Brings the block and its pins up and sets it to its rate, stopped; with functions its interrupt
 * is enabled, whose handler calls wad_timer_handle. The rate is the nearest that 16 prescalers
 * give, from the smallest on with which the count may fit; of equally near ones the
 * smallest, which leaves the finest steps of duty. Opening anew is right at any time.
 *
 * A constant rate that no setting reaches within `within_ppm`, and what the block lacks, end the
 * build. Else WAD_E_RANGE: the rate or the counts cannot be; WAD_E_ABSENT: no such channel, mode,
 * trigger or interrupt; WAD_E_ARG: a duty beyond 10 000, or members that contradict each other; all
 * before anything is written (where the block chooses its clock itself: it is up, but not set).
 * WAD_E_TIMEOUT: it stays in reset; else as wad_pin_route. Blocks for the reset only. Not from a
 * handler that shares gates or pins.
 */
WADI_INLINE WAD_MUST_CHECK wad_status wad_timer_open(const wad_timer *t)
{
    wad_status st;
    if (WADI_MAY_FOLD && wadi_timer_is_known(t))
        st = wadi_timer_open_known(t);
    else
        st = WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_open, t);
    if (st == WAD_OK)
        wadi_tell_clock(&t->unit->block, t->clock_hz);
    return st;
}

/** Stops it, with its outputs off and asking for nothing; pins keep their functions, the block its
 * clock. Never blocks. */
WADI_INLINE void wad_timer_close(const wad_timer *t)
{
    WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_close, wadi_timer_at_of(t));
    if (wadi_timer_asks(t))
        wad_irq_disable(t->unit->block.irq);
}

/** What the opening's rate is off by, in parts per million of the wanted one, positive when fast: a
 * constant where rate and clock are. */
#define WAD_TIMER_PPM(timer) wadi_timer_ppm(&(timer))

/** Lets the timer count (sets the enable bit), and stops it where it stands. Never block. */
WADI_INLINE void wad_timer_start(const wad_timer *t)
{
    if (WADI_KNOWS(t->unit, &wadi_counter_roles(t->unit->form)->enable))
        wadi_timer_run(t, wadi_counter_roles(t->unit->form), true);
    else
        WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_enable, t, true);
}
WADI_INLINE void wad_timer_stop(const wad_timer *t)
{
    if (WADI_KNOWS(t->unit, &wadi_counter_roles(t->unit->form)->enable))
        wadi_timer_run(t, wadi_counter_roles(t->unit->form), false);
    else
        WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_enable, t, false);
}

/** The count, 0 to period - 1, and the counts of a period. Never block. */
WADI_INLINE uint32_t wad_timer_count(const wad_timer *t)
{
    return WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_count, wadi_timer_at_of(t));
}
WADI_INLINE uint32_t wad_timer_period(const wad_timer *t)
{
    return WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_period, wadi_timer_at_of(t));
}

/** Changes the rate, running or stopped; where the chip shadows the reload, from the next period
 * on, so without a short period. Duties set before keep their counts: set them again. WAD_E_RANGE:
 * no setting is near enough; the old rate goes on. Never blocks. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_timer_set_rate(const wad_timer *t, wad_rate rate)
{
    return WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_set_rate, t, rate, 0);
}

/** Changes a channel's duty; where the chip shadows compares, from the next period on.
 * WAD_E_ABSENT: no such channel; WAD_E_ARG: beyond 10 000. Never blocks; a handler may call it. */
WADI_INLINE wad_status wad_timer_set_duty(const wad_timer *t, unsigned channel, uint32_t duty_bp)
{
    return WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_set_duty, wadi_timer_at_of(t),
                        channel, duty_bp);
}

/** Moves a channel's compare value; where the chip shadows compares, from the next period on.
 * WAD_E_ABSENT: no such channel; WAD_E_RANGE: never reached (counting both ways: beyond period /
 * 2). Never blocks; a handler may call it. */
WADI_INLINE wad_status wad_timer_set_compare(const wad_timer *t, unsigned channel, uint32_t count)
{
    return WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_set_compare,
                        wadi_timer_at_of(t), channel, count);
}

/** Drives one more pin with a duty, after the opening: routes the pin, then enables the channel's
 * output. Errors as wad_timer_set_duty and wad_pin_route. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_timer_pwm(const wad_timer *t, unsigned channel,
                                                    wad_route route, uint32_t duty_bp)
{
    return WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_pwm, wadi_timer_at_of(t),
                        channel, route, duty_bp);
}

/** Sets, clears or toggles a pin when the count reaches `count`, 0 to period - 1 (counting both
 * ways: to period / 2, met twice): a toggle in each period is a square wave of half the rate. After
 * the opening. WAD_E_ABSENT: no such channel, or it cannot; WAD_E_RANGE: the count is never
 * reached; else as wad_pin_route. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_timer_output(const wad_timer *t, unsigned channel,
                                                       wad_route route, wad_timer_edge edge,
                                                       uint32_t count)
{
    return WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_output, wadi_timer_at_of(t),
                        channel, route, edge, count);
}

/**
 * Drives two pins, one the other's complement, for two switches of which never both may be on: what
 * goes low goes at once, what goes high waits `dead_ns` nanoseconds, rounded up to whole clock
 * edges. Both pulses are shorter by that. The low one is high from this call on. After the opening.
 * WAD_E_ABSENT: the channel has no complement; WAD_E_RANGE: the dead time is too long, nothing
 * written; else as wad_timer_pwm.
 */
WADI_INLINE WAD_MUST_CHECK wad_status wad_timer_pair(const wad_timer *t, unsigned channel,
                                                     wad_route high, wad_route low,
                                                     uint32_t dead_ns, uint32_t duty_bp)
{
    return WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_pair, t, channel, high, low,
                        dead_ns, duty_bp);
}

struct wad_dma;
/** A channel's compare value from memory, the next one at each of the mover's requests (claim `dma`
 * for the timer's wrap): a pattern of pulses without the core. Where the chip shadows compares each
 * value is that of the next period. `ring`: again and again. WAD_E_ABSENT: no compare values, or a
 * lock keeps them; else as wad_dma_start. Never blocks. */
WAD_MUST_CHECK wad_status wad_timer_play(const wad_timer *timer, unsigned channel,
                                         struct wad_dma *dma, const uint16_t *counts, size_t n,
                                         bool ring);

/**
 * With `.manual_reload`: sets the count back by a period from where it stands, so that the time
 * since the overflow is not lost; `cost` counts pass between reading and writing it (measured: let
 * it run and compare, see docs/timers.md). Writing the start value itself instead loses the latency
 * of each handler. Never blocks; for the handler, first thing.
 */
WADI_INLINE void wad_timer_reload(const wad_timer *t, uint32_t cost)
{
    WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_reload, wadi_timer_at_of(t), cost);
}

/** The timer's handler: clears each flag that has a function, then calls it. */
WADI_INLINE void wad_timer_handle(const wad_timer *t)
{
    if (WADI_MAY_FOLD && wadi_timer_handles(t))
        wadi_timer_handle_body(t, wadi_counter_roles(t->unit->form));
    else
        WADI_BY_FORM(WADI_COUNTER_FORMS, t->unit->form, wadi_timer_handle, t);
}

#endif
#endif
