/* SPDX-License-Identifier: MIT */
/* The timer's bodies, written once over a role table: inline where unit and table are known,
 * compiled for each form in <wadium/code/timer_form.h>. Included by <wadium/timer.h> alone. */
#ifndef WADI_TIMER_CODE_H
#define WADI_TIMER_CODE_H

/* What most calls need of a timer: a pointer to it would keep all of it in flash. */
typedef struct wadi_timer_at {
    uintptr_t base;
    uint8_t bits, channels, form;
    bool centre;
} wadi_timer_at;

WADI_INLINE wadi_timer_at wadi_timer_at_of(const wad_timer *t)
{
    return (wadi_timer_at){t->unit->block.base, t->unit->block.bits, t->unit->channels,
                           t->unit->form, t->centre};
}

WADI_DECLARE(WADI_COUNTER_FORMS, wad_status, wadi_timer_open, const wad_timer *);
WADI_DECLARE(WADI_COUNTER_FORMS, void, wadi_timer_close, wadi_timer_at);
WADI_DECLARE(WADI_COUNTER_FORMS, void, wadi_timer_enable, const wad_timer *, bool);
WADI_DECLARE(WADI_COUNTER_FORMS, uint32_t, wadi_timer_count, wadi_timer_at);
WADI_DECLARE(WADI_COUNTER_FORMS, uint32_t, wadi_timer_period, wadi_timer_at);
WADI_DECLARE(WADI_COUNTER_FORMS, wad_status, wadi_timer_set_rate, const wad_timer *, wad_rate,
             int32_t *);
WADI_DECLARE(WADI_COUNTER_FORMS, wad_status, wadi_timer_set_duty, wadi_timer_at, unsigned,
             uint32_t);
WADI_DECLARE(WADI_COUNTER_FORMS, wad_status, wadi_timer_set_compare, wadi_timer_at, unsigned,
             uint32_t);
WADI_DECLARE(WADI_COUNTER_FORMS, wad_status, wadi_timer_pwm, wadi_timer_at, unsigned, wad_route,
             uint32_t);
WADI_DECLARE(WADI_COUNTER_FORMS, wad_status, wadi_timer_output, wadi_timer_at, unsigned, wad_route,
             wad_timer_edge, uint32_t);
WADI_DECLARE(WADI_COUNTER_FORMS, wad_status, wadi_timer_pair, const wad_timer *, unsigned,
             wad_route, wad_route, uint32_t, uint32_t);
WADI_DECLARE(WADI_COUNTER_FORMS, void, wadi_timer_reload, wadi_timer_at, uint32_t);
WADI_DECLARE(WADI_COUNTER_FORMS, void, wadi_timer_handle, const wad_timer *);

WADI_REFUSE(wadi_timer_rate_cannot_be,
            "wad_timer_open: no prescaler and count come near enough to this rate from this clock "
            "(.within_ppm; 1000 where it is not given)");
WADI_REFUSE(wadi_timer_lacks, "wad_timer_open: the block lacks something that the timer names: "
                              "counts, a channel, a mode, a trigger, or an interrupt");
WADI_REFUSE(wadi_timer_count_never_comes,
            "wad_timer_open: a function's count is never reached in this period");
WADI_REFUSE(wadi_timer_contradicts_itself,
            "wad_timer_open: a rate or counts, not both; a prescaler goes with counts, a trigger "
            "with an action, a duty with a pin, a count with a function and without a pin");
WADI_REFUSE(wadi_timer_duty_is_too_much, "wad_timer_open: a duty is 10 000 at the most");

WADI_INLINE const wad_counter_roles *wadi_counter_roles(unsigned form); /* the chip's header */
WADI_INLINE void wadi_counter_unlock(unsigned form, uintptr_t base);
WADI_INLINE void wadi_counter_lock(unsigned form, uintptr_t base);
WADI_INLINE uint32_t wadi_counter_writable(unsigned form, uint32_t off);

/* A step for each channel: unrolled where the timer is known, a loop where it is not. */
#ifdef WADI_COUNTER_BODIES
#define WADI_TIMER_EACH(STEP)                                                                      \
    for (unsigned i_ = 0; i_ < WADI_TIMER_CHANNELS; i_++) {                                        \
        STEP(i_)                                                                                   \
    }
