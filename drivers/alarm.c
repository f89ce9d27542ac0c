/* SPDX-License-Identifier: MIT */
/* Software timers: a list by when they are due; the channel stands at the first. */
#include WAD_CHIP

#ifdef WADI_TIMEBASE_FORMS

#include <wadium/alarm.h>

/* Of several forms the table is looked up: an alarm is arithmetic above all. */
#define R (*wadi_timebase_roles(a->base->unit->form))

/* Counts from `now` on, as a signed distance around the ring. */
static bool is_due(const wad_alarms *a, uint64_t at, uint64_t now)
{
    uint64_t mask = wad_timebase_mask(a->base);
    return ((now - at) & mask) <= mask / 2u;
}

static bool is_before(const wad_alarms *a, const wad_alarm *x, const wad_alarm *y)
{
    uint64_t mask = wad_timebase_mask(a->base);
    return ((x->at - y->at) & mask) > mask / 2u;
}

static void insert(const wad_alarms *a, wad_alarm *alarm)
{
    wad_alarm **place = &a->list->first;
    while (*place && !is_before(a, alarm, *place))
        place = &(*place)->next;
    alarm->next = *place;
    *place = alarm;
    alarm->set = true;
}

static void take_out(const wad_alarms *a, wad_alarm *alarm)
{
    wad_alarm **place = &a->list->first;
    while (*place && *place != alarm)
        place = &(*place)->next;
    if (*place)
        *place = alarm->next;
    alarm->set = false;
}

/*
 * The channel for the first alarm. The halves of a compare value are written one after the other,
 * so the count may meet a mixture: the flag is cleared afterwards. True: what was set is due
 * already, and the channel may have missed it.
 */
static bool aim(const wad_alarms *a)
{
    uintptr_t base = a->base->unit->block.base;
    if (!a->list->first)
        return false;
    wad_put64(base, wad_at(R.compare, a->channel), a->list->first->at);
    wad_clear(base, wad_at(R.match, a->channel));
    return is_due(a, a->list->first->at, wad_timebase_now(a->base));
}

/* From where it was due; a period that has passed altogether is counted and left out. */
static void set_again(const wad_alarms *a, wad_alarm *alarm)
{
    do {
        alarm->at += alarm->whole;
        alarm->carry += alarm->rest;
        if (alarm->carry >= alarm->parts) {
            alarm->carry -= alarm->parts;
            alarm->at++;
        }
        alarm->at &= wad_timebase_mask(a->base);
        if (!is_due(a, alarm->at, wad_timebase_now(a->base)))
            break;
        a->list->late++;
    } while (true);
    insert(a, alarm);
}

/* The first alarm when it is due, taken out, or set anew if it repeats. Under the lock: more urgent
 * handlers may set and stop alarms meanwhile. */
static wad_alarm *take_due(const wad_alarms *a)
{
    uint32_t state = wad_port_irq_save();
    wad_alarm *alarm = a->list->first;
    if (alarm && is_due(a, alarm->at, wad_timebase_now(a->base))) {
        take_out(a, alarm);
        if (alarm->whole)
            set_again(a, alarm);
    } else {
        alarm = NULL;
    }
    wad_port_irq_restore(state);
    return alarm;
}

static bool aim_locked(const wad_alarms *a)
{
    uint32_t state = wad_port_irq_save();
    bool due = aim(a);
    wad_port_irq_restore(state);
    return due;
}

void wad_alarms_handle(const wad_alarms *a)
{
    wad_alarm *alarm;
    wad_clear(a->base->unit->block.base, wad_at(R.match, a->channel));
    do
        while ((alarm = take_due(a)) != NULL)
            alarm->fn(alarm->context);
    while (aim_locked(a));
}

wad_status wad_alarms_open(const wad_alarms *a)
{
    const wad_block *block = &a->base->unit->block;
    if (!a->list)
        return WAD_E_ARG;
    if (!wad_has(R.compare) || a->channel >= R.match.n || block->irq < 0)
        return WAD_E_ABSENT;
    wad_put(block->base, wad_at(R.match_irq, a->channel), 0);
    *a->list = (wad_alarm_list){0};
    wad_clear(block->base, wad_at(R.match, a->channel));
    wad_put(block->base, wad_at(R.match_irq, a->channel), 1);
    return wad_irq_enable(block->irq, a->priority);
}

void wad_alarms_close(const wad_alarms *a)
{
    uint32_t state = wad_port_irq_save();
    wad_put(a->base->unit->block.base, wad_at(R.match_irq, a->channel), 0);
    for (wad_alarm *alarm = a->list->first; alarm; alarm = alarm->next) {
        alarm->set = false;
        alarm->whole = 0;
    }
    a->list->first = NULL;
    wad_port_irq_restore(state);
}

/* Under the lock: handlers set and stop alarms as well. */
static void set(const wad_alarms *a, wad_alarm *alarm, uint64_t counts)
{
    uint32_t state = wad_port_irq_save();
    take_out(a, alarm);
    alarm->at = (wad_timebase_now(a->base) + counts) & wad_timebase_mask(a->base);
    insert(a, alarm);
    if (a->list->first == alarm)
        while (aim(a)) /* due before it was set: a moment later then */
            alarm->at = (wad_timebase_now(a->base) + 2u) & wad_timebase_mask(a->base);
    wad_port_irq_restore(state);
}

wad_status wad_alarm_every(const wad_alarms *a, wad_alarm *alarm, wad_rate rate, wad_alarm_fn fn,
                           void *context)
{
    if (!fn || !rate.hz || !rate.per)
        return WAD_E_ARG;
    const uint32_t clock = wadi_timebase_clock_hz(a->base);
    uint64_t rest, parts = (uint64_t)wadi_timebase_prescale(a->base, &R, clock) * rate.hz;
    if (!parts)
        return WAD_E_RANGE;
    uint64_t whole = wad_divide((uint64_t)clock * rate.per, parts, &rest);
    if (whole < 2u || whole > wad_timebase_mask(a->base) / 2u)
        return WAD_E_RANGE;
    wad_alarm_stop(a, alarm);
    *alarm = (wad_alarm){
        .whole = whole, .rest = rest, .parts = parts, .carry = rest, .fn = fn, .context = context};
    set(a, alarm, whole);
    return WAD_OK;
}

static wad_status once(const wad_alarms *a, wad_alarm *alarm, uint64_t counts, wad_alarm_fn fn,
                       void *context)
{
    if (!fn)
        return WAD_E_ARG;
    if (counts > wad_timebase_mask(a->base) / 2u)
        return WAD_E_RANGE;
    wad_alarm_stop(a, alarm);
    *alarm = (wad_alarm){.fn = fn, .context = context};
    set(a, alarm, counts + 1u); /* the count that has begun does not count */
    return WAD_OK;
}

wad_status wad_alarm_after_us(const wad_alarms *a, wad_alarm *alarm, uint32_t us, wad_alarm_fn fn,
                              void *context)
{
    return once(a, alarm, wad_timebase_us(a->base, us), fn, context);
}

wad_status wad_alarm_after_ms(const wad_alarms *a, wad_alarm *alarm, uint32_t ms, wad_alarm_fn fn,
                              void *context)
{
    return once(a, alarm, wad_timebase_ms(a->base, ms), fn, context);
}

void wad_alarm_stop(const wad_alarms *a, wad_alarm *alarm)
{
    uint32_t state = wad_port_irq_save();
    take_out(a, alarm);
    alarm->whole = 0; /* its own function may stop it */
    wad_port_irq_restore(state);
}

#endif
