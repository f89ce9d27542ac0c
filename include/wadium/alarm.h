/* SPDX-License-Identifier: MIT */
/*
 * Any number of software timers on one channel of a timebase.
 *
 *     static const wad_alarms alarms = {&base, .channel = 0, .priority = 1,
 *                                       .list = &(wad_alarm_list){0}};
 *     static wad_alarm blink, report;
 *
 *     void handle_CLOCK(void) { wad_alarms_handle(&alarms); }
 *
 *     st = wad_alarms_open(&alarms);
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

/** What changes: `.list = &(wad_alarm_list){0}`. */
typedef struct wad_alarm_list {
    volatile uint32_t late; /**< times that a periodic alarm was due again before it ran */
    wad_alarm *first;       /* private: by when they are due */
} wad_alarm_list;

/** What shares a channel of a timebase. */
typedef struct wad_alarms {
    const wad_timebase *base;
    uint8_t channel;
    uint8_t priority; /**< of the timebase's interrupt */
    wad_alarm_list *list;
} wad_alarms;

/** Takes the channel of the timebase, which is open, and enables its interrupt at block and
 * controller. Opening anew forgets what was set. Never blocks. WAD_E_ARG: no `list`; WAD_E_ABSENT:
 * no such channel, or no interrupt line; WAD_E_RANGE: no such priority. */
WAD_MUST_CHECK wad_status wad_alarms_open(const wad_alarms *alarms);

/** No further calls: what was set is forgotten, the channel asks for nothing. Never blocks; an
 * alarm's function may call it. */
void wad_alarms_close(const wad_alarms *alarms);

/** Calls `fn` from the handler at this rate, first one period from now, until stopped. Sets an
 * alarm that is set already anew. Never blocks; a handler may call it. WAD_E_ARG: no function, rate
 * 0; WAD_E_RANGE: more than one period in two counts, or a period beyond half of the count. */
WAD_MUST_CHECK wad_status wad_alarm_every(const wad_alarms *alarms, wad_alarm *alarm, wad_rate rate,
                                          wad_alarm_fn fn, void *context);

/** Calls `fn` once, after at least so long. Otherwise as wad_alarm_every. */
WAD_MUST_CHECK wad_status wad_alarm_after_us(const wad_alarms *alarms, wad_alarm *alarm,
                                             uint32_t us, wad_alarm_fn fn, void *context);
WAD_MUST_CHECK wad_status wad_alarm_after_ms(const wad_alarms *alarms, wad_alarm *alarm,
                                             uint32_t ms, wad_alarm_fn fn, void *context);

/** No further calls. Never blocks; a handler, the alarm's own function too, may call it. */
void wad_alarm_stop(const wad_alarms *alarms, wad_alarm *alarm);

/** The alarms' part of the timebase's handler: calls what is due, sets the channel for the next. */
void wad_alarms_handle(const wad_alarms *alarms);

#endif