#else
#define WADI_TIMER_EACH(STEP)                                                                      \
    WADI_TIMER_0(STEP)                                                                             \
    WADI_TIMER_1(STEP)                                                                             \
    WADI_TIMER_2(STEP)                                                                             \
    WADI_TIMER_3(STEP)                                                                             \
    WADI_TIMER_4(STEP) WADI_TIMER_5(STEP) WADI_TIMER_6(STEP) WADI_TIMER_7(STEP)
#define WADI_TIMER_0(STEP)                                                                         \
    {                                                                                              \
        STEP(0u)                                                                                   \
    }
#if WADI_TIMER_CHANNELS > 1
#define WADI_TIMER_1(STEP)                                                                         \
    {                                                                                              \
        STEP(1u)                                                                                   \
    }
#else
#define WADI_TIMER_1(STEP)
#endif
#if WADI_TIMER_CHANNELS > 2
#define WADI_TIMER_2(STEP)                                                                         \
    {                                                                                              \
        STEP(2u)                                                                                   \
    }
#else
#define WADI_TIMER_2(STEP)
#endif
#if WADI_TIMER_CHANNELS > 3
#define WADI_TIMER_3(STEP)                                                                         \
    {                                                                                              \
        STEP(3u)                                                                                   \
    }
#else
#define WADI_TIMER_3(STEP)
#endif
#if WADI_TIMER_CHANNELS > 4
#define WADI_TIMER_4(STEP)                                                                         \
    {                                                                                              \
        STEP(4u)                                                                                   \
    }
#else
#define WADI_TIMER_4(STEP)
#endif
#if WADI_TIMER_CHANNELS > 5
#define WADI_TIMER_5(STEP)                                                                         \
    {                                                                                              \
        STEP(5u)                                                                                   \
    }
#else
#define WADI_TIMER_5(STEP)
#endif
#if WADI_TIMER_CHANNELS > 6
#define WADI_TIMER_6(STEP)                                                                         \
    {                                                                                              \
        STEP(6u)                                                                                   \
    }
#else
#define WADI_TIMER_6(STEP)
#endif
#if WADI_TIMER_CHANNELS > 7
#define WADI_TIMER_7(STEP)                                                                         \
    {                                                                                              \
        STEP(7u)                                                                                   \
    }
#else
#define WADI_TIMER_7(STEP)
#endif
#endif

/* ---- registers ---- */

/* A register that a lock keeps is opened for the one write, with nothing in between. */
WADI_INLINE void wadi_timer_put(unsigned form, uintptr_t base, wad_field f, uint32_t value)
{
    if (!(f.how & WAD_HOW_LOCKED)) {
        wad_put(base, f, value);
        return;
    }
    uint32_t state = wad_port_irq_save();
    wadi_counter_unlock(form, base);
    wad_put(base, f, value);
    wadi_counter_lock(form, base);
    wad_port_irq_restore(state);
}

WADI_INLINE void wadi_timer_gather(unsigned form, uintptr_t base, wadi_word *w, wad_field f,
                                   uint32_t value)
{
    if (!wadi_gather_here(w, f, value) && wad_has(f))
        wadi_timer_put(form, base, f, value);
}

/* As it lies with `with`, which says whether a lock keeps it. */
WADI_INLINE void wadi_timer_put_word(unsigned form, uintptr_t base, const wadi_word *w,
                                     wad_field with)
{
    const uint32_t writable = wadi_counter_writable(form, w->off);
    if (!(with.how & WAD_HOW_LOCKED) || !w->mask) {
        wadi_put_word(base, w, with.size, writable);
        return;
    }
    uint32_t state = wad_port_irq_save();
    wadi_counter_unlock(form, base);
    wadi_put_word(base, w, with.size, writable);
    wadi_counter_lock(form, base);
    wad_port_irq_restore(state);
}

/* ---- rate ---- */

typedef struct wadi_count {
    uint32_t prescale, code, count; /* a period up, or up and down again */
    uint32_t ppb;                   /* how far off, parts per thousand million */
    bool fast, any;
} wadi_count;

/* By the compiler where it knows, else by shifting: no 64-bit division helper is linked. */
WADI_INLINE uint64_t wadi_timer_quotient(uint64_t x, uint64_t y)
{
#ifdef WADI_COUNTER_BODIES
    uint64_t rest;
    return wad_divide(x, y, &rest);
#else
    return x / y;
#endif
}

