/* SPDX-License-Identifier: MIT */
/* Built once for each counter layout of a chip: what comes out at a timer's channels. */
#include "timer_private.h"

#ifdef WAD_COUNTER_TABLE

#define FULL_DUTY 10000u

/* Which channels there are: a field array in one register, or one register a channel. */
static bool has_channel(unsigned channel)
{
    return wad_has(R.compare) && wad_has(R.drive) && channel < R.drive.n;
}

wad_status wad_timer_set_duty(wad_timer *t, unsigned channel, uint32_t duty_bp)
{
    if (!has_channel(channel))
        return WAD_E_ABSENT;
    if (duty_bp > FULL_DUTY)
        return WAD_E_ARG;
    uint32_t counts = wad_muldiv(t->period, duty_bp, FULL_DUTY);
    if (t->centre) { /* c counts up and c - 1 down: an odd number, but for none and all */
        put(t->block->base, wad_at(R.compare, channel),
            counts >= t->period ? t->period / 2u + 1u : (counts + 1u) / 2u);
        return WAD_OK;
    }
    if (wad_has(R.start)) { /* low until the compare, high from there to the overflow */
        put(t->block->base, wad_at(R.compare, channel), 0u - counts);
        put(t->block->base, wad_at(R.drive, channel), counts ? R.drive_pwm_low : R.drive_off);
        return WAD_OK;
    }
    put(t->block->base, wad_at(R.compare, channel), counts);
    return WAD_OK;
}

/* Values written before the start count from the first period on. */
static void take_over(const wad_timer *t)
{
    uintptr_t base = t->block->base;
    if (wad_has(R.load) && !wad_get(base, R.enable)) {
        put(base, R.load, 1);
        wad_clear(base, R.wrap);
    }
}

static wad_status bring_out(const wad_timer *t, unsigned channel, wad_route route)
{
    take_over(t);
    wad_status st = wad_pin_route(route);
    if (st == WAD_OK && wad_has(R.output_on))
        put(t->block->base, wad_at(R.output_on, channel), 1);
    return st;
}

wad_status wad_timer_pwm(wad_timer *t, unsigned channel, wad_route route, uint32_t duty_bp)
{
    wad_status st = wad_timer_set_duty(t, channel, duty_bp);
    if (st != WAD_OK)
        return st;
    if (!wad_has(R.start))
        put(t->block->base, wad_at(R.drive, channel), R.drive_pwm);
    return bring_out(t, channel, route);
}

wad_status wad_timer_set_compare(wad_timer *t, unsigned channel, uint32_t count)
{
    if (!has_channel(channel))
        return WAD_E_ABSENT;
    if (count >= t->period || (t->centre && count > t->period / 2u))
        return WAD_E_RANGE;
    put(t->block->base, wad_at(R.compare, channel),
        wad_has(R.start) ? 0u - t->period + count : count);
    return WAD_OK;
}

wad_status wad_timer_output(wad_timer *t, unsigned channel, wad_route route, wad_timer_edge edge,
                            uint32_t count)
{
    const uint8_t codes[] = {R.drive_set, R.drive_clear, R.drive_toggle};
    if (!has_channel(channel) || codes[edge] == R.drive_off)
        return WAD_E_ABSENT;
    wad_status st = wad_timer_set_compare(t, channel, count);
    if (st != WAD_OK)
        return st;
    put(t->block->base, wad_at(R.drive, channel), codes[edge]);
    return bring_out(t, channel, route);
}

wad_status wad_timer_on_match(wad_timer *t, wad_timer_match *m, unsigned channel, uint32_t count,
                              unsigned priority, wad_timer_fn fn, void *context)
{
    uintptr_t base = t->block->base;
    if (!fn)
        return WAD_E_ARG;
    if (!wad_has(R.match_irq) || t->block->irq < 0)
        return WAD_E_ABSENT;
    wad_status st = wad_timer_set_compare(t, channel, count);
    if (st != WAD_OK)
        return st;
    take_over(t);
    *m = (wad_timer_match){.channel = channel, .fn = fn, .context = context, .next = t->matches};
    t->matches = m;
    wad_clear(base, wad_at(R.match, channel));
    put(base, wad_at(R.match_irq, channel), 1);
    return wad_irq_enable(t->block->irq, priority);
}

/* ---- pairs ---- */

/* Never shorter than asked for: rounded up to whole clock edges. */
static uint32_t dead_edges(const wad_timer *t, uint32_t ns)
{
    uint64_t rest, edges = wad_divide((uint64_t)ns * t->block->clock_hz(), 1000000000u, &rest);
    edges += rest != 0;
    return edges > 0xFFFFFFFFu ? 0xFFFFFFFFu : (uint32_t)edges;
}

wad_status wad_timer_pair(wad_timer *t, unsigned channel, wad_route high, wad_route low,
                          uint32_t dead_ns, uint32_t duty_bp)
{
    uintptr_t base = t->block->base;
    if (!wad_has(R.pair_on) || channel >= R.pair_on.n)
        return WAD_E_ABSENT;
    uint32_t edges = dead_edges(t, dead_ns);
    if (edges > (wad_has(R.dead_time) ? wadi_ones(R.dead_time) : 0u))
        return WAD_E_RANGE;
    if (wad_has(R.dead_time))
        put(base, R.dead_time, edges);
    wad_status st = wad_timer_pwm(t, channel, high, duty_bp);
    if (st == WAD_OK)
        st = wad_pin_route(low);
    if (st == WAD_OK)
        put(base, wad_at(R.pair_on, channel), 1);
    return st;
}

#endif
