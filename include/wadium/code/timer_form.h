/* SPDX-License-Identifier: MIT */
/* The timer driver for one form: R is its role table, WADI_FORM its number, WADI_L(name) the form's
 * name of a function. Included by the chip's header for each form that it has, where
 * drivers/timer.c asks for it. */

/* The same setting as the compiler's, by the same steps. */
static wadi_count WADI_L(wadi_timer_solve)(const wad_timer *t, wad_rate rate)
{
    const uint32_t clock_hz = t->clock_hz ? t->clock_hz : t->unit->block.clock_hz();
    const uint64_t clocks = (uint64_t)clock_hz * rate.per;
    wadi_count best = {0, 0, 0, 0, false, false};
    if (!clocks || !rate.hz)
        return best;
    const uint32_t first = wadi_timer_first(t, &R, rate, clocks);
    for (uint32_t i = 0; i < 16u; i++)
        best = wadi_timer_try(t, &R, rate, clocks, first + i, best);
    return best;
}

/* The caller's counts. */
static wadi_count WADI_L(wadi_timer_chosen)(const wad_timer *t)
{
    const uint32_t p = t->prescale ? t->prescale : 1u;
    wadi_count c = {p, 0, t->centre ? t->counts / 2u : t->counts, 0, false, false};
    if (!R.prescale_power && wad_has(R.prescale))
        c.code = p - R.prescale_plus;
    while (R.prescale_power && c.code < 16u && wadi_timer_prescale(&R, c.code) < p)
        c.code++;
    c.any = c.code <= wadi_timer_codes(&R) && wadi_timer_prescale(&R, c.code) == p &&
            t->counts > 1u && !(t->centre && t->counts % 2u) &&
            wadi_timer_may_be(&R, t->unit->block.bits, t->centre, p, c.count);
    return c;
}

wad_status WADI_L(wadi_timer_open)(const wad_timer *t)
{
    const wad_block *block = &t->unit->block;
    if (!wadi_timer_has(t, &R))
        return WAD_E_ABSENT;
    if (!wadi_timer_duties_may_be(t) || !wadi_timer_agrees(t))
        return WAD_E_ARG;
    if (block->chooses_clock && !t->clock_hz && !wad_block_up(block, WADI_POLLS))
        return WAD_E_TIMEOUT;
    const wadi_count c =
        t->counts ? WADI_L(wadi_timer_chosen)(t) : WADI_L(wadi_timer_solve)(t, t->rate);
    const uint32_t period = t->centre ? 2u * c.count : c.count;
    if (!wadi_timer_is_near(t, c) || !wadi_timer_matches_may_be(t, period))
        return WAD_E_RANGE;
    if (!wad_block_up(block, WADI_POLLS))
        return WAD_E_TIMEOUT;
    wadi_timer_set(t, &R);
    wadi_timer_write_rate(t, &R, c);
    wadi_timer_channels(t, &R, period);
    wadi_timer_begin(t, &R, c.count);
    for (unsigned i = 0; i < WADI_TIMER_CHANNELS; i++) {
        wad_status st = t->pwm[i].route ? wadi_route_any(t->pwm[i].route) : WAD_OK;
        if (st != WAD_OK)
            return st;
    }
    wadi_timer_finish(t, &R);
    return wadi_timer_asks(t) ? wad_irq_enable(block->irq, t->priority) : WAD_OK;
}

void WADI_L(wadi_timer_close)(wadi_timer_at at)
{
    uint32_t state = wad_port_irq_save();
    wadi_timer_put(WADI_FORM, at.base, R.enable, 0);
    if (wad_has(R.wrap_irq))
        wadi_timer_put(WADI_FORM, at.base, R.wrap_irq, 0);
    if (wad_has(R.action))
        wadi_timer_put(WADI_FORM, at.base, R.action, R.action_off);
    for (unsigned i = 0; i < at.channels; i++) {
        if (wad_has(R.match_irq))
            wadi_timer_put(WADI_FORM, at.base, wad_at(R.match_irq, i), 0);
        if (wad_has(R.output_on))
            wadi_timer_put(WADI_FORM, at.base, wad_at(R.output_on, i), 0);
        if (wad_has(R.drive))
            wadi_timer_put(WADI_FORM, at.base, wad_at(R.drive, i), R.drive_off);
        if (wad_has(R.pair_on) && i < R.pair_on.n)
            wadi_timer_put(WADI_FORM, at.base, wad_at(R.pair_on, i), 0);
    }
    wad_port_irq_restore(state);
}

void WADI_L(wadi_timer_enable)(const wad_timer *t, bool on)
{
    wadi_timer_put(WADI_FORM, t->unit->block.base, R.enable, on);
}

uint32_t WADI_L(wadi_timer_period)(wadi_timer_at at)
{
    return wadi_timer_period_body(at, &R);
}

uint32_t WADI_L(wadi_timer_count)(wadi_timer_at at)
{
    uint32_t count = wad_get(at.base, R.count);
    return wad_has(R.start) ? count - wad_get(at.base, R.start) : count;
}

wad_status WADI_L(wadi_timer_set_rate)(const wad_timer *t, wad_rate rate, int32_t *off_ppm)
{
    const wadi_count c = WADI_L(wadi_timer_solve)(t, rate);
    if (!wadi_timer_is_near(t, c))
        return WAD_E_RANGE;
    if (off_ppm)
        *off_ppm = wadi_timer_ppm_of(c);
    uint32_t state = wad_port_irq_save(); /* prescaler and reload belong to one period */
    wadi_timer_write_rate(t, &R, c);
    wad_port_irq_restore(state);
    return WAD_OK;
}