/* `far` of `is`, not larger than it: both are made to fit. */
WADI_INLINE uint32_t wadi_timer_ppb(uint64_t far, uint64_t is)
{
#define WADI_FIT(n)                                                                                \
    if (is >> (33u + (n)-1u)) {                                                                    \
        is >>= (n);                                                                                \
        far >>= (n);                                                                               \
    }
    const bool exact = !far;
    WADI_FIT(16u)
    WADI_FIT(8u)
    WADI_FIT(4u)
    WADI_FIT(2u)
    WADI_FIT(1u)
    WADI_FIT(1u)
#undef WADI_FIT
    const uint64_t ppb = wadi_timer_quotient(far * 1000000000u, is);
    return exact ? 0u : ppb > 0xFFFFFFFFu ? 0xFFFFFFFFu : ppb ? (uint32_t)ppb : 1u;
}

WADI_INLINE uint32_t wadi_timer_all_ones(unsigned bits)
{
    return bits >= 32u ? 0xFFFFFFFFu : WADI_BIT(bits) - 1u;
}

/* A counter with a start value runs from there to its overflow: 2 ** bits - start counts. With
 * compare channels that hold the number of counts, one less, so that full duty fits the field. */
WADI_INLINE uint32_t wadi_timer_most(const wad_counter_roles *r, unsigned bits, bool centre)
{
    const uint32_t ones = wadi_timer_all_ones(bits);
    if (centre)
        return ones - 1u;
    if (wad_has(r->start))
        return bits >= 32u ? ones : ones + 1u;
    return (bits >= 32u ? ones : ones + r->reload_plus) - (wad_has(r->compare) ? 1u : 0u);
}

WADI_INLINE uint32_t wadi_timer_codes(const wad_counter_roles *r)
{
    return wad_has(r->prescale) ? wadi_ones(r->prescale) : 0u;
}

/* The prescaler for a code; a power that is too large is 0. */
WADI_INLINE uint32_t wadi_timer_prescale(const wad_counter_roles *r, uint32_t code)
{
    uint64_t p = 1;
    if (!wad_has(r->prescale))
        return 1;
    if (!r->prescale_power)
        return code + r->prescale_plus;
#define WADI_P(i) p *= code > (i) && p <= 0xFFFFFFFFu ? r->prescale_power : 1u;
    WADI_P(0u)
    WADI_P(1u)
    WADI_P(2u)
    WADI_P(3u)
    WADI_P(4u)
    WADI_P(5u)
    WADI_P(6u)
    WADI_P(7u)
    WADI_P(8u)
    WADI_P(9u)
    WADI_P(10u)
    WADI_P(11u)
    WADI_P(12u)
    WADI_P(13u)
    WADI_P(14u)
    WADI_P(15u)
#undef WADI_P
    return code > 16u || p > 0xFFFFFFFFu ? 0u : (uint32_t)p;
}

WADI_INLINE bool wadi_timer_may_be(const wad_counter_roles *r, unsigned bits, bool centre,
                                   uint32_t prescale, uint64_t count)
{
    if (!prescale || !count || count > wadi_timer_most(r, bits, centre))
        return false;
    return centre || prescale > 1u || count > 1u; /* a period of one clock is none */
}

/* The better of `best` and what one prescaler gives: nearest in rate, of equals the first. */
WADI_INLINE wadi_count wadi_timer_try(const wad_timer *t, const wad_counter_roles *r, wad_rate rate,
                                      uint64_t clocks, uint32_t code, wadi_count best)
{
    if ((best.any && !best.ppb) || code > wadi_timer_codes(r))
        return best;
    const uint32_t p = wadi_timer_prescale(r, code);
    const uint64_t each = (uint64_t)rate.hz * p * (t->centre ? 2u : 1u);
    if (!each)
        return best;
    uint64_t c = wadi_timer_quotient(clocks, each);
    const uint64_t rest = clocks - c * each;
    if (!c || rest * (c + 1u) > (each - rest) * c)
        c++;
    if (!wadi_timer_may_be(r, t->unit->block.bits, t->centre, p, c))
        return best;
    const uint64_t is = each * c;
    const bool fast = clocks > is;
    const uint32_t ppb = wadi_timer_ppb(fast ? clocks - is : is - clocks, is);
    return best.any && ppb >= best.ppb ? best : (wadi_count){p, code, (uint32_t)c, ppb, fast, true};
}

