/* SPDX-License-Identifier: MIT */
/* Built once for each counter layout of a chip: WAD_CHIP names its generated roles header. */
#include "timer_private.h"

#ifdef WAD_COUNTER_TABLE

#define RESET_POLLS 1000u

/* A counter with a start value runs from there to its overflow: 2 ** bits - start counts. With
 * compare channels that hold the number of counts, one less, so that full duty fits the field. */
static uint32_t longest_period(const wad_block *block)
{
    if (wad_has(R.start))
        return largest(block->bits, 1);
    return largest(block->bits, R.reload_plus) - (wad_has(R.compare) ? 1u : 0u);
}

static uint32_t largest_prescale(void)
{
    if (!wad_has(R.prescale))
        return 1;
    if (R.prescale_power)
        return wad_power(R.prescale_power, wadi_ones(R.prescale));
    return largest(R.prescale.width, R.prescale_plus);
}

/* The prescaler's value; with powers only it is the exponent. */
static uint32_t prescale_value(const wad_timer *t)
{
    uint32_t value = 0;
    if (!R.prescale_power)
        return t->prescale - R.prescale_plus;
    while (wad_power(R.prescale_power, value) < t->prescale)
        value++;
    return value;
}

/* Up and down again: a period is twice the reload value. Full duty is one more than that. */
static wad_status solve(wad_timer *t, wad_rate rate, int32_t *error_ppm)
{
    const wad_divider divider = {.up = 1,
                                 .down = t->centre ? 2u : 1u,
                                 .min = 1,
                                 .max = t->centre ? largest(t->block->bits, 0) - 1u
                                                  : longest_period(t->block),
                                 .prescale_min = 1,
                                 .prescale_max = largest_prescale(),
                                 .power = R.prescale_power,
                                 .counts_up = wad_has(R.start)};
    wad_divider_setting s;
    wad_status st = wad_divider_solve(&divider, t->block->clock_hz(), rate, &s);
    if (st == WAD_OK && s.prescale == 1 && s.count == 1 && !t->centre)
        st = WAD_E_RANGE;
    if (st != WAD_OK)
        return st;
    t->prescale = s.prescale;
    t->period = t->centre ? 2u * s.count : s.count;
    if (error_ppm)
        *error_ppm = s.error_ppm;
    return WAD_OK;
}

static void write_rate(const wad_timer *t)
{
    uintptr_t base = t->block->base;
    if (wad_has(R.prescale))
        put(base, R.prescale, prescale_value(t));
    if (wad_has(R.start))
        put(base, R.start, 0u - t->period);
    else
        put(base, R.reload, t->centre ? t->period / 2u : t->period - R.reload_plus);
}

/* So that the first period is whole: by the load strobe, else by setting the count itself. */
static void begin_first_period(const wad_timer *t)
{
    uintptr_t base = t->block->base;
    if (wad_has(R.load))
        put(base, R.load, 1);
    else if (wad_has(R.count))
        put(base, R.count, wad_has(R.start) ? 0u - t->period : 0);
}