/* ---- channels ---- */

wad_status WADI_L(wadi_timer_set_duty)(wadi_timer_at at, unsigned channel, uint32_t duty_bp)
{
    if (!wadi_timer_has_channel(&R, at.channels, channel))
        return WAD_E_ABSENT;
    if (duty_bp > 10000u)
        return WAD_E_ARG;
    const uint32_t period = wadi_timer_period_body(at, &R);
    wadi_timer_put_duty(at, &R, WADI_FORM, channel, period, duty_bp);
    if (wad_has(R.start))
        wadi_timer_put(WADI_FORM, at.base, wad_at(R.drive, channel),
                       wadi_timer_drive(&R, period, duty_bp));
    return WAD_OK;
}

wad_status WADI_L(wadi_timer_set_compare)(wadi_timer_at at, unsigned channel, uint32_t count)
{
    const uint32_t period = wadi_timer_period_body(at, &R);
    if (!wad_has(R.compare) || channel >= at.channels)
        return WAD_E_ABSENT;
    if (count >= period || (at.centre && count > period / 2u))
        return WAD_E_RANGE;
    wadi_timer_put(WADI_FORM, at.base, wad_at(R.compare, channel),
                   wad_has(R.start) ? 0u - period + count : count);
    return WAD_OK;
}

/* Values written before the start count from the first period on. */
static wad_status WADI_L(wadi_timer_bring_out)(wadi_timer_at at, unsigned channel, wad_route route)
{
    if (wad_has(R.load) && !wad_get(at.base, R.enable)) {
        wadi_timer_put(WADI_FORM, at.base, R.load, 1);
        if (wad_has(R.wrap))
            wad_clear(at.base, R.wrap);
    }
    wad_status st = wadi_route_any(route);
    if (st == WAD_OK && wad_has(R.output_on))
        wadi_timer_put(WADI_FORM, at.base, wad_at(R.output_on, channel), 1);
    return st;
}

wad_status WADI_L(wadi_timer_pwm)(wadi_timer_at at, unsigned channel, wad_route route,
                                  uint32_t duty_bp)
{
    if (!wadi_timer_has_pwm(&R, at.channels, channel))
        return WAD_E_ABSENT;
    wad_status st = WADI_L(wadi_timer_set_duty)(at, channel, duty_bp);
    if (st != WAD_OK)
        return st;
    if (!wad_has(R.start))
        wadi_timer_put(WADI_FORM, at.base, wad_at(R.drive, channel), R.drive_pwm);
    return WADI_L(wadi_timer_bring_out)(at, channel, route);
}

wad_status WADI_L(wadi_timer_output)(wadi_timer_at at, unsigned channel, wad_route route,
                                     wad_timer_edge edge, uint32_t count)
{
    const uint8_t code = edge == WAD_OUTPUT_SET     ? R.drive_set
                         : edge == WAD_OUTPUT_CLEAR ? R.drive_clear
                                                    : R.drive_toggle;
    if (!wadi_timer_has_channel(&R, at.channels, channel) || code == WAD_NO_CODE)
        return WAD_E_ABSENT;
    wad_status st = WADI_L(wadi_timer_set_compare)(at, channel, count);
    if (st != WAD_OK)
        return st;
    wadi_timer_put(WADI_FORM, at.base, wad_at(R.drive, channel), code);
    return WADI_L(wadi_timer_bring_out)(at, channel, route);
}

/* ---- pairs ---- */

/* Never shorter than asked for: rounded up to whole clock edges. */
static uint32_t WADI_L(wadi_timer_dead_edges)(const wad_timer *t, uint32_t ns)
{
    const uint32_t clock = t->clock_hz ? t->clock_hz : t->unit->block.clock_hz();
    uint64_t rest, edges = wad_divide((uint64_t)ns * clock, 1000000000u, &rest);
    edges += rest != 0;
    return edges > 0xFFFFFFFFu ? 0xFFFFFFFFu : (uint32_t)edges;
}

wad_status WADI_L(wadi_timer_pair)(const wad_timer *t, unsigned channel, wad_route high,
                                   wad_route low, uint32_t dead_ns, uint32_t duty_bp)
{
    const wadi_timer_at at = wadi_timer_at_of(t);
    if (!wad_has(R.pair_on) || channel >= R.pair_on.n)
        return WAD_E_ABSENT;
    uint32_t edges = WADI_L(wadi_timer_dead_edges)(t, dead_ns);
    if (edges > (wad_has(R.dead_time) ? wadi_ones(R.dead_time) : 0u))
        return WAD_E_RANGE;
    if (wad_has(R.dead_time))
        wadi_timer_put(WADI_FORM, at.base, R.dead_time, edges);
    wad_status st = WADI_L(wadi_timer_pwm)(at, channel, high, duty_bp);
    if (st == WAD_OK)
        st = wadi_route_any(low);
    if (st == WAD_OK)
        wadi_timer_put(WADI_FORM, at.base, wad_at(R.pair_on, channel), 1);
    return st;
}

/* ---- in the handler ---- */

void WADI_L(wadi_timer_reload)(wadi_timer_at at, uint32_t cost)
{
    const uint32_t back = cost - wadi_timer_period_body(at, &R);
    uint32_t state = wad_port_irq_save(); /* nothing may lengthen the way from reading to writing */
    wadi_timer_put(WADI_FORM, at.base, R.count, wad_get(at.base, R.count) + back);
    wad_port_irq_restore(state);
}

void WADI_L(wadi_timer_handle)(const wad_timer *t)
{
    wadi_timer_handle_body(t, &R);
}
