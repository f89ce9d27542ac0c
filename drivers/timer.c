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

/* With compare channels one count less, so that full duty (compare = period) fits the field. */
static uint32_t longest_period(const wad_block *block)
{
    return largest(block->bits, R.reload_plus) - (wad_has(R.compare) ? 1u : 0u);
}

static wad_status solve(wad_timer *t, wad_rate rate, int32_t *error_ppm)
{
    uint32_t max_prescale = wad_has(R.prescale) ? largest(R.prescale.width, R.prescale_plus) : 1u;
    return wad_timer_solve(t->block->clock_hz(), rate, max_prescale, longest_period(t->block),
                           &t->prescale, &t->period, error_ppm);
}

static void write_rate(const wad_timer *t)
{
    uintptr_t base = t->block->base;
    if (wad_has(R.prescale))
        wad_put(base, R.prescale, t->prescale - R.prescale_plus);
    wad_put(base, R.reload, t->period - R.reload_plus);
}

wad_status wad_timer_open(wad_timer *t, const wad_block *block, wad_rate rate, int32_t *error_ppm)
{
    *t = (wad_timer){.block = block};
    wad_status st = solve(t, rate, error_ppm);
    if (st != WAD_OK)
        return st;
    if (!wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    uintptr_t base = block->base;
    wad_put(base, R.enable, 0);
    if (wad_has(R.mode))
        wad_put(base, R.mode, R.mode_up);
    if (wad_has(R.shadow))
        wad_put(base, R.shadow, 1);
    write_rate(t);
    if (wad_has(R.load)) /* else the first period would still be the old one */
        wad_put(base, R.load, 1);
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
    wad_put(t->block->base, R.wrap_irq, 1);
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
    wad_put(t->block->base, wad_at(R.compare, channel), wad_muldiv(t->period, duty_bp, FULL_DUTY));
    return WAD_OK;
}

wad_status wad_timer_pwm(wad_timer *t, unsigned channel, wad_route route, uint32_t duty_bp)
{
    wad_status st = wad_timer_set_duty(t, channel, duty_bp);
    if (st != WAD_OK)
        return st;
    uintptr_t base = t->block->base;
    wad_put(base, wad_at(R.drive, channel), R.drive_pwm);
    if (wad_has(R.load) && !wad_get(base, R.enable)) {
        wad_put(base, R.load, 1);
        wad_clear(base, R.wrap);
    }
    st = wad_pin_route(route);
    if (st == WAD_OK && wad_has(R.output_on))
        wad_put(base, wad_at(R.output_on, channel), 1);
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

void wad_timer_start(wad_timer *t)
{
    wad_put(t->block->base, R.enable, 1);
}

void wad_timer_stop(wad_timer *t)
{
    wad_put(t->block->base, R.enable, 0);
}

uint32_t wad_timer_count(const wad_timer *t)
{
    return wad_get(t->block->base, R.count);
}

void wad_timer_handle(wad_timer *t)
{
    if (!wad_get(t->block->base, R.wrap))
        return;
    wad_clear(t->block->base, R.wrap);
    if (t->on_wrap)
        t->on_wrap(t->context);
}