/* The first code whose prescaler may do: 16 from there are tried. */
WADI_INLINE uint32_t wadi_timer_first(const wad_timer *t, const wad_counter_roles *r, wad_rate rate,
                                      uint64_t clocks)
{
    const uint64_t most = wadi_timer_most(r, t->unit->block.bits, t->centre);
    if (r->prescale_power || !wad_has(r->prescale))
        return 0;
    const uint64_t p =
        wadi_timer_quotient(wadi_timer_quotient(clocks, rate.hz), t->centre ? 2u * most : most);
    const uint32_t codes = wadi_timer_codes(r);
    return p <= r->prescale_plus          ? 0u
           : p - r->prescale_plus > codes ? codes
                                          : (uint32_t)(p - r->prescale_plus);
}

WADI_INLINE wadi_count wadi_timer_known(const wad_timer *t, const wad_counter_roles *r)
{
    wadi_count b = {0, 0, 0, 0, false, false};
    if (t->counts) { /* the caller's choice */
        const uint32_t p = t->prescale ? t->prescale : 1u;
#define WADI_C(i)                                                                                  \
    if (wadi_timer_prescale(r, i) == p)                                                            \
        b = (wadi_count){p, i, t->centre ? t->counts / 2u : t->counts, 0, false, true};
        if (r->prescale_power) {
            WADI_C(0u)
            WADI_C(1u)
            WADI_C(2u)
            WADI_C(3u)
            WADI_C(4u)
            WADI_C(5u)
            WADI_C(6u)
            WADI_C(7u)
            WADI_C(8u)
            WADI_C(9u)
            WADI_C(10u)
            WADI_C(11u)
            WADI_C(12u)
            WADI_C(13u)
            WADI_C(14u)
            WADI_C(15u)
        } else {
            WADI_C(wad_has(r->prescale) ? p - r->prescale_plus : 0u)
        }
#undef WADI_C
        b.any = b.any && b.code <= wadi_timer_codes(r) && !(t->centre && t->counts % 2u) &&
                t->counts > 1u &&
                wadi_timer_may_be(r, t->unit->block.bits, t->centre, b.prescale, b.count);
        return b;
    }
    if (!t->rate.hz || !t->rate.per || !t->clock_hz)
        return b;
    const uint64_t clocks = (uint64_t)t->clock_hz * t->rate.per;
    const uint32_t first = wadi_timer_first(t, r, t->rate, clocks);
#define WADI_T(i) b = wadi_timer_try(t, r, t->rate, clocks, first + (i), b);
    WADI_T(0u)
    WADI_T(1u)
    WADI_T(2u)
    WADI_T(3u)
    WADI_T(4u)
    WADI_T(5u)
    WADI_T(6u)
    WADI_T(7u)
    WADI_T(8u)
    WADI_T(9u)
    WADI_T(10u)
    WADI_T(11u)
    WADI_T(12u)
    WADI_T(13u)
    WADI_T(14u)
    WADI_T(15u)
#undef WADI_T
    return b;
}

WADI_INLINE bool wadi_timer_is_near(const wad_timer *t, wadi_count c)
{
    return c.any && c.ppb <= (uint64_t)(t->within_ppm ? t->within_ppm : 1000u) * 1000u;
}

WADI_INLINE int32_t wadi_timer_ppm_of(wadi_count c)
{
    return c.fast ? (int32_t)(c.ppb / 1000u) : -(int32_t)(c.ppb / 1000u);
}

WADI_INLINE int32_t wadi_timer_ppm(const wad_timer *t)
{
    return wadi_timer_ppm_of(wadi_timer_known(t, wadi_counter_roles(t->unit->form)));
}

/* The counts of a period, as the registers have them. */
WADI_INLINE uint32_t wadi_timer_period_body(wadi_timer_at at, const wad_counter_roles *r)
{
    if (wad_has(r->start))
        return (wadi_timer_all_ones(at.bits) - wad_get(at.base, r->start)) + 1u;
    return at.centre ? 2u * wad_get(at.base, r->reload)
                     : wad_get(at.base, r->reload) + r->reload_plus;
}

