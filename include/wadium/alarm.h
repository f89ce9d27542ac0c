/* SPDX-License-Identifier: MIT */
/*
 * Any number of software timers on one channel of a timebase.
 *
 *     static wad_alarms alarms;
 *     static wad_alarm blink, report;
 *
 *     void handle_CLOCK(void) { wad_alarms_handle(&alarms); }
 *
 *     st = wad_alarms_open(&alarms, &base, 0, 1);
 *     st = wad_alarm_every(&alarms, &blink, WAD_HZ(3), toggle, NULL);
 *     st = wad_alarm_after_ms(&alarms, &report, 2500, send, NULL);
 *     wad_irq_global_on();
 *
 * A periodic alarm is set anew from when it was due, not from when its handler ran, and carries the
 * part of a count that its period leaves over: 3 Hz from 32 768 Hz is 10 922 and 10 923 counts in
 * turn, and after a day it has not drifted by one.
 */
#ifndef WADIUM_ALARM_H
#define WADIUM_ALARM_H

#include "timebase.h"

typedef void (*wad_alarm_fn)(void *context);

/** A software timer. The caller owns it; it must outlive its being set. All private. */
typedef struct wad_alarm {
    struct wad_alarm *next;
    uint64_t at;                 /* count at which it is due */
    uint64_t whole;              /* counts of a period, 0: once */
    uint64_t rest, parts, carry; /* and rest / parts of a count */
    wad_alarm_fn fn;
    void *context;
    bool set;
} wad_alarm;

/** What shares a channel. The caller owns it. */
typedef struct wad_alarms {
    const wad_timebase *base; /**< read-only */
    unsigned channel;         /**< read-only */
    uint32_t late;            /**< read-only: times a periodic alarm was due again before it ran */
    wad_alarm *first;         /* private: by when they are due */
} wad_alarms;

/** Takes a channel of the timebase and enables its interrupt at block and controller. Never blocks.
 * WAD_E_ABSENT: no such channel, or no interrupt line; WAD_E_RANGE: no such priority. */
WAD_MUST_CHECK wad_status wad_alarms_open(wad_alarms *alarms, const wad_timebase *base,
                                          unsigned channel, unsigned priority);

/** Calls `fn` from the handler at this rate, first one period from now, until stopped. Sets an
 * alarm that is set already anew. Never blocks; a handler may call it. WAD_E_ARG: no function, rate
 * 0; WAD_E_RANGE: more than one period in two counts, or a period beyond half of the count. */
WAD_MUST_CHECK wad_status wad_alarm_every(wad_alarms *alarms, wad_alarm *alarm, wad_rate rate,
                                          wad_alarm_fn fn, void *context);

/** Calls `fn` once, after at least so long. Otherwise as wad_alarm_every. */
WAD_MUST_CHECK wad_status wad_alarm_after_us(wad_alarms *alarms, wad_alarm *alarm, uint32_t us,
                                             wad_alarm_fn fn, void *context);
WAD_MUST_CHECK wad_status wad_alarm_after_ms(wad_alarms *alarms, wad_alarm *alarm, uint32_t ms,
                                             wad_alarm_fn fn, void *context);

/** No further calls. Never blocks; a handler, the alarm's own function too, may call it. */
void wad_alarm_stop(wad_alarms *alarms, wad_alarm *alarm);

/** The alarms' part of the timebase's handler: calls what is due, sets the channel for the next. */
void wad_alarms_handle(wad_alarms *alarms);

#endif
