/* SPDX-License-Identifier: MIT */
/* Built once for a chip: WAD_CHIP names its generated roles header. */
#include WAD_CHIP

#ifdef WADI_TIMEBASE_FORMS

#include <wadium/input.h>

/* Of several forms the table is looked up. */
#define R (*wadi_timebase_roles(c->base->unit->form))

wad_status wad_input_open(const wad_input *c)
{
    const uint8_t codes[] = {R.edge_rise, R.edge_fall, R.edge_both, R.edge_both};
    const wad_block *block = &c->base->unit->block;
    const uintptr_t at = block->base;
    if (!c->seen || (unsigned)c->edge > WAD_INPUT_PULSE)
        return WAD_E_ARG;
    if (!wad_has(R.capture) || c->channel >= R.captured.n || block->irq < 0 ||
        !wadi_has_code(R.edge, codes[c->edge]))
        return WAD_E_ABSENT;
    if (wad_has(R.filter) ? c->filter > wadi_ones(R.filter) : c->filter > 0)
        return WAD_E_RANGE;
    wad_status st = wadi_route_any(c->route);
    if (st != WAD_OK)
        return st;
    wad_put(at, wad_at(R.captured_irq, c->channel), 0);
    *c->seen = (wad_input_seen){0};
    if (wad_has(R.filter))
        wad_put(at, wad_at(R.filter, c->channel), c->filter);
    wad_put(at, wad_at(R.edge, c->channel), codes[c->edge]);
    if (wad_has(R.lost))
        wad_clear(at, wad_at(R.lost, c->channel));
    wad_clear(at, wad_at(R.captured, c->channel));
    wad_put(at, wad_at(R.captured_irq, c->channel), 1);
    return wad_irq_enable(block->irq, c->priority);
}

void wad_input_close(const wad_input *c)
{
    const uintptr_t at = c->base->unit->block.base;
    wad_put(at, wad_at(R.captured_irq, c->channel), 0);
    if (wadi_has_code(R.edge, R.edge_off))
        wad_put(at, wad_at(R.edge, c->channel), R.edge_off);
}

/* The capture's bits, and above them those of a moment not earlier. */
static uint64_t whole_count(const wad_input *c)
{
    uint64_t low = wad_get(c->base->unit->block.base, wad_at(R.capture, c->channel));
    uint64_t now = wad_timebase_now(c->base), mask = wadi_ones(R.capture);
    return (now - ((now - low) & mask)) & wad_timebase_mask(c->base);
}

/* Begins to measure anew, from the next rise on. */
static void forget(const wad_input *c)
{
    c->seen->lost++;
    c->seen->measured = c->seen->widths = 0; /* they would be too short */
    c->seen->high = 0;
    c->seen->first = c->seen->at;
    c->seen->began = false;
}

/* The pin stands as the edge left it, if no other edge came meanwhile. */
static void take_pulse(const wad_input *c, bool high)
{
    if (!high) {
        if (c->seen->began) {
            c->seen->high += (c->seen->at - c->seen->rise_at) & wad_timebase_mask(c->base);
            c->seen->widths++;
        }
        return;
    }
    if (c->seen->began)
        c->seen->measured++;
    else
        c->seen->first = c->seen->at;
    c->seen->began = true;
    c->seen->rise_at = c->seen->at;
}

void wad_input_handle(const wad_input *c)
{
    uintptr_t base = c->base->unit->block.base;
    wad_field captured = wad_at(R.captured, c->channel);
    if (!wad_get(base, captured))
        return;
    c->seen->at = whole_count(c); /* before the flag: what comes now is not lost unseen */
    if ((captured.how & WAD_HOW_KIND) != WAD_HOW_DATA) /* else reading has cleared it */
        wad_clear(base, captured);
    if (wad_has(R.lost) && wad_get(base, wad_at(R.lost, c->channel))) {
        wad_clear(base, wad_at(R.lost, c->channel));
        forget(c);
    } else if (c->edge == WAD_INPUT_PULSE) {
#ifdef WADI_GPIO_FORMS
        bool high = wad_pin_read(WAD_ROUTE_PIN(c->route));
#else
        bool high = false; /* nobody can have said which pin */
#endif
        c->seen->edges++;
        if (wad_get(base, captured)) /* the next edge is there: which one this was is not known */
            forget(c);
        else
            take_pulse(c, high);
    } else if (c->seen->edges++ == 0) {
        c->seen->first = c->seen->at;
    } else {
        c->seen->measured++;
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

wad_status wad_input_read(const wad_input *c, wad_input_result *r)
{
    const uint32_t clock = wadi_timebase_clock_hz(c->base);
    const uint32_t by = wadi_timebase_prescale(c->base, &R, clock);
    uint32_t state = wad_port_irq_save();
    uint64_t mask = wad_timebase_mask(c->base), first = c->seen->first;
    r->periods = c->seen->measured;
    r->last_at = c->seen->at;
    uint64_t high = c->seen->high;
    uint32_t widths = c->seen->widths;
    c->seen->first = c->edge == WAD_INPUT_PULSE ? c->seen->rise_at : c->seen->at;
    if (c->edge == WAD_INPUT_PULSE) /* the last whole period ended with the last rise */
        r->last_at = c->seen->rise_at;
    c->seen->measured = c->seen->widths = 0;
    c->seen->high = 0;
    wad_port_irq_restore(state);
    r->pulse_ns = widths ? scale(high * by, 3, (uint64_t)widths * clock) : 0;
    r->counts = (r->last_at - first) & mask;
    if (!r->periods || !r->counts)
        return WAD_E_EMPTY;
    uint64_t hz = scale((uint64_t)r->periods * clock, 1, r->counts * by);
    r->millihertz = hz >> 32 ? 0xFFFFFFFFu : (uint32_t)hz;
    r->period_ns = scale(r->counts * by, 3, (uint64_t)r->periods * clock);
    return WAD_OK;
}

wad_status wad_input_wait(const wad_input *c, uint32_t periods, uint32_t us, wad_input_result *r)
{
    wad_deadline d = wad_deadline_us(c->base, us);
    uint32_t from = c->seen->edges;
    bool began = from != 0;
    while (c->seen->edges - from < periods + !began)
        if (wad_deadline_passed(c->base, &d))
            return WAD_E_TIMEOUT;
    return wad_input_read(c, r);
}

#endif
