/* SPDX-License-Identifier: MIT */
/*
 * Edges of a pin, noted by hardware with the count of a timebase: frequency, period, time stamps.
 *
 *     static const wad_input flow = {&base, .channel = 0, .route = CORRAN32_ROUTE_BASE_IN0_PB8,
 *                                    .priority = 1, .seen = &(wad_input_seen){0}};
 *
 *     void handle_BASE(void) { wad_input_handle(&flow); }
 *
 *     st = wad_input_open(&flow);
 *     wad_irq_global_on();
 *     ...
 *     wad_input_result r;
 *     if (wad_input_read(&flow, &r) == WAD_OK)      since the last time it was read
 *         show(r.millihertz);
 *
 * The hardware keeps the low bits of the count; the handler makes them whole, so that periods may
 * be longer than those bits reach, as long as the handler runs within one turn of them.
 */
#ifndef WADIUM_INPUT_H
#define WADIUM_INPUT_H

#include "pin.h"
#include "timebase.h"

typedef enum wad_input_edge {
    WAD_INPUT_RISE,
    WAD_INPUT_FALL,
    WAD_INPUT_BOTH, /**< every edge counts as one */
    WAD_INPUT_PULSE /**< periods from rise to rise, and how long the pin is high in them */
} wad_input_edge;

/** What has come: `.seen = &(wad_input_seen){0}`. */
typedef struct wad_input_seen {
    volatile uint32_t edges; /**< captured since it was opened */
    volatile uint32_t lost;  /**< times that edges came faster than the handler took them */
    uint64_t at;             /* private from here: of the last edge */
    uint64_t first;          /* of the first edge of this measurement */
    uint32_t measured;       /* periods since */
    bool began;              /* a rise came */
    uint64_t rise_at, high;
    uint32_t widths;
} wad_input_seen;

/** A channel that captures. What is left out is 0: rises, unfiltered. */
typedef struct wad_input {
    const wad_timebase *base;
    uint8_t channel;
    wad_route route;
    wad_input_edge edge;
    uint32_t filter;  /**< clock edges that the input must stay before it counts */
    uint8_t priority; /**< of the timebase's interrupt */
    wad_input_seen *seen;
} wad_input;

typedef struct wad_input_result {
    uint32_t periods;    /**< how many the values are made of */
    uint64_t counts;     /**< of the timebase, in all of them */
    uint64_t last_at;    /**< count at the last edge */
    uint32_t millihertz; /**< edges a second, rounded; 0xFFFFFFFF: more than that */
    uint64_t period_ns;  /**< mean of the periods, rounded */
    uint64_t pulse_ns;   /**< WAD_INPUT_PULSE: mean time high, rounded; else 0 */
} wad_input_result;

/** Routes the pin, chooses the edge, clears old flags, enables the interrupt at block and
 * controller; the timebase is open. The handler of WAD_INPUT_PULSE reads the pin to know a rise
 * from a fall: a pulse shorter than its latency counts as lost. Opening anew begins to measure
 * anew. WAD_E_ARG: no `seen`; WAD_E_ABSENT: no such channel, edge or line; WAD_E_RANGE: the filter
 * or the priority does not fit; else as wad_pin_route. Blocks for the port's reset only. */
WAD_MUST_CHECK wad_status wad_input_open(const wad_input *capture);

/** No further edges; the channel asks for nothing. Never blocks. */
void wad_input_close(const wad_input *capture);

/** What came since the last reading; the edge that ends it begins the next. WAD_E_EMPTY: no whole
 * period came yet. Never blocks. */
WAD_MUST_CHECK wad_status wad_input_read(const wad_input *capture, wad_input_result *result);

/** Waits for so many periods. WAD_E_TIMEOUT: they did not come in time. Blocks. */
WAD_MUST_CHECK wad_status wad_input_wait(const wad_input *capture, uint32_t periods, uint32_t us,
                                         wad_input_result *result);

/** The capture's part of the timebase's handler. */
void wad_input_handle(const wad_input *capture);

#endif