WADI_INLINE void wadi_timer_write_rate(const wad_timer *t, const wad_counter_roles *r, wadi_count c)
{
    const uintptr_t base = t->unit->block.base;
    const unsigned form = t->unit->form;
    if (wad_has(r->prescale))
        wadi_timer_put(form, base, r->prescale, c.code);
    if (wad_has(r->start))
        wadi_timer_put(form, base, r->start, 0u - c.count);
    else
        wadi_timer_put(form, base, r->reload, t->centre ? c.count : c.count - r->reload_plus);
}

/* ---- what it names, and what there is ---- */

WADI_INLINE bool wadi_timer_asks(const wad_timer *t)
{
    bool asks = t->on_wrap != 0;
#define WADI_STEP(i) asks = asks || t->on_match[i].fn;
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    return asks;
}

WADI_INLINE bool wadi_timer_drives(const wad_timer *t)
{
    bool drives = false;
#define WADI_STEP(i) drives = drives || t->pwm[i].route;
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    return drives;
}

WADI_INLINE uint32_t wadi_timer_action_code(const wad_counter_roles *r, wad_timer_action action)
{
    return action == WAD_FOLLOW_START   ? r->action_start
           : action == WAD_FOLLOW_GATE  ? r->action_gate
           : action == WAD_FOLLOW_RESET ? r->action_reset
           : action == WAD_FOLLOW_COUNT ? r->action_count
                                        : r->action_off;
}

WADI_INLINE bool wadi_timer_has_channel(const wad_counter_roles *r, unsigned channels, unsigned i)
{
    return wad_has(r->compare) && wad_has(r->drive) && i < channels;
}

WADI_INLINE bool wadi_timer_has_pwm(const wad_counter_roles *r, unsigned channels, unsigned i)
{
    return wadi_timer_has_channel(r, channels, i) &&
           (wad_has(r->start) ? r->drive_pwm_low : r->drive_pwm) != WAD_NO_CODE;
}

WADI_INLINE bool wadi_timer_has(const wad_timer *t, const wad_counter_roles *r)
{
    bool has = true;
#define WADI_STEP(i)                                                                               \
    has = has && (!t->pwm[i].route || wadi_timer_has_pwm(r, t->unit->channels, i)) &&              \
          (!t->on_match[i].fn || (wad_has(r->match_irq) && i < t->unit->channels));
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    return has && (!t->centre || (wadi_has_code(r->mode, r->mode_updown) && !wad_has(r->start))) &&
           (!t->one_shot || wad_has(r->one_shot)) && (!t->manual_reload || wad_has(r->autoload)) &&
           (t->action == WAD_FOLLOW_NOTHING ||
            (wad_has(r->trigger) && t->trigger <= wadi_ones(r->trigger) &&
             wadi_has_code(r->action, wadi_timer_action_code(r, t->action)))) &&
           (!t->on_wrap || wad_has(r->wrap_irq)) &&
           (!wadi_timer_asks(t) || t->unit->block.irq >= 0);
}

WADI_INLINE bool wadi_timer_duties_may_be(const wad_timer *t)
{
    bool may = true;
#define WADI_STEP(i) may = may && t->pwm[i].duty_bp <= 10000u;
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    return may;
}

/* Nothing is named that another member makes void. */
WADI_INLINE bool wadi_timer_agrees(const wad_timer *t)
{
    bool agrees = !(t->counts && (t->rate.hz || t->rate.per)) && (t->counts || !t->prescale) &&
                  (t->action != WAD_FOLLOW_NOTHING || !t->trigger);
#define WADI_STEP(i)                                                                               \
    agrees = agrees && (t->pwm[i].route || !t->pwm[i].duty_bp) &&                                  \
             (!t->on_match[i].count || (t->on_match[i].fn && !t->pwm[i].route));
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    return agrees;
}

/* Functions at counts that come. */
WADI_INLINE bool wadi_timer_matches_may_be(const wad_timer *t, uint32_t period)
{
    bool may = true;
#define WADI_STEP(i)                                                                               \
    may = may && (!t->on_match[i].fn || t->pwm[i].route ||                                         \
                  t->on_match[i].count < (t->centre ? period / 2u + 1u : period));
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    return may;
}

/* ---- channels ---- */

