/* SPDX-License-Identifier: MIT */
/* Timers, compiled for each form that the chip has. */
#define WADI_COUNTER_BODIES
#include WAD_CHIP

#ifdef WADI_COUNTER_FORMS

/* ---- a unit that only the run knows ---- */

#define ANY(type, name, form_, params, ...)                                                        \
    type name##_any params                                                                         \
    {                                                                                              \
        return WADI_OF_FORM(WADI_COUNTER_MORE, form_, name, __VA_ARGS__);                          \
    }

ANY(wad_status, wadi_timer_open, t->unit->form, (const wad_timer *t), t)
ANY(wad_status, wadi_timer_set_rate, t->unit->form, (const wad_timer *t, wad_rate r, int32_t *ppm),
    t, r, ppm)
ANY(wad_status, wadi_timer_pair, t->unit->form,
    (const wad_timer *t, unsigned ch, wad_route high, wad_route low, uint32_t ns, uint32_t duty), t,
    ch, high, low, ns, duty)
ANY(uint32_t, wadi_timer_count, at.form, (wadi_timer_at at), at)
ANY(uint32_t, wadi_timer_period, at.form, (wadi_timer_at at), at)
ANY(wad_status, wadi_timer_set_duty, at.form, (wadi_timer_at at, unsigned ch, uint32_t duty), at,
    ch, duty)
ANY(wad_status, wadi_timer_set_compare, at.form, (wadi_timer_at at, unsigned ch, uint32_t count),
    at, ch, count)
ANY(wad_status, wadi_timer_pwm, at.form,
    (wadi_timer_at at, unsigned ch, wad_route route, uint32_t duty), at, ch, route, duty)
ANY(wad_status, wadi_timer_output, at.form,
    (wadi_timer_at at, unsigned ch, wad_route route, wad_timer_edge edge, uint32_t count), at, ch,
    route, edge, count)

void wadi_timer_close_any(wadi_timer_at at)
{
    WADI_OF_FORM(WADI_COUNTER_MORE, at.form, wadi_timer_close, at);
}

void wadi_timer_enable_any(const wad_timer *t, bool on)
{
    WADI_OF_FORM(WADI_COUNTER_MORE, t->unit->form, wadi_timer_enable, t, on);
}

void wadi_timer_reload_any(wadi_timer_at at, uint32_t cost)
{
    WADI_OF_FORM(WADI_COUNTER_MORE, at.form, wadi_timer_reload, at, cost);
}

void wadi_timer_handle_any(const wad_timer *t)
{
    WADI_OF_FORM(WADI_COUNTER_MORE, t->unit->form, wadi_timer_handle, t);
}

#endif
