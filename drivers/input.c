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
    const uint8_t codes[] = {R.edge_rise, R.edge_fall, R.edge_both};
    uintptr_t at = base->block->base;
    *c = (wad_input){.base = base, .channel = channel};
    if (!wad_has(R.capture) || channel >= R.captured.n || base->block->irq < 0)
        return WAD_E_ABSENT;
    if (wad_has(R.filter) ? filter > wadi_ones(R.filter) : filter > 0)
        return WAD_E_RANGE;
    wad_status st = wad_pin_route(route);
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

void wad_input_handle(wad_input *c)
{
    uintptr_t base = c->base->block->base;
    wad_field captured = wad_at(R.captured, c->channel);
    if (!wad_get(base, captured))
        return;
    c->at = whole_count(c); /* before the flag: what comes now is not lost unseen */
    wad_clear(base, captured);
    if (wad_has(R.lost) && wad_get(base, wad_at(R.lost, c->channel))) {
        wad_clear(base, wad_at(R.lost, c->channel));
        c->lost++;
        c->measured = 0; /* it would be too short */
        c->first = c->at;
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
    c->first = c->at;
    c->measured = 0;
    wad_port_irq_restore(state);
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