WADI_INLINE uint32_t wadi_timer_share(uint32_t period, uint32_t duty_bp)
{
    if (WADI_FOLDS(period) && WADI_FOLDS(duty_bp))
        return (uint32_t)(((uint64_t)period * duty_bp + 5000u) / 10000u);
    return wad_muldiv(period, duty_bp, 10000u);
}

/* A channel's compare value, and its output where a duty of 0 is another mode than the rest. */
WADI_INLINE void wadi_timer_put_duty(wadi_timer_at at, const wad_counter_roles *r, unsigned form,
                                     unsigned channel, uint32_t period, uint32_t duty_bp)
{
    uint32_t counts = wadi_timer_share(period, duty_bp);
    const wad_field compare = wad_at(r->compare, channel);
    if (at.centre) /* c counts up and c - 1 down: an odd number, but for none and all */
        counts = counts >= period ? period / 2u + 1u : (counts + 1u) / 2u;
    if (wad_has(r->start)) /* low until the compare, high from there to the overflow */
        wadi_timer_put(form, at.base, compare, 0u - counts);
    else
        wadi_timer_put(form, at.base, compare, counts);
}

WADI_INLINE uint32_t wadi_timer_drive(const wad_counter_roles *r, uint32_t period, uint32_t duty_bp)
{
    if (!wad_has(r->start))
        return r->drive_pwm;
    return wadi_timer_share(period, duty_bp) ? r->drive_pwm_low : r->drive_off;
}

/* ---- opening ---- */

/* The settings that lie in the register of the enable bit. */
WADI_INLINE wadi_word wadi_timer_control(const wad_timer *t, const wad_counter_roles *r, bool on)
{
    wadi_word w = {r->enable.off, 0, 0};
    (void)wadi_gather_here(&w, r->enable, on);
    (void)wadi_gather_here(&w, r->mode, t->centre ? r->mode_updown : r->mode_up);
    (void)wadi_gather_here(&w, r->shadow, 1);
    (void)wadi_gather_here(&w, r->autoload, !t->manual_reload);
    (void)wadi_gather_here(&w, r->one_shot, t->one_shot);
    (void)wadi_gather_here(&w, r->trigger, t->trigger);
    (void)wadi_gather_here(&w, r->action, wadi_timer_action_code(r, t->action));
    return w;
}

/* Lets it count, or stops it: the control register whole where nothing else lives in it. */
WADI_INLINE void wadi_timer_run(const wad_timer *t, const wad_counter_roles *r, bool on)
{
    const uintptr_t base = t->unit->block.base;
    const unsigned form = t->unit->form;
    const wadi_word w = wadi_timer_control(t, r, on);
    if (!(wadi_counter_writable(form, w.off) & ~w.mask) && !(r->enable.how & WAD_HOW_LOCKED) &&
        WADI_FOLDS(t->centre) && WADI_FOLDS(t->one_shot) && WADI_FOLDS(t->action))
        wadi_write(base, w.off, r->enable.size, w.value);
    else
        wadi_timer_put(form, base, r->enable, on);
}

/* One setting that lies elsewhere. */
WADI_INLINE void wadi_timer_put_else(const wad_timer *t, const wad_counter_roles *r, wad_field f,
                                     uint32_t value)
{
    if (wad_has(f) && f.off != r->enable.off)
        wadi_timer_put(t->unit->form, t->unit->block.base, f, value);
}

/* Stopped, asking for nothing, and set but for its rate. */
WADI_INLINE void wadi_timer_set(const wad_timer *t, const wad_counter_roles *r)
{
    const uintptr_t base = t->unit->block.base;
    const unsigned form = t->unit->form;
    wadi_word w = wadi_timer_control(t, r, false), asks = {r->wrap_irq.off, 0, 0},
              follows = {r->action.off, 0, 0};
    wadi_word *also = asks.off == w.off ? &w : &asks;
    wadi_timer_gather(form, base, also, r->wrap_irq, 0);
#define WADI_STEP(i)                                                                               \
    if ((i) < t->unit->channels && wad_has(r->match_irq))                                          \
        wadi_timer_gather(form, base, also, wad_at(r->match_irq, i), 0);
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    wadi_timer_put_word(form, base, &w, r->enable);
    wadi_timer_put_else(t, r, r->mode, t->centre ? r->mode_updown : r->mode_up);
    wadi_timer_put_else(t, r, r->shadow, 1);
    wadi_timer_put_else(t, r, r->autoload, !t->manual_reload);
    wadi_timer_put_else(t, r, r->one_shot, t->one_shot);
    if (wad_has(r->action) && follows.off != w.off) {
        wadi_timer_gather(form, base, &follows, r->trigger, t->trigger);
        wadi_timer_gather(form, base, &follows, r->action, wadi_timer_action_code(r, t->action));
        wadi_timer_put_word(form, base, &follows, r->action);
    }
    if (also == &asks)
        wadi_timer_put_word(form, base, &asks, r->wrap_irq);
}

