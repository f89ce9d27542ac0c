/* SPDX-License-Identifier: MIT */
/* Built once for a chip: WAD_CHIP names its generated roles header. */
#include <wadium/clock.h>
#include <wadium/input.h>
#include <wadium/irq.h>

#include WAD_CHIP

#ifdef WAD_TIMEBASE_TABLE

#define R WAD_TIMEBASE_TABLE

wad_status wad_input_open(wad_input *c, const wad_timebase *base, unsigned channel, wad_route route,
                          wad_input_edge edge, unsigned filter, unsigned priority)
{
    const uint8_t codes[] = {R.edge_rise, R.edge_fall, R.edge_both, R.edge_both};
    uintptr_t at = base->block->base;
    *c = (wad_input){.base = base,
                     .channel = channel,
                     .pin = WAD_ROUTE_PIN(route),
                     .pulses = edge == WAD_INPUT_PULSE};
    if (!wad_has(R.capture) || channel >= R.captured.n || base->block->irq < 0)
        return WAD_E_ABSENT;
    if ((unsigned)edge > WAD_INPUT_PULSE)
        return WAD_E_ARG;
    if (!wadi_has_code(R.edge, codes[edge]))
        return WAD_E_ABSENT;
    if (wad_has(R.filter) ? filter > wadi_ones(R.filter) : filter > 0)
        return WAD_E_RANGE;
    wad_status st = wadi_route_any(route);
    if (st != WAD_OK)
        return st;
    if (wad_has(R.filter))
        wad_put(at, wad_at(R.filter, channel), filter);
    wad_put(at, wad_at(R.edge, channel), codes[edge]);
    if (wad_has(R.lost))
        wad_clear(at, wad_at(R.lost, channel));
    wad_clear(at, wad_at(R.captured, channel));
    wad_put(at, wad_at(R.captured_irq, channel), 1);
    return wad_irq_enable(base->block->irq, priority);
}

/* The capture's bits, and above them those of a moment not earlier. */
static uint64_t whole_count(const wad_input *c)
{
    uint64_t low = wad_get(c->base->block->base, wad_at(R.capture, c->channel));
    uint64_t now = wad_timebase_now(c->base), mask = wadi_ones(R.capture);
    return (now - ((now - low) & mask)) & wad_timebase_mask(c->base);
}

/* Begins to measure anew, from the next rise on. */
static void forget(wad_input *c)
{
    c->lost++;
    c->measured = c->widths = 0; /* they would be too short */
    c->high = 0;
    c->first = c->at;
    c->began = false;
}

/* The pin stands as the edge left it, if no other edge came meanwhile. */
static void take_pulse(wad_input *c, bool high)
{
    if (!high) {
        if (c->began) {
            c->high += (c->at - c->rise_at) & wad_timebase_mask(c->base);
            c->widths++;
        }
        return;
    }
    if (c->began)
        c->measured++;
    else
        c->first = c->at;
    c->began = true;
    c->rise_at = c->at;
}

void wad_input_handle(wad_input *c)
{
    uintptr_t base = c->base->block->base;
    wad_field captured = wad_at(R.captured, c->channel);
    if (!wad_get(base, captured))
        return;
    c->at = whole_count(c); /* before the flag: what comes now is not lost unseen */
    if ((captured.how & WAD_HOW_KIND) != WAD_HOW_DATA) /* else reading has cleared it */
        wad_clear(base, captured);
    if (wad_has(R.lost) && wad_get(base, wad_at(R.lost, c->channel))) {
        wad_clear(base, wad_at(R.lost, c->channel));
        forget(c);
    } else if (c->pulses) {
#ifdef WADI_GPIO_FORMS
        bool high = wad_pin_read(c->pin);
#else
        bool high = false; /* nobody can have said which pin */
#endif
        c->edges++;
        if (wad_get(base, captured)) /* the next edge is there: which one this was is not known */
            forget(c);
        else
            take_pulse(c, high);
    } else if (c->edges++ == 0) {
        c->first = c->at;
    } else {
        c->measured++;
    }
}

/* n * 1000 ** thousands / d, rounded, digit by digit to the base of 1000: no product grows large.
 */
static uint64_t scale(uint64_t n, unsigned thousands, uint64_t d)
{
    uint64_t rest, value = wad_divide(n, d, &rest);
    while (thousands--)
        value = value * 1000u + wad_divide(rest * 1000u, d, &rest);
    return value + (rest >= d - rest);
}

wad_status wad_input_read(wad_input *c, wad_input_result *r)
{
    uint32_t state = wad_port_irq_save();
    uint64_t mask = wad_timebase_mask(c->base), first = c->first;
    r->periods = c->measured;
    r->last_at = c->at;
    uint64_t high = c->high;
    uint32_t widths = c->widths;
    c->first = c->pulses ? c->rise_at : c->at;
    if (c->pulses) /* the last whole period ended with the last rise */
        r->last_at = c->rise_at;
    c->measured = c->widths = 0;
    c->high = 0;
    wad_port_irq_restore(state);
    r->pulse_ns =
        widths ? scale(high * c->base->prescale, 3, (uint64_t)widths * c->base->clock_hz) : 0;
    r->counts = (r->last_at - first) & mask;
    if (!r->periods || !r->counts)
        return WAD_E_EMPTY;
    uint64_t hz = scale((uint64_t)r->periods * c->base->clock_hz, 1, r->counts * c->base->prescale);
    r->millihertz = hz >> 32 ? 0xFFFFFFFFu : (uint32_t)hz;
    r->period_ns =
        scale(r->counts * c->base->prescale, 3, (uint64_t)r->periods * c->base->clock_hz);
    return WAD_OK;
}

wad_status wad_input_wait(wad_input *c, uint32_t periods, uint32_t us, wad_input_result *r)
{
    wad_deadline d = wad_deadline_us(c->base, us);
    uint32_t from = c->edges;
    bool began = from != 0;
    while (c->edges - from < periods + !began)
        if (wad_deadline_passed(c->base, &d))
            return WAD_E_TIMEOUT;
    return wad_input_read(c, r);
}

#endif