/* Configures the block, stopped; `rate` NULL: the counts are chosen already. */
static wad_status open_block(wad_timer *t, const wad_rate *rate, int32_t *error_ppm)
{
    const wad_block *block = t->block;
    if (block->chooses_clock && !wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    wad_status st = rate ? solve(t, *rate, error_ppm) : WAD_OK;
    if (st != WAD_OK)
        return st;
    if (!wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    uintptr_t base = block->base;
    put(base, R.enable, 0);
    if (wad_has(R.mode))
        put(base, R.mode, t->centre ? R.mode_updown : R.mode_up);
    if (wad_has(R.shadow))
        put(base, R.shadow, 1);
    if (wad_has(R.autoload))
        put(base, R.autoload, 1);
    write_rate(t);
    begin_first_period(t);
    wad_clear(base, R.wrap);
    return WAD_OK;
}

wad_status wad_timer_open(wad_timer *t, const wad_block *block, wad_rate rate, int32_t *error_ppm)
{
    *t = (wad_timer){.block = block};
    return open_block(t, &rate, error_ppm);
}

wad_status wad_timer_open_centre(wad_timer *t, const wad_block *block, wad_rate rate,
                                 int32_t *error_ppm)
{
    *t = (wad_timer){.block = block, .centre = true};
    if (!wad_has(R.mode) || R.mode_updown == R.mode_up || wad_has(R.start))
        return WAD_E_ABSENT;
    return open_block(t, &rate, error_ppm);
}

wad_status wad_timer_open_counts(wad_timer *t, const wad_block *block, uint32_t prescale,
                                 uint32_t counts)
{
    *t = (wad_timer){.block = block, .prescale = prescale, .period = counts};
    uint32_t exact = 1;
    while (R.prescale_power && exact < prescale)
        exact *= R.prescale_power;
    if (!prescale || prescale > largest_prescale() || (R.prescale_power && exact != prescale) ||
        counts < 2u || counts > longest_period(block))
        return WAD_E_RANGE;
    return open_block(t, NULL, NULL);
}

wad_status wad_timer_on_wrap(wad_timer *t, unsigned priority, wad_timer_fn fn, void *context)
{
    if (!fn)
        return WAD_E_ARG;
    if (t->block->irq < 0)
        return WAD_E_ABSENT;
    t->on_wrap = fn;
    t->context = context;
    wad_clear(t->block->base, R.wrap);
    put(t->block->base, R.wrap_irq, 1);
    return wad_irq_enable(t->block->irq, priority);
}

wad_status wad_timer_set_rate(wad_timer *t, wad_rate rate, int32_t *error_ppm)
{
    wad_timer next = *t;
    wad_status st = solve(&next, rate, error_ppm);
    if (st != WAD_OK)
        return st;
    t->prescale = next.prescale;
    t->period = next.period;
    uint32_t state = wad_port_irq_save(); /* prescaler and reload belong to one period */
    write_rate(t);
    wad_port_irq_restore(state);
    return WAD_OK;
}

wad_status wad_timer_one_shot(wad_timer *t, bool on)
{
    if (!wad_has(R.one_shot))
        return WAD_E_ABSENT;
    put(t->block->base, R.one_shot, on);
    return WAD_OK;
}

wad_status wad_timer_follow(wad_timer *t, unsigned trigger, wad_timer_action action)
{
    const uint8_t codes[] = {R.action_off, R.action_start, R.action_gate, R.action_reset,
                             R.action_count};
    if (!wad_has(R.trigger) || (action != WAD_FOLLOW_NOTHING && codes[action] == codes[0]))
        return WAD_E_ABSENT;
    if (trigger > wadi_ones(R.trigger))
        return WAD_E_RANGE;
    put(t->block->base, R.action, codes[0]);
    put(t->block->base, R.trigger, trigger);
    put(t->block->base, R.action, codes[action]);
    return WAD_OK;
}

wad_status wad_timer_manual_reload(wad_timer *t)
{
    if (!wad_has(R.autoload))
        return WAD_E_ABSENT;
    put(t->block->base, R.autoload, 0);
    return WAD_OK;
}

void wad_timer_reload(wad_timer *t, uint32_t cost)
{
    uintptr_t base = t->block->base;
    uint32_t state = wad_port_irq_save(); /* nothing may lengthen the way from reading to writing */
    put(base, R.count, wad_get(base, R.count) + cost - t->period);
    wad_port_irq_restore(state);
}

void wad_timer_start(wad_timer *t)
{
    put(t->block->base, R.enable, 1);
}

void wad_timer_stop(wad_timer *t)
{
    put(t->block->base, R.enable, 0);
}

uint32_t wad_timer_count(const wad_timer *t)
{
    uint32_t count = wad_get(t->block->base, R.count);
    return wad_has(R.start) ? count + t->period - (largest(t->block->bits, 1)) : count;
}

/* A flag whose interrupt is not enabled is left alone: somebody may poll it. */
static void handle_matches(const wad_timer *t)
{
    uintptr_t base = t->block->base;
    for (const wad_timer_match *m = t->matches; m; m = m->next)
        if (wad_take(base, wad_at(R.match, m->channel)))
            m->fn(m->context);
}

void wad_timer_handle(wad_timer *t)
{
    uintptr_t base = t->block->base;
    if (t->on_wrap && wad_take(base, R.wrap))
        t->on_wrap(t->context);
    if (t->matches)
        handle_matches(t);
}

#endif