/* So that the first period is whole: by the load strobe, else by setting the count itself. */
WADI_INLINE void wadi_timer_begin(const wad_timer *t, const wad_counter_roles *r, uint32_t count)
{
    const uintptr_t base = t->unit->block.base;
    if (wad_has(r->load))
        wadi_timer_put(t->unit->form, base, r->load, 1);
    else if (wad_has(r->count))
        wadi_timer_put(t->unit->form, base, r->count, wad_has(r->start) ? 0u - count : 0u);
    if (wad_has(r->wrap))
        wad_clear(base, r->wrap);
}

/* What comes out, and what is called; the timer stands. */
WADI_INLINE void wadi_timer_channels(const wad_timer *t, const wad_counter_roles *r,
                                     uint32_t period)
{
    const uintptr_t base = t->unit->block.base;
    const unsigned form = t->unit->form;
    const wadi_timer_at at = wadi_timer_at_of(t);
    wadi_word drive = {r->drive.off, 0, 0};
#define WADI_STEP(i)                                                                               \
    if (t->pwm[i].route) {                                                                         \
        wadi_timer_put_duty(at, r, form, i, period, t->pwm[i].duty_bp);                            \
        wadi_timer_gather(form, base, &drive, wad_at(r->drive, i),                                 \
                          wadi_timer_drive(r, period, t->pwm[i].duty_bp));                         \
    } else if (wadi_timer_has_channel(r, t->unit->channels, i)) {                                  \
        wadi_timer_gather(form, base, &drive, wad_at(r->drive, i), r->drive_off);                  \
    }                                                                                              \
    if (!t->pwm[i].route && t->on_match[i].fn) {                                                   \
        wadi_timer_put(form, base, wad_at(r->compare, i),                                          \
                       wad_has(r->start) ? 0u - period + t->on_match[i].count                      \
                                         : t->on_match[i].count);                                  \
    }
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    wadi_timer_put_word(form, base, &drive, r->drive);
}

/* Behind the pins' routes: their outputs on, flags away, interrupts at the block. */
WADI_INLINE void wadi_timer_finish(const wad_timer *t, const wad_counter_roles *r)
{
    const uintptr_t base = t->unit->block.base;
    const unsigned form = t->unit->form;
    wadi_word out = {r->output_on.off, 0, 0}, asks = {r->wrap_irq.off, 0, 0};
#define WADI_STEP(i)                                                                               \
    if (wadi_timer_has_channel(r, t->unit->channels, i))                                           \
        wadi_timer_gather(form, base, &out, wad_at(r->output_on, i), t->pwm[i].route != 0);        \
    if (t->on_match[i].fn) {                                                                       \
        wad_clear(base, wad_at(r->match, i));                                                      \
        wadi_timer_gather(form, base, &asks, wad_at(r->match_irq, i), 1);                          \
    }
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    wadi_timer_put_word(form, base, &out, r->output_on);
    if (t->on_wrap)
        wadi_timer_gather(form, base, &asks, r->wrap_irq, 1);
    wadi_timer_put_word(form, base, &asks, r->wrap_irq);
}

/* The compiler knows all of it. */
WADI_INLINE bool wadi_timer_is_known(const wad_timer *t)
{
    if (WADI_TIMER_CHANNELS > 8 ||
        !WADI_KNOWS(t->unit, &wadi_counter_roles(t->unit->form)->enable) ||
        !WADI_FOLDS(t->rate.hz) || !WADI_FOLDS(t->rate.per) || !WADI_FOLDS(t->clock_hz) ||
        !WADI_FOLDS(t->counts) || !WADI_FOLDS(t->action) || t->unit->block.in_order ||
        !(t->clock_hz || t->counts))
        return false;
    bool known = true;
#define WADI_STEP(i) known = known && WADI_FOLDS(t->pwm[i].route) && wadi_is_plain(t->pwm[i].route);
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    return known;
}

