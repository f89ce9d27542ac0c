/* SPDX-License-Identifier: MIT */
/* Built once for each counter layout of a chip: WAD_CHIP names its generated roles header. */
#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/timer.h>

#include WAD_CHIP

#define R           WAD_COUNTER_TABLE
#define RESET_POLLS 1000u
#define FULL_DUTY   10000u

static uint32_t largest(uint8_t bits, uint32_t plus)
{
    return bits >= 32 ? 0xFFFFFFFFu : (1u << bits) - 1u + plus;
}

/* A register that a lock keeps is opened for the one write, with nothing in between. */
static inline void put(uintptr_t base, wad_field f, uint32_t value)
{
    if (!(f.how & WAD_HOW_LOCKED)) {
        wad_put(base, f, value);
        return;
    }
    uint32_t state = wad_port_irq_save();
    WAD_COUNTER_UNLOCK(base);
    wad_put(base, f, value);
    WAD_COUNTER_LOCK(base);
    wad_port_irq_restore(state);
}

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

static wad_status solve(wad_timer *t, wad_rate rate, int32_t *error_ppm)
{
    const wad_divider divider = {.up = 1,
                                 .down = 1,
                                 .min = 1,
                                 .max = longest_period(t->block),
                                 .prescale_min = 1,
                                 .prescale_max = largest_prescale(),
                                 .power = R.prescale_power,
                                 .counts_up = wad_has(R.start)};
    wad_divider_setting s;
    wad_status st = wad_divider_solve(&divider, t->block->clock_hz(), rate, &s);
    if (st == WAD_OK && s.prescale == 1 && s.count == 1)
        st = WAD_E_RANGE;
    if (st != WAD_OK)
        return st;
    t->prescale = s.prescale;
    t->period = s.count;
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
        put(base, R.reload, t->period - R.reload_plus);
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

wad_status wad_timer_open(wad_timer *t, const wad_block *block, wad_rate rate, int32_t *error_ppm)
{
    *t = (wad_timer){.block = block};
    if (block->chooses_clock && !wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    wad_status st = solve(t, rate, error_ppm);
    if (st != WAD_OK)
        return st;
    if (!wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    uintptr_t base = block->base;
    put(base, R.enable, 0);
    if (wad_has(R.mode))
        put(base, R.mode, R.mode_up);
    if (wad_has(R.shadow))
        put(base, R.shadow, 1);
    if (wad_has(R.autoload))
        put(base, R.autoload, 1);
    write_rate(t);
    begin_first_period(t);
    wad_clear(base, R.wrap);
    return WAD_OK;
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
    if (wad_has(R.start)) { /* low until the compare, high from there to the overflow */
        put(t->block->base, wad_at(R.compare, channel), 0u - counts);
        put(t->block->base, wad_at(R.drive, channel), counts ? R.drive_pwm_low : R.drive_off);
        return WAD_OK;
    }
    put(t->block->base, wad_at(R.compare, channel), counts);
    return WAD_OK;
}

wad_status wad_timer_pwm(wad_timer *t, unsigned channel, wad_route route, uint32_t duty_bp)
{
    wad_status st = wad_timer_set_duty(t, channel, duty_bp);
    if (st != WAD_OK)
        return st;
    uintptr_t base = t->block->base;
    if (!wad_has(R.start))
        put(base, wad_at(R.drive, channel), R.drive_pwm);
    if (wad_has(R.load) && !wad_get(base, R.enable)) {
        put(base, R.load, 1);
        wad_clear(base, R.wrap);
    }
    st = wad_pin_route(route);
    if (st == WAD_OK && wad_has(R.output_on))
        put(base, wad_at(R.output_on, channel), 1);
    return st;
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

void wad_timer_handle(wad_timer *t)
{
    if (wad_take(t->block->base, R.wrap) && t->on_wrap)
        t->on_wrap(t->context);
}