WADI_INLINE wad_route wadi_timer_second(const wad_timer *t)
{
#if WADI_TIMER_CHANNELS > 1
    return t->pwm[1].route;
#else
    (void)t;
    return 0;
#endif
}

WADI_INLINE wad_status wadi_timer_open_known(const wad_timer *t)
{
    const wad_counter_roles *r = wadi_counter_roles(t->unit->form);
    const wadi_count c = wadi_timer_known(t, r);
    const uint32_t period = t->centre ? 2u * c.count : c.count;
    WADI_REFUSE_IF(!wadi_timer_has(t, r), wadi_timer_lacks, WAD_E_ABSENT)
    WADI_REFUSE_IF(!wadi_timer_duties_may_be(t), wadi_timer_duty_is_too_much, WAD_E_ARG)
    WADI_REFUSE_IF(!wadi_timer_agrees(t), wadi_timer_contradicts_itself, WAD_E_ARG)
    WADI_REFUSE_IF(!wadi_timer_is_near(t, c), wadi_timer_rate_cannot_be, WAD_E_RANGE)
    WADI_REFUSE_IF(!wadi_timer_matches_may_be(t, period), wadi_timer_count_never_comes, WAD_E_RANGE)
    /* two channels join where their pins are of one port */
    if (!wadi_up(&t->unit->block, wadi_port_of(t->pwm[0].route),
                 wadi_port_of(wadi_timer_second(t))))
        return WAD_E_TIMEOUT;
#define WADI_STEP(i)                                                                               \
    if ((i) >= 2u && t->pwm[i].route && !wadi_up(wadi_port_of(t->pwm[i].route), 0, 0))             \
        return WAD_E_TIMEOUT;
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    wadi_timer_set(t, r);
    wadi_timer_write_rate(t, r, c);
    wadi_timer_channels(t, r, period);
    wadi_timer_begin(t, r, c.count);
    wadi_functions(t->pwm[0].route, wadi_timer_second(t), 0);
#define WADI_STEP(i)                                                                               \
    if ((i) >= 2u)                                                                                 \
        wadi_functions(t->pwm[i].route, 0, 0);
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    wadi_timer_finish(t, r);
    return wadi_timer_asks(t) ? wadi_line_on(t->unit->block.irq, t->priority) : WAD_OK;
}

/* ---- the handler ---- */

/* Small enough for the user's file: the functions are known, or that there are none. */
WADI_INLINE bool wadi_timer_handles(const wad_timer *t)
{
    if (WADI_TIMER_CHANNELS > 8 ||
        !WADI_KNOWS(t->unit, &wadi_counter_roles(t->unit->form)->enable) ||
        !WADI_FOLDS(!t->on_wrap))
        return false;
    bool known = true;
#define WADI_STEP(i) known = known && WADI_FOLDS(!t->on_match[i].fn);
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
    return known;
}

/* A flag without a function is left alone: somebody may poll it. */
WADI_INLINE void wadi_timer_handle_body(const wad_timer *t, const wad_counter_roles *r)
{
    const uintptr_t base = t->unit->block.base;
    const bool read_clears = (r->wrap.how & WAD_HOW_KIND) == WAD_HOW_READ && wad_has(r->match) &&
                             r->match.off == r->wrap.off;
    /* one read takes them all */
    const uint32_t taken = read_clears ? wadi_read(base, r->wrap.off, r->wrap.size) : 0;
#define WADI_TAKE(flag) (read_clears ? taken >> (flag).lsb & 1u : wad_take(base, flag))
    if (t->on_wrap && WADI_TAKE(r->wrap))
        t->on_wrap(t->context);
#define WADI_STEP(i)                                                                               \
    if (t->on_match[i].fn && WADI_TAKE(wad_at(r->match, i)))                                       \
        t->on_match[i].fn(t->on_match[i].context);
    WADI_TIMER_EACH(WADI_STEP)
#undef WADI_STEP
#undef WADI_TAKE
}

#endif
